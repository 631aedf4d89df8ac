"""Momenta and what is asked of the ground, held against Pinocchio, and by hand."""

from __future__ import annotations

import unittest
from dataclasses import replace

import numpy as np
import pinocchio as pin
from scipy.spatial.transform import Rotation

from hame.character.masses import centre_of_mass, masses_of
from hame.demo.shots import figure
from hame.evaluate.evaluate import evaluate
from hame.maths.rotations import Array
from hame.measure.balance import Balance, inside, margins_of
from hame.measure.bearing import borne_in_motion
from hame.measure.dynamics import GRAVITY, Dynamics, dynamics, steadied
from tests.hame.examples import brannoc_rig
from tests.hame.free_tree import Swing, model_of, nodes_of

FINE = 4000.0  # frames a second: of a smooth motion, differences between such are as good as derivatives


class AgainstPinocchioTest(unittest.TestCase):
    def close(self, ours: Array, theirs: Array) -> None:
        self.assertLess(float(np.abs(ours - theirs).max()), 1e-6 * max(1.0, float(np.abs(theirs).max())))

    def test_momenta_their_change_and_the_force_of_the_ground(self) -> None:
        for rig, name in ((brannoc_rig(), "brannoc"), (figure("tide-crab")[0], "crab")):
            model, ids = model_of(rig)
            data = model.createData()
            for seed in range(4):
                with self.subTest(name, seed=seed):
                    swing = Swing(len(ids), seed)
                    times = [0.3 + n / FINE for n in (-1, 0, 1)]
                    found = dynamics(rig, nodes_of(rig, model, ids, [swing.at(t)[0] for t in times]), FINE)
                    q, v, a = swing.at(times[1])
                    pin.computeCentroidalMomentumTimeVariation(model, data, q, v, a)
                    self.close(found.centre[1], data.com[0])
                    self.close(found.velocity[1], data.hg.linear)
                    self.close(found.spin[1], data.hg.angular)
                    self.close(found.acceleration[1], data.dhg.linear)
                    self.close(found.moment[1], data.dhg.angular)
                    self.ground(found, pin.rnea(model, data, q, v, a), q)

    def ground(self, found: Dynamics, asked: Array, q: Array) -> None:
        """The force and moment at the root that the motion asks for, as a force where we say that it presses."""
        turn = Rotation.from_quat(q[3:7])
        force, moment = turn.apply(asked[:3]), turn.apply(asked[3:6])
        self.close(found.force[1], force)
        x, z = found.pressure[1]
        at = np.array([x, 0.0, z]) - q[:3]
        given = np.cross(at, found.force[1]) + [0.0, found.twist[1], 0.0]
        # It lies far away where little presses: as exact as the place is far.
        self.assertLess(float(np.abs(given - moment).max()), 1e-6 * max(1.0, float(np.abs(at).max())) * 10.0)


class ByHandTest(unittest.TestCase):
    def setUp(self) -> None:
        self.rig = brannoc_rig()
        self.rest = np.zeros((1, self.rig.program.nodes, 8))
        self.rest[0, self.rig.joint_nodes] = self.rig.skeleton.world

    def moved(self, by: Array) -> Array:
        nodes = np.repeat(self.rest, len(by), axis=0)
        nodes[..., :3] += by[:, None]
        return nodes

    def test_who_stands_is_borne_under_the_mass_by_the_weight(self) -> None:
        found = dynamics(self.rig, self.moved(np.zeros((5, 3))), 24.0)
        centre = centre_of_mass(self.rig, self.rest)[0]
        np.testing.assert_allclose(found.force, np.tile([0.0, GRAVITY, 0.0], (5, 1)), atol=1e-9)
        np.testing.assert_allclose(found.pressure, np.tile(centre[[0, 2]], (5, 1)), atol=1e-9)
        np.testing.assert_allclose(found.spin, 0.0, atol=1e-12)

    def test_who_falls_freely_asks_for_nothing(self) -> None:
        times = np.arange(8) / 24.0
        way = np.zeros((8, 3))
        way[:, 0], way[:, 1] = 1.5 * times, 2.0 * times - 0.5 * GRAVITY * times**2
        found = dynamics(self.rig, self.moved(way), 24.0)
        np.testing.assert_allclose(found.force, 0.0, atol=1e-9)
        self.assertTrue(np.isnan(found.pressure).all() and np.isnan(found.twist).all())
        np.testing.assert_allclose(found.velocity[1:-1, 0], 1.5, atol=1e-9)

    def test_who_speeds_up_is_borne_behind_the_mass(self) -> None:
        """With no turn the force goes through the mass: its foot lies a h / g behind."""
        times = np.arange(6) / 24.0
        way = np.zeros((6, 3))
        way[:, 2] = 0.5 * 2.0 * times**2
        found = dynamics(self.rig, self.moved(way), 24.0)
        behind = found.centre[:, 2] - found.pressure[:, 1]
        np.testing.assert_allclose(behind, 2.0 * found.centre[:, 1] / GRAVITY, atol=1e-9)

    def test_on_a_step_the_foot_of_the_force_lies_nearer(self) -> None:
        """With no turn the force goes through the mass: nearer to its ground, a body is borne less far behind."""
        times = np.arange(6) / 24.0
        way = np.zeros((6, 3))
        way[:, 2] = 0.5 * 2.0 * times**2
        found = dynamics(self.rig, self.moved(way), 24.0, level=np.full(6, 0.4))
        behind = found.centre[:, 2] - found.pressure[:, 1]
        np.testing.assert_allclose(behind, 2.0 * (found.centre[:, 1] - 0.4) / GRAVITY, atol=1e-9)

    def test_who_falls_over_a_foot_is_borne_by_that_in_motion(self) -> None:
        """The linear inverted pendulum: a mass that stays level and goes as cosh(w t), w being the root of g / h, is
        borne by one point always (Kajita et al., "The 3D linear inverted pendulum mode", IROS 2001, from memory).
        """
        fps = 240.0
        centre = centre_of_mass(self.rig, self.rest)[0]
        times = np.arange(-120, 121) / fps
        way = np.zeros((len(times), 3))
        way[:, 2] = 0.08 * np.cosh(np.sqrt(GRAVITY / centre[1]) * times)
        found = dynamics(self.rig, self.moved(way), fps)
        foot = np.array([[-0.1, -0.05], [0.1, -0.05], [0.1, 0.05], [-0.1, 0.05]]) + centre[[0, 2]]
        stands = [Balance(at, foot, inside(foot, at[[0, 2]]), ("leg.L.goal",)) for at in found.centre]
        self.assertLess(min(stand.margin or 0.0 for stand in stands), -0.1)
        np.testing.assert_allclose(margins_of(stands, found.pressure)[1:-1], 0.05, atol=1e-4)
        flying = [replace(stand, area=np.zeros((0, 2)), margin=None) for stand in stands]
        self.assertTrue(np.isnan(margins_of(flying, found.pressure)).all())
        self.assertTrue(np.isnan(margins_of(stands, np.full((len(stands), 2), np.nan))).all())

    def test_who_leans_over_by_speeding_up_weighs_on_the_other_foot(self) -> None:
        """Sped up to the left by a, the force's foot goes right by a h / g: of two feet the right one bears more."""
        self.rest = evaluate(self.rig, self.rig.rest[None])
        ends = {limb.ik: self.rest[0, limb.end] for limb in self.rig.limbs if limb.kind == "leg"}
        self.assertEqual(set(ends), {"leg.L.goal", "leg.R.goal"})
        wide = abs(float(ends["leg.L.goal"][0] - ends["leg.R.goal"][0]))
        times = np.arange(6) / 24.0
        way = np.zeros((6, 3))
        way[:, 0] = 0.5 * 0.6 * times**2
        nodes = self.moved(way)
        found = dynamics(self.rig, nodes, 24.0)
        stand = Balance(found.centre[0], np.zeros((0, 2)), None, ("leg.L.goal", "leg.R.goal"))
        pressure = found.pressure.copy()
        pressure[5] = np.nan
        *moving, flying = borne_in_motion(self.rig, nodes, [stand] * 6, pressure)
        self.assertEqual(flying, {})
        moved = 0.6 * found.centre[0, 1] / GRAVITY / wide
        for shares in moving:
            self.assertAlmostEqual(sum(shares.values()), 1.0)
            self.assertAlmostEqual(shares["leg.R.goal"], 0.5 + moved, 3)

    def test_a_body_that_turns_as_one_has_the_momentum_of_its_inertia(self) -> None:
        masses = masses_of(self.rig)
        centre = centre_of_mass(self.rig, self.rest)[0]
        times = np.arange(5) / 240.0
        nodes = np.repeat(self.rest, 5, axis=0)
        for f, t in enumerate(times):
            turn = Rotation.from_rotvec([0.0, 3.0 * t, 0.0])
            nodes[f, :, :3] = turn.apply(self.rest[0, :, :3] - centre) + centre
            own = Rotation.from_quat(self.rig.skeleton.world[:, 3:7])
            nodes[f, self.rig.joint_nodes, 3:7] = (turn * own).as_quat()
        found = dynamics(self.rig, nodes, 240.0)
        world = Rotation.from_quat(self.rig.skeleton.world[masses.joints, 3:7])
        at = self.rig.skeleton.world[masses.joints, :3] + world.apply(masses.at) - centre
        own = world.as_matrix() @ masses.spread @ np.swapaxes(world.as_matrix(), 1, 2)
        upright = float((masses.share * (at[:, 0] ** 2 + at[:, 2] ** 2 + own[:, 1, 1])).sum())
        np.testing.assert_allclose(found.spin[:, 1], 3.0 * upright, rtol=1e-4)
        np.testing.assert_allclose(found.moment[:, 1], 0.0, atol=1e-6)

    def test_a_body_twice_as_large_has_four_times_the_momentum(self) -> None:
        """Of the same weight: moments of inertia go with the square of the size."""
        times = np.arange(4) / 240.0
        nodes = np.repeat(self.rest, 4, axis=0)
        own = Rotation.from_quat(self.rig.skeleton.world[:, 3:7])
        for f, t in enumerate(times):
            turn = Rotation.from_rotvec([2.0 * t, 0.0, 0.0])
            nodes[f, :, :3] = turn.apply(self.rest[0, :, :3])
            nodes[f, self.rig.joint_nodes, 3:7] = (turn * own).as_quat()
        large = nodes.copy()
        large[..., :3] *= 2.0
        large[..., 7] *= 2.0
        small, found = (dynamics(self.rig, each, 240.0) for each in (nodes, large))
        np.testing.assert_allclose(found.spin, 4.0 * small.spin, rtol=1e-9, atol=1e-12)

    def test_what_changes_too_fast_to_be_seen_is_taken_out_and_nothing_else(self) -> None:
        """There and back a Butterworth filter of the second order leaves 1 / (1 + (f / c)^4) of a frequency."""
        fps, cut = 240.0, 6.0
        times = np.arange(960) / fps
        for hertz in (0.5, 6.0, 20.0):
            sway = np.zeros((960, 3))
            sway[:, 0] = 0.02 * np.cos(2.0 * np.pi * hertz * times)
            raw = dynamics(self.rig, self.moved(sway), fps)
            found = steadied(raw, fps, cut)
            inner = slice(240, 720)
            left = np.ptp(found.acceleration[inner, 0]) / np.ptp(raw.acceleration[inner, 0])
            self.assertAlmostEqual(left, 1.0 / (1.0 + (hertz / cut) ** 4), delta=0.01)
            high = found.centre[inner, 1] / GRAVITY
            np.testing.assert_allclose(
                found.pressure[inner, 0], found.centre[inner, 0] - found.acceleration[inner, 0] * high, atol=1e-6
            )  # fmt: skip
            np.testing.assert_array_equal(found.velocity, raw.velocity)
        self.assertIs(steadied(raw, 12.0, cut), raw)
        short = dynamics(self.rig, self.moved(np.zeros((3, 3))), 24.0)
        np.testing.assert_allclose(steadied(short, 24.0, cut).force, short.force, atol=1e-9)

    def test_two_frames_are_no_motion(self) -> None:
        with self.assertRaises(ValueError):
            dynamics(self.rig, self.moved(np.zeros((2, 3))), 24.0)


class SpreadTest(unittest.TestCase):
    def test_parts_are_spread_as_de_leva_measured(self) -> None:
        """Of the length of a part: the upper arm 0.285 and 0.269 across, 0.158 about itself; the thigh 0.329, 0.329 and
        0.149; the trunk as a whole 0.328, 0.306 and 0.169 (de Leva 1996, table 4, men; from memory).
        """
        rig = brannoc_rig()
        masses, skeleton = masses_of(rig), rig.skeleton
        for near, far, radii in (
            ("arm.L.upper", "arm.L.lower", (0.285, 0.269, 0.158)),
            ("leg.R.upper", "leg.R.lower", (0.329, 0.329, 0.149)),
        ):
            a, b = (skeleton.index(rig.plan.roles[role]) for role in (near, far))
            length = np.linalg.norm(skeleton.places[b] - skeleton.places[a])
            spread = masses.spread[masses.joints.tolist().index(a)]
            np.testing.assert_allclose(
                np.sqrt(np.linalg.eigvalsh(spread)), np.sort(np.array(radii) * length), rtol=1e-6
            )  # fmt: skip
        trunk = [n for n, j in enumerate(masses.joints) if rig.picks[j][0] in ("hips", "spine", "spine.2", "chest")]
        share, at, spread = (x[trunk] for x in (masses.share, masses.at, masses.spread))
        world = Rotation.from_quat(skeleton.world[masses.joints[trunk], 3:7])
        places = skeleton.world[masses.joints[trunk], :3] + world.apply(at)
        turned = world.as_matrix() @ spread @ np.swapaxes(world.as_matrix(), 1, 2)
        self.assertAlmostEqual(float(share.sum()), 0.497, 6)
        centre = (share[:, None] * places).sum(axis=0) / share.sum()
        out = places - centre
        whole = np.einsum("m,mij->ij", share, turned) + sum(
            s * (o @ o * np.eye(3) - np.outer(o, o)) for s, o in zip(share, out, strict=True)
        )
        top = skeleton.places[skeleton.index(rig.plan.roles["neck.1"])]
        length = float(np.linalg.norm(top - skeleton.places[skeleton.index(rig.plan.roles["hips"])]))
        found = np.sqrt(np.diag(whole) / share.sum()) / length
        # Its spine is bent a little at rest: so as good as the bend is small.
        np.testing.assert_allclose(found, (0.306, 0.169, 0.328), rtol=0.03)

    def test_a_plan_that_tells_nothing_of_the_spread_takes_a_ball(self) -> None:
        rig = figure("tide-crab")[0]
        plan = replace(rig.plan, spreads={})
        bare = masses_of(replace(rig, plan=plan))
        for n, joint in enumerate(bare.joints):
            mass = rig.plan.masses[rig.skeleton.names[joint]]
            radius = (3.0 * mass / 4000.0 / np.pi) ** (1.0 / 3.0)
            np.testing.assert_allclose(bare.spread[n], 0.4 * radius**2 * np.eye(3), rtol=1e-9)


if __name__ == "__main__":
    unittest.main()
