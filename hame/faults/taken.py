"""Faults of what was taken as keys: a motion that was changed under them since."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from hame.edits.springs import SpringKeys
from hame.evaluate.springs.taken import since, taken_in
from hame.faults.fault import Alert, Fault
from hame.faults.look import Look


class Older(Fault):
    """A spring that was taken as keys, while what carries it goes otherwise since."""

    kind = "older"
    group = "paths"

    def found(self, look: Look) -> Iterator[Alert]:
        for about, span, row in taken_in(look.rig, look.clip):
            now = since(span, look.posed.nodes[:, row.carrier], look.first)
            if now is None or not now.seen:
                continue
            name = look.rig.control(about).label
            yield Alert(
                self.kind, about, max(span.start, look.first), min(span.end, look.last), now.frame, now.metres,
                f"{name}: its keys are older than the motion, which goes by {1000 * now.metres:.0f} mm and "
                f"{np.degrees(now.radians):.0f}\N{DEGREE SIGN} otherwise since",
            ).mended(SpringKeys(control=about, at=span.start), "take its keys anew")  # fmt: skip
