"""How the way between keys goes: held, straight or smooth."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

import numpy as np

from hame.character.rig import Rig
from hame.clip.clip import Clip
from hame.clip.curve import BEZIER, FRAME, LINEAR, SHAPE, STEP, Curve, from_table
from hame.edits.chosen import curves_of
from hame.edits.outcome import Outcome
from hame.errors import BadEdit

SHAPES = {"stepped": STEP, "straight": LINEAR, "smooth": BEZIER}


def set_shape(
    clip: Clip,
    rig: Rig,
    shape: str,
    controls: Iterable[str] | None = None,
    gaps: Sequence[tuple[int, int]] | None = None,
) -> Outcome:
    """Gives gaps between keys a shape: all of them, or those that begin within one of ``gaps`` (first, last).

    Handles that were set by hand stay stored, so going to stepped and back
    changes nothing.
    """
    if shape not in SHAPES:
        raise BadEdit(f"{shape} is no shape; there are {', '.join(SHAPES)}")
    changes: dict[str, Curve | None] = {}
    curves = curves_of(clip, rig, controls)
    if not curves:
        raise BadEdit("there are no keys yet; nothing was changed")
    for address, curve in curves.items():
        frames = curve.table[:, FRAME]
        wanted = np.ones(len(frames), bool)
        if gaps is not None:
            wanted = np.any([(frames >= a) & (frames < b) for a, b in gaps], axis=0) if gaps else ~wanted
        wanted &= curve.table[:, SHAPE] != SHAPES[shape]
        if wanted.any():
            table = curve.table.copy()
            table[wanted, SHAPE] = SHAPES[shape]
            changes[address] = from_table(table)
    if not changes:
        return Outcome(clip, (f"all of it is {shape} already",))
    return Outcome(clip.with_curves(changes))
