"""How the mass goes over footfalls: forces, flights and where feet press, held against mechanics and gaits that are
published.
"""

from __future__ import annotations

import unittest
from dataclasses import replace
from math import pi

import numpy as np
from scipy.integrate import quad

from hame.gait.bearings import Bearing, Bounce, Sole, bearings_of, shape_of
from hame.gait.footfalls import Footfall, Pace, Times, footfalls
from hame.gait.line import Point, bent, line_of
from hame.gait.mass import Carried, mass_over
from hame.maths.rotations import Array

FPS, G, HIGH = 24.0, 9.80665, 0.95
WALK, SLOW, RUN, JUMP = (
    Times.walking(16, 3), Times.walking(20, 6), Times.flying(6, 3), Times.flying(8, 9, together=True)
)  # fmt: skip


class Gone:
    """Somebody who goes along a straight way, from a stand to a stand."""

    def __init__(self, times: Times, speed: float, long: float = 14.0, width: float = 0.1) -> None:
        line = line_of([Point((0.0, 0.0)), Point((0.0, long))])
        self.found = footfalls(line, Pace.even(24, speed, times, width), 12, FPS, lead=8)
        self.bearings = bearings_of(self.found, Bounce(fps=FPS, gravity=G))
        self.frames = np.arange(1, max(one.first for one in self.found) + 40)
        self.mass = mass_over(self.bearings, self.frames, np.full(len(self.frames), HIGH), FPS, G)

    def middle(self, steps: int = 4) -> slice:
        """Some steps amidst the way, in frames counted from the first."""
        landings = sorted({one.first for one in self.found if one.number > 0})
        half = len(landings) // 2
        return slice(landings[half - steps // 2] - 1, landings[half + steps // 2] - 1)


def acceleration(mass: Carried) -> Array:
    """Of each frame but the first and last, metres a second each second."""
    return np.diff(mass.places, 2, axis=0) * FPS**2


class ForceTest(unittest.TestCase):
    def test_the_impulse_of_a_foot_is_that_of_the_published_curve(self) -> None:
        """By `scipy.integrate.quad`: A (cos(pi t / T) - q cos(3 pi t / T)) comes to 2 A T (1 + q / 3) / pi."""
        for q in (0.0, 0.3, 0.7):
            one = Bearing(0.0, 16.0, (0.0, 0.0), (0.0, 0.0), shape=q)
            found = quad(lambda t, one=one: float(one.presses(np.array([t]))[0]), 0.0, 16.0)[0]
            self.assertAlmostEqual(found, 2.0 * 16.0 / pi * (1.0 + q / 3.0), 6)

    def test_a_walk_presses_twice_and_a_run_once(self) -> None:
        for times, speed, humps in ((WALK, 1.3, 2), (RUN, 3.5, 1)):
            gone = Gone(times, speed)
            one = gone.bearings[len(gone.bearings) // 2]
            fine = one.presses(np.linspace(one.first, one.last, 400))
            rises = (np.diff(fine[:-1]) > 0) & (np.diff(fine[1:]) <= 0)
            self.assertEqual(int(rises.sum()), humps)

    def test_the_shape_makes_the_rise_that_is_asked_for(self) -> None:
        for step, on, rise in ((13.0, 16.0, 0.04), (12.0, 14.0, 0.05), (14.0, 19.0, 0.025)):
            q = shape_of(on, step, rise, FPS, G)
            feet = [Bearing(step * n, step * n + on, (0.0, 0.0), (0.0, 0.0), shape=q) for n in range(-3, 20)]
            fine = np.arange(0.0, 10.0 * step, 0.01)
            press = np.sum([foot.presses(fine) for foot in feet], axis=0)
            up = G * (press / press.mean() - 1.0) / FPS**2
            high = np.cumsum(np.cumsum(up - up.mean()) * 0.01) * 0.01
            high -= np.polyval(np.polyfit(fine, high, 1), fine)
            self.assertAlmostEqual(float(np.ptp(high[len(fine) // 3 :])) / rise, 1.0, delta=0.15)

    def test_steady_forces_bear_the_weight_and_no_more(self) -> None:
        for times, speed in ((WALK, 1.3), (SLOW, 0.8), (RUN, 3.5)):
            gone = Gone(times, speed)
            self.assertAlmostEqual(float(gone.mass.force[gone.middle()].mean()), 1.0, delta=0.01)
            self.assertGreaterEqual(float(gone.mass.force.min()), 0.0)


class WayOfMassTest(unittest.TestCase):
    def test_it_is_what_the_feet_make_of_it_on_each_frame(self) -> None:
        """Newton: it is sped up by the force upwards less gravity; level, away from where feet press by that force."""
        for times, speed in ((WALK, 1.3), (RUN, 3.5), (JUMP, 1.5)):
            gone = Gone(times, speed)
            mass, sped = gone.mass, acceleration(gone.mass)
            np.testing.assert_allclose(sped[:, 1], G * (mass.force[1:-1] - 1.0), atol=1e-6)
            flies = mass.force[1:-1] < 1e-9
            np.testing.assert_allclose(sped[flies], np.tile([0.0, -G, 0.0], (int(flies.sum()), 1)), atol=1e-6)
            bears = ~flies & np.isfinite(mass.pressed[1:-1, 0])
            away = mass.places[1:-1][bears][:, [0, 2]] - mass.pressed[1:-1][bears]
            high = mass.places[1:-1][bears][:, 1]
            drawn = (G * mass.force[1:-1][bears] / high)[:, None] * away
            np.testing.assert_allclose(sped[bears][:, [0, 2]], drawn, atol=1e-6)

    def test_feet_press_inside_of_their_soles(self) -> None:
        """With one foot alone it is on the line from its heel to its toes."""
        gone = Gone(WALK, 1.3)
        sole, bears = Sole(), gone.mass.bearing.toarray() > 1e-6
        alone = np.flatnonzero(bears.sum(axis=1) == 1)
        self.assertGreater(len(alone), 50)
        standing = [one for one in gone.found if one.number > 0]
        for row in alone:
            frame = gone.frames[row]
            on = [one for one in standing if one.first < frame < one.last]
            if len(on) != 1:
                continue
            [foot] = on
            x, z = gone.mass.pressed[row]
            self.assertAlmostEqual(float(x), foot.place[0], 6)
            # It presses off a little ahead of the middle of its ball.
            self.assertTrue(foot.place[1] + sole.heel - 1e-6 <= z <= foot.place[1] + sole.toe + 0.0091)

    def test_it_starts_and_ends_at_rest_over_both_feet(self) -> None:
        for times, speed in ((WALK, 1.3), (RUN, 3.5), (JUMP, 1.5)):
            gone = Gone(times, speed, 9.0)
            places = gone.mass.places
            for end, along in ((0, 0.0), (-1, 9.0)):
                self.assertAlmostEqual(float(places[end, 1]), HIGH, 6)
                self.assertAlmostEqual(float(places[end, 2]), along + 0.05, 6)
                self.assertAlmostEqual(float(places[end, 0]), 0.0, 6)
            last = np.linalg.norm(np.diff(places[-8:], axis=0), axis=1) * FPS
            self.assertLess(float(last.max()), 0.1)

    def test_a_walk_goes_up_and_aside_as_is_published(self) -> None:
        """Whittle, *Gait Analysis: an Introduction* (from memory): some 46 mm up and down, as much to both sides or
        less; its speed changes by some tenth. Highest over the foot, lowest with both."""
        gone = Gone(WALK, 1.3)
        part = gone.middle()
        x, y, z = gone.mass.places[part].T
        self.assertTrue(0.03 < np.ptp(y) < 0.055, np.ptp(y))
        self.assertTrue(0.015 < np.ptp(x) < 0.05, np.ptp(x))
        speed = np.diff(z) * FPS
        self.assertAlmostEqual(float(speed.mean()), 1.3, delta=0.02)
        self.assertLess(float(np.ptp(speed)), 0.25 * 1.3)
        one = next(f for f in gone.found if f.first - 1 >= part.start)
        highest = part.start + int(np.argmax(y[: 2 * 13]))
        middles = [0.5 * (f.first + f.last) - 1 for f in gone.found if f.number > 0 and f.last < 10**8]
        self.assertLess(min(abs(highest - m) for m in middles), 3.0)
        self.assertIsNotNone(one)

    def test_a_run_is_lowest_over_the_foot_and_presses_two_to_three_weights(self) -> None:
        """Cavagna and others; from memory: up and down by 6 to 10 cm, 2 to 3 weights at most."""
        gone = Gone(RUN, 3.5)
        part = gone.middle()
        self.assertTrue(0.06 < np.ptp(gone.mass.places[part, 1]) < 0.11)
        self.assertTrue(2.0 < gone.mass.force[part].max() < 3.0)
        lowest = part.start + int(np.argmin(gone.mass.places[part, 1]))
        middles = [0.5 * (f.first + f.last) - 1 for f in gone.found if f.number > 0 and f.last < 10**8]
        self.assertLess(min(abs(lowest - m) for m in middles), 1.5)

    def test_joins_have_no_step_of_speed(self) -> None:
        """Walk to run and run to jump: level, from one frame to the next by no more than a tenth. As it lands to stand
        it stops more quickly, but feet do not slip for it: they draw by less than friction gives (0.8)."""
        parts = ((80, 1.4, Times.walking(15, 2)), (60, 2.6, Times.flying(7, 3)), (30, 2.2, Times.flying(7, 8, True)))
        which = np.repeat(np.arange(3), [count for count, _, _ in parts])
        kinds = [Pace.even(len(which), speed, times) for _, speed, times in parts]
        pace = Pace(*(np.choose(which, [getattr(kind, name) for kind in kinds]) for name in Pace.__dataclass_fields__))
        found = footfalls(line_of([Point((0.0, 0.0)), Point((0.0, 16.0))]), pace, 12, FPS, lead=8)
        frames = np.arange(1, max(one.first for one in found) + 40)
        mass = mass_over(bearings_of(found, Bounce()), frames, np.full(len(frames), 0.93), FPS, G)
        speed = np.diff(mass.places[:, 2]) * FPS
        lands = max(one.first for one in found) - 18
        self.assertLess(float((np.abs(np.diff(speed)) / speed[1:])[60:lands].max()), 0.1)
        drawn, pressed = np.diff(speed) * FPS, G * mass.force[1:-1]
        self.assertLess(float((np.abs(drawn) / np.maximum(pressed, 0.1 * G)).max()), 0.7)
        self.assertLess(float(mass.force.max()), 4.0)
        self.assertTrue((np.diff(mass.places[:, 2]) > -1e-3).all())
        self.assertTrue(mass.places[:, 1].min() > 0.6 and mass.places[:, 1].max() < 1.2)

    def test_over_a_turn_it_leans_in_and_stays_over_the_feet(self) -> None:
        """It goes round inside of the middle of its feet, as whoever goes round a bend is borne inwards."""
        step = 1.5 * 13 / FPS
        points = bent([Point((0.0, 0.0)), Point((0.0, 16.0 * step))], 1.5 * pi)
        line = line_of(points)
        found = footfalls(line, Pace.even(24, 1.5, WALK), 12, FPS, lead=8)
        frames = np.arange(1, max(one.first for one in found) + 40)
        mass = mass_over(bearings_of(found, Bounce()), frames, np.full(len(frames), HIGH), FPS, G)
        radius = 16.0 * step / (1.5 * pi)
        far = np.linalg.norm(mass.places[60:-80][:, [0, 2]] - [radius, 0.0], axis=1)
        self.assertLess(float(far.mean()), radius - 0.02)

    def test_it_goes_up_a_stair_with_its_feet(self) -> None:
        gone = Gone(Times.walking(18, 5), 0.7, 5.0)
        rise = 0.15
        levels = [rise * max(one.number, 0) for one in gone.found]
        levels[-1] = levels[-2]
        bearings = bearings_of(gone.found, Bounce(), levels=levels)
        landings = [one.first for one in gone.found]
        heights = HIGH + np.interp(gone.frames, landings, levels)
        mass = mass_over(bearings, gone.frames, heights, FPS, G)
        self.assertAlmostEqual(float(mass.places[-1, 1]), HIGH + levels[-1], 6)
        self.assertGreater(float(mass.force.min()), 0.2)
        self.assertLess(float(mass.force.max()), 1.9)
        self.assertLess(float(np.abs(mass.places[:, 1] - heights).max()), 0.12)

    def test_higher_ground_carries_it_higher_and_no_otherwise(self) -> None:
        gone = Gone(WALK, 1.3, 5.0)
        high = mass_over(
            [replace(one, level=one.level + 2.0) for one in gone.bearings],
            gone.frames,
            np.full(len(gone.frames), HIGH + 2.0),
            FPS,
            G,
        )
        np.testing.assert_allclose(high.places, gone.mass.places + [0.0, 2.0, 0.0], atol=1e-6)

    def test_a_footfall_that_is_moved_changes_what_is_near(self) -> None:
        gone = Gone(WALK, 1.3, 20.0)
        number = len(gone.found) // 2
        one: Footfall = gone.found[number]
        found = list(gone.found)
        found[number] = replace(one, place=(one.place[0] + 0.08, one.place[1]))
        mass = mass_over(bearings_of(found, Bounce()), gone.frames, np.full(len(gone.frames), HIGH), FPS, G)
        off = np.linalg.norm(mass.places - gone.mass.places, axis=1)
        self.assertGreater(float(off.max()), 0.02)
        far = (gone.frames < one.first - 48) | (gone.frames > one.last + 48)
        self.assertLess(float(off[far].max()), 0.001)


if __name__ == "__main__":
    unittest.main()
