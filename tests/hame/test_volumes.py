"""What closed surfaces hold, held against trimesh, and what that makes of a creature."""

from __future__ import annotations

import unittest

import numpy as np
import trimesh
from scipy.spatial import ConvexHull

from hame.character.bodyplan import from_json
from hame.character.volumes import Solid, solid_of
from hame.demo.shots import figure


class SolidTest(unittest.TestCase):
    def close(self, found: Solid, mesh: trimesh.Trimesh) -> None:
        known = mesh.mass_properties
        self.assertAlmostEqual(found.volume / float(known["mass"]), 1.0, 9)
        np.testing.assert_allclose(found.centre, known["center_mass"], atol=1e-9)
        np.testing.assert_allclose(found.spread, known["inertia"] / known["mass"], rtol=1e-7, atol=1e-9)

    def test_closed_surfaces_hold_what_trimesh_says(self) -> None:
        rng = np.random.default_rng(4)
        meshes = [
            trimesh.creation.icosphere(subdivisions=2, radius=0.3),
            trimesh.creation.torus(1.0, 0.25),  # which is not convex
            trimesh.creation.box((0.2, 1.0, 0.6)),
        ]
        for mesh in meshes:
            for _ in range(3):
                mesh.apply_transform(trimesh.transformations.random_rotation_matrix(rng.uniform(size=3)))
                mesh.apply_translation(rng.uniform(-5.0, 5.0, 3))
                self.close(solid_of(np.asarray(mesh.vertices), np.asarray(mesh.faces)), mesh)

    def test_a_box_is_spread_by_its_sides(self) -> None:
        """A twelfth of the sum of the squares of the two sides across (Goldstein, Classical Mechanics, section 5.3)."""
        box = trimesh.creation.box((0.2, 1.0, 0.6))
        found = solid_of(np.asarray(box.vertices), np.asarray(box.faces))
        np.testing.assert_allclose(np.diag(found.spread), np.array([1.36, 0.4, 1.04]) / 12.0, rtol=1e-9)

    def test_parts_of_a_creature_are_the_hulls_of_what_its_joints_carry(self) -> None:
        rig, skin = figure("tide-crab")
        self.assertEqual(rig.plan.spreads.keys(), rig.plan.centres.keys())
        points = np.concatenate([piece.points for piece in skin.pieces])
        owner = np.concatenate([
            piece.joints[np.arange(len(piece.points)), np.argmax(piece.weights, axis=1)] for piece in skin.pieces
        ])  # fmt: skip
        for name in list(rig.plan.masses)[:6]:
            mine = points[owner == rig.skeleton.index(name)]
            hull = trimesh.Trimesh(mine, ConvexHull(mine).simplices, process=True)
            hull.fix_normals()
            known = hull.mass_properties
            self.assertAlmostEqual(rig.plan.masses[name] / (1000.0 * float(known["mass"])), 1.0, 3)
            xx, yy, zz, xy, xz, yz = rig.plan.spreads[name]
            spread = np.array([[xx, xy, xz], [xy, yy, yz], [xz, yz, zz]])
            np.testing.assert_allclose(spread, known["inertia"] / known["mass"], atol=2e-8)

    def test_it_is_kept_with_the_plan(self) -> None:
        plan = figure("tide-crab")[0].plan
        self.assertEqual(from_json(plan.to_json()).spreads, plan.spreads)


if __name__ == "__main__":
    unittest.main()
