"""Shapes that morph a skin: read from a file, keyed, mirrored, seen and handed off."""

from __future__ import annotations

import json
import struct
import unittest
from dataclasses import replace
from typing import Any

import numpy as np

from hame.character.bodyplan import from_json
from hame.character.build import build_rig
from hame.character.shapes import allowed
from hame.character.skin import Morph, Skin, deform, morphed
from hame.clip.clip import Clip
from hame.clip.curve import from_keys
from hame.edits.edit import Edit
from hame.edits.layers import AddLayer
from hame.edits.making import made
from hame.edits.mirror import MirrorPose
from hame.edits.pose import SetPose
from hame.errors import BadEdit, BadFile, BadPlan
from hame.evaluate.evaluate import channel_values, evaluate, joints
from hame.formats.gltf_read import Character, read_character
from hame.formats.gltf_write import Handed, write_scene
from hame.intake.intake import take_in
from hame.maths import transforms
from hame.maths.rotations import Array
from hame.scene.scene import Figure, Scene
from tests.hame.foreign import foreign_character

NAMES = ("smile_L", "smile_R", "jaw open")


def shaped_skin(names: tuple[str, ...] = NAMES, seed: int = 3) -> Skin:
    """A skin that shapes morph at random, each some points of it."""
    rng = np.random.default_rng(seed)
    _, skin = foreign_character()
    (piece,) = skin.pieces
    morphs = []
    for n in range(len(names)):
        rows = np.sort(rng.choice(len(piece.points), 20, replace=False)).astype(np.uint32)
        moves, turns = (scale * rng.normal(size=(20, 3)).astype(np.float32) for scale in (0.02, 0.1))
        morphs.append(Morph(n, rows, moves, turns))
    amounts = (0.0,) * (len(names) - 1) + (0.25,)
    return Skin((replace(piece, morphs=tuple(morphs)),), skin.inverse_bind, names, amounts)


def shaped_file(amounts: Array | None = None, names: tuple[str, ...] = NAMES) -> bytes:
    skeleton, _ = foreign_character()
    motion = None if amounts is None else np.repeat(skeleton.world[None], len(amounts), axis=0)
    return write_scene([Handed("Limpet", skeleton, shaped_skin(names), motion, amounts)])


def document(data: bytes) -> dict[str, Any]:
    (length,) = struct.unpack_from("<I", data, 12)
    found: dict[str, Any] = json.loads(data[20 : 20 + length])
    return found


def changed(data: bytes, change: Any) -> bytes:
    """The file with another description."""
    (length,) = struct.unpack_from("<I", data, 12)
    found = json.loads(data[20 : 20 + length])
    change(found)
    text = json.dumps(found).encode()
    text += b" " * (-len(text) % 4)
    rest = data[20 + length :]
    head = struct.pack("<IIIII", 0x46546C67, 2, 20 + len(text) + len(rest), len(text), 0x4E4F534A)
    return head + text + rest


class ShapeFileTest(unittest.TestCase):
    def test_they_are_read_by_name_as_they_were_written(self) -> None:
        skin, again = shaped_skin(), read_character(shaped_file()).skin
        self.assertEqual(again.shapes, NAMES)
        np.testing.assert_allclose(again.amounts, (0.0, 0.0, 0.25))
        for one, other in zip(skin.pieces[0].morphs, again.pieces[0].morphs, strict=True):
            np.testing.assert_array_equal(one.rows, other.rows)
            np.testing.assert_allclose(other.moves, one.moves, atol=1e-5)
            np.testing.assert_allclose(other.turns, one.turns, atol=1e-5)

    def test_points_are_the_sum_of_what_shapes_add(self) -> None:
        """glTF 2.0, section 3.7.2.2: the base and each target by its weight, before the skin carries them."""
        (piece,) = shaped_skin().pieces
        amounts = np.array([0.5, -0.25, 2.0])
        dense = piece.points.astype(float)
        for morph, amount in zip(piece.morphs, amounts, strict=True):
            for row, move in zip(morph.rows, morph.moves, strict=True):
                dense[row] += amount * move
        np.testing.assert_allclose(morphed(piece, amounts), dense, atol=1e-9)
        skin = shaped_skin()
        still = np.linalg.inv(skin.inverse_bind)
        np.testing.assert_allclose(deform(piece, still, skin.inverse_bind, amounts), dense, atol=1e-5)
        np.testing.assert_allclose(deform(piece, still, skin.inverse_bind), piece.points, atol=1e-5)

    def test_without_names_and_with_equal_ones_they_are_told_apart(self) -> None:
        bare = changed(shaped_file(), lambda d: d["meshes"][0].pop("extras"))
        self.assertEqual(read_character(bare).skin.shapes, ("shape 1", "shape 2", "shape 3"))
        same = changed(shaped_file(), lambda d: d["meshes"][0].update(extras={"targetNames": ["a", "a", "a"]}))
        self.assertEqual(len(set(read_character(same).skin.shapes)), 3)

    def test_broken_ones_are_refused_in_words(self) -> None:
        def count(d: dict[str, Any]) -> None:
            number = d["meshes"][0]["primitives"][0]["targets"][0]["POSITION"]
            d["accessors"][number]["count"] += 1

        def order(d: dict[str, Any]) -> None:
            number = d["meshes"][0]["primitives"][0]["targets"][0]["POSITION"]
            d["accessors"][number]["sparse"]["indices"]["byteOffset"] = 4
            d["accessors"][number]["sparse"]["count"] += 1

        for change, says in (
            (count, "another number of points"), (order, "cut short|not in their order"),
            (lambda d: d["meshes"][0].update(weights=[0.0]), "amounts of shapes"),
            (lambda d: d["meshes"][0]["primitives"][0].update(targets=[3, 4, 5]), "broken"),
        ):  # fmt: skip
            with self.assertRaisesRegex(BadFile, says):
                read_character(changed(shaped_file(), change))

    def test_points_that_are_told_out_of_order_are_refused(self) -> None:
        """glTF 2.0, section 3.6.2.3: the indices of a sparse accessor rise strictly."""
        skeleton, _ = foreign_character()
        skin = shaped_skin()
        first, *others = skin.pieces[0].morphs
        wrong = (replace(first, rows=first.rows[::-1].copy()), *others)
        data = write_scene([Handed("x", skeleton, replace(skin, pieces=(replace(skin.pieces[0], morphs=wrong),)))])
        with self.assertRaisesRegex(BadFile, "not in their order"):
            read_character(data)

    def test_an_animation_of_them_holds_each_frame(self) -> None:
        amounts = np.random.default_rng(5).random((7, 3))
        found = document(shaped_file(amounts))
        channel = next(c for c in found["animations"][0]["channels"] if c["target"]["path"] == "weights")
        self.assertEqual(found["nodes"][channel["target"]["node"]]["mesh"], 0)
        sampler = found["animations"][0]["samplers"][channel["sampler"]]
        output, times = (found["accessors"][sampler[name]] for name in ("output", "input"))
        self.assertEqual(output["count"], 3 * times["count"])
        np.testing.assert_allclose(found["meshes"][0]["weights"], amounts[0], atol=1e-6)


class ShapeRigTest(unittest.TestCase):
    def setUp(self) -> None:
        self.intake = take_in("Limpet", shaped_file())
        self.character: Character = read_character(self.intake.mesh)
        self.rig = build_rig(self.character.skeleton, self.intake.plan)

    def test_each_is_a_channel_from_0_to_1_at_rest_as_the_file_has_it(self) -> None:
        self.assertEqual([self.rig.addresses[n] for n in self.rig.shape_channels],
                         ["corner.L/smile_L", "corner.R/smile_R", "jaw/jaw open"])  # fmt: skip
        channel = self.rig.channels[self.rig.number("jaw/jaw open")]
        self.assertEqual((channel.rest, channel.low, channel.high), (0.25, 0.0, 1.0))

    def test_the_person_allows_more(self) -> None:
        plan = replace(self.intake.plan, shapes=allowed(self.intake.plan.shapes, {"smile_L": (-0.5, 1.5)}))
        rig = build_rig(self.character.skeleton, from_json(plan.to_json()))
        found = [(rig.channels[n].low, rig.channels[n].high) for n in rig.shape_channels]
        self.assertEqual(found, [(-0.5, 1.5), (0.0, 1.0), (0.0, 1.0)])
        self.assertEqual(allowed(plan.shapes, {})[0][2:], (0.0, 1.0))
        for given, says in (({"grin": (0.0, 1.0)}, "no shape called grin"), ({"smile_L": (0.2, 1.0)}, "from 0 to 1 at"),
                            ({"smile_L": (0.0, 40.0)}, "at most")):  # fmt: skip
            with self.assertRaisesRegex(BadPlan, says):
                allowed(plan.shapes, given)

    def test_they_are_mirrored_by_the_sides_in_their_names(self) -> None:
        self.assertEqual(self.rig.counterpart("corner.L/smile_L"), "corner.R/smile_R")
        self.assertEqual(self.rig.counterpart("jaw/jaw open"), "jaw/jaw open")

    def test_a_pose_of_them_is_swapped_laid_across_and_kept_in_a_layer(self) -> None:
        scene = Scene({1: Figure(self.rig)}, 1, 40)
        posed = made(SetPose(frame=1, values={"corner.L/smile_L": 0.8, "jaw/jaw open": 0.5}), scene, 1).clips[1]

        def after(edit: Edit, clip: Clip = posed) -> list[float]:
            done = made(edit, Scene({1: Figure(self.rig, clip)}, 1, 40), 1).clips[1]
            values = channel_values(self.rig, done, [1])[0, self.rig.shape_channels]
            return [round(float(value), 6) for value in values]

        self.assertEqual(after(MirrorPose(frame=1)), [0.0, 0.8, 0.5])
        self.assertEqual(after(MirrorPose(frame=1, way="left to right")), [0.8, 0.8, 0.5])
        self.assertEqual(after(MirrorPose(frame=1, way="right to left")), [0.0, 0.0, 0.5])
        layered = made(AddLayer(name="More of it"), Scene({1: Figure(self.rig, posed)}, 1, 40), 1).clips[1]
        self.assertEqual(after(SetPose(frame=1, layer=1, values={"corner.R/smile_R": 0.3}), layered), [0.8, 0.3, 0.5])
        with self.assertRaises(BadEdit):
            after(SetPose(frame=1, values={"corner.R/smile_R": 1.3}))

    def test_keyed_they_morph_the_skin_and_come_back_from_a_file(self) -> None:
        clip = Clip({"corner.L/smile_L": from_keys({1: 0.0, 9: 0.8})})
        values = channel_values(self.rig, clip, [1, 5, 9])
        amounts = values[:, self.rig.shape_channels]
        self.assertAlmostEqual(float(amounts[2, 0]), 0.8)
        self.assertTrue(0.0 < amounts[1, 0] < 0.8)
        np.testing.assert_allclose(amounts[:, 2], 0.25)
        motion = joints(self.rig, evaluate(self.rig, values))
        skin = self.character.skin
        data = write_scene([Handed("Limpet", self.character.skeleton, skin, motion, amounts)])
        again = read_character(data)
        np.testing.assert_allclose(again.skin.amounts, amounts[0], atol=1e-5)
        matrices = transforms.to_matrix(motion[2])
        one, other = (deform(s.pieces[0], matrices, s.inverse_bind, amounts[2]) for s in (skin, again.skin))
        np.testing.assert_allclose(one, other, atol=1e-5)

    def test_names_that_mean_something_in_an_address_are_made_plain(self) -> None:
        names = ("brow/up", "~frown", "brow_up")
        taken = take_in("Limpet", shaped_file(names=names))
        rig = build_rig(read_character(taken.mesh).skeleton, taken.plan)
        found = [rig.addresses[n] for n in rig.shape_channels]
        self.assertEqual(found, ["brow.middle/brow_up", "corner/_frown", "brow.middle/brow_up 2"])
        self.assertEqual([rig.channels[n].label for n in rig.shape_channels], list(names))


if __name__ == "__main__":
    unittest.main()
