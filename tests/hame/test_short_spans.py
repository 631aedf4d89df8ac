"""Spans of one frame are spans: edits elsewhere move them, and take none away that still has a frame."""

from __future__ import annotations

from unittest import TestCase

from hame.clip.belonging import Belonging
from hame.clip.clip import Clip
from hame.clip.curve import from_keys
from hame.clip.plants import Plant
from hame.edits.retime import insert_frames, scale_time
from tests.hame.examples import brannoc_rig

KINDS = {"plant/leg.L.goal": Plant(5, 5), "belonging/arm.L.goal": Belonging(5, 5, to="hips")}


def with_spans() -> Clip:
    keyed = Clip().with_curves({"head/rx": from_keys({1: 0.0, 5: 0.3, 20: 0.1, 40: 0.5})})
    return keyed.with_tracks({track: [span] for track, span in KINDS.items()})


class ShortSpanTest(TestCase):
    def starts(self, clip: Clip) -> dict[str, list[tuple[int, int]]]:
        return {track: [(s.start, s.end) for s in spans] for track, spans in clip.tracks.items()}

    def test_frames_taken_away_elsewhere_leave_them(self) -> None:
        after = insert_frames(with_spans(), brannoc_rig(), 20, -3)
        self.assertEqual(self.starts(after.clip), {track: [(5, 5)] for track in KINDS})

    def test_frames_inserted_carry_them(self) -> None:
        self.assertEqual(
            self.starts(insert_frames(with_spans(), brannoc_rig(), 20, 3).clip), {track: [(5, 5)] for track in KINDS}
        )
        self.assertEqual(
            self.starts(insert_frames(with_spans(), brannoc_rig(), 1, 3).clip), {track: [(8, 8)] for track in KINDS}
        )

    def test_timing_scaled_elsewhere_leaves_them(self) -> None:
        after = scale_time(with_spans(), brannoc_rig(), [20, 40], 20, 0.5)
        self.assertEqual(self.starts(after.clip), {track: [(5, 5)] for track in KINDS})

    def test_what_is_cut_to_one_frame_keeps_it_and_what_is_cut_away_is_said(self) -> None:
        clip = with_spans().with_tracks({"plant/leg.L.goal": [Plant(5, 9)], "belonging/arm.L.goal": [Belonging(7, 8)]})
        after = insert_frames(clip, brannoc_rig(), 5, -4)
        self.assertEqual(self.starts(after.clip), {"plant/leg.L.goal": [(5, 5)]})
        self.assertTrue(any("belonging 7 to 8 nothing is left" in note for note in after.notes), after.notes)
