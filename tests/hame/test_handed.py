"""Several figures and props in one handed-off file, read back by code of its own."""

from __future__ import annotations

import unittest

import numpy as np

from hame.clip.belonging import Belonging
from hame.clip.clip import Clip
from hame.clip.curve import from_keys
from hame.clip.plants import Plant
from hame.evaluate.evaluate import joints
from hame.formats.gltf_write import Handed, write_scene
from hame.scene.joined import played
from hame.scene.scene import Figure
from tests.hame.examples import brannoc, brannoc_rig, prop, prop_rig
from tests.hame.handed import read_handed


class SceneFileTest(unittest.TestCase):
    def test_a_held_thing_stays_in_the_hand_and_a_planted_foot_in_its_place(self) -> None:
        rig, can = brannoc_rig(), prop_rig("oil_can")
        curves = {"arm.R.upper/rz": from_keys({1: -0.5, 20: 0.4}), "body/ty": from_keys({1: -0.1, 12: -0.2, 24: -0.1}),
                  "master/tz": from_keys({1: 0.0, 24: 0.2})}  # fmt: skip
        keeper = Clip().with_curves(curves).with_tracks({"plant/leg.L.goal": [Plant(1, 24)]})
        held = Clip().with_tracks({"belonging/master": [Belonging(6, 24, 1, "arm.R.goal")]})
        figures = {1: Figure(rig, keeper), 2: Figure(can, held)}
        posed = played(figures, np.arange(1, 25))
        motions = [joints(one.rig, one.nodes) for one in posed.values()]
        data = write_scene([
            Handed("Brannoc", rig.skeleton, brannoc().skin, motions[0]),
            Handed("Oil can", can.skeleton, prop("oil_can").skin, motions[1]),
        ])  # fmt: skip
        read = read_handed(data)
        self.assertEqual(list(read.skins), ["Brannoc", "Oil can"])
        for who, one, motion in (("Brannoc", rig, motions[0]), ("Oil can", can, motions[1])):
            for j, name in enumerate(one.skeleton.names):
                np.testing.assert_allclose(read.places(who, name), motion[:, j, :3], atol=2e-6)
        hand = rig.plan.roles["arm.R.hand"]
        way = read.places("Oil can", "can") - read.places("Brannoc", hand)
        seen = read.turns("Brannoc", hand).inv().apply(way)
        self.assertLess(float(np.ptp(seen[5:], axis=0).max()), 1e-5)
        foot = read.places("Brannoc", rig.plan.roles["leg.L.foot"])
        self.assertLess(float(np.ptp(foot, axis=0).max()), 1e-5)
        self.assertGreater(float(np.ptp(read.places("Brannoc", rig.plan.roles["hips"]), axis=0).max()), 0.15)


if __name__ == "__main__":
    unittest.main()
