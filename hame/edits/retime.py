"""Timing: inserting and removing frames, scaling about a frame, slowing by the phase, and holds.

Whatever happens, keys stay on whole frames and none goes without a word: two
that come to lie on one frame are named.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from hame.character.rig import Rig
from hame.clip.clip import Clip
from hame.clip.curve import Stack, stacked, unstacked
from hame.clip.key import FRAME, HANDLES, IN_TIME, OUT_TIME, Array, spots, whole_frame
from hame.clip.marks import Label
from hame.clip.spans import Reach, Warp, whole_frames
from hame.clip.way import ways_of
from hame.edits.chosen import (
    chosen_frames,
    counted,
    curves_of,
    listed,
    played_of,
    refuse_derived,
    refuse_hidden,
)  # fmt: skip
from hame.edits.edit import Controls, Count, Edit, Frame, Frames, Within, frames_said, of_said
from hame.edits.outcome import Outcome
from hame.edits.spans import cut, refuse_moves
from hame.edits.spans import warped as warped_spans
from hame.errors import BadEdit
from hame.measure.keyed import whole_columns
from hame.scene.scene import Scene

DRIFT = Within(
    0.0, 0.5, "share", "a moving hold drifts by 0 to 50 percent towards the next pose; beyond that it is no hold"
)


def insert_frames(clip: Clip, rig: Rig, after: int, count: int, controls: Iterable[str] | None = None) -> Outcome:
    """Makes room after a column, all later keys moving along; a negative ``count`` takes frames away.

    Keys on frames that are taken away go with them, which is said. A cycle
    grows or shrinks when that is inside it, on both halves alike when one echoes the other.
    """
    after, count = whole_frame(after), whole_frame(count)
    names = None if controls is None else list(controls)
    if count == 0:
        return Outcome(clip)
    refuse_derived(clip, [after])
    ways = names is None and any(way.end > after for way in ways_of(clip))
    keyed = played_of(clip, rig, names, after, after).values()
    if not ways and not any(len(c) and c.table[-1, FRAME] > after for c in keyed):
        raise BadEdit(f"there are no keys after frame {after}; nothing was moved")

    def warp(frames: Array) -> Array:
        return np.where(frames > after, frames + count, frames)

    gone: dict[int, int] = {}
    waiting: list[int] = []
    notes: list[str] = []
    if count < 0:
        clip, notes = cut(clip, after, -count, names)
        stack = stacked(curves_of(clip, rig, names))
        lost = (stack.keys[:, FRAME] > after) & (stack.keys[:, FRAME] <= after - count)
        for frame in stack.keys[lost, FRAME].tolist():
            gone[int(frame)] = gone.get(int(frame), 0) + 1
        kept = unstacked(Stack(stack.addresses, stack.owner[~lost], stack.keys[~lost]))
        touched = {stack.addresses[n] for n in np.unique(stack.owner[lost]).tolist()}
        changes = {address: kept.get(address) for address in touched}
        clip = clip.with_curves(changes)
        if names is None:
            clip = clip.with_labels({f: None for f in clip.labels if after < f <= after - count})
            waiting = [f for f in clip.pending if after < f <= after - count]
            for frame in waiting:
                clip = clip.with_pending(frame, None)
    outcome = warped(clip, rig, warp, names)
    if gone:
        notes.append(f"{counted(sum(gone.values()), 'key')} at {listed(gone)} went with the frames taken away")
    if waiting:
        notes.append(f"the pose pending at {listed(waiting)} went with the frames taken away; undo brings it back")
    return Outcome(outcome.clip, (*notes, *outcome.notes))


def scale_time(
    clip: Clip,
    rig: Rig,
    frames: Sequence[int],
    about: int,
    factor: float,
    controls: Iterable[str] | None = None,
    along: bool = False,
) -> Outcome:
    """Scales the timing of chosen columns about a frame, to whole frames.

    With ``along``, all later keys move by as much as the last chosen one does
    (so that halving a gap leaves what follows as it is).

    Raises
    ------
    BadEdit
        If ``factor`` is not above zero: all keys would fall on one frame.
    """
    wanted, about = sorted(chosen_frames(frames)), whole_frame(about)
    if not np.isfinite(factor) or factor <= 0:
        raise BadEdit(f"timing cannot be scaled by {factor:g}: all keys would fall on frame {about}; nothing was moved")
    refuse_derived(clip, wanted)
    last = wanted[-1]
    after_last = about + (last - about) * factor

    def warp(found: Array) -> Array:
        scaled = np.where(np.isin(found, wanted), about + (found - about) * factor, found)
        if along:
            scaled = np.where(found > last, found + np.floor(after_last - last + 0.5), scaled)
        return scaled

    names = None if controls is None else list(controls)
    if not np.isin(stacked(curves_of(clip, rig, names)).keys[:, FRAME], wanted).any():
        raise BadEdit(f"there are no keys at {listed(wanted)}; nothing was moved")
    return warped(clip, rig, warp, names)


def slow_by_phase(clip: Clip, rig: Rig, count: int = 1, first: int | None = None, last: int | None = None) -> Outcome:
    """Gives every phase so many frames more (or fewer): each gap between the named poses, or between full columns.

    Keys between two poses keep their distance from the pose before, so that
    delays of parts stay what they were.
    """
    count = whole_frame(count)
    poses = phases_of(clip, rig, first, last)
    if len(poses) < 2:
        raise BadEdit("there are not two poses to give time between; name the poses or key them whole")
    gaps = np.diff(poses)
    if (gaps + count < 1).any():
        tight = poses[int(np.argmin(gaps))]
        raise BadEdit(f"the phase from {tight} has {counted(int(gaps.min()), 'frame')}; it cannot lose {-count}")
    moved = np.array(poses) + count * np.arange(len(poses))

    def warp(frames: Array) -> Array:
        at = np.clip(np.searchsorted(poses, frames, side="right") - 1, 0, len(poses) - 1)
        kept = np.where(frames >= poses[0], moved[at] + frames - np.array(poses)[at], frames)
        if count < 0:  # a key close before the next pose may not run past it
            ends = np.append(moved[1:], 10**9)[at]
            kept = np.minimum(kept, np.where(np.isin(frames, poses), kept, ends - 1))
        return kept

    return warped(clip, rig, warp, None)


def phases_of(clip: Clip, rig: Rig, first: int | None = None, last: int | None = None) -> list[int]:
    """The frames of the poses that divide a motion into phases, the end of the cycle included."""
    keyed = set(clip.key_frames())
    named = {f for f in clip.labels if f in keyed}
    poses = named if len(named) > 1 else set(whole_columns(clip))
    for _, span in clip.spans():
        poses = span.phases(poses)
    low = -(10**9) if first is None else first
    high = 10**9 if last is None else last
    return sorted(f for f in poses if low <= f <= high)


def warped(clip: Clip, rig: Rig, warp: Warp, controls: Sequence[str] | None) -> Outcome:
    """Moves keys by a warp of time; with the whole character, labels, pending poses and spans move too.

    Raises
    ------
    BadEdit
        If a span cannot go along, such as a cycle that would have no length or show other poses.
    """
    before = clip
    clip, warp, became, gone = warped_spans(clip, warp, controls)
    stack = stacked(curves_of(clip, rig, controls))
    frames = stack.keys[:, FRAME].copy()
    moved = whole_frames(warp(frames))
    refuse_moves(became, frames, moved)
    touched = np.isin(stack.owner, np.unique(stack.owner[moved != frames]))
    stack = Stack(stack.addresses, stack.owner[touched], stack.keys[touched])
    frames, moved = frames[touched], moved[touched]
    _handles_along(stack, frames, moved)
    stack.keys[:, FRAME] = moved
    merged: dict[int, int] = {}
    changes = unstacked(_settled(stack, frames, moved, merged))
    for frame in (moved.min(), moved.max()) if len(moved) else ():
        whole_frame(float(frame))
    clip = clip.with_curves(changes)
    notes = [
        f"{counted(count, 'key')} fell on frame {frame} together with others; of each channel the later one was kept"
        for frame, count in sorted(merged.items())
    ]
    if controls is None:
        clip, more = _marks_along(clip, lambda f: int(whole_frames(warp(np.array([f], float)))[0]))
        notes += more
    notes += gone
    refuse_hidden(clip)
    if not changes and clip.tracks == before.tracks:
        return Outcome(before, ("no key had to move",))
    return Outcome(clip, tuple(notes))


def _handles_along(stack: Stack, before: Array, after: Array) -> None:
    """Handles set by hand keep their share of the gap, in place."""
    keys = stack.keys
    if not keys[:, HANDLES].any():
        return
    was, now = np.diff(before), np.diff(after)
    share = np.divide(now, was, out=np.ones_like(was), where=(was > 0) & (np.diff(stack.owner) == 0))
    keys[1:, IN_TIME] *= share
    keys[:-1, OUT_TIME] *= share


def _settled(stack: Stack, before: Array, after: Array, merged: dict[int, int]) -> Stack:
    """Keys that moved, in order; of several of one channel on one frame one is kept and the loss counted.

    A key that moved replaces one that stayed; of two that moved the later one stays.
    """
    if (np.diff(spots(stack.owner, after)) > 0).all():
        return stack
    order = np.lexsort((before, before != after, after, stack.owner))
    owner, keys = stack.owner[order], stack.keys[order]
    last = np.append((np.diff(keys[:, FRAME]) != 0) | (np.diff(owner) != 0), True)
    for frame in keys[~last, FRAME].tolist():
        merged[int(frame)] = merged.get(int(frame), 0) + 1
    return Stack(stack.addresses, owner[last], keys[last])


def _marks_along(clip: Clip, frame_of: Callable[[int], int]) -> tuple[Clip, list[str]]:
    """Names and pending poses moved with their frames, and what is to be said of those that fell together."""
    notes: list[str] = []
    labels: dict[int, Label] = {}
    for frame, label in sorted(clip.labels.items()):
        to = frame_of(frame)
        if to in labels and labels[to].name and labels[to].name != label.name:
            notes.append(f"the name {labels[to].name} gave way to {label.name or 'none'}: both fell on frame {to}")
        labels[to] = label
    clip = clip.with_labels({**{f: None for f in clip.labels if f not in labels}, **labels})
    pending: dict[int, Mapping[str, float]] = {}
    for frame, values in sorted(clip.pending.items()):
        to = frame_of(frame)
        if to in pending:
            notes.append(f"poses pending on several frames fell on {to} and became one")
        pending[to] = {**pending.get(to, {}), **values}
    for frame in list(clip.pending):
        clip = clip.with_pending(frame, None)
    for frame, values in pending.items():
        clip = clip.with_pending(frame, values)
    return clip, notes


@dataclass(frozen=True, kw_only=True)
class InsertFrames(Edit):
    """Frames made (or, below zero, taken away) after a column."""

    kind: Literal["insert"] = "insert"
    after: Frame
    count: Count
    controls: Controls = None

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        return insert_frames(clip, rig, self.after, self.count, self.controls)

    def moves_time(self) -> Reach | None:
        return self.after + 1, None

    def label(self, rig: Rig, scene: Scene) -> str:
        way = "Insert" if self.count > 0 else "Remove"
        parts = of_said(rig, self.controls)
        return f"{way} {counted(abs(self.count), 'frame')} after {self.after}{parts}"


@dataclass(frozen=True, kw_only=True)
class ScaleTime(Edit):
    """The timing of chosen columns scaled about a frame."""

    kind: Literal["scale"] = "scale"
    frames: Frames
    about: Frame
    factor: float
    controls: Controls = None
    along: bool = False

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        return scale_time(clip, rig, self.frames, self.about, self.factor, self.controls, self.along)

    def moves_time(self) -> Reach | None:
        return (min(self.frames), None if self.along else max(self.frames)) if self.frames else None

    def label(self, rig: Rig, scene: Scene) -> str:
        what = f"{frames_said(self.frames)} by {self.factor:g} about {self.about}"
        return f"Scale timing of {what}{of_said(rig, self.controls)}"


@dataclass(frozen=True, kw_only=True)
class SlowByPhase(Edit):
    """So many frames more (or fewer) for every phase."""

    kind: Literal["slow"] = "slow"
    count: Count
    first: Frame | None = None
    last: Frame | None = None

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        return slow_by_phase(clip, rig, self.count, self.first, self.last)

    def moves_time(self) -> Reach | None:
        return self.first, None

    def label(self, rig: Rig, scene: Scene) -> str:
        return f"{self.count:+d} frame{'' if abs(self.count) == 1 else 's'} a phase"
