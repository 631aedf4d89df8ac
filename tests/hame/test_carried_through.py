"""What goes on as a body stops, a foot that slaps down, a lean against a fall; and answers that go along."""

from __future__ import annotations

import unittest
from dataclasses import replace
from math import degrees, radians

import numpy as np

from hame.clip.clip import Clip
from hame.clip.counter import Counter
from hame.clip.curve import from_keys
from hame.clip.footdown import FootDown
from hame.clip.key import LINEAR
from hame.clip.plants import Plant
from hame.clip.through import CarryThrough
from hame.demo.shots import standing
from hame.edits.answered import AnswerKeys, DropAnswer
from hame.edits.answers import LayGive
from hame.edits.asif import AsIf
from hame.edits.counter import FARTHEST, LayCounter
from hame.edits.flights import Fly
from hame.edits.footdown import LayFootDown
from hame.edits.keys import MoveKeys
from hame.edits.offered import answers_to
from hame.edits.pose import SetPose, set_pose
from hame.edits.through import LayCarryThrough
from hame.errors import BadEdit
from hame.evaluate.line import played_values
from hame.evaluate.players import Player
from hame.maths.rotations import Array
from hame.measure.happenings import Happening
from hame.scene.scene import Figure, Scene
from tests.hame.test_answers import FPS, AnswersTest


class CarryThroughTest(AnswersTest):
    def setUp(self) -> None:
        super().setUp()
        self.on = LayCarryThrough(event=10, frames=24, nod=radians(10.0), overshoot=0.4, times=2, late=2.0)

    def test_each_swing_is_the_stated_share_of_the_one_before(self) -> None:
        """A damped oscillation has a constant ratio of successive extremes (the logarithmic decrement; from memory)."""
        times = np.linspace(10.0, 34.0, 2401)
        swings = CarryThrough(10, 34, overshoot=0.4, times=2).swings(times)
        first, back, last = swings.max(), -swings.min(), swings[times > 26.0].max()
        np.testing.assert_allclose([first, back, last], [1.0, 0.4, 0.16], rtol=1e-3)
        once = CarryThrough(10, 34, overshoot=0.4, times=1).swings(times)
        self.assertAlmostEqual(float(once.min()), -0.4, 3)
        self.assertLess(float(once[times > 30.0].max()), 1e-9)
        alone = CarryThrough(10, 34, overshoot=0.0).swings(times)
        self.assertGreaterEqual(float(alone.min()), 0.0)
        for wave in (swings, once, alone):  # it rests as it ends, and does not stop
            self.assertLess(abs(float(wave[-1] - wave[-2])), 1e-4)

    def test_links_come_one_after_the_other_so_many_frames_late(self) -> None:
        clip = self.make(replace(self.on, late=2.0, factor=1.0), self.stands).clips[1]
        frames = np.arange(8.0, 40.0)
        seen = [self.turned(clip, name, frames) for name in ("spine_2", "spine_3", "neck")]
        first = [int(np.argmax(turned > 0.5)) for turned in seen]
        self.assertEqual(first, sorted(first))
        self.assertEqual(first[2] - first[1], 2)
        self.assertAlmostEqual(float(seen[1].max()), 10.0, delta=0.3)
        self.assertLess(float(self.turned(clip, "pelvis", frames).max()), 1e-6)

    def test_planted_hands_and_feet_stay(self) -> None:
        held = set_pose(self.stands, self.rig, 1, {"arm.L/ik": 1.0}, "changed").clip
        clip = held.with_tracks({**held.tracks, "plant/arm.L.goal": (Plant(1, 60),)})
        laid = self.make(self.on, clip).clips[1]
        frames = np.arange(8.0, 40.0)
        for limb in ("arm.L", "leg.L", "leg.R"):
            end = self.rig.limb(limb).end
            np.testing.assert_allclose(
                self.nodes(laid, frames)[:, end, :3], self.nodes(clip, frames)[:, end, :3], atol=2e-4
            )
        # A hand that is posed by IK and not planted goes along with its shoulder.
        free = self.make(self.on, held).clips[1]
        hand = self.rig.limb("arm.L").end
        moved = self.nodes(free, frames)[:, hand, :3] - self.nodes(held, frames)[:, hand, :3]
        self.assertGreater(float(np.linalg.norm(moved, axis=1).max()), 0.05)

    def test_it_leans_the_way_that_was_lost(self) -> None:
        stop = Happening("stop", 12, "", 2.0, (0.0, 0.0, 2.0))
        ahead = answers_to(stop, FPS)["carry-through"]
        assert isinstance(ahead, LayCarryThrough)
        self.assertAlmostEqual(degrees(ahead.nod), 10.0, 6)
        aside = answers_to(replace(stop, lost=(2.0, 0.0, 0.0)), FPS)["carry-through"]
        assert isinstance(aside, LayCarryThrough)
        clip = self.make(replace(aside, event=10), self.stands).clips[1]
        head = self.joint("head")
        frames = np.arange(10.0, 18.0)
        way = self.nodes(clip, frames)[:, head, :3] - self.nodes(self.stands, frames)[:, head, :3]
        self.assertGreater(float(way[:, 0].max()), 0.05)
        self.assertLess(float(np.abs(way[:, 2]).max()), 0.02)

    def test_any_frame_alone_is_what_it_is_when_played(self) -> None:
        clip = self.stands.with_tracks({
            **self.stands.tracks, "carry-through": (CarryThrough(9, 30, nod=0.2, tilt=0.1),),
            "foot down/leg.R.goal": (FootDown(12, 21, drop=0.02, nod=0.05, toes=0.2),),
            "counter": (Counter(14, 34, nod=0.1, arms_tilt=0.4),),
        })  # fmt: skip
        times = np.arange(8.0, 36.0, 0.25)
        player = {0: Player(self.rig, clip)}
        together = played_values(player, times)[0]
        alone = np.concatenate([played_values(player, times[n : n + 1])[0] for n in range(len(times))])
        np.testing.assert_array_equal(together, alone)

    def test_what_cannot_be_is_refused(self) -> None:
        for edit, words in (
            (replace(self.on, event=99), "60"), (replace(self.on, times=3), "times"),
            (replace(self.on, nod=radians(80.0)), "60"), (replace(self.on, late=9.0), "late"),
        ):  # fmt: skip
            with self.subTest(words), self.assertRaisesRegex(BadEdit, words):
                self.make(edit, self.stands)
        laid = self.make(self.on, self.stands).clips[1]
        with self.assertRaisesRegex(BadEdit, "lies from 10 to 34 already"):
            self.make(replace(self.on, event=20), laid)
        for wrong in ({"times": True}, {"late": 9.0}, {"of": 3}, {"speed": -1.0}):
            with self.assertRaises(BadEdit):
                CarryThrough.read({**CarryThrough(1, 11).to_json(), **wrong})


class FootDownTest(AnswersTest):
    down = LayFootDown(control="leg.L.goal", event=20, flat=2, drop=0.02, toes=radians(12.0))

    def sole(self, clip: Clip, frames: Array) -> Array:
        """How high the tip of the toes is above the heel (F,), metres."""
        nodes = self.nodes(clip, frames)
        return nodes[:, self.joint("toe_l"), 1] - nodes[:, self.joint("foot_l"), 1]

    def test_toes_slap_flat_on_the_stated_frame(self) -> None:
        for flat in (1, 2, 4):
            with self.subTest(flat):
                clip = self.make(replace(self.down, flat=flat), self.stands).clips[1]
                frames = np.arange(15.0, 28.0)
                up = self.sole(clip, frames) - self.sole(self.stands, frames)
                self.assertEqual(int(up.argmax()), 5)
                np.testing.assert_allclose(up[5 + flat :], 0.0, atol=1e-6)
                self.assertGreater(float(up[4 + flat]), 0.005)

    def test_what_is_keyed_back_on_the_heel_is_flat_there_as_well(self) -> None:
        keyed = set_pose(self.stands, self.rig, 1, {"leg.L.goal/roll": radians(-20.0)}, "changed").clip
        clip = self.make(self.down, keyed).clips[1]
        self.assertAlmostEqual(float(self.sole(clip, np.array([22.0]))[0]),
                               float(self.sole(self.stands, np.array([22.0]))[0]), 5)  # fmt: skip

    def test_the_body_dips_within_two_frames_and_is_back_in_four(self) -> None:
        clip = self.make(self.down, self.stands).clips[1]
        frames = np.arange(18.0, 29.0)
        for name in ("pelvis", "head", "hand_l"):
            j = self.joint(name)
            by = (self.nodes(clip, frames) - self.nodes(self.stands, frames))[:, j, 1]
            self.assertLessEqual(abs(int(by.argmin()) - 4), 1, name)
            self.assertLess(float(by.min()), -0.015, name)
            np.testing.assert_allclose(by[frames >= 26], 0.0, atol=1e-6)

    def test_a_hand_does_not_come_down_on_its_heel(self) -> None:
        with self.assertRaisesRegex(BadEdit, "no foot that could come down"):
            self.make(replace(self.down, control="arm.L.goal"), self.stands)


class CounterTest(AnswersTest):
    def over(self, far: float) -> Clip:
        """The body leans out over its toes from frame 15 to 30."""
        keys = {1: 0.0, 12: 0.0, 18: far, 28: far, 34: 0.0}
        lower = {1: -0.01, 12: -0.01, 18: -0.15, 28: -0.15, 34: -0.01}
        return self.stands.with_curves({"body/tz": from_keys(keys), "body/ty": from_keys(lower)})

    def margins(self, clip: Clip, first: int, last: int) -> Array:
        scene = Scene({1: Figure(self.rig, clip, "Brannoc")}, 1, 60, of=1, fps=FPS)
        return np.array([stand.margin for stand in AsIf(scene).stood(clip, first, last)[1]])

    def test_trunk_and_arms_bring_the_weight_back(self) -> None:
        clip = self.over(0.26)
        self.assertLess(float(self.margins(clip, 18, 28).min()), -0.01)
        done = self.make(LayCounter(first=18, last=28), clip)
        self.assertEqual(done.notes, ())
        self.assertGreater(float(self.margins(done.clips[1], 18, 28).min()), -0.001)
        [span] = done.clips[1].tracks["counter"]
        assert isinstance(span, Counter)
        self.assertEqual((span.start, span.end), (14, 34))
        self.assertTrue(np.all(np.abs(span.leans) <= np.array(FARTHEST) + 1e-6))
        self.assertLess(span.nod, 0.0)  # forward of its toes it leans back
        frames = np.arange(1.0, 60.0)
        for side in "LR":
            foot = self.rig.limb(f"leg.{side}").end
            np.testing.assert_allclose(self.nodes(done.clips[1], frames)[:, foot, :3],
                                       self.nodes(clip, frames)[:, foot, :3], atol=1e-6)  # fmt: skip
        still = (frames < 14) | (frames > 34)
        np.testing.assert_allclose(self.nodes(done.clips[1], frames)[still], self.nodes(clip, frames)[still], atol=1e-9)

    def test_where_it_cannot_be_met_it_says_so(self) -> None:
        done = self.make(LayCounter(first=18, last=28), self.over(0.36))
        self.assertRegex(done.notes[0], r"do not meet it: of [\d.]+ cm beside, [\d.]+ are left")
        with self.assertRaisesRegex(BadEdit, r"trunk and arms cannot meet it: of \d+ cm beside"):
            self.make(LayCounter(first=18, last=28), self.over(1.2))
        with self.assertRaisesRegex(BadEdit, "nothing to answer"):
            self.make(LayCounter(first=18, last=28), self.stands)

    def test_it_is_found_anew_muted_and_made_into_keys(self) -> None:
        clip = self.make(LayCounter(first=18, last=28), self.over(0.26)).clips[1]
        longer = self.make(LayCounter(at=14, first=17, last=29), clip).clips[1]
        [span] = longer.tracks["counter"]
        self.assertEqual((span.start, span.end), (13, 35))
        keyed = self.make(AnswerKeys(of="counter", at=14), clip).clips[1]
        frames = np.arange(10.0, 40.0)
        np.testing.assert_allclose(self.nodes(keyed, frames), self.nodes(clip, frames), atol=0.002)
        self.assertNotIn("counter", self.make(DropAnswer(of="counter", at=14), clip).clips[1].tracks)


class FollowingTest(AnswersTest):
    def hop(self) -> Clip:
        up = {1: 0.0, 9: 0.0, 14: 0.4, 19: 0.0, 60: 0.0}
        base = set_pose(Clip(), self.rig, 1, standing(), "changed").clip
        return base.with_curves({"master/ty": from_keys(up, LINEAR)})

    def laid(self, **given: float) -> Clip:
        give = LayGive(event=19, drop=0.1, there=3, back=9, of="landing", **given)  # type: ignore[arg-type]
        return self.make(give, self.hop()).clips[1]

    def test_it_goes_along_where_the_landing_comes_to_lie(self) -> None:
        clip = self.laid()
        [span] = clip.tracks["give"]
        self.assertEqual(span.start, 19)
        later = self.make(MoveKeys(keys={"master/ty": (19,)}, by=3), clip)
        self.assertEqual(later.notes[-1], "the give goes along to the landing at 22")
        [span] = later.clips[1].tracks["give"]
        self.assertEqual((span.start, span.end), (22, 34))

    def test_one_that_answers_nothing_by_name_stays(self) -> None:
        clip = self.make(LayGive(event=19, drop=0.1, there=3, back=9), self.hop()).clips[1]
        [span] = self.make(MoveKeys(keys={"master/ty": (19,)}, by=3), clip).clips[1].tracks["give"]
        self.assertEqual(span.start, 19)

    def test_it_is_scaled_by_how_fast_that_is(self) -> None:
        clip = self.laid(speed=1.92)
        harder = self.make(SetPose(frame=14, values={"master/ty": 0.8}), clip).clips[1]
        [span] = harder.tracks["give"]
        self.assertEqual(span.start, 19)
        self.assertAlmostEqual(span.drop, 0.2, 3)
        alike = self.make(SetPose(frame=40, values={"head/ry": 0.2}), clip).clips[1]
        self.assertEqual(alike.tracks["give"], clip.tracks["give"])

    def test_a_flight_that_is_made_longer_takes_it_along_once(self) -> None:
        clip = self.laid(speed=1.92)
        done = self.make(Fly(at=14, frames=14), clip)
        [span] = done.clips[1].tracks["give"]
        self.assertEqual(span.start, 23)

    def test_where_nothing_lands_any_more_it_stays(self) -> None:
        clip = self.laid()
        flat = self.make(SetPose(frame=14, values={"master/ty": 0.0}), clip).clips[1]
        self.assertEqual([span.start for span in flat.tracks["give"]], [19])

    def test_the_hand_that_drags_it_elsewhere_is_not_withstood(self) -> None:
        clip = self.laid()
        [span] = self.make(LayGive(at=19, event=24, of="landing"), clip).clips[1].tracks["give"]
        self.assertEqual(span.start, 24)


if __name__ == "__main__":
    unittest.main()
