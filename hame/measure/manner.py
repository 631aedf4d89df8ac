"""How somebody goes, read off any motion: the quantities by which a gait is made, out of where joints are."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from math import ceil, pi

import numpy as np
from scipy.ndimage import gaussian_filter1d

from hame.character.masses import centre_of_mass
from hame.character.rig import Limb, Rig
from hame.errors import BadEdit
from hame.evaluate.going.body import at_rest
from hame.gait.footfalls import Footfall, Side, size_of_step
from hame.gait.traits import PASSES, Traits, lift_at
from hame.maths import rotations
from hame.maths.rotations import Array
from hame.measure.found import HEIGHT, SHORTEST, SPEED, runs, standing
from hame.measure.ground import FLAT, Ground
from hame.measure.habits import hands_of, lowered, steadiness
from hame.measure.soles import has_sole, sole_points

_EVEN = 0.6  # seconds over which a heading is evened out
_HANDED_ON = 0.25  # of a list of the pelvis that the chest turns against it
_Y = np.array([0.0, 1.0, 0.0])


@dataclass(frozen=True)
class Manner:
    """What was read.

    Attributes
    ----------
    traits : what a gait is made by, each its mean over whole strides
    step, width : from a landing to the next along the way, of the leg; across the way, metres
    on, step_frames : frames on the ground, and from a landing to the next, in the mean
    toe_out : radians that feet are turned out
    speed : metres a second along the way
    rise, sway : how much the mass goes up and down, and aside, in a stride, metres
    """

    traits: Traits
    step: float
    width: float
    on: float
    step_frames: float
    toe_out: float
    speed: float
    rise: float
    sway: float


def manner_of(rig: Rig, nodes: Array, found: Sequence[Footfall], first: int, fps: float) -> Manner:
    """How a figure with two legs goes, read off its nodes ``(F, N, 8)`` from frame ``first`` on.

    Parameters
    ----------
    found : its footfalls, those of one foot in the order of time; where they lie is what counts of their places

    Raises
    ------
    BadEdit
        If there is no whole stride.
    """
    strides = _strides(found, first, len(nodes))
    if not strides:
        raise BadEdit("there is no whole stride to read how it goes: it takes two landings of one foot on the frames")
    legs = {rig.control(limb.ik).side: limb for limb in rig.limbs if limb.kind == "leg"}
    leg = sum(next(iter(legs.values())).lengths)
    centre = centre_of_mass(rig, nodes)
    way = gaussian_filter1d(centre[:, [0, 2]], _EVEN * fps, axis=0, mode="nearest")
    along = np.gradient(way, axis=0)
    heading = np.unwrap(np.arctan2(along[:, 0], along[:, 1]))
    part = np.arange(strides[0][0], strides[-1][1])
    faces = rotations.from_vector(np.outer(heading, _Y))
    pelvis, chest, head = (_turned(rig, nodes, role, faces) for role in ("hips", _top(rig), "head"))
    turn, drop = _half(pelvis[:, 1], strides), _half(pelvis[:, 2], strides)
    arms = [limb for limb in rig.limbs if limb.kind == "arm"]
    swings, outs, bends = zip(*(_arm(rig, nodes, limb, faces) for limb in arms), strict=True) if arms else ((), (), ())
    steps, widths, toes, sides = _steps(found, strides, first, heading)
    step = _mean(steps)
    of_left, of_right = (_mean([far for far, side in zip(steps, sides, strict=True) if side == one]) for one in "LR")
    half = min(0.5 * step, 0.8 * leg)
    rise = 2.0 * _half(centre[:, 1], strides)
    lift, strike, push = _feet(rig, nodes, list(legs.values()), found, strides, first, leg)
    # Leaning is what the chest turns beyond what it does as the pelvis lists.
    over = -_HANDED_ON * drop - _half(chest[:, 2], strides) * _alike(chest[part, 2], pelvis[part, 2])
    # Those that stand on the first or the last frame may have stood longer.
    whole = [one for one in found if one.number > 0 and one.first > first and one.last < first + len(nodes) - 1]
    lands = [one for one in whole if strides[0][0] <= one.first - first < strides[-1][1]]
    traits = Traits(
        turn=turn, list=drop, pitch=float(chest[part, 0].mean()),
        chest=_half(chest[:, 1], strides) / max(turn, 1e-6),
        lift=lift, strike=strike, push=push, lean=over,
        bounce=_wave(centre[:, 1], strides) / max(leg - float(np.sqrt(leg**2 - half**2)), 1e-6),
        uneven=(of_left - of_right) / max(step, 1e-6),
        low=lowered(rig, nodes, found, part, first), steady=steadiness(chest[part], head[part]),
        **hands_of(rig, nodes, swings, strides),
        swing=_mean([_half(one, strides) for one in swings]), arms_out=_mean([float(o[part].mean()) for o in outs]),
        arm_bend=_mean([float(b[part].min()) for b in bends]),
        arm_bends=_mean([float(np.ptp(b[part])) for b in bends]), head=float(head[part, 0].mean()),
    )  # fmt: skip
    level = centre[:, [0, 2]] - way
    aside = level[:, 0] * np.cos(heading) - level[:, 1] * np.sin(heading)
    frames = strides[-1][1] - strides[0][0]
    gone = float(np.linalg.norm(np.diff(way[part], axis=0), axis=1).sum())
    return Manner(
        traits, step / leg, _mean(widths), _mean([one.last - one.first for one in lands]),
        frames / max(2 * len(strides), 1), _mean(toes), gone / (len(part) - 1) * fps,
        rise, 2.0 * _half(aside, strides),
    )  # fmt: skip


def footfalls_in(rig: Rig, nodes: Array, first: int, fps: float, ground: Ground = FLAT) -> list[Footfall]:
    """The footfalls that a motion shows, in the order in which feet land: where a point of a sole stands still.

    How far along a way they lie is not told: there is none.
    """
    found: list[Footfall] = []
    for limb in (limb for limb in rig.limbs if limb.kind == "leg" and has_sole(rig, limb)):
        points = sole_points(rig, limb, nodes)
        side: Side = "L" if rig.control(limb.ik).side == "L" else "R"
        for a, b in runs(np.asarray(standing(points, fps, HEIGHT, SPEED, ground).any(axis=1))):
            if b - a + 1 < SHORTEST:
                continue
            middle = (a + b) // 2
            place, way = nodes[middle, limb.target], points[middle, 1] - points[middle, 0]
            at, heading = (float(place[0]), float(place[2])), float(np.arctan2(way[0], way[2]))
            found.append(Footfall(0, side, first + a, first + b, at, heading, 0.0))
    return [replace(one, number=n) for n, one in enumerate(sorted(found, key=lambda one: one.first), 1)]


def _strides(found: Sequence[Footfall], first: int, count: int) -> list[tuple[int, int]]:
    """The rows between landings of one foot, of which all lie on the frames; without the first and the last of several,
    in which somebody gets going and comes to stand."""
    landed = [one.first - first for one in found if one.side == "L" and one.number > 0]
    strides = [(a, b) for a, b in zip(landed[:-1], landed[1:], strict=True) if a >= 0 and b < count]
    return strides[1:-1] if len(strides) > 3 else strides


def _half(values: Array, strides: Sequence[tuple[int, int]]) -> float:
    """By how much values (F,) go to each side in a stride, in the mean."""
    return _mean([0.5 * float(np.ptp(values[a : b + 1])) for a, b in strides])


def _wave(values: Array, strides: Sequence[tuple[int, int]]) -> float:
    """By how much values (F,) go up and down with each step, two of a stride, in the mean: their wave of that
    length."""
    found = []
    for a, b in strides:
        rows = np.arange(a, b)
        waves = np.stack([np.cos(4.0 * pi * (rows - a) / (b - a)), np.sin(4.0 * pi * (rows - a) / (b - a))])
        even = values[a:b] - np.interp(rows, [a, b], values[[a, b]])  # it may go up a slope, or get tired
        found.append(4.0 / (b - a) * float(np.linalg.norm(waves @ even)))
    return _mean(found)


def _mean(values: Sequence[float]) -> float:
    return float(np.mean(values)) if len(values) else 0.0


def _top(rig: Rig) -> str:
    """The role of the joint that carries chest and arms."""
    spine = sorted(role for role in rig.plan.roles if role.startswith("spine."))
    return spine[-1] if spine else "hips"


def _turned(rig: Rig, nodes: Array, role: str, faces: Array) -> Array:
    """How a joint is turned from its rest, seen from where its figure faces: pitch, turn and roll (F, 3), radians."""
    if role not in rig.plan.roles:
        return np.zeros((len(nodes), 3))
    joint = rig.skeleton.index(rig.plan.roles[role])
    rest = np.broadcast_to(rotations.inverse(rig.skeleton.world[joint, 3:7]), (len(nodes), 4))
    turns = rotations.multiply(nodes[:, rig.joint_nodes[joint], 3:7], rest)
    return rotations.to_vector(rotations.multiply(rotations.inverse(faces), turns))


def _arm(rig: Rig, nodes: Array, limb: Limb, faces: Array) -> tuple[Array, Array, Array]:
    """How far an upper arm is ahead and away from straight down, and its elbow bent (F,), radians."""
    upper, lower, end = (nodes[:, n, :3] for n in (limb.upper, limb.lower, limb.end))
    way = rotations.rotate(rotations.inverse(faces), lower - upper)
    fore = rotations.rotate(rotations.inverse(faces), end - lower)
    ahead = np.arctan2(way[:, 2], -way[:, 1])
    side = 1.0 if rig.control(limb.fk[0]).side == "L" else -1.0
    out = np.arctan2(side * way[:, 0], np.hypot(way[:, 1], way[:, 2]))
    cross = np.linalg.norm(np.cross(way, fore), axis=1)
    return ahead, out, np.arctan2(cross, (way * fore).sum(axis=1))


def _alike(values: Array, others: Array) -> float:
    """1 where values (F,) go with others about their means, and -1 where they go against them."""
    return 1.0 if float((values - values.mean()) @ (others - others.mean())) >= 0.0 else -1.0


def _feet(
    rig: Rig, nodes: Array, legs: Sequence[Limb], found: Sequence[Footfall], strides: Sequence[tuple[int, int]],
    first: int, leg: float,
) -> tuple[float, float, float]:  # fmt: skip
    """How high feet pass over the ground, of the leg; how far toes are up as they come down, and heels as they leave,
    radians."""
    lifts, strikes, pushes = [], [], []
    for limb in (limb for limb in legs if has_sole(rig, limb)):
        points = sole_points(rig, limb, nodes)
        low = points[:, :, 1].min(axis=1)
        rest = np.broadcast_to(rotations.inverse(at_rest(rig)[limb.end, 3:7]), (len(nodes), 4))
        turns = rotations.multiply(nodes[:, limb.end, 3:7], rest)
        mine = [one for one in found if one.side == rig.control(limb.ik).side]
        for one, other in zip(mine[:-1], mine[1:], strict=True):
            row, left = other.first - first, one.last - first
            if not strides[0][0] <= row < strides[-1][1] or left < 0 or row - left < 2:
                continue
            # As it passes: before that it trails, and is higher.
            passes = min(left + ceil(PASSES * (row - left)), row - 1)
            high = float(low[passes]) - 0.5 * float(low[left] + low[row])
            lifts.append(high / float(lift_at(np.array((passes - left) / (row - left)))) / leg)
            size = size_of_step(one, other, leg)
            strikes.append(_up(points[row], turns[row]) / size)
            pushes.append(-_up(points[left], turns[left]) / size)
    return _mean(lifts), _mean(strikes), _mean(pushes)


def _up(sole: Array, turn: Array) -> float:
    """How far the ball of a foot is up over its heel, by the points (K, 3) of its sole and how it is turned from its
    rest (4,), radians: by how much it is not upright any more, as few feet point where they roll."""
    upright = rotations.rotate(turn, _Y)
    return float(np.copysign(np.arccos(np.clip(upright[1], -1.0, 1.0)), sole[1, 1] - sole[0, 1]))


def _steps(
    found: Sequence[Footfall], strides: Sequence[tuple[int, int]], first: int, heading: Array
) -> tuple[list[float], list[float], list[float], list[Side]]:
    """Lengths and widths of steps, metres, how far feet are turned out, radians, and the side of each."""
    lands = sorted((one for one in found if one.number > 0), key=lambda one: one.first)
    steps, widths, toes, sides = [], [], [], []
    for one, other in zip(lands[:-1], lands[1:], strict=True):
        row = other.first - first
        if not strides[0][0] < row <= strides[-1][1] or one.side == other.side:
            continue
        faces = heading[row]
        by = np.subtract(other.place, one.place)
        steps.append(float(by @ [np.sin(faces), np.cos(faces)]))
        sign = 1.0 if other.side == "L" else -1.0
        widths.append(sign * float(by @ [np.cos(faces), -np.sin(faces)]))
        toes.append(sign * float((other.heading - faces + pi) % (2.0 * pi) - pi))
        sides.append(other.side)
    return steps, widths, toes, sides
