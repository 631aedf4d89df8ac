"""How thick the parts of a body are and where each ends, read off its skin: what springs swing, and what stops them."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from hame.character.bodyplan import BodyPlan
from hame.character.skeleton import Skeleton
from hame.character.skin import Skin
from hame.maths.rotations import Array

_CARRIES = 0.5  # of a point of the skin: the share of a joint from which the point is the joint's
_LEAST = 0.02  # of the size of a figure: so far from its joint a part ends where nothing tells


@dataclass(frozen=True)
class Bulk:
    """What a joint carries of the skin.

    Attributes
    ----------
    radius : metres, how far half of its points are at least from the line from the joint to the end; 0 without any
    end : (3,) where it ends in the rest pose: at the joint that goes on, or as far behind its middle as its joint is
        before
    """

    radius: float
    end: Array


def with_bulks(plan: BodyPlan, skeleton: Skeleton, skin: Skin) -> BodyPlan:
    """The plan with the radius and the end of each joint."""
    clouds = _clouds(skeleton, skin)
    found = {}
    for j, name in enumerate(skeleton.names):
        bulk = _bulk(skeleton, j, clouds.get(j))
        found[name] = tuple(round(float(value), 5) for value in (bulk.radius, *bulk.end))
    return replace(plan, bulks=found)


def bulk_of(plan: BodyPlan, skeleton: Skeleton, j: int) -> Bulk:
    """What is known of a joint; of one that was never measured its end alone."""
    told = plan.bulks.get(skeleton.names[j])
    if told is None:
        return _bulk(skeleton, j, None)
    return Bulk(float(told[0]), np.array(told[1:], float))


def _clouds(skeleton: Skeleton, skin: Skin) -> dict[int, Array]:
    found: dict[int, list[Array]] = {}
    for piece in skin.pieces:
        for j in range(len(skeleton)):
            mine = (piece.weights * (piece.joints == j)).sum(axis=1) >= _CARRIES
            if mine.any():
                found.setdefault(j, []).append(piece.points[mine].astype(float))
    return {j: np.concatenate(parts) for j, parts in found.items()}


def _bulk(skeleton: Skeleton, j: int, cloud: Array | None) -> Bulk:
    place, children = skeleton.places[j], skeleton.children[j]
    if len(children) == 1 or (children and cloud is None):
        end = skeleton.places[children[0]]
    elif cloud is not None:
        end = place + 2.0 * (cloud.mean(axis=0) - place)
    else:
        end = place
    if np.linalg.norm(end - place) < _LEAST * skeleton.size:
        above = skeleton.parents[j]
        way = place - skeleton.places[above] if above >= 0 else np.array([0.0, -1.0, 0.0])
        length = float(np.linalg.norm(way))
        way = way / length if length > 1e-9 else np.array([0.0, -1.0, 0.0])
        end = place + max(_LEAST * skeleton.size, 0.5 * length) * way
    if cloud is None:
        return Bulk(0.0, np.asarray(end))
    axis = end - place
    along = np.clip((cloud - place) @ axis / max(float(axis @ axis), 1e-12), 0.0, 1.0)
    return Bulk(float(np.median(np.linalg.norm(cloud - place - along[:, None] * axis, axis=1))), np.asarray(end))
