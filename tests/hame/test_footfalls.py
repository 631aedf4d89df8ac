"""Footfalls along a way: whole frames as they are typed, places evenly along the line, walk to run."""

from __future__ import annotations

import unittest
from dataclasses import replace
from math import pi

import numpy as np

from hame.errors import BadEdit
from hame.gait.footfalls import (
    STAYS,
    Footfall,
    Pace,
    Times,
    footfalls,
    out_of_reach,
)
from hame.gait.line import Line, Point, bent, line_of, stretched
from hame.gait.usual import froude, usual_share, usual_speed, usual_step

FPS, G = 24.0, 9.80665


def straight(long: float) -> Line:
    return line_of([Point((0.0, 0.0)), Point((0.0, long))])


def walked(long: float = 12.0, times: Times | None = None, speed: float = 1.3, **more: float) -> list[Footfall]:
    pace = Pace.even(400, speed, times or Times.walking(16, 3), **more)
    return footfalls(straight(long), pace, 1, FPS, starts=0.0, ends=False)


def stepped(speed: float, step: float, share: float) -> list[Footfall]:
    """Footfalls of a long way at one pace, of steps that are of no whole frames."""
    pace = replace(
        Pace.even(400, speed, Times.walking(16, 3)), cadence=np.full(400, 1.0 / step), share=np.full(400, share)
    )
    return [one for one in footfalls(straight(60.0), pace, 1, FPS, starts=0.0, ends=False) if one.number >= 1]


class TimesTest(unittest.TestCase):
    def test_what_is_typed_in_frames_is_exact(self) -> None:
        """16 on the ground with 3 of both feet: a step of 13. 6 and 9 in the air: 15. 5 and 15: a jump of 20."""
        for times, step, on in (
            (Times.walking(16, 3), 13, 16), (Times.flying(6, 9), 15, 6), (Times.flying(5, 15, together=True), 20, 5),
        ):  # fmt: skip
            self.assertEqual(times.step, step)
            found = [one for one in walked(times=times) if one.number >= 1]
            by_number = {one.number: one for one in found}
            lands = [by_number[n].first for n in sorted(by_number)]
            self.assertEqual(set(np.diff(lands)), {step})
            self.assertEqual({one.last - one.first for one in found}, {on})
            if times.together:
                self.assertEqual([one.side for one in found[:4]], ["L", "R", "L", "R"])
            else:
                self.assertEqual([one.side for one in found[:4]], ["R", "L", "R", "L"])
        walk = [one for one in walked(times=Times.walking(16, 3)) if one.number >= 1]
        for one, other in zip(walk[:-1], walk[1:], strict=True):
            self.assertEqual(one.last - other.first, 3, "so many frames of both feet")

    def test_at_one_pace_a_foot_that_runs_is_on_the_ground_as_long_each_time(self) -> None:
        """Also where neither step nor stance is of whole frames, as at speeds that are told alone."""
        for speed, step, share in ((5.0, 6.54, 0.273), (4.0, 7.2, 0.33), (2.5, 8.65, 0.39)):
            stood = {one.last - one.first for one in stepped(speed, step, share)}
            self.assertEqual(len(stood), 1, (speed, stood))
            # It is seen on the ground on one frame more than that: never for longer than is meant.
            self.assertTrue(-1.0 <= stood.pop() - 2.0 * step * share <= 0.1, speed)

    def test_who_walks_has_both_feet_on_the_ground_as_long_in_each_step(self) -> None:
        """Whatever a step takes: so the middles of stances come as evenly as the frames let them."""
        for step, share in ((12.5, 0.65), (12.4, 0.62), (11.6, 0.61), (15.3, 0.69)):
            found = stepped(1.0, step, share)
            both = {one.last - other.first for one, other in zip(found[:-1], found[1:], strict=True)}
            self.assertEqual(both, {round(step * (2.0 * share - 1.0))}, step)

    def test_feet_that_stand_at_first_are_lifted_one_after_the_other(self) -> None:
        found = walked(times=Times.walking(16, 3))
        self.assertEqual([(one.number, one.side) for one in found[:3]], [(-1, "R"), (0, "L"), (1, "R")])
        self.assertEqual([one.last for one in found[:2]], [1, 14])
        self.assertEqual(found[2].first, 11)
        later = footfalls(straight(9.0), Pace.even(400, 1.3, Times.walking(16, 3)), 1, FPS, lead=8, ends=False)
        self.assertEqual([one.first for one in later[:3]], [1, 1, 19])
        self.assertEqual(later[0].last, 9)


class PlacesTest(unittest.TestCase):
    def test_steps_are_as_long_as_speed_and_time_say(self) -> None:
        found = walked(speed=1.2, width=0.14)
        z = np.array([one.place[1] for one in found])
        np.testing.assert_allclose(np.diff(z), 1.2 * 13 / FPS, atol=1e-9)
        x = np.array([one.place[0] for one in found])
        np.testing.assert_allclose(x, np.where([one.side == "L" for one in found], 0.07, -0.07), atol=1e-12)
        # The body is over a foot in the middle of its time on the ground.
        middle = 0.5 * (found[3].first + found[3].last) - 1.0
        self.assertAlmostEqual(found[3].place[1], 1.2 * middle / FPS, 9)

    def test_bent_by_a_right_angle_over_ten_footfalls(self) -> None:
        """Nine gaps: spacing along the arc within 1 %, headings evenly by 10 degrees within a tenth of one."""
        pace = Pace.even(400, 1.3, Times.walking(16, 3))
        step = 1.3 * 13 / FPS
        points = bent([Point((0.0, 0.0)), Point((0.0, 9.0 * step))], pi / 2)
        line = line_of(points)
        self.assertAlmostEqual(line.length, 9.0 * step, 4)
        found = [one for one in footfalls(line, pace, 1, FPS, starts=0.0, ends=False) if one.number >= 1]
        found = [one for one in found if one.along <= line.length]
        self.assertGreaterEqual(len(found), 7)
        np.testing.assert_allclose(np.diff([one.along for one in found]), step, rtol=0.01)
        np.testing.assert_allclose(np.degrees(np.diff([one.heading for one in found])), 10.0, atol=0.1)

    def test_stretched_by_a_half_the_stride_is_longer_and_the_width_stays(self) -> None:
        points = [Point((0.0, 0.0)), Point((0.0, 8.0))]
        eases = {"starts": 1.5, "slows": 1.0}  # which a way keeps: in steps, whatever its length
        slow, quick = (Pace.even(300, v, Times.walking(16, 3), width=0.12) for v in (1.0, 1.5))
        one = footfalls(line_of(points), slow, 1, FPS, **eases)
        wide = line_of(stretched(points, 1.5))
        other = footfalls(wide, quick, 1, FPS, **eases)
        self.assertEqual([(a.side, a.first, a.last) for a in one], [(b.side, b.first, b.last) for b in other])
        self.assertEqual(one[2].first, other[2].first)
        for a, b in zip(one, other, strict=True):
            self.assertAlmostEqual(b.place[1], 1.5 * a.place[1], 9)
            self.assertAlmostEqual(abs(b.place[0]), 0.06, 12)

    def test_from_a_stand_the_first_step_is_shorter(self) -> None:
        found = footfalls(straight(12.0), Pace.even(400, 1.3, Times.walking(16, 3)), 1, FPS)
        gaps = np.diff([0.0, *(one.along for one in found if one.number >= 1)]) / (1.3 * 13 / FPS)
        self.assertTrue(0.5 < gaps[0] < 0.85, gaps)
        np.testing.assert_allclose(gaps[1:-5], 1.0, atol=0.02)
        self.assertTrue((gaps[-5:-2] > 0.85).all() and (gaps[-5:-2] < 1.15).all(), "what is missing is shared out")
        quick = footfalls(straight(20.0), Pace.even(400, 4.0, Times.flying(5, 4)), 1, FPS)
        sped = np.diff([0.0, *(one.along for one in quick if one.number >= 1)])
        self.assertTrue((np.diff(sped[:4]) > 0.05).all(), "who runs gets going over several steps")
        self.assertTrue((np.diff(sped[-5:-1]) < -0.05).all(), "and stops over several")

    def test_it_ends_with_both_feet_side_by_side_at_the_end(self) -> None:
        for long in (0.5, 3.0, 5.13, 20.0):
            found = footfalls(straight(long), Pace.even(48, 1.2, Times.walking(16, 3)), 1, FPS)
            self.assertEqual([one.last for one in found[-2:]], [STAYS, STAYS])
            self.assertEqual({one.side for one in found[-2:]}, {"L", "R"})
            for one in found[-2:]:
                self.assertAlmostEqual(one.place[1], long, 9)
            self.assertTrue(all(one.place[1] <= long + 1e-9 for one in found))
            self.assertGreater(found[-1].first, found[-2].first)
        jumped = footfalls(straight(4.0), Pace.even(48, 1.2, Times.flying(5, 15, together=True)), 1, FPS)
        self.assertEqual([one.side for one in jumped[-2:]], ["L", "R"])
        self.assertEqual(jumped[-2].first, jumped[-1].first)

    def test_backwards_and_sideways_feet_face_as_who_goes_does(self) -> None:
        back = walked(facing=pi, width=0.2)[4]
        self.assertAlmostEqual(back.heading, pi, 9)
        self.assertAlmostEqual(back.place[0], -0.1 if back.side == "L" else 0.1, 9)
        aside = walked(facing=pi / 2, width=0.2)
        one, other = aside[4], aside[5]
        self.assertAlmostEqual(one.place[0], 0.0, 9)
        ahead = one.place[1] - one.along
        self.assertAlmostEqual(abs(ahead), 0.1, 9)
        self.assertAlmostEqual(other.place[1] - other.along, -ahead, 9)

    def test_pace_may_change_on_the_way(self) -> None:
        frames = 240
        even = Pace.even(frames, 1.4, Times.walking(14, 2))
        slower = np.linspace(1.4, 0.6, frames)
        pace = replace(even, speed=slower, cadence=slower / (FPS * 0.62))
        found = [one for one in footfalls(straight(9.0), pace, 1, FPS) if one.number >= 1]
        z = np.array([one.along for one in found])[:-2]
        np.testing.assert_allclose(np.diff(z)[1:], 0.62, atol=0.03)  # of a step of one length
        gaps = np.diff([one.first for one in found])[:-1]
        self.assertGreater(gaps[-1], gaps[0] + 4)
        self.assertTrue((np.diff(gaps) >= -1).all())

    def test_a_walk_becomes_a_run_becomes_a_jump(self) -> None:
        frames = 200
        walk, run, jump = Times.walking(16, 3), Times.flying(6, 9), Times.flying(5, 15, together=True)
        which = np.repeat([0, 1, 2], [80, 70, 50])
        kinds = [Pace.even(frames, speed, times) for speed, times in ((1.3, walk), (3.0, run), (2.5, jump))]
        mixed = Pace(*(np.choose(which, [getattr(kind, name) for kind in kinds]) for name in Pace.__dataclass_fields__))
        found = footfalls(straight(40.0), mixed, 1, FPS, ends=False)
        by_side = {side: [one for one in found if one.side == side] for side in ("L", "R")}
        for feet in by_side.values():  # no foot lands before it is lifted
            for one, other in zip(feet[:-1], feet[1:], strict=True):
                self.assertGreater(other.first, one.last)
        late = [one for one in found if one.first > 165]
        self.assertEqual({one.first for one in late if one.side == "L"}, {one.first for one in late if one.side == "R"})
        self.assertTrue((np.diff([one.along for one in found]) >= -1e-9).all())

    def test_a_closed_way_is_gone_round(self) -> None:
        ring = line_of([Point((np.sin(a), np.cos(a))) for a in np.arange(8) * pi / 4], closed=True)
        found = footfalls(ring, Pace.even(400, 1.0, Times.walking(16, 3)), 1, FPS, ends=False)
        self.assertGreater(found[-1].along, 2.0 * ring.length)
        self.assertLess(max(float(np.hypot(*one.place)) for one in found), 1.1)


class UsualTest(unittest.TestCase):
    def test_strides_and_shares_are_those_that_are_published(self) -> None:
        """Whittle, *Gait Analysis: an Introduction*: free speeds of adults 1.1 to 1.5 m/s at 90 to 130 steps a minute;
        Perry, *Gait Analysis*, 1992: on the ground for about 60 %."""
        for speed in (1.1, 1.3, 1.5):
            minute = 60.0 * speed / float(usual_step(np.array(speed), 0.9, G))
            self.assertTrue(90.0 <= minute <= 145.0, minute)
            self.assertTrue(0.58 <= float(usual_share(np.array(speed), 0.9, G)) <= 0.65)

    def test_the_speed_of_a_cadence_is_that_whose_steps_come_so_often(self) -> None:
        """And where no step of a walk or a run does, one walks as fast as can be."""
        fastest = float(np.sqrt(0.5 * G * 0.86))
        for often in (1.2, 1.8, 2.2, 2.45, 2.5, 2.8, 3.2):
            speed = usual_speed(np.array(often), 0.86, G, 1.08)
            if often in (2.45, 2.5):
                self.assertAlmostEqual(float(speed), fastest, 9)
            else:
                self.assertAlmostEqual(float(speed / usual_step(speed, 0.86, G, 1.08)), often, 6)

    def test_it_runs_beyond_a_froude_number_of_a_half(self) -> None:
        """Alexander 1989."""
        speed = np.linspace(0.1, 5.0, 200)
        share, number = usual_share(speed, 0.9, G), froude(speed, 0.9, G)
        self.assertTrue((share[number <= 0.5] > 0.5).all())
        self.assertTrue((share[number > 0.5] <= 0.41).all())
        self.assertTrue((np.diff(share) <= 1e-9).all())

    def test_a_foot_is_on_the_ground_as_long_as_is_published_of_runs(self) -> None:
        """Some 0.25 s at 3 m/s and 0.2 at 4, for legs of 0.9 m (Weyand and others 2000, figures; from memory); and
        hardly longer where steps are longer at the same speed (Farley and Gonzalez 1996, from memory)."""
        for speed, seconds in ((3.0, 0.25), (4.0, 0.2), (5.0, 0.17)):
            step = usual_step(np.array(speed), 0.9, G)
            found = {}
            for times in (0.8, 1.0, 1.3):
                share = usual_share(np.array(speed), 0.9, G, times * step)
                found[times] = float(share * 2.0 * times * step) / speed
            self.assertAlmostEqual(found[1.0], seconds, delta=0.025)
            self.assertAlmostEqual(found[1.3] / found[1.0], 1.3**0.5, places=6)
            self.assertLess(found[0.8], found[1.0])


class RefusedTest(unittest.TestCase):
    def test_what_nobody_could_go_is_refused(self) -> None:
        line, even = straight(5.0), Pace.even(50, 1.0, Times.walking(16, 3))
        none = np.zeros(50)
        for pace, words in (
            (replace(even, speed=none), "goes nowhere"), (replace(even, cadence=none), "goes nowhere"),
            (replace(even, speed=none - 1.0), "back steps"), (replace(even, share=none + 0.99), "of its period"),
            (replace(even, share=none + np.nan), "in numbers"), (replace(even, speed=none + 1e-9), "too long"),
        ):  # fmt: skip
            with self.subTest(words), self.assertRaisesRegex(BadEdit, words):
                footfalls(line, pace, 1, FPS)

    def test_a_step_that_is_too_long_is_told_with_by_how_much(self) -> None:
        found = walked(speed=2.0)
        told = out_of_reach(found, 0.9)
        step = float(np.hypot(2.0 * 13 / FPS, 0.1))
        self.assertAlmostEqual(told[-1][1], step - 0.9, 6)
        self.assertEqual(out_of_reach(found, 1.2), [])


if __name__ == "__main__":
    unittest.main()
