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

import numpy as np
import numpy.typing as npt

from hame.clip import curve as curves_of
from hame.clip.curve import Array, Curve, Row

Values = Mapping[str, float]
Bools = npt.NDArray[np.bool_]


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


Span = tuple[int | None, int | None]


@dataclass(frozen=True)
class Rows:
    """What changed in one curve: keys that were there, and keys that are there now (JSON rows)."""

    removed: tuple[Row, ...]
    added: tuple[Row, ...]


@dataclass(frozen=True)
class Patch:
    """The difference of two clips, readable both ways.

    Attributes
    ----------
    curves : by channel, only the keys that differ
    pending : by frame, the pending pose before and after
    ranges : spans of frames on which the motion may differ; None is without end on that side
    """

    curves: Mapping[str, Rows]
    pending: Mapping[int, tuple[Values | None, Values | None]]
    ranges: tuple[Span, ...] = ()

    def __bool__(self) -> bool:
        return bool(self.curves or self.pending)

    def reversed(self) -> Patch:
        return Patch(
            {channel: Rows(rows.added, rows.removed) for channel, rows in self.curves.items()},
            {frame: (new, old) for frame, (old, new) in self.pending.items()},
            self.ranges,
        )

    def apply(self, clip: Clip) -> Clip:
        """The clip after the patch; keys it does not name stay as they are."""
        changes: dict[str, Curve | None] = {}
        for channel, rows in self.curves.items():
            table = clip.curves[channel].table if channel in clip.curves else np.zeros((0, 8))
            gone = [row[0] for row in (*rows.removed, *rows.added)]
            table = np.concatenate([table[~np.isin(table[:, 0], gone)], curves_of.table_of(rows.added)])
            changes[channel] = curves_of.from_table(table) if len(table) else None
        clip = clip.with_curves(changes)
        for frame, (_, new) in self.pending.items():
            clip = clip.with_pending(frame, new)
        return clip

    def to_json(self) -> dict[str, Any]:
        return {
            "curves": {ch: [list(rows.removed), list(rows.added)] for ch, rows in self.curves.items()},
            "pending": {
                str(frame): [None if v is None else dict(v) for v in change] for frame, change in self.pending.items()
            },
            "ranges": [list(span) for span in self.ranges],
        }


def patch_from_json(data: Mapping[str, Any]) -> Patch:
    return Patch(
        {channel: Rows(tuple(removed), tuple(added)) for channel, (removed, added) in data["curves"].items()},
        {int(frame): (old, new) for frame, (old, new) in data["pending"].items()},
        tuple((a, b) for a, b in data["ranges"]),
    )


def difference(before: Clip, after: Clip) -> Patch:
    """The patch that leads from one clip to another; curves shared by both cost nothing."""
    changed: dict[str, Rows] = {}
    spans: list[Span] = []
    for channel in before.curves.keys() | after.curves.keys():
        old, new = before.curves.get(channel), after.curves.get(channel)
        if old is new or old == new:
            continue
        a, b = (np.zeros((0, 8)) if curve is None else curve.table for curve in (old, new))
        kept_a, kept_b = _same_keys(a, b)
        changed[channel] = Rows(tuple(curves_of.rows_of(a[~kept_a])), tuple(curves_of.rows_of(b[~kept_b])))
        spans.append(_changed_span(a, b, kept_a, kept_b))
    waiting: dict[int, tuple[Values | None, Values | None]] = {}
    for frame in before.pending.keys() | after.pending.keys():
        was, now = before.pending.get(frame), after.pending.get(frame)
        if was is not now and dict(was or {}) != dict(now or {}):
            waiting[frame] = (was, now)
            spans.append((frame, frame))
    return Patch(changed, waiting, tuple(_merged(spans)))


def _same_keys(a: Array, b: Array) -> tuple[Bools, Bools]:
    """Which keys of ``a (K, 8)`` and of ``b (L, 8)`` stand unchanged in the other; computed handles do not count."""
    kept_a, kept_b = np.zeros(len(a), bool), np.zeros(len(b), bool)
    if len(a) == len(b) and (a[:, 0] == b[:, 0]).all():
        kept_a[:] = kept_b[:] = _equal_keys(a, b)
        return kept_a, kept_b
    _, in_a, in_b = np.intersect1d(a[:, 0], b[:, 0], assume_unique=True, return_indices=True)
    same = _equal_keys(a[in_a], b[in_b])
    kept_a[in_a[same]] = kept_b[in_b[same]] = True
    return kept_a, kept_b


def _equal_keys(a: Array, b: Array) -> Bools:
    """Whether the keys of two tables (K, 8) are the same, row by row."""
    return np.asarray((a[:, :4] == b[:, :4]).all(axis=1) & ((a[:, 3] == 0) | (a[:, 4:] == b[:, 4:]).all(axis=1)))


def _changed_span(a: Array, b: Array, kept_a: Bools, kept_b: Bools) -> Span:
    """The frames between which two tables may differ, held values before and after included.

    Automatic handles look one key to each side, so a key that differs
    changes two gaps each way.
    """
    frames = np.concatenate([a[~kept_a, 0], b[~kept_b, 0]])
    if len(frames) == 0:  # only handles that were cut short by a neighbour: take it all
        return None, None
    kept = a[kept_a, 0]
    before, after = kept[kept < frames.min()], kept[kept > frames.max()]
    start = int(before[-2]) if len(before) >= 2 else None
    end = int(after[1]) if len(after) >= 2 else None
    return start, end


def _merged(spans: list[Span]) -> list[Span]:
    low, high = -(10**9), 10**9
    plain = sorted((low if a is None else a, high if b is None else b) for a, b in spans)
    merged: list[list[int]] = []
    for a, b in plain:
        if merged and a <= merged[-1][1] + 1:
            merged[-1][1] = max(merged[-1][1], b)
        else:
            merged.append([a, b])
    return [(None if a == low else a, None if b == high else b) for a, b in merged]
