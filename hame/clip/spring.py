"""The spring: a kind of span. What hangs on a body (a tail, a scarf, an ear) and swings after it."""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, fields, replace
from typing import Any, ClassVar, Self

import numpy as np

from hame.clip.spans import Carrying, Reach, Span, Warp
from hame.errors import BadEdit

LONGEST = 1000.0  # frames
MOST_EASED = 500


@dataclass(frozen=True)
class Spring(Span):
    """Frames in which a row of joints swings about how it is keyed. Its track names the control of the row.

    Where it is on a frame follows from all frames from its first on, on which it hangs at rest and goes along with
    what carries it; so any frame alone is what it is when all are played.

    Attributes
    ----------
    period, period_tip : frames of a free swing of its first joint and of its last, by its own stiffness; those between
        have what lies between. 0 is without stiffness, as a rope
    rests, rests_tip : frames after which a swing is a twentieth of what it was
    droop : radians by which a joint that is keyed level hangs down at rest
    weight : how much of gravity pulls at it besides
    air : how much of its speed against the air it loses, each second
    wind_x, wind_z : metres a second that the air goes
    limit : radians that a joint turns from how it is keyed at most
    body, ground : whether the body and the ground keep it out
    strength : how much of it counts; 0 is as it is keyed
    ease_in, ease_out : frames over which it comes to count and ceases to
    fps : frames a second, by which weight, air and wind are of this world
    layer, taken : the layer that holds it as keys, in whose stead it does not swing, and the trace of the motion that
        it was taken from (:mod:`hame.evaluate.springs.taken`); 0 and nothing while it swings
    """

    period: float = 16.0
    period_tip: float = 16.0
    rests: float = 24.0
    rests_tip: float = 24.0
    droop: float = 0.0
    weight: float = 0.0
    air: float = 0.5
    wind_x: float = 0.0
    wind_z: float = 0.0
    limit: float = math.radians(75.0)
    body: bool = True
    ground: bool = True
    strength: float = 1.0
    ease_in: int = 0
    ease_out: int = 0
    muted: bool = False
    fps: float = 24.0
    layer: int = 0
    taken: str = ""

    told: ClassVar[tuple[str, ...]] = (
        "start", "end", "period", "period_tip", "rests", "rests_tip", "droop", "weight", "air", "wind_x", "wind_z",
        "limit", "body", "ground", "strength", "ease_in", "ease_out", "muted", "fps", "layer",
    )  # fmt: skip
    kind: ClassVar[str] = "spring"
    stage: ClassVar[str] = "spring"

    @property
    def counts(self) -> bool:
        return not self.muted and self.strength > 0.0 and not self.layer

    def reach(self) -> Reach:
        return self.start, self.end

    def moved(self, warp: Warp, whole: bool) -> tuple[Self | None, Warp]:
        """It swings as much slower as all of the motion does; where frames only come between, it swings as it did."""
        now, warp = super().moved(warp, whole)
        if now is None or not whole or self.end - self.start < 2:
            return now, warp
        at = np.linspace(self.start, self.end, 5)
        there = warp(at)
        factor = float(there[-1] - there[0]) / float(self.end - self.start)
        even = np.abs(there - np.linspace(there[0], there[-1], 5)).max() <= 0.5
        if not even or factor <= 0.0 or abs(factor - 1.0) < 1e-9:
            return now, warp
        swings = {
            name: min(getattr(self, name) * factor, LONGEST) for name in ("period", "period_tip", "rests", "rests_tip")
        }
        return replace(now, fps=self.fps * factor, **swings), warp

    def without_layer(self, number: int, merged: bool) -> Self | None:
        """It swings again where its keys are gone; where they are merged into others it has become those."""
        if self.layer != number:
            return self
        return None if merged else replace(self, layer=0, taken="")

    def carried_to(self, carrying: Carrying) -> Self:
        """It swings there: layers, and what of it was taken as keys, are not carried."""
        return replace(self, layer=0, taken="") if self.layer else self

    def copied(self, by: int) -> None:
        return None  # a copied pose is what it looks like

    def numbers(self) -> Iterable[tuple[str, float, str]]:
        units = {"droop": "rad", "limit": "rad"}
        mine = [f.name for f in fields(self) if f.type in ("float", "int") and f.name not in ("start", "end", "layer")]
        return [(f"{name} of a spring", float(getattr(self, name)), units.get(name, "")) for name in mine]

    @classmethod
    def read(cls, data: Mapping[str, Any]) -> Self:
        span = super().read(data)
        told = {f.name: getattr(span, f.name) for f in fields(cls) if f.type == "float"}
        if any(isinstance(n, bool) or not isinstance(n, int | float) or not math.isfinite(n) for n in told.values()):
            raise BadEdit("a spring has periods, a droop and so on that are numbers")
        swings = (span.period, span.period_tip, span.rests, span.rests_tip)
        if not all(0.0 <= n <= LONGEST for n in swings) or not 0.0 <= span.strength <= 1.0 or span.fps <= 0.0:
            raise BadEdit(f"a spring swings and rests within {LONGEST:g} frames, and counts from 0 to 1")
        eased = (span.ease_in, span.ease_out)
        if any(isinstance(n, bool) or not isinstance(n, int) or not 0 <= n <= MOST_EASED for n in eased):
            raise BadEdit(f"a spring is eased over 0 to {MOST_EASED} frames")
        if isinstance(span.layer, bool) or not isinstance(span.layer, int) or not isinstance(span.taken, str):
            raise BadEdit("a spring that was taken as keys has the number of their layer, and a trace")
        return span


def springs_of(clip: Any, control: str) -> tuple[Spring, ...]:
    """The springs of the row of a control, in the order of time."""
    spans: tuple[Spring, ...] = clip.tracks.get(f"{Spring.kind}/{control}", ())
    return spans
