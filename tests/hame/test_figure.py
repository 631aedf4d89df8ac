"""Sculpting in code: distances, weights, clean borders between materials, a closed surface."""

from __future__ import annotations

import unittest

import numpy as np

from hame.character.skin import Material
from hame.demo import keeper
from hame.demo.figure import Part, four_strongest, sculpt
from tests.hame.examples import skeleton_of

ARM = skeleton_of({"shoulder": (None, (0, 0, 0)), "elbow": ("shoulder", (0.3, 0, 0)), "wrist": ("elbow", (0.6, 0, 0))})
RED, BLUE = Material("red", (1, 0, 0, 1)), Material("blue", (0, 0, 1, 1))


class PartTest(unittest.TestCase):
    def test_a_rounded_cone_is_as_far_as_its_radius_says(self) -> None:
        part = Part(0, (("shoulder", 1.0),), (0, 0, 0), (1, 0, 0), 0.1, 0.1)
        points = np.array([[0.5, 0.3, 0], [0.5, 0.1, 0], [0.5, 0, 0], [-0.3, 0, 0], [1.2, 0, 0]])
        np.testing.assert_allclose(part.distance(points), [0.2, 0, -0.1, 0.2, 0.1], atol=1e-12)

    def test_an_ellipsoid_is_zero_on_its_surface(self) -> None:
        part = Part(0, (("shoulder", 1.0),), (0, 0, 0), radii=(0.3, 0.1, 0.2))
        on = np.array([[0.3, 0, 0], [0, 0.1, 0], [0, 0, -0.2]])
        np.testing.assert_allclose(part.distance(on), 0.0, atol=1e-12)
        self.assertLess(part.distance(np.zeros((1, 3)) + 0.01)[0], 0)

    def test_four_weights_are_kept_and_sum_to_one(self) -> None:
        weights = np.random.default_rng(1).random((50, 9))
        joints, kept = four_strongest(weights / weights.sum(1, keepdims=True))
        self.assertEqual(joints.shape, (50, 4))
        np.testing.assert_allclose(kept.sum(1), 1.0, atol=1e-6)
        strongest = np.argmax(weights, axis=1)
        np.testing.assert_array_equal(joints[:, 0], strongest)


class SculptTest(unittest.TestCase):
    def setUp(self) -> None:
        parts = [
            Part(0, (("shoulder", 1.0), ("elbow", 1.0)), (0, 0, 0), (0.6, 0, 0), 0.06, 0.05, group="arm"),
            Part(1, (("elbow", 1.0),), (0.42, 0, 0), (0.6, 0, 0), 0.065, 0.062, group="sleeve"),
        ]
        self.skin = sculpt(parts, (RED, BLUE), ARM, 1500, step=0.012)

    def test_the_surface_is_closed_across_its_materials(self) -> None:
        edges: dict[tuple[bytes, bytes], int] = {}
        for piece in self.skin.pieces:
            names = [p.tobytes() for p in np.round(piece.points, 5) + 0.0]
            for face in piece.triangles.tolist():
                for a, b in ((face[0], face[1]), (face[1], face[2]), (face[2], face[0])):
                    key = tuple(sorted((names[a], names[b])))
                    edges[key] = edges.get(key, 0) + 1  # type: ignore[index, arg-type]
        odd = sum(1 for count in edges.values() if count != 2)
        self.assertLess(odd / len(edges), 0.01)

    def test_materials_lie_where_their_parts_are(self) -> None:
        red, blue = self.skin.pieces
        self.assertEqual((red.material, blue.material), (RED, BLUE))
        self.assertLess(red.points[:, 0].max(), 0.45)
        self.assertGreater(blue.points[:, 0].min(), 0.33)

    def test_weights_change_smoothly_along_the_arm(self) -> None:
        piece = self.skin.pieces[0]
        elbow = np.where(piece.joints == 1, piece.weights, 0).sum(1)
        near, far = elbow[piece.points[:, 0] < 0.1], elbow[piece.points[:, 0] > 0.38]
        self.assertLess(near.mean(), 0.2)
        self.assertGreater(far.mean(), 0.6)
        middle = elbow[np.abs(piece.points[:, 0] - 0.3) < 0.03]
        self.assertTrue(0.2 < middle.mean() < 0.8)

    def test_normals_point_outwards(self) -> None:
        for piece in self.skin.pieces:
            across = piece.points * np.array([0, 1, 1], np.float32)
            inside = (piece.points[:, 0] > 0.05) & (piece.points[:, 0] < 0.55)
            self.assertGreater(float(np.einsum("vi,vi->v", across, piece.normals)[inside].min()), 0)


class KeeperTest(unittest.TestCase):
    def test_both_sides_of_his_skeleton_are_one_mirrored(self) -> None:
        skeleton = keeper.skeleton()
        for name in skeleton.names:
            if name.endswith("_l"):
                left = skeleton.places[skeleton.index(name)]
                right = skeleton.places[skeleton.index(name[:-2] + "_r")]
                np.testing.assert_allclose(left * [-1, 1, 1], right, atol=1e-12)

    def test_every_part_is_carried_by_joints_he_has(self) -> None:
        names = set(keeper.skeleton().names)
        for part in keeper.parts():
            self.assertTrue({bone for bone, _ in part.bones} <= names)
            self.assertLess(part.material, len(keeper.MATERIALS))

    def test_he_stands_on_the_ground_and_is_as_tall_as_he_should_be(self) -> None:
        places = keeper.skeleton().places
        self.assertAlmostEqual(float(places[:, 1].min()), 0.0, places=6)
        hip = keeper.skeleton().places[keeper.skeleton().index("thigh_l"), 1]
        self.assertAlmostEqual(hip / keeper.HEIGHT, 0.53, delta=0.02)  # Drillis and Contini 1966: 0.245 + 0.246 + 0.039
