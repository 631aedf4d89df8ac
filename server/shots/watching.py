"""Paths of parts while a hand moves: what of them changes is told with every answer of a drag or a trial."""

from __future__ import annotations

import base64
from collections.abc import Mapping
from typing import Annotated, Any, Literal

import numpy as np
from pydantic import BaseModel, Field

from hame.clip.clip import Clip
from hame.edits.making import made
from hame.edits.pose import SetPose
from hame.errors import HameError
from hame.scene.scene import Scene
from hame.scene.traced import Thing, frames_moved, traced

MOST_THINGS, MOST_FRAMES = 24, 1000
FrameNumber = Annotated[int, Field(ge=-1_000_000, le=1_000_000)]


class ThingIn(BaseModel):
    """A control of one of the cast, or a joint of its skeleton."""

    casting: int = Field(ge=0, le=2**63 - 1)
    name: str = Field(max_length=200)
    joint: bool = False


class Watch(BaseModel):
    """The parts whose paths are looked at, from a frame to another one; and how what is dragged would be keyed."""

    first: FrameNumber
    last: FrameNumber
    things: list[ThingIn] = Field(max_length=MOST_THINGS)
    keying: Literal["off", "changed", "control", "whole"] = "changed"
    layer: int = Field(0, ge=0, le=1_000_000)


def paths_after(scene: Scene, watch: Watch, clips: Mapping[int, Clip]) -> dict[str, Any] | None:
    """What changes of the watched paths when clips become those given: its first frame, and places and turns
    ``(T, F, 7)`` as float32 in base64. None where nothing changes, or a part is not there any more.
    """
    things = [Thing(t.casting, t.name, t.joint) for t in watch.things]
    figures = {n: scene.figures[n] for n in scene.figures if scene.figures[n].plays}
    last = min(watch.last, watch.first + MOST_FRAMES - 1)
    try:
        span = frames_moved(figures, clips, things, watch.first, last)
        if span is None or not things:
            return None
        after = {**figures, **{n: figures[n].with_clip(clip) for n, clip in clips.items() if n in figures}}
        found = traced(after, things, range(span[0], span[1] + 1))
    except HameError:
        return None
    return {
        "first": span[0],
        "frames": span[1] - span[0] + 1,
        "data": base64.b64encode(found.astype("<f4").tobytes()).decode(),
    }


def paths_dragged(scene: Scene, of: int, frame: int, watch: Watch, values: Mapping[str, float]) -> Any:
    """The same for values set by a hand at a frame, as they would be keyed when it lets go."""
    if not values or watch.keying == "off":
        return None
    edit = SetPose(frame=frame, values=dict(values), keying=watch.keying, layer=watch.layer)
    try:
        clips = made(edit, scene, of).clips
    except HameError:
        return None
    return paths_after(scene, watch, clips)


def changed_values(addresses: tuple[str, ...], before: Any, after: Any) -> dict[str, float]:
    """Channel values that differ, by address."""
    return {addresses[n]: float(after[n]) for n in np.flatnonzero(after != before)}
