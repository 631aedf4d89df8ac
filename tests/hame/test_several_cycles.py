"""Several cycles of one figure in a shot, with ordinary keys between them: each is as it is alone."""

from __future__ import annotations

import unittest

import numpy as np

from hame.clip.clip import Clip, difference
from hame.clip.curve import from_keys
from hame.clip.cycle import Cycle
from hame.clip.cycles import cycle_at, cycles_of, with_cycles
from hame.clip.plants import Plant
from hame.edits.columns import DuplicateColumns
from hame.edits.cycles import FreeCycle, MakeCycle, RepeatCycle, free_cycle, make_cycle, repeat_cycle
from hame.edits.edit import Edit
from hame.edits.labels import lay_template
from hame.edits.making import Made, made
from hame.edits.overlap import Trail, delay_parts
from hame.edits.pose import KeyPose
from hame.edits.reading import edit_from_json
from hame.edits.retime import insert_frames
from hame.edits.shapes import set_shape
from hame.errors import BadEdit
from hame.evaluate.evaluate import channel_values
from hame.maths.rotations import Array
from hame.measure.stride import gait_of, stride_of
from hame.scene.scene import Figure, Scene
from tests.hame.examples import brannoc_rig


class SeveralCyclesTest(unittest.TestCase):
    def setUp(self) -> None:
        self.rig = brannoc_rig()
        walk = lay_template(Clip(), self.rig, "walk", 1, 12, 240, True).clip
        self.walk = make_cycle(set_shape(walk, self.rig, "smooth").clip, self.rig, 1, 25, True).clip
        self.walk = repeat_cycle(self.walk, self.rig, 97, "stride").clip
        stands = {"head/ry": from_keys({120: 0.0, 130: 0.4}), "body/ty": from_keys({120: 0.0, 130: -0.03})}
        standing = {
            address: from_keys(
                {**dict(zip(c.frames.tolist(), c.values.tolist(), strict=True)), **_keys(stands, address)}
            )
            for address, c in self.walk.curves.items()
        }
        clip = self.walk.with_curves(standing)
        run = lay_template(clip, self.rig, "run", 161, 8, 240, True).clip
        self.clip = make_cycle(run, self.rig, 161, 177, True).clip
        self.clip = repeat_cycle(self.clip, self.rig, 225, 2.0, at=161).clip

    def at(self, clip: Clip, frames: object) -> Array:
        return channel_values(self.rig, clip, np.asarray(frames, float))

    def make(self, edit: Edit, clip: Clip) -> Made:
        return made(edit, Scene({1: Figure(self.rig, clip, "Brannoc")}, 1, 240), 1)

    def column(self, values: Array, address: str) -> Array:
        return np.asarray(values[:, self.rig.number(address)])

    def test_columns_of_a_whole_cycle_are_copied_with_it_and_some_of_them_without(self) -> None:
        walk = make_cycle(lay_template(Clip(), self.rig, "walk", 1, 12, 240, True).clip, self.rig, 1, 25, True).clip
        columns = tuple(walk.key_frames())
        done = self.make(DuplicateColumns(frames=columns, by=48), walk)
        self.assertEqual([(c.start, c.end, c.echo) for c in cycles_of(done.clips[1])], [(1, 25, True), (49, 73, True)])
        self.assertIn("came along: 49 to 73", " ".join(done.notes))
        frames = np.arange(1, 26)
        np.testing.assert_allclose(
            self.at(done.clips[1], frames + 48), self.at(done.clips[1], frames), rtol=0, atol=1e-12
        )
        some = self.make(DuplicateColumns(frames=columns[1:], by=48), walk).clips[1]
        self.assertEqual(len(cycles_of(some)), 1)
        # Where something is keyed in what it would show, it stays behind and that is said.
        keyed = self.make(KeyPose(frame=66), walk).clips[1]
        kept = self.make(DuplicateColumns(frames=columns, by=48), keyed)
        self.assertEqual(len(cycles_of(kept.clips[1])), 1)
        self.assertIn("did not come along", " ".join(kept.notes))

    def test_each_plays_as_it_does_alone(self) -> None:
        self.assertEqual([(c.start, c.end, c.until) for c in cycles_of(self.clip)], [(1, 25, 97), (161, 177, 225)])
        inside = np.arange(1.0, 97.01, 0.5)
        first = with_cycles(self.clip, cycles_of(self.clip)[:1])
        np.testing.assert_allclose(self.at(self.clip, inside), self.at(first, inside), atol=1e-12)
        later = np.arange(161.0, 225.01, 0.5)
        second = with_cycles(self.clip, cycles_of(self.clip)[1:])
        np.testing.assert_allclose(self.at(self.clip, later), self.at(second, later), atol=1e-12)

    def test_both_halves_of_both_are_mirrored_and_travel_their_own_way(self) -> None:
        for start, half in ((1, 12), (161, 8)):
            one, other = (
                self.at(self.clip, np.arange(start, start + half)),
                self.at(self.clip, np.arange(start + half, start + 2 * half)),
            )
            left, right = (f"leg.{side}.goal/tz" for side in "LR")
            np.testing.assert_allclose(self.column(one, left), self.column(other, right), atol=1e-9)
        tz = self.column(self.at(self.clip, [1, 25, 49, 161, 177, 193]), "master/tz")
        self.assertAlmostEqual(tz[1] - tz[0], tz[2] - tz[1], 9)
        self.assertAlmostEqual(tz[4] - tz[3], 2.0, 9)
        self.assertAlmostEqual(tz[5] - tz[4], 2.0, 9)

    def test_what_stands_between_is_ordinary_keys(self) -> None:
        self.assertIsNone(cycle_at(self.clip, 125))
        self.assertAlmostEqual(self.column(self.at(self.clip, [130]), "head/ry")[0], 0.4, 12)
        changed = self.clip.with_curves({"head/ry": from_keys({120: 0.0, 130: 0.7})})
        moved = np.abs(self.at(changed, np.arange(1, 241)) - self.at(self.clip, np.arange(1, 241))).max(axis=1) > 1e-9
        self.assertTrue(moved[129])

    def test_a_plant_and_its_mirror_show_in_their_own_cycle(self) -> None:
        planted = self.clip.with_tracks({"plant/leg.L.goal": (Plant(2, 6),)})
        for frame in (49 + 1, 49 + 4):
            one, two = self.at(planted, [frame, frame + 1])
            self.assertFalse(np.allclose(one, two))
        # The run has none: its feet go as they did.
        later = np.arange(161.0, 226.0)
        np.testing.assert_allclose(self.at(planted, later), self.at(self.clip, later), atol=1e-9)

    def test_frames_inserted_in_the_first_move_the_second_along(self) -> None:
        longer = insert_frames(self.clip, self.rig, 3, 2).clip
        self.assertEqual([(c.start, c.end, c.until) for c in cycles_of(longer)], [(1, 29, 113), (177, 193, 241)])
        np.testing.assert_allclose(
            self.at(longer, np.arange(177, 242)), self.at(self.clip, np.arange(161, 226)), atol=1e-9
        )
        between = insert_frames(self.clip, self.rig, 125, 3).clip
        self.assertEqual([(c.start, c.until) for c in cycles_of(between)], [(1, 97), (164, 228)])
        in_second = insert_frames(self.clip, self.rig, 163, 1).clip
        self.assertEqual([(c.start, c.end, c.until) for c in cycles_of(in_second)], [(1, 25, 97), (161, 179, 233)])

    def test_one_is_freed_and_the_other_stays(self) -> None:
        frames = np.arange(1.0, 240.01, 0.5)
        for at, rest in ((1, 161), (161, 1)):
            freed = free_cycle(self.clip, self.rig, at).clip
            self.assertEqual([c.start for c in cycles_of(freed)], [rest])
            np.testing.assert_allclose(self.at(freed, frames), self.at(self.clip, frames), atol=1e-9)
            patch = difference(self.clip, freed)
            self.assertEqual(patch.reversed().apply(freed).to_json(), self.clip.to_json())

    def test_a_shot_of_480_frames_from_nothing(self) -> None:
        clip = Clip()
        for edit in (
            {"kind": "template", "template": "walk", "start": 1, "step": 12, "posed": True},
            {"kind": "shape", "shape": "smooth"},
            {"kind": "cycle", "start": 1, "end": 25, "echo": True},
            {"kind": "repeat", "at": 1, "until": 193, "travel": "stride"},
            {"kind": "key", "frame": 230},
            {"kind": "pose", "frame": 300, "values": {"head/ry": 0.5, "body/ty": -0.03}, "keying": "whole"},
            {"kind": "living", "start": 230, "end": 330},
            {"kind": "template", "template": "run", "start": 361, "step": 8, "posed": True},
            {"kind": "cycle", "start": 361, "end": 377, "echo": True},
            {"kind": "repeat", "at": 361, "until": 480, "travel": 2.4},
        ):
            clip = made(edit_from_json(edit), Scene({1: Figure(self.rig, clip, "Brannoc")}, 1, 480), 1).clips[1]
        self.assertEqual([(c.start, c.until) for c in cycles_of(clip)], [(1, 193), (361, 480)])
        values = self.at(clip, np.arange(1, 481))
        self.assertTrue(np.isfinite(values).all())
        tz = self.column(values, "master/tz")
        self.assertGreater(tz[192] - tz[0], 8.0)
        self.assertAlmostEqual(tz[360 + 16] - tz[360], 2.4, 6)
        self.assertEqual(float(np.ptp(tz[230:300])), 0.0)  # it stands
        self.assertGreater(np.ptp(self.column(values, "chest/rx")[230:330]), 0.005)  # and lives
        free = free_cycle(clip, self.rig, 361).clip
        np.testing.assert_allclose(self.at(free, np.arange(1, 481)), values, atol=1e-9)

    def test_which_one_is_meant_has_to_be_said(self) -> None:
        for edit, words in (
            (FreeCycle(), "begin at frames 1, 161; say which"),
            (FreeCycle(at=7), "no cycle begins at 7"),
            (RepeatCycle(until=120), "say which"),
            (RepeatCycle(at=1, until=130), "there are .* keys from 120"),
            (RepeatCycle(at=161, until=300), "the shot ends at 240"),
            (MakeCycle(start=90, end=110), "1 to 25 are a cycle already, repeated to 97"),
            (MakeCycle(start=120, end=170), "161 to 177 are a cycle already"),
        ):
            with self.subTest(words), self.assertRaisesRegex(BadEdit, words):
                self.make(edit, self.clip)
        shorter = self.make(RepeatCycle(at=1, until=73), self.clip).clips[1]
        self.assertEqual([c.until for c in cycles_of(shorter)], [73, 225])

    def test_a_delay_goes_round_each_of_them(self) -> None:
        head = {"head/ry": from_keys({1: 0.1, 7: -0.1, 161: 0.2, 165: 0.0})}
        clip = self.clip.with_curves(head)
        after = delay_parts(clip, self.rig, [Trail(("head",), 2)]).clip
        self.assertEqual(after.curves["head/ry"].frames.tolist(), [3, 9, 163, 167])
        for low, high in ((5, 90), (164, 220)):
            frames = np.arange(low, high)
            np.testing.assert_allclose(
                self.column(self.at(after, frames), "head/ry"), self.column(self.at(clip, frames - 2), "head/ry"),
                atol=1e-9,
            )  # fmt: skip

    def test_strides_are_measured_in_each(self) -> None:
        walk, run = cycles_of(self.clip)
        self.assertAlmostEqual(stride_of(self.clip, self.rig, walk), walk.travel[1], 6)
        self.assertGreater(gait_of(self.clip, self.rig, run, 24.0).cadence, 160)
        self.assertLess(gait_of(self.clip, self.rig, walk, 24.0).cadence, 130)

    def test_many_cost_in_proportion_and_are_found(self) -> None:
        keys = {frame: 0.1 * (frame % 3) for frame in range(1, 2001) if frame % 20 < 8}
        clip = Clip().with_curves({"head/ry": from_keys(keys)})
        clip = with_cycles(clip, [Cycle(20 * n, 20 * n + 8, until=20 * n + 8) for n in range(1, 100)])
        values = self.column(self.at(clip, [20 * 50, 20 * 50 + 8, 20 * 99 + 8]), "head/ry")
        self.assertAlmostEqual(values[0], values[1], 12)


def _keys(curves: object, address: str) -> dict[int, float]:
    found = curves.get(address)  # type: ignore[attr-defined]
    if found is None:
        return {120: 0.0}
    return dict(zip(found.frames.tolist(), found.values.tolist(), strict=True))


if __name__ == "__main__":
    unittest.main()
