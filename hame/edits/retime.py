"""Timing: inserting and removing frames, scaling about a frame, slowing by the phase, and holds.

Whatever happens, keys stay on whole frames and none goes without a word: two
that come to lie on one frame are named.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import replace

import numpy as np

from hame.character.rig import Rig
from hame.clip.clip import Clip
from hame.clip.curve import BY_HAND, FRAME, IN_TIME, OUT_TIME, SHAPE, STEP, Array, Curve, from_table, whole_frame
from hame.clip.cycle import played_curves
from hame.clip.marks import Label
from hame.edits.chosen import (
    chosen_frames,
    counted,
    curves_of,
    frames_of,
    listed,
    played_of,
    refuse_derived,
)  # fmt: skip
from hame.edits.outcome import Outcome
from hame.errors import BadEdit
from hame.measure.keyed import whole_columns

Warp = Callable[[Array], Array]  # frames as they are -> frames as they shall be, not yet whole


def insert_frames(clip: Clip, rig: Rig, after: int, count: int, controls: Iterable[str] | None = None) -> Outcome:
    """Makes room after a column, all later keys moving along; a negative ``count`` takes frames away.

    Keys on frames that are taken away go with them, which is said. Inside a
    cycle the cycle grows or shrinks, on both halves alike when one echoes the other.
    """
    after, count = whole_frame(after), whole_frame(count)
    names = None if controls is None else list(controls)
    if count == 0:
        return Outcome(clip)
    if clip.cycle is not None and clip.cycle.start <= after < clip.cycle.source_end and names is not None:
        raise BadEdit(
            "inside a cycle time can be inserted for the whole character only; free the cycle to do it for parts"
        )
    if clip.cycle is not None and clip.cycle.derives(after):
        refuse_derived(clip, [after])
    if not any(len(c) and c.table[-1, FRAME] > after for c in played_of(clip, rig, names).values()):
        raise BadEdit(f"there are no keys after frame {after}; nothing was moved")

    def warp(frames: Array) -> Array:
        return np.where(frames > after, frames + count, frames)

    gone: dict[int, int] = {}
    if count < 0:
        curves = curves_of(clip, rig, names)
        changes: dict[str, Curve | None] = {}
        for address, curve in curves.items():
            lost = (curve.table[:, FRAME] > after) & (curve.table[:, FRAME] <= after - count)
            if lost.any():
                for frame in curve.table[lost, FRAME].tolist():
                    gone[int(frame)] = gone.get(int(frame), 0) + 1
                changes[address] = from_table(curve.table[~lost]) if not lost.all() else None
        clip = clip.with_curves(changes)
        if names is None:
            clip = clip.with_labels({f: None for f in clip.labels if after < f <= after - count})
    outcome = _warped(clip, rig, warp, names)
    notes = (f"{counted(sum(gone.values()), 'key')} at {listed(gone)} went with the frames taken away",) if gone else ()
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
    if not frames_of(
        {a: c for a, c in curves_of(clip, rig, names).items() if np.isin(c.table[:, FRAME], wanted).any()}
    ):
        raise BadEdit(f"there are no keys at {listed(wanted)}; nothing was moved")
    return _warped(clip, rig, warp, names)


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

    return _warped(clip, rig, warp, None)


def phases_of(clip: Clip, rig: Rig, first: int | None = None, last: int | None = None) -> list[int]:
    """The frames of the poses that divide a motion into phases, the end of the cycle included."""
    keyed = set(clip.key_frames())
    named = {f for f in clip.labels if f in keyed}
    poses = named if len(named) > 1 else set(whole_columns(clip))
    if clip.cycle is not None:
        poses = {f for f in poses if clip.cycle.start <= f < clip.cycle.source_end}
        poses |= {clip.cycle.start, clip.cycle.source_end}
    low = -(10**9) if first is None else first
    high = 10**9 if last is None else last
    return sorted(f for f in poses if low <= f <= high)


def hold_pose(
    clip: Clip, rig: Rig, frame: int, count: int, drift: float = 0.0, push: bool = True,
    controls: Iterable[str] | None = None,
) -> Outcome:  # fmt: skip
    """Holds the pose of a column for so many frames more.

    The pose is repeated ``count`` frames later. With ``drift`` (0 to 0.5) it
    is laid that share of the way towards the next pose: a moving hold. Keys
    have handles of their own between both, so that it stays a hold whatever
    follows. With ``push`` everything later moves along; otherwise the time is
    taken out of the gap that follows.
    """
    frame, count = whole_frame(frame), whole_frame(count)
    if count < 1:
        raise BadEdit("a hold needs at least one frame")
    if not 0.0 <= drift <= 0.5:
        raise BadEdit("a moving hold drifts by 0 to 50 percent towards the next pose; beyond that it is no hold")
    refuse_derived(clip, [frame])
    names = None if controls is None else list(controls)
    held = {a: c for a, c in curves_of(clip, rig, names).items() if (c.table[:, FRAME] == frame).any()}
    if not held:
        raise BadEdit(f"there are no keys at frame {frame} to hold")
    played = played_curves(clip, rig)
    goals: dict[str, float] = {}
    nearest = 10**9
    for address in held:
        table = played[address].table
        later = table[table[:, FRAME] > frame]
        if len(later):
            nearest = min(nearest, int(later[0, FRAME]))
            goals[address] = float(later[0, 1])
    if not push and nearest <= frame + count:
        raise BadEdit(
            f"the next keys are at {nearest}; a hold up to {frame + count} has no room, unless later keys move along"
        )
    if not push:
        refuse_derived(clip, [frame + count])
    if push and nearest < 10**9:
        clip = insert_frames(clip, rig, frame, count, names).clip
    changes: dict[str, Curve | None] = {}
    for address in held:
        table = clip.curves[address].table
        at = int(np.flatnonzero(table[:, FRAME] == frame)[0])
        first, second = table[at].copy(), table[at].copy()
        second[FRAME] = frame + count
        way = (goals.get(address, first[1]) - first[1]) * drift
        second[1] += way
        if first[SHAPE] != STEP:
            # Straight between the two, so that no slope of what follows opens the hold.
            first[OUT_TIME], first[OUT_TIME + 1] = count / 3.0, way / 3.0
            second[IN_TIME], second[IN_TIME + 1] = -count / 3.0, -way / 3.0
            first[BY_HAND] = second[BY_HAND] = 1.0
            before = table[at - 1, FRAME] if at else frame - count
            first[IN_TIME], first[IN_TIME + 1] = (before - frame) / 3.0, (before - frame) / 3.0 * way / count
            following = table[at + 1, FRAME] if at + 1 < len(table) else frame + 2 * count
            out = (following - frame - count) / 3.0
            second[OUT_TIME], second[OUT_TIME + 1] = out, out * way / count
        rest = np.delete(table, at, axis=0)
        changes[address] = from_table(np.concatenate([rest, first[None], second[None]]))
    clip = clip.with_curves(changes)
    if names is None and frame in clip.labels:
        name = clip.labels[frame].name
        clip = clip.with_labels({frame + count: Label(f"{name} held" if name else "Held", "in-between")})
    return Outcome(clip)


def extend_cycle(clip: Clip, before: Clip) -> Clip:
    """Kept for callers that changed the length of a cycle: repeats as many times as before."""
    old, new = before.cycle, clip.cycle
    if old is None or new is None or old.length == new.length:
        return clip
    times = (old.until - old.start) / old.length
    return clip.with_cycle(replace(new, until=int(round(new.start + times * new.length))))


def _warped(clip: Clip, rig: Rig, warp: Warp, controls: Sequence[str] | None) -> Outcome:
    """Moves keys by a warp of time; with the whole character, labels, pending poses and the cycle move too."""
    before = clip
    cycle = clip.cycle
    if cycle is not None:
        start, end = (int(f) for f in _whole(warp(np.array([cycle.start, cycle.source_end], float))))
        if controls is not None and (start, end) != (cycle.start, cycle.source_end):
            raise BadEdit("the length of a cycle can only be changed for the whole character; free the cycle first")
        length = (end - start) * (2 if cycle.echo else 1)
        changed = replace(cycle, start=start, end=start + length, until=0)
        clip = extend_cycle(clip.with_cycle(changed), before)
        cycle = clip.cycle
    changes: dict[str, Curve | None] = {}
    merged: dict[int, int] = {}
    for address, curve in curves_of(clip, rig, controls).items():
        frames = curve.table[:, FRAME]
        if before.cycle is not None and cycle is not None:
            # What lies after all repeats moves as much as they grew.
            late = frames > before.cycle.until
            moved = np.where(late, frames + cycle.until - before.cycle.until, _whole(warp(frames)))
        else:
            moved = _whole(warp(frames))
        if (moved == frames).all():
            continue
        table = curve.table.copy()
        _handles_along(table, frames, moved)
        table[:, FRAME] = moved
        changes[address] = _settled(table, frames, moved, merged)
    for frame in merged:
        whole_frame(frame)
    clip = clip.with_curves(changes)
    if controls is None:
        clip = _marks_along(clip, lambda f: int(_whole(warp(np.array([f], float)))[0]))
    if not changes and clip.cycle == before.cycle:
        return Outcome(before, ("no key had to move",))
    notes = tuple(
        f"{counted(count, 'key')} fell on frame {frame} together with others; of each channel the later one was kept"
        for frame, count in sorted(merged.items())
    )
    return Outcome(clip, notes)


def _whole(frames: Array) -> Array:
    return np.floor(frames + 0.5)


def _handles_along(table: Array, before: Array, after: Array) -> None:
    """Handles set by hand keep their share of the gap, in place."""
    if not table[:, BY_HAND].any() or len(table) < 2:
        return
    was, now = np.diff(before), np.diff(after)
    share = np.divide(now, was, out=np.ones_like(was), where=was > 0)
    table[1:, IN_TIME] *= share
    table[:-1, OUT_TIME] *= share


def _settled(table: Array, before: Array, after: Array, merged: dict[int, int]) -> Curve:
    """The curve of keys that moved, in order; of several on one frame one is kept and the loss counted.

    A key that moved replaces one that stayed; of two that moved the later one stays.
    """
    order = np.lexsort((before, before != after, table[:, FRAME]))
    table = table[order]
    last = np.append(table[1:, FRAME] != table[:-1, FRAME], True)
    for frame in table[~last, FRAME].tolist():
        merged[int(frame)] = merged.get(int(frame), 0) + 1
    return from_table(table[last])


def _marks_along(clip: Clip, frame_of: Callable[[int], int]) -> Clip:
    labels = {frame_of(f): label for f, label in clip.labels.items()}
    clip = clip.with_labels({**{f: None for f in clip.labels if f not in labels}, **labels})
    pending: dict[int, Mapping[str, float]] = {}
    for frame, values in sorted(clip.pending.items()):
        pending.setdefault(frame_of(frame), {})
        pending[frame_of(frame)] = {**pending[frame_of(frame)], **values}
    for frame in list(clip.pending):
        clip = clip.with_pending(frame, None)
    for frame, values in pending.items():
        clip = clip.with_pending(frame, values)
    return clip
