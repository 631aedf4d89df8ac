"""The demo shots' motions, made with the same edits that people use."""

from __future__ import annotations

from math import radians

from hame.character.rig import Rig
from hame.clip.clip import Clip
from hame.edits.columns import paste_column
from hame.edits.pose import key_pose, set_pose
from hame.evaluate.evaluate import channel_values

Pose = dict[str, float]


def _degrees(**angles: float) -> Pose:
    return {name.replace("__", "/").replace("_", "."): radians(value) for name, value in angles.items()}


def _both(address: str, value: float) -> Pose:
    """The same number on both sides: what a mirror shows, for turned controls."""
    return {address.replace("#", side): value for side in "LR"}


def standing() -> Pose:
    """At ease: weight on the left foot, arms hanging, hands half closed."""
    pose: Pose = {
        "body/ty": -0.018, "body/tx": 0.028, "body/tz": 0.004,
        "leg.L.goal/tx": 0.02, "leg.R.goal/tx": -0.045, "leg.R.goal/tz": 0.05,
        "leg.L.goal/ry": radians(8), "leg.R.goal/ry": radians(-22),
        **_degrees(hips__rz=-3.5, spine__rz=2.5, chest__rz=2.5, chest__rx=2, neck__rx=4, head__rz=-2, head__rx=-2),
    }  # fmt: skip
    for finger, curl in (("index", 18), ("middle", 24), ("ring", 28), ("little", 30), ("thumb", 10)):
        pose |= _both(f"arm.#.{finger}/curl", radians(curl))
    pose |= _both("arm.#.upper/rz", radians(-34)) | _both("arm.#.upper/rx", radians(4))
    pose |= _both("arm.#.lower/rx", radians(16)) | _both("arm.#.collar/rz", radians(-4))
    return pose


def keeping_watch(rig: Rig) -> Clip:
    """An idle of 32 frames: breath in to the middle, the eyes leading the head over the water, and back.

    Frame 33 is frame 1 again and is not played.
    """
    clip = set_pose(key_pose(Clip(), rig, 1).clip, rig, 1, standing(), "whole").clip
    first = {a: float(v) for a, v in zip(rig.addresses, channel_values(rig, clip, [1])[0], strict=True)}
    clip = paste_column(clip, rig, 33, first).clip
    breath = {
        "body/ty": -0.011, "chest/rx": radians(-1.5), "spine.2/rx": radians(-1.0), "neck/rx": radians(5),
        "arm.L.collar/rz": radians(-1), "arm.R.collar/rz": radians(-1), "arm.L.upper/rz": radians(-32),
        "arm.R.upper/rz": radians(-32),
    }  # fmt: skip
    clip = set_pose(clip, rig, 17, breath, "changed").clip
    for frame, eyes, head in ((7, 24, 0), (13, 12, 22), (21, -6, 24), (27, -8, 6)):
        look = {f"eye.{s}/ry": radians(eyes) for s in "LR"}
        clip = set_pose(
            clip, rig, frame, {**look, "head/ry": radians(head * 0.7), "neck/ry": radians(head * 0.4)}, "changed"
        ).clip
    return clip
