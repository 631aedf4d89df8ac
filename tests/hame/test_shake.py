"""Shakes: falling off in time and along the body, in closed form, and made into few keys."""

from __future__ import annotations

import unittest
from dataclasses import replace
from math import radians

import numpy as np
from scipy.signal import butter, sosfiltfilt
from scipy.spatial.transform import Rotation

from hame.character.rig import Rig
from hame.clip.clip import Clip
from hame.clip.curve import from_keys
from hame.clip.layers import layers_of
from hame.clip.living import Living
from hame.clip.shake import Shake
from hame.clip.spans import OWN
from hame.edits.cycles import make_cycle
from hame.edits.edit import Edit
from hame.edits.making import Made, made
from hame.edits.pose import SetPose
from hame.edits.retime import insert_frames
from hame.edits.shakes import DropShake, LayShake, ShakeKeys
from hame.errors import BadEdit
from hame.evaluate.evaluate import evaluate, joints
from hame.evaluate.line import keys_for, played_values
from hame.evaluate.players import Player
from hame.maths.rotations import Array
from hame.scene.scene import Figure, Scene
from tests.hame.examples import brannoc_rig

RATE = 24.0
HARD = Shake(10, 60, aside=0.02, forth=0.01, nod=0.04, twist=0.03, tilt=0.04, half=12)


def values_of(rig: Rig, clip: Clip, times: Array) -> Array:
    return played_values({OWN: Player(rig, clip)}, times)[OWN]


class ShakeTest(unittest.TestCase):
    def setUp(self) -> None:
        self.rig = brannoc_rig()
        self.bent = Clip().with_curves(
            {
                "chest/rx": from_keys({1: 0.4}), "spine/ry": from_keys({1: 0.5}), "head/ry": from_keys({1: 0.6}),
                "body/ty": from_keys({1: -0.05}), "body/ry": from_keys({1: 0.7}), "hips/rz": from_keys({1: 0.2}),
            }
        )  # fmt: skip
        self.frames = np.arange(1.0, 97.0)

    def shaken(self, span: Shake = HARD, control: str = "hips", clip: Clip | None = None) -> Clip:
        return (self.bent if clip is None else clip).with_tracks({f"shake/{control}": (span,)})

    def make(self, edit: Edit, clip: Clip | None = None) -> Made:
        return made(edit, Scene({1: Figure(self.rig, self.bent if clip is None else clip, "Brannoc")}, 1, 240), 1)

    def nodes(self, clip: Clip) -> Array:
        return joints(self.rig, evaluate(self.rig, values_of(self.rig, clip, self.frames)))

    def joint(self, name: str) -> int:
        return list(self.rig.skeleton.names).index(name)

    def high(self, clip: Clip, name: str) -> tuple[float, float]:
        """How much a joint moves above 4 Hz against the motion without a shake: millimetres and degrees, rms."""
        now, before = self.nodes(clip)[:, self.joint(name)], self.nodes(self.bent)[:, self.joint(name)]
        turned = (Rotation.from_quat(now[:, 3:7]) * Rotation.from_quat(before[:, 3:7]).inv()).as_rotvec()
        # Butterworth, "On the theory of filter amplifiers" (1930), as SciPy makes it, forth and back.
        sos = butter(4, 4.0, "highpass", fs=RATE, output="sos")
        place, turn = (sosfiltfilt(sos, x, axis=0) for x in (now[:, :3] - before[:, :3], turned))
        return 1000.0 * float(np.sqrt((place**2).mean())), float(np.degrees(np.sqrt((turn**2).mean())))

    def test_above_four_hertz_the_head_has_a_tenth_of_the_hips(self) -> None:
        for span in (HARD, replace(HARD, seed=7, nod=0.0, twist=0.0, tilt=0.0), replace(HARD, seed=3, period=3.0)):
            clip = self.shaken(span)
            hips, head = self.high(clip, "pelvis"), self.high(clip, "head")
            self.assertGreater(hips[0], 0.5)
            self.assertLess(head[0], 0.1 * hips[0])
            self.assertLess(head[1], max(0.1 * hips[1], 0.001))
        stiff = self.shaken(replace(HARD, factor=1.0))
        self.assertGreater(self.high(stiff, "head")[0], 0.6 * self.high(stiff, "pelvis")[0])
        still = self.shaken(replace(HARD, factor=0.0))
        self.assertLess(self.high(still, "head")[1], 0.001)

    def test_it_is_less_with_every_link_and_every_half_life(self) -> None:
        clip = self.shaken()
        up = [self.high(clip, name)[0] for name in ("pelvis", "spine_2", "spine_3", "neck", "head")]
        self.assertEqual(up, sorted(up, reverse=True))
        long = self.shaken(replace(HARD, end=96, half=8, period=4.0))
        far = np.abs(values_of(self.rig, long, self.frames) - values_of(self.rig, self.bent, self.frames))
        aside = far[:, self.rig.number("body/tx")]
        windows = [aside[9 + 16 * n : 25 + 16 * n].max() for n in range(4)]  # of two half-lives each
        for a, b in zip(windows, windows[1:], strict=False):
            self.assertLess(b, 0.4 * a)

    def test_a_twist_goes_up_the_spine_by_the_factor_a_link(self) -> None:
        base = Clip()
        clip = self.shaken(Shake(10, 60, twist=0.1, half=0), clip=base)
        before, now = self.nodes(base), self.nodes(clip)
        seen = []
        for name in ("pelvis", "spine_1", "spine_2", "spine_3", "neck", "head"):
            n = self.joint(name)
            turned = Rotation.from_quat(now[:, n, 3:7]) * Rotation.from_quat(before[:, n, 3:7]).inv()
            seen.append(np.abs(turned.as_rotvec()[:, 1]).max())
        for a, b in zip(seen, seen[1:], strict=False):
            self.assertLess(abs(b / a - 0.5), 0.07)  # a spine that is not upright twists about its own line

    def test_it_sets_in_and_ends_where_it_says(self) -> None:
        before = values_of(self.rig, self.bent, self.frames)
        after = values_of(self.rig, self.shaken(), self.frames)
        np.testing.assert_allclose(after[:10], before[:10], atol=1e-12)
        np.testing.assert_allclose(after[59:], before[59:], atol=1e-12)
        self.assertGreater(np.abs(after[11] - before[11]).max(), 0.005)
        for none in (Shake(10, 60), replace(HARD, muted=True)):
            np.testing.assert_array_equal(values_of(self.rig, self.shaken(none), self.frames), before)

    def test_any_frame_alone_is_what_it_is_when_played(self) -> None:
        clip = self.shaken().with_tracks({"living": (Living(1, 97, head=0.02, shift=0.01),)})
        played = values_of(self.rig, clip, np.arange(1.0, 90.01, 0.25))
        for n in (38, 43, 100, 222):
            alone = values_of(self.rig, clip, np.array([1.0 + n * 0.25]))[0]
            np.testing.assert_allclose(alone, played[n], atol=1e-13)

    def test_feet_that_are_posed_by_ik_stay(self) -> None:
        clip = self.shaken(replace(HARD, aside=0.01))
        for name in ("foot_l", "foot_r"):
            n = self.joint(name)
            self.assertLess(np.abs(self.nodes(clip)[:, n, :3] - self.nodes(self.bent)[:, n, :3]).max(), 1e-6)

    def test_a_hand_is_shaken_by_ik_and_by_fk(self) -> None:
        for control, switch in (("arm.L.goal", 1.0), ("arm.L.hand", 0.0)):
            base = self.bent.with_curves({"arm.L/ik": from_keys({1: switch})})
            clip = self.shaken(Shake(10, 60, aside=0.005, nod=0.1), control, base)
            n, other = self.joint("hand_l"), self.joint("hand_r")
            now, before = self.nodes(clip), self.nodes(base)
            turned = (Rotation.from_quat(now[:, n, 3:7]) * Rotation.from_quat(before[:, n, 3:7]).inv()).magnitude()
            self.assertGreater(turned.max(), 0.04)
            self.assertLess(turned.max(), 0.1001)
            far = (Rotation.from_quat(now[:, other, 3:7]) * Rotation.from_quat(before[:, other, 3:7]).inv()).magnitude()
            self.assertLess(far.max(), 0.02 * turned.max())
            if switch:
                self.assertGreater(np.abs(now[:, n, :3] - before[:, n, :3]).max(), 0.002)

    def test_an_echo_shows_it_mirrored(self) -> None:
        walk = Clip().with_curves({"chest/ry": from_keys({1: 0.1, 25: 0.0}), "arm.L/ik": from_keys({1: 0.0}),
                                   "arm.R/ik": from_keys({1: 0.0})})  # fmt: skip
        for control in ("hips", "arm.L.hand"):
            clip = self.shaken(Shake(3, 22, aside=0.01, nod=0.05, twist=0.04, tilt=0.03), control, walk)
            clip = make_cycle(clip, self.rig, 1, 49, echo=True).clip
            first, second = (values_of(self.rig, clip, np.arange(a, a + 24.0)) for a in (1.0, 25.0))
            bare = make_cycle(walk, self.rig, 1, 49, echo=True).clip
            first -= values_of(self.rig, bare, np.arange(1.0, 25.0))
            second -= values_of(self.rig, bare, np.arange(25.0, 49.0))
            self.assertGreater(np.abs(first).max(), 0.02)
            for n, channel in enumerate(self.rig.channels):
                other = self.rig.control(channel.control).other
                if self.rig.has_channel(f"{other}/{channel.name}"):
                    m = self.rig.number(f"{other}/{channel.name}")
                    np.testing.assert_allclose(second[:, m], channel.mirror * first[:, n], atol=2e-6)

    def test_what_is_posed_on_it_plays_as_it_was_posed(self) -> None:
        clip = self.shaken(clip=self.shaken(Shake(1, 80, nod=0.1), "chest"))
        wanted = {"head/ry": 0.5, "chest/rx": -0.3, "body/tx": 0.03, "body/ry": 0.2, "hips/rx": 0.1, "spine/rz": 0.4}
        for frame, values in keys_for({OWN: Player(self.rig, clip)}, OWN, 14, wanted).items():
            keyed = {a: from_keys({frame: v}) for a, v in values.items()}
            found = values_of(self.rig, clip.with_curves(keyed), np.array([14.0]))[0]
            for address, value in wanted.items():
                self.assertAlmostEqual(found[self.rig.number(address)], value, 11)
        posed = self.make(SetPose(frame=14, values={"head/ry": 0.5}), clip).clips[1]
        self.assertAlmostEqual(values_of(self.rig, posed, np.array([14.0]))[0, self.rig.number("head/ry")], 0.5, 11)

    def test_it_goes_along_when_frames_are_inserted(self) -> None:
        clip = self.shaken().with_curves({"neck/rx": from_keys({1: 0, 70: 1})})
        [span] = insert_frames(clip, self.rig, 5, 7).clip.tracks["shake/hips"]
        self.assertEqual((span.start, span.end), (17, 67))

    def test_it_is_laid_changed_and_taken_away(self) -> None:
        laid = self.make(LayShake(control="hips", start=10, end=40)).clips[1]
        two = self.make(LayShake(control="head", start=20, end=50), laid).clips[1]
        self.assertEqual(sorted(t for t in two.tracks if two.tracks[t]), ["shake/head", "shake/hips"])
        changed = self.make(LayShake(control="hips", at=10, start=12, end=30, seed=3, muted=True), two)
        [span] = changed.clips[1].tracks["shake/hips"]
        self.assertEqual((span.start, span.end, span.seed, span.muted), (12, 30, 3, True))  # type: ignore[attr-defined]
        gone = self.make(DropShake(control="hips", at=12), changed.clips[1]).clips[1]
        self.assertFalse(gone.tracks.get("shake/hips"))
        self.assertTrue(gone.tracks["shake/head"])
        only = self.make(LayShake(control="chest", start=10, end=40))
        self.assertIn("only turns", " ".join(only.notes))

    def test_what_cannot_be_shaken_is_refused(self) -> None:
        laid = self.make(LayShake(control="hips", start=10, end=40)).clips[1]
        for edit, words in (
            (LayShake(control="hips", start=10, end=10), "two frames or more"),
            (LayShake(control="hips", start=50, end=60, up=0.01), "all of the trunk along"),
            (LayShake(control="hips", start=30, end=60), "lies from 10 to 40 already"),
            (LayShake(control="hips", start=50, end=60, aside=0.2), "30 mm at most"),
            (LayShake(control="hips", start=50, end=60, tilt=radians(50)), "12 degrees at most"),
            (LayShake(control="hips", start=300, end=320), "outside of the shot"),
            (LayShake(control="fin", start=50, end=60), "fin"),
            (LayShake(control="arm.L", start=50, end=60), "neither turns nor has a place"),
            (DropShake(control="hips", at=11), "no shake begins at 11"),
        ):
            with self.subTest(words), self.assertRaisesRegex(BadEdit, words):
                self.make(edit, laid)

    def test_as_keys_it_moves_as_before(self) -> None:
        clip = self.shaken()
        keyed = self.make(ShakeKeys(control="hips", at=10), clip).clips[1]
        self.assertFalse(keyed.tracks.get("shake/hips"))
        self.assertEqual([layer.name for layer in layers_of(keyed).values()], ["Shake"])
        times = np.arange(10.0, 60.01, 0.25)
        far = np.abs(values_of(self.rig, keyed, times) - values_of(self.rig, clip, times)).max()
        self.assertLess(far, 0.001)
        counts = [len(curve) for address, curve in keyed.curves.items() if address.startswith("#")]
        self.assertLess(np.mean(counts), 40)  # of fifty-one frames


if __name__ == "__main__":
    unittest.main()
