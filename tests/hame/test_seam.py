"""A seam says by how much it does not close: the value in its unit, or the slope in its unit a frame."""

from __future__ import annotations

import unittest

from hame.clip.clip import Clip
from hame.clip.curve import from_keys
from hame.clip.cycle import Cycle
from hame.clip.key import LINEAR
from hame.measure.seam import seam
from tests.hame.examples import brannoc_rig, with_cycle


class SeamTest(unittest.TestCase):
    def test_a_value_that_jumps_is_told_with_its_gap(self) -> None:
        clip = Clip().with_curves({"head/rx": from_keys({1: 0.1, 13: 0.4, 25: 0.35})})
        (join,) = seam(clip, brannoc_rig(), 1, 25)
        self.assertEqual((join.address, join.jumps), ("head/rx", True))
        self.assertAlmostEqual(join.gap, 0.25)

    def test_a_corner_is_no_jump_and_is_told_with_the_change_of_its_slope(self) -> None:
        clip = Clip().with_curves({"head/rx": from_keys({1: 0.0, 11: 0.5, 31: 0.0}, LINEAR)})
        (join,) = seam(clip, brannoc_rig(), 1, 31)
        self.assertFalse(join.jumps)
        self.assertAlmostEqual(join.gap, 0.0)
        self.assertAlmostEqual(join.corner, 0.05 + 0.025)

    def test_the_way_that_a_cycle_travels_is_no_gap(self) -> None:
        curves = {"head/rx": from_keys({1: 0.1, 13: 0.4, 25: 0.1}), "master/tz": from_keys({1: 0.0}, LINEAR)}
        clip = with_cycle(Clip().with_curves(curves), Cycle(1, 25, False, travel=(0.0, 1.4)))
        self.assertEqual([j.address for j in seam(clip, brannoc_rig(), 1, 25) if j.jumps], [])


if __name__ == "__main__":
    unittest.main()
