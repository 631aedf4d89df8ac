"""Channels that do one thing together while a pose beside keys only one of them."""

from __future__ import annotations

import unittest
from math import radians

from hame.clip.clip import Clip
from hame.edits.edit import Edit
from hame.edits.keys import DeleteKeys
from hame.edits.layers import AddLayer
from hame.edits.making import made
from hame.edits.pose import KeyPose, SetPose
from hame.measure.doubles import Double, doubles
from hame.scene.scene import Figure, Scene
from hame.scene.seen import pose_values
from tests.hame.examples import brannoc_rig

FOOT = "leg.L.goal"


class DoublesTest(unittest.TestCase):
    def setUp(self) -> None:
        self.rig = brannoc_rig()
        self.clip = self.after(Clip(), KeyPose(frame=1), KeyPose(frame=13), KeyPose(frame=25))

    def after(self, clip: Clip, *edits: Edit) -> Clip:
        for edit in edits:
            clip = made(edit, Scene({1: Figure(self.rig, clip)}, 1, 48), 1).clips[1]
        return clip

    def found(self, clip: Clip, frame: int, control: str = FOOT) -> list[Double]:
        return doubles(self.rig, clip, frame, control, pose_values(self.rig, clip, frame))

    def unkeyed(self, address: str, *frames: int) -> Clip:
        return self.after(self.clip, DeleteKeys(keys={address: frames}))

    def test_roll_and_pitch_of_a_foot_are_named_with_both_numbers(self) -> None:
        clip = self.unkeyed(f"{FOOT}/roll", 1, 25)
        clip = self.after(clip, SetPose(frame=13, values={f"{FOOT}/roll": 0.3, f"{FOOT}/rx": -0.2}, keying="changed"))
        [double] = self.found(clip, 13)
        self.assertEqual((double.first, double.second, double.beside), ("pitch", "roll", 1))
        self.assertAlmostEqual(double.values[0], -0.2, 9)
        self.assertAlmostEqual(double.values[1], 0.3, 9)

    def test_it_is_in_order_where_both_are_keyed_beside_or_one_does_nothing(self) -> None:
        both = self.after(
            self.clip, SetPose(frame=13, values={f"{FOOT}/roll": 0.3, f"{FOOT}/rx": -0.2}, keying="changed")
        )
        self.assertEqual(self.found(both, 13), [])
        little = self.after(
            self.unkeyed(f"{FOOT}/roll", 1, 25),
            SetPose(frame=13, values={f"{FOOT}/roll": radians(0.4), f"{FOOT}/rx": -0.2}, keying="changed"),
        )
        self.assertEqual(self.found(little, 13), [])

    def test_a_swivel_and_the_aim_it_turns_from(self) -> None:
        clip = self.unkeyed("arm.L.pole/swivel", 1, 25)
        moved = {"arm.L.pole/tx": 0.2, "arm.L.pole/swivel": 0.5}
        [double] = self.found(self.after(clip, SetPose(frame=13, values=moved, keying="changed")), 13, "arm.L.pole")
        self.assertEqual((double.first, double.second), ("the aim’s place", "swivel"))
        self.assertEqual(double.units, ("m", "rad"))

    def test_a_control_and_a_layer_over_it(self) -> None:
        clip = self.after(self.clip, SetPose(frame=13, values={"head/ry": 0.3}, keying="changed"))
        clip = self.after(clip, AddLayer(name="Late", controls=("head",), turned=False))
        clip = self.after(clip, SetPose(frame=13, values={"head/ry": 0.5}, keying="changed", layer=1))
        [double] = self.found(clip, 13, "head")
        self.assertEqual(double.second, f"{double.first} in Late")
        self.assertAlmostEqual(sum(double.values), 0.5, 9)
        self.assertEqual(self.found(clip, 25, "head"), [])
