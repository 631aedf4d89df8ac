"""Living holds: alive, but never a move; closed, the same alone and played, and over feet that stay."""

from __future__ import annotations

import unittest
from dataclasses import replace
from math import radians

import numpy as np

from hame.character.rig import Rig
from hame.clip.clip import Clip
from hame.clip.curve import from_keys
from hame.clip.key import STEP
from hame.clip.living import Living, livings_of
from hame.clip.spans import OWN
from hame.edits.cycles import make_cycle
from hame.edits.edit import Edit
from hame.edits.living import DropLiving, LayLiving, LivingKeys
from hame.edits.making import Made, made
from hame.edits.pose import SetPose
from hame.edits.retime import insert_frames
from hame.errors import BadEdit
from hame.evaluate.evaluate import evaluate, joints
from hame.evaluate.line import keys_for, played_values
from hame.evaluate.players import Player
from hame.maths.rotations import Array
from hame.scene.scene import Figure, Scene
from tests.hame.examples import brannoc_rig

LIVELY = Living(1, 97, breath=0.014, trunk=0.01, head=0.014, arms=0.01, shift=0.004)


def values_of(rig: Rig, clip: Clip, times: Array) -> Array:
    return played_values({OWN: Player(rig, clip)}, times)[OWN]


class LivingTest(unittest.TestCase):
    def setUp(self) -> None:
        self.rig = brannoc_rig()
        legs = {f"leg.{side}/ik": from_keys({1: 1.0}) for side in "LR"}
        self.held = Clip().with_curves({"head/ry": from_keys({1: 0.2}), "body/ty": from_keys({1: -0.02}), **legs})
        self.frames = np.arange(1.0, 98.0)

    def living(self, span: Living = LIVELY, clip: Clip | None = None) -> Clip:
        return (clip or self.held).with_tracks({Living.kind: (span,)})

    def make(self, edit: Edit, clip: Clip | None = None) -> Made:
        return made(edit, Scene({1: Figure(self.rig, clip or self.held, "Brannoc")}, 1, 240), 1)

    def test_no_amount_changes_nothing_to_the_bit(self) -> None:
        before = values_of(self.rig, self.held, self.frames)
        for none in (Living(1, 97), replace(LIVELY, muted=True)):
            np.testing.assert_array_equal(values_of(self.rig, self.living(none), self.frames), before)
        lively = values_of(self.rig, self.living(), self.frames)
        outside = values_of(self.rig, self.living(replace(LIVELY, start=20, end=60)), self.frames)
        np.testing.assert_array_equal(outside[:19], before[:19])
        np.testing.assert_array_equal(outside[60:], before[60:])
        self.assertGreater(np.abs(lively - before).max(), 0.004)

    def test_any_frame_alone_is_what_it_is_when_played(self) -> None:
        clip = self.living()
        played = values_of(self.rig, clip, np.arange(1.0, 97.01, 0.25))
        for n in (0, 7, 133, 380):
            alone = values_of(self.rig, clip, np.array([1.0 + n * 0.25]))[0]
            np.testing.assert_allclose(alone, played[n], atol=1e-14)

    def test_a_loop_of_its_frames_closes_in_place_and_speed(self) -> None:
        for period, seed in ((72, 1), (31, 5), (400, 9)):
            clip = self.living(replace(LIVELY, fade=0, period=period, seed=seed))
            step = 1e-4
            first, last = values_of(self.rig, clip, np.array([1.0, 97.0]))
            np.testing.assert_allclose(first, last, atol=1e-12)
            begins = values_of(self.rig, clip, np.array([1.0, 1.0 + step]))
            ends = values_of(self.rig, clip, np.array([97.0 - step, 97.0]))
            np.testing.assert_allclose((begins[1] - begins[0]) / step, (ends[1] - ends[0]) / step, atol=1e-5)

    def test_it_is_never_faster_than_it_says(self) -> None:
        rng = np.random.default_rng(4)
        nearest = 0.0
        for _ in range(40):
            span = replace(
                LIVELY, end=int(rng.integers(3, 300)), period=int(rng.integers(8, 200)), seed=int(rng.integers(99)),
                fade=int(rng.integers(0, 40)), shift=0.03,
            )  # fmt: skip
            times = np.arange(span.start, span.end, 0.25)
            values = values_of(self.rig, self.living(span), np.append(times, span.end))
            steps = np.diff(values, axis=0) * 4.0
            turn, shift = span.fastest()
            body = [self.rig.number(f"body/{axis}") for axis in ("tx", "ty", "tz")]
            self.assertLessEqual(np.linalg.norm(steps[:, body], axis=1).max(), shift * 1.0001)
            turned = [n for n, channel in enumerate(self.rig.channels) if channel.kind == "turn"]
            fastest = np.abs(steps[:, turned]).max()
            self.assertLessEqual(fastest, turn * 1.0001)
            nearest = max(nearest, fastest / turn)
        self.assertGreater(nearest, 0.2)  # what is said is not idle

    def test_feet_that_stand_stay_where_they_are(self) -> None:
        def feet(clip: Clip) -> Array:
            nodes = joints(self.rig, evaluate(self.rig, values_of(self.rig, clip, self.frames)))
            ends = [n for n, name in enumerate(self.rig.skeleton.names) if "foot" in name or "toe" in name]
            self.assertGreaterEqual(len(ends), 2)
            return np.asarray(nodes[:, ends, :3])

        for lowered in (-0.02, 0.0):
            held = self.held.with_curves({"body/ty": from_keys({1: lowered})})
            still = feet(held)
            moved = feet(self.living(replace(LIVELY, shift=0.02), held))
            body = values_of(self.rig, self.living(replace(LIVELY, shift=0.02), held), self.frames)
            self.assertGreater(np.ptp(body[:, self.rig.number("body/tx")]), 0.01)
            self.assertLess(np.abs(moved - still).max(), 1e-6)

    def test_a_leg_that_would_be_taken_along_holds_the_body_in_place(self) -> None:
        held = self.held.with_curves({"leg.L/ik": from_keys({1: 0.0})})
        values = values_of(self.rig, self.living(clip=held), self.frames)
        for axis in ("tx", "ty", "tz"):
            self.assertEqual(np.ptp(values[:, self.rig.number(f"body/{axis}")]), 0.0)
        self.assertGreater(np.ptp(values[:, self.rig.number("chest/rx")]), 0.005)

    def test_a_leg_switched_inside_of_it_makes_no_jump(self) -> None:
        for keys in ({1: 1.0, 40: 0.0}, {1: 0.0, 40: 1.0}, {1: 1.0, 40: 0.0, 41: 1.0}):
            switched = from_keys(keys, shape=STEP)
            clip = self.living(replace(LIVELY, shift=0.02), self.held.with_curves({"leg.L/ik": switched}))
            values = values_of(self.rig, clip, np.arange(1.0, 97.01, 0.25))
            steps = np.diff(values[:, [self.rig.number(f"body/{axis}") for axis in ("tx", "ty", "tz")]], axis=0)
            self.assertLess(np.abs(steps).max(), 0.0006)
            alone = values_of(self.rig, clip, np.array([40.25]))[0]
            np.testing.assert_allclose(alone, values[157], atol=1e-14)
        told = self.make(LayLiving(start=10, end=90), self.held.with_curves({"leg.L/ik": switched}))
        self.assertIn("the body keeps its place", " ".join(told.notes))
        elsewhere = self.held.with_curves({"leg.L/ik": from_keys({1: 0.0, 3: 1.0}, shape=STEP)})
        self.assertNotIn("keeps its place", " ".join(self.make(LayLiving(start=10, end=90), elsewhere).notes))

    def test_an_echo_shows_it_mirrored(self) -> None:
        walk = self.held.with_curves({"chest/ry": from_keys({1: 0.1, 25: 0.0})})
        clip = make_cycle(self.living(replace(LIVELY, start=3, end=22, fade=4), walk), self.rig, 1, 49, echo=True).clip
        first, second = (
            values_of(self.rig, clip, np.arange(1.0, 25.0)),
            values_of(self.rig, clip, np.arange(25.0, 49.0)),
        )
        for address in ("head/ry", "head/rx", "chest/rz", "body/tx", "body/ty", "spine/rx"):
            n = self.rig.number(address)
            np.testing.assert_allclose(second[:, n], self.rig.channels[n].mirror * first[:, n], atol=1e-12)
        left, right = (self.rig.number(f"arm.{side}.upper/rx") for side in "LR")
        np.testing.assert_allclose(second[:, right], self.rig.channels[left].mirror * first[:, left], atol=1e-12)

    def test_it_goes_along_when_frames_are_inserted_and_taken_out(self) -> None:
        clip = self.living(replace(LIVELY, start=20, end=60)).with_curves({"neck/rx": from_keys({1: 0, 70: 1})})
        [longer] = livings_of(insert_frames(clip, self.rig, 10, 5).clip)
        self.assertEqual((longer.start, longer.end), (25, 65))
        [shorter] = livings_of(insert_frames(clip, self.rig, 50, -20).clip)
        self.assertEqual((shorter.start, shorter.end), (20, 50))

    def test_what_is_posed_on_it_plays_as_it_was_posed(self) -> None:
        clip = self.living()
        wanted = {"head/ry": 0.5, "chest/rx": -0.1, "body/tx": 0.03}
        for frame, values in keys_for({OWN: Player(self.rig, clip)}, OWN, 40, wanted).items():
            keyed = {a: from_keys({frame: v}) for a, v in values.items()}
            found = values_of(self.rig, clip.with_curves(keyed), np.array([40.0]))[0]
            for address, value in wanted.items():
                self.assertAlmostEqual(found[self.rig.number(address)], value, 12)
        posed = self.make(SetPose(frame=40, values={"head/ry": 0.5}), clip).clips[1]
        self.assertAlmostEqual(values_of(self.rig, posed, np.array([40.0]))[0, self.rig.number("head/ry")], 0.5, 12)

    def test_it_is_laid_changed_and_taken_away(self) -> None:
        laid = self.make(LayLiving(start=10, end=90))
        self.assertRegex(" ".join(laid.notes), r"never moves by more than 0\.\d+ degrees and 0\.\d+ mm a frame")
        changed = self.make(LayLiving(at=10, start=12, end=80, seed=7, muted=True), laid.clips[1]).clips[1]
        [span] = livings_of(changed)
        self.assertEqual((span.start, span.end, span.seed, span.muted), (12, 80, 7, True))
        self.assertEqual(livings_of(self.make(DropLiving(at=12), changed).clips[1]), ())
        two = self.make(LayLiving(start=81, end=120), changed).clips[1]
        self.assertEqual([s.start for s in livings_of(two)], [12, 81])

    def test_what_is_no_hold_is_refused(self) -> None:
        laid = self.make(LayLiving(start=10, end=90)).clips[1]
        for edit, words in (
            (LayLiving(start=10, end=10), "two frames or more"),
            (LayLiving(start=10, end=90, period=8, breath=radians(6)), "no hold any more"),
            (LayLiving(start=10, end=40, shift=0.04, fade=1), "no hold any more"),
            (LayLiving(start=10, end=90, breath=radians(20)), "by over 8|more than 8"),
            (LayLiving(start=250, end=300), "outside of the shot"),
            (LayLiving(start=80, end=120), "lies from 10 to 90 already"),
            (LayLiving(at=33, start=33, end=60), "no living hold begins at 33"),
            (DropLiving(at=11), "no living hold begins at 11"),
            (LayLiving(start=100, end=120, period=0), "goes from 8"),
        ):
            with self.subTest(words), self.assertRaisesRegex(BadEdit, words):
                self.make(edit, laid)

    def test_as_keys_it_moves_as_before_with_far_fewer_than_one_a_frame(self) -> None:
        for fade in (12, 0):
            clip = self.living(replace(LIVELY, start=10, end=90, fade=fade, arms=0.0))
            keyed = self.make(LivingKeys(at=10), clip).clips[1]
            self.assertEqual(livings_of(keyed), ())
            times = np.arange(10.0, 90.01, 0.25)
            far = np.abs(values_of(self.rig, keyed, times) - values_of(self.rig, clip, times)).max()
            self.assertLess(far, 0.0005)
            for frame in (1.0, 9.0, 91.0, 120.0):
                now, then = (values_of(self.rig, c, np.array([frame])) for c in (keyed, clip))
                np.testing.assert_allclose(now, then, atol=1e-12)
            laid = [curve for address, curve in keyed.curves.items() if address.startswith("#")]
            self.assertLess(max(len(curve) for curve in laid), 30)
        with self.assertRaisesRegex(BadEdit, "moves nothing"):
            self.make(LivingKeys(at=10), self.living(replace(LIVELY, start=10, muted=True)))


if __name__ == "__main__":
    unittest.main()
