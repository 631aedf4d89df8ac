"""Controls put back in the world after what carries them was turned, and which limb bears the weight."""

from __future__ import annotations

import unittest

import numpy as np

from hame.character.masses import centre_of_mass
from hame.clip.clip import Clip
from hame.clip.curve import from_keys
from hame.edits.making import made
from hame.edits.staying import BringTo
from hame.errors import BadEdit
from hame.evaluate.evaluate import channel_values, evaluate
from hame.measure.bearing import borne
from hame.scene.scene import Figure, Scene
from tests.hame.examples import brannoc_rig


class StayingTest(unittest.TestCase):
    def test_what_hangs_on_a_turned_chest_looks_again_where_it_looked(self) -> None:
        rig = brannoc_rig()
        names = ("neck", "arm.L.collar", "arm.R.collar")
        before = evaluate(rig, rig.rest[None])[0]
        turned = Clip().with_curves({"chest/ry": from_keys({5: 0.6}), "chest/rx": from_keys({5: 0.2})})
        places = {n: tuple(before[rig.control(n).node, :7].tolist()) for n in names}
        done = made(BringTo(frame=5, places=places), Scene({1: Figure(rig, turned)}, 1, 48), 1).clips[1]
        after = evaluate(rig, channel_values(rig, done, [5]))[0]
        for name in names:
            node = rig.control(name).node
            self.assertAlmostEqual(abs(float(after[node, 3:7] @ before[node, 3:7])), 1.0, places=9)
        self.assertNotIn("neck/tx", done.curves, "what is locked stays as it is")

    def test_what_cannot_be_is_refused_in_words(self) -> None:
        scene = Scene({1: Figure(brannoc_rig(), Clip())}, 1, 48)
        for places, words in (
            ({}, "nothing is chosen"),
            ({"neck": (0.0, 0.0)}, "three numbers"),
            ({"neck": (0.0, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0)}, "its turn is none"),
            ({"neck": (1e9, 0.0, 0.0, 0.0, 0.0, 0.0, 1.0)}, "up to a kilometre"),
            ({"arm.L": (0.0, 0.0, 0.0, 0.0, 0.0, 0.0, 1.0)}, "has no place"),
            ({"tail": (0.0, 0.0, 0.0, 0.0, 0.0, 0.0, 1.0)}, "no control called tail"),
        ):
            with self.assertRaisesRegex(BadEdit, words):
                made(BringTo(frame=5, places=places), scene, 1)


class BearingTest(unittest.TestCase):
    def test_the_centre_of_mass_of_one_who_stands(self) -> None:
        """In the middle, a little above half the height: 0.55 to 0.58 of it (from memory of Winter, chapter 4)."""
        rig = brannoc_rig()
        centre = centre_of_mass(rig, evaluate(rig, rig.rest[None]))[0]
        self.assertAlmostEqual(centre[0], 0.0, places=3)
        self.assertTrue(0.53 <= centre[1] / 1.75 <= 0.62, centre)

    def test_it_goes_over_the_foot_that_bears_it(self) -> None:
        rig = brannoc_rig()
        values = np.tile(rig.rest, (2, 1))
        values[1, rig.number("body/tx")] = 0.11
        nodes = evaluate(rig, values)
        centre = centre_of_mass(rig, nodes)
        feet = [[node[rig.limb(f"leg.{s}").end, :3] for s in "LR"] for node in nodes]
        even, left = (borne(c, f) for c, f in zip(centre, feet, strict=True))
        np.testing.assert_allclose(even, [0.5, 0.5], atol=0.01)
        self.assertGreater(left[0], 0.9)
        self.assertAlmostEqual(sum(left), 1.0)

    def test_shares_of_supports(self) -> None:
        at = [np.array([0.0, 0.0, 0.0]), np.array([1.0, 0.0, 0.0]), np.array([0.0, 0.0, 1.0])]
        self.assertEqual(borne(np.array([5.0, 1.0, 0.0]), at[:1]), [1.0])
        np.testing.assert_allclose(borne(np.array([0.25, 1.0, 0.0]), at[:2]), [0.75, 0.25], atol=1e-4)
        np.testing.assert_allclose(borne(np.array([3.0, 1.0, 0.0]), at[:2]), [0.0, 1.0], atol=1e-6)
        np.testing.assert_allclose(borne(np.array([0.25, 1.0, 0.25]), at), [0.5, 0.25, 0.25], atol=1e-3)
        self.assertEqual(borne(np.zeros(3), []), [])


if __name__ == "__main__":
    unittest.main()
