"""Mirroring: exact, about the master's own plane, on every rig with two sides."""

from __future__ import annotations

from unittest import TestCase

import numpy as np

from hame.blocking.poses import rough_pose
from hame.character.build import build_rig
from hame.character.propose import propose
from hame.clip.clip import Clip
from hame.clip.curve import from_keys
from hame.edits.columns import paste_column
from hame.edits.keys import paste_keys
from hame.edits.mirror import Mirroring, mirror_pose, mirror_range, mirrored_values
from hame.edits.pose import key_pose, set_pose
from hame.errors import BadEdit
from hame.evaluate.evaluate import channel_values, evaluate, joints
from hame.scene.seen import pose_values
from tests.hame.examples import brannoc_rig, random_pose, skeleton_of
from tests.hame.foreign import foreign_character


def as_values(rig, numbers):  # type: ignore[no-untyped-def]
    return {a: float(v) for a, v in zip(rig.addresses, numbers, strict=True)}


def places(rig, values):  # type: ignore[no-untyped-def]
    numbers = np.array([values[a] for a in rig.addresses])
    return joints(rig, evaluate(rig, numbers[None]))[0, :, :3]


class MirrorTest(TestCase):
    def setUp(self) -> None:
        self.rig = brannoc_rig()
        self.everything = Mirroring("mirror", "mirror")

    def other_joints(self) -> list[int]:
        names = self.rig.skeleton.names
        swap = {"_l": "_r", "_r": "_l"}
        return [names.index(n[:-2] + swap[n[-2:]]) if n[-2:] in swap else names.index(n) for n in names]

    def test_twice_is_the_same_pose_on_every_rig(self) -> None:
        skeleton, _ = foreign_character()
        foreign = build_rig(skeleton, propose(skeleton))
        for rig in (self.rig, foreign):
            for seed in range(5):
                values = as_values(rig, random_pose(rig, seed))
                once, lacking = mirrored_values(rig, values, self.everything)
                twice, _ = mirrored_values(rig, once, self.everything)
                self.assertEqual(lacking, [])
                worst = max(abs(twice[a] - v) for a, v in values.items())
                self.assertLess(worst, 1e-9)

    def test_every_joint_stands_where_the_mirror_shows_its_counterpart(self) -> None:
        """Poles, IK hands, rolls, fingers and toes included: seen at the joints, not at the channels."""
        other = self.other_joints()
        for seed in range(6):
            values = as_values(self.rig, random_pose(self.rig, seed))
            # Half of the limbs the other way round: arms by IK, legs by FK.
            for limb in self.rig.limbs[:: 1 + seed % 2]:
                values[limb.switch] = 1.0 - values[limb.switch]
            mirrored, _ = mirrored_values(self.rig, values, self.everything)
            seen = places(self.rig, values)
            np.testing.assert_allclose(places(self.rig, mirrored)[other], seen * [-1, 1, 1], atol=1e-9)

    def test_the_plane_is_the_masters_own_when_the_master_is_kept(self) -> None:
        values = as_values(self.rig, random_pose(self.rig, 3))
        values |= {"master/tx": 1.5, "master/tz": -2.0, "master/ry": 0.7}
        there = values | mirrored_values(self.rig, values, Mirroring("keep"))[0]
        self.assertEqual([there[f"master/{c}"] for c in ("tx", "tz", "ry")], [1.5, -2.0, 0.7])
        at_home = {
            **values,
            "master/tx": 0.0,
            "master/ty": 0.0,
            "master/tz": 0.0,
            "master/rx": 0.0,
            "master/ry": 0.0,
            "master/rz": 0.0,
        }
        home = at_home | mirrored_values(self.rig, at_home, Mirroring("keep"))[0]
        master = evaluate(self.rig, np.array([values[a] for a in self.rig.addresses])[None])[
            0, self.rig.controls[0].node
        ]
        from hame.maths import rotations

        moved = master[:3] + rotations.rotate(master[3:7], places(self.rig, home) * master[7])
        np.testing.assert_allclose(places(self.rig, there), moved, atol=1e-9)

    def test_the_place_of_the_body_is_kept_or_mirrored_as_chosen(self) -> None:
        values = {"body/tx": 0.2, "body/ty": -0.1, "hips/rz": 0.3, "master/tx": 1.0}
        kept, _ = mirrored_values(self.rig, values, Mirroring("leave", "keep"))
        self.assertEqual(kept, {"body/tx": 0.2, "body/ty": -0.1, "hips/rz": -0.3})
        turned, _ = mirrored_values(self.rig, values, Mirroring("mirror", "mirror"))
        self.assertEqual(turned, {"body/tx": -0.2, "body/ty": -0.1, "hips/rz": -0.3, "master/tx": -1.0})

    def test_one_side_is_copied_onto_the_other_and_the_middle_stays(self) -> None:
        clip = set_pose(
            Clip(), self.rig, 5, {"arm.L.upper/rx": 0.5, "hips/rz": 0.2, "arm.R.upper/rx": -0.1}, "whole"
        ).clip
        after = mirror_pose(clip, self.rig, 5, "left to right").clip
        seen = as_values(self.rig, pose_values(self.rig, after, 5))
        self.assertEqual((seen["arm.R.upper/rx"], seen["arm.L.upper/rx"], seen["hips/rz"]), (0.5, 0.5, 0.2))
        with self.assertRaisesRegex(BadEdit, "stands on the left"):
            mirror_pose(clip, self.rig, 5, "left to right", ["hips", "arm.R.upper"])

    def test_swapping_twice_in_the_clip_is_the_clip_again(self) -> None:
        values = {a: v for a, v in as_values(self.rig, random_pose(self.rig, 8)).items()
                  if not self.rig.channels[self.rig.number(a)].locked}  # fmt: skip
        clip = set_pose(Clip(), self.rig, 1, values, "whole").clip
        twice = mirror_pose(mirror_pose(clip, self.rig, 1, "swap").clip, self.rig, 1, "swap").clip
        np.testing.assert_allclose(channel_values(self.rig, twice, [1]), channel_values(self.rig, clip, [1]), atol=1e-9)

    def test_a_mirrored_paste_is_the_opposite_contact(self) -> None:
        pose, _ = rough_pose(self.rig, "walk", "Contact")
        clip = key_pose(set_pose(Clip(), self.rig, 1, pose, "whole").clip, self.rig, 1).clip
        copied = as_values(self.rig, pose_values(self.rig, clip, 1))
        after = paste_column(clip, self.rig, 13, copied, mirrored=Mirroring()).clip
        opposite, _ = rough_pose(self.rig, "walk", "Opposite contact")
        seen = as_values(self.rig, pose_values(self.rig, after, 13))
        for address, value in opposite.items():
            self.assertAlmostEqual(seen[address], value, places=9)
        self.assertEqual(after.key_frames(), [1, 13])

    def test_a_paste_can_be_limited_to_parts(self) -> None:
        clip = key_pose(Clip(), self.rig, 1).clip
        after = paste_column(clip, self.rig, 1, {"head/rx": 0.3, "hips/rx": 0.3}, controls=["head"]).clip
        self.assertEqual(after.curves["head/rx"].values.tolist(), [0.3])
        self.assertIs(after.curves["hips/rx"], clip.curves["hips/rx"])

    def test_a_range_goes_over_in_one_step_with_its_handles(self) -> None:
        keys = from_keys({1: 0.0, 4: 0.3, 7: 0.1})
        clip = Clip().with_curves({"leg.L.goal/tx": keys, "leg.R.goal/tx": from_keys({15: 9.0, 30: 1.0})})
        outcome = mirror_range(clip, self.rig, 1, 7, 13)
        over = outcome.clip.curves["leg.R.goal/tx"]
        self.assertEqual(over.frames.tolist(), [13, 16, 19, 30])
        np.testing.assert_allclose(over.values, [0.0, -0.3, -0.1, 1.0])
        self.assertIn("1 key from 13 to 19 replaced", outcome.notes[0])
        self.assertIs(outcome.clip.curves["leg.L.goal/tx"], keys)
        with self.assertRaisesRegex(BadEdit, "before it begins"):
            mirror_range(clip, self.rig, 7, 1, 13)
        with self.assertRaisesRegex(BadEdit, "no keys from 50 to 60"):
            mirror_range(clip, self.rig, 50, 60, 70)

    def test_a_rig_without_the_other_side_says_so_and_loses_nothing(self) -> None:
        """One arm only: what has a counterpart is mirrored, the rest is named."""
        bare = skeleton_of({
            "hips": (None, (0, 1, 0)), "chest": ("hips", (0, 1.3, 0)), "head": ("chest", (0, 1.5, 0)),
            "upperarm_l": ("chest", (0.2, 1.4, 0)), "forearm_l": ("upperarm_l", (0.5, 1.4, -0.01)),
            "hand_l": ("forearm_l", (0.8, 1.4, 0)),
        })  # fmt: skip
        rig = build_rig(bare, propose(bare))
        arm = next(c.name for c in rig.controls if c.side == "L" and c.kind == "fk")
        clip = set_pose(Clip(), rig, 1, {f"{arm}/rx": 0.4, "hips/rz": 0.2}, "changed").clip
        outcome = mirror_pose(clip, rig, 1, "swap")
        self.assertIn("no other side on this rig, left as they were: arm.L", " ".join(outcome.notes))
        self.assertEqual(outcome.clip.curves[f"{arm}/rx"].values.tolist(), [0.4])
        self.assertEqual(outcome.clip.curves["hips/rz"].values.tolist(), [-0.2])
        with self.assertRaisesRegex(BadEdit, "no other side"):
            mirror_pose(clip, rig, 1, "left to right", [arm])
        outcome = paste_keys(clip, rig, 9, {f"{arm}/rx": [[1, 0.4, 2]], "hips/rz": [[1, 0.2, 2]]}, Mirroring())
        self.assertIn(arm, " ".join(outcome.notes))
        self.assertEqual(outcome.clip.curves["hips/rz"].frames.tolist(), [1, 9])
