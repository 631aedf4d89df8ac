"""The tide crab and the harbour dog: what they have follows from their shape, without code of their own."""

from __future__ import annotations

import unittest

import numpy as np

from hame.character.bodyplan import problems
from hame.character.rig import Rig
from hame.clip.clip import Clip
from hame.clip.curve import from_keys
from hame.demo import crab, dog
from hame.demo.shots import figure
from hame.edits.cycles import make_cycle
from hame.evaluate.evaluate import channel_values, evaluate
from hame.evaluate.posed import Posed
from hame.measure.balance import balances
from hame.solve.begun import begin, where
from hame.solve.pull import pull
from hame.solve.wishes import Grip, Target

TRIPOD = ("leg.L", "leg2.R", "leg3.L")


class ProposedTest(unittest.TestCase):
    def test_the_plans_come_from_the_shapes(self) -> None:
        for name, skeleton, legs, arms in (("tide-crab", crab.skeleton(), 6, 2), ("bosun", dog.skeleton(), 4, 0)):
            rig = figure(name)[0]
            self.assertEqual(problems(rig.plan, skeleton), {})
            kinds = [limb.kind for limb in rig.limbs]
            self.assertEqual((kinds.count("leg"), kinds.count("arm")), (legs, arms), name)
            self.assertIn("head", rig.plan.roles)
            self.assertTrue({"eye.L", "eye.R"} <= set(rig.plan.roles))

    def test_a_crab_stands_on_points_and_a_dog_on_paws(self) -> None:
        rig = figure("tide-crab")[0]
        for limb in rig.limbs:
            if limb.kind == "leg":
                heel, tip = (np.array(rig.plan.soles[limb.name][end]) for end in ("heel", "tip"))
                self.assertLess(np.linalg.norm(tip - heel), 0.03)
                point = rig.skeleton.places[rig.skeleton.index(rig.plan.roles[f"{limb.name}.tip"])]
                self.assertLess(np.linalg.norm(tip - point), 0.02)
        paws = figure("bosun")[0]
        self.assertIn("leg2.L.ball", paws.plan.roles)


class GaitTest(unittest.TestCase):
    def tripod(self, rig: Rig) -> Clip:
        """Half a cycle of 16: three legs swing ahead while the other three push back; its echo is the other half."""
        curves = {}
        for limb in rig.limbs:
            if limb.kind != "leg":
                continue
            swings = limb.name in TRIPOD
            ways = {1: -0.06, 9: 0.06} if swings else {1: 0.06, 9: -0.06}
            curves[f"{limb.ik}/tx"] = from_keys(ways)
            curves[f"{limb.ik}/ty"] = from_keys({1: 0.0, 5: 0.05, 9: 0.0} if swings else {1: 0.0, 9: 0.0})
        return make_cycle(Clip().with_curves(curves), rig, 1, 17, True).clip

    def test_an_echo_of_three_and_three(self) -> None:
        rig = figure("tide-crab")[0]
        clip = self.tripod(rig)
        nodes = evaluate(rig, channel_values(rig, clip, np.arange(1, 18, dtype=float)))
        height = {limb.name: nodes[:, limb.end, 1] - nodes[0, limb.end, 1] for limb in rig.limbs if limb.kind == "leg"}
        for name, up in height.items():
            first, second = (up[4] > 0.03, up[12] > 0.03)
            self.assertEqual((first, second), (name in TRIPOD, name not in TRIPOD), name)
        # At every frame three legs at least are on the ground, and the shell is over what bears it.
        for stands in balances(
            clip, Posed(rig, channel_values(rig, clip, np.arange(1, 17, dtype=float)), nodes[:16]), 1
        ):
            self.assertGreaterEqual(len(stands.bearing), 3)
            self.assertGreater(stands.margin or 0.0, 0.02)


class FollowTest(unittest.TestCase):
    def test_tips_stay_while_the_shell_is_dragged_and_turned_and_one_leg_is_set_elsewhere(self) -> None:
        rig = figure("tide-crab")[0]
        start = begin(rig, rig.rest)
        feet = [link.name for link in start.body.links if link.name.endswith(".foot")]
        at, way = where(start, "body")
        turn = np.array([0.0, np.sin(0.15), 0.0, np.cos(0.15)])
        result = pull(start, [Target("body", at + [0.05, 0.04, -0.03], turn)], [Grip(foot, "fast") for foot in feet])
        body = result.nodes[start.body.links[0].node]
        self.assertGreater(abs(float(body[3:7] @ turn)), 0.9999)
        np.testing.assert_allclose(body[:3], at + [0.05, 0.04, -0.03], atol=2e-3)
        for foot in feet:
            np.testing.assert_allclose(result.nodes[start.body.link(foot).node, :3],
                                       where(start, foot)[0], atol=1e-4)  # fmt: skip
        one = pull(start, [Target("leg2.L.foot", where(start, "leg2.L.foot")[0] + [0.03, 0.08, 0.06])],
                   [Grip(foot, "fast") for foot in feet if foot != "leg2.L.foot"])  # fmt: skip
        self.assertEqual(one.gave, ())

    def test_a_dog_lowers_its_head_on_four_paws(self) -> None:
        rig = figure("bosun")[0]
        start = begin(rig, rig.rest)
        feet = [link.name for link in start.body.links if link.name.endswith(".foot")]
        result = pull(start, [Target("head", where(start, "head")[0] + [0.0, -0.4, 0.05])],
                      [Grip(foot, "fast") for foot in feet])  # fmt: skip
        self.assertEqual(result.gave, ())
        for foot in feet:
            np.testing.assert_allclose(result.nodes[start.body.link(foot).node, :3],
                                       where(start, foot)[0], atol=1e-4)  # fmt: skip
