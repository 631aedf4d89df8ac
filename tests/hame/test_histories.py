"""Long chains of random edits: every step can be undone exactly, and no edit loses a key in silence."""

from __future__ import annotations

import unittest

import numpy as np

from hame.clip.clip import Clip, Patch, difference, patch_from_json
from hame.edits.columns import delete_columns, duplicate_columns, move_columns, paste_column
from hame.edits.limbs import switch_limb
from hame.edits.outcome import Outcome
from hame.edits.pose import drop_pending, key_pose, rest_values, set_pose
from hame.errors import BadEdit
from hame.evaluate.evaluate import channel_values
from tests.hame.examples import brannoc_rig, random_pose


def random_edit(clip: Clip, rng: np.random.Generator) -> Outcome:
    """One edit of any kind, with arguments as a person might give them."""
    rig = brannoc_rig()
    frame = int(rng.integers(1, 40))
    names = [c.name for c in rig.controls]
    some = [str(n) for n in rng.choice(names, 3, replace=False)]
    kind = int(rng.integers(0, 9))
    if kind == 0:
        return key_pose(clip, rig, frame, None if rng.random() < 0.3 else some)
    if kind in (1, 2):
        pose = random_pose(rig, int(rng.integers(1000)))
        chosen = [c for n in some for c in rig.channels_of(n) if not c.locked and c.kind != "scale"]
        values = {c.address: float(pose[rig.number(c.address)]) for c in chosen}
        return set_pose(clip, rig, frame, values, str(rng.choice(["off", "changed", "control", "whole"])))  # type: ignore[arg-type]
    if kind == 3:
        return set_pose(clip, rig, frame, rest_values(rig, some, ["turn", "extra"]), "changed")
    frames = clip.key_frames()
    if kind == 4 and clip.pending:
        return drop_pending(clip, next(iter(clip.pending)))
    if kind == 5:
        return switch_limb(clip, rig, frame, "arm.L", "ik" if rng.random() < 0.5 else "fk", "changed")
    if not frames:
        return key_pose(clip, rig, frame)
    picked = [int(f) for f in rng.choice(frames, min(2, len(frames)), replace=False)]
    if kind == 6:
        change = move_columns if rng.random() < 0.5 else duplicate_columns
        return change(clip, rig, picked, int(rng.integers(-6, 7)))
    if kind == 7:
        return delete_columns(clip, rig, picked)
    values = channel_values(rig, clip, [picked[0]])[0]
    return paste_column(clip, rig, frame, {a: float(v) for a, v in zip(rig.addresses, values, strict=True)})


class HistoriesTest(unittest.TestCase):
    def walk(self, seed: int, steps: int = 40) -> tuple[list[Clip], list[Patch]]:
        rng = np.random.default_rng(seed)
        clips, patches = [Clip()], []
        while len(patches) < steps:
            try:
                after = random_edit(clips[-1], rng).clip
            except BadEdit:
                continue  # a refusal changes nothing, which is all that is asked of it
            patches.append(difference(clips[-1], after))
            clips.append(after)
        return clips, patches

    def test_undo_brings_back_every_state_and_redo_every_next_one(self) -> None:
        for seed in range(6):
            clips, patches = self.walk(seed)
            stored = [patch_from_json(patch.to_json()) for patch in patches]
            clip = clips[-1]
            for n in range(len(stored) - 1, -1, -1):
                clip = stored[n].reversed().apply(clip)
                self.assertEqual(clip.to_json(), clips[n].to_json(), (seed, n))
            for n, patch in enumerate(stored):
                clip = patch.apply(clip)
                self.assertEqual(clip.to_json(), clips[n + 1].to_json(), (seed, n))

    def test_frames_outside_of_the_told_ranges_do_not_move(self) -> None:
        rig = brannoc_rig()
        frames = np.arange(-10, 60)
        for seed in range(3):
            clips, patches = self.walk(seed, 25)
            for before, after, patch in zip(clips, clips[1:], patches, strict=False):
                differ = np.abs(channel_values(rig, before, frames) - channel_values(rig, after, frames)).max(axis=1)
                for frame in frames[differ > 1e-9]:
                    told = any((a is None or frame >= a) and (b is None or frame <= b) for a, b in patch.ranges)
                    self.assertTrue(told, (seed, frame, patch.ranges))

    def test_keys_lie_on_whole_frames_and_inside_their_limits_always(self) -> None:
        rig = brannoc_rig()
        for clip in self.walk(11, 60)[0][::6]:
            for address, curve in clip.curves.items():
                channel = rig.channels[rig.number(address)]
                self.assertFalse(channel.locked, address)
                self.assertTrue((np.diff(curve.frames) > 0).all())
                self.assertTrue(
                    (curve.values >= channel.low - 1e-9).all() and (curve.values <= channel.high + 1e-9).all()
                )

    def test_moving_a_column_away_and_back_over_free_frames_changes_nothing(self) -> None:
        rig = brannoc_rig()
        clip = self.walk(4)[0][-1]
        frames = clip.key_frames()
        free = 1000 - frames[-1]
        there = move_columns(clip, rig, [frames[-1]], free)
        self.assertEqual(there.notes, ())
        back = move_columns(there.clip, rig, [1000], -free)
        self.assertEqual(back.clip.to_json(), clip.to_json())

    def test_a_merge_says_how_many_keys_it_replaced(self) -> None:
        rig = brannoc_rig()
        clip = key_pose(key_pose(Clip(), rig, 1).clip, rig, 9).clip
        merged = move_columns(clip, rig, [9], -8)
        lost = clip.key_count() - merged.clip.key_count()
        self.assertIn(f"{lost} keys at frame 1 were replaced", merged.notes[0])
