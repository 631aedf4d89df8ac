"""What the parts of a body weigh, how their mass lies about its centre, and where the centre of the whole is.

A body is rigid parts that its joints carry: so the centre of mass of any pose is a sum over them.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache
from itertools import pairwise
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from hame.character.ranges import is_upright
from hame.character.rig import Rig
from hame.character.volumes import DENSITY
from hame.maths import rotations
from hame.maths.rotations import Array

# Share of the body's mass and where it lies, from the near joint to the far one: Winter, Biomechanics and Motor Control
# of Human Movement, table 4.1 (after Dempster). Those of trunk, hand and foot from memory of the same table: half way
# from hips to neck, from wrist to knuckles, and from ankle to ball. Beside them the radii of gyration about the centre,
# as shares of the same length: about the axis from back to front, about the one across, and about the part's own: de
# Leva, "Adjustments to Zatsiorsky-Seluyanov's segment inertia parameters", J. Biomechanics 29(9), 1996, table 4, of men
# (from memory).
_TRUNK, _TRUNK_SPREAD = 0.497, (0.328, 0.306, 0.169)
_HEAD, _HEAD_SPREAD = 0.081, (0.303, 0.315, 0.261)
_HEAD_LENGTH = 0.1395  # of the height, from its top to the neck's lowest joint: de Leva's, from memory
_LIMBS = {
    "arm": (
        ("upper", "lower", 0.028, 0.436, (0.285, 0.269, 0.158)),
        ("lower", "hand", 0.016, 0.430, (0.276, 0.265, 0.121)),
        ("hand", "middle.1", 0.006, 0.506, (0.628, 0.513, 0.401)),
    ),
    "leg": (
        ("upper", "lower", 0.100, 0.433, (0.329, 0.329, 0.149)),
        ("lower", "foot", 0.0465, 0.433, (0.251, 0.246, 0.102)),
        ("foot", "ball", 0.0145, 0.50, (0.257, 0.245, 0.124)),
    ),
}
# Kilograms of a body as ours by the square of its height: the middle of what the World Health Organization calls normal
# (a body mass index of 18.5 to 24.9). A body is some twentieth higher than its highest joint (from memory).
_BY_HEIGHT, _OVER_JOINTS = 22.0, 1.055


class Part(NamedTuple):
    """The joint that carries a part, its kilograms, where it lies and how it is spread, both in the joint's axes."""

    joint: int
    kilograms: float
    at: Array
    spread: Array


@dataclass(frozen=True, eq=False)
class Masses:
    """The parts of a body that have mass.

    Attributes
    ----------
    joints : (M,) which joint carries each
    share : (M,) of the whole, summing to one
    at : (M, 3) where its centre lies in the joint's axes, metres at rest
    spread : (M, 3, 3) its moments of inertia about that, in the joint's axes, per kilogram of its own: square metres
    kilograms : what the whole weighs
    """

    joints: npt.NDArray[np.int32]
    share: Array
    at: Array
    spread: Array
    kilograms: float


@lru_cache(maxsize=64)
def masses_of(rig: Rig) -> Masses:
    """Masses of a rig: of a body as ours by Winter, else by what its surface holds, else alike for all bones.

    What was set by hand goes before.
    """
    parts = _set_by_hand(rig, _merged(_listed(rig) or _known(rig)))
    whole = sum(part.kilograms for part in parts)
    return Masses(
        np.array([part.joint for part in parts], np.int32),
        np.array([part.kilograms for part in parts]) / whole,
        np.array([part.at for part in parts]),
        np.array([part.spread for part in parts]),
        whole,
    )


def _known(rig: Rig) -> list[Part]:
    """What a body weighs by its size alone."""
    parts = _as_ours(rig) if is_upright(rig.plan, rig.skeleton) else _alike(rig)
    whole = sum(part.kilograms for part in parts)
    by_size = _BY_HEIGHT * (_OVER_JOINTS * max(rig.skeleton.height, 1e-3)) ** 2
    return [part._replace(kilograms=part.kilograms * by_size / whole) for part in parts]


def _listed(rig: Rig) -> list[Part]:
    """The parts whose masses the plan says: those measured, or of older plans, set by hand."""
    plan, skeleton = rig.plan, rig.skeleton
    names = [name for name, mass in plan.masses.items() if name in skeleton.names and mass > 0.0]
    usual = {part.joint: part for part in _merged(_known(rig))} if names and is_upright(plan, skeleton) else {}
    found = []
    for name in names:
        known = usual.get(skeleton.index(name))
        at, spread = (known.at, known.spread) if known else (_centre(rig, name), _spread(rig, name))
        found.append(Part(skeleton.index(name), float(plan.masses[name]), at, spread))
    return found


def _merged(parts: Sequence[Part]) -> list[Part]:
    """One part for each joint: what goes along with one moves as one."""
    by_joint: dict[int, list[Part]] = {}
    for part in parts:
        by_joint.setdefault(part.joint, []).append(part)
    found = []
    for joint, mine in by_joint.items():
        whole = sum(part.kilograms for part in mine)
        shares = [part.kilograms / max(whole, 1e-12) for part in mine]
        at = np.sum([share * part.at for share, part in zip(shares, mine, strict=True)], axis=0)
        spread = np.zeros((3, 3))
        for share, part in zip(shares, mine, strict=True):
            off = part.at - at
            spread += share * (part.spread + off @ off * np.eye(3) - np.outer(off, off))
        found.append(Part(joint, whole, at, spread))
    return found


def _set_by_hand(rig: Rig, parts: list[Part]) -> list[Part]:
    """The parts with what the plan says of their weights; of what would weigh nothing at all, it is left out."""
    skeleton, found = rig.skeleton, {part.joint: part for part in parts}
    for name, given in rig.plan.weights.items():
        if name not in skeleton.names:
            continue
        joint = skeleton.index(name)
        rest = skeleton.world[joint]
        part = found.get(joint, Part(joint, 0.0, np.zeros(3), np.zeros((3, 3))))
        if "kilograms" in given:
            part = part._replace(kilograms=float(given["kilograms"][0]))
        if "at" in given:
            part = part._replace(at=rotations.rotate(rotations.inverse(rest[3:7]), np.array(given["at"]) - rest[:3]))
        if "radii" in given:
            part = part._replace(spread=_in_axes(rig, joint, _by_radii(in_world(rig, part), np.array(given["radii"]))))
        found[joint] = part
    weighing = [part for part in found.values() if part.kilograms > 0.0]
    return weighing or parts


def in_world(rig: Rig, part: Part) -> Array:
    """The spread (3, 3) of a part in the axes of the world at rest."""
    turn = rotations.to_matrix(rig.skeleton.world[part.joint, 3:7])
    return np.asarray(turn @ part.spread @ turn.T)


def _by_radii(spread: Array, radii: Array) -> Array:
    """A spread with other radii of gyration about its axes, and its leanings between them as they are in proportion."""
    before = np.sqrt(np.maximum(np.diag(spread), 0.0))
    if (before < 1e-6).any():
        return np.diag(radii**2)
    grown = np.diag(radii / before)
    return np.asarray(grown @ spread @ grown)


def centre_of_mass(rig: Rig, nodes: Array) -> Array:
    """The centre of mass ``(F, 3)`` of a figure, out of its nodes ``(F, N, 8)``; parts that it lacks are left out."""
    masses = masses_of(rig)
    return np.asarray((masses.share[:, None] * parts_at(rig, nodes, masses).places).sum(axis=1))


class Parts(NamedTuple):
    """Parts of a body as they are: ``places (F, M, 3)``, ``turns (F, M, 4)`` and by how much each is larger (F, M)."""

    places: Array
    turns: Array
    sizes: Array


def parts_at(rig: Rig, nodes: Array, masses: Masses) -> Parts:
    """The parts of a body out of its nodes ``(F, N, 8)``."""
    carried = nodes[:, rig.joint_nodes[masses.joints]]
    turns, sizes = carried[..., 3:7], carried[..., 7]
    return Parts(carried[..., :3] + sizes[..., None] * rotations.rotate(turns, masses.at), turns, sizes)


def _centre(rig: Rig, name: str) -> Array:
    """Where the mass of a joint was measured to lie, in its axes, or else half way to those below it."""
    measured = rig.plan.centres.get(name)
    if measured is None:
        return _middle(rig, name)
    at = rig.skeleton.world[rig.skeleton.index(name)]
    return np.asarray(rotations.rotate(rotations.inverse(at[3:7]), np.array(measured, float) - at[:3]))


def _spread(rig: Rig, name: str) -> Array:
    """How the mass of a joint was measured to lie about its centre, in its axes; else as in a ball of its weight."""
    measured = rig.plan.spreads.get(name)
    if measured is None:
        ball = (3.0 * rig.plan.masses[name] / (4.0 * np.pi * DENSITY)) ** (1.0 / 3.0)
        return np.asarray(0.4 * ball**2 * np.eye(3))
    xx, yy, zz, xy, xz, yz = measured
    return _in_axes(rig, rig.skeleton.index(name), np.array([[xx, xy, xz], [xy, yy, yz], [xz, yz, zz]]))


def _in_axes(rig: Rig, joint: int, spread: Array) -> Array:
    """A spread in the axes of the world at rest in those of a joint."""
    turn = rotations.to_matrix(rotations.inverse(rig.skeleton.world[joint, 3:7]))
    return np.asarray(turn @ spread @ turn.T)


def _middle(rig: Rig, name: str) -> Array:
    """Half way from a joint to the middle of those below it, in its axes."""
    skeleton = rig.skeleton
    j = skeleton.index(name)
    below = skeleton.children[j]
    if not below:
        return np.zeros(3)
    way = 0.5 * (skeleton.places[list(below)].mean(axis=0) - skeleton.places[j])
    return np.asarray(rotations.rotate(rotations.inverse(skeleton.world[j, 3:7]), way))


def _as_ours(rig: Rig) -> list[Part]:
    roles: Mapping[str, str] = rig.plan.roles
    skeleton = rig.skeleton
    parts: list[Part] = []

    def add(near: int, far: int, mass: float, along: float, spread: tuple[float, float, float]) -> None:
        way = skeleton.places[far] - skeleton.places[near]
        length = float(np.linalg.norm(way))
        at = rotations.rotate(rotations.inverse(skeleton.world[near, 3:7]), along * way)
        parts.append(Part(near, mass, at, _in_axes(rig, near, _about(way, length * np.array(spread)))))

    top = next((r for r in ("neck.1", "head", *(f"spine.{n}" for n in range(9, 0, -1))) if r in roles), "hips")
    for near, far, share, spread in _trunk(rig, skeleton.index(roles["hips"]), skeleton.index(roles[top])):
        add(near, far, share * _TRUNK, 0.5, spread)
    if "head" in roles:
        head = skeleton.index(roles["head"])
        radii = skeleton.height * _HEAD_LENGTH * np.array(_HEAD_SPREAD)
        about = _in_axes(rig, head, _about(np.array([0.0, 1.0, 0.0]), radii))
        parts.append(Part(head, _HEAD, np.zeros(3), about))
    for limb in rig.limbs:
        for near_role, far_role, mass, along, of_length in _LIMBS[limb.kind]:
            if f"{limb.name}.{near_role}" in roles:
                a = skeleton.index(roles[f"{limb.name}.{near_role}"])
                far_name = f"{limb.name}.{far_role}"
                add(a, skeleton.index(roles[far_name]) if far_name in roles else a, mass, along, of_length)
    return parts


def _trunk(rig: Rig, hips: int, top: int) -> Iterator[tuple[int, int, float, tuple[float, float, float]]]:
    """Its bones with their share of its mass, by length, and radii of gyration as shares of their own length.

    Bones in a line are spread along it by themselves: each has what is left of the spread of the whole.
    """
    way = [top]
    while way[-1] != hips and rig.skeleton.parents[way[-1]] >= 0:
        way.append(rig.skeleton.parents[way[-1]])
    bones = list(pairwise(reversed(way))) or [(hips, hips)]
    lengths = [float(np.linalg.norm(rig.skeleton.places[b] - rig.skeleton.places[a])) for a, b in bones]
    whole = sum(lengths)
    for (near, far), length in zip(bones, lengths, strict=True):
        if whole <= 0.0:
            yield near, far, 1.0 / len(bones), (0.0, 0.0, 0.0)
        elif length > 0.0:
            front, across, own = (k * whole / length for k in _TRUNK_SPREAD)
            line = (whole / length) ** 2 / 12.0 - 1.0 / 12.0  # of the middles of many short bones about the whole's
            yield near, far, length / whole, ((front**2 - line) ** 0.5, (across**2 - line) ** 0.5, own)


def _about(way: Array, radii: Array) -> Array:
    """The spread of a part that lies along a way in the world at rest, by its radii of gyration: about the axis from
    back to front, about the one across, and about its own.
    """
    size = float(np.linalg.norm(way))
    own = way / size if size > 1e-9 else np.array([0.0, 1.0, 0.0])
    front = np.array([0.0, 0.0, 1.0]) - own[2] * own
    if np.linalg.norm(front) < 0.1:  # it lies from back to front itself, as a foot does: then up
        front = np.array([0.0, 1.0, 0.0]) - own[1] * own
    front /= np.linalg.norm(front)
    axes = np.array([front, np.cross(own, front), own])
    return np.asarray(axes.T @ np.diag(radii**2) @ axes)


def _alike(rig: Rig) -> list[Part]:
    """Without a surface to go by: every bone weighs by the cube of its length, and is spread as a ball that long."""
    skeleton = rig.skeleton
    parts: list[Part] = []
    for j in range(len(skeleton)):
        long = max(
            (float(np.linalg.norm(skeleton.places[c] - skeleton.places[j])) for c in skeleton.children[j]), default=0.0
        )
        if long > 0.0 and skeleton.parents[j] >= 0:
            parts.append(Part(j, long**3, _middle(rig, skeleton.names[j]), 0.1 * long**2 * np.eye(3)))
    return parts or [Part(0, 1.0, np.zeros(3), np.zeros((3, 3)))]
