from __future__ import annotations

import unittest

import numpy as np

from hame.clip.clip import Clip
from hame.edits.columns import delete_columns, duplicate_columns, move_columns, paste_column
from hame.edits.limbs import switch_limb
from hame.edits.pose import drop_pending, key_pose, rest_values, set_pose
from hame.errors import Asks, BadEdit, HameError
from hame.evaluate.evaluate import channel_values, evaluate, joints
from hame.maths import rotations
from hame.scene.seen import pose_values
from hame.solve import drag
from tests.hame.examples import brannoc_rig, random_pose


class PoseEditsTest(unittest.TestCase):
    def setUp(self) -> None:
        self.rig = brannoc_rig()
        self.keyed = key_pose(Clip(), self.rig, 1).clip

    def test_the_whole_character_is_keyed_without_size_and_locked_channels(self) -> None:
        self.assertIn("head/ry", self.keyed.curves)
        self.assertNotIn("master/s", self.keyed.curves)
        self.assertNotIn("arm.L.lower/rz", self.keyed.curves)
        with_size = key_pose(Clip(), self.rig, 1, kinds=("place", "turn", "extra", "scale")).clip
        self.assertIn("master/s", with_size.curves)

    def test_automatic_keying_has_three_extents(self) -> None:
        changed = set_pose(self.keyed, self.rig, 13, {"head/ry": 0.3}, "changed").clip
        self.assertEqual({a for a, c in changed.curves.items() if len(c) == 2}, {"head/ry"})
        control = set_pose(self.keyed, self.rig, 13, {"head/ry": 0.3}, "control").clip
        self.assertEqual({a for a, c in control.curves.items() if len(c) == 2}, {"head/rx", "head/ry", "head/rz"})
        whole = set_pose(self.keyed, self.rig, 13, {"head/ry": 0.3}, "whole").clip
        self.assertTrue(all(len(c) == 2 for c in whole.curves.values()))
        self.assertEqual(channel_values(self.rig, whole, [13])[0][self.rig.number("head/ry")], 0.3)

    def test_without_automatic_keying_a_pose_waits_and_is_neither_lost_nor_played(self) -> None:
        waiting = set_pose(self.keyed, self.rig, 7, {"head/ry": 0.3}, "off").clip
        waiting = set_pose(waiting, self.rig, 7, {"neck/rx": 0.1}, "off").clip
        number = self.rig.number("head/ry")
        self.assertEqual(pose_values(self.rig, waiting, 7)[number], 0.3)
        self.assertEqual(channel_values(self.rig, waiting, [7])[0][number], 0.0)
        kept = key_pose(waiting, self.rig, 7, ["head"]).clip
        self.assertEqual(dict(kept.pending[7]), {"neck/rx": 0.1})
        self.assertEqual(kept.key_frames(["head/ry"]), [1, 7])
        self.assertEqual(drop_pending(waiting, 7).clip.pending, {})
        with self.assertRaises(BadEdit):
            drop_pending(self.keyed, 7)

    def test_refusals_name_the_reason(self) -> None:
        for values, words in (
            ({"head/ry": float("nan")}, "not a number"),
            ({"tail/ry": 1.0}, "no channel called tail/ry"),
            ({"arm.L.lower/rz": 0.1}, "hinge"),
            ({"leg.L/ik": 1.5}, "past its limit"),
            ({"jaw/rx": 3.0}, "degrees"),
        ):
            with self.assertRaisesRegex(BadEdit, words):
                set_pose(self.keyed, self.rig, 5, values, "changed")
        with self.assertRaisesRegex(BadEdit, "not whole"):
            set_pose(self.keyed, self.rig, 5.5, {"head/ry": 0.1}, "changed")  # type: ignore[arg-type]
        with self.assertRaisesRegex(BadEdit, "nothing is selected"):
            key_pose(self.keyed, self.rig, 5, [])

    def test_reset_takes_places_turns_and_extras_apart(self) -> None:
        places = rest_values(self.rig, ["leg.L.goal"], ["place"])
        self.assertEqual(set(places), {"leg.L.goal/tx", "leg.L.goal/ty", "leg.L.goal/tz"})
        self.assertIn("leg.L.goal/break", rest_values(self.rig, ["leg.L.goal"], ["extra"]))
        self.assertEqual(rest_values(self.rig, None, ["extra"])["leg.R/ik"], 1.0)

    def test_changing_a_limb_to_ik_does_not_move_it_at_that_frame(self) -> None:
        posed = set_pose(self.keyed, self.rig, 9, {"arm.L.upper/rx": -0.6, "arm.L.lower/rx": 0.8}, "changed").clip
        switched = switch_limb(posed, self.rig, 9, "arm.L", "ik", "changed").clip
        before, after = (
            joints(self.rig, evaluate(self.rig, pose_values(self.rig, c, 9)[None])) for c in (posed, switched)
        )
        np.testing.assert_allclose(after, before, atol=1e-7)

    def test_a_limb_that_cannot_stand_as_it_does_asks_first(self) -> None:
        """An elbow bent past what its hinge allows, and toes past their limit: by how much it would move is said."""
        shoulder, hand = (self.rig.skeleton.places[self.rig.skeleton.index(j)] for j in ("upper_arm_l", "hand_l"))
        folded_up = dict(zip(("tx", "ty", "tz"), shoulder - hand + [0.03, 0, 0.03], strict=True))
        for limb, to, values, what in (
            ("arm.L", "fk", {"arm.L/ik": 1.0, **{f"arm.L.goal/{n}": float(v) for n, v in folded_up.items()}}, "arm"),
            ("leg.L", "fk", {"leg.L.goal/roll": 0.69, "leg.L.toe/rx": -1.2, "body/ty": -0.1}, "leg"),
        ):
            folded = set_pose(self.keyed, self.rig, 9, values, "changed").clip
            with self.assertRaisesRegex(
                Asks, rf"left {what} cannot stand quite as it does at 9: .* would (move|turn) by"
            ):
                switch_limb(folded, self.rig, 9, limb, to, "changed")  # type: ignore[arg-type]
            done = switch_limb(folded, self.rig, 9, limb, to, "changed", anyway=True)  # type: ignore[arg-type]
            self.assertRegex(done.notes[0], r"(moved|turned) by")

    def test_half_way_between_ik_and_fk_the_joints_stay_where_they_are(self) -> None:
        values = {
            "arm.L/ik": 0.5,
            "arm.L.goal/tx": -0.2,
            "arm.L.goal/tz": 0.3,
            "arm.L.upper/rx": -0.5,
            "arm.L.lower/rx": 0.9,
        }
        mixed = set_pose(self.keyed, self.rig, 9, values, "changed").clip
        for to in ("ik", "fk"):
            switched = switch_limb(mixed, self.rig, 9, "arm.L", to, "changed", anyway=True).clip  # type: ignore[arg-type]
            before, after = (
                joints(self.rig, evaluate(self.rig, pose_values(self.rig, c, 9)[None]))[0] for c in (mixed, switched)
            )
            names = ["upper_arm_l", "forearm_l", "hand_l", "index_1_l"]
            there = [self.rig.skeleton.index(name) for name in names]
            np.testing.assert_allclose(after[there, :3], before[there, :3], atol=1e-6)


class ColumnsTest(unittest.TestCase):
    def setUp(self) -> None:
        self.rig = brannoc_rig()
        clip = key_pose(Clip(), self.rig, 1).clip
        self.clip = set_pose(clip, self.rig, 13, {"head/ry": 0.5}, "whole").clip

    def test_a_column_moves_whole_and_says_what_it_replaced(self) -> None:
        moved = move_columns(self.clip, self.rig, [13], 4)
        self.assertEqual(moved.clip.key_frames(), [1, 17])
        self.assertEqual(moved.notes, ())
        onto = move_columns(self.clip, self.rig, [13], -12)
        self.assertEqual(onto.clip.key_frames(), [1])
        self.assertIn("at frame 1 were replaced", onto.notes[0])
        self.assertEqual(onto.clip.curves["head/ry"].values.tolist(), [0.5])

    def test_only_chosen_controls_move(self) -> None:
        moved = move_columns(self.clip, self.rig, [13], 2, ["head"]).clip
        self.assertEqual(moved.curves["head/ry"].frames.tolist(), [1, 15])
        self.assertEqual(moved.curves["neck/ry"].frames.tolist(), [1, 13])

    def test_neighbouring_columns_moved_together_do_not_run_over_each_other(self) -> None:
        moved = move_columns(self.clip, self.rig, [1, 13], 12).clip
        self.assertEqual(moved.key_frames(), [13, 25])
        self.assertEqual(moved.curves["head/ry"].values.tolist(), [0.0, 0.5])

    def test_duplicate_and_delete(self) -> None:
        doubled = duplicate_columns(self.clip, self.rig, [1], 24).clip
        self.assertEqual(doubled.key_frames(), [1, 13, 25])
        self.assertEqual(delete_columns(doubled, self.rig, [13, 25]).clip.key_frames(), [1])
        with self.assertRaisesRegex(BadEdit, "no keys"):
            delete_columns(doubled, self.rig, [14])
        with self.assertRaisesRegex(BadEdit, "no frame"):
            move_columns(doubled, self.rig, [], 1)
        with self.assertRaisesRegex(BadEdit, "not whole"):
            move_columns(doubled, self.rig, [1], 0.5)  # type: ignore[arg-type]

    def test_a_pasted_column_is_the_copied_pose(self) -> None:
        values = {a: float(v) for a, v in zip(self.rig.addresses, random_pose(self.rig, 3), strict=True)}
        pasted = paste_column(self.clip, self.rig, 25, values)
        found = channel_values(self.rig, pasted.clip, [25])[0]
        np.testing.assert_allclose(found, random_pose(self.rig, 3), atol=1e-12)

    def test_what_does_not_fit_is_named_and_the_rest_pasted(self) -> None:
        pasted = paste_column(self.clip, self.rig, 25, {"head/ry": 0.2, "scarf/rx": 1.0, "arm.L.lower/rz": 0.4})
        self.assertEqual(pasted.clip.curves["head/ry"].values[-1], 0.2)
        self.assertIn("scarf/rx (not on this rig)", pasted.notes[0])
        self.assertIn("hinge", pasted.notes[0])
        with self.assertRaisesRegex(BadEdit, "nothing was pasted"):
            paste_column(self.clip, self.rig, 25, {"scarf/rx": 1.0})

    def test_where_nothing_is_keyed_the_frames_are_told(self) -> None:
        for act in (
            lambda clip: delete_columns(clip, self.rig, [3, 9], ["head"]),
            lambda clip: move_columns(clip, self.rig, [3, 9], 3, ["head"]),
            lambda clip: duplicate_columns(clip, self.rig, [3, 9], 3, ["head"]),
        ):
            with self.assertRaisesRegex(BadEdit, "no keys at frames 3, 9; nothing was changed"):
                act(Clip())


class DragTest(unittest.TestCase):
    def setUp(self) -> None:
        self.rig = brannoc_rig()
        self.start = random_pose(self.rig, 11, 0.2)

    def node(self, values: np.ndarray, control: str) -> np.ndarray:
        return evaluate(self.rig, values[None])[0, self.rig.control(control).node]

    def test_moving_in_world_axes_moves_each_control_by_the_offset(self) -> None:
        names = ["leg.L.goal", "leg.R.goal", "body"]
        after = drag.move(self.rig, self.start, names, np.array([0.1, 0.05, -0.02]), "world")
        for name in names:
            way = self.node(after, name)[:3] - self.node(self.start, name)[:3]
            np.testing.assert_allclose(way, [0.1, 0.05, -0.02], atol=1e-9)

    def test_a_control_carried_by_another_that_is_moved_too_moves_once(self) -> None:
        after = drag.move(self.rig, self.start, ["master", "leg.L.goal"], np.array([0.3, 0, 0]), "world")
        way = self.node(after, "leg.L.goal")[:3] - self.node(self.start, "leg.L.goal")[:3]
        np.testing.assert_allclose(way, [0.3, 0, 0], atol=1e-9)

    def test_own_axes_are_the_controls_own(self) -> None:
        after = drag.move(self.rig, self.start, ["leg.L.goal"], np.array([0, 0, 0.1]), "own")
        forward = rotations.rotate(self.node(self.start, "leg.L.goal")[3:7], np.array([0, 0, 0.1]))
        np.testing.assert_allclose(
            self.node(after, "leg.L.goal")[:3] - self.node(self.start, "leg.L.goal")[:3], forward, atol=1e-9
        )

    def test_turning_about_each_place_or_one_pivot(self) -> None:
        by = rotations.from_axis_angle(np.array([0, 1, 0]), 0.4)
        for pivot in (None, np.array([1.0, 0, 0])):
            after = drag.turn(
                self.rig, self.start, ["leg.L.goal", "leg.R.goal"], np.array([0, 1.0, 0]), 0.4, "world", pivot=pivot
            )
            for name in ("leg.L.goal", "leg.R.goal"):
                was, now = self.node(self.start, name), self.node(after, name)
                self.assertAlmostEqual(abs(rotations.multiply(by, was[3:7]) @ now[3:7]), 1.0, places=9)
                place = was[:3] if pivot is None else pivot + rotations.rotate(by, was[:3] - pivot)
                np.testing.assert_allclose(now[:3], place, atol=1e-9)

    def test_an_axis_without_length_and_a_view_without_turn_are_refused(self) -> None:
        x, none = np.array([1.0, 0, 0]), np.zeros(4)
        with self.assertRaisesRegex(HameError, "axis with a length"):
            drag.turn(self.rig, self.start, ["head"], np.zeros(3), 0.4, "own")
        with self.assertRaisesRegex(HameError, "no turn"):
            drag.turn(self.rig, self.start, ["head"], x, 0.4, "view", none)
        with self.assertRaisesRegex(HameError, "no turn"):
            drag.move(self.rig, self.start, ["leg.L.goal"], x, "view", none)

    def test_a_view_counts_by_its_turn_and_not_by_its_length(self) -> None:
        view, by = rotations.from_axis_angle(np.array([0, 1, 0]), 0.7), np.array([0.05, 0, 0])
        one = drag.move(self.rig, self.start, ["leg.L.goal"], by, "view", view)
        three = drag.move(self.rig, self.start, ["leg.L.goal"], by, "view", 3 * view)
        np.testing.assert_allclose(three, one, atol=1e-12)

    def test_a_chain_turned_joint_by_joint_curls_and_about_one_pivot_stays_rigid(self) -> None:
        chain = ["spine", "spine.2", "chest"]
        axis = np.array([1.0, 0, 0])
        curled = drag.turn(self.rig, self.rig.rest, chain, axis, 0.2, "own")
        for name in chain:
            self.assertAlmostEqual(curled[self.rig.number(f"{name}/rx")], 0.2)
        rigid = drag.turn(self.rig, self.rig.rest, chain, axis, 0.2, "world", pivot=np.zeros(3))
        self.assertAlmostEqual(rigid[self.rig.number("spine/rx")], 0.2)
        self.assertAlmostEqual(rigid[self.rig.number("chest/rx")], 0.0)

    def test_locks_and_limits_hold_while_dragging(self) -> None:
        after = drag.turn(self.rig, self.start, ["arm.L.lower"], np.array([0, 0, 1.0]), 1.0, "own")
        self.assertEqual(after[self.rig.number("arm.L.lower/rz")], 0.0)
        after = drag.turn(self.rig, self.start, ["jaw"], np.array([1.0, 0, 0]), 2.0, "own")
        self.assertEqual(after[self.rig.number("jaw/rx")], self.rig.channels[self.rig.number("jaw/rx")].high)

    def test_both_sides_mirrored_or_equal_and_opposite(self) -> None:
        rest = self.rig.rest
        after = drag.move(self.rig, rest, ["leg.L.goal"], np.array([0.055, 0.0, 0.1]), "world")
        mirrored = drag.on_both_sides(self.rig, rest, after, ["leg.L.goal"], "mirrored")
        opposite = drag.on_both_sides(self.rig, rest, after, ["leg.L.goal"], "opposite")
        numbers = [self.rig.number(f"leg.R.goal/t{a}") for a in "xyz"]
        np.testing.assert_allclose(mirrored[numbers], [-0.055, 0, 0.1], atol=1e-12)
        np.testing.assert_allclose(opposite[numbers], [-0.055, 0, -0.1], atol=1e-12)
