"""Who comes into a shot finds a place beside the others."""

from __future__ import annotations

from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from hame.character.build import build_rig
from hame.demo.props import signal_lamp
from hame.intake.intake import prop_plan
from hame.scene.standing import free_place, half_width
from tests.hame.examples import brannoc_rig

places = st.lists(st.tuples(st.floats(-20, 20), st.floats(0.05, 2)), max_size=12)


class StandingTest(TestCase):
    @given(places, st.floats(0.05, 2))
    def test_nobody_stands_in_another(self, taken: list[tuple[float, float]], half: float) -> None:
        x = free_place(taken, half)
        for middle, wide in taken:
            self.assertGreaterEqual(abs(x - middle), wide + half - 1e-6)

    def test_the_first_stands_in_the_middle_and_the_next_close_by(self) -> None:
        self.assertEqual(free_place([], 0.8), 0.0)
        self.assertAlmostEqual(free_place([(0.0, 0.8)], 0.3), 1.1)
        self.assertAlmostEqual(free_place([(0.0, 0.8), (1.1, 0.3)], 0.3), -1.1)

    def test_a_figure_takes_the_room_of_its_arms_and_a_prop_of_its_surface(self) -> None:
        self.assertGreater(half_width(brannoc_rig()), 0.6)
        self.assertLess(half_width(brannoc_rig()), 1.1)
        skeleton, skin = signal_lamp()
        self.assertLess(half_width(build_rig(skeleton, prop_plan(skeleton, skin))), 0.5)
