"""Belonging, by what must hold of it at any time between keys as well as on them."""

from __future__ import annotations

import unittest
from collections.abc import Mapping, Sequence

import numpy as np

from hame.clip.belonging import Belonging
from hame.clip.clip import Clip
from hame.clip.curve import from_keys
from hame.edits.pose import key_pose, set_pose
from hame.evaluate.evaluate import channel_values
from hame.evaluate.line import played_values
from hame.evaluate.players import Player
from hame.evaluate.ties.plan import rings
from hame.maths import transforms
from hame.maths.rotations import Array
from hame.scene.joined import played, seen
from hame.scene.scene import Figure, Scene
from hame.scene.seen import pose_values
from tests.hame.examples import brannoc_rig, prop_rig
from tests.hame.test_ties import ANGLE, EXACT, HAND, OTHER_HAND, apart, belonging


class BelongingTest(unittest.TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        cls.rig, cls.can = brannoc_rig(), prop_rig("oil_can")
        cls.frames = np.linspace(1, 60, 237)

    def at(self, figures: Mapping[int, Figure], number: int, control: str, times: Sequence[float] | Array) -> Array:
        node = figures[number].rig.control(control).node
        return played(figures, np.asarray(times, float))[number].nodes[:, node]

    def keeper(self) -> Clip:
        curves = {
            "arm.R/ik": from_keys({1: 1.0}), "arm.L/ik": from_keys({1: 1.0}),
            f"{OTHER_HAND}/ty": from_keys({1: -0.3, 20: -0.5, 40: 0.1}),
            f"{OTHER_HAND}/tz": from_keys({1: 0.2, 40: 0.3}),
            f"{HAND}/ty": from_keys({1: -0.2, 30: -0.3}), f"{HAND}/ry": from_keys({1: 0.0, 50: 0.5}),
            "body/ty": from_keys({1: 0.0, 20: -0.15, 45: 0.0}), "chest/ry": from_keys({1: -0.4, 50: 0.5}),
            "master/tz": from_keys({1: 0.0, 60: 1.0}),
        }  # fmt: skip
        return Clip().with_curves(curves)

    def passed_on(self, lift: float = -0.5) -> dict[int, Figure]:
        """The can is taken with the right hand at 20, handed to the left at 35, and put down at 50."""
        keeper = self.keeper().with_curves({f"{OTHER_HAND}/ty": from_keys({1: -0.3, 20: lift, 40: 0.1})})
        spans = (Belonging(20, 34, 1, "arm.R.hand"), Belonging(35, 50, 1, "arm.L.hand"))
        can = belonging(Clip().with_curves({"master/tz": from_keys({1: 0.3})}), *spans, control="master")
        return {1: Figure(self.rig, keeper), 2: Figure(self.can, can)}

    def test_keyed_before_during_and_after_it_belongs_nothing_moves(self) -> None:
        figures = self.passed_on()
        for frame in (5, 25, 40, 58):
            scene = Scene(figures, 1, 60, of=2)
            keyed = key_pose(figures[2].clip, self.can, frame, scene=scene).clip
            after = self.at({**figures, 2: Figure(self.can, keyed)}, 2, "master", [frame])
            at = self.at(figures, 2, "master", [frame])
            self.assertLess(np.abs(after - at).max(), 1e-9, frame)

    def test_the_can_stays_in_the_hand_and_nothing_jumps(self) -> None:
        for lift in (-0.5, -0.2):  # also when an earlier pose is changed afterwards
            figures = self.passed_on(lift)
            for hand, a, b in (("arm.R.hand", 20, 34.99), ("arm.L.hand", 35, 50)):
                limb = self.rig.limb(hand[:5])
                times = np.linspace(a, b, 150)
                frames = played(figures, times)
                held = transforms.relative(frames[1].nodes[:, limb.end], frames[2].nodes[:, self.can.controls[0].node])
                place, turn = apart(held, held[:1])
                self.assertLess(place, EXACT, hand)
                self.assertLess(turn, 1e-7, hand)
            for at in (20, 35, 50):
                ways = self.at(figures, 2, "master", [at - 1e-10, at, at + 1e-10])
                for a, b in ((0, 1), (1, 2)):
                    place, turn = apart(ways[a], ways[b])
                    self.assertLess(place, EXACT, at)
                    self.assertLess(turn, ANGLE, at)
            down = self.at(figures, 2, "master", [50, 55, 60])
            np.testing.assert_allclose(down, np.broadcast_to(down[0], (3, 8)), atol=EXACT)

    def test_two_hands_on_a_handle_and_one_lets_go_and_comes_back(self) -> None:
        lamp = prop_rig("signal_lamp")
        crank = next(c.name for c in lamp.controls if "crank" in c.name)
        turning = Clip().with_curves({f"{crank}/rx": from_keys({1: 0.0, 90: 6.0}, 1)})
        keeper = self.keeper()
        keeper = belonging(keeper, Belonging(10, 90, 2, crank), control=OTHER_HAND)
        keeper = belonging(keeper, Belonging(10, 68, 2, crank), Belonging(80, 90, 2, crank), control=HAND)
        figures = {1: Figure(self.rig, keeper), 2: Figure(lamp, turning)}
        node, hand = lamp.control(crank).node, self.rig.control(OTHER_HAND).node
        frames = played(figures, np.linspace(10, 90, 200))
        free = self.rig.control(OTHER_HAND)
        values = frames[1].values[:, free.first : free.first + 6]
        self.assertGreater(float(np.ptp(values[:, 1])), 0.05, "it goes round with the crank")
        held = transforms.relative(frames[2].nodes[:, node], frames[1].nodes[:, hand])
        keyed = channel_values(self.rig, self.keeper(), np.linspace(10, 90, 200))[:, free.first : free.first + 6]
        still = np.abs(keyed - keyed[0]).max(axis=1) < 1e-12
        self.assertLess(apart(held[still], held[still][:1])[0], EXACT)
        for at in (10, 68, 80, 90):
            ways = self.at(figures, 1, HAND, [at - 1e-10, at, at + 1e-10])
            self.assertLess(max(apart(ways[0], ways[1])[0], apart(ways[1], ways[2])[0]), EXACT, at)

    def test_a_hand_rests_on_a_thing_that_the_other_hand_carries(self) -> None:
        figures = self.passed_on()
        keeper = belonging(figures[1].clip, Belonging(22, 34, 2, "master"), control=HAND)
        figures[1] = Figure(self.rig, keeper)
        times = np.linspace(22, 33.9, 120)
        frames = played(figures, times)
        can, hand = self.can.controls[0].node, self.rig.control(HAND)
        held = transforms.relative(frames[2].nodes[:, can], frames[1].nodes[:, hand.node])
        keyed = channel_values(self.rig, self.keeper(), times)[:, hand.first : hand.first + 3]
        way = held[:, :3] - held[0, :3]
        self.assertAlmostEqual(float(np.linalg.norm(way[-1])), float(np.linalg.norm(keyed[-1] - keyed[0])), places=6)

    def test_a_head_keeps_looking_where_it_looked(self) -> None:
        clip = belonging(self.keeper(), Belonging(10, 40, ties="turn"), control="head")
        figures = {1: Figure(self.rig, clip)}
        ways = self.at(figures, 1, "head", np.linspace(10, 40, 120))
        self.assertLess(apart(ways, ways[:1])[1], 1e-7)
        self.assertGreater(float(np.ptp(ways[:, 0])), 0.005, "its place goes along with the neck")

    def test_a_weight_over_time_ties_softly_and_goes_back(self) -> None:
        soft = Belonging(10, 40, 0, "chest", "both", 0.5, 8, 8)
        free, tied = self.keeper(), belonging(self.keeper(), soft)
        figures = [{1: Figure(self.rig, clip)} for clip in (free, tied)]
        for at in (9.0, 10.0, 40.0, 45.0):
            self.assertLess(apart(self.at(figures[0], 1, HAND, [at]), self.at(figures[1], 1, HAND, [at]))[0], EXACT)
        self.assertGreater(apart(self.at(figures[0], 1, HAND, [30]), self.at(figures[1], 1, HAND, [30]))[0], 1e-3)

    def test_one_that_does_not_play_leaves_it_where_it_was(self) -> None:
        figures = self.passed_on()
        alone = {2: figures[2]}
        ways = self.at(alone, 2, "master", [1, 20, 30, 45, 60])
        np.testing.assert_allclose(ways, np.broadcast_to(ways[0], (5, 8)), atol=EXACT)
        out = {1: Figure(self.rig, figures[1].clip, plays=False), 2: figures[2]}
        seen_alone = pose_values(self.can, out[2].clip, 30, Scene(out, of=2))
        self.assertAlmostEqual(seen_alone[self.can.number("master/tz")], 0.3, places=9)

    def test_a_held_thing_is_posed_where_it_is_seen(self) -> None:
        figures = self.passed_on()
        scene = Scene(figures, of=2)
        before = pose_values(self.can, figures[2].clip, 30, scene)
        address = "master/ty"
        wish = {address: float(before[self.can.number(address)]) + 0.1}
        after = set_pose(figures[2].clip, self.can, 30, wish, "changed", scene=scene).clip
        now = pose_values(self.can, after, 30, Scene({**figures, 2: Figure(self.can, after)}, of=2))
        change = now - before
        self.assertAlmostEqual(change[self.can.number(address)], 0.1, places=9)
        self.assertLess(float(np.abs(np.delete(change, self.can.number(address))).max()), 1e-7)

    def test_a_waiting_pose_carries_what_belongs_to_it(self) -> None:
        figures = self.passed_on()
        still = seen(figures, 30)[2].nodes[0, self.can.controls[0].node]
        waits = figures[1].clip.with_pending(30, {f"{OTHER_HAND}/tx": 0.0, f"{OTHER_HAND}/tz": 0.1})
        moved = seen({**figures, 1: Figure(self.rig, waits)}, 30)[2].nodes[0, self.can.controls[0].node]
        self.assertGreater(float(np.linalg.norm(still[:3] - moved[:3])), 0.01)

    def test_a_ring_is_found_and_nothing_is_lost_by_it(self) -> None:
        keeper = belonging(self.keeper(), Belonging(10, 40, 2, "master"))
        can = belonging(Clip(), Belonging(20, 50, 1, "arm.L.hand"), control="master")
        players = {1: Player(self.rig, keeper), 2: Player(self.can, can)}
        found = rings(players)
        self.assertEqual({frozenset(ring.links) for ring in found}, {frozenset({(1, HAND), (2, "master")})})
        self.assertEqual(min(ring.first for ring in found), 20)
        for values in played_values(players, self.frames).values():
            self.assertTrue(np.isfinite(values).all())
        turns = belonging(self.keeper(), Belonging(10, 20, 2, "master"))
        later = belonging(Clip(), Belonging(20, 50, 1, "arm.L.hand"), control="master")
        self.assertEqual(rings({1: Player(self.rig, turns), 2: Player(self.can, later)}), [])
