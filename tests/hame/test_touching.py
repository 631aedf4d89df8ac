"""Moved until it touches: measured on the surfaces as they stand afterwards."""

from __future__ import annotations

import unittest
from math import cos, degrees, radians, sin
from unittest import mock

import numpy as np

from hame.clip.clip import Clip
from hame.edits.byhand import ByHand
from hame.edits.edit import Edit
from hame.edits.limbs import SwitchLimb
from hame.edits.making import made
from hame.edits.touching import BendKnee, Touch, bends
from hame.errors import BadEdit
from hame.evaluate.evaluate import evaluate
from hame.evaluate.posed import Posed
from hame.measure.soles import sole_points
from hame.measure.touching import Surface, surface_of, way_until
from hame.scene.scene import Figure, Scene
from hame.scene.seen import pose_values
from tests.hame.examples import brannoc, brannoc_rig, prop, prop_rig

DOWN = np.array([0.0, -1.0, 0.0])


def ball(radius: float, middle: tuple[float, float, float], fine: int = 96) -> Surface:
    """A sphere of flat triangles with a corner at its lowest point, seen from outside against the clock."""
    around = np.linspace(0, 2 * np.pi, 2 * fine + 1)[:-1]
    rings = [
        np.stack([sin(a) * np.cos(around), np.full(2 * fine, -cos(a)), sin(a) * np.sin(around)], axis=1)
        for a in np.linspace(0, np.pi, fine + 1)
    ]
    points = np.concatenate(rings) * radius + middle
    at = lambda ring, n: ring * 2 * fine + n % (2 * fine)  # noqa: E731
    faces = [(at(r, n), at(r + 1, n), at(r + 1, n + 1)) for r in range(fine) for n in range(2 * fine)]
    faces += [(at(r, n), at(r + 1, n + 1), at(r, n + 1)) for r in range(fine) for n in range(2 * fine)]
    return Surface(points, np.array(faces))


def board(normal: np.ndarray, high: float, wide: float = 3.0) -> Surface:
    """A square facing along a unit vector, through a point ``high`` above the middle of the ground."""
    aside = np.cross(normal, (0.0, 0.0, 1.0)) / np.linalg.norm(np.cross(normal, (0.0, 0.0, 1.0)))
    other = np.cross(normal, aside)
    middle = np.array([0.0, high, 0.0])
    corners = [middle + wide * (a * aside + b * other) for a, b in ((-1, -1), (1, -1), (1, 1), (-1, 1))]
    return Surface(np.array(corners), np.array([(0, 1, 2), (0, 2, 3)]))


class WayTest(unittest.TestCase):
    """Against closed forms of analytic geometry: a sphere and a plane."""

    def test_a_sphere_comes_down_on_a_board(self) -> None:
        found = way_until(ball(0.2, (0.1, 1.0, 0.05)), board(np.array([0.0, 1.0, 0.0]), 0.3), DOWN)
        self.assertAlmostEqual(found or 0.0, 1.0 - 0.2 - 0.3, 12)

    def test_a_sphere_comes_down_on_a_slope(self) -> None:
        for angle in (10.0, 35.0, 60.0):
            tilt = radians(angle)
            normal = np.array([sin(tilt), cos(tilt), 0.0])
            found = way_until(ball(0.2, (0.0, 1.0, 0.0), 160), board(normal, 0.0), DOWN)
            # Until the middle is a radius away from the plane; what is between the corners makes it a little more.
            exact = (cos(tilt) - 0.2) / cos(tilt)
            self.assertAlmostEqual(found or 0.0, exact, delta=2e-4 / cos(tilt))
            self.assertGreaterEqual(found or 0.0, exact - 1e-9)

    def test_the_corner_of_the_other_meets_a_face(self) -> None:
        point = Surface(np.array([[0.0, -0.7, 0.0]]), np.zeros((0, 3), int))
        flat = board(np.array([0.0, -1.0, 0.0]), 0.5)  # it looks down, towards where it goes
        self.assertAlmostEqual(way_until(flat, point, DOWN) or 0.0, 1.2, 12)

    def test_what_is_sunk_in_comes_out_again_and_what_lies_behind_is_not_met(self) -> None:
        low = ball(0.2, (0.0, 0.17, 0.0))
        self.assertAlmostEqual(way_until(low, ball(5.0, (0.0, -5.0, 0.0), 40), DOWN) or 0.0, -0.03, 4)
        self.assertIsNone(way_until(low, board(np.array([0.0, 1.0, 0.0]), 0.9), DOWN))
        self.assertIsNone(way_until(low, ball(0.1, (2.0, -1.0, 0.0)), DOWN))


class TouchTest(unittest.TestCase):
    def setUp(self) -> None:
        self.rig = brannoc_rig()
        self.clip = self.by_hand(Clip(), "body", (0.0, -0.05, 0.0))

    def scene(self, clip: Clip, **others: Clip) -> Scene:
        """Brannoc with a step and an oil can beside him."""
        figures = {1: Figure(self.rig, clip, "Brannoc")}
        skins = {1: brannoc().skin}
        for number, name in ((2, "step"), (3, "oil_can")):
            if name in others:
                figures[number], skins[number] = Figure(prop_rig(name), others[name], name), prop(name).skin
        return Scene(figures, 1, 48, skins=skins)

    def by_hand(self, clip: Clip, control: str, by: tuple[float, float, float], of: str = "") -> Clip:
        edit = ByHand(frame=5, controls=(control,), way="move", by=by, axes="world", keying="changed")
        rig = prop_rig(of) if of else self.rig
        return made(edit, Scene({1: Figure(rig, clip)}, 1, 48), 1).clips[1]

    def done(self, edit: Edit, scene: Scene, of: int = 1) -> Scene:
        clip = made(edit, scene, of).clips[of]
        figures = {**scene.figures, of: scene.figure(of).with_clip(clip)}
        return Scene(figures, 1, 48, skins=scene.skins)

    def surface(self, scene: Scene, of: int) -> Surface:
        return surface_of(scene.skins[of], self.posed(scene, of))

    def posed(self, scene: Scene, of: int) -> Posed:
        figure = scene.figure(of)
        values = pose_values(figure.rig, figure.clip, 5, scene)
        return Posed(figure.rig, values[None], evaluate(figure.rig, values[None]))

    def test_a_foot_comes_down_to_the_ground_by_its_sole_or_by_its_heel(self) -> None:
        lifted = self.by_hand(self.clip, "leg.L.goal", (0.05, 0.12, 0.2))
        leg = next(limb for limb in self.rig.limbs if limb.name == "leg.L")
        scene = self.done(Touch(frame=5, control="leg.L.goal"), self.scene(lifted))
        foot = self.surface(scene, 1).points
        self.assertAlmostEqual(float(foot[foot[:, 0] > 0.02][:, 1].min()), 0.0, delta=1e-4)
        turned = ByHand(
            frame=5, controls=("leg.L.goal",), way="turn", by=(1.0, 0.0, 0.0), angle=0.4, axes="world", keying="changed"
        )
        tipped = made(turned, self.scene(lifted), 1).clips[1]  # on its toes
        for n, by in ((0, "heel"), (2, "tip")):
            scene = self.done(Touch(frame=5, control="leg.L.goal", by=by, met="ground"), self.scene(tipped))  # type: ignore[arg-type]
            places = sole_points(self.rig, leg, self.posed(scene, 1).nodes)[0]
            self.assertAlmostEqual(float(places[n, 1]), 0.0, delta=1e-4)

    def test_a_sunk_foot_is_brought_up(self) -> None:
        sunk = self.by_hand(self.clip, "leg.L.goal", (0.0, -0.03, 0.0))
        scene = self.done(Touch(frame=5, control="leg.L.goal"), self.scene(sunk))
        foot = self.surface(scene, 1).points
        self.assertAlmostEqual(float(foot[foot[:, 0] > 0.02][:, 1].min()), 0.0, delta=1e-4)

    def test_a_thing_is_set_down_on_another_one(self) -> None:
        step = self.by_hand(Clip(), "master", (0.0, 0.0, 1.5), "step")
        can = self.by_hand(Clip(), "master", (0.0, 1.3, 1.5), "oil_can")
        scene = self.done(Touch(frame=5, control="master"), self.scene(Clip(), step=step, oil_can=can), 3)
        top, bottom = self.surface(scene, 2).points, self.surface(scene, 3).points
        self.assertAlmostEqual(float(bottom[:, 1].min()), float(top[:, 1].max()), delta=1e-4)
        self.assertGreater(float(bottom[:, 1].min()), 0.1)

    def test_a_hand_comes_to_the_own_body_and_not_into_it(self) -> None:
        # The left hand beside the thigh, brought in towards it.
        low = self.done(SwitchLimb(frame=5, limb="arm.L", to="ik"), self.scene(self.clip))
        hand = self.rig.control("arm.L.goal")
        at = evaluate(self.rig, pose_values(self.rig, low.figure(1).clip, 5, low)[None])[0, hand.node, :3]
        clip = self.by_hand(low.figure(1).clip, "arm.L.goal", tuple(np.array([0.34, 0.95, 0.05]) - at))
        touched = self.done(Touch(frame=5, control="arm.L.goal", x=-1.0, y=0.0, met="body"), self.scene(clip))
        way = self.value(touched, "arm.L.goal") - self.value(self.scene(clip), "arm.L.goal")
        self.assertLess(way[0], -0.01)
        self.assertLess(float(np.abs(way[1:]).max()), 1e-9)
        # Once more changes nothing: it touches.
        with self.subTest("again"):
            again = made(Touch(frame=5, control="arm.L.goal", x=-1.0, y=0.0, met="body"), touched, 1)
            self.assertIn("touches already", again.notes[0])

    def value(self, scene: Scene, control: str) -> np.ndarray:
        return np.asarray(self.posed(scene, 1).nodes[0, self.rig.control(control).node, :3])

    def test_what_cannot_be_reached_is_said_and_changes_nothing(self) -> None:
        step = self.by_hand(Clip(), "master", (0.0, 0.0, 1.5), "step")
        for edit, words in (
            (Touch(frame=5, control="leg.L.goal", z=1.0, y=0.05, met="things"), "cannot reach it"),
            (Touch(frame=5, control="leg.L.goal", x=1.0, y=0.0), "nothing lies that way"),
            (Touch(frame=5, control="leg.L.goal", y=0.0), "no direction"),
            (Touch(frame=5, control="head", by="heel"), "no place of its own"),
        ):
            with self.subTest(words), self.assertRaisesRegex(BadEdit, words):
                made(edit, self.scene(self.clip, step=step), 1)

    def test_surfaces_that_are_too_fine_are_refused_and_the_ground_alone_is_not(self) -> None:
        scene = self.scene(self.by_hand(self.clip, "leg.L.goal", (0.0, 0.1, 0.0)))
        with mock.patch("hame.edits.touching.MOST_FACES", 2000):
            with self.assertRaisesRegex(BadEdit, "at most 2,000 are looked at"):
                made(Touch(frame=5, control="leg.L.goal"), scene, 1)
            self.done(Touch(frame=5, control="leg.L.goal", met="ground"), scene)

    def test_the_body_is_lowered_until_a_knee_is_bent_so_far(self) -> None:
        for angle in (20.0, 45.0, 90.0):
            scene = self.done(BendKnee(frame=5, angle=radians(angle), limb="leg.R"), self.scene(self.clip))
            found = bends(
                self.rig, next(limb for limb in self.rig.limbs if limb.name == "leg.R"), self.posed(scene, 1).values
            )
            self.assertAlmostEqual(degrees(found[0]), angle, delta=0.1)
            # The feet stay where they are.
            foot = self.value(scene, "leg.R.goal") - self.value(self.scene(self.clip), "leg.R.goal")
            self.assertLess(float(np.abs(foot).max()), 1e-9)

    def test_a_knee_is_measured_by_the_law_of_cosines(self) -> None:
        scene = self.done(BendKnee(frame=5, angle=radians(60.0), limb="leg.R"), self.scene(self.clip))
        joints = self.posed(scene, 1).nodes[0, self.rig.joint_nodes, :3]
        hip, knee, ankle = (
            joints[self.rig.skeleton.index(self.rig.plan.roles[f"leg.R.{part}"])] for part in ("upper", "lower", "foot")
        )
        a, b, c = (float(np.linalg.norm(p - q)) for p, q in ((hip, knee), (knee, ankle), (hip, ankle)))
        self.assertAlmostEqual(180.0 - degrees(np.arccos((a * a + b * b - c * c) / (2 * a * b))), 60.0, delta=0.1)

    def test_a_knee_that_cannot_be_bent_so_is_said(self) -> None:
        with self.assertRaisesRegex(BadEdit, "up and down it goes from"):
            made(BendKnee(frame=5, angle=0.0), self.scene(self.clip), 1)
        with self.assertRaisesRegex(BadEdit, "posed by IK"):
            made(BendKnee(frame=5, angle=1.0), Scene({1: Figure(prop_rig("step"))}, 1, 48), 1)
