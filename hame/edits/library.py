"""Laying a stored pose on a character, whole or by a share."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import Annotated, Literal

import numpy as np

from hame.character.rig import PLACE, Rig
from hame.clip.clip import Clip
from hame.clip.key import BEZIER, SHAPES, ShapeName, whole_frame
from hame.edits.chosen import addresses_of, refuse_derived
from hame.edits.edit import Controls, Edit, Frame, Within, of_said
from hame.edits.mirror import Mirroring, lacking_note, mirrored_values
from hame.edits.outcome import Outcome
from hame.edits.pose import Keying, set_pose
from hame.errors import BadEdit
from hame.maths.rotations import Array
from hame.scene.scene import Scene, StoredPose
from hame.scene.seen import pose_values

SHARE = Within(0.0, 1.0, "share", "a pose is laid by 0 to 100 percent, not {value:.0%}")


def size_of(rig: Rig) -> float:
    """What places are measured by when a pose goes to a figure of another size: the length of its legs."""
    legs = [sum(limb.lengths) for limb in rig.limbs if limb.kind == "leg"]
    return float(np.mean(legs)) if legs else rig.skeleton.size


def lay_pose(
    clip: Clip,
    rig: Rig,
    frame: int,
    pose: StoredPose,
    share: float,
    keying: Keying,
    controls: Iterable[str] | None = None,
    with_master: bool = False,
    mirrored: Mirroring | None = None,
    shape: int = BEZIER,
    scene: Scene | None = None,
) -> Outcome:
    """Takes the figure ``share`` (0 to 1) of the way from what is seen at a frame to a stored pose.

    Places are scaled from the stored figure's size to this one's. What does not fit is said:
    channels that this rig lacks, and values that would pass its limits, which stop there.
    """
    frame = whole_frame(frame)
    refuse_derived(clip, [frame])
    SHARE.check(share)
    values, lacking = dict(pose.values), list[str]()
    if mirrored is not None:
        known = {a: v for a, v in values.items() if rig.has_channel(a)}
        unknown = [a for a in values if a not in known]
        values, lacking = mirrored_values(rig, known, mirrored)
        values |= {a: pose.values[a] for a in unknown}
    allowed = None if controls is None else set(addresses_of(rig, controls))
    seen = pose_values(rig, clip, frame, scene)
    ratio = size_of(rig) / pose.size if pose.size > 0 else 1.0
    laid, absent, stopped = _fitted(rig, values, seen, ratio, share, allowed, with_master)
    if not laid:
        raise BadEdit("nothing of this pose fits what is chosen of this character; nothing was laid")
    outcome = set_pose(clip, rig, frame, laid, keying, shape=shape, scene=scene)
    notes = [*outcome.notes, *lacking_note(lacking)]
    if absent:
        notes.append(f"this rig has no {_some(absent)}: not laid")
    if stopped:
        notes.append(f"stopped at the limits of this rig: {_some(stopped)}")
    return Outcome(outcome.clip, tuple(notes))


def _fitted(
    rig: Rig, values: Mapping[str, float], seen: Array, ratio: float, share: float, allowed: set[str] | None,
    with_master: bool,
) -> tuple[dict[str, float], list[str], list[str]]:  # fmt: skip
    """What of a pose a rig takes, ``share`` of the way from what is seen; what it lacks; what its limits stopped."""
    master = rig.controls[0].name
    laid: dict[str, float] = {}
    absent: list[str] = []
    stopped: list[str] = []
    for address, value in values.items():
        if not rig.has_channel(address):
            absent.append(address)
            continue
        channel = rig.channels[rig.number(address)]
        if (allowed is not None and address not in allowed) or (channel.control == master and not with_master):
            continue
        if channel.locked:
            if abs(value - channel.rest) > 1e-6:
                absent.append(address)
            continue
        wanted = value * ratio if channel.kind == PLACE else value
        now = float(seen[rig.number(address)])
        mixed = now + share * (wanted - now)
        kept = float(np.clip(mixed, channel.low, channel.high))
        if abs(kept - mixed) > 1e-6:
            stopped.append(address)
        laid[address] = kept
    return laid, absent, stopped


def _some(addresses: list[str]) -> str:
    names = sorted({a.rsplit("/", 1)[0] for a in addresses})
    return ", ".join(names[:4]) + (f" and {len(names) - 4} more" if len(names) > 4 else "")


@dataclass(frozen=True, kw_only=True)
class LayPose(Edit):
    """A pose of the library laid by a share."""

    kind: Literal["lay"] = "lay"
    frame: Frame
    pose: int
    share: Annotated[float, SHARE] = 1.0
    controls: Controls = None
    with_master: bool = False
    mirrored: Mirroring | None = None
    keying: Keying = "changed"
    shape: ShapeName = "smooth"

    poses = True

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        return lay_pose(
            clip, rig, self.frame, scene.stored_pose(self.pose), self.share, self.keying, self.controls,
            self.with_master, self.mirrored, SHAPES[self.shape], scene,
        )  # fmt: skip

    def label(self, rig: Rig, scene: Scene) -> str:
        by = "" if self.share == 1 else f" by {self.share:.0%}"
        name = scene.stored_pose(self.pose).name
        return f"Lay {name}{by} at {self.frame}{of_said(rig, self.controls)}"
