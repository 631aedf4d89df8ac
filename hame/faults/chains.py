"""Faults of chains: one that does not come as far as its tip is."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from hame.edits.pose import SetPose
from hame.faults.fault import Alert, Fault
from hame.faults.look import Look
from hame.maths import rotations
from hame.measure.found import runs
from hame.program import CHAIN, CHAIN_STEP, CHANNEL, CODE, FLAG, OUT, A, B

SHORT = 0.001  # metres: less is not seen


class ChainShort(Fault):
    """A chain that reaches for its tip by IK, and does not come as far."""

    kind = "chain"
    group = "contacts"

    def found(self, look: Look) -> Iterator[Alert]:
        rig, nodes, values = look.rig, look.posed.nodes, look.posed.values
        for op in rig.program.ops[rig.program.ops[:, CODE] == CHAIN]:
            channel = rig.channels[int(op[CHANNEL])]
            plain, end = nodes[:, int(op[A]) - 1], nodes[:, int(op[A])]  # how its last joint and its end are bent
            last = nodes[:, int(op[OUT]) + int(op[FLAG]) - 1]
            bone = rotations.rotate(rotations.inverse(plain[:, 3:7]), end[:, :3] - plain[:, :3])
            # Where it stretches to reach, its last bone is as much longer as the one before it.
            before = (nodes[:, int(op[OUT]) + int(op[FLAG]) - 2, :3], nodes[:, int(op[A]) - 1 - CHAIN_STEP, :3])
            now, then = (np.linalg.norm(a[:, :3] - b, axis=1) for a, b in zip((last, plain), before, strict=True))
            bone = bone * (now / np.maximum(then, 1e-9))[:, None]
            there = last[:, :3] + rotations.rotate(last[:, 3:7], bone)
            short = np.linalg.norm(there - nodes[:, int(op[B]), :3], axis=1)
            short = np.where(values[:, int(op[CHANNEL])] > 0.5, short, 0.0)
            name = rig.control(channel.control).label.removesuffix(", all of it")
            for a, b in runs(short > SHORT):
                worst = a + int(np.argmax(short[a : b + 1]))
                much, frame = float(short[worst]), look.first + worst
                alert = Alert(
                    self.kind, f"{channel.control}.tip", look.first + a, look.first + b, frame, much,
                    f"{name} is {1000 * much:.0f} mm short of its tip",
                )  # fmt: skip
                longer = SetPose(frame=frame, values={f"{channel.control}/reach": 1.0}, what="Stretch to reach")
                yield alert.mended(longer, f"let it stretch to reach at {frame}")
