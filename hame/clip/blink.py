"""The blink: a kind of span. Both eyes shut and opened again, one a hair after the other."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from typing import Any, ClassVar, Self

import numpy as np

from hame.clip.key import Array
from hame.clip.rule import Rule
from hame.errors import BadEdit

_CLOSING = 0.4  # of a blink: lids fall faster than they rise (common practice, no source)
APART = 0.35  # frames by which one eye is later
SHORTEST, LONGEST = 2, 24  # frames


@dataclass(frozen=True)
class Blink(Rule):
    """Lids that shut and open again within some frames, whatever they are keyed to.

    Attributes
    ----------
    shut, amounts : channels of the face, by address, and what each is when the eyes are shut; empty where the rig tells
        (see :func:`hame.evaluate.blink.shut_of`)
    """

    shut: tuple[str, ...] = ()
    amounts: tuple[float, ...] = ()

    kind: ClassVar[str] = "blink"
    of_controls: ClassVar[bool] = False

    def closed(self, times: Array, late: bool) -> Array:
        """How far shut an eye is (T,), from 0 to 1: nothing on the first frame and on the last."""
        length = max(self.end - self.start, 1)
        share = np.clip((np.asarray(times, float) - self.start - (APART if late else 0.0)) / (length - APART), 0.0, 1.0)
        way = np.where(share < _CLOSING, share / _CLOSING, (1.0 - share) / (1.0 - _CLOSING))
        return np.asarray(np.sin(0.5 * np.pi * np.clip(way, 0.0, 1.0)))

    def mirrored(self) -> Self:
        return replace(self, flipped=not self.flipped)

    def numbers(self) -> Iterable[tuple[str, float, str]]:
        return [("what a face is with shut eyes", amount, "") for amount in self.amounts]

    @classmethod
    def read(cls, data: Mapping[str, Any]) -> Self:
        span = super().read({**data, **{name: tuple(data.get(name, ())) for name in ("shut", "amounts")}})
        plain = all(isinstance(n, int | float) and not isinstance(n, bool) for n in span.amounts)
        if len(span.shut) != len(span.amounts) or not plain or not all(isinstance(a, str) for a in span.shut):
            raise BadEdit("a blink has addresses of channels, and as many numbers")
        return span


def blinks_of(clip: Any) -> tuple[Blink, ...]:
    """The blinks of a clip, in the order of time."""
    spans: tuple[Blink, ...] = clip.tracks.get(Blink.kind, ())
    return spans
