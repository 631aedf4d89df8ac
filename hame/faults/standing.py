"""Faults of what stands: a prop below the ground, a body that would fall."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

import numpy as np

from hame.edits.counter import LayCounter
from hame.edits.pose import SetPose
from hame.edits.pulled import ShiftWeight
from hame.evaluate.evaluate import evaluate
from hame.evaluate.posed import Posed
from hame.faults.fault import Alert, Fault
from hame.faults.limbs import over_run
from hame.faults.look import Look
from hame.measure.found import runs
from hame.measure.ground import lowest

UNDER = 0.002  # metres: less is not seen
HELD_STILL, SHORTEST_FALL = 0.1, 4  # metres a second, frames: a pose that is held


class Under(Fault):
    """A prop that lies below the ground: its lowest point, or where its surface is not known, its base."""

    kind = "under"
    group = "contacts"

    def found(self, look: Look) -> Iterator[Alert]:
        rig, posed, first = look.rig, look.posed, look.first
        if not rig.plan.is_prop:
            return
        mine = look.ground.of(posed)
        if mine:
            at_rest = Posed(rig, rig.rest[None], evaluate(rig, rig.rest[None]))
            height, rest = lowest(posed, mine), float(lowest(at_rest, mine)[0])
        else:
            height, rest = posed.nodes[:, rig.joint_nodes[0], 1], float(rig.skeleton.places[0, 1])
        depth = np.maximum(min(rest, 0.0) - height, 0.0)
        for a, b in runs(depth > UNDER):
            worst = a + int(np.argmax(depth[a : b + 1]))
            deep = float(depth[worst])
            up = float(posed.values[worst, rig.number("master/ty")]) + deep
            lift = SetPose(frame=first + worst, values={"master/ty": up}, what="Lift it onto the ground")
            says, mending = f"goes {1000 * deep:.0f} mm through the ground", f"lift it by {1000 * deep:.0f} mm here"
            yield Alert(self.kind, "master", first + a, first + b, first + worst, deep, says, lift, mending)


class Falls(Fault):
    """A body that is held still and would fall: its mass is beside what bears it. One that moves may be beside it, or
    that turns round as it sways from foot to foot."""

    kind = "balance"
    group = "contacts"

    def found(self, look: Look) -> Iterator[Alert]:
        first = look.first
        stands = look.stands
        if len(stands) < SHORTEST_FALL:
            return
        centres = np.array([stand.centre[[0, 2]] for stand in stands])
        pace = np.linalg.norm(np.gradient(centres, axis=0), axis=1) * look.fps
        # A hand that is planted holds: it can draw as well as press, so that nothing falls.
        outside = np.array([
            0.0 if stand.margin is None or look.hands & set(stand.bearing) else max(-stand.margin, 0.0)
            for stand in stands
        ])  # fmt: skip
        for a, b in runs((outside > look.limits.falls) & (pace < HELD_STILL)):
            worst = a + int(np.argmax(outside[a : b + 1]))
            if b - a + 1 < SHORTEST_FALL or look.on_the_spot[worst]:
                continue
            if np.nanmin(look.moving_margins[a : b + 1], initial=np.inf) > -look.limits.falls:
                continue  # it is on its way to the other side, and asks the ground for nothing that is not there
            far = float(outside[worst])
            fault = Alert(
                self.kind, "body", first + a, first + b, first + worst, far,
                f"would fall: its weight is {100 * far:.0f} cm beside what bears it", ShiftWeight(frame=first + worst),
                f"bring the weight over what bears it at {first + worst}",
            )  # fmt: skip
            lean = LayCounter(first=first + a, last=first + b), "let trunk and arms lean against it"
            yield replace(over_run(fault, "falling") or fault, others=(lean,))
