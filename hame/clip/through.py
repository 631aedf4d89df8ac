"""Carry-through: a kind of span. What a body carries goes on as it stops or lands, late, and swings back."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from math import atan, exp, log, pi, sin
from typing import Any, ClassVar, Self

import numpy as np

from hame.clip.answers import Answering
from hame.clip.key import Array
from hame.errors import BadEdit

MOST_LATE, MOST_OVER = 6.0, 0.9  # frames a link; of a swing, how much the next one has at most
_LEAST = 0.05  # of a swing: one that goes on by less than this just comes back


@dataclass(frozen=True)
class CarryThrough(Answering):
    """All above the hips goes on in the way it went, link after link, comes back past where it stood, and rests.

    Each swing is a half wave of a damped sine, so that each is the same share of the one before.

    Attributes
    ----------
    late : frames that a link gets it after the one that carries it
    overshoot : how far it swings past where it comes to rest, as a share of how far it went on
    times : how often it swings past that, once or twice
    nod, twist, tilt : radians about x, y and z of the figure that the first link turns by, at most
    factor : what is left of it from one link to the next
    """

    late: float = 1.5
    overshoot: float = 0.3
    times: int = 1
    nod: float = 0.0
    twist: float = 0.0
    tilt: float = 0.0
    factor: float = 1.0

    kind: ClassVar[str] = "carry-through"
    of_controls: ClassVar[bool] = False

    @property
    def counts(self) -> bool:
        return not self.muted and any((self.nod, self.twist, self.tilt))

    @property
    def sizes(self) -> Array:
        """Radians about x, y and z of the figure (3,)."""
        other = -1.0 if self.flipped else 1.0
        return np.array([self.nod, other * self.twist, other * self.tilt])

    def swings(self, times: Array, late: float = 0.0) -> Array:
        """How much of it there is at times (T,): 1 at most. What begins ``late`` is over with the others."""
        share = max(self.overshoot, _LEAST)
        count = 1 + self.times if self.overshoot >= _LEAST else 1
        length = max(self.end - self.start - late, 1.0)
        half = length / count
        dies = -log(share) / half
        first = half / pi * atan(pi / (dies * half))
        after = np.asarray(times, float) - self.start - late
        inside = np.clip(after, 0.0, length)
        wave = np.exp(-dies * inside) * np.sin(pi * inside / half) / (exp(-dies * first) * sin(pi * first / half))
        # From its last extreme on it comes to rest instead of going through.
        last = (count - 1) * half + first
        rest = (-share) ** (count - 1) * (0.5 + 0.5 * np.cos(pi * np.clip((inside - last) / (length - last), 0.0, 1.0)))
        return np.where((after >= 0.0) & (after <= length), np.where(inside < last, wave, rest), 0.0)

    def turned(self, times: Array, distances: Sequence[int]) -> Array:
        """How links (L, T, 3) turn as a whole that are so many above the hips, radians; the hips themselves do not."""
        shares = [
            (self.factor ** (distance - 1) if distance else 0.0)
            * self.swings(times, min(self.late * max(distance - 1, 0), 0.5 * (self.end - self.start)))
            for distance in distances
        ]
        return np.multiply.outer(np.array(shares), self.sizes)

    def mirrored(self) -> Self:
        return replace(self, flipped=not self.flipped)

    def numbers(self) -> Iterable[tuple[str, float, str]]:
        what = "a carry-through"
        return [
            *((what, turn, "rad") for turn in (self.nod, self.twist, self.tilt)),
            *((what, share, "") for share in (self.late, self.overshoot, float(self.times), self.factor)),
        ]

    @classmethod
    def read(cls, data: Mapping[str, Any]) -> Self:
        span = super().read(data)
        if isinstance(span.times, bool) or span.times not in (1, 2):
            raise BadEdit("a carry-through swings past where it rests once or twice")
        if not (0.0 <= span.late <= MOST_LATE and 0.0 <= span.overshoot <= MOST_OVER and 0.0 <= span.factor <= 1.5):
            raise BadEdit("a carry-through is up to 6 frames late a link, and swings on by up to 90 %")
        return span
