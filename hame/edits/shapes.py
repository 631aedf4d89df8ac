"""How the way between keys goes: held, straight or smooth."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from hame.character.rig import Rig
from hame.clip.clip import Clip
from hame.clip.curve import Stack, stacked, unstacked
from hame.clip.key import FRAME, SHAPE, SHAPES, ShapeName
from hame.edits.chosen import curves_of
from hame.edits.edit import Controls, Edit, of_said
from hame.edits.outcome import Outcome
from hame.errors import BadEdit
from hame.scene.scene import Scene


def set_shape(
    clip: Clip,
    rig: Rig,
    shape: ShapeName,
    controls: Iterable[str] | None = None,
    gaps: Sequence[tuple[int, int]] | None = None,
) -> Outcome:
    """Gives gaps between keys a shape: all of them, or those that begin within one of ``gaps`` (first, last).

    Handles that were set by hand stay stored, so going to stepped and back
    changes nothing.
    """
    if shape not in SHAPES:
        raise BadEdit(f"{shape} is no shape; there are {', '.join(SHAPES)}")
    curves = curves_of(clip, rig, controls)
    if not curves:
        raise BadEdit("there are no keys yet; nothing was changed")
    stack = stacked(curves)
    frames = stack.keys[:, FRAME]
    wanted = stack.keys[:, SHAPE] != SHAPES[shape]
    if gaps is not None:
        within = np.zeros(len(frames), bool)
        for first, last in gaps:
            within |= (frames >= first) & (frames < last)
        wanted &= within
    if not wanted.any():
        return Outcome(clip, (f"all of it is {shape} already",))
    touched = np.isin(stack.owner, np.unique(stack.owner[wanted]))
    stack.keys[wanted, SHAPE] = SHAPES[shape]
    return Outcome(clip.with_curves(unstacked(Stack(stack.addresses, stack.owner[touched], stack.keys[touched]))))


@dataclass(frozen=True, kw_only=True)
class SetShape(Edit):
    """Gives gaps between keys a shape: all of them, or those that begin within one of ``gaps``."""

    kind: Literal["shape"] = "shape"
    shape: ShapeName
    controls: Controls = None
    gaps: tuple[tuple[int, int], ...] | None = None

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        return set_shape(clip, rig, self.shape, self.controls, self.gaps)

    def label(self, rig: Rig, scene: Scene) -> str:
        where = "" if self.gaps is None else f" from {', '.join(str(a) for a, _ in self.gaps[:4])}"
        return f"{self.shape.capitalize()}{where}{of_said(rig, self.controls)}"
