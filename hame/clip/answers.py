"""Answers: kinds of span by which a body answers an event, giving at a landing or taking a blow."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from math import pi
from typing import Any, ClassVar, Self

import numpy as np

from hame.clip.key import Array
from hame.clip.pushed import Pushed
from hame.clip.rule import Rule
from hame.clip.spans import Warp, whole_frames
from hame.errors import BadEdit

SLOWER = 3  # times as long a blow takes to go back as to come, at least


@dataclass(frozen=True)
class Answering(Rule):
    """What answers something that happens to a body. In closed form: any frame alone is what it is when played.

    Attributes
    ----------
    of : what it answers, with which it goes along where that comes to lie elsewhere; nothing where it stays
    speed : metres a second with which that happens, by which it is scaled; 0 where it is not
    """

    of: str = ""
    speed: float = 0.0

    @property
    def event(self) -> int:
        """The frame of what it answers."""
        return self.start

    def moved(self, warp: Warp, whole: bool) -> tuple[Self | None, Warp]:
        """It where its event comes to lie, in as many frames as it has: those are its own, and not of the keys."""
        by = int(whole_frames(warp(np.array([self.event], float)))[0]) - self.event
        return replace(self, start=self.start + by, end=self.end + by), warp

    @classmethod
    def read(cls, data: Mapping[str, Any]) -> Self:
        span = super().read(data)
        if not isinstance(span.of, str) or len(span.of) > 20 or not 0.0 <= span.speed <= 1000.0:
            raise BadEdit(f"a {span.word} answers something that happens, at up to 1000 metres a second")
        return span


@dataclass(frozen=True)
class Answer(Answering):
    """What comes at once, and goes more slowly.

    Attributes
    ----------
    there, back : how its frames are shared out: so much until it is greatest, so much until it is over
    """

    there: int = 2
    back: int = 8

    def comes(self, times: Array, late: float = 0.0) -> Array:
        """How much of it there is at times (T,): from nothing to all, as fast as what it answers, and gently back.

        What begins so many frames ``late`` is over with the others.
        """
        length = max(self.end - self.start - late, 1.0)
        peak = length * self.there / (self.there + self.back)
        after = np.asarray(times, float) - self.start - late
        rises = np.sin(0.5 * pi * np.clip(after / peak, 0.0, 1.0))
        falls = 0.5 + 0.5 * np.cos(pi * np.clip((after - peak) / (length - peak), 0.0, 1.0))
        return np.asarray(np.where((after >= 0.0) & (after <= length), rises * falls, 0.0))

    @classmethod
    def read(cls, data: Mapping[str, Any]) -> Self:
        span = super().read(data)
        refuse_part_frames(span.word, span.there, span.back)
        return span


def unanswered(clip: Any) -> Any:
    """The clip without its answers: what happens is of the motion below them."""
    tracks = {track for track, spans in clip.tracks.items() if any(isinstance(span, Answering) for span in spans)}
    return clip.with_tracks(dict.fromkeys(tracks, ())) if tracks else clip


def refuse_part_frames(word: str, *counts: int) -> None:
    """Raises :class:`BadEdit` for what is no whole number of frames that a span may take."""
    for frames in counts:
        if isinstance(frames, bool) or not isinstance(frames, int) or not 1 <= frames <= 1000:
            raise BadEdit(f"a {word} takes 1 to 1000 whole frames each way")


@dataclass(frozen=True)
class Give(Answer):
    """The body that goes down with a landing, or before a take-off, over feet that stay.

    Attributes
    ----------
    drop : metres that it goes down, at most
    before : it goes down ahead of its event, which is its last frame; else after it, which is its first
    """

    there: int = 3
    drop: float = 0.0
    before: bool = False

    kind: ClassVar[str] = "give"
    of_controls: ClassVar[bool] = False

    @property
    def counts(self) -> bool:
        return not self.muted and self.drop > 0.0

    @property
    def event(self) -> int:
        return self.end if self.before else self.start

    def down(self, times: Array) -> Array:
        """Metres (T,) that it is down at times (T,)."""
        return self.drop * self.comes(self.start + self.end - np.asarray(times, float) if self.before else times)

    def numbers(self) -> Iterable[tuple[str, float, str]]:
        return [("a give", self.drop, "m")]


@dataclass(frozen=True)
class Knock(Pushed, Answer):
    """A blow: where it lands the body goes along at once, the next link a little later and by less, and so on.

    Attributes
    ----------
    late : frames that a link gets it after the one before, up to one
    """

    factor: float = 0.6
    late: float = 0.5

    kind: ClassVar[str] = "knock"

    def waves(self, times: Array) -> tuple[Array, Array]:
        moved = self.comes(times)[:, None] * self.sizes
        return moved[:, :3], moved[:, 3:]

    def turned(self, times: Array, distances: Sequence[int]) -> Array:
        shares = [self.factor**distance * self.comes(times, self.late * distance) for distance in distances]
        return np.multiply.outer(np.array(shares), self.sizes[3:])

    def numbers(self) -> Iterable[tuple[str, float, str]]:
        return [*super().numbers(), ("a knock", self.late, "")]

    @classmethod
    def read(cls, data: Mapping[str, Any]) -> Self:
        span = super().read(data)
        if not (0.0 <= span.factor <= 1.0 and 0.0 <= span.late <= 1.0) or span.back < SLOWER * span.there:
            raise BadEdit(
                f"a knock takes {SLOWER} times as long to go back as to come; its factor and lateness are 0 to 1"
            )
        return span
