"""The rig: kinematics against Pinocchio, limbs, mirrored axes, foot roll, and matching IK with FK."""

from __future__ import annotations

import unittest

import numpy as np
import pinocchio as pin
from scipy.spatial.transform import Rotation

from hame.character.bodyplan import FINGERS, BodyPlan
from hame.character.build import build_rig
from hame.character.propose import propose
from hame.evaluate.evaluate import controls, evaluate, joints
from hame.maths import rotations, transforms
from hame.solve.match import match
from tests.hame.examples import brannoc, brannoc_rig, random_pose

# By role, the control that turns its joint in FK, where it is called otherwise.
FK_CONTROLS = {
    **{f"spine.{n}": name for n, name in ((1, "spine"), (2, "spine.2"), (3, "chest"))},
    "neck.1": "neck",
    **{f"leg.{side}.ball": f"leg.{side}.toe" for side in "LR"},
    **{f"arm.{side}.{finger}.1": f"arm.{side}.{finger}" for side in "LR" for finger in FINGERS},
}


def joint_places(values: np.ndarray) -> np.ndarray:
    rig = brannoc_rig()
    return joints(rig, evaluate(rig, values[None]))[0, :, :3]


class EvaluationTest(unittest.TestCase):
    def setUp(self) -> None:
        self.rig = brannoc_rig()
        self.skeleton = self.rig.skeleton

    def place(self, values: np.ndarray, joint: str) -> np.ndarray:
        return joint_places(values)[self.skeleton.index(joint)]

    def test_at_rest_every_joint_is_where_the_file_has_it(self) -> None:
        for mode in (0.0, 1.0):
            values = self.rig.rest.copy()
            for limb in self.rig.limbs:
                values[self.rig.number(limb.switch)] = mode
            np.testing.assert_allclose(joint_places(values), self.skeleton.places, atol=1e-9)

    def test_joints_agree_with_pinocchio(self) -> None:
        """Source: Pinocchio's forward kinematics of the same tree; SciPy's Rotation makes its turns of the channels.

        In FK every joint is turned about itself by the control it is named after, in that control's axes: nothing
        here is taken from our own evaluation.
        """
        rng = np.random.default_rng(4)
        values = self.rig.rest.copy()
        for limb in self.rig.limbs:
            values[self.rig.number(limb.switch)] = 0.0
        turned: dict[str, Rotation] = {}
        for role, joint in self.rig.plan.roles.items():
            control = FK_CONTROLS.get(role, role)
            if not self.rig.has_control(control) or role in ("hips", "root") or ".twist" in role:
                continue
            found = self.rig.control(control)
            angles = {}
            for channel in self.rig.channels_of(control)[3:6]:
                angle = 0.0 if channel.locked else float(np.clip(rng.normal(0, 0.5), channel.low, channel.high))
                # A hand's own twist is shared with the forearm: left out, so that the joint there rests.
                angle = 0.0 if control.endswith(".hand") else angle
                values[self.rig.number(channel.address)] = angle
                angles["XYZ"["xyz".index(channel.name[1])]] = angle
            own = Rotation.from_euler(found.order, [angles[axis] for axis in found.order])
            axes = Rotation.from_quat(self.rest_axes(found.name))
            turned[joint] = axes * own * axes.inv()
        place = np.array([0.11, -0.05, 0.23])
        carried = Rotation.from_euler("YXZ", [0.7, -0.2, 0.3])
        for name, value in zip(("tx", "ty", "tz", "ry", "rx", "rz"), (*place, 0.7, -0.2, 0.3), strict=True):
            values[self.rig.number(f"body/{name}")] = value
        model = pin.Model()
        ids = {-1: 0}
        q: list[float] = []
        for j, parent in enumerate(self.skeleton.parents):
            rest, world, name = self.skeleton.rest[j], self.skeleton.world[j], self.skeleton.names[j]
            at = pin.SE3(pin.Quaternion(rest[3:7]).matrix(), rest[:3])
            if name == "pelvis":  # carried by the body, which stands on the root
                ids[j] = model.addJoint(ids[parent], pin.JointModelFreeFlyer(), pin.SE3.Identity(), name)
                turn = carried * Rotation.from_quat(world[3:7])
                q += [*(rest[:3] + place), *turn.as_quat()]
                continue
            ids[j] = model.addJoint(ids[parent], pin.JointModelSpherical(), at, name)
            own = Rotation.from_quat(world[3:7])
            q += [*(own.inv() * turned.get(name, Rotation.identity()) * own).as_quat()]
        data = model.createData()
        pin.forwardKinematics(model, data, np.array(q))
        ours = joints(self.rig, evaluate(self.rig, values[None]))[0]
        self.assertGreater(len(turned), 25)
        for j, name in enumerate(self.skeleton.names):
            np.testing.assert_allclose(data.oMi[ids[j]].translation, ours[j, :3], atol=1e-9, err_msg=name)

    def rest_axes(self, control: str) -> np.ndarray:
        """The axes of a control in the rest pose: its frame's, which stands as its joint's parent does, and its own."""
        found = self.rig.control(control)
        rest = evaluate(self.rig, self.rig.rest[None])[0]
        return np.asarray(rest[found.node, 3:7])

    def test_frames_asked_for_together_are_the_same_as_alone(self) -> None:
        values = np.stack([random_pose(self.rig, n) for n in range(101)])  # enough to be shared out over cores
        together = evaluate(self.rig, values)
        for n in range(101):
            np.testing.assert_array_equal(evaluate(self.rig, values[n : n + 1])[0], together[n])

    def test_bones_keep_their_length_in_any_pose(self) -> None:
        bones = [(j, p) for j, p in enumerate(self.skeleton.parents)
                 if p >= 0 and self.skeleton.names[p] != "root"]  # fmt: skip
        rest = [np.linalg.norm(self.skeleton.places[j] - self.skeleton.places[p]) for j, p in bones]
        for seed in range(10):
            for blend in (0.0, 0.37, 1.0):
                values = random_pose(self.rig, seed)
                for limb in self.rig.limbs:
                    values[self.rig.number(limb.switch)] = blend
                places = joint_places(values)
                now = [np.linalg.norm(places[j] - places[p]) for j, p in bones]
                np.testing.assert_allclose(now, rest, atol=1e-9)

    def test_lowering_the_body_bends_the_knees_and_leaves_the_feet(self) -> None:
        values = self.rig.rest.copy()
        values[self.rig.number("body/ty")] = -0.2
        for side in "lr":
            for joint in (f"foot_{side}", f"ball_{side}"):
                np.testing.assert_allclose(self.place(values, joint), self.place(self.rig.rest, joint), atol=1e-9)
            self.assertGreater(
                self.place(values, f"shin_{side}")[2], self.place(self.rig.rest, f"shin_{side}")[2] + 0.1
            )

    def test_an_ik_goal_in_reach_is_reached(self) -> None:
        rng = np.random.default_rng(8)
        for _ in range(50):
            values = self.rig.rest.copy()
            values[self.rig.number("leg.L.goal/ty")] = rng.uniform(0.05, 0.6)
            values[self.rig.number("leg.L.goal/tz")] = rng.uniform(-0.3, 0.3)
            wanted = self.place(self.rig.rest, "foot_l") + [
                0, values[self.rig.number("leg.L.goal/ty")], values[self.rig.number("leg.L.goal/tz")]
            ]  # fmt: skip
            np.testing.assert_allclose(self.place(values, "foot_l"), wanted, atol=1e-9)

    def test_a_limb_is_steady_at_full_stretch_and_defined_when_folded_up(self) -> None:
        """At full stretch a step of a micrometre never moves the knee by more than a few millimetres."""
        hip, ankle = self.place(self.rig.rest, "thigh_l"), self.place(self.rig.rest, "foot_l")
        limb = self.rig.limb("leg.L")
        for reach in (sum(limb.lengths), 1e-5, abs(limb.lengths[0] - limb.lengths[1])):
            last = None
            for step in np.arange(-5, 6) * 1e-6:
                values = self.rig.rest.copy()
                goal = hip + (ankle - hip) / np.linalg.norm(ankle - hip) * (reach + step)
                for axis, name in enumerate(("tx", "ty", "tz")):
                    values[self.rig.number(f"leg.L.goal/{name}")] = goal[axis] - ankle[axis]
                knee = self.place(values, "shin_l")
                self.assertTrue(np.isfinite(joint_places(values)).all())
                if last is not None and reach > 0.1:
                    self.assertLess(np.linalg.norm(knee - last), 4e-3)
                last = knee

    def test_the_bend_goes_towards_the_pole(self) -> None:
        values = self.rig.rest.copy()
        values[self.rig.number("body/ty")] = -0.25
        straight = self.place(values, "shin_l")
        values[self.rig.number("leg.L.pole/tx")] = 0.4
        self.assertGreater(self.place(values, "shin_l")[0], straight[0] + 0.05)

    def test_the_master_carries_turns_and_scales_everything(self) -> None:
        values = random_pose(self.rig, 2)
        names = ("tx", "ty", "tz", "rx", "ry", "rz")
        for name in names:
            values[self.rig.number(f"master/{name}")] = 0.0
        before = joints(self.rig, evaluate(self.rig, values[None]))[0]
        carried = values.copy()
        for name, value in zip(names, (1.0, 0.2, -2.0, 0.3, 0.7, -0.2), strict=True):
            carried[self.rig.number(f"master/{name}")] = value
        carried[self.rig.number("master/s")] = 1.5
        outer = transforms.transform(
            np.array([1.0, 0.2, -2.0]), rotations.from_euler(np.array([0.7, 0.3, -0.2]), "YXZ"), 1.5
        )
        after = joints(self.rig, evaluate(self.rig, carried[None]))[0]
        np.testing.assert_allclose(after[:, :3], transforms.apply(outer, before[:, :3]), atol=1e-9)

    def test_foot_roll_pivots_on_heel_ball_and_toe(self) -> None:
        rest = {j: self.place(self.rig.rest, j) for j in ("foot_l", "ball_l", "toe_l")}
        for degrees, fixed, risen in ((30, "ball_l", "foot_l"), (39, "toe_l", "foot_l")):
            values = self.rig.rest.copy()
            values[self.rig.number("leg.L.goal/roll")] = np.radians(degrees)
            np.testing.assert_allclose(self.place(values, fixed), rest[fixed], atol=1e-9)
            self.assertGreater(self.place(values, risen)[1], rest[risen][1] + 0.03)
        values[self.rig.number("leg.L.goal/roll")] = np.radians(
            60
        )  # 20 past the break: 40 over the tip, 20 over the ball
        self.assertGreater(self.place(values, "ball_l")[1], rest["ball_l"][1] + 0.03)
        values[self.rig.number("leg.L.goal/roll")] = np.radians(-30)
        self.assertGreater(self.place(values, "toe_l")[1], rest["toe_l"][1] + 0.05)
        heel = np.array(self.rig.plan.soles["leg.L"]["heel"])
        foot = self.skeleton.index("foot_l")
        posed = joints(self.rig, evaluate(self.rig, values[None]))[0, foot]
        carried = transforms.apply(posed, transforms.apply(transforms.inverse(self.skeleton.world[foot]), heel))
        np.testing.assert_allclose(carried, heel, atol=1e-9)

    def test_equal_turns_and_mirrored_moves_look_the_same_in_the_mirror(self) -> None:
        """A pose given to both sides with the table's signs is symmetrical to within rounding."""
        rng = np.random.default_rng(6)
        values = self.rig.rest.copy()
        for n, channel in enumerate(self.rig.channels):
            control = self.rig.control(channel.control)
            if channel.locked or control.side != "L":
                continue
            values[n] = np.clip(channel.rest + rng.normal(0, 0.1), channel.low, channel.high)
            other = self.rig.counterpart(channel.address)
            assert other is not None
            values[self.rig.number(other)] = values[n] * channel.mirror
        places = joint_places(values)
        for j, name in enumerate(self.skeleton.names):
            if name.endswith("_l"):
                other = places[self.skeleton.index(name[:-2] + "_r")]
                np.testing.assert_allclose(places[j] * [-1, 1, 1], other, atol=1e-9, err_msg=name)

    def test_changing_between_ik_and_fk_moves_nothing(self) -> None:
        for seed in range(8):
            values = random_pose(self.rig, seed)
            for limb in self.rig.limbs:
                values[self.rig.number(limb.switch)] = seed % 2
                for to in ("fk", "ik", "fk"):
                    matched = match(self.rig, values, limb, to)  # type: ignore[arg-type]
                    np.testing.assert_allclose(joint_places(matched), joint_places(values), atol=1e-6)
                    self.assertEqual(matched[self.rig.number(limb.switch)], 1.0 if to == "ik" else 0.0)
                    values = matched

    def test_the_forearm_twist_takes_a_share_of_the_hands(self) -> None:
        values = self.rig.rest.copy()
        values[self.rig.number("arm.L.hand/ry")] = 1.0
        pose = joints(self.rig, evaluate(self.rig, values[None]))[0]
        j = self.skeleton.index("forearm_twist_l")
        turned = rotations.multiply(pose[j, 3:7], rotations.inverse(self.skeleton.world[j, 3:7]))
        self.assertAlmostEqual(2 * np.arccos(min(1.0, abs(turned[3]))), 0.55, delta=0.02)

    def test_control_axes_are_told_with_their_parents(self) -> None:
        found = controls(self.rig, evaluate(self.rig, random_pose(self.rig, 1)[None]))
        self.assertEqual(found.shape, (1, len(self.rig.controls), 12))
        np.testing.assert_allclose(np.linalg.norm(found[0, :, 8:12], axis=-1), 1.0, atol=1e-12)


class BlendTest(unittest.TestCase):
    def test_no_joint_jumps_on_the_way_from_fk_to_ik_however_far_apart_they_are(self) -> None:
        """Half a turn is the most that two turns can be apart: a thousandth of the blend turns a joint by little."""
        rig, shares = brannoc_rig(), np.linspace(0.0, 1.0, 1001)
        for seed in (0, 4, 9, 11, 30, 62, 120, 121):
            pose = random_pose(rig, seed, spread=2.5)
            for limb in rig.limbs:
                values = np.tile(pose, (len(shares), 1))
                values[:, rig.number(limb.switch)] = shares
                turns = joints(rig, evaluate(rig, values))[:, :, 3:7]
                cosines = np.abs((turns[1:] * turns[:-1]).sum(axis=-1)).clip(0.0, 1.0)
                self.assertLess(np.degrees(2.0 * np.arccos(cosines)).max(), 1.0, f"{seed} {limb.name}")


class RigTest(unittest.TestCase):
    def test_a_locked_channel_says_why_and_a_limb_says_what_it_is_for(self) -> None:
        rig = brannoc_rig()
        self.assertIn("hinge", rig.channels[rig.number("arm.L.lower/rz")].locked)
        self.assertIn("IK", rig.channels[rig.number("leg.L/ik")].purpose)
        self.assertEqual(rig.rest[rig.number("leg.L/ik")], 1.0)  # common practice, no source: legs start in IK
        self.assertEqual(rig.rest[rig.number("arm.L/ik")], 0.0)  # and arms in FK

    def test_counterparts_lead_back(self) -> None:
        rig = brannoc_rig()
        for control in rig.controls:
            self.assertEqual(rig.control(control.other).other, control.name)

    def test_a_control_with_all_below_it(self) -> None:
        rig = brannoc_rig()
        below = rig.below("chest")
        self.assertIn("arm.L.index", below)
        self.assertNotIn("leg.L.goal", below)
        self.assertEqual(len(rig.below("master")), len(rig.controls))

    def test_segment_lengths_follow_drillis_and_contini(self) -> None:
        """Source: Drillis and Contini 1966, in Winter: thigh 0.245, shank 0.246, upper arm 0.186, forearm 0.146 of
        height.
        """
        s = brannoc().skeleton
        for a, b, share in (("thigh_l", "shin_l", 0.245), ("shin_l", "foot_l", 0.246),
                            ("upper_arm_l", "forearm_l", 0.186), ("forearm_l", "hand_l", 0.146)):  # fmt: skip
            length = np.linalg.norm(s.places[s.index(a)] - s.places[s.index(b)])
            self.assertAlmostEqual(length / 1.75, share, delta=0.004)

    def test_a_rig_without_most_roles_still_poses_every_joint(self) -> None:
        skeleton = brannoc().skeleton
        rig = build_rig(skeleton, BodyPlan({"hips": "pelvis"}))
        places = joints(rig, evaluate(rig, rig.rest[None]))[0, :, :3]
        np.testing.assert_allclose(places, skeleton.places, atol=1e-9)
        self.assertTrue(rig.has_control("forearm_l"))
        self.assertEqual(rig.control("forearm_l").other, "forearm_r")

    def test_the_proposal_finds_the_whole_keeper(self) -> None:
        roles = propose(brannoc().skeleton).roles
        self.assertEqual(roles["leg.L.lower"], "shin_l")
        self.assertEqual(roles["arm.R.little.3"], "little_3_r")
        self.assertGreaterEqual(len(brannoc().skeleton), 65)
