"""The cycle: a kind of span. A stretch of frames that comes back, and what is derived from its keys."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from types import MappingProxyType
from typing import Any, ClassVar

import numpy as np
import numpy.typing as npt

from hame.character.rig import Rig
from hame.clip.curve import Curve, Stack, from_keys, lay_handles, split_at, stacked, unstacked
from hame.clip.key import FRAME, FREE_BOTH, HANDLES, IN_TIME, IN_VALUE, OUT_TIME, OUT_VALUE, VALUE, Array, whole_frame
from hame.clip.marks import Label
from hame.clip.spans import Bools, Carrying, Follow, Reach, Span, Warp, other_track, whole_frames
from hame.errors import BadEdit

TRAVELLING = ("tx", "tz")
FEW = 64  # turns: so many are derived at once and kept; of more, only those that are looked at
_PART = 8  # turns: parts of a long cycle are derived from a multiple of these to another


@dataclass(frozen=True)
class Cycle(Span):
    """A stretch of frames that comes back.

    Keys are stored only on the frames from ``start`` to before ``source_end``;
    all later ones up to ``until`` are derived from them.

    Attributes
    ----------
    start, end : frame ``end`` shows frame ``start`` again
    echo : the second half is the first one mirrored
    until : the last frame that repeats reach; ``end`` when there are none
    travel : metres that the master goes in each cycle along the world's x and z
    """

    echo: bool = False
    until: int = 0
    travel: tuple[float, float] = (0.0, 0.0)

    kind: ClassVar[str] = "cycle"

    def __post_init__(self) -> None:
        object.__setattr__(self, "until", max(self.until, self.end))

    @property
    def word(self) -> str:
        return "echo" if self.echo else "cycle"

    @property
    def last(self) -> int:
        return self.until

    @property
    def length(self) -> int:
        return self.end - self.start

    @property
    def half(self) -> int:
        return self.length // 2

    @property
    def step(self) -> int:
        """Frames after which its keys show again, mirrored or not."""
        return self.half if self.echo else self.length

    @property
    def source_end(self) -> int:
        """The first frame whose keys are derived."""
        return self.start + self.step

    @property
    def turns(self) -> int:
        """How many times it is begun up to its last repeat."""
        return -(-(self.until - self.start) // self.length)

    def holds(self, frames: Array) -> Bools:
        """Whether frames (N,) are among those of which it stores the keys."""
        return (frames >= self.start) & (frames < self.source_end)

    def derives(self, frames: Array) -> Bools:
        return (frames >= self.source_end) & (frames <= self.until)

    def source_of(self, frame: int) -> tuple[int, bool]:
        count, rest = divmod(frame - self.start, self.step)
        return self.start + rest, self.echo and count % 2 == 1

    def follows(self) -> Iterable[Follow]:
        return [
            Follow(first, min(first + self.step - 1, self.until), self.start, self.echo and number % 2 == 0)
            for number, first in enumerate(range(self.source_end, self.until + 1, self.step))
        ]

    def names(self, labels: Mapping[int, Label]) -> dict[int, Label]:
        found: dict[int, Label] = {}
        for frame, label in labels.items():
            if not self.start <= frame < self.source_end:
                continue
            for number, shown in enumerate(range(frame + self.step, self.until + 1, self.step)):
                mirrored = self.echo and number % 2 == 0
                found[shown] = Label(label.opposite, label.rank) if mirrored else label
        return found

    def adds(self, address: str, frame: int, rig: Rig) -> float:
        control, _, name = address.rpartition("/")
        if name not in TRAVELLING or control != rig.controls[0].name or not self.start <= frame < self.source_end:
            return 0.0
        return self.travel[TRAVELLING.index(name)] * (frame - self.start) / self.length

    def shows(self, track: str, span: Span, rig: Rig, first: float, last: float) -> Iterable[tuple[str, Span]]:
        if span is self or not self.start <= span.start < self.source_end:
            return
        other = other_track(track, rig) if self.echo else track
        begin = max(int((first - span.last) // self.step), 1)
        end = min((self.until - span.start) // self.step, int((last - span.start) // self.step) + 1)
        for number in range(begin, end + 1):
            mirrored = self.echo and number % 2 == 1
            there = other if mirrored else track
            copy = span.copied(number * self.step)
            if copy is not None and there is not None:
                yield there, copy.mirrored() if mirrored else copy

    def window(self, first: float | None, last: float | None) -> tuple[int, int]:
        """The turns to derive: all of a few, and of many those about the frames that are looked at.

        Besides there are turns at both ends that only serve the handles of the others.
        """
        whole = (-1, self.turns + 2)
        if whole[1] <= FEW or first is None or last is None:
            return whole
        at = np.clip([(frame - self.start) // self.length for frame in (first, last)], 0, self.turns)
        low, high = (int(at[0]) - 2) // _PART * _PART, -(-(int(at[1]) + 4) // _PART) * _PART
        return max(low, whole[0]), min(high, whole[1])

    def laid(self, curves: Mapping[str, Curve], rig: Rig, window: Any) -> Mapping[str, Curve]:
        """The curves with derived keys.

        A derived key that is not set by hand gets the handles that it would have
        if the cycle went on without end both ways, so that values and slopes agree
        at every seam. In a long cycle the curves are right in the window, with
        the neighbouring keys on both sides, and hold nothing farther away.
        """
        return MappingProxyType(_derived(curves, rig, self, *window))

    def reach(self) -> Reach:
        return None, None

    def spreads(self, frames: Array) -> Reach | None:
        # One key may show again in every repeat, be held after the last, and be led up to before the first.
        return (None, None) if not len(frames) or self.holds(frames).any() else None

    def carried_to(self, carrying: Carrying) -> Cycle:
        return replace(self, travel=carrying.travel(self.travel))

    def moved(self, warp: Warp, whole: bool) -> tuple[Cycle, Warp]:
        start, end = (int(f) for f in whole_frames(warp(np.array([self.start, self.source_end], float))))
        if not whole and (start, end) != (self.start, self.source_end):
            raise BadEdit(
                "inside a cycle time can be changed for the whole character only, since its length changes for all; "
                "free the cycle to do it for parts"
            )
        if end - start < (1 if self.echo else 2):
            raise BadEdit(
                f"the cycle's own keys lie from {self.start} to {self.source_end - 1}; by this they would begin at "
                f"{start} and end before {end}. Choose all of its columns, or free it first; nothing was moved"
            )
        # Repeated as many times as before; what lies after all repeats moves by as much more as they grew.
        length = (end - start) * (2 if self.echo else 1)
        times = (self.until - self.start) / self.length
        now = replace(self, start=start, end=start + length, until=int(round(start + times * length)))
        more = now.until - int(whole_frames(warp(np.array([self.until], float)))[0])

        def beyond(frames: Array) -> Array:
            return whole_frames(warp(frames)) + np.where(frames > self.until, more, 0)

        return now, beyond

    def refuse_moves(self, before: Array, after: Array, now: Span) -> None:
        assert isinstance(now, Cycle)
        crossing = self.holds(before) != now.holds(after)
        if crossing.any():
            frames = sorted({int(f) for f in before[crossing]})
            raise BadEdit(
                f"keys at {'frame' if len(frames) == 1 else 'frames'} {', '.join(map(str, frames[:6]))} would go into "
                "the cycle or out of it; choose them together with its other columns, or free it first. "
                "Nothing was moved"
            )

    def cut(self, after: int, count: int) -> Cycle:
        if after < self.source_end <= after + count:
            raise BadEdit(
                f"keys are made up to frame {self.source_end - 1} only; {count} frames after {after} are more than "
                f"that. Take fewer, or free the {self.word} first; nothing was changed"
            )
        return self

    def phases(self, poses: set[int]) -> set[int]:
        inside = {f for f in poses if self.start <= f < self.source_end}
        return inside | {self.start, self.source_end} | {f for f in poses if f < self.start or f > self.until}

    def copied(self, by: int) -> None:
        return None  # two of them would show each other's keys

    def numbers(self) -> Iterable[tuple[str, float, str]]:
        return [("the travel of the cycle", way, "m") for way in self.travel]

    @classmethod
    def read(cls, data: Mapping[str, Any]) -> Cycle:
        start, end, until = (whole_frame(data[key]) for key in ("start", "end", "until"))
        x, z = data["travel"]
        return cls(start, end, bool(data["echo"]), until, (float(x), float(z)))


def _derived(curves: Mapping[str, Curve], rig: Rig, cycle: Cycle, low: int, high: int) -> dict[str, Curve]:
    stored = {address: curve for address, curve in curves.items() if rig.has_channel(address)}
    strange = {address: curve for address, curve in curves.items() if not rig.has_channel(address)}
    travel = np.zeros(len(rig.channels))
    for name, way in zip(TRAVELLING, cycle.travel, strict=True):
        address = f"{rig.controls[0].name}/{name}"
        if way and rig.has_channel(address):
            travel[rig.number(address)] = way
            if address not in stored:
                stored[address] = from_keys({cycle.start: rig.channels[rig.number(address)].rest})
    stack = stacked(stored)
    owner, keys = np.array([rig.number(a) for a in stack.addresses], np.int64)[stack.owner], stack.keys
    inside = cycle.holds(keys[:, FRAME])
    outside = (keys[:, FRAME] < cycle.start) | (keys[:, FRAME] > cycle.until)
    period_owner, period = owner[inside], keys[inside]
    if cycle.echo:
        target, sign = rig.echoes
        echoed = period.copy()
        echoed[:, FRAME] += cycle.half
        echoed[:, [VALUE, IN_VALUE, OUT_VALUE]] *= sign[period_owner][:, None]
        known = target[period_owner] >= 0
        period_owner = np.append(period_owner, target[period_owner][known])
        period = np.concatenate([period, echoed[known]])
    laid_owner, laid = _repeated(period_owner, period, cycle, travel, np.arange(low, high))
    laid_owner, laid = _cut(laid_owner, laid, cycle)
    whole = Stack(rig.addresses, np.append(owner[outside], laid_owner), np.concatenate([keys[outside], laid]))
    return {**unstacked(whole), **strange}


def _repeated(
    owner: npt.NDArray[np.int64], period: Array, cycle: Cycle, travel: Array, turns: npt.NDArray[np.int64]
) -> tuple[npt.NDArray[np.int64], Array]:
    """The keys of one cycle laid again and again, each with its handles, a steady way added.

    Those of the outermost ``turns`` only serve the others: there their handles find the neighbours that they would
    have without end.
    """
    order = np.lexsort((period[:, FRAME], owner))
    owner, period = owner[order], period[order].copy()
    slope = travel[owner] / cycle.length
    period[:, VALUE] += slope * (period[:, FRAME] - cycle.start)
    period[:, IN_VALUE] += slope * period[:, IN_TIME]
    period[:, OUT_VALUE] += slope * period[:, OUT_TIME]
    laid = np.tile(period, (len(turns), 1))
    turn = np.repeat(turns, len(period))
    laid_owner = np.tile(owner, len(turns))
    laid[:, FRAME] += turn * cycle.length
    laid[:, VALUE] += turn * travel[laid_owner]
    order = np.lexsort((laid[:, FRAME], laid_owner))
    laid_owner, laid = laid_owner[order], laid[order]
    lay_handles(laid_owner, laid)
    laid[:, HANDLES] = FREE_BOTH
    return laid_owner, laid


def _cut(owner: npt.NDArray[np.int64], laid: Array, cycle: Cycle) -> tuple[npt.NDArray[np.int64], Array]:
    """Keys from the start to the last repeat; a way that goes over an edge is cut there by a key of its own."""
    for edge in (cycle.start, cycle.until):
        if not (laid[:, FRAME] < edge).any() or not (laid[:, FRAME] > edge).any():
            continue  # not among the turns that are looked at
        there = set(owner[laid[:, FRAME] == edge].tolist())
        for number in sorted(set(owner.tolist()) - there):
            mine = np.flatnonzero(owner == number)
            parted = split_at(laid[mine], edge)
            laid = np.concatenate([laid[: mine[0]], parted, laid[mine[-1] + 1 :]])
            owner = np.insert(owner, mine[0], number)
    kept = (laid[:, FRAME] >= cycle.start) & (laid[:, FRAME] <= cycle.until)
    return owner[kept], laid[kept]
