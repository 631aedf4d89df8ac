"""Paths of parts while a hand moves: what of them changes is told with every answer of a drag or a trial."""

from __future__ import annotations

import base64
from collections.abc import Mapping
from typing import Any

import numpy as np

from hame.clip.clip import Clip
from hame.edits.making import made
from hame.edits.pose import SetPose
from hame.errors import HameError
from hame.scene.scene import Scene
from hame.scene.traced import Thing, frames_moved, traced
from server.shots.messages import Watch

MOST_FRAMES = 1000


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
