"""Where chosen parts are over many frames: what paths are drawn from."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from hame.character.rig import Rig
from hame.clip.clip import Clip, difference
from hame.errors import BadEdit
from hame.maths import transforms
from hame.maths.rotations import Array
from hame.scene.joined import bound_to, moves, played
from hame.scene.scene import Figure


@dataclass(frozen=True)
class Thing:
    """A part whose way is followed: a control of one of the cast, or (``joint``) a joint of its skeleton."""

    figure: int
    name: str
    joint: bool = False


def node_of(rig: Rig, thing: Thing) -> int:
    """The node of a part in its rig.

    Raises
    ------
    BadEdit
        If the rig has no such part.
    """
    if thing.joint:
        if thing.name not in rig.skeleton.names:
            raise BadEdit(f"this rig has no joint {thing.name}, so no path can be drawn of it")
        return int(rig.joint_nodes[rig.skeleton.names.index(thing.name)])
    if not rig.has_control(thing.name):
        raise BadEdit(f"this rig has no control {thing.name}, so no path can be drawn of it")
    return rig.control(thing.name).node


def traced(figures: Mapping[int, Figure], things: Sequence[Thing], frames: Sequence[int] | Array) -> Array:
    """Places and turns ``(T, F, 7)`` of parts at frames as they play; figures that hang on one another go along."""
    wanted: dict[int, Figure] = {}
    for thing in things:
        if thing.figure not in figures:
            raise BadEdit("a path is of somebody who does not play in this shot")
        if thing.figure not in wanted:
            wanted.update(bound_to(figures, thing.figure))
    posed = played(wanted, np.asarray(frames, float))
    return np.stack([posed[t.figure].nodes[:, node_of(wanted[t.figure].rig, t), :7] for t in things])


def within(path: Array, owner: Array) -> Array:
    """Places ``(F, 3)`` of a path ``(F, 7)`` as seen from an owner ``(F, 7)``: the hand from the chest."""
    ones = np.ones((len(path), 1))
    seen = transforms.relative(np.concatenate([owner, ones], 1), np.concatenate([path, ones], 1))
    return np.asarray(seen[:, :3])


def frames_moved(
    figures: Mapping[int, Figure], after: Mapping[int, Clip], things: Iterable[Thing], first: int, last: int
) -> tuple[int, int] | None:
    """The frames, from and to, on which parts move when some clips become others; None where none of them does."""
    patches = {n: difference(figures[n].clip, clip) for n, clip in after.items()}
    patches = {n: patch for n, patch in patches.items() if patch}
    if not patches:
        return None
    changed = {**figures, **{n: figures[n].with_clip(after[n]) for n in patches}}
    found = moves(changed, patches)
    spans = [
        (first if a is None else max(a, first), last if b is None else min(b, last))
        for figure in {thing.figure for thing in things}
        for a, b in found.get(figure, [])
    ]
    spans = [(a, b) for a, b in spans if a <= b]
    return (min(a for a, _ in spans), max(b for _, b in spans)) if spans else None
