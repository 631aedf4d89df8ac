"""Sculpting a figure in code: rounded shapes blended as a distance field, polygonised, coloured and weighted.

Needs scikit-image and fast-simplification, which only the making of the demo
data uses (``python -m hame.demo``); the application reads the finished files.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from hame.character import skin as skins
from hame.character.skeleton import Skeleton
from hame.maths import transforms
from hame.maths.rotations import Array

Ints = npt.NDArray[np.int64]


@dataclass(frozen=True)
class Part:
    """A rounded cone between two points, or an ellipsoid when ``radii`` is given.

    Attributes
    ----------
    material : index into the figure's materials
    bones : joints that may carry it, each with the share it starts from
    a, b : ends (3,), metres; ``ra``, ``rb`` radii there
    radii : half axes (3,) of an ellipsoid at ``a``, upright
    flat : squeeze along x, y, z (for limbs and trunks that are not round)
    group : parts of one group melt into each other; groups meet in a crease
    blend : how far it melts, metres
    cut : taken away from its group instead of added
    """

    material: int
    bones: tuple[tuple[str, float], ...]
    a: tuple[float, float, float]
    b: tuple[float, float, float] | None = None
    ra: float = 0.05
    rb: float = 0.05
    radii: tuple[float, float, float] | None = None
    flat: tuple[float, float, float] = (1.0, 1.0, 1.0)
    group: str = "body"
    blend: float = 0.02
    cut: bool = False

    def distance(self, p: Array) -> Array:
        """Signed distances (N,) from points (N, 3); outside is positive."""
        a = np.array(self.a)
        if self.radii is not None:
            r = np.array(self.radii)
            k0 = np.linalg.norm((p - a) / r, axis=1)
            k1 = np.linalg.norm((p - a) / r**2, axis=1)
            return np.asarray(k0 * (k0 - 1) / np.maximum(k1, 1e-9))
        flat = np.array(self.flat)
        b = a if self.b is None else np.array(self.b)
        q, axis = (p - a) / flat, (b - a) / flat
        along = np.clip(q @ axis / max(float(axis @ axis), 1e-12), 0, 1)
        radius = self.ra + (self.rb - self.ra) * along
        return np.asarray((np.linalg.norm(q - along[:, None] * axis, axis=1) - radius) * flat.min())

    def bounds(self) -> tuple[Array, Array]:
        a = np.array(self.a)
        if self.radii is not None:
            return a - self.radii, a + self.radii
        b = a if self.b is None else np.array(self.b)
        r = max(self.ra, self.rb) * np.array(self.flat)
        return np.minimum(a, b) - r, np.maximum(a, b) + r

    def size(self) -> float:
        return min(self.radii) if self.radii is not None else min(self.ra, self.rb)


def _soft_min(a: Array, b: Array, k: float) -> Array:
    """The smaller of two distances with the corner rounded over ``k`` metres (polynomial)."""
    h = np.clip(0.5 + 0.5 * (b - a) / k, 0, 1)
    return np.asarray(b + (a - b) * h - k * h * (1 - h))


def _field(parts: Sequence[Part], p: Array) -> tuple[Array, Array]:
    """Distances (N,) to the whole figure, and to each material (M, N)."""
    groups: dict[str, Array] = {}
    coloured: dict[tuple[str, int], Array] = {}
    for part in parts:
        distance = part.distance(p)
        key = (part.group, part.material)
        if part.cut and part.group in groups:
            groups[part.group] = -_soft_min(-groups[part.group], distance, part.blend)
            if key in coloured:
                coloured[key] = -_soft_min(-coloured[key], distance, part.blend)
        elif not part.cut:
            groups[part.group] = _soft_min(groups.get(part.group, distance + 1.0), distance, part.blend)
            coloured[key] = _soft_min(coloured.get(key, distance + 1.0), distance, part.blend)
    by_material = np.full((max(part.material for part in parts) + 1, len(p)), 10.0)
    for (_, material), distance in coloured.items():
        by_material[material] = np.minimum(by_material[material], distance)
    whole = np.full(len(p), 10.0)
    for distance in groups.values():
        whole = _soft_min(whole, distance, 0.004)
    return whole, by_material


def field_of(parts: Sequence[Part], points: Array) -> Array:
    """Distances (N,) of points (N, 3) to a figure of such parts, below 0 inside."""
    return _field(parts, points)[0]


def sculpt(
    parts: Sequence[Part], materials: Sequence[skins.Material], skeleton: Skeleton, triangles: int, step: float = 0.005,
    rigid: bool = False,
) -> skins.Skin:  # fmt: skip
    """One closed skin of about so many ``triangles``, cut along the borders of its materials.

    ``step`` is the width of the sampling grid in metres. With ``rigid`` each part is carried by its own joint alone,
    as things are that do not bend.
    """
    import fast_simplification
    from skimage.measure import marching_cubes

    low = np.min([part.bounds()[0] for part in parts], axis=0) - 0.03
    high = np.max([part.bounds()[1] for part in parts], axis=0) + 0.03
    shape = np.ceil((high - low) / step).astype(int) + 1
    volume = np.empty(tuple(shape), np.float32)
    y, z = (low[i] + step * np.arange(shape[i]) for i in (1, 2))
    for i in range(shape[0]):
        x = low[0] + step * i
        slab = np.stack(np.meshgrid([x], y, z, indexing="ij"), -1).reshape(-1, 3)
        near = [part for part in parts if part.bounds()[0][0] - 0.06 < x < part.bounds()[1][0] + 0.06]
        if not near:
            volume[i] = 1.0
            continue
        # Only the box that the parts of this slab can touch is worth a distance.
        solid = [part for part in near if not part.cut]
        box_low = np.min([part.bounds()[0] for part in solid], axis=0) - 0.02
        box_high = np.max([part.bounds()[1] for part in solid], axis=0) + 0.02
        inside = ((slab > box_low) & (slab < box_high))[:, 1:].all(axis=1)
        values = np.ones(len(slab))
        values[inside] = _field(near, slab[inside])[0]
        volume[i] = values.reshape(shape[1], shape[2])
    points, faces, _, _ = marching_cubes(volume, 0.0, spacing=(step,) * 3)  # type: ignore[no-untyped-call]
    points, faces = points.astype(float) + low, faces.astype(np.int64)
    weights = _weights(parts, skeleton, points, faces, 0 if rigid else 90)
    fine = points
    points, faces = fast_simplification.simplify(
        points.astype(np.float32), faces.astype(np.int32), target_count=triangles, agg=4
    )
    points, faces = points.astype(float), faces.astype(np.int64)
    for _ in range(2):  # back on to the true surface
        distance, gradient = _gradient(parts, points)
        points = points - 0.8 * distance[:, None] * gradient
    points, faces, owner = _cut(parts, points, faces)
    from scipy.spatial import cKDTree

    distances, nearest = cKDTree(fine).query(points, k=[1] if rigid else [1, 2, 3, 4])
    share = 1.0 / (distances + 1e-4)
    blended = np.einsum("vk,vkj->vj", share / share.sum(1, keepdims=True), weights[nearest])
    normals = _gradient(parts, points)[1]
    outward = np.einsum("ij,ij->i", np.cross(points[faces[:, 1]] - points[faces[:, 0]],
                                             points[faces[:, 2]] - points[faces[:, 0]]),
                                             normals[faces].sum(1))  # fmt: skip
    if outward.mean() < 0:
        faces = faces[:, ::-1]
    joints4, weights4 = four_strongest(blended)
    pieces = []
    for number, material in enumerate(materials):
        mine = faces[owner == number]
        if len(mine) == 0:
            continue
        used, local = np.unique(mine, return_inverse=True)
        pieces.append(
            skins.Piece(
                points[used].astype(np.float32), normals[used].astype(np.float32),
                local.reshape(-1, 3).astype(np.uint32), joints4[used], weights4[used], material,
            )
        )  # fmt: skip
    return skins.Skin(tuple(pieces), transforms.to_matrix(transforms.inverse(skeleton.world)))


def four_strongest(weights: Array) -> tuple[npt.NDArray[np.uint16], skins.Floats]:
    """The four largest shares (V, 4) of each vertex and their joints, summing to one."""
    weights = np.pad(weights, ((0, 0), (0, max(4 - weights.shape[1], 0))))  # a thing may have fewer joints than four
    order = np.argsort(-weights, axis=1)[:, :4]
    kept = np.take_along_axis(weights, order, axis=1)
    kept[kept < 0.01] = 0.0
    kept /= kept.sum(axis=1, keepdims=True)
    order[kept == 0] = 0
    return order.astype(np.uint16), kept.astype(np.float32)


def _gradient(parts: Sequence[Part], points: Array) -> tuple[Array, Array]:
    """Distances (N,) and unit outward directions (N, 3)."""
    e = 0.0015
    gradient = np.empty_like(points)
    for axis in range(3):
        step = np.zeros(3)
        step[axis] = e
        gradient[:, axis] = _field(parts, points + step)[0] - _field(parts, points - step)[0]
    gradient /= np.maximum(np.linalg.norm(gradient, axis=1, keepdims=True), 1e-12)
    return _field(parts, points)[0], gradient


def _weights(parts: Sequence[Part], skeleton: Skeleton, points: Array, faces: Ints, rounds: int) -> Array:
    """Shares (V, J): each vertex starts with the bones of its nearest part, then shares spread over the surface."""
    from scipy.sparse import coo_matrix, diags

    solid = [part for part in parts if not part.cut]
    nearest = np.full(len(points), 10.0)
    owner = np.zeros(len(points), int)
    for number, part in enumerate(solid):
        distance = part.distance(points)
        closer = distance < nearest
        nearest[closer], owner[closer] = distance[closer], number
    weights = np.zeros((len(points), len(skeleton)))
    radius = np.empty(len(points))
    for number, part in enumerate(solid):
        mine = np.flatnonzero(owner == number)
        radius[mine] = part.size()
        if len(part.bones) == 1 or len({share for _, share in part.bones}) > 1:
            for bone, share in part.bones:  # given shares are taken as they are
                weights[mine, skeleton.index(bone)] += share
            continue
        reach = np.stack([_to_bone(skeleton, skeleton.index(bone), points[mine]) for bone, _ in part.bones])
        bones = np.array([skeleton.index(bone) for bone, _ in part.bones])
        weights[mine, bones[reach.argmin(0)]] = 1.0
    edges = np.concatenate([faces[:, [0, 1]], faces[:, [1, 2]], faces[:, [2, 0]]])
    links = coo_matrix((np.ones(len(edges)), (edges[:, 0], edges[:, 1])), shape=(len(points),) * 2).tocsr()
    links = ((links + links.T) > 0).astype(float)
    mean = diags(1.0 / np.asarray(links.sum(1)).ravel()) @ links
    rate = np.clip((radius / 0.06) ** 2, 0.06, 1.0)[:, None] * 0.9
    for _ in range(rounds):
        weights += rate * (mean @ weights - weights)
    return np.asarray(weights / weights.sum(1, keepdims=True))


def _to_bone(skeleton: Skeleton, j: int, points: Array) -> Array:
    """Distances (N,) to the bone from joint ``j`` to its first child."""
    a = skeleton.places[j]
    children = skeleton.children[j]
    b = skeleton.places[children[0]] if children else a
    axis = b - a
    along = np.clip((points - a) @ axis / max(float(axis @ axis), 1e-12), 0, 1)
    return np.asarray(np.linalg.norm(points - a - along[:, None] * axis, axis=1))


def _cut(parts: Sequence[Part], points: Array, faces: Ints) -> tuple[Array, Ints, Ints]:
    """Splits triangles along the borders between materials, so that each has one material and borders are clean."""
    count = _field(parts, points[:1])[1].shape[0]
    for material in range(count):
        distances = _field(parts, points)[1]
        others = np.delete(distances, material, axis=0).min(0)
        border = distances[material] - others
        border[np.abs(border) < 1e-5] = 1e-5
        points, faces = _cut_along(points, faces, border)
    centre = points[faces].mean(1)
    return points, faces, _field(parts, centre)[1].argmin(0)


def _cut_along(points: Array, faces: Ints, side: Array) -> tuple[Array, Ints]:
    """Splits the triangles that cross ``side == 0``; a shared edge is split once, so the surface stays closed."""
    inside = side < 0
    split = inside[faces].any(1) & ~inside[faces].all(1)
    new_points, made = [points], {}
    count = len(points)
    out = [faces[~split]]

    def middle(a: int, b: int) -> int:
        nonlocal count
        key = (min(a, b), max(a, b))
        if key not in made:
            t = np.clip(side[key[0]] / (side[key[0]] - side[key[1]]), 0.02, 0.98)
            new_points.append((points[key[0]] + t * (points[key[1]] - points[key[0]]))[None])
            made[key] = count
            count += 1
        return made[key]

    pieces: list[tuple[int, int, int]] = []
    for face in faces[split]:
        alone = next(n for n in range(3) if (inside[face[n]] != inside[face[(n + 1) % 3]])
                     and (inside[face[n]] != inside[face[(n + 2) % 3]]))  # fmt: skip
        a, b, c = (int(face[(alone + n) % 3]) for n in range(3))
        ab, ac = middle(a, b), middle(a, c)
        pieces += [(a, ab, ac), (ab, b, c), (ab, c, ac)]
    if pieces:
        out.append(np.array(pieces, np.int64))
    return np.concatenate(new_points), np.concatenate(out)
