"""What follows from footfalls before anybody is posed by them: feet, what bears, where who goes faces; and controls
that are laid there."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Sequence
from dataclasses import dataclass, fields, replace
from itertools import pairwise

import numpy as np
from scipy.ndimage import distance_transform_edt, gaussian_filter1d

from hame.character.rig import Limb, Rig
from hame.errors import BadEdit
from hame.evaluate.going.body import about, at_rest, turn_control
from hame.evaluate.going.feet import Bools, Foot, Lying, foot_along
from hame.evaluate.going.parts import standing_height
from hame.gait.bearings import Bearing, Bounce, Sole, bearings_of
from hame.gait.footfalls import STAYS, Footfall
from hame.gait.mass import Carried
from hame.gait.traits import Traits
from hame.maths.rotations import Array, inverse, multiply, rotate, unwound

_FOLLOWS = 0.3  # seconds over which the master follows evenly
_BREAK = np.radians(68.0)  # from where on a foot that rolls goes over its tip
STRAIGHT = 0.998  # of a leg: so far from hip to ankle at most, that no knee snaps
_FLYING = 0.976, 0.97, 0.965  # as it lands out of a flight, leaves the ground for one, and in it
_QUICK, _BRISK = 0.375, 0.004  # seconds: in steps that take no more a leg reaches less far, by so much of it
_WIDE, _LANDS = 0.7, 0.01  # of a leg: of steps longer than that it reaches less far as it comes down
_STAIR, _CLIMBS = 0.2, 0.035  # of a leg: up to what is so high, or higher, it reaches that much less; and down to it
_CLIMBS_IN = 3.0  # frames about that
_BENT = 2.2  # times as much are legs bent that land a jump, or begin one; and of who is in the air for long
_AIR = 0.17, 0.375  # seconds in the air that are usual, and that are long
_JUMPS = 0.8  # of its step about a landing of both feet
_GIVES = 0.125  # seconds about that
Fall = tuple[Footfall, Lying, float]
MOST_ROLLED = np.radians(57.6)  # that a heel comes up for a leg that does not reach: on its ball still


@dataclass(frozen=True, eq=False)
class Over:
    """Somebody over footfalls, on some frames.

    Attributes
    ----------
    falls : by side, its footfalls, on what they lie, and their headings in one go
    feet : by side, how its foot goes before its heel comes up for a leg that does not reach
    bearings : what bears
    heading : (F,) where who goes faces, radians
    master : (F, 2) where the master lies, (x, z) in metres
    ground : (F,) how high the ground is that it goes on
    wished : (F,) how high the mass is to be in the mean, and ``low`` how much lower it goes than legs need, metres
    straight : by side, (F,) how far a leg reaches at most, of its length
    leg, step : how long a leg is, metres, and how many frames a step takes
    both : for how many frames both feet are on the ground
    """

    rig: Rig
    frames: Array
    fps: float
    gravity: float
    traits: Traits
    legs: dict[str, Limb]
    falls: dict[str, list[Fall]]
    feet: dict[str, Foot]
    bearings: list[Bearing]
    heading: Array
    master: Array
    ground: Array
    wished: Array
    low: Array
    straight: dict[str, Array]
    leg: float
    step: float
    both: float

    def cut(self, rows: slice, found: Sequence[Footfall]) -> Over:
        """It on some rows and over some of its footfalls; what bears is not told of these alone."""
        mine = {(one.side, one.number) for one in found}
        feet = {side: foot.cut(rows) for side, foot in self.feet.items()}
        return replace(
            self, frames=self.frames[rows], traits=self.traits.cut(rows), bearings=[], heading=self.heading[rows],
            falls={side: [f for f in falls if (side, f[0].number) in mine] for side, falls in self.falls.items()},
            feet={side: replace(foot, left=foot.left - rows.start) for side, foot in feet.items()},
            master=self.master[rows], ground=self.ground[rows], wished=self.wished[rows], low=self.low[rows],
            straight={side: far[rows] for side, far in self.straight.items()},
        )  # fmt: skip


def over_footfalls(
    rig: Rig, found: Sequence[Footfall], frames: Array, fps: float, gravity: float, traits: Traits,
    lies: Sequence[Lying], like: Over | None = None, rows: tuple[int, int] = (0, 0),
) -> Over:  # fmt: skip
    """What follows from footfalls.

    Parameters
    ----------
    frames : (F,) in a row; ``traits`` has a number for each
    lies : on what each footfall lies
    like : what followed from others with these frames and traits, the feet of which are as there but on ``rows``, from
        one to before the other

    Raises
    ------
    BadEdit
        If the rig has not two legs.
    """
    legs = {rig.control(limb.ik).side: limb for limb in rig.limbs if limb.kind == "leg"}
    if set(legs) != {"L", "R"} or len([limb for limb in rig.limbs if limb.kind == "leg"]) != 2:
        raise BadEdit("who goes so has two legs; nothing was changed")
    leg = sum(legs["L"].lengths)
    turns = np.unwrap([one.heading for one in found])
    if like is not None:  # as many whole turns on as there
        turns += unwound(np.array(0.0), np.array(_first_heading(like) - turns[0]))
    headings = turns.tolist()
    falls = {
        side: [(one, lie, faces) for one, lie, faces in zip(found, lies, headings, strict=True) if one.side == side]
        for side in legs
    }
    if like is None:
        feet = {side: _foot(mine, frames, traits, leg) for side, mine in falls.items()}
    else:
        feet = {
            side: like.feet[side] if like.falls[side] == mine
            else _foot_again(like.feet[side], mine, frames, traits, leg, *rows)
            for side, mine in falls.items()
        }  # fmt: skip
    # The place of a foot is under its ankle; so far behind and ahead of that it presses.
    limb = legs["L"]
    sole = Sole(0.7 * limb.points["heel"][2], 1.05 * limb.points["ball"][2]) if "heel" in limb.points else Sole()
    shares = np.interp(
        [0.5 * (one.first + min(one.last, frames[-1])) for one in found], frames, np.asarray(traits.bounce)
    )
    high = [one[0] for one in lies]
    bearings = bearings_of(found, Bounce(leg, fps=fps, gravity=gravity), sole, high, shares.tolist())
    landed = sorted({one.first for one in found if one.number > 0})
    step = float(np.median(np.diff(landed))) if len(landed) > 1 else 0.5 * fps
    ground = _ground(feet)
    wished, low = standing_height(rig) + ground, np.asarray(traits.low) * leg
    heading, master = _led(feet, fps)
    stood = [one.last - one.first for one in found if one.number > 0 and one.last < STAYS]
    both = max(float(np.median(stood)) - step, 0.0) if stood else 0.0
    straight = _straight(found, feet, frames, step, leg, fps)
    for side, mine in falls.items():
        straight[side] = straight[side] - _climbing(mine, frames, leg)
    return Over(
        rig, frames, fps, gravity, traits, legs, falls, feet, bearings, heading, master, ground, wished, low, straight,
        leg, step, both,
    )  # fmt: skip


def _straight(
    found: Sequence[Footfall], feet: dict[str, Foot], frames: Array, step: float, leg: float, fps: float
) -> dict[str, Array]:  # fmt: skip
    """How far legs reach at most (F,), of their length: less as one comes down out of a flight, begins one, or comes
    down after a long step, as no knee gives way from being straight within a frame."""
    in_flight = ~(feet["L"].stands | feet["R"].stands)
    takes, beside = step / fps, max(_GIVES * fps, 1.5)
    straight = STRAIGHT - _BRISK * min(max(1.0 - (takes - _QUICK) / _GIVES, 0.0), 1.0)
    far = np.abs(np.diff([one.along for one in found if one.number > 0]))
    wide = min(max((float(np.median(far)) / leg - _WIDE) / 0.2, 0.0), 1.0) if len(far) else 0.0
    if not in_flight.any():
        return {side: straight - wide * _LANDS * _near(~foot.stands, beside) for side, foot in feet.items()}
    away, nearest = distance_transform_edt(~in_flight, return_indices=True)
    gives = np.clip((beside - away) / (beside - 1.0), 0.0, 1.0)
    lands, leaves, flying = _FLYING
    bent = np.where(nearest[0] > np.arange(len(frames)), leaves, lands)
    # Who flies for long comes down fast, as who jumps does.
    turns = np.flatnonzero(np.diff(np.concatenate([[0], in_flight.astype(int), [0]])))
    flown = np.repeat(np.diff(turns)[::2], np.diff(turns)[::2])[np.cumsum(in_flight)[nearest[0]] - 1] / fps
    quick = np.interp(flown, _AIR, [1.0, _BENT])
    of_right = {one.number for one in found if one.side == "R"}
    for one in found:
        if one.number > 0 and one.side == "L" and one.number in of_right:  # who jumps comes down fast
            until = min(one.last, frames[-1])
            quick[(frames > one.first - _JUMPS * step) & (frames < until + _JUMPS * step)] = _BENT
    return {
        side: straight - quick * (straight - np.where(foot.stands, bent, flying)) * gives for side, foot in feet.items()
    }


def _climbing(falls: Sequence[Fall], frames: Array, leg: float) -> Array:
    """How much less a leg reaches (F,), of its length, as its foot leaves the ground for what is higher, or comes down
    on what is lower: its knee is bent already as it has to come up, or to take the weight."""
    less = np.zeros(len(frames))
    for (one, lies, _), (after, then, _) in pairwise(falls):
        rise = min(max((then[0] - lies[0]) / (_STAIR * leg), -1.0), 1.0)
        if rise != 0.0:
            off = np.abs(frames - (one.last if rise > 0.0 else after.first))
            less = np.maximum(less, abs(rise) * _CLIMBS * np.clip(1.0 - off / _CLIMBS_IN, 0.0, 1.0))
    return less


def _near(airborne: Bools, about: float) -> Array:
    """How near frames (F,) are to the end of a time in the air, from 0 to 1 within some frames ``about`` it."""
    lands = airborne & ~np.append(airborne[1:], True)
    if not lands.any():
        return np.zeros(len(airborne))
    return np.asarray(np.clip((about + 1.0 - distance_transform_edt(~lands)) / about, 0.0, 1.0))


def _foot(falls: Sequence[Fall], frames: Array, traits: Traits, leg: float) -> Foot:
    return foot_along(
        [one for one, _, _ in falls], [lie for _, lie, _ in falls], [faces for _, _, faces in falls], frames, traits,
        leg,
    )  # fmt: skip


def _foot_again(
    foot: Foot, falls: Sequence[Fall], frames: Array, traits: Traits, leg: float, begin: int, end: int
) -> Foot:  # fmt: skip
    """A foot that goes over other footfalls, but only on some rows."""
    firsts = [one.first for one, _, _ in falls]
    # How it rolls on one hangs on those before and after.
    some = slice(
        max(bisect_right(firsts, frames[begin]) - 2, 0), min(bisect_right(firsts, frames[end - 1]) + 2, len(falls))
    )
    rows = slice(begin, end)
    part = _foot(falls[some], frames[rows], traits.cut(rows), leg)
    part.left[:] += begin
    again = Foot(*(getattr(foot, one.name).copy() for one in fields(foot)))
    for one in fields(foot):
        getattr(again, one.name)[rows] = getattr(part, one.name)
    return again


def _first_heading(over: Over) -> float:
    """The heading of the footfall that comes first."""
    begins = [falls[0] for falls in over.falls.values() if falls]
    return min(begins, key=lambda fall: (fall[0].first, fall[0].number))[2]


def laid(over: Over, values: Array, rows: slice) -> None:
    """Writes master and feet on some rows into channel values (F, C), in place."""
    rig, mine, rest = over.rig, values[rows], at_rest(over.rig)
    master, heading, ground = over.master[rows], over.heading[rows], over.ground[rows]
    _place_master(rig, mine, master, heading, ground)
    for side, limb in over.legs.items():
        _place_foot(rig, mine, limb, over.feet[side].cut(rows), master, heading, ground, rest)


def more_on_the_left(over: Over, mass: Carried) -> Array:
    """How much more the left foot bears than the right (F,), of the weight."""
    signs = np.array([1.0 if one.side == "L" else -1.0 if one.side == "R" else 0.0 for one in over.bearings])
    return mass.lifted.borne(signs)


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
