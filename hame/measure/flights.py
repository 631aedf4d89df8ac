"""Flights: where nothing bears a body, and how its mass goes there."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from math import sqrt

import numpy as np

from hame.maths.rotations import Array
from hame.measure.balance import Balance
from hame.measure.dynamics import GRAVITY
from hame.measure.found import Bools, runs

SHORTEST = 3  # frames from the last on which something bears a body to the first: with fewer nothing can be told
ALIKE = 0.05  # of a speed: what is nearer is the same
_LEAST = 1e-9


@dataclass(frozen=True)
class Flight:
    """A stretch in which nothing bears a body.

    Attributes
    ----------
    release, landing : the last frame on which something bears it, and the first on which something does again
    rise : how far its mass rises above where it is released, metres
    gravity : with what share of gravity it falls
    """

    release: int
    landing: int
    rise: float
    gravity: float

    @property
    def frames(self) -> int:
        return self.landing - self.release


def airborne(stands: Sequence[Balance]) -> Bools:
    """On which frames (F,) nothing bears a body."""
    return np.array([not stand.bearing for stand in stands], np.bool_)


def gaps(flying: Bools, shortest: int = SHORTEST) -> list[tuple[int, int]]:
    """Release and landing of each flight, counted from the first frame; those at an end are not whole, and left out."""
    found = [(a - 1, b + 1) for a, b in runs(flying) if a > 0 and b < len(flying) - 1]
    return [(release, landing) for release, landing in found if landing - release >= shortest]


def flights(centres: Array, flying: Bools, first: int, fps: float, gravity: float = GRAVITY) -> list[Flight]:
    """The flights of a body whose mass goes along ``centres (F, 3)``, ``first`` the number of the first frame.

    The share of gravity is that of the parabola nearest to the heights of the mass, by least squares.
    """
    found = []
    for release, landing in gaps(flying):
        way = centres[release : landing + 1]
        times = np.arange(len(way)) / fps
        falls = -2.0 * float(np.polyfit(times, way[:, 1], 2)[0])
        rise = float(way[:, 1].max() - way[0, 1])
        found.append(Flight(first + release, first + landing, rise, falls / max(gravity, _LEAST)))
    return found


def fall(start: Array, end: Array, seconds: float, gravity: float) -> tuple[Array, Array]:
    """The velocities (3,) at both ends of a fall from one place (3,) to another in so many seconds."""
    level = (end - start) / seconds
    up = np.array([0.0, 0.5 * gravity * seconds, 0.0])
    return np.asarray(level + up), np.asarray(level - up)


@dataclass(frozen=True, eq=False)
class Beside:
    """Velocities (3,) beside a flight, metres a second: what the frames beside give, and what the flight has there.

    ``before`` is of the frame before its release and ``start`` of that, ``after`` of the one after its landing and
    ``end`` of that.
    """

    flight: Flight
    before: Array
    start: Array
    after: Array
    end: Array

    @property
    def meets(self) -> tuple[bool, bool]:
        """Whether what is given is what is had, before and after."""
        return alike(self.before, self.start), alike(self.after, self.end)

    def lacking(self) -> tuple[str, ...]:
        """What is lacking, in words."""
        before, after = self.meets
        said = []
        for well, given, wished, what, where in (
            (before, self.before, self.start, "comes to its release", self.flight.release),
            (after, self.after, self.end, "goes on from its landing", self.flight.landing),
        ):
            if not well:
                said.append(
                    f"Its mass {what} at {where} with {np.linalg.norm(given):.1f} m/s, the flight has "
                    f"{np.linalg.norm(wished):.1f} m/s there"
                )
        return tuple(said)


def alike(given: Array, wished: Array) -> bool:
    """Whether two velocities (3,) are the same but for a twentieth."""
    return bool(np.linalg.norm(given - wished) <= ALIKE * max(float(np.linalg.norm(wished)), 0.1))


def beside_flight(flight: Flight, centres: Array, gravity: float, fps: float) -> Beside:
    """The velocities beside a flight, of a mass that is at ``centres (4, 3)`` on the frame before its release, on that,
    on its landing and on the frame after.
    """
    a, b, c, d = centres
    start, end = fall(b, c, flight.frames / fps, gravity)
    return Beside(flight, (b - a) * fps, start, (d - c) * fps, end)


def parabola(start: Array, end: Array, seconds: float, times: Array, gravity: float) -> Array:
    """Where (T, 3) what falls so is at some times (T,) from its start on, seconds."""
    velocity, _ = fall(start, end, seconds, gravity)
    t = times[:, None]
    return np.asarray(start + velocity * t - np.array([0.0, 0.5 * gravity, 0.0]) * t**2)


def seconds_of(rise: float, drop: float, gravity: float) -> float:
    """How long a flight takes that rises so far above its release and lands so far below that, metres.

    Up with v = sqrt(2 g h), and down from there.

    >>> round(seconds_of(0.479, 0.0, 9.80665) * 24)
    15
    """
    return (sqrt(2.0 * max(rise, 0.0) * gravity) + sqrt(2.0 * max(rise + drop, 0.0) * gravity)) / gravity


def rise_of(seconds: float, drop: float, gravity: float) -> float:
    """How far a flight rises above its release that takes so long and lands so far below, metres; never below zero.

    >>> round(rise_of(15 / 24, 0.0, 9.80665), 3), round(rise_of(9 / 24, 0.0, 9.80665), 3)
    (0.479, 0.172)
    """
    up = 0.5 * gravity * seconds - drop / seconds
    return max(up, 0.0) ** 2 / (2.0 * gravity)
