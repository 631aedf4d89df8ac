"""Fewer keys, bumps and flips."""

from __future__ import annotations

import unittest
from math import pi

import numpy as np

from bench import schneider
from bench.schneider import captured
from hame.clip.clip import Clip
from hame.clip.curve import from_json, from_keys
from hame.clip.key import FREE, HANDLES, STEP, VALUE, handle_kinds
from hame.clip.sampling import sample_curve
from hame.edits.cleaning import CalmKeys, ClearChannels, FitKeys, SpareKeys, Tolerance
from hame.edits.columns import DeleteColumns
from hame.edits.edit import Edit
from hame.edits.making import made
from hame.edits.pose import SetPose
from hame.edits.unwinding import Unwind
from hame.errors import BadEdit
from hame.evaluate.evaluate import channel_values, evaluate
from hame.maths.thinning import thinned
from hame.measure.bumps import bumps, flips, idle
from hame.scene.scene import Figure, Scene
from tests.hame.examples import brannoc_rig, random_pose


def edited(clip: Clip, edit: Edit) -> Clip:
    return made(edit, Scene({1: Figure(brannoc_rig(), clip)}, 1, 1000), 1).clips[1]


class FitTest(unittest.TestCase):
    def test_no_more_keys_than_a_published_fit_and_never_farther_off(self) -> None:
        """Against Schneider's fit at the same tolerance: at most 1.2 times its keys, curve by curve and together."""
        mine = theirs = 0
        for seed in range(10):
            values = captured(seed)
            for tolerance in (0.01, 0.03):
                keys, handles = thinned(values[None], np.array([tolerance]))[0]
                # Frames and values are made alike in size, as a person sees them on a graph; then distances are errors.
                scale = 100.0 * tolerance
                points = np.stack([np.arange(len(values)) * scale, values], axis=1)
                count = schneider.fit(points, tolerance)
                self.assertLessEqual(len(keys), 1.2 * count, (seed, tolerance))
                mine, theirs = mine + len(keys), theirs + count
        self.assertLessEqual(mine, 1.0 * theirs)

    def test_pieces_join_without_a_corner_wherever_that_keeps_the_error(self) -> None:
        values = captured(3)
        keys, handles = thinned(values[None], np.array([0.03]))[0]
        thirds = np.diff(keys) / 3.0
        into, out = -handles[:-1, 1] / thirds[:-1], handles[1:, 0] / thirds[1:]
        np.testing.assert_allclose(into, out, atol=1e-9)

    def test_a_corner_of_the_curve_itself_stays_one(self) -> None:
        fall = np.concatenate([-0.01 * np.arange(30.0) ** 2, np.full(30, -0.01 * 29.0**2)])
        keys, handles = thinned(fall[None], np.array([0.01]))[0]
        self.assertEqual(keys.tolist(), [0, 29, 59])
        after = edited(Clip().with_curves({"head/ry": from_keys(dict(enumerate((fall / 10).tolist(), 1)))}),
                       FitKeys(tolerance=Tolerance(0.001, 0.001))).curves["head/ry"]  # fmt: skip
        # Dense keys have no corner: the curve bends between 29 and 30, and a key at each keeps that too.
        self.assertEqual(after.frames.tolist(), [1, 29, 30, 60])

    def test_handles_that_go_on_from_one_another_stay_in_line_when_dragged(self) -> None:
        dense = from_keys(dict(enumerate(captured(3).tolist(), 1)))
        after = edited(Clip().with_curves({"head/ry": dense}), FitKeys(tolerance=Tolerance(0.03, 0.03)))
        codes = after.curves["head/ry"].table[1:-1, HANDLES]
        self.assertTrue(all(handle_kinds(code) == (FREE, FREE, True) for code in codes))

    def test_a_key_lies_where_one_has_to(self) -> None:
        values = np.linspace(0.0, 1.0, 60) ** 2
        fixed = np.zeros((1, 60), bool)
        fixed[0, [7, 31]] = True
        keys, _ = thinned(values[None], np.array([0.5]), fixed)[0]
        self.assertEqual(keys.tolist(), [0, 7, 31, 59])

    def test_the_stated_error_is_kept_on_every_frame_and_between(self) -> None:
        rig = brannoc_rig()
        dense = {a: from_keys(dict(zip(range(1, 241), captured(n).tolist(), strict=True)))
                 for n, a in enumerate(("head/ry", "spine/rx", "body/ty"))}  # fmt: skip
        clip = Clip().with_curves(dense)
        tolerance = Tolerance(0.02, 0.02)
        after = edited(clip, FitKeys(tolerance=tolerance))
        frames = np.concatenate([np.arange(1, 241), np.random.default_rng(4).uniform(1, 240, 20_000)])
        for address, curve in dense.items():
            off = np.abs(sample_curve(after.curves[address], frames) - sample_curve(curve, frames)).max()
            self.assertLessEqual(off, tolerance.of(rig, address) + 1e-9)
            self.assertLess(len(after.curves[address]), 0.3 * len(curve))

    def test_steps_stay_steps(self) -> None:
        rows = [[f, float(f // 10), STEP] for f in range(1, 60)]
        after = edited(Clip().with_curves({"head/ry": from_json(rows)}), FitKeys(tolerance=Tolerance(0.01, 0.01)))
        frames = np.arange(1, 60)
        np.testing.assert_allclose(sample_curve(after.curves["head/ry"], frames), frames // 10, atol=1e-9)

    def test_no_error_at_all_is_refused_with_what_can_be_done(self) -> None:
        clip = Clip().with_curves({"head/ry": from_keys({1: 0, 5: 1, 9: 0})})
        with self.assertRaisesRegex(BadEdit, "spare keys can be taken out without any"):
            edited(clip, FitKeys(tolerance=Tolerance(0.0, 0.0)))
        with self.assertRaisesRegex(BadEdit, "more than two keys"):
            edited(Clip().with_curves({"head/ry": from_keys({1: 0, 5: 1})}), FitKeys())


class UnwoundApartTest(unittest.TestCase):
    def test_a_turn_is_found_and_unwound_though_its_angles_are_keyed_on_other_frames(self) -> None:
        keys = {"chest/ry": {1: 0.0, 31: 2 * pi}, "chest/rx": {1: 0.0, 10: 0.1, 20: 0.2, 31: 0.0}}
        clip = Clip().with_curves({a: from_keys(k) for a, k in keys.items()})
        rig = brannoc_rig()
        self.assertEqual([(f.control, f.before, f.after) for f in flips(clip, rig)], [("chest", 1, 31)])
        done = made(Unwind(), Scene({1: Figure(rig, clip)}, 1, 100), 1)
        self.assertEqual(flips(done.clips[1], rig), [])
        # It is not said that no pose changes: between those keys the chest went round and does no more.
        self.assertIn("keyed angle by angle", done.notes[0])
        together = Clip().with_curves({f"head/r{x}": from_keys({1: 0.0, 9: v, 17: 0.0})
                                       for x, v in (("x", 0.1), ("y", 2 * pi + 0.2), ("z", 0.0))})  # fmt: skip
        done = made(Unwind(), Scene({1: Figure(rig, together)}, 1, 100), 1)
        self.assertIn("every pose on a key is the same", done.notes[0])


class BoundsTest(unittest.TestCase):
    def test_what_would_take_too_long_is_refused_before_it_is_begun(self) -> None:
        rig = brannoc_rig()
        free = [c.address for c in rig.channels if not c.locked]
        far = Clip().with_curves({a: from_keys({-216_000: 0.0, 0: 0.1, 216_000: 0.2}) for a in free})
        with self.assertRaisesRegex(BadEdit, "one step may take"):
            edited(far, FitKeys())
        # Keys far apart cost no more than keys close by.
        after = edited(far, SpareKeys(tolerance=Tolerance(1.0, 1.0)))
        self.assertEqual(after.key_count(), 2 * len(free))
        many = Clip().with_curves({a: from_keys(dict.fromkeys(range(1, 5000), 0.0)) for a in free[:20]})
        with self.assertRaisesRegex(BadEdit, "one step may take"):
            edited(many, SpareKeys())

    def test_nothing_new_is_stored_farther_out_than_an_hour(self) -> None:
        with self.assertRaisesRegex(BadEdit, "216,000"):
            edited(Clip(), SetPose(frame=216_001, values={"head/ry": 0.1}))
        edited(Clip(), SetPose(frame=-216_000, values={"head/ry": 0.1}))
        # What lies there since before may stay, and be taken away.
        old = Clip().with_curves({"head/ry": from_keys({1: 0.0, 5: 0.1, 300_000: 0.2})})
        self.assertEqual(len(edited(old, SetPose(frame=9, values={"head/ry": 0.1})).curves["head/ry"]), 4)
        self.assertEqual(len(edited(old, DeleteColumns(frames=(300_000,))).curves["head/ry"]), 2)


class SpareTest(unittest.TestCase):
    def test_between_frames_nothing_moves_either(self) -> None:
        rng = np.random.default_rng(2)
        dense = from_keys(dict(zip(range(1, 200), np.cumsum(rng.normal(0, 0.02, 199)).tolist(), strict=True)))
        after = edited(Clip().with_curves({"head/ry": dense}), SpareKeys(tolerance=Tolerance(0.01, 0.01)))
        times = rng.uniform(1, 199, 20_000)
        off = np.abs(sample_curve(after.curves["head/ry"], times) - sample_curve(dense, times)).max()
        self.assertLessEqual(off, 0.0101)
        self.assertLess(len(after.curves["head/ry"]), 180)

    def test_keys_that_say_nothing_go_and_no_frame_moves(self) -> None:
        line = {f: 0.1 * f for f in range(1, 20)} | {30: 1.0}
        clip = Clip().with_curves({"head/ry": from_json([[f, v, 1] for f, v in line.items()])})
        after = edited(clip, SpareKeys(tolerance=Tolerance(0.0, 0.0)))
        self.assertEqual(after.curves["head/ry"].frames.tolist(), [1, 19, 30])
        frames = np.arange(1, 31)
        np.testing.assert_allclose(
            sample_curve(after.curves["head/ry"], frames), sample_curve(clip.curves["head/ry"], frames), atol=1e-9
        )

    def test_extremes_stay_and_more_may_go_with_more_tolerance(self) -> None:
        wave = {f: float(np.sin(f / 6)) for f in range(1, 60)}
        clip = Clip().with_curves({"head/ry": from_keys(wave)})
        few = edited(clip, SpareKeys(tolerance=Tolerance(0.05, 0.05))).curves["head/ry"]
        more = edited(clip, SpareKeys(tolerance=Tolerance(0.001, 0.001))).curves["head/ry"]
        self.assertLess(len(few), len(more))
        self.assertLess(len(more), 59)
        frames = np.arange(1, 60)
        self.assertLessEqual(np.abs(sample_curve(few, frames) - np.array(list(wave.values()))).max(), 0.05)


class BumpsTest(unittest.TestCase):
    def test_one_key_off_its_curve_is_found_and_calmed(self) -> None:
        wave = {f: float(np.sin(f / 9)) for f in range(1, 60)}
        bumped = wave | {30: wave[30] + 0.2}
        clip = Clip().with_curves({"head/ry": from_keys(bumped), "head/rx": from_keys(wave)})
        found = bumps(clip.curves, brannoc_rig(), 1, 59)
        self.assertEqual({(b.address, b.frame) for b in found}, {("head/ry", 30)})
        after = edited(clip, CalmKeys(keys={"head/ry": (30,)}))
        self.assertEqual(bumps(after.curves, brannoc_rig(), 1, 59), [])
        row = int(np.flatnonzero(after.curves["head/ry"].frames == 30)[0])
        self.assertAlmostEqual(after.curves["head/ry"].table[row, VALUE], wave[30], places=2)

    def test_a_step_jumps_on_purpose(self) -> None:
        rows = [[1, 0.0, STEP], [20, 1.0, STEP], [40, 0.0, STEP]]
        self.assertEqual(bumps({"head/ry": from_json(rows)}, brannoc_rig(), 1, 50), [])

    def test_channels_of_one_value_are_listed_and_cleared_without_a_move(self) -> None:
        rig = brannoc_rig()
        clip = Clip().with_curves({
            "head/ry": from_keys({1: 0.0, 9: 0.0}), "head/rx": from_keys({1: 0.3, 9: 0.3}),
            "head/rz": from_keys({1: 0.3, 9: 0.4}),
        })  # fmt: skip
        found = idle(clip.curves, rig)
        self.assertEqual([(i.address, i.at_rest) for i in found], [("head/ry", True), ("head/rx", False)])
        after = edited(clip, ClearChannels(addresses=tuple(i.address for i in found)))
        self.assertEqual(set(after.curves), {"head/rx", "head/rz"})
        self.assertEqual(len(after.curves["head/rx"]), 1)
        frames = np.arange(1, 12)
        np.testing.assert_array_equal(channel_values(rig, after, frames), channel_values(rig, clip, frames))


class FlipsTest(unittest.TestCase):
    def test_turns_are_unwound_over_all_controls_and_no_pose_changes(self) -> None:
        rig = brannoc_rig()
        frames = [1, 7, 13, 19]
        names = ["head", "chest", "arm.L.upper", "arm.R.upper", "master"]
        curves = {}
        rng = np.random.default_rng(5)
        for name in names:
            for axis in "xyz":
                address = f"{name}/r{axis}"
                if rig.has_channel(address):
                    pose = [random_pose(rig, 40 + n)[rig.number(address)] for n in range(len(frames))]
                    # A whole turn more from some key on, as a join of two motions brings it.
                    pose = [v + 2 * pi * (n >= 2) * int(rng.integers(-1, 2)) for n, v in enumerate(pose)]
                    curves[address] = from_keys(dict(zip(frames, pose, strict=True)))
        clip = Clip().with_curves(curves)
        self.assertTrue(flips(clip, rig))
        after = edited(clip, Unwind())
        self.assertEqual(flips(after, rig), [])
        before, now = (evaluate(rig, channel_values(rig, c, frames))[:, rig.joint_nodes] for c in (clip, after))
        np.testing.assert_allclose(now[..., :3], before[..., :3], atol=1e-9)
        np.testing.assert_allclose(np.abs((now[..., 3:7] * before[..., 3:7]).sum(-1)), 1.0, atol=1e-9)

    def test_the_other_three_angles_of_the_same_turn_are_tried(self) -> None:
        rig = brannoc_rig()
        order = rig.control("head").order.lower()
        first, middle, last = (f"head/r{axis}" for axis in order)
        near = {first: (0.1, 0.12), middle: (0.4, 0.42), last: (0.2, 0.22)}
        flipped = {first: near[first][1] + pi, middle: pi - near[middle][1], last: near[last][1] + pi}
        clip = Clip().with_curves({a: from_keys({1: near[a][0], 9: flipped[a]}) for a in near})
        self.assertEqual(len(flips(clip, rig)), 1)
        after = edited(clip, Unwind(controls=("head",)))
        for address, (_, value) in near.items():
            self.assertAlmostEqual(after.curves[address].table[1, VALUE], value, places=9)
