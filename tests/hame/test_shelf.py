"""Things that ship: read and rigged as uploads are, with and without joints."""

from __future__ import annotations

import json
import struct
import unittest

import numpy as np

from hame.demo.props import SHELF, ladder
from hame.demo.shelf import THINGS, thing
from hame.errors import BadFile
from hame.evaluate.evaluate import evaluate
from hame.intake.intake import take_in
from tests.hame.examples import prop, prop_rig


def without_joints(data: bytes) -> bytes:
    """The same file as nodes that carry its mesh, without a skin."""
    length = struct.unpack_from("<I", data, 12)[0]
    document, rest = json.loads(data[20 : 20 + length]), data[20 + length :]
    for key in ("skins", "animations"):
        document.pop(key, None)
    for node in document["nodes"]:
        node.pop("skin", None)
    text = json.dumps(document).encode()
    text += b" " * (-len(text) % 4)
    return struct.pack("<4sIIII", b"glTF", 2, 20 + len(text) + len(rest), len(text), 0x4E4F534A) + text + rest


class ShelfTest(unittest.TestCase):
    def test_every_thing_is_there_and_can_be_brought_in(self) -> None:
        self.assertEqual(set(THINGS), set(SHELF))
        for name in THINGS:
            file = thing(name)
            assert file is not None
            taken = take_in(name, file.read_bytes(), prop=True)
            self.assertEqual(taken.card.problem, "", name)
            self.assertGreater(taken.plan.size, 0.1)
        self.assertIsNone(thing("../../secrets"))

    def test_rungs_of_the_ladder_are_things_to_stand_on(self) -> None:
        rig = prop_rig("ladder")
        nodes = evaluate(rig, rig.rest[None])[0]
        heights = [nodes[rig.control(f"rung {n}").node, 1] for n in range(1, 11)]
        np.testing.assert_allclose(np.diff(heights), 0.28, atol=1e-6)
        self.assertEqual(len(ladder()[0]), 11)

    def test_a_prop_may_have_no_joints_at_all_and_a_figure_may_not(self) -> None:
        file = thing("Step")
        assert file is not None
        bare = without_joints(file.read_bytes())
        taken = take_in("Step", bare, prop=True)
        self.assertEqual((taken.card.problem, taken.card.controls), ("", 1))
        self.assertAlmostEqual(taken.plan.size, 0.9, places=3)
        with self.assertRaisesRegex(BadFile, "no skin"):
            take_in("Step", bare)

    def test_parts_stand_as_they_were_made(self) -> None:
        for name in ("crate", "coil-of-rope", "step", "ladder"):
            points = np.concatenate([piece.points for piece in prop(name).skin.pieces])
            self.assertGreaterEqual(float(points[:, 1].min()), -0.005, name)
            for piece in prop(name).skin.pieces:
                a, b, c = (piece.points[piece.triangles[:, k]] for k in range(3))
                outward = np.einsum("ij,ij->i", np.cross(b - a, c - a), piece.normals[piece.triangles[:, 0]])
                self.assertGreater(float(outward.min()), -1e-9, f"{name}: faces are seen from outside")


if __name__ == "__main__":
    unittest.main()
