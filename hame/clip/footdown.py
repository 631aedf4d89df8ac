"""Foot down: a kind of span. A foot that comes down on its heel and slaps flat, and the body that goes along."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from math import pi
from typing import Any, ClassVar, Self

import numpy as np

from hame.clip.answers import Answer, refuse_part_frames
from hame.clip.key import Array
from hame.errors import BadEdit


@dataclass(frozen=True)
class FootDown(Answer):
    """A foot's heel comes down at the event, its toes so many frames later; body, head and hands dip and come back.

    Attributes
    ----------
    lead : frames before the event in which the toes come up
    flat : frames after the event on which the sole lies flat
    drop : metres that body and hands dip, at most ``there`` frames after the event; ``back`` frames later it is over
    nod : radians that the head nods with it
    toes : radians that the toes are up as the heel comes down, more than they are keyed
    """

    there: int = 2
    back: int = 4
    lead: int = 3
    flat: int = 2
    drop: float = 0.0
    nod: float = 0.0
    toes: float = 0.0

    kind: ClassVar[str] = "foot down"

    @property
    def counts(self) -> bool:
        return not self.muted

    @property
    def event(self) -> int:
        return min(self.start + self.lead, self.end - 1)

    def dips(self, times: Array) -> Array:
        """How much of the dip there is at times (T,): it is deepest ``there`` frames after the event."""
        after = np.asarray(times, float) - self.event
        down = np.sin(0.5 * pi * np.clip(after / self.there, 0.0, 1.0))
        up = 0.5 + 0.5 * np.cos(pi * np.clip((after - self.there) / self.back, 0.0, 1.0))
        return np.asarray(np.where(after >= 0.0, down * up, 0.0))

    def slapped(self, times: Array, roll: Array) -> Array:
        """What is added to a roll (T,) that is below 0 back on the heel, radians, at times (T,) inside of it.

        Toes come up ahead of the event, go down ever faster after it, and stay down; what is keyed back on the heel
        later comes again with its last frames.
        """
        times = np.asarray(times, float)
        lead = max(self.event - self.start, 1)
        up = np.clip((times - self.start) / lead, 0.0, 1.0)
        up = up * up * (3.0 - 2.0 * up)
        left = np.cos(0.5 * pi * np.clip((times - self.event) / self.flat, 0.0, 1.0))
        keyed = np.minimum(roll, 0.0)
        rest = max(self.end - self.event - self.flat, 1)
        again = np.clip((times - self.event - self.flat) / rest, 0.0, 1.0)
        flat = keyed * left + keyed * (1.0 - left) * again * again * (3.0 - 2.0 * again) - keyed
        return np.asarray(np.where(times <= self.event, 0.0, flat) - self.toes * up * left)

    def numbers(self) -> Iterable[tuple[str, float, str]]:
        return [("a foot down", self.drop, "m"), *(("a foot down", turn, "rad") for turn in (self.nod, self.toes))]

    @classmethod
    def read(cls, data: Mapping[str, Any]) -> Self:
        span = super().read(data)
        refuse_part_frames(span.word, span.lead, span.flat)
        if not 0.0 <= span.toes <= 1.1:
            raise BadEdit("toes come up by 60° at most")
        return span
