"""What happens to a body that it can answer: it takes off, lands, puts a foot down, stops, lets something go."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from hame.character.rig import Rig
from hame.maths import rotations
from hame.maths.rotations import Array
from hame.measure.balance import Balance
from hame.measure.flights import Flight
from hame.measure.found import Bools, runs
from hame.measure.loads import Load

What = Literal["take-off", "landing", "foot down", "stop", "letting go"]
MOVES, STILL, WITHIN = 0.5, 0.15, 8
"""Metres a second that a mass goes at least before it stops and at most after, and frames in which it does."""
SETTLED = 4  # frames after a landing on which its mass goes as it goes on
SHORT = 2  # frames that a foot may be up without having left


@dataclass(frozen=True)
class Happening:
    """Something that happens at a frame.

    Attributes
    ----------
    control : the IK control of the foot that comes down, else nothing
    speed : metres a second with which it happens: of the mass, up at a take-off and down at a landing, of the foot, or
        of what is let go
    lost : metres a second of its speed that the mass loses there, along x, y and z of the figure
    """

    what: What
    frame: int
    control: str
    speed: float
    lost: tuple[float, float, float] = (0.0, 0.0, 0.0)


def happenings(
    rig: Rig, nodes: Array, stands: Sequence[Balance], flights: Sequence[Flight], loads: Sequence[Load], first: int,
    fps: float,
) -> list[Happening]:  # fmt: skip
    """What happens to a body on frames that follow each other, in the order of time; what a flight has is its own."""
    centres = np.array([stand.centre for stand in stands])
    found = []
    for flight in flights:
        up = fps * float(centres[flight.release - first + 1, 1] - centres[flight.release - first, 1])
        down = fps * float(centres[flight.landing - first - 1, 1] - centres[flight.landing - first, 1])
        lost = _lost(rig, nodes, centres, flight.landing - first, flight.landing - first, fps)
        found += [Happening("take-off", flight.release, "", up), Happening("landing", flight.landing, "", down, lost)]
    landings = {flight.landing for flight in flights}
    for limb in rig.limbs:
        if limb.kind != "leg":
            continue
        bears = _closed(np.array([limb.ik in stand.bearing for stand in stands], np.bool_))
        for n in (1 + np.flatnonzero(bears[1:] & ~bears[:-1])).tolist():
            if first + n not in landings:
                speed = fps * float(np.linalg.norm(nodes[n, limb.end, :3] - nodes[n - 1, limb.end, :3]))
                found.append(Happening("foot down", first + n, limb.ik, speed))
    for n, fast, at in _stops(centres, fps):
        found.append(Happening("stop", first + n, "", fast, _lost(rig, nodes, centres, at, n, fps)))
    for load in loads:
        held = load.kilograms > 0.0
        for n in (1 + np.flatnonzero(held[:-1] & ~held[1:])).tolist():
            place = load.nodes[:, load.rig.controls[0].node, :3]
            found.append(Happening("letting go", first + n, "", fps * float(np.linalg.norm(place[n] - place[n - 1]))))
    return sorted(found, key=lambda one: (one.frame, one.what, one.control))


def _lost(
    rig: Rig, nodes: Array, centres: Array, before: int, after: int, fps: float
) -> tuple[float, float, float]:  # fmt: skip
    """What of its speed a mass (F, 3) has on its way to a frame, and not any more some frames after another one."""
    last = min(after + SETTLED, len(centres) - 1)
    came = centres[before] - centres[max(before - 1, 0)]
    goes = centres[last] - centres[max(last - 1, 0)]
    body = next((control for control in rig.controls if control.kind == "body"), None)
    axes = nodes[after, body.frame, 3:7] if body is not None else rotations.IDENTITY
    x, y, z = (fps * rotations.rotate(rotations.inverse(axes), came - goes)).tolist()
    return x, y, z


def _closed(bears: Bools) -> Bools:
    """Where something bears, with gaps of a frame or two closed: a heel that gives is not put down again."""
    closed = bears.copy()
    for a, b in runs(~bears):
        if a > 0 and b < len(bears) - 1 and b - a + 1 <= SHORT:
            closed[a : b + 1] = True
    return closed


def _stops(centres: Array, fps: float) -> list[tuple[int, float, int]]:
    """Where a mass (F, 3) comes to rest along the ground, counted from the first frame, how fast it was, and where."""
    speed = np.linalg.norm(np.diff(centres[:, [0, 2]], axis=0), axis=1) * fps
    found = []
    for n in (1 + np.flatnonzero((speed[1:] <= STILL) & (speed[:-1] > STILL))).tolist():
        before = float(speed[max(n - WITHIN, 0) : n].max())
        if before >= MOVES and (speed[n : n + WITHIN] <= STILL).all():
            found.append((n, before, max(n - WITHIN, 0) + int(speed[max(n - WITHIN, 0) : n].argmax()) + 1))
    return found
