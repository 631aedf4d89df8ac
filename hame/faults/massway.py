"""Faults of the way of the mass: its corners and jerks, where something bears it."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from hame.edits.massway import RoundMass
from hame.faults.fault import Alert
from hame.faults.look import Look
from hame.faults.weight import WeightFault
from hame.maths.rotations import Array
from hame.measure import paths

BESIDE = 6  # frames on both sides over which a corner is rounded


def _way(look: Look) -> tuple[Array, Array]:
    """The way (F, 3) of the mass, and on which frames (F,) something bears it, with those beside."""
    way = np.array([stand.centre for stand in look.stands])
    borne = np.array([bool(stand.bearing) for stand in look.stands])
    inner = borne.copy()
    inner[1:] &= borne[:-1]
    inner[:-1] &= borne[1:]
    return way, inner


class MassCorner(WeightFault):
    """The mass goes round a corner: as a whole it cannot."""

    kind = "mass corner"

    def of_body(self, look: Look) -> Iterator[Alert]:
        way, borne = _way(look)
        for n, angle in paths.corners(way, look.rig.size):
            if borne[n]:
                frame = look.first + n
                first, last = max(frame - BESIDE, look.first), min(frame + BESIDE, look.last)
                said = f"its mass: the way has a corner of {paths.angle_said(angle)}"
                yield Alert(
                    self.kind, "body", frame, frame, frame, angle, said, RoundMass(first=first, last=last),
                    "round it by the body; plants stay",
                )  # fmt: skip


class MassJerk(WeightFault):
    """The mass is jerked along, by how many times the jerk of the smoothest such move."""

    kind = "mass jerk"

    def of_body(self, look: Look) -> Iterator[Alert]:
        way, borne = _way(look)
        for a, b in paths.moves_of(way, look.rig.size):
            times, at = paths.jerks(way[a : b + 1])
            gone = float(np.linalg.norm(np.diff(way[a : b + 1], axis=0), axis=1).sum())
            if times > paths.JERKY and gone > 0.05 * look.rig.size and b - a >= 6 and borne[a + at]:
                frame = look.first + a + at
                said = f"its mass: a jerk {times:.0f} times that of the smoothest such move"
                first, last = max(frame - BESIDE, look.first + a), min(frame + BESIDE, look.first + b)
                alert = Alert(self.kind, "body", look.first + a, look.first + b, frame, times, said)
                if last - first >= 4:
                    alert = alert.mended(RoundMass(first=first, last=last), "round it by the body; plants stay")
                yield alert
