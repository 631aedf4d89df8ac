"""Somebody who goes over footfalls: feet, knees and weight as they are seen, against mechanics and published gaits."""

from __future__ import annotations

import unittest
from functools import lru_cache

import numpy as np

from hame.character.masses import centre_of_mass
from hame.clip.clip import Clip
from hame.clip.plants import Plant
from hame.errors import BadEdit
from hame.evaluate.evaluate import evaluate
from hame.evaluate.going.made import Gone, gone
from hame.evaluate.posed import Posed
from hame.gait.footfalls import STAYS, Footfall, Pace, Times, footfalls
from hame.gait.line import Point, bent, line_of
from hame.gait.traits import RUNNING, Traits, between
from hame.maths.rotations import Array, angle_between
from hame.measure.balance import balances, margins_of
from hame.measure.dynamics import SEEN, dynamics, steadied
from hame.measure.soles import level_of, sole_outline, sole_points
from tests.hame.examples import brannoc_rig, prop_rig

FPS, G = 24.0, 9.80665
WALK, SLOW, BRISK, RUN = Times.walking(15, 2), Times.walking(20, 6), Times.walking(12, 1), Times.flying(7, 3)


class Went:
    """Brannoc, who goes along a way from a stand to a stand."""

    def __init__(self, times: Times, speed: float, traits: Traits | None = None, turn: float = 0.0) -> None:
        self.rig = brannoc_rig()
        points = [Point((0.0, 0.0)), Point((0.0, 8.0))]
        line = line_of(bent(points, turn) if turn else points)
        self.found = footfalls(line, Pace.even(24, speed, times, 0.14, 0.12), 12, FPS, lead=8)
        self.frames = np.arange(1, max(one.first for one in self.found) + 30)
        self.gone: Gone = gone(self.rig, self.found, self.frames, FPS, G, traits)
        self.nodes = evaluate(self.rig, self.gone.values)

    def of(self, side: str) -> list[Footfall]:
        """The footfalls of a foot amidst the way."""
        mine = [one for one in self.found if one.side == side and one.number > 2 and one.last < STAYS]
        return mine[:-1]

    def knee(self, side: str) -> Array:
        """How far it is bent, degrees."""
        limb = self.rig.limb(f"leg.{side}")
        one = self.nodes[:, limb.lower, :3] - self.nodes[:, limb.upper, :3]
        two = self.nodes[:, limb.end, :3] - self.nodes[:, limb.lower, :3]
        return np.degrees([angle_between_lines(a, b) for a, b in zip(one, two, strict=True)])

    def margins(self) -> Array:
        """How far inside of what bears it the feet press, centimetres."""
        tracks = {
            f"plant/leg.{side}.goal": tuple(
                Plant(max(one.first, 1) if one.number > 0 else 1, min(one.last, int(self.frames[-1])))
                for one in self.found if one.side == side
            ) for side in "LR"
        }  # fmt: skip
        stands = balances(Clip().with_tracks(tracks), Posed(self.rig, self.gone.values, self.nodes), 1)
        return 100.0 * margins_of(stands, steadied(dynamics(self.rig, self.nodes, FPS), FPS, SEEN).pressure)


def angle_between_lines(one: Array, other: Array) -> float:
    return float(np.arctan2(np.linalg.norm(np.cross(one, other)), one @ other))


@lru_cache(maxsize=8)
def went(name: str) -> Went:
    return {
        "walk": lambda: Went(WALK, 1.25), "slow": lambda: Went(SLOW, 0.75), "brisk": lambda: Went(BRISK, 1.5),
        "run": lambda: Went(RUN, 2.8, RUNNING), "bend": lambda: Went(WALK, 1.2, turn=2.0),
    }[name]()  # fmt: skip


class GoingTest(unittest.TestCase):
    def test_soles_stay_where_they_stand_and_never_go_under(self) -> None:
        for name in ("walk", "slow", "brisk", "run", "bend"):
            one = went(name)
            for side in "LR":
                limb = one.rig.limb(f"leg.{side}")
                low = sole_outline(one.rig, limb, one.nodes)[..., 1].min() - level_of(one.rig, limb)
                self.assertGreater(1000.0 * float(low), -1.0, (name, side))
                balls = sole_points(one.rig, limb, one.nodes)[:, 1]
                for fall in one.of(side):  # flat two frames after the landing; from then on it turns about its ball
                    flat = balls[fall.first + 1 : fall.last]
                    self.assertLess(1000.0 * float(np.ptp(flat, axis=0).max()), 1.0, (name, side))

    def test_the_mass_goes_as_the_feet_have_it(self) -> None:
        for name in ("walk", "slow", "run", "bend"):
            one = went(name)
            off = centre_of_mass(one.rig, one.nodes) - one.gone.mass.places
            self.assertLess(1000.0 * float(np.abs(off).max()), 2.0, name)

    def test_what_the_ground_gives_is_inside_of_the_feet(self) -> None:
        """All limbs counted: how far the centre of pressure is inside of what bears it, on all frames of a walk."""
        for name in ("walk", "slow", "bend", "brisk"):
            margins = went(name).margins()[4:-4]
            self.assertGreater(float(np.nanmin(margins)), 0.2, name)
            self.assertGreater(float(np.nanmedian(margins)), 1.0, name)

    def test_flights_fall_as_things_do(self) -> None:
        one = went("run")
        force = dynamics(one.rig, one.nodes, FPS).force
        flies = np.flatnonzero(one.gone.mass.force < 1e-9)
        self.assertGreater(len(flies), 10)
        self.assertLess(float(np.abs(force[flies]).max()), 0.01 * G)

    def test_legs_reach_and_knees_bend_as_they_do(self) -> None:
        """Perry, Winter and Whittle (from memory): as it takes the weight some 20 degrees, in swing some 60, as it
        leaves the ground 35 to 40; wider here for a keeper who is not the youngest."""
        for name in ("walk", "slow", "brisk", "run", "bend"):
            one = went(name)
            for side in "LR":
                limb = one.rig.limb(f"leg.{side}")
                far = np.linalg.norm(one.nodes[:, limb.upper, :3] - one.nodes[:, limb.end, :3], axis=1)
                self.assertLess(float(far.max()) / sum(limb.lengths), 0.9999, name)
                if name not in ("walk", "slow"):
                    continue
                knee = one.knee(side)
                for fall in one.of(side):
                    half = (fall.first + fall.last) // 2
                    self.assertTrue(10.0 < knee[fall.first : half].max() < 45.0, name)
                    self.assertLess(knee[half - 1 : fall.last - 3].min(), 20.0, name)
                    self.assertTrue(25.0 < knee[fall.last - 1] < 55.0, name)
                    self.assertTrue(40.0 < knee[fall.last - 1 : fall.last + 8].max() < 75.0, name)

    def test_no_joint_jumps(self) -> None:
        """From frame to frame no turn of trunk, arms or head by more than a hand can follow."""
        for name in ("walk", "slow", "bend"):
            one = went(name)
            for joint in ("head", "arm.L.hand", "arm.R.hand", "spine.3"):
                node = one.rig.joint_nodes[one.rig.skeleton.index(one.rig.plan.roles[joint])]
                turns = one.nodes[:, node, 3:7]
                steps = [angle_between(a, b) for a, b in zip(turns[1:], turns[:-1], strict=True)]
                self.assertLess(np.degrees(max(steps)), 16.0, (name, joint))

    def test_toes_clear_the_ground_by_little(self) -> None:
        one = went("walk")
        for side in "LR":
            tips = sole_points(one.rig, one.rig.limb(f"leg.{side}"), one.nodes)[:, 2, 1]
            for fall in one.of(side):
                middle = fall.last + 5
                self.assertTrue(0.008 < tips[middle : middle + 3].min() < 0.06)

    def test_the_head_is_steady_and_chest_and_pelvis_turn_against_each_other(self) -> None:
        one = went("walk")
        part = slice(one.of("L")[0].first, one.of("L")[-1].first)
        head = one.rig.joint_nodes[one.rig.skeleton.index("head")]
        level = [np.degrees(angle_between(turn, one.nodes[0, head, 3:7])) for turn in one.nodes[part, head, 3:7]]
        self.assertLess(max(level), 4.0)
        pelvis = one.gone.values[part, one.rig.number("hips/ry")]
        chest = one.gone.values[part, one.rig.number("chest/ry")]
        self.assertLess(float(np.corrcoef(pelvis, chest)[0, 1]), -0.99)
        self.assertTrue(6.0 < np.degrees(np.ptp(pelvis)) < 16.0)

    def test_arms_swing_against_the_legs(self) -> None:
        one = went("walk")
        part = slice(one.of("L")[0].first, one.of("L")[-1].first)

        def ahead(role: str) -> Array:
            node = one.rig.joint_nodes[one.rig.skeleton.index(one.rig.plan.roles[role])]
            return np.asarray(one.nodes[part, node, 2] - one.gone.mass.places[part, 2])

        for side, other in (("L", "R"), ("R", "L")):
            hand = ahead(f"arm.{side}.hand")
            self.assertLess(float(np.corrcoef(hand, ahead(f"leg.{side}.foot"))[0, 1]), -0.7)
            self.assertGreater(float(np.corrcoef(hand, ahead(f"leg.{other}.foot"))[0, 1]), 0.7)

    def test_it_begins_and_ends_standing(self) -> None:
        one = went("walk")
        for end in (0, -1):
            values = one.gone.values[end]
            for side in "LR":
                self.assertAlmostEqual(float(values[one.rig.number(f"leg.{side}.goal/roll")]), 0.0, 6)
        self.assertLess(float(np.abs(one.gone.values[-1] - one.gone.values[-2]).max()), 0.002)

    def test_stairs_are_gone_up_and_down(self) -> None:
        rig = brannoc_rig()
        line = line_of([Point((0.0, 0.0)), Point((0.0, 3.0))])
        found = footfalls(line, Pace.even(24, 0.6, Times.walking(18, 5), 0.14), 12, FPS, lead=8)
        frames = np.arange(1, max(one.first for one in found) + 30)
        for rise in (0.15, -0.15):
            levels = [rise * max(one.number, 0) for one in found]
            levels[-1] = levels[-2]
            result = gone(rig, found, frames, FPS, G, lies=[(level, 0.0, 0.0) for level in levels])
            nodes = evaluate(rig, result.values)
            for side in "LR":
                limb = rig.limb(f"leg.{side}")
                points = sole_points(rig, limb, nodes)
                for one, level in zip(found, levels, strict=True):
                    if one.side == side and one.number > 0 and one.last < STAYS:
                        ball = points[one.first + 1 : one.last, 1, 1]
                        np.testing.assert_allclose(ball, level + points[0, 1, 1], atol=0.001)

    def test_traits_change_what_they_name(self) -> None:
        rig, plain = brannoc_rig(), went("walk")
        part = slice(plain.of("L")[0].first, plain.of("L")[-1].first)

        def spread(address: str, traits: Traits) -> float:
            values = gone(rig, plain.found, plain.frames, FPS, G, traits).values
            return float(np.ptp(values[part, rig.number(address)]))

        usual = Traits()
        for address, name in (("hips/ry", "turn"), ("hips/rz", "list"), ("arm.L.upper/rx", "swing")):
            once, twice = (spread(address, Traits(**{name: factor * getattr(usual, name)})) for factor in (1.0, 2.0))
            self.assertAlmostEqual(twice / once, 2.0, delta=0.25, msg=name)

    def test_one_gait_becomes_another_on_the_way(self) -> None:
        one = went("walk")
        share = np.clip((one.frames - 40.0) / 60.0, 0.0, 1.0)
        changed = gone(one.rig, one.found, one.frames, FPS, G, between(Traits(), Traits(swing=0.0), share))
        number = one.rig.number("arm.L.upper/rx")
        early, late = changed.values[44:60, number], changed.values[110:140, number]
        self.assertGreater(float(np.ptp(early)), 2.0 * float(np.ptp(late)))
        feet = [one.rig.number(f"leg.{side}.goal/{axis}") for side in "LR" for axis in ("tx", "tz")]
        soles = evaluate(one.rig, changed.values)
        for side in "LR":  # no foot path is another for it
            limb = one.rig.limb(f"leg.{side}")
            off = soles[:, limb.target, :3] - one.nodes[:, limb.target, :3]
            self.assertLess(float(np.abs(off[:, [0, 2]]).max()), 0.02)
        self.assertEqual(len(feet), 4)

    def test_who_has_no_two_legs_is_refused(self) -> None:
        one = went("walk")
        with self.assertRaisesRegex(BadEdit, "two legs"):
            gone(prop_rig("crate"), one.found, one.frames, FPS, G)
        with self.assertRaisesRegex(BadEdit, "has to be a number"):
            gone(one.rig, one.found, one.frames, FPS, G, Traits(swing=float("nan")))


if __name__ == "__main__":
    unittest.main()
