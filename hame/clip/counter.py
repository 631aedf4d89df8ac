"""Counter: a kind of span. Trunk and arms that lean against what would let a body fall."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from math import pi
from typing import Any, ClassVar, Self

import numpy as np

from hame.clip.answers import refuse_part_frames
from hame.clip.key import Array
from hame.clip.rule import Rule

_OTHER_SIDE = np.array([1.0, -1.0, 1.0, -1.0])


@dataclass(frozen=True)
class Counter(Rule):
    """A lean that comes over its first frames, stays, and goes over its last.

    Attributes
    ----------
    there, back : frames in which it comes and goes
    nod, tilt : radians about x and z of the figure that the top of the trunk leans by, each link below by less
    arms_nod, arms_tilt : radians that the arms turn by besides
    moving : it was found for the body in motion, not as if it stood still
    """

    there: int = 4
    back: int = 6
    nod: float = 0.0
    tilt: float = 0.0
    arms_nod: float = 0.0
    arms_tilt: float = 0.0
    moving: bool = False

    kind: ClassVar[str] = "counter"
    of_controls: ClassVar[bool] = False

    @property
    def leans(self) -> Array:
        """Nod and tilt of the trunk, and of the arms (4,), radians."""
        leans = np.array([self.nod, self.tilt, self.arms_nod, self.arms_tilt])
        return leans * _OTHER_SIDE if self.flipped else leans

    @property
    def counts(self) -> bool:
        return not self.muted and bool(np.abs(self.leans).max() > 0.0)

    def comes(self, times: Array) -> Array:
        """How much of it there is at times (T,)."""
        times = np.asarray(times, float)
        up = np.clip((times - self.start) / self.there, 0.0, 1.0)
        down = np.clip((self.end - times) / self.back, 0.0, 1.0)
        return np.asarray((0.5 - 0.5 * np.cos(pi * up)) * (0.5 - 0.5 * np.cos(pi * down)))

    def mirrored(self) -> Self:
        return replace(self, flipped=not self.flipped)

    def numbers(self) -> Iterable[tuple[str, float, str]]:
        return [("a counter", lean, "rad") for lean in (self.nod, self.tilt, self.arms_nod, self.arms_tilt)]

    @classmethod
    def read(cls, data: Mapping[str, Any]) -> Self:
        span = super().read(data)
        refuse_part_frames(span.word, span.there, span.back)
        return span
