"""What is known of the ties of a scene, whatever frames are asked for: found once, and kept with its plan."""

from __future__ import annotations

from dataclasses import dataclass, field

from hame.evaluate.ties.links import Epoch, Planted
from hame.evaluate.ties.order import Name
from hame.maths.rotations import Array


@dataclass
class Known:
    """What is known so far.

    Attributes
    ----------
    orders : by epoch and the names of the links, these in the order in which they are worked out
    whole : by the names of the links, one order for all epochs; None where there is none
    frames : by link and first time of an epoch, where its frame lies in what carries it, and in its owner
    plants : by link and plant, its row for the kernel
    """

    whole: dict[frozenset[Name], tuple[Name, ...] | None] = field(default_factory=dict)
    orders: dict[tuple[Epoch, frozenset[Name]], tuple[Name, ...]] = field(default_factory=dict)
    frames: dict[tuple[Name, float], tuple[Array, Array]] = field(default_factory=dict)
    plants: dict[tuple[Name, Planted], Array] = field(default_factory=dict)
