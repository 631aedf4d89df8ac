"""Timing: frames inserted and taken away, scaled gaps, slower phases, holds. No key goes without a word."""

from __future__ import annotations

from unittest import TestCase

import numpy as np
import orjson
from hypothesis import given, settings
from hypothesis import strategies as st

from hame.clip.clip import Clip, difference, from_json, patch_from_json
from hame.clip.curve import from_json as curve
from hame.clip.curve import from_keys
from hame.clip.key import STEP
from hame.clip.marks import Label
from hame.clip.sampling import sample_curve
from hame.edits.columns import move_columns
from hame.edits.cycles import free_cycle, make_cycle, repeat_cycle
from hame.edits.holds import hold_pose
from hame.edits.keys import paste_keys
from hame.edits.labels import label_pose
from hame.edits.outcome import Outcome
from hame.edits.pose import set_pose
from hame.edits.retime import insert_frames, phases_of, scale_time, slow_by_phase
from hame.errors import BadEdit
from tests.hame.examples import brannoc_rig, cycle_of


def clip_of(**curves: dict[int, float]) -> Clip:
    return Clip().with_curves({a.replace("__", "/"): from_keys(keys) for a, keys in curves.items()})


def frames(outcome: Outcome | Clip, address: str = "head/rx") -> list[int]:
    clip = outcome if isinstance(outcome, Clip) else outcome.clip
    return clip.curves[address].frames.tolist()


class InsertTest(TestCase):
    def setUp(self) -> None:
        self.rig = brannoc_rig()
        self.clip = clip_of(head__rx={1: 0, 5: 1, 9: 0.5, 13: 0}, hips__rx={1: 0, 7: 0.2, 13: 0})

    def test_all_later_keys_move_along(self) -> None:
        clip = label_pose(self.clip, 13, "Settle", "key").clip
        clip = set_pose(clip, self.rig, 11, {"neck/rx": 0.1}, "off").clip
        after = insert_frames(clip, self.rig, 5, 2)
        self.assertEqual(frames(after), [1, 5, 11, 15])
        self.assertEqual(frames(after, "hips/rx"), [1, 9, 15])
        self.assertEqual(dict(after.clip.labels), {15: Label("Settle")})
        self.assertEqual(list(after.clip.pending), [13])
        self.assertEqual(after.notes, ())

    def test_only_chosen_parts_if_wished(self) -> None:
        after = insert_frames(self.clip, self.rig, 5, 2, ["hips"])
        self.assertEqual(frames(after), [1, 5, 9, 13])
        self.assertEqual(frames(after, "hips/rx"), [1, 9, 15])

    def test_frames_taken_away_say_which_keys_went(self) -> None:
        after = insert_frames(self.clip, self.rig, 5, -2)
        self.assertEqual(frames(after), [1, 5, 7, 11])
        self.assertEqual(frames(after, "hips/rx"), [1, 11])
        self.assertEqual(after.notes, ("1 key at frame 7 went with the frames taken away",))

    def test_nothing_to_move_is_said(self) -> None:
        with self.assertRaisesRegex(BadEdit, "no keys after frame 13"):
            insert_frames(self.clip, self.rig, 13, 4)


class ScaleTest(TestCase):
    def setUp(self) -> None:
        self.rig = brannoc_rig()
        self.clip = clip_of(head__rx={1: 0, 11: 1, 21: 0.5, 31: 0})

    def test_a_gap_halved_with_what_follows(self) -> None:
        after = scale_time(self.clip, self.rig, [1, 11], 1, 0.5, along=True)
        self.assertEqual(frames(after), [1, 6, 16, 26])

    def test_chosen_columns_about_a_frame(self) -> None:
        self.assertEqual(frames(scale_time(self.clip, self.rig, [11, 21], 21, 1.3)), [1, 8, 21, 31])

    def test_frames_stay_whole_and_a_merge_is_said(self) -> None:
        close = clip_of(head__rx={1: 0.1, 2: 0.2, 3: 0.3, 10: 1.0})
        after = scale_time(close, self.rig, [1, 2, 3], 1, 0.4)
        self.assertEqual(frames(after), [1, 2, 10])
        self.assertEqual(after.clip.curves["head/rx"].values.tolist(), [0.2, 0.3, 1.0])
        self.assertIn("fell on frame 1 together", after.notes[0])
        hit = scale_time(self.clip, self.rig, [11], 1, 2.0)
        self.assertEqual(frames(hit), [1, 21, 31])
        self.assertEqual(hit.clip.curves["head/rx"].values.tolist(), [0, 1, 0])
        self.assertIn("frame 21", hit.notes[0])

    def test_by_zero_or_less_nothing_is_done(self) -> None:
        for factor in (0.0, -1.0, float("nan")):
            with self.assertRaisesRegex(BadEdit, "nothing was moved"):
                scale_time(self.clip, self.rig, [1, 11], 1, factor)
        with self.assertRaisesRegex(BadEdit, "no keys at frame 4"):
            scale_time(self.clip, self.rig, [4], 1, 2)

    def test_handles_set_by_hand_keep_their_share_of_the_gap(self) -> None:
        clip = Clip().with_curves({"head/rx": curve([[1, 0, 2, -1, 0, 5, 0.5], [11, 1, 2, -4, -0.2, 1, 0]])})
        after = scale_time(clip, self.rig, [1, 11], 1, 2.0).clip
        t = np.linspace(1, 11, 21)
        np.testing.assert_allclose(
            sample_curve(after.curves["head/rx"], 1 + (t - 1) * 2), sample_curve(clip.curves["head/rx"], t), atol=1e-9
        )

    @settings(max_examples=60, deadline=None)
    @given(
        st.sets(st.integers(-30, 60), min_size=2, max_size=12), st.floats(0.05, 4), st.integers(-10, 30), st.booleans()
    )
    def test_no_key_is_dropped_in_silence(self, keys: set[int], factor: float, about: int, along: bool) -> None:
        clip = clip_of(head__rx={f: f * 0.01 for f in keys})
        chosen = sorted(keys)[: max(1, len(keys) // 2)]
        after = scale_time(clip, self.rig, chosen, about, factor, along=along)
        lost = len(keys) - len(frames(after))
        said = sum(int(n.split()[0]) for n in after.notes if "fell on" in n)
        self.assertEqual(lost, said)
        self.assertEqual(frames(after), sorted(set(frames(after))))


class PhaseTest(TestCase):
    def setUp(self) -> None:
        self.rig = brannoc_rig()
        walk = {1: 0.0, 4: -0.05, 7: 0.02, 10: 0.03, 13: 0.0}
        self.clip = clip_of(body__ty=walk, head__rx=walk, arm__L=walk)
        self.clip = clip_of(body__ty=walk, head__rx=walk, neck__rx={2: 0.1, 5: 0.2, 8: 0.1, 11: 0.0, 13: 0.1})

    def test_a_frame_more_a_phase_keeps_delays(self) -> None:
        after = slow_by_phase(self.clip, self.rig, 1)
        self.assertEqual(frames(after), [1, 5, 9, 13, 17])
        self.assertEqual(frames(after, "neck/rx"), [2, 6, 10, 14, 17])
        back = slow_by_phase(after.clip, self.rig, -1)
        self.assertEqual(back.clip.to_json(), self.clip.to_json())

    def test_both_halves_of_an_echo_slow_down(self) -> None:
        echo = make_cycle(self.clip, self.rig, 1, 25, True).clip
        echo = repeat_cycle(echo, self.rig, 49).clip
        self.assertEqual(phases_of(echo, self.rig), [1, 4, 7, 10, 13])
        after = slow_by_phase(echo, self.rig, 1).clip
        assert cycle_of(after)
        self.assertEqual((cycle_of(after).start, cycle_of(after).end, cycle_of(after).until), (1, 33, 65))
        self.assertEqual(frames(after), [1, 5, 9, 13])

    def test_names_decide_what_a_phase_is(self) -> None:
        named = label_pose(label_pose(self.clip, 1, "Contact", "key").clip, 13, "Opposite", "key").clip
        self.assertEqual(phases_of(named, self.rig), [1, 13])
        self.assertEqual(frames(slow_by_phase(named, self.rig, 2)), [1, 4, 7, 10, 15])

    def test_a_phase_cannot_lose_what_it_has_not(self) -> None:
        with self.assertRaisesRegex(BadEdit, "it cannot lose 3"):
            slow_by_phase(self.clip, self.rig, -3)
        with self.assertRaisesRegex(BadEdit, "not two poses"):
            slow_by_phase(clip_of(head__rx={1: 0.0}), self.rig, 1)

    def test_a_frame_more_inside_an_echo_is_one_more_in_each_half(self) -> None:
        echo = make_cycle(self.clip, self.rig, 1, 25, True).clip
        after = insert_frames(echo, self.rig, 4, 1).clip
        assert cycle_of(after)
        self.assertEqual(cycle_of(after).end, 27)
        self.assertEqual(frames(after), [1, 4, 8, 11])
        with self.assertRaisesRegex(BadEdit, "whole character only"):
            insert_frames(echo, self.rig, 4, 1, ["head"])
        with self.assertRaisesRegex(BadEdit, "shows frame 4 mirrored"):
            insert_frames(echo, self.rig, 16, 1)


class HoldTest(TestCase):
    def setUp(self) -> None:
        self.rig = brannoc_rig()
        self.clip = label_pose(clip_of(head__rx={1: 0.0, 11: 1.0, 21: 0.2}), 11, "Accent", "key").clip

    def values(self, clip: Clip, at: np.ndarray) -> np.ndarray:
        return sample_curve(clip.curves["head/rx"], at)

    def test_a_hold_does_not_move_and_later_keys_move_along(self) -> None:
        after = hold_pose(self.clip, self.rig, 11, 4).clip
        self.assertEqual(frames(after), [1, 11, 15, 25])
        np.testing.assert_allclose(self.values(after, np.linspace(11, 15, 30)), 1.0, atol=1e-12)
        self.assertEqual(after.labels[15], Label("Accent held", "in-between"))

    def test_a_moving_hold_drifts_evenly_towards_the_next_pose_and_stays_one(self) -> None:
        after = hold_pose(self.clip, self.rig, 11, 4, drift=0.05).clip
        seen = self.values(after, np.linspace(11, 15, 9))
        np.testing.assert_allclose(seen, 1.0 + np.linspace(0, 0.05 * (0.2 - 1.0), 9), atol=1e-9)
        later = set_pose(after, self.rig, 25, {"head/rx": -1.5}, "changed").clip  # whatever follows
        np.testing.assert_allclose(self.values(later, np.linspace(11, 15, 9)), seen, atol=1e-9)

    def test_it_can_take_its_time_from_the_gap(self) -> None:
        self.assertEqual(frames(hold_pose(self.clip, self.rig, 11, 4, push=False)), [1, 11, 15, 21])
        with self.assertRaisesRegex(BadEdit, "has no room"):
            hold_pose(self.clip, self.rig, 11, 10, push=False)

    def test_a_stepped_pose_gets_one_frame_more(self) -> None:
        stepped = Clip().with_curves({"head/rx": from_keys({1: 0, 11: 1, 12: 0}, STEP)})
        after = hold_pose(stepped, self.rig, 11, 1).clip
        np.testing.assert_array_equal(self.values(after, np.array([10, 11, 12, 13])), [0, 1, 1, 0])

    def test_refusals(self) -> None:
        for call, words in (
            (lambda: hold_pose(self.clip, self.rig, 12, 3), "no keys at frame 12"),
            (lambda: hold_pose(self.clip, self.rig, 11, 0), "at least one frame"),
            (lambda: hold_pose(self.clip, self.rig, 11, 2, drift=0.8), "no hold"),
        ):
            with self.assertRaisesRegex(BadEdit, words):
                call()


class HiddenTest(TestCase):
    """No key may come to lie where a cycle shows others: it would be lost to sight."""

    def setUp(self) -> None:
        self.rig = brannoc_rig()
        walk = {1: 0.0, 4: -0.05, 7: 0.02, 10: 0.03, 13: 0.0}
        self.echo = make_cycle(clip_of(body__ty=walk, head__rx=walk), self.rig, 1, 25, True).clip

    def test_scaling_past_the_half_is_refused_or_takes_the_half_along(self) -> None:
        with self.assertRaisesRegex(BadEdit, "frame 10 would go into the cycle or out of it"):
            scale_time(self.echo, self.rig, [7, 10], 7, 3.0)
        longer = scale_time(self.echo, self.rig, [7, 10], 7, 2.0, along=True).clip
        assert cycle_of(longer)
        self.assertEqual((frames(longer), cycle_of(longer).end), ([1, 4, 7, 13], 31))

    def test_frames_taken_away_stop_before_the_half(self) -> None:
        with self.assertRaisesRegex(BadEdit, "keys are made up to frame 12 only"):
            insert_frames(self.echo, self.rig, 10, -3)
        shorter = insert_frames(self.echo, self.rig, 10, -2).clip
        assert cycle_of(shorter)
        self.assertEqual((frames(shorter), cycle_of(shorter).end), ([1, 4, 7, 10], 21))
        with self.assertRaisesRegex(BadEdit, "more than that"):
            insert_frames(self.echo, self.rig, 1, -12)

    def test_a_cycle_is_never_turned_inside_out(self) -> None:
        echo = make_cycle(clip_of(head__rx={1: 0.0, 5: 1.0, 9: 0.2}), self.rig, 1, 25, True).clip
        with self.assertRaisesRegex(BadEdit, "would begin at 16 and end before 13"):
            scale_time(echo, self.rig, [1], 30, 0.5)
        with self.assertRaisesRegex(BadEdit, "frames 5, 9 would go into the cycle or out of it"):
            scale_time(echo, self.rig, [1], 21, 0.5)  # the start would pass them
        tighter = scale_time(echo, self.rig, [5, 9], 1, 0.5).clip
        self.assertEqual((frames(tighter), cycle_of(tighter)), ([1, 3, 5], cycle_of(echo)))

    def test_names_and_pending_poses_after_a_cycle_go_with_their_keys(self) -> None:
        clip = clip_of(head__rx={1: 0.0, 5: 1.0, 40: 0.3})
        clip = repeat_cycle(make_cycle(clip, self.rig, 1, 9, False).clip, self.rig, 33).clip
        clip = label_pose(clip, 40, "Settle", "key").clip
        clip = set_pose(clip, self.rig, 41, {"neck/rx": 0.1}, "off").clip
        for after in (
            insert_frames(clip, self.rig, 3, 2),
            insert_frames(clip, self.rig, 1, -1),
            slow_by_phase(clip, self.rig, 1),
            hold_pose(clip, self.rig, 5, 2),
            scale_time(clip, self.rig, [5], 1, 2.0, along=True),
        ):
            key = frames(after)[-1]
            self.assertNotEqual(key, 40)
            self.assertEqual(list(after.clip.labels), [key])
            self.assertEqual(list(after.clip.pending), [key + 1])
        self.assertEqual(frames(insert_frames(clip, self.rig, 3, 2))[-1], 48)


class NothingInSilenceTest(TestCase):
    """Whatever gives way to something else is named."""

    def setUp(self) -> None:
        self.rig = brannoc_rig()
        self.clip = clip_of(head__rx={1: 0.0, 5: 1.0, 9: 0.2, 13: 0.4, 17: 0.0})

    def test_a_pending_pose_on_frames_taken_away(self) -> None:
        clip = set_pose(self.clip, self.rig, 7, {"neck/rx": 0.1}, "off").clip
        clip = set_pose(clip, self.rig, 9, {"neck/rx": 0.3}, "off").clip
        after = insert_frames(clip, self.rig, 5, -3)
        self.assertEqual({f: dict(v) for f, v in after.clip.pending.items()}, {6: {"neck/rx": 0.3}})
        self.assertIn("the pose pending at frame 7 went", after.notes[0])

    def test_poses_and_names_that_fall_together(self) -> None:
        clip = set_pose(self.clip, self.rig, 5, {"neck/rx": 0.1}, "off").clip
        clip = set_pose(clip, self.rig, 9, {"neck/ry": 0.3}, "off").clip
        clip = label_pose(label_pose(clip, 5, "Down", "key").clip, 9, "Up", "key").clip
        after = scale_time(clip, self.rig, [5, 9], 7, 0.1)
        said = " ".join(after.notes)
        self.assertIn("the name Down gave way to Up", said)
        self.assertIn("fell on 7 and became one", said)

    def test_a_repeat_does_not_cover_a_pending_pose(self) -> None:
        clip = make_cycle(clip_of(head__rx={1: 0.0, 5: 1.0}), self.rig, 1, 9, False).clip
        clip = set_pose(clip, self.rig, 20, {"neck/rx": 0.1}, "off").clip
        with self.assertRaisesRegex(BadEdit, "pending at frame 20, where repeats would lie"):
            repeat_cycle(clip, self.rig, 33)
        self.assertIsNotNone(cycle_of(repeat_cycle(clip, self.rig, 17).clip))

    def test_a_repeat_ends_with_the_shot(self) -> None:
        clip = make_cycle(clip_of(head__rx={1: 0.0, 5: 1.0}), self.rig, 1, 9, False).clip
        with self.assertRaisesRegex(BadEdit, "the shot ends at 48"):
            repeat_cycle(clip, self.rig, 20_001, last=48)

    def test_keys_that_pasted_ones_replace(self) -> None:
        after = paste_keys(self.clip, self.rig, 5, {"head/rx": [[1, 0.5, 2], [9, 0.1, 2]]})
        self.assertEqual(frames(after), [1, 5, 13, 17])
        self.assertEqual(after.notes, ("3 keys at frames 5, 9, 13 gave way to those pasted",))

    def test_the_name_of_a_column_that_is_moved_onto(self) -> None:
        clip = label_pose(label_pose(self.clip, 5, "Down", "key").clip, 13, "Up", "key").clip
        after = move_columns(clip, self.rig, [5], 8)
        self.assertEqual(after.clip.labels[13].name, "Down")
        self.assertIn("the name Up gave way", " ".join(after.notes))

    def test_a_freed_cycle_reads_back_with_the_names_it_made(self) -> None:
        clip = make_cycle(clip_of(head__rx={1: 0.0, 5: 1.0}), self.rig, 1, 17, True).clip
        clip = label_pose(clip, 1, "C" * 60, "key").clip
        freed = free_cycle(clip, self.rig).clip
        again = from_json(orjson.loads(orjson.dumps(freed.to_json())))
        self.assertEqual(dict(again.labels), dict(freed.labels))
        back = patch_from_json(difference(clip, freed).to_json()).reversed().apply(freed)
        self.assertEqual(back.to_json(), clip.to_json())


class MovingHoldTest(TestCase):
    def test_a_moving_hold_stays_between_its_neighbours_and_inside_limits(self) -> None:
        rig = brannoc_rig()
        high = float(np.radians(40))
        clip = clip_of(
            body__ty={1: 0.0, 9: -0.2, 21: 0.3}, jaw__rx={1: 0.2, 9: 0.5, 21: high}, head__rx={9: 0.0, 21: 1.0}
        )
        held = hold_pose(clip, rig, 9, 4, drift=0.5).clip
        for address, table in ((a, held.curves[a]) for a in clip.curves):
            values = table.values
            shown = sample_curve(table, np.arange(1, 25.01, 0.1))
            at = np.searchsorted(table.frames, np.arange(1, 25.01, 0.1), side="right")
            for value, n in zip(shown, at, strict=True):
                near = values[max(n - 1, 0) : n + 1]
                self.assertTrue(near.min() - 1e-9 <= value <= near.max() + 1e-9, address)
