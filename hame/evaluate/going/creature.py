"""A creature on four legs or more that goes: its feet by their footfalls, its mass over them, trunk and tail after."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace

import numpy as np
from scipy.ndimage import distance_transform_edt, gaussian_filter1d

from hame.character.rig import Limb, Rig
from hame.evaluate.aims import aims_of
from hame.evaluate.going.body import about, at_rest, turn_control, write
from hame.evaluate.going.feet import Foot, Lying, foot_along
from hame.evaluate.going.parts import carry_body, centre_of, parts_of, smooth_most, standing_height
from hame.evaluate.some import some_nodes
from hame.gait.bearings import Bearing
from hame.gait.footfalls import STAYS, Footfall
from hame.gait.mass import Carried, mass_over
from hame.gait.traits import Traits
from hame.maths.rotations import Array, angles_between, from_vector, inverse, multiply, rotate

_FOLLOWS = 0.25  # seconds over which the master follows evenly
_BEFORE = 0.3  # seconds that the head is ahead of the trunk in a turn, and each joint of a tail behind the one before
_BEHIND = 0.12
_STRAIGHT = 0.995  # of a leg
_LEAVES, _LEAVES_IN = 0.03, 3.0  # of a leg, that it reaches less far as it comes down and leaves, and frames about that
_LOWERED = 4
_ROUND = np.radians([40.0, 90.0])  # from where on an aim is brought round, and from where on wholly
_HANDS = 3.0  # frames before and after a foot is lifted or lands in which others take over from it
_Y = np.array([0.0, 1.0, 0.0])


def gone_on_legs(
    rig: Rig, found: Sequence[Footfall], frames: Array, fps: float, gravity: float, traits: Traits,
    lies: Sequence[Lying],
) -> tuple[Array, Carried]:  # fmt: skip
    """The channel values (F, C) of a creature that goes over footfalls, each of the leg that its side names.

    Parameters
    ----------
    frames : (F,) in a row; ``traits`` has a number for each
    """
    legs = {limb.name: limb for limb in rig.limbs if limb.kind == "leg"}
    rest = at_rest(rig)
    high = float(np.mean([rest[limb.upper, 1] for limb in legs.values()]))
    headings = np.unwrap([one.heading for one in found]).tolist()
    own = {name: [n for n, one in enumerate(found) if one.side == name] for name in legs}
    feet = {
        name: foot_along(
            [found[n] for n in own[name]], [lies[n] for n in own[name]], [headings[n] for n in own[name]], frames,
            traits, high,
        ) for name in legs if own[name]
    }  # fmt: skip
    values = np.tile(rig.rest, (len(frames), 1))
    heading, middle, ground = _led(rig, legs, feet, fps)
    for name, amount in (("tx", middle[:, 0]), ("ty", ground), ("tz", middle[:, 1]), ("ry", heading)):
        write(rig, values, f"master/{name}", amount)
    for name, foot in feet.items():
        _place_foot(rig, values, legs[name], foot, middle, heading, ground, rest)
    steep = _steep(rig, legs, feet, fps)
    _trunk(rig, values, heading, steep, feet, traits, fps)
    wished = standing_height(rig) + ground
    # Where its mass lies as it stands, seen from amidst its feet: more of it on the fore or on the hind ones.
    at = np.mean([rest[limb.target, :3] for limb in legs.values()], axis=0)
    over = (centre_of(rig, parts_of(rig, rig.rest[None]))[0] - at)[[0, 2]]
    turned = rotate(about(_Y, heading), np.tile([at[0] + over[0], 0.0, at[2] + over[1]], (len(frames), 1)))
    level = middle + turned[:, [0, 2]]
    bearings = _bearings(found, lies, headings, over)
    lowered = np.zeros(len(frames))
    for _ in range(_LOWERED):
        mass = mass_over(bearings, frames, wished - lowered, fps, gravity)
        # Of many feet each may bear what it has to: level, the mass goes evenly over their middle.
        mass = replace(mass, places=np.stack([level[:, 0], mass.places[:, 1], level[:, 1]], axis=1))
        carry_body(rig, values, mass.places, heading)
        short = np.max([_short(rig, values, legs[name], foot) for name, foot in feet.items()], axis=0)
        if short.max() < 2e-4:
            break
        lowered += smooth_most(short, fps)
    for name in feet:
        _aim(rig, values, legs[name])
    return values, mass


def _aim(rig: Rig, values: Array, limb: Limb) -> None:
    """Brings the aim of a leg that is thrown far back or ahead round to where it bends by itself, in channel values
    (F, C), in place: an aim goes along with its foot, and would come behind the leg."""
    aim = rig.control(limb.pole)
    nodes = some_nodes(rig, (limb.root, limb.target, aim.node, aim.frame), values)
    own, away = aims_of(limb, nodes[:, 0], nodes[:, 1, :3], nodes[:, 2, :3])
    share = np.clip((angles_between(own, away) - _ROUND[0]) / (_ROUND[1] - _ROUND[0]), 0.0, 1.0)
    share = gaussian_filter1d(share * share * (3.0 - 2.0 * share), 1.0, mode="nearest")[:, None]
    if not share.any():
        return
    far = np.maximum(np.linalg.norm(away, axis=1, keepdims=True), limb.pole_distance)
    off = rotate(inverse(nodes[:, 3, 3:7]), share * (far * own - away)) / nodes[:, 3, 7:8]
    for n, axis in enumerate("xyz"):
        address = f"{limb.pole}/t{axis}"
        write(rig, values, address, values[:, rig.number(address)] + off[:, n])


def _led(
    rig: Rig, legs: Mapping[str, Limb], feet: Mapping[str, Foot], fps: float
) -> tuple[Array, Array, Array]:  # fmt: skip
    """Where the creature faces (F,), where its master lies (F, 2), and how high the ground is there (F,)."""
    rest = at_rest(rig)
    even = _FOLLOWS * fps
    heading = gaussian_filter1d(np.mean([foot.heading for foot in feet.values()], axis=0), 0.5 * even, mode="nearest")
    places = np.mean([foot.places for foot in feet.values()], axis=0)
    at = np.mean([rest[legs[name].target, [0, 2]] for name in feet], axis=0)
    off = rotate(about(_Y, heading), np.array([at[0], 0.0, at[1]])[None].repeat(len(heading), axis=0))[:, [0, 2]]
    level = np.mean([foot.level for foot in feet.values()], axis=0)
    # What smoothing takes off is smoothed and put on again: who gets going is not ahead of their feet by that.
    middle = gaussian_filter1d(places - off, even, axis=0, mode="nearest")
    return (
        heading,
        middle + gaussian_filter1d(places - off - middle, even, axis=0, mode="nearest"),
        np.asarray(gaussian_filter1d(level, 4.0, mode="nearest")),
    )


def _place_foot(
    rig: Rig, values: Array, limb: Limb, foot: Foot, master: Array, heading: Array, ground: Array, rest: Array
) -> None:  # fmt: skip
    """Writes the IK control of a foot, which goes along with the master, into channel values (F, C).

    Its place is under the joint that it leads, which need not be where the control is.
    """
    control = rest[rig.control(limb.ik).node, :3]
    led = rest[limb.target, :3]
    world = np.stack(
        [foot.places[:, 0] - master[:, 0], np.zeros(len(master)), foot.places[:, 1] - master[:, 1]], axis=1
    )
    off = rotate(about(_Y, foot.heading), np.broadcast_to((control - led) * [1.0, 0.0, 1.0], world.shape))
    local = rotate(inverse(about(_Y, heading)), world + off)
    for name, amount in (
        ("tx", local[:, 0] - control[0]), ("ty", foot.level + foot.lift - ground), ("tz", local[:, 2] - control[2]),
        ("ry", foot.heading - heading), ("roll", foot.roll),
    ):  # fmt: skip
        write(rig, values, f"{limb.ik}/{name}", amount)
    write(rig, values, limb.switch, 1.0)


def _steep(rig: Rig, legs: Mapping[str, Limb], feet: Mapping[str, Foot], fps: float) -> Array:
    """How a creature is pitched, nose down, by how high its fore feet stand against its hind ones (F,)."""
    rest = at_rest(rig)
    ahead = np.array([rest[legs[name].target, 2] for name in feet])
    levels = np.array([foot.level for foot in feet.values()])
    off = ahead - ahead.mean()
    slope = (off[:, None] * levels).sum(axis=0) / max(float((off**2).sum()), 1e-9)
    return np.asarray(-np.arctan(gaussian_filter1d(slope, 0.2 * fps, mode="nearest")))


def _trunk(
    rig: Rig, values: Array, heading: Array, steep: Array, feet: Mapping[str, Foot], traits: Traits, fps: float
) -> None:  # fmt: skip
    """Writes trunk, head and tail: the head leads a turn and looks level, hips and shoulders roll, the tail follows."""
    ahead = _later(heading, -_BEFORE * fps) - heading
    write(rig, values, "body/rx", steep + traits.pitch)
    spine = [name for name in ("spine", "spine.2", "chest") if rig.has_control(name)]
    for name in spine:
        write(rig, values, f"{name}/ry", 0.7 * ahead / len(spine))
    up = {name: np.where(foot.stands, 0.0, foot.lift) for name, foot in feet.items()}
    sides = {name: 1.0 if rig.control(rig.limb(name).ik).side == "L" else -1.0 for name in feet}
    rolls = gaussian_filter1d(sum(sides[n] * np.sign(up[n]) for n in feet) / len(feet), 0.08 * fps, mode="nearest")
    write(rig, values, "hips/rz", -traits.list * rolls)
    write(rig, values, "body/rz", 0.5 * traits.list * rolls)
    for name in ("neck", "neck.2", "head"):
        if rig.has_control(name):
            control = rig.control(name)
            now = some_nodes(rig, (control.node,), values)[:, 0, 3:7]
            wished = multiply(about(_Y, heading + ahead), np.broadcast_to(at_rest(rig)[control.node, 3:7], now.shape))
            wished = multiply(wished, about(np.array([1.0, 0.0, 0.0]), np.asarray(traits.head)))
            turn_control(rig, values, control, _share(now, wished, 0.6))
    tail = sorted(control.name for control in rig.controls if control.name.startswith("tail"))
    for n, name in enumerate(tail):
        late = _later(heading, (n + 1) * _BEHIND * fps) - _later(heading, n * _BEHIND * fps)
        write(rig, values, f"{name}/ry", late + 0.12 * _later(rolls, (n + 1) * _BEHIND * fps))
        write(rig, values, f"{name}/rx", 0.05 * _later(gaussian_filter1d(np.abs(rolls), 2.0), n * _BEHIND * fps))


def _share(one: Array, other: Array, share: float) -> Array:
    turn = multiply(inverse(one), other)
    turn = np.where(turn[:, 3:] < 0.0, -turn, turn)
    angle = 2.0 * np.arctan2(np.linalg.norm(turn[:, :3], axis=1), turn[:, 3])
    axis = turn[:, :3] / np.maximum(np.linalg.norm(turn[:, :3], axis=1), 1e-12)[:, None]
    return np.asarray(multiply(one, from_vector(share * angle[:, None] * axis)))


def _later(values: Array, frames: float) -> Array:
    """Values (F,) so many frames later; before the first as there."""
    at = np.arange(len(values), dtype=float)
    return np.asarray(np.interp(at - frames, at, values))


def _bearings(
    found: Sequence[Footfall], lies: Sequence[Lying], headings: Sequence[float], over: Array
) -> list[Bearing]:  # fmt: skip
    """What bears: each foot while it stands, and together those on which it stands at first and at the end.

    Each as far beside its place as the mass lies beside the middle of the feet at rest, ``over (2,)``.
    """
    places = [
        (one.place[0] + float(over[0] * np.cos(faces) + over[1] * np.sin(faces)),
         one.place[1] + float(over[1] * np.cos(faces) - over[0] * np.sin(faces)))
        for one, faces in zip(found, headings, strict=True)
    ]  # fmt: skip
    stand = [n for n, one in enumerate(found) if one.number == 0]
    end = [n for n, one in enumerate(found) if one.last >= STAYS]
    stood = max((found[n].first for n in end), default=0)
    begins = 0

    def middle(which: Sequence[int]) -> tuple[tuple[float, float], float]:
        x, z = np.mean([places[n] for n in which], axis=0)
        return (float(x), float(z)), float(np.mean([lies[n][0] for n in which]))

    result: list[Bearing] = []
    if stand:  # all together until the first is lifted, and then each that is left
        (place, level), begins = middle(stand), min(found[n].last for n in stand)
        result.append(Bearing(-np.inf, begins + _HANDS, place, place, falls=2.0 * _HANDS, level=level))
    for n, one in enumerate(found):
        if n in stand:
            if one.last > begins:
                result.append(Bearing(begins - _HANDS, one.last, places[n], places[n], rises=2.0 * _HANDS,
                                      falls=_HANDS, level=lies[n][0]))  # fmt: skip
                result.append(Bearing(begins, one.last, places[n], places[n], level=lies[n][0]))
        elif n in end:
            if one.first < stood:
                result.append(Bearing(one.first, stood + _HANDS, places[n], places[n], rises=_HANDS,
                                      falls=2.0 * _HANDS, level=lies[n][0]))  # fmt: skip
                result.append(Bearing(one.first, stood, places[n], places[n], level=lies[n][0]))
        elif one.last > one.first:
            result.append(Bearing(one.first, one.last, places[n], places[n], level=lies[n][0]))
    if end:
        place, level = middle(end)
        result.append(Bearing(stood - _HANDS, np.inf, place, place, rises=2.0 * _HANDS, level=level))
    return result


def _short(rig: Rig, values: Array, limb: Limb, foot: Foot) -> Array:
    """By how much the body is too high for a leg (F,), metres: sooner as it comes down and leaves, so that it is bent
    already as it has to be."""
    nodes = some_nodes(rig, (limb.upper, limb.target), values)
    off = nodes[:, 0, :3] - nodes[:, 1, :3]
    changes = np.full(len(foot.stands), np.inf)
    if foot.stands.any() and not foot.stands.all():
        changes = np.maximum(distance_transform_edt(foot.stands), distance_transform_edt(~foot.stands))
    bends = np.clip(1.0 - (changes - 1.0) / _LEAVES_IN, 0.0, 1.0)
    reach = (_STRAIGHT - _LEAVES * bends) * sum(limb.lengths)
    upright = np.sqrt(np.maximum(reach**2 - (off[:, [0, 2]] ** 2).sum(axis=1), 0.0))
    return np.asarray(np.maximum(off[:, 1] - upright, 0.0))
