"""Limbs matched over a range, turns in planted steps, and what a foot tips and swivels about."""

from __future__ import annotations

import unittest
from math import radians

import numpy as np

from hame.clip.clip import Clip
from hame.clip.curve import from_keys
from hame.clip.plants import Plant
from hame.edits.limbs import MatchLimbs, SwitchLimb
from hame.edits.making import made
from hame.edits.turning import TurnInPlace
from hame.errors import Asks, BadEdit
from hame.evaluate.evaluate import channel_values, evaluate
from hame.measure.soles import sole_points
from hame.scene.joined import played
from hame.scene.scene import Figure, Scene
from tests.hame.examples import brannoc_rig, prop_rig
from tests.hame.faulty import alerts
from tests.hame.test_ties import EXACT


class MatchTest(unittest.TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        cls.rig = brannoc_rig()
        curves = {"arm.L.upper/rx": {1: 0.2, 12: 0.9, 24: 0.2}, "arm.L.upper/rz": {1: -0.6, 24: -0.3},
                  "arm.L.lower/rx": {1: 0.3, 9: 1.2, 24: 0.4}, "arm.L.hand/rz": {1: 0.0, 24: 0.4},
                  "chest/ry": {1: -0.3, 24: 0.3}, "body/ty": {1: 0.0, 12: -0.1, 24: 0.0}}  # fmt: skip
        cls.clip = Clip().with_curves({a: from_keys(k) for a, k in curves.items()})

    def make(self, edit: MatchLimbs | TurnInPlace, clip: Clip | None = None) -> tuple[Clip, tuple[str, ...]]:
        done = made(edit, Scene({1: Figure(self.rig, clip or self.clip)}, 1, 48), 1)
        return done.clips[1], done.notes

    def off(self, clip: Clip, last: int = 24) -> float:
        frames = np.arange(1, last + 1)
        a, b = (
            evaluate(self.rig, channel_values(self.rig, c, frames))[:, self.rig.joint_nodes] for c in (self.clip, clip)
        )
        return float(np.linalg.norm(a[..., :3] - b[..., :3], axis=2).max())

    def keys(self, clip: Clip, address: str) -> list[int]:
        return clip.curves[address].frames.tolist()

    def test_changed_at_one_frame_it_stays_as_it_was_on_those_before(self) -> None:
        for keyed in ({}, {"arm.L/ik": from_keys({1: 0.0})}, {"arm.L/ik": from_keys({1: 0.0, 30: 0.0})}):
            clip = self.clip.with_curves(keyed)
            done = made(
                SwitchLimb(frame=18, limb="arm.L", to="ik"), Scene({1: Figure(self.rig, clip)}, 1, 48), 1
            ).clips[1]
            self.assertLess(self.off(done, 18), 1e-5)
            self.assertEqual(channel_values(self.rig, done, [18])[0][self.rig.number("arm.L/ik")], 1.0)
        # Where nothing of the limb was keyed, there is nothing to keep.
        plain = made(SwitchLimb(frame=18, limb="arm.R", to="ik"), Scene({1: Figure(self.rig, Clip())}, 1, 48), 1).clips[
            1
        ]
        self.assertEqual(self.keys(plain, "arm.R/ik"), [18])

    def test_a_match_that_no_key_can_help_ends(self) -> None:
        """A limit keeps the limb off at one key while every gap is within the tolerance."""
        clip = Clip().with_curves({"arm.L.lower/rx": from_keys({1: -0.2, 2: 0.3})})
        done, said = self.make(MatchLimbs(limbs=("arm.L",), first=1, last=12, to="ik", tolerance=0.001), clip)
        self.assertIn("arm.L.goal/tx", done.curves)
        self.assertRegex(said[0], r"no joint moves by more than")

    def test_a_match_is_bounded_by_frames_and_limbs(self) -> None:
        with self.assertRaisesRegex(BadEdit, "4 limbs goes over 2 to 500 frames"):
            self.make(MatchLimbs(first=1, last=501, to="ik"))

    def test_a_planted_limb_is_not_let_go_by_fk_without_a_word(self) -> None:
        planted = self.clip.with_tracks({"plant/leg.L.goal": [Plant(5, 20, release=3)]})
        scene = Scene({1: Figure(self.rig, planted)}, 1, 48)
        with self.assertRaisesRegex(Asks, "planted from 5 to 20.*would end at 9"):
            made(SwitchLimb(frame=10, limb="leg.L", to="fk"), scene, 1)
        done = made(SwitchLimb(frame=10, limb="leg.L", to="fk", anyway=True), scene, 1)
        self.assertEqual([(s.start, s.end) for s in done.clips[1].tracks["plant/leg.L.goal"]], [(5, 9)])
        self.assertIn("the plant 5 to 20 ends at 9", done.notes)
        gone = made(SwitchLimb(frame=5, limb="leg.L", to="fk", anyway=True), scene, 1)
        self.assertNotIn("plant/leg.L.goal", gone.clips[1].tracks)
        made(SwitchLimb(frame=30, limb="leg.L", to="fk"), scene, 1)
        matched = made(MatchLimbs(limbs=("leg.L",), first=8, last=30, to="fk", every="frame"), scene, 1)
        self.assertTrue(any("planted from 5 to 20; by FK" in note for note in matched.notes), matched.notes)

    def test_a_limb_that_slides_by_fk_inside_its_plant_is_told(self) -> None:
        keys = {"leg.L/ik": from_keys({1: 1.0, 10: 0.0}, 0), "leg.L.upper/rx": from_keys({10: 0.0, 20: -0.02}),
                "body/tz": from_keys({10: 0.0, 20: 0.03})}  # fmt: skip
        clip = Clip().with_curves(keys).with_tracks({"plant/leg.L.goal": [Plant(1, 24)]})
        posed = played({1: Figure(self.rig, clip)}, np.arange(1, 25))[1]
        told = [a for a in alerts(clip, posed, 1, 24.0) if a.kind == "slip" and a.control == "leg.L.goal"]
        self.assertTrue(told)
        self.assertGreaterEqual(told[0].first, 9)

    def test_every_frame_looks_as_before_and_a_tolerance_keys_only_what_is_needed(self) -> None:
        every, _ = self.make(MatchLimbs(limbs=("arm.L",), first=1, last=24, to="ik", every="frame"))
        self.assertLess(self.off(every), 1e-6)
        self.assertEqual(len(self.keys(every, "arm.L.goal/tx")), 24)
        few, said = self.make(MatchLimbs(limbs=("arm.L",), first=1, last=24, to="ik", tolerance=0.01))
        self.assertLess(self.off(few), 0.01)
        self.assertLess(len(self.keys(few, "arm.L.goal/tx")), 20)
        self.assertRegex(said[0], r"\d+ keys for each; no joint moves by more than \d\.\d\d mm")

    def test_there_and_back_and_all_limbs_at_once(self) -> None:
        there, _ = self.make(MatchLimbs(first=1, last=24, to="ik", every="frame"))
        back, _ = self.make(MatchLimbs(first=1, last=24, to="fk", every="frame"), there)
        self.assertLess(self.off(back), 1e-6)
        self.assertEqual(back.curves["leg.L/ik"].values[back.curves["leg.L/ik"].frames == 1], 0.0)

    def test_what_lies_beyond_the_range_stays_as_it_was(self) -> None:
        clip, _ = self.make(MatchLimbs(limbs=("arm.L",), first=8, last=16, to="ik", every="frame"))
        self.assertLess(self.off(clip), 1e-6)

    def test_a_range_of_nothing_is_refused(self) -> None:
        with self.assertRaisesRegex(BadEdit, "the first before the last"):
            self.make(MatchLimbs(first=9, last=9, to="ik"))
        with self.assertRaisesRegex(BadEdit, "no limb called tail"):
            self.make(MatchLimbs(limbs=("tail",), first=1, last=9, to="ik"))


class TurnTest(unittest.TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        cls.rig = brannoc_rig()

    def test_forty_degrees_in_three_planted_steps(self) -> None:
        clip = Clip().with_curves({"body/ty": from_keys({1: -0.08}), "master/tx": from_keys({1: 0.4})})
        done = made(
            TurnInPlace(start=5, angle=radians(40), steps=3, step=8), Scene({1: Figure(self.rig, clip)}, 1, 48), 1
        )
        after = done.clips[1]
        spans = {t: [(s.start, s.end) for s in spans] for t, spans in after.tracks.items()}
        self.assertEqual(
            spans, {"plant/leg.L.goal": [(5, 7), (13, 23), (29, 29)][:2], "plant/leg.R.goal": [(5, 15), (21, 29)]}
        )
        values = channel_values(self.rig, after, np.arange(1, 41))
        self.assertAlmostEqual(values[-1, self.rig.number("master/ry")], radians(40), places=6)
        nodes = evaluate(self.rig, values)
        for side in "LR":
            limb = self.rig.limb(f"leg.{side}")
            turned = 2.0 * np.arcsin(nodes[-1, limb.target, 4]) - 2.0 * np.arcsin(nodes[0, limb.target, 4])
            self.assertAlmostEqual(turned, radians(40), places=5)
        for track, spans_of in after.tracks.items():
            node = self.rig.control(track.partition("/")[2]).node
            for span in spans_of:
                still = nodes[span.start - 1 : span.end, node]
                self.assertLess(float(np.ptp(still, axis=0).max()), EXACT, (track, span))
        posed = played({1: Figure(self.rig, after)}, np.arange(1, 41))[1]
        self.assertEqual([a.says for a in alerts(after, posed, 1, 24.0) if a.kind in ("slip", "sink", "reach")], [])

    def test_a_prop_does_not_step(self) -> None:
        with self.assertRaisesRegex(BadEdit, "a left and a right leg"):
            made(TurnInPlace(start=1, angle=1.0), Scene({1: Figure(prop_rig("oil_can"))}, 1, 48), 1)


class SoleTest(unittest.TestCase):
    def test_a_foot_swivels_about_a_point_that_stays_and_tips_onto_its_edges(self) -> None:
        rig = brannoc_rig()
        for side in "LR":
            limb = rig.limb(f"leg.{side}")
            for number, name in enumerate(("heel", "ball", "tip")):
                values = np.tile(rig.rest, (40, 1))
                values[:, rig.number("body/ty")] = -0.15
                values[:, rig.number(f"leg.{side}.goal/{name}")] = np.linspace(-1.0, 1.0, 40)
                points = sole_points(rig, limb, evaluate(rig, values))
                self.assertLess(float(np.ptp(points[:, number], axis=0).max()), EXACT, name)
                self.assertLess(float(np.ptp(points[:, :, 1], axis=0).max()), EXACT, "it stays on the ground")
                self.assertGreater(float(np.ptp(points[:, (number + 1) % 3], axis=0).max()), 0.03)
            for bank, lean in ((0.4, 1.0), (-0.4, -1.0)):
                values = rig.rest.copy()
                values[rig.number("body/ty")], values[rig.number(f"leg.{side}.goal/bank")] = -0.15, bank
                foot = evaluate(rig, values[None])[0, limb.end]
                up = 2.0 * (foot[3] * foot[4] - foot[5] * foot[6])  # how far its upright leans along x
                self.assertGreater(up * lean * (1.0 if side == "L" else -1.0), 0.1, "above 0 over the outer edge")


if __name__ == "__main__":
    unittest.main()
