"""The shake: a kind of span. A part of the body that is shaken by a blow, a step or an engine, and what hangs on it."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from math import pi
from typing import Any, ClassVar, Self

import numpy as np

from hame.clip.key import Array
from hame.clip.pushed import WAYS, Pushed
from hame.errors import BadEdit

# A shake is two sines, by their share of it: one that comes back in a period, and a quicker one that never meets it.
SHARES = (0.7, 0.3)
PACES = (1.0, 1.618)
_UNLIKE = (
    0.9,
    1.15,
)  # how much faster or slower one way swings than another, so that it goes round and not along a line


@dataclass(frozen=True)
class Shake(Pushed):
    """A control that is shaken over some frames, from its first, and falls off in time and along the body.

    It goes to and fro as far as it is pushed. All of it is in closed form, so that any frame alone is what it is when
    played.

    Attributes
    ----------
    period : frames of one swing
    half : frames after which it is half as much; 0 where it lasts
    seed : another one is another shake
    """

    period: float = 5.0
    half: int = 6
    seed: int = 1

    kind: ClassVar[str] = "shake"

    def waves(self, times: Array) -> tuple[Array, Array]:
        times = np.asarray(times, float)
        after = np.clip(times - self.start, 0.0, self.end - self.start)
        chance = np.random.default_rng(self.seed)
        signs = chance.choice((-1.0, 1.0), len(WAYS))
        paces = np.multiply.outer(chance.uniform(*_UNLIKE, len(WAYS)), PACES)
        waves = np.sin(2.0 * pi * np.multiply.outer(after / self.period, paces)) @ np.array(SHARES)
        moved = waves * signs * self.sizes * self.strength(times)[:, None]
        return moved[:, :3], moved[:, 3:]

    def turned(self, times: Array, distances: Sequence[int]) -> Array:
        _, turn = self.waves(times)  # every link has it at once
        return np.array([self.factor**distance * turn for distance in distances])

    def strength(self, times: Array) -> Array:
        """How much of it counts at times (T,): all at first, half after each half-life, and nothing at its end."""
        length = max(self.end - self.start, 1)
        after = np.asarray(times, float) - self.start
        inside = (after >= 0.0) & (after <= length)
        share = np.clip((length - after) / min(2.0 * self.period, length / 2.0), 0.0, 1.0)
        dies = 0.5 ** (np.clip(after, 0.0, length) / self.half) if self.half else 1.0
        return np.asarray(inside * share * share * (3.0 - 2.0 * share) * dies)

    def numbers(self) -> Iterable[tuple[str, float, str]]:
        counted = (self.period, float(self.half), float(self.seed))
        return [*super().numbers(), *(("a shake", n, "") for n in counted)]

    @classmethod
    def read(cls, data: Mapping[str, Any]) -> Self:
        span = super().read(data)
        whole = (span.half, span.seed)
        if any(isinstance(n, bool) or not isinstance(n, int) or n < 0 for n in whole):
            raise BadEdit("a shake has a half-life and a seed in whole frames")
        if not span.period > 0.0 or not 0.0 <= span.factor <= 1.0:
            raise BadEdit("a shake has a period of some frames and a factor from 0 to 1")
        return span
