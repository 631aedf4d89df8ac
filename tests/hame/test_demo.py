"""The demo motions keep the rules of the trade that they are examples of."""

from __future__ import annotations

import unittest

import numpy as np

from hame.demo.shots import keeping_watch
from hame.evaluate.evaluate import channel_values, evaluate, joints
from tests.hame.examples import brannoc_rig


class KeepingWatchTest(unittest.TestCase):
    """Common practice, no source: an idle of 32 frames, breath in to the middle, first frame equal to the last."""

    def setUp(self) -> None:
        self.rig = brannoc_rig()
        self.clip = keeping_watch(self.rig)
        self.values = channel_values(self.rig, self.clip, np.arange(1, 34))
        self.joints = joints(self.rig, evaluate(self.rig, self.values))

    def place(self, joint: str) -> np.ndarray:
        return self.joints[:, self.rig.skeleton.index(joint), :3]

    def test_frame_33_is_frame_1_again(self) -> None:
        np.testing.assert_allclose(self.joints[32], self.joints[0], atol=1e-12)

    def test_the_feet_do_not_move_at_all(self) -> None:
        for joint in ("foot_l", "ball_l", "foot_r", "ball_r"):
            travelled = np.ptp(self.place(joint), axis=0).max()
            self.assertLess(travelled, 1e-9)  # common practice, no source: a planted foot moves 0 mm

    def test_the_chest_rises_to_the_middle_and_falls_again(self) -> None:
        height = self.place("spine_3")[:, 1]
        self.assertEqual(int(np.argmax(height)), 16)
        self.assertGreater(height[16] - height[0], 0.004)

    def test_the_eyes_lead_the_head(self) -> None:
        eyes = self.values[:, self.rig.number("eye.L/ry")]
        head = self.values[:, self.rig.number("head/ry")]
        self.assertLess(int(np.argmax(eyes)), int(np.argmax(head)))

    def test_the_weight_is_on_the_left_foot(self) -> None:
        hips = self.place("pelvis")[:, 0].mean()
        left, right = self.place("foot_l")[0, 0], self.place("foot_r")[0, 0]
        self.assertLess(abs(hips - left), abs(hips - right))

    def test_every_key_lies_on_a_whole_frame_of_the_range(self) -> None:
        self.assertTrue(set(self.clip.key_frames()) <= set(range(1, 34)))
        self.assertEqual(self.clip.pending, {})
