"""The shake: a kind of span. A part of the body that is shaken by a blow, a step or an engine, and what hangs on it."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from math import pi
from typing import Any, ClassVar, Self

import numpy as np

from hame.clip.key import Array
from hame.clip.rule import Rule
from hame.errors import BadEdit

# A shake is two sines, by their share of it: one that comes back in a period, and a quicker one that never meets it.
SHARES = (0.7, 0.3)
PACES = (1.0, 1.618)
_UNLIKE = (
    0.9,
    1.15,
)  # how much faster or slower one way swings than another, so that it goes round and not along a line
WAYS = ("aside", "up", "forth", "nod", "twist", "tilt")


@dataclass(frozen=True)
class Shake(Rule):
    """A control that is shaken over some frames, from its first, and falls off in time and along the body.

    Its track names the control. All of it is in closed form, so that any frame alone is what it is when played.

    Attributes
    ----------
    aside, up, forth : metres that the place goes to and fro along x, y and z of the figure, at most
    nod, twist, tilt : radians that it turns to and fro about these, at most
    period : frames of one swing
    half : frames after which it is half as much; 0 where it lasts
    factor : what is left of it from one link of the body to the next
    seed : another one is another shake
    """

    aside: float = 0.0
    up: float = 0.0
    forth: float = 0.0
    nod: float = 0.0
    twist: float = 0.0
    tilt: float = 0.0
    period: float = 5.0
    half: int = 6
    factor: float = 0.5
    seed: int = 1

    kind: ClassVar[str] = "shake"

    @property
    def counts(self) -> bool:
        return not self.muted and any(getattr(self, way) for way in WAYS)

    def waves(self, times: Array) -> tuple[Array, Array]:
        """Where the shaken place goes (T, 3), metres, and how it turns (T, 3), vectors in radians, at times (T,)."""
        times = np.asarray(times, float)
        after = np.clip(times - self.start, 0.0, self.end - self.start)
        chance = np.random.default_rng(self.seed)
        signs = chance.choice((-1.0, 1.0), len(WAYS))
        paces = np.multiply.outer(chance.uniform(*_UNLIKE, len(WAYS)), PACES)
        waves = np.sin(2.0 * pi * np.multiply.outer(after / self.period, paces)) @ np.array(SHARES)
        moved = waves * signs * [getattr(self, way) for way in WAYS] * self.strength(times)[:, None]
        if self.flipped:
            moved *= (-1.0, 1.0, 1.0, 1.0, -1.0, -1.0)
        return moved[:, :3], moved[:, 3:]

    def strength(self, times: Array) -> Array:
        """How much of it counts at times (T,): all at first, half after each half-life, and nothing at its end."""
        length = max(self.end - self.start, 1)
        after = np.asarray(times, float) - self.start
        inside = (after >= 0.0) & (after <= length)
        share = np.clip((length - after) / min(2.0 * self.period, length / 2.0), 0.0, 1.0)
        dies = 0.5 ** (np.clip(after, 0.0, length) / self.half) if self.half else 1.0
        return np.asarray(inside * share * share * (3.0 - 2.0 * share) * dies)

    def mirrored(self) -> Self:
        return replace(self, flipped=not self.flipped)

    def numbers(self) -> Iterable[tuple[str, float, str]]:
        ways = [("a shake", getattr(self, way), "m" if n < 3 else "rad") for n, way in enumerate(WAYS)]
        counted = (self.period, float(self.half), self.factor, float(self.seed))
        return [*ways, *(("a shake", n, "") for n in counted)]

    @classmethod
    def read(cls, data: Mapping[str, Any]) -> Self:
        span = super().read(data)
        whole = (span.half, span.seed)
        if any(isinstance(n, bool) or not isinstance(n, int) or n < 0 for n in whole):
            raise BadEdit("a shake has a half-life and a seed in whole frames")
        if not span.period > 0.0 or not 0.0 <= span.factor <= 1.0:
            raise BadEdit("a shake has a period of some frames and a factor from 0 to 1")
        return span
