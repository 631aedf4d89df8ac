"""The layer: a kind of span, by which an adjustment that is laid over a motion is known."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any, ClassVar, Self

from hame.clip.spans import Reach, Span, Warp
from hame.errors import BadEdit


@dataclass(frozen=True)
class Layer(Span):
    """What a layer is called and how it counts; its frames are all there are.

    Attributes
    ----------
    place : those of lower places lie below
    muted : it does not count
    solo : of all layers only those that are solo count
    controls : what it is of; nobody is everybody
    turned : what it turns is turned as a whole (:mod:`hame.evaluate.laid`); otherwise angles are added one by one
    """

    name: str = ""
    place: int = 0
    muted: bool = False
    solo: bool = False
    controls: tuple[str, ...] = ()
    turned: bool = False

    kind: ClassVar[str] = "layer"
    of_controls: ClassVar[bool] = False
    stays: ClassVar[bool] = True
    stage: ClassVar[str] = "layers"

    def reach(self) -> Reach:
        return None, None

    def moved(self, warp: Warp, whole: bool) -> tuple[Self, Warp]:
        return self, warp

    def cut(self, after: int, count: int) -> Self:
        return self

    def copied(self, by: int) -> None:
        return None

    @classmethod
    def read(cls, data: Mapping[str, Any]) -> Self:
        span = super().read({**data, "controls": tuple(data.get("controls", ()))})
        if not isinstance(span.name, str) or not all(isinstance(name, str) for name in span.controls):
            raise BadEdit("a layer has a name and is of controls by their names")
        return span
