"""Which way a figure faces, and its rest pose made regular: turned to face +Z, both sides alike.

A file may have its figure face any way. glTF 2.0 (section 3.4) has the front
of an asset face +Z, and so does everything here; what is brought in is turned
to that once. Where one arm or leg is lowered in the file and the other is
not, one is laid as the other's mirror image, so that equal numbers on both
sides look the same in the mirror.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt

from hame.character import skeleton as skeletons
from hame.character.bodyplan import FINGERS, BodyPlan
from hame.character.names import side_of, words_of
from hame.character.skeleton import Skeleton
from hame.character.skin import Skin
from hame.maths import rotations, transforms
from hame.maths.rotations import Array

UP = np.array([0.0, 1.0, 0.0])
LEVEL = np.array([1.0, 0.0, 1.0])
_SNAP = np.radians(10.0)  # a figure this near to a quarter turn was meant to be on it
_MOST = 12  # brothers and sisters among which mirrored ones are looked for
_NEARLY = 0.03  # of the size: how far a joint may lie from its mirror image


def heading_of(skeleton: Skeleton) -> float:
    """The angle about +Y, radians, from +Z to where the figure faces; 0 where nothing tells.

    Names with a side mark tell where left is, and so where it faces. Without
    them the mirror plane is looked for, and along it the way that feet and
    head point.
    """
    left = _left_by_names(skeleton)
    if left is not None:
        return _snapped(float(np.arctan2(*np.cross(left, UP)[[0, 2]])))
    across = _across_by_shape(skeleton)
    if across is None:
        return 0.0
    ahead = np.cross(across, UP)
    lead = _lead(skeleton, ahead)
    if abs(lead) < 1e-3:  # front and back are alike: the one nearer to +Z
        lead = ahead[2] if abs(ahead[2]) > 1e-6 else ahead[0]
    return _snapped(float(np.arctan2(*(np.sign(lead) * ahead)[[0, 2]])))


def _snapped(angle: float) -> float:
    quarter = np.pi / 2
    near = quarter * round(angle / quarter)
    return float(near if abs(angle - near) < _SNAP else angle)


def _left_by_names(skeleton: Skeleton) -> Array | None:
    """The level direction from right to left by side marks in names, or None without enough of them."""
    places = skeleton.places
    sides: dict[str, list[int]] = {"L": [], "R": []}
    for j, name in enumerate(skeleton.names):
        side = side_of(name)
        if side:
            sides[side].append(j)
    if len(sides["L"]) < 2 or len(sides["R"]) < 2:
        return None
    stripped = {side: {_unsided(skeleton.names[j]): j for j in found} for side, found in sides.items()}
    pairs = [(stripped["L"][name], stripped["R"][name]) for name in stripped["L"].keys() & stripped["R"].keys()]
    ways = np.array([places[a] - places[b] for a, b in pairs]).reshape(-1, 3) * LEVEL
    if not len(ways):
        return None
    # Both limbs may be posed: joints that lie near to where they are carried (hips, shoulders) say most.
    way = np.median(ways / np.maximum(np.linalg.norm(ways, axis=1, keepdims=True), 1e-9), axis=0)
    size = float(np.linalg.norm(way))
    if size < 0.5 or np.linalg.norm(ways, axis=1).max() < 0.01 * skeleton.size:
        return None
    return np.asarray(way / size)


def _unsided(name: str) -> str:
    return " ".join(word for word in words_of(name) if word not in ("l", "r", "left", "right", "lft", "rgt"))


def _across_by_shape(skeleton: Skeleton) -> Array | None:
    """The level normal of the plane in which the figure is most nearly its own mirror image."""
    places = skeleton.places
    flat = places * LEVEL
    middle = _middle(skeleton)
    candidates: list[Array] = []
    twins: list[tuple[int, int]] = []
    sizes = _below(skeleton)
    for brothers in skeleton.children:
        for a in brothers[:_MOST]:
            for b in brothers[:_MOST]:
                way = flat[a] - flat[b]
                length = float(np.linalg.norm(way))
                level = abs(places[a, 1] - places[b, 1]) < _NEARLY * skeleton.size
                if a < b and level and length > 0.04 * skeleton.size:
                    candidates.append(way / length)
                    if sizes[a] == sizes[b]:
                        twins.append((a, b))
    candidates = candidates[:200]
    some = places[:: max(len(places) // 200, 1)]
    candidates += [np.array([np.cos(a), 0, np.sin(a)]) for a in np.radians(np.arange(0, 180, 7.5))]
    best, found = np.inf, None
    for normal in candidates:
        off = _asymmetry(some, middle, normal) / skeleton.size
        # Of planes that fit alike, the one that limbs reach out from on both sides.
        spread = float(np.abs((flat - middle) @ normal).mean()) / skeleton.size
        # Brothers and sisters that are each other's image say more than single joints, which a pose may have moved.
        alike = sum(_images(skeleton, a, b, middle, normal) for a, b in twins)
        cost = off - 0.05 * spread - 0.1 * min(alike, 3) / 3
        if cost < best - 1e-9:
            best, found = cost, normal
    if found is None or _asymmetry(some, middle, found) > 0.1 * skeleton.size:
        return None
    return found


def _below(skeleton: Skeleton) -> list[int]:
    """By joint, how many joints hang on it."""
    counts = [0] * len(skeleton)
    for j in range(len(skeleton) - 1, 0, -1):
        counts[skeleton.parents[j]] += counts[j] + 1
    return counts


def _images(skeleton: Skeleton, a: int, b: int, middle: Array, normal: Array) -> bool:
    at = skeleton.places[a]
    mirrored = at - 2.0 * float((at - middle) @ normal) * normal
    return bool(np.linalg.norm(mirrored - skeleton.places[b]) < _NEARLY * skeleton.size)


def _middle(skeleton: Skeleton) -> Array:
    """A level place that the mirror plane goes through: the trunk, where the skeleton branches into most."""
    counts = [len(c) for c in skeleton.children]
    spread = int(np.argmax(counts))
    return np.asarray(skeleton.places[spread] * LEVEL)


def _asymmetry(places: Array, middle: Array, normal: Array) -> float:
    """How far mirrored joints lie from the nearest joint, metres, on average; one that is far away counts no more."""
    mirrored = places - 2.0 * ((places - middle) @ normal)[:, None] * normal
    apart = np.linalg.norm(mirrored[:, None] - places[None], axis=2).min(axis=1)
    return float(np.minimum(apart, 0.25 * np.ptp(places, axis=0).max()).mean())


def _lead(skeleton: Skeleton, ahead: Array) -> float:
    """How much the figure points along ``ahead``: its feet, and how far its head stands before its hips."""
    places, size = skeleton.places, skeleton.size
    floor = float(places[:, 1].min())
    leaves = [j for j in range(len(skeleton)) if not skeleton.children[j]]
    low = [j for j in leaves if places[j, 1] < floor + 0.12 * size and skeleton.parents[j] >= 0]
    feet = 0.0
    for j in low:
        toe = places[j] - places[skeleton.parents[j]]
        length = float(np.linalg.norm(toe))
        if length > 1e-6:
            feet += float(toe @ ahead) / length
    feet /= max(len(low), 1)
    high = max(leaves, key=lambda j: float(places[j, 1]))
    head = float((places[high] - _middle(skeleton)) @ ahead) / size
    return feet + head


def turned(skeleton: Skeleton, skin: Skin, angle: float) -> tuple[Skeleton, Skin]:
    """Both turned about +Y by an angle in radians."""
    if angle == 0.0:
        return skeleton, skin
    by = rotations.from_axis_angle(UP, angle)
    rest = skeleton.rest.copy()
    for j, parent in enumerate(skeleton.parents):
        if parent < 0:
            rest[j] = transforms.compose(transforms.transform(np.zeros(3), by), rest[j])
    matrix = rotations.to_matrix(by)
    back = np.eye(4)
    back[:3, :3] = matrix.T
    pieces = tuple(
        replace(
            piece,
            points=(piece.points @ matrix.T).astype(np.float32),
            normals=(piece.normals @ matrix.T).astype(np.float32),
            morphs=tuple(
                replace(
                    morph,
                    moves=(morph.moves @ matrix.T).astype(np.float32),
                    turns=(morph.turns @ matrix.T).astype(np.float32),
                )
                for morph in piece.morphs
            ),
        )
        for piece in skin.pieces
    )
    carried = replace(skin, pieces=pieces, inverse_bind=skin.inverse_bind @ back)
    return skeletons.build(skeleton.names, skeleton.parents, rest), carried


@dataclass(frozen=True)
class Evened:
    """A skeleton whose sides rest alike, and the limbs that were laid anew for it."""

    skeleton: Skeleton
    limbs: tuple[str, ...]


def evened(skeleton: Skeleton, plan: BodyPlan) -> Evened:
    """The skeleton with limbs of one side laid as the mirror image of the other's, where they rest otherwise.

    The limb that reaches out further stays as it is. Bones keep their
    lengths; each is turned the shortest way, so that what the skin does about
    it is what a pose would do.
    """
    done: list[str] = []
    for left in [limb for limb in plan.limbs() if limb.endswith(".L")]:
        right = left[:-1] + "R"
        chain = _chain(plan.roles, left, right)
        if len(chain) < 3:
            continue
        pairs = [(skeleton.index(a), skeleton.index(b)) for a, b in chain]
        where = skeleton.places
        middle = 0.5 * (where[pairs[0][0]] + where[pairs[0][1]])[0]
        mirror = np.array([-1.0, 1.0, 1.0])
        shift = np.array([2.0 * middle, 0.0, 0.0])
        ends = [where[a] for a, _ in pairs], [where[b] * mirror + shift for _, b in pairs]
        if max(float(np.linalg.norm(p - q)) for p, q in zip(*ends, strict=True)) < _NEARLY * skeleton.size:
            continue
        reach = [abs(float(where[end][0] - middle)) for end in _tips(pairs)]
        model, laid = (0, 1) if reach[0] >= reach[1] else (1, 0)
        skeleton = _laid(skeleton, [(p[model], p[laid]) for p in pairs], mirror)
        done.append(right if laid else left)
    return Evened(skeleton, tuple(done))


def _tips(pairs: list[tuple[int, int]]) -> tuple[int, int]:
    """The joints by which it is seen how far a limb reaches out: the hand or the foot, or what there is."""
    return pairs[min(3, len(pairs) - 1)]


def _chain(roles: Mapping[str, str], left: str, right: str) -> list[tuple[str, str]]:
    """Joints of a limb and their counterparts, from the trunk out, fingers last."""
    kind = left.split(".")[0].rstrip("0123456789")
    parts = ["collar", "upper", "lower", "hand"] if kind == "arm" else ["upper", "lower", "foot", "ball", "tip"]
    parts += [f"{finger}.{n}" for finger in FINGERS for n in range(1, 5)] if kind == "arm" else []
    return [
        (roles[f"{left}.{part}"], roles[f"{right}.{part}"])
        for part in parts
        if f"{left}.{part}" in roles and f"{right}.{part}" in roles
    ]


def _laid(skeleton: Skeleton, pairs: list[tuple[int, int]], mirror: Array) -> Skeleton:
    """Turns the second joints of ``pairs`` so that their bones point as the mirrored bones of the first ones do."""
    rest = skeleton.rest.copy()
    other = dict(pairs)
    for a, b in pairs:
        world = _world(skeleton.parents, rest)
        wanted, found = [], []
        for child in skeleton.children[a]:
            if child in other and other[child] in skeleton.children[b]:
                wanted.append((skeleton.places[child] - skeleton.places[a]) * mirror)
                found.append(world[other[child], :3] - world[b, :3])
        wanted = [w for w in wanted if np.linalg.norm(w) > 1e-9]
        if not wanted or len(wanted) != len(found):
            continue
        by = _fitting(np.array(found), np.array(wanted))
        turn = rotations.multiply(by, world[b, 3:7])
        parent = skeleton.parents[b]
        rest[b, 3:7] = turn if parent < 0 else rotations.multiply(rotations.inverse(world[parent, 3:7]), turn)
    return skeletons.build(skeleton.names, skeleton.parents, rest)


def _world(parents: tuple[int, ...], rest: npt.NDArray[np.float64]) -> Array:
    world = np.empty_like(rest)
    for j, parent in enumerate(parents):
        world[j] = rest[j] if parent < 0 else transforms.compose(world[parent], rest[j])
    return world


def _fitting(found: Array, wanted: Array) -> Array:
    """The quaternion (4,) that best turns directions (N, 3) into others: of one the shortest turn, of more Kabsch's.

    References
    ----------
    Kabsch, "A solution for the best rotation to relate two sets of vectors", Acta Crystallographica A32, 1976.
    """
    a = found / np.linalg.norm(found, axis=1, keepdims=True)
    b = wanted / np.linalg.norm(wanted, axis=1, keepdims=True)
    if len(a) == 1 or np.linalg.matrix_rank(a, tol=0.05) < 2:
        a, b = a.sum(axis=0), b.sum(axis=0)
        a, b = a / np.linalg.norm(a), b / np.linalg.norm(b)
        axis = np.cross(a, b)
        size = float(np.linalg.norm(axis))
        if size < 1e-9:
            return rotations.IDENTITY if a @ b > 0 else rotations.from_axis_angle(np.array([0, 0, 1.0]), np.pi)
        return rotations.from_axis_angle(axis, float(np.arctan2(size, a @ b)))
    u, _, vt = np.linalg.svd(b.T @ a)
    u[:, -1] *= np.sign(np.linalg.det(u @ vt))
    return rotations.from_matrix(u @ vt)
