"""The demo's walk and run as they are handed off, against what legs do.

Ranges of angles from memory of Winter (*Biomechanics and Motor Control of Human Movement*), Perry (*Gait Analysis*) and
Whittle (*Gait Analysis: an Introduction*); measured from the file by code of its own.
"""

from __future__ import annotations

from unittest import TestCase

import numpy as np

from hame.character.masses import masses_of
from hame.demo import shots
from hame.demo.bollard import BOLLARD
from hame.demo.scenes import SCENES, acted
from hame.evaluate.evaluate import channel_values, evaluate
from hame.measure.found import find_plants
from hame.scene.joined import played
from hame.scene.scene import Figure
from tests.hame.examples import prop_rig
from tests.hame.faulty import alerts
from tests.hame.gait import Leg, down, handed, leg, turning


class WalkTest(TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        cls.rig, cls.skin = shots.figure("brannoc")
        cls.clip = shots.walk_across(cls.rig)
        cls.file = handed(cls.rig, cls.skin, cls.clip, 72)
        # The second cycle: the left foot lands at 25, the right one at 37.
        cls.legs = [(leg(cls.file, cls.rig, side), start) for side, start in (("L", 25), ("R", 37))]

    def within(self, low: float, value: float, high: float) -> None:
        self.assertTrue(low <= value <= high, f"{value:.1f} is not from {low} to {high}")

    def at(self, values: np.ndarray, first: int, last: int | None = None) -> np.ndarray:
        return values[first - 1 : last or first]

    def test_the_knee(self) -> None:
        for one, start in self.legs:
            self.within(0, self.at(one.knee, start)[0], 8)  # at contact
            self.within(15, self.at(one.knee, start + 1, start + 6).max(), 25)  # taking the weight
            self.within(2, self.at(one.knee, start + 7, start + 11).min(), 6)  # late on the ground
            self.within(30, self.at(one.knee, start + 14)[0], 40)  # leaving the ground
            self.within(55, self.at(one.knee, start + 15, start + 21).max(), 65)  # swinging through

    def test_the_thigh_goes_behind_the_vertical_and_the_ankle_is_used(self) -> None:
        for one, start in self.legs:
            self.within(-20, self.at(one.thigh, start + 8, start + 14).min(), -15)
            self.within(25, float(np.ptp(self.at(one.ankle, start, start + 23))), 30)

    def test_toes_clear_the_ground_by_little_in_mid_swing(self) -> None:
        for one, start in self.legs:
            self.within(10, 1000 * self.at(one.tip[:, 1], start + 18, start + 20).min(), 30)
            self.assertGreater(1000 * self.at(one.tip[:, 1], start + 16, start + 22).min(), 10)

    def test_pelvis_and_shoulders_turn_against_each_other_by_little(self) -> None:
        """8 to 10 and 10 to 14 degrees from end to end."""
        hips, shoulders = turning(self.file, self.rig)
        self.within(8, float(np.ptp(hips[24:48])), 10)
        self.within(10, float(np.ptp(shoulders[24:48])), 14)
        self.assertLess(float(np.corrcoef(hips[24:48], shoulders[24:48])[0, 1]), -0.8)

    def test_both_feet_are_down_for_a_fifth_of_the_time(self) -> None:
        """About 20 % in two parts (Perry), by the points of the boots' skin in the handed-off file."""
        both = np.all([down(self.file, self.rig, side)[24:48] for side in "LR"], axis=0)
        self.within(0.15, float(both.mean()), 0.26)

    def test_the_hips_sway(self) -> None:
        hips = self.file.places("x", self.rig.plan.roles["hips"])
        self.within(30, 1000 * float(np.ptp(hips[24:48, 0])), 45)

    def slides(self, one: Leg, start: int, end: int) -> float:
        """How far what bears the weight wanders, millimetres: heel, then heel and ball, then ball and tip."""
        way = []
        for a, b in ((start, start + 6), (start + 2, end - 3), (start + 2, end)):
            point = (one.heel, one.ball, one.tip)[len(way)][a - 1 : b]
            way.append(1000 * float(np.linalg.norm(point - point[0], axis=1).max()))
        return max(way)

    def test_what_is_planted_does_not_move_at_any_time_between_frames(self) -> None:
        """0 m at a thousand random times: common practice, no source."""
        rng = np.random.default_rng(7)
        for control, start in (("leg.L.goal", 1), ("leg.L.goal", 25), ("leg.R.goal", 37)):
            times = np.sort(rng.uniform(start, start + 14, 1000))
            nodes = evaluate(self.rig, channel_values(self.rig, self.clip, times))
            foot = nodes[:, self.rig.control(control).node]
            self.assertLess(float(np.ptp(foot[:, :3], axis=0).max()), 1e-9)

    def test_feet_do_not_slide(self) -> None:
        """0 mm: common practice, no source. The file is of single precision."""
        for one, start in self.legs:
            self.assertLess(self.slides(one, start, start + 14), 0.01)

    def test_shoulders_against_hips_and_arms_behind_as_well_as_before(self) -> None:
        """Common practice, no source."""
        roles = self.rig.plan.roles
        hips, chest = (self.file.turns("x", roles[part]).as_matrix() for part in ("hips", "spine.3"))
        for frame in (28, 31):  # tilted against each other as the weight is on the left leg
            # How far the left side is up: the hip of the bearing leg, and the shoulder down to it.
            self.assertGreater(hips[frame - 1, 1, 0], 0.02)
            self.assertLess(chest[frame - 1, 1, 0], hips[frame - 1, 1, 0] - 0.02)
        for side in "LR":
            hand, shoulder = (self.file.places("x", roles[f"arm.{side}.{part}"]) for part in ("hand", "upper"))
            ahead = (hand - shoulder)[24:48, 2]
            self.assertLess(ahead.min(), -0.1)
            self.assertGreater(ahead.max(), 0.1)

    def test_its_plants_are_found_again_to_the_frame_and_it_has_no_fault(self) -> None:
        posed = played({1: Figure(self.rig, self.clip)}, np.arange(1, 73))[1]
        found = find_plants(self.rig, posed.nodes, 1, 24.0)
        for control, starts in (("leg.L.goal", (25, 49)), ("leg.R.goal", (13, 37))):
            mine = [f for f in found if f.control == control]
            for start in starts:
                self.assertTrue(any(abs(f.start - start) <= 1 for f in mine), (control, start, mine))
                self.assertTrue(any(abs(f.end - (start + 14)) <= 1 for f in mine), (control, start, mine))
        self.assertEqual([a.says for a in alerts(self.clip, posed, 1, 24.0)], [])


class RunTest(TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        cls.rig, cls.skin = shots.figure("wick")
        cls.clip = shots.run_across(cls.rig)
        cls.file = handed(cls.rig, cls.skin, cls.clip, 64)

    def test_it_pushes_off_nearly_straight_with_the_thigh_behind(self) -> None:
        for side, start in (("L", 17), ("R", 25)):
            one = leg(self.file, self.rig, side)
            self.assertTrue(14 <= one.knee[start + 4] <= 22, one.knee[start + 4])
            self.assertTrue(-25 <= one.thigh[start + 4] <= -15, one.thigh[start + 4])

    def test_pelvis_and_shoulders_turn(self) -> None:
        """15 to 20 and 25 to 30 degrees from end to end."""
        hips, shoulders = turning(self.file, self.rig)
        for turn, low, high in ((hips, 15, 20), (shoulders, 25, 30)):
            self.assertTrue(low <= np.ptp(turn[16:32]) <= high, np.ptp(turn[16:32]))

    def test_it_is_off_the_ground_for_a_third_of_the_time(self) -> None:
        """A foot bears for 30 to 40 % of a run at three metres a second and more (Novacheck 1998, from memory)."""
        air = ~np.any([down(self.file, self.rig, side)[16:32] for side in "LR"], axis=0)
        self.assertTrue(0.2 <= air.mean() <= 0.4, air.mean())

    def test_no_sole_goes_through_the_ground_and_none_slides(self) -> None:
        for side, start in (("L", 17), ("R", 25)):
            one = leg(self.file, self.rig, side)
            for point in (one.heel, one.ball, one.tip):
                self.assertGreater(1000 * float(point[:, 1].min()), -0.5)
            stand = one.tip[start : start + 5]
            self.assertLess(1000 * float(np.linalg.norm(stand - stand[0], axis=1).max()), 0.01)

    def test_its_plants_are_found_again_to_the_frame(self) -> None:
        posed = played({1: Figure(self.rig, self.clip)}, np.arange(1, 65))[1]
        found = find_plants(self.rig, posed.nodes, 1, 24.0)
        for control, starts in (("leg.L.goal", (17, 33)), ("leg.R.goal", (25, 41))):
            mine = [f for f in found if f.control == control]
            for start in starts:
                self.assertTrue(any(abs(f.start - start) <= 1 for f in mine), (control, start, mine))
                self.assertTrue(any(abs(f.end - (start + 5)) <= 1 for f in mine), (control, start, mine))

    def test_it_has_no_fault(self) -> None:
        posed = played({1: Figure(self.rig, self.clip)}, np.arange(1, 65))[1]
        self.assertEqual([a.says for a in alerts(self.clip, posed, 1, 24.0)], [])


class ScenesTest(TestCase):
    """The scenes of several, by what must hold in them."""

    def test_in_the_air_the_mass_of_the_jumper_flies(self) -> None:
        """Evenly ahead, and with 9.80665 m/s2 down (3rd CGPM, 1901); its parts weigh what Winter says."""
        (rig, skin), others = shots.figure("wick"), ("Bollard", "Shot camera")
        rigs = {"Wick": rig, **{name: prop_rig(name.lower().replace(" ", "-")) for name in others}}
        clip = acted(BOLLARD, rigs, {name: n for n, name in enumerate(rigs, start=1)})["Wick"]
        file, masses = handed(rig, skin, clip, BOLLARD.last), masses_of(rig)
        mass = np.zeros((BOLLARD.last, 3))
        for joint, share, at in zip(masses.joints.tolist(), masses.share, masses.at, strict=True):
            mass += share * file.points("x", rig.skeleton.names[joint], at[None])[:, 0]
        pull = np.diff(mass, 2, axis=0)[23:34] * 24.0**2  # frames 25 to 35
        np.testing.assert_allclose(pull[:, 1], -9.80665, atol=0.4)
        np.testing.assert_allclose(pull[:, [0, 2]], 0.0, atol=0.4)

    def test_the_can_leaves_the_ground_late_and_rises_slowly_at_first(self) -> None:
        rigs = {"Brannoc": shots.figure("brannoc")[0], "Oil can": prop_rig("oil_can")}
        plan = next(plan for plan in SCENES if plan.name == "The heavy can")
        clips = acted(plan, rigs, {"Brannoc": 1, "Oil can": 2})
        figures = {n: Figure(rigs[name], clips[name], name) for name, n in (("Brannoc", 1), ("Oil can", 2))}
        posed = played(figures, np.arange(1, plan.last + 1))
        height = posed[2].nodes[:, rigs["Oil can"].controls[0].node, 1]
        self.assertLess(abs(height[36] - height[0]), 0.01, "it hangs on the ground four frames after the grip")
        self.assertLess(height[39] - height[36], 0.3 * (height[47] - height[44]), "and comes slowly at first")
        body = posed[1].nodes[:, rigs["Brannoc"].control("chest").node, 2]
        hips = posed[1].nodes[:, rigs["Brannoc"].control("body").node, 2]
        self.assertLess(float((body - hips)[58:95].max()), -0.02, "he leans away from it")
        self.assertGreater(float(height.min()), -0.008)


if __name__ == "__main__":
    import unittest

    unittest.main()
