"""Long chains of random edits: every step can be undone exactly, and no edit loses a key in silence."""

from __future__ import annotations

import unittest
from collections.abc import Callable
from typing import Any

import numpy as np
import orjson

from hame.character.rig import Rig
from hame.clip.clip import Clip, Patch, difference, from_json, patch_from_json
from hame.clip.curve import BEZIER
from hame.edits.blend import exaggerate, lay_breakdown
from hame.edits.columns import delete_columns, duplicate_columns, move_columns, paste_column
from hame.edits.cycles import free_cycle, make_cycle, mend_seam, repeat_cycle
from hame.edits.guard import guarded
from hame.edits.keys import delete_keys, duplicate_keys, move_keys, paste_keys
from hame.edits.labels import label_pose, lay_template
from hame.edits.library import StoredPose, lay_pose
from hame.edits.limbs import switch_limb
from hame.edits.mirror import Mirroring, mirror_pose, mirror_range
from hame.edits.outcome import Outcome
from hame.edits.overlap import Link, delay_parts
from hame.edits.pose import Keying, drop_pending, key_pose, rest_values, set_pose
from hame.edits.retime import hold_pose, insert_frames, scale_time, slow_by_phase
from hame.edits.shapes import set_shape
from hame.errors import BadEdit
from hame.evaluate.evaluate import channel_values
from tests.hame.examples import brannoc_rig, random_pose


def random_edit(clip: Clip, rng: np.random.Generator) -> Outcome:
    """One edit of any kind, with arguments as a person might give them, kept as the server keeps it."""
    rig = brannoc_rig()
    choice = EDITS[int(rng.integers(0, len(EDITS)))]
    return guarded(clip, choice(clip, rig, rng), rig, ["jaw"] if rng.random() < 0.1 else [])


def _frame(rng: np.random.Generator) -> int:
    return int(rng.integers(1, 40))


def _some(rig: Rig, rng: np.random.Generator) -> list[str] | None:
    names = [c.name for c in rig.controls]
    return None if rng.random() < 0.4 else [str(n) for n in rng.choice(names, 3, replace=False)]


def _keying(rng: np.random.Generator) -> Keying:
    return ("off", "changed", "control", "whole")[int(rng.integers(0, 4))]  # type: ignore[return-value]


def _columns(clip: Clip, rng: np.random.Generator) -> list[int]:
    frames = clip.key_frames() or [1]
    return [int(f) for f in rng.choice(frames, min(2, len(frames)), replace=False)]


def _pose(clip: Clip, rig: Rig, rng: np.random.Generator) -> Outcome:
    pose = random_pose(rig, int(rng.integers(1000)))
    names = _some(rig, rng) or ["body", "head"]
    chosen = [c for n in names for c in rig.channels_of(n) if not c.locked and c.kind != "scale"]
    values = {c.address: float(pose[rig.number(c.address)]) for c in chosen}
    return set_pose(clip, rig, _frame(rng), values, _keying(rng), shape=int(rng.integers(0, 3)))


def _paste(clip: Clip, rig: Rig, rng: np.random.Generator) -> Outcome:
    values = channel_values(rig, clip, [_frame(rng)])[0]
    how = Mirroring("mirror") if rng.random() < 0.3 else None
    copied = {a: float(v) for a, v in zip(rig.addresses, values, strict=True)}
    return paste_column(clip, rig, _frame(rng), copied, _some(rig, rng), how)


def _keys(clip: Clip, rng: np.random.Generator) -> dict[str, list[int]]:
    addresses = sorted(clip.curves) or ["body/ty"]
    some = [str(a) for a in rng.choice(addresses, min(3, len(addresses)), replace=False)]
    return {a: [int(f) for f in clip.curves[a].frames[:2]] if a in clip.curves else [1] for a in some}


def _by_hand(clip: Clip, rng: np.random.Generator) -> dict[str, list[list[Any]]]:
    rows = [
        [1, 0.01, BEZIER, 0, 0, float(rng.uniform(0, 9)), 0.02],
        [7, -0.02, BEZIER, float(rng.uniform(-9, 0)), 0, 3, 0],
    ]
    return {"body/ty": rows, "head/rx": rows}


def _lay(clip: Clip, rig: Rig, rng: np.random.Generator) -> Outcome:
    values = dict(zip(rig.addresses, map(float, random_pose(rig, 3)), strict=True))
    return lay_pose(
        clip, rig, _frame(rng), StoredPose(values, 0.9), float(rng.uniform(0, 1)), _keying(rng), _some(rig, rng)
    )


# Every kind of edit that there is, by the kinds of the server's interface; a test there compares the two lists.
KINDS: dict[str, Callable[[Clip, Rig, np.random.Generator], Outcome]] = {
    "pose": _pose,
    "reset": lambda c, rig, r: set_pose(c, rig, _frame(r), rest_values(rig, _some(rig, r), ["turn", "extra"]),
        _keying(r)),
    "key": lambda c, rig, r: key_pose(c, rig, _frame(r), _some(rig, r)),
    "drop": lambda c, rig, r: drop_pending(c, next(iter(c.pending), 1)),
    "limb": lambda c, rig, r: switch_limb(c, rig, _frame(r), "arm.L" if r.random() < 0.5 else "leg.R",
                                          "ik" if r.random() < 0.5 else "fk", "changed", anyway=True),
    "move": lambda c, rig, r: move_columns(c, rig, _columns(c, r), int(r.integers(-6, 7)), _some(rig, r)),
    "duplicate": lambda c, rig, r: duplicate_columns(c, rig, _columns(c, r), int(r.integers(-6, 7)), _some(rig, r)),
    "delete": lambda c, rig, r: delete_columns(c, rig, _columns(c, r)[:1], _some(rig, r)),
    "paste": _paste,
    "mirror": lambda c, rig, r: mirror_pose(c, rig, _frame(r), "swap", _some(rig, r), to=_frame(r)),
    "mirror range": lambda c, rig, r: mirror_range(c, rig, 1, 12, 13, _some(rig, r)),
    "move keys": lambda c, rig, r: move_keys(c, rig, _keys(c, r), int(r.integers(-6, 7))),
    "duplicate keys": lambda c, rig, r: duplicate_keys(c, rig, _keys(c, r), int(r.integers(-6, 7))),
    "delete keys": lambda c, rig, r: delete_keys(c, rig, _keys(c, r)),
    "paste keys": lambda c, rig, r: paste_keys(c, rig, _frame(r), _by_hand(c, r)),
    "breakdown": lambda c, rig, r: lay_breakdown(c, rig, _frame(r), float(r.uniform(-0.5, 1.5)), _keying(r)),
    "exaggerate": lambda c, rig, r: exaggerate(c, rig, _frame(r), float(r.uniform(-1, 1)), _keying(r)),
    "shape": lambda c, rig, r: set_shape(c, rig, ("stepped", "straight", "smooth")[int(r.integers(0, 3))], _some(rig,
        r)),
    "insert": lambda c, rig, r: insert_frames(c, rig, _frame(r), int(r.integers(-3, 4)), _some(rig, r)),
    "scale": lambda c, rig, r: scale_time(c, rig, _columns(c, r), _frame(r), float(r.uniform(0.3, 1.6)), _some(rig, r),
                                          bool(r.random() < 0.5)),
    "slow": lambda c, rig, r: slow_by_phase(c, rig, int(r.integers(-1, 2))),
    "hold": lambda c, rig, r: hold_pose(c, rig, _columns(c, r)[0], int(r.integers(1, 5)), float(r.uniform(0, 0.5)),
                                        bool(r.random() < 0.5), _some(rig, r)),
    "delay": lambda c, rig, r: delay_parts(c, rig, [Link(("arm.L.hand", "head"), int(r.integers(-3, 4)), 0.9)]),
    "cycle": lambda c, rig, r: make_cycle(c, rig, 1, 1 + 2 * int(r.integers(4, 13)), bool(r.random() < 0.5)),
    "free": lambda c, rig, r: free_cycle(c, rig),
    "repeat": lambda c, rig, r: repeat_cycle(c, rig, int(r.integers(25, 60)), float(r.uniform(0, 2)), 60),
    "mend": lambda c, rig, r: mend_seam(c, rig, 1, 25),
    "label": lambda c, rig, r: label_pose(c, _frame(r), ("Contact", "")[int(r.integers(0, 2))], "breakdown"),
    "template": lambda c, rig, r: lay_template(c, rig, "walk", _frame(r), 12, 90, bool(r.random() < 0.5)),
    "lay": _lay,
}  # fmt: skip
EDITS = list(KINDS.values())


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

    def test_what_is_stored_can_always_be_read(self) -> None:
        for seed in (20, 21):
            for clip in self.walk(seed)[0]:
                self.assertEqual(from_json(orjson.loads(orjson.dumps(clip.to_json()))).to_json(), clip.to_json())

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
