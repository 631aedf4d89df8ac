"""Skeletons, body plans and errors on their own."""

from __future__ import annotations

import unittest

import numpy as np

from hame.character import bodyplan, skeleton
from hame.character.bodyplan import BodyPlan
from hame.errors import BadEdit, BadFile, BadPlan, HameError
from hame.maths import rotations, transforms
from tests.hame.examples import brannoc, brannoc_rig, skeleton_of

CHAIN = skeleton_of({"a": (None, (0, 1, 0)), "b": ("a", (0, 2, 0)), "c": ("b", (0, 2, 1)), "d": ("a", (1, 1, 0))})


class SkeletonTest(unittest.TestCase):
    def test_places_come_out_of_rest_transforms_that_turn(self) -> None:
        quarter = rotations.from_axis_angle(np.array([0, 0, 1.0]), np.pi / 2)
        rest = np.array([transforms.transform(np.zeros(3), quarter), transforms.transform(np.array([1.0, 0, 0]))])
        turned = skeleton.build(["root", "tip"], [-1, 0], rest)
        np.testing.assert_allclose(turned.places, [[0, 0, 0], [0, 1, 0]], atol=1e-12)

    def test_who_hangs_below_whom(self) -> None:
        self.assertEqual(CHAIN.children, ((1, 3), (2,), (), ()))
        self.assertTrue(CHAIN.is_above(0, 2))
        self.assertFalse(CHAIN.is_above(3, 2))
        self.assertFalse(CHAIN.is_above(2, 2))
        self.assertEqual(CHAIN.chain(0, 2), [0, 1, 2])
        with self.assertRaises(ValueError):
            CHAIN.chain(3, 2)

    def test_json_and_back(self) -> None:
        again = skeleton.from_json(CHAIN.to_json())
        self.assertEqual((again.names, again.parents), (CHAIN.names, CHAIN.parents))
        np.testing.assert_array_equal(again.rest, CHAIN.rest)

    def test_a_skeleton_that_is_none_is_refused(self) -> None:
        rest = np.tile(transforms.IDENTITY, (2, 1))
        for names, parents, words in (
            (["a", "a"], [-1, 0], "same name"),
            (["a", "b"], [-1, -1], "one root"),
            (["a", "b"], [1, -1], "before its parent"),
        ):
            with self.assertRaisesRegex(BadFile, words):
                skeleton.build(names, parents, rest)

    def test_it_cannot_be_changed_in_place(self) -> None:
        with self.assertRaises(ValueError):
            CHAIN.rest[0, 0] = 5.0

    def test_every_refusal_is_one_kind_of_error_with_a_sentence(self) -> None:
        for kind in (BadEdit, BadFile, BadPlan):
            self.assertTrue(issubclass(kind, HameError))
            self.assertEqual(str(kind("the lamp is out")), "the lamp is out")


class BodyPlanTest(unittest.TestCase):
    def test_numbered_roles_come_in_order_and_limbs_are_named_once(self) -> None:
        plan = BodyPlan(
            {
                "spine.10": "j",
                "spine.2": "b",
                "spine.1": "a",
                "leg2.R.foot": "x",
                "leg.L.foot": "y",
                "leg2.R.upper": "z",
            }
        )
        self.assertEqual(plan.numbered("spine"), ["a", "b", "j"])
        self.assertEqual(plan.limbs(), ["leg.L", "leg2.R"])
        self.assertEqual(bodyplan.limb_kind("leg2.R"), "leg")

    def test_json_and_back_with_soles(self) -> None:
        plan = brannoc_rig().plan
        again = bodyplan.from_json(plan.to_json())
        self.assertEqual(dict(again.roles), dict(plan.roles))
        self.assertEqual(list(again.soles["leg.L"]["heel"]), list(plan.soles["leg.L"]["heel"]))

    def test_soles_lie_on_the_ground_heel_behind_and_toe_before_the_ankle(self) -> None:
        character, plan = brannoc(), brannoc_rig().plan
        for side in "lr":
            sole = plan.soles[f"leg.{side.upper()}"]
            ankle = character.skeleton.places[character.skeleton.index(f"foot_{side}")]
            heel, tip = np.array(sole["heel"]), np.array(sole["tip"])
            self.assertLess(abs(heel[1]), 0.01)
            self.assertLess(heel[2], ankle[2] - 0.03)
            self.assertGreater(tip[2], ankle[2] + 0.15)
            # Source: Drillis and Contini 1966: foot length 0.152 of height; his sea boots are a little longer than
            # that.
            self.assertTrue(0.152 * 1.75 < np.linalg.norm(tip - heel) < 0.2 * 1.75)

    def test_feet_alike_get_soles_alike(self) -> None:
        soles = brannoc_rig().plan.soles
        for end in ("heel", "tip"):
            np.testing.assert_allclose(np.array(soles["leg.L"][end]) * [-1, 1, 1], soles["leg.R"][end], atol=1e-12)


class RigLookupsTest(unittest.TestCase):
    def test_what_is_not_there_is_said(self) -> None:
        rig = brannoc_rig()
        for ask, words in ((rig.control, "no control"), (rig.number, "no channel"), (rig.limb, "no limb")):
            with self.assertRaisesRegex(BadEdit, words):
                ask("lantern")
        self.assertFalse(rig.has_control("lantern"))
        self.assertFalse(rig.has_channel("lantern/tx"))

    def test_every_channel_belongs_to_its_control_in_order(self) -> None:
        rig = brannoc_rig()
        for control in rig.controls:
            for number, channel in enumerate(rig.channels_of(control.name)):
                self.assertEqual(channel.control, control.name)
                self.assertEqual(rig.number(channel.address), control.first + number)
                self.assertTrue(channel.low <= channel.rest <= channel.high)
            if control.posed:
                names = [c.name for c in rig.channels_of(control.name)[:6]]
                self.assertEqual(names, ["tx", "ty", "tz", "rx", "ry", "rz"])

    def test_what_carries_a_control_comes_before_it(self) -> None:
        rig = brannoc_rig()
        seen: set[str] = set()
        for control in rig.controls:
            self.assertTrue(
                control.parent in seen or control.parent in ("", control.name) or rig.has_control(control.parent)
            )
            seen.add(control.name)
        operations = rig.program.ops
        filled: set[int] = set()
        for row in operations.tolist():
            code, out, a, b, c = row[:5]
            used = {0: [a], 1: [a], 2: [a, b, c], 3: [a, b, c], 4: [a], 5: [a], 6: [a, b]}[code]
            self.assertTrue(all(node < 0 or node in filled for node in used), row)
            filled |= {out, out + 1} if code in (2, 4) else {out}
        self.assertEqual(len(filled), rig.program.nodes)

    def test_both_sides_have_the_same_controls_with_the_same_limits(self) -> None:
        rig = brannoc_rig()
        for control in rig.controls:
            if control.side != "L":
                continue
            other = rig.control(control.other)
            self.assertEqual(
                (other.side, other.kind, other.count, other.mode), ("R", control.kind, control.count, control.mode)
            )
            for here, there in zip(rig.channels_of(control.name), rig.channels_of(other.name), strict=True):
                self.assertEqual(
                    (rig.counterpart(here.address), here.locked, here.mirror, here.unit),
                    (there.address, there.locked, there.mirror, there.unit),
                )
                self.assertAlmostEqual(
                    here.low if np.isfinite(here.low) else 0, there.low if np.isfinite(there.low) else 0, places=5
                )

    def test_every_joint_can_be_taken_hold_of(self) -> None:
        rig = brannoc_rig()
        for name, (fk, ik) in zip(rig.skeleton.names, rig.picks, strict=True):
            self.assertTrue(rig.has_control(fk) and rig.has_control(ik), name)
        self.assertEqual(rig.picks[rig.skeleton.index("shin_l")], ("leg.L.lower", "leg.L.goal"))
        self.assertEqual(rig.picks[rig.skeleton.index("index_2_r")][0], "arm.R.index")
