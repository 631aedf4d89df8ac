"""Where the mass is, what bears it, and the edits that bring one over the other."""

from __future__ import annotations

import unittest

import numpy as np
import pinocchio as pin
from scipy.spatial import ConvexHull

from hame.character.bodyplan import BodyPlan
from hame.character.masses import centre_of_mass, masses_of
from hame.clip.clip import Clip
from hame.clip.curve import from_keys
from hame.clip.plants import Plant
from hame.demo.pulled import PULLED
from hame.demo.scenes import acted
from hame.demo.shots import figure, standing
from hame.edits.making import made
from hame.edits.overrun import MendRun
from hame.edits.pose import set_pose
from hame.edits.pulled import PullPart, ShiftWeight
from hame.errors import BadEdit
from hame.evaluate.evaluate import channel_values, evaluate, overlaid
from hame.evaluate.posed import Posed
from hame.measure.balance import balances, hull, inside, middle_of
from hame.measure.pointing import twists
from hame.scene.scene import Figure, Scene
from tests.hame.examples import brannoc_rig, random_pose
from tests.hame.faulty import alerts
from tests.hame.test_ties import planted


def posed(clip: Clip, last: int = 1, name: str = "brannoc") -> Posed:
    rig = figure(name)[0]
    values = channel_values(rig, clip, range(1, last + 1))
    return Posed(rig, values, evaluate(rig, values))


class MassTest(unittest.TestCase):
    def test_shares_are_those_of_winter(self) -> None:
        """Winter, table 4.1 (after Dempster): head and neck 0.081, trunk 0.497, arm 0.05, leg 0.161 of the body."""
        rig = brannoc_rig()
        masses = masses_of(rig)
        self.assertAlmostEqual(masses.share.sum(), 1.0)
        joint = rig.skeleton.index(rig.plan.roles["head"])
        self.assertAlmostEqual(masses.share[masses.joints == joint].sum(), 0.081)
        leg = [j for j in range(len(rig.skeleton)) if rig.picks[j][0].startswith("leg.L")]
        # The foot's ball takes half of the foot with it; all of it is the leg's.
        self.assertAlmostEqual(masses.share[np.isin(masses.joints, leg)].sum(), 0.161)

    def test_the_centre_is_pinocchio_s_for_the_same_tree(self) -> None:
        rig = brannoc_rig()
        masses = masses_of(rig)
        nodes = evaluate(rig, random_pose(rig, 4)[None])
        model = pin.Model()
        skeleton = rig.skeleton
        ids = {-1: 0}
        turns = []
        world = nodes[0, rig.joint_nodes]
        for j, parent in enumerate(skeleton.parents):
            up = (
                pin.SE3(pin.Quaternion(world[parent, 3:7]).matrix(), world[parent, :3])
                if parent >= 0
                else pin.SE3.Identity()
            )
            own = pin.SE3(pin.Quaternion(world[j, 3:7]).matrix(), world[j, :3])
            local = up.inverse() * own
            ids[j] = model.addJoint(ids[parent], pin.JointModelSpherical(), local, skeleton.names[j])
            turns.append([0.0, 0.0, 0.0, 1.0])
        for joint, share, at in zip(masses.joints, masses.share, masses.at, strict=True):
            inertia = pin.Inertia(float(share), at, 1e-6 * np.eye(3))
            model.appendBodyToJoint(ids[int(joint)], inertia, pin.SE3.Identity())
        theirs = pin.centerOfMass(model, model.createData(), np.array(turns).ravel())
        np.testing.assert_allclose(centre_of_mass(rig, nodes)[0], theirs, atol=1e-9)

    def test_a_creature_weighs_what_its_surface_holds(self) -> None:
        rig = figure("tide-crab")[0]
        self.assertGreater(rig.plan.masses["shell"], 0.5 * sum(rig.plan.masses.values()))
        left, right = (sum(m for n, m in rig.plan.masses.items() if n.endswith(side)) for side in ("_l", "_r"))
        self.assertAlmostEqual(left, right, delta=0.05 * left)

    def test_masses_set_by_hand_go_before(self) -> None:
        rig = brannoc_rig()
        plan = BodyPlan(rig.plan.roles, masses={rig.plan.roles["head"]: 3.0, rig.plan.roles["hips"]: 1.0})
        from hame.character.build import build_rig

        heavy = build_rig(rig.skeleton, plan)
        self.assertGreater(centre_of_mass(heavy, evaluate(heavy, heavy.rest[None]))[0, 1],
                           centre_of_mass(rig, evaluate(rig, rig.rest[None]))[0, 1] + 0.2)  # fmt: skip


class AreaTest(unittest.TestCase):
    def test_the_hull_is_scipy_s(self) -> None:
        rng = np.random.default_rng(1)
        for _ in range(20):
            points = rng.normal(size=(int(rng.integers(4, 30)), 2))
            mine, theirs = hull(points), points[ConvexHull(points).vertices]
            self.assertEqual({tuple(p.round(6)) for p in mine}, {tuple(p.round(6)) for p in theirs})

    def test_margins_by_hand(self) -> None:
        square = np.array([[0.0, 0.0], [2.0, 0.0], [2.0, 1.0], [0.0, 1.0]])
        self.assertAlmostEqual(inside(square, np.array([0.5, 0.4])), 0.4)
        self.assertAlmostEqual(inside(square, np.array([2.3, 0.5])), -0.3)
        self.assertAlmostEqual(inside(square, np.array([2.3, 1.4])), -0.5)
        np.testing.assert_allclose(middle_of(square), [1.0, 0.5])
        line = np.array([[0.0, 0.0], [1.0, 0.0]])
        self.assertAlmostEqual(inside(line, np.array([0.5, 0.2])), -0.2)
        np.testing.assert_allclose(middle_of(line), [0.5, 0.0])

    def test_on_two_feet_on_one_and_in_the_air(self) -> None:
        both = balances(Clip(), posed(Clip()), 1)[0]
        self.assertEqual(set(both.bearing), {"leg.L.goal", "leg.R.goal"})
        self.assertGreater(both.margin or 0, 0.03)
        one = Clip().with_curves({"leg.R.goal/ty": from_keys({1: 0.3})})
        stands = balances(one, posed(one), 1)[0]
        self.assertEqual(stands.bearing, ("leg.L.goal",))
        self.assertLess(stands.margin or 0, 0.0)
        jump = Clip().with_curves({"master/ty": from_keys({1: 0.5})})
        self.assertIsNone(balances(jump, posed(jump), 1)[0].margin)

    def test_a_planted_hand_bears_too(self) -> None:
        clip = planted(Clip().with_curves({"arm.L/ik": from_keys({1: 1.0})}), Plant(1, 9), control="arm.L.goal")
        self.assertIn("arm.L.goal", balances(clip, posed(clip), 1)[0].bearing)


class MendTest(unittest.TestCase):
    def made(self, clip: Clip, edit: PullPart | ShiftWeight | MendRun, name: str = "brannoc") -> Clip:
        return made(edit, Scene({1: Figure(figure(name)[0], clip)}, 1, 60), 1).clips[1]

    def test_a_held_pose_that_would_fall_is_told_and_mended(self) -> None:
        rig = figure("wick")[0]
        lean = set_pose(Clip(), rig, 1, {**standing(), "body/tz": 0.34, "body/ty": -0.12}, "changed").clip
        told = [a for a in alerts(lean, posed(lean, 12, "wick"), 1, 24) if a.kind == "balance"]
        self.assertEqual([(a.first, a.last) for a in told], [(1, 12)])
        self.assertIn("would fall", told[0].says)
        assert isinstance(told[0].mend, MendRun)
        mended = self.made(lean, told[0].mend, "wick")
        after = posed(mended, 12, "wick")
        self.assertEqual([a.kind for a in alerts(mended, after, 1, 24) if a.kind == "balance"], [])
        for limb in rig.limbs:
            if limb.kind == "leg":
                np.testing.assert_allclose(
                    after.nodes[0, limb.end, :3], posed(lean, 1, "wick").nodes[0, limb.end, :3], atol=1e-4
                )

    def test_one_that_moves_is_not_called_falling(self) -> None:
        clip = Clip().with_curves({"body/tz": from_keys({1: 0.0, 12: 0.5}), "body/ty": from_keys({1: -0.15})})
        self.assertEqual([a for a in alerts(clip, posed(clip, 12), 1, 24) if a.kind == "balance"], [])

    def test_nor_one_that_turns_round_beside_its_feet_as_a_pendulum_does(self) -> None:
        """It comes to a halt 4 cm beside them, and falls off again as fast as an upright pendulum over their edge."""
        rig, at = figure("wick")[0], 12
        lean = set_pose(Clip(), rig, 1, {**standing(), "body/tz": 0.34, "body/ty": -0.12}, "changed").clip
        stand = balances(lean, posed(lean, 1, "wick"), 1)[0]
        base = 0.34 + 0.04 + float(stand.margin or 0.0)
        pace = (9.81 / float(stand.centre[1])) ** 0.5 / 24.0
        for far in (0.0, 0.075):  # metres from where it presses; held still with none
            ways = {f: base + far * (float(np.cosh(pace * (f - at))) - 1.0) for f in range(1, 2 * at)}
            sways = lean.with_curves({**lean.curves, "body/tz": from_keys(ways)})
            told = [a for a in alerts(sways, posed(sways, 2 * at - 1, "wick"), 1, 24) if a.kind == "balance"]
            self.assertEqual(bool(told), far == 0.0)

    def test_the_weight_goes_over_one_foot_before_the_other_lifts(self) -> None:
        rig = figure("brannoc")[0]
        start = set_pose(Clip(), rig, 1, standing(), "changed").clip
        shifted = self.made(start, ShiftWeight(frame=1, onto="leg.L.goal"))
        stands = balances(shifted, posed(shifted), 1)[0]
        foot = posed(shifted).nodes[0, rig.limb("leg.L").end]
        self.assertLess(abs(stands.centre[0] - foot[0]), 0.03)
        lifted = shifted.with_curves({"leg.R.goal/ty": from_keys({1: 0.1})})
        self.assertGreater(balances(lifted, posed(lifted), 1)[0].margin or 0, 0.0)

    def test_what_does_not_bear_is_refused(self) -> None:
        jump = Clip().with_curves({"master/ty": from_keys({1: 0.5})})
        with self.assertRaisesRegex(BadEdit, "in the air"):
            self.made(jump, ShiftWeight(frame=1))
        one = Clip().with_curves({"leg.R.goal/ty": from_keys({1: 0.3})})
        with self.assertRaisesRegex(BadEdit, "does not bear"):
            self.made(one, ShiftWeight(frame=1, onto="leg.R.goal"))
        with self.assertRaisesRegex(BadEdit, "nothing has to move"):
            self.made(Clip(), PullPart(frame=1, part="arm.L.hand"))

    def test_an_over_reached_plant_is_mended_by_the_body(self) -> None:
        clip = planted(Clip().with_curves({"body/tz": from_keys({1: 0.0, 20: 0.6})}), Plant(1, 20))
        told = [a for a in alerts(clip, posed(clip, 20), 1, 24) if a.kind == "reach"]
        self.assertEqual(told[0].worst, 20)
        assert isinstance(told[0].mend, MendRun)
        mended = self.made(clip, told[0].mend)
        after = alerts(mended, posed(mended, 20), 1, 24)
        self.assertFalse([a for a in after if a.kind == "reach" and a.control == "leg.L.goal" and a.last == 20])


class PointingTest(unittest.TestCase):
    def test_chest_against_hips_and_face_against_chest(self) -> None:
        rig = figure("brannoc")[0]
        turned = {"hips/ry": -0.1, "chest/ry": 0.3, "head/ry": -0.2, "master/ry": 3.0}
        nodes = evaluate(rig, overlaid(rig, rig.rest, turned)[None])[0]
        chest, face = twists(rig, nodes)
        self.assertAlmostEqual(chest or 0, 0.4)
        self.assertAlmostEqual(face or 0, -0.2)
        crab = figure("tide-crab")[0]
        chest, face = twists(crab, evaluate(crab, overlaid(crab, crab.rest, {"head/ry": 0.5})[None])[0])
        self.assertIsNone(chest)
        self.assertAlmostEqual(face or 0, 0.5)


class DemoTest(unittest.TestCase):
    def test_scenes_of_bodies_that_follow_show_no_fault(self) -> None:
        for plan in PULLED:
            rigs = {name: _rig(name) for name in plan.cast}
            clips = acted(plan, rigs, {name: n + 1 for n, name in enumerate(plan.cast)})
            who = plan.cast[0]
            from hame.scene.joined import played

            figures = {n + 1: Figure(rigs[name], clips[name]) for n, name in enumerate(plan.cast)}
            motion = played(figures, np.arange(1, plan.last + 1))[1]
            self.assertEqual([a.says for a in alerts(clips[who], motion, 1, 24)], [], plan.name)


def _rig(name: str):  # type: ignore[no-untyped-def]
    from tests.hame.examples import prop_rig

    key = name.lower().replace(" ", "-")
    return figure(key)[0] if key in ("brannoc", "wick", "tide-crab") else prop_rig(key.replace("-", "_"))
