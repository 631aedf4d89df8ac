"""What it takes to move a carried thing: where that is more than a strength, and how much more time it would need."""

from __future__ import annotations

from dataclasses import dataclass
from math import ceil

import numpy as np

from hame.character.masses import centre_of_mass
from hame.maths.rotations import Array
from hame.measure.dynamics import dynamics
from hame.measure.found import Bools, runs
from hame.measure.loads import Load

REST = 0.08  # metres a second: a thing that goes slower rests
NEAR = 24  # frames on both sides of what is too quick in which its move begins and ends, if it rests there
AROUND = 8  # frames that are given time on both sides, where it does not rest
SLOWEST = 8.0
_FINE = 0.001


@dataclass(frozen=True)
class Heave:
    """A move of a carried thing that asks for more than the strength there is.

    Attributes
    ----------
    first, last : the frames between which it moves, and on which time is given
    before, after : frames of rest ahead of these and behind them
    worst : the frame that asks for most
    force, weight : newtons asked for there, and to hold it still
    more : frames more that the move needs; None where it is too heavy to be held at all
    """

    of: int
    first: int
    last: int
    before: int
    after: int
    worst: int
    force: float
    weight: float
    more: int | None

    @property
    def starts(self) -> bool:
        """Whether its start asks for most, not its stop."""
        return self.worst - self.first <= self.last - self.worst


def forces(load: Load, fps: float, gravity: float) -> tuple[Array, Bools]:
    """Newtons (F,) that who carries a thing holds and moves it with, and on which frames it is in hand.

    Taken up and let go it is held on one side alone of the frame, on which nothing is asked.
    """
    own = dynamics(load.rig, load.nodes, fps, gravity)
    held = load.kilograms > 0.0
    inner = held & np.roll(held, 1) & np.roll(held, -1)
    return np.where(inner, load.kilograms * np.linalg.norm(own.force, axis=1), 0.0), inner


def heaves(load: Load, first: int, fps: float, gravity: float, strength: float) -> list[Heave]:
    """The moves of a carried thing that ask for more than a strength, newtons, on frames from ``first`` on."""
    if len(load.nodes) < 5:
        return []
    asked, inner = forces(load, fps, gravity)
    places = centre_of_mass(load.rig, load.nodes)
    steps = np.linalg.norm(np.diff(places, axis=0), axis=1) * fps
    speed = np.maximum(np.concatenate([steps[:1], steps]), np.concatenate([steps, steps[-1:]]))
    still = speed < REST
    found: list[Heave] = []
    for a, b in runs(asked > strength):
        if found and first + a <= found[-1].last:
            continue  # of the same move
        start = _rest(still, a, -1)
        end = _rest(still, b, 1)
        worst = a + int(asked[a : b + 1].argmax())
        weight = float(load.kilograms[worst] * gravity)
        move = slice(start, end + 1)
        pull = np.diff(places, 2, axis=0) * fps**2
        pull = np.concatenate([pull[:1], pull, pull[-1:]])[move]
        share = load.kilograms[move] * inner[move]
        slower = _slower(pull, share, gravity, strength) if weight < strength else None
        found.append(
            Heave(
                load.of, first + start, first + end, _length(still, start, -1), _length(still, end, 1), first + worst,
                float(asked[worst]), weight, None if slower is None else max(ceil((end - start) * (slower - 1.0)), 1),
            )
        )  # fmt: skip
    return found


def _rest(still: Bools, at: int, step: int) -> int:
    """The frame at which a move begins or ends: where the thing rests, or some frames away."""
    for n in range(NEAR):
        here = at + n * step
        if here in (0, len(still) - 1) or still[here]:
            return min(max(here, 0), len(still) - 1)
    return min(max(at + AROUND * step, 0), len(still) - 1)


def _length(still: Bools, at: int, step: int) -> int:
    count = 0
    while 0 <= at + step < len(still) and still[at + step]:
        at, count = at + step, count + 1
    return count


def _slower(pull: Array, kilograms: Array, gravity: float, strength: float) -> float | None:
    """How many times as long a move has to take: what it asks for beside its weight goes with the square of that."""
    low, high = 1.0, SLOWEST

    def most(times: float) -> float:
        force = pull / times**2 + [0.0, gravity, 0.0]
        return float((kilograms * np.linalg.norm(force, axis=1)).max())

    if most(high) > strength:
        return None
    while high - low > _FINE:
        middle = 0.5 * (low + high)
        low, high = (middle, high) if most(middle) > strength else (low, middle)
    return high
