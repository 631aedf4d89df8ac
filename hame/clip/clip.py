"""The motion of one character: keyed channels and pending poses.

A :class:`Clip` is a value. An edit makes a new one that shares every curve it
did not touch, so the difference of two clips (a :class:`Patch`) is found by
comparing references, and an undo step is that difference read backwards.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field, replace
from types import MappingProxyType
from typing import Any

from hame.clip import curve as curves_of
from hame.clip.curve import Curve

Values = Mapping[str, float]


@dataclass(frozen=True)
class Clip:
    """Curves by channel address (``"hand.L/tx"``) and, by frame, poses that wait to be keyed."""

    curves: Mapping[str, Curve] = field(default_factory=lambda: MappingProxyType({}))
    pending: Mapping[int, Values] = field(default_factory=lambda: MappingProxyType({}))

    def with_curves(self, changes: Mapping[str, Curve | None]) -> Clip:
        """The clip with some curves replaced; None removes one."""
        merged: dict[str, Curve] = dict(self.curves)
        for channel, curve in changes.items():
            if curve is None or len(curve) == 0:
                merged.pop(channel, None)
            else:
                merged[channel] = curve
        return replace(self, curves=MappingProxyType(merged))

    def with_pending(self, frame: int, values: Values | None) -> Clip:
        """The clip with the pending pose of one frame replaced; None or an empty pose removes it."""
        merged = dict(self.pending)
        merged.pop(frame, None)
        if values:
            merged[frame] = MappingProxyType(dict(values))
        return replace(self, pending=MappingProxyType(merged))

    def key_frames(self, channels: Iterable[str] | None = None) -> list[int]:
        """The frames on which any channel (of those named) has a key, rising."""
        chosen = self.curves.keys() if channels is None else channels
        frames: set[int] = set()
        for channel in chosen:
            if channel in self.curves:
                frames.update(self.curves[channel].frames.tolist())
        return sorted(frames)

    def key_count(self) -> int:
        return sum(len(curve) for curve in self.curves.values())

    def to_json(self) -> dict[str, Any]:
        return {
            "curves": {channel: curve.to_json() for channel, curve in self.curves.items()},
            "pending": {str(frame): dict(values) for frame, values in self.pending.items()},
        }


def from_json(data: Mapping[str, Any]) -> Clip:
    """A clip of what :meth:`Clip.to_json` made; raises :class:`~hame.errors.BadEdit` on bad keys."""
    clip = Clip().with_curves({ch: curves_of.from_json(rows) for ch, rows in data["curves"].items()})
    for frame, values in data.get("pending", {}).items():
        clip = clip.with_pending(int(frame), values)
    return clip


@dataclass(frozen=True)
class Patch:
    """The difference of two clips, readable both ways: each entry is (before, after)."""

    curves: Mapping[str, tuple[Curve | None, Curve | None]]
    pending: Mapping[int, tuple[Values | None, Values | None]]

    def __bool__(self) -> bool:
        return bool(self.curves or self.pending)

    def reversed(self) -> Patch:
        return Patch(
            {channel: (new, old) for channel, (old, new) in self.curves.items()},
            {frame: (new, old) for frame, (old, new) in self.pending.items()},
        )

    def apply(self, clip: Clip) -> Clip:
        """The clip after the patch; what stood there before is not compared."""
        clip = clip.with_curves({channel: new for channel, (_, new) in self.curves.items()})
        for frame, (_, new) in self.pending.items():
            clip = clip.with_pending(frame, new)
        return clip

    def frame_ranges(self) -> list[tuple[int | None, int | None]]:
        """Spans of frames on which the motion may differ; None is without end on that side."""
        spans = [_changed_span(old, new) for old, new in self.curves.values()]
        spans += [(frame, frame) for frame in self.pending]
        return _merged(spans)

    def to_json(self) -> dict[str, Any]:
        def pair(old: Curve | None, new: Curve | None) -> list[Any]:
            return [None if c is None else c.to_json() for c in (old, new)]

        return {
            "curves": {channel: pair(*change) for channel, change in self.curves.items()},
            "pending": {
                str(frame): [None if v is None else dict(v) for v in change]
                for frame, change in self.pending.items()
            },
        }


def patch_from_json(data: Mapping[str, Any]) -> Patch:
    def curve(rows: Any) -> Curve | None:
        return None if rows is None else curves_of.from_json(rows)

    return Patch(
        {channel: (curve(old), curve(new)) for channel, (old, new) in data["curves"].items()},
        {int(frame): (old, new) for frame, (old, new) in data["pending"].items()},
    )


def difference(before: Clip, after: Clip) -> Patch:
    """The patch that leads from one clip to another; curves shared by both cost nothing."""
    changed: dict[str, tuple[Curve | None, Curve | None]] = {}
    for channel in before.curves.keys() | after.curves.keys():
        old, new = before.curves.get(channel), after.curves.get(channel)
        if old is not new and old != new:
            changed[channel] = (old, new)
    waiting: dict[int, tuple[Values | None, Values | None]] = {}
    for frame in before.pending.keys() | after.pending.keys():
        was, now = before.pending.get(frame), after.pending.get(frame)
        if was is not now and dict(was or {}) != dict(now or {}):
            waiting[frame] = (was, now)
    return Patch(changed, waiting)


def _changed_span(old: Curve | None, new: Curve | None) -> tuple[int | None, int | None]:
    """The frames between which two curves may differ, held values before and after included."""
    if old is None or new is None:
        return None, None
    a, b = old.to_json(), new.to_json()
    # Automatic handles look one key to each side, so a differing key changes two gaps each way.
    head = 0
    while head < min(len(a), len(b)) and a[head] == b[head]:
        head += 1
    tail = 0
    while tail < min(len(a), len(b)) - head and a[-1 - tail] == b[-1 - tail]:
        tail += 1
    start = a[head - 2][0] if head >= 2 else None
    end = a[len(a) - tail + 1][0] if tail >= 2 else None
    return start, end


def _merged(spans: list[tuple[int | None, int | None]]) -> list[tuple[int | None, int | None]]:
    low, high = -(10**9), 10**9
    plain = sorted((low if a is None else a, high if b is None else b) for a, b in spans)
    merged: list[list[int]] = []
    for a, b in plain:
        if merged and a <= merged[-1][1] + 1:
            merged[-1][1] = max(merged[-1][1], b)
        else:
            merged.append([a, b])
    return [(None if a == low else a, None if b == high else b) for a, b in merged]
