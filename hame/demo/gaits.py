"""Legs of the demo's walk and run: posed by what thigh, knee and foot shall do, and brought to that through IK.

Angles by share of the cycle follow, from memory, the curves of Winter (*Biomechanics and Motor Control of Human
Movement*), Perry (*Gait Analysis*) and Whittle (*Gait Analysis: an Introduction*).
"""

from __future__ import annotations

from math import cos, radians, sin

import numpy as np

from hame.character.rig import Rig
from hame.clip.clip import Clip
from hame.edits.pose import set_pose
from hame.evaluate.evaluate import channel_values, evaluate, overlaid
from hame.maths.rotations import Array
from hame.measure.soles import sole_points


def at(clip: Clip, rig: Rig, frame: int, values: dict[str, float]) -> Clip:
    """Keys some channels; those that the rig lacks are passed over."""
    return set_pose(clip, rig, frame, {a: v for a, v in values.items() if rig.has_channel(a)}, "changed").clip


def bear(clip: Clip, rig: Rig, frame: int, side: str, knee: float) -> Clip:
    """Keys the height of the body so that a knee is bent by so many degrees over its foot."""
    values = channel_values(rig, clip, [frame])[0]
    address = "body/ty"
    low, high = (float(values[rig.number(address)]) + by for by in (-0.15, 0.15))
    for _ in range(30):
        middle = 0.5 * (low + high)
        nodes = evaluate(rig, overlaid(rig, values, {address: middle})[None])[0]
        low, high = (middle, high) if knee_of(rig, side, nodes) > knee else (low, middle)
    return at(clip, rig, frame, {address: low})


def knee_of(rig: Rig, side: str, nodes: Array) -> float:
    """How far a knee is bent, degrees, by the nodes (N, 8) of a frame."""
    limb = rig.limb(f"leg.{side}")
    one = nodes[limb.lower, :3] - nodes[limb.upper, :3]
    two = nodes[limb.end, :3] - nodes[limb.lower, :3]
    return float(np.degrees(np.arctan2(np.linalg.norm(np.cross(one, two)), one @ two)))


def stand(clip: Clip, rig: Rig, frame: int, side: str, ahead: float, roll: float, toe: float = 0.0) -> Clip:
    """Keys a foot on the ground, its control so far ahead (metres), rolled by so many degrees.

    ``toe`` bends the toes, degrees; the sole stays on the ground as the roll leaves it.
    """
    goal = f"leg.{side}.goal"
    return at(clip, rig, frame, {
        f"{goal}/tz": ahead, f"{goal}/ty": 0.0, f"{goal}/roll": radians(roll), f"leg.{side}.toe/rx": radians(toe),
    })  # fmt: skip


def swing(
    clip: Clip, rig: Rig, frame: int, side: str, thigh: float, knee: float, clear: float, toe: float = 0.0,
    pitch: float | None = None,
) -> Clip:  # fmt: skip
    """Keys a leg in the air by its thigh (degrees ahead of the vertical) and its knee (degrees).

    The foot's pitch follows from how high its lowest point is to be (``clear``, metres), unless it is given (degrees,
    above 0 with the toes down).
    """
    limb, goal = rig.limb(f"leg.{side}"), f"leg.{side}.goal"
    values = channel_values(rig, clip, [frame])[0]
    hip = evaluate(rig, values[None])[0, limb.root, :3]
    one, two = limb.lengths
    a, b = radians(thigh), radians(thigh - knee)
    ankle = hip + np.array([0.0, -one * cos(a) - two * cos(b), one * sin(a) + two * sin(b)])
    bent = {f"leg.{side}.toe/rx": radians(toe)}

    def placed(degrees: float) -> tuple[dict[str, float], float]:
        """The values with which the ankle is there at a pitch, and how high the sole's lowest point is then."""
        wish = {f"{goal}/roll": radians(degrees), **bent}
        for _ in range(2):
            nodes = evaluate(rig, overlaid(rig, values, wish)[None])
            off = ankle - nodes[0, limb.target, :3]
            for name, by in (("ty", off[1]), ("tz", off[2])):
                address = f"{goal}/{name}"
                wish[address] = wish.get(address, float(values[rig.number(address)])) + float(by)
        nodes = evaluate(rig, overlaid(rig, values, wish)[None])
        return wish, _lowest(rig, limb.name, nodes)

    if pitch is not None:
        return at(clip, rig, frame, placed(pitch)[0])
    low, high = -20.0, 75.0  # the more the toes point down, the lower they are
    for _ in range(25):
        middle = 0.5 * (low + high)
        low, high = (middle, high) if placed(middle)[1] > clear else (low, middle)
    return at(clip, rig, frame, placed(low)[0])


def _lowest(rig: Rig, limb: str, nodes: Array) -> float:
    """How high the lowest point of a sole is, from where it is at rest."""
    level = rig.plan.soles[limb]["heel"][1]
    return float(sole_points(rig, rig.limb(limb), nodes)[0, :, 1].min()) - level
