"""Chains that are pulled, gripped and planted by their tips."""

from __future__ import annotations

import unittest
from dataclasses import replace

import numpy as np

from hame.character.build import build_rig
from hame.character.propose import propose
from hame.clip.clip import Clip
from hame.clip.curve import from_keys
from hame.demo import brittle_star
from hame.edits.chains import ChainMode
from hame.edits.edit import Edit
from hame.edits.making import made
from hame.edits.plants import ChangePlant, LiftPlants, PlacePlant, Planting, PlantLimbs, SplitPlant
from hame.edits.pose import SetPose
from hame.edits.pulled import PullPart, ShiftWeight
from hame.errors import Asks, BadEdit
from hame.evaluate.evaluate import evaluate
from hame.maths import rotations
from hame.maths.rotations import Array
from hame.measure.balance import balances
from hame.scene.joined import played
from hame.scene.scene import Figure, Scene
from hame.solve.begun import Begun, begin, where
from hame.solve.few import estimate
from hame.solve.pull import Pulled, pull
from hame.solve.pull_kernel import solve
from hame.solve.wishes import USUAL, Grip, Target, wished
from tests.hame.pulls import residuals


class StarTest(unittest.TestCase):
    """The rock pools' brittle star, made four times as large: its arms have nine joints and are 1.4 m long."""

    @classmethod
    def setUpClass(cls) -> None:
        skeleton = brittle_star.skeleton()
        skeleton = replace(skeleton, rest=skeleton.rest * np.array([4.0, 4.0, 4.0, 1.0, 1.0, 1.0, 1.0, 1.0]))
        cls.rig = build_rig(skeleton, propose(skeleton))
        cls.chains = sorted(cls.rig.chains, key=lambda chain: chain.name)
        cls.tips = [chain.ik for chain in cls.chains]

    def values(self, ik: float, **by: float) -> Array:
        values = self.rig.rest.copy()
        for chain in self.chains:
            values[self.rig.number(chain.switch)] = ik
        for name, value in by.items():
            values[self.rig.number(name.replace("__", "/"))] = value
        return values

    def begun(self, ik: float, **by: float) -> Begun:
        return begin(self.rig, self.values(ik, **by), chains=True)

    def ends(self, nodes: Array) -> Array:
        return np.asarray(nodes[..., [chain.end for chain in self.chains], :3])

    def lengths(self, nodes: Array) -> Array:
        at = np.array([[*self.rig.joint_nodes[list(c.joints)], c.end] for c in self.chains])
        return np.asarray(np.linalg.norm(np.diff(nodes[at, :3], axis=1), axis=2))

    def fast(self, *but: str) -> list[Grip]:
        return [Grip(tip, "fast", place=True, turn=False) for tip in self.tips if tip not in but]


class PulledTest(StarTest):
    def test_four_tips_stay_and_one_comes_where_it_is_pulled(self) -> None:
        for ik in (0.0, 1.0):
            start = self.begun(ik)
            for way in ((0.1, 0.48, 0.1), (-0.4, 0.1, -0.28), (0.0, 0.3, -0.4)):
                self.assertAlmostEqual(float(np.linalg.norm(way)), 0.5, 1)
                goal = where(start, self.tips[0])[0] + np.array(way)
                result = pull(start, [Target(self.tips[0], goal)], self.fast(self.tips[0]))
                off = np.linalg.norm(self.ends(result.nodes) - self.ends(start.nodes), axis=1)[1:]
                self.assertLess(float(off.max()), 0.0005)
                self.assertLess(float(np.linalg.norm(self.ends(result.nodes)[0] - goal)), 0.001)
                self.assertEqual([gave.part for gave in result.gave if gave.metres > 0.001], [])
                np.testing.assert_allclose(self.lengths(result.nodes), self.lengths(start.nodes), rtol=1e-6)
                np.testing.assert_array_equal(result.nodes, evaluate(self.rig, result.values[None])[0])

    def test_it_says_how_far_off_it_stays_out_of_reach(self) -> None:
        for ik in (0.0, 1.0):
            start = self.begun(ik)
            goal = where(start, self.tips[0])[0] + np.array([0.0, 1.5, 2.0])
            result = pull(start, [Target(self.tips[0], goal)], self.fast(self.tips[0]))
            off = float(np.linalg.norm(self.ends(result.nodes)[0] - goal))
            self.assertGreater(off, 0.5)
            (gave,) = [one for one in result.gave if one.part == self.tips[0]]
            self.assertAlmostEqual(gave.metres, off, 6)

    def test_the_body_comes_along_and_every_joint_bends_a_little(self) -> None:
        start = self.begun(0.0)
        goal = where(start, self.tips[0])[0] + np.array([0.1, 0.5, 0.0])
        result = pull(start, [Target(self.tips[0], goal)], self.fast(self.tips[0]))
        body = self.rig.control("body").node
        self.assertGreater(float(np.linalg.norm(result.nodes[body, :3] - start.nodes[body, :3])), 0.03)
        chain = self.chains[0]
        turns = [result.nodes[self.rig.control(name).node, 3:7] @ start.nodes[self.rig.control(name).node, 3:7]
                 for name in chain.controls]  # fmt: skip
        angles = np.degrees(2.0 * np.arccos(np.clip(np.abs(turns), -1.0, 1.0)))
        self.assertLess(float(np.abs(np.diff(angles)).max()), 25.0)  # no kink
        keyed = [c for c in chain.controls if result.values[self.rig.number(f"{c}/rx")] != 0.0]
        self.assertGreater(len(keyed), 6)

    def test_a_pull_back_is_the_pose_before(self) -> None:
        start = self.begun(0.0, **{"chain.arm2__bend": 0.6})
        goal = where(start, self.tips[0])[0]
        result = pull(start, [Target(self.tips[0], goal)], self.fast(self.tips[0]))
        np.testing.assert_allclose(result.values, start.values, atol=1e-5)

    def test_arms_that_nothing_holds_go_along_as_they_are(self) -> None:
        start = self.begun(0.0, **{"chain.arm4__side": 0.5})
        goal = where(start, self.tips[0])[0] + np.array([0.0, 0.5, 0.0])
        result = pull(start, [Target(self.tips[0], goal)], [Grip(self.tips[1], "fast", turn=False)])
        for chain in self.chains[2:]:
            for name in chain.controls:
                for axis in "xyz":
                    number = self.rig.number(f"{name}/r{axis}")
                    self.assertAlmostEqual(result.values[number], start.values[number], 9)

    def test_a_joint_half_way_can_be_pulled_and_held(self) -> None:
        start = self.begun(0.0)
        joint, held = self.chains[0].controls[4], self.chains[1].controls[5]
        goal = where(start, joint)[0] + np.array([0.0, 0.2, 0.1])
        result = pull(start, [Target(joint, goal)], [Grip(held, "fast", turn=False)])
        at = [result.nodes[self.rig.control(name).node, :3] for name in (joint, held)]
        np.testing.assert_allclose(at[0], goal, atol=0.001)
        np.testing.assert_allclose(at[1], where(start, held)[0], atol=0.0005)
        with self.assertRaisesRegex(BadEdit, "reaches for its tip"):
            pull(self.begun(1.0), [Target(joint, goal)], [])

    def test_what_is_turned_on_top_of_a_reach_is_made_up_for(self) -> None:
        start = self.begun(1.0, **{"arm1_4__rx": 0.3, "arm1_7__ry": -0.4})
        goal = where(start, self.tips[0])[0] + np.array([0.05, 0.3, -0.1])
        result = pull(start, [Target(self.tips[0], goal)], self.fast(self.tips[0]))
        self.assertLess(float(np.linalg.norm(self.ends(result.nodes)[0] - goal)), 0.001)

    def test_the_least_of_all_squares_is_found(self) -> None:
        """No step from there makes the sum of the squares less: they are written out by themselves in residuals."""
        start = self.begun(0.0)
        goal = where(start, self.tips[0])[0] + np.array([0.1, 0.3, 0.0])
        wish = wished(start, [Target(self.tips[0], goal)], self.fast(self.tips[0]), USUAL)
        self.assertGreater(wish.by_balance, 0.0)
        found, _ = solve(start.tree, wish, start.angles, 200)
        free = np.flatnonzero((wish.low < wish.high) & (found > wish.low + 1e-6) & (found < wish.high - 1e-6))

        def whole(x: Array) -> float:
            return float((residuals(start, wish, x) ** 2).sum())

        here = whole(found)
        for d in free[::7]:
            step = np.zeros(len(found))
            step[d] = 1e-4
            more, less = whole(found + step), whole(found - step)
            newton = 0.5 * (more - less) / (more - 2.0 * here + less) * 1e-4
            self.assertLess(abs(newton), 1e-4, d)

    def test_a_pose_from_few_leaves_other_arms(self) -> None:
        start = self.begun(0.0, **{"chain.arm3__bend": 0.4})
        goal = where(start, self.tips[0])[0] + np.array([0.0, 0.3, 0.0])
        result = estimate(start, [Target("body", where(start, "body")[0]), Target(self.tips[0], goal)])
        self.assertLess(float(np.linalg.norm(self.ends(result.nodes)[0] - goal)), 0.01)
        (arm,) = [chain for chain in self.chains if chain.name == "chain.arm3"]
        for name in arm.controls:
            self.assertEqual(result.values[self.rig.number(f"{name}/rx")], 0.0)

    def test_random_pulls_hold(self) -> None:
        rng = np.random.default_rng(5)
        for ik in (0.0, 1.0):
            start = self.begun(ik)
            for _ in range(40):
                n = int(rng.integers(5))
                held = [tip for tip in self.tips if tip != self.tips[n] and rng.random() < 0.6]
                goal = where(start, self.tips[n])[0] + 0.4 * rng.normal(size=3)
                grips = [Grip(tip, "fast", turn=False) for tip in held]
                result: Pulled = pull(start, [Target(self.tips[n], goal)], grips)
                self.assertTrue(np.isfinite(result.nodes).all())
                for tip in held:
                    m = self.tips.index(tip)
                    off = self.ends(result.nodes)[m] - self.ends(start.nodes)[m]
                    self.assertLess(float(np.linalg.norm(off)), 0.0005)
                np.testing.assert_allclose(self.lengths(result.nodes), self.lengths(start.nodes), rtol=1e-6)


class PlantedTest(StarTest):
    def setUp(self) -> None:
        self.clip = Clip()

    def make(self, edit: Edit) -> tuple[str, ...]:
        done = made(edit, Scene({1: Figure(self.rig, self.clip)}, 1, 48), 1)
        self.clip = done.clips[1]
        return tuple(done.notes)

    def nodes(self, *frames: float) -> Array:
        return played({1: Figure(self.rig, self.clip)}, np.array(frames))[1].nodes

    def test_a_tip_stays_while_the_body_goes(self) -> None:
        before = self.ends(self.nodes(1.0))[0]
        said = self.make(PlantLimbs(plants=tuple(Planting(tip, 5, 20) for tip in self.tips[1:])))
        self.assertIn("posed by IK from 5 on", " ".join(said))
        self.make(SetPose(frame=1, values={"body/tx": 0.0, "body/ty": 0.0}))
        self.make(SetPose(frame=20, values={"body/tx": 0.05, "body/ty": 0.06, "master/tz": 0.05}))
        at = self.ends(self.nodes(*np.linspace(5.0, 20.0, 31)))
        np.testing.assert_allclose(at[:, 1:] - at[0, 1:], 0.0, atol=0.0002)
        self.assertGreater(float(np.linalg.norm(at[-1, 0] - before[0])), 0.04)
        self.assertEqual(
            sorted(t for t in self.clip.tracks if t.startswith("plant/")), [f"plant/{tip}" for tip in self.tips[1:]]
        )

    def test_planting_moves_nothing_where_it_begins(self) -> None:
        self.make(SetPose(frame=1, values={"chain.arm1/bend": 0.5, "chain.arm1/side": 0.3}))
        before = self.nodes(6.0)[:, self.rig.joint_nodes, :3]
        self.make(PlantLimbs(plants=(Planting("chain.arm1", 6, 12),)))
        np.testing.assert_allclose(self.nodes(6.0)[:, self.rig.joint_nodes, :3], before, atol=1e-5)

    def test_before_it_is_planted_it_goes_as_it_did(self) -> None:
        self.make(SetPose(frame=1, values={"chain.arm1/bend": 0.5}))
        self.make(SetPose(frame=9, values={"chain.arm1/bend": -0.3, "arm1_3/rx": 0.2}))
        frames = np.arange(1.0, 16.0)
        before = self.nodes(*frames)[:, self.rig.joint_nodes, :3]
        self.make(PlantLimbs(plants=(Planting("chain.arm1", 16, 22),)))
        np.testing.assert_allclose(self.nodes(*frames)[:, self.rig.joint_nodes, :3], before, atol=1e-9)

    def test_it_is_changed_split_placed_and_lifted(self) -> None:
        tip = self.tips[0]
        self.make(PlantLimbs(plants=(Planting(tip, 5, 12),)))
        self.make(ChangePlant(control=tip, at=5, start=6, end=16, land=2))
        self.make(SplitPlant(control=tip, at=6, frame=10))
        self.assertEqual([(s.start, s.end) for s in self.clip.tracks[f"plant/{tip}"]], [(6, 9), (10, 16)])
        self.make(PlacePlant(control=tip, at=6, x=0.3, z=1.2))
        np.testing.assert_allclose(self.ends(self.nodes(8.0))[0, 0, [0, 2]], [0.3, 1.2], atol=1e-3)
        self.make(LiftPlants(controls=(tip,)))
        self.assertEqual(self.clip.tracks.get(f"plant/{tip}", ()), ())
        with self.assertRaisesRegex(BadEdit, "has no heel"):
            self.make(PlantLimbs(plants=(Planting(tip, 5, 12, "heel"),)))
        with self.assertRaisesRegex(BadEdit, "cannot be planted"):
            self.make(PlantLimbs(plants=(Planting(self.chains[0].controls[2], 5, 12),)))

    def test_a_pull_leaves_planted_tips(self) -> None:
        self.make(PlantLimbs(plants=tuple(Planting(tip, 1, 24) for tip in self.tips[1:])))
        at = self.ends(self.nodes(10.0))[0]
        self.make(PullPart(frame=10, part=self.tips[0], x=0.1, y=0.4, z=-0.1))
        now = self.ends(self.nodes(10.0))[0]
        np.testing.assert_allclose(now[1:], at[1:], atol=0.0005)
        np.testing.assert_allclose(now[0] - at[0], [0.1, 0.4, -0.1], atol=0.001)

    def test_by_fk_a_plant_ends_and_it_is_asked(self) -> None:
        tip = self.tips[0]
        self.make(PlantLimbs(plants=(Planting(tip, 5, 20),)))
        with self.assertRaisesRegex(Asks, "would end at 9"):
            self.make(ChainMode(control="chain.arm1", frame=10, to="fk"))
        self.make(ChainMode(control="chain.arm1", frame=10, to="fk", anyway=True))
        self.assertEqual([(s.start, s.end) for s in self.clip.tracks[f"plant/{tip}"]], [(5, 9)])

    def test_planted_tips_bear_the_body(self) -> None:
        self.assertEqual(
            balances(self.clip, played({1: Figure(self.rig, self.clip)}, np.array([8.0]))[1], 8)[0].area.shape, (0, 2)
        )
        self.make(PlantLimbs(plants=tuple(Planting(tip, 5, 20) for tip in self.tips)))
        (stand,) = balances(self.clip, played({1: Figure(self.rig, self.clip)}, np.array([8.0]))[1], 8)
        self.assertEqual(sorted(stand.bearing), self.tips)
        self.assertEqual(len(stand.area), 5)
        assert stand.margin is not None
        self.assertGreater(stand.margin, 0.5)
        self.make(ShiftWeight(frame=8, onto=self.tips[0]))
        (then,) = balances(self.clip, played({1: Figure(self.rig, self.clip)}, np.array([8.0]))[1], 8)
        assert then.margin is not None
        self.assertLess(then.margin, stand.margin - 0.1)

    def test_a_tip_is_planted_on_a_thing_that_moves_and_turns(self) -> None:
        tip, master, ways = self.tips[0], self.rig.control("master").node, ("tx", "ry")
        clip = Clip().with_curves({f"master/{a}": from_keys({1: 0.0, 20: 0.2}) for a in ways})
        both = {1: Figure(self.rig, self.clip), 2: Figure(self.rig, clip)}
        edit = PlantLimbs(plants=(Planting(tip, 2, 20),), figure=2, thing="master")
        both[1] = Figure(self.rig, made(edit, Scene(both, 1, 48), 1).clips[1])
        mine, other = (played(both, np.array([2.0, 11.0, 20.0]))[n] for n in (1, 2))
        things, at = other.nodes[:, master], self.ends(mine.nodes)[:, 0]
        seen = rotations.rotate(rotations.inverse(things[:, 3:7]), at - things[:, :3])
        np.testing.assert_allclose(seen - seen[0], 0.0, atol=0.0005)
        self.assertGreater(float(np.linalg.norm(at[-1] - at[0])), 0.1)
        # It is a point: the turns of its control, which nobody can set, stay nothing.
        np.testing.assert_array_equal(mine.values[:, [self.rig.number(f"{tip}/r{a}") for a in "xyz"]], 0.0)


del StarTest


if __name__ == "__main__":
    unittest.main()
