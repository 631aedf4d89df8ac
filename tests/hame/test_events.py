"""Lead and delay for one event: what lies beyond it stays as it was, to the sample."""

from __future__ import annotations

import unittest

import numpy as np

from hame.character.rig import Rig
from hame.clip.clip import Clip
from hame.clip.curve import from_keys
from hame.clip.key import LINEAR
from hame.clip.marks import Label
from hame.edits.cycles import make_cycle
from hame.edits.edit import Edit
from hame.edits.events import DelayEvent
from hame.edits.making import Made, made
from hame.edits.overlap import Trail
from hame.errors import BadEdit
from hame.evaluate.evaluate import channel_values
from hame.scene.scene import Figure, Scene
from tests.hame.examples import brannoc_rig

FINE = np.arange(1.0, 60.01, 0.125)
SWING = {1: 0.0, 9: 0.5, 17: -0.3, 25: 0.4, 33: 0.0, 49: 0.2}


class EventTest(unittest.TestCase):
    def setUp(self) -> None:
        self.rig: Rig = brannoc_rig()
        names = ("arm.L.hand/rx", "arm.R.hand/rx", "arm.L.lower/rx", "head/ry")
        self.clip = Clip().with_curves({a: from_keys(SWING) for a in names})

    def make(self, edit: Edit, clip: Clip | None = None) -> Made:
        return made(edit, Scene({1: Figure(self.rig, clip or self.clip, "Brannoc")}, 1, 60), 1)

    def values(self, clip: Clip, address: str) -> np.ndarray:
        return np.asarray(channel_values(self.rig, clip, FINE)[:, self.rig.number(address)])  # type: ignore[arg-type]

    def test_at_one_pose_it_is_late_and_elsewhere_it_is_as_it_was(self) -> None:
        for by in (-3, 2, 5):
            chain = (Trail(("arm.L.hand",), by),)
            after = self.make(DelayEvent(chain=chain, about=17)).clips[1]
            self.assertEqual(after.curves["arm.L.hand/rx"].frames.tolist(), [1, 9, 17 + by, 25, 33, 49])
            now, before = self.values(after, "arm.L.hand/rx"), self.values(self.clip, "arm.L.hand/rx")
            beyond = (FINE <= 9) | (FINE >= 25)
            np.testing.assert_allclose(now[beyond], before[beyond], atol=1e-12)
            self.assertGreater(np.abs(now - before).max(), 0.05)
            for address in ("arm.R.hand/rx", "head/ry"):
                self.assertIs(after.curves[address], self.clip.curves[address])

    def test_a_way_that_goes_on_through_the_ends_keeps_its_slope_there(self) -> None:
        rise = {1: 0.0, 9: 0.1, 17: 0.4, 25: 0.5, 33: 0.9, 49: 1.0}
        clip = self.clip.with_curves({"arm.L.hand/rx": from_keys(rise)})
        after = self.make(DelayEvent(chain=(Trail(("arm.L.hand",), 4),), about=17), clip).clips[1]
        now, before = self.values(after, "arm.L.hand/rx"), self.values(clip, "arm.L.hand/rx")
        beyond = (FINE <= 9) | (FINE >= 25)
        np.testing.assert_allclose(now[beyond], before[beyond], atol=1e-12)

    def test_of_several_keys_the_nearest_comes_onto_the_pose(self) -> None:
        clip = self.clip.with_curves({"arm.L.hand/rx": from_keys({1: 0, 9: 0.2, 12: 0.3, 19: 0.6, 23: 0.1, 33: 0})})
        edit = DelayEvent(chain=(Trail(("arm.L.hand",), 0),), first=9, last=33, about=17, together=True)
        after = self.make(edit, clip).clips[1]
        self.assertEqual(after.curves["arm.L.hand/rx"].frames.tolist(), [1, 9, 10, 17, 21, 33])

    def test_over_a_stretch_without_keys_at_its_ends(self) -> None:
        for shape in (None, LINEAR):
            clip = self.clip if shape is None else self.clip.with_curves({"arm.L.hand/rx": from_keys(SWING, shape)})
            after = self.make(DelayEvent(chain=(Trail(("arm.L.hand",), 2),), first=12, last=30), clip).clips[1]
            self.assertEqual(after.curves["arm.L.hand/rx"].frames.tolist(), [1, 9, 12, 19, 27, 30, 33, 49])
            now, before = self.values(after, "arm.L.hand/rx"), self.values(clip, "arm.L.hand/rx")
            beyond = (FINE <= 12) | (FINE >= 30)
            np.testing.assert_allclose(now[beyond], before[beyond], atol=1e-9)

    def test_together_brings_what_trails_onto_the_pose(self) -> None:
        trailing = {
            "arm.L.lower/rx": {1: 0.0, 9: 0.1, 18: 0.5, 25: 0.0},
            "arm.L.hand/rx": {1: 0, 9: 0.2, 20: 0.6, 25: 0},
        }
        clip = self.clip.with_curves({a: from_keys(keys) for a, keys in trailing.items()})
        chain = (Trail(("arm.L.lower", "arm.L.hand"), 0),)
        after = self.make(DelayEvent(chain=chain, about=17, together=True), clip).clips[1]
        for address in trailing:
            self.assertEqual(after.curves[address].frames.tolist(), [1, 9, 17, 25])
        middle = self.make(DelayEvent(chain=chain, first=9, last=25, together=True), clip).clips[1]
        self.assertEqual({middle.curves[a].frames.tolist()[2] for a in trailing}, {20})

    def test_keys_that_would_leave_are_overtaken_and_the_ends_stay(self) -> None:
        # Keys close to the end, as where a motion was taken as keys: common practice, no source.
        dense = {1: 0.0, 9: 0.5, 16: 0.1, 17: -0.3, 18: -0.2, 23: 0.3, 24: 0.38, 25: 0.4, 33: 0.0}
        clip = self.clip.with_curves({"arm.L.hand/rx": from_keys(dense)})
        for by, left in ((2, [18, 19, 20]), (-9, [14, 15])):
            made = self.make(DelayEvent(chain=(Trail(("arm.L.hand",), by),), about=17, first=9, last=25), clip)
            after = made.clips[1]
            self.assertEqual(after.curves["arm.L.hand/rx"].frames.tolist(), [1, 9, *left, 25, 33])
            now, before = self.values(after, "arm.L.hand/rx"), self.values(clip, "arm.L.hand/rx")
            beyond = (FINE <= 9) | (FINE >= 25)
            np.testing.assert_allclose(now[beyond], before[beyond], atol=1e-12)
            self.assertIn("23, 24" if by > 0 else "16, 17, 18", " ".join(made.notes))

    def test_poses_with_names_bound_the_event(self) -> None:
        named = self.clip.with_labels({9: Label("Down"), 33: Label("Up")})
        after = self.make(DelayEvent(chain=(Trail(("arm.L.hand",), 1),), about=17), named).clips[1]
        self.assertEqual(after.curves["arm.L.hand/rx"].frames.tolist(), [1, 9, 18, 25, 33, 49])

    def test_what_cannot_be_is_refused(self) -> None:
        hand = Trail(("arm.L.hand",), 2)
        cycle = make_cycle(self.clip, self.rig, 1, 17, echo=False).clip
        for edit, clip, words in (
            (DelayEvent(chain=(), about=17), None, "no part"),
            (DelayEvent(chain=(hand,)), None, "choose the pose of the event"),
            (DelayEvent(chain=(hand,), about=1), None, "no pose before 1"),
            (DelayEvent(chain=(hand,), about=49), None, "no pose after 49"),
            (DelayEvent(chain=(Trail(("arm.L.hand",), 8),), about=17), None, "17 would leave the stretch from 9 to 25"),
            (DelayEvent(chain=(hand,), first=10, last=11), None, "no frame lies between"),
            (DelayEvent(chain=(hand,), first=2, last=8), None, "no key of these parts"),
            (DelayEvent(chain=(Trail(("chest",), 2),), about=17), None, "no key of these parts"),
            (DelayEvent(chain=(Trail(("tail",), 2),), about=17), None, "tail"),
            (DelayEvent(chain=(hand,), first=5, last=22), cycle, "shows"),
        ):
            with self.subTest(words), self.assertRaisesRegex(BadEdit, words):
                self.make(edit, clip)


if __name__ == "__main__":
    unittest.main()
