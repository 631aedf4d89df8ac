"""Joints that move, turn and are sized as a person says."""

from __future__ import annotations

import unittest
from collections.abc import Mapping
from dataclasses import replace
from math import radians

import numpy as np

from hame.character.bodyplan import from_json
from hame.character.build import build_rig
from hame.character.free import can_be_free, check_free, moves_of
from hame.character.rig import Rig
from hame.edits.making import made
from hame.edits.pose import SetPose
from hame.errors import BadEdit, BadPlan
from hame.evaluate.evaluate import channel_values, evaluate, joints
from hame.scene.scene import Figure, Scene
from tests.hame.examples import brannoc_rig, prop_rig

Free = Mapping[str, Mapping[str, tuple[float, float]]]


def freed(rig: Rig, free: Free) -> Rig:
    plan = replace(rig.plan, free=free)
    check_free(plan.free, plan, rig.skeleton)
    return build_rig(rig.skeleton, from_json(plan.to_json()))


class FreeJointTest(unittest.TestCase):
    def setUp(self) -> None:
        self.usual = brannoc_rig()
        self.jaw = self.usual.plan.roles["jaw"]
        self.coat = next(n for n in can_be_free(self.usual.plan, self.usual.skeleton) if n.startswith("coat"))

    def test_a_joint_without_a_role_moves_turns_and_is_sized_each_way_by_its_own_range(self) -> None:
        rig = freed(self.usual, {self.coat: {"tx": (-0.05, 0.1), "ry": (-30.0, 60.0), "s": (0.5, 2.0)}})
        open_ones = {c.name: (c.low, c.high) for c in rig.channels_of(self.coat) if not c.locked}
        self.assertEqual(set(open_ones), {"tx", "ry", "s"})
        self.assertEqual(open_ones["tx"], (-0.05, 0.1))
        np.testing.assert_allclose(open_ones["ry"], (radians(-30.0), radians(60.0)))
        values = np.tile(rig.rest, (2, 1))
        values[1, rig.number(f"{self.coat}/tx")] = 0.04
        values[1, rig.number(f"{self.coat}/s")] = 1.5
        rest, moved = joints(rig, evaluate(rig, values))[:, rig.skeleton.index(self.coat)]
        self.assertAlmostEqual(float(np.linalg.norm(moved[:3] - rest[:3])), 0.04, 9)
        self.assertAlmostEqual(float(moved[7]), 1.5, 9)

    def test_a_pose_keeps_to_it(self) -> None:
        rig = freed(self.usual, {self.coat: {"tx": (-0.05, 0.1)}})
        scene = Scene({1: Figure(rig)}, 1, 20)
        clip = made(SetPose(frame=3, values={f"{self.coat}/tx": 0.1}), scene, 1).clips[1]
        self.assertAlmostEqual(float(channel_values(rig, clip, [3])[0, rig.number(f"{self.coat}/tx")]), 0.1)
        for address, value in ((f"{self.coat}/tx", 0.2), (f"{self.coat}/ty", 0.05), (f"{self.coat}/rx", 0.2)):
            with self.assertRaises(BadEdit, msg=address):
                made(SetPose(frame=3, values={address: value}), scene, 1)

    def test_a_jaw_opens_as_far_as_it_is_let(self) -> None:
        usual = moves_of(self.usual, self.jaw)
        np.testing.assert_allclose(usual["rx"], (-5.0, 40.0))
        rig = freed(self.usual, {self.jaw: {**usual, "rx": (-5.0, 70.0), "ty": (-0.03, 0.0)}})
        self.assertAlmostEqual(rig.channels[rig.number("jaw/rx")].high, radians(70.0))
        self.assertFalse(rig.channels[rig.number("jaw/ty")].locked)
        self.assertTrue(rig.channels[rig.number("jaw/tx")].locked)

    def test_so_do_parts_of_props(self) -> None:
        lamp = prop_rig("signal-lamp")
        part = can_be_free(lamp.plan, lamp.skeleton)[0]
        self.assertEqual(set(moves_of(lamp, part)), {"rx", "ry", "rz"})
        rig = freed(lamp, {part: {"tz": (0.0, 0.25)}})
        self.assertEqual(set(moves_of(rig, part)), {"tz"})
        self.assertNotIn(lamp.plan.roles["base"], can_be_free(lamp.plan, lamp.skeleton))

    def test_what_is_told_of_nothing_is_as_it_was(self) -> None:
        again = build_rig(self.usual.skeleton, from_json(self.usual.plan.to_json()))
        self.assertEqual(again.channels, self.usual.channels)

    def test_what_no_joint_can_do_is_refused(self) -> None:
        limb = self.usual.plan.roles["arm.L.upper"]
        for free, says in (
            ({limb: {"tx": (-1.0, 1.0)}}, "by its role"), ({"anchor": {"tx": (-1.0, 1.0)}}, "not there"),
            ({self.coat: {"tx": (0.1, 0.2)}}, "holds 0"), ({self.coat: {"s": (1.2, 2.0)}}, "holds 1"),
            ({self.coat: {"s": (0.0, 2.0)}}, "within"), ({self.coat: {"rx": (float("-inf"), 2.0)}}, "within"),
            ({self.coat: {"w": (-1.0, 1.0)}}, "no w"),
        ):  # fmt: skip
            with self.assertRaisesRegex(BadPlan, says):
                freed(self.usual, free)


if __name__ == "__main__":
    unittest.main()
