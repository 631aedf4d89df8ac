"""Reading and writing glTF 2.0, held against the formulas of its specification."""

from __future__ import annotations

import unittest
from typing import Any

import numpy as np
from scipy.spatial.transform import Rotation, Slerp

from hame.character.skin import Material, Piece, Skin, deform
from hame.clip.clip import Clip
from hame.clip.curve import from_keys
from hame.evaluate.evaluate import channel_values, evaluate, joints
from hame.formats.glb import Writer, parse
from hame.formats.gltf_read import read_character
from hame.formats.gltf_write import write_character
from hame.maths import transforms
from tests.hame.broken_files import changed, join, split
from tests.hame.examples import BRANNOC, brannoc, brannoc_rig, random_pose
from tests.hame.foreign import foreign_character

PIXEL = (
    b"\x89PNG\r\n\x1a\n\x00\x00\x00\rIHDR\x00\x00\x00\x01\x00\x00\x00\x01\x08\x02\x00\x00\x00\x90wS\xde"
    b"\x00\x00\x00\x0cIDATx\x9cc\xf8\xcf\xc0\x00\x00\x03\x01\x01\x00\xc9\xfe\x92\xef\x00\x00\x00\x00IEND\xaeB`\x82"
)


def moving() -> tuple[np.ndarray, bytes]:
    """The keeper's joints (F, J, 8) over nine frames, and the file that holds them."""
    rig, character = brannoc_rig(), brannoc()
    a, b = random_pose(rig, 21), random_pose(rig, 22)
    curves = {
        c.address: from_keys({1: float(a[n]), 9: float(b[n])}) for n, c in enumerate(rig.channels) if not c.locked
    }
    motion = joints(rig, evaluate(rig, channel_values(rig, Clip().with_curves(curves), range(1, 10))))
    return motion, write_character("Brannoc", character.skeleton, character.skin, motion, 24.0)


class SkinningTest(unittest.TestCase):
    """Source: glTF 2.0 specification, section 3.7.3.3: the weighted sum of joint matrix times inverse bind matrix."""

    def test_at_rest_the_skin_is_where_it_was_bound(self) -> None:
        character = brannoc()
        matrices = transforms.to_matrix(character.skeleton.world)
        for piece in character.skin.pieces:
            moved = deform(piece, matrices, character.skin.inverse_bind)
            np.testing.assert_allclose(moved, piece.points, atol=1e-5)

    def test_a_vertex_follows_the_weighted_sum_written_out(self) -> None:
        character = brannoc()
        rig = brannoc_rig()
        world = joints(rig, evaluate(rig, random_pose(rig, 7)[None]))[0]
        matrices = transforms.to_matrix(world)
        piece = character.skin.pieces[0]
        moved = deform(piece, matrices, character.skin.inverse_bind)
        for vertex in range(0, len(piece.points), 97):
            sum_of = np.zeros((4, 4))
            for joint, weight in zip(piece.joints[vertex], piece.weights[vertex], strict=True):
                sum_of += weight * matrices[joint] @ character.skin.inverse_bind[joint]
            expected = sum_of @ np.append(piece.points[vertex], 1.0)
            np.testing.assert_allclose(moved[vertex], expected[:3], atol=1e-6)

    def test_the_keeper_s_skin_is_well_made(self) -> None:
        """One closed skin of 6,000 to 16,000 triangles, at most four weights a point, summing to one."""
        skin = brannoc().skin
        self.assertTrue(6_000 <= skin.triangle_count <= 16_000)
        edges: dict[tuple[bytes, bytes], int] = {}
        for piece in skin.pieces:
            np.testing.assert_allclose(piece.weights.sum(1), 1.0, atol=1e-5)
            self.assertEqual(piece.weights.shape[1], 4)
            names = [p.tobytes() for p in np.round(piece.points, 6) + 0.0]
            for a, b, c in piece.triangles.tolist():
                for pair in ((a, b), (b, c), (c, a)):
                    low, high = sorted(names[n] for n in pair)
                    edges[low, high] = edges.get((low, high), 0) + 1
        open_edges = sum(1 for count in edges.values() if count == 1)
        self.assertLess(open_edges / len(edges), 0.002)


class ReadingTest(unittest.TestCase):
    def test_a_written_character_reads_back_the_same(self) -> None:
        skeleton, skin = foreign_character()
        again = read_character(write_character("Tide hand", skeleton, skin))
        self.assertEqual(again.skeleton.names, skeleton.names)
        self.assertEqual(again.skeleton.parents, skeleton.parents)
        np.testing.assert_allclose(again.skeleton.world, skeleton.world, atol=1e-6)
        np.testing.assert_allclose(again.skin.inverse_bind, skin.inverse_bind, atol=1e-6)
        np.testing.assert_array_equal(again.skin.pieces[0].triangles, skin.pieces[0].triangles)
        np.testing.assert_allclose(again.skin.pieces[0].points, skin.pieces[0].points)
        self.assertEqual(again.skin.pieces[0].material.colour[:3], tuple(np.float64([0.3, 0.45, 0.5])))

    def test_a_texture_goes_through_untouched(self) -> None:
        skeleton, skin = foreign_character()
        plain = skin.pieces[0]
        uvs = np.random.default_rng(1).random((len(plain.points), 2)).astype(np.float32)
        piece = Piece(plain.points, plain.normals, plain.triangles, plain.joints, plain.weights,
                      Material("painted", image=PIXEL, double_sided=True, alpha_mode="BLEND"), uvs)  # fmt: skip
        again = read_character(write_character("x", skeleton, Skin((piece,), skin.inverse_bind))).skin.pieces[0]
        self.assertEqual(again.material.image, PIXEL)
        self.assertEqual((again.material.double_sided, again.material.alpha_mode), (True, "BLEND"))
        np.testing.assert_allclose(again.uvs, uvs)

    def test_an_even_scale_above_the_skeleton_is_worked_in_and_the_surface_stays(self) -> None:
        """Files made in centimetres carry a node scaled by 0.01; places come out in metres, joints without scale."""

        def in_centimetres(d: dict[str, Any]) -> None:
            for node in d["nodes"]:
                if "translation" in node:
                    node["translation"] = [100 * v for v in node["translation"]]
            d["nodes"].append({"name": "armature", "scale": [0.01] * 3, "children": [0]})
            d["scenes"][0]["nodes"] = [len(d["nodes"]) - 1, len(d["nodes"]) - 2]

        document, binary = split(BRANNOC.read_bytes())
        in_centimetres(document)
        # The bind matrices now lead into joints that are a hundred times as large.
        accessor = document["accessors"][document["skins"][0]["inverseBindMatrices"]]
        view = document["bufferViews"][accessor["bufferView"]]
        start = view["byteOffset"]
        matrices = (
            np.frombuffer(binary, "<f4", accessor["count"] * 16, start).reshape(-1, 4, 4).transpose(0, 2, 1).copy()
        )
        matrices = np.diag([100, 100, 100, 1]).astype(np.float32) @ matrices
        data = matrices.transpose(0, 2, 1).astype("<f4").tobytes()
        scaled = read_character(join(document, binary[:start] + data + binary[start + len(data) :]))
        whole = brannoc()
        np.testing.assert_allclose(scaled.skeleton.places, whole.skeleton.places, atol=1e-5)
        np.testing.assert_allclose(scaled.skeleton.rest[:, 7], 1.0, atol=1e-6)
        moved = deform(scaled.skin.pieces[0], transforms.to_matrix(scaled.skeleton.world), scaled.skin.inverse_bind)
        np.testing.assert_allclose(moved, whole.skin.pieces[0].points, atol=1e-4)

    def test_nodes_between_joints_become_joints_and_matrices_are_read(self) -> None:
        """A node that the skin does not name, between two that it does, is part of the skeleton all the same."""

        def change(d: dict[str, Any]) -> None:
            extra = len(d["nodes"])
            parent = next(n for n in d["nodes"] if n["name"] == "neck")
            head = next(i for i, n in enumerate(d["nodes"]) if n["name"] == "head")
            d["nodes"].append({"name": "collar button", "children": [head]})
            parent["children"] = [c for c in parent["children"] if c != head] + [extra]
            node = next(n for n in d["nodes"] if n["name"] == "spine_1")
            m = np.eye(4)
            m[:3, 3] = node.pop("translation")
            node.pop("rotation")
            node["matrix"] = m.T.reshape(-1).tolist()

        found = read_character(changed(change))
        places = dict(zip(found.skeleton.names, found.skeleton.places, strict=True))
        self.assertIn("collar button", places)
        for name in ("spine_1", "spine_2", "head", "toe_l"):
            np.testing.assert_allclose(
                places[name], brannoc().skeleton.places[brannoc().skeleton.index(name)], atol=1e-5
            )

    def test_normals_are_computed_where_there_are_none(self) -> None:
        data = changed(lambda d: [p["attributes"].pop("NORMAL") for p in d["meshes"][0]["primitives"]])
        piece, whole = read_character(data).skin.pieces[0], brannoc().skin.pieces[0]
        along = np.einsum("vi,vi->v", piece.normals, whole.normals)
        self.assertGreater(float(np.median(along)), 0.95)

    def test_what_is_left_out_is_said(self) -> None:
        def change(d: dict[str, Any]) -> None:
            d["animations"] = [{"channels": [], "samplers": []}]
            d["meshes"][0]["primitives"][0]["attributes"]["JOINTS_1"] = 0

        notes = " ".join(read_character(changed(change)).notes)
        for words in ("animations", "four weights"):
            self.assertIn(words, notes)

    def test_joints_of_the_same_name_are_told_apart(self) -> None:
        names = read_character(changed(lambda d: d["nodes"][2].update(name="pelvis"))).skeleton.names
        self.assertEqual(len(set(names)), len(names))


class AnimationTest(unittest.TestCase):
    """Source: glTF 2.0 specification, section 3.11 and appendix C: LINEAR samplers, spherical for rotations."""

    def setUp(self) -> None:
        self.motion, data = moving()
        self.file = parse(data)
        self.document = self.file.json

    def world_at(self, time: float) -> np.ndarray:
        """Joint places at a time, sampled from the file by the specification's formulas."""
        skeleton = brannoc().skeleton
        nodes = self.document["nodes"]
        place = [np.array(n.get("translation", [0, 0, 0]), float) for n in nodes]
        turn = [Rotation.from_quat(n.get("rotation", [0, 0, 0, 1])) for n in nodes]
        animation = self.document["animations"][0]
        for channel in animation["channels"]:
            sampler = animation["samplers"][channel["sampler"]]
            self.assertEqual(sampler["interpolation"], "LINEAR")
            times = self.file.accessor(sampler["input"], "times", ("SCALAR",)).ravel()
            kind = "VEC4" if channel["target"]["path"] == "rotation" else "VEC3"
            values = self.file.accessor(sampler["output"], "values", (kind,)).astype(float)
            k = int(np.clip(np.searchsorted(times, time, side="right") - 1, 0, len(times) - 2))
            t = (time - times[k]) / (times[k + 1] - times[k])
            node = channel["target"]["node"]
            if kind == "VEC4":
                turn[node] = Slerp([0, 1], Rotation.from_quat(values[k : k + 2]))(np.clip(t, 0, 1))
            elif channel["target"]["path"] == "translation":
                place[node] = (1 - t) * values[k] + t * values[k + 1]
        world: list[tuple[np.ndarray, Rotation]] = []
        for j, parent in enumerate(skeleton.parents):
            if parent < 0:
                world.append((place[j], turn[j]))
            else:
                at, by = world[parent]
                world.append((at + by.apply(place[j]), by * turn[j]))
        return np.array([at for at, _ in world])

    def test_every_frame_samples_to_the_core_s_places(self) -> None:
        for frame in range(9):
            np.testing.assert_allclose(self.world_at(frame / 24), self.motion[frame, :, :3], atol=1e-4)

    def test_between_frames_nothing_goes_the_long_way_round(self) -> None:
        for frame in range(8):
            middle = self.world_at((frame + 0.5) / 24)
            straight = (self.motion[frame, :, :3] + self.motion[frame + 1, :, :3]) / 2
            step = np.linalg.norm(self.motion[frame + 1, :, :3] - self.motion[frame, :, :3], axis=1)
            self.assertTrue((np.linalg.norm(middle - straight, axis=1) <= 0.5 * step + 1e-3).all())

    def test_only_what_moves_has_a_translation(self) -> None:
        moved = {
            c["target"]["node"]
            for c in self.document["animations"][0]["channels"]
            if c["target"]["path"] == "translation"
        }
        names = {self.document["nodes"][n]["name"] for n in moved}
        self.assertEqual(names, {"root", "pelvis"})


class WriterTest(unittest.TestCase):
    def test_views_are_aligned_and_the_file_is_whole(self) -> None:
        out = Writer({"asset": {"version": "2.0"}})
        out.blob(b"abc")
        out.array(np.ones((3, 3), np.float32), "VEC3", bounds=True)
        file = parse(out.to_bytes())
        self.assertTrue(all(view["byteOffset"] % 4 == 0 for view in file.json["bufferViews"]))
        np.testing.assert_array_equal(file.accessor(0, "ones", ("VEC3",)), np.ones((3, 3)))

    def test_strided_and_normalised_data_are_read(self) -> None:
        out = Writer({"asset": {"version": "2.0"}})
        rows = np.array([[255, 0, 128, 7], [0, 255, 64, 9]], np.uint8)
        number = out.array(rows, "VEC4")
        accessor = out.document["accessors"][number]
        accessor.update(type="VEC3", normalized=True)
        out.document["bufferViews"][0]["byteStride"] = 4
        found = parse(out.to_bytes()).accessor(number, "colours", ("VEC3",))
        np.testing.assert_allclose(found, rows[:, :3] / 255, atol=1e-6)
