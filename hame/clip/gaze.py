"""The gaze: a kind of span. Eyes, head and chest of a figure, or one control alone, that look at a place or a thing."""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import Any, ClassVar, Literal, Self, get_args

import numpy as np

from hame.clip.key import Array
from hame.clip.spans import OWN, Reach, Span, owner_read
from hame.errors import BadEdit

Axis = Literal["x", "y", "z", "-x", "-y", "-z"]
AXES: tuple[Axis, ...] = get_args(Axis)
MOST_EASED, MOST_LEAD = 500, 48  # frames
FARTHEST = 1e3  # metres
PARTS = 3  # eyes, head and chest, in the order in which they turn


@dataclass(frozen=True)
class Gaze(Span):
    """Frames in which somebody looks at something, or a thing is aimed at it.

    What looks turns more than its keys do, so that these go on top. Its track names the one control that is aimed;
    without one it is a whole figure that looks, first with its eyes, then with its head, then with its chest.

    Attributes
    ----------
    figure, to : whose control is looked at (OWN: the figure itself); no ``to`` is the world
    x, y, z : metres, the place that is looked at in the axes of that
    eyes, head, chest : radians that these turn at most; what is farther off, the next of them takes
    lead : frames by which the eyes go before the head, and this before the chest
    ease_in, ease_out : frames over which each of them comes to it and leaves it
    share : how much of the way to it is gone
    axis : of a control that is aimed, the one of its own axes that points there
    muted : it does not count
    """

    figure: int = OWN
    to: str = ""
    x: float = 0.0
    y: float = 0.0
    z: float = 0.0
    eyes: float = math.radians(18.0)
    head: float = math.radians(60.0)
    chest: float = math.radians(20.0)
    lead: int = 3
    ease_in: int = 6
    ease_out: int = 6
    share: float = 1.0
    axis: Axis = "z"
    muted: bool = False

    kind: ClassVar[str] = "gaze"
    stays: ClassVar[bool] = True
    stage: ClassVar[str] = "gaze"

    @property
    def counts(self) -> bool:
        return not self.muted

    @property
    def figure_read(self) -> int:
        return self.figure

    @property
    def at(self) -> Array:
        return np.array([self.x, self.y, self.z])

    def reach(self) -> Reach:
        # Of where things were before, and while one that follows directly is still coming, it has a say as well.
        return self.start - 2 * self.lead, self.end + 1 + 2 * MOST_LEAD + MOST_EASED

    def come(self, times: Array, part: int = 0) -> Array:
        """How far a part has come to it (T,), from 0 to 1 and on."""
        return _eased(np.asarray(times, float) - self.start - part * self.lead, self.ease_in)

    def left(self, times: Array, part: int = 0) -> Array:
        """How much of it a part has not left yet (T,), where nothing follows."""
        until = self.end - (PARTS - 1 - part) * self.lead
        return _eased(until - np.asarray(times, float), self.ease_out)

    def copied(self, by: int) -> None:
        return None  # a copied pose is what it looks like

    def numbers(self) -> Iterable[tuple[str, float, str]]:
        return [
            *(("the place of a gaze", n, "m") for n in (self.x, self.y, self.z)),
            *(("how far a gaze turns", n, "rad") for n in (self.eyes, self.head, self.chest)),
            *(("a gaze", n, "") for n in (self.share, float(self.lead), float(self.ease_in), float(self.ease_out))),
        ]

    @classmethod
    def read(cls, data: Mapping[str, Any]) -> Self:
        span = super().read(owner_read(data, "to"))
        numbers = (*span.at.tolist(), span.eyes, span.head, span.chest, span.share)
        if not all(math.isfinite(number) for number in numbers) or np.abs(span.at).max() > FARTHEST:
            raise BadEdit("a gaze goes to a place and by angles that are numbers")
        if not all(0.0 <= angle <= math.pi for angle in (span.eyes, span.head, span.chest)):
            raise BadEdit("eyes, head and chest turn by 0 to 180 degrees in a gaze")
        if not 0.0 <= span.share <= 1.0 or span.axis not in AXES:
            raise BadEdit("a gaze has a share from 0 to 1 and one of the axes of a control")
        frames = ((span.lead, MOST_LEAD), (span.ease_in, MOST_EASED), (span.ease_out, MOST_EASED))
        if any(isinstance(n, bool) or not isinstance(n, int) or not 0 <= n <= most for n, most in frames):
            raise BadEdit(f"a gaze is eased over 0 to {MOST_EASED} frames, and leads by 0 to {MOST_LEAD}")
        return span


def _eased(after: Array, frames: int) -> Array:
    """From 0 at the beginning to 1 after so many frames, smoothly; at once without any."""
    if not frames:
        return (after >= 0.0).astype(float)
    share = np.clip(after / frames, 0.0, 1.0)
    return np.asarray(share * share * (3.0 - 2.0 * share))


def gazes_of(clip: Any, about: str = "") -> tuple[Gaze, ...]:
    """The gazes of a figure, or of one control that is aimed, in the order of time."""
    spans: tuple[Gaze, ...] = clip.tracks.get(f"{Gaze.kind}/{about}" if about else Gaze.kind, ())
    return spans
