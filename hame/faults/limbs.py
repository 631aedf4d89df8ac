"""Faults of limbs: what reaches too far, snaps, or is led from behind."""

from __future__ import annotations

from abc import abstractmethod
from collections.abc import Callable, Iterator
from math import degrees, radians

import numpy as np

from hame.edits.overrun import Fault as RunFault
from hame.edits.overrun import MendRun
from hame.evaluate.aims import aims_of
from hame.faults.fault import Alert, Fault
from hame.faults.look import LimbFrames, Look
from hame.maths.rotations import Array, angles_between
from hame.measure.found import runs
from hame.measure.reach import missing, too_short

REACH = 0.0005  # metres: less is not seen
SNAP = radians(30.0)  # how much faster than the frame before a knee or elbow may turn near its end, by frame
NEARLY = radians(25.0)  # a joint so little bent is near its end
BEHIND = radians(115.0)  # a pole so far round from where the limb bends by itself leads it no more


class LimbFault(Fault):
    """A fault that is looked for limb by limb."""

    group = "contacts"

    def concerns(self, limb: LimbFrames) -> bool:
        return True

    def found(self, look: Look) -> Iterator[Alert]:
        for limb in look.limbs:
            if self.concerns(limb):
                yield from self.of_limb(limb)

    @abstractmethod
    def of_limb(self, limb: LimbFrames) -> Iterator[Alert]:
        """The faults of one limb."""

    def each(
        self, limb: LimbFrames, amount: Array, least: float, says: Callable[[float], str], control: str = ""
    ) -> Iterator[Alert]:
        """An alert for each run of frames with more than ``least`` of ``amount (F,)``."""
        for a, b in runs(amount > least):
            worst = a + int(np.argmax(amount[a : b + 1]))
            much, first = float(amount[worst]), limb.first
            yield Alert(self.kind, control or limb.limb.ik, first + a, first + b, first + worst, much, says(much))


def over_run(alert: Alert, fault: RunFault) -> Alert | None:
    """The alert with what mends it over all of its frames; None where it is on one frame alone."""
    if alert.first == alert.last:
        return None
    control = "" if fault == "falling" else alert.control
    mend = MendRun(fault=fault, control=control, first=alert.first, last=alert.last)
    how = {"sunk": "lift it", "short": "let the body reach", "falling": "bring the weight over"}
    return alert.mended(mend, f"{how[fault]} from {alert.first} to {alert.last}, on as few frames as hold it")


class Reach(LimbFault):
    """A limb that does not come as far as it is to, in IK."""

    kind = "reach"

    def of_limb(self, limb: LimbFrames) -> Iterator[Alert]:
        nodes, one = limb.posed.nodes, limb.limb
        beyond = np.where(limb.by_ik, too_short(one, nodes, limb.held), 0.0)
        kind = "leg" if one.kind == "leg" else "arm"
        for alert in self.each(limb, beyond, REACH, lambda m: f"{one.label} {kind} is {1000 * m:.0f} mm too short"):
            at = alert.worst - limb.first
            mend = limb.pulled(alert.worst, missing(one, nodes[at : at + 1])[0], "Let the body reach")
            yield over_run(alert, "short") or alert.mended(
                mend, f"let the body reach {1000 * alert.amount:.0f} mm farther at {alert.worst}"
            )


class Snap(LimbFault):
    """A knee or an elbow that shoots into its end: fast, and nearly straight."""

    kind = "snap"

    def of_limb(self, limb: LimbFrames) -> Iterator[Alert]:
        nodes = limb.posed.nodes
        one = nodes[:, limb.limb.lower, :3] - nodes[:, limb.limb.upper, :3]
        two = nodes[:, limb.limb.end, :3] - nodes[:, limb.limb.lower, :3]
        sine, cosine = np.linalg.norm(np.cross(one, two), axis=1), (one * two).sum(axis=1)
        bend = np.arctan2(sine, cosine)
        if len(bend) < 3:
            return
        jolt = np.zeros(len(bend))
        jolt[1:-1] = np.abs(np.diff(np.diff(bend)))
        near = np.minimum(np.minimum(bend, np.roll(bend, 1)), np.roll(bend, -1)) < NEARLY
        says = lambda m: f"{limb.joint} snaps: its bend changes pace by {degrees(m):.0f}° in a frame"  # noqa: E731
        yield from self.each(limb, np.where(near, jolt, 0.0), SNAP, says)


class Pole(LimbFault):
    """An aim that has come behind the limb, where it leads it no more."""

    kind = "pole"

    def of_limb(self, limb: LimbFrames) -> Iterator[Alert]:
        nodes, one, rig = limb.posed.nodes, limb.limb, limb.posed.rig
        root, target, pole = nodes[:, one.root], nodes[:, one.target, :3], nodes[:, rig.control(one.pole).node, :3]
        own, aim = aims_of(one, root, target, pole)
        angle = np.where(limb.by_ik, angles_between(own, aim), 0.0)
        says = lambda a: f"{limb.joint} aim has come behind it ({degrees(a):.0f}°)"  # noqa: E731
        for alert in self.each(limb, angle, BEHIND, says, one.pole):
            at = alert.worst - limb.first
            size = float(np.linalg.norm(aim[at]))
            way = own[at] * max(size, one.pole_distance) - aim[at]
            mend = limb.moved(alert.worst, one.pole, way, "Bring the aim before it")
            yield alert.mended(mend, f"bring the aim before it at {alert.worst}")
