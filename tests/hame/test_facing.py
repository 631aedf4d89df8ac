"""Bringing in figures that face any way, with names that tell nothing, or with sides that rest otherwise."""

from __future__ import annotations

import unittest

import numpy as np

from hame.character import skeleton as skeletons
from hame.character.bodyplan import BodyPlan
from hame.character.build import build_rig
from hame.character.propose import propose
from hame.character.rig import Rig
from hame.character.skeleton import Skeleton
from hame.character.skin import Skin
from hame.edits.mirror import Mirroring, mirrored_values
from hame.evaluate.evaluate import evaluate, joints
from hame.formats.gltf_read import read_character
from hame.formats.gltf_write import write_character
from hame.intake.facing import evened, heading_of, turned
from hame.intake.intake import take_in, turned_by_hand
from hame.maths import rotations
from tests.hame.examples import BRANNOC, brannoc, random_pose, skeleton_of
from tests.hame.foreign import PLACES, foreign_character, gull, harbour_dog, nameless
from tests.hame.test_bodies import crab

ANY_WAY = (0, 90, 180, 270, 37, -120)
NO_SKIN = Skin((), np.zeros((0, 4, 4)))
PERSON = {f"bone {n}": (f"bone {p}" if p >= 0 else None, at) for n, (p, at) in enumerate(PLACES)}
# The joints of the small person in order, by role.
PERSON_ROLES = dict(enumerate((
    "hips", "spine.1", "spine.2", "neck.1", "head", "arm.L.upper", "arm.L.lower", "arm.L.hand", "arm.R.upper",
    "arm.R.lower",
    "arm.R.hand", "leg.L.upper", "leg.L.lower", "leg.L.foot", "leg.L.ball", "leg.R.upper", "leg.R.lower", "leg.R.foot",
    "leg.R.ball",
)))  # fmt: skip
DOG = {"hips": "hips", "spine": "spine.1", "chest": "spine.2", "neck": "neck.1", "head": "head"} | {
    f"{end}.{part}.{side}": f"{limb}.{side}.{part}"
    for end, limb in (("hind", "leg"), ("fore", "leg2"))
    for side in "LR"
    for part in ("upper", "lower", "foot", "ball")
}
GULL = {"hips": "hips", "chest": "spine.1", "neck": "neck.1", "head": "head"} | {
    f"{end}.{part}.{side}": f"{limb}.{side}.{part}"
    for end, limb, parts in (
        ("wing", "arm", ("upper", "lower", "hand")),
        ("leg", "leg", ("upper", "lower", "foot", "ball")),
    )
    for side in "LR"
    for part in parts
}


def ahead(skeleton: Skeleton) -> Skeleton:
    return turned(skeleton, NO_SKIN, -heading_of(skeleton))[0]


class ShapeAloneTest(unittest.TestCase):
    """Bare numbers for names: every joint gets its role, whichever way the figure faces."""

    def check(self, skeleton: Skeleton, roles: dict[int, str]) -> None:
        for degrees in ANY_WAY:
            found = propose(ahead(nameless(skeleton, degrees))).roles
            self.assertEqual({found.get(role): role for role in roles.values()}, {str(j): r for j, r in roles.items()},
                             degrees)  # fmt: skip

    def test_a_person(self) -> None:
        self.check(skeleton_of(PERSON), PERSON_ROLES)  # type: ignore[arg-type]

    def test_the_whole_keeper_with_fingers_and_face(self) -> None:
        keeper = brannoc().skeleton
        named = propose(keeper).roles
        self.check(keeper, {keeper.index(joint): role for role, joint in named.items()})

    def test_a_dog_on_four_legs(self) -> None:
        skeleton = skeleton_of(harbour_dog())
        self.check(skeleton, {skeleton.index(name): role for name, role in DOG.items()})

    def test_a_gull_with_wings(self) -> None:
        skeleton = skeleton_of(gull())
        self.check(skeleton, {skeleton.index(name): role for name, role in GULL.items()})

    def test_a_crab_whose_front_and_back_are_alike(self) -> None:
        """Nothing tells its front: it has three pairs of legs each way, and sides that are each other's mirror
        image.
        """
        rig = crab()
        for degrees in ANY_WAY:
            found = propose(ahead(nameless(rig.skeleton, degrees)))
            self.assertEqual(len(found.limbs()), 6)
            self.assertEqual(len(found.roles), 19)
            self.assertTrue(build_rig(ahead(nameless(rig.skeleton, degrees)), found).limbs)

    def test_a_level_snake_is_no_error(self) -> None:
        rows = {f"s{n}": (f"s{n - 1}" if n else None, (0.0, 0.05, 0.1 * n)) for n in range(12)}
        skeleton = skeleton_of(rows)  # type: ignore[arg-type]
        plan = propose(ahead(skeleton))
        self.assertEqual(plan.limbs(), [])
        _, skin = foreign_character()
        one = Skin((skin.pieces[0].__class__(**{**skin.pieces[0].__dict__, "joints": skin.pieces[0].joints * 0}),),
                   np.tile(np.eye(4), (12, 1, 1)))  # fmt: skip
        found = take_in("snake", write_character("snake", skeleton, one))
        self.assertEqual((found.card.joints, found.card.controls), (12, 0))
        self.assertIn("hips", found.card.problem)


class NumberedSpineTest(unittest.TestCase):
    def test_a_trunk_that_is_all_called_spine_has_hips_neck_and_head(self) -> None:
        names = ["spine", "spine.001", "spine.002", "spine.003", "spine.004"] + [f"b{n}" for n in range(5, 19)]
        rows = {name: (names[p] if p >= 0 else None, at) for name, (p, at) in zip(names, PLACES, strict=True)}
        roles = propose(skeleton_of(rows)).roles  # type: ignore[arg-type]
        wanted = {
            "hips": "spine",
            "spine.1": "spine.001",
            "spine.2": "spine.002",
            "neck.1": "spine.003",
            "head": "spine.004",
        }
        self.assertEqual({role: roles.get(role) for role in wanted}, wanted)


class FacingTest(unittest.TestCase):
    def places(self, rig: Rig, values: np.ndarray) -> np.ndarray:
        return joints(rig, evaluate(rig, values[None]))[0, :, :3]

    def mirror_is_one(self, rig: Rig) -> None:
        """A random pose and its mirrored channels are mirror images of one another."""
        values = random_pose(rig, 4, 0.3)
        seen = dict(zip(rig.addresses, values, strict=True))
        found, _ = mirrored_values(rig, seen, Mirroring("mirror", "mirror"))
        other = values.copy()
        for address, value in found.items():
            other[rig.number(address)] = value
        a, b = self.places(rig, values), self.places(rig, other)
        for limb in ("arm", "leg"):
            for part in ("upper", "lower", "hand", "foot"):
                left, right = (rig.plan.roles.get(f"{limb}.{side}.{part}") for side in "LR")
                if left and right:
                    j, k = rig.skeleton.index(left), rig.skeleton.index(right)
                    np.testing.assert_allclose(a[j] * [-1, 1, 1], b[k], atol=2e-6, err_msg=part)

    def test_a_file_that_faces_any_way_is_turned_ahead_with_its_skin(self) -> None:
        keeper = brannoc()
        for degrees in ANY_WAY:
            other = turned(keeper.skeleton, keeper.skin, np.radians(degrees))
            taken = take_in("keeper", write_character("keeper", *other))
            found = read_character(taken.mesh)
            self.assertAlmostEqual((taken.plan.facing - degrees + 180) % 360 - 180, 0, places=3)
            np.testing.assert_allclose(found.skeleton.places, keeper.skeleton.places, atol=1e-5)
            np.testing.assert_allclose(found.skin.pieces[0].points, keeper.skin.pieces[0].points, atol=1e-5)
            rig = build_rig(found.skeleton, taken.plan)
            self.mirror_is_one(rig)
            values, foot = rig.rest.copy(), found.skeleton.index("foot_l")
            values[rig.number("body/ty")] = -0.1
            values[rig.number("leg.L.goal/tz")] = 0.1  # "forward" is forward
            np.testing.assert_allclose(
                self.places(rig, values)[foot] - self.places(rig, rig.rest)[foot], [0, 0, 0.1], atol=1e-6
            )

    def test_one_arm_lowered_in_the_file_mirrors_all_the_same(self) -> None:
        skeleton, skin = foreign_character()
        rest = skeleton.rest.copy()
        arm = skeleton.names.index("bone_8")
        rest[arm, 3:7] = rotations.from_axis_angle(np.array([0, 0, 1.0]), 1.0)
        lowered = skeletons.build(skeleton.names, skeleton.parents, rest)
        taken = take_in("person", write_character("person", lowered, skin))
        self.assertIn("arm.R rested otherwise", " ".join(taken.notes))
        found = read_character(taken.mesh)
        np.testing.assert_allclose(found.skeleton.places, skeleton.places, atol=1e-5)
        self.mirror_is_one(build_rig(found.skeleton, taken.plan))

    def test_alike_sides_are_left_alone(self) -> None:
        keeper = brannoc().skeleton
        self.assertEqual(evened(keeper, propose(keeper)).limbs, ())
        self.assertEqual(heading_of(keeper), 0.0)
        self.assertEqual(take_in("Brannoc", BRANNOC.read_bytes()).notes, ())

    def test_a_figure_can_be_turned_by_hand(self) -> None:
        mesh = turned_by_hand("keeper", BRANNOC.read_bytes(), 90)
        toe = read_character(mesh).skeleton
        way = toe.places[toe.index("toe_l")] - toe.places[toe.index("foot_l")]
        self.assertGreater(way[0], 0.1)

    def test_a_body_without_a_plan_has_no_rig_and_is_no_error(self) -> None:
        rows = {f"link_{n}": (f"link_{n - 1}" if n else None, (0, 1.0 - 0.1 * n, 0)) for n in range(6)}
        self.assertEqual(propose(skeleton_of(rows)), BodyPlan({}, {}))  # type: ignore[arg-type]
