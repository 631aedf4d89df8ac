"""The rolling foot at every angle, and handles that are set by hand."""

from __future__ import annotations

import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from hame.clip.clip import Clip, difference
from hame.clip.curve import from_json, from_table, split_at, with_keys, without_frames
from hame.clip.key import BEZIER, LINEAR
from hame.clip.sampling import sample_curve
from hame.edits.keys import move_keys
from hame.edits.pose import key_pose
from hame.evaluate.evaluate import channel_values, evaluate, joints
from hame.maths import rotations, transforms
from tests.hame.examples import brannoc_rig

degrees = st.floats(-55, 115)


class FootTest(unittest.TestCase):
    def setUp(self) -> None:
        self.rig = brannoc_rig()
        self.skeleton = self.rig.skeleton

    def rolled(self, roll: float, limit: float = 40.0) -> np.ndarray:
        values = self.rig.rest.copy()
        values[self.rig.number("leg.L.goal/roll")] = np.radians(roll)
        values[self.rig.number("leg.L.goal/break")] = np.radians(limit)
        values[self.rig.number("body/ty")] = -0.12  # within reach at every angle
        return joints(self.rig, evaluate(self.rig, values[None]))[0]

    def carried(self, pose: np.ndarray, joint: str, point: np.ndarray) -> np.ndarray:
        """Where a point of the rest pose is, carried by a joint."""
        j = self.skeleton.index(joint)
        return transforms.apply(pose[j], transforms.apply(transforms.inverse(self.skeleton.world[j]), point))

    def pitch(self, pose: np.ndarray, joint: str) -> float:
        """How far a joint is turned about the foot's sideways axis, degrees."""
        j = self.skeleton.index(joint)
        turned = rotations.multiply(pose[j, 3:7], rotations.inverse(self.skeleton.world[j, 3:7]))
        return float(np.degrees(2 * np.arctan2(np.linalg.norm(turned[:3]), turned[3])) * np.sign(turned[0]))

    @settings(deadline=None, max_examples=60)
    @given(degrees)
    def test_the_foot_is_pitched_by_the_angle_of_the_roll(self, roll: float) -> None:
        self.assertAlmostEqual(self.pitch(self.rolled(roll), "foot_l"), roll, places=5)

    @settings(deadline=None, max_examples=60)
    @given(degrees, st.floats(5, 80))
    def test_the_sole_never_sinks_and_the_pivot_never_moves(self, roll: float, limit: float) -> None:
        pose = self.rolled(roll, limit)
        sole = self.rig.plan.soles["leg.L"]
        heel, tip = np.array(sole["heel"]), np.array(sole["tip"])
        at_heel, at_tip = self.carried(pose, "foot_l", heel), self.carried(pose, "ball_l", tip)
        self.assertGreater(min(at_heel[1], at_tip[1]), min(heel[1], tip[1]) - 1e-9)
        if roll <= 0:
            np.testing.assert_allclose(at_heel, heel, atol=1e-9)
        else:
            np.testing.assert_allclose(at_tip, tip, atol=1e-9)
        if 0 <= roll <= limit:
            ball = self.skeleton.places[self.skeleton.index("ball_l")]
            np.testing.assert_allclose(pose[self.skeleton.index("ball_l"), :3], ball, atol=1e-9)

    def test_the_roll_is_continuous_through_heel_ball_and_toe(self) -> None:
        last = None
        for roll in np.arange(-55, 115, 0.5):
            places = self.rolled(float(roll))[:, :3]
            if last is not None:
                self.assertLess(np.abs(places - last).max(), 0.006, roll)
            last = places

    def test_the_toes_bend_apart_from_the_roll(self) -> None:
        values = self.rig.rest.copy()
        values[self.rig.number("leg.L.toe/rx")] = np.radians(-30)
        pose = joints(self.rig, evaluate(self.rig, values[None]))[0]
        self.assertAlmostEqual(self.pitch(pose, "ball_l"), -30, places=5)
        self.assertAlmostEqual(self.pitch(pose, "foot_l"), 0, places=5)
        self.assertGreater(
            pose[self.skeleton.index("toe_l"), 1], self.skeleton.places[self.skeleton.index("toe_l"), 1] + 0.02
        )

    def test_a_turned_and_scaled_master_rolls_the_foot_alike(self) -> None:
        flat = self.rolled(30)
        values = self.rig.rest.copy()
        for address, value in {
            "leg.L.goal/roll": np.radians(30),
            "body/ty": -0.12,
            "master/ry": 1.1,
            "master/s": 2.0,
        }.items():
            values[self.rig.number(address)] = value
        pose = joints(self.rig, evaluate(self.rig, values[None]))[0]
        by = transforms.transform(np.zeros(3), rotations.from_axis_angle(np.array([0, 1.0, 0]), 1.1), 2.0)
        np.testing.assert_allclose(pose[:, :3], transforms.apply(by, flat[:, :3]), atol=1e-9)


class HandlesTest(unittest.TestCase):
    def test_handles_set_by_hand_stay_through_json_and_new_neighbours(self) -> None:
        curve = from_json([[0, 0.0, BEZIER, 0, 0, 4, 2.5], [12, 1.0, BEZIER, -3, 0.5, 2, 0], [24, 0.0, BEZIER]])
        again = from_json(curve.to_json())
        self.assertEqual(again, curve)
        wider = with_keys(curve, {18: 0.5})
        self.assertEqual(wider.to_json()[0], [0, 0.0, BEZIER, 0, 0, 4, 2.5])
        self.assertEqual(len(wider.to_json()[3]), 3)

    def test_a_handle_longer_than_its_gap_is_shortened_in_its_direction_as_it_is_read(self) -> None:
        long = from_json([[0, 0.0, BEZIER, 0, 0, 20, 5.0], [10, 1.0, BEZIER, 0, 0, 0, 0]])
        fitting = from_json([[0, 0.0, BEZIER, 0, 0, 10, 2.5], [10, 1.0, BEZIER, 0, 0, 0, 0]])
        self.assertEqual(long.to_json()[0][5:], [20, 5.0])
        frames = np.linspace(0, 10, 50)
        np.testing.assert_allclose(sample_curve(long, frames), sample_curve(fitting, frames), atol=1e-9)

    def test_a_neighbour_that_comes_near_and_goes_again_leaves_a_handle_as_it_was(self) -> None:
        rig = brannoc_rig()
        curve = from_json([[1, 0.0, BEZIER, 0, 0, 8, 0.3], [13, 0.5, BEZIER], [25, 0.0, BEZIER]])
        clip = Clip().with_curves({"head/rx": curve})
        near = move_keys(clip, rig, {"head/rx": [13]}, -8).clip
        back = move_keys(near, rig, {"head/rx": [5]}, 8).clip
        self.assertEqual(back.curves["head/rx"], curve)

    def test_a_curve_cut_by_a_key_stays_what_it_was_whatever_its_handles(self) -> None:
        """Long handles inside their gap: de Casteljau's halves have handles that pass the new key."""
        t = np.linspace(0, 24, 500)
        for out, into in (
            ((24, 1.0), (-24, 0.5)),
            ((23, -2.0), (-20, 1.5)),
            ((40, 3.0), (-30, 1.0)),
            ((2, 1), (-22, 2)),
        ):
            curve = from_json([[0, 0.0, BEZIER, 0, 0, *out], [24, 1.0, BEZIER, *into, 0, 0]])
            for frame in (1, 7, 12, 20):
                parted = from_table(split_at(curve.table, frame))
                np.testing.assert_allclose(sample_curve(parted, t), sample_curve(curve, t), atol=1e-6)

    def test_what_a_curve_shows_stays_inside_the_limits_of_its_channel(self) -> None:
        rig = brannoc_rig()
        jaw = from_json([[1, np.radians(38), BEZIER, 0, 0, 4, 0.3], [13, np.radians(39), BEZIER, -4, 0.3, 0, 0]])
        clip = Clip().with_curves({"jaw/rx": jaw})
        frames = np.arange(1, 14)
        shown = channel_values(rig, clip, frames)[:, rig.number("jaw/rx")]
        self.assertGreater(sample_curve(jaw, frames.astype(float)).max(), np.radians(40.5))
        self.assertLessEqual(shown.max(), np.radians(40))
        keyed = key_pose(clip, rig, 7, ["jaw"]).clip
        self.assertLessEqual(keyed.curves["jaw/rx"].values.max(), np.radians(40))

    def test_a_broken_handle_makes_a_sharp_corner(self) -> None:
        curve = from_json([[0, 0.0, BEZIER], [10, 1.0, BEZIER, -3, -0.9, 3, -0.9], [20, 0.0, BEZIER]])
        e = 1e-4
        before, at, after = sample_curve(curve, np.array([10 - e, 10, 10 + e]))
        self.assertAlmostEqual((at - before) / e, 0.3, places=2)
        self.assertAlmostEqual((after - at) / e, -0.3, places=2)

    def test_a_lengthened_handle_hangs_at_the_top(self) -> None:
        """Common practice, no source: longer flat handles keep a thing near its highest place for longer."""
        plain = from_json([[0, 0.0, BEZIER], [12, 1.0, BEZIER], [24, 0.0, BEZIER]])
        long = from_json([[0, 0.0, BEZIER], [12, 1.0, BEZIER, -9, 0, 9, 0], [24, 0.0, BEZIER]])
        frames = np.arange(25.0)
        self.assertGreater((sample_curve(long, frames) > 0.9).sum(), (sample_curve(plain, frames) > 0.9).sum())

    def test_the_difference_sees_a_changed_handle(self) -> None:
        a = from_json([[0, 0.0, BEZIER, 0, 0, 3, 0], [10, 1.0, BEZIER]])
        b = from_json([[0, 0.0, BEZIER, 0, 0, 3, 1], [10, 1.0, BEZIER]])
        patch = difference(Clip().with_curves({"x/tx": a}), Clip().with_curves({"x/tx": b}))
        self.assertEqual(patch.apply(Clip().with_curves({"x/tx": a})).curves["x/tx"], b)
        self.assertEqual(patch.reversed().apply(Clip().with_curves({"x/tx": b})).curves["x/tx"], a)

    @settings(deadline=None, max_examples=60)
    @given(st.lists(st.tuples(st.integers(0, 60), st.floats(-3, 3)), min_size=2, max_size=8, unique_by=lambda k: k[0]))
    def test_a_curve_goes_through_its_keys_whatever_their_shapes(self, keys: list[tuple[int, float]]) -> None:
        rows = [[frame, value, n % 3] for n, (frame, value) in enumerate(keys)]
        curve = from_json(rows)
        found = sample_curve(curve, np.array([float(frame) for frame, _ in keys]))
        np.testing.assert_allclose(found, [value for _, value in keys], atol=1e-12)

    def test_taking_a_key_out_of_a_straight_line_leaves_the_line(self) -> None:
        line = from_json([[0, 0.0, LINEAR], [6, 3.0, LINEAR], [12, 6.0, LINEAR]])
        shorter = without_frames(line, [6])
        assert shorter is not None
        frames = np.arange(13.0)
        np.testing.assert_allclose(sample_curve(shorter, frames), sample_curve(line, frames), atol=1e-12)
