"""Knees and elbows: the bend follows root and end together, never turns over, and slows before it is straight."""

from __future__ import annotations

import unittest

import numpy as np

from hame.character.rig import Limb
from hame.evaluate.evaluate import evaluate, joints
from hame.maths import rotations
from tests.hame.examples import brannoc_rig

# American Academy of Orthopaedic Surgeons, 1965: knee 0 to 135, hip flexion 0 to 120 and extension 0 to 30 degrees.
KNEE, HIP_FORWARD, HIP_BACK = 135.0, 120.0, 30.0


class BendTest(unittest.TestCase):
    def setUp(self) -> None:
        self.rig = brannoc_rig()
        self.leg, self.arm = self.rig.limb("leg.L"), self.rig.limb("arm.L")
        rest = evaluate(self.rig, self.rig.rest[None])[0]
        self.home = {limb.name: rest[limb.end, :3] for limb in (self.leg, self.arm)}
        self.root = {limb.name: rest[limb.root, :3] for limb in (self.leg, self.arm)}

    def nodes(self, limb: Limb, places: np.ndarray, **more: float) -> np.ndarray:
        """Nodes (N, ..) with the end of a limb wanted at world places (N, 3), everything else at rest."""
        values = np.tile(self.rig.rest, (len(places), 1))
        values[:, self.rig.number(limb.switch)] = 1.0
        for axis, name in enumerate(("tx", "ty", "tz")):
            values[:, self.rig.number(f"{limb.ik}/{name}")] = places[:, axis] - self.home[limb.name][axis]
        for name, value in more.items():
            values[:, self.rig.number(name.replace("__", "/"))] = value
        return evaluate(self.rig, values)

    def hinge(self, nodes: np.ndarray, limb: Limb) -> np.ndarray:
        return rotations.rotate(nodes[:, limb.upper, 3:7], np.array([1.0, 0.0, 0.0]))

    def thigh(self, nodes: np.ndarray) -> np.ndarray:
        way = nodes[:, self.leg.lower, :3] - nodes[:, self.leg.upper, :3]
        return np.asarray(way / np.linalg.norm(way, axis=1, keepdims=True))

    def behind_and_below(self, step: float) -> np.ndarray:
        """Places of the ankle behind and below the hip that a leg within the joint ranges reaches."""
        rng = np.random.default_rng(3)
        count = int(4000 / step)
        flexion = np.radians(rng.uniform(-HIP_BACK, HIP_FORWARD, count))
        aside, knee = np.radians(rng.uniform(-20, 40, count)), np.radians(rng.uniform(2, KNEE, count))
        l1, l2 = self.leg.lengths
        thigh = np.stack([np.zeros(count), -np.cos(flexion), np.sin(flexion)], 1)
        shank = np.stack([np.zeros(count), -np.cos(flexion - knee), np.sin(flexion - knee)], 1)
        flat = l1 * thigh + l2 * shank
        way = np.stack(
            [np.sin(aside) * -flat[:, 1], np.cos(aside) * flat[:, 1], flat[:, 2]], 1
        )  # the whole leg swung to the side
        return self.root["leg.L"] + way[(flat[:, 1] < 0) & (flat[:, 2] < 0)]

    def test_a_heel_raised_behind_the_body_leaves_the_knee_in_front(self) -> None:
        heights = np.linspace(0.45, 0.62, 18)
        places = self.home["leg.L"] + np.stack([0 * heights, heights, np.full(18, -0.37)], 1)
        thigh = self.thigh(self.nodes(self.leg, places))
        angle = np.degrees(np.arctan2(thigh[:, 2], -thigh[:, 1]))
        self.assertGreater(angle.min(), -HIP_BACK)
        self.assertLess(np.abs(np.diff(angle)).max(), 10)

    def test_the_knee_never_turns_over_where_the_foot_can_go(self) -> None:
        places = self.behind_and_below(1.0)
        self.assertGreater(len(places), 500)
        for turn in (0.0, 0.6, -0.6):  # whichever way the foot heads
            hinge = self.hinge(self.nodes(self.leg, places, **{"leg.L.goal__ry": turn}), self.leg)
            self.assertGreater(hinge[:, 0].min(), 0.0)  # the left leg's hinge points to the left

    def test_the_thigh_is_continuous_in_the_foots_place(self) -> None:
        places = self.behind_and_below(2.0)
        rng = np.random.default_rng(5)
        step = rng.normal(size=places.shape)
        step *= 1e-3 / np.linalg.norm(step, axis=1, keepdims=True)
        a, b = self.thigh(self.nodes(self.leg, places)), self.thigh(self.nodes(self.leg, places + step))
        turned = np.degrees(np.arccos(np.clip((a * b).sum(axis=1), -1, 1)))
        self.assertLess(turned.max(), 5.0)

    def test_the_elbow_never_turns_over_either(self) -> None:
        """Hands in front, at the side and above: the elbow's way is continuous and never leads up over the arm."""
        rng = np.random.default_rng(8)
        way = rng.normal(size=(3000, 3))
        way /= np.linalg.norm(way, axis=1, keepdims=True)
        way = way[(way[:, 2] > -0.3) & (way[:, 0] > -0.6)] * rng.uniform(0.4, 0.95, (1, 1)) * sum(self.arm.lengths)
        places = self.root["arm.L"] + way
        step = rng.normal(size=places.shape)
        step *= 1e-3 / np.linalg.norm(step, axis=1, keepdims=True)
        elbows = []
        for at in (places, places + step):
            nodes = self.nodes(self.arm, at)
            elbow = nodes[:, self.arm.lower, :3] - nodes[:, self.arm.upper, :3]
            elbows.append(elbow / np.linalg.norm(elbow, axis=1, keepdims=True))
        turned = np.degrees(np.arccos(np.clip((elbows[0] * elbows[1]).sum(axis=1), -1, 1)))
        self.assertLess(turned.max(), 5.0)

    def test_a_pole_in_front_is_followed_exactly(self) -> None:
        values = self.rig.rest.copy()
        values[self.rig.number("body/ty")] = -0.25
        values[self.rig.number("leg.L.pole/tx")] = 0.35
        nodes = evaluate(self.rig, values[None])[0]
        root, knee, end = nodes[self.leg.upper, :3], nodes[self.leg.lower, :3], nodes[self.leg.end, :3]
        pole = nodes[self.rig.control("leg.L.pole").node, :3]
        plane = np.cross(knee - root, end - root)
        self.assertAlmostEqual(float(plane @ (pole - root)) / float(np.linalg.norm(plane)), 0.0, places=9)

    def test_the_knee_slows_before_it_is_straight_and_need_not(self) -> None:
        line = self.home["leg.L"] - self.root["leg.L"]
        line /= np.linalg.norm(line)
        reach = np.linspace(0.99, 1.002, 2401) * sum(self.leg.lengths)
        places = self.root["leg.L"] + reach[:, None] * line
        fastest = {}
        for soft in (None, 0.01, 0.0):
            more = {} if soft is None else {"leg.L__soft": soft}
            nodes = self.nodes(self.leg, places, **more)
            upper = rotations.rotate(nodes[:, self.leg.upper, 3:7], np.array([0.0, 1.0, 0.0]))
            lower = rotations.rotate(nodes[:, self.leg.lower, 3:7], np.array([0.0, 1.0, 0.0]))
            bend = np.degrees(np.arctan2(np.linalg.norm(np.cross(upper, lower), axis=1), (upper * lower).sum(axis=1)))
            fastest[soft] = float(np.abs(np.diff(bend)).max() / np.diff(reach)[0] / 1000)  # degrees a millimetre
            off = np.linalg.norm(nodes[:, self.leg.end, :3] - places, axis=1)[reach <= sum(self.leg.lengths)]
            self.assertLess(off.max(), 0.0 + (0.01 if soft is None else soft) * 0.4 * sum(self.leg.lengths) + 1e-9)
        self.assertLess(fastest[0.01], 1.5)
        self.assertLess(fastest[None], 4.0)
        self.assertGreater(fastest[0.0], 8.0)

    def test_the_rest_pose_is_not_softened(self) -> None:
        rest = evaluate(self.rig, self.rig.rest[None])
        np.testing.assert_allclose(joints(self.rig, rest)[0, :, :3], self.rig.skeleton.places, atol=1e-9)
