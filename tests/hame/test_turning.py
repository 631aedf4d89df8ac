"""Turning in the air: momentum and inertia against Pinocchio, by hand, and the half turn that is fitted."""

from __future__ import annotations

import unittest

import numpy as np
import pinocchio as pin
from scipy.spatial.transform import Rotation

from hame.character.masses import centre_of_mass, masses_of
from hame.clip.clip import Clip
from hame.clip.curve import from_keys
from hame.clip.plants import Plant
from hame.demo.shots import figure
from hame.edits.airturn import TurnInFlight
from hame.edits.edit import Edit
from hame.edits.flights import Fly
from hame.edits.making import Made, made
from hame.errors import BadEdit
from hame.evaluate.posed import Posed
from hame.faults.kinds import faults_in
from hame.faults.look import Look
from hame.maths.rotations import Array
from hame.measure.dynamics import dynamics
from hame.measure.turning import Turning, kept, turning
from hame.scene.carried import carried
from hame.scene.joined import played
from hame.scene.scene import Figure, Scene
from tests.hame.examples import brannoc_rig
from tests.hame.free_tree import Swing, model_of, nodes_of
from tests.hame.test_loads import BOX, MEN, heavy, held

FPS = 24.0
FINE = 4000.0


class MeasuredTest(unittest.TestCase):
    def test_momentum_and_inertia_are_pinocchio_s(self) -> None:
        for rig in (brannoc_rig(), figure("tide-crab")[0]):
            model, ids = model_of(rig)
            data = model.createData()
            swing = Swing(len(ids), 5)
            times = [0.4 - 0.5 / FINE, 0.4 + 0.5 / FINE]
            nodes = nodes_of(rig, model, ids, [swing.at(t)[0] for t in times])
            found = turning(Posed(rig, np.zeros((2, 0)), nodes), (), FINE)
            q, v, _ = swing.at(0.4)
            pin.ccrba(model, data, q, v)
            np.testing.assert_allclose(
                found.momenta[0], data.hg.angular, atol=1e-6 * max(1, abs(data.hg.angular).max())
            )
            np.testing.assert_allclose(found.inertias[0], data.Ig.inertia, atol=1e-6)

    def test_what_is_carried_turns_with_it(self) -> None:
        """Of a point at d from a body, m M / (m + M) d d (the parallel axes of both, Huygens and Steiner)."""
        rig = brannoc_rig()
        frames = np.arange(1.0, 4.0)
        figures = {MEN: Figure(rig), BOX: Figure(heavy(20.0), held())}
        posed = played(figures, frames)
        alone = turning(posed[MEN], (), FPS).inertias[0]
        both = turning(posed[MEN], carried(figures, posed, frames)[MEN], FPS).inertias[0]
        weigh = masses_of(rig).kilograms
        box = posed[BOX].nodes[0, posed[BOX].rig.joint_nodes[0], :3]
        apart = box - centre_of_mass(rig, posed[MEN].nodes)[0]
        reduced = 20.0 * weigh / (20.0 + weigh)
        wished = weigh * alone + reduced * (apart @ apart * np.eye(3) - np.outer(apart, apart))
        np.testing.assert_allclose((20.0 + weigh) * both, wished, atol=1e-6)

    def test_half_the_inertia_turns_twice_as_fast(self) -> None:
        """The skater who draws in the arms (conservation of angular momentum; Goldstein, section 1.1)."""
        inertia = np.array([2.0] * 6 + [1.0] * 6)
        turned = np.array([0.1] * 12)  # radians a frame, evenly: as no skater turns
        inertias = inertia[:, None, None] * np.eye(3) * [3.0, 1.0, 3.0]
        momenta = (inertia * turned * FPS)[:, None] * [0.0, 1.0, 0.0]
        turns = Rotation.from_quat(kept(Turning(momenta, inertias, 1.0 / FPS))).as_rotvec()
        np.testing.assert_allclose(turns[[0, -1]], 0.0, atol=1e-8)
        now = turned + np.diff(turns[:, 1])
        np.testing.assert_allclose(now[:6], 1.2 / 18.0, atol=1e-8)
        np.testing.assert_allclose(now[6:], 2.4 / 18.0, atol=1e-8)


class FittedTest(unittest.TestCase):
    """A jump with a half turn: knees drawn up and arms in meanwhile, the turn keyed as a hand keys it."""

    def setUp(self) -> None:
        self.rig = brannoc_rig()
        up = {1: 0.0, 9: 0.0, 14: 0.3, 21: 0.0, 30: 0.0}
        out = {1: 0.0, 9: 1.3, 13: 0.1, 17: 0.1, 21: 1.3, 30: 0.0}
        self.clip = self.flown({
            "master/ty": up, "master/ry": {1: 0.0, 9: 0.0, 21: np.pi, 30: np.pi},
            "arm.L.upper/rz": {k: -v for k, v in out.items()}, "arm.R.upper/rz": out,
            **{f"leg.{s}.goal/ty": {1: 0.0, 9: 0.0, 15: 0.35, 21: 0.0, 30: 0.0} for s in "LR"},
        })  # fmt: skip
        self.frames = np.arange(9.0, 22.0)

    def flown(self, keys: dict[str, dict[int, float]], **tracks: Plant) -> Clip:
        clip = Clip().with_curves({address: from_keys(curve) for address, curve in keys.items()})
        clip = clip.with_tracks({f"plant/leg.{side}.goal": (plant,) for side, plant in tracks.items()})
        return self.make(Fly(at=14), clip).clips[1]

    def make(self, edit: Edit, clip: Clip) -> Made:
        return made(edit, Scene({1: Figure(self.rig, clip)}, 1, 60, of=1, fps=FPS), 1)

    def posed(self, clip: Clip, frames: Array) -> Posed:
        return played({1: Figure(self.rig, clip)}, frames)[1]

    def even(self, clip: Clip) -> float:
        """By how much of it the angular momentum changes in the flight, by the measure of all motion."""
        spin = dynamics(self.rig, self.posed(clip, self.frames).nodes, FPS).spin[1:-1]
        mean = spin.mean(axis=0)
        return float(np.linalg.norm(spin - mean, axis=1).max() / np.linalg.norm(mean))

    def test_its_momentum_is_kept_within_two_percent_and_the_turn_of_its_landing_is(self) -> None:
        self.assertGreater(self.even(self.clip), 0.5)
        done = self.make(TurnInFlight(at=14), self.clip)
        clip = done.clips[1]
        self.assertLess(self.even(clip), 0.02)
        old, new = (self.posed(c, np.arange(1.0, 31.0)).nodes for c in (self.clip, clip))
        still = (np.arange(1, 31) <= 9) | (np.arange(1, 31) >= 21)
        np.testing.assert_allclose(new[still], old[still], atol=1e-9)
        # The way of its mass stays, and it turns faster where its inertia is less.
        before, after = (dynamics(self.rig, nodes, FPS).centre for nodes in (old, new))
        np.testing.assert_allclose(after, before, atol=0.001)
        found = turning(self.posed(clip, self.frames), (), FPS)
        upright = found.inertias[:, 1, 1]
        rates = np.diff(self.posed(clip, self.frames).values[:, self.rig.number("master/ry")])
        self.assertLess(float(np.corrcoef(upright, rates)[0, 1]), -0.8)
        self.assertGreater(upright.max() / upright.min(), 1.2)
        for address, curve in clip.curves.items():
            if address.startswith("master/r"):
                self.assertLessEqual(int(((curve.frames >= 9) & (curve.frames <= 21)).sum()), 6, address)
        self.assertRegex(done.notes[0], r"up to \d+° a second, and is [01]°")
        with self.assertRaisesRegex(BadEdit, "as it may already"):
            self.make(TurnInFlight(at=14), clip)

    def test_arms_that_whirl_in_a_fall_turn_the_body_against_them(self) -> None:
        whirl = {1: 0.0, 9: 0.0, 21: -2.0 * np.pi, 30: -2.0 * np.pi}
        clip = self.flown({
            "master/ty": {1: 0.6, 9: 0.6, 12: 0.55, 21: 0.0, 30: 0.0},
            "arm.L.upper/rx": whirl, "arm.R.upper/rx": whirl,
        }, L=Plant(1, 9), R=Plant(1, 9))  # fmt: skip
        fitted = self.make(TurnInFlight(at=14), clip).clips[1]
        pitch = self.posed(fitted, self.frames).values[:, self.rig.number("master/rx")]
        spin = turning(self.posed(fitted, self.frames), (), FPS)
        self.assertLess(spin.uneven, 0.05)
        self.assertGreater(np.ptp(pitch), np.radians(2.0))
        np.testing.assert_allclose(pitch[[0, -1]], 0.0, atol=1e-6)

    def test_a_turn_by_nothing_is_told_and_let_be_beyond_ones_own_limit(self) -> None:
        frames = np.arange(1, 31)
        look = Look(self.clip, self.posed(self.clip, frames), 1, FPS)
        [told] = [alert for alert in faults_in("weight", look) if alert.kind == "turning"]
        self.assertEqual((told.first, told.last), (9, 21))
        self.assertRegex(told.says, r"by up to \d{3}° a second, and nothing turns it")
        assert told.mend is not None
        mended = self.make(told.mend, self.clip).clips[1]
        after = Look(mended, self.posed(mended, frames), 1, FPS)
        self.assertEqual([a for a in faults_in("weight", after) if a.kind == "turning"], [])

    def test_what_cannot_be_is_refused(self) -> None:
        with self.assertRaisesRegex(BadEdit, "something bears it"):
            self.make(TurnInFlight(at=3), self.clip)


if __name__ == "__main__":
    unittest.main()
