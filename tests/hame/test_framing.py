"""What a camera has in its picture, held against the projection of the OpenGL specification."""

from __future__ import annotations

import unittest

import numpy as np
from scipy.spatial.transform import Rotation

from hame.maths.rotations import Array
from hame.measure.framing import Filmed, inside, stood_back

LENS, GATE = 35.0, (24.0, 13.5)
LOOKS = {
    "along z": Rotation.identity(),
    "from the side": Rotation.from_euler("Y", 90, degrees=True),
    "from above, aslant": Rotation.from_euler("YXZ", [40, 33, 12], degrees=True),
}
WALKED = np.array([[0.1 * n, 0.9, 0.3 * n] for n in range(25)])


def filmed(place: Array, turn: Rotation, frames: int = len(WALKED)) -> Filmed:
    spot = np.concatenate([place, turn.as_quat()])
    return Filmed(np.tile(spot, (frames, 1)), np.full(frames, LENS), np.tile(GATE, (frames, 1)))


def seen(place: Array, turn: Rotation, points: Array) -> bool:
    """Whether points are in the picture by glFrustum (OpenGL 2.1 specification, section 2.11.2; from memory).

    There the eye looks against its z axis.
    """
    near, far = 0.01, 1000.0
    right, top = (near * size / 2 / LENS for size in GATE)
    frustum = np.array([
        [near / right, 0, 0, 0], [0, near / top, 0, 0],
        [0, 0, -(far + near) / (far - near), -2 * far * near / (far - near)], [0, 0, -1, 0],
    ])  # fmt: skip
    eye = (turn * Rotation.from_euler("Y", 180, degrees=True)).inv().apply(points - place)
    clip = np.column_stack([eye, np.ones(len(eye))]) @ frustum.T
    return bool(np.all(np.abs(clip[:, :3]) <= clip[:, 3:]))


def skins(middles: Array, radius: float) -> Array:
    rng = np.random.default_rng(3)
    out = rng.normal(size=(4000, 3))
    out *= radius / np.linalg.norm(out, axis=1)[:, None]
    return np.concatenate([middle + out for middle in middles])


class FramingTest(unittest.TestCase):
    def test_spheres_are_inside_where_all_of_their_skin_is_projected_into_the_picture(self) -> None:
        rng = np.random.default_rng(7)
        found = {True: 0, False: 0}
        for turn in LOOKS.values():
            for _ in range(60):
                middle = turn.apply(rng.uniform([-2, -1.2, 1], [2, 1.2, 8]))[None]
                radius = rng.uniform(0.1, 0.8)
                said = inside(filmed(np.zeros(3), turn, 1), middle, radius)
                # Points of the skin are a little inside the sphere that they stand for.
                if said:
                    self.assertTrue(seen(np.zeros(3), turn, skins(middle, radius)))
                else:
                    self.assertFalse(seen(np.zeros(3), turn, skins(middle, radius * 1.02)))
                found[said] += 1
        self.assertGreater(min(found.values()), 20)

    def test_it_stands_back_until_all_of_a_way_is_in_the_picture_and_no_farther(self) -> None:
        for name, turn in LOOKS.items():
            with self.subTest(name):
                before = filmed(np.array([0.0, 1.0, 0.0]), turn)
                self.assertFalse(inside(before, WALKED, 1.0))
                place = stood_back(before, WALKED, 1.0)
                self.assertTrue(inside(filmed(place, turn), WALKED, 1.0))
                self.assertTrue(seen(place, turn, skins(WALKED, 1.0)))
                near = place + 0.2 * (WALKED.mean(axis=0) - place)
                self.assertFalse(inside(filmed(near, turn), WALKED, 1.0))

    def test_each_frame_is_seen_by_the_camera_of_that_frame(self) -> None:
        still = filmed(np.array([0.0, 1.0, -4.0]), LOOKS["along z"])
        aside = WALKED * [4.0, 1.0, 0.0]
        along = Filmed(still.spots + np.pad(aside - aside[0], ((0, 0), (0, 4))), still.lens, still.gate)
        self.assertFalse(inside(still, aside, 0.4))
        self.assertTrue(inside(along, aside, 0.4))


if __name__ == "__main__":
    unittest.main()
