"""What a body that gives adds to channel values: its place goes down, and feet that are posed by IK stay."""

from __future__ import annotations

import numpy as np

from hame.character.rig import Control, Rig
from hame.clip.answers import Give
from hame.maths.rotations import Array


def body_of(rig: Rig) -> Control | None:
    """The control that places the body of a rig; None where it has no body."""
    return next((control for control in rig.controls if control.kind == "body"), None)


def can_give(rig: Rig) -> bool:
    return body_of(rig) is not None


def give_adds(rig: Rig, span: Give, times: Array) -> Array:
    """What a give adds to channels (T, C) at times (T,); nothing on a rig without a body."""
    added = np.zeros((len(times), len(rig.channels)))
    body = body_of(rig)
    if body is not None:
        added[:, body.first + 1] = -span.down(times)
    return np.asarray(added * rig.free)
