"""The motion of one character: keyed channels, pending poses, pose labels, and spans on tracks.

A :class:`Clip` is a value. An edit makes a new one that shares every curve it
did not touch, so the difference of two clips (a :class:`Patch`) is found by
comparing references, and an undo step is that difference read backwards.
"""

from __future__ import annotations

from collections.abc import Callable, Hashable, Iterable, Iterator, Mapping
from dataclasses import dataclass, field, replace
from functools import cached_property
from types import MappingProxyType
from typing import Any, TypeVar

import numpy as np

import hame.clip.answers
import hame.clip.belonging  # noqa: F401  kinds of span have to be known before one is read
import hame.clip.counter
import hame.clip.cycle
import hame.clip.footdown
import hame.clip.layer
import hame.clip.living
import hame.clip.plants
import hame.clip.shake
import hame.clip.through
import hame.clip.way  # noqa: F401
from hame.clip.comparing import compared
from hame.clip.curve import Curve, from_table
from hame.clip.curve import from_json as curve_from_json
from hame.clip.key import FRAME, HANDLES, NO_FIRST, NO_LAST, STRENGTH, VALUE, WIDTH, Array, no_keys
from hame.clip.marks import Label, label_from_json
from hame.clip.quantities import quantity_at
from hame.clip.remembered import Remembered
from hame.clip.rows import packed_columns, packed_parts, rows_of, table_of
from hame.clip.spans import Reach, Span, Spans, Tracks, ordered, spans_from_json, tracks_to_json

Values = Mapping[str, float]
T = TypeVar("T")


@dataclass(frozen=True)
class Clip:
    """What is stored of a motion.

    Attributes
    ----------
    curves : by channel address (``"hand.L/tx"``); only keys that no span
        derives (see :func:`hame.clip.played.played_curves`)
    pending : by frame, poses that wait to be keyed
    labels : by frame, what a pose is called and how it ranks
    tracks : by name, spans in the order of time (see :mod:`hame.clip.spans`)
    """

    curves: Mapping[str, Curve] = field(default_factory=lambda: MappingProxyType({}))
    pending: Mapping[int, Values] = field(default_factory=lambda: MappingProxyType({}))
    labels: Mapping[int, Label] = field(default_factory=lambda: MappingProxyType({}))
    tracks: Tracks = field(default_factory=lambda: MappingProxyType({}))
    _memo: Remembered = field(default_factory=Remembered, init=False, repr=False, compare=False)

    def remembered(self, key: Hashable, make: Callable[[], T]) -> T:
        """What follows from the clip alone and takes a while, made once and kept within bounds."""
        return self._memo.get(key, make, self.curves.values())

    def weight(self) -> int:
        """About how many bytes it takes, with what is remembered of it."""
        pending = sum(len(values) for values in self.pending.values())
        return 8 * WIDTH * self.key_count() + 500 * len(self.curves) + 100 * pending + 2000 + self._memo.weight

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

    def with_tracks(self, changes: Mapping[str, Iterable[Span]]) -> Clip:
        """The clip with the spans of some tracks replaced.

        Raises
        ------
        BadEdit
            If two spans of one track would overlap.
        """
        merged = {**self.tracks, **{track: ordered(track, spans) for track, spans in changes.items()}}
        return replace(self, tracks=MappingProxyType({track: spans for track, spans in merged.items() if spans}))

    def spans(self) -> Iterator[tuple[str, Span]]:
        """All spans with their tracks."""
        for track, spans in self.tracks.items():
            for span in spans:
                yield track, span

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
        """Labels and tracks alone."""
        return {
            "labels": {str(frame): label.to_json() for frame, label in self.labels.items()},
            "tracks": tracks_to_json(self.tracks),
        }


def from_json(data: Mapping[str, Any]) -> Clip:
    """A clip of what :meth:`Clip.to_json` made; raises :class:`~hame.errors.BadEdit` on bad keys."""
    clip = Clip().with_curves({ch: curve_from_json(rows) for ch, rows in data["curves"].items()})
    for frame, values in data.get("pending", {}).items():
        clip = clip.with_pending(int(frame), values)
    clip = clip.with_labels({int(f): label_from_json(label) for f, label in data.get("labels", {}).items()})
    return clip.with_tracks({track: spans_from_json(track, spans) for track, spans in data.get("tracks", {}).items()})


@dataclass(frozen=True)
class Rows:
    """What changed in one curve: keys that were there (K, 9), and keys that are there now (L, 9)."""

    removed: Array
    added: Array


@dataclass(frozen=True)
class Swap:
    """What changed on one track: spans that were there, and spans that are there now."""

    removed: Spans
    added: Spans


@dataclass(frozen=True)
class Patch:
    """The difference of two clips, readable both ways.

    Attributes
    ----------
    curves : by channel, only the keys that differ
    pending : by frame, the pending pose before and after
    ranges : frames on which the motion may differ, from and to; None is without end on that side
    labels : by frame, the label before and after
    tracks : by name, only the spans that differ
    """

    curves: Mapping[str, Rows]
    pending: Mapping[int, tuple[Values | None, Values | None]]
    ranges: tuple[Reach, ...] = ()
    labels: Mapping[int, tuple[Label | None, Label | None]] = field(default_factory=dict)
    tracks: Mapping[str, Swap] = field(default_factory=dict)

    def __bool__(self) -> bool:
        return bool(self.curves or self.pending or self.labels or self.tracks)

    def size(self) -> int:
        """How much it holds: keys, and a few for everything else."""
        return sum(len(rows.removed) + len(rows.added) for rows in self.curves.values()) + 10

    @cached_property
    def moved_to(self) -> Mapping[str, Array]:
        """By channel, of keys that only moved the new frames (K,) in the order of those ``removed``: as they are told
        and stored, half as long; whole takes are often moved.
        """
        alike = {ch: rows for ch, rows in self.curves.items() if 0 < len(rows.removed) == len(rows.added)}
        if not alike:
            return {}
        before = np.concatenate([rows.removed for rows in alike.values()])
        after = np.concatenate([rows.added for rows in alike.values()])
        starts = np.cumsum([0, *(len(rows.removed) for rows in alike.values())])[:-1]
        # Computed handles are not stored; where one was set by hand, all columns are.
        differs = (before[:, VALUE : HANDLES + 1] != after[:, VALUE : HANDLES + 1]).any(axis=1)
        differs |= before[:, STRENGTH] != after[:, STRENGTH]
        changed = np.logical_or.reduceat(differs, starts)
        by_hand = np.logical_or.reduceat(before[:, HANDLES] != 0.0, starts)
        if by_hand.any():
            changed |= by_hand & np.logical_or.reduceat((before[:, VALUE:] != after[:, VALUE:]).any(axis=1), starts)
        same = ~changed
        return {
            channel: rows.added[:, FRAME].astype(np.int64)
            for (channel, rows), moved in zip(alike.items(), same.tolist(), strict=True)
            if moved
        }

    def reversed(self) -> Patch:
        return Patch(
            {channel: Rows(rows.added, rows.removed) for channel, rows in self.curves.items()},
            {frame: (new, old) for frame, (old, new) in self.pending.items()},
            self.ranges,
            {frame: (new, old) for frame, (old, new) in self.labels.items()},
            {track: Swap(swap.added, swap.removed) for track, swap in self.tracks.items()},
        )

    def apply(self, clip: Clip) -> Clip:
        """The clip after the patch; keys and spans it does not name stay as they are.

        Raises
        ------
        BadEdit
            If spans would overlap others that have come since.
        """
        changes: dict[str, Curve | None] = {}
        for channel, rows in self.curves.items():
            table = clip.curves[channel].table if channel in clip.curves else no_keys()
            gone = np.concatenate([rows.removed[:, 0], rows.added[:, 0]])
            table = np.concatenate([table[~np.isin(table[:, 0], gone)], rows.added])
            changes[channel] = from_table(table) if len(table) else None
        clip = clip.with_curves(changes)
        for frame, (_, new) in self.pending.items():
            clip = clip.with_pending(frame, new)
        if self.labels:
            clip = clip.with_labels({frame: new for frame, (_, new) in self.labels.items()})
        swapped = {
            track: [span for span in clip.tracks.get(track, ()) if span not in swap.removed] + list(swap.added)
            for track, swap in self.tracks.items()
        }
        return clip.with_tracks(swapped) if swapped else clip

    def stands_on(self, clip: Clip) -> bool:
        """Whether all that it takes away is there, and nothing where it lays something new."""
        for channel, rows in self.curves.items():
            there = {row[0]: row for row in rows_of(clip.curves[channel].table)} if channel in clip.curves else {}
            gone = {row[0]: row for row in rows_of(rows.removed)}
            frames = gone.keys() | {row[0] for row in rows_of(rows.added)}
            if any(there.get(frame) != gone.get(frame) for frame in frames):
                return False
        return (
            all(dict(clip.pending.get(f, {})) == dict(old or {}) for f, (old, _) in self.pending.items())
            and all(clip.labels.get(f) == old for f, (old, _) in self.labels.items())
            and all(set(swap.removed) <= set(clip.tracks.get(track, ())) for track, swap in self.tracks.items())
        )

    def touches(self, other: Patch) -> bool:
        """Whether two patches have to do with the same: a channel, a frame that waits or is named, a track."""
        return any(
            a.keys() & b.keys()
            for a, b in (
                (self.curves, other.curves), (self.pending, other.pending), (self.labels, other.labels),
                (self.tracks, other.tracks),
            )
        )  # fmt: skip

    def frames(self) -> set[int]:
        """The frames of the keys, poses, names and ends of spans that it takes away or lays."""
        found = {
            int(frame) for rows in self.curves.values() for part in (rows.removed, rows.added) for frame in part[:, 0]
        }
        found |= self.pending.keys() | self.labels.keys()
        for swap in self.tracks.values():
            found |= {frame for span in (*swap.removed, *swap.added) for frame in (span.start, span.end)}
        return found

    def says_the_same(self, other: Patch) -> bool:
        """Whether two patches make the same difference; computed handles follow from the keys and do not count."""
        return bool(self._said() == other._said())

    def _said(self) -> Any:
        return (
            {ch: (rows_of(rows.removed), rows_of(rows.added)) for ch, rows in self.curves.items()},
            {f: (dict(old or {}), dict(new or {})) for f, (old, new) in self.pending.items()},
            dict(self.labels),
            dict(self.tracks),
        )

    @cached_property
    def added(self) -> Mapping[str, Any]:
        """By channel the keys that are there now, packed, but for channels whose keys only moved."""
        laid = {ch: rows.added for ch, rows in self.curves.items() if ch not in self.moved_to}
        return dict(zip(laid, packed_parts(list(laid.values())), strict=True))

    def to_json(self) -> dict[str, Any]:
        """For :func:`orjson.dumps` with its option for NumPy: rows of keys are arrays where that is faster."""
        gone = packed_columns([rows.removed for rows in self.curves.values()])
        laid = packed_columns([rows.added for ch, rows in self.curves.items() if ch not in self.moved_to])
        new = dict(zip((ch for ch in self.curves if ch not in self.moved_to), laid, strict=True))
        return {
            "curves": {
                ch: [rows, {"frames": self.moved_to[ch]} if ch in self.moved_to else new[ch]]
                for ch, rows in zip(self.curves, gone, strict=True)
            },
            "pending": {
                str(frame): [None if v is None else dict(v) for v in change] for frame, change in self.pending.items()
            },
            "ranges": [list(span) for span in self.ranges],
            "labels": {
                str(frame): [None if label is None else label.to_json() for label in change]
                for frame, change in self.labels.items()
            },
            "tracks": {
                track: [[span.to_json() for span in spans] for spans in (swap.removed, swap.added)]
                for track, swap in self.tracks.items()
            },
        }


def _rows_from_json(removed: Any, added: Any) -> Rows:
    before = table_of(removed)
    if not isinstance(added, Mapping) or "values" in added:
        return Rows(before, table_of(added))
    after = before.copy()
    after[:, FRAME] = added["frames"]
    return Rows(before, after)


def patch_from_json(data: Mapping[str, Any]) -> Patch:
    return Patch(
        {channel: _rows_from_json(removed, added) for channel, (removed, added) in data["curves"].items()},
        {int(frame): (old, new) for frame, (old, new) in data["pending"].items()},
        tuple((a, b) for a, b in data["ranges"]),
        {int(frame): (_label(old), _label(new)) for frame, (old, new) in data.get("labels", {}).items()},
        {track: Swap(*(spans_from_json(track, spans) for spans in swap)) for track, swap in _tracks(data).items()},
    )


def _tracks(data: Mapping[str, Any]) -> Mapping[str, Any]:
    """The tracks of a stored patch; one stored before there were tracks holds its cycle alone, before and after."""
    if data.get("cycle") is not None:
        return {"cycle": [[] if cycle is None else [cycle] for cycle in data["cycle"]]}
    found: Mapping[str, Any] = data.get("tracks", {})
    return found


def _label(data: Mapping[str, Any] | None) -> Label | None:
    return None if data is None else label_from_json(data)


def difference(before: Clip, after: Clip) -> Patch:
    """The patch that leads from one clip to another; curves shared by both cost nothing."""
    nothing = no_keys()
    channels = [
        ch for ch in before.curves.keys() | after.curves.keys() if before.curves.get(ch) is not after.curves.get(ch)
    ]
    old = [before.curves[ch].table if ch in before.curves else nothing for ch in channels]
    new = [after.curves[ch].table if ch in after.curves else nothing for ch in channels]
    removed, added, reach = compared(old, new)
    changed: dict[str, Rows] = {}
    spread: set[tuple[float, float]] = set()  # most channels differ on the same frames
    for channel, gone, laid, was, now, (first, last) in zip(
        channels, removed, added, old, new, reach.tolist(), strict=True
    ):
        if len(gone) or len(laid) or not np.array_equal(was, now):
            changed[channel] = Rows(gone, laid)
            spread.add((first, last))
    ranges: list[Reach] = [
        (None if first == NO_FIRST else int(first), None if last == NO_LAST else int(last)) for first, last in spread
    ]
    waiting: dict[int, tuple[Values | None, Values | None]] = {}
    for frame in before.pending.keys() | after.pending.keys():
        had, has = before.pending.get(frame), after.pending.get(frame)
        if had is not has and dict(had or {}) != dict(has or {}):
            waiting[frame] = (had, has)
            ranges.append((frame, frame))
    labels = {
        frame: (before.labels.get(frame), after.labels.get(frame))
        for frame in before.labels.keys() | after.labels.keys()
        if before.labels.get(frame) != after.labels.get(frame)
    }
    tracks = _swapped(before.tracks, after.tracks)
    ranges += [span.reach() for swap in tracks.values() for span in (*swap.removed, *swap.added)]
    if any(quantity_at(address) for address in changed):
        ranges.append((None, None))  # how a way is gone has a say on all that it poses
    spreading = [span for _, span in after.spans() if type(span).spreads is not Span.spreads]
    if spreading:
        keys = [np.concatenate([rows.removed[:, FRAME], rows.added[:, FRAME]]) for rows in changed.values()]
        for span in spreading:
            ranges += [wide for each in keys if (wide := span.spreads(each)) is not None][:1]
    return Patch(changed, waiting, tuple(_merged(ranges)), labels, tracks)


def _swapped(before: Tracks, after: Tracks) -> dict[str, Swap]:
    found = {}
    for track in before.keys() | after.keys():
        was, now = before.get(track, ()), after.get(track, ())
        if was != now:
            found[track] = Swap(tuple(s for s in was if s not in now), tuple(s for s in now if s not in was))
    return found


def _merged(spans: list[Reach]) -> list[Reach]:
    low, high = -(10**9), 10**9
    plain = sorted((low if a is None else a, high if b is None else b) for a, b in spans)
    merged: list[list[int]] = []
    for a, b in plain:
        if merged and a <= merged[-1][1] + 1:
            merged[-1][1] = max(merged[-1][1], b)
        else:
            merged.append([a, b])
    return [(None if a == low else a, None if b == high else b) for a, b in merged]
