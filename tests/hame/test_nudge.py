"""A nudge moves the body by what it says, from where it is, and no further than it may."""

from __future__ import annotations

import unittest

from hame.clip.clip import Clip
from hame.edits.making import made
from hame.edits.nudge import Nudge
from hame.errors import BadEdit
from hame.scene.scene import Figure, Scene
from tests.hame.examples import brannoc_rig


class NudgeTest(unittest.TestCase):
    def test_it_moves_on_from_where_the_body_is(self) -> None:
        clip = Clip()
        for _ in range(2):
            scene = Scene({1: Figure(brannoc_rig(), clip, "Brannoc")}, 1, 48)
            clip = made(Nudge(frame=5, by=0.02), scene, 1).clips[1]
        self.assertAlmostEqual(float(clip.curves["body/tx"].values[0]), 0.04)

    def test_a_shove_is_no_nudge(self) -> None:
        with self.assertRaises(BadEdit):
            made(Nudge(frame=5, by=0.5), Scene({1: Figure(brannoc_rig(), Clip(), "Brannoc")}, 1, 48), 1)
