"""The demo motions and figures against published ranges and facts of the trade."""

from __future__ import annotations

from unittest import TestCase

import numpy as np

from hame.blocking.reference import reference_sheet
from hame.clip.cycles import cycles_of
from hame.clip.played import played_curves
from hame.demo import shots
from hame.demo.contact_sheet import draw_sheet
from hame.evaluate.evaluate import channel_values, evaluate
from hame.measure.seam import seam
from hame.measure.soles import sole_points
from hame.measure.stride import gait_of
from tests.hame.examples import cycle_of

FPS = 24


class WalkTest(TestCase):
    def setUp(self) -> None:
        self.rig, _ = shots.figure("brannoc")
        self.clip = shots.walk(self.rig)
        self.gait = gait_of(self.clip, self.rig, cycles_of(self.clip)[0], FPS)

    def test_cadence_and_speed(self) -> None:
        """90-130 steps a minute, 1.1-1.5 m/s: Whittle, Gait Analysis: an Introduction."""
        self.assertEqual(self.gait.cadence, 120)
        self.assertTrue(1.1 <= self.gait.speed <= 1.5, self.gait.speed)

    def test_stance_and_double_support(self) -> None:
        """About 60 % stance and 20 % double support in two parts: Perry, Gait Analysis, 1992."""
        for share in self.gait.stance.values():
            self.assertAlmostEqual(share, 0.60, delta=0.03)
        self.assertAlmostEqual(self.gait.double_support, 0.20, delta=0.05)
        self.assertEqual(self.gait.flight, 0)

    def test_it_walks_and_does_not_run(self) -> None:
        """Froude number v2/(g leg) below 0.5: Alexander 1989."""
        self.assertLess(self.gait.froude, 0.5)

    def test_the_poses_stand_where_animators_put_them(self) -> None:
        """Contact 1 and 13, down 4, passing 7, up 10; 25 is 1 again (common practice, no source)."""
        names = {frame: label.name for frame, label in self.clip.labels.items()}
        self.assertEqual(names, {1: "Contact", 4: "Down", 7: "Passing", 10: "Up"})
        height = evaluate(self.rig, channel_values(self.rig, self.clip, np.arange(1, 13)))[
            :, self.rig.control("body").node, 1
        ]
        self.assertEqual(1 + int(height.argmin()), 4)
        self.assertIn(1 + int(height.argmax()), (9, 10))

    def test_chest_against_hips_and_arm_against_leg(self) -> None:
        """Common practice, no source."""
        values = channel_values(self.rig, self.clip, [1])[0]
        at = {
            a: values[self.rig.number(a)]
            for a in ("hips/ry", "chest/ry", "leg.L.goal/tz", "arm.L.upper/rx", "arm.R.upper/rx")
        }
        self.assertLess(at["hips/ry"] * at["chest/ry"], 0)
        self.assertGreater(at["leg.L.goal/tz"], 0)
        self.assertLess(at["arm.L.upper/rx"], 0)
        self.assertGreater(at["arm.R.upper/rx"], 0)

    def test_the_head_stays_level_and_forward(self) -> None:
        """Within a few degrees (common practice, no source)."""
        nodes = evaluate(self.rig, channel_values(self.rig, self.clip, np.arange(1, 25, 0.5)))
        head = nodes[:, self.rig.control("head").node, 3:7]
        from hame.maths import rotations

        ahead = rotations.rotate(head, np.broadcast_to([0.0, 0.0, 1.0], (len(head), 3)))
        self.assertLess(np.degrees(np.arccos(ahead[:, 2])).max(), 8)

    def test_a_planted_foot_does_not_slip_when_travelling(self) -> None:
        """0 mm is the fact of the trade; keyed by hand, a millimetre between keys is let pass here."""
        clip = shots.walk_across(self.rig)
        frames = np.arange(3, 10.01, 0.25)  # flat on the ground
        nodes = evaluate(self.rig, channel_values(self.rig, clip, frames))
        limb = next(limb for limb in self.rig.limbs if limb.name == "leg.L")
        ball = sole_points(self.rig, limb, nodes)[:, 1]
        self.assertLess(np.ptp(ball, axis=0).max(), 0.001)

    def test_hands_and_fingers_trail(self) -> None:
        """Forearm 1, hand 2, fingers 3 frames later (common practice, no source)."""
        frames = {a: self.clip.curves[a].frames.tolist() for a in ("arm.L.upper/rx", "arm.L.lower/rx", "arm.L.hand/rx")}
        self.assertEqual(frames["arm.L.upper/rx"], [1, 4, 7, 10])
        self.assertEqual(frames["arm.L.lower/rx"], [2, 5, 8, 11])
        self.assertEqual(frames["arm.L.hand/rx"], [3, 6, 9, 12])

    def test_it_loops_without_a_seam_and_is_half_stored(self) -> None:
        self.assertEqual(seam(self.clip, self.rig, 1, 25), [])
        self.assertEqual(max(self.clip.key_frames()), 12)


class RunTest(TestCase):
    def setUp(self) -> None:
        self.rig, _ = shots.figure("wick")
        self.clip = shots.run(self.rig)
        self.gait = gait_of(self.clip, self.rig, cycles_of(self.clip)[0], FPS)

    def test_it_runs(self) -> None:
        """Froude number above 0.5 (Alexander 1989), with flight and without double support."""
        self.assertGreater(self.gait.froude, 0.5)
        self.assertEqual(self.gait.double_support, 0)
        self.assertGreater(self.gait.flight, 0.1)

    def test_the_poses_and_the_weight(self) -> None:
        """16 frames, opposite at 9, passing at 5; lowest just after the contact (common practice, no source)."""
        assert cycle_of(self.clip)
        self.assertEqual((cycle_of(self.clip).length, cycle_of(self.clip).source_end), (16, 9))
        self.assertEqual(self.clip.labels[5].name, "Passing")
        frames = np.arange(1, 9, 0.5)
        height = evaluate(self.rig, channel_values(self.rig, self.clip, frames))[:, self.rig.control("body").node, 1]
        self.assertTrue(2 <= frames[height.argmin()] <= 4)
        self.assertTrue(6.5 <= frames[height.argmax()] <= 8)

    def test_the_scarf_trails_down_its_chain(self) -> None:
        firsts = [played_curves(self.clip, self.rig)[f"scarf_{n}/rx"].table for n in range(1, 6)]
        peaks = [table[(table[:, 0] >= 1) & (table[:, 0] < 9)] for table in firsts]
        self.assertEqual([int(p[p[:, 1].argmax(), 0]) for p in peaks], [3, 4, 5, 6, 7])

    def test_travelling_it_goes_as_far_as_its_planted_foot_goes_back(self) -> None:
        """The foot that bears the weight stands still on the ground while the body goes on over it."""
        across = shots.run_across(self.rig)
        frames = np.arange(1, 17, 0.25)
        nodes = evaluate(self.rig, channel_values(self.rig, across, frames))
        body = nodes[:, self.rig.control("body").node, 2]
        limb = self.rig.limb("leg.L")
        ball = sole_points(self.rig, limb, nodes)[:, 1]
        down = np.flatnonzero(ball[:, 1] < 0.006)
        middle = down[len(down) // 4 : -len(down) // 4]  # flat, neither landing nor rolling off
        self.assertGreater(len(middle), 6)
        self.assertLess(np.ptp(ball[middle, 2]), 0.02)
        self.assertGreater(np.ptp(body[middle]), 10 * np.ptp(ball[middle, 2]))
        z = channel_values(self.rig, across, [1, 17, 33])[:, self.rig.number("master/tz")]
        self.assertAlmostEqual(z[1] - z[0], z[2] - z[1])
        self.assertTrue(1.5 < z[1] - z[0] < 2.4, z)  # 16 frames at 24: 2.3 to 3.6 m/s, a jog to a run


class TakeTest(TestCase):
    def setUp(self) -> None:
        self.rig, _ = shots.figure("brannoc")
        self.clip = shots.take(self.rig)
        self.at = {label.name: frame for frame, label in self.clip.labels.items()}

    def test_attack_is_quick_and_recovery_longer(self) -> None:
        """Common practice, no source."""
        attack = self.at["Accent"] - self.at["Anticipation"]
        recovery = self.at["Settle"] - self.at["Accent held"]
        self.assertEqual(attack, 5)
        self.assertGreater(recovery, 2 * attack)

    def test_the_accent_is_held_long_enough_to_be_seen(self) -> None:
        """A pose that must be noticed is on screen for 2 frames or more (common practice, no source)."""
        self.assertGreaterEqual(self.at["Accent held"] - self.at["Accent"], 2)
        frames = np.arange(self.at["Accent"], self.at["Accent held"] + 1)
        body = channel_values(self.rig, self.clip, frames)[:, self.rig.number("body/ty")]
        self.assertLess(np.ptp(body), 0.02)

    def test_down_before_up_and_the_head_leads(self) -> None:
        body = self.clip.curves["body/ty"]
        by_frame = dict(zip(body.frames.tolist(), body.values.tolist(), strict=True))
        self.assertLess(by_frame[self.at["Anticipation"]], by_frame[self.at["Rest"]])
        self.assertGreater(by_frame[self.at["Accent"]], by_frame[self.at["Rest"]])
        self.assertIn(self.at["Accent"] - 1, self.clip.curves["head/rx"].frames.tolist())


class FigureTest(TestCase):
    def test_proportions(self) -> None:
        """Segment lengths as shares of height: Drillis and Contini 1966, in Winter, Biomechanics and Motor Control."""
        for name, height in (("brannoc", 1.75), ("wick", 1.78)):
            rig, _ = shots.figure(name)
            places = {n: rig.skeleton.places[i] for i, n in enumerate(rig.skeleton.names)}
            for a, b, share in (("thigh_l", "shin_l", 0.245), ("shin_l", "foot_l", 0.246), ("upper_arm_l", "forearm_l",
                0.186),
                                ("forearm_l", "hand_l", 0.146)):  # fmt: skip
                length = float(np.linalg.norm(places[b] - places[a]))
                self.assertAlmostEqual(length / height, share, delta=0.004, msg=f"{name} {a}")

    def test_wick_has_a_scarf_to_trail_and_a_body_to_pose(self) -> None:
        rig, skin = shots.figure("wick")
        self.assertTrue(all(rig.has_control(f"scarf_{n}") for n in range(1, 6)))
        self.assertEqual(rig.control("scarf_3").parent, "scarf_2")
        self.assertEqual({limb.name for limb in rig.limbs}, {"arm.L", "arm.R", "leg.L", "leg.R"})
        self.assertTrue(6_000 <= skin.triangle_count <= 16_000)


class ContactSheetTest(TestCase):
    def test_a_motion_is_drawn_frame_by_frame_from_two_sides(self) -> None:
        rig, skin = shots.figure("brannoc")
        picture = draw_sheet(rig, skin, shots.walk(rig), [1, 7, 13], ("side", "front"), 60)
        self.assertEqual(picture.shape, (120, 180, 3))
        drawn = (np.abs(picture.astype(int) - [251, 248, 242]).sum(axis=2) > 60).reshape(2, 60, 3, 60)
        share = drawn.mean(axis=(1, 3))
        self.assertTrue((share > 0.05).all() and (share < 0.5).all(), share)  # a figure in every cell, none filled
        # From the side a contact is wider than a passing pose.
        wide = [int((drawn[0, :, n].sum(axis=0) > 3).sum()) for n in range(3)]  # the ground is a thin line
        self.assertGreater(wide[0], wide[1])


class ReferenceTest(TestCase):
    def test_feet_of_the_drawn_poses_go_back_evenly_under_the_body(self) -> None:
        """A plain walk: the planted foot passes under the body at even steps (common practice, no source)."""
        rig, _ = shots.figure("wick")
        sheet = reference_sheet(rig, "walk", 1, 12)
        self.assertEqual([p.frame for p in sheet], [1, 4, 7, 10, 13])
        heels = [next(s for s in p.strokes if s.part == "foot" and s.side == "L").points[0, 0] for p in sheet[1:3]]
        balls = [next(s for s in p.strokes if s.part == "foot" and s.side == "L").points[1, 0] for p in sheet[1:4]]
        self.assertAlmostEqual(balls[0] - balls[1], balls[1] - balls[2], delta=0.004)
        self.assertGreater(heels[0], heels[1])
        for pose in sheet:
            self.assertEqual({s.part for s in pose.strokes}, {"trunk", "head", "leg", "foot", "arm"})
