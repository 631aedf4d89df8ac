"""Spans that add to channel values by rule, in closed form, over the keys and layers of some frames."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any, ClassVar

from hame.clip.spans import Reach, Span


@dataclass(frozen=True)
class Rule(Span):
    """A span that adds by rule: any frame alone is what it is when played.

    It goes along when its figure is retimed, copied, mirrored or shown again by a cycle, and can be muted. What it
    adds is worked out by :mod:`hame.evaluate.rules`.

    Attributes
    ----------
    muted : it does not count
    flipped : left and right have changed places, as where a cycle shows it mirrored
    """

    stage: ClassVar[str] = "rules"

    muted: bool = False
    flipped: bool = False

    @property
    def counts(self) -> bool:
        """Whether there is anything that it adds."""
        return not self.muted

    def reach(self) -> Reach:
        return None, None  # a cycle may show it anywhere


def rules_of(clip: Any) -> Iterator[Rule]:
    """The spans of a clip that add by rule, track by track."""
    return (span for spans in clip.tracks.values() if spans and isinstance(spans[0], Rule) for span in spans)
