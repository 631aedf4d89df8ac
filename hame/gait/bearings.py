"""What bears somebody who goes over footfalls: feet, and both together, by how much and where they press.

A foot presses as Alexander and Jayes have it ("Fourier analysis of forces exerted in walking and running", Journal of
Biomechanics 13, 1980): one family of curves over its time on the ground and one factor of its shape, from walk to run.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache
from math import ceil, cos, pi, sin, sqrt

import numpy as np
import numpy.typing as npt

from hame.gait.footfalls import STAYS, Footfall
from hame.maths.rotations import Array

_ROLLED = 0.6  # of its time on the ground, after which a foot stands on its ball
_ROLLED_RUNNING = 0.35, 0.6  # the same in a run: while who runs goes so far over it as is usual, and far
_FORE = 0.8, 0.4  # of a sole that is behind where it presses first out of a flight, on its ball: usual, and going far
_GOES_FAR = 0.75, 0.95  # of the leg: over a foot, while it stands
_OFF = 1.05  # of a sole, from its heel to the middle of its ball: where a foot presses off, as its toes bear as well
_LINGERS = 1.8  # by this power of its time it goes there: it stays by the heel while all of the sole is down
_WINDS = 3.0  # times as long as it presses off, or lands: so long somebody winds up for a jump, or gets up after it
_SETTLES = 6.0  # frames at least in which the weight comes from one foot to both


@dataclass(frozen=True)
class Sole:
    """Where a foot presses while it stands: from how far behind its place to how far ahead, metres."""

    heel: float = -0.04
    toe: float = 0.14


@dataclass(frozen=True)
class Bearing:
    """What bears on some frames: a foot, or both together.

    Attributes
    ----------
    first, last : the frames between which it presses
    rises, falls : in how many frames it comes to press, and ceases to; 0 where it presses as a foot in passing does
    begins, ends : (x, z) where it presses as it begins and as it ends, metres
    shape : how much less it presses in the middle than at its quarters (q of Alexander and Jayes)
    level : how high it stands, metres
    rolls : of its time, after which it presses where it ends: a foot whose heel comes up stands on its ball
    side : whose foot it is; nobody's where both bear together
    """

    first: float
    last: float
    begins: tuple[float, float]
    ends: tuple[float, float]
    rises: float = 0.0
    falls: float = 0.0
    shape: float = 0.0
    level: float = 0.0
    rolls: float = 1.0
    side: str = ""

    def presses(self, frames: Array) -> Array:
        """How much it presses at frames (F,), where 1 is as much as a foot does that bears everything at rest."""
        inside = (frames > self.first) & (frames < self.last)
        if self.rises == 0.0 and self.falls == 0.0:
            turn = np.pi * ((frames - self.first) / (self.last - self.first) - 0.5)
            return np.asarray(np.where(inside, np.cos(turn) - self.shape * np.cos(3.0 * turn), 0.0))
        comes = np.ones(len(frames))
        if self.rises > 0.0:
            comes = np.sin(0.5 * np.pi * np.clip((frames - self.first) / self.rises, 0.0, 1.0)) ** 2
        if self.falls > 0.0:
            comes = comes * np.sin(0.5 * np.pi * np.clip((self.last - frames) / self.falls, 0.0, 1.0)) ** 2
        return np.asarray(np.where(inside, comes, 0.0))


def pressed_at(bearings: Sequence[Bearing], which: npt.NDArray[np.int64], frames: Array) -> Array:
    """Where some of what bears presses (N, 2): that of the number ``which (N,)`` at ``frames (N,)``."""
    told = np.array([(one.first, one.last, one.rolls, *one.begins, *one.ends) for one in bearings]).T[:, which]
    first, last, rolls = told[:3]
    passes = np.isfinite(last - first)
    share = (frames - np.where(passes, first, frames)) / np.where(passes, (last - first) * rolls, 1.0)
    share = np.minimum(np.maximum(share, 0.0), 1.0) ** _LINGERS
    return np.asarray((told[3:5] + share * (told[5:] - told[3:5])).T)


def _product(one: Sequence[float], other: Sequence[float]) -> float:
    return sum(a * b for a, b in zip(one, other, strict=True))


@lru_cache(maxsize=4096)
def shape_of(on: float, step: float, rise: float, fps: float, gravity: float) -> float:
    """How much less a foot presses in its middle (q), so that the mass is by ``rise`` higher there than between steps.

    Parameters
    ----------
    on, step : frames that a foot is on the ground, and from one landing to the next
    rise : metres

    Notes
    -----
    By the first wave of the force of both feet, which all but makes the rise, as it is on whole frames. Where a foot
    stands no longer than its step the mass flies between, and is lowest over the foot whatever it does: then it is 0.
    Alexander and Jayes found up to some 0.7 in walks (from memory); beyond 0.9 a foot would all but cease to press in
    its middle.
    """
    if on <= step:
        return 0.0
    wave = 2.0 * pi / step
    turns = [pi * (n / on - 0.5) for n in range(1, ceil(on))]
    beats = [cos(wave * (n - 0.5 * on)) for n in range(1, ceil(on))]
    one, three = [cos(turn) for turn in turns], [cos(3.0 * turn) for turn in turns]
    # What a wave of the height asks for of that of the force, both in steps of a frame; and all of it bears the weight.
    asks = rise * (2.0 * sin(0.5 * wave) * fps) ** 2 / (4.0 * gravity)
    below = _product(three, beats) + asks * sum(three)
    found = (_product(one, beats) + asks * sum(one)) / below if abs(below) > 1e-12 else 0.0
    return min(max(found, 0.0), 0.9)


@dataclass(frozen=True)
class Bounce:
    """How much the mass rises in a step.

    Attributes
    ----------
    leg : how long a leg is, metres
    share : of how far a stiff leg would carry it up; walks have some 0.6 (from memory, Whittle 2007: 4 to 5 cm at a
        free speed)
    fps, gravity : frames a second; metres a second each second
    """

    leg: float = 0.9
    share: float = 0.6
    fps: float = 24.0
    gravity: float = 9.80665

    def rise(self, step: float, share: float) -> float:
        """Metres that it rises in a step of so many, by a share as is told above."""
        half = min(0.5 * step, 0.8 * self.leg)
        return share * (self.leg - sqrt(self.leg**2 - half**2))


def bearings_of(
    found: Sequence[Footfall], bounce: Bounce, sole: Sole | None = None, levels: Sequence[float] = (),
    shares: Sequence[float] = (),
) -> list[Bearing]:  # fmt: skip
    """What bears along a way: its footfalls, of which those on which somebody stands at an end are taken together.

    Parameters
    ----------
    levels : how high each of the footfalls stands, metres; all at 0 where none is given
    shares : of the bounce, one for each of them; all as it says where none is given
    """
    sole = sole or Sole()
    high = dict(zip(map(id, found), levels or [0.0] * len(found), strict=True))
    stand = sorted((one for one in found if one.number <= 0), key=lambda one: one.last)
    end = sorted((one for one in found if one.last >= STAYS), key=lambda one: one.first)
    passing = [one for one in found if one.number > 0 and one.last < STAYS]
    on = float(np.median([one.last - one.first for one in passing])) if passing else _SETTLES
    result = _leaving(stand, min((one.first for one in found if one.number > 0), default=0), on, sole, high)
    numbered: dict[int, list[Footfall]] = {}
    for one in found:
        numbered.setdefault(one.number, []).append(one)
    for n, one in enumerate(found):
        twins = [other for other in numbered[one.number] if other.side != one.side]
        if one not in passing or (twins and one.side == "R"):
            continue  # both feet together bear as one
        feet = [one, *twins]
        frames, along = _steps_beside(found, n)
        shape = _own_shape(one, frames, along, bounce, shares[n] if shares else bounce.share)
        comes, rolls = 0.0, _ROLLED
        if shape == 0.0:
            over = along / frames * (one.last - one.first) / bounce.leg if frames else 0.0
            comes, rolls = (float(np.interp(over, _GOES_FAR, both)) for both in (_FORE, _ROLLED_RUNNING))
        begins, ends = (_mean([_press(foot, sole, share) for foot in feet]) for share in (comes, _OFF))
        side = "" if twins else one.side
        level = high[id(one)]
        result.append(Bearing(one.first, one.last, begins, ends, shape=shape, level=level, rolls=rolls, side=side))
    before = max((one.last for one in found if one.last < STAYS), default=0)
    return [*result, *_coming(end, before, on, sole, high)]


def _leaving(
    stand: Sequence[Footfall], follows: int, on: float, sole: Sole, high: Mapping[int, float]
) -> list[Bearing]:  # fmt: skip
    """What bears as somebody leaves a stand, of whose feet the first is lifted first; the next lands at ``follows``."""
    if len(stand) < 2:
        return []
    lifted, other = stand
    middle, level = _middle(stand, sole), float(np.mean([high[id(one)] for one in stand]))
    if lifted.last == other.last:  # by both at once
        hold = Bearing(-np.inf, other.last, middle, middle, falls=on, level=level)
        return [hold, *_given(other.last - np.array([[on, 0.0], [_WINDS * on, 0.0]]), middle, middle, level)]
    away = max(float(lifted.last - lifted.first), 1e-6)
    both = Bearing(-np.inf, lifted.last, middle, middle, falls=away, level=level)
    begins, ends = _press(other, sole, 0.5), _press(other, sole, _OFF)
    flies = other.last <= follows
    falls = on if flies else float(other.last - follows)
    hold = Bearing(
        other.first,
        other.last,
        begins,
        ends,
        rises=away,
        falls=falls,
        level=high[id(other)],
        rolls=_ROLLED,
        side=other.side,
    )
    # Who flies off from it pushes off from it first.
    push = _given(other.last - np.array([[on, 0.0]]), begins, ends, high[id(other)]) if flies else []
    return [both, hold, *push, *_given(lifted.last - np.array([[away, 0.0]]), middle, begins, level)]


def _coming(
    end: Sequence[Footfall], before: int, on: float, sole: Sole, high: Mapping[int, float]
) -> list[Bearing]:  # fmt: skip
    """What bears as somebody comes to stand; the last foot before is lifted at ``before``."""
    if not end:
        return []
    one, last = end[0], end[-1]
    middle, level = _middle(end, sole), float(np.mean([high[id(foot)] for foot in end]))
    if one.first == last.first:
        flies = before <= one.first
        hold = Bearing(one.first, np.inf, middle, middle, rises=on if flies else _SETTLES, level=level)
        return [hold, *_given(one.first + np.array([[0.0, on], [0.0, _WINDS * on]]), middle, middle, level)]
    passes = max(_SETTLES, 0.5 * (last.first - one.first))
    begins, ends = _press(one, sole, 0.1), _press(one, sole, 0.5)
    flies = before <= one.first
    rises = on if flies else float(before - one.first)
    hold = Bearing(
        one.first, last.first + passes, begins, ends, rises=rises, falls=passes, level=high[id(one)], side=one.side
    )
    catch = _given(one.first + np.array([[0.0, on]]), begins, ends, high[id(one)]) if flies else []
    both = Bearing(last.first, np.inf, middle, middle, rises=passes, level=level)
    rests = last.first + np.array([[0.0, 2.0 * passes], [passes, 4.0 * passes]])
    return [*catch, hold, both, *_given(rests, middle, middle, level)]


def _given(
    spans: Array, begins: tuple[float, float], ends: tuple[float, float], level: float
) -> list[Bearing]:  # fmt: skip
    """What presses more, or less, on some spans (K, 2) of frames than who stands at rest: give, push and settling."""
    return [Bearing(float(first), float(last), begins, ends, level=level) for first, last in spans if last > first]


def _steps_beside(found: Sequence[Footfall], n: int) -> tuple[float, float]:
    """How long the steps beside a footfall take in the mean, and how far they go: frames, metres; 0 where none are."""
    one = found[n]
    beside = [other for other in (*found[max(n - 2, 0) : n], *found[n + 1 : n + 3]) if other.side != one.side]
    frames = [abs(other.first - one.first) for other in beside if other.number > 0 and other.first != one.first]
    if not frames:
        return 0.0, 0.0
    along = [abs(other.along - one.along) for other in beside if other.number > 0]
    return sum(frames) / len(frames), sum(along) / len(along)


def _own_shape(one: Footfall, frames: float, along: float, bounce: Bounce, share: float) -> float:
    """The shape of a footfall, by how long it is on the ground and how long and far the steps beside it are."""
    if frames == 0.0:
        return 0.0
    return shape_of(one.last - one.first, frames, bounce.rise(along, share), bounce.fps, bounce.gravity)


def _press(foot: Footfall, sole: Sole, share: float) -> tuple[float, float]:
    ahead = sole.heel + share * (sole.toe - sole.heel)
    return foot.place[0] + ahead * sin(foot.heading), foot.place[1] + ahead * cos(foot.heading)


def _mean(places: Sequence[tuple[float, float]]) -> tuple[float, float]:
    return sum(x for x, _ in places) / len(places), sum(z for _, z in places) / len(places)


def _middle(feet: Sequence[Footfall], sole: Sole) -> tuple[float, float]:
    return _mean([_press(foot, sole, 0.5) for foot in feet])
