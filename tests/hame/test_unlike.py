"""A difference of left and right that is asked for, laid over a motion whose sides are alike."""

from __future__ import annotations

import unittest
from math import radians

import numpy as np

from hame.clip.clip import Clip
from hame.clip.layers import layers_of
from hame.edits.cycles import make_cycle, repeat_cycle
from hame.edits.labels import lay_template
from hame.edits.layers import WeighLayer
from hame.edits.making import made
from hame.edits.shapes import set_shape
from hame.edits.unlike import MakeUnlike
from hame.errors import BadEdit
from hame.evaluate.evaluate import channel_values, evaluate
from hame.maths.rotations import Array
from hame.scene.scene import Figure, Scene
from tests.hame.examples import brannoc_rig, cycle_of, prop_rig


class UnlikeTest(unittest.TestCase):
    def setUp(self) -> None:
        self.rig = brannoc_rig()
        walk = set_shape(lay_template(Clip(), self.rig, "walk", 1, 12, 240, True).clip, self.rig, "smooth").clip
        self.walk = repeat_cycle(make_cycle(walk, self.rig, 1, 25, True).clip, self.rig, 97, "stride").clip

    def after(self, edit: MakeUnlike | WeighLayer, clip: Clip | None = None) -> Clip:
        return made(edit, Scene({1: Figure(self.rig, clip or self.walk)}, 1, 120), 1).clips[1]

    def values(self, clip: Clip, frames: object) -> Array:
        return channel_values(self.rig, clip, np.asarray(frames, float))

    def column(self, clip: Clip, address: str, frames: object) -> Array:
        return np.asarray(self.values(clip, frames)[:, self.rig.number(address)])

    def test_the_base_stays_an_echo_and_weight_0_brings_it_back(self) -> None:
        clip = self.after(MakeUnlike(shoulders=radians(6.0), feet=radians(8.0), late=3))
        self.assertEqual(cycle_of(clip), cycle_of(self.walk))
        [number] = layers_of(clip)
        none = self.after(WeighLayer(number=number, weight=0.0), clip)
        frames = np.arange(1.0, 98.0, 0.5)
        np.testing.assert_allclose(self.values(none, frames), self.values(self.walk, frames), rtol=0, atol=1e-12)

    def test_the_sides_differ_by_the_degrees_that_were_said(self) -> None:
        frames = np.arange(1, 13)
        for part, channel, sign in (("arm.{}.collar", "rz", 1), ("arm.{}.hand", "rx", 1), ("leg.{}.goal", "ry", -1)):
            name = {"arm.{}.collar": "shoulders", "arm.{}.hand": "hands", "leg.{}.goal": "feet"}[part]
            for side, more in (("L", 1.0), ("R", -1.0)):
                clip = self.after(MakeUnlike(side=side, **{name: radians(10.0)}))  # type: ignore[arg-type]
                left, right = (part.format(s) + f"/{channel}" for s in "LR")
                # The right half a cycle later, as in the mirror: of alike sides it is what the left is now.
                apart = self.column(clip, left, frames) - sign * self.column(clip, right, frames + 12)
                np.testing.assert_allclose(apart, more * radians(10.0), rtol=0, atol=1e-9)

    def test_a_raised_shoulder_is_higher_and_the_other_lower(self) -> None:
        clip = self.after(MakeUnlike(shoulders=radians(8.0)))
        joints = [self.rig.joint_nodes[self.rig.skeleton.index(self.rig.plan.roles[f"arm.{s}.upper"])] for s in "LR"]
        high = [evaluate(self.rig, self.values(one, [1]))[0][joints, 1] for one in (clip, self.walk)]
        left, right = high[0] - high[1]
        self.assertGreater(left, 0.003)
        self.assertLess(right, -0.003)

    def test_a_late_hand_does_what_it_does_so_many_frames_later(self) -> None:
        clip = self.after(MakeUnlike(side="R", late=3))
        frames = np.arange(6, 94, dtype=float)
        for address in ("arm.R.upper/rx", "arm.R.hand/rz", "arm.R.lower/rx"):
            late, before = self.column(clip, address, frames), self.column(self.walk, address, frames - 3)
            np.testing.assert_allclose(late, before, rtol=0, atol=1e-4)
            np.testing.assert_allclose(
                self.column(clip, address.replace("R", "L"), frames),
                self.column(self.walk, address.replace("R", "L"), frames), rtol=0, atol=1e-12,
            )  # fmt: skip

    def test_nothing_and_what_has_no_sides_are_refused(self) -> None:
        with self.assertRaisesRegex(BadEdit, "by how much"):
            self.after(MakeUnlike())
        with self.assertRaisesRegex(BadEdit, "no such parts"):
            made(MakeUnlike(hands=0.1), Scene({1: Figure(prop_rig("crate"))}, 1, 48), 1)
