"""How the mass goes over footfalls: by what the feet press with, and never by more than a foot could give.

Upwards by the force of the feet, whose course is that of Alexander and Jayes ("Fourier analysis of forces exerted in
walking and running", Journal of Biomechanics 13, 1980); so it rises and falls as it must, and where no foot stands it
flies. Level, it is drawn away from where the feet press, by as much as that presses and no more: that place is inside
of them, and the mass is what goes over it without falling (Kajita and others, "Biped walking pattern generation by
using preview control of zero-moment point", 2003, with the height as it is, and solved for the whole way at once).

All of it in steps of a frame: a change of speed is that from one frame to the next.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
from scipy.linalg import solve_banded
from scipy.sparse import bmat, csc_matrix, diags
from scipy.sparse.linalg import SuperLU, splu

from hame.gait.bearings import Bearing, pressed_at
from hame.maths.rotations import Array

Bools = npt.NDArray[np.bool_]
Ints = npt.NDArray[np.int64]

_STIFF = 0.005  # metres that the mass may be off its height before a foot presses by a tenth more than is usual
_LEAST = 0.02  # of the weight: what presses less bears nothing


@dataclass(frozen=True, eq=False)
class Upright:
    """The system by which the mass rises and falls, solved for any heights.

    Attributes
    ----------
    asked : what it follows from, to the bit
    presses : (F, B) how much each of what bears presses, where 1 is as much as bears everything at rest; sparse
    kinds : (P,) for each number that is told of that, which of what bears it is of
    solves : the system, factored
    rests : the rows in which the mass is at its height
    pulls : (B,) how near each is kept to what is usual, times that
    """

    asked: tuple[object, ...]
    presses: csc_matrix
    kinds: Ints
    solves: SuperLU
    rests: Ints
    pulls: Array


@dataclass(frozen=True, eq=False)
class Lifted:
    """How high the mass goes, frame by frame.

    Attributes
    ----------
    high : (F,) metres
    much : (P,) how much each of what bears does, in weights, as ``upright`` has its numbers
    heights : (F,) how high it was to go
    upright : by what it was found, which hangs on when what bears does
    """

    high: Array
    much: Array
    heights: Array
    upright: Upright

    def borne(self, shares: Array) -> Array:
        """How much is borne (F,), in weights: each of what bears counts by its share (B,), or at each time (P,)."""
        times = shares if len(shares) == len(self.much) else shares[self.upright.kinds]
        return np.asarray(np.bincount(self.upright.presses.indices, self.much * times, len(self.high)), float)


@dataclass(frozen=True, eq=False)
class Carried:
    """How the mass goes, frame by frame.

    Attributes
    ----------
    places : (F, 3) metres
    pressed : (F, 2) where the feet press, (x, z); not a number where nothing does
    force : (F,) how much they press upwards, in weights
    lifted : how it was found to rise and fall
    """

    places: Array
    pressed: Array
    force: Array
    lifted: Lifted

    @property
    def bearing(self) -> csc_matrix:
        """How much each of what bears does (F, B), in weights; sparse."""
        presses = self.lifted.upright.presses
        return csc_matrix((self.lifted.much, presses.indices, presses.indptr), shape=presses.shape)


def mass_over(
    bearings: Sequence[Bearing], frames: Array, heights: Array, fps: float, gravity: float,
    moment: Array | None = None, lifted: Lifted | None = None,
) -> Carried:  # fmt: skip
    """How the mass goes over what bears it.

    Parameters
    ----------
    frames : (F,) in a row, with a stand or a few steps to spare at both ends
    heights : (F,) how high the mass is to be in the mean, metres, upright over 0
    moment : (F, 3) the change of angular momentum about it, as limbs that swing ask for it, a kilogram; none of a mass
        that is all in one place
    lifted : how high it was found to go over something like it, which is not found again where it is the same
    """
    frames = np.asarray(frames, float)
    lifted = _lifted(bearings, frames, np.asarray(heights, float), fps, gravity, lifted)
    high, upright = lifted.high, lifted.upright
    force = lifted.borne(np.ones(len(bearings)))
    stands = force > _LEAST
    safe = np.where(stands, force, 1.0)
    places = pressed_at(bearings, upright.kinds, frames[upright.presses.indices])
    pressed = np.stack([lifted.borne(places[:, 0]), lifted.borne(places[:, 1])], axis=1) / safe[:, None]
    level = lifted.borne(np.array([one.level for one in bearings])) / safe
    over = np.maximum(high - level, 0.1)
    drawn = np.where(stands, gravity * force / over, 0.0) / fps**2
    asked = np.zeros((len(frames), 2))
    if moment is not None:
        asked = np.where(stands[:, None], moment[:, [2, 0]] * [1.0, -1.0] / over[:, None], 0.0) / fps**2
    places = _level(drawn, pressed, asked, stands)
    return Carried(
        np.stack([places[:, 0], high, places[:, 1]], axis=1), np.where(stands[:, None], pressed, np.nan), force,
        lifted,
    )  # fmt: skip


def _lifted(
    bearings: Sequence[Bearing], frames: Array, heights: Array, fps: float, gravity: float, before: Lifted | None
) -> Lifted:  # fmt: skip
    times = tuple((one.first, one.last, one.rises, one.falls, one.shape) for one in bearings)
    asked = (times, frames.tobytes(), fps, gravity)
    upright = before.upright if before is not None and before.upright.asked == asked else None
    if upright is None:
        endless = np.array([not np.isfinite(one.last - one.first) for one in bearings])
        upright = _upright(asked, _pressing(bearings, frames), endless, fps, gravity)
    elif before is not None and np.array_equal(before.heights, heights):
        return before
    high, amounts = _risen(upright, heights, fps, gravity)
    return Lifted(high, upright.presses.data * (amounts / gravity)[upright.kinds], heights, upright)


def _pressing(bearings: Sequence[Bearing], frames: Array) -> csc_matrix:
    """How much each of what bears presses, by frames (F, B)."""
    rows, values, begins = [], [], [0]
    for one in bearings:
        first, last = np.searchsorted(frames, [one.first, one.last])
        much = one.presses(frames[first:last])
        rows.append(np.arange(first, last))
        values.append(much)
        begins.append(begins[-1] + len(much))
    return csc_matrix((np.concatenate(values), np.concatenate(rows), begins), shape=(len(frames), len(bearings)))


def _upright(
    asked: tuple[object, ...], presses: csc_matrix, endless: Bools, fps: float, gravity: float
) -> Upright:  # fmt: skip
    """How the mass comes to be as high as it is, and each of what bears to press as much as it does.

    As near to its height as can be, and each as near to what it would press if the mass came back to its height by it,
    such that any frame is what the force makes of those before it: one sparse system. Whoever stands at an end is at
    rest there.
    """
    count, kinds = presses.shape
    usual = np.where(endless, gravity, _usual(presses, gravity))
    # How much nearer to the usual a foot is kept than the mass to its height.
    much = np.maximum(np.asarray(presses.sum(axis=0)).ravel(), 1.0)
    weights = np.where(endless, 1e6, much * (_STIFF / 0.1) ** 2) / usual**2
    bend = diags([1.0, -2.0, 1.0], [0, 1, 2], shape=(count - 2, count))
    rests = np.array([0, 1, count - 2, count - 1]) if endless.any() else np.array([0, count - 1])
    held = csc_matrix((np.ones(len(rests)), (np.arange(len(rests)), rests)), shape=(len(rests), count))
    rules = bmat([[bend, -presses[1:-1] / fps**2], [held, csc_matrix((len(rests), kinds))]])
    cost = diags(np.concatenate([np.ones(count), weights]))
    system = bmat([[cost, rules.T], [rules, None]], format="csc")
    each = np.repeat(np.arange(kinds), np.diff(presses.indptr))
    return Upright(asked, presses, each, splu(system), rests, weights * usual)


def _risen(upright: Upright, heights: Array, fps: float, gravity: float) -> tuple[Array, Array]:
    """How high the mass is (F,) that is to be at heights (F,), and how much each of what bears presses (B,) in metres a
    second each second."""
    count, kinds = upright.presses.shape
    wished = np.concatenate([np.full(count - 2, -gravity / fps**2), heights[upright.rests]])
    solved = np.asarray(upright.solves.solve(np.concatenate([heights, upright.pulls, wished])))
    return solved[:count], solved[count : count + kinds]


def _usual(presses: csc_matrix, gravity: float) -> Array:
    """How much each of what bears would press (B,), were the time shared out in which others press as well.

    A foot bears the time from the middle of the one before to the middle of the next.
    """
    total = np.maximum(np.asarray(presses.sum(axis=0)).ravel(), 1e-9)
    middles = np.asarray(presses.T @ np.arange(presses.shape[0])) / total
    order = np.argsort(middles)
    usual = np.full(presses.shape[1], gravity)
    inner = order[1:-1]
    usual[inner] = gravity * 0.5 * (middles[order[2:]] - middles[order[:-2]]) / total[inner]
    return np.clip(usual, 0.2 * gravity, 6.0 * gravity)


def _level(drawn: Array, pressed: Array, asked: Array, stands: Bools) -> Array:
    """The level way (F, 2) of a mass that is drawn away from where feet press, by so much of how far that is (F,).

    It begins and ends over where they press then.
    """
    count = len(drawn)
    banded = np.zeros((3, count))
    banded[1] = 2.0 + drawn
    banded[0, 1:] = banded[2, :-1] = -1.0
    banded[1, [0, -1]] = 1.0
    banded[0, 1] = banded[2, -2] = 0.0
    right = drawn[:, None] * np.where(stands[:, None], pressed, 0.0) - asked
    rows = np.flatnonzero(stands)
    for end in (0, -1):  # who has all but left the ground there is over where it was last
        right[end] = pressed[rows[end]] if len(rows) else 0.0
    result: Array = solve_banded((1, 1), banded, right)
    return result
