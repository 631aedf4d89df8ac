from __future__ import annotations

import unittest

import numpy as np
import orjson

from hame.clip import clip as clips
from hame.clip.clip import Clip, difference, patch_from_json
from hame.clip.curve import from_json, from_keys, from_table, with_keys, without_frames
from hame.clip.key import BEZIER, FRAME, FREE_BOTH, LINEAR, STEP, key_row, whole_frame
from hame.clip.sampling import sample, sample_curve, tabulate
from hame.edits.retime import scale_time
from hame.errors import BadEdit
from hame.measure.keyed import whole_columns
from tests.hame.examples import brannoc_rig


class RefusedKeysTest(unittest.TestCase):
    def test_what_is_no_number_is_refused_with_a_word(self) -> None:
        odd = ([[1, "a", 2]], [[1, None, 2]], [[1, 10**400, 2]], [[1, float("nan"), 2]], [1], ["abc"], "abc", None,
               [[1, True, 2]], [[10**400, 0.0, 2]], [[1, 0.0, 2, "x"]], [[1, 0.0, None]])  # fmt: skip
        for rows in odd:
            with self.subTest(rows=str(rows)[:40]), self.assertRaises(BadEdit):
                from_json(rows)  # type: ignore[arg-type]

    def test_keys_that_are_set_are_finite(self) -> None:
        curve = from_keys({1: 0.0, 5: 1.0})
        for value in (float("nan"), float("inf"), 10**400):
            for there in (curve, None):
                with self.assertRaises(BadEdit):
                    with_keys(there, {3: value})


class CurveTest(unittest.TestCase):
    def test_a_step_holds_and_a_line_is_straight(self) -> None:
        curve = from_json([[1, 0.0, STEP], [5, 4.0, LINEAR], [9, 8.0, LINEAR]])
        found = sample_curve(curve, np.array([-3.0, 1, 4.9, 5, 6, 9, 40]))
        np.testing.assert_allclose(found, [0, 0, 0, 4, 5, 8, 8])

    def test_a_new_key_takes_the_shape_of_the_one_before_it(self) -> None:
        blocked = from_keys({1: 0.0, 9: 1.0}, STEP)
        self.assertEqual(with_keys(blocked, {5: 3.0}).shapes.tolist(), [STEP, STEP, STEP])

    def test_setting_a_key_again_keeps_its_handles(self) -> None:
        curve = from_json([[0, 0, 2, 0, 0, 3, 1], [10, 1, 2, -2, 0, 0, 0]])
        again = with_keys(curve, {0: 5.0})
        self.assertEqual(again.to_json()[0], [0, 5.0, 2, 0, 0, 3, 1])

    def test_the_last_key_deleted_leaves_no_curve(self) -> None:
        self.assertIsNone(without_frames(from_keys({3: 1.0}), [3]))

    def test_bad_keys_are_refused_with_the_reason(self) -> None:
        for rows, words in (
            ([[1.5, 0, 2]], "not whole"),
            ([[1, float("nan"), 2]], "not finite"),
            ([[1, 0, 10]], "unknown shape"),
            ([[1, 0, 4, 1.5]], "from 0 to 1"),
            ([[1, 0, 2, 0, 0, 1, 0, 40, 0]], "unknown kind"),
            ([[1, 0, 2], [1, 1, 2]], "same frame"),
            ([[1, 0]], "numbers"),
        ):
            with self.assertRaisesRegex(BadEdit, words):
                from_json(rows)
        for frame in (2_000_000, float("inf"), True, "3"):
            with self.assertRaises(BadEdit):
                whole_frame(frame)


class ClipTest(unittest.TestCase):
    def setUp(self) -> None:
        self.clip = Clip().with_curves({"a/tx": from_keys({1: 0, 13: 1, 25: 0}), "b/tx": from_keys({1: 2})})

    def test_an_edit_shares_what_it_did_not_touch(self) -> None:
        after = self.clip.with_curves({"a/tx": from_keys({1: 5})})
        self.assertIs(after.curves["b/tx"], self.clip.curves["b/tx"])
        self.assertEqual(set(difference(self.clip, after).curves), {"a/tx"})

    def test_a_patch_reads_both_ways_and_through_json(self) -> None:
        after = self.clip.with_curves({"a/tx": None, "c/rx": from_keys({4: 1})}).with_pending(7, {"b/tx": 3.0})
        patch = patch_from_json(difference(self.clip, after).to_json())
        self.assertEqual(patch.apply(self.clip).to_json(), after.to_json())
        self.assertEqual(patch.reversed().apply(after).to_json(), self.clip.to_json())

    def test_a_patch_holds_only_the_keys_that_differ(self) -> None:
        after = self.clip.with_curves({"a/tx": with_keys(self.clip.curves["a/tx"], {13: 2.0})})
        patch = difference(self.clip, after)
        self.assertEqual(
            orjson.loads(orjson.dumps(patch.to_json(), option=orjson.OPT_SERIALIZE_NUMPY))["curves"],
            {"a/tx": [[[13, 1.0, 2]], [[13, 2.0, 2]]]},
        )
        self.assertEqual(patch.apply(self.clip).curves["a/tx"], after.curves["a/tx"])

    def test_keys_that_only_moved_are_told_by_their_frames(self) -> None:
        by_hand = from_table(np.array([[1, 0, BEZIER, FREE_BOTH, -1, 0, 2, 0.1, 0], key_row(9, 1)], float))
        before = self.clip.with_curves({"c/rx": by_hand})
        for curve, short in ((before.curves["a/tx"], True), (by_hand, True), (from_keys({1: 0, 9: 1}), False)):
            table = curve.table.copy()
            table[:, FRAME] += 3
            after = before.with_curves({"a/tx" if len(table) == 3 else "c/rx": from_table(table)})
            told = orjson.dumps(difference(before, after).to_json(), option=orjson.OPT_SERIALIZE_NUMPY)
            self.assertEqual(b'"frames"' in told, short)
            patch = patch_from_json(orjson.loads(told))
            self.assertEqual(patch.apply(before).to_json(), after.to_json())
            self.assertEqual(patch.reversed().apply(after).to_json(), before.to_json())

    def test_many_keys_are_stored_by_columns_and_those_stored_by_rows_are_still_read(self) -> None:
        frames = np.arange(1.0, 40.0)
        keys = np.zeros((39, 9))
        keys[:, FRAME], keys[:, 1], keys[:, 2] = frames, np.sin(frames), BEZIER
        mixed = keys.copy()
        mixed[::3, 2] = STEP
        after = self.clip.with_curves({"a/tx": from_table(mixed), "c/rx": from_table(keys)})
        patch = difference(self.clip, after)
        told = orjson.loads(orjson.dumps(patch.to_json(), option=orjson.OPT_SERIALIZE_NUMPY))
        self.assertEqual(told["curves"]["c/rx"][1]["shapes"], BEZIER)
        self.assertEqual(told["curves"]["a/tx"][1]["shapes"][:4], [STEP, BEZIER, BEZIER, STEP])
        by_rows = {
            **told,
            "curves": {c: [r.removed[:, :3].tolist(), r.added[:, :3].tolist()] for c, r in patch.curves.items()},
        }
        self.assertLess(len(orjson.dumps(told)), 0.9 * len(orjson.dumps(by_rows)))
        for stored in (told, by_rows):
            read = patch_from_json(stored)
            self.assertEqual(read.apply(self.clip).to_json(), after.to_json())
            self.assertEqual(read.reversed().apply(after).to_json(), self.clip.to_json())

    def test_whole_poses_are_found_near_and_far(self) -> None:
        near = Clip().with_curves(
            {"a/tx": from_keys({-4: 0, 3: 1, 9: 0}), "b/tx": from_keys({3: 2}), "c/tx": from_keys({3: 1})}
        )
        self.assertEqual(whole_columns(near), [3])
        far = Clip().with_curves({"a/tx": from_keys({-200_000: 0, 3: 1, 200_000: 0}), "b/tx": from_keys({3: 2})})
        self.assertEqual(whole_columns(far), [-200_000, 3, 200_000])

    def test_json_keeps_every_key(self) -> None:
        self.assertEqual(clips.from_json(self.clip.to_json()).to_json(), self.clip.to_json())

    def test_changed_ranges_cover_every_frame_that_differs(self) -> None:
        rng = np.random.default_rng(2)
        for _ in range(40):
            keys = {int(f): float(rng.normal()) for f in rng.choice(60, 8, replace=False)}
            before = Clip().with_curves({"a/tx": from_keys(keys)})
            frame = int(rng.integers(0, 60))
            after = before.with_curves({"a/tx": with_keys(before.curves["a/tx"], {frame: 9.0})})
            frames = np.arange(-5, 65)
            a, b = (sample_curve(c.curves["a/tx"], frames.astype(float)) for c in (before, after))
            spans = difference(before, after).ranges
            for f in frames[np.abs(a - b) > 1e-12]:
                self.assertTrue(
                    any((lo is None or f >= lo) and (hi is None or f <= hi) for lo, hi in spans), (f, spans)
                )

    def test_sampling_a_table_is_sampling_each_curve(self) -> None:
        frames = np.array([30.0, 1, 2.5, 13, -4, 24])
        found = sample(tabulate(self.clip.curves, ["a/tx", "none/tx", "b/tx"], np.array([0.0, 7.0, 0.0])), frames)
        np.testing.assert_allclose(found[:, 0], sample_curve(self.clip.curves["a/tx"], frames))
        np.testing.assert_allclose(found[:, 1:], [[7, 2]] * 6)

    def test_a_key_more_leaves_the_curve_as_it_is(self) -> None:
        from hame.clip.curve import Curve, split_at

        rows = [[1, 0.0, 2], [6, 1.0, 2, -4, -0.3, 1.5, 0.9], [15, -0.4, 1], [20, 0.6, 0], [25, 0.1, 2]]
        whole = from_json(rows)
        t = np.linspace(1, 25, 400)
        for frame in (3, 9, 17, 23):
            parted = Curve(split_at(whole.table, frame))
            self.assertEqual(len(parted), 6)
            np.testing.assert_allclose(sample_curve(parted, t), sample_curve(whole, t), atol=1e-9)


class EasedGapsTest(unittest.TestCase):
    """Gaps between keys against closed forms."""

    def gap(self, out: tuple[float, float], into: tuple[float, float], frames: int = 10) -> np.ndarray:
        """Shares at sixty times of a gap from 0 to 1; handles as shares of the gap, as in css-easing."""
        rows = [
            [1, 0.0, 2, 0, 0, out[0] * frames, out[1]],
            [1 + frames, 1.0, 2, (into[0] - 1) * frames, into[1] - 1, 0, 0],
        ]
        return sample_curve(from_json(rows), 1 + T * frames)

    def test_penners_equations(self) -> None:
        """Quadratic and cubic eases: R. Penner, Programming Macromedia Flash MX, 2002, chapter 7 (closed forms from
        memory).
        """
        third, two = 1 / 3, 2 / 3
        for out, into, form in (
            ((third, 0), (two, third), T**2),
            ((third, two), (two, 1), 1 - (1 - T) ** 2),
            ((third, 0), (two, 0), T**3),
            ((third, 1), (two, 1), 1 - (1 - T) ** 3),
            ((third, third), (two, two), T),
        ):
            np.testing.assert_allclose(self.gap(out, into), form, atol=1e-9)

    def test_penners_ease_in_and_out_is_two_gaps(self) -> None:
        """Cubic in and out: 4 t^3, then 1 - 4 (1 - t)^3 (the same source)."""
        rows = [[0, 0, 2, 0, 0, 10 / 3, 0], [10, 0.5, 2, -10 / 3, -0.5, 10 / 3, 0.5], [20, 1, 2, -10 / 3, 0, 0, 0]]
        form = np.where(T < 0.5, 4 * T**3, 1 - 4 * (1 - T) ** 3)
        np.testing.assert_allclose(sample_curve(from_json(rows), T * 20), form, atol=1e-9)

    def test_a_smooth_gap_between_two_poses_is_slow_at_both_ends(self) -> None:
        """Automatic handles between two extremes: 3 t^2 - 2 t^3, which is css-easing's cubic-bezier(1/3, 0, 2/3, 1)."""
        smooth = sample_curve(from_keys({1: 0.0, 11: 1.0}), 1 + T * 10)
        np.testing.assert_allclose(smooth, 3 * T**2 - 2 * T**3, atol=1e-9)
        np.testing.assert_allclose(smooth, self.gap((1 / 3, 0), (2 / 3, 1)), atol=1e-9)

    def test_a_gap_scaled_in_time_keeps_its_ease(self) -> None:
        rig = brannoc_rig()
        ease = [[1, 0, 2, 0, 0, 4.2, 0], [11, 1, 2, -4.2, 0, 0, 0]]  # css-easing's ease-in-out, 0.42 0 0.58 1
        clip = Clip().with_curves({"head/rx": from_json(ease)})
        halved = scale_time(clip, rig, [1, 11], 1, 0.5).clip.curves["head/rx"]
        np.testing.assert_allclose(sample_curve(halved, 1 + T * 5), self.gap((0.42, 0), (0.58, 1)), atol=1e-9)


T = np.linspace(0, 1, 60)
