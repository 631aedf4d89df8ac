"""The motion of one character: keyed channels, pending poses, pose labels and a cycle.

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

from hame.clip import curve as curves_of
from hame.clip.curve import Array, Curve
from hame.clip.marks import Cycle, Label, cycle_from_json, label_from_json

Values = Mapping[str, float]


@dataclass(frozen=True)
class Clip:
    """What is stored of a motion.

    Attributes
    ----------
    curves : by channel address (``"hand.L/tx"``); with a cycle, only the keys
        that it does not derive (see :func:`hame.clip.cycle.played_curves`)
    pending : by frame, poses that wait to be keyed
    labels : by frame, what a pose is called and how it ranks
    cycle : a stretch that repeats, or whose second half echoes its first
    """

    curves: Mapping[str, Curve] = field(default_factory=lambda: MappingProxyType({}))
    pending: Mapping[int, Values] = field(default_factory=lambda: MappingProxyType({}))
    labels: Mapping[int, Label] = field(default_factory=lambda: MappingProxyType({}))
    cycle: Cycle | None = None

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

    def with_labels(self, changes: Mapping[int, Label | None]) -> Clip:
        """The clip with the labels of some frames replaced; None removes one."""
        merged = {frame: label for frame, label in {**self.labels, **changes}.items() if label is not None}
        return replace(self, labels=MappingProxyType(merged))

    def with_cycle(self, cycle: Cycle | None) -> Clip:
        return replace(self, cycle=cycle)

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
            **self.to_json_marks(),
        }

    def to_json_marks(self) -> dict[str, Any]:
        """Labels and cycle alone."""
        return {
            "labels": {str(frame): label.to_json() for frame, label in self.labels.items()},
            "cycle": None if self.cycle is None else self.cycle.to_json(),
        }


def from_json(data: Mapping[str, Any]) -> Clip:
    """A clip of what :meth:`Clip.to_json` made; raises :class:`~hame.errors.BadEdit` on bad keys."""
    clip = Clip().with_curves({ch: curves_of.from_json(rows) for ch, rows in data["curves"].items()})
    for frame, values in data.get("pending", {}).items():
        clip = clip.with_pending(int(frame), values)
    clip = clip.with_labels({int(f): label_from_json(label) for f, label in data.get("labels", {}).items()})
    return clip.with_cycle(cycle_from_json(data.get("cycle")))


Span = tuple[int | None, int | None]


@dataclass(frozen=True)
class Rows:
    """What changed in one curve: keys that were there (K, 8), and keys that are there now (L, 8)."""

    removed: Array
    added: Array


@dataclass(frozen=True)
class Patch:
    """The difference of two clips, readable both ways.

    Attributes
    ----------
    curves : by channel, only the keys that differ
    pending : by frame, the pending pose before and after
    ranges : spans of frames on which the motion may differ; None is without end on that side
    labels : by frame, the label before and after
    cycle : the cycle before and after; None when it did not change
    """

    curves: Mapping[str, Rows]
    pending: Mapping[int, tuple[Values | None, Values | None]]
    ranges: tuple[Span, ...] = ()
    labels: Mapping[int, tuple[Label | None, Label | None]] = field(default_factory=dict)
    cycle: tuple[Cycle | None, Cycle | None] | None = None

    def __bool__(self) -> bool:
        return bool(self.curves or self.pending or self.labels or self.cycle)

    def size(self) -> int:
        """How much it holds: keys, and a few for everything else."""
        return sum(len(rows.removed) + len(rows.added) for rows in self.curves.values()) + 10

    def reversed(self) -> Patch:
        return Patch(
            {channel: Rows(rows.added, rows.removed) for channel, rows in self.curves.items()},
            {frame: (new, old) for frame, (old, new) in self.pending.items()},
            self.ranges,
            {frame: (new, old) for frame, (old, new) in self.labels.items()},
            None if self.cycle is None else self.cycle[::-1],
        )

    def apply(self, clip: Clip) -> Clip:
        """The clip after the patch; keys it does not name stay as they are."""
        changes: dict[str, Curve | None] = {}
        for channel, rows in self.curves.items():
            table = clip.curves[channel].table if channel in clip.curves else np.zeros((0, 8))
            gone = np.concatenate([rows.removed[:, 0], rows.added[:, 0]])
            table = np.concatenate([table[~np.isin(table[:, 0], gone)], rows.added])
            changes[channel] = curves_of.from_table(table) if len(table) else None
        clip = clip.with_curves(changes)
        for frame, (_, new) in self.pending.items():
            clip = clip.with_pending(frame, new)
        if self.labels:
            clip = clip.with_labels({frame: new for frame, (_, new) in self.labels.items()})
        return clip if self.cycle is None else clip.with_cycle(self.cycle[1])

    def to_json(self) -> dict[str, Any]:
        """For :func:`orjson.dumps` with its option for NumPy: rows of keys are arrays where that is faster."""
        return {
            "curves": {
                ch: [curves_of.packed_rows(rows.removed), _added_to_json(rows)] for ch, rows in self.curves.items()
            },
            "pending": {
                str(frame): [None if v is None else dict(v) for v in change] for frame, change in self.pending.items()
            },
            "ranges": [list(span) for span in self.ranges],
            "labels": {
                str(frame): [None if label is None else label.to_json() for label in change]
                for frame, change in self.labels.items()
            },
            "cycle": None if self.cycle is None else [None if c is None else c.to_json() for c in self.cycle],
        }


def _added_to_json(rows: Rows) -> Any:
    """Keys that only moved are given by their new frames alone: half as long, and whole takes are often moved."""
    before, after = rows.removed, rows.added
    # Computed handles are not stored; where one was set by hand, all columns are.
    by_hand = bool(len(before)) and before[:, curves_of.BY_HAND].any()
    told = slice(curves_of.VALUE, None if by_hand else curves_of.BY_HAND + 1)
    if len(before) and np.array_equal(before[:, told], after[:, told]):
        return {"frames": after[:, curves_of.FRAME].astype(np.int64)}
    return curves_of.packed_rows(after)


def _rows_from_json(removed: Any, added: Any) -> Rows:
    before = curves_of.table_of(removed)
    if not isinstance(added, Mapping):
        return Rows(before, curves_of.table_of(added))
    after = before.copy()
    after[:, curves_of.FRAME] = added["frames"]
    return Rows(before, after)


def patch_from_json(data: Mapping[str, Any]) -> Patch:
    return Patch(
        {channel: _rows_from_json(removed, added) for channel, (removed, added) in data["curves"].items()},
        {int(frame): (old, new) for frame, (old, new) in data["pending"].items()},
        tuple((a, b) for a, b in data["ranges"]),
        {int(frame): (_label(old), _label(new)) for frame, (old, new) in data.get("labels", {}).items()},
        None if data.get("cycle") is None else (cycle_from_json(data["cycle"][0]), cycle_from_json(data["cycle"][1])),
    )


def _label(data: Mapping[str, Any] | None) -> Label | None:
    return None if data is None else label_from_json(data)


def difference(before: Clip, after: Clip) -> Patch:
    """The patch that leads from one clip to another; curves shared by both cost nothing."""
    nothing = np.zeros((0, 8))
    channels = [
        ch for ch in before.curves.keys() | after.curves.keys() if before.curves.get(ch) is not after.curves.get(ch)
    ]
    old = [before.curves[ch].table if ch in before.curves else nothing for ch in channels]
    new = [after.curves[ch].table if ch in after.curves else nothing for ch in channels]
    removed, added, reach = curves_of.compared(old, new)
    changed: dict[str, Rows] = {}
    spans: list[Span] = []
    for n, channel in enumerate(channels):
        if not len(removed[n]) and not len(added[n]) and np.array_equal(old[n], new[n]):
            continue
        changed[channel] = Rows(removed[n], added[n])
        first, last = reach[n]
        spans.append((None if first == _LOW else int(first), None if last == _HIGH else int(last)))
    waiting: dict[int, tuple[Values | None, Values | None]] = {}
    for frame in before.pending.keys() | after.pending.keys():
        was, now = before.pending.get(frame), after.pending.get(frame)
        if was is not now and dict(was or {}) != dict(now or {}):
            waiting[frame] = (was, now)
            spans.append((frame, frame))
    labels = {
        frame: (before.labels.get(frame), after.labels.get(frame))
        for frame in before.labels.keys() | after.labels.keys()
        if before.labels.get(frame) != after.labels.get(frame)
    }
    cycle = None if before.cycle == after.cycle else (before.cycle, after.cycle)
    if cycle is not None:
        spans.append((None, None))
    elif after.cycle is not None and _reaches_into(after.cycle, changed.values()):
        # One key may show again in every repeat, be held after the last, and be led up to before the first.
        spans.append((None, None))
    return Patch(changed, waiting, tuple(_merged(spans)), labels, cycle)


def _reaches_into(cycle: Cycle, rows: Iterable[Rows]) -> bool:
    """Whether a key changed among those that a cycle repeats."""
    for each in rows:
        frames = np.concatenate([each.removed[:, 0], each.added[:, 0]])
        if ((frames >= cycle.start) & (frames < cycle.source_end)).any() or not len(frames):
            return True
    return False


_LOW, _HIGH = curves_of.NO_FIRST, curves_of.NO_LAST


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
