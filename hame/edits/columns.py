"""Moving, duplicating, deleting and pasting columns: all keys of a character (or of some controls) at a frame."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Literal

from hame.character.rig import Rig
from hame.clip.clip import Clip
from hame.clip.curve import with_keys
from hame.clip.cycles import cycles_of, with_cycles
from hame.clip.key import BEZIER, SHAPES, ShapeName, whole_frame
from hame.clip.played import stored_value
from hame.clip.spans import Reach
from hame.edits.chosen import (
    Keys,
    addresses_of,
    chosen_frames,
    counted,
    curves_of,
    listed,
    refuse_derived,
    refuse_hidden,
)
from hame.edits.edit import Controls, Count, Edit, Frame, Frames, Values, frames_said, of_said
from hame.edits.keys import delete_keys, duplicate_keys, move_keys
from hame.edits.mirror import Mirroring, lacking_note, mirrored_values
from hame.edits.outcome import Outcome
from hame.edits.pose import check_values, limits_of, said
from hame.edits.spans import carried, copied
from hame.errors import BadEdit
from hame.scene.scene import Scene


def move_columns(
    clip: Clip, rig: Rig, frames: Sequence[int], by: int, controls: Iterable[str] | None = None
) -> Outcome:
    """Moves the keys at ``frames`` by whole frames, labels and spans along; what they replace is said."""
    names = None if controls is None else list(controls)
    outcome = move_keys(clip, rig, _keys(clip, rig, frames, names), by)
    outcome = Outcome(carried(outcome.clip, rig, chosen_frames(frames), by, names), outcome.notes)
    if by and controls is None:
        gone = {f: None for f in chosen_frames(frames) if f in clip.labels}
        moved = {f + by: clip.labels[f] for f in gone}
        lost = [clip.labels[f].name for f in moved if f in clip.labels and f not in gone and clip.labels[f].name]
        notes = (f"the name {', '.join(lost)} gave way to that of the column moved there",) if lost else ()
        return Outcome(outcome.clip.with_labels({**gone, **moved}), (*outcome.notes, *notes))
    return outcome


def duplicate_columns(
    clip: Clip, rig: Rig, frames: Sequence[int], by: int, controls: Iterable[str] | None = None
) -> Outcome:
    """Repeats the keys at ``frames`` so many frames later (or earlier); keys that are there are replaced, which is
    said.
    """
    names = None if controls is None else list(controls)
    outcome = duplicate_keys(clip, rig, _keys(clip, rig, frames, names), by)
    wanted = chosen_frames(frames)
    after = copied(outcome.clip, clip, rig, min(wanted), max(wanted), by, names)
    if names is not None or not by:
        return Outcome(after, outcome.notes)
    after, notes = _with_whole_cycles(after, clip, set(wanted), by)
    return Outcome(after, (*outcome.notes, *notes))


def _with_whole_cycles(after: Clip, clip: Clip, wanted: set[int], by: int) -> tuple[Clip, list[str]]:
    """The clip with those cycles again, ``by`` frames later, of which every column is among the wanted ones."""
    frames = clip.key_frames()
    notes: list[str] = []
    for cycle in cycles_of(clip):
        own = {f for f in frames if cycle.start <= f < cycle.source_end}
        if not own or not own <= wanted:
            continue
        again = replace(cycle, start=cycle.start + by, end=cycle.end + by, until=cycle.until + by)
        there = f"the {cycle.word} of {cycle.start} to {cycle.end}"
        if any(other.start <= again.until and again.start <= other.until for other in cycles_of(after)):
            notes.append(f"{there} did not come along: frames {again.start} to {again.until} are in a cycle already")
            continue
        with_it = with_cycles(after, sorted((*cycles_of(after), again), key=lambda one: one.start))
        try:
            refuse_hidden(with_it)
        except BadEdit:
            notes.append(
                f"{there} did not come along: something is keyed where it would show its own frames again, up to "
                f"{again.until}"
            )
            continue
        after = with_it
        notes.append(f"{there} came along: {again.start} to {again.end}")
    return after, notes


def delete_columns(clip: Clip, rig: Rig, frames: Sequence[int], controls: Iterable[str] | None = None) -> Outcome:
    """Deletes the keys at ``frames``, and the names of poses that are wholly gone with them."""
    outcome = delete_keys(clip, rig, _keys(clip, rig, frames, controls))
    if controls is None:
        return Outcome(outcome.clip.with_labels(dict.fromkeys(chosen_frames(frames))), outcome.notes)
    return outcome


def _keys(clip: Clip, rig: Rig, frames: Sequence[int], controls: Iterable[str] | None) -> Keys:
    wanted = sorted(chosen_frames(frames))
    chosen = {address: wanted for address in curves_of(clip, rig, controls) if rig.has_channel(address)}
    if not chosen:
        raise BadEdit(f"there are no keys at {listed(wanted)}; nothing was changed")
    return chosen


def paste_column(
    clip: Clip,
    rig: Rig,
    frame: int,
    values: Mapping[str, float],
    controls: Iterable[str] | None = None,
    mirrored: Mirroring | None = None,
    shape: int = BEZIER,
) -> Outcome:
    """Keys copied channel ``values`` at a frame, replacing what is there.

    Only ``controls`` are touched, if they are given; with ``mirrored`` the
    pose is laid as seen in the mirror. Channels that this rig lacks, or that
    are locked or limited otherwise here, are left out and named.
    """
    frame = whole_frame(frame)
    refuse_derived(clip, [frame])
    lacking: list[str] = []
    if mirrored is not None:
        values, lacking = mirrored_values(rig, values, mirrored)
    allowed = None if controls is None else set(addresses_of(rig, controls))
    kept: dict[str, float] = {}
    left: list[str] = []
    for address, value in values.items():
        if allowed is not None and address not in allowed:
            continue
        try:
            kept.update(check_values(rig, {address: value}))
        except BadEdit:
            left.append(address)
    if not kept:
        raise BadEdit("nothing of what was copied fits this character; nothing was pasted")
    for address in list(kept):
        if rig.channels[rig.number(address)].locked:
            del kept[address]
    waiting = clip.pending.get(frame, {})
    clip = clip.with_curves({
        a: with_keys(clip.curves.get(a), {frame: stored_value(clip, rig, a, frame, v)}, shape) for a, v in kept.items()
    })  # fmt: skip
    clip = clip.with_pending(frame, {a: v for a, v in waiting.items() if a not in kept})
    notes = [_not_pasted(rig, left)] if left else []
    if allowed is not None and (
        outside := {a.rsplit("/", 1)[0] for a in values} - {a.rsplit("/", 1)[0] for a in allowed}
    ):
        notes.append(f"pasted on the chosen parts only; {counted(len(outside), 'control')} of the pose left out")
    return Outcome(clip, (*notes, *lacking_note(lacking)))


def _not_pasted(rig: Rig, left: list[str]) -> str:
    reasons = []
    for address in left[:4]:
        if rig.has_channel(address):
            channel = rig.channels[rig.number(address)]
            reasons.append(f"{said(rig, address)} ({channel.locked or limits_of(channel)})")
        else:
            reasons.append(f"{address} (not on this rig)")
    more = f" and {len(left) - 4} more" if len(left) > 4 else ""
    return f"not pasted: {', '.join(reasons)}{more}"


@dataclass(frozen=True, kw_only=True)
class MoveColumns(Edit):
    """All keys at some frames moved."""

    kind: Literal["move"] = "move"
    frames: Frames
    by: Count
    controls: Controls = None

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        return move_columns(clip, rig, self.frames, self.by, self.controls)

    def moves_time(self) -> Reach | None:
        return (min(self.frames), max(self.frames)) if self.frames else None

    def label(self, rig: Rig, scene: Scene) -> str:
        return f"Move column {frames_said(self.frames)} by {self.by:+d}{of_said(rig, self.controls)}"


@dataclass(frozen=True, kw_only=True)
class DuplicateColumns(Edit):
    """All keys at some frames repeated so many frames later."""

    kind: Literal["duplicate"] = "duplicate"
    frames: Frames
    by: Count
    controls: Controls = None

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        return duplicate_columns(clip, rig, self.frames, self.by, self.controls)

    def label(self, rig: Rig, scene: Scene) -> str:
        parts = of_said(rig, self.controls)
        return f"Duplicate column {frames_said(self.frames)} by {self.by:+d}{parts}"


@dataclass(frozen=True, kw_only=True)
class DeleteColumns(Edit):
    """All keys at some frames deleted."""

    kind: Literal["delete"] = "delete"
    frames: Frames
    controls: Controls = None

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        return delete_columns(clip, rig, self.frames, self.controls)

    def label(self, rig: Rig, scene: Scene) -> str:
        return f"Delete column {frames_said(self.frames)}{of_said(rig, self.controls)}"


@dataclass(frozen=True, kw_only=True)
class PasteColumn(Edit):
    """A copied pose keyed at a frame."""

    kind: Literal["paste"] = "paste"
    frame: Frame
    values: Values
    controls: Controls = None
    mirrored: Mirroring | None = None
    shape: ShapeName = "smooth"

    poses = True

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        return paste_column(clip, rig, self.frame, self.values, self.controls, self.mirrored, SHAPES[self.shape])

    def label(self, rig: Rig, scene: Scene) -> str:
        how = ", mirrored" if self.mirrored else ""
        return f"Paste a column at {self.frame}{how}{of_said(rig, self.controls)}"
