"""Somebody who goes: the channel values of a rig, frame by frame, for footfalls and traits.

A body is posed over its footfalls in rounds: how it moves asks for something of its mass, and a leg that does not reach
for a heel that comes up or a body that goes lower.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from scipy.ndimage import gaussian_filter1d

from hame.character.masses import masses_of
from hame.character.momenta import spins
from hame.character.rig import Rig
from hame.evaluate.going.body import (
    Phases,
    about,
    against,
    at_rest,
    phases_of,
    steady_head,
    swing_arms,
    turn_trunk,
)
from hame.evaluate.going.feet import Foot, Lying, rolled
from hame.evaluate.going.over import MOST_ROLLED, Over, laid, more_on_the_left, over_footfalls
from hame.evaluate.going.parts import carry_body, centre_of, parts_of, smooth_most
from hame.evaluate.some import some_nodes
from hame.gait.footfalls import Footfall
from hame.gait.mass import Carried, mass_over
from hame.gait.traits import Traits
from hame.maths.rotations import Array, inverse, rotate

_LOWERED = 4
_ROLLS_UP = 0.2  # of the leg: how much an ankle rises with each radian that its foot rolls up
_REACHED = 2e-4  # metres: less that a leg is too short is none
_NEARLY = 8e-4  # the same where few footfalls are moved
_FOLLOWS = 1.5  # times what is missing there: the mass goes down by some two thirds of what it is asked to
_SEEN = 0.015  # seconds over which the moment of limbs is evened out
_ALL = slice(None)
_Y = np.array([0.0, 1.0, 0.0])


@dataclass(frozen=True, eq=False)
class Asked:
    """What a body asks for beside its footfalls, as it was found round by round.

    Attributes
    ----------
    lowered : (F,) how much lower it goes, metres
    moment : (F, 3) the change of its angular momentum, a kilogram
    arms : (F,) by how much they swing, as :class:`Phases` has it
    heels : by side, (F,) how much further up its heel is rolled, radians
    raised : by side, (F,) how much higher a foot in the air goes, metres
    """

    lowered: Array
    moment: Array
    arms: Array | None
    heels: dict[str, Array]
    raised: dict[str, Array]

    def cut(self, rows: slice) -> Asked:
        """It on some rows."""
        return Asked(
            self.lowered[rows], self.moment[rows], None if self.arms is None else self.arms[rows],
            {side: by[rows] for side, by in self.heels.items()}, {side: by[rows] for side, by in self.raised.items()},
        )  # fmt: skip


@dataclass(frozen=True, eq=False)
class Gone:
    """How somebody goes on some frames.

    Attributes
    ----------
    values : (F, C) channel values
    mass : how the mass was wished to go
    over, asked : what it was found from, to go on from
    """

    values: Array
    mass: Carried
    over: Over
    asked: Asked

    @property
    def feet(self) -> dict[str, Foot]:
        """By leg, how its foot goes."""
        return {
            self.over.legs[side].name: replace(foot, roll=rolled(foot, self.asked.heels[side], MOST_ROLLED)[0])
            for side, foot in self.over.feet.items()
        }

    def cut(self, rows: slice, found: Sequence[Footfall]) -> Gone:
        """It on some rows and over some of its footfalls, to go on from."""
        mass = replace(self.mass, places=self.mass.places[rows], pressed=self.mass.pressed[rows])
        return Gone(self.values[rows], mass, self.over.cut(rows, found), self.asked.cut(rows))


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
    frames = np.asarray(frames, float)
    traits = (traits or Traits()).over(len(frames))
    over = over_footfalls(rig, found, frames, fps, gravity, traits, list(lies) or [(0.0, 0.0, 0.0)] * len(found))
    count = len(frames)
    values = np.tile(rig.rest, (count, 1))
    laid(over, values, _ALL)
    asked = Asked(
        np.zeros(count), np.zeros((count, 3)), None, {side: np.zeros(count) for side in over.legs},
        {side: np.zeros(count) for side in over.legs},
    )  # fmt: skip
    mass = _mass(over, asked)
    for attempt in range(_LOWERED + 1):
        if attempt:
            mass = _mass(over, asked, mass)
        if attempt == 1:
            asked = replace(asked, arms=against(_legs_turn(rig, values, fps), _phases(over, mass).ahead, over.step))
        # Arms and head hang on what hardly changes any more.
        _posed(over, values, _ALL, mass, asked, whole=attempt < 2)
        _carried(over, values, _ALL, mass)
        asked, missing = _reached(over, values, _ALL, asked)
        if attempt == _LOWERED or (attempt > 2 and missing.max() < _REACHED):
            break
        # What was missing before heels came up is not, after.
        asked = _asked(over, values, asked, missing, again=attempt < _LOWERED - 1)
    high = _too_high(over, values, _ALL)
    raised = {side: _raised(over, values, _ALL, side, asked, high[side], last=True) for side in over.legs}
    _carried(over, values, _ALL, mass)
    return Gone(values, mass, over, replace(asked, raised=raised))


def gone_about(before: Gone, over: Over, rows: slice) -> Gone:
    """How somebody goes over footfalls of which few lie elsewhere than those gone over ``before``, on the same frames.

    It is posed anew on ``rows`` alone, and is as before on all others.

    Begun from what was found then, it takes a round or two.
    """
    rig, values = over.rig, before.values.copy()
    laid(over, values, rows)
    asked, mass = before.asked, _mass(over, before.asked, before.mass)
    for side, one in over.legs.items():
        foot = over.feet[side]
        values[rows, rig.number(f"{one.ik}/roll")] = rolled(foot, asked.heels[side], MOST_ROLLED)[0][rows]
        values[rows, rig.number(f"{one.ik}/ty")] += np.where(foot.stands, 0.0, asked.raised[side])[rows]
    _posed(over, values, rows, mass, asked, whole=True)
    _go_along(before, over, values, rows, mass)
    for attempt in range(_LOWERED):
        if attempt:
            mass = _mass(over, asked, mass)
        _carried(over, values, rows, mass, min(1 + attempt, 2))
        asked, missing = _reached(over, values, rows, asked, last=True)
        if missing.max() < _NEARLY:
            break
        asked = replace(asked, lowered=asked.lowered + _FOLLOWS * smooth_most(np.maximum(missing, 0.0), over.fps))
    if any((asked.heels[side] != before.asked.heels[side]).any() for side in over.legs):  # a heel carries it up
        _carried(over, values, rows, mass, 1)
    return Gone(values, mass, over, asked)


def _go_along(before: Gone, over: Over, values: Array, rows: slice, mass: Carried) -> None:
    """Writes the body on some rows as it was before in the world, but for what its mass goes elsewhere, in place."""
    columns = [over.rig.number(f"body/{name}") for name in ("tx", "ty", "tz")]
    masters = [np.stack([one.master[:, 0], one.ground, one.master[:, 1]], axis=1)[rows] for one in (before.over, over)]
    turned = about(_Y, before.over.heading[rows])
    moved = masters[0] - masters[1] + mass.places[rows] - before.mass.places[rows]
    back = inverse(about(_Y, over.heading[rows]))
    values[rows, columns] = rotate(back, rotate(turned, values[rows][:, columns]) + moved)


def _mass(over: Over, asked: Asked, before: Carried | None = None) -> Carried:
    moment = gaussian_filter1d(asked.moment, _SEEN * over.fps, axis=0, mode="nearest")
    heights = over.wished - asked.lowered - over.low
    lifted = None if before is None else before.lifted
    return mass_over(over.bearings, over.frames, heights, over.fps, over.gravity, moment, lifted)


def _carried(over: Over, values: Array, rows: slice, mass: Carried, rounds: int = 2) -> None:
    carry_body(over.rig, values[rows], mass.places[rows], over.heading[rows], rounds)


def _phases(over: Over, mass: Carried) -> Phases:
    left, right = (over.feet[side].places for side in ("L", "R"))
    return phases_of(left, right, more_on_the_left(over, mass), over.heading, over.leg, over.step, over.both)


def _posed(over: Over, values: Array, rows: slice, mass: Carried, asked: Asked, whole: bool) -> None:
    """Writes the trunk, and of the ``whole`` also arms and head, on some rows into channel values (F, C), in place."""
    phases, traits, mine = replace(_phases(over, mass), arms=asked.arms).cut(rows), over.traits.cut(rows), values[rows]
    turn_trunk(over.rig, mine, phases, traits)
    if whole:
        swing_arms(over.rig, mine, phases, traits)
        steady_head(over.rig, mine, phases, traits)


def _reached(
    over: Over, values: Array, rows: slice, asked: Asked, last: bool = False
) -> tuple[Asked, Array]:  # fmt: skip
    """What it takes on some rows that legs reach: a foot that stands is where it is, so that its heel comes up, or the
    body goes down by what is told (F,), below 0 by what it may come up; one in the air comes up."""
    rig, count = over.rig, len(values)
    missing = np.full(count, -np.inf)
    heels, raised = dict(asked.heels), dict(asked.raised)
    high = _too_high(over, values[rows], rows)
    for side, one in over.legs.items():
        foot, over_it = over.feet[side], np.full(count, -np.inf)
        over_it[rows] = high[side]
        short = np.maximum(over_it, 0.0)
        late = foot.late * short
        if late.any():
            more = np.maximum(late, gaussian_filter1d(late, 0.7, mode="nearest"))
            heels[side] = heels[side] + more / (_ROLLS_UP * over.leg)
        roll, capped = rolled(foot, heels[side], MOST_ROLLED)
        values[rows, rig.number(f"{one.ik}/roll")] = roll[rows]
        raised[side] = _raised(over, values, rows, side, asked, high[side], last)
        needs = over_it + over.low  # beside that it goes lower than it needs
        down = np.where(needs > 0.0, np.where(capped, 1.0, 1.0 - foot.late**2) * np.maximum(needs, 0.0), needs)
        missing = np.maximum(missing, np.where(foot.stands, down, -np.inf))
    return replace(asked, heels=heels, raised=raised), missing


def _raised(
    over: Over, values: Array, rows: slice, side: str, asked: Asked, high: Array, last: bool
) -> Array:  # fmt: skip
    """How much higher a foot goes in the air (F,): by as much as it takes now on some rows, where its leg is too short
    by ``high (R,)``, and not by what it took before the body went down; evenly, and at ``last`` by no less."""
    foot, was = over.feet[side], asked.raised[side]
    stays = np.ones(len(was), np.bool_)
    stays[rows] = foot.stands[rows]
    by = np.zeros(len(was))
    by[rows] = np.where(stays[rows], 0.0, np.maximum(high, -was[rows]))
    if not by.any():
        return was
    even = gaussian_filter1d(by, 0.8, mode="nearest")
    now = np.where(stays, was, np.maximum(was + (np.maximum(by, even) if last else even), 0.0))
    values[rows, over.rig.number(f"{over.legs[side].ik}/ty")] += (now - was)[rows]
    return now


def _asked(over: Over, values: Array, asked: Asked, missing: Array, again: bool) -> Asked:
    """What the next round goes by; how much lower the body goes is found ``again`` or added to."""
    if again:
        lowered = smooth_most(np.maximum(asked.lowered + missing, 0.0), over.fps)
    else:
        lowered = asked.lowered + smooth_most(np.maximum(missing, 0.0), over.fps)
    return replace(asked, lowered=lowered, moment=_moment(over.rig, values, over.fps))


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


def _too_high(over: Over, values: Array, rows: slice) -> dict[str, Array]:
    """By side, by how much the body is too high for a leg on some rows (R,), metres; below 0 by how much it is lower
    than that, where its foot is not too far off as well."""
    limbs = over.legs.values()
    nodes = some_nodes(over.rig, tuple(node for one in limbs for node in (one.upper, one.target)), values)[..., :3]
    far = nodes[:, ::2] - nodes[:, 1::2]  # from foot to hip
    reach = np.stack([over.straight[side][rows] * sum(one.lengths) for side, one in over.legs.items()], axis=1)
    upright = np.sqrt(np.maximum(reach**2 - far[..., 0] ** 2 - far[..., 2] ** 2, 0.0))
    return dict(zip(over.legs, (far[..., 1] - upright).T, strict=True))
