"""What hangs on a body, and what it looks at, while a hand moves it: as it will be when the hand lets go."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from hame.clip.clip import Clip
from hame.clip.gaze import Gaze
from hame.clip.spans import control_of
from hame.clip.spring import Spring
from hame.edits.making import made
from hame.edits.pose import SetPose
from hame.errors import HameError
from hame.evaluate.line import played_values
from hame.evaluate.players import Player
from hame.evaluate.springs.rows import row_of
from hame.evaluate.springs.stage import carry_over
from hame.maths.rotations import Array
from hame.scene.scene import Figure, Scene

_MOST = 60_000  # joints times frames: what is more takes too long for a hand (some 0.3 s)


def answers(figure: Figure, frame: int) -> bool:
    """Whether springs or gazes of a figure have a say at a frame, few enough to be told with each move of a hand."""
    found, weight = False, 0
    for track, span in figure.clip.spans():
        if not isinstance(span, Spring | Gaze) or not (span.counts and span.start <= frame <= span.end):
            continue
        found = True
        row = row_of(figure.rig, control_of(track)) if isinstance(span, Spring) else None
        weight += 0 if row is None else len(row.joints) * (frame - span.start + 1)
    return found and weight <= _MOST


def as_keyed(
    scene: Scene, bound: Mapping[int, Figure], of: int, frame: int, values: Mapping[str, float], layer: int = 0
) -> dict[int, Array] | None:
    """Channel values (C,) at a frame of figures that are ``bound`` to one, as they play once it is keyed by ``values``.

    None where it cannot be keyed so.
    """
    try:
        edit = SetPose(frame=frame, values=dict(values), keying="changed", layer=layer)
        clips = made(edit, scene, of).clips
    except HameError:
        return None
    before = {n: Player(figure.rig, figure.clip) for n, figure in bound.items()}
    after = {n: Player(player.rig, clips.get(n, player.clip)) for n, player in before.items()}
    until = [_same_until(before[n].clip, clip, frame) for n, clip in clips.items() if n in before]
    carry_over(before, after, min(until, default=float(frame)))
    found = played_values(after, np.array([float(frame)]))
    return {n: values[0] for n, values in found.items()}


def _same_until(before: Clip, after: Clip, frame: int) -> float:
    """The time up to which a clip plays as it did before it was keyed at a frame."""
    times = [float(frame)]
    for address, curve in after.curves.items():
        was = before.curves.get(address)
        if was is curve:
            continue
        # The key before goes another way to the new one, and so by itself towards the one before that as well.
        keys = [] if was is None else was.frames[was.frames < frame][-2:].tolist()
        times.append(float(keys[0]) if keys else -np.inf)
    return min(times)
