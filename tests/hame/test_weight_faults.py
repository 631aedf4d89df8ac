"""What no ground could give, no fall would do and no hand could hold is told, with its figure."""

from __future__ import annotations

import unittest
from dataclasses import replace

import numpy as np

from hame.clip.clip import Clip
from hame.clip.curve import from_keys
from hame.clip.key import LINEAR
from hame.clip.plants import Plant
from hame.edits.counter import LayCounter
from hame.edits.making import made
from hame.edits.underway import BorneInMotion
from hame.faults.kinds import Alert, faults_in
from hame.faults.limits import Limits
from hame.faults.look import Look
from hame.measure.balance import middle_of
from hame.measure.dynamics import GRAVITY, dynamics
from hame.scene.carried import carried
from hame.scene.joined import played
from hame.scene.scene import Figure, Scene
from tests.hame.examples import brannoc_rig
from tests.hame.test_loads import BOX, MEN, at, heavy, held

FPS = 24.0


def every(address: str, values: np.ndarray) -> Clip:
    """A channel with a key on each frame from 1 on."""
    keys = {n + 1: float(value) for n, value in enumerate(values)}
    return Clip().with_curves({address: from_keys(keys, LINEAR)})


class WeightFaultTest(unittest.TestCase):
    def look(self, clip: Clip, frames: int, box: Clip | None = None, limits: Limits | None = None) -> Look:
        figures = {MEN: Figure(brannoc_rig(), clip)}
        if box is not None:
            figures[BOX] = Figure(heavy(20.0), box)
        posed = played(figures, np.arange(1, frames + 1))
        loads = carried(figures, posed, 1).get(MEN, ())
        return Look(clip, posed[MEN], 1, FPS, loads=loads, limits=limits or Limits())

    def found(self, look: Look) -> dict[str, Alert]:
        return {alert.kind: alert for alert in faults_in("weight", look)}

    def test_who_stands_has_none(self) -> None:
        self.assertEqual(self.found(self.look(Clip(), 30)), {})

    def test_a_body_that_starts_too_fast_is_borne_beside_its_feet(self) -> None:
        """By hand: sped up by a, the force goes through the ground a h / g behind the mass."""
        times = np.arange(12) / FPS
        sway = every("body/tx", 0.5 * 4.0 * times**2)
        look = self.look(sway, 12)
        alert = self.found(look)["pressure"]
        self.assertEqual(alert.control, "body")
        self.assertEqual(alert.mend, BorneInMotion(first=alert.first, last=alert.last))
        self.assertEqual(alert.others[0][0], LayCounter(first=alert.first, last=alert.last, moving=True))
        worst = alert.worst - 1
        behind = look.dynamics.centre[worst, 0] - look.steadied.pressure[worst, 0]
        pull, press = look.steadied.acceleration[worst, 0], look.steadied.force[worst, 1]
        turn = -look.steadied.moment[worst, 2] / press
        high = look.dynamics.centre[worst, 1] - look.stands[worst].level
        self.assertAlmostEqual(behind, pull * high / press + turn, 6)
        self.assertAlmostEqual(alert.amount, -100.0 * look.moving_margins[worst], 6)
        self.assertIn(f"borne {alert.amount:.0f} cm beside", alert.says)
        far = self.found(self.look(every("body/tx", 0.5 * 30.0 * times[:7] ** 2), 7))["pressure"]
        self.assertGreater(far.amount, 200.0)
        self.assertIn("borne more than 2 m beside", far.says)
        self.assertNotIn("pressure", self.found(replace(look, limits=Limits(outside=5.0))))
        self.assertNotIn("pressure", self.found(replace(look, limits=Limits(frames=30))))

    def test_hands_that_hold_can_draw(self) -> None:
        times = np.arange(12) / FPS
        sway = every("body/tx", 2.0 * times**2)
        holding = sway.with_tracks({"plant/arm.L.goal": (Plant(1, 12),)})
        self.assertNotIn("pressure", self.found(self.look(holding, 12)))

    def test_a_body_that_drops_faster_than_it_falls_would_have_to_be_pulled(self) -> None:
        times = np.arange(6) / FPS
        drop = every("body/ty", np.maximum(-0.5 * 1.5 * GRAVITY * times**2, -0.4))
        alert = self.found(self.look(drop, 6))["pulled"]
        self.assertIn("% of its weight", alert.says)
        self.assertGreater(alert.amount, 10.0)
        # What falls as things fall, and no faster, is let be.
        gentle = every("body/ty", np.maximum(-0.5 * 0.9 * GRAVITY * times**2, -0.3))
        self.assertNotIn("pulled", self.found(self.look(gentle, 5)))

    def test_feet_that_push_off_too_flat_would_slip(self) -> None:
        times = np.arange(10) / FPS
        dash = every("body/tz", 0.5 * 9.0 * np.minimum(times, 0.2) ** 2)
        alert = self.found(self.look(dash, 10))["friction"]
        self.assertGreater(alert.amount, 0.8)
        self.assertIn("and has 0.8", alert.says)
        self.assertNotIn("friction", self.found(self.look(dash, 10, limits=Limits(friction=50.0))))

    def test_a_turn_that_starts_faster_than_feet_hold_it(self) -> None:
        """By hand: a disc of radius r that presses with m g holds a moment of 2/3 mu m g r about its middle."""
        times = np.arange(8) / FPS
        turn = every("body/ry", 0.5 * 40.0 * np.minimum(times, 0.15) ** 2)
        look = self.look(turn, 8)
        alert = self.found(look)["twist"]
        worst = alert.worst - 1
        area = look.stands[worst].area
        wide = np.linalg.norm(area - middle_of(area), axis=1).mean()
        held = 2.0 / 3.0 * 0.8 * look.steadied.force[worst, 1] * wide
        self.assertAlmostEqual(alert.amount, 0.8 * abs(look.steadied.twist[worst]) / held, 6)
        self.assertGreater(alert.amount, 0.8)
        self.assertIn("turn on the ground", alert.says)
        self.assertNotIn("twist", self.found(self.look(turn, 8, limits=Limits(friction=50.0))))

    def hop(self, share: float, frames: int = 16, rise: float = 0.3) -> Clip:
        """Stands, goes up and down by a share of gravity, stands stiffly."""
        up = np.arange(frames + 1) / FPS
        whole = up[-1]
        height = 0.5 * share * GRAVITY * up * (whole - up)
        return every("master/ty", np.concatenate([np.zeros(6), height, np.zeros(8)]))

    def test_a_flight_that_does_not_fall_as_things_fall_is_told_in_percent_of_gravity(self) -> None:
        alert = self.found(self.look(self.hop(0.5), 31))["flight"]
        self.assertRegex(alert.says, "with (49|50|51) % of gravity")
        self.assertAlmostEqual(alert.amount, 50.0, delta=1.0)
        self.assertEqual((alert.first, alert.last), (7, 23))
        assert alert.mend is not None
        scene = Scene({MEN: Figure(brannoc_rig(), self.hop(0.5))}, 1, 31, fps=FPS)
        self.assertNotIn("flight", self.found(self.look(made(alert.mend, scene, MEN).clips[MEN], 31)))
        self.assertNotIn("flight", self.found(self.look(self.hop(1.0), 31)))
        self.assertNotIn("flight", self.found(self.look(self.hop(0.5), 31, limits=Limits(flight=60.0))))

    def test_a_stiff_landing_is_told_in_weights(self) -> None:
        """By hand: what comes down with v stops within a frame by v / (g t) and its weight."""
        look = self.look(self.hop(1.0), 31)
        alert = self.found(look)["landing"]
        down = GRAVITY * 16.0 / FPS / 2.0
        self.assertAlmostEqual(alert.amount, 1.0 + (down - 0.5 * GRAVITY / FPS) * FPS / GRAVITY, delta=0.05)
        self.assertNotIn("landing", self.found(replace(look, limits=Limits(landing=20.0))))

    def test_a_thing_that_is_moved_too_fast_is_told_in_newtons(self) -> None:
        """By hand: m (a + g)."""
        times = np.arange(6) / FPS
        lift = every("arm.L.goal/ty", 0.5 * 15.0 * times**2)
        lift = lift.with_curves({brannoc_rig().limb("arm.L").switch: from_keys({1: 1.0})})
        box = at((0.0, 1.0, 0.4), held())
        alert = self.found(self.look(lift, 6, box))["strength"]
        self.assertAlmostEqual(alert.amount, 20.0 * (15.0 + GRAVITY), delta=1.0)
        self.assertIn("20 kg", alert.says)
        self.assertNotIn("strength", self.found(self.look(Clip(), 12, box)))
        self.assertIn("strength", self.found(self.look(Clip(), 12, box, Limits(strength=150.0))))

    def test_a_thing_taken_up_is_judged_once_it_is_in_hand(self) -> None:
        """On the frames beside it lies where it lay: that it starts to move there is of the frames, not of the hand."""
        times = np.arange(12) / FPS
        lift = every("arm.L.goal/ty", 0.3 * times)
        lift = lift.with_curves({brannoc_rig().limb("arm.L").switch: from_keys({1: 1.0})})
        look = self.look(lift, 12, at((0.0, 1.0, 0.4), held(first=6, last=12)))
        [load] = look.loads
        jolt = float(np.linalg.norm(dynamics(load.rig, load.nodes, FPS).force, axis=1)[4:7].max())
        self.assertGreater(20.0 * jolt, 250.0)
        self.assertNotIn("strength", self.found(replace(look, limits=Limits(strength=250.0))))


if __name__ == "__main__":
    unittest.main()
