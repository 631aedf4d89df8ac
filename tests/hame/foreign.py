"""A small person with joints named without meaning, to be mapped by shape."""

from __future__ import annotations

import numpy as np

from hame.character import skeleton as skeletons
from hame.character import skin as skins
from hame.character.skeleton import Skeleton
from hame.character.skin import Material, Piece, Skin
from hame.maths import rotations, transforms
from tests.hame.examples import skeleton_of

PLACES: list[tuple[int, tuple[float, float, float]]] = [
    (-1, (0, 0.9, 0)), (0, (0, 1.05, 0)), (1, (0, 1.25, 0)), (2, (0, 1.42, 0)), (3, (0, 1.55, 0)),
    (2, (0.16, 1.36, 0)), (5, (0.42, 1.36, -0.02)), (6, (0.66, 1.36, 0)),
    (2, (-0.16, 1.36, 0)), (8, (-0.42, 1.36, -0.02)), (9, (-0.66, 1.36, 0)),
    (0, (0.1, 0.88, 0)), (11, (0.1, 0.48, 0.02)), (12, (0.1, 0.08, -0.01)), (13, (0.1, 0.02, 0.13)),
    (0, (-0.1, 0.88, 0)), (15, (-0.1, 0.48, 0.02)), (16, (-0.1, 0.08, -0.01)), (17, (-0.1, 0.02, 0.13)),
]  # fmt: skip


def foreign_skeleton() -> Skeleton:
    return skeleton_of({f"bone_{n}": (f"bone_{p}" if p >= 0 else None, at) for n, (p, at) in enumerate(PLACES)})


def foreign_character() -> tuple[Skeleton, Skin]:
    """The skeleton with a thin box around every bone, bound to it alone."""
    skeleton = foreign_skeleton()
    points, triangles, joints = [], [], []
    corners = np.array([[x, y, z] for x in (-1, 1) for y in (-1, 1) for z in (-1, 1)], float)
    faces = [(0, 1, 3), (0, 3, 2), (4, 6, 7), (4, 7, 5), (0, 4, 5), (0, 5, 1), (2, 3, 7), (2, 7, 6), (0, 2, 6), (0, 6,
        4), (1, 5, 7), (1, 7, 3)]  # fmt: skip
    for j, parent in enumerate(skeleton.parents):
        a = skeleton.places[max(parent, 0)]
        b = skeleton.places[j]
        middle, half = (a + b) / 2, np.abs(b - a) / 2 + 0.035
        first = 8 * len(joints)
        points.append(middle + corners * half)
        triangles += [[first + n for n in face] for face in faces]
        joints.append(max(parent, 0))
    cloud = np.concatenate(points).astype(np.float32)
    owner = np.zeros((len(cloud), 4), np.uint16)
    owner[:, 0] = np.repeat(joints, 8)
    weights = np.tile(np.array([1, 0, 0, 0], np.float32), (len(cloud), 1))
    normals = np.tile(corners / np.sqrt(3), (len(joints), 1)).astype(np.float32)
    piece = Piece(
        cloud, normals, np.array(triangles, np.uint32), owner, weights, Material("plain", (0.3, 0.45, 0.5, 1.0))
    )
    return skeleton, skins.Skin((piece,), transforms.to_matrix(transforms.inverse(skeleton.world)))


Rows = dict[str, tuple[str | None, tuple[float, float, float]]]


def harbour_dog() -> Rows:
    """Four legs of four joints, spine, neck and head."""
    rows: Rows = {"hips": (None, (0, 0.6, -0.35)), "spine": ("hips", (0, 0.62, -0.1)), "chest": ("spine", (0, 0.62,
        0.2)),
                  "neck": ("chest", (0, 0.75, 0.35)), "head": ("neck", (0, 0.85, 0.5))}  # fmt: skip
    for side, x in (("L", 0.1), ("R", -0.1)):
        for end, on, z in (("hind", "hips", -0.38), ("fore", "chest", 0.22)):
            above = on
            for part, y, ahead in (
                ("upper", 0.55, 0),
                ("lower", 0.33, 0.05),
                ("foot", 0.12, -0.04),
                ("ball", 0.02, 0.04),
            ):
                rows[f"{end}.{part}.{side}"] = (above, (x, y, z + ahead))
                above = f"{end}.{part}.{side}"
    return rows


def gull() -> Rows:
    """Two wings, two legs whose knees bend, neck and head."""
    rows: Rows = {"hips": (None, (0, 0.5, 0)), "chest": ("hips", (0, 0.6, 0.08)), "neck": ("chest", (0, 0.75, 0.14)),
                  "head": ("neck", (0, 0.85, 0.2))}  # fmt: skip
    for side, way in (("L", 1), ("R", -1)):
        chains = {
            "wing": ("chest", (("upper", 0.1, 0.64, 0.06), ("lower", 0.35, 0.66, 0.0), ("hand", 0.65, 0.64, 0.05))),
            "leg": ("hips", (("upper", 0.07, 0.45, 0), ("lower", 0.07, 0.3, 0.06), ("foot", 0.07, 0.1, -0.05),
                             ("ball", 0.07, 0.01, 0.08))),
        }  # fmt: skip
        for name, (on, parts) in chains.items():
            above = on
            for part, x, y, z in parts:
                rows[f"{name}.{part}.{side}"] = (above, (way * x, y, z))
                above = f"{name}.{part}.{side}"
    return rows


def nameless(skeleton: Skeleton, degrees: float = 0.0) -> Skeleton:
    """The same joints called by bare numbers, the figure turned about the vertical."""
    turn = transforms.transform(np.zeros(3), rotations.from_axis_angle(np.array([0, 1.0, 0]), np.radians(degrees)))
    rest = skeleton.rest.copy()
    rest[0] = transforms.compose(turn, rest[0])
    return skeletons.build([str(n) for n in range(len(skeleton))], skeleton.parents, rest)
