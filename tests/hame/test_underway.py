"""A mass that is brought over its feet as it moves: what the ground is asked for is inside of them, and little else is
changed.
"""

from __future__ import annotations

import unittest
from typing import Any

import numpy as np

from hame.clip.clip import Clip
from hame.clip.curve import from_keys
from hame.clip.key import LINEAR
from hame.clip.marks import Label
from hame.clip.plants import Plant
from hame.demo.shots import standing
from hame.edits.making import Made, made
from hame.edits.pose import set_pose
from hame.edits.underway import AROUND, BorneInMotion
from hame.errors import BadEdit
from hame.faults.fault import Alert, faults_in
from hame.faults.look import Look
from hame.maths.rotations import Array
from hame.scene.joined import played
from hame.scene.scene import Figure, Scene
from tests.hame.examples import brannoc_rig
from tests.hame.test_loads import heavy

FPS, LAST = 24.0, 90


class UnderwayTest(unittest.TestCase):
    def setUp(self) -> None:
        self.rig = brannoc_rig()
        self.stands = set_pose(Clip(), self.rig, 1, {**standing(), "body/ty": -0.08}, "changed").clip.with_tracks({
            f"plant/leg.{side}.goal": (Plant(1, LAST),) for side in "LR"
        })  # fmt: skip

    def shifted(self, frames: int, far: float = 0.12) -> Clip:
        """Goes aside with its body in so many frames, and stops."""
        keys = {1: 0.0, 40: 0.0, 40 + frames: far, LAST: far}
        return self.stands.with_curves({"body/tx": from_keys(keys, LINEAR)})

    def make(self, clip: Clip, **given: Any) -> Made:
        edit = BorneInMotion(**{"first": 40, "last": 46, **given})
        return made(edit, Scene({1: Figure(self.rig, clip, "Brannoc")}, 1, LAST, of=1, fps=FPS), 1)

    def pressure(self, clip: Clip) -> list[Alert]:
        look = Look(clip, played({1: Figure(self.rig, clip)}, np.arange(1, LAST + 1))[1], 1, FPS)
        return [alert for alert in faults_in("weight", look) if alert.kind == "pressure"]

    def stretch(self, clip: Clip) -> tuple[int, int]:
        """The frames from the first fault to the last."""
        told = self.pressure(clip)
        return min(alert.first for alert in told), max(alert.last for alert in told)

    def nodes(self, clip: Clip) -> Array:
        return played({1: Figure(self.rig, clip)}, np.arange(1.0, LAST + 1))[1].nodes

    def test_a_body_that_goes_aside_too_fast_begins_to_go_sooner(self) -> None:
        clip = self.shifted(5)
        told = self.pressure(clip)
        self.assertTrue(told and all(isinstance(alert.mend, BorneInMotion) for alert in told))
        first, last = self.stretch(clip)
        done = self.make(clip, first=first, last=last)
        self.assertRegex(done.notes[0], r"^it is borne (inside of its feet|\d+ cm beside its feet at most), not \d+ cm")
        self.assertEqual(self.pressure(done.clips[1]), [])
        before, after = self.nodes(clip), self.nodes(done.clips[1])
        body = self.rig.control("body").node
        # It goes first to the side on which it presses less, or comes along sooner: all before its own key.
        self.assertGreater(float(np.abs(after - before)[first - 8, body, 0]), 0.003)

    def test_plants_stay_and_beyond_nothing_moves(self) -> None:
        clip = self.shifted(5)
        first, last = self.stretch(clip)
        before, after = self.nodes(clip), self.nodes(self.make(clip, first=first, last=last).clips[1])
        for limb in (limb for limb in self.rig.limbs if limb.kind == "leg"):
            off = np.abs(after[:, limb.end, :3] - before[:, limb.end, :3])
            self.assertLess(1000.0 * float(off.max()), 0.01)
        beyond = np.r_[0 : first - AROUND - 1, min(last + AROUND, LAST) : LAST]
        self.assertLess(float(np.abs(after[beyond] - before[beyond]).max()), 1e-9)

    def test_it_takes_few_keys_and_no_channel_but_the_bodys_place(self) -> None:
        clip = self.shifted(5)
        first, last = self.stretch(clip)
        after = self.make(clip, first=first, last=last).clips[1]
        changed = {address for address in after.curves if after.curves[address] != clip.curves.get(address)}
        self.assertLessEqual(changed, {"body/tx", "body/ty", "body/tz"})
        self.assertLessEqual(max(len(after.curves[address]) for address in changed), 12)

    def test_poses_with_a_name_stay(self) -> None:
        named = self.shifted(5).with_labels({30: Label("Sees it"), 42: Label("Goes"), 60: Label("There")})
        first, last = self.stretch(named)
        before, after = self.nodes(named), self.nodes(self.make(named, first=first, last=last).clips[1])
        off = 1000.0 * np.abs(after - before).max(axis=(1, 2))
        self.assertLess(off[[29, 41, 59]].max(), 1.0)
        freed = self.nodes(self.make(named, first=first, last=last, free=(42,)).clips[1])
        self.assertGreater(1000.0 * float(np.abs(freed - before)[41].max()), 1.0)

    def test_a_body_that_is_borne_is_left(self) -> None:
        with self.assertRaisesRegex(BadEdit, "bear it in motion already"):
            self.make(self.shifted(40, 0.05))

    def test_what_cannot_be_is_refused(self) -> None:
        clip = self.shifted(5)
        for given, words in (
            ({"first": 1, "last": 400}, "frames|shot|lies"), ({"first": 50, "last": 40}, "before it begins"),
        ):  # fmt: skip
            with self.subTest(given), self.assertRaisesRegex(BadEdit, words):
                self.make(clip, **given)
        box = Scene({1: Figure(heavy(5.0), Clip(), "Crate")}, 1, LAST, of=1, fps=FPS)
        with self.assertRaisesRegex(BadEdit, "no feet"):
            made(BorneInMotion(first=10, last=20), box, 1)


if __name__ == "__main__":
    unittest.main()
