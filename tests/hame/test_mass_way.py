"""The way of the mass rounded, a turn eased, hips and chest that go with steps; plants stay."""

from __future__ import annotations

import unittest
from math import degrees, radians

import numpy as np

from hame.character.masses import centre_of_mass
from hame.clip.clip import Clip
from hame.clip.curve import from_keys
from hame.clip.key import LINEAR
from hame.clip.marks import Label
from hame.clip.plants import Plant
from hame.demo.shots import standing
from hame.edits.easeturn import EaseTurn
from hame.edits.edit import Edit
from hame.edits.footing import OverFeet
from hame.edits.making import Made, made
from hame.edits.massway import RoundMass
from hame.edits.pose import set_pose
from hame.errors import BadEdit
from hame.faults.kinds import Alert, faults_in
from hame.faults.look import Look
from hame.maths import rotations
from hame.measure.paths import LEAST_STEP, turning
from hame.scene.joined import played
from hame.scene.scene import Figure, Scene
from tests.hame.examples import brannoc_rig
from tests.hame.test_footing import RELEASES, FootingTest

FPS = 24.0


class Standing(unittest.TestCase):
    def setUp(self) -> None:
        self.rig = brannoc_rig()
        base = set_pose(Clip(), self.rig, 1, {**standing(), "body/ty": -0.08}, "changed").clip
        self.stands = base.with_tracks({f"plant/leg.{side}.goal": (Plant(1, 60),) for side in "LR"})

    def make(self, edit: Edit, clip: Clip) -> Made:
        return made(edit, Scene({1: Figure(self.rig, clip, "Brannoc")}, 1, 60, of=1, fps=FPS), 1)

    def told(self, clip: Clip, kind: str) -> list[Alert]:
        posed = played({1: Figure(self.rig, clip)}, np.arange(1, 61))[1]
        return [alert for alert in faults_in("weight", Look(clip, posed, 1, FPS)) if alert.kind == kind]

    def feet_stay(self, one: Clip, other: Clip) -> None:
        frames = np.arange(1.0, 61.0)
        a, b = (played({1: Figure(self.rig, clip)}, frames)[1].nodes for clip in (one, other))
        for side in "LR":
            end = self.rig.limb(f"leg.{side}").end
            np.testing.assert_allclose(a[:, end, :3], b[:, end, :3], atol=1e-6)


class RoundMassTest(Standing):
    def corner(self) -> Clip:
        """The body goes forth, and from frame 20 on aside."""
        return self.stands.with_curves({
            "body/tz": from_keys({1: -0.08, 10: -0.08, 20: 0.06, 40: 0.06}, LINEAR),
            "body/tx": from_keys({1: -0.06, 20: -0.06, 30: 0.06, 40: 0.06}, LINEAR),
        })  # fmt: skip

    def test_a_corner_is_told_and_rounded_by_the_body(self) -> None:
        clip = self.corner()
        [alert] = self.told(clip, "mass corner")
        self.assertEqual(alert.worst, 20)
        assert isinstance(alert.mend, RoundMass)
        done = self.make(alert.mend, clip)
        self.assertRegex(done.notes[0], r"its mass turns by \d+° at most now, not \d+°")
        after = done.clips[1]
        self.assertEqual(self.told(after, "mass corner"), [])
        posed = played({1: Figure(self.rig, after)}, np.arange(14, 27))[1]
        way = centre_of_mass(self.rig, posed.nodes)
        self.assertLess(degrees(float(turning(way, LEAST_STEP * self.rig.size).max())), 25.0)
        self.feet_stay(clip, after)
        # The body alone is keyed, and beyond these frames nothing moves.
        changed = {a for a, curve in after.curves.items() if clip.curves.get(a) is not curve}
        self.assertLessEqual(changed, {"body/tx", "body/ty", "body/tz"})
        other = np.array([*range(1, 15), *range(26, 61)], float)
        a, b = (played({1: Figure(self.rig, c)}, other)[1].nodes for c in (clip, after))
        np.testing.assert_allclose(a, b, atol=1e-6)

    def test_poses_with_a_name_stay(self) -> None:
        clip = self.corner().with_labels({20: Label("Turns")})
        at = np.array([20.0])
        done = self.make(RoundMass(first=14, last=26), clip) if self.told(clip, "mass corner") else None
        if done is not None:
            a, b = (played({1: Figure(self.rig, c)}, at)[1].nodes for c in (clip, done.clips[1]))
            np.testing.assert_allclose(a, b, atol=1e-3)

    def test_what_cannot_be_is_refused(self) -> None:
        for edit, words in (
            (RoundMass(first=40, last=50), "round already"), (RoundMass(first=10, last=12), "no room"),
            (RoundMass(first=1, last=400), "120 frames"),
        ):  # fmt: skip
            with self.subTest(words), self.assertRaisesRegex(BadEdit, words):
                self.make(edit, self.corner())


class EaseTurnTest(Standing):
    def turns(self, frames: int = 3) -> Clip:
        keys = {1: 0.0, 24: 0.0, 24 + frames: radians(50.0), 60: radians(50.0)}
        return self.stands.with_curves({"body/ry": from_keys(keys)})

    def test_a_turn_that_slips_is_told_and_eased(self) -> None:
        clip = self.turns()
        alert = self.told(clip, "twist")[0]
        assert isinstance(alert.mend, EaseTurn)
        done = self.make(alert.mend, clip)
        self.assertRegex(done.notes[0], r"it asks for a friction of 0\.\d where it was [\d.]+, by \d+ keys")
        self.assertEqual(self.told(done.clips[1], "twist"), [])
        # One that asks for more is spread over more frames, as far as it takes.
        little = self.make(EaseTurn(first=24, last=27, friction=0.2), clip)
        self.assertRegex(little.notes[0], r"a friction of 0\.[0-2] where it was [\d.]+, by \d+ keys$")
        self.feet_stay(clip, done.clips[1])
        ends = np.array([1.0, 60.0])
        a, b = (played({1: Figure(self.rig, c)}, ends)[1].nodes for c in (clip, done.clips[1]))
        np.testing.assert_allclose(a, b, atol=1e-6)

    def test_what_cannot_be_is_refused(self) -> None:
        for clip, words in ((self.stands, "neither body nor master turns"), (self.turns(30), "which there is")):
            with self.subTest(words), self.assertRaisesRegex(BadEdit, words):
                self.make(EaseTurn(first=24, last=30), clip)


class HipsTest(FootingTest):
    """The same steps with hips and chest; all that holds without them holds with them."""

    def make(self, edit: Edit, clip: Clip | None = None) -> Made:
        if isinstance(edit, OverFeet):
            edit = OverFeet(first=edit.first, last=edit.last, free=edit.free, tilt=radians(4.0), turn=radians(6.0))
        return super().make(edit, clip)

    def test_the_mass_is_over_the_foot_that_stays_before_each_release(self) -> None:
        after = self.make(OverFeet(first=1, last=90)).clips[1]
        self.assertGreaterEqual(min(self.margins(after).values()), 0.0)
        self.assertTrue(all(len(after.curves[f"hips/{c}"].table) <= 5 for c in ("ry", "rz")))

    def test_hips_drop_on_the_side_that_is_let_go_and_the_chest_turns_against_them(self) -> None:
        after = self.make(OverFeet(first=1, last=90)).clips[1]
        joints = list(self.rig.skeleton.names)
        for release, stays in RELEASES.items():
            posed = self.posed(after, np.array([float(release)]))
            was = self.posed(self.clip, np.array([float(release)]))
            gone = "R" if stays == "leg.L" else "L"
            roots = {side: posed.nodes[0, self.rig.limb(f"leg.{side}").root, 1] for side in "LR"}
            self.assertLess(float(roots[gone] - roots[stays[-1]]), -0.005, release)
            turned = {}
            for name in ("pelvis", "spine_3"):
                node = self.rig.joint_nodes[joints.index(name)]
                by = rotations.multiply(posed.nodes[0, node, 3:7], rotations.inverse(was.nodes[0, node, 3:7]))
                turned[name] = float(rotations.to_vector(by)[1])
            self.assertAlmostEqual(degrees(abs(turned["pelvis"])), 6.0, delta=1.0)
            self.assertLess(turned["pelvis"] * turned["spine_3"], 0.0)


if __name__ == "__main__":
    unittest.main()
