"""Files that are small but cost much, or hold what could not be read again: refused with the reason, or read
sparingly.
"""

from __future__ import annotations

import struct
import unittest
from typing import Any

import numpy as np

from hame.errors import BadFile
from hame.formats.gltf_read import MAX_NAME, read_character
from hame.formats.gltf_write import write_character
from hame.intake.intake import take_in
from hame.maths import transforms
from tests.hame.broken_files import broken_files, changed, join, split
from tests.hame.examples import BRANNOC, brannoc


def _part(d: dict[str, Any]) -> dict[str, Any]:
    found: dict[str, Any] = d["meshes"][0]["primitives"][0]
    return found


def with_binary(more: bytes, change: Any) -> bytes:
    """The keeper with bytes added behind his data; ``change`` is told where they begin."""
    document, binary = split(BRANNOC.read_bytes())
    binary += b"\0" * (-len(binary) % 4)
    change(document, len(binary))
    document["buffers"][0]["byteLength"] = len(binary) + len(more)
    return join(document, binary + more)


class LimitsTest(unittest.TestCase):
    def test_every_broken_file_is_refused_in_words(self) -> None:
        for what, data, words in broken_files():
            with self.assertRaisesRegex(BadFile, words, msg=what):
                take_in("crab", data)

    def test_what_would_take_minutes_is_refused_by_its_number(self) -> None:
        def deep(d: dict[str, Any]) -> None:
            first = len(d["nodes"])
            hand = next(n for n, node in enumerate(d["nodes"]) if node.get("name") == "hand_l")
            for n in range(18_000):
                d["nodes"].append({"children": [first + n + 1]} if n < 17_999 else {"name": "far end"})
            d["nodes"][hand].setdefault("children", []).append(first)
            d["skins"][0]["joints"].append(first + 17_999)

        def many_parts(d: dict[str, Any]) -> None:
            for number in (_part(d)["indices"], *_part(d)["attributes"].values()):
                d["accessors"][number]["count"] = 3
            part = {"attributes": _part(d)["attributes"]}
            d["meshes"][0]["primitives"] = [part] * 60_000

        for change, words in (
            (many_parts, "more than 1,000 parts"),
            (lambda d: d.update(materials=[{}] * 20_000), "20,000 materials"),
            (lambda d: d.update(skins=d["skins"] * 5_000), "5,000 skins"),
            (deep, "joints with the nodes between them"),
            (lambda d: d["skins"][0]["joints"].append(d["skins"][0]["joints"][0]), "names a joint twice"),
        ):
            with self.assertRaisesRegex(BadFile, words):
                read_character(changed(change))

    def test_what_lies_beyond_all_measure_is_refused(self) -> None:
        position = split(BRANNOC.read_bytes())[0]["meshes"][0]["primitives"][0]["attributes"]["POSITION"]

        def poked(d: dict[str, Any], at: int) -> None:
            view = d["bufferViews"][d["accessors"][position]["bufferView"]]
            d["bufferViews"].append({"buffer": 0, "byteOffset": at, "byteLength": view["byteLength"]})
            d["accessors"][position]["bufferView"] = len(d["bufferViews"]) - 1

        count = split(BRANNOC.read_bytes())[0]["accessors"][position]["count"]
        far = struct.pack("<f", 1e30) * (3 * count)
        with self.assertRaisesRegex(BadFile, "farther than 10 km"):
            take_in("far", with_binary(far, poked))
        for place in ([1e30, 0, 0], [20_000, 0, 0]):
            with self.assertRaisesRegex(BadFile, "farther than 10 km|beyond all numbers"):
                take_in("far", changed(lambda d, place=place: d["nodes"][0].update(translation=place)))  # type: ignore[misc]

    def test_a_picture_that_many_materials_share_is_kept_once(self) -> None:
        picture = b"\x89PNG\r\n\x1a\n" + bytes(300_000)

        def share(d: dict[str, Any], at: int) -> None:
            d["bufferViews"].append({"buffer": 0, "byteOffset": at, "byteLength": len(picture)})
            d["images"] = [{"bufferView": len(d["bufferViews"]) - 1, "mimeType": "image/png"}]
            d["textures"] = [{"source": 0}]
            surface = {"baseColorTexture": {"index": 0}}
            d["materials"] = [{"pbrMetallicRoughness": surface, "name": f"m{n}"} for n in range(40)]
            d["meshes"][0]["primitives"] = [{**_part(d), "material": n} for n in range(3)]

        found = read_character(with_binary(picture, share))
        self.assertEqual(len({id(piece.material.image) for piece in found.skin.pieces}), 1)
        written = write_character("keeper", found.skeleton, found.skin)
        self.assertEqual(written.count(picture[:8]), 1)
        self.assertEqual(len(split(written)[0]["materials"]), 3)

    def test_many_joints_of_one_name_get_numbers_and_stay_short(self) -> None:
        def alike(d: dict[str, Any]) -> None:
            for node in d["nodes"][:60]:
                node["name"] = "L" * 300
            d["nodes"][60]["name"] = "L" * (MAX_NAME - 2) + " 2"

        names = read_character(changed(alike)).skeleton.names
        self.assertEqual(len(set(names)), len(names))
        self.assertLessEqual(max(map(len, names)), MAX_NAME)

    def test_names_that_no_text_may_hold_are_made_whole(self) -> None:
        found = read_character(changed(lambda d: d["nodes"][3].update(name="lan\ud800tern")))
        self.assertIn("lan?tern", found.skeleton.names)

    def test_a_rigid_mesh_on_a_joint_is_kept(self) -> None:
        """A hat: a mesh without weights that hangs on the head, bound to it as a whole."""

        def hat(d: dict[str, Any], at: int) -> None:
            views, accessors = d["bufferViews"], d["accessors"]
            views.append({"buffer": 0, "byteOffset": at, "byteLength": 36})
            accessors.append({"bufferView": len(views) - 1, "componentType": 5126, "count": 3, "type": "VEC3",
                              "min": [0, 0, 0], "max": [1, 1, 0]})  # fmt: skip
            d["meshes"].append({"primitives": [{"attributes": {"POSITION": len(accessors) - 1}}]})
            d["nodes"].append(
                {"name": "hat", "mesh": len(d["meshes"]) - 1, "translation": [0, 0.2, 0], "scale": [0.1, 0.1, 0.1]}
            )
            head = next(node for node in d["nodes"] if node.get("name") == "head")
            head.setdefault("children", []).append(len(d["nodes"]) - 1)

        corners = np.array([[0, 0, 0], [1, 0, 0], [0, 1, 0]], np.float32)
        found = read_character(with_binary(corners.tobytes(), hat))
        piece = found.skin.pieces[-1]
        self.assertEqual(len(found.skin.pieces), len(brannoc().skin.pieces) + 1)
        head = found.skeleton.index("head")
        self.assertTrue((piece.joints[:, 0] == head).all() and (piece.weights[:, 0] == 1).all())
        bound = transforms.to_matrix(found.skeleton.world[head]) @ found.skin.inverse_bind[head]
        shown = piece.points @ bound[:3, :3].T + bound[:3, 3]
        self.assertNotIn("hat", found.skeleton.names)
        wanted = transforms.apply(found.skeleton.world[head], 0.1 * corners.astype(float) + [0, 0.2, 0])
        np.testing.assert_allclose(shown, wanted, atol=1e-5)

    def test_flipped_bytes_are_refused_or_taken_so_that_they_can_be_read_again(self) -> None:
        """What is taken has been written, read back, and has a card, whatever the file was."""
        rng = np.random.default_rng(9)
        whole = np.frombuffer(BRANNOC.read_bytes(), np.uint8)
        json_end = 20 + struct.unpack_from("<I", whole.tobytes(), 12)[0]
        taken = 0
        for n in range(60):
            data = whole.copy()
            for at in rng.integers(20, json_end if n % 2 else len(whole), 3):
                data[at] ^= 1 << int(rng.integers(0, 8))
            try:
                found = take_in("keeper", data.tobytes())
            except BadFile:
                continue
            taken += 1
            again = read_character(found.mesh)
            self.assertEqual(len(again.skeleton), found.card.joints)
        self.assertGreater(taken, 5)
