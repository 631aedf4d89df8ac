"""A body pulled by its parts: what is gripped stays, joints keep their ranges, and nothing flips."""

from __future__ import annotations

import unittest
from dataclasses import replace
from functools import partial

import numpy as np
from scipy.optimize import least_squares

from hame.character.build import build_rig
from hame.character.masses import centre_of_mass
from hame.clip.clip import Clip
from hame.demo.shots import figure, standing
from hame.edits.pose import set_pose
from hame.errors import BadEdit
from hame.evaluate.evaluate import channel_values, evaluate, overlaid
from hame.maths import rotations
from hame.maths.rotations import Array
from hame.solve.begun import Begun, begin, where
from hame.solve.body import body_of, stood, swing_and_twist
from hame.solve.few import estimate
from hame.solve.pull import Pulled, pull
from hame.solve.pull_kernel import FREE, HINGE, centre, solve, stand
from hame.solve.weight import over_support
from hame.solve.wishes import ROUNDS, USUAL, Grip, Leanings, Target, wished
from tests.hame.pulls import FEET, NAMES, begun, by, place, random_pulls, residuals, turned


def place_at(nodes: np.ndarray, start: Begun, part: str) -> np.ndarray:
    return np.asarray(nodes[start.body.link(part).node, :3])


class PullTest(unittest.TestCase):
    def test_a_hand_comes_where_it_is_pulled_and_the_feet_stay(self) -> None:
        for name in ("brannoc", "wick"):
            start = begun(name)
            for offset in ((0.1, 0.6, 0.3), (-0.5, 0.3, 0.4), (0.2, -0.5, 0.4), (0.6, 0.2, 0.0)):
                target = by(start, "arm.L.hand", offset)
                result = pull(start, [target], FEET)
                np.testing.assert_allclose(place(start, result, "arm.L.hand"), target.place, atol=2e-3)
                for grip in FEET:
                    np.testing.assert_allclose(place(start, result, grip.part), where(start, grip.part)[0], atol=1e-4)
                self.assertEqual([g for g in result.gave if g.grade == "fast"], [])

    def test_every_part_can_be_pulled(self) -> None:
        start = begun("brannoc")
        for part in ("arm.R.lower", "leg.R.lower", "chest", "body", "head"):
            grips = [g for g in FEET if not part.startswith("leg.R") or g.part != "leg.R.foot"]
            target = by(start, part, (0.02, 0.0 if part in ("chest", "head") else -0.05, 0.06))
            result = pull(start, [target], grips)
            np.testing.assert_allclose(place(start, result, part), target.place, atol=2e-3, err_msg=part)

    def test_a_pull_to_nowhere_changes_nothing_at_all(self) -> None:
        for name in NAMES:
            start = begun(name)
            part = "arm.L.hand" if name != "bosun" else "head"
            feet = [Grip(link.name, "fast") for link in start.body.links if link.name.endswith(".foot")]
            np.testing.assert_array_equal(pull(start, [by(start, part, (0, 0, 0))], feet).values, start.values)

    def test_what_is_seen_is_what_the_controls_give_and_what_is_keyed(self) -> None:
        start = begun("brannoc")
        rig = start.body.rig
        for modes in ({}, {"arm.L/ik": 1.0}, {"leg.L/ik": 0.0}, {"arm.R/ik": 1.0, "leg.R/ik": 0.0, "leg.L/ik": 0.0}):
            own = begin(rig, overlaid(rig, start.values, modes))
            result = pull(own, [by(own, "arm.L.hand", (0.1, 0.4, 0.5)), by(own, "body", (0, -0.08, 0))], FEET)
            self.assertEqual([g for g in result.gave if g.grade == "fast"], [])
            np.testing.assert_allclose(evaluate(rig, result.values[None])[0], result.nodes, atol=1e-12)
            changed = np.flatnonzero(result.values != rig.rest)
            keyed = set_pose(Clip(), rig, 5, {rig.addresses[n]: float(result.values[n]) for n in changed}, "changed")
            shown = evaluate(rig, channel_values(rig, keyed.clip, [5]))[0][rig.joint_nodes]
            seen = result.nodes[rig.joint_nodes]
            self.assertLess(np.linalg.norm(shown[:, :3] - seen[:, :3], axis=1).max(), 1e-4)
            self.assertLess(turned(shown, seen).max(), 0.01)

    def test_the_body_of_links_stands_as_the_rig_does(self) -> None:
        for name in NAMES:
            rig = begun(name).body.rig
            rng = np.random.default_rng(3)
            values = rig.rest.copy()
            for n, channel in enumerate(rig.channels):
                if not channel.locked and channel.kind == "turn":
                    values[n] = np.clip(rng.normal(scale=0.2), channel.low, channel.high)
            nodes = evaluate(rig, values[None])[0]
            tree, angles = stood(body_of(rig), nodes)
            links = body_of(rig).nodes
            at, way = np.empty((len(links), 3)), np.empty((len(links), 4))
            stand(tree, angles, at, way, np.empty((len(angles), 3)))
            np.testing.assert_allclose(at, nodes[links, :3], atol=1e-9)
            self.assertLess(np.abs(1 - np.abs((way * nodes[links, 3:7]).sum(axis=1))).max(), 1e-12)
            np.testing.assert_allclose(centre(tree, at, way), centre_of_mass(rig, nodes[None])[0], atol=1e-9)

    def test_loose_grips_give_first_then_firm_ones_and_fast_ones_never(self) -> None:
        start = begun("brannoc")
        target = by(start, "arm.L.hand", (0.3, 0.5, 2.2))
        gave = {}
        for grade in ("loose", "firm", "fast"):
            grips = [Grip("leg.L.foot", grade), Grip("leg.R.foot", grade)]  # type: ignore[arg-type]
            result = pull(start, [target], grips)
            gave[grade] = np.linalg.norm(place(start, result, "leg.L.foot") - where(start, "leg.L.foot")[0])
            told = {g.part: g for g in result.gave}
            if grade != "fast":
                self.assertAlmostEqual(told["leg.L.foot"].metres, gave[grade], places=6)
            else:
                self.assertGreater(told["arm.L.hand"].metres, 0.05)
        self.assertGreater(gave["loose"], gave["firm"])
        self.assertGreater(gave["firm"], 0.01)
        self.assertLess(gave["fast"], 1e-4)
        # Of two that hold it the loose one gives far more.
        result = pull(start, [target], [Grip("leg.L.foot", "loose"), Grip("leg.R.foot", "fast")])
        self.assertGreater(np.linalg.norm(place(start, result, "leg.L.foot") - where(start, "leg.L.foot")[0]), 0.05)
        self.assertLess(np.linalg.norm(place(start, result, "leg.R.foot") - where(start, "leg.R.foot")[0]), 1e-4)

    def test_fast_feet_stay_where_the_body_has_lifted_them_off_their_controls(self) -> None:
        """Where the drag begins, the legs are too short for where their controls are."""
        rig = begun("brannoc").body.rig
        for up in (0.02, 0.05, 0.1):
            values = overlaid(rig, rig.rest, {"body/ty": up})
            start = begin(rig, values)
            feet = {n: place_at(start.nodes, start, n) for n in ("leg.L.foot", "leg.R.foot")}
            for way in ((0.0, -0.15, 0.1), (0.2, 0.0, 0.0), (0.0, 0.1, 0.25)):
                result = pull(start, [by(start, "arm.L.hand", way)], FEET)
                for name, before in feet.items():
                    off = float(np.linalg.norm(place(start, result, name) - before))
                    self.assertLess(off, 5e-4, (up, way, name))
                # What is shown is what the controls give.
                shown = evaluate(rig, result.values[None])[0]
                np.testing.assert_allclose(shown[:, :3], result.nodes[:, :3], atol=1e-6)

    def test_a_dropped_grip_gains_reach(self) -> None:
        start = begun("wick")
        target = by(start, "arm.R.hand", (-2.0, 0.2, 0.4))
        both, one = (pull(start, [target], grips) for grips in (FEET, FEET[:1]))
        far = [float(np.linalg.norm(place(start, r, "arm.R.hand") - target.place)) for r in (both, one)]
        self.assertLess(far[1], far[0] - 0.01)

    def test_without_a_grip_the_whole_figure_goes_along_as_it_is(self) -> None:
        for name in NAMES:
            start = begun(name)
            part = start.body.links[-1].name
            offset = np.array([0.4, 0.1, -0.7])
            result = pull(start, [Target(part, where(start, part)[0] + offset)])
            joints = start.body.rig.joint_nodes
            moved = result.nodes[joints, :3] - start.nodes[joints, :3]
            carried = [j for j in range(len(joints)) if start.body.rig.picks[j][0] != "master"]
            np.testing.assert_allclose(moved[carried], np.tile(offset, (len(carried), 1)), atol=1e-6, err_msg=name)

    def test_a_grip_in_turn_keeps_the_head_as_it_looks(self) -> None:
        start = begun("brannoc")
        target = by(start, "arm.L.hand", (0.1, -0.5, 0.5))
        node = start.body.link("head").node
        free = pull(start, [target], FEET)
        held = pull(start, [target], [*FEET, Grip("head", "fast", place=False)])
        self.assertGreater(turned(free.nodes, start.nodes)[node], 8.0)
        self.assertLess(turned(held.nodes, start.nodes)[node], 0.1)
        self.assertGreater(np.linalg.norm(held.nodes[node, :3] - start.nodes[node, :3]), 0.1)

    def test_the_spine_bends_over_all_of_its_joints(self) -> None:
        start = begun("brannoc")
        result = pull(start, [by(start, "head", (0.0, -0.3, 0.3))], [*FEET, Grip("body", "fast")])
        bends = []
        for name in ("spine", "spine.2", "chest"):
            link = start.body.link(name)
            up = start.body.links[link.parent].node
            back = rotations.inverse(result.nodes[up, 3:7])
            bends.append(swing_and_twist(rotations.multiply(back, result.nodes[link.node, 3:7]))[0])
        self.assertGreater(min(bends), np.radians(4))
        self.assertLess(max(bends) / min(bends), 1.4)

    def test_a_limb_that_softens_comes_where_it_is_pulled_all_the_same(self) -> None:
        rig = begun("brannoc").body.rig
        over = {"arm.L/ik": 1.0, "arm.L/soft": 0.05, "arm.L.goal/tx": 0.5, "arm.L.goal/ty": 0.4}
        start = begin(rig, overlaid(rig, rig.rest, over))
        target = by(start, "arm.L.hand", (-0.003, 0.02, 0.0))
        held = [*FEET, Grip("chest", "fast"), Grip("body", "fast")]
        np.testing.assert_allclose(place(start, pull(start, [target], held), "arm.L.hand"), target.place, atol=5e-4)

    def test_leanings_do_what_they_say(self) -> None:
        start = begun("brannoc")
        target = by(start, "arm.L.hand", (0.0, 0.1, 0.75))
        rig = start.body.rig

        def at(**leaning: float) -> Pulled:
            return pull(start, [target], FEET, Leanings(**leaning))

        def turn_of(result: Pulled, part: str) -> float:
            link = start.body.link(part)
            up = start.body.links[link.parent].node
            own = [
                rotations.multiply(rotations.inverse(n[up, 3:7]), n[link.node, 3:7])
                for n in (start.nodes, result.nodes)
            ]
            return float(2 * np.arccos(min(abs(own[0] @ own[1]), 1.0)))

        spine = [sum(turn_of(at(spine=s), p) for p in ("spine", "spine.2", "chest")) for s in (0.0, 1.0)]
        self.assertGreater(spine[1], 1.5 * spine[0])
        collar = [turn_of(at(shoulders=s), "arm.L.collar") for s in (0.0, 1.0)]
        self.assertGreater(collar[1], 1.5 * collar[0])
        here = centre_of_mass(rig, start.nodes[None])[0, 2]
        swayed = [centre_of_mass(rig, at(balance=b).nodes[None])[0, 2] - here for b in (0.0, 1.0)]
        self.assertLess(abs(swayed[1]), 0.7 * abs(swayed[0]))
        moved = [turned(at(before=b).nodes, start.nodes)[rig.joint_nodes].sum() for b in (0.0, 1.0)]
        self.assertLess(moved[1], moved[0])

    def test_knees_and_elbows_do_not_lock(self) -> None:
        start = begun("wick")
        far = by(start, "arm.L.hand", (0.5, 1.5, 1.0))
        bends = []
        for knees in (0.0, 1.0):
            tree, angles = stood(start.body, pull(start, [far], FEET, Leanings(knees=knees)).nodes)
            bends.append(angles[start.body.link("arm.L.lower").first])
        self.assertGreater(np.degrees(bends[1]), np.degrees(bends[0]) + 1.0)

    def test_a_pull_has_no_memory_of_its_way(self) -> None:
        start = begun("brannoc")
        there = by(start, "arm.L.hand", (0.4, 0.4, 0.3))
        straight = pull(start, [there], FEET).values
        for way in ((1.5, 0.3, 0.2), (-2.0, -1.0, 1.0)):
            pull(start, [by(start, "arm.L.hand", way)], FEET)
        np.testing.assert_array_equal(pull(start, [there], FEET).values, straight)

    def test_a_joint_out_of_its_range_is_kept_and_told(self) -> None:
        start = begun("brannoc")
        rig = start.body.rig
        bent = begin(rig, overlaid(rig, start.values, {"neck/rx": 1.2}))
        self.assertIn("neck", bent.beyond)
        np.testing.assert_array_equal(pull(bent, [by(bent, "arm.L.hand", (0, 0, 0))], FEET).values, bent.values)

    def test_own_ranges_of_a_character_hold(self) -> None:
        rig = figure("brannoc")[0]
        stiff = build_rig(rig.skeleton, replace(rig.plan, ranges={"arm.L.lower": {"bend": (0.0, 60.0)}}))
        start = begin(stiff, overlaid(stiff, stiff.rest, standing()))
        target = by(start, "arm.L.hand", (0.1, 0.5, 0.15))
        link = start.body.link("arm.L.lower")
        angle = stood(start.body, pull(start, [target], [*FEET, Grip("chest", "fast"), Grip("body", "fast")]).nodes)[1]
        self.assertLess(np.degrees(angle[link.first]), 60.01)
        wide = begun("brannoc")
        angle = stood(wide.body, pull(wide, [by(wide, "arm.L.hand", (0.1, 0.5, 0.15))],
                                      [*FEET, Grip("chest", "fast"), Grip("body", "fast")]).nodes)[1]  # fmt: skip
        self.assertGreater(np.degrees(angle[link.first]), 70.0)

    def test_what_is_protected_does_not_turn(self) -> None:
        rig = begun("brannoc").body.rig
        start = begin(rig, begun("brannoc").values, protected=("spine", "spine.2", "chest"))
        result = pull(start, [by(start, "arm.L.hand", (0.3, 0.3, 0.6))], FEET)
        for name in ("spine", "spine.2", "chest"):
            for channel in rig.channels_of(name):
                n = rig.number(channel.address)
                self.assertEqual(result.values[n], start.values[n], channel.address)

    def test_refusals_say_why(self) -> None:
        start = begun("brannoc")
        with self.assertRaisesRegex(BadEdit, "no part that the body can be pulled by"):
            pull(start, [Target("eye.L", np.zeros(3))])
        for bad in (np.inf, np.nan, 1e9):
            with self.assertRaisesRegex(BadEdit, "too far off"):
                pull(start, [Target("arm.L.hand", np.array([0.0, bad, 0.0]))])
        with self.assertRaisesRegex(BadEdit, "place hips, a hand"):
            estimate(start, [])

    def test_one_limb_or_none_is_enough(self) -> None:
        from tests.hame.test_bodies import skeleton_of

        rows: dict[str, tuple[str | None, tuple[float, float, float]]] = {
            "a": (None, (0, 0.5, 0)), "b": ("a", (0, 0.8, 0)), "c": ("b", (0, 1.1, 0)),
        }  # fmt: skip
        from hame.character.bodyplan import BodyPlan

        rig = build_rig(skeleton_of(rows), BodyPlan({"hips": "a", "spine.1": "b", "head": "c"}))
        start = begin(rig, rig.rest)
        result = pull(start, [by(start, "head", (0.1, 0.0, 0.0))], [Grip("body", "fast")])
        self.assertTrue(np.isfinite(result.values).all())
        np.testing.assert_allclose(place(start, result, "body"), where(start, "body")[0], atol=1e-4)

    def test_part_of_a_control(self) -> None:
        rig = figure("brannoc")[0]
        self.assertEqual(body_of(rig).link("arm.L.goal").name, "arm.L.hand")
        self.assertEqual(body_of(rig).link("leg.R.pole").name, "leg.R.lower")
        self.assertEqual(body_of(rig).link("body").name, "body")


class RandomPullTest(unittest.TestCase):
    """``python -m bench.pull`` makes 10,000 of these."""

    def test_random_pulls_of_all_four(self) -> None:
        for name in NAMES:
            self.assertEqual(random_pulls(name, 60, seed=8), [], name)


class AgainstOthersTest(unittest.TestCase):
    """The same wishes given to SciPy's least squares with bounds: the residual is within one per cent."""

    def test_least_squares(self) -> None:
        cases = [
            ("brannoc", "arm.L.hand", (0.1, 0.5, 0.3)), ("wick", "arm.R.hand", (-0.4, 0.2, 0.5)),
            ("brannoc", "chest", (0.05, -0.1, 0.12)), ("wick", "arm.L.hand", (0.9, 0.6, 0.5)),
        ]  # fmt: skip
        for name, part, offset in cases:
            start = begun(name)
            wish = wished(start, [by(start, part, offset)], (*FEET, Grip("head", "firm", place=False)), USUAL)
            mine, _ = solve(start.tree, wish, start.angles, ROUNDS)
            theirs = least_squares(
                partial(residuals, start, wish), start.angles,
                bounds=(start.low - 1e-9, start.high + 1e-9), xtol=1e-10, ftol=1e-10, gtol=1e-10, max_nfev=200,
            ).x  # fmt: skip
            costs = [float((residuals(start, wish, x) ** 2).sum()) for x in (mine, theirs)]
            self.assertLess(costs[0], 1.01 * costs[1], (name, part))


class FewTest(unittest.TestCase):
    def test_parts_that_are_placed_are_there_and_the_rest_is_a_pose(self) -> None:
        start = begun("wick")
        wanted = {
            "leg.L.foot": (0.0, 0.0, 0.2), "leg.R.foot": (0.0, 0.0, -0.1), "body": (0.0, -0.08, 0.05),
            "arm.L.hand": (0.1, 0.6, 0.4), "arm.R.hand": (-0.1, 0.3, 0.3), "head": (0.0, -0.08, 0.08),
        }  # fmt: skip
        names = list(wanted)
        targets = [
            Target(part, where(start, part)[0] + offset, where(start, part)[1] if part.endswith("foot") else None)
            for part, offset in wanted.items()
        ]
        for count in (1, 2, 4, 6):
            result = estimate(start, targets[:count])
            for target in targets[:count]:
                np.testing.assert_allclose(
                    place(start, result, target.part), target.place, atol=6e-3, err_msg=f"{count}: {target.part}"
                )
        # In any order it is the same pose.
        other = estimate(start, targets[::-1])
        np.testing.assert_allclose(other.nodes[start.body.nodes, :3], result.nodes[start.body.nodes, :3], atol=1e-4)
        self.assertEqual(len(names), 6)

    def test_a_figure_faces_where_its_feet_do(self) -> None:
        start = begun("brannoc")
        about = rotations.from_axis_angle(np.array([0.0, 1.0, 0.0]), np.radians(140))
        targets = []
        for part in ("leg.L.foot", "leg.R.foot"):
            at, way = where(start, part)
            targets.append(Target(part, rotations.rotate(about, at) + [2.0, 0.0, 1.0], rotations.multiply(about, way)))
        result = estimate(start, targets)
        ahead = rotations.rotate(result.nodes[start.body.links[0].node, 3:7], np.array([0.0, 0.0, 1.0]))
        self.assertAlmostEqual(np.degrees(np.arctan2(ahead[0], ahead[2])), 140.0, delta=10.0)
        self.assertGreater(ahead @ rotations.rotate(about, np.array([0.0, 0.0, 1.0])), 0.99)

    def test_feet_that_nobody_placed_stand_under_the_body(self) -> None:
        for name in ("brannoc", "wick"):
            start = begun(name)
            rig = start.body.rig
            down = by(start, "head", (0.05, -0.3, 0.1))
            result = estimate(start, [down])
            np.testing.assert_allclose(place(start, result, "head"), down.place, atol=6e-3)
            for foot in ("leg.L.foot", "leg.R.foot"):
                node = result.nodes[start.body.link(foot).node]
                rest = rig.skeleton.places[rig.skeleton.index(rig.plan.roles[foot])]
                self.assertAlmostEqual(node[1], rest[1], delta=0.012)
                up = rotations.rotate(node[3:7], np.array([0.0, 1.0, 0.0]))
                self.assertGreater(up[1], 0.98, foot)

    def test_a_figure_stands_where_its_master_has_brought_it(self) -> None:
        rig = figure("wick")[0]
        moved = overlaid(rig, rig.rest, {"master/tx": 3.0, "master/ty": 0.7, "master/ry": 1.2, **standing()})
        start = begin(rig, moved)
        hand = where(start, "arm.L.hand")[0]
        result = estimate(start, [Target("arm.L.hand", hand)])
        body = result.nodes[start.body.links[0].node]
        self.assertAlmostEqual(body[1], where(start, "body")[0][1], delta=0.06)
        ahead = rotations.rotate(body[3:7], np.array([0.0, 0.0, 1.0]))
        self.assertAlmostEqual(float(np.arctan2(ahead[0], ahead[2])), 1.2, delta=0.15)

    def test_a_hand_that_is_turned_leads_its_elbow(self) -> None:
        start = begun("brannoc")
        at, way = where(start, "arm.L.hand")
        at = at + [0.0, 0.35, 0.35]
        elbows = []
        for angle in (-60.0, 60.0):
            along = rotations.rotate(way, np.array([0.0, 1.0, 0.0]))
            turn = rotations.multiply(rotations.from_axis_angle(along, np.radians(angle)), way)
            feet = [Target(p, *where(start, p)) for p in ("leg.L.foot", "leg.R.foot", "body")]
            elbows.append(place(start, estimate(start, [*feet, Target("arm.L.hand", at, turn)]), "arm.L.lower"))
        self.assertGreater(np.linalg.norm(elbows[0] - elbows[1]), 0.03)


class SupportTest(unittest.TestCase):
    def test_the_mass_is_brought_over_a_foot_that_stays(self) -> None:
        start = begun("brannoc")
        over = where(start, "leg.L.foot")[0][[0, 2]]
        result = over_support(start, over, FEET)
        middle = centre_of_mass(start.body.rig, result.nodes[None])[0]
        np.testing.assert_allclose(middle[[0, 2]], over, atol=0.003)
        for grip in FEET:
            np.testing.assert_allclose(place(start, result, grip.part), where(start, grip.part)[0], atol=1e-4)


class KernelTest(unittest.TestCase):
    def test_axes_are_the_slopes_of_turns(self) -> None:
        """Against finite differences: how the end of a link moves as each angle grows."""
        start = begun("wick")
        tree, rng = start.tree, np.random.default_rng(2)
        x = start.angles + rng.normal(scale=0.3, size=len(start.angles))
        links = len(tree.parent)

        def standing_at(angles: Array) -> tuple[Array, Array, Array]:
            at, way, axes = np.empty((links, 3)), np.empty((links, 4)), np.zeros((len(x), 3))
            stand(tree, angles, at, way, axes)
            return at, way, axes

        at, _, axes = standing_at(x)
        step = 1e-6
        for link in (start.body.number("arm.L.hand"), start.body.number("leg.R.foot")):
            up = link
            while up >= 0:
                first = tree.first[up] + (3 if tree.kind[up] == FREE else 0)
                for d in range(first, first + (1 if tree.kind[up] == HINGE else 3)):
                    more = x.copy()
                    more[d] += step
                    slope = (standing_at(more)[0][link] - at[link]) / step
                    np.testing.assert_allclose(np.cross(axes[d], at[link] - at[up]), slope, atol=1e-4)
                up = tree.parent[up]
