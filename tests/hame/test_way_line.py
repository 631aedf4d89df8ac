"""The line of a way: lengths and headings along it, held against SciPy's quadrature and by hand."""

from __future__ import annotations

import unittest
from math import cos, pi, sin, sqrt

import numpy as np
from scipy.integrate import quad
from scipy.interpolate import BPoly

from hame.errors import BadEdit
from hame.gait.line import Line, Point, bent, line_of, stretched, with_point


def through(*places: tuple[float, float], closed: bool = False) -> Line:
    return line_of([Point(place) for place in places], closed)


def straight(count: int, step: float) -> list[Point]:
    return [Point((0.0, step * n)) for n in range(count)]


class LineTest(unittest.TestCase):
    def test_lengths_are_those_of_an_adaptive_quadrature(self) -> None:
        """`scipy.integrate.quad` over the same pieces as SciPy's own polynomials in Bernstein's form."""
        line = through((0.0, 0.0), (1.0, 2.0), (3.5, 1.0), (3.0, -2.0), (0.5, -1.5))
        total = 0.0
        for piece in line.pieces:
            x, z = (BPoly(piece[:, axis][:, None], [0.0, 1.0]).derivative() for axis in range(2))
            total += quad(lambda t, x=x, z=z: float(np.hypot(x(t), z(t))), 0.0, 1.0, epsabs=1e-12)[0]
        self.assertAlmostEqual(line.length, total, 7)

    def test_equal_steps_along_it_are_equal_lengths(self) -> None:
        line = through((0.0, 0.0), (1.0, 2.0), (3.5, 1.0), (3.0, -2.0))
        fine = np.linspace(0.0, line.length, 20001)
        places, headings = line.at(fine)
        steps = np.linalg.norm(np.diff(places, axis=0), axis=1)
        self.assertLess(float(np.abs(steps / (line.length / 20000) - 1.0).max()), 1e-5)
        # Where it heads is where it goes.
        way = np.diff(places, axis=0) / steps[:, None]
        middle = 0.5 * (headings[1:] + headings[:-1])
        np.testing.assert_allclose(way, np.stack([np.sin(middle), np.cos(middle)], axis=1), atol=1e-4)

    def test_it_goes_smoothly_through_its_points(self) -> None:
        places = [(0.0, 0.0), (1.0, 2.0), (3.5, 1.0), (3.0, -2.0)]
        line = through(*places)
        for n, piece in enumerate(line.pieces):
            np.testing.assert_allclose([piece[0], piece[3]], places[n : n + 2])
        for one, other in zip(line.pieces[:-1], line.pieces[1:], strict=True):
            into, out = one[3] - one[2], other[1] - other[0]
            cross = into[0] * out[1] - into[1] * out[0]
            self.assertAlmostEqual(float(cross), 0.0, 12)
            self.assertGreater(float(into @ out), 0.0)

    def test_beyond_its_ends_it_goes_straight_on_and_a_closed_one_round(self) -> None:
        line = through((0.0, 0.0), (0.0, 3.0))
        places, headings = line.at(np.array([-1.0, 0.0, 3.0, 5.0]))
        np.testing.assert_allclose(places, [[0.0, -1.0], [0.0, 0.0], [0.0, 3.0], [0.0, 5.0]], atol=1e-9)
        np.testing.assert_allclose(headings, 0.0, atol=1e-9)
        ring = through(*((sin(0.25 * pi * n), cos(0.25 * pi * n)) for n in range(8)), closed=True)
        self.assertAlmostEqual(ring.length, 2.0 * pi, delta=0.002)
        one, other = ring.at(np.array([0.7])), ring.at(np.array([0.7 + 2.0 * ring.length]))
        np.testing.assert_allclose(one[0], other[0], atol=1e-9)
        self.assertAlmostEqual(float(other[1][0] - one[1][0]), 4.0 * pi, 6)
        around = ring.at(np.linspace(-ring.length, ring.length, 400))[1]
        self.assertLess(float(np.diff(around).max()), 0.1)
        self.assertGreater(float(np.diff(around).min()), 0.0)

    def test_a_handle_that_is_set_is_kept(self) -> None:
        points = [Point((0.0, 0.0), out=(1.0, 0.0)), Point((0.0, 2.0), into=(-1.0, 0.0))]
        line = line_of(points)
        self.assertAlmostEqual(float(line.at(np.array([0.0]))[1][0]), pi / 2, 9)
        np.testing.assert_allclose(line.pieces[0], [[0.0, 0.0], [1.0, 0.0], [-1.0, 2.0], [0.0, 2.0]])

    def test_bent_by_a_right_angle_it_is_an_arc(self) -> None:
        """By hand: an arc of length l over a quarter turn has the radius 2 l / pi, and heads evenly along it."""
        for points in (straight(2, 7.0), straight(4, 3.0), straight(20, 0.4)):
            long = line_of(points).length
            arc = line_of(bent(points, pi / 2))
            self.assertAlmostEqual(arc.length / long, 1.0, 5)
            places, headings = arc.at(np.linspace(0.0, arc.length, 10))
            np.testing.assert_allclose(np.degrees(np.diff(headings)), 10.0, atol=0.02)
            np.testing.assert_allclose(places[-1], [2.0 * long / pi, 2.0 * long / pi], rtol=2e-4)
            chords = np.linalg.norm(np.diff(places, axis=0), axis=1)
            np.testing.assert_allclose(chords, 2.0 * (2.0 * long / pi) * sin(pi / 36), rtol=1e-3)

    def test_bent_and_back_it_is_what_it_was(self) -> None:
        points = [Point((0.0, 0.0)), Point((1.0, 2.0)), Point((3.5, 2.5)), Point((5.0, 1.0))]
        line = line_of(points)
        back = line_of(bent(bent(points, 1.2), -1.2))
        along = np.linspace(0.0, line.length, 50)
        self.assertLess(float(np.linalg.norm(line.at(along)[0] - back.at(along)[0], axis=1).max()), 0.002)

    def test_it_is_stretched_from_its_first_point(self) -> None:
        points = [Point((1.0, 1.0), out=(0.5, 0.0)), Point((2.0, 3.0)), Point((4.0, 3.0))]
        longer = stretched(points, 1.5)
        self.assertEqual(longer[0].place, (1.0, 1.0))
        self.assertAlmostEqual(line_of(longer).length / line_of(points).length, 1.5, 9)

    def test_a_point_is_put_in_and_the_line_stays(self) -> None:
        points = [Point((0.0, 0.0)), Point((1.0, 2.0)), Point((3.5, 2.5))]
        line = line_of(points)
        more, number = with_point(points, 2.9)
        self.assertEqual((len(more), number), (4, 2))
        np.testing.assert_allclose(more[2].place, line.at(np.array([2.9]))[0][0], atol=1e-6)
        along = np.linspace(0.0, line.length, 80)
        self.assertLess(float(np.linalg.norm(line.at(along)[0] - line_of(more).at(along)[0], axis=1).max()), 1e-4)
        with self.assertRaisesRegex(BadEdit, "a point of the way already"):
            with_point(points, 0.001)

    def test_what_is_no_way_is_refused(self) -> None:
        for points, words in (
            ([Point((0.0, 0.0))], "2 to"), ([Point((0.0, 0.0)), Point((0.0, 0.0))], "lie in one place"),
            ([Point((0.0, 0.0)), Point((float("nan"), 1.0))], "one place"),
        ):  # fmt: skip
            with self.assertRaisesRegex(BadEdit, words):
                line_of(points)

    def test_a_line_that_turns_back_is_gone_through(self) -> None:
        line = through((0.0, 0.0), (0.0, 2.0), (0.0, 1.0))
        places, headings = line.at(np.linspace(0.0, line.length, 200))
        self.assertTrue(np.isfinite(places).all() and np.isfinite(headings).all())
        self.assertLess(float(np.linalg.norm(np.diff(places, axis=0), axis=1).max()), 1.2 * line.length / 199)
        self.assertLess(line.length, 3.0 + sqrt(2.0))


if __name__ == "__main__":
    unittest.main()
