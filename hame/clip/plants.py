"""The plant: a kind of span. Frames in which a foot or a hand keeps its place in the world, or on a thing."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import Any, ClassVar, Self

from hame.clip.spans import OWN, Carrying, Reach, Span, owner_read
from hame.errors import BadEdit

MOST_EASED = 1000  # frames


@dataclass(frozen=True)
class Plant(Span):
    """Frames in which the end of a limb stays where it is at the first of them.

    Nothing is stored of the place: it follows from the keys that bring the limb to it, so the two can never disagree.

    Attributes
    ----------
    about : the point about which the limb may turn while it is planted (``heel``, ``ball``, ``tip``, ``palm``);
        empty where its turn stays as well
    release : frames after the end in which the limb comes back to its own keys; 0 is up to its next key
    land : frames before the start over which it slows down to come to rest without a knock
    figure, thing : what it is planted on, a control of one of the cast (OWN: the figure itself); no ``thing`` is the
        world
    """

    about: str = ""
    release: int = 0
    land: int = 0
    figure: int = OWN
    thing: str = ""

    kind: ClassVar[str] = "plant"
    stage: ClassVar[str] = "ties"

    @property
    def figure_read(self) -> int:
        return self.figure

    def reach(self) -> Reach:
        return self.start - self.land, self.end  # and as long as the release takes: hame.evaluate.ties knows

    def carried_to(self, carrying: Carrying) -> Self | None:
        # What it stands on stands where the other figure is; in place, feet that were to stay would be glued.
        return None if self.thing or carrying.in_place else self

    def numbers(self) -> Iterable[tuple[str, float, str]]:
        return [("the release of a plant", float(self.release), ""), ("the landing of a plant", float(self.land), "")]

    @classmethod
    def read(cls, data: Mapping[str, Any]) -> Self:
        span = super().read(owner_read(data, "thing"))
        for frames in (span.release, span.land):
            if isinstance(frames, bool) or not isinstance(frames, int) or not 0 <= frames <= MOST_EASED:
                raise BadEdit(f"a plant is eased over 0 to {MOST_EASED} frames, not {frames!r}")
        return span
