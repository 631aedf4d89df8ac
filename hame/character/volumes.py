"""What the parts of a creature weigh, by what its surface holds."""

from __future__ import annotations

import numpy as np

from hame.character.bodyplan import BodyPlan
from hame.character.ranges import is_upright
from hame.character.skeleton import Skeleton
from hame.character.skin import Skin

DENSITY = 1000.0  # kilograms in a cubic metre: near that of water, as bodies are


def measure_masses(plan: BodyPlan, skeleton: Skeleton, skin: Skin) -> dict[str, float]:
    """Kilograms by joint name: what the convex hull of the points holds that a joint carries most.

    Nothing for a prop, and for a body as ours, whose parts are known to weigh what they do.
    """
    if plan.is_prop or is_upright(plan, skeleton):
        return {}
    from scipy.spatial import ConvexHull, QhullError

    points = np.concatenate([np.zeros((0, 3)), *(piece.points for piece in skin.pieces)])
    owner = np.concatenate([
        np.zeros(0, int),
        *(piece.joints[np.arange(len(piece.points)), np.argmax(piece.weights, axis=1)] for piece in skin.pieces),
    ])  # fmt: skip
    found: dict[str, float] = {}
    for joint in np.unique(owner):
        try:
            found[skeleton.names[int(joint)]] = round(float(ConvexHull(points[owner == joint]).volume) * DENSITY, 4)
        except (QhullError, ValueError):  # flat, or too few
            continue
    return {name: mass for name, mass in found.items() if mass > 0.0}
