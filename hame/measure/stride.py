"""What a walk or run does with its feet: when they bear weight, and how far a cycle goes."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from hame.character.rig import Limb, Rig
from hame.clip.clip import Clip
from hame.clip.cycle import Cycle
from hame.clip.cycles import with_cycles
from hame.errors import BadEdit
from hame.evaluate.evaluate import in_parts
from hame.maths import rotations
from hame.maths.rotations import Array
from hame.measure.soles import sole_outline, sole_points

GRAVITY = 9.80665  # m/s2, 3rd CGPM, 1901
NEAR = 0.006  # share of the leg's length: how near the ground a sole counts as on it
FINE = 8  # looks a frame
Bools = npt.NDArray[np.bool_]


@dataclass(frozen=True)
class Gait:
    """Measures of one cycle.

    Attributes
    ----------
    cadence : steps a minute
    stance : share of the cycle in which each foot is on the ground, by limb
    double_support : share of the cycle with both feet on the ground
    flight : share with none
    stride : metres a cycle
    speed : metres a second
    froude : speed squared over gravity times leg length
    """

    cadence: float
    stance: dict[str, float]
    double_support: float
    flight: float
    stride: float
    speed: float
    froude: float


def _legs(rig: Rig) -> list[Limb]:
    return [limb for limb in rig.limbs if limb.kind == "leg"]


def on_ground(rig: Rig, nodes: Array) -> dict[str, Bools]:
    """By leg, the frames (F,) on which any point of its sole is on the ground (y = 0)."""
    found = {}
    for limb in _legs(rig):
        near = NEAR * sum(limb.lengths)
        found[limb.name] = np.asarray(sole_outline(rig, limb, nodes)[:, :, 1].min(axis=1) <= near)
    return found


def stride_of(clip: Clip, rig: Rig, cycle: Cycle) -> float:
    """Metres that a cycle of a clip, in place, would travel: how fast planted feet go back under the body, times its
    length.

    Raises
    ------
    BadEdit
        If no foot is on the ground in it for two frames together.
    """
    frames = np.arange(cycle.start * FINE, (cycle.start + cycle.length) * FINE + 1) / FINE
    flat = with_cycles(clip, (Cycle(cycle.start, cycle.end, cycle.echo),))
    masters: list[Array] = []
    soles: dict[str, list[Array]] = {limb.name: [] for limb in _legs(rig)}
    for nodes in in_parts(rig, flat, frames):
        masters.append(nodes[:, rig.controls[0].node])
        for limb in _legs(rig):
            soles[limb.name].append(sole_points(rig, limb, nodes))
    master = np.concatenate(masters)
    found: list[float] = []
    for limb in _legs(rig):
        points = np.concatenate(soles[limb.name])
        local = rotations.rotate(rotations.inverse(master[:, None, 3:7]), points - master[:, None, :3])
        height, back = points[:, :, 1], -np.diff(local[:, :, 2], axis=0)
        still = np.abs(np.diff(height, axis=0)) < 2e-4 * sum(limb.lengths)  # a point that rolls rises or sinks
        down = (height[:-1] <= NEAR * sum(limb.lengths)) & (height[1:] <= NEAR * sum(limb.lengths)) & still
        found += back[down].tolist()
    if len(found) < 2 * FINE:
        raise BadEdit("no foot stays on the ground, so the stride cannot be measured; type the metres instead")
    return float(np.median(found)) * FINE * cycle.length


def gait_of(clip: Clip, rig: Rig, cycle: Cycle, fps: float) -> Gait:
    """Measures of a cycle of walking or running, two steps long."""
    frames = np.arange(cycle.start * FINE, (cycle.start + cycle.length) * FINE) / FINE
    parts = [on_ground(rig, nodes) for nodes in in_parts(rig, clip, frames)]
    down = {name: np.concatenate([part[name] for part in parts]) for name in parts[0]}
    feet = np.array(list(down.values()))
    stride = stride_of(clip, rig, cycle)
    seconds = cycle.length / fps
    speed = stride / seconds
    legs = _legs(rig)
    length = float(np.mean([sum(limb.lengths) for limb in legs])) + _ankle(rig, legs[0])
    return Gait(
        cadence=2.0 * 60.0 / seconds,
        stance={name: float(found.mean()) for name, found in down.items()},
        double_support=float((feet.sum(axis=0) >= 2).mean()),
        flight=float((feet.sum(axis=0) == 0).mean()),
        stride=stride,
        speed=speed,
        froude=speed**2 / (GRAVITY * length),
    )


def _ankle(rig: Rig, limb: Limb) -> float:
    return float(rig.skeleton.places[rig.skeleton.index(rig.plan.roles[f"{limb.name}.foot"])][1])
