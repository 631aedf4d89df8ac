"""Whether a loop closes: values and slopes of every channel at its first and last frame."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from hame.character.rig import Rig
from hame.clip.clip import Clip
from hame.clip.cycle import TRAVELLING
from hame.clip.cycles import cycle_at
from hame.clip.key import FRAME, LINEAR, SHAPE, whole_frame
from hame.clip.played import played_curves
from hame.clip.sampling import sample, tabulate
from hame.errors import BadEdit

_STEP = 1.0 / 1024.0  # frames: how far from the seam slopes are taken
VALUE_SLACK, SLOPE_SLACK = 1e-6, 1e-5
TRAVELS = 0.01  # metres: a master that is so far off at the end of a loop is on its way somewhere


@dataclass(frozen=True)
class Join:
    """A channel that does not close. Values in its unit, slopes in its unit a frame; ``gap`` leaves travel out.

    ``travels``: it is the place of the master over the ground, which goes somewhere and need not close.
    """

    address: str
    first: float
    last: float
    gap: float
    slope_out: float
    slope_in: float
    travels: bool = False

    @property
    def jumps(self) -> bool:
        """Whether the values differ, not only the slopes."""
        return abs(self.gap) > VALUE_SLACK

    @property
    def corner(self) -> float:
        """How much the slope changes over the seam, in the unit a frame."""
        return self.slope_out - self.slope_in


def seam(clip: Clip, rig: Rig, start: int, end: int) -> list[Join]:
    """Every channel whose first and last value or slope differ, in the rig's order.

    The steady way of a travelling master is not a difference.
    """
    start, end = whole_frame(start), whole_frame(end)
    if end <= start:
        raise BadEdit(f"a loop from {start} to {end} has no length")
    frames = np.array([start, start + _STEP, start + 2 * _STEP, end - 2 * _STEP, end - _STEP, end], float)
    values = np.concatenate([
        sample(tabulate(played_curves(clip, rig, part[0], part[-1]), rig.addresses, rig.rest), part)
        for part in (frames[:3], frames[3:])
    ])  # fmt: skip
    # One-sided differences of the second order: exact for a parabola.
    out = (-3 * values[0] + 4 * values[1] - values[2]) / (2 * _STEP)
    into = (3 * values[5] - 4 * values[4] + values[3]) / (2 * _STEP)
    # A held pose jumps as the seam is reached; up to there it stands still.
    into[(values[3] == values[4]) & (values[4] != values[5])] = 0.0
    travel = np.zeros(len(rig.channels))
    cycle = cycle_at(clip, start)
    if cycle is not None:
        for name, way in zip(TRAVELLING, cycle.travel, strict=True):
            travel[rig.number(f"{rig.controls[0].name}/{name}")] = way * (end - start) / cycle.length
    differ = np.abs(out - into) > SLOPE_SLACK + 1e-3 * np.maximum(np.abs(out), np.abs(into))
    if cycle is not None and cycle.start <= start and end <= cycle.until:
        # In a cycle a corner at the seam is one at every repeat: a straight way that was meant, as of a foot that
        # lands.
        differ &= ~_straight(clip, rig, start, end)
    gaps = values[5] - travel - values[0]
    goes = {f"{rig.controls[0].name}/{name}" for name in TRAVELLING}
    wrong = (np.abs(gaps) > VALUE_SLACK) | differ
    return [
        Join(
            rig.addresses[c], float(values[0, c]), float(values[5, c]), float(gaps[c]), float(out[c]), float(into[c]),
            rig.addresses[c] in goes and abs(float(gaps[c])) > TRAVELS,
        )
        for c in np.flatnonzero(wrong)
    ]  # fmt: skip


def _straight(clip: Clip, rig: Rig, start: int, end: int) -> npt.NDArray[np.bool_]:
    """Channels (C,) that leave ``start`` or come to ``end`` on a straight way."""
    found = np.zeros(len(rig.channels), bool)
    for frame, side in ((start, "right"), (end, "left")):
        for address, curve in played_curves(clip, rig, frame, frame).items():
            if rig.has_channel(address):
                at = max(int(np.searchsorted(curve.table[:, FRAME], frame, side=side)) - 1, 0)  # type: ignore[call-overload]
                found[rig.number(address)] |= curve.table[at, SHAPE] == LINEAR
    return found
