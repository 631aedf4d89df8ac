"""Plants found in a motion, and faults of contact: each on a motion that has it, and none on one that has not."""

from __future__ import annotations

import unittest

import numpy as np

from hame.clip.clip import Clip
from hame.clip.curve import from_keys
from hame.clip.plants import Plant
from hame.demo.ladder import UP_THE_LADDER
from hame.demo.scenes import acted
from hame.edits.edit import Edit
from hame.edits.making import made
from hame.faults.fault import Alert
from hame.maths import transforms
from hame.measure.found import find_plants
from hame.measure.ground import ground_of
from hame.scene.joined import played
from hame.scene.scene import Figure, Scene
from tests.hame.examples import brannoc_rig, prop, prop_rig
from tests.hame.faulty import alerts
from tests.hame.test_ties import FOOT, planted

FPS = 24.0


class ContactTest(unittest.TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        cls.rig = brannoc_rig()

    def alerts(self, clip: Clip, last: int = 30) -> list[Alert]:
        posed = played({1: Figure(self.rig, clip)}, np.arange(1, last + 1))[1]
        return alerts(clip, posed, 1, FPS)

    def kinds(self, clip: Clip, last: int = 30) -> set[tuple[str, str]]:
        return {(alert.kind, alert.control) for alert in self.alerts(clip, last)}

    def mended(self, clip: Clip, edit: Edit | None) -> Clip:
        assert edit is not None
        return made(edit, Scene({1: Figure(self.rig, clip)}, 1, 48), 1).clips[1]

    def walked(self) -> Clip:
        """Two steps, with the left foot down from 8 to 20 and never quite still by its keys."""
        low = {"body/ty": from_keys({1: -0.1})}
        keys = {
            "tz": {1: -0.3, 8: 0.3, 20: 0.302, 30: 0.9},
            "ty": {1: 0.0, 4: 0.12, 8: 0.0, 20: 0.0, 25: 0.12, 30: 0.0},
        }
        body = {"body/tz": from_keys({1: 0.0, 30: 0.6}), "leg.R.goal/tz": from_keys({1: 0.3, 30: 0.3})}
        return Clip().with_curves({**low, **body, **{f"{FOOT}/{c}": from_keys(k) for c, k in keys.items()}})

    def test_plants_are_found_where_feet_stand_to_the_frame(self) -> None:
        clip = planted(self.walked(), Plant(8, 20))
        nodes = played({1: Figure(self.rig, clip)}, np.arange(1, 31))[1].nodes
        found = [(f.control, f.start, f.end, f.about) for f in find_plants(self.rig, nodes, 1, FPS)]
        left = [f for f in found if f[0] == FOOT]
        self.assertEqual(len(left), 1)
        self.assertLessEqual(abs(left[0][1] - 8), 1)
        self.assertLessEqual(abs(left[0][2] - 20), 1)
        self.assertEqual([f[1:] for f in found if f[0] == "leg.R.goal"], [(1, 30, "")])
        low = find_plants(self.rig, nodes, 1, FPS, height=-0.01)
        self.assertEqual(low, [], "nothing stands below the ground")
        self.assertEqual(find_plants(self.rig, nodes, 1, FPS, shortest=40), [])

    def test_a_foot_that_turns_on_its_ball_is_found_so(self) -> None:
        curves = {f"{FOOT}/roll": from_keys({1: 0.0, 10: 0.0, 20: 0.6}), "body/ty": from_keys({1: -0.1})}
        nodes = played({1: Figure(self.rig, Clip().with_curves(curves))}, np.arange(1, 21))[1].nodes
        found = [
            (f.about, f.start, f.end) for f in find_plants(self.rig, nodes, 1, FPS, speed=0.05) if f.control == FOOT
        ]
        self.assertEqual([f[0] for f in found], ["", "ball"])
        self.assertAlmostEqual(found[1][1], 11, delta=1)

    def test_a_foot_that_slides_is_told_by_how_much_and_planting_mends_it(self) -> None:
        clip = self.walked()
        told = [a for a in self.alerts(clip) if a.kind == "slip" and a.control == FOOT]
        self.assertEqual(len(told), 1)
        self.assertAlmostEqual(told[0].amount, 0.002, places=3)
        self.assertIn("left foot slides by", told[0].says)
        self.assertIn("plant it from", told[0].mending)
        self.assertNotIn(("slip", FOOT), self.kinds(self.mended(clip, told[0].mend)))

    def slid(self, keys: dict[str, dict[int, float]], last: int = 48) -> list[tuple[int, int, int]]:
        """Of the left foot the slides by frames, and millimetres."""
        curves = {"body/ty": from_keys({1: -0.2}), **{f"{FOOT}/{c}": from_keys(k) for c, k in keys.items()}}
        told = [a for a in self.alerts(Clip().with_curves(curves), last) if a.kind == "slip" and a.control == FOOT]
        return [(a.first, a.last, round(1000 * a.amount)) for a in told]

    def test_a_slide_is_told_at_any_speed_by_its_own_frames(self) -> None:
        self.assertEqual(self.slid({"tz": {12: 0.0, 24: 0.3}}), [(12, 24, 300)])
        self.assertEqual(self.slid({"tz": {20: 0.0, 24: 0.05}}), [(20, 24, 50)])
        self.assertEqual(self.slid({"tz": {12: 0.0, 24: 0.02}}), [(12, 24, 20)])
        self.assertEqual(self.slid({"tz": {12: 0.0, 13: 0.1}}), [(12, 13, 100)])
        # A long one is a move: it is told, and nothing is offered that would take it away.
        curves = {"body/ty": from_keys({1: -0.2}), f"{FOOT}/tz": from_keys({12: 0.0, 24: 0.3})}
        (told,) = (a for a in self.alerts(Clip().with_curves(curves), 48) if a.kind == "slip")
        self.assertIsNone(told.mend)

    def test_a_foot_that_swings_low_is_no_slide(self) -> None:
        for high in (0.006, 0.01, 0.03):
            swing = {"tz": {12: 0.0, 20: 0.4}, "ty": {12: 0.0, 16: high, 20: 0.0}}
            self.assertEqual(self.slid(swing), [], high)
        # Nor is one that rolls over its ball, or turns on its heel.
        self.assertEqual(self.slid({"roll": {10: 0.0, 20: 0.6}}), [])

    def test_a_sole_below_the_ground_and_a_plant_above_it(self) -> None:
        clip = Clip().with_curves(
            {"body/ty": from_keys({1: -0.1}), f"{FOOT}/ty": from_keys({1: 0.0, 10: -0.03, 20: 0.0})}
        )
        told = [a for a in self.alerts(clip, 20) if a.kind == "sink"]
        self.assertEqual([(a.control, a.worst) for a in told], [(FOOT, 10)])
        self.assertAlmostEqual(told[0].amount, 0.03, places=3)
        self.assertNotIn(("sink", FOOT), self.kinds(self.mended(clip, told[0].mend), 20))
        above = planted(
            Clip().with_curves({"body/ty": from_keys({1: -0.1}), f"{FOOT}/ty": from_keys({1: 0.05})}), Plant(3, 9)
        )
        told = [a for a in self.alerts(above, 20) if a.kind == "float"]
        self.assertEqual([(a.first, a.last) for a in told], [(3, 9)])
        self.assertNotIn(("float", FOOT), self.kinds(self.mended(above, told[0].mend), 20))

    def test_a_leg_that_is_too_short_for_its_plant_and_the_body_brought_nearer(self) -> None:
        clip = planted(Clip().with_curves({"body/tz": from_keys({1: 0.0, 20: 0.7})}), Plant(1, 20))
        told = [a for a in self.alerts(clip, 20) if a.kind == "reach" and a.control == FOOT]
        self.assertEqual(told[0].worst, 20)
        self.assertRegex(told[0].says, r"left leg is \d+ mm too short")
        after = [a for a in self.alerts(self.mended(clip, told[0].mend), 20) if a.kind == "reach" and a.control == FOOT]
        self.assertTrue(all(a.worst != 20 for a in after))

    def test_a_knee_that_snaps_straight_and_an_aim_that_comes_behind(self) -> None:
        snapping = Clip().with_curves({"body/ty": from_keys({1: -0.3, 9: -0.3, 10: 0.02, 20: 0.02}, 1)})
        self.assertIn(("snap", FOOT), self.kinds(snapping, 20))
        calm = Clip().with_curves({"body/ty": from_keys({1: -0.3, 20: -0.05})})
        self.assertNotIn(("snap", FOOT), self.kinds(calm, 20))
        behind = Clip().with_curves({"body/ty": from_keys({1: -0.2}), "leg.L.pole/tz": from_keys({1: 0.0, 20: -1.5})})
        told = [a for a in self.alerts(behind, 20) if a.kind == "pole"]
        self.assertEqual({a.control for a in told}, {"leg.L.pole"})
        mended = self.alerts(self.mended(behind, told[0].mend), 20)
        self.assertFalse(any(a.kind == "pole" and a.first <= told[0].worst <= a.last for a in mended))

    def test_a_prop_through_the_ground(self) -> None:
        can = prop_rig("oil_can")
        clip = Clip().with_curves({"master/ty": from_keys({1: 0.1, 10: -0.05, 20: 0.1})})
        told = alerts(clip, played({2: Figure(can, clip)}, np.arange(1, 21))[2], 1, FPS)
        self.assertEqual([(a.kind, a.worst) for a in told], [("under", 10)])
        self.assertAlmostEqual(told[0].amount, 0.05, places=9)

    def test_a_climb_from_rung_to_rung_shows_no_fault(self) -> None:
        plan = UP_THE_LADDER
        rigs = {"Brannoc": self.rig, "Ladder": prop_rig("ladder")}
        clips = acted(plan, rigs, {"Brannoc": 1, "Ladder": 2})
        figures = {number: Figure(rigs[name], clips[name]) for number, name in enumerate(plan.cast, 1)}
        posed = played(figures, np.arange(1, plan.last + 1))
        ground = ground_of(posed, {2: prop("ladder").skin})
        said = [a.says for n in posed for a in alerts(figures[n].clip, posed[n], 1, FPS, ground)]
        self.assertEqual(said, [])

    def test_a_tipped_prop_is_measured_at_its_lowest_point(self) -> None:
        can, skin = prop_rig("oil_can"), prop("oil_can").skin
        tipped = Clip().with_curves({"master/rz": from_keys({1: 0.0, 10: 1.2, 20: 0.0})})
        posed = {2: played({2: Figure(can, tipped)}, np.arange(1, 21))[2]}
        [told] = alerts(tipped, posed[2], 1, FPS, ground_of(posed, {2: skin}))
        self.assertEqual((told.kind, told.worst), ("under", 10))
        joint = posed[2].nodes[9, can.joint_nodes[0]]
        points = np.concatenate([piece.points for piece in skin.pieces]).astype(float)
        local = transforms.apply(transforms.inverse(can.skeleton.world[0]), points)
        self.assertAlmostEqual(told.amount, -float(transforms.apply(joint, local)[:, 1].min()), delta=0.003)
        lifted = played({2: Figure(can, made(told.mend, Scene({2: Figure(can, tipped)}, 1, 48), 2).clips[2])}, [10])[2]
        self.assertEqual(alerts(tipped, lifted, 10, FPS, ground_of({2: lifted}, {2: skin})), [])

    def test_the_top_of_a_prop_is_ground_too(self) -> None:
        step, skin = prop_rig("step"), prop("step").skin
        up = {1: 0.0, 20: 0.0}
        clip = Clip().with_curves({f"{FOOT}/ty": from_keys({1: 0.18}), f"{FOOT}/tz": from_keys({1: 0.3}),
                                   "body/ty": from_keys({1: -0.1}), "head/ry": from_keys(up)})  # fmt: skip
        figures = {1: Figure(self.rig, clip), 2: Figure(step, Clip().with_curves({"master/tz": from_keys({1: 0.35})}))}
        posed = played(figures, np.arange(1, 21))
        ground = ground_of(posed, {2: skin})
        found = [(f.control, f.start, f.end) for f in find_plants(self.rig, posed[1].nodes, 1, FPS, ground=ground)]
        self.assertIn((FOOT, 1, 20), found)
        self.assertNotIn(FOOT, [f.control for f in find_plants(self.rig, posed[1].nodes, 1, FPS)])
        lower = figures[1].with_clip(clip.with_curves({f"{FOOT}/ty": from_keys({1: 0.13})}))
        sunk = played({**figures, 1: lower}, np.arange(1, 21))
        told = [a for a in alerts(lower.clip, sunk[1], 1, FPS, ground_of(sunk, {2: skin})) if a.kind == "sink"]
        self.assertEqual([(a.control, a.first, a.last) for a in told], [(FOOT, 1, 20)])
        self.assertAlmostEqual(told[0].amount, 0.05, places=2)

    def test_a_plant_that_ends_too_early_is_made_longer(self) -> None:
        clip = planted(self.walked(), Plant(8, 13))
        told = [a for a in self.alerts(clip) if a.kind == "slip" and a.control == FOOT]
        self.assertIn("lengthen its plant: 8 to", told[0].mending)
        after = self.mended(clip, told[0].mend)
        self.assertEqual(len(after.tracks[f"plant/{FOOT}"]), 1)

    def test_a_figure_at_ease_has_no_fault(self) -> None:
        clip = Clip().with_curves({"body/ty": from_keys({1: -0.03, 15: -0.05, 30: -0.03})})
        self.assertEqual(self.kinds(clip), set())


if __name__ == "__main__":
    unittest.main()
