"""Ties: planted limbs and belonging, by what must hold of them at any time between keys as well as on them.

That a planted foot does not move is common practice, no source; everything else here follows from what the spans say
of themselves.
"""

from __future__ import annotations

import unittest
from collections.abc import Sequence

import numpy as np

from hame.character.rig import Rig
from hame.clip.belonging import Belonging
from hame.clip.clip import Clip
from hame.clip.curve import from_keys
from hame.clip.cycle import Cycle
from hame.clip.key import LINEAR, STEP
from hame.clip.plants import Plant
from hame.clip.spans import Span
from hame.edits.pose import key_pose, set_pose
from hame.edits.retime import insert_frames, scale_time
from hame.evaluate.evaluate import channel_values, evaluate
from hame.evaluate.line import played_values
from hame.evaluate.players import Player
from hame.maths import rotations, transforms
from hame.maths.rotations import Array
from hame.scene.seen import pose_values
from tests.hame.examples import brannoc_rig, with_cycle

FOOT, HAND, OTHER_HAND = "leg.L.goal", "arm.L.goal", "arm.R.goal"

EXACT = 1e-9  # metres

ANGLE = float(np.radians(1e-7))


def planted(clip: Clip, *plants: Plant, control: str = FOOT) -> Clip:
    return clip.with_tracks({f"plant/{control}": plants})


def belonging(clip: Clip, *spans: Span, control: str = HAND) -> Clip:
    return clip.with_tracks({f"belonging/{control}": spans})


def random_clip(rig: Rig, seed: int, last: int = 40, shape: int | None = None) -> Clip:
    """A clip in which master, body, hips and a foot go somewhere on random frames under random easing."""
    rng = np.random.default_rng(seed)
    curves = {}
    sizes = {"master/tx": 0.3, "master/tz": 0.5, "master/ry": 0.6, "body/tx": 0.04, "body/ty": 0.05, "body/tz": 0.08,
             "body/ry": 0.3, "hips/rz": 0.1, f"{FOOT}/tx": 0.1, f"{FOOT}/ty": 0.05, f"{FOOT}/tz": 0.2,
             f"{FOOT}/rx": 0.3, f"{FOOT}/ry": 0.4, f"{FOOT}/rz": 0.1, f"{FOOT}/roll": 0.2}  # fmt: skip
    for address, size in sizes.items():
        frames = np.unique(rng.integers(1, last, rng.integers(2, 7)))
        keys = {int(f): float(rng.normal(0.0, size)) for f in frames}
        curves[address] = from_keys(keys, int(rng.integers(0, 3)) if shape is None else shape)
    return Clip().with_curves({**curves, "body/ty": from_keys({1: -0.12, 20: -0.2, last: -0.15})})


def solved(rig: Rig, clip: Clip, times: Sequence[float] | Array) -> Array:
    """Where the left foot really is (F, 8): what the leg reaches, not what it is asked to."""
    limb = rig.limb("leg.L")
    return evaluate(rig, channel_values(rig, clip, np.asarray(times, float)))[:, limb.target]


def apart(a: Array, b: Array) -> tuple[float, float]:
    """The farthest that transforms (F, 8) of two rows of them stand apart: metres, and radians."""
    between = rotations.multiply(rotations.inverse(a[..., 3:7]), b[..., 3:7])[..., :3]
    turn = 2.0 * np.arcsin(np.clip(np.linalg.norm(between, axis=-1), 0.0, 1.0))
    return float(np.linalg.norm(a[..., :3] - b[..., :3], axis=-1).max()), float(turn.max())


class PlantTest(unittest.TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        cls.rig = brannoc_rig()
        cls.goal = cls.rig.control(FOOT).node

    def slip(self, clip: Clip, start: int, end: int, point: str = "", seed: int = 0) -> float:
        """How far the point of a foot that is held wanders, metres: on frames and at a thousand times between."""
        rng = np.random.default_rng(seed)
        times = np.sort(np.concatenate([np.arange(start, end + 1), rng.uniform(start, end, 1000)]))
        nodes = evaluate(self.rig, channel_values(self.rig, clip, times))[:, self.goal]
        place = np.array(self.rig.limb("leg.L").points[point]) if point else np.zeros(3)
        points = transforms.apply(nodes, place)
        return float(np.linalg.norm(points - points[0], axis=1).max())

    def test_a_planted_foot_does_not_move_and_a_swivelling_one_moves_about_its_point(self) -> None:
        for seed in range(300):
            rng = np.random.default_rng(seed)
            start = int(rng.integers(2, 25))
            end = start + int(rng.integers(1, 14))
            about = ("", "heel", "ball", "tip")[seed % 4]
            clip = planted(random_clip(self.rig, seed), Plant(start, end, about, int(rng.integers(0, 6)), seed % 3))
            self.assertLess(self.slip(clip, start, end, about, seed), EXACT, seed)
            # And after edits: another key on the body, frames made, time scaled.
            clip = set_pose(
                clip, self.rig, int(rng.integers(1, 40)), {"body/tz": 0.05, "master/ry": 0.3}, "changed"
            ).clip
            clip = insert_frames(clip, self.rig, int(rng.integers(1, 39)), 3).clip
            moved = clip.tracks[f"plant/{FOOT}"][0]
            self.assertLess(self.slip(clip, moved.start, moved.end, about, seed), EXACT, f"{seed}, edited")

    def test_its_turn_stays_as_well_where_it_is_fixed(self) -> None:
        clip = planted(random_clip(self.rig, 5), Plant(4, 17))
        nodes = evaluate(self.rig, channel_values(self.rig, clip, np.linspace(4, 17, 500)))[:, self.goal]
        self.assertLess(apart(nodes, nodes[:1])[1], ANGLE)

    def test_the_ankle_stays_too_as_long_as_the_leg_reaches(self) -> None:
        """A limb that slows down before it is straight would give by millimetres; while it is planted it does not."""
        far = {1: 0.0, 20: 0.9}
        clip = Clip().with_curves({"body/tz": from_keys(far), "body/ty": from_keys({1: -0.02, 20: -0.25})})
        clip = planted(clip, Plant(3, 18))
        limb = self.rig.limb("leg.L")
        nodes = evaluate(self.rig, channel_values(self.rig, clip, np.linspace(3, 18, 600)))
        reach = np.linalg.norm(nodes[:, limb.target, :3] - nodes[:, limb.root, :3], axis=1)
        within = reach < sum(limb.lengths) - 1e-6
        self.assertTrue(
            within[:100].all() and (reach[within] > 0.99 * sum(limb.lengths)).any(), "it is nearly straight"
        )
        ends = nodes[within][:, limb.end, :3]
        self.assertLess(float(np.linalg.norm(ends - ends[0], axis=1).max()), EXACT)
        self.assertFalse(within.all(), "and goes too far in the end")
        beyond = nodes[~within]
        given = np.linalg.norm(beyond[:, limb.end, :3] - ends[0], axis=1)
        missing = reach[~within] - sum(limb.lengths)
        np.testing.assert_allclose(given, missing, atol=1e-9)  # straight, and the foot gives by what is missing

    def test_nothing_jumps_where_it_begins_and_ends(self) -> None:
        for seed in range(60):
            clip = planted(random_clip(self.rig, seed, shape=1 + seed % 2),
                           Plant(6, 12, ("", "ball", "heel")[seed % 3], seed % 4, seed % 3),
                           Plant(13, 16, ("heel", "")[seed % 2]), Plant(24, 30))  # fmt: skip
            for at in (6, 12, 13, 16, 24, 30):
                tiny = 1e-10
                ways = solved(self.rig, clip, [at - tiny, at, at + tiny])
                for a, b in ((0, 1), (1, 2)):
                    place, turn = apart(ways[a], ways[b])
                    self.assertLess(place, EXACT, (seed, at))
                    self.assertLess(turn, ANGLE, (seed, at))

    def test_it_is_where_the_limb_came_to_and_moves_with_the_key_that_brought_it(self) -> None:
        low = {"body/ty": from_keys({1: -0.15})}
        clip = planted(Clip().with_curves({**low, f"{FOOT}/tz": from_keys({1: 0.0, 10: 0.3})}), Plant(10, 20))
        at = solved(self.rig, clip, [10.0, 15.0])
        np.testing.assert_allclose(at[1], at[0], atol=EXACT)
        self.assertAlmostEqual(at[0, 2] - solved(self.rig, Clip(), [1.0])[0, 2], 0.3, places=9)
        moved = planted(Clip().with_curves({**low, f"{FOOT}/tz": from_keys({1: 0.0, 10: 0.4})}), Plant(10, 20))
        self.assertAlmostEqual(solved(self.rig, moved, [17.0])[0, 2] - at[0, 2], 0.1, places=9)

    def test_a_limb_that_does_not_come_where_it_is_to_is_planted_where_it_is(self) -> None:
        far = {f"{FOOT}/tz": from_keys({1: 0.0, 10: 0.9, 20: 0.9}), "body/tz": from_keys({1: 0.0, 20: 0.7})}
        clip = planted(Clip().with_curves(far), Plant(10, 20))
        limb = self.rig.limb("leg.L")
        nodes = evaluate(self.rig, channel_values(self.rig, clip, [10.0 - 1e-9, 10.0, 12.0, 20.0]))
        ends, wished = nodes[:, limb.end, :3], nodes[:, limb.target, :3]
        self.assertGreater(float(np.linalg.norm(wished[0] - ends[0])), 0.05, "it is out of reach as it comes")
        for n in (1, 2, 3):
            np.testing.assert_allclose(ends[n], ends[0], atol=1e-7)
            np.testing.assert_allclose(wished[n], ends[0], atol=1e-7)

    def test_let_go_it_comes_to_its_next_key_or_after_so_many_frames(self) -> None:
        curves = {f"{FOOT}/tz": from_keys({1: 0.0, 20: 0.2, 30: 0.5}), "master/tz": from_keys({1: 0.0, 30: 0.4})}
        free = Clip().with_curves(curves)
        for release, back in ((0, 20), (4, 16)):
            clip = planted(free, Plant(1, 12, release=release))
            self.assertGreater(apart(solved(self.rig, clip, [back - 2]), solved(self.rig, free, [back - 2]))[0], 1e-3)
            later = np.linspace(back, 30, 50)
            self.assertLess(apart(solved(self.rig, clip, later), solved(self.rig, free, later))[0], EXACT)

    def test_it_leaves_without_a_knock_and_lands_without_one(self) -> None:
        curves = {f"{FOOT}/tz": from_keys({1: -0.2, 15: 0.3, 30: -0.2}, 1), "master/tz": from_keys({1: 0, 30: 1.0}, 1)}
        clip = planted(Clip().with_curves(curves), Plant(1, 6), Plant(15, 22, land=4))

        def speed(t: float) -> float:
            ways = solved(self.rig, clip, [t - 1e-4, t + 1e-4])
            return float(np.linalg.norm(ways[1, :3] - ways[0, :3])) / 2e-4

        self.assertGreater(speed(10.0), 0.02)  # metres a frame
        for t in (6.001, 14.999, 22.001):
            self.assertLess(speed(t), 2e-3, t)

    def test_held_poses_stay_held_when_it_is_let_go(self) -> None:
        curves = {
            f"{FOOT}/tz": from_keys({1: 0.0, 10: 0.1, 20: 0.5}, STEP),
            "master/tz": from_keys({1: 0.0, 8: 0.3}, STEP),
        }
        clip = planted(Clip().with_curves(curves), Plant(1, 12))
        ways = solved(self.rig, clip, [12.0, 14.0, 19.999, 20.0])
        np.testing.assert_allclose(ways[1:3], np.broadcast_to(ways[0], (2, 8)), atol=EXACT)
        self.assertAlmostEqual(ways[3, 2] - solved(self.rig, Clip(), [1.0])[0, 2], 0.8, places=9)

    def test_two_that_adjoin_hold_as_one(self) -> None:
        clip = random_clip(self.rig, 3)
        one, two = planted(clip, Plant(4, 20)), planted(clip, Plant(4, 11), Plant(12, 20))
        times = np.linspace(1, 39, 300)
        self.assertLess(apart(solved(self.rig, one, times), solved(self.rig, two, times))[0], EXACT)

    def test_a_travelling_cycle_plants_each_step_where_it_lands(self) -> None:
        stride = 1.2
        curves = {
            f"{FOOT}/tz": from_keys({1: 0.3, 13: -0.3, 25: 0.3}),
            "master/tz": from_keys({1: 0.0}),
            f"{FOOT}/ty": from_keys({1: 0.0, 13: 0.0, 19: 0.1}),
            "body/ty": from_keys({1: -0.1, 7: -0.06}),
        }
        clip = with_cycle(Clip().with_curves(curves), Cycle(1, 25, False, 97, (0.0, stride)))
        clip = planted(clip, Plant(1, 11))
        landed = []
        for turn in range(4):
            start = 1 + 24 * turn
            self.assertLess(self.slip(clip, start, start + 10), EXACT, turn)
            landed.append(solved(self.rig, clip, [start])[0, 2])
        np.testing.assert_allclose(np.diff(landed), stride, atol=1e-9)
        far = with_cycle(clip, Cycle(1, 25, False, 200_001, (0.0, stride)))  # only what is looked at is worked out
        self.assertLess(self.slip(far, 1 + 24 * 5000, 11 + 24 * 5000), 1e-7)  # six kilometres away

    def test_an_echo_plants_the_other_foot(self) -> None:
        curves = {f"{FOOT}/tz": from_keys({1: 0.3, 13: -0.3}), "leg.R.goal/tz": from_keys({1: -0.3, 13: 0.3}),
                  "master/tz": from_keys({1: 0.0}), "body/ty": from_keys({1: -0.1})}  # fmt: skip
        clip = with_cycle(Clip().with_curves(curves), Cycle(1, 25, True, 49, (0.0, 1.2)))
        clip = planted(clip, Plant(1, 10))
        right = self.rig.limb("leg.R").target
        for start in (13, 37):
            times = np.linspace(start, start + 9, 200)
            nodes = evaluate(self.rig, channel_values(self.rig, clip, times))[:, right]
            self.assertLess(float(np.ptp(nodes[:, :3], axis=0).max()), EXACT)

    def test_what_is_laid_over_a_frame_leaves_no_mark(self) -> None:
        """A drag at the very frame at which a plant begins: what is worked out for it is not kept for others."""
        for frame in (6.0, 9.0, 12.0):
            clip = planted(random_clip(self.rig, 8), Plant(6, 12, "ball"))
            player = {1: Player(self.rig, clip)}
            times = np.linspace(1, 39, 60)
            laid = played_values(player, np.array([frame]), {1: {f"{FOOT}/tx": 0.5, "master/tz": 0.7}})[1][0]
            self.assertEqual(laid[self.rig.number(f"{FOOT}/tx")], 0.5)
            after = played_values(player, times)[1]
            fresh = played_values({1: Player(self.rig, clip.with_curves({}))}, times)[1]
            np.testing.assert_allclose(after, fresh, atol=1e-12)

    def test_what_is_tied_at_other_times_goes_where_the_hand_takes_it(self) -> None:
        """And whatever stands on it goes along."""
        clip = belonging(random_clip(self.rig, 4), Belonging(20, 30, to="master"), control=FOOT)
        goal = self.rig.number(f"{FOOT}/tx")
        for frame in (5.0, 25.0, 35.0):
            laid = played_values({1: Player(self.rig, clip)}, np.array([frame]), {1: {f"{FOOT}/tx": 0.4}})[1][0]
            self.assertEqual(laid[goal], 0.4, frame)
        held = belonging(clip, Belonging(1, 60, to=FOOT), control=OTHER_HAND)
        values = [
            played_values({1: Player(self.rig, held)}, np.array([5.0]), {1: over})[1]
            for over in ({}, {f"{FOOT}/ty": 0.3})
        ]
        other = self.rig.control(OTHER_HAND).node
        here, there = (evaluate(self.rig, value)[0, other, :3] for value in values)
        self.assertGreater(float(np.linalg.norm(there - here)), 0.1)

    def test_a_softness_that_is_laid_over_fades_in_a_plant_as_a_keyed_one(self) -> None:
        soft = self.rig.number("leg.L/soft")
        clip = planted(random_clip(self.rig, 8), Plant(6, 12, release=8))
        for frame, share in ((3.0, 1.0), (9.0, 0.0), (16.0, 0.5), (30.0, 1.0)):
            laid = played_values({1: Player(self.rig, clip)}, np.array([frame]), {1: {"leg.L/soft": 0.2}})[1][0]
            self.assertAlmostEqual(laid[soft], 0.2 * share, msg=str(frame))

    def test_any_frame_alone_is_the_same(self) -> None:
        clip = planted(random_clip(self.rig, 8), Plant(6, 12, "ball"), Plant(20, 24, land=3))
        times = np.linspace(1, 39, 77)
        together = channel_values(self.rig, clip, times)
        alone = np.concatenate([channel_values(self.rig, clip, [t]) for t in times])
        np.testing.assert_allclose(together, alone, atol=1e-12)


class KeyedOnPlantsTest(unittest.TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        cls.rig = brannoc_rig()

    def test_a_foot_posed_while_it_is_planted_takes_its_plant_along(self) -> None:
        for about in ("", "ball"):
            clip = planted(random_clip(self.rig, 11), Plant(6, 14, about))
            before = pose_values(self.rig, clip, 10)
            wish = {f"{FOOT}/tx": float(before[self.rig.number(f"{FOOT}/tx")]) + 0.07}
            after = set_pose(clip, self.rig, 10, wish, "changed").clip
            now = pose_values(self.rig, after, 10)
            self.assertAlmostEqual(now[self.rig.number(f"{FOOT}/tx")], wish[f"{FOOT}/tx"], places=9)
            was, there = (solved(self.rig, c, np.linspace(6, 14, 90)) for c in (clip, after))
            way = there[:, :3] - was[:, :3]
            self.assertGreater(np.linalg.norm(way[0]), 0.05)
            if not about:
                np.testing.assert_allclose(way, np.broadcast_to(way[0], way.shape), atol=EXACT)

    def test_keying_what_is_seen_moves_nothing(self) -> None:
        clip = planted(random_clip(self.rig, 4, shape=LINEAR), Plant(5, 15), Plant(22, 26, "heel", release=3))
        for frame in (3, 5, 9, 15, 18, 24, 28):
            keyed = key_pose(clip, self.rig, frame).clip
            a, b = (solved(self.rig, c, [float(frame), 7.0, 25.0]) for c in (clip, keyed))
            place, turn = apart(a, b)
            self.assertLess(place, EXACT, frame)
            self.assertLess(turn, 1e-7, frame)

    def test_it_goes_along_when_time_is_scaled_and_taken_away(self) -> None:
        clip = planted(random_clip(self.rig, 4), Plant(5, 15))
        scaled = scale_time(clip, self.rig, range(1, 41), 1, 2.0, along=True).clip
        self.assertEqual([(s.start, s.end) for s in scaled.tracks[f"plant/{FOOT}"]], [(9, 29)])
        cut = insert_frames(clip, self.rig, 8, -4).clip
        self.assertEqual([(s.start, s.end) for s in cut.tracks[f"plant/{FOOT}"]], [(5, 11)])


if __name__ == "__main__":
    unittest.main()
