"""Whether a loop closes: values and slopes of every channel at its first and last frame."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from hame.character.rig import Rig
from hame.clip.clip import Clip
from hame.clip.curve import whole_frame
from hame.clip.cycle import played_curves
from hame.clip.sampling import sample, tabulate
from hame.errors import BadEdit

_STEP = 1.0 / 64.0  # frames: how far from the seam slopes are taken
VALUE_SLACK, SLOPE_SLACK = 1e-6, 1e-4


@dataclass(frozen=True)
class Join:
    """A channel that does not close. Values in its unit, slopes in its unit a frame."""

    address: str
    first: float
    last: float
    slope_out: float
    slope_in: float

    @property
    def jumps(self) -> bool:
        """Whether the values differ, not only the slopes."""
        return abs(self.first - self.last) > VALUE_SLACK


def seam(clip: Clip, rig: Rig, start: int, end: int) -> list[Join]:
    """Every channel whose first and last value or slope differ, in the rig's order.

    The steady way of a travelling master is not a difference.
    """
    start, end = whole_frame(start), whole_frame(end)
    if end <= start:
        raise BadEdit(f"a loop from {start} to {end} has no length")
    frames = np.array([start, start + _STEP, end - _STEP, end], float)
    values = sample(tabulate(played_curves(clip, rig), rig.addresses, rig.rest), frames)
    out = (values[1] - values[0]) / _STEP
    into = (values[3] - values[2]) / _STEP
    travel = np.zeros(len(rig.channels))
    if clip.cycle is not None:
        for name, way in zip(("tx", "tz"), clip.cycle.travel, strict=True):
            travel[rig.number(f"{rig.controls[0].name}/{name}")] = way * (end - start) / clip.cycle.length
    # A slope is read off a curve over a small step: its bend there is allowed for.
    bend = SLOPE_SLACK + 0.02 * np.maximum(np.abs(out), np.abs(into))
    wrong = (np.abs(values[3] - travel - values[0]) > VALUE_SLACK) | (np.abs(out - into) > bend)
    return [
        Join(rig.addresses[c], float(values[0, c]), float(values[3, c]), float(out[c]), float(into[c]))
        for c in np.flatnonzero(wrong)
    ]
