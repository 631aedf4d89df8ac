"""What shakes and blows share: a part that is pushed six ways, and what of it the links that follow get."""

from __future__ import annotations

from abc import abstractmethod
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from typing import Self

import numpy as np

from hame.clip.key import Array
from hame.clip.rule import Rule

WAYS = ("aside", "up", "forth", "nod", "twist", "tilt")
_OTHER_SIDE = (-1.0, 1.0, 1.0, 1.0, -1.0, -1.0)


@dataclass(frozen=True)
class Pushed(Rule):
    """A control that is pushed over some frames; its track names it.

    Attributes
    ----------
    aside, up, forth : metres that its place goes along x, y and z of the figure, at most
    nod, twist, tilt : radians that it turns about these, at most
    factor : what is left of it from one link of the body to the next
    """

    aside: float = 0.0
    up: float = 0.0
    forth: float = 0.0
    nod: float = 0.0
    twist: float = 0.0
    tilt: float = 0.0
    factor: float = 0.5

    @property
    def sizes(self) -> Array:
        """How far it goes each way (6,), left and right changed where it is flipped."""
        sizes = np.array([getattr(self, way) for way in WAYS])
        return sizes * _OTHER_SIDE if self.flipped else sizes

    @property
    def counts(self) -> bool:
        return not self.muted and any(getattr(self, way) for way in WAYS)

    @abstractmethod
    def waves(self, times: Array) -> tuple[Array, Array]:
        """Where the place goes (T, 3), metres, and how it turns (T, 3), vectors in radians, at times (T,)."""

    @abstractmethod
    def turned(self, times: Array, distances: Sequence[int]) -> Array:
        """How links (L, T, 3) turn that are so many from where it begins."""

    def mirrored(self) -> Self:
        return replace(self, flipped=not self.flipped)

    def numbers(self) -> Iterable[tuple[str, float, str]]:
        ways = [(f"a {self.kind}", getattr(self, way), "m" if n < 3 else "rad") for n, way in enumerate(WAYS)]
        return [*ways, (f"a {self.kind}", self.factor, "")]
