"""Shapes by which eyes are squashed, made for a skin that has none: with their volume kept, or flattened alone."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import numpy.typing as npt

from hame.character.bodyplan import BodyPlan, Zone
from hame.character.shapes import HIGH, LOW
from hame.character.skeleton import Skeleton
from hame.character.skin import Piece, Skin, morph_of
from hame.errors import BadPlan
from hame.maths.rotations import Array

Bools = npt.NDArray[np.bool_]

FLAT = 0.6
"""How high an eye is that is squashed or flattened by all of it; as wide and as deep it grows by what keeps its
volume."""
_CARRIES = 0.5  # of a point: the share of the joint of an eye from which it is the eye's
_LIDS = 1.5  # times as far as its points reach from its middle: up to there what lies about an eye goes along
WAYS = {"eye_squash": 1.0 / np.sqrt(FLAT), "eye_flat": 1.0}
"""By name, how wide and deep an eye becomes, times its size."""


def squashable(plan: BodyPlan) -> list[str]:
    """The sides, ``L`` and ``R``, whose eyes are joints, and lack one of these shapes yet."""
    return [s for s in "LR" if f"eye.{s}" in plan.roles and not set(_names(s)) <= {shape[0] for shape in plan.shapes}]


def with_squash(plan: BodyPlan, skeleton: Skeleton, skin: Skin) -> tuple[BodyPlan, Skin]:
    """A skin with shapes by which its eyes are squashed, and the plan whose zones of the eyes have them.

    Raises
    ------
    BadPlan
        If no joint has the role of an eye, carries any of the skin, or all have such shapes already.
    """
    sides = squashable(plan)
    if not any(f"eye.{side}" in plan.roles for side in "LR"):
        raise BadPlan("no joint has the role of an eye, so there is nothing to squash; nothing was changed")
    if not sides:
        raise BadPlan("the eyes have shapes by which they are squashed already; nothing was changed")
    face, shapes = dict(plan.face), list(plan.shapes)
    for side in sides:
        eye = _Eye.of(plan, skeleton, skin, side)
        zone = face.get(f"eye.{side}", Zone((), ()))
        for name, wide in zip(_names(side), WAYS.values(), strict=True):
            if name in skin.shapes:
                continue
            skin = _with_shape(skin, name, eye, wide)
            shapes.append((name, 0.0, LOW, HIGH))
            zone = replace(zone, shapes=(*zone.shapes, name))
        face[f"eye.{side}"] = zone
    return replace(plan, face=face, shapes=tuple(shapes)), skin


def _names(side: str) -> list[str]:
    return [f"{name}_{side.lower()}" for name in WAYS]


class _Eye:
    """Where an eye is in the rest pose, how far its points reach from its middle, and which joint carries it."""

    def __init__(self, joint: int, middle: Array, reach: float) -> None:
        self.joint, self.middle, self.reach = joint, middle, reach

    @staticmethod
    def of(plan: BodyPlan, skeleton: Skeleton, skin: Skin, side: str) -> _Eye:
        joint = skeleton.index(plan.roles[f"eye.{side}"])
        mine = [piece.points[_own(piece, joint)] for piece in skin.pieces]
        cloud = np.concatenate(mine).astype(float)
        if len(cloud) < 4:
            raise BadPlan(
                f"{plan.roles[f'eye.{side}']} carries nothing of the skin that could be squashed; nothing was changed"
            )
        middle = (cloud.max(axis=0) + cloud.min(axis=0)) / 2.0
        return _Eye(joint, middle, float(np.linalg.norm(cloud - middle, axis=1).max()))

    def moves(self, points: Array, own: Bools, wide: float) -> Array:
        """By how much points (N, 3) go, of which ``own (N,)`` are the eye's: what lies about it goes along, less the
        farther it is."""
        off = points - self.middle
        far = np.linalg.norm(off, axis=1) / self.reach
        share = np.where(own, 1.0, 1.0 - np.clip((far - 1.0) / (_LIDS - 1.0), 0.0, 1.0))
        share = share * share * (3.0 - 2.0 * share)
        return np.asarray(share[:, None] * off * np.array([wide - 1.0, FLAT - 1.0, wide - 1.0]))


def _own(piece: Piece, joint: int) -> Bools:
    """Which points (V,) of a piece a joint carries."""
    return np.asarray((piece.weights * (piece.joints == joint)).sum(axis=1) >= _CARRIES)


def _with_shape(skin: Skin, name: str, eye: _Eye, wide: float) -> Skin:
    number, pieces = len(skin.shapes), []
    for piece in skin.pieces:
        morph = morph_of(piece, number, eye.moves(piece.points.astype(float), _own(piece, eye.joint), wide))
        pieces.append(piece if morph is None else replace(piece, morphs=(*piece.morphs, morph)))
    return replace(skin, pieces=tuple(pieces), shapes=(*skin.shapes, name), amounts=(*skin.amounts, 0.0))
