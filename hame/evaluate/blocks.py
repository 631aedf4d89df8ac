"""Blocks of numbers by which a figure is drawn: told once here, for all who pack them and for pages that read them."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from hame.character.rig import Rig
from hame.evaluate.evaluate import controls, joints
from hame.evaluate.posed import Posed
from hame.maths.rotations import Array


@dataclass(frozen=True)
class Block:
    """Numbers of one sort.

    Attributes
    ----------
    width : numbers of one entry
    count : how many entries a rig has
    of : the entries (F, count, width) of a figure at F frames
    dragged : whether a drag answers with all of it; of channel values it tells those that changed
    """

    name: str
    width: int
    count: Callable[[Rig], int]
    of: Callable[[Posed], Array]
    dragged: bool = True


BLOCKS: tuple[Block, ...] = (
    Block("joints", 8, lambda rig: len(rig.skeleton), lambda posed: joints(posed.rig, posed.nodes)),
    Block("controls", 12, lambda rig: len(rig.controls), lambda posed: controls(posed.rig, posed.nodes)),
    Block("values", 1, lambda rig: len(rig.channels), lambda posed: posed.values, dragged=False),
)
DRAGGED = tuple(block for block in BLOCKS if block.dragged)
