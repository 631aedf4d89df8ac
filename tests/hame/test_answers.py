"""Answers: a landing that gives presses less, a blow goes through a body link by link, and feet stay."""

from __future__ import annotations

import unittest
from dataclasses import replace
from math import degrees, radians

import numpy as np
from scipy.spatial.transform import Rotation

from hame.clip.answers import Give, Knock
from hame.clip.clip import Clip
from hame.clip.curve import from_keys
from hame.clip.key import LINEAR
from hame.clip.layers import layers_of
from hame.clip.plants import Plant
from hame.clip.spans import OWN
from hame.demo.shots import standing
from hame.edits.answered import AnswerKeys, DropAnswer
from hame.edits.answers import LayGive, LayKnock
from hame.edits.edit import Edit
from hame.edits.making import Made, made
from hame.edits.offered import answers_to
from hame.edits.pose import set_pose
from hame.edits.retime import insert_frames, scale_time
from hame.errors import BadEdit
from hame.evaluate.line import played_values
from hame.evaluate.players import Player
from hame.maths.rotations import Array
from hame.measure.dynamics import GRAVITY, dynamics
from hame.measure.happenings import Happening, What
from hame.scene.joined import played
from hame.scene.scene import Figure, Scene
from tests.hame.examples import brannoc_rig

FPS = 24.0


class AnswersTest(unittest.TestCase):
    def setUp(self) -> None:
        self.rig = brannoc_rig()
        self.stands = set_pose(Clip(), self.rig, 1, {**standing(), "body/ty": -0.01}, "changed").clip.with_tracks({
            f"plant/leg.{side}.goal": (Plant(1, 60),) for side in "LR"
        })  # fmt: skip

    def make(self, edit: Edit, clip: Clip) -> Made:
        return made(edit, Scene({1: Figure(self.rig, clip, "Brannoc")}, 1, 60, of=1, fps=FPS), 1)

    def nodes(self, clip: Clip, frames: Array) -> Array:
        return played({1: Figure(self.rig, clip)}, frames)[1].nodes

    def turned(self, clip: Clip, name: str, frames: Array) -> Array:
        """By how many degrees a joint is turned otherwise than where he stands."""
        j = self.joint(name)
        one, other = self.nodes(clip, frames)[:, j, 3:7], self.nodes(self.stands, frames)[:, j, 3:7]
        return np.degrees((Rotation.from_quat(one) * Rotation.from_quat(other).inv()).magnitude())

    def joint(self, name: str) -> int:
        return int(self.rig.joint_nodes[list(self.rig.skeleton.names).index(name)])


class GiveTest(AnswersTest):
    def landing(self) -> Clip:
        """Comes down from half a metre by gravity, and stops stiffly at frame 9."""
        fall = int(round(np.sqrt(2 * 0.5 / GRAVITY) * FPS))
        frames = np.arange(fall + 1)
        high = 0.5 * GRAVITY * ((fall / FPS) ** 2 - (frames / FPS) ** 2)
        keys = {9 - fall + int(f): float(h) for f, h in zip(frames, high, strict=True)} | {40: 0.0}
        base = set_pose(Clip(), self.rig, 1, standing(), "changed").clip
        return base.with_curves({"master/ty": from_keys(keys, LINEAR)})

    def peak(self, clip: Clip) -> float:
        return float(dynamics(self.rig, self.nodes(clip, np.arange(1.0, 41.0)), FPS).force[8:, 1].max()) / GRAVITY

    def test_a_landing_that_gives_presses_two_fifths_less(self) -> None:
        stiff = self.landing()
        done = self.make(LayGive(event=9, drop=0.34, there=4, back=12), stiff)
        self.assertLess(self.peak(done.clips[1]), 0.6 * self.peak(stiff))
        self.assertRegex(done.notes[-1], r"lands with [\d.]+ times its weight, without that with [\d.]+")
        frames = np.arange(9.0, 26.0)
        body = self.joint("pelvis")
        down = (self.nodes(stiff, frames) - self.nodes(done.clips[1], frames))[:, body, 1]
        self.assertEqual(int(down.argmax()), 4)
        self.assertAlmostEqual(float(down.max()), 0.34, 3)
        # It comes back more slowly, and beyond it nothing moves; the feet stay.
        self.assertLess(np.abs(np.diff(down[5:])).max(), np.diff(down[:5]).max())
        other = np.array([*range(1, 10), *range(25, 41)], float)
        np.testing.assert_allclose(self.nodes(done.clips[1], other), self.nodes(stiff, other), atol=1e-9)
        for side in "LR":
            foot = self.rig.limb(f"leg.{side}").end
            np.testing.assert_allclose(
                self.nodes(done.clips[1], frames)[:, foot, :3], self.nodes(stiff, frames)[:, foot, :3], atol=1e-4
            )

    def test_it_is_as_deep_as_the_landing_is_fast(self) -> None:
        """It goes down at first with the speed that comes: a quarter of a sine over t frames does pi/2 d/t."""
        for speed in (1.0, 2.0, 3.0):
            give = self.give("landing", speed)
            self.assertAlmostEqual(give.drop * np.pi / 2.0 * FPS / give.there, speed, delta=0.08)
        self.assertEqual((self.give("landing", -1.0).drop, self.give("landing", 30.0).drop), (0.05, 0.35))
        self.assertTrue(self.give("take-off", 2.0).before)
        self.assertNotIn("give", answers_to(Happening("stop", 9, "", 2.0), FPS))

    def give(self, what: What, speed: float) -> LayGive:
        found = answers_to(Happening(what, 9, "", speed), FPS)["give"]
        assert isinstance(found, LayGive)
        return found

    def test_before_a_take_off_it_ends_with_it(self) -> None:
        done = self.make(LayGive(event=30, before=True, drop=0.2, there=4, back=8), self.stands)
        [span] = done.clips[1].tracks["give"]
        self.assertEqual((span.start, span.end), (18, 30))
        frames = np.arange(18.0, 31.0)
        down = (self.nodes(self.stands, frames) - self.nodes(done.clips[1], frames))[:, self.joint("pelvis"), 1]
        self.assertEqual(int(down.argmax()), 8)  # gently down, and fast up
        self.assertGreater(-np.diff(down[8:]).min(), np.diff(down[:9]).max())

    def test_it_goes_no_deeper_than_the_knees_bend(self) -> None:
        done = self.make(LayGive(event=9, drop=2.0), self.stands)
        self.assertRegex(done.notes[0], r"it goes \d+ cm down: there a knee is bent as far as it goes")
        nodes = self.nodes(done.clips[1], np.arange(9.0, 22.0))
        for side in "LR":
            limb = self.rig.limb(f"leg.{side}")
            thigh = nodes[:, limb.lower, :3] - nodes[:, limb.upper, :3]
            shin = nodes[:, limb.end, :3] - nodes[:, limb.lower, :3]
            cosine = (thigh * shin).sum(axis=1) / np.linalg.norm(thigh, axis=1) / np.linalg.norm(shin, axis=1)
            self.assertLess(degrees(float(np.arccos(cosine).max())), 161.0)
            np.testing.assert_allclose(
                nodes[:, limb.end, :3], np.broadcast_to(nodes[0, limb.end, :3], (13, 3)), atol=1e-4
            )

    def test_any_frame_alone_is_what_it_is_when_played(self) -> None:
        clip = self.stands.with_tracks({
            **self.stands.tracks, "give": (Give(9, 21, there=3, back=9, drop=0.2),),
            "knock/chest": (Knock(12, 24, there=3, back=9, forth=-0.03, nod=0.2, twist=0.1),),
        })  # fmt: skip
        times = np.arange(8.0, 26.0, 0.25)
        player = {OWN: Player(self.rig, clip)}
        together = played_values(player, times)[OWN]
        alone = np.concatenate([played_values(player, times[n : n + 1])[OWN] for n in range(len(times))])
        np.testing.assert_array_equal(together, alone)

    def test_it_goes_along_in_time_is_muted_changed_and_taken_away(self) -> None:
        clip = self.make(LayGive(event=9, drop=0.2), self.stands).clips[1]
        later = clip.with_curves({"head/ry": from_keys({1: 0.0, 50: 0.1})})
        [span] = insert_frames(later, self.rig, 1, 5, None).clip.tracks["give"]
        self.assertEqual((span.start, span.end), (14, 26))
        [span] = insert_frames(later, self.rig, 12, 5, None).clip.tracks["give"]
        self.assertEqual((span.start, span.end), (9, 21))  # in as many frames as it says that it takes
        timed = later.with_curves({"head/rx": from_keys({9: 0.0, 21: 0.1, 25: 0.0})})
        for frames, to in (((1, 9, 50), (17, 29)), ((21, 25), (9, 21)), ((1, 9, 21, 25, 50), (17, 29))):
            [span] = scale_time(timed, self.rig, frames, 1, 2.0).clip.tracks["give"]
            self.assertEqual((span.start, span.end), to)
        changed = self.make(LayGive(at=9, event=12, drop=0.1, there=2, back=6), clip).clips[1]
        [span] = changed.tracks["give"]
        assert isinstance(span, Give)
        self.assertEqual((span.start, span.end, span.drop), (12, 20, 0.1))
        muted = self.make(LayGive(at=9, event=9, drop=0.2, muted=True), clip).clips[1]
        frames = np.arange(1.0, 30.0)
        np.testing.assert_array_equal(self.nodes(muted, frames), self.nodes(self.stands, frames))
        gone = self.make(DropAnswer(of="give", at=9), clip).clips[1]
        self.assertNotIn("give", gone.tracks)
        with self.assertRaisesRegex(BadEdit, "lies from 9 to 21 already"):
            self.make(LayGive(event=15), clip)
        with self.assertRaisesRegex(BadEdit, "no give begins at 3"):
            self.make(DropAnswer(of="give", at=3), clip)

    def test_it_becomes_few_keys_in_a_layer(self) -> None:
        clip = self.make(LayGive(event=9, drop=0.2), self.stands).clips[1]
        keyed = self.make(AnswerKeys(of="give", at=9), clip)
        self.assertEqual(len(layers_of(keyed.clips[1])), 1)
        self.assertRegex(keyed.notes[0], r"^[2-9] keys of 1 channel")
        frames = np.arange(1.0, 30.0)
        np.testing.assert_allclose(self.nodes(keyed.clips[1], frames), self.nodes(clip, frames), atol=0.0005)

    def test_what_cannot_be_is_refused(self) -> None:
        for edit, words in (
            (LayGive(event=99), "60"), (LayGive(event=9, there=9, back=9), "slowly"),
            (LayGive(event=9, drop=-0.1), "metres"), (LayGive(event=9, drop=float("nan")), "metres"),
        ):  # fmt: skip
            with self.subTest(words), self.assertRaisesRegex(BadEdit, words):
                self.make(edit, self.stands)


class KnockTest(AnswersTest):
    def setUp(self) -> None:
        super().setUp()
        self.blow = LayKnock(control="chest", event=10, there=2, back=8, forth=0.0, nod=radians(12.0), late=1.0)

    def test_links_have_it_one_after_the_other_and_less(self) -> None:
        clip = self.make(self.blow, self.stands).clips[1]
        frames = np.arange(8.0, 24.0)
        chest, head = (self.turned(clip, name, frames) for name in ("spine_3", "head"))
        self.assertEqual(int(chest.argmax()), 4)  # there in two frames
        self.assertAlmostEqual(float(chest[2]), 0.0, 9)
        self.assertAlmostEqual(float(chest.max()), 12.0, 3)
        self.assertGreater(int(head.argmax()), 4)
        self.assertLess(float(head.max()), 0.7 * 12.0)
        self.assertAlmostEqual(float(head[2]), 0.0, 9)
        # Three times as slowly back: half of it is there after four of eight frames, where it came within one.
        self.assertGreater(float(chest[7]), 0.5 * 12.0)
        self.assertAlmostEqual(float(chest[12]), 0.0, 6)

    def test_feet_stay_and_nothing_moves_beyond(self) -> None:
        clip = self.make(replace(self.blow, control="hips", nod=radians(6.0), forth=-0.04), self.stands).clips[1]
        frames = np.arange(1.0, 40.0)
        now, before = self.nodes(clip, frames), self.nodes(self.stands, frames)
        for side in "LR":
            foot = self.rig.limb(f"leg.{side}").end
            np.testing.assert_allclose(now[:, foot, :3], before[:, foot, :3], atol=1e-6)
        still = (frames <= 10) | (frames >= 20)
        np.testing.assert_allclose(now[still], before[still], atol=1e-9)
        self.assertGreater(np.abs(now - before).max(), 0.03)

    def test_where_the_weight_leaves_the_feet_it_is_told(self) -> None:
        self.assertEqual(self.make(self.blow, self.stands).notes, ())
        hard = replace(self.blow, control="hips", nod=0.0, forth=-0.3)
        self.assertRegex(self.make(hard, self.stands).notes[0], r"brings the weight \d+ cm beside what bears it")

    def test_mirrored_and_in_a_cycle_it_is_the_other_way(self) -> None:
        side = replace(self.blow, nod=0.0, aside=0.0, tilt=radians(10.0), twist=radians(5.0))
        clip = self.make(side, self.stands).clips[1]
        [span] = clip.tracks["knock/chest"]
        assert isinstance(span, Knock)
        np.testing.assert_allclose(span.mirrored().waves(np.array([12.0]))[1], [[0.0, -radians(5.0), -radians(10.0)]])
        np.testing.assert_allclose(span.waves(np.array([12.0]))[1], [[0.0, radians(5.0), radians(10.0)]])

    def test_what_cannot_be_is_refused(self) -> None:
        for edit, words in (
            (replace(self.blow, back=5), "goes back in 6 at least"),
            (replace(self.blow, control="hips", up=0.1), "let the body give"),
            (replace(self.blow, nod=radians(80.0)), "60"), (replace(self.blow, event=99), "60"),
            (replace(self.blow, late=1.5), "frames"), (replace(self.blow, control="nose"), "nose"),
        ):  # fmt: skip
            with self.subTest(words), self.assertRaisesRegex(BadEdit, words):
                self.make(edit, self.stands)
        for wrong in ({"back": 3, "there": 2}, {"there": 0}, {"there": True}, {"factor": 2.0}):
            with self.assertRaises(BadEdit):
                Knock.read({**Knock(1, 11).to_json(), **wrong})


if __name__ == "__main__":
    unittest.main()
