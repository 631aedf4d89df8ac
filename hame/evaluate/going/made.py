"""Somebody who goes: the channel values of a rig, frame by frame, for footfalls and traits."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from scipy.ndimage import gaussian_filter1d

from hame.character.masses import masses_of
from hame.character.momenta import spins
from hame.character.rig import Limb, Rig
from hame.errors import BadEdit
from hame.evaluate.going.body import (
    about,
    against,
    at_rest,
    phases_of,
    steady_head,
    swing_arms,
    turn_control,
    turn_trunk,
)
from hame.evaluate.going.feet import Foot, Lying, foot_along, raise_heel
from hame.evaluate.going.parts import carry_body, centre_of, parts_of, smooth_most, standing_height
from hame.evaluate.some import some_nodes
from hame.gait.footfalls import Footfall
from hame.gait.mass import Bearing, Bounce, Carried, Sole, bearings_of, mass_over
from hame.gait.traits import Traits
from hame.maths.rotations import Array, inverse, multiply, rotate

STRAIGHT = 0.998  # of a leg: so far from hip to ankle at most, that no knee snaps
_LOWERED = 4
_ROLLS_UP = 0.2  # of the leg: how much an ankle rises with each radian that its foot rolls up
_REACHED = 2e-4  # metres: less that a leg is too short is none
_SEEN = 0.04  # seconds over which the moment of limbs is evened out
_FOLLOWS = 0.3  # seconds over which the master follows evenly
_BREAK = np.radians(64.0)  # from where on a foot that rolls goes over its tip


@dataclass(frozen=True, eq=False)
class Gone:
    """How somebody goes on some frames.

    Attributes
    ----------
    values : (F, C) channel values
    mass : how the mass was wished to go
    feet : by leg, how its foot goes
    """

    values: Array
    mass: Carried
    feet: dict[str, Foot]


def gone(
    rig: Rig, found: Sequence[Footfall], frames: Array, fps: float, gravity: float, traits: Traits | None = None,
    lies: Sequence[Lying] = (),
) -> Gone:  # fmt: skip
    """The channel values of a rig that goes over footfalls.

    Parameters
    ----------
    frames : (F,) in a row
    lies : on what each footfall lies; all on the ground where nothing is given

    Raises
    ------
    BadEdit
        If the rig has not two legs.
    """
    legs = {rig.control(limb.ik).side: limb for limb in rig.limbs if limb.kind == "leg"}
    if set(legs) != {"L", "R"} or len([limb for limb in rig.limbs if limb.kind == "leg"]) != 2:
        raise BadEdit("who goes so has two legs; nothing was changed")
    frames = np.asarray(frames, float)
    traits = (traits or Traits()).over(len(frames))
    lying = list(lies) or [(0.0, 0.0, 0.0)] * len(found)
    high = [one[0] for one in lying]
    rest = at_rest(rig)
    leg = sum(legs["L"].lengths)
    headings = np.unwrap([one.heading for one in found]).tolist()
    own = {side: [n for n, one in enumerate(found) if one.side == side] for side in legs}
    feet = {
        side: foot_along(
            [found[n] for n in own[side]], [lying[n] for n in own[side]], [headings[n] for n in own[side]], frames,
            traits, leg,
        ) for side in legs
    }  # fmt: skip
    # The place of a foot is under its ankle; so far behind and ahead of that it presses.
    limb = legs["L"]
    sole = Sole(0.7 * limb.points["heel"][2], 1.05 * limb.points["ball"][2]) if "heel" in limb.points else Sole()
    shares = np.interp(
        [0.5 * (one.first + min(one.last, frames[-1])) for one in found], frames, np.asarray(traits.bounce)
    )
    bearings = bearings_of(found, Bounce(leg, fps=fps, gravity=gravity), sole, high, shares.tolist())
    landed = sorted({one.first for one in found if one.number > 0})
    step = float(np.median(np.diff(landed))) if len(landed) > 1 else 0.5 * fps
    stands = standing_height(rig)
    ground = _ground(feet)
    wished = stands + ground - np.asarray(traits.low) * leg
    values = np.tile(rig.rest, (len(frames), 1))
    heading, master = _led(feet, fps)
    _place_master(rig, values, master, heading, ground)
    for side, one in legs.items():
        _place_foot(rig, values, one, feet[side], master, heading, ground, rest)
    lowered, moment = np.zeros(len(frames)), np.zeros((len(frames), 3))
    for attempt in range(_LOWERED + 1):
        mass = mass_over(bearings, frames, wished - lowered, fps, gravity, moment)
        sides = _bears(bearings, mass)
        phases = phases_of(feet["L"].places, feet["R"].places, sides, heading, leg, step)
        if attempt:
            phases = replace(phases, arms=against(_legs_turn(rig, values, fps), phases.ahead, step))
        turn_trunk(rig, values, phases, traits)
        if attempt < 2:  # they hang on what hardly changes any more
            swing_arms(rig, values, phases, traits)
            steady_head(rig, values, phases, traits)
        carry_body(rig, values, mass, heading)
        missing = np.zeros(len(frames))
        for side, one in legs.items():
            foot, short = feet[side], _short(rig, values, one)
            # A foot that stands is where it is: its heel comes up, or the body down. One in the air comes up.
            late = foot.late * short
            heel = np.maximum(late, gaussian_filter1d(late, 0.7, mode="nearest")) / (_ROLLS_UP * leg)
            capped = raise_heel(foot, heel, 0.9 * _BREAK)  # on its ball still
            values[:, rig.number(f"{one.ik}/roll")] = foot.roll
            raised = gaussian_filter1d(np.where(foot.stands, 0.0, short), 1.0, mode="nearest")
            values[:, rig.number(f"{one.ik}/ty")] += np.where(foot.stands, 0.0, raised)
            missing = np.maximum(missing, np.where(foot.stands, np.where(capped, 1.0, 1.0 - foot.late) * short, 0.0))
        if attempt == _LOWERED or (attempt > 2 and missing.max() < _REACHED):
            break
        moment = gaussian_filter1d(_moment(rig, values, fps), _SEEN * fps, axis=0, mode="nearest")
        lowered += smooth_most(missing, fps)
    carry_body(rig, values, mass, heading)
    return Gone(values, mass, {legs[side].name: foot for side, foot in feet.items()})


def _moment(rig: Rig, values: Array, fps: float) -> Array:
    """The change of angular momentum (F, 3) about the mass, a kilogram."""
    return spins(masses_of(rig), parts_of(rig, values), fps)[1]


def _legs_turn(rig: Rig, values: Array, fps: float) -> Array:
    """The angular momentum (F,) about the upright of all but arms, a kilogram."""
    masses, parts = masses_of(rig), parts_of(rig, values)
    rest = at_rest(rig)[:, :3]
    arms = rest[[node for limb in rig.limbs if limb.kind == "arm" for node in (limb.upper, limb.lower, limb.end)]]
    joints = rest[[int(rig.joint_nodes[j]) for j in masses.joints]]
    others = (np.linalg.norm(joints[:, None] - arms[None], axis=2) > 1e-6).all(axis=1)
    off = parts.places - centre_of(rig, parts)[:, None]
    speeds = np.gradient(off, axis=0) * fps
    turns = off[..., 2] * speeds[..., 0] - off[..., 0] * speeds[..., 2]
    return np.asarray((turns * masses.share * others).sum(axis=1))


def _led(feet: dict[str, Foot], fps: float) -> tuple[Array, Array]:
    """Where who goes faces (F,), and where the master lies (F, 2): evenly, amidst the feet."""
    even = _FOLLOWS * fps
    heading = gaussian_filter1d(0.5 * (feet["L"].heading + feet["R"].heading), 0.6 * even, mode="nearest")
    middle = 0.5 * (feet["L"].places + feet["R"].places)
    return heading, gaussian_filter1d(middle, even, axis=0, mode="nearest")


def _ground(feet: dict[str, Foot]) -> Array:
    """How high the ground is on which the master goes (F,), metres: evenly from footfall to footfall."""
    level = 0.5 * (feet["L"].level + feet["R"].level)
    return np.asarray(gaussian_filter1d(level, 4.0, mode="nearest")) if np.ptp(level) > 0.0 else level


def _place_master(rig: Rig, values: Array, master: Array, heading: Array, ground: Array) -> None:
    for name, amount in (("tx", master[:, 0]), ("ty", ground), ("tz", master[:, 1]), ("ry", heading)):
        values[:, rig.number(f"master/{name}")] = amount


def _place_foot(
    rig: Rig, values: Array, limb: Limb, foot: Foot, master: Array, heading: Array, ground: Array, rest: Array
) -> None:  # fmt: skip
    """Writes the IK control of a foot, which goes along with the master, into channel values (F, C)."""
    at = rest[rig.control(limb.ik).node, :3]
    world = np.stack(
        [foot.places[:, 0] - master[:, 0], np.zeros(len(master)), foot.places[:, 1] - master[:, 1]], axis=1
    )
    local = rotate(inverse(about(np.array([0.0, 1.0, 0.0]), heading)), world)
    channels = {
        "tx": local[:, 0] - at[0], "ty": foot.level + foot.lift - ground, "tz": local[:, 2] - at[2],
        "ry": foot.heading - heading, "roll": foot.roll, "break": np.full(len(master), _BREAK),
    }  # fmt: skip
    for name, amount in channels.items():
        if rig.has_channel(f"{limb.ik}/{name}"):
            values[:, rig.number(f"{limb.ik}/{name}")] = amount
    values[:, rig.number(limb.switch)] = 1.0
    if foot.steep.any():
        _tilt(rig, values, limb, foot, heading, rest)
    if rig.has_channel(f"{limb.name}/soft"):
        values[:, rig.number(f"{limb.name}/soft")] = 0.003


def _tilt(rig: Rig, values: Array, limb: Limb, foot: Foot, heading: Array, rest: Array) -> None:
    """Lays a foot on what is steep: its sole turns about the point under its ankle, which stays where it is."""
    control = rig.control(limb.ik)
    node = rest[control.node]
    up = np.stack([-foot.steep[:, 0], np.ones(len(foot.steep)), -foot.steep[:, 1]], axis=1)
    up /= np.linalg.norm(up, axis=1)[:, None]
    # From upright to that, by the shortest way.
    half = np.stack([up[:, 2], np.zeros(len(up)), -up[:, 0], 1.0 + up[:, 1]], axis=1)
    tilt = half / np.linalg.norm(half, axis=1)[:, None]
    yaw = about(np.array([0.0, 1.0, 0.0]), foot.heading)
    wanted = multiply(tilt, multiply(yaw, np.broadcast_to(node[3:7], tilt.shape)))
    turn_control(rig, values, control, wanted)
    ankle = np.array([0.0, node[1], 0.0])
    off = rotate(inverse(about(np.array([0.0, 1.0, 0.0]), heading)), rotate(tilt, np.broadcast_to(ankle, up.shape)))
    for n, name in enumerate(("tx", "ty", "tz")):
        values[:, rig.number(f"{limb.ik}/{name}")] += off[:, n] - ankle[n]


def _bears(bearings: Sequence[Bearing], mass: Carried) -> Array:
    """How much more the left foot bears than the right (F,), of the weight."""
    signs = np.array([1.0 if one.side == "L" else -1.0 if one.side == "R" else 0.0 for one in bearings])
    return np.asarray(mass.bearing @ signs)


def _short(rig: Rig, values: Array, limb: Limb) -> Array:
    """By how much the body is too high for a leg (F,), metres; 0 where it is not."""
    nodes = some_nodes(rig, (limb.upper, limb.target), values)
    hip, foot = nodes[:, 0, :3], nodes[:, 1, :3]
    reach = STRAIGHT * sum(limb.lengths)
    level = np.linalg.norm((hip - foot)[:, [0, 2]], axis=1)
    upright = np.sqrt(np.maximum(reach**2 - level**2, 0.0))
    return np.asarray(np.maximum(hip[:, 1] - foot[:, 1] - upright, 0.0))
