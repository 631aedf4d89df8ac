"""Feet that go from footfall to footfall: how they come down, roll over their toes and swing through."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, fields
from math import ceil

import numpy as np
import numpy.typing as npt
from scipy.interpolate import PchipInterpolator

from hame.gait.footfalls import STAYS, Footfall, size_of_step
from hame.gait.traits import PASSES, Amount, Traits, lift_at
from hame.maths.rotations import Array

Bools = npt.NDArray[np.bool_]
Ints = npt.NDArray[np.int64]
Lying = tuple[float, float, float]
"""How high what is stood on lies, metres, and how steep it is along x and z."""

FLAT_AFTER = 2.0  # frames from the landing on which a sole lies flat (common practice, no source)
_ROLLS = 14.0  # frames at most in which a foot that has stood rolls up over its toes
_LIFTS = (0.45, 0.2)  # of its time on the ground, after which its heel comes up: in a walk, and in a run
_BACK = 0.4  # of its time in the air, after which a heel that was raised further is as usual
_TRAILS = 0.045  # of the leg: by how much more a foot comes up that trails, until it passes the other one
_LIFTED = 0.025  # of the leg: a foot that is lifted less comes up less as it trails, and one that drags not at all
_FOLDED = 0.2  # of the leg: a foot that is lifted so high is folded up behind
_COMES, _COMES_RUNNING = 0.45, 0.1  # of its mean speed that a foot still has as it comes down
_STEPS, _UP_FIRST = 0.2, 0.22  # of the leg: a step that high is gone up for so much of its time before it goes ahead
_LATE = 4.0  # frames in which a foot that is late on the ground comes to where its heel may come up


@dataclass(frozen=True, eq=False)
class Foot:
    """A foot, frame by frame.

    Attributes
    ----------
    places : (F, 2) where it lies, (x, z) in metres
    level, lift : (F,) how high what it stands on is, and how high it is over that, metres
    steep : (F, 2) how steep that is along x and z, metres a metre
    heading : (F,) radians
    roll : (F,) radians, above 0 up over its toes, below 0 back on its heel
    stands : (F,) whether it is on the ground
    late : (F,) how much of that its heel may come up, from 0 to 1: in the second half of its time there
    left : (F,) the row in which it was last on the ground, and ``aired`` which share of its time in the air is over
    """

    places: Array
    level: Array
    lift: Array
    steep: Array
    heading: Array
    roll: Array
    stands: Bools
    late: Array
    left: Ints
    aired: Array

    def cut(self, rows: slice) -> Foot:
        """It on some rows; where it was last on the ground is told as among all of them."""
        return Foot(*(getattr(self, one.name)[rows] for one in fields(self)))


def foot_along(
    found: Sequence[Footfall], lies: Sequence[Lying], headings: Sequence[float], frames: Array, traits: Traits,
    leg: float,
) -> Foot:  # fmt: skip
    """How a foot goes over its own footfalls, in the order of time; ``lies`` says on what each of them lies.

    ``headings`` are those of the footfalls, which do not jump by a turn from one foot to the other either.

    Parameters
    ----------
    frames : (F,) in a row; ``traits`` has a number for each
    leg : how long a leg is, metres
    """
    level, lift, heading, roll = np.zeros((4, len(frames)))
    stands, late = np.zeros(len(frames), np.bool_), np.zeros(len(frames))
    foot = Foot(
        np.zeros((len(frames), 2)),
        level,
        lift,
        np.zeros((len(frames), 2)),
        heading,
        roll,
        stands,
        late,
        np.arange(len(frames)),
        np.zeros(len(frames)),
    )
    airs: list[tuple[slice, Array, list[float]]] = []
    for n, one in enumerate(found):
        here = _rows(frames, one.first if n else -np.inf, one.last + 1)
        foot.places[here], foot.level[here], foot.heading[here] = one.place, lies[n][0], headings[n]
        foot.steep[here] = lies[n][1:]
        foot.stands[here] = True
        begins = one.last - 0.55 * min(one.last - one.first, _ROLLS)
        foot.late[here] = np.clip((frames[here] - begins) / _LATE, 0.0, 1.0)
        before = found[n - 1] if n else None
        after = found[n + 1] if n + 1 < len(found) else None
        foot.roll[here] = _on_ground(frames[here], one, before, after, traits, here, leg)
        if after is None:
            beyond = _rows(frames, one.last + 1, np.inf)  # it goes nowhere that is known
            foot.places[beyond], foot.level[beyond], foot.heading[beyond] = one.place, lies[n][0], headings[n]
            continue
        swings = _rows(frames, one.last + 1, after.first)
        share = (frames[swings] - one.last) / (after.first - one.last)
        foot.left[swings], foot.aired[swings] = int(one.last - frames[0]), share
        runs = after.first - one.last > after.last - after.first
        gone = _gone(_past_edges(share, lies[n + 1][0] - lies[n][0], leg), runs)
        foot.places[swings] = np.outer(1.0 - gone, one.place) + np.outer(gone, after.place)
        foot.heading[swings] = headings[n] + gone * (headings[n + 1] - headings[n])
        foot.level[swings] = lies[n][0] + _rises(share, lies[n + 1][0] - lies[n][0])
        foot.steep[swings] = np.outer(1.0 - gone, lies[n][1:]) + np.outer(gone, lies[n + 1][1:])
        lift = _at(traits.lift, swings)
        foot.lift[swings] = lift * leg * lift_at(share)
        much = np.clip(np.minimum(lift / _LIFTED, 1.0 - lift / _FOLDED), 0.0, 1.0)
        trails = _TRAILS * leg * size_of_step(one, after, leg) * much
        foot.lift[swings] += trails * np.sin(np.pi * np.minimum(share / PASSES, 1.0)) ** 2
        if len(share):
            airs.append((swings, share, _rolls_in_air(one, after, traits, swings, leg)))
    _roll_in_air(foot.roll, airs)
    return foot


def rolled(foot: Foot, by: Array, most: float) -> tuple[Array, Bools]:
    """The roll (F,) of a foot that is rolled further up by so much (F,) where it is on the ground, to ``most`` radians
    at most, and back again in the air; and where (F,) that was not enough."""
    by = foot.late * by
    wished = foot.roll + by
    capped = (foot.late > 0.0) & (wished > most)
    more = np.where(foot.stands, np.minimum(wished, np.maximum(foot.roll, most)) - foot.roll, 0.0)
    fades = np.clip(1.0 - foot.aired / _BACK, 0.0, 1.0) ** 2
    inside = np.clip(foot.left, 0, len(by) - 1)
    return foot.roll + np.where(foot.stands, more, more[inside] * fades), np.asarray(capped)


def _gone(share: Array, runs: bool) -> Array:
    """How much of its way a foot has gone: off gently, and still going a little as it comes down, with the body.

    Who runs draws it back under the body before that.
    """
    ends = _COMES_RUNNING if runs else _COMES
    return share**3 * ((10.0 - 4.0 * ends) + share * ((7.0 * ends - 15.0) + share * (6.0 - 3.0 * ends)))


def _on_ground(
    frames: Array, one: Footfall, before: Footfall | None, after: Footfall | None, traits: Traits, here: slice,
    leg: float,
) -> Array:  # fmt: skip
    """The roll (K,) of a foot on the ground: off its heel, flat, and up over its toes at an ever quicker rate."""
    roll = np.zeros(len(frames))
    if before is not None:
        down = np.clip(1.0 - (frames - one.first) / FLAT_AFTER, 0.0, 1.0)
        roll -= _at(traits.strike, here) * size_of_step(before, one, leg) * down
    if after is not None and one.last < STAYS:
        stance = min(one.last - one.first, _ROLLS) if before is not None else _ROLLS
        begins = one.last - stance * (1.0 - _LIFTS[1 if after.first - one.last > stance else 0])
        share = np.clip((frames - begins) / max(one.last - begins, 1.0), 0.0, 1.0)
        roll += _at(traits.push, here) * size_of_step(one, after, leg) * (0.2 * share + 0.8 * share**4)
    return roll


_SHARES = np.array([0.0, 0.18, 0.45, 0.72, 0.93, 1.0])  # of its time in the air, at which its roll is known


def _rolls_in_air(one: Footfall, after: Footfall, traits: Traits, here: slice, leg: float) -> list[float]:
    """The rolls of a foot in the air: its toes trail, come up on the way, and are up as it comes down."""
    size = size_of_step(one, after, leg)
    push, strike = float(_at(traits.push, here)[0]) * size, float(_at(traits.strike, here)[-1]) * size
    # Who runs lifts the foot high: the shank folds up behind.
    folds = float(np.clip(_at(traits.lift, here).max() / _FOLDED, 0.0, 1.0))
    return [push, (1.03 + 0.35 * folds) * push, (0.4 + 0.6 * folds) * push, -0.2 * strike, -strike, -strike]


def _roll_in_air(roll: Array, airs: Sequence[tuple[slice, Array, list[float]]]) -> None:
    """Writes the rolls (F,) of all times in the air, in place: each by its rows, its shares of it and what is known."""
    if not airs:
        return
    cubics = PchipInterpolator(_SHARES, np.array([known for _, _, known in airs]).T).c  # (4, 5, A)
    rows = np.concatenate([np.arange(rows.start, rows.stop) for rows, _, _ in airs])
    share = np.concatenate([share for _, share, _ in airs])
    which = np.repeat(np.arange(len(airs)), [len(share) for _, share, _ in airs])
    piece = np.clip(np.searchsorted(_SHARES, share, side="right") - 1, 0, len(_SHARES) - 2)
    past, (a, b, c, d) = share - _SHARES[piece], cubics[:, piece, which]
    roll[rows] = ((a * past + b) * past + c) * past + d


def _past_edges(share: Array, by: float, leg: float) -> Array:
    """The shares (K,) of its way over the ground for those of its time: who steps up goes up first, and who steps down
    goes ahead first, ever more so with how high the step is."""
    much = float(np.clip(abs(by) / (_STEPS * leg), 0.0, 1.0))
    if by >= 0.0:
        return np.clip((share - _UP_FIRST * much) / (1.0 - _UP_FIRST * much), 0.0, 1.0)
    return np.clip(share / (1.0 - _UP_FIRST * much), 0.0, 1.0)


def _rises(share: Array, by: float) -> Array:
    """How much of a rise is done: early where it goes up, late where it goes down, so that toes clear the edge."""
    early = np.clip(share * 2.4, 0.0, 1.0) if by > 0.0 else np.clip((share - 0.4) / 0.6, 0.0, 1.0)
    return np.asarray(by * early * early * (3.0 - 2.0 * early))


def _rows(frames: Array, first: float, until: float) -> slice:
    """The rows of frames (F,), which are in a row, from the first to before another one."""
    begin, end = (min(max(at - frames[0], 0.0), float(len(frames))) for at in (first, until))
    return slice(ceil(begin), max(ceil(begin), ceil(end)))


def _at(amount: Amount, here: slice) -> Array:
    return np.asarray(np.asarray(amount, float)[here])
