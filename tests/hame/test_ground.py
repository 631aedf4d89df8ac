"""What lies under a point: surfaces of any shape, held against SciPy and by hand."""

from __future__ import annotations

import unittest

import numpy as np
import trimesh
from scipy.interpolate import LinearNDInterpolator
from scipy.spatial import Delaunay

from hame.character.skin import Material, Piece, Skin
from hame.clip.clip import Clip
from hame.clip.curve import from_keys
from hame.maths import transforms
from hame.maths.rotations import Array
from hame.measure.ground import REACH, Ground, ground_of
from hame.scene.joined import played
from hame.scene.scene import Figure
from tests.hame.examples import prop_rig

THING = 7


def skin_of(points: Array, triangles: Array) -> Skin:
    """A surface that the first joint of a prop carries."""
    count = len(points)
    joints, weights = np.zeros((count, 4), np.uint16), np.zeros((count, 4), np.float32)
    weights[:, 0] = 1.0
    flat = np.zeros((count, 3), np.float32)
    piece = Piece(points.astype(np.float32), flat, triangles.astype(np.uint32), joints, weights, Material("plain"))
    return Skin((piece,), np.eye(4)[None])


def lying(points: Array, triangles: Array, frames: int = 1, **channels: dict[int, float]) -> Ground:
    """A thing of such a surface as ground, its master keyed by channel."""
    rig = prop_rig("crate")
    clip = Clip().with_curves({f"master/{name}": from_keys(keys) for name, keys in channels.items()})
    posed = played({THING: Figure(rig, clip)}, np.arange(1, frames + 1))
    # The joint stands where the rig has it: the surface is given in the world of the rest pose.
    return ground_of(posed, {THING: skin_of(points, triangles)})


def stair(steps: int, rise: float, tread: float, wide: float) -> trimesh.Trimesh:
    """A stair in one piece, up along z from 0."""
    boxes = []
    for n in range(steps):
        box = trimesh.creation.box((wide, rise * (n + 1), tread))
        box.apply_translation((0.0, 0.5 * rise * (n + 1), tread * (n + 0.5)))
        boxes.append(box)
    return trimesh.util.concatenate(boxes)


class GroundTest(unittest.TestCase):
    def test_a_rough_surface_is_what_scipy_finds_between_its_corners(self) -> None:
        """Triangles of Delaunay; `LinearNDInterpolator` goes straight between their corners."""
        rng = np.random.default_rng(5)
        flat = rng.uniform(-2.0, 2.0, (700, 2))
        high = 0.5 + 0.08 * np.sin(3.0 * flat[:, 0]) + 0.05 * np.cos(4.0 * flat[:, 1])
        sheet = Delaunay(flat)
        corners = sheet.simplices
        points = np.stack([flat[:, 0], high, flat[:, 1]], axis=1).astype(np.float32).astype(float)
        one, two = points[corners[:, 1]] - points[corners[:, 0]], points[corners[:, 2]] - points[corners[:, 0]]
        over = np.where(np.cross(one, two)[:, 1:2] < 0.0, corners[:, ::-1], corners)
        # It is closed below, so that its outside is known.
        deep = points.copy()
        deep[:, 1] = -1.0
        ground = lying(np.concatenate([points, deep]), np.concatenate([over, over[:, ::-1] + len(points)]))
        asked = rng.uniform(-1.9, 1.9, (1, 500, 2))
        known = LinearNDInterpolator(points[:, [0, 2]], points[:, 1])(asked[0])
        inside = np.isfinite(known)
        heights = ground.under(np.stack([asked[..., 0], np.full((1, 500), 0.6), asked[..., 1]], axis=-1))[0]
        # Both draw Delaunay's triangles through the same corners; rounded to 32 bits, a few of them may differ.
        off = np.abs(heights - known)[inside]
        self.assertLess(float(np.quantile(off, 0.98)), 1e-6)
        self.assertGreater(int(inside.sum()), 450)

    def test_a_ramp_a_dome_and_a_stair_in_one_piece(self) -> None:
        rng = np.random.default_rng(2)
        slope = np.tan(np.radians(17.0))
        wedge = np.array([[x, y, z] for x in (-1.0, 1.0) for y, z in ((0.0, 0.0), (0.0, 3.0), (3.0 * slope, 3.0))])
        wedge_ground = lying(*_closed(wedge))
        z = rng.uniform(0.05, 2.9, (1, 200))
        points = np.stack([rng.uniform(-0.9, 0.9, z.shape), z * slope + rng.uniform(-0.1, 0.5, z.shape), z], axis=-1)
        heights, normals = wedge_ground.lying(points)
        np.testing.assert_allclose(heights, z * slope, atol=1e-6)
        steep = np.degrees(np.arccos(normals[..., 1]))
        np.testing.assert_allclose(steep, 17.0, atol=1e-4)
        self.assertTrue((normals[..., 2] < 0.0).all(), "it goes up along z, so its normal leans back")

        ball = trimesh.creation.icosphere(subdivisions=5, radius=1.5)
        dome = lying(np.asarray(ball.vertices), np.asarray(ball.faces))
        far, angle = rng.uniform(0.0, 1.0, (1, 200)), rng.uniform(0.0, 2.0 * np.pi, (1, 200))
        high = np.sqrt(1.5**2 - far**2)
        points = np.stack([far * np.cos(angle), high + 0.02, far * np.sin(angle)], axis=-1)
        heights, normals = dome.lying(points)
        self.assertLess(float(np.abs(heights - high).max()), 0.001)
        true = points / np.linalg.norm(points * [1.0, 0.0, 1.0] + [0.0, 1.0, 0.0] * high[..., None], axis=-1)[..., None]
        true[..., 1] = high / 1.5
        self.assertLess(float(np.degrees(np.arccos((normals * true).sum(axis=-1).clip(-1.0, 1.0))).max()), 1.5)

        steps = stair(5, 0.17, 0.28, 1.2)
        flight = lying(np.asarray(steps.vertices), np.asarray(steps.faces))
        at = rng.uniform(0.0, 1.39, (1, 200))
        number = np.floor(at / 0.28)
        points = np.stack([rng.uniform(-0.55, 0.55, at.shape), 0.17 * (number + 1) + 0.01, at], axis=-1)
        np.testing.assert_allclose(flight.under(points), 0.17 * (number + 1), atol=1e-6)

    def test_what_is_higher_than_one_steps_is_beside_or_over(self) -> None:
        table = trimesh.creation.box((1.0, 0.05, 1.0))
        table.apply_translation((0.0, 0.8, 0.0))
        ground = lying(np.asarray(table.vertices), np.asarray(table.faces))
        points = np.array(
            [[[0.1, y, 0.1] for y in (0.0, 0.76, 0.81, 0.9, 0.825 - REACH - 0.001, 0.825 - REACH + 0.001)]]
        )
        np.testing.assert_allclose(ground.under(points)[0], [0.0, 0.825, 0.825, 0.825, 0.0, 0.825], atol=1e-6)
        self.assertEqual(ground.under(np.array([[[0.6, 0.9, 0.0]]]))[0, 0], 0.0)
        np.testing.assert_array_equal(ground.lying(np.array([[[0.6, 0.9, 0.0]]]))[1][0, 0], [0.0, 1.0, 0.0])

    def test_a_wall_is_none(self) -> None:
        """The rail of a ladder that leans is no ground to stand on, a steep slope is."""
        for degrees, stands in ((60.0, True), (80.0, False)):
            rise = float(np.tan(np.radians(degrees)))
            wedge = np.array([[x, y, z] for x in (-1.0, 1.0) for y, z in ((0.0, 0.0), (0.0, 0.4), (0.4 * rise, 0.4))])
            found = lying(*_closed(wedge)).under(np.array([[[0.0, 0.2 * rise + 0.02, 0.2]]]))
            self.assertAlmostEqual(float(found[0, 0]), 0.2 * rise if stands else 0.0, 6)

    def test_it_is_ground_where_it_lies_turned_and_tipped_frame_by_frame(self) -> None:
        slab = trimesh.creation.box((2.0, 0.2, 2.0))
        turn = {1: 0.0, 21: 0.5}
        ground = lying(np.asarray(slab.vertices), np.asarray(slab.faces), 21, rx=turn, ty={1: 0.5}, ry={1: 0.7})
        rig = prop_rig("crate")
        clip = Clip().with_curves({
            "master/rx": from_keys(turn), "master/ty": from_keys({1: 0.5}), "master/ry": from_keys({1: 0.7}),
        })  # fmt: skip
        nodes = played({THING: Figure(rig, clip)}, np.arange(1, 22))[THING].nodes[:, rig.joint_nodes[0]]
        local = np.array([[0.3, 0.1, -0.4], [-0.5, 0.1, 0.2]])  # two points of its upper side
        on = transforms.apply(nodes[:, None], local[None])
        rest = transforms.apply(transforms.inverse(rig.skeleton.world[0]), np.zeros(3))
        self.assertLess(float(np.abs(rest).max()), 1e-9, "the crate's joint stands at the world's middle at rest")
        heights, normals = ground.lying(on + [0.0, 0.05, 0.0])
        np.testing.assert_allclose(heights, on[..., 1], atol=1e-6)
        upright = transforms.apply(nodes[:, None], np.array([[0.0, 1.0, 0.0]])) - nodes[:, None, :3]
        np.testing.assert_allclose(normals, np.broadcast_to(upright, normals.shape), atol=1e-6)

    def test_a_surface_that_is_inside_out_is_turned_over(self) -> None:
        box = trimesh.creation.box((1.0, 1.0, 1.0))
        ground = lying(np.asarray(box.vertices), np.asarray(box.faces)[:, ::-1])
        self.assertAlmostEqual(float(ground.under(np.array([[[0.2, 0.52, 0.3]]]))[0, 0]), 0.5, 6)


def _closed(points: Array) -> tuple[Array, Array]:
    """The hull of some points, its triangles seen from outside."""
    hull = trimesh.convex.convex_hull(points)
    return np.asarray(hull.vertices), np.asarray(hull.faces)


if __name__ == "__main__":
    unittest.main()
