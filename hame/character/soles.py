"""What a foot stands on, read off its skin: over what it rolls at its ends, and which points can touch the ground.

A boot is round at heel and toe: it rolls over a line that lies before its hindmost point, and stands on an area smaller
than its outline seen from above.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from math import radians

import numpy as np

from hame.character.bodyplan import BodyPlan, limb_kind
from hame.character.skeleton import Skeleton
from hame.character.skin import Skin
from hame.maths.rotations import Array

Sole = dict[str, tuple[float, float, float]]
_ROLLS_BACK, _ROLLS_OVER = 30.0, 45.0  # degrees: so far a foot rolls over heel and toe tip and does not sink
_MOST_ROUND = 0.3  # of its length: no more than that of a sole is round at one end
_FLAT = 0.004  # metres: what is no higher than that stands too, as a sole gives
_PITCHES, _TILTS = range(-75, 76, 5), range(-40, 41, 10)  # degrees: the ways a foot may be turned when it touches
_APART = 0.004  # metres: of points so near to one another the lower one will do


@dataclass(frozen=True)
class _Cloud:
    """The skin of a sole: points (P, 3), the share (P,) of each that the toes carry, and the ankle's place."""

    points: Array
    toes: Array
    ankle: Array

    @property
    def forward(self) -> Array:
        """Which way the foot points, level."""
        away = self.points[np.argmax(np.linalg.norm((self.points - self.ankle)[:, [0, 2]], axis=1))] - self.ankle
        flat = np.array([away[0], 0.0, away[2]])
        return np.asarray(flat / max(float(np.linalg.norm(flat)), 1e-9))


def with_soles(plan: BodyPlan, skeleton: Skeleton, skin: Skin) -> BodyPlan:
    """The plan with the soles of its legs and their outlines, as the skin shows them."""
    clouds = _clouds(plan, skeleton, skin)
    return replace(plan, soles=_soles(plan, skeleton, clouds), outlines=_outlines(skeleton, clouds))


def with_outlines(plan: BodyPlan, skeleton: Skeleton, skin: Skin) -> BodyPlan:
    """The plan with the outlines of its soles alone: what it says of them stays, and poses that were made with it."""
    return replace(plan, outlines=_outlines(skeleton, _clouds(plan, skeleton, skin)))


def _clouds(plan: BodyPlan, skeleton: Skeleton, skin: Skin) -> dict[str, _Cloud]:
    return {
        limb: cloud
        for limb in plan.limbs()
        if limb_kind(limb) == "leg" and f"{limb}.foot" in plan.roles
        if (cloud := _cloud(plan, skeleton, skin, limb)) is not None
    }


def _cloud(plan: BodyPlan, skeleton: Skeleton, skin: Skin, limb: str) -> _Cloud | None:
    """What lies below the ankle of what the foot and all below it carry; None where there is too little."""
    roles = plan.roles

    def carried(role: str) -> list[int]:
        top = skeleton.index(roles[role])
        return [j for j in range(len(skeleton)) if j == top or skeleton.is_above(top, j)]

    of_foot, of_toes = carried(f"{limb}.foot"), carried(f"{limb}.ball") if f"{limb}.ball" in roles else []
    clouds, shares = [np.zeros((0, 3))], [np.zeros(0)]
    for piece in skin.pieces:
        share = np.where(np.isin(piece.joints, of_foot), piece.weights, 0).sum(axis=1)
        toes = np.where(np.isin(piece.joints, of_toes), piece.weights, 0).sum(axis=1)
        mine = share > 0.5
        clouds.append(piece.points[mine].astype(float))
        shares.append(toes[mine] / share[mine])
    points, toes = np.concatenate(clouds), np.concatenate(shares)
    if len(points) < 8:
        return None
    ankle = skeleton.places[skeleton.index(roles[f"{limb}.foot"])]
    below = points[:, 1] <= ankle[1]  # only that is sole; the shaft of a boot is not
    if below.sum() >= 8:
        points, toes = points[below], toes[below]
    if f"{limb}.tip" in roles and f"{limb}.ball" not in roles:  # it stands on a point, not on a sole
        floor = float(points[:, 1].min())
        low = points[:, 1] <= floor + 0.1 * (float(ankle[1]) - floor)
        points, toes = points[low], toes[low]
    return _Cloud(points, toes, ankle)


def _soles(plan: BodyPlan, skeleton: Skeleton, clouds: dict[str, _Cloud]) -> dict[str, Sole]:
    """Over what each foot rolls at heel and toe tip, on the height of the lowest of its sole."""
    soles: dict[str, Sole] = {}
    for limb, cloud in clouds.items():
        forward = cloud.forward
        along = (cloud.points - cloud.ankle) @ forward
        up = cloud.points[:, 1] - cloud.points[:, 1].min()
        back, ahead = float(along.min()), float(along.max())
        back += _roundness(along - back, up, _ROLLS_BACK)
        ahead -= _roundness(ahead - along, up, _ROLLS_OVER)
        floor = float(cloud.points[:, 1].min())
        heel, tip = cloud.ankle + forward * back, cloud.ankle + forward * ahead
        soles[limb] = {
            "heel": (float(heel[0]), floor, float(heel[2])), "tip": (float(tip[0]), floor, float(tip[2])),
        }  # fmt: skip
    for left, right in _alike(skeleton, clouds):
        for end in ("heel", "tip"):
            x, y, z = (np.array(soles[left][end]) + np.array(soles[right][end]) * [-1, 1, 1]) / 2
            soles[left][end], soles[right][end] = (float(x), float(y), float(z)), (float(-x), float(y), float(z))
    return soles


def _alike(skeleton: Skeleton, clouds: dict[str, _Cloud]) -> list[tuple[str, str]]:
    """Pairs of feet that are mirror images: they get soles alike, or a mirrored step would not be one."""
    pairs = [(left, left[:-1] + "R") for left in clouds if left.endswith(".L") and left[:-1] + "R" in clouds]
    near = 1e-3 * skeleton.size
    return [(a, b) for a, b in pairs if np.abs(clouds[a].ankle * [-1, 1, 1] - clouds[b].ankle).max() < near]


def _roundness(inward: Array, up: Array, most: float) -> float:
    """How far from an end the line lies over which a foot rolls, by how far in from there and how high points are.

    Turned by an angle about the very end, a round one hangs in the air, its lowest point so high as the line lies in,
    times the sine. The least of these over the angles up to ``most`` degrees lets it never sink.
    """
    angles = np.radians(np.arange(5.0, most + 1.0, 5.0))
    lowest = (inward[:, None] * np.sin(angles) + up[:, None] * np.cos(angles)).min(axis=0)
    return float(np.clip((lowest / np.sin(angles)).min(), 0.0, _MOST_ROUND * inward.max()))


def _outlines(skeleton: Skeleton, clouds: dict[str, _Cloud]) -> dict[str, list[list[float]]]:
    found = {
        limb: np.round(np.column_stack([cloud.points, cloud.toes])[_touching(cloud)], 5).tolist()
        for limb, cloud in clouds.items()
    }
    for left, right in _alike(skeleton, clouds):
        found[right] = [[-x, y, z, toes] for x, y, z, toes in found[left]]
    return found


def _touching(cloud: _Cloud) -> Sequence[int]:
    """The numbers of the points that can touch the ground: the lowest of foot and toes for many ways to turn it."""
    forward = cloud.forward
    aside = np.array([forward[2], 0.0, -forward[0]])
    downs = []
    for pitch in _PITCHES:
        for tilt in _TILTS:
            a, b = radians(pitch), radians(tilt)
            downs.append(np.sin(a) * forward + np.cos(a) * (np.sin(b) * aside - np.cos(b) * np.array([0.0, 1.0, 0.0])))
    directions = np.array(downs)
    found: set[int] = set()
    for least, most in ((0.0, 0.3), (0.3, 0.7), (0.7, 1.1)):  # what bends with the toes, and what hardly does
        numbers = np.flatnonzero((cloud.toes >= least) & (cloud.toes < most))
        if len(numbers):
            found |= set(numbers[(cloud.points[numbers] @ directions.T).argmax(axis=0)].tolist())
    found |= set(_standing_on(cloud))
    return _thinned(cloud, sorted(found))


def _standing_on(cloud: _Cloud) -> list[int]:
    """The corners, seen from above, of what is down when it stands flat."""
    from scipy.spatial import ConvexHull, QhullError

    low = np.flatnonzero(cloud.points[:, 1] < cloud.points[:, 1].min() + _FLAT)
    try:
        return [int(low[n]) for n in ConvexHull(cloud.points[low][:, [0, 2]]).vertices]
    except (QhullError, ValueError):  # a line or a point
        return low.tolist()


def _thinned(cloud: _Cloud, numbers: Sequence[int]) -> list[int]:
    """Fewer of the points: the lower of two that are near, in their own order."""
    kept: list[int] = []
    for n in sorted(numbers, key=lambda n: float(cloud.points[n, 1])):
        if all(np.linalg.norm(cloud.points[n] - cloud.points[k]) > _APART for k in kept):
            kept.append(n)
    return sorted(kept)
