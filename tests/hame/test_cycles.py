"""Cycles: echoes that are derived, repeats without a doubled seam, travel, and seams that are checked and mended."""

from __future__ import annotations

from unittest import TestCase

import numpy as np

from hame.clip.clip import Clip, difference, from_json, patch_from_json
from hame.clip.curve import from_json as curve
from hame.clip.curve import from_keys
from hame.clip.key import STEP
from hame.clip.played import played_curves
from hame.demo.shots import figure, walk_across
from hame.edits.blend import Breakdown
from hame.edits.byhand import ByHand
from hame.edits.columns import PasteColumn, move_columns
from hame.edits.cycles import free_cycle, make_cycle, mend_seam, repeat_cycle
from hame.edits.edit import Edit
from hame.edits.labels import lay_template
from hame.edits.making import made
from hame.edits.mirror import Mirroring, mirrored_values
from hame.edits.pose import KeyPose, SetPose, key_pose, set_pose
from hame.edits.shapes import set_shape
from hame.errors import BadEdit
from hame.evaluate.evaluate import channel_values
from hame.measure.seam import seam
from hame.scene.scene import Figure, Scene
from tests.hame.examples import brannoc_rig, cycle_of

FINE = np.arange(1, 25, 0.25)


def half_walk() -> Clip:
    """Contact, down, passing and up of the first step, smooth."""
    rig = brannoc_rig()
    clip = lay_template(Clip(), rig, "walk", 1, 12, 49, True).clip
    clip = set_shape(clip, rig, "smooth").clip
    return make_cycle(clip, rig, 1, 25, True).clip


def at(clip: Clip, frames: object) -> np.ndarray:
    return channel_values(brannoc_rig(), clip, np.asarray(frames, float))


class SeamOfTravelTest(TestCase):
    def test_what_travels_is_told_apart_and_left_alone_unless_chosen(self) -> None:
        rig = figure("brannoc")[0]
        freed = free_cycle(walk_across(rig), rig).clip
        joins = {join.address: join for join in seam(freed, rig, 1, 25)}
        self.assertTrue(joins["master/tz"].travels)
        self.assertFalse(any(join.travels for address, join in joins.items() if not address.startswith("master/t")))
        mended = mend_seam(freed, rig, 1, 25)
        number = rig.number("master/tz")
        frames = np.arange(1, 60)
        before, after = (channel_values(rig, clip, frames)[:, number] for clip in (freed, mended.clip))
        np.testing.assert_array_equal(after, before)
        self.assertTrue(any("travels" in note for note in mended.notes), mended.notes)
        chosen = mend_seam(freed, rig, 1, 25, ["master"])
        self.assertAlmostEqual(float(channel_values(rig, chosen.clip, [25])[0, number]), float(before[0]), places=9)


class KeyedInTravelTest(TestCase):
    """Keying what is seen changes nothing that is seen, on any frame, in a cycle that travels."""

    def setUp(self) -> None:
        self.rig = figure("brannoc")[0]
        self.clip = walk_across(self.rig)
        self.frames = np.arange(1, 98)

    def values(self, clip: Clip) -> np.ndarray:
        return channel_values(self.rig, clip, self.frames)

    def make(self, clip: Clip, edit: Edit) -> Clip:
        return made(edit, Scene({1: Figure(self.rig, clip)}, 1, 200), 1).clips[1]

    def test_every_way_of_keying(self) -> None:
        before = self.values(self.clip)
        at = 10
        seen = {a: float(before[at - 1, n]) for n, a in enumerate(self.rig.addresses)}
        master = {a: v for a, v in seen.items() if a.startswith("master/t")}
        self.assertGreater(abs(seen["master/tz"]), 0.1)
        for edit in (
            KeyPose(frame=at, controls=("master",)), KeyPose(frame=at),
            SetPose(frame=at, values=master), SetPose(frame=at, values=master, keying="control"),
            SetPose(frame=at, values={"master/tz": seen["master/tz"]}, keying="whole"),
            PasteColumn(frame=at, values={a: v for a, v in seen.items() if self.rig.has_channel(a)}),
            ByHand(frame=at, controls=("master",), way="set", values=master),
            ByHand(frame=at, controls=("master",), way="move", by=(0.0, 0.0, 0.0), keying="whole"),
        ):  # fmt: skip
            after = self.values(self.make(self.clip, edit))
            row = at - 1
            np.testing.assert_allclose(after[row], before[row], atol=1e-9, err_msg=str(edit)[:60])
            number = self.rig.number("master/tz")
            np.testing.assert_allclose(after[:, number], before[:, number], atol=1e-9, err_msg=str(edit)[:60])

    def test_a_pose_that_waits_is_keyed_as_it_was_seen(self) -> None:
        waiting = self.make(self.clip, SetPose(frame=10, values={"master/tz": 0.7}, keying="off"))
        keyed = self.make(waiting, KeyPose(frame=10, controls=("master",)))
        self.assertAlmostEqual(float(self.values(keyed)[9, self.rig.number("master/tz")]), 0.7, places=9)

    def test_a_breakdown_lies_between_what_is_seen(self) -> None:
        half = self.make(self.clip, Breakdown(frame=6, share=0.5, controls=("master",)))
        number = self.rig.number("master/tz")
        self.assertAlmostEqual(
            float(self.values(half)[5, number]), float(self.values(self.clip)[5, number]), delta=0.05
        )


class EchoTest(TestCase):
    def setUp(self) -> None:
        self.rig = brannoc_rig()
        self.clip = half_walk()

    def mirrored(self, values: np.ndarray) -> np.ndarray:
        out = values.copy()
        for n, row in enumerate(values):
            found, _ = mirrored_values(self.rig, dict(zip(self.rig.addresses, row, strict=True)), Mirroring("keep"))
            for address, value in found.items():
                out[n, self.rig.number(address)] = value
        return out

    def test_the_second_half_is_the_first_mirrored_between_keys_too(self) -> None:
        first = np.arange(1, 13, 0.25)
        np.testing.assert_allclose(at(self.clip, first + 12), self.mirrored(at(self.clip, first)), atol=1e-9)
        np.testing.assert_allclose(at(self.clip, [25]), at(self.clip, [1]), atol=1e-12)

    def test_only_the_first_half_is_stored(self) -> None:
        self.assertEqual(self.clip.key_frames(), [1, 4, 7, 10])
        self.assertEqual(sorted({f for c in played_curves(self.clip, self.rig).values() for f in c.frames.tolist()}),
                         [1, 4, 7, 10, 13, 16, 19, 22, 25])  # fmt: skip
        stored = from_json(self.clip.to_json())
        np.testing.assert_array_equal(at(stored, FINE), at(self.clip, FINE))

    def test_a_change_at_4_is_seen_at_16_at_once(self) -> None:
        after = set_pose(self.clip, self.rig, 4, {"arm.L.upper/rx": 0.9}, "changed").clip
        self.assertAlmostEqual(at(after, [16])[0, self.rig.number("arm.R.upper/rx")], 0.9)
        patch = difference(self.clip, after)
        self.assertEqual(list(patch.curves), ["arm.L.upper/rx"])
        self.assertEqual(patch.ranges, ((None, None),))

    def test_the_echoed_half_cannot_be_edited_by_mistake(self) -> None:
        for edit in (
            lambda: set_pose(self.clip, self.rig, 16, {"head/rx": 0.1}, "changed"),
            lambda: set_pose(self.clip, self.rig, 16, {"head/rx": 0.1}, "off"),
            lambda: key_pose(self.clip, self.rig, 16),
            lambda: move_columns(self.clip, self.rig, [4], 12),
            lambda: move_columns(self.clip, self.rig, [16], 1),
        ):
            with self.assertRaisesRegex(BadEdit, r"shows frame 4 mirrored.*free the echo"):
                edit()

    def test_values_and_slopes_agree_at_both_joins(self) -> None:
        self.assertEqual(seam(self.clip, self.rig, 1, 25), [])
        eps = 1e-4
        before, here, after = at(self.clip, [13 - eps, 13, 13 + eps])
        np.testing.assert_allclose(here - before, after - here, atol=2e-7)

    def test_freeing_moves_nothing_and_then_halves_may_differ(self) -> None:
        free = free_cycle(self.clip, self.rig).clip
        self.assertIsNone(cycle_of(free))
        np.testing.assert_allclose(at(free, FINE), at(self.clip, FINE), atol=1e-9)
        after = set_pose(free, self.rig, 16, {"head/rx": 0.5}, "changed").clip
        self.assertNotEqual(
            at(after, [16])[0, self.rig.number("head/rx")], at(after, [4])[0, self.rig.number("head/rx")]
        )
        names = [free.labels[f].name for f in sorted(free.labels)]
        self.assertEqual(names, ["Contact", "Down", "Passing", "Up", "Opposite contact", "Opposite down",
                                 "Opposite passing", "Opposite up", "Contact"])  # fmt: skip
        with self.assertRaisesRegex(BadEdit, "no cycle; make one first"):
            free_cycle(free, self.rig)

    def test_making_and_freeing_can_be_stored_and_undone(self) -> None:
        plain = free_cycle(self.clip, self.rig).clip
        patch = patch_from_json(difference(plain, self.clip).to_json())
        np.testing.assert_array_equal(at(patch.apply(plain), FINE), at(self.clip, FINE))
        back = patch.reversed().apply(self.clip)
        self.assertEqual(back.to_json(), plain.to_json())

    def test_an_odd_range_and_keys_that_end_elsewhere(self) -> None:
        free = free_cycle(self.clip, self.rig).clip
        with self.assertRaisesRegex(BadEdit, "odd number.*End at 25 or 27"):
            make_cycle(free, self.rig, 1, 26, True)
        with self.assertRaisesRegex(BadEdit, "no frame in between"):
            make_cycle(free, self.rig, 5, 6, False)
        with self.assertRaisesRegex(BadEdit, "no keys from 101"):
            make_cycle(free, self.rig, 101, 125, True)
        with self.assertRaisesRegex(BadEdit, "a cycle already"):
            make_cycle(self.clip, self.rig, 1, 25, True)
        bent = set_pose(free, self.rig, 13, {"head/rx": 0.8}, "changed").clip
        outcome = make_cycle(bent, self.rig, 1, 25, True)
        said = " ".join(outcome.notes)
        self.assertIn("gave way to derived ones", said)
        self.assertIn("head", said)
        waiting = set_pose(free, self.rig, 20, {"head/rx": 0.1}, "off").clip
        with self.assertRaisesRegex(BadEdit, "pending at frame 20 would be lost"):
            make_cycle(waiting, self.rig, 1, 25, True)

    def test_stepped_blocking_echoes_stepped(self) -> None:
        held = set_shape(self.clip, self.rig, "stepped").clip
        np.testing.assert_array_equal(at(held, [15.9]), at(held, [13]))


class RepeatTest(TestCase):
    def setUp(self) -> None:
        self.rig = brannoc_rig()
        self.clip = half_walk()

    def test_in_place_it_goes_on_without_a_doubled_frame(self) -> None:
        clip = repeat_cycle(self.clip, self.rig, 97).clip
        np.testing.assert_allclose(at(clip, FINE + 24), at(clip, FINE), atol=1e-9)
        np.testing.assert_allclose(at(clip, FINE + 72), at(clip, FINE), atol=1e-9)
        moved = np.abs(np.diff(at(clip, np.arange(1, 97)), axis=0)).max(axis=1)
        self.assertGreater(moved.min(), 1e-3)  # no frame is shown twice

    def test_travelling_the_master_goes_steadily_and_all_else_repeats(self) -> None:
        clip = repeat_cycle(self.clip, self.rig, 97, 1.4).clip
        z = self.rig.number("master/tz")
        frames = np.arange(1, 97.01, 0.5)
        np.testing.assert_allclose(at(clip, frames)[:, z], 1.4 * (frames - 1) / 24, atol=1e-9)
        others = np.delete(at(clip, FINE + 24) - at(clip, FINE), z, axis=1)
        np.testing.assert_allclose(others, 0, atol=1e-9)

    def test_it_travels_along_the_masters_heading(self) -> None:
        turned = self.clip
        for frame in (1, 4, 7, 10):
            turned = set_pose(turned, self.rig, frame, {"master/ry": np.pi / 2}, "changed").clip
        clip = repeat_cycle(turned, self.rig, 49, 1.0).clip
        way = at(clip, [49])[0] - at(clip, [1])[0]
        self.assertAlmostEqual(way[self.rig.number("master/tx")], 2.0)
        self.assertAlmostEqual(way[self.rig.number("master/tz")], 0.0)

    def test_the_stride_is_what_the_planted_feet_go_back(self) -> None:
        # Feet by hand: each goes back 0.6 m in its half of 24 frames, flat on the ground.
        back, forth = [[1, 0.3, 1], [13, -0.3, 2], [19, 0.0, 2]], [[1, -0.3, 2], [7, 0.0, 2], [13, 0.3, 1]]
        lift_l, lift_r = [[1, 0.0, 1], [13, 0.0, 2], [19, 0.1, 2]], [[1, 0.0, 2], [7, 0.1, 2], [13, 0.0, 1]]
        clip = Clip().with_curves({
            "leg.L.goal/tz": curve(back), "leg.R.goal/tz": curve(forth),
            "leg.L.goal/ty": curve(lift_l), "leg.R.goal/ty": curve(lift_r), "body/ty": from_keys({1: -0.15}),
        })  # fmt: skip
        clip = make_cycle(clip, self.rig, 1, 25, False).clip
        outcome = repeat_cycle(clip, self.rig, 49, "stride")
        self.assertAlmostEqual(cycle_of(outcome.clip).travel[1], 1.2, places=6)  # type: ignore[union-attr]
        self.assertIn("1.200 m a cycle", outcome.notes[0])

    def test_refusals(self) -> None:
        with self.assertRaisesRegex(BadEdit, "no cycle; make one first"):
            repeat_cycle(Clip(), self.rig, 49)
        with self.assertRaisesRegex(BadEdit, "cannot be repeated up to 20"):
            repeat_cycle(self.clip, self.rig, 20)
        later = self.clip.with_curves({"head/rx": from_keys({40: 0.2})})
        with self.assertRaisesRegex(BadEdit, "where repeats would lie"):
            repeat_cycle(later, self.rig, 49)
        with self.assertRaisesRegex(BadEdit, "number of metres"):
            repeat_cycle(self.clip, self.rig, 49, float("nan"))


class SeamTest(TestCase):
    def setUp(self) -> None:
        self.rig = brannoc_rig()
        self.clip = Clip().with_curves({
            "head/rx": from_keys({1: 0.0, 13: 0.4, 25: 0.1}),  # jumps
            "head/ry": curve([[1, 0.0, 1], [13, 0.3, 1], [25, 0.0, 1]]),  # closes, with a corner
            "head/rz": from_keys({1: 0.2, 13: 0.4, 25: 0.2}),  # closes
            "hips/rx": from_keys({1: 0.1, 25: 0.1}, STEP),
        })  # fmt: skip

    def test_it_names_what_does_not_close(self) -> None:
        found = {join.address: join for join in seam(self.clip, self.rig, 1, 25)}
        self.assertEqual(list(found), ["head/rx", "head/ry"])
        self.assertTrue(found["head/rx"].jumps)
        self.assertFalse(found["head/ry"].jumps)
        self.assertAlmostEqual(found["head/ry"].slope_out, 0.3 / 12)
        with self.assertRaisesRegex(BadEdit, "no length"):
            seam(self.clip, self.rig, 5, 5)

    def test_mending_closes_it_and_touches_nothing_else(self) -> None:
        outcome = mend_seam(self.clip, self.rig, 1, 25)
        self.assertEqual(seam(outcome.clip, self.rig, 1, 25), [])
        self.assertEqual(outcome.notes, ("2 channels mended",))
        self.assertIs(outcome.clip.curves["head/rz"], self.clip.curves["head/rz"])
        self.assertEqual(outcome.clip.curves["head/rx"].values.tolist(), [0.0, 0.4, 0.0])
        self.assertIn("agree already", mend_seam(outcome.clip, self.rig, 1, 25).notes[0])

    def test_a_cycle_always_agrees(self) -> None:
        self.assertIn("always agree", mend_seam(half_walk(), self.rig, 1, 25).notes[0])


class LongCycleTest(TestCase):
    """A cycle repeated far out: only what is looked at is derived, and it is the same as all of it."""

    def setUp(self) -> None:
        self.rig = brannoc_rig()

    def test_any_frame_of_a_long_repeat_is_that_of_a_short_one(self) -> None:
        clip = half_walk()
        far = repeat_cycle(clip, self.rig, 96_001, 1.4).clip
        near = repeat_cycle(clip, self.rig, 25 + 24 * 20, 1.4).clip
        frames = np.arange(-5, 400, 1.5)
        np.testing.assert_allclose(at(far, frames), at(near, frames), atol=1e-9)
        one, other = at(far, [24 * 2000 + 7.5])[0], at(near, [7.5 + 24 * 5])[0]
        travelled = self.rig.number("master/tz")
        self.assertAlmostEqual(one[travelled] - other[travelled], 1.4 * (2000 - 5), places=6)
        one[travelled] = other[travelled] = 0.0
        np.testing.assert_allclose(one, other, atol=1e-9)
        end = at(far, [96_001, 200_000])
        np.testing.assert_allclose(end[0], end[1], atol=1e-12)

    def test_only_the_frames_asked_for_are_derived(self) -> None:
        clip = Clip().with_curves({"head/rx": from_keys({1: 0.0, 2: 1.0})})
        clip = repeat_cycle(make_cycle(clip, self.rig, 1, 3, False).clip, self.rig, 40_001).clip
        some = played_curves(clip, self.rig, 30_000, 30_010)["head/rx"]
        self.assertLess(len(some), 40)
        self.assertLess(some.frames[0], 30_000)
        self.assertGreater(some.frames[-1], 30_010)

    def test_too_many_keys_are_not_made_of_a_cycle(self) -> None:
        clip = Clip().with_curves({"head/rx": from_keys({1: 0.0, 2: 1.0})})
        clip = repeat_cycle(make_cycle(clip, self.rig, 1, 3, False).clip, self.rig, 900_001).clip
        with self.assertRaisesRegex(BadEdit, "Repeat the cycle to an earlier frame first"):
            free_cycle(clip, self.rig)

    def test_a_key_changed_inside_a_cycle_changes_what_leads_up_to_it(self) -> None:
        """No key on the first frame of the cycle: the way into it comes from the cycle's other end."""
        before = make_cycle(
            Clip().with_curves({"head/rx": from_keys({34: 0.4, 40: -0.2})}), self.rig, 25, 49, False
        ).clip
        after = set_pose(before, self.rig, 34, {"head/rx": 1.2}, "changed").clip
        self.assertGreater(abs(at(after, [1]) - at(before, [1])).max(), 0.05)
        self.assertEqual(difference(before, after).ranges, ((None, None),))
