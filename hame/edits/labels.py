"""Naming and ranking poses, and templates that lay out the poses of a walk, a run or a startle."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Annotated, Literal

from hame.blocking.poses import rough_pose
from hame.blocking.templates import template
from hame.character.rig import Rig
from hame.clip.clip import Clip
from hame.clip.curve import Curve, with_keys
from hame.clip.key import STEP, whole_frame
from hame.clip.marks import RANKS, Label, Rank
from hame.edits.chosen import refuse_derived
from hame.edits.edit import KINDS_KEYED, AtMost, Count, Edit, Frame
from hame.edits.outcome import Outcome
from hame.errors import BadEdit
from hame.scene.scene import Scene
from hame.scene.seen import pose_values


def label_pose(clip: Clip, frame: int, name: str, rank: Rank) -> Outcome:
    """Names the pose of a frame and ranks it; an empty name with the rank of a key takes the label away."""
    frame = whole_frame(frame)
    refuse_derived(clip, [frame])
    if rank not in RANKS:
        raise BadEdit(f"a pose is a {', a '.join(RANKS[:-1])} or an {RANKS[-1]}, not a {rank}")
    name = name.strip()[:60]
    return Outcome(clip.with_labels({frame: Label(name, rank) if name or rank != "key" else None}))


def lay_template(
    clip: Clip, rig: Rig, kind: str, start: int, step: int, last: int, posed: bool, shape: int = STEP
) -> Outcome:
    """Names the poses of a walk, a run or a take from ``start`` on; with ``posed``, keys them roughly too.

    Frames that have keys already keep them and only get their name, which is
    said. ``last`` is the end of the shot.

    Raises
    ------
    BadEdit
        If the template is unknown, too tight for whole frames, or longer than the shot.
    """
    poses = template(kind, whole_frame(start), whole_frame(step))
    end = poses[-1].frame
    if end > last:
        raise BadEdit(
            f"the {kind} needs frames {start} to {end}, but the shot ends at {last}: make the shot longer or the step "
            "shorter; nothing was laid"
        )
    refuse_derived(clip, [pose.frame for pose in poses])
    labels = {pose.frame: Label(pose.name, pose.rank) for pose in poses}
    taken = set(clip.key_frames())
    kept = [pose.frame for pose in poses if pose.frame in taken]
    if posed:
        lacking: set[str] = set()
        changes: dict[str, Curve] = {}
        for pose in poses:
            if pose.frame in taken:
                continue
            values, missing = rough_pose(rig, kind, pose.name)
            lacking |= missing
            keyed = whole_pose(rig, clip, pose.frame, values)
            for address, value in keyed.items():
                changes[address] = with_keys(changes.get(address, clip.curves.get(address)), {pose.frame: value}, shape)
        clip = clip.with_curves(changes)
        notes = (f"not on this rig, left at rest: {', '.join(sorted(lacking)[:4])}",) if lacking else ()
    else:
        notes = ()
    if kept and posed:
        said = ", ".join(map(str, kept))
        notes = (*notes, f"keys were there already and stay: frame{'s' if len(kept) > 1 else ''} {said}")
    return Outcome(clip.with_labels(labels), notes)


def whole_pose(rig: Rig, clip: Clip, frame: int, values: Mapping[str, float]) -> dict[str, float]:
    """All channels that are keyed by default: the pose laid over rest, the master where it is."""
    seen = pose_values(rig, clip, frame)
    master = rig.controls[0].name
    return {
        c.address: values.get(c.address, float(seen[n]) if c.control == master else c.rest)
        for n, c in enumerate(rig.channels)
        if c.kind in KINDS_KEYED and not c.locked
    }


@dataclass(frozen=True, kw_only=True)
class LabelPose(Edit):
    """What the pose of a frame is called, and how it ranks."""

    kind: Literal["label"] = "label"
    frame: Frame
    name: Annotated[str, AtMost(60)] = ""
    rank: Rank = "key"

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        return label_pose(clip, self.frame, self.name, self.rank)

    def label(self, rig: Rig, scene: Scene) -> str:
        return f"Name {self.frame} {self.name}" if self.name else f"Rank {self.frame} as {self.rank}"


@dataclass(frozen=True, kw_only=True)
class LayTemplate(Edit):
    """The poses of a walk, a run or a startle named on their frames, and posed roughly if wished."""

    kind: Literal["template"] = "template"
    template: Literal["walk", "run", "startle"]
    start: Frame = 1
    step: Count
    posed: bool = False

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        return lay_template(clip, rig, self.template, self.start, self.step, scene.end, self.posed)

    def label(self, rig: Rig, scene: Scene) -> str:
        return f"Lay out a {self.template} from {self.start}"
