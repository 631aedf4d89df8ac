"""Eyes squashed by shapes that are made for a skin that has none."""

from __future__ import annotations

import unittest
from dataclasses import replace

import numpy as np

from hame.character.bodyplan import BodyPlan
from hame.character.build import build_rig
from hame.character.face import placed
from hame.character.skeleton import Skeleton
from hame.character.skin import Piece, Skin, morphed
from hame.character.squash import FLAT, squashable, with_squash
from hame.demo.shots import DATA
from hame.errors import BadPlan
from hame.formats.gltf_read import Character, read_character
from hame.intake.intake import take_in, written
from hame.maths.rotations import Array


def bare() -> tuple[BodyPlan, Skeleton, Skin]:
    """The keeper as one whose file has no shapes."""
    taken = take_in("Brannoc", (DATA / "brannoc.glb").read_bytes())
    found = read_character(taken.mesh)
    pieces = tuple(replace(piece, morphs=()) for piece in found.skin.pieces)
    plan = replace(taken.plan, shapes=(), face={})
    return plan, found.skeleton, Skin(pieces, found.skin.inverse_bind)


def eyeballs(plan: BodyPlan, skeleton: Skeleton, skin: Skin) -> list[tuple[Piece, Array]]:
    """Pieces with the triangles (T, 3) of the left eye."""
    joint = skeleton.index(plan.roles["eye.L"])
    found = []
    for piece in skin.pieces:
        own = (piece.weights * (piece.joints == joint)).sum(axis=1) > 0.5
        mine = piece.triangles[own[piece.triangles].all(axis=1)]
        if len(mine):
            found.append((piece, mine))
    return found


def volume(points: Array, triangles: Array) -> float:
    """By the divergence theorem: a sixth of the sum of all a . (b x c)."""
    a, b, c = (points[triangles[:, n]] for n in range(3))
    return float((a * np.cross(b, c)).sum()) / 6.0


class SquashTest(unittest.TestCase):
    def setUp(self) -> None:
        self.plan, self.skeleton, self.skin = bare()

    def amounts(self, skin: Skin, **by: float) -> Array:
        return np.array([by.get(name, 0.0) for name in skin.shapes])

    def test_one_keeps_the_volume_of_an_eye_and_one_does_not(self) -> None:
        self.assertEqual(squashable(self.plan), ["L", "R"])
        plan, skin = with_squash(self.plan, self.skeleton, self.skin)
        self.assertEqual(skin.shapes, ("eye_squash_l", "eye_flat_l", "eye_squash_r", "eye_flat_r"))
        self.assertEqual(squashable(plan), [])
        cloud = np.concatenate([piece.points[np.unique(t)] for piece, t in eyeballs(plan, self.skeleton, skin)])
        middle = (cloud.max(axis=0) + cloud.min(axis=0)) / 2.0  # an open ball is closed by cones from there
        for name, kept in (("eye_squash_l", 1.0), ("eye_flat_l", FLAT)):
            whole = [0.0, 0.0]
            for piece, triangles in eyeballs(plan, self.skeleton, skin):
                for n, amount in enumerate((0.0, 1.0)):
                    points = morphed(piece, self.amounts(skin, **{name: amount})) - middle
                    whole[n] += volume(points, triangles)
                    if amount:
                        own = np.unique(triangles)
                        high = np.ptp(points[own, 1]) / np.ptp(piece.points[own, 1])
                        self.assertAlmostEqual(high, FLAT, 3)
            self.assertAlmostEqual(whole[1] / whole[0], kept, 3)

    def test_lids_go_along_and_the_rest_of_the_face_stays(self) -> None:
        plan, skin = with_squash(self.plan, self.skeleton, self.skin)
        eyes = {s: self.skeleton.places[self.skeleton.index(plan.roles[f"eye.{s}"])] for s in "LR"}
        amounts, near = self.amounts(skin, eye_squash_l=1.0), 0
        for piece in skin.pieces:
            went = np.linalg.norm(morphed(piece, amounts) - piece.points, axis=1)
            self.assertTrue((went[np.linalg.norm(piece.points - eyes["L"], axis=1) > 0.06] < 1e-6).all())
            self.assertTrue((went[np.linalg.norm(piece.points - eyes["R"], axis=1) < 0.02] < 1e-6).all())
            near += int((went > 1e-4).sum())
        self.assertGreater(near, sum(len(np.unique(t)) for _, t in eyeballs(plan, self.skeleton, skin)))

    def test_they_are_keyed_at_the_zones_of_the_eyes_and_lie_in_the_file(self) -> None:
        plan, skin = with_squash(self.plan, self.skeleton, self.skin)
        plan = placed(plan, self.skeleton, skin)
        rig = build_rig(self.skeleton, plan)
        self.assertEqual([c.name for c in rig.channels_of("eye.L")][-2:], ["eye_squash_l", "eye_flat_l"])
        back = read_character(written("Brannoc", Character("Brannoc", self.skeleton, skin, ()))).skin
        self.assertEqual(back.shapes, skin.shapes)
        for mine, theirs in zip(skin.pieces, back.pieces, strict=True):
            amounts = self.amounts(skin, eye_squash_r=0.7, eye_flat_l=0.4)
            np.testing.assert_allclose(morphed(theirs, amounts), morphed(mine, amounts), atol=1e-5)

    def test_only_what_lacks_is_made_and_what_cannot_be_is_refused(self) -> None:
        plan, skin = with_squash(self.plan, self.skeleton, self.skin)
        with self.assertRaisesRegex(BadPlan, "already"):
            with_squash(plan, self.skeleton, skin)
        blind = replace(self.plan, roles={r: j for r, j in self.plan.roles.items() if not r.startswith("eye")})
        with self.assertRaisesRegex(BadPlan, "no joint has the role of an eye"):
            with_squash(blind, self.skeleton, self.skin)
        empty = replace(self.plan, roles={**self.plan.roles, "eye.L": "floor"} if "floor" in self.skeleton.names else {
            **self.plan.roles, "eye.L": self.skeleton.names[0]})  # fmt: skip
        with self.assertRaisesRegex(BadPlan, "carries nothing"):
            with_squash(empty, self.skeleton, self.skin)
        own = read_character((DATA / "wick.glb").read_bytes())
        taken = take_in("Wick", (DATA / "wick.glb").read_bytes())
        more, wicks = with_squash(taken.plan, own.skeleton, own.skin)
        self.assertEqual(wicks.shapes[len(own.skin.shapes) :], ("eye_flat_l", "eye_flat_r"))
        self.assertEqual(more.face["eye.L"].shapes, ("eye_squash_l", "eye_flat_l"))


if __name__ == "__main__":
    unittest.main()
