"""The living hold: a kind of span that keeps a held figure alive, laid over the keys by rule."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from math import pi
from typing import Any, ClassVar, Self

import numpy as np

from hame.clip.key import Array
from hame.clip.rule import Rule
from hame.errors import BadEdit

# A swing is three sines that close over the span: the main one, a slow one, and a quick one, by their share of it.
SHARES = (0.62, 0.28, 0.10)
PACES = (1.0, 0.43, 1.7)


@dataclass(frozen=True)
class Living(Rule):
    """Breathing, sway and small shifts of weight over some frames.

    All of it is in closed form, so that any frame alone is what it is when played, and comes back to where it began:
    a loop of just these frames closes. What stands on the ground stays there: only the trunk, the head and arms that
    are posed by FK turn, and the body shifts over feet that are posed by IK.

    Attributes
    ----------
    breath, trunk, head, arms : radians that these turn from where they are keyed, at most
    shift : metres that the body goes aside and forth, at most
    period : frames of a breath; over shorter stretches everything is as much smaller as there is less time
    seed : another one is another swing
    fade : frames at each end over which it comes and goes; 0 where the frames are looped
    """

    breath: float = 0.0
    trunk: float = 0.0
    head: float = 0.0
    arms: float = 0.0
    shift: float = 0.0
    period: int = 72
    seed: int = 1
    fade: int = 12

    kind: ClassVar[str] = "living"
    of_controls: ClassVar[bool] = False

    @property
    def word(self) -> str:
        return "living hold"

    @property
    def counts(self) -> bool:
        return not self.muted and any((self.breath, self.trunk, self.head, self.arms, self.shift))

    @property
    def turns(self) -> tuple[int, int, int]:
        """How many times each of the three sines comes back within the span."""
        length = max(self.end - self.start, 1)
        return tuple(max(round(length * pace / self.period), 1) for pace in PACES)  # type: ignore[return-value]

    def size(self) -> Array:
        """The sizes of the three sines, (3,): one that would have to hurry to come back in time is smaller."""
        length = max(self.end - self.start, 1)
        hurry = [min(1.0, length * pace / (self.period * n)) for pace, n in zip(PACES, self.turns, strict=True)]
        return np.array(SHARES) * hurry

    def swing(self, times: Array, number: int) -> Array:
        """Between -1 and 1 at times (T,): the same for the same ``number``, which tells what swings."""
        phases = np.random.default_rng((self.seed, number)).uniform(0.0, 2.0 * pi, 3)
        share = (np.asarray(times, float) - self.start) / max(self.end - self.start, 1)
        waves = np.sin(2.0 * pi * np.multiply.outer(share, self.turns) + phases)
        return np.asarray(waves @ self.size())

    def fades(self, times: Array) -> Array:
        """How much of it counts at times (T,): all of it inside, none outside, smoothly over the fades."""
        inside = (times >= self.start) & (times <= self.end)
        fade = min(self.fade, (self.end - self.start) / 2.0)
        if fade <= 0:
            return inside.astype(float)
        share = np.clip(np.minimum(times - self.start, self.end - times) / fade, 0.0, 1.0)
        return np.asarray(share * share * (3.0 - 2.0 * share))

    def fastest(self) -> tuple[float, float]:
        """The most that a joint turns in a frame (rad) and that the body goes (m); it is never faster."""
        length = max(self.end - self.start, 1)
        fade = min(self.fade, length / 2.0)
        a_frame = float(2.0 * pi * (np.array(self.turns) @ self.size()) / length)
        a_frame += float(1.5 / fade * self.size().sum()) if fade > 0 else 0.0
        # A joint turns about three axes at once, and the chest and the neck breathe besides; the body goes aside and
        # forth, and down a little.
        joint = max(3.0**0.5 * self.trunk + self.breath, 3.0**0.5 * self.head + self.breath, self.arms)
        return joint * a_frame, 1.2 * self.shift * a_frame

    def mirrored(self) -> Self:
        return replace(self, flipped=not self.flipped)

    def numbers(self) -> Iterable[tuple[str, float, str]]:
        turned = [("the size of a living hold", v, "rad") for v in (self.breath, self.trunk, self.head, self.arms)]
        counted = (self.period, self.seed, self.fade)
        return [*turned, ("its shift", self.shift, "m"), *(("a living hold", float(n), "") for n in counted)]

    @classmethod
    def read(cls, data: Mapping[str, Any]) -> Self:
        span = super().read(data)
        whole = (span.period, span.seed, span.fade)
        if any(isinstance(n, bool) or not isinstance(n, int) for n in whole) or span.period < 1 or min(whole) < 0:
            raise BadEdit("a living hold has a period, a seed and a fade in whole frames")
        return span


def livings_of(clip: Any) -> tuple[Living, ...]:
    """The living holds of a clip, in the order of time."""
    return tuple(span for span in clip.tracks.get(Living.kind, ()) if isinstance(span, Living))
