"""Footfalls that are set by hand: they stay set, and nothing else changes but what has to make room."""

from __future__ import annotations

import unittest
from dataclasses import replace
from math import hypot, pi

import numpy as np

from hame.errors import BadEdit
from hame.evaluate.evaluate import evaluate
from hame.evaluate.going.made import gone
from hame.gait.byhand import LEAST_AIR, Hand, put_in, taken_out, turned_on_the_spot, with_hands
from hame.gait.footfalls import STAYS, Footfall, Pace, Times, footfalls
from hame.gait.line import Point, line_of
from hame.measure.soles import level_of, sole_outline
from tests.hame.examples import brannoc_rig

FPS, G = 24.0, 9.80665


def went(long: float = 6.0, speed: float = 1.2) -> list[Footfall]:
    line = line_of([Point((0.0, 0.0)), Point((0.0, long))])
    return footfalls(line, Pace.even(24, speed, Times.walking(15, 2), 0.14), 12, FPS, lead=8)


def one_of(found: list[Footfall], number: int) -> Footfall:
    return next(one for one in found if one.number == number)


class HandsTest(unittest.TestCase):
    def test_what_is_set_stays_when_the_way_changes_and_the_rest_is_as_it_was(self) -> None:
        plain = went()
        hand = Hand(4, one_of(plain, 4).side, place=(0.3, 2.0), heading=0.4)
        set_ = with_hands(plain, [hand])
        self.assertEqual((one_of(set_, 4).place, one_of(set_, 4).heading), ((0.3, 2.0), 0.4))
        self.assertEqual([one for one in set_ if one.number != 4], [one for one in plain if one.number != 4])
        other = with_hands(went(8.0, 1.0), [hand])
        self.assertEqual(one_of(other, 4).place, (0.3, 2.0))
        self.assertEqual(one_of(other, 4).first, one_of(went(8.0, 1.0), 4).first)

    def test_a_foot_that_lands_sooner_is_let_go_sooner_before(self) -> None:
        plain = went()
        four, two = one_of(plain, 4), one_of(plain, 2)
        soon = two.last
        set_ = with_hands(plain, [Hand(4, four.side, first=soon)])
        self.assertEqual(one_of(set_, 4).first, soon)
        self.assertEqual(one_of(set_, 2).last, soon - LEAST_AIR)
        self.assertEqual(
            [one for one in set_ if one.number not in (2, 4)], [one for one in plain if one.number not in (2, 4)]
        )
        stays = with_hands(plain, [Hand(2, two.side, last=four.first + 3)])
        self.assertEqual(one_of(stays, 4).first, four.first + 3 + LEAST_AIR)

    def test_a_foot_in_two_places_is_refused_and_one_that_is_no_more_is_passed_over(self) -> None:
        plain = went()
        two, four = one_of(plain, 2), one_of(plain, 4)
        both = [Hand(2, two.side, last=four.first + 4), Hand(4, four.side, first=four.first)]
        with self.assertRaisesRegex(BadEdit, "two places at once"):
            with_hands(plain, both)
        with self.assertRaisesRegex(BadEdit, "two places at once"):
            with_hands(plain, [Hand(4, four.side, last=four.first)])
        self.assertEqual(with_hands(plain, [Hand(99, "L", place=(0.0, 0.0))]), plain)


class StepsTest(unittest.TestCase):
    def test_one_taken_out_later_ones_keep_their_places_and_change_side_and_time(self) -> None:
        plain = went()
        out = taken_out(plain, 4)
        self.assertEqual(len(out), len(plain) - 1)
        for number in range(4, max(one.number for one in plain)):
            was, now = one_of(plain, number), one_of(out, number)
            self.assertEqual((now.side, now.first), (was.side, was.first))
            self.assertEqual(now.place, one_of(plain, number + 1).place)
        self.assertEqual([one.last for one in out[-2:]], [STAYS, STAYS])
        self.assertEqual([one for one in out if one.number < 4], [one for one in plain if one.number < 4])
        gap = taken_out(plain, 4, gap=True)
        self.assertEqual(gap, [one for one in plain if one.number != 4])

    def test_two_of_one_side_make_a_skip(self) -> None:
        plain = went()
        more = put_in(plain, 3, 9)
        new = one_of(more, 4)
        self.assertEqual((new.side, new.first), (one_of(plain, 3).side, one_of(plain, 4).first))
        self.assertEqual(one_of(more, 5).place, one_of(plain, 4).place)
        self.assertEqual(one_of(more, 5).first, one_of(plain, 4).first + 9)
        self.assertGreaterEqual(new.first - one_of(more, 3).last, LEAST_AIR)

    def test_what_cannot_be_is_refused(self) -> None:
        plain = went()
        for number, words in ((99, "no footfall 99"), (0, "at the ends"), (plain[-1].number, "at the ends")):
            with self.assertRaisesRegex(BadEdit, words):
                taken_out(plain, number)
        with self.assertRaisesRegex(BadEdit, "no step into which"):
            put_in(plain, plain[-1].number, 10)

    def test_of_a_jump_both_feet_go(self) -> None:
        line = line_of([Point((0.0, 0.0)), Point((0.0, 6.0))])
        plain = footfalls(line, Pace.even(24, 1.2, Times.flying(6, 10, together=True)), 12, FPS, lead=8)
        out = taken_out(plain, 2)
        self.assertEqual(len(out), len(plain) - 2)
        self.assertEqual({one.first for one in out if one.number == 2}, {one_of(plain, 2).first})


class TurnTest(unittest.TestCase):
    def test_it_turns_by_so_much_about_its_place_and_feet_never_cross(self) -> None:
        for angle in (0.5 * pi, -0.5 * pi, pi, 0.3):
            found = turned_on_the_spot((1.0, 2.0), 0.2, angle, 10, Times.walking(12, 3), 0.16)
            self.assertEqual({one.last for one in found[-2:]}, {STAYS})
            for one in found[-2:]:
                self.assertAlmostEqual(one.heading, 0.2 + angle, 9)
            for one in found:
                self.assertAlmostEqual(hypot(one.place[0] - 1.0, one.place[1] - 2.0), 0.08, 9)
            self.assertEqual(found[2].side, "L" if angle > 0 else "R")
            for side in "LR":
                feet = [one for one in found if one.side == side]
                for one, other in zip(feet[:-1], feet[1:], strict=True):
                    self.assertGreater(other.first, one.last)
                    self.assertLessEqual(abs(other.heading - one.heading), 0.5 * pi + 1e-9)
            late = turned_on_the_spot((1.0, 2.0), 0.2, angle, 10, Times.walking(12, 3), 0.16, lead=6)
            self.assertEqual([(one.first, one.last) for one in late[:2]], [(10, one.last + 6) for one in found[:2]])
            self.assertEqual([one.first for one in late[2:]], [one.first + 6 for one in found[2:]])

    def test_it_is_posed_with_soles_on_the_ground(self) -> None:
        rig = brannoc_rig()
        found = turned_on_the_spot((0.0, 0.0), 0.0, pi, 12, Times.walking(12, 3), 0.2)
        frames = np.arange(1.0, max(one.first for one in found) + 25)
        nodes = evaluate(rig, gone(rig, found, frames, FPS, G).values)
        for limb in (limb for limb in rig.limbs if limb.kind == "leg"):
            low = sole_outline(rig, limb, nodes)[..., 1].min() - level_of(rig, limb)
            self.assertGreater(1000.0 * float(low), -1.0)
        head = rig.joint_nodes[rig.skeleton.index("head")]
        turned = nodes[-1, head, 3:7]
        self.assertLess(abs(float(turned[3])), 0.05)  # by half a turn

    def test_what_does_not_turn_is_refused(self) -> None:
        with self.assertRaisesRegex(BadEdit, "has an angle"):
            turned_on_the_spot((0.0, 0.0), 0.0, 0.0, 1, Times.walking(12, 3), 0.2)
        self.assertEqual(replace(Hand(1, "L"), first=3).fields, {"first": 3})


if __name__ == "__main__":
    unittest.main()
