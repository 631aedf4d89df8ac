"""Gaits on four and six legs: which legs stand together, against the diagrams that are published."""

from __future__ import annotations

import unittest
from dataclasses import replace

import numpy as np

from hame.errors import BadEdit
from hame.gait.creatures import CANTER, GALLOP, PACE, TROT, WALK, Leg, Phases, falls_of, on_ground, wave
from hame.gait.footfalls import Pace, Times
from hame.gait.line import Point, line_of
from hame.maths.rotations import Array

FPS = 24.0
FOUR = (("L", "hind"), ("R", "hind"), ("L", "fore"), ("R", "fore"))
AT = np.linspace(0.0, 1.0, 997)


def phases(gait: Phases) -> list[float]:
    return [gait.of(side, pair) for side, pair in FOUR]


def standing(gait: Phases, share: float) -> Array:
    """Which legs stand (T, 4), in the order of FOUR."""
    return np.stack([(AT - phase) % 1.0 < share for phase in phases(gait)], axis=1)


class FourTest(unittest.TestCase):
    """After Hildebrand 1965 and 1989 (from memory)."""

    def test_in_a_walk_feet_land_one_after_the_other_hind_before_fore_on_each_side(self) -> None:
        order = np.argsort(phases(WALK))
        self.assertEqual([FOUR[n] for n in order], [("L", "hind"), ("L", "fore"), ("R", "hind"), ("R", "fore")])
        np.testing.assert_allclose(np.diff(np.sort(phases(WALK))), 0.25)
        counts = standing(WALK, 0.65).sum(axis=1)
        self.assertEqual((int(counts.min()), int(counts.max())), (2, 3))  # never on one foot, never in the air
        self.assertGreaterEqual(int(standing(WALK, 0.76).sum(axis=1).min()), 3)

    def test_in_a_trot_diagonal_feet_go_together_and_in_a_pace_those_of_a_side(self) -> None:
        trot, pace = standing(TROT, 0.5), standing(PACE, 0.5)
        np.testing.assert_array_equal(trot[:, 0], trot[:, 3])
        np.testing.assert_array_equal(trot[:, 1], trot[:, 2])
        np.testing.assert_array_equal(pace[:, 0], pace[:, 2])
        np.testing.assert_array_equal(pace[:, 1], pace[:, 3])
        for gait in (TROT, PACE):
            self.assertEqual(set(standing(gait, 0.42).sum(axis=1).tolist()), {0, 2})  # two flights in a stride

    def test_a_canter_has_three_beats_and_a_gallop_four_and_a_flight(self) -> None:
        self.assertEqual(len({round(phase, 3) for phase in phases(CANTER)}), 3)
        beats = sorted(phases(GALLOP))
        self.assertEqual(len({round(phase, 3) for phase in beats}), 4)
        self.assertLess(beats[1], 0.25)  # hind feet close together, then fore feet
        self.assertGreater(beats[2], 0.4)
        self.assertEqual(int(standing(GALLOP, 0.25).sum(axis=1).min()), 0)
        flights = np.diff((standing(GALLOP, 0.25).sum(axis=1) == 0).astype(int))
        self.assertLessEqual(int((flights == 1).sum()), 2)


class SixTest(unittest.TestCase):
    """After Wilson 1966 (from memory)."""

    def test_on_the_ground_for_half_a_stride_they_go_in_two_tripods(self) -> None:
        (l1, r1), (l2, r2), (l3, r3) = wave(3, 0.5)
        self.assertEqual((l1, r2, l3), (0.0, 0.0, 0.0))
        self.assertEqual((r1, l2, r3), (0.5, 0.5, 0.5))

    def test_slower_ever_fewer_are_in_the_air_and_never_less_than_three_stand(self) -> None:
        most_up = []
        for share in (0.5, 0.6, 0.7, 0.8, 0.86):
            stands = on_ground([phase for pair in wave(3, share) for phase in pair], share, AT)
            self.assertGreaterEqual(int(stands.min()), 3, share)
            most_up.append(6 - int(stands.min()))
        self.assertEqual(most_up, sorted(most_up, reverse=True))
        self.assertEqual((most_up[0], most_up[-1]), (3, 1))

    def test_a_leg_is_lifted_as_the_one_behind_lands(self) -> None:
        for share in (0.5, 0.65, 0.8):
            for (behind, _), (leg, _) in zip(wave(3, share)[:-1], wave(3, share)[1:], strict=True):
                self.assertAlmostEqual((leg + share - behind) % 1.0 % 1.0, 0.0 if share < 1.0 else 1.0, 9)


class FallsTest(unittest.TestCase):
    legs = tuple(
        Leg(f"{side}{pair}", WALK.of(side, pair), 0.3 if pair == "fore" else -0.3, 0.1 if side == "L" else -0.1)
        for side, pair in FOUR
    )

    def test_each_foot_stands_where_the_creature_has_it_as_its_middle_goes_over(self) -> None:
        line = line_of([Point((0.0, 0.0)), Point((0.0, 20.0))])
        pace = Pace.even(240, 0.9, Times.walking(14, 4))
        found = falls_of(line, pace, self.legs, 1, FPS)
        for leg in self.legs:
            mine = [one for one in found if one.name == leg.name]
            self.assertGreater(len(mine), 8)
            self.assertEqual({one.last - one.first for one in mine}, {14})
            np.testing.assert_allclose(np.diff([one.place[1] for one in mine]), 0.9 * 20 / FPS, atol=1e-6)
            for one in mine:
                self.assertAlmostEqual(one.place[0], leg.aside, 9)
                self.assertAlmostEqual(one.place[1] - one.along, leg.ahead, 9)
                middle = 0.5 * (one.first + one.last) - 1.0
                self.assertAlmostEqual(one.along, 0.9 * middle / FPS, delta=0.02)

    def test_sideways_the_legs_are_turned_from_the_way(self) -> None:
        line = line_of([Point((0.0, 0.0)), Point((0.0, 6.0))])
        pace = Pace.even(120, 0.5, Times.walking(12, 2), facing=np.pi / 2)
        [one, *_] = falls_of(line, pace, self.legs[:1], 1, FPS)
        self.assertAlmostEqual(one.heading, np.pi / 2, 9)
        self.assertAlmostEqual(one.place[0], self.legs[0].ahead, 9)

    def test_what_cannot_be_is_refused(self) -> None:
        line = line_of([Point((0.0, 0.0)), Point((0.0, 6.0))])
        pace = Pace.even(120, 0.5, Times.walking(12, 2))
        with self.assertRaisesRegex(BadEdit, "has legs"):
            falls_of(line, pace, [], 1, FPS)
        with self.assertRaisesRegex(BadEdit, "goes nowhere"):
            falls_of(line, replace(pace, speed=np.zeros(120)), self.legs, 1, FPS)


if __name__ == "__main__":
    unittest.main()
