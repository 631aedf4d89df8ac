"""Faults of timing: what floats evenly, moves all at once, or falls as slowly as it rises."""

from __future__ import annotations

from abc import abstractmethod
from collections.abc import Iterator

import numpy as np

from hame.clip.cycles import cycle_at
from hame.clip.key import FRAME, STEP
from hame.clip.layers import own_curves
from hame.clip.played import played_curves
from hame.edits.columns import MoveColumns
from hame.edits.overlap import DelayParts, Trail
from hame.faults.fault import Alert, Fault
from hame.faults.look import Look
from hame.measure import paths

RISE = 0.015  # of the height: a rise that is seen
TOGETHER = 0.9  # share of the parts whose keys all lie on the same frames


class TimingFault(Fault):
    """A fault of a body's timing; a prop has none."""

    group = "paths"

    def found(self, look: Look) -> Iterator[Alert]:
        if look.parts:
            yield from self.of_body(look)

    @abstractmethod
    def of_body(self, look: Look) -> Iterator[Alert]:
        """The faults of a body."""


class Even(TimingFault):
    """Poses evenly apart in time and way: the body floats. A cycle is even on purpose."""

    kind = "even"

    def of_body(self, look: Look) -> Iterator[Alert]:
        hips, columns = look.parts[0], look.columns
        if len(columns) <= 3 or look.cycles:
            return
        path = look.posed.nodes[:, hips.node, :3]
        even = paths.evenness(path, np.array(columns) - look.first, look.rig.size)
        if even.floats:
            said = f"speeds spread by {even.speeds:.0%} and poses are {even.lengths:.0%} apart from evenly timed"
            yield Alert(
                self.kind, hips.control, columns[0], columns[-1], columns[0], even.speeds, f"floats: {said}"
            )  # fmt: skip


class Together(TimingFault):
    """All parts keyed on the same frames though nothing is stepped any more: no overlap."""

    kind = "together"

    def of_body(self, look: Look) -> Iterator[Alert]:
        rig, columns, first, last = look.rig, look.columns, look.first, look.last
        if len(columns) < 3:
            return
        parts: dict[str, set[int]] = {}
        smooth = total = 0
        for address, curve in own_curves(played_curves(look.clip, rig, first, last)).items():
            if not rig.has_channel(address):
                continue
            inside = (curve.table[:, FRAME] >= first) & (curve.table[:, FRAME] <= last)
            smooth += int((curve.shapes[inside] != STEP).sum())
            total += int(inside.sum())
            part = rig.control(rig.channels[rig.number(address)].control).part
            parts.setdefault(part, set()).update(curve.table[inside, FRAME].astype(int).tolist())
        if len(parts) < 3 or smooth < 0.9 * total:
            return
        share = sum(frames == set(columns) for frames in parts.values()) / len(parts)
        if share < TOGETHER:
            return
        chain = [Trail(tuple(limb.fk[1:2]), 1) for limb in rig.limbs if limb.kind == "arm"]
        chain += [Trail(tuple(limb.fk[2:]), 2) for limb in rig.limbs if limb.kind == "arm"]
        mend = DelayParts(chain=tuple(chain), first=first, last=last) if chain else None
        said = f"{share:.0%} of the parts are keyed on the same {len(columns)} frames: nothing leads or trails"
        found = Alert(self.kind, rig.controls[0].name, columns[0], columns[-1], columns[0], share, said)
        yield found.mended(mend, "let forearms trail by 1 frame, hands by 2")


class Alike(TimingFault):
    """A body that rises as long as it falls."""

    kind = "alike"

    def of_body(self, look: Look) -> Iterator[Alert]:
        hips, first = look.parts[0], look.first
        path = look.posed.nodes[:, hips.node, :3]
        for a, top, b in paths.rises(path[:, 1], RISE * look.rig.size):
            rise, fall, frame = top - a, b - top, first + top
            if rise != fall or rise < 4:
                continue
            # In a cycle a body vaults over one foot after the other, and rises as long as it falls.
            if cycle_at(look.clip, frame) is not None:
                continue
            # In a flight both are as long, by the way things fall. (What is told as planted includes frames beside.)
            beside = look.beside.values()
            if beside and not any(flags[max(top - 1, 0) : top + 2].all() for flags in beside):
                continue
            by = max(min((b - top) // 3, 2), 1)
            own = frame in look.columns or frame in look.clip.labels
            mend = MoveColumns(frames=(frame,), by=by) if own else None
            said = f"rise and fall are of equal length, {rise} frames each: a fall is quicker (3 to a rise of 6 to 8)"
            found = Alert(self.kind, hips.control, first + a, first + b, frame, float(rise), said)
            yield found.mended(mend, f"the top {by} frames later")
