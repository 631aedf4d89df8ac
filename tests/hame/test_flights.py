"""Flights: found where nothing bears a body, measured, and made to fall as things fall."""

from __future__ import annotations

import unittest

import numpy as np

from hame.character.masses import centre_of_mass
from hame.character.rig import Rig
from hame.clip import layers
from hame.clip.clip import Clip
from hame.clip.curve import from_keys
from hame.clip.cycle import Cycle
from hame.clip.marks import Label
from hame.clip.plants import Plant
from hame.demo.shots import figure, run, run_across
from hame.edits.edit import Edit
from hame.edits.flights import Fly
from hame.edits.layers import new_layer
from hame.edits.making import Made, made
from hame.edits.meeting import MeetFlight
from hame.errors import BadEdit
from hame.evaluate.posed import Posed
from hame.faults.look import Look
from hame.maths.rotations import Array
from hame.measure.balance import balances
from hame.measure.dynamics import GRAVITY
from hame.measure.flights import Flight, airborne, fall, flights, gaps, parabola, rise_of, seconds_of
from hame.scene.joined import played
from hame.scene.scene import Figure, Scene
from tests.hame.examples import brannoc_rig

FPS = 24.0


class FallTest(unittest.TestCase):
    def test_level_flights_rise_as_they_are_long(self) -> None:
        """By hand, g (t / 2)^2 / 2: 15 frames of 24 a second 0.479 m, 9 frames 0.172 m."""
        for frames, rise in ((15, 0.479), (9, 0.172)):
            self.assertAlmostEqual(rise_of(frames / FPS, 0.0, GRAVITY), rise, 3)
            self.assertEqual(round(seconds_of(rise, 0.0, GRAVITY) * FPS), frames)

    def test_one_is_the_other_turned_round(self) -> None:
        for drop in (-0.2, 0.0, 0.7):
            for rise in (0.25, 0.6, 2.0):
                seconds = seconds_of(rise, drop, GRAVITY)
                self.assertAlmostEqual(rise_of(seconds, drop, GRAVITY), rise, 9)
                start, end = np.array([0.0, 1.0, 0.0]), np.array([1.0, 1.0 - drop, 2.0])
                way = parabola(start, end, seconds, np.linspace(0.0, seconds, 4001), GRAVITY)
                self.assertAlmostEqual(float(way[:, 1].max()) - 1.0, rise, 6)
                np.testing.assert_allclose(way[-1], end, atol=1e-12)
        self.assertEqual(rise_of(0.1, 3.0, GRAVITY), 0.0)  # it goes down all the way

    def test_the_speeds_at_both_ends_are_those_of_the_way(self) -> None:
        start, end = np.array([0.0, 1.0, 0.0]), np.array([1.0, 0.4, -2.0])
        way = parabola(start, end, 0.5, np.array([0.0, 1e-6, 0.5 - 1e-6, 0.5]), GRAVITY)
        first, last = fall(start, end, 0.5, GRAVITY)
        np.testing.assert_allclose((way[1] - way[0]) / 1e-6, first, atol=1e-4)
        np.testing.assert_allclose((way[3] - way[2]) / 1e-6, last, atol=1e-4)

    def test_flights_are_between_what_bears(self) -> None:
        flying = np.array([int(c) for c in "1100111100101110001"], bool)
        # What begins or ends in the air is not whole; one frame in the air is a step.
        self.assertEqual(gaps(flying), [(3, 8), (11, 15)])
        self.assertEqual(gaps(flying, 2), [(3, 8), (9, 11), (11, 15)])

    def test_what_is_measured_is_what_falls(self) -> None:
        for share in (0.4, 1.0, 1.7):
            times = np.arange(11) / FPS
            way = parabola(np.zeros(3), np.array([0.5, 0.0, 1.0]), times[-1], times, share * GRAVITY)
            flying = np.array([False, *[True] * 9, False])
            [found] = flights(way, flying, 5, FPS)
            self.assertEqual((found.release, found.landing, found.frames), (5, 15, 10))
            self.assertAlmostEqual(found.gravity, share, 9)
            self.assertAlmostEqual(found.rise, rise_of(times[-1], 0.0, share * GRAVITY), 9)


class FlyTest(unittest.TestCase):
    """A hop whose feet leave the ground at 9 and come down at 19, and whose arms swing meanwhile."""

    def setUp(self) -> None:
        self.rig = brannoc_rig()
        up = {1: 0.0, 9: 0.0, 12: 0.2, 16: 0.2, 19: 0.0, 30: 0.0}
        ahead = {1: 0.0, 9: 0.0, 19: 0.6, 30: 0.6}
        arms = {1: 0.0, 9: 0.4, 14: -1.6, 19: 0.3, 30: 0.0}
        bent = {1: 0.0, 9: -0.05, 14: 0.0, 19: -0.05, 30: 0.0}
        self.clip = Clip().with_curves({
            "master/ty": from_keys(up), "master/tz": from_keys(ahead), "body/ty": from_keys(bent),
            "arm.L.upper/rx": from_keys(arms), "arm.R.upper/rx": from_keys(arms),
        })  # fmt: skip
        self.last = 30

    def scene(self, clip: Clip | None = None) -> Scene:
        return Scene({1: Figure(self.rig, clip or self.clip)}, 1, 60, of=1, fps=FPS)

    def make(self, edit: Edit, clip: Clip | None = None) -> Made:
        return made(edit, self.scene(clip), 1)

    def posed(self, clip: Clip, frames: Array) -> Posed:
        return played({1: Figure(self.rig, clip)}, frames)[1]

    def flight(self, clip: Clip) -> Flight:
        posed = self.posed(clip, np.arange(1, 61))
        stands = balances(clip, posed, 1)
        [found] = flights(np.array([s.centre for s in stands]), airborne(stands), 1, FPS)
        return found

    def check(self, clip: Clip, gravity: float = 1.0, near: float = 0.001) -> Flight:
        """The mass is so near its parabola between frames too, and falls by gravity within 1 %."""
        found = self.flight(clip)
        times = np.arange(found.release, found.landing + 1e-9, 0.25)
        way = centre_of_mass(self.rig, self.posed(clip, times).nodes)
        goal = parabola(
            way[0], way[-1], found.frames / FPS, (times - times[0]) / FPS, gravity * GRAVITY
        )  # fmt: skip
        self.assertLess(float(np.linalg.norm(way - goal, axis=1).max()), near)
        whole = way[::4]
        pull = np.diff(whole, n=2, axis=0)[:, 1] * FPS**2
        self.assertLess(abs(float(pull.mean()) / (gravity * GRAVITY) + 1.0), 0.01)
        self.assertAlmostEqual(found.gravity, gravity, delta=0.01)
        return found

    def test_it_falls_as_things_fall_and_all_goes_along(self) -> None:
        before = self.flight(self.clip)
        self.assertGreater(abs(before.gravity - 1.0), 0.2)
        done = self.make(Fly(at=14))
        after = self.check(done.clips[1], near=0.002)
        self.assertEqual((after.release, after.landing), (before.release, before.landing))
        self.assertAlmostEqual(after.rise, rise_of(after.frames / FPS, 0.0, GRAVITY), delta=0.02)
        frames = np.arange(1, 31)
        old, new = (self.posed(clip, frames).nodes for clip in (self.clip, done.clips[1]))
        # Beyond it nothing moves; in it all joints keep their places about the mass.
        still = (frames <= before.release) | (frames >= before.landing)
        np.testing.assert_allclose(new[still], old[still], atol=1e-9)
        joints = self.rig.joint_nodes
        about = [
            nodes[:, joints, :3] - centre_of_mass(self.rig, nodes)[:, None] for nodes in (old, new)
        ]  # fmt: skip
        np.testing.assert_allclose(about[1], about[0], atol=1e-9)
        # Few keys: two ends and what is between.
        for axis in "xyz":
            curve = done.clips[1].curves.get(f"master/t{axis}")
            if curve is not None:
                inner = (curve.frames >= before.release) & (curve.frames <= before.landing)
                self.assertLessEqual(int(inner.sum()), 6, axis)
        self.assertIn("rises", " ".join(done.notes))

    def test_a_plain_hop_is_within_a_millimetre(self) -> None:
        clip = Clip().with_curves({"master/ty": from_keys({1: 0.0, 9: 0.0, 14: 0.2, 19: 0.0, 30: 0.0})})
        self.check(self.make(Fly(at=14), clip).clips[1])

    def test_a_height_asks_for_frames_and_frames_for_a_height(self) -> None:
        before = self.flight(self.clip)
        for edit, frames in (
            (Fly(at=12, frames=15), 15), (Fly(at=12, frames=8), 8),
            (Fly(at=12, height=0.4788), round(seconds_of(0.4788, 0.0, GRAVITY) * FPS)),
            (Fly(at=12, height=0.3, gravity=0.5), round(seconds_of(0.3, 0.0, 0.5 * GRAVITY) * FPS)),
        ):  # fmt: skip
            with self.subTest(edit=edit):
                done = self.make(edit)
                clip = done.clips[1]
                found = self.check(clip, edit.gravity, 0.002)  # where that saves keys
                self.assertAlmostEqual(found.frames, frames, delta=1)
                # What follows goes along.
                shift = frames - before.frames
                late = self.posed(clip, np.array([30.0 + shift]))
                np.testing.assert_allclose(late.nodes, self.posed(self.clip, np.array([30.0])).nodes, atol=1e-9)

    def test_what_it_asks_of_the_frames_beside_is_told(self) -> None:
        notes = " ".join(self.make(Fly(at=14)).notes)
        self.assertRegex(notes, r"comes to its release at \d+ with 0\.\d m/s, the flight has \d\.\d m/s there")
        self.assertRegex(notes, "goes on from its landing")

    def test_what_a_layer_adds_is_not_added_twice(self) -> None:
        laid, number = new_layer(self.clip, "Higher")
        over = from_keys({1: 0.0, 9: 0.0, 14: 0.1, 19: 0.0})
        clip = laid.with_curves({layers.address_in(number, "master/ty"): over})
        after = self.make(Fly(at=14), clip).clips[1]
        self.check(after, near=0.002)
        self.assertIs(after.curves[layers.address_in(number, "master/ty")], over)

    def test_on_a_figure_that_is_turned_and_has_no_keys_of_its_place(self) -> None:
        lifted = {"body/ty": from_keys({1: 0.0, 9: 0.0, 14: 0.3, 19: 0.0}), "master/ry": from_keys({1: 1.2})}
        lifted |= {f"leg.{side}.goal/ty": from_keys({1: 0.0, 9: 0.0, 14: 0.35, 19: 0.0}) for side in "LR"}
        self.check(self.make(Fly(at=14), Clip().with_curves(lifted)).clips[1], near=0.002)

    def test_plants_after_it_go_along_with_time(self) -> None:
        planted = self.clip.with_tracks({"plant/leg.L.goal": (Plant(22, 28),)})
        done = self.make(Fly(at=14, frames=self.flight(planted).frames + 4), planted)
        [plant] = done.clips[1].tracks["plant/leg.L.goal"]
        self.assertEqual((plant.start, plant.last), (26, 32))

    def test_it_lands_where_it_shall_with_all_that_follows(self) -> None:
        going = self.clip.with_curves({"master/tz": from_keys({1: 0.0, 9: 0.1, 19: 0.6, 24: 0.8, 30: 1.4})})
        before = self.flight(going)
        ends = np.array([before.release, before.landing, *range(before.landing + 1, 31)], float)
        old = self.posed(going, ends)
        clip = self.make(Fly(at=14, far=1.1), going).clips[1]
        self.check(clip, near=0.002)
        new = self.posed(clip, ends)
        way = np.diff(centre_of_mass(self.rig, new.nodes[:2]), axis=0)[0]
        self.assertAlmostEqual(float(np.hypot(way[0], way[2])), 1.1, 6)
        by = (new.nodes - old.nodes)[:, self.rig.joint_nodes, :3]
        np.testing.assert_allclose(by[1:], np.broadcast_to(by[1, 0], by[1:].shape), atol=1e-9)
        np.testing.assert_allclose(new.nodes[0], old.nodes[0], atol=1e-9)
        # What went up and down where it stands goes the way it faces.
        hop = {"master/ty": from_keys({1: 0.0, 9: 0.0, 14: 0.3, 19: 0.0}), "master/ry": from_keys({1: np.pi / 2})}
        hopped = self.make(Fly(at=14, far=0.5), Clip().with_curves(hop)).clips[1]
        ends = np.array([9.0, 25.0])
        np.testing.assert_allclose(
            np.diff(centre_of_mass(self.rig, self.posed(hopped, ends).nodes), axis=0)[0], [0.5, 0.0, 0.0], atol=1e-6
        )

    def test_several_fall_in_one_step(self) -> None:
        up = {1: 0.0, 9: 0.0, 12: 0.2, 16: 0.2, 19: 0.0, 27: 0.0, 31: 0.1, 35: 0.0, 50: 0.0}
        two = Clip().with_curves({"master/ty": from_keys(up)})
        made_of = self.make(Fly(at=14, also=(31,)), two)
        posed = self.posed(made_of.clips[1], np.arange(1, 61))
        stands = balances(made_of.clips[1], posed, 1)
        found = flights(np.array([s.centre for s in stands]), airborne(stands), 1, FPS)
        self.assertEqual(len(found), 2)
        for flight in found:
            self.assertAlmostEqual(flight.gravity, 1.0, delta=0.01)
        self.assertEqual(" ".join(made_of.notes).count("a flight of"), 2)

    def test_flights_that_a_cycle_shows_again_follow(self) -> None:
        up = {1: 0.0, 9: 0.0, 12: 0.2, 16: 0.2, 19: 0.0}
        cycle = Clip().with_curves({"master/ty": from_keys(up)}).with_tracks({"cycle": (Cycle(1, 26, until=51),)})
        done = self.make(Fly(at=14, also=(39,)), cycle)
        self.assertIn("1 flight shown again by a cycle: as what is shown", done.notes[-1])
        posed = self.posed(done.clips[1], np.arange(1, 52))
        stands = balances(done.clips[1], posed, 1)
        found = flights(np.array([s.centre for s in stands]), airborne(stands), 1, FPS)
        self.assertEqual([(one.release, one.landing) for one in found], [(9, 19), (34, 44)])
        for flight in found:
            self.assertAlmostEqual(flight.gravity, 1.0, delta=0.01)
        with self.assertRaisesRegex(BadEdit, "shows frame"):
            self.make(Fly(at=39), cycle)

    def test_a_cycle_keeps_its_own_travel(self) -> None:
        turning = self.clip.with_tracks({"cycle": (Cycle(1, 30, until=59),)})
        with self.assertRaisesRegex(BadEdit, "set its travel instead"):
            self.make(Fly(at=14, far=1.0), turning)

    def test_the_frames_beside_go_as_fast_as_it_flies(self) -> None:
        """Within 5 % of what the parabola has at its ends, by the place of the body alone; feet on the ground stay."""
        clip = self.make(Fly(at=14)).clips[1]
        flight = self.flight(clip)
        for side in ("before", "after"):
            done = self.make(MeetFlight(at=14, side=side), clip)
            self.assertTrue({a for a in done.clips[1].curves if done.clips[1].curves[a] is not clip.curves.get(a)}
                            <= {"body/tx", "body/ty", "body/tz"})  # fmt: skip
            frames = np.arange(1.0, 31.0)
            old, new = (self.posed(c, frames).nodes for c in (clip, done.clips[1]))
            way = centre_of_mass(self.rig, new)
            start, end = fall(way[flight.release - 1], way[flight.landing - 1], flight.frames / FPS, GRAVITY)
            r, b = flight.release - 1, flight.landing - 1
            given, wished = ((way[r] - way[r - 1]), start) if side == "before" else ((way[b + 1] - way[b]), end)
            speed = float(np.linalg.norm(wished))
            self.assertLess(float(np.linalg.norm(given * FPS - wished)), 0.05 * speed, side)
            was = centre_of_mass(self.rig, old)
            first = (was[r] - was[r - 1]) if side == "before" else (was[b + 1] - was[b])
            self.assertGreater(float(np.linalg.norm(first * FPS - wished)), 0.2 * speed, "it was not so before")
            # Beyond the six frames, at the flight's ends and in it nothing moves; the feet stay.
            other = (frames <= flight.release - 6) | (frames >= flight.release) if side == "before" else (
                (frames <= flight.landing) | (frames >= flight.landing + 6)
            )  # fmt: skip
            np.testing.assert_allclose(new[other], old[other], atol=1e-9)
            feet = [self.rig.limb(f"leg.{s}").end for s in "LR"]
            np.testing.assert_allclose(new[:, feet, :3], old[:, feet, :3], atol=2e-4)
            with self.assertRaisesRegex(BadEdit, "already"):
                self.make(MeetFlight(at=14, side=side), done.clips[1])

    def test_a_pose_with_a_name_beside_it_stays(self) -> None:
        clip = self.make(Fly(at=14)).clips[1]
        release = self.flight(clip).release
        named = clip.with_labels({release - 3: Label("Crouch")})
        done = self.make(MeetFlight(at=14, side="before"), named).clips[1]
        frames = np.arange(1.0, release - 2.0)
        np.testing.assert_allclose(self.posed(done, frames).nodes, self.posed(clip, frames).nodes, atol=1e-9)
        with self.assertRaisesRegex(BadEdit, "a pose with a name stands too close"):
            self.make(MeetFlight(at=14, side="before"), clip.with_labels({release - 1: Label("Crouch")}))

    def test_what_cannot_be_is_refused(self) -> None:
        for edit, words in (
            (Fly(at=3), "something bears it at 3"), (Fly(at=14, frames=1), "2 to 2000 frames"),
            (Fly(at=14, frames=9, height=1.0), "not both"), (Fly(at=14, gravity=0.0), "gravity"),
            (Fly(at=14, height=-1.0), "height"), (Fly(at=14, far=-1.0), "metres"),
            (Fly(at=14, far=1.0, also=(14,)), "of one"),
            (MeetFlight(at=3, side="before"), "something bears it at 3"),
            (MeetFlight(at=14, side="after", frames=1), "frames"), (Fly(at=14, height=float("nan")), "height"),
        ):  # fmt: skip
            with self.subTest(words), self.assertRaisesRegex(BadEdit, words):
                self.make(edit)


class RunTest(unittest.TestCase):
    """The flights of a run go over from one half of its cycle to the other, where that is shown for the other side."""

    def test_all_flights_of_a_run_fall_in_one_step(self) -> None:
        rig = figure("wick")[0]
        for motion in (run, run_across):
            with self.subTest(motion.__name__):
                clip = motion(rig)
                before = self.flights(rig, clip)
                self.assertTrue(any(abs(one.gravity - 1.0) > 0.1 for one in before))
                first, *others = ((one.release + one.landing) // 2 for one in before)
                scene = Scene({1: Figure(rig, clip, "Wick")}, 1, 65, of=1, fps=24.0)
                after = made(Fly(at=first, also=tuple(others)), scene, 1).clips[1]
                self.assertEqual(after.tracks["cycle"], clip.tracks["cycle"])
                found = self.flights(rig, after)
                self.assertEqual(len(found), len(before))
                for one in found:
                    self.assertAlmostEqual(one.gravity, 1.0, delta=0.01)
        with self.assertRaisesRegex(BadEdit, "free the cycle first"):
            made(Fly(at=first, frames=5), scene, 1)

    def flights(self, rig: Rig, clip: Clip) -> list[Flight]:
        posed = played({1: Figure(rig, clip)}, np.arange(1, 65))[1]
        return Look(clip, posed, 1, 24.0).flights


if __name__ == "__main__":
    unittest.main()
