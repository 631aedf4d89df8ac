"""How far something goes along a line until its surface meets another one."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from hame.character.skin import Skin, deform
from hame.evaluate.posed import Posed
from hame.maths import transforms
from hame.maths.rotations import Array

INSIDE = 0.05  # metres: something so deep in another is brought out again; from deeper it is looked for the next side
_AT_ONCE = 64  # faces that are looked at together


@dataclass(frozen=True)
class Surface:
    """Triangles as they stand: points (V, 3), metres, and the numbers (T, 3) of their corners, seen from outside
    against the clock."""

    points: Array
    triangles: npt.NDArray[np.intp]

    def part(self, wanted: npt.NDArray[np.bool_]) -> Surface:
        """The triangles all of whose corners are ``wanted`` (V,), with the points of those alone."""
        kept = self.triangles[wanted[self.triangles].all(axis=1)]
        numbers = np.unique(kept)
        place = np.zeros(len(self.points), int)
        place[numbers] = np.arange(len(numbers))
        return Surface(self.points[numbers], place[kept])


def surface_of(skin: Skin, posed: Posed, frame: int = 0) -> Surface:
    """The skin of a figure as it stands on one of its frames."""
    joints = transforms.to_matrix(posed.nodes[frame, posed.rig.joint_nodes])
    points = [deform(piece, joints, skin.inverse_bind) for piece in skin.pieces]
    first = np.cumsum([0, *(len(piece.points) for piece in skin.pieces)])[:-1]
    triangles = [piece.triangles.astype(int) + n for piece, n in zip(skin.pieces, first, strict=True)]
    return Surface(np.concatenate(points), np.concatenate(triangles))


def carried_by(skin: Skin, joints: npt.NDArray[np.bool_]) -> Array:
    """How much of each point (V,) is carried by some joints ``(J,)``: a share from 0 to 1."""
    return np.concatenate([(piece.weights * joints[piece.joints]).sum(axis=1) for piece in skin.pieces])


def way_to_ground(points: Array, along: Array) -> float | None:
    """How far points ``(V, 3)`` go along a unit vector ``(3,)`` until the first of them is on the ground at zero.

    Less than nothing where one is below it; None where the way does not lead down.
    """
    if along[1] >= -1e-9 or not len(points):
        return None
    return float((points[:, 1] / -along[1]).min())


def way_until(mover: Surface, other: Surface, along: Array) -> float | None:
    """How far a surface goes along a unit vector ``(3,)`` until it meets another one; None where it never does.

    Less than nothing where it is inside already, by no more than :data:`INSIDE`. Corners of the one are followed to
    faces of the other, and the other way round: where only edges cross, it goes as far as their corners let it.
    """
    ways = [
        _corners_to_faces(mover.points, other, along),
        _corners_to_faces(other.points, mover, -along),
    ]
    found = [way for way in ways if way is not None]
    return min(found) if found else None


def _corners_to_faces(points: Array, faces: Surface, along: Array) -> float | None:
    """The shortest way of points along a line to the outside of faces."""
    if not len(points) or not len(faces.triangles):
        return None
    across = _across(along)
    flat, corners = points @ across.T, faces.points @ across.T
    deep, depths = points @ along, faces.points @ along
    low, high = flat.min(axis=0), flat.max(axis=0)
    of = corners[faces.triangles]
    near = ((of.max(axis=1) >= low) & (of.min(axis=1) <= high)).all(axis=1)
    of, heights = of[near], depths[faces.triangles[near]]
    if not len(of):
        return None
    inside = ((flat >= of.min(axis=(0, 1))) & (flat <= of.max(axis=(0, 1)))).all(axis=1)
    flat, deep = flat[inside], deep[inside]
    # In strips, and along each: so few points lie beside the faces that are looked at together.
    order, low_corner = np.argsort(flat[:, 0]), of.min(axis=1)
    flat, deep = flat[order], deep[order]
    strips = int(np.ceil(np.sqrt(len(of) / _AT_ONCE)))
    strip = np.argsort(np.argsort(low_corner[:, 0])) * strips // len(of)
    beside = np.lexsort((low_corner[:, 1], strip))
    of, heights = of[beside], heights[beside]
    best, entered, left = np.full(len(flat), np.inf), np.full(len(flat), -np.inf), np.full(len(flat), -np.inf)
    for n in range(0, len(of), _AT_ONCE):
        tri, height = of[n : n + _AT_ONCE], heights[n : n + _AT_ONCE]
        first, last = np.searchsorted(flat[:, 0], (tri[:, :, 0].min() - 1e-9, tri[:, :, 0].max() + 1e-9))
        high = flat[first:last, 1]
        own = first + np.flatnonzero((high >= tri[:, :, 1].min() - 1e-9) & (high <= tri[:, :, 1].max() + 1e-9))
        if not len(own):
            continue
        a, b, c = tri[:, 0], tri[:, 1], tri[:, 2]
        area = (b[:, 0] - a[:, 0]) * (c[:, 1] - a[:, 1]) - (b[:, 1] - a[:, 1]) * (c[:, 0] - a[:, 0])
        seen = np.abs(area) > 1e-14
        a, b, c, area, height = a[seen], b[seen], c[seen], area[seen], height[seen]
        px, py = flat[own, None, 0], flat[own, None, 1]
        v = ((px - a[:, 0]) * (c[:, 1] - a[:, 1]) - (py - a[:, 1]) * (c[:, 0] - a[:, 0])) / area
        w = ((b[:, 0] - a[:, 0]) * (py - a[:, 1]) - (b[:, 1] - a[:, 1]) * (px - a[:, 0])) / area
        hit = (v >= -1e-9) & (w >= -1e-9) & (v + w <= 1.0 + 1e-9)
        way = height[:, 0] + v * (height[:, 1] - height[:, 0]) + w * (height[:, 2] - height[:, 0]) - deep[own, None]
        front = area < 0.0  # seen along the way, a face that looks back at what comes turns with the clock
        ahead, behind = way >= 0.0, way < 0.0
        best[own] = np.minimum(best[own], np.where(hit & front & ahead, way, np.inf).min(axis=1, initial=np.inf))
        for passed, which in ((entered, front), (left, ~front)):
            there = np.where(hit & which & behind, way, -np.inf).max(axis=1, initial=-np.inf)
            passed[own] = np.maximum(passed[own], there)
    within = (entered > left) & (entered > -INSIDE)  # the last face that was passed was gone in by
    ways = np.concatenate([best, entered[within]])
    shortest = float(ways.min(initial=np.inf))
    return shortest if np.isfinite(shortest) else None


def _across(along: Array) -> Array:
    """Two unit vectors (2, 3) across another, so that the three are right-handed."""
    aside = np.cross(along, (1.0, 0.0, 0.0) if abs(along[0]) < 0.8 else (0.0, 1.0, 0.0))
    first = aside / np.linalg.norm(aside)
    return np.array([first, np.cross(along, first)])
