"""Whether a body would stand: its centre of mass, what bears it, and how far the one is inside the other."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from hame.character.rig import Limb, Rig
from hame.clip.clip import Clip
from hame.clip.plants import Plant
from hame.clip.played import played_spans
from hame.clip.spans import control_of
from hame.maths import rotations
from hame.maths.rotations import Array
from hame.measure.found import Bools
from hame.measure.ground import FLAT, Ground
from hame.measure.mass import centre_of_mass
from hame.measure.stride import sole_points
from hame.scene.joined import Posed

ON_GROUND = 0.015  # metres: a sole so near to what is under it bears
# Half the breadth of a sole at heel and ball, as a share of its length: a foot is about two and a half times as long as
# it is broad (from memory of Drillis and Contini 1966), and narrower at the heel.
_HEEL, _BALL = 0.13, 0.19
_PALM = 0.04  # metres: half the breadth of a palm


@dataclass(frozen=True)
class Balance:
    """One frame of a body.

    Attributes
    ----------
    centre : (3,) its centre of mass, metres
    area : (K, 2) the corners, x and z, of what bears it, in order round it; none in flight
    margin : metres from the centre to the nearest edge of the area, below zero outside of it; None in flight
    bearing : the IK controls of the limbs that bear
    """

    centre: Array
    area: Array
    margin: float | None
    bearing: tuple[str, ...]


def balances(clip: Clip, posed: Posed, first: int, ground: Ground = FLAT) -> list[Balance]:
    """How a body stands on each of its frames, ``first`` the number of the first. Planted limbs bear, hands as well as
    feet, and whatever part of a sole is on the ground.
    """
    rig, nodes = posed.rig, posed.nodes
    if rig.plan.is_prop:
        return []
    centres = centre_of_mass(rig, nodes)
    frames = np.arange(first, first + len(nodes), dtype=float)
    bearing: list[tuple[str, Array, Bools]] = []
    for limb in rig.limbs:
        corners = corners_of(rig, limb, nodes)
        held = _held(clip, rig, limb, frames)
        touches = np.zeros(corners.shape[:2], np.bool_)
        if limb.kind == "leg":
            touches = corners[:, :, 1] - ground.under(corners) - _level(rig, limb) < ON_GROUND
        # A planted limb bears by what of it is down; one that is planted in the air, on a rung or a rail, by all of it.
        touches |= (held & ~touches.any(axis=1))[:, None]
        bearing.append((limb.ik, corners, touches))
    found = []
    for n, centre in enumerate(centres):
        points = np.concatenate([np.zeros((0, 2)), *(c[n][t[n]][:, [0, 2]] for _, c, t in bearing)])
        area = hull(points)
        margin = None if len(area) == 0 else inside(area, centre[[0, 2]])
        found.append(Balance(centre, area, margin, tuple(ik for ik, _, t in bearing if t[n].any())))
    return found


def hull(points: Array) -> Array:
    """The corners (K, 2) of the convex hull of points (P, 2), in order (Andrew's monotone chain, 1979)."""
    rows = sorted(map(tuple, np.round(points, 9).tolist()))
    rows = list(dict.fromkeys(rows))
    if len(rows) < 3:
        return np.array(rows, float).reshape(-1, 2)

    def chain(line: Sequence[tuple[float, float]]) -> list[tuple[float, float]]:
        out: list[tuple[float, float]] = []
        for p in line:
            while len(out) > 1:
                (ax, ay), (bx, by) = out[-2], out[-1]
                if (bx - ax) * (p[1] - ay) - (by - ay) * (p[0] - ax) > 0.0:
                    break
                out.pop()
            out.append(p)
        return out

    return np.array([*chain(rows)[:-1], *chain(rows[::-1])[:-1]], float)


def inside(area: Array, at: Array) -> float:
    """How far a point (2,) is inside an area (K, 2), metres from its nearest edge; below zero outside."""
    a = area
    b = np.roll(area, -1, axis=0)
    way = b - a
    along = np.clip(((at - a) * way).sum(axis=1) / np.maximum((way**2).sum(axis=1), 1e-18), 0.0, 1.0)
    near = float(np.linalg.norm(at - a - along[:, None] * way, axis=1).min())
    side = way[:, 0] * (at - a)[:, 1] - way[:, 1] * (at - a)[:, 0]
    return near if len(area) > 2 and bool((side >= 0.0).all()) else -near


def middle_of(area: Array) -> Array:
    """The middle (2,) of an area (K, 2): of its surface, or of its corners where it has none."""
    a, b = area, np.roll(area, -1, axis=0)
    cross = a[:, 0] * b[:, 1] - b[:, 0] * a[:, 1]
    if abs(float(cross.sum())) < 1e-9:
        return np.asarray(area.mean(axis=0))
    return np.asarray(((a + b) * cross[:, None]).sum(axis=0) / (3.0 * cross.sum()))


def _held(clip: Clip, rig: Rig, limb: Limb, frames: Array) -> Bools:
    spans = played_spans(clip, rig, Plant.kind, float(frames[0]), float(frames[-1]))
    held = np.zeros(len(frames), np.bool_)
    for track, plants in spans.items():
        if control_of(track) == limb.ik:
            for plant in plants:
                held |= (frames >= plant.start) & (frames <= plant.last)
    return held


def _level(rig: Rig, limb: Limb) -> float:
    sole = rig.plan.soles.get(limb.name)
    return min(sole["heel"][1], sole["tip"][1], 0.0) if sole else 0.0


def corners_of(rig: Rig, limb: Limb, nodes: Array) -> Array:
    """The corners (F, K, 3) of a sole or a palm."""
    if limb.kind == "leg":
        heel, ball, tip = np.moveaxis(sole_points(rig, limb, nodes), 1, 0)
        way = tip - heel
        across = np.stack([way[:, 2], np.zeros(len(way)), -way[:, 0]], axis=1)
        return np.stack(
            [heel + _HEEL * across, heel - _HEEL * across, ball + _BALL * across, ball - _BALL * across, tip], axis=1
        )
    end = nodes[:, limb.end]
    palm = np.array(limb.points.get("palm", (0.0, 0.0, 0.0)))
    points = palm + _PALM * np.array([[1.0, 0, 0], [-1.0, 0, 0], [0, 1.0, 0], [0, -1.0, 0]])
    return end[:, None, :3] + rotations.rotate(end[:, None, 3:7], end[:, None, 7:8] * points)
