"""Poses that are held."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import Annotated, Literal

import numpy as np

from hame.character.rig import Rig
from hame.clip.clip import Clip
from hame.clip.curve import Curve, Stack, stacked, unstacked
from hame.clip.key import FRAME, FREE_BOTH, HANDLES, IN_TIME, OUT_TIME, SHAPE, STEP, VALUE, Array, whole_frame
from hame.clip.marks import LONGEST_NAME, Label
from hame.clip.played import played_curves
from hame.clip.spans import Reach
from hame.edits.chosen import (
    curves_of,
    refuse_derived,
)  # fmt: skip
from hame.edits.edit import Controls, Count, Edit, Frame, of_said
from hame.edits.outcome import Outcome
from hame.edits.retime import DRIFT, insert_frames
from hame.errors import BadEdit
from hame.scene.scene import Scene


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
    DRIFT.check(drift)
    refuse_derived(clip, [frame])
    names = None if controls is None else list(controls)
    held = {a: c for a, c in curves_of(clip, rig, names).items() if (c.table[:, FRAME] == frame).any()}
    if not held:
        raise BadEdit(f"there are no keys at frame {frame} to hold")
    goals, nearest = _next_values(played_curves(clip, rig, frame, frame), held, frame)
    if not push and nearest <= frame + count:
        raise BadEdit(
            f"the next keys are at {nearest}; a hold up to {frame + count} has no room, unless later keys move along"
        )
    if not push:
        refuse_derived(clip, [frame + count])
    if push and nearest < _NEVER:
        clip = insert_frames(clip, rig, frame, count, names).clip
    clip = clip.with_curves(_held({address: clip.curves[address] for address in held}, goals, frame, count, drift))
    if names is None and frame in clip.labels:
        name = clip.labels[frame].name
        clip = clip.with_labels(
            {frame + count: Label(f"{name[: LONGEST_NAME - 5]} held" if name else "Held", "in-between")}
        )
    return Outcome(clip)


def _held(
    curves: Mapping[str, Curve], goals: Mapping[str, float], frame: int, count: int, drift: float
) -> dict[str, Curve]:
    """Curves with their key at a frame once more so many frames later, and handles that keep it a hold."""
    stack = stacked(curves)
    at = np.flatnonzero(stack.keys[:, FRAME] == frame)
    first, second = stack.keys[at], stack.keys[at].copy()
    way = (
        np.array([goals.get(a, v) for a, v in zip(stack.addresses, first[:, VALUE], strict=True)]) - first[:, VALUE]
    ) * drift
    second[:, FRAME] += count
    second[:, VALUE] += way
    # Straight between the two, so that no slope of what follows opens the hold; towards the neighbours on both sides
    # no steeper than keeps the way inside them (three times the mean slope, after Fritsch and Carlson 1980).
    slope = way / count
    owner, frames = stack.owner, stack.keys[:, FRAME]
    first_of, last_of = np.append(True, np.diff(owner) != 0)[at], np.append(np.diff(owner) != 0, True)[at]
    before, behind = np.maximum(at - 1, 0), np.minimum(at + 1, len(frames) - 1)
    back = np.where(first_of, count, frame - frames[before])
    ahead = np.where(last_of, count, frames[behind] - frame - count)
    rise_in = np.where(first_of, 0.0, first[:, VALUE] - stack.keys[before, VALUE]) / back
    rise_out = np.where(last_of, 0.0, stack.keys[behind, VALUE] - second[:, VALUE]) / ahead
    even = np.full(len(at), count / 3.0)
    for keys, into, out, slope_in, slope_out in (
        (first, -back / 3.0, even, _inside(slope, rise_in), slope),
        (second, -even, ahead / 3.0, slope, _inside(slope, rise_out)),
    ):
        moving = keys[:, SHAPE] != STEP
        for column, time, steep in ((IN_TIME, into, slope_in), (OUT_TIME, out, slope_out)):
            keys[moving, column] = time[moving]
            keys[moving, column + 1] = (time * steep)[moving]
        keys[moving, HANDLES] = FREE_BOTH
    stack.keys[at] = first
    laid = Stack(stack.addresses, np.append(owner, owner[at]), np.concatenate([stack.keys, second]))
    return unstacked(laid)


def _inside(slope: Array, mean: Array) -> Array:
    """The slope (N,), no steeper than three times the mean of its gap, and flat where that goes the other way."""
    return np.where(slope * mean > 0, np.sign(slope) * np.minimum(np.abs(slope), 3.0 * np.abs(mean)), 0.0)


_NEVER = 10**9


def _next_values(played: Mapping[str, Curve], held: Mapping[str, Curve], frame: int) -> tuple[dict[str, float], int]:
    """The value of each channel's next key, and the frame of the nearest of them."""
    goals: dict[str, float] = {}
    nearest = _NEVER
    for address in held:
        table = played[address].table
        n = int(np.searchsorted(table[:, FRAME], frame, side="right"))
        if n < len(table):
            nearest = min(nearest, int(table[n, FRAME]))
            goals[address] = float(table[n, VALUE])
    return goals, nearest


@dataclass(frozen=True, kw_only=True)
class HoldPose(Edit):
    """The pose of a column held for so many frames more, still or drifting."""

    kind: Literal["hold"] = "hold"
    frame: Frame
    count: Count
    drift: Annotated[float, DRIFT] = 0.0
    push: bool = True
    controls: Controls = None

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        return hold_pose(clip, rig, self.frame, self.count, self.drift, self.push, self.controls)

    def moves_time(self) -> Reach | None:
        return (self.frame + 1, None) if self.push else None

    def label(self, rig: Rig, scene: Scene) -> str:
        way = "Moving hold" if self.drift else "Hold"
        return f"{way} of {self.frame} for {self.count}{of_said(rig, self.controls)}"
