"""Plants found in a motion: where the points of a sole stand still near the ground."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import groupby

import numpy as np
import numpy.typing as npt

from hame.character.rig import Limb, Rig
from hame.maths.rotations import Array
from hame.measure.ground import FLAT, Ground
from hame.measure.soles import sole_points

Bools = npt.NDArray[np.bool_]
POINTS = ("heel", "ball", "tip")  # of a sole, in the order of soles.sole_points
# What stands still is told from what moves by these; a person sees and changes them.
HEIGHT, SPEED, SHORTEST = 0.03, 0.2, 3  # metres above the ground, metres a second, frames


@dataclass(frozen=True)
class Found:
    """A plant that a motion shows.

    Attributes
    ----------
    control : the IK control of the foot
    about : the point about which it turns while the others move; empty where it stands still as a whole
    slip : how far the point wanders in it now, metres
    """

    control: str
    start: int
    end: int
    about: str
    slip: float


def find_plants(
    rig: Rig, nodes: Array, first: int, fps: float, height: float = HEIGHT, speed: float = SPEED,
    shortest: int = SHORTEST, ground: Ground = FLAT,
) -> list[Found]:  # fmt: skip
    """The plants that a motion shows, foot by foot in the order of time.

    A point of the sole stands where it is no more than ``height`` (metres)
    above the ground, and moves towards the frame before or after it at no more than ``speed``
    (metres a second). A foot stands as long as any of its points does.

    Parameters
    ----------
    nodes : (F, N, 8) of the frames from ``first`` on, at ``fps`` frames a second
    shortest : frames; what stands for less is left out
    ground : what it stands on besides the ground at zero
    """
    found: list[Found] = []
    for limb in (limb for limb in rig.limbs if limb.kind == "leg"):
        places = sole_points(rig, limb, nodes)
        stands = standing(places, fps, height, speed, ground)
        for start, end in runs(np.asarray(stands.any(axis=1))):
            if end - start + 1 >= shortest:
                found += _parted(limb, places, stands, start, end, first, shortest)
    return sorted(found, key=lambda plant: (plant.start, plant.control))


def standing(places: Array, fps: float, height: float, speed: float, ground: Ground = FLAT) -> Bools:
    """Which points (F, K) of a sole stand, by their places (F, K, 3)."""
    low = places[:, :, 1] - ground.under(places) < height
    way = np.linalg.norm(np.diff(places, axis=0), axis=2) * fps
    never = np.full((1, places.shape[1]), np.inf)
    slow = np.minimum(np.concatenate([never, way]), np.concatenate([way, never])) <= speed
    return np.asarray(low & slow)


def runs(flags: Bools) -> list[tuple[int, int]]:
    """Where flags are set: the first and the last of each run."""
    found, at = [], 0
    for value, group in groupby(flags.tolist()):
        count = len(list(group))
        if value:
            found.append((at, at + count - 1))
        at += count
    return found


def _parted(limb: Limb, places: Array, stands: Bools, start: int, end: int, first: int, shortest: int) -> list[Found]:
    """A foot that stands from start to end: as a whole while heel and ball do, else about what does."""
    names = [_about(row) for row in stands[start : end + 1]]
    parts: list[tuple[str, int, int]] = []
    at = start
    for about, group in groupby(names):
        count = len(list(group))
        parts.append((about, at, at + count - 1))
        at += count
    if len(parts) > 1:  # a turn of a frame or two belongs to what it leads to
        long = [part for part in parts if part[2] - part[1] + 1 >= shortest]
        parts = long or [max(parts, key=lambda part: part[2] - part[1])]
        starts = [start, *(part[1] for part in parts[1:])]
        ends = [*(s - 1 for s in starts[1:]), end]
        parts = [(part[0], a, b) for part, a, b in zip(parts, starts, ends, strict=True)]
    return [Found(limb.ik, first + a, first + b, about, _slip(places, about, a, b)) for about, a, b in parts]


def _about(row: Bools) -> str:
    heel, ball, tip = row.tolist()
    if heel and ball:
        return ""
    return "heel" if heel else "ball" if ball else "tip"


def _slip(places: Array, about: str, a: int, b: int) -> float:
    """How far what stands wanders from where it came down, metres."""
    point = places[a : b + 1, POINTS.index(about) if about else 1]
    return float(np.linalg.norm(point - point[0], axis=1).max())
