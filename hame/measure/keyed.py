"""What is not keyed where one would expect it."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from hame.character.rig import Rig
from hame.clip.clip import Clip
from hame.clip.key import FRAME
from hame.clip.layers import own_curves

POSE_SHARE = 0.5  # of all that is keyed: with so many keys a frame is a whole pose


@dataclass(frozen=True)
class Unkeyed:
    """Controls without a key on a key pose, by frame, and controls first keyed in the middle, with that frame."""

    missing: dict[int, list[str]]
    late: dict[str, int]


def unkeyed(clip: Clip, rig: Rig) -> Unkeyed:
    """Finds what a blocked take lacks.

    A key pose is a frame that is labelled as one, or (without labels) a whole
    one (:func:`whole_columns`). Of a control whose curves all begin after the
    first key pose it is said where it begins.
    """
    frames: dict[str, set[int]] = {}
    for address, curve in own_curves(clip.curves).items():
        control = address.rsplit("/", 1)[0]
        if rig.has_control(control):
            frames.setdefault(control, set()).update(int(f) for f in curve.table[:, FRAME])
    if not frames:
        return Unkeyed({}, {})
    keyed = set().union(*frames.values())
    poses = sorted(f for f, label in clip.labels.items() if label.rank == "key" and f in keyed)
    poses = poses or whole_columns(clip)
    order = {control.name: n for n, control in enumerate(rig.controls)}
    missing = {
        pose: sorted((name for name, found in frames.items() if pose not in found), key=order.__getitem__)
        for pose in poses
    }
    first = min(poses) if poses else min(keyed)
    late = {name: min(found) for name, found in frames.items() if min(found) > first}
    return Unkeyed({pose: names for pose, names in missing.items() if names}, late)


def whole_columns(clip: Clip) -> list[int]:
    """Frames on which at least half of all keyed channels have a key."""
    curves = own_curves(clip.curves)
    if not curves:
        return []
    frames = np.concatenate([c.table[:, FRAME] for c in curves.values()]).astype(np.int64)
    first = int(frames.min())
    if int(frames.max()) - first > 100 * len(frames):  # a few keys far apart are sorted rather than counted
        at, counts = np.unique(frames, return_counts=True)
    else:
        counts = np.bincount(frames - first)
        at = np.arange(first, first + len(counts))
    found: list[int] = at[counts >= max(POSE_SHARE * len(curves), 1)].tolist()
    return found
