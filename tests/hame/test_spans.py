"""Spans on tracks: a kind that nobody knows names its own rules, and everything else goes over it as over all."""

from __future__ import annotations

import unittest
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from typing import Any, ClassVar

import numpy as np
import orjson

from hame.character.rig import Rig
from hame.clip import spans
from hame.clip.clip import Clip, difference, from_json, patch_from_json
from hame.clip.curve import Curve, from_keys
from hame.clip.cycle import Cycle
from hame.clip.key import Array
from hame.clip.played import follows
from hame.clip.spans import Reach, Span
from hame.edits.columns import delete_columns, duplicate_columns, move_columns
from hame.edits.guard import guarded
from hame.edits.mirror import mirror_range
from hame.edits.outcome import Outcome
from hame.edits.retime import insert_frames, scale_time, slow_by_phase
from hame.errors import BadEdit
from hame.evaluate.evaluate import channel_values
from tests.hame.examples import brannoc_rig, cycle_of, with_cycle


@dataclass(frozen=True)
class Gust(Span):
    """A made-up kind: a wind that lifts one channel while it blows, by so many metres."""

    height: float = 0.1

    kind: ClassVar[str] = "gust"

    def window(self, first: float | None, last: float | None) -> str:
        return "all"

    def laid(self, curves: Mapping[str, Curve], rig: Rig, window: Any) -> Mapping[str, Curve]:
        frames = {self.start - 1: 0.0, self.start: self.height, self.end: self.height, self.end + 1: 0.0}
        return {**curves, "body/tz": from_keys(frames)}

    def reach(self) -> Reach:
        return self.start - 1, self.end + 1

    def mirrored(self) -> Gust:
        return replace(self, height=-self.height)

    def numbers(self) -> Iterable[tuple[str, float, str]]:
        return [("the height of the gust", self.height, "m")]


spans.SPANS.pop("gust")  # known only to tests that say so


def keyed(*frames: int) -> Clip:
    return Clip().with_curves({a: from_keys({f: 0.1 * f for f in frames}) for a in ("head/ry", "arm.L.hand/rx")})


def blown(clip: Clip, *found: Gust, track: str = "gust") -> Clip:
    return clip.with_tracks({track: found})


def gusts(clip: Clip, track: str = "gust") -> list[tuple[int, int]]:
    return [(span.start, span.end) for span in clip.tracks.get(track, ())]


HAND, OTHER = "gust/arm.L.hand", "gust/arm.R.hand"


class MadeUpKindTest(unittest.TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        cls.rig = brannoc_rig()
        cls.addClassCleanup(spans.SPANS.pop, "gust")
        spans.SPANS["gust"] = Gust

    def test_it_plays_and_says_where_the_motion_differs(self) -> None:
        before, after = keyed(1, 20), blown(keyed(1, 20), Gust(5, 8, 0.2))
        frames = np.arange(1, 21)
        differ = channel_values(self.rig, after, frames)[:, self.rig.number("body/tz")]
        self.assertEqual([f for f, v in zip(frames, differ, strict=True) if v], [5, 6, 7, 8])
        self.assertEqual(difference(before, after).ranges, ((4, 9),))

    def test_it_is_stored_and_read_back_and_a_patch_leads_both_ways(self) -> None:
        before, after = blown(keyed(1, 20), Gust(2, 3)), blown(keyed(1, 20), Gust(2, 3), Gust(5, 8, 0.2))
        read = from_json(orjson.loads(orjson.dumps(after.to_json())))
        self.assertEqual(dict(read.tracks), dict(after.tracks))
        patch = patch_from_json(orjson.loads(orjson.dumps(difference(before, after).to_json())))
        self.assertEqual(patch.tracks["gust"].added, (Gust(5, 8, 0.2),))  # only the one that came
        self.assertEqual(dict(patch.apply(before).tracks), dict(after.tracks))
        self.assertEqual(dict(patch.reversed().apply(after).tracks), dict(before.tracks))

    def test_what_others_lay_on_the_track_meanwhile_stays_when_a_step_is_taken_back(self) -> None:
        before = keyed(1, 20)
        mine = difference(before, blown(before, Gust(5, 8)))
        both = blown(before, Gust(5, 8), Gust(12, 14))
        back = mine.reversed()
        self.assertTrue(back.stands_on(both))
        self.assertEqual(gusts(back.apply(both)), [(12, 14)])
        self.assertFalse(back.stands_on(blown(before, Gust(12, 14))))

    def test_two_on_one_track_do_not_overlap(self) -> None:
        with self.assertRaisesRegex(BadEdit, "8 to 10 would overlap 5 to 8"):
            blown(keyed(1), Gust(5, 8), Gust(8, 10))

    def test_it_goes_along_when_time_is_made_taken_and_scaled(self) -> None:
        clip = blown(keyed(1, 10, 20), Gust(5, 8), Gust(12, 16))
        self.assertEqual(gusts(insert_frames(clip, self.rig, 6, 2).clip), [(5, 10), (14, 18)])
        self.assertEqual(gusts(insert_frames(clip, self.rig, 10, 3).clip), [(5, 8), (15, 19)])
        self.assertEqual(gusts(scale_time(clip, self.rig, [1, 10, 20], 1, 2.0).clip), [(5, 8), (12, 16)])
        self.assertEqual(gusts(slow_by_phase(clip, self.rig, 1).clip), [(5, 8), (13, 17)])

    def test_frames_that_are_taken_away_are_taken_from_it(self) -> None:
        clip = blown(keyed(1, 20), Gust(5, 8))
        for after, count, left in ((1, -2, (3, 6)), (5, -2, (5, 6)), (6, -4, (5, 6)), (3, -3, (4, 5)), (8, -2, (5, 8))):
            self.assertEqual(gusts(insert_frames(clip, self.rig, after, count).clip), [left], (after, count))
        outcome = insert_frames(clip, self.rig, 4, -5)
        self.assertEqual(gusts(outcome.clip), [])
        self.assertIn("of gust 5 to 8 nothing is left; undo brings it back", outcome.notes)

    def test_one_of_a_control_is_moved_with_that_control_only(self) -> None:
        clip = blown(keyed(1, 10, 20), Gust(12, 16), track=HAND)
        hand, head = (insert_frames(clip, self.rig, 10, 2, [name]).clip for name in ("arm.L.hand", "head"))
        self.assertEqual((gusts(hand, HAND), gusts(head, HAND)), ([(14, 18)], [(12, 16)]))

    def test_columns_carry_it_and_copies_of_columns_copy_it(self) -> None:
        clip = blown(keyed(5, 8, 20), Gust(5, 8))
        self.assertEqual(gusts(move_columns(clip, self.rig, [5, 8], 3).clip), [(8, 11)])
        self.assertEqual(gusts(move_columns(clip, self.rig, [5], -1).clip), [(5, 8)])  # one end alone
        self.assertEqual(gusts(duplicate_columns(clip, self.rig, [5, 8], 10).clip), [(5, 8), (15, 18)])
        self.assertEqual(gusts(duplicate_columns(clip, self.rig, [5, 8], 2).clip), [(7, 10)])  # gives way to its copy
        self.assertEqual(gusts(delete_columns(clip, self.rig, [5]).clip), [(5, 8)])

    def test_mirrored_keys_take_it_to_the_other_side_as_it_says(self) -> None:
        clip = blown(keyed(2, 6), Gust(2, 6, 0.3), track=HAND)
        laid = mirror_range(clip, self.rig, 1, 8, 11).clip
        self.assertEqual(laid.tracks[OTHER], (Gust(12, 16, -0.3),))
        self.assertEqual(laid.tracks[HAND], (Gust(2, 6, 0.3),))
        of_head = mirror_range(clip, self.rig, 1, 8, 11, ["head"]).clip
        self.assertNotIn(OTHER, of_head.tracks)

    def test_protection_keeps_it_with_its_control(self) -> None:
        before = blown(keyed(1), Gust(5, 8), track=HAND)
        outcome = Outcome(blown(before.with_curves({"head/ry": from_keys({3: 0.2})}), Gust(5, 9), track=HAND))
        kept = guarded(before, outcome, self.rig, ["arm.L.hand"])
        self.assertEqual(gusts(kept.clip, HAND), [(5, 8)])
        self.assertEqual(kept.clip.curves["head/ry"].frames.tolist(), [3])
        self.assertIn("protected, left as it was: left hand FK", kept.notes[0])
        with self.assertRaisesRegex(BadEdit, "protected: left hand FK"):
            guarded(before, Outcome(blown(before, Gust(6, 8), track=HAND)), self.rig, ["arm.L.hand"])

    def test_its_numbers_and_frames_are_bounded(self) -> None:
        for gust, words in ((Gust(1, 5, 5000.0), "height of the gust would be 5000 m"), (Gust(1, 9_000_000), "range"),
                            (Gust(5, 1), "before it begins")):  # fmt: skip
            with self.assertRaisesRegex(BadEdit, words):
                guarded(keyed(1), Outcome(blown(keyed(1), gust)), self.rig)

    def test_a_kind_that_is_not_known_is_refused_with_the_reason(self) -> None:
        with self.assertRaisesRegex(BadEdit, "no kind of span called calm"):
            from_json({"curves": {}, "tracks": {"calm": [{"start": 1, "end": 2}]}})


class CycleAsSpanTest(unittest.TestCase):
    def test_what_a_step_of_an_earlier_version_says_of_a_cycle_is_read(self) -> None:
        cycle = {"start": 1, "end": 25, "echo": True, "until": 49, "travel": [0.0, 1.2]}
        patch = patch_from_json({"curves": {}, "pending": {}, "ranges": [], "labels": {}, "cycle": [None, cycle]})
        found = cycle_of(patch.apply(Clip()))
        self.assertEqual(found, Cycle(1, 25, True, 49, (0.0, 1.2)))
        self.assertIsNone(cycle_of(patch.reversed().apply(with_cycle(Clip(), found))))

    def test_it_tells_which_frames_show_which(self) -> None:
        for cycle in (Cycle(1, 9, True, 20), Cycle(3, 10, False, 30), Cycle(1, 9, True)):
            told = {f: (run.source + f - run.first, run.mirrored) for run in follows(with_cycle(Clip(), cycle))
                    for f in range(run.first, run.last + 1)}  # fmt: skip
            frames = np.arange(-5, 60)
            derived = frames[cycle.derives(frames.astype(float))].tolist()
            self.assertEqual(sorted(told), derived)
            self.assertEqual({f: cycle.source_of(f) for f in derived}, told)

    def test_it_is_copied_with_all_of_its_columns_alone(self) -> None:
        clip = with_cycle(keyed(1, 5), Cycle(1, 9))
        rig = brannoc_rig()
        whole, some = (duplicate_columns(clip, rig, columns, 20).clip for columns in ([1, 5], [5]))
        self.assertEqual([span.start for _, span in whole.spans()], [1, 21])
        self.assertEqual([span.start for _, span in some.spans()], [1])

    def test_frames_of_nothing_are_none(self) -> None:
        nothing: Array = np.zeros(0)
        self.assertEqual(Cycle(1, 9).derives(nothing).tolist(), [])
