"""Paths: what is read off them, their faults, the least change that rounds one, and breakdowns on arcs."""

from __future__ import annotations

import unittest
from math import cos, pi, radians, sin

import numpy as np

from hame.character.camera import is_camera
from hame.clip.clip import Clip
from hame.clip.curve import from_json, from_keys
from hame.clip.key import BEZIER, LINEAR, STEP
from hame.clip.marks import Label
from hame.demo.shots import demo_motions, figure, run_across, walk_across
from hame.edits.arcs import LayOnArc, SmoothArc
from hame.edits.edit import Edit
from hame.edits.making import made
from hame.edits.pose import KeyPose, SetPose
from hame.errors import BadEdit
from hame.measure import paths
from hame.measure.likeness import lags, likeness
from hame.scene.joined import played
from hame.scene.scene import Figure, Scene
from hame.scene.traced import Thing, frames_moved, traced, within
from tests.hame.examples import brannoc_rig, prop_rig
from tests.hame.faulty import arc_alerts

SIZE = 1.7


def minimum_jerk(count: int, way: float = 1.0) -> np.ndarray:
    """The smoothest reach (Flash and Hogan 1985): D (10 t^3 - 15 t^4 + 6 t^5)."""
    t = np.linspace(0, 1, count)
    return np.stack([way * (10 * t**3 - 15 * t**4 + 6 * t**5), np.zeros(count), np.zeros(count)], axis=1)


def circle(count: int = 48, radius: float = 0.5) -> np.ndarray:
    return np.array([[radius * cos(2 * pi * n / count), radius * sin(2 * pi * n / count), 0.0] for n in range(count)])


class ReadTest(unittest.TestCase):
    def test_a_circle_turns_evenly_and_has_no_corner(self) -> None:
        path = circle()
        np.testing.assert_allclose(paths.turning(path, 0.001)[1:-1], 2 * pi / 48, atol=1e-9)
        self.assertEqual(paths.corners(path, SIZE), [])

    def test_a_corner_is_found_where_it_is_with_its_angle(self) -> None:
        path = np.concatenate([np.linspace((0, 0, 0), (0.5, 0, 0), 11), np.linspace((0.5, 0.05, 0), (0.5, 0.5, 0), 10)])
        ((at, angle),) = paths.corners(path, SIZE)
        self.assertEqual(at, 10)
        self.assertAlmostEqual(angle, radians(90))

    def test_a_turn_of_120_degrees_at_full_speed_is_a_corner(self) -> None:
        way = np.array([[-0.5, 3**0.5 / 2, 0.0]])
        path = np.concatenate(
            [np.linspace((0, 0, 0), (0.5, 0, 0), 11), (0.5, 0, 0) + 0.05 * way * np.arange(1, 11)[:, None]]
        )
        ((at, angle),) = paths.corners(path, SIZE)
        self.assertEqual((at, round(np.degrees(angle))), (10, 120))

    def test_smooth_random_motion_has_no_corner_in_between(self) -> None:
        """All round when looked at in eighths of frames, however far it turns from one frame to the next."""
        rig = brannoc_rig()
        told = looked_at = 0
        for seed in range(6):
            rng = np.random.default_rng(seed)
            keys = {a: from_keys({int(f): float(rng.normal(0, s)) for f in range(1, 98, 6)})
                    for a, s in (("arm.L.upper/rx", 0.6), ("arm.L.upper/rz", 0.6), ("arm.L.lower/rx", 0.5),
                                 ("spine/ry", 0.3), ("body/tx", 0.1), ("body/ty", 0.06))}  # fmt: skip
            figures = {1: Figure(rig, Clip().with_curves(keys))}

            def finer(times: np.ndarray, figures: dict[int, Figure] = figures) -> tuple[np.ndarray, None]:
                order = np.argsort(times, kind="stable")
                return played(figures, times[order])[1].nodes[np.argsort(order)], None

            posed = played(figures, np.arange(1, 97))[1]
            looked_at += sum(a.kind == "corner" for a in arc_alerts(figures[1].clip, posed, 1, 24.0))
            told += sum(a.kind == "corner" for a in arc_alerts(figures[1].clip, posed, 1, 24.0, None, finer))
        self.assertGreater(looked_at, 0)
        self.assertEqual(told, 0)

    def test_a_corner_of_straight_ways_is_one_in_between_too(self) -> None:
        fine = np.concatenate([np.linspace((-0.05, 0, 0), (0, 0, 0), 9), np.linspace((0, 0, 0), (0, 0.05, 0), 9)[1:]])
        self.assertTrue(paths.is_sharp(fine, pi / 2))
        turned = np.linspace(-pi / 4, pi / 4, 17)
        self.assertFalse(paths.is_sharp(np.stack([np.sin(turned), np.cos(turned), 0 * turned], axis=1), pi / 2))

    def test_what_goes_on_for_long_is_no_reach_of_that_length(self) -> None:
        frames = np.arange(97.0)
        run = np.stack([0 * frames, 0.03 * np.abs(np.sin(frames * pi / 8)) ** 1.5, 0.12 * frames], axis=1)
        self.assertGreater(paths.jerk_times(run)[0], paths.JERKY)
        self.assertLess(paths.jerks(run)[0], paths.JERKY)
        run[48] += (0, 0.15, 0)
        self.assertGreater(paths.jerks(run)[0], paths.JERKY)

    def test_a_part_that_slows_down_to_turn_has_no_corner(self) -> None:
        t = np.linspace(-1, 1, 41)
        path = 3.0 * np.stack([0.06 * t, t**2, 0 * t], axis=1)
        self.assertGreater(paths.turning(path, paths.LEAST_STEP * SIZE).max(), 1.5 * paths.CORNER)
        self.assertEqual(paths.corners(path, SIZE), [])

    def test_the_smoothest_reach_has_a_jerk_of_one_and_its_speed_peaks_at_1875(self) -> None:
        """Flash and Hogan: peak speed 1.875 times the mean; peak jerk 60 D / T^3, by which jerks are measured here."""
        reach = minimum_jerk(241)
        times, at = paths.jerk_times(reach)
        self.assertAlmostEqual(times, 1.0, delta=0.05)
        self.assertTrue(at < 8 or at > 232)
        steps = np.linalg.norm(np.diff(reach, axis=0), axis=1)
        self.assertAlmostEqual(float(steps.max() / steps.mean()), 1.875, delta=0.001)
        jerky = minimum_jerk(25)
        jerky[12] += (0, 0.2, 0)
        self.assertGreater(paths.jerk_times(jerky)[0], paths.JERKY)

    def test_a_pop_is_a_jump_between_two_stands(self) -> None:
        path = np.zeros((20, 3))
        path[10:] = (0.2, 0, 0)
        self.assertEqual(paths.pops(path, SIZE), [(10, 0.2)])
        self.assertEqual(paths.pops(minimum_jerk(20), SIZE), [])

    def test_out_and_back_on_one_line_is_told_from_an_open_arc(self) -> None:
        out = minimum_jerk(13, 0.6)
        line = np.concatenate([out, out[-2::-1]])
        ((at, apart),) = paths.lines(line, SIZE)
        self.assertEqual(at, 12)
        self.assertLess(apart, 1e-9)
        t = np.linspace(0, pi, 25)
        opened = np.stack([0.6 * np.sin(t), 0.12 * np.cos(t), 0 * t], axis=1)
        self.assertEqual(paths.lines(opened, SIZE), [])
        aside = np.concatenate([out, out[-2::-1] * (1.0, 0.0, 0.0) + np.outer(0.6 - out[-2::-1, 0], (0, 0.17, 0))])
        self.assertGreater(paths.turning(aside, 0.0).max(), radians(160))
        self.assertEqual(paths.lines(aside, SIZE), [], "it turns back, but on another line")

    def test_trembling_goes_to_and_fro_frame_by_frame(self) -> None:
        still = np.linspace(0, 0.3, 30)
        self.assertEqual(paths.trembling(still, 0.01), [])
        shaken = still + 0.03 * (np.arange(30) % 2) * ((np.arange(30) > 9) & (np.arange(30) < 20))
        ((a, b, most),) = paths.trembling(shaken, 0.01)
        self.assertTrue(9 <= a <= 11 and 18 <= b <= 21, (a, b))
        self.assertAlmostEqual(most, 0.04, delta=0.012)
        once = still + 0.03 * (np.arange(30) == 12)
        self.assertEqual(paths.trembling(once, 0.01), [], "to and fro once is a move")

    def test_even_motion_floats_and_uneven_does_not(self) -> None:
        path = circle(60)
        self.assertTrue(paths.evenness(path, np.arange(0, 60, 12), SIZE).floats)
        self.assertFalse(paths.evenness(path, np.array([0, 4, 30, 34, 59]), SIZE).floats)
        self.assertFalse(paths.evenness(minimum_jerk(60), np.arange(0, 60, 12), SIZE).floats)

    def test_rises_and_falls_are_measured(self) -> None:
        height = np.concatenate([np.linspace(0, 0.2, 9), np.linspace(0.2, 0, 4)[1:]])
        self.assertEqual(paths.rises(height, 0.02), [(0, 8, 11)])

    def test_in_a_picture_only_what_goes_across_is_seen(self) -> None:
        camera = np.tile([0.0, 0.0, -5.0, 0.0, 0.0, 0.0, 1.0], (9, 1))
        towards = np.stack([np.zeros(9), np.zeros(9), np.linspace(0, 1, 9)], axis=1)
        np.testing.assert_allclose(paths.in_picture(towards, camera), 0.0, atol=1e-12)
        across = np.stack([np.linspace(0, 1, 9), np.zeros(9), np.zeros(9)], axis=1)
        np.testing.assert_allclose(paths.in_picture(across, camera), across, atol=1e-12)


class TracedTest(unittest.TestCase):
    def setUp(self) -> None:
        rig = brannoc_rig()
        curves = {"body/tz": from_keys({1: 0.0, 21: 1.0}), "chest/ry": from_keys({1: 0.0, 21: 0.8}),
                  "arm.L.upper/rx": from_keys({1: 0.0, 11: 0.9, 21: 0.0})}  # fmt: skip
        self.figures = {1: Figure(rig, Clip().with_curves(curves))}

    def test_a_path_is_where_the_part_is(self) -> None:
        rig = brannoc_rig()
        frames = range(1, 22)
        found = traced(self.figures, [Thing(1, "chest"), Thing(1, rig.skeleton.names[5], True)], frames)
        nodes = played(self.figures, frames)[1].nodes
        np.testing.assert_array_equal(found[0], nodes[:, rig.control("chest").node, :7])
        np.testing.assert_array_equal(found[1], nodes[:, rig.joint_nodes[5], :7])

    def test_seen_from_the_chest_the_hand_only_swings(self) -> None:
        hand, chest = traced(self.figures, [Thing(1, "arm.L.hand"), Thing(1, "chest")], range(1, 22))
        seen = within(hand, chest)
        np.testing.assert_allclose(seen[0], seen[-1], atol=1e-9)
        self.assertGreater(np.linalg.norm(hand[0, :3] - hand[-1, :3]), 0.5)

    def test_only_frames_that_move_are_told(self) -> None:
        figure = self.figures[1]
        after = made(SetPose(frame=11, values={"arm.L.upper/rx": 1.2}), Scene(self.figures, 1, 60), 1).clips
        span = frames_moved(self.figures, after, [Thing(1, "arm.L.hand")], 1, 60)
        self.assertIsNotNone(span)
        self.assertTrue(span is not None and span[0] <= 2 and span[1] >= 20)
        self.assertIsNone(frames_moved(self.figures, {1: figure.clip}, [Thing(1, "arm.L.hand")], 1, 60))

    def test_a_part_that_the_rig_lacks_is_named(self) -> None:
        for thing, words in ((Thing(1, "tail"), "no control tail"), (Thing(1, "tail", True), "no joint tail"),
                             (Thing(9, "chest"), "does not play")):  # fmt: skip
            with self.assertRaisesRegex(BadEdit, words):
                traced(self.figures, [thing], range(1, 3))


def reaching(bump: float = 0.3) -> Clip:
    """An IK hand on its way past a breakdown that lies off the arc."""
    rig = brannoc_rig()
    clip = made(KeyPose(frame=1), Scene({1: Figure(rig)}, 1, 60), 1).clips[1]
    hand = "arm.L.goal"
    ways = {"tx": ((1, 0.0), (9, 0.05), (17, 0.1)), "ty": ((1, 0.0), (9, 0.1 + bump), (17, 0.2)),
            "tz": ((1, 0.0), (9, 0.2), (17, 0.35))}  # fmt: skip
    curves = {f"{hand}/{axis}": from_json([[f, v, BEZIER] for f, v in keys]) for axis, keys in ways.items()}
    clip = clip.with_curves({**curves, "arm.L/ik": from_json([[1, 1.0, STEP]])})
    return clip.with_labels({1: Label("Down"), 9: Label("Past", "breakdown"), 17: Label("Up")})


class SmoothTest(unittest.TestCase):
    def edited(self, clip: Clip, edit: Edit) -> tuple[Clip, str]:
        outcome = made(edit, Scene({1: Figure(brannoc_rig(), clip)}, 1, 60), 1)
        return outcome.clips[1], " ".join(outcome.notes)

    def path(self, clip: Clip) -> np.ndarray:
        rig = brannoc_rig()
        return traced({1: Figure(rig, clip)}, [Thing(1, rig.skeleton.names[rig.skeleton.index("hand_l")], True)],
                      range(1, 18))[0, :, :3]  # fmt: skip

    def test_a_corner_is_rounded_by_the_breakdown_alone(self) -> None:
        clip = reaching()
        size = brannoc_rig().size
        before = float(paths.turning(self.path(clip), paths.LEAST_STEP * size).max())
        self.assertGreater(before, radians(40))
        after, said = self.edited(clip, SmoothArc(control="arm.L.goal", first=1, last=17))
        now = float(paths.turning(self.path(after), paths.LEAST_STEP * size).max())
        self.assertLess(now, 0.6 * before)
        self.assertIn("turns by", said)
        for address in ("arm.L.goal/tx", "arm.L.goal/ty", "arm.L.goal/tz"):
            was, is_now = clip.curves[address].table, after.curves[address].table
            self.assertEqual(was[[0, 2], 1].tolist(), is_now[[0, 2], 1].tolist(), "key poses stay")
        far = np.linalg.norm(self.path(after) - self.path(clip), axis=1).max()
        self.assertLess(far, 0.3, "less than all of what it lay off")

    def test_the_end_of_a_swing_stays_where_it_was_posed(self) -> None:
        clip = made(KeyPose(frame=1), Scene({1: Figure(brannoc_rig())}, 1, 60), 1).clips[1]
        ways = {"tx": ((1, 0.0), (9, -0.3), (15, -0.2), (21, 0.0)), "ty": ((1, 0.0), (9, 0.1), (15, 0.16), (21, 0.0))}
        curves = {f"arm.L.goal/{axis}": from_json([[f, v, LINEAR] for f, v in keys]) for axis, keys in ways.items()}
        clip = clip.with_curves({**curves, "arm.L/ik": from_json([[1, 1.0, STEP]])})
        ranks = {1: Label("In"), 9: Label("Out", "breakdown"), 15: Label("Over", "breakdown"), 21: Label("In again")}
        after, said = self.edited(clip.with_labels(ranks), SmoothArc(control="arm.L.goal", first=1, last=21))
        self.assertIn("turns by 18° at most now, not 70°", said)
        moved = {int(f) for a, c in clip.curves.items() for f, was, now in
                 zip(c.frames, c.values, after.curves[a].values, strict=True) if was != now}  # fmt: skip
        self.assertEqual(moved, {15})

    def test_where_only_key_poses_are_it_says_what_to_do(self) -> None:
        clip = reaching().with_labels({9: Label("Past")})
        with self.assertRaisesRegex(BadEdit, "rank one as a breakdown"):
            self.edited(clip, SmoothArc(control="arm.L.goal", first=1, last=17))
        with self.assertRaisesRegex(BadEdit, "no room"):
            self.edited(clip, SmoothArc(control="arm.L.goal", first=5, last=6))

    def test_a_round_path_is_left_alone(self) -> None:
        clip = reaching(0.0)
        after, said = self.edited(clip, SmoothArc(control="arm.L.goal", first=1, last=17))
        self.assertIn("round already", said)
        self.assertEqual(after.to_json(), clip.to_json())

    def test_a_breakdown_on_the_arc_swings_about_the_shoulder_and_opens_by_its_bulge(self) -> None:
        rig, clip = brannoc_rig(), reaching()
        for bulge in (0.0, 0.3):
            after, _ = self.edited(clip, LayOnArc(frame=5, control="arm.L.goal", controls=("arm.L.goal",), bulge=bulge))
            nodes = played({1: Figure(rig, after)}, [1, 5, 9])[1].nodes
            limb = rig.limb("arm.L")
            arms = np.linalg.norm(nodes[:, limb.target, :3] - nodes[:, limb.root, :3], axis=1)
            chord = float(np.linalg.norm(nodes[2, limb.target, :3] - nodes[0, limb.target, :3]))
            self.assertAlmostEqual(arms[1], 0.5 * (arms[0] + arms[2]) + bulge * chord, delta=0.012)

    def test_a_breakdown_without_neighbours_is_refused(self) -> None:
        with self.assertRaisesRegex(BadEdit, "a pose before and one after"):
            self.edited(reaching(), LayOnArc(frame=30, control="arm.L.goal"))


class AlertsTest(unittest.TestCase):
    def alerts(self, clip: Clip, last: int = 40) -> dict[str, list[str]]:
        rig = brannoc_rig()
        posed = played({1: Figure(rig, clip)}, np.arange(1, last + 1))[1]
        found: dict[str, list[str]] = {}
        for alert in arc_alerts(clip, posed, 1, 24.0):
            found.setdefault(alert.kind, []).append(alert.control)
        return found

    def test_a_trembling_knee_and_an_unsteady_head_are_found_and_mended(self) -> None:
        rig = brannoc_rig()
        shaken = {f: 0.02 * (f % 2) if 10 < f < 24 else 0.0 for f in range(1, 41)}
        clip = Clip().with_curves(
            {"head/ry": from_keys(shaken), "body/ty": from_keys({f: -0.08 - v / 2 for f, v in shaken.items()})}
        )
        found = self.alerts(clip)
        self.assertIn("head", found["tremble"])
        self.assertIn("leg.L.goal", found["tremble"])
        posed = played({1: Figure(rig, clip)}, np.arange(1, 41))[1]
        alert = next(a for a in arc_alerts(clip, posed, 1, 24.0) if a.control == "head" and a.mend)
        mended = made(alert.mend, Scene({1: Figure(rig, clip)}, 1, 40), 1).clips[1]  # type: ignore[arg-type]
        self.assertNotIn("head", self.alerts(mended).get("tremble", []))

    def test_parts_that_all_key_together_are_told_after_the_overlap_pass_and_not_while_blocking(self) -> None:
        rig = brannoc_rig()
        clip = Clip()
        for n, frame in enumerate((1, 9, 17, 25)):
            pose = {"spine/rx": 0.1 * n, "arm.L.lower/rx": 0.2 * n, "body/ty": -0.02 * n}
            edit = SetPose(frame=frame, values=pose, keying="whole")
            clip = made(edit, Scene({1: Figure(rig, clip)}, 1, 40), 1).clips[1]
        self.assertIn("together", self.alerts(clip))
        posed = played({1: Figure(rig, clip)}, np.arange(1, 41))[1]
        alert = next(a for a in arc_alerts(clip, posed, 1, 24.0) if a.kind == "together")
        mended = made(alert.mend, Scene({1: Figure(rig, clip)}, 1, 40), 1).clips[1]  # type: ignore[arg-type]
        self.assertNotIn("together", self.alerts(mended))
        blocked = Clip().with_curves(
            {a: from_json([[r[0], r[1], STEP] for r in c.to_json()]) for a, c in clip.curves.items()}
        )
        self.assertNotIn("together", self.alerts(blocked))

    def test_a_fall_as_long_as_its_rise_is_told(self) -> None:
        even = Clip().with_curves({"body/ty": from_keys({1: -0.2, 9: 0.0, 17: -0.2})})
        self.assertIn("alike", self.alerts(even))
        quick = Clip().with_curves({"body/ty": from_keys({1: -0.2, 9: 0.0, 12: -0.2})})
        self.assertNotIn("alike", self.alerts(quick))

    def test_walks_and_runs_of_the_demo_have_none_of_these(self) -> None:
        for rig, clip in ((figure("brannoc")[0], walk_across), (figure("wick")[0], run_across)):
            figures = {1: Figure(rig, clip(rig))}

            def finer(times: np.ndarray, figures: dict[int, Figure] = figures) -> tuple[np.ndarray, None]:
                order = np.argsort(times, kind="stable")
                return played(figures, times[order])[1].nodes[np.argsort(order)], None

            posed = played(figures, np.arange(1, 98))[1]
            found = arc_alerts(figures[1].clip, posed, 1, 24.0, None, finer)
            self.assertEqual([a.says for a in found if a.kind in ("corner", "jerk", "alike")], [])

    def test_a_prop_has_none(self) -> None:
        rig = prop_rig("oil_can")
        posed = played({1: Figure(rig)}, np.arange(1, 9))[1]
        self.assertEqual(arc_alerts(Clip(), posed, 1, 24.0), [])


class SidesTest(unittest.TestCase):
    def test_a_walk_that_echoes_is_alike_on_both_sides_and_its_hands_trail(self) -> None:
        walk = demo_motions()[0]
        self.assertLess(max(part.degrees for part in likeness(walk.rig, walk.clip, 1, 25)), 1e-6)
        self.assertLess(max(part.metres for part in likeness(walk.rig, walk.clip, 1, 25)), 1e-6)
        # As it was made: forearms a frame after the arms, hands two.
        found = {lag.label: lag.frames for lag in lags(walk.rig, walk.clip, 1, 25)}
        self.assertEqual((found["left upper arm"], found["left forearm"], found["left hand FK"]), (0, 1, 2))

    def test_an_odd_cycle_has_no_halves(self) -> None:
        walk = demo_motions()[0]
        with self.assertRaisesRegex(BadEdit, "even number of frames, not 23"):
            likeness(walk.rig, walk.clip, 1, 24)


class CameraTest(unittest.TestCase):
    def test_the_shelf_has_a_camera_that_moves_and_has_a_lens(self) -> None:
        rig = prop_rig("shot_camera")
        self.assertTrue(is_camera(rig))
        self.assertFalse(is_camera(prop_rig("oil_can")))
        self.assertFalse(rig.channels[rig.number("camera/tx")].locked)
        with self.assertRaisesRegex(BadEdit, "8"):
            made(SetPose(frame=1, values={"camera/lens": 2.0}), Scene({1: Figure(rig)}, 1, 9), 1)
