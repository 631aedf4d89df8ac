"""What the parts of creatures and props weigh, where their mass lies and how it is spread, by what a surface holds."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt

from hame.character.bodyplan import BodyPlan
from hame.character.ranges import is_upright
from hame.character.skeleton import Skeleton
from hame.character.skin import Skin
from hame.maths.rotations import Array

DENSITY = 1000.0  # kilograms in a cubic metre: near that of water, as bodies are
THING = 250.0  # the same of a prop: wood and sheet with air in it, until somebody says better; no source


@dataclass(frozen=True)
class Solid:
    """What a closed surface holds: cubic metres, the centre (3,) of that, and of each kilogram the moments of inertia
    (3, 3) about it, square metres.
    """

    volume: float
    centre: Array
    spread: Array


def with_masses(plan: BodyPlan, skeleton: Skeleton, skin: Skin) -> BodyPlan:
    """The plan with kilograms, centres and spreads by joint: of the convex hull of the points that it carries most.

    Nothing for a body as ours, whose parts are known to weigh what they do.
    """
    if not plan.is_prop and is_upright(plan, skeleton):
        return replace(plan, masses={}, centres={}, spreads={})
    found = _hulls(skeleton, skin)
    density = THING if plan.is_prop else DENSITY
    masses = {name: round(solid.volume * density, 4) for name, solid in found.items()}
    return _measured(replace(plan, masses={name: mass for name, mass in masses.items() if mass > 0.0}), found)


def with_centres(plan: BodyPlan, skeleton: Skeleton, skin: Skin) -> BodyPlan:
    """The plan with the centres and spreads of its hulls alone; what it says of masses stays."""
    if not plan.masses or (not plan.is_prop and is_upright(plan, skeleton)):
        return plan
    return _measured(plan, _hulls(skeleton, skin))


def _measured(plan: BodyPlan, found: dict[str, Solid]) -> BodyPlan:
    spreads = {name: solid.spread[[0, 1, 2, 0, 0, 1], [0, 1, 2, 1, 2, 2]] for name, solid in found.items()}
    return replace(
        plan, centres={name: np.round(solid.centre, 5).tolist() for name, solid in found.items()},
        spreads={name: np.round(spread, 8).tolist() for name, spread in spreads.items()},
    )  # fmt: skip


def _hulls(skeleton: Skeleton, skin: Skin) -> dict[str, Solid]:
    """By joint, what the hull of what it carries holds."""
    from scipy.spatial import ConvexHull, QhullError

    points = np.concatenate([np.zeros((0, 3)), *(piece.points for piece in skin.pieces)])
    owner = np.concatenate([
        np.zeros(0, int),
        *(piece.joints[np.arange(len(piece.points)), np.argmax(piece.weights, axis=1)] for piece in skin.pieces),
    ])  # fmt: skip
    found: dict[str, Solid] = {}
    for joint in np.unique(owner):
        mine = points[owner == joint]
        try:
            hull = ConvexHull(mine)
        except (QhullError, ValueError):  # flat, or too few
            continue
        # Its triangles come either way round: each is turned so that it is seen from outside against the clock.
        triangles = hull.simplices.copy()
        a, b, c = (mine[triangles[:, k]] for k in range(3))
        inward = (np.cross(b - a, c - a) * hull.equations[:, :3]).sum(axis=1) < 0.0
        triangles[inward] = triangles[inward][:, [0, 2, 1]]
        found[skeleton.names[int(joint)]] = solid_of(mine, triangles)
    return found


def solid_of(points: Array, triangles: npt.NDArray[np.intp]) -> Solid:
    """What a closed surface of points (V, 3) and triangles (T, 3), seen from outside against the clock, holds.

    By the divergence theorem, as a sum over pyramids from one place to the triangles (Mirtich, "Fast and accurate
    computation of polyhedral mass properties", J. Graphics Tools 1(2), 1996, has the same integrals over faces).
    """
    about = points[np.unique(triangles)].mean(axis=0)  # near the solid, so that little is lost to rounding
    a, b, c = (points[triangles[:, k]] - about for k in range(3))
    volumes = (a * np.cross(b, c)).sum(axis=1) / 6.0
    whole = float(volumes.sum())
    middles = a + b + c
    centre = (middles / 4.0 * volumes[:, None]).sum(axis=0) / whole
    # Of a pyramid with its tip at zero the mean of x xT is (aaT + bbT + ccT + (a + b + c)(a + b + c)T) / 20.
    squares = sum(np.einsum("t,ti,tj->ij", volumes, p, p) for p in (a, b, c, middles)) / 20.0 / whole
    squares = squares - np.outer(centre, centre)
    return Solid(whole, about + centre, np.trace(squares) * np.eye(3) - squares)
