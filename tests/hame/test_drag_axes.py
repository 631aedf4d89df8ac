"""Dragging in every kind of axes, on rigs that are turned, scaled and mirrored."""

from __future__ import annotations

import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.spatial.transform import Rotation

from hame.evaluate.evaluate import evaluate
from hame.maths import rotations
from hame.solve import drag
from tests.hame.examples import brannoc_rig, random_pose

AXES = ("world", "parent", "own", "view")
numbers = st.floats(-0.2, 0.2)


class DragAxesTest(unittest.TestCase):
    def setUp(self) -> None:
        self.rig = brannoc_rig()
        self.values = random_pose(self.rig, 31, 0.3)
        # A character that has gone somewhere, looks elsewhere and is half as large again.
        for name, value in (("tx", 2.0), ("tz", -1.0), ("ry", 2.2), ("s", 1.5)):
            self.values[self.rig.number(f"master/{name}")] = value
        self.view = rotations.from_euler(np.array([0.6, -0.3, 0.0]), "YXZ")

    def node(self, values: np.ndarray, control: str, frame: bool = False) -> np.ndarray:
        found = self.rig.control(control)
        return evaluate(self.rig, values[None])[0, found.frame if frame else found.node]

    def basis(self, control: str, axes: str) -> np.ndarray:
        if axes == "world":
            return rotations.IDENTITY
        if axes == "view":
            return self.view
        return self.node(self.values, control, frame=axes == "parent")[3:7]

    @settings(deadline=None, max_examples=40)
    @given(st.lists(st.floats(-2, 2), min_size=3, max_size=3), st.floats(-1.5, 1.5))
    def test_a_turn_about_a_place_anywhere_is_that_of_a_rigid_body(self, pivot: list[float], angle: float) -> None:
        """Against scipy.spatial.transform.Rotation."""
        axis = np.array([0.0, 1.0, 0.0])
        after = drag.turn(self.rig, self.values, ["body"], axis, angle, "world", pivot=np.array(pivot))
        turn = Rotation.from_rotvec(angle * axis)
        was, now = self.node(self.values, "body"), self.node(after, "body")
        np.testing.assert_allclose(now[:3], pivot + turn.apply(was[:3] - pivot), atol=1e-9)
        expected = turn * Rotation.from_quat(was[3:7])
        self.assertLess((expected.inv() * Rotation.from_quat(now[3:7])).magnitude(), 1e-6)

    @settings(deadline=None, max_examples=40)
    @given(
        st.sampled_from(AXES),
        st.sampled_from(["leg.L.goal", "body", "arm.R.goal", "leg.R.pole"]),
        numbers,
        numbers,
        numbers,
    )
    def test_a_move_goes_along_the_axes_it_was_given_in(
        self, axes: str, control: str, x: float, y: float, z: float
    ) -> None:
        offset = np.array([x, y, z])
        after = drag.move(self.rig, self.values, [control], offset, axes, self.view)  # type: ignore[arg-type]
        way = self.node(after, control)[:3] - self.node(self.values, control)[:3]
        np.testing.assert_allclose(way, rotations.rotate(self.basis(control, axes), offset), atol=1e-8)

    @settings(deadline=None, max_examples=40)
    @given(
        st.sampled_from(AXES),
        st.sampled_from(["head", "leg.L.goal", "arm.L.upper", "body"]),
        st.integers(0, 2),
        st.floats(-1, 1),
    )
    def test_a_turn_is_about_the_axis_it_was_given_about(
        self, axes: str, control: str, axis: int, angle: float
    ) -> None:
        about = np.eye(3)[axis]
        after = drag.turn(self.rig, self.values, [control], about, angle, axes, self.view)  # type: ignore[arg-type]
        by = rotations.from_axis_angle(rotations.rotate(self.basis(control, axes), about), angle)
        wanted = rotations.multiply(by, self.node(self.values, control)[3:7])
        self.assertAlmostEqual(abs(float(wanted @ self.node(after, control)[3:7])), 1.0, places=8)
        np.testing.assert_allclose(self.node(after, control)[:3], self.node(self.values, control)[:3], atol=1e-8)

    def test_there_and_back_is_nowhere(self) -> None:
        for axes in ("world", "view"):
            there = drag.move(self.rig, self.values, ["body", "leg.L.goal"], np.array([0.1, 0.2, 0.3]), axes, self.view)  # type: ignore[arg-type]
            back = drag.move(self.rig, there, ["body", "leg.L.goal"], -np.array([0.1, 0.2, 0.3]), axes, self.view)  # type: ignore[arg-type]
            np.testing.assert_allclose(back, self.values, atol=1e-9)

    def test_turning_on_and_on_never_jumps(self) -> None:
        values, number = self.rig.rest, self.rig.number("head/ry")
        for _ in range(60):
            values_after = drag.turn(self.rig, values, ["head"], np.array([0, 1.0, 0]), 0.3, "own")
            self.assertLess(abs(values_after[number] - values[number] - 0.3), 1e-6)
            values = values_after
        self.assertGreater(values[number], 5 * np.pi)

    def test_one_drag_of_several_turns_counts_them(self) -> None:
        for degrees in (170, 190, 270, 725, -400):
            angle = np.radians(degrees)
            for pivot in (None, np.array([0.3, 0.0, 0.1])):
                after = drag.turn(self.rig, self.rig.rest, ["body"], np.array([0, 1.0, 0]), angle, "world", pivot=pivot)
                self.assertAlmostEqual(after[self.rig.number("body/ry")], angle, places=9)

    def test_a_move_at_a_pole_of_the_angles_changes_no_turn(self) -> None:
        """At a pitch of 90 degrees many angles give one turn: a move leaves them, a turn changes them least."""
        values = self.rig.rest.copy()
        for name, value in (("rx", np.pi / 2), ("ry", 0.4), ("rz", -0.2)):
            values[self.rig.number(f"body/{name}")] = value
        moved = drag.move(self.rig, values, ["body"], np.array([0.1, 0.2, 0.3]), "own")
        changed = {self.rig.channels[n].kind for n in np.flatnonzero(moved != values)}
        self.assertEqual(changed, {"place"})
        turned = drag.turn(self.rig, values, ["body"], np.array([0, 1.0, 0]), 0.01, "world")
        self.assertLess(np.abs(turned - values).max(), 0.0101)

    def test_the_whole_rig_moves_as_its_master_does(self) -> None:
        names = [c.name for c in self.rig.controls]
        offset = np.array([0.1, 0.05, -0.2])
        all_of_it = drag.move(self.rig, self.values, names, offset, "world")
        master = drag.move(self.rig, self.values, ["master"], offset, "world")
        a, b = (evaluate(self.rig, v[None])[0, self.rig.joint_nodes] for v in (all_of_it, master))
        np.testing.assert_allclose(a, b, atol=1e-9)

    def test_nothing_but_the_dragged_controls_changes(self) -> None:
        after = drag.move(self.rig, self.values, ["leg.L.goal"], np.array([0.1, 0, 0]), "world")
        changed = {self.rig.channels[n].control for n in np.flatnonzero(after != self.values)}
        self.assertEqual(changed, {"leg.L.goal"})

    def test_both_sides_leave_a_selected_counterpart_alone(self) -> None:
        rest = self.rig.rest
        names = ["leg.L.goal", "leg.R.goal"]
        after = drag.move(self.rig, rest, names, np.array([0.1, 0, 0]), "world")
        again = drag.on_both_sides(self.rig, rest, after, names, "mirrored")
        np.testing.assert_array_equal(again, after)

    def test_mirrored_turns_of_a_limb_look_the_same_in_the_mirror(self) -> None:
        rest = self.rig.rest
        after = drag.turn(self.rig, rest, ["arm.L.upper"], np.array([0.3, 1, 0.2]), 0.5, "own")
        after = drag.on_both_sides(self.rig, rest, after, ["arm.L.upper"], "mirrored")
        left, right = (self.node(after, f"arm.{side}.lower")[:3] for side in "LR")
        np.testing.assert_allclose(left * [-1, 1, 1], right, atol=1e-9)
