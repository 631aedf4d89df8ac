"""Faces for the demo's figures: lids and a mouth laid on a sculpted head, and the shapes that move them with the skin.

Everything is made on the left and mirrored. A shape says where points go at an amount of 1; several add up.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from math import pi

import numpy as np

from hame.character.skeleton import Skeleton
from hame.character.skin import Material, Piece, Skin, morph_of, normals_of
from hame.demo.figure import Ints, Part, field_of, four_strongest
from hame.maths.rotations import Array

Moves = Callable[[Array], Array]  # points (N, 3) at rest -> by how much they go (N, 3)
_EYE = ("eye_squash_l", "eye_squash_r")


@dataclass(frozen=True)
class Head:
    """Where things are on a head, and of what they are made.

    Attributes
    ----------
    eye : (x, y, z) of the left one, whose half axes are ``radii``
    brow : (x, y, z) of the middle of the left one, ``long`` from its middle to an end
    mouth : (x, y) of its middle, ``wide`` to each corner
    lid, lip, inside : materials
    soft, eyeball : those of what brows, cheeks and nose move, and of the eyes
    """

    eye: tuple[float, float, float]
    radii: tuple[float, float, float]
    brow: tuple[float, float, float]
    long: float
    mouth: tuple[float, float]
    wide: float
    lid: Material
    lip: Material
    inside: Material
    soft: tuple[Material, ...]
    eyeball: tuple[Material, ...]


@dataclass(frozen=True)
class _Made:
    """A closed piece as it rests, and by shape how its points go."""

    points: Array
    triangles: Ints
    weights: Sequence[tuple[str, Array]]
    moves: dict[str, Array]
    material: Material


def with_face(skin: Skin, skeleton: Skeleton, parts: Sequence[Part], head: Head) -> Skin:
    """The skin of a figure with lids, a mouth, and shapes for brows, lids, cheeks, nose, mouth and eyes."""
    made = [lid for side in (1.0, -1.0) for lid in _lids(head, side)]
    made += _mouth(parts, head)
    fields = _fields(head)
    names = [*fields, *dict.fromkeys(name for one in made for name in one.moves if name not in fields)]
    pieces = []
    for piece in skin.pieces:
        of_eye, soft = piece.material in head.eyeball, piece.material in head.soft
        moving = {name: move for name, move in fields.items() if (of_eye if name in _EYE else soft)}
        pieces.append(_morphed(piece, names, {n: move(piece.points.astype(float)) for n, move in moving.items()}))
    for one in made:
        own = {name: move(one.points) for name, move in fields.items() if name in _EYE and one.material is head.lid}
        pieces.append(_morphed(_piece(one, skeleton), names, {**own, **one.moves}))
    return Skin(tuple(pieces), skin.inverse_bind, tuple(names), (0.0,) * len(names))


def _morphed(piece: Piece, names: Sequence[str], moves: dict[str, Array]) -> Piece:
    found = (morph_of(piece, number, moves[name]) for number, name in enumerate(names) if name in moves)
    return replace(piece, morphs=tuple(morph for morph in found if morph is not None))


def _piece(one: _Made, skeleton: Skeleton) -> Piece:
    table = np.zeros((len(one.points), len(skeleton)))
    for joint, share in one.weights:
        table[:, skeleton.index(joint)] += share
    joints, weights = four_strongest(table)
    return Piece(
        one.points.astype(np.float32), normals_of(one.points, one.triangles).astype(np.float32),
        one.triangles.astype(np.uint32), joints, weights, one.material,
    )  # fmt: skip


# Lids

_BEHIND, _OPEN, _SHUT = 2.2, 0.62, -0.42  # radians up from straight ahead: where a lid begins, rests and shuts
_LOWER_OPEN = -0.58
_OUT, _IN = 1.2, 1.01  # of the eye's own size
_STEPS, _ACROSS = 7, 10


def _lids(head: Head, side: float) -> list[_Made]:
    letter = "l" if side > 0 else "r"
    found = []
    for name, begins, edge, ways in (
        ("upper", _BEHIND, _OPEN, {f"lid_upper_{letter}": _SHUT, f"eye_wide_{letter}": _OPEN + 0.32}),
        ("lower", -_BEHIND, _LOWER_OPEN, {f"lid_lower_{letter}": _SHUT + 0.14}),
    ):
        up = np.linspace(begins, edge, _STEPS)
        across = np.linspace(-1.25, 1.25, _ACROSS)
        share = np.linspace(0.0, 1.0, _STEPS)

        def shell(up: Array, across: Array = across, name: str = name) -> Array:
            grid_up, grid_across = np.meshgrid(up, across, indexing="ij")
            middle = grid_up * (0.55 + 0.45 * np.cos(grid_across))  # the edge is an arch, and ends in the corners
            out = [_on_eye(head, side, middle, grid_across, size) for size in (_OUT, _IN)]
            return np.concatenate(out)

        rest = shell(up)
        moves = {shape: shell(up + share * (to - edge)) - rest for shape, to in ways.items()}
        triangles = _closed(_STEPS, _ACROSS)
        if (name == "lower") != (side < 0):
            triangles = triangles[:, ::-1]
        found.append(_Made(rest, triangles, [("head", np.ones(len(rest)))], moves, head.lid))
    return found


def _on_eye(head: Head, side: float, up: Array, across: Array, size: float) -> Array:
    way = np.stack([np.sin(across) * side, np.cos(across) * np.sin(up), np.cos(across) * np.cos(up)], axis=-1)
    x, y, z = head.eye
    found = np.array([x * side, y, z]) + size * np.array(head.radii) * way
    return np.asarray(found).reshape(-1, 3)


def _closed(rows: int, columns: int) -> Ints:
    """Triangles of two sheets of points on a grid, an outer and an inner one, joined along their rims."""

    def at(sheet: int, r: int, c: int) -> int:
        return sheet * rows * columns + r * columns + c

    found = []
    for r in range(rows - 1):
        for c in range(columns - 1):
            a, b, d, e = at(0, r, c), at(0, r, c + 1), at(0, r + 1, c), at(0, r + 1, c + 1)
            found += [(a, d, b), (b, d, e)]
            a, b, d, e = at(1, r, c), at(1, r, c + 1), at(1, r + 1, c), at(1, r + 1, c + 1)
            found += [(a, b, d), (b, e, d)]
    rim = [(0, c) for c in range(columns)] + [(r, columns - 1) for r in range(1, rows)]
    rim += [(rows - 1, c) for c in range(columns - 2, -1, -1)] + [(r, 0) for r in range(rows - 2, 0, -1)]
    for (r, c), (s, d) in zip(rim, rim[1:] + rim[:1], strict=True):
        a, b, e, f = at(0, r, c), at(0, s, d), at(1, r, c), at(1, s, d)
        found += [(a, b, e), (b, f, e)]
    return np.array(found)


# The mouth


@dataclass(frozen=True)
class _Lips:
    """How a mouth stands, in shares of half its width: how wide to each corner, how far each corner is up, and how far
    the lips are up and down from the line between the corners, on each side."""

    left: float = 1.0
    right: float = 1.0
    left_up: float = 0.0
    right_up: float = 0.0
    above: float = 0.04
    below: float = 0.04
    left_above: float = 0.0
    right_above: float = 0.0


_MOUTHS = {
    "corner_up_l": _Lips(left=1.22, left_up=0.42),
    "corner_up_r": _Lips(right=1.22, right_up=0.42),
    "corner_down_l": _Lips(left=1.04, left_up=-0.4),
    "corner_down_r": _Lips(right=1.04, right_up=-0.4),
    "lip_upper_up_l": _Lips(left_above=0.42, left_up=0.12),
    "lip_upper_up_r": _Lips(right_above=0.42, right_up=0.12),
    "mouth_open": _Lips(left=0.9, right=0.9, above=0.34, below=0.78),
    "mouth_narrow": _Lips(left=0.42, right=0.42, above=0.2, below=0.2),
    "mouth_wide": _Lips(left=1.3, right=1.3),
}
_ROUND, _RINGS, _TUBE = 20, 4, 5
_LIP = 0.13  # of half the width: how thick a lip is


def _mouth(parts: Sequence[Part], head: Head) -> list[_Made]:
    """The dark inside between the lips, and the lips about it; the lower half is carried by the jaw."""
    rest = _Lips()
    turn = np.linspace(0.0, 2.0 * pi, _ROUND, endpoint=False)
    below = np.clip(0.5 - 1.5 * np.sin(turn), 0.0, 1.0)

    def inside(lips: _Lips) -> Array:
        edge = _edge(head, lips, turn)
        middle = edge.mean(axis=0)
        rings = [middle + share * (edge - middle) for share in np.linspace(1.0, 0.0, _RINGS)[:-1]]
        front = np.concatenate([*(_on(parts, ring, 0.004) for ring in rings), _on(parts, middle[None], 0.004)])
        return np.concatenate([front, front - [0.0, 0.0, 0.01]])

    def lips_about(lips: _Lips) -> Array:
        edge = _edge(head, lips, turn)
        line = _on(parts, edge, 0.003)
        along = np.roll(line, -1, axis=0) - np.roll(line, 1, axis=0)
        along /= np.maximum(np.linalg.norm(along, axis=1, keepdims=True), 1e-9)
        ahead = np.array([0.0, 0.0, 1.0]) - along[:, 2:] * along
        ahead /= np.linalg.norm(ahead, axis=1, keepdims=True)
        aside = np.cross(along, ahead)
        thick = head.wide * _LIP * (0.55 + 0.45 * np.abs(np.sin(turn)))
        ring = np.linspace(0.0, 2.0 * pi, _TUBE, endpoint=False)
        tube = np.cos(ring)[:, None, None] * ahead + 1.15 * np.sin(ring)[:, None, None] * aside
        return np.asarray(line + thick[:, None] * tube).reshape(-1, 3)

    found = []
    for make, triangles, lower, material in (
        (inside, _disc(), np.concatenate([np.tile(np.concatenate([np.tile(below, _RINGS - 1), [0.5]]), 2)]),
         head.inside),
        (lips_about, _torus(), np.tile(below, _TUBE), head.lip),
    ):  # fmt: skip
        points = make(rest)
        moves = {name: make(lips) - points for name, lips in _MOUTHS.items()}
        if "mouth_narrow" in moves:  # blown ahead
            moves["mouth_narrow"] = moves["mouth_narrow"] + [0.0, 0.0, 0.35 * head.wide]
        found.append(_Made(points, triangles, [("jaw", lower), ("head", 1.0 - lower)], moves, material))
    return found


def _edge(head: Head, lips: _Lips, turn: Array) -> Array:
    """Points (N, 2) of the line of the lips, from the left corner over the upper lip."""
    c, s = np.cos(turn), np.sin(turn)
    left, right = np.clip(c, 0.0, 1.0), np.clip(-c, 0.0, 1.0)
    x = np.where(c > 0.0, lips.left, lips.right) * c
    y = lips.left_up * left**2 + lips.right_up * right**2
    bow = np.abs(s) ** 0.8
    above = lips.above + lips.left_above * np.clip(c + 0.35, 0.0, 1.0) + lips.right_above * np.clip(0.35 - c, 0.0, 1.0)
    y = y + np.where(s > 0.0, above * bow, -lips.below * bow)
    return np.asarray(np.array(head.mouth) + head.wide * np.stack([x, y], axis=-1))


def _on(parts: Sequence[Part], flat: Array, off: float) -> Array:
    """Points (N, 3) on the surface that is met from ahead at ``flat (N, 2)``, so far off it."""
    points = np.concatenate([flat, np.full((len(flat), 1), 0.3)], axis=1)
    for _ in range(60):
        points[:, 2] -= np.clip(0.9 * (field_of(parts, points) - off), -0.02, 0.05)
        points[:, 2] = np.maximum(points[:, 2], 0.02)
    return points


def _disc() -> Ints:
    """Triangles of two sheets of rings about a middle, joined along the outermost."""
    count = _ROUND * (_RINGS - 1) + 1
    found = []
    for n in range(_ROUND):
        m = (n + 1) % _ROUND
        for r in range(_RINGS - 2):
            a, b, c, d = r * _ROUND + n, r * _ROUND + m, (r + 1) * _ROUND + n, (r + 1) * _ROUND + m
            found += [(a, b, c), (b, d, c), (count + a, count + c, count + b), (count + b, count + c, count + d)]
        a, b, middle = (_RINGS - 2) * _ROUND + n, (_RINGS - 2) * _ROUND + m, count - 1
        found += [(a, b, middle), (count + b, count + a, count + middle), (n, count + n, m), (m, count + n, count + m)]
    return np.array(found)


def _torus() -> Ints:
    found = []
    for t in range(_TUBE):
        for n in range(_ROUND):
            a, b = t * _ROUND + n, t * _ROUND + (n + 1) % _ROUND
            c, d = (t + 1) % _TUBE * _ROUND + n, (t + 1) % _TUBE * _ROUND + (n + 1) % _ROUND
            found += [(a, b, c), (b, d, c)]
    return np.array(found)


# What of the sculpted skin moves


def _fields(head: Head) -> dict[str, Moves]:
    """By shape, how points of the head go, as far as they lie near what it moves."""
    found: dict[str, Moves] = {}
    bx, by, bz = head.brow
    ex, ey, ez = head.eye
    r = head.radii[1]
    for side, letter in ((1.0, "l"), (-1.0, "r")):
        inner, outer = (bx - 0.6 * head.long) * side, (bx + 0.6 * head.long) * side
        brow, wide = (bx * side, by, bz), 0.75 * head.long
        found[f"brow_inner_up_{letter}"] = _near((inner, by, bz), (wide, 0.6 * r, r), (-0.001 * side, 0.42 * r, 0.0))
        found[f"brow_middle_up_{letter}"] = _near(brow, (1.5 * wide, 0.6 * r, 1.2 * r), (0.0, 0.4 * r, 0.0))
        found[f"brow_outer_up_{letter}"] = _near((outer, by, bz), (wide, 0.6 * r, 1.4 * r), (0.0, 0.38 * r, 0.0))
        found[f"brow_inner_down_{letter}"] = _near(
            (inner, by, bz), (wide, 0.6 * r, r), (-0.12 * r * side, -0.45 * r, 0.05 * r)
        )
        cheek = (1.05 * ex * side, ey - 1.75 * r, ez)
        found[f"cheek_up_{letter}"] = _near(cheek, (1.3 * r, 1.0 * r, 1.6 * r), (0.0, 0.32 * r, 0.22 * r))
        found[f"nose_wrinkle_{letter}"] = _near(
            (0.32 * ex * side, ey - 1.25 * r, ez + 1.1 * r),
            (0.6 * r, 0.9 * r, 1.4 * r),
            (0.03 * r * side, 0.3 * r, 0.0),
        )
        found[f"eye_squash_{letter}"] = _squash((ex * side, ey, ez), 1.25 * max(head.radii))
    return found


def _near(at: Sequence[float], reach: Sequence[float], by: Sequence[float]) -> Moves:
    """Points go ``by`` at a place, and less away from it, down to nothing at twice the ``reach``."""

    def moves(points: Array) -> Array:
        far = np.linalg.norm((points - np.array(at)) / np.array(reach), axis=1)
        share = np.clip(1.0 - far / 2.0, 0.0, 1.0)
        return np.asarray((share * share * (3.0 - 2.0 * share))[:, None] * np.array(by))

    return moves


def _squash(at: Sequence[float], reach: float) -> Moves:
    """What lies within reach of an eye is 0.64 as high and 1.25 as wide and deep: its volume stays."""

    def moves(points: Array) -> Array:
        off = points - np.array(at)
        inside = (np.linalg.norm(off, axis=1) < reach)[:, None]
        return np.where(inside, off * np.array([0.25, -0.36, 0.25]), 0.0)

    return moves
