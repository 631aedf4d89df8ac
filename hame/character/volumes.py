"""What the parts of a creature weigh and where their mass lies, by what its surface holds."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from hame.character.bodyplan import BodyPlan
from hame.character.ranges import is_upright
from hame.character.skeleton import Skeleton
from hame.character.skin import Skin
from hame.maths.rotations import Array

DENSITY = 1000.0  # kilograms in a cubic metre: near that of water, as bodies are


def with_masses(plan: BodyPlan, skeleton: Skeleton, skin: Skin) -> BodyPlan:
    """The plan with kilograms and centres by joint: of the convex hull of the points that a joint carries most.

    Nothing for a prop, and for a body as ours, whose parts are known to weigh what they do.
    """
    if plan.is_prop or is_upright(plan, skeleton):
        return replace(plan, masses={}, centres={})
    found = _hulls(skeleton, skin)
    masses = {name: round(volume * DENSITY, 4) for name, (volume, _) in found.items()}
    return replace(plan, masses={name: mass for name, mass in masses.items() if mass > 0.0}, centres=_rounded(found))


def with_centres(plan: BodyPlan, skeleton: Skeleton, skin: Skin) -> BodyPlan:
    """The plan with the centres of its hulls alone; what it says of masses stays."""
    if not plan.masses or is_upright(plan, skeleton):
        return plan
    return replace(plan, centres=_rounded(_hulls(skeleton, skin)))


def _rounded(found: dict[str, tuple[float, Array]]) -> dict[str, list[float]]:
    return {name: np.round(centre, 5).tolist() for name, (_, centre) in found.items()}


def _hulls(skeleton: Skeleton, skin: Skin) -> dict[str, tuple[float, Array]]:
    """By joint, the volume of the hull of what it carries, cubic metres, and the centre (3,) of that."""
    from scipy.spatial import ConvexHull, QhullError

    points = np.concatenate([np.zeros((0, 3)), *(piece.points for piece in skin.pieces)])
    owner = np.concatenate([
        np.zeros(0, int),
        *(piece.joints[np.arange(len(piece.points)), np.argmax(piece.weights, axis=1)] for piece in skin.pieces),
    ])  # fmt: skip
    found: dict[str, tuple[float, Array]] = {}
    for joint in np.unique(owner):
        mine = points[owner == joint]
        try:
            hull = ConvexHull(mine)
        except (QhullError, ValueError):  # flat, or too few
            continue
        found[skeleton.names[int(joint)]] = float(hull.volume), _middle_of(mine, hull.simplices)
    return found


def _middle_of(points: Array, triangles: Array) -> Array:
    """The centre of a convex body: of the pyramids from a point inside it to its triangles, by their volume."""
    inside = points[np.unique(triangles)].mean(axis=0)
    a, b, c = (points[triangles[:, k]] - inside for k in range(3))
    volumes = np.abs((a * np.cross(b, c)).sum(axis=1))
    return np.asarray(inside + ((a + b + c) / 4.0 * volumes[:, None]).sum(axis=0) / volumes.sum())
