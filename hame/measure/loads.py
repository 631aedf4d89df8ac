"""What one of the cast bears of another one, a thing as a rule."""

from __future__ import annotations

from dataclasses import dataclass

from hame.character.rig import Rig
from hame.maths.rotations import Array


@dataclass(frozen=True, eq=False)
class Load:
    """A thing that somebody carries, on frames that follow each other.

    Attributes
    ----------
    of : its number in the cast
    nodes : (F, N, 8)
    kilograms : (F,) how much of it is borne on each frame; nothing where it is not carried
    """

    of: int
    rig: Rig
    nodes: Array
    kilograms: Array
