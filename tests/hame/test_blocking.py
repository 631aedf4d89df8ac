"""Breakdowns, exaggeration, shapes, part delay, labels and templates, library poses, protected parts, missing keys."""

from __future__ import annotations

from unittest import TestCase

import numpy as np

from hame.blocking.poses import rough_pose
from hame.blocking.templates import template
from hame.character.build import build_rig
from hame.character.propose import propose
from hame.clip.clip import Clip
from hame.clip.curve import from_json as curve
from hame.clip.curve import from_keys
from hame.clip.key import BEZIER, STEP
from hame.edits.blend import breakdown_values, exaggerate, lay_breakdown
from hame.edits.columns import paste_column
from hame.edits.cycles import make_cycle
from hame.edits.guard import kept_protected
from hame.edits.keys import delete_keys, duplicate_keys, move_keys, paste_keys
from hame.edits.labels import label_pose, lay_template
from hame.edits.library import StoredPose, lay_pose, size_of
from hame.edits.mirror import Mirroring
from hame.edits.overlap import Trail, delay_parts
from hame.edits.pose import key_pose, set_pose
from hame.edits.shapes import set_shape
from hame.errors import BadEdit
from hame.evaluate.evaluate import channel_values, evaluate
from hame.measure.keyed import unkeyed
from hame.scene.seen import pose_values
from tests.hame.examples import brannoc_rig
from tests.hame.foreign import foreign_character


class BlendTest(TestCase):
    def setUp(self) -> None:
        self.rig = brannoc_rig()
        self.clip = Clip().with_curves(
            {"head/rx": from_keys({1: 0.0, 5: 0.9, 9: 0.4}), "hips/rx": from_keys({1: 0.2, 9: 0.0})}
        )

    def test_a_breakdown_favours_one_neighbour_or_goes_beyond(self) -> None:
        for share, head in ((-0.5, -0.2), (0.0, 0.0), (0.25, 0.1), (0.5, 0.2), (1.0, 0.4), (1.5, 0.6)):
            found = breakdown_values(self.clip, self.rig, 5, share)
            self.assertAlmostEqual(found["head/rx"], head)  # its own key at 5 is not its neighbour
            self.assertAlmostEqual(found["hips/rx"], 0.2 - 0.2 * share)

    def test_only_chosen_parts_are_keyed(self) -> None:
        after = lay_breakdown(self.clip, self.rig, 5, 0.5, "changed", ["hips"]).clip
        self.assertEqual(after.curves["hips/rx"].frames.tolist(), [1, 5, 9])
        self.assertIs(after.curves["head/rx"], self.clip.curves["head/rx"])

    def test_its_neighbour_may_be_an_echo(self) -> None:
        clip = Clip().with_curves({"leg.L.goal/tz": from_keys({1: 0.3}), "leg.R.goal/tz": from_keys({1: -0.3})})
        clip = make_cycle(clip, self.rig, 1, 25, True).clip
        self.assertAlmostEqual(breakdown_values(clip, self.rig, 7, 0.5)["leg.L.goal/tz"], 0.0)
        self.assertAlmostEqual(breakdown_values(clip, self.rig, 7, 0.25)["leg.L.goal/tz"], 0.15)

    def test_limits_hold(self) -> None:
        clip = Clip().with_curves({"jaw/rx": from_keys({1: 0.0, 9: 0.6})})
        high = self.rig.channels[self.rig.number("jaw/rx")].high
        self.assertAlmostEqual(breakdown_values(clip, self.rig, 5, 1.5)["jaw/rx"], high)

    def test_refusals(self) -> None:
        for share in (-0.6, 1.6, float("nan")):
            with self.assertRaisesRegex(BadEdit, "a breakdown lies from -50% to 150%"):
                breakdown_values(self.clip, self.rig, 5, share)
        with self.assertRaisesRegex(BadEdit, "a key before and one after frame 1"):
            breakdown_values(self.clip, self.rig, 1, 0.5)

    def test_a_pose_is_made_stronger_and_weaker_against_its_neighbours(self) -> None:
        # At 5 the way from 1 to 9 would show 0.2; the pose stands 0.7 from it.
        more = exaggerate(self.clip, self.rig, 5, 0.2, "changed", ["head"]).clip
        self.assertAlmostEqual(more.curves["head/rx"].values[1], 0.2 + 1.2 * 0.7)
        none = exaggerate(self.clip, self.rig, 5, -1.0, "changed", ["head"]).clip
        self.assertAlmostEqual(none.curves["head/rx"].values[1], 0.2)
        rest = exaggerate(self.clip, self.rig, 5, -0.5, "changed", ["head"], "rest").clip
        self.assertAlmostEqual(rest.curves["head/rx"].values[1], 0.45)
        with self.assertRaisesRegex(BadEdit, "-100% to 200%"):
            exaggerate(self.clip, self.rig, 5, 3.0, "changed")


class ShapeTest(TestCase):
    def test_stepped_and_smooth_and_back_changes_nothing(self) -> None:
        rig = brannoc_rig()
        clip = Clip().with_curves({"head/rx": curve([[1, 0, 2], [5, 1, 2, -2, -0.3, 1, 0.5], [9, 0, 2]])})
        held = set_shape(clip, rig, "stepped").clip
        np.testing.assert_array_equal(channel_values(rig, held, [4])[0, rig.number("head/rx")], 0.0)
        self.assertEqual(set_shape(held, rig, "smooth").clip.to_json(), clip.to_json())

    def test_parts_and_gaps(self) -> None:
        rig = brannoc_rig()
        clip = Clip().with_curves({a: from_keys({1: 0, 5: 1, 9: 0}, STEP) for a in ("head/rx", "hips/rx")})
        after = set_shape(clip, rig, "smooth", ["head"], [(5, 9)]).clip
        self.assertEqual(after.curves["head/rx"].shapes.tolist(), [STEP, BEZIER, STEP])
        self.assertIs(after.curves["hips/rx"], clip.curves["hips/rx"])
        self.assertIn("already", set_shape(clip, rig, "stepped").notes[0])
        with self.assertRaisesRegex(BadEdit, "no keys yet"):
            set_shape(Clip(), rig, "smooth")


class DelayTest(TestCase):
    def setUp(self) -> None:
        self.rig = brannoc_rig()

    def test_down_a_chain_with_less_amplitude(self) -> None:
        swing = {1: -0.4, 13: 0.4, 25: -0.4}
        clip = Clip().with_curves({a: from_keys(swing) for a in ("arm.L.upper/rx", "arm.L.lower/rx", "arm.L.hand/rx")})
        chain = [Trail(("arm.L.lower",), 1), Trail(("arm.L.hand",), 2, 0.5)]
        after = delay_parts(clip, self.rig, chain).clip
        self.assertIs(after.curves["arm.L.upper/rx"], clip.curves["arm.L.upper/rx"])
        self.assertEqual(after.curves["arm.L.lower/rx"].frames.tolist(), [1, 14, 26])
        self.assertEqual(after.curves["arm.L.hand/rx"].frames.tolist(), [1, 15, 27])
        np.testing.assert_allclose(after.curves["arm.L.hand/rx"].values, [-0.2, 0.2, -0.2])

    def test_in_an_echo_keys_go_round_and_the_motion_is_only_later(self) -> None:
        left = {1: -0.4, 4: -0.5, 7: 0.1, 10: 0.3}
        right = {1: 0.4, 4: 0.5, 7: 0.1, 10: -0.2}
        clip = Clip().with_curves({"arm.L.hand/rx": from_keys(left), "arm.R.hand/rx": from_keys(right)})
        clip = make_cycle(clip, self.rig, 1, 25, True).clip
        after = delay_parts(clip, self.rig, [Trail(("arm.L.hand",), 4)]).clip  # the right goes with it
        frames = np.arange(6, 24, 0.5)
        before = channel_values(self.rig, clip, frames - 4)
        seen = channel_values(self.rig, after, frames)
        for side in "LR":
            n = self.rig.number(f"arm.{side}.hand/rx")
            np.testing.assert_allclose(seen[:, n], before[:, n], atol=1e-9)
        self.assertEqual(sum(map(len, after.curves.values())), 8)

    def test_round_a_plain_cycle(self) -> None:
        clip = Clip().with_curves({"head/rx": from_keys({1: 0.0, 7: 0.3, 22: 0.1})})
        clip = make_cycle(clip, self.rig, 1, 25, False).clip
        after = delay_parts(clip, self.rig, [Trail(("head",), 5)]).clip
        self.assertEqual(after.curves["head/rx"].frames.tolist(), [3, 6, 12])

    def test_refusals(self) -> None:
        clip = Clip().with_curves({"head/rx": from_keys({1: 0.0, 7: 0.3})})
        for chain, words in (([], "no part"), ([Trail(("head",), 40)], "up to 24"), ([Trail(("head",), 1, 9.0)],
            "0 to 200"),
                             ([Trail(("neck",), 1)], "no keys")):  # fmt: skip
            with self.assertRaisesRegex(BadEdit, words):
                delay_parts(clip, self.rig, chain)


class TemplateTest(TestCase):
    """Frames of the poses: common practice, no source (also the walk and run sheets of checks)."""

    def setUp(self) -> None:
        self.rig = brannoc_rig()

    def test_a_plain_walk_has_its_poses_on_1_4_7_10_13(self) -> None:
        poses = template("walk", 1, 12)
        self.assertEqual([p.frame for p in poses], [1, 4, 7, 10, 13, 16, 19, 22, 25])
        self.assertEqual([p.name for p in poses[:5]], ["Contact", "Down", "Passing", "Up", "Opposite contact"])
        self.assertEqual({p.rank for p in poses if p.name in ("Down", "Up")}, {"breakdown"})

    def test_a_run_of_16_has_its_opposite_at_9_and_passes_at_5_and_13(self) -> None:
        self.assertEqual([p.frame for p in template("run", 1, 8)], [1, 5, 9, 13, 17])

    def test_a_take_goes_by_tens(self) -> None:
        poses = template("startle", 1, 10)
        self.assertEqual(
            [(p.frame, p.name) for p in poses], [(1, "Rest"), (11, "Anticipation"), (21, "Accent"), (31, "Settle")]
        )

    def test_any_step_gives_whole_frames_in_order(self) -> None:
        for kind in ("walk", "run", "startle"):
            for step in range(4, 40):
                frames = [p.frame for p in template(kind, -3, step)]
                self.assertEqual(frames, sorted(set(frames)))
        with self.assertRaisesRegex(BadEdit, "two poses on one frame"):
            template("walk", 1, 3)
        with self.assertRaisesRegex(BadEdit, "no template called hop"):
            template("hop", 1, 12)

    def test_laid_with_poses_it_is_a_blocked_stepped_take(self) -> None:
        outcome = lay_template(Clip(), self.rig, "startle", 1, 10, 48, True)
        self.assertEqual(outcome.clip.key_frames(), [1, 11, 21, 31])
        self.assertEqual({int(s) for c in outcome.clip.curves.values() for s in c.shapes}, {STEP})
        self.assertEqual(
            [label.name for _, label in sorted(outcome.clip.labels.items())],
            ["Rest", "Anticipation", "Accent", "Settle"],
        )
        body = outcome.clip.curves["body/ty"].values
        self.assertTrue(body[1] < body[0] < body[2])  # down before up
        self.assertEqual(unkeyed(outcome.clip, self.rig).missing, {})

    def test_keys_that_are_there_stay(self) -> None:
        clip = set_pose(Clip(), self.rig, 11, {"head/rx": 0.4}, "changed").clip
        outcome = lay_template(clip, self.rig, "startle", 1, 10, 48, True)
        self.assertEqual(outcome.clip.curves["head/rx"].values[1], 0.4)
        self.assertIn("frame 11", outcome.notes[-1])

    def test_longer_than_the_shot_nothing_is_laid(self) -> None:
        with self.assertRaisesRegex(BadEdit, "needs frames 1 to 25, but the shot ends at 20"):
            lay_template(Clip(), self.rig, "walk", 1, 12, 20, True)

    def test_rough_poses_keep_knees_soft_and_planted_soles_on_the_ground(self) -> None:
        for kind, names in (
            ("walk", ("Contact", "Down", "Passing", "Up", "Opposite contact")),
            ("startle", ("Rest", "Anticipation")),
        ):
            for name in names:
                values, lacking = rough_pose(self.rig, kind, name)
                self.assertEqual(lacking, set())
                numbers = self.rig.rest.copy()
                for address, value in values.items():
                    numbers[self.rig.number(address)] = value
                nodes = evaluate(self.rig, numbers[None])[0]
                for limb in self.rig.limbs:
                    if limb.kind == "leg":
                        reach = np.linalg.norm(nodes[limb.end, :3] - nodes[limb.upper, :3]) / sum(limb.lengths)
                        self.assertLess(reach, 0.995)

    def test_they_fit_another_rig_and_say_what_it_lacks(self) -> None:
        skeleton, _ = foreign_character()
        rig = build_rig(skeleton, propose(skeleton))
        outcome = lay_template(Clip(), rig, "walk", 1, 12, 48, True)
        self.assertEqual(outcome.clip.key_frames()[:3], [1, 4, 7])
        self.assertIn("not on this rig", outcome.notes[0])


class LabelTest(TestCase):
    def test_names_and_ranks(self) -> None:
        clip = label_pose(Clip(), 7, "  Passing ", "breakdown").clip
        self.assertEqual((clip.labels[7].name, clip.labels[7].rank), ("Passing", "breakdown"))
        self.assertEqual(dict(label_pose(clip, 7, "", "key").clip.labels), {})
        with self.assertRaisesRegex(BadEdit, "not a sketch"):
            label_pose(clip, 7, "x", "sketch")  # type: ignore[arg-type]


class KeysTest(TestCase):
    def setUp(self) -> None:
        self.rig = brannoc_rig()
        self.clip = Clip().with_curves(
            {a: from_keys({1: 0.1, 5: 0.2, 9: 0.3}) for a in ("head/rx", "head/ry", "hips/rx")}
        )

    def test_across_parts(self) -> None:
        chosen = {"head/rx": [5], "hips/rx": [5, 9]}
        moved = move_keys(self.clip, self.rig, chosen, 2).clip
        self.assertEqual(moved.curves["head/rx"].frames.tolist(), [1, 7, 9])
        self.assertEqual(moved.curves["hips/rx"].frames.tolist(), [1, 7, 11])
        self.assertIs(moved.curves["head/ry"], self.clip.curves["head/ry"])
        doubled = duplicate_keys(self.clip, self.rig, chosen, 10).clip
        self.assertEqual(doubled.curves["hips/rx"].frames.tolist(), [1, 5, 9, 15, 19])
        gone = delete_keys(self.clip, self.rig, {"head/ry": [1, 5, 9], "head/rx": [1]}).clip
        self.assertNotIn("head/ry", gone.curves)
        self.assertEqual(gone.curves["head/rx"].frames.tolist(), [5, 9])

    def test_keys_keep_their_order_when_they_land_on_others(self) -> None:
        outcome = move_keys(self.clip, self.rig, {"head/rx": [5]}, 4)
        self.assertEqual(outcome.clip.curves["head/rx"].values.tolist(), [0.1, 0.2])
        self.assertEqual(outcome.notes, ("1 key at frame 9 was replaced",))

    def test_pasted_keys_keep_spacing_and_shapes_and_say_what_did_not_fit(self) -> None:
        copied = {"head/rx": [[5, 0.7, 0], [8, 0.8, 2]], "tail/rx": [[5, 1.0, 2]], "jaw/rx": [[5, 9.0, 2]]}
        outcome = paste_keys(self.clip, self.rig, 4, copied)
        table = outcome.clip.curves["head/rx"]
        self.assertEqual(table.frames.tolist(), [1, 4, 7, 9])
        self.assertEqual(table.shapes.tolist()[1], 0)
        self.assertIn("tail/rx", outcome.notes[0])
        self.assertIn("jaw/rx", outcome.notes[0])
        with self.assertRaisesRegex(BadEdit, "nothing of what was copied fits"):
            paste_keys(self.clip, self.rig, 4, {"tail/rx": [[5, 1.0, 2]]})
        with self.assertRaisesRegex(BadEdit, "no channel called tail/rx"):
            move_keys(self.clip, self.rig, {"tail/rx": [1]}, 2)


class ProtectTest(TestCase):
    def test_an_edit_never_touches_protected_parts(self) -> None:
        rig = brannoc_rig()
        clip = key_pose(Clip(), rig, 1).clip
        pasted = paste_column(clip, rig, 9, {"head/rx": 0.3, "hips/rx": 0.2})
        outcome = kept_protected(clip, pasted, rig, ["head"])
        self.assertIs(outcome.clip.curves["head/rx"], clip.curves["head/rx"])
        self.assertEqual(outcome.clip.curves["hips/rx"].frames.tolist(), [1, 9])
        self.assertEqual(outcome.notes, ("protected, left as it was: head",))
        with self.assertRaisesRegex(BadEdit, "protected: head"):
            kept_protected(clip, set_pose(clip, rig, 9, {"head/rx": 0.3}, "changed"), rig, ["head"])
        with self.assertRaisesRegex(BadEdit, "protected: head"):
            kept_protected(clip, set_pose(clip, rig, 9, {"head/rx": 0.3}, "off"), rig, ["head"])
        same = kept_protected(clip, pasted, rig, ["jaw"])
        self.assertIs(same, pasted)


class MissingTest(TestCase):
    def test_controls_without_a_key_on_a_key_pose_and_controls_that_begin_late(self) -> None:
        rig = brannoc_rig()
        clip = Clip().with_curves({
            "hips/rx": from_keys({1: 0.0, 9: 0.1, 17: 0.0}), "head/rx": from_keys({1: 0.0, 17: 0.2}),
            "neck/rx": from_keys({9: 0.0, 17: 0.2}),
        })  # fmt: skip
        found = unkeyed(clip, rig)
        self.assertEqual(found.missing, {1: ["neck"], 9: ["head"]})
        self.assertEqual(found.late, {"neck": 9})
        named = label_pose(clip, 9, "Passing", "breakdown").clip
        named = label_pose(named, 17, "Contact", "key").clip
        self.assertEqual(unkeyed(named, rig).missing, {})


class LibraryTest(TestCase):
    def setUp(self) -> None:
        self.rig = brannoc_rig()
        self.size = size_of(self.rig)
        self.clip = key_pose(Clip(), self.rig, 1).clip

    def seen(self, clip: Clip, address: str) -> float:
        return float(pose_values(self.rig, clip, 1)[self.rig.number(address)])

    def test_whole_and_by_a_share(self) -> None:
        pose = StoredPose({"head/rx": 0.4, "body/ty": -0.2}, self.size)
        half = lay_pose(self.clip, self.rig, 1, pose, 0.5, "changed").clip
        self.assertAlmostEqual(self.seen(half, "head/rx"), 0.2)
        whole = lay_pose(half, self.rig, 1, pose, 1.0, "changed").clip
        self.assertAlmostEqual(self.seen(whole, "body/ty"), -0.2)
        nothing = lay_pose(half, self.rig, 1, pose, 0.0, "changed").clip
        self.assertAlmostEqual(self.seen(nothing, "head/rx"), 0.2)

    def test_places_fit_the_size_of_the_figure(self) -> None:
        pose = StoredPose({"leg.L.goal/tz": 0.6}, 2 * self.size)
        self.assertAlmostEqual(
            self.seen(lay_pose(self.clip, self.rig, 1, pose, 1.0, "changed").clip, "leg.L.goal/tz"), 0.3
        )

    def test_the_master_only_when_wished_and_mirrored_when_wished(self) -> None:
        pose = StoredPose({"master/tx": 2.0, "arm.L.upper/rx": 0.5, "hips/rz": 0.1}, self.size)
        plain = lay_pose(self.clip, self.rig, 1, pose, 1.0, "changed").clip
        self.assertEqual(self.seen(plain, "master/tx"), 0.0)
        both = lay_pose(self.clip, self.rig, 1, pose, 1.0, "changed", with_master=True, mirrored=Mirroring()).clip
        self.assertEqual(
            [self.seen(both, a) for a in ("master/tx", "arm.R.upper/rx", "arm.L.upper/rx", "hips/rz")],
            [2.0, 0.5, 0.0, -0.1],
        )

    def test_a_rig_that_has_changed_since_says_what_did_not_match(self) -> None:
        pose = StoredPose({"head/rx": 0.4, "horn/rx": 0.1, "jaw/rx": 9.0, "arm.L.lower/rz": 0.2}, self.size)
        outcome = lay_pose(self.clip, self.rig, 1, pose, 1.0, "changed")
        said = " ".join(outcome.notes)
        self.assertIn("this rig has no arm.L.lower, horn", said)
        self.assertIn("stopped at the limits of this rig: jaw", said)
        self.assertAlmostEqual(self.seen(outcome.clip, "head/rx"), 0.4)
        with self.assertRaisesRegex(BadEdit, "nothing of this pose fits"):
            lay_pose(self.clip, self.rig, 1, StoredPose({"horn/rx": 0.1}, 1.0), 1.0, "changed")
        with self.assertRaisesRegex(BadEdit, "0 to 100 percent"):
            lay_pose(self.clip, self.rig, 1, pose, 1.2, "changed")

    def test_only_chosen_controls(self) -> None:
        pose = StoredPose({"head/rx": 0.4, "hips/rx": 0.4}, self.size)
        after = lay_pose(self.clip, self.rig, 1, pose, 1.0, "changed", ["hips"]).clip
        self.assertIs(after.curves["head/rx"], self.clip.curves["head/rx"])
