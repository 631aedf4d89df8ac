"""Faces: zones told by names and places, made of joints or shapes or both, and expressions that are mixed."""

from __future__ import annotations

import unittest
from dataclasses import replace

import numpy as np
from scipy.optimize import lsq_linear

from hame.character.bodyplan import BodyPlan, Zone, from_json
from hame.character.build import build_rig
from hame.character.face import check_face, label_of, outline_of, proposed, still_there, zone_called
from hame.character.free import moves_of
from hame.character.rig import Rig
from hame.character.shapes import shapes_of
from hame.character.skeleton import Skeleton, build
from hame.character.skin import Material, Morph, Piece, Skin
from hame.clip.clip import Clip
from hame.demo.expressions import EXPRESSIONS, expression, face_values, gull_keeper
from hame.demo.shots import figure
from hame.edits.expressions import Express, Mixed, differences, shares_of
from hame.edits.making import made
from hame.edits.mirror import MirrorPose
from hame.edits.pose import SetPose
from hame.errors import BadEdit, BadPlan
from hame.evaluate.evaluate import channel_values, evaluate, joints
from hame.maths import transforms
from hame.maths.rotations import Array
from hame.scene.scene import Figure, Scene, StoredPose

JOINTS = {
    "hips": (None, (0, 1, 0)), "head": ("hips", (0, 1.6, 0)), "eye_l": ("head", (0.03, 1.66, 0.09)),
    "eye_r": ("head", (-0.03, 1.66, 0.09)), "browInner_L": ("head", (0.02, 1.69, 0.1)),
    "browInner_R": ("head", (-0.02, 1.69, 0.1)), "f_01_l": ("head", (0.026, 1.6, 0.1)),
    "f_01_r": ("head", (-0.026, 1.6, 0.1)), "flap_l": ("head", (0.05, 1.69, 0.09)),
    "flap_r": ("head", (-0.05, 1.69, 0.09)), "g_01_l": ("head", (0.04, 1.6, 0.1)),
    "g_02_l": ("g_01_l", (0.04, 1.5, 0.1)),
    "g_01_r": ("head", (-0.04, 1.6, 0.1)), "g_02_r": ("g_01_r", (-0.04, 1.5, 0.1)),
}  # fmt: skip
NAMES = ("lidShut_L", "lidShut_R", "form7", "browInnerUp_L")


def skeleton() -> Skeleton:
    names = list(JOINTS)
    rest = [
        transforms.transform(np.array(at, float) - (np.zeros(3) if up is None else np.array(JOINTS[up][1], float)))
        for up, at in JOINTS.values()
    ]
    return build(names, [-1 if up is None else names.index(up) for up, _ in JOINTS.values()], np.array(rest))


def skin() -> Skin:
    """A head of a few points, of which each shape moves one: two at the eyes, one at the chin, one at a brow."""
    points = np.array(
        [[0.03, 1.668, 0.1], [-0.03, 1.668, 0.1], [0, 1.565, 0.1], [0.018, 1.69, 0.1], [0, 1.75, 0]], np.float32
    )
    weights = np.zeros((5, 4), np.float32)
    weights[:, 0] = 1.0
    morphs = tuple(
        Morph(n, np.array([n], np.uint32), np.array([[0, -0.01, 0]], np.float32), np.zeros((1, 3), np.float32))
        for n in range(4)
    )
    piece = Piece(points, np.zeros((5, 3), np.float32), np.array([[0, 1, 2], [1, 3, 4]], np.uint32),
                  np.full((5, 4), 1, np.uint16), weights, Material("skin"), None, morphs)  # fmt: skip
    return Skin((piece,), transforms.to_matrix(transforms.inverse(skeleton().world)), NAMES, (0.0,) * 4)


def plan() -> BodyPlan:
    roles = {"hips": "hips", "head": "head", "eye.L": "eye_l", "eye.R": "eye_r"}
    return replace(BodyPlan(roles), shapes=shapes_of(skin()))


class ZonesTest(unittest.TestCase):
    def test_names_tell_zones_and_sides(self) -> None:
        """Ways of naming that are usual (common practice, no source)."""
        told = {
            "browInnerUp": "brow.inner", "LeftBrowOuter": "brow.L.outer", "eyeBlinkRight": "lid.R.upper",
            "EyeSquint_L": "lid.L.lower", "cheekPuff": "cheek", "noseSneerLeft": "nose.L", "mouthSmile_R": "corner.R",
            "mouthPucker": "mouth", "lip_upper_l": "lip.L.upper", "jawOpen": "jaw", "tongue_02": "tongue",
            "pupil_r": "pupil.R", "hair_03": "", "scarf_1": "",
        }  # fmt: skip
        self.assertEqual({name: zone_called(name) for name in told}, told)

    def test_where_names_do_not_tell_places_do(self) -> None:
        face = proposed(plan(), skeleton(), skin()).face
        self.assertEqual(face["corner.L"].joints, ("f_01_l",))  # by place, as its counterpart is there
        self.assertEqual(face["corner.R"].joints, ("f_01_r",))
        self.assertEqual(face["jaw"].shapes, ("form7",))
        self.assertEqual(face["brow.L.inner"], Zone(("browInner_L",), ("browInnerUp_L",), face["brow.L.inner"].at))
        mine = [joint for zone in face.values() for joint in zone.joints]
        self.assertNotIn("flap_l", mine)  # ears are no brows
        self.assertNotIn("g_01_l", mine)  # and what hangs in rows is hair
        np.testing.assert_allclose(face["lid.L.upper"].at, (0.03, 1.668, 0.1), atol=1e-6)

    def test_a_plan_comes_back_from_its_file(self) -> None:
        found = proposed(plan(), skeleton(), skin())
        self.assertEqual(from_json(found.to_json()).face, found.face)
        self.assertEqual(from_json({"roles": {"hips": "hips"}}).face, {})  # one from before there were faces

    def test_what_cannot_be_is_refused(self) -> None:
        for face, words in (
            ({"ear.L": Zone(("flap_l",))}, "no zone called ear.L"),
            ({"cheek.L": Zone(("eye_l",))}, "is eye.L already"),
            ({"cheek.L": Zone(("nothing",))}, "no joint called nothing"),
            ({"cheek.L": Zone((), ("nothing",))}, "no shape called nothing"),
            ({"cheek.L": Zone(("flap_l",)), "nose": Zone(("flap_l",))}, "in cheek.L and in nose"),
            ({"jaw": Zone(("flap_l",))}, "of its role in the body"),
        ):
            with self.subTest(words), self.assertRaisesRegex(BadPlan, words):
                check_face(replace(plan(), face=face), skeleton())

    def test_a_joint_that_has_a_role_now_leaves_its_zone(self) -> None:
        face = {"cheek.L": Zone(("flap_l",)), "nose": Zone(("f_01_l",), ("form7",))}
        roles = {**plan().roles, "jaw": "flap_l", "neck.1": "f_01_l"}
        self.assertEqual(still_there(face, replace(plan(), roles=roles)), {"nose": Zone((), ("form7",))})

    def test_labels(self) -> None:
        self.assertEqual([label_of(z) for z in ("brow.L.inner", "corner.R", "lid.upper", "jaw")],
                         ["left brow inner", "right mouth corner", "lids upper", "jaw"])  # fmt: skip


class FaceRigTest(unittest.TestCase):
    def setUp(self) -> None:
        self.plan = proposed(plan(), skeleton(), skin())
        self.rig = build_rig(skeleton(), self.plan)

    def test_a_zone_is_one_control_of_joint_and_shapes(self) -> None:
        brow = self.rig.control("brow.L.inner")
        self.assertEqual((brow.part, brow.side, brow.posed, brow.other), ("face", "L", True, "brow.R.inner"))
        self.assertIn("brow.L.inner/browInnerUp_L", self.rig.addresses)
        self.assertEqual([self.rig.addresses[n] for n in self.rig.shape_channels], [
            "lid.L.upper/lidShut_L", "lid.R.upper/lidShut_R", "jaw/form7", "brow.L.inner/browInnerUp_L",
        ])  # fmt: skip

    def test_a_joint_of_a_face_moves_and_its_place_is_mirrored(self) -> None:
        values = self.rig.rest.copy()
        for address, value in (("corner.L/tx", 0.01), ("corner.L/ty", 0.02)):
            values[self.rig.number(address)] = value
        left = self._place(values, "f_01_l") - self._place(self.rig.rest, "f_01_l")
        np.testing.assert_allclose(left, (0.01, 0.02, 0.0), atol=1e-9)
        keyed = made(SetPose(frame=1, values={"corner.L/tx": 0.01, "corner.L/ty": 0.02}), self._scene(), 0).clips[0]
        other = made(MirrorPose(frame=1), self._scene(keyed), 0).clips[0]
        right = self._place(channel_values(self.rig, other, [1])[0], "f_01_r") - self._place(self.rig.rest, "f_01_r")
        np.testing.assert_allclose(right, (-0.01, 0.02, 0.0), atol=1e-9)

    def test_it_moves_as_a_person_lets_it(self) -> None:
        rig = build_rig(skeleton(), replace(self.plan, free={"f_01_l": {"tx": (-0.001, 0.002)}}))
        channel = rig.channels[rig.number("corner.L/tx")]
        self.assertEqual((channel.low, channel.high), (-0.001, 0.002))
        self.assertTrue(rig.channels[rig.number("corner.L/ty")].locked)
        self.assertEqual(moves_of(rig, "f_01_l"), {"tx": (-0.001, 0.002)})

    def test_what_is_of_one_side_by_its_name_is_mirrored_between_zones(self) -> None:
        self.assertEqual(self.rig.counterpart("lid.L.upper/lidShut_L"), "lid.R.upper/lidShut_R")
        self.assertEqual(self.rig.counterpart("jaw/form7"), "jaw/form7")

    def test_the_outline_goes_round_the_head(self) -> None:
        outline = np.array(outline_of(self.plan, skeleton(), skin()))
        self.assertAlmostEqual(float(np.ptp(outline[:, 0])), 0.06, 6)
        self.assertEqual(outline_of(BodyPlan({"base": "hips"}), skeleton(), skin()), [])

    def _place(self, values: Array, joint: str) -> Array:
        return np.asarray(joints(self.rig, evaluate(self.rig, values[None]))[0, skeleton().index(joint), :3])

    def _scene(self, clip: Clip | None = None) -> Scene:
        return Scene({0: Figure(self.rig, clip or Clip())})


class ExpressionsTest(unittest.TestCase):
    def setUp(self) -> None:
        self.rig: Rig = figure("brannoc")[0]
        self.poses = {
            n: StoredPose(expression(self.rig, name), 0.9, name) for n, name in enumerate(EXPRESSIONS, 1)
        }  # fmt: skip
        self.names = {name: n for n, name in enumerate(EXPRESSIONS, 1)}
        self.scene = Scene({0: Figure(self.rig, Clip())}, library=self.poses)

    def test_several_are_mixed_by_their_shares(self) -> None:
        mixed = (Mixed(self.names["Smiling"], 0.5), Mixed(self.names["Worried"], 0.4))
        clip = made(Express(frame=9, mixed=mixed), self.scene, 0).clips[0]
        seen = channel_values(self.rig, clip, [9])[0]
        for address, value in face_values(self.rig, ("Smiling", 0.5), ("Worried", 0.4)).items():
            self.assertAlmostEqual(seen[self.rig.number(address)], value, 9, address)

    def test_more_of_one_leaves_the_others_as_they_are(self) -> None:
        held = made(
            SetPose(frame=9, values=face_values(self.rig, ("Eyes shut", 1.0), ("Squinting", 0.3))), self.scene, 0
        )
        scene = replace(self.scene, figures={0: Figure(self.rig, held.clips[0])})
        more = Express(frame=9, mixed=(Mixed(self.names["Smiling"], 0.5, 0.0),))
        clip = made(more, scene, 0).clips[0]
        before, after = (channel_values(self.rig, one, [9])[0] for one in (held.clips[0], clip))
        smile = expression(self.rig, "Smiling")
        for n, address in enumerate(self.rig.addresses):
            wanted = np.clip(before[n] + 0.5 * smile.get(address, 0.0), self.rig.low[n], self.rig.high[n])
            self.assertAlmostEqual(after[n], wanted, 9, address)

    def test_what_none_of_them_moves_stays(self) -> None:
        before = made(SetPose(frame=9, values={"eye.L/ry": 0.3, "head/rx": 0.2}), self.scene, 0).clips[0]
        scene = replace(self.scene, figures={0: Figure(self.rig, before)})
        clip = made(Express(frame=9, mixed=(Mixed(self.names["Smiling"], 1.0),)), scene, 0).clips[0]
        seen = channel_values(self.rig, clip, [9])[0]
        self.assertAlmostEqual(seen[self.rig.number("eye.L/ry")], 0.3)
        self.assertAlmostEqual(seen[self.rig.number("head/rx")], 0.2)

    def test_shares_are_read_back_from_a_face(self) -> None:
        """As SciPy's ``lsq_linear`` with bounds finds them too."""
        moved = [differences(self.rig, pose) for pose in self.poses.values()]
        wanted = [0.0, 0.35, 0.0, 0.6, 0.0, 0.0, 0.25]
        seen = self.rig.rest.copy()
        for one, share in zip(moved, wanted, strict=True):
            for address, by in one.items():
                seen[self.rig.number(address)] += share * by
        np.testing.assert_allclose(shares_of(self.rig, seen, moved), wanted, atol=1e-9)
        seen[self.rig.shape_channels] += 0.05 * np.sin(np.arange(len(self.rig.shape_channels)))
        used = sorted({address for one in moved for address in one})
        numbers = [self.rig.number(address) for address in used]
        most = np.array([max(abs(one.get(a, 0.0)) for one in moved) for a in used])
        table = np.array([[one.get(a, 0.0) for one in moved] for a in used]) / most[:, None]
        found = lsq_linear(table, (seen - self.rig.rest)[numbers] / most, (0.0, np.inf)).x
        np.testing.assert_allclose(shares_of(self.rig, seen, moved), found, atol=1e-5)

    def test_refusals(self) -> None:
        with self.assertRaisesRegex(BadEdit, "150 percent"):
            made(Express(frame=1, mixed=(Mixed(1, 2.0),)), self.scene, 0)
        with self.assertRaisesRegex(BadEdit, "not in the library"):
            made(Express(frame=1, mixed=(Mixed(99, 1.0),)), self.scene, 0)
        hand = replace(self.scene, library={1: StoredPose({"arm.L.index/curl": 1.0}, 0.9, "Fist")})
        with self.assertRaisesRegex(BadEdit, "moves anything of this face"):
            made(Express(frame=1, mixed=(Mixed(1, 1.0),)), hand, 0)

    def test_a_startle_goes_through_the_face_part_by_part(self) -> None:
        """Eyes before the mouth, the jaw last (common practice, no source)."""
        clip = gull_keeper(self.rig)
        frames = np.arange(20, 30)
        values = channel_values(self.rig, clip, frames)

        def begins(address: str) -> int:
            mine = np.abs(values[:, self.rig.number(address)])
            return int(frames[np.argmax(mine >= 0.5 * mine.max())])

        self.assertLess(begins("lid.L.upper/eye_wide_l"), begins("jaw/mouth_open"))
        self.assertLess(begins("jaw/mouth_open") - 1, begins("jaw/rx") + 1)


def lidded_rig() -> Rig:
    """A face whose lids are joints that lie above and below its eyes."""
    places = {
        f"lid_{part}_{s}": (x, y, 0.11)
        for s, x in (("l", 0.03), ("r", -0.03))
        for part, y in (("upper", 1.67), ("lower", 1.65))
    }
    joints = {**JOINTS, **{name: ("head", place) for name, place in places.items()}}
    names = list(joints)
    rest = [
        transforms.transform(np.array(at, float) - (np.zeros(3) if up is None else np.array(joints[up][1], float)))
        for up, at in joints.values()
    ]
    found = build(names, [-1 if up is None else names.index(up) for up, _ in joints.values()], np.array(rest))
    return build_rig(found, proposed(replace(plan(), shapes=()), found, Skin((), np.zeros((0, 4, 4)))))
