"""Belonging: a kind of span. Frames in which a control is carried by another one, of whoever in the cast."""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import Any, ClassVar, Literal, Self, get_args

from hame.clip.plants import MOST_EASED
from hame.clip.spans import OWN, Span, owner_read
from hame.errors import BadEdit

Ties = Literal["both", "place", "turn"]
TIES: tuple[Ties, ...] = get_args(Ties)


@dataclass(frozen=True)
class Belonging(Span):
    """Frames in which a control moves along with something.

    At the first of them it stays where it was before, and at the last one where it is then: how owner and control lie
    to each other is not stored, it follows from the motion at that frame. Its own keys go on undisturbed.

    Attributes
    ----------
    figure, to : its owner, a control of one of the cast (OWN: the figure itself); no ``to`` is the world
    ties : whether place, turn, or both are carried
    weight : how much, from 0 to 1
    ease_in, ease_out : frames over which the weight rises from the start and falls towards the end; where it falls,
        the control goes back to where its keys put it, and without, it stays
    """

    figure: int = OWN
    to: str = ""
    ties: Ties = "both"
    weight: float = 1.0
    ease_in: int = 0
    ease_out: int = 0

    kind: ClassVar[str] = "belonging"
    stays: ClassVar[bool] = True
    stage: ClassVar[str] = "ties"

    @property
    def figure_read(self) -> int:
        return self.figure

    def reach(self) -> tuple[int, int | None]:
        return self.start, self.end if self.ease_out else None  # what stays where it is let go, stays for good

    def copied(self, by: int) -> None:
        return None  # a copied pose is what it looks like; who carries whom is set where it happens

    def numbers(self) -> Iterable[tuple[str, float, str]]:
        eased = [("the easing of a belonging", float(frames), "") for frames in (self.ease_in, self.ease_out)]
        return [("the weight of a belonging", self.weight, ""), *eased]

    @classmethod
    def read(cls, data: Mapping[str, Any]) -> Self:
        span = super().read(owner_read(data, "to"))
        if span.ties not in TIES:
            raise BadEdit(f"a belonging ties {', '.join(TIES[1:])} or {TIES[0]}, not {span.ties}")
        if not math.isfinite(span.weight) or not 0.0 <= span.weight <= 1.0:
            raise BadEdit(f"the weight of a belonging is a number from 0 to 1, not {span.weight}")
        for frames in (span.ease_in, span.ease_out):
            if isinstance(frames, bool) or not isinstance(frames, int) or not 0 <= frames <= MOST_EASED:
                raise BadEdit(f"a belonging is eased over 0 to {MOST_EASED} frames, not {frames!r}")
        return span
