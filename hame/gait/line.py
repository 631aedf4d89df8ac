"""The line of a way: smooth, on the ground, through points with handles; read by how far along it one is."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from math import ceil, pi, tan

import numpy as np

from hame.errors import BadEdit
from hame.maths.rotations import Array

_PARTS = 32  # of a piece, whose lengths are kept
_NODES, _WEIGHTS = np.polynomial.legendre.leggauss(5)
_MOST = 2000  # points of a line
_BENDS = np.radians(30.0)  # a piece that is bent by no more than this stays as good as round


@dataclass(frozen=True)
class Point:
    """A point of a way.

    Attributes
    ----------
    place : (x, z) in metres
    into, out : from the point to where its handles are, metres; None where they follow from the points beside it
    """

    place: tuple[float, float]
    into: tuple[float, float] | None = None
    out: tuple[float, float] | None = None


@dataclass(frozen=True, eq=False)
class Line:
    """A line of cubic pieces, each beginning where the one before ends.

    Attributes
    ----------
    pieces : (S, 4, 2) where each begins, its two handles, where it ends; metres
    closed : the last ends where the first begins
    """

    pieces: Array
    closed: bool = False

    @cached_property
    def _lengths(self) -> Array:
        """How long it is up to each of the parts of its pieces (S * _PARTS + 1,), metres."""
        ends = np.linspace(0.0, 1.0, _PARTS + 1)
        lengths = np.concatenate([_between(piece, ends[:-1], ends[1:]) for piece in self.pieces])
        return np.concatenate([[0.0], np.cumsum(lengths)])

    @property
    def length(self) -> float:
        """Metres from its first point to its last, along it."""
        return float(self._lengths[-1])

    def at(self, along: Array) -> tuple[Array, Array]:
        """Places (K, 2) and headings (K,), so many metres ``along (K,)`` it.

        A closed line goes on round; beyond the ends of an open one it goes straight on. Headings go on over a half turn
        where the line does.
        """
        along = np.asarray(along, float)
        turns = np.floor(along / self.length) if self.closed else np.zeros(len(along))
        inside = along - turns * self.length if self.closed else np.clip(along, 0.0, self.length)
        part = np.clip(np.searchsorted(self._lengths, inside, side="right") - 1, 0, len(self._lengths) - 2)
        piece, begins = part // _PARTS, (part % _PARTS) / _PARTS
        missing = inside - self._lengths[part]
        share = begins + missing / np.maximum(np.diff(self._lengths)[part], 1e-12) / _PARTS
        chosen = self.pieces[piece]
        for _ in range(3):  # Newton's steps, by the speed at which the line is gone through
            off = missing - _length(chosen, begins, share)
            share = np.clip(share + off / np.maximum(np.linalg.norm(_slope(chosen, share), axis=1), 1e-9), 0.0, 1.0)
        places, slopes = _place(chosen, share), _slope(chosen, share)
        still = np.linalg.norm(slopes, axis=1) < 1e-9  # where a handle has no length
        slopes = np.where(still[:, None], _slope(chosen, np.clip(share, 0.01, 0.99)), slopes)
        headings = np.arctan2(slopes[:, 0], slopes[:, 1])
        beyond = along - inside - turns * self.length if self.closed else along - inside
        places = places + beyond[:, None] * np.stack([np.sin(headings), np.cos(headings)], axis=1)
        return places, self._unrolled(headings, along)

    def _unrolled(self, headings: Array, along: Array) -> Array:
        """Headings that do not jump by a turn, counted from that of the first point."""
        steps = np.linspace(0.0, 1.0, _PARTS + 1)[:-1]
        slopes = np.concatenate([_slope(np.broadcast_to(p, (_PARTS, 4, 2)), steps) for p in self.pieces])
        known = np.unwrap(np.arctan2(slopes[:, 0], slopes[:, 1]))
        rounds = np.floor(along / self.length) if self.closed else np.zeros(len(along))
        whole = 0.0
        if self.closed:
            whole = 2.0 * pi * np.round((np.unwrap([known[-1], known[0]])[1] - known[0]) / (2.0 * pi))
        inside = along - rounds * self.length
        near = np.interp(inside, self._lengths[:-1], known) + rounds * whole
        return np.asarray(headings + 2.0 * pi * np.round((near - headings) / (2.0 * pi)))


def line_of(points: Sequence[Point], closed: bool = False) -> Line:
    """The line through some points.

    Raises
    ------
    BadEdit
        If there are too few or too many points, or none lies beside another.
    """
    if not 2 <= len(points) <= _MOST:
        raise BadEdit(f"a way goes through 2 to {_MOST} points; nothing was changed")
    places = np.array([point.place for point in points], float)
    following = np.roll(places, -1, axis=0) if closed else places[1:]
    chords = np.linalg.norm(following - places[: len(following)], axis=1)
    if not np.isfinite(places).all() or (chords < 1e-4).any():
        raise BadEdit("two points of a way that follow one another lie in one place; nothing was changed")
    into, out = _handles(points, places, chords, closed)
    ends = np.roll(into, -1, axis=0) if closed else into[1:]
    count = len(following)
    pieces = np.stack([places[:count], places[:count] + out[:count], following + ends, following], axis=1)
    return Line(np.ascontiguousarray(pieces), closed)


def _handles(points: Sequence[Point], places: Array, chords: Array, closed: bool) -> tuple[Array, Array]:
    """Handles (P, 2) into and out of the points, from these: those that are not set go level with both neighbours.

    A handle is a third of its chord long (as those of Catmull and Rom, 1974, weighed by the chords), longer where the
    line turns, so that points on a circle make one, and shorter where it turns back.
    """
    count = len(places)
    into, out = np.zeros((count, 2)), np.zeros((count, 2))
    for n, point in enumerate(points):
        before = chords[n - 1] if closed or n else 0.0
        after = chords[n % len(chords)] if closed or n < count - 1 else 0.0
        back = (places[n] - places[n - 1]) / before if before else None
        ahead = (places[(n + 1) % count] - places[n]) / after if after else None
        if back is None or ahead is None:
            way = back if ahead is None else ahead
        else:  # the slope of the parabola through all three
            way = (back * after + ahead * before) / (before + after)
        assert way is not None
        set_out, set_into = point.out, point.into
        even = float(np.linalg.norm(way))  # the cosine of half the turn, where both chords are alike
        way = way / max(even, 1e-9) * (2.0 / (1.0 + even) * min(2.0 * even, 1.0) / 3.0)
        into[n] = -way * before if set_into is None else set_into
        out[n] = way * after if set_out is None else set_out
    # At an end with no handle of its own the line bends as its neighbour does.
    if not closed and count > 2:
        if points[0].out is None:
            out[0] = 0.5 * (places[1] + into[1] - places[0])
        if points[-1].into is None:
            into[-1] = 0.5 * (places[-2] + out[-2] - places[-1])
    return into, out


def bent(points: Sequence[Point], angle: float) -> list[Point]:
    """An open way bent as a whole by an angle, radians from its first heading to its last, evenly along its length.

    Its length and all lengths along it stay. Points are put in where a piece would be bent too far to stay even.
    """
    line = line_of(points)
    own = [_turn_of(piece) + abs(angle) * length / line.length
           for piece, length in zip(line.pieces, np.diff(line._lengths[::_PARTS]), strict=True)]  # fmt: skip
    pieces = np.concatenate([
        _parted(piece, max(ceil(turn / _BENDS), 1)) for piece, turn in zip(line.pieces, own, strict=True)
    ])  # fmt: skip
    lengths = np.array([float(_length(piece[None], np.zeros(1), np.ones(1))[0]) for piece in pieces])
    ends = np.concatenate([[0.0], np.cumsum(lengths)])
    per = angle / ends[-1]
    # Each place is what the headings along the line lead to, each turned by so much more.
    fine = np.linspace(0.0, ends[-1], 64 * len(pieces) + 1)
    middles = 0.5 * (fine[1:] + fine[:-1])
    headings = line.at(middles)[1] + per * middles
    steps = np.stack([np.sin(headings), np.cos(headings)], axis=1) * np.diff(fine)[:, None]
    way = pieces[0, 0] + np.concatenate([np.zeros((1, 2)), np.cumsum(steps, axis=0)])
    places = np.stack([np.interp(ends, fine, way[:, axis]) for axis in range(2)], axis=1)
    found: list[Point] = []
    for n, place in enumerate(places):
        into = None if n == 0 else _turned(pieces[n - 1, 2] - pieces[n - 1, 3], per * ends[n], per * lengths[n - 1])
        out = None if n == len(pieces) else _turned(pieces[n, 1] - pieces[n, 0], per * ends[n], per * lengths[n])
        found.append(Point((float(place[0]), float(place[1])), _pair(into), _pair(out)))
    return found


def _turn_of(piece: Array) -> float:
    """By how much a piece (4, 2) turns on its way, radians, to either side."""
    slopes = _slope(np.broadcast_to(piece, (17, 4, 2)), np.linspace(0.001, 0.999, 17))
    return float(np.abs(np.diff(np.unwrap(np.arctan2(slopes[:, 0], slopes[:, 1])))).sum())


def _turned(handle: Array, angle: float, bend: float) -> Array:
    """A handle turned by an angle, and as much longer as that of a piece which is bent by ``bend`` has to be."""
    longer = 4.0 * tan(bend / 4.0) / bend if abs(bend) > 1e-9 else 1.0
    sin, cos = np.sin(angle), np.cos(angle)
    return np.array([handle[0] * cos + handle[1] * sin, handle[1] * cos - handle[0] * sin]) * longer


def _pair(handle: Array | None, longer: float = 1.0) -> tuple[float, float] | None:
    return None if handle is None else (float(handle[0]) * longer, float(handle[1]) * longer)


def stretched(points: Sequence[Point], factor: float) -> list[Point]:
    """A way that is so many times as long, from its first point on."""
    x, z = points[0].place
    return [
        replace(
            point, place=(x + factor * (point.place[0] - x), z + factor * (point.place[1] - z)),
            into=_pair(None if point.into is None else np.array(point.into), factor),
            out=_pair(None if point.out is None else np.array(point.out), factor),
        ) for point in points
    ]  # fmt: skip


def with_point(points: Sequence[Point], along: float, closed: bool = False) -> tuple[list[Point], int]:
    """A way with one point more, so many metres along it, and which that is; the line stays where it is.

    Raises
    ------
    BadEdit
        If there is a point already.
    """
    line = line_of(points, closed)
    ends = line._lengths[::_PARTS]
    piece = int(np.clip(np.searchsorted(ends, along, side="right") - 1, 0, len(line.pieces) - 1))
    low, high = 0.0, 1.0
    for _ in range(50):
        middle = 0.5 * (low + high)
        short = ends[piece] + _length(line.pieces[piece][None], np.zeros(1), np.array([middle]))[0] < along
        low, high = (middle, high) if short else (low, middle)
    if min(low, 1.0 - low) * (ends[piece + 1] - ends[piece]) < 0.01:
        raise BadEdit("there is a point of the way already; nothing was changed")
    one, other = _split(line.pieces[piece], low)
    found = list(points)
    begin, end = piece, (piece + 1) % len(points)
    # Handles beside it that followed from the points stay as they are: there are other points from now on.
    pieces, count = line.pieces, len(line.pieces)
    before = pieces[begin - 1] if closed or begin else None
    after = pieces[end % count] if closed or end < count else None
    found[begin] = replace(
        found[begin], out=_pair(one[1] - one[0]), into=None if before is None else _pair(before[2] - before[3])
    )  # fmt: skip
    found[end] = replace(
        found[end], into=_pair(other[2] - other[3]), out=None if after is None else _pair(after[1] - after[0])
    )  # fmt: skip
    new = Point((float(one[3, 0]), float(one[3, 1])), _pair(one[2] - one[3]), _pair(other[1] - other[0]))
    return [*found[: piece + 1], new, *found[piece + 1 :]], piece + 1


def _place(pieces: Array, share: Array) -> Array:
    """Places (K, 2) at shares (K,) of pieces (K, 4, 2)."""
    t, u = share[:, None], 1.0 - share[:, None]
    a, b, c, d = (pieces[:, n] for n in range(4))
    return np.asarray(u**3 * a + 3.0 * u * u * t * b + 3.0 * u * t * t * c + t**3 * d)


def _slope(pieces: Array, share: Array) -> Array:
    """How fast places (K, 2) go with shares (K,) of pieces (K, 4, 2)."""
    t, u = share[:, None], 1.0 - share[:, None]
    a, b, c, d = (pieces[:, n] for n in range(4))
    return np.asarray(3.0 * (u * u * (b - a) + 2.0 * u * t * (c - b) + t * t * (d - c)))


def _length(pieces: Array, low: Array, high: Array) -> Array:
    """How long pieces (K, 4, 2) are between shares (K,), metres (Gauss and Legendre, five points)."""
    middle, half = 0.5 * (low + high), 0.5 * (high - low)
    total = np.zeros(len(pieces))
    for node, weight in zip(_NODES, _WEIGHTS, strict=True):
        total += weight * np.linalg.norm(_slope(pieces, middle + half * node), axis=1)
    return total * half


def _between(piece: Array, low: Array, high: Array) -> Array:
    return _length(np.broadcast_to(piece, (len(low), 4, 2)), low, high)


def _split(piece: Array, share: float) -> tuple[Array, Array]:
    """A piece (4, 2) in two (de Casteljau)."""
    a, b, c, d = piece
    ab, bc, cd = a + share * (b - a), b + share * (c - b), c + share * (d - c)
    abc, bcd = ab + share * (bc - ab), bc + share * (cd - bc)
    middle = abc + share * (bcd - abc)
    return np.array([a, ab, abc, middle]), np.array([middle, bcd, cd, d])


def _parted(piece: Array, count: int) -> Array:
    """A piece (4, 2) in so many (count, 4, 2), each with the same share of it."""
    found, rest = [], piece
    for left in range(count, 1, -1):
        one, rest = _split(rest, 1.0 / left)
        found.append(one)
    return np.array([*found, rest])
