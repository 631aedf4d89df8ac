"""Faults of chains: one that does not come as far as its tip is."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from hame.edits.pose import SetPose
from hame.faults.fault import Alert, Fault
from hame.faults.look import Look
from hame.measure.found import runs

SHORT = 0.001  # metres: less is not seen


class ChainShort(Fault):
    """A chain that reaches for its tip by IK, and does not come as far."""

    kind = "chain"
    group = "contacts"

    def found(self, look: Look) -> Iterator[Alert]:
        rig, nodes, values = look.rig, look.posed.nodes, look.posed.values
        for chain in rig.chains:
            short = np.linalg.norm(nodes[:, chain.reached, :3] - nodes[:, chain.tip, :3], axis=1)
            short = np.where(values[:, rig.number(chain.switch)] > 0.5, short, 0.0)
            for a, b in runs(short > SHORT):
                worst = a + int(np.argmax(short[a : b + 1]))
                much, frame = float(short[worst]), look.first + worst
                alert = Alert(
                    self.kind, chain.ik, look.first + a, look.first + b, frame, much,
                    f"{chain.label} is {1000 * much:.0f} mm short of its tip",
                )  # fmt: skip
                longer = SetPose(frame=frame, values={f"{chain.name}/reach": 1.0}, what="Stretch to reach")
                yield alert.mended(longer, f"let it stretch to reach at {frame}")
