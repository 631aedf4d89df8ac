"""The body's place changed by what is laid over it, with few keys."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from hame.character.rig import Rig
from hame.clip.clip import Clip
from hame.clip.curve import Curve, from_keys, from_table
from hame.clip.key import FRAME, FREE_BOTH, HANDLES, IN_TIME, IN_VALUE, OUT_TIME, OUT_VALUE, SHAPE, STRENGTH, VALUE
from hame.clip.sampling import sample_curve
from hame.edits.fewkeys import refitted
from hame.edits.merging import parted_at, summed
from hame.evaluate.posed import Posed
from hame.maths import rotations
from hame.maths.rotations import Array
from hame.maths.thinning import between_frames

BODY = "body"
AXES = ("tx", "ty", "tz")
_NEAR, _NONE, _EXACT = 1e-4, 1e-7, 1e-9  # metres


def in_its_axes(posed: Posed, ways: Array) -> Array:
    """Ways (F, 3) in the world, metres, in the axes that the body's place is keyed in."""
    axes = posed.nodes[:, posed.rig.control(BODY).frame]
    return np.asarray(rotations.rotate(rotations.inverse(axes[:, 3:7]), ways) / axes[:, 7:8])


def laid_over_body(clip: Clip, rig: Rig, overs: Mapping[str, Curve]) -> Clip:
    """The clip with what curves say, by :data:`AXES`, added to the body's place from their first to last frame."""
    return laid_over(clip, rig, {f"{BODY}/{axis}": over for axis, over in overs.items()})


def laid_over(clip: Clip, rig: Rig, overs: Mapping[str, Curve]) -> Clip:
    """The clip with what curves say, by address, added to channels from their first to last frame."""
    changes: dict[str, Curve] = {}
    for address, over in overs.items():
        if np.abs(over.table[:, [VALUE, IN_VALUE, OUT_VALUE]]).max() < _NONE:
            continue
        first, last = (float(frame) for frame in over.table[[0, -1], FRAME])
        base = clip.curves.get(address) or from_keys({int(first): rig.channels[rig.number(address)].rest})
        table = parted_at(base, np.array([first, last]))
        at = table[:, FRAME]
        table[np.isin(at, (first, last)), HANDLES] = FREE_BOTH  # parted there, they stay as they are
        both, off = summed(from_table(table[(at >= first) & (at <= last)]), over, None, 1.0, _NEAR)
        if off > _EXACT:
            times = between_frames(first, last)
            changes[address] = refitted(
                base, int(first), int(last), sample_curve(base, times) + sample_curve(over, times)
            )
        else:
            # What lies beyond is not led by what is new, and the outer handles of the ends are as they were.
            before, inner, after = table[at < first], both.table.copy(), table[at > last]
            before[-1:, HANDLES] = after[:1, HANDLES] = FREE_BOTH
            inner[0, [IN_TIME, IN_VALUE]] = table[at == first][0, [IN_TIME, IN_VALUE]]
            end = [OUT_TIME, OUT_VALUE, SHAPE, STRENGTH]
            inner[-1, end] = table[at == last][0, end]
            changes[address] = from_table(np.concatenate([before, inner, after]))
    return clip.with_curves(changes)
