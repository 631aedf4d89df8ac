"""Whether a body would stand: its centre of mass, what bears it, and how far the one is inside the other."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from hame.character.masses import centre_of_mass, masses_of
from hame.character.ranges import is_upright
from hame.character.rig import Chain, Limb, Rig
from hame.clip.clip import Clip
from hame.clip.plants import Plant
from hame.clip.played import played_spans
from hame.clip.spans import control_of
from hame.evaluate.posed import Posed
from hame.maths import rotations
from hame.maths.rotations import Array
from hame.measure import area_kernel
from hame.measure.found import Bools
from hame.measure.ground import FLAT, Ground
from hame.measure.loads import Load
from hame.measure.soles import level_of, sole_outline

Ints = npt.NDArray[np.int64]
ON_GROUND = 0.004  # metres: what of a sole is so near to what is under it bears, as a sole gives
_HALF_WAY = 0.45  # of the way to the middle of what bears a body: so far inside at most something is brought
_PALM = 0.04  # metres: half the breadth of a palm


BODY = "body"
"""Among what bears a figure, the trunk of one that sits or lies."""
_LIES_BY = {"hips": 0.14, "chest": 0.14, "head": 0.1}
"""How high a part of the trunk is at most where it is down, as shares of the height: half as thick as it is, and some
more for clothes (common practice, no source)."""
_WIDE = 0.06  # of the height, on all sides: how far it bears around


@dataclass(frozen=True)
class Balance:
    """One frame of a body.

    Attributes
    ----------
    centre : (3,) its centre of mass, metres
    area : (K, 2) the corners, x and z, of what bears it, in order round it; none in flight
    margin : metres from the centre to the nearest edge of the area, below zero outside of it; None in flight
    bearing : the IK controls of the limbs that bear
    level : how high the lowest of what bears it is, metres; zero in flight
    """

    centre: Array
    area: Array
    margin: float | None
    bearing: tuple[str, ...]
    level: float = 0.0


def balances(clip: Clip, posed: Posed, first: int, ground: Ground = FLAT, loads: Sequence[Load] = ()) -> list[Balance]:
    """How a body stands with its loads on each of its frames, ``first`` the number of the first. What is planted bears,
    hands and tips of chains as well as feet, and whatever part of a sole is on the ground.
    """
    rig, nodes = posed.rig, posed.nodes
    if rig.plan.is_prop:
        return []
    centres = laden_centre(posed, loads)
    frames = np.arange(first, first + len(nodes), dtype=float)
    bearing: list[tuple[str, Array, Bools]] = []
    for limb in rig.ends:
        corners = bearing_points(rig, limb, nodes)
        held = _held(clip, rig, limb, frames)
        touches = np.zeros(corners.shape[:2], np.bool_)
        if isinstance(limb, Limb) and limb.kind == "leg":
            touches = corners[:, :, 1] - ground.under(corners) - level_of(rig, limb) < ON_GROUND
        # A planted limb bears by what of it is down; one that is planted in the air, on a rung or a rail, by all of it.
        touches |= (held & ~touches.any(axis=1))[:, None]
        bearing.append((limb.ik, corners, touches))
    trunk = _trunk_down(rig, nodes, ground)
    if trunk is not None:
        bearing.append((BODY, *trunk))
    places = np.concatenate([np.zeros((len(nodes), 0, 3)), *(c for _, c, _ in bearing)], axis=1)
    down = np.concatenate([np.zeros((len(nodes), 0), np.bool_), *(t for _, _, t in bearing)], axis=1)
    order = np.argsort(~down, axis=1, kind="stable")  # what is down comes first in each row
    flat = np.ascontiguousarray(np.take_along_axis(places[:, :, [0, 2]], order[:, :, None], axis=1))
    corners, counts = _areas(flat, down.sum(axis=1))
    margins = np.empty(len(nodes))
    area_kernel.margins(corners, counts, np.ascontiguousarray(centres[:, [0, 2]]), margins)
    levels = np.where(down.any(axis=1), np.where(down, places[:, :, 1], np.inf).min(axis=1, initial=np.inf), 0.0)
    who = [(ik, np.asarray(touches.any(axis=1))) for ik, _, touches in bearing]
    return [
        Balance(centre, area[:count], None if count == 0 else margin, tuple(ik for ik, bears in who if bears[n]), level)
        for n, (centre, area, count, margin, level) in enumerate(
            zip(centres, corners, counts.tolist(), margins.tolist(), levels.tolist(), strict=True)
        )
    ]


def _trunk_down(rig: Rig, nodes: Array, ground: Ground) -> tuple[Array, Bools] | None:
    """The places (F, P, 3) by which the trunk of a body as ours can lie or sit on something, and which of them do.

    None where it is down nowhere, or for a creature, whose trunk is of any shape.
    """
    names = [name for name in _LIES_BY if rig.has_control(name)]
    if not names or not is_upright(rig.plan, rig.skeleton):
        return None
    high = rig.skeleton.height
    at = nodes[:, [rig.control(name).node for name in names], :3]
    thick = np.array([_LIES_BY[name] for name in names]) * high
    down = at[:, :, 1] - ground.under(at) < thick
    if not down.any():
        return None
    around = _WIDE * high * np.array([[1.0, 0.0, 0.0], [-1.0, 0.0, 0.0], [0.0, 0.0, 1.0], [0.0, 0.0, -1.0]])
    low = at - thick[:, None] * np.array([0.0, 1.0, 0.0])
    places = (low[:, :, None] + around).reshape(len(nodes), -1, 3)
    return places, np.repeat(down, len(around), axis=1)


def laden_centre(posed: Posed, loads: Sequence[Load] = ()) -> Array:
    """The centre of mass (F, 3) of a body together with what it carries, metres."""
    centres = centre_of_mass(posed.rig, posed.nodes)
    weigh = np.full(len(centres), masses_of(posed.rig).kilograms)
    for load in loads:
        share = (load.kilograms / (weigh + load.kilograms))[:, None]
        centres = centres + share * (centre_of_mass(load.rig, load.nodes) - centres)
        weigh = weigh + load.kilograms
    return np.asarray(centres)


def margins_of(stands: Sequence[Balance], points: Array) -> Array:
    """How far points ``(F, 2)``, x and z, are inside of what bears a body on each of its frames (F,), metres.

    Of a centre of pressure it is the margin in motion, where :attr:`Balance.margin` is that of a body at rest. Below
    zero outside; NaN where nothing bears it, or nothing presses.
    """
    return np.array([
        inside(stand.area, at) if np.isfinite(at).all() else np.nan
        for stand, at in zip(stands, points, strict=True)
    ])  # fmt: skip


def ways_inside(stands: Sequence[Balance], points: Array, within: float, least: float) -> Array:
    """How far and which way (F, 2) points (F, 2) have to go to be so far ``within`` what bears a body on each of its
    frames, or half way to its middle where it is small; those that are inside by ``least`` stay.
    """
    ways, margins = np.zeros((len(stands), 2)), margins_of(stands, points)
    for n, stand in enumerate(stands):
        if stand.bearing and len(stand.area) >= 3 and np.isfinite(margins[n]) and margins[n] < least:
            wished = min(within, _HALF_WAY * inside(stand.area, middle_of(stand.area)))
            ways[n] = brought_inside(stand.area, points[n], wished) - points[n]
    return ways


def _areas(points: Array, counts: Ints) -> tuple[Array, Ints]:
    """The convex hulls (F, P, 2) of the first so many of points (F, P, 2), and how many corners (F,) each has."""
    corners, found = np.zeros(points.shape), np.zeros(len(points), np.int64)
    area_kernel.hulls(points, counts.astype(np.int64), corners, found)
    return corners, found


def hull(points: Array) -> Array:
    """The corners (K, 2) of the convex hull of points (P, 2), in order."""
    corners, counts = _areas(np.ascontiguousarray(points[None], float), np.array([len(points)]))
    return np.asarray(corners[0, : counts[0]])


def inside(area: Array, at: Array) -> float:
    """How far a point (2,) is inside an area (K, 2), metres from its nearest edge; below zero outside."""
    found = np.empty(1)
    counts = np.array([len(area)], np.int64)
    area_kernel.margins(np.ascontiguousarray(area[None], float), counts, np.ascontiguousarray(at[None], float), found)
    return float(found[0])


def brought_inside(area: Array, at: Array, wished: float) -> Array:
    """The place (2,) on the way from a point (2,) to the middle of an area that is so far inside first, metres."""
    middle = middle_of(area)
    low, high = 0.0, 1.0
    for _ in range(30):
        half = 0.5 * (low + high)
        if inside(area, at + half * (middle - at)) >= wished:
            high = half
        else:
            low = half
    return np.asarray(at + high * (middle - at))


def middle_of(area: Array) -> Array:
    """The middle (2,) of an area (K, 2): of its surface, or of its corners where it has none."""
    a, b = area, np.roll(area, -1, axis=0)
    cross = a[:, 0] * b[:, 1] - b[:, 0] * a[:, 1]
    if abs(float(cross.sum())) < 1e-9:
        return np.asarray(area.mean(axis=0))
    return np.asarray(((a + b) * cross[:, None]).sum(axis=0) / (3.0 * cross.sum()))


def _held(clip: Clip, rig: Rig, limb: Limb | Chain, frames: Array) -> Bools:
    spans = played_spans(clip, rig, Plant.kind, float(frames[0]), float(frames[-1]))
    held = np.zeros(len(frames), np.bool_)
    for track, plants in spans.items():
        if control_of(track) == limb.ik:
            for plant in plants:
                held |= (frames >= plant.start) & (frames <= plant.last)
    return held


def bearing_points(rig: Rig, limb: Limb | Chain, nodes: Array) -> Array:
    """The points (F, K, 3) of a sole, a palm or a tip that can bear, as they come."""
    if isinstance(limb, Chain):
        return nodes[:, [limb.end], :3]
    if limb.kind == "leg":
        return sole_outline(rig, limb, nodes)
    end = nodes[:, limb.end]
    palm = np.array(limb.points.get("palm", (0.0, 0.0, 0.0)))
    points = palm + _PALM * np.array([[1.0, 0, 0], [-1.0, 0, 0], [0, 1.0, 0], [0, -1.0, 0]])
    return end[:, None, :3] + rotations.rotate(end[:, None, 3:7], end[:, None, 7:8] * points)
