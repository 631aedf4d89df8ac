"""Guessing body plans from names, side marks and shape, and saying what is wrong with a plan."""

from __future__ import annotations

import unittest

from hame.character.bodyplan import BodyPlan, problems
from hame.character.build import build_rig
from hame.character.names import counterpart_name, side_of, words_of
from hame.character.propose import propose
from hame.character.skeleton import Skeleton
from hame.errors import BadPlan
from tests.hame.examples import brannoc, skeleton_of
from tests.hame.foreign import PLACES, foreign_skeleton

# What the nineteen joints of the foreign skeleton would be called in several usual spellings.
SPELLINGS = {
    "words run together": (
        "Hips", "Spine", "Chest", "Neck", "Head", "LeftArm", "LeftForeArm", "LeftHand", "RightArm", "RightForeArm",
        "RightHand",
        "LeftUpLeg", "LeftLeg", "LeftFoot", "LeftToeBase", "RightUpLeg", "RightLeg", "RightFoot", "RightToeBase",
    ),
    "with a namespace": (
        "rig:Hips", "rig:Spine", "rig:Spine1", "rig:Neck", "rig:Head", "rig:LeftArm", "rig:LeftForeArm", "rig:LeftHand",
        "rig:RightArm", "rig:RightForeArm", "rig:RightHand", "rig:LeftUpLeg", "rig:LeftLeg", "rig:LeftFoot",
        "rig:LeftToe",
        "rig:RightUpLeg", "rig:RightLeg", "rig:RightFoot", "rig:RightToe",
    ),
    "small with a side behind": (
        "pelvis", "spine_01", "spine_02", "neck_01", "head", "upperarm_l", "lowerarm_l", "hand_l", "upperarm_r",
        "lowerarm_r",
        "hand_r", "thigh_l", "calf_l", "foot_l", "ball_l", "thigh_r", "calf_r", "foot_r", "ball_r",
    ),
    "a dot before the side": (
        "hips", "spine", "chest", "neck", "head", "upper_arm.L", "forearm.L", "hand.L", "upper_arm.R", "forearm.R",
        "hand.R",
        "thigh.L", "shin.L", "foot.L", "toe.L", "thigh.R", "shin.R", "foot.R", "toe.R",
    ),
    "the side in front": (
        "Pelvis", "Torso", "Chest", "Neck", "Head", "L_UpperArm", "L_Elbow", "L_Wrist", "R_UpperArm", "R_Elbow",
        "R_Wrist",
        "L_Thigh", "L_Knee", "L_Ankle", "L_Toe", "R_Thigh", "R_Knee", "R_Ankle", "R_Toe",
    ),
    "shoulder for the upper arm": (
        "hip", "abdomen", "chest", "neck", "head", "lShoulder", "lForearm", "lHand", "rShoulder", "rForearm", "rHand",
        "lThigh", "lShin", "lFoot", "lToe", "rThigh", "rShin", "rFoot", "rToe",
    ),
}  # fmt: skip
ROLES = (
    "hips", "spine.1", "spine.2", "neck.1", "head", "arm.L.upper", "arm.L.lower", "arm.L.hand", "arm.R.upper",
    "arm.R.lower",
    "arm.R.hand", "leg.L.upper", "leg.L.lower", "leg.L.foot", "leg.L.ball", "leg.R.upper", "leg.R.lower", "leg.R.foot",
    "leg.R.ball",
)  # fmt: skip


def called(names: tuple[str, ...]) -> Skeleton:
    return skeleton_of({name: (names[p] if p >= 0 else None, at) for name, (p, at) in zip(names, PLACES, strict=True)})


class NamesTest(unittest.TestCase):
    def test_the_usual_spellings_are_understood(self) -> None:
        for spelling, names in SPELLINGS.items():
            plan = propose(called(names))
            for role, name in zip(ROLES, names, strict=True):
                self.assertEqual(plan.roles.get(role), name, (spelling, role))
            self.assertEqual(problems(plan, called(names)), {}, spelling)

    def test_words_and_sides(self) -> None:
        self.assertEqual(words_of("rig:LeftUpLeg_01"), ["left", "up", "leg", "01"])
        for name, side in (
            ("hand_l", "L"), ("L_Hand", "L"), ("HandLeft", "L"), ("rFoot", "R"), ("foot.R", "R"), ("RightFoot", "R"),
            ("spine", ""), ("lantern", ""), ("roll", ""), ("ring_finger", ""),
        ):  # fmt: skip
            self.assertEqual(side_of(name), side, name)

    def test_counterparts_keep_the_spelling(self) -> None:
        for name, other in (
            ("hand_l", "hand_r"), ("LeftArm", "RightArm"), ("foot.R", "foot.L"), ("rig:lThigh", "rig:rThigh"),
            ("LEFT_HAND", "RIGHT_HAND"), ("index_1_l", "index_1_r"),
        ):  # fmt: skip
            self.assertEqual(counterpart_name(name), other)
            self.assertEqual(counterpart_name(other), name)
        self.assertIsNone(counterpart_name("spine_01"))


class ShapeTest(unittest.TestCase):
    def test_a_person_without_names_is_found_by_shape(self) -> None:
        plan = propose(foreign_skeleton())
        for role, number in zip(ROLES, range(19), strict=True):
            self.assertEqual(plan.roles.get(role), f"bone_{number}", role)
            self.assertEqual(plan.found_by[role], "shape")

    def test_names_win_over_shape_and_shape_fills_the_gaps(self) -> None:
        names = [f"bone_{n}" for n in range(19)]
        names[0], names[11] = "pelvis", "thigh_l"
        plan = propose(called(tuple(names)))
        self.assertEqual((plan.roles["hips"], plan.found_by["hips"]), ("pelvis", "name"))
        self.assertEqual(plan.roles["leg.R.upper"], "bone_15")

    def test_a_lantern_on_a_chain_gets_no_limbs(self) -> None:
        chain = skeleton_of({f"link_{n}": (f"link_{n - 1}" if n else None, (0, 1.0 - 0.1 * n, 0)) for n in range(6)})
        self.assertEqual(propose(chain).limbs(), [])

    def test_a_proposal_never_starts_with_an_error(self) -> None:
        """Whatever few joints have telling names, what is proposed fits the skeleton."""
        names = SPELLINGS["small with a side behind"]
        for gone in range(19):
            shuffled = tuple(f"part_{n}" if n == gone or n % 5 == gone % 5 else name for n, name in enumerate(names))
            skeleton = called(shuffled)
            found = {role: why for role, why in problems(propose(skeleton), skeleton).items() if role != "hips"}
            self.assertEqual(found, {}, gone)


class ProblemsTest(unittest.TestCase):
    def problems(self, **changes: str | None) -> dict[str, str]:
        roles = dict(propose(brannoc().skeleton).roles)
        for key, joint in changes.items():
            role = key.replace("__", ".")
            if joint is None:
                del roles[role]
            else:
                roles[role] = joint
        return problems(BodyPlan(roles), brannoc().skeleton)

    def test_each_is_said_at_its_role(self) -> None:
        for changes, role, words in (
            ({"hips": None}, "hips", "carries both"),
            ({"head": "hat"}, "head", "no joint called hat"),
            ({"tail__1": "cap"}, "tail.1", "not a role"),
            ({"jaw": "eye_l"}, "eye.L", "already used"),
            ({"arm__L__lower": None}, "arm.L.lower", "arm.L needs lower"),
            ({"spine__2": None}, "spine.2", "gap"),
            ({"leg__L__foot": "cap"}, "leg.L.foot", "does not hang below"),
        ):
            found = self.problems(**changes)  # type: ignore[arg-type]
            self.assertIn(words, found.get(role, ""), (changes, found))

    def test_a_plan_with_problems_builds_no_rig(self) -> None:
        with self.assertRaisesRegex(BadPlan, "carries both"):
            build_rig(brannoc().skeleton, BodyPlan({"head": "head"}))

    def test_joints_in_one_place_are_no_limb(self) -> None:
        places = [*PLACES]
        places[12] = (11, PLACES[11][1])
        skeleton = skeleton_of({f"b{n}": (f"b{p}" if p >= 0 else None, at) for n, (p, at) in enumerate(places)})
        plan = BodyPlan({"hips": "b0", "leg.L.upper": "b11", "leg.L.lower": "b12", "leg.L.foot": "b13"})
        self.assertIn("same place", problems(plan, skeleton)["leg.L.lower"])
