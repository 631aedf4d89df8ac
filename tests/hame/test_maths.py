"""Rotations against SciPy, Bezier keys against W3C css-easing-1."""

from __future__ import annotations

import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.spatial.transform import Rotation, Slerp

from hame.clip.curve import from_json
from hame.clip.key import OUT_TIME, OUT_VALUE
from hame.clip.sampling import sample_curve
from hame.maths import rotations, transforms
from hame.maths.bezier import fit
from hame.maths.rotation_rows import eulers_in
from hame.maths.rotations import EULER_ORDERS, axes_of

angle = st.floats(-3.1, 3.1)


class RotationsTest(unittest.TestCase):
    """Source: scipy.spatial.transform.Rotation and Slerp."""

    def setUp(self) -> None:
        self.turns = Rotation.random(200, random_state=3)

    def test_rotation_vectors_and_angles_between_are_scipy_s(self) -> None:
        rng = np.random.default_rng(11)
        turns = [*rng.normal(size=(40, 4)), [0.0, 0.0, 0.0, 1.0], [0.0, 0.0, 0.0, -1.0], [1e-9, 0.0, 0.0, 1.0]]
        for a, b in zip(turns, turns[1:], strict=False):
            a, b = np.array(a) / np.linalg.norm(a), np.array(b) / np.linalg.norm(b)
            np.testing.assert_allclose(rotations.to_vector(a), Rotation.from_quat(a).as_rotvec(), atol=1e-9)
            between = (Rotation.from_quat(a).inv() * Rotation.from_quat(b)).magnitude()
            self.assertAlmostEqual(rotations.angle_between(a, b), between, places=6)

    def test_products_rotated_vectors_and_matrices(self) -> None:
        a, b = self.turns[:100], self.turns[100:]
        same = Rotation.from_quat(rotations.multiply(a.as_quat(), b.as_quat())).inv() * (a * b)
        self.assertLess(np.abs(same.magnitude()).max(), 1e-12)
        v = np.random.default_rng(0).normal(size=(100, 3))
        np.testing.assert_allclose(rotations.rotate(a.as_quat(), v), a.apply(v), atol=1e-12)
        np.testing.assert_allclose(rotations.to_matrix(a.as_quat()), a.as_matrix(), atol=1e-12)
        for q, m in zip(a.as_quat(), a.as_matrix(), strict=True):
            self.assertAlmostEqual(abs(rotations.from_matrix(m) @ q), 1.0, places=12)

    def test_rows_go_with_one_and_with_none_and_with_views_as_scipy_s(self) -> None:
        q, v = self.turns.as_quat(), np.random.default_rng(1).normal(size=(200, 3))
        one, held = self.turns[7], np.broadcast_to(q[7], (200, 4))  # one that must not be written to
        for alone in (q[7], q[7:8], held, np.asfortranarray(held)):
            for found, wanted in (
                (rotations.multiply(alone, q), one * self.turns), (rotations.multiply(q, alone), self.turns * one),
            ):  # fmt: skip
                self.assertLess(float((Rotation.from_quat(found).inv() * wanted).magnitude().max()), 1e-12)
            np.testing.assert_allclose(rotations.rotate(alone, v), one.apply(v), atol=1e-12)
        np.testing.assert_allclose(rotations.rotate(q, v[5]), self.turns.apply(v[5]), atol=1e-12)
        np.testing.assert_allclose(rotations.rotate(q[::-2], v[::2]), self.turns[::-2].apply(v[::2]), atol=1e-12)
        self.assertEqual(rotations.multiply(q[:0], q[:0]).shape, (0, 4))
        self.assertEqual(rotations.rotate(q[7], v[:0]).shape, (0, 3))
        self.assertEqual(rotations.multiply(q.reshape(50, 1, 4, 4), q[:4]).shape, (50, 1, 4, 4))
        with self.assertRaises(ValueError):
            rotations.multiply(q, q[:3])
        turns = rotations.from_vector(np.concatenate([np.zeros((1, 3)), 1e-160 * v[:1], v]))
        theirs = Rotation.from_rotvec(np.concatenate([np.zeros((2, 3)), v]))
        self.assertLess(float((Rotation.from_quat(turns).inv() * theirs).magnitude().max()), 1e-12)

    def test_euler_angles_in_rows_are_scipy_s_unwound(self) -> None:
        way = Rotation.from_rotvec(np.linspace(0.0, 9.0, 200)[:, None] * [0.2, 0.9, -0.3])
        frame, pre = self.turns, Rotation.from_rotvec([0.3, -0.2, 0.5])
        for order in ("YXZ", "XYZ", "ZXY"):
            found = eulers_in(frame.as_quat(), pre.as_quat(), (frame * pre * way).as_quat(), *axes_of(order))
            np.testing.assert_allclose(found, np.unwrap(way.as_euler(order), axis=0), atol=1e-9, err_msg=order)

    def test_euler_angles_of_all_twelve_orders(self) -> None:
        for order in EULER_ORDERS:
            theirs = self.turns.as_euler(order)
            for q, angles in zip(self.turns.as_quat(), theirs, strict=True):
                np.testing.assert_allclose(rotations.to_euler(q, order), angles, atol=1e-9, err_msg=order)
                self.assertAlmostEqual(abs(rotations.from_euler(angles, order) @ q), 1.0, places=12)

    @settings(deadline=None, max_examples=60)
    @given(st.sampled_from(EULER_ORDERS), angle, st.sampled_from([0.0, np.pi / 2, -np.pi / 2, np.pi]), angle)
    def test_euler_angles_at_the_poles_give_the_same_rotation(self, order: str, a: float, b: float, c: float) -> None:
        q = rotations.from_euler(np.array([a, b, c]), order)
        again = rotations.from_euler(rotations.to_euler(q, order), order)
        self.assertAlmostEqual(abs(again @ q), 1.0, places=9)

    def test_angles_nearest_to_the_last_ones_do_not_jump(self) -> None:
        last = np.zeros(3)
        for step in range(1, 300):  # two and a half turns about each axis in a row
            q = rotations.from_axis_angle(np.array([0.3, 1.0, 0.2]), 0.05 * step)
            angles = rotations.to_euler_near(q, "YXZ", last)
            self.assertLess(np.abs(angles - last).max(), 0.3)
            last = angles
        self.assertGreater(last[0], 2 * np.pi)

    def test_slerp(self) -> None:
        a, b = self.turns[0], self.turns[1]
        between = Slerp([0, 1], Rotation.concatenate([a, b]))
        for t in np.linspace(0, 1, 11):
            self.assertAlmostEqual(
                abs(rotations.slerp(a.as_quat(), b.as_quat(), t) @ between(t).as_quat()), 1.0, places=12
            )

    def test_an_axis_without_length_and_an_unknown_order_are_refused(self) -> None:
        with self.assertRaises(ValueError):
            rotations.from_axis_angle(np.zeros(3), 1.0)
        with self.assertRaises(ValueError):
            rotations.from_euler(np.zeros(3), "XXY")

    def test_transforms_compose_and_undo_like_matrices(self) -> None:
        rng = np.random.default_rng(5)
        a, b = (transforms.transform(rng.normal(size=3), self.turns[n].as_quat(), s) for n, s in ((0, 2.0), (1, 0.5)))
        product = transforms.to_matrix(a) @ transforms.to_matrix(b)
        np.testing.assert_allclose(transforms.to_matrix(transforms.compose(a, b)), product, atol=1e-12)
        np.testing.assert_allclose(
            transforms.to_matrix(transforms.inverse(a)), np.linalg.inv(transforms.to_matrix(a)), atol=1e-12
        )


class BezierKeysTest(unittest.TestCase):
    """Source: W3C css-easing-1, the named cubic-bezier() timing functions."""

    NAMED = {
        "ease": (0.25, 0.1, 0.25, 1.0),
        "ease-in": (0.42, 0.0, 1.0, 1.0),
        "ease-out": (0.0, 0.0, 0.58, 1.0),
        "ease-in-out": (0.42, 0.0, 0.58, 1.0),
    }

    def test_named_easings(self) -> None:
        for name, (x1, y1, x2, y2) in self.NAMED.items():
            gap = 24
            curve = from_json([[0, 0, 2, 0, 0, x1 * gap, y1], [gap, 1, 2, (x2 - 1) * gap, y2 - 1, 0, 0]])
            u = np.linspace(0, 1, 1001)  # the curve by its parameter, as the specification defines it
            x = 3 * (1 - u) ** 2 * u * x1 + 3 * (1 - u) * u**2 * x2 + u**3
            y = 3 * (1 - u) ** 2 * u * y1 + 3 * (1 - u) * u**2 * y2 + u**3
            np.testing.assert_allclose(sample_curve(curve, x * gap), y, atol=1e-9, err_msg=name)

    def test_published_values_of_ease(self) -> None:
        """From memory: half way through, `ease` has reached 0.8024 and `ease-in-out` 0.5."""
        ease = from_json([[0, 0, 2, 0, 0, 6, 0.1], [24, 1, 2, -18, 0, 0, 0]])
        self.assertAlmostEqual(sample_curve(ease, np.array([12.0]))[0], 0.8024, places=4)
        both = from_json([[0, 0, 2, 0, 0, 10.08, 0], [24, 1, 2, -10.08, 0, 0, 0]])
        self.assertAlmostEqual(sample_curve(both, np.array([12.0]))[0], 0.5, places=12)

    @settings(deadline=None, max_examples=100)
    @given(st.lists(st.floats(-5, 5), min_size=2, max_size=6), st.integers(1, 9))
    def test_automatic_handles_never_overshoot_their_keys(self, values: list[float], gap: int) -> None:
        curve = from_json([[n * gap, v, 2] for n, v in enumerate(values)])
        frames = np.linspace(0, (len(values) - 1) * gap, 200)
        found = sample_curve(curve, frames)
        for frame, value in zip(frames, found, strict=True):
            n = min(int(frame // gap), len(values) - 2)
            low, high = sorted(values[n : n + 2])
            self.assertTrue(low - 1e-9 <= value <= high + 1e-9)

    @settings(deadline=None, max_examples=100)
    @given(st.floats(-30, 60), st.floats(-9, 9), st.floats(-60, 30), st.floats(-9, 9))
    def test_any_handles_leave_one_value_for_every_time(self, ox: float, oy: float, ix: float, iy: float) -> None:
        curve = from_json([[0, 0, 2, 0, 0, ox, oy], [10, 1, 2, ix, iy, 0, 0]])
        found = sample_curve(curve, np.linspace(0, 10, 400))
        self.assertTrue(np.isfinite(found).all())
        self.assertEqual(curve.table[0, [OUT_TIME, OUT_VALUE]].tolist(), [ox, oy])  # what was set stays as it was set

        def runs_back(share: float) -> bool:
            u, x1, x2 = np.linspace(0, 1, 2001), share * max(ox, 0.0), 10 + share * min(ix, 0.0)
            times = 3 * (1 - u) ** 2 * u * x1 + 3 * (1 - u) * u**2 * x2 + 10 * u**3
            return bool((np.diff(times) < -1e-6).any())

        share = fit(10.0, ox, ix)
        self.assertFalse(runs_back(share))
        self.assertTrue(share == 1.0 or runs_back(1.05 * share))  # and is shortened no more than it must be
