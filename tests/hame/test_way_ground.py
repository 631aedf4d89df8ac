"""Ways over what stands there: ramps, stairs and domes, each foot whole on one surface."""

from __future__ import annotations

import unittest

import numpy as np
import trimesh

from hame.edits.footfalls import SetFootfall
from hame.edits.paces import WayTimes
from hame.edits.wayside import GroundAnew, LayWay
from hame.evaluate.evaluate import evaluate
from hame.gait.footfalls import STAYS
from hame.maths.rotations import Array
from hame.measure.soles import sole_points
from hame.scene.joined import played
from hame.scene.scene import Figure, Scene
from tests.hame.examples import prop_rig
from tests.hame.faulty import alerts
from tests.hame.going import Walker, points
from tests.hame.test_ground import skin_of, stair

THING = 7


def over(shape: trimesh.Trimesh) -> Walker:
    """A walker in whose shot a thing of such a shape stands."""
    walker = Walker()
    figures = {**walker.scene.figures, THING: Figure(prop_rig("crate"))}
    skins = {THING: skin_of(np.asarray(shape.vertices, float), np.asarray(shape.faces))}
    walker.scene = Scene(figures, 1, 900, skins=skins)
    return walker


def lies(walker: Walker, side: str) -> Array:
    """Where the points of a sole are on each frame (F, 4, 3), by as much higher as they lie too low at rest."""
    limb = next(one for one in walker.rig.limbs if one.kind == "leg" and walker.rig.control(one.ik).side == side)
    rest = sole_points(walker.rig, limb, evaluate(walker.rig, walker.rig.rest[None]))[0, :2, 1].mean()
    soles = sole_points(walker.rig, limb, evaluate(walker.rig, walker.values()))
    return np.asarray(soles - np.array([0.0, rest, 0.0]))


def ramp(slope: float) -> trimesh.Trimesh:
    """A wedge up along z from 1 to 5 metres, two wide."""
    rise = 4.0 * slope
    corners = [(x, y, z) for x in (-1.0, 1.0) for y, z in ((0.0, 1.0), (0.0, 5.0), (rise, 5.0))]
    return trimesh.convex.convex_hull(np.array(corners))


class WayGroundTest(unittest.TestCase):
    def test_on_a_ramp_soles_lie_on_it_and_as_steep(self) -> None:
        """Within a millimetre and a degree: of the plane that the wedge is made of."""
        slope = np.tan(np.radians(12.0))
        walker = over(ramp(slope)).make(LayWay(start=1, points=points((0.0, 0.0), (0.0, 4.2))))
        normal = np.array([0.0, 1.0, -slope]) / np.hypot(1.0, slope)
        looked = 0
        for side in ("L", "R"):
            soles = lies(walker, side)
            for one in walker.plan.found:
                flat = one.first + 3
                if one.side != side or one.number < 1 or one.place[1] < 1.4 or flat >= walker.way.end:
                    continue
                heights = soles[flat - 1, :2, 1] - slope * (soles[flat - 1, :2, 2] - 1.0)
                self.assertLess(float(np.abs(heights).max()), 0.001, one.number)
                way = soles[flat - 1, 1] - soles[flat - 1, 0]
                self.assertLess(abs(float(np.degrees(np.arcsin(way @ normal / np.linalg.norm(way))))), 1.0)
                looked += 1
        self.assertGreater(looked, 3)

    def test_up_a_stair_in_one_piece_each_foot_is_whole_on_a_step(self) -> None:
        rise, tread = 0.17, 0.30
        shape = stair(7, rise, tread, 2.0)
        shape.apply_translation((0.0, 0.0, 0.8))
        walker = over(shape).make(
            LayWay(start=1, points=points((0.0, 0.0), (0.0, 2.75)), speed=0.55), WayTimes(frame=1, on=20, both=4)
        )
        highest = 0.0
        for side in ("L", "R"):
            soles = lies(walker, side)
            for one in walker.plan.found:
                if one.side != side or one.number < 1:
                    continue
                flat = min(one.first + 3, walker.way.end) - 1
                heel, ball = soles[flat, 0], soles[flat, 1]
                under = [rise * np.clip(np.floor((p[2] - 0.8) / tread) + 1.0, 0.0, 7.0) for p in (heel, ball)]
                self.assertAlmostEqual(float(heel[1]), float(under[0]), delta=0.002, msg=str(one.number))
                self.assertAlmostEqual(float(ball[1]), float(under[1]), delta=0.002, msg=str(one.number))
                highest = max(highest, float(heel[1]))
                if one.last < STAYS and rise < heel[1] < 6.5 * rise:  # nothing goes through an edge on the way up
                    swing = slice(one.last, min(one.last + 12, len(soles)))
                    edges = rise * np.clip(np.floor((soles[swing, :3, 2] - 0.8) / tread) + 1.0, 0.0, 7.0)
                    self.assertGreater(float((soles[swing, :3, 1] - edges).min()), -0.002)
        self.assertAlmostEqual(highest, 7.0 * rise, delta=0.003)
        # The leg that is left below is bent already as it has to come up: no knee gives way from being straight.
        posed = played(walker.scene.figures, np.arange(1.0, walker.way.end + 1))[1]
        told = [one.says for one in alerts(walker.clip, posed, 1, 24.0) if one.kind in ("snap", "reach")]
        self.assertEqual(told, [])

    def test_over_a_dome_feet_follow_it(self) -> None:
        """Within a millimetre of the ball that it is a part of, but for its facets."""
        ball = trimesh.creation.icosphere(subdivisions=6, radius=6.0)
        ball.apply_translation((0.0, -5.4, 3.0))
        walker = over(ball).make(LayWay(start=1, points=points((0.0, 0.0), (0.0, 4.5))))
        found = {(one.number, one.leg): one for one in walker.way.lies}
        self.assertGreater(len(found), 4)
        for one in walker.plan.found:
            told = found.get((one.number, one.side))
            if told is None:
                continue
            x, z = one.place[0], one.place[1] - 3.0
            self.assertAlmostEqual(told.height, max(np.sqrt(36.0 - x * x - z * z) - 5.4, 0.0), delta=0.001)

    def test_where_a_thing_has_moved_its_feet_find_it_again_when_asked(self) -> None:
        walker = over(ramp(0.2)).make(LayWay(start=1, points=points((0.0, 0.0), (0.0, 4.0))))
        self.assertTrue(walker.way.lies)
        figures = dict(walker.scene.figures)
        del figures[THING]
        walker.scene = Scene(figures, 1, 900)
        walker.make(GroundAnew())
        self.assertEqual(walker.way.lies, ())

    def test_a_sole_moved_on_a_slope_changes_nothing_elsewhere(self) -> None:
        """Though it lies higher there, and with it the ground that the body goes over."""
        walker = over(ramp(0.2)).make(LayWay(start=1, points=points((0.0, 0.0), (0.0, 14.0))))
        one, before = walker.footfall(4), walker.values()
        walker.make(SetFootfall(at=1, number=4, side=one.side, x=one.place[0] + 0.05, z=one.place[1] + 0.1))
        (lies,) = [lies for lies in walker.way.lies if lies.number == 4]
        self.assertAlmostEqual(lies.height, 0.2 * (walker.footfall(4).place[1] - 1.0), 6)
        differs = np.flatnonzero(np.abs(walker.values() - before).max(axis=1)) + 1
        self.assertGreater(int(differs[0]), 1)
        self.assertLess(int(differs[-1]), one.last + 60)
        self.assertLess(one.last + 100, walker.way.end)

    def test_a_sole_taken_off_a_step_leaves_others_on_theirs(self) -> None:
        """Also those before it, which moved a little for the edges of steps, as it would have."""
        shape = stair(7, 0.17, 0.30, 2.0)
        shape.apply_translation((0.0, 0.0, 0.8))
        walker = over(shape).make(LayWay(start=1, points=points((0.0, 0.0), (0.0, 12.0)), speed=0.6))
        one, before = walker.footfall(5), walker.values()
        walker.make(SetFootfall(at=1, number=5, side=one.side, x=one.place[0] + 0.04))
        differs = np.flatnonzero(np.abs(walker.values() - before).max(axis=1)) + 1
        self.assertLess(int(differs[-1]), one.last + 80)
        self.assertLess(one.last + 100, walker.way.end)

    def test_a_table_is_gone_under_and_not_stepped_on(self) -> None:
        box = trimesh.creation.box((1.0, 0.05, 1.0))
        box.apply_translation((0.0, 0.75, 2.0))
        walker = over(box).make(LayWay(start=1, points=points((0.0, 0.0), (0.0, 4.0))))
        self.assertEqual(walker.way.lies, ())

    def test_down_slopes_and_up_them_no_knee_snaps(self) -> None:
        for slope in (0.1, 0.172, 0.25, 0.35):
            for way, level in ((((0.0, 4.5), (0.0, -2.0)), 4.0 * slope), (((0.0, -1.0), (0.0, 4.6)), 0.0)):
                for speed in (0.0, 1.0):  # as is usual, and slower
                    lay = LayWay(start=1, points=points(*way), here=False, level=level, speed=speed)
                    walker = over(ramp(slope)).make(lay)
                    posed = played(walker.scene.figures, np.arange(1.0, walker.way.end + 1))[1]
                    found = [one for one in alerts(walker.clip, posed, 1, 24.0) if one.kind in ("snap", "reach")]
                    self.assertEqual([one.says for one in found], [], (slope, way, speed))

    def test_feet_lie_over_gaps_between_planks_and_fall_through_none(self) -> None:
        gap, high, wide = 0.012, 0.1, 0.3
        lengthwise = [((wide, high, 5.0), (n * (wide + gap), 0.5 * high, 3.0)) for n in (-1, 0, 1)]
        crosswise = [((1.0, high, 0.1), (0.0, 0.5 * high, 0.5 + n * (0.1 + gap))) for n in range(45)]
        for planks in (lengthwise, crosswise):
            boxes = []
            for size, at in planks:
                boxes.append(trimesh.creation.box(size))
                boxes[-1].apply_translation(at)
            # Beside it by half how far its feet are apart: one foot goes along a gap all the way.
            for x in (0.0, 0.156 - 0.06, 0.156 - 0.06 - 0.01):
                walker = over(trimesh.util.concatenate(boxes))
                walker.make(LayWay(start=1, points=points((x, 0.0), (x, 5.0)), here=False))
                told = {(one.number, one.leg): one for one in walker.way.lies}
                on = [one for one in walker.plan.found if 0.8 < one.place[1] < 4.6]
                self.assertGreater(len(on), 5)
                for one in on:
                    lie = told[one.number, one.side]
                    self.assertAlmostEqual(lie.height, high, 6, (x, one.number))
                    self.assertLess(abs(lie.ahead), 0.03, (x, one.number))

    def test_put_on_a_slope_it_stands_there_from_the_first_frame(self) -> None:
        slope = 0.2
        walker = over(ramp(slope)).make(LayWay(start=10, points=points((0.0, 3.0), (0.0, 4.5)), here=False, level=0.4))
        for side in ("L", "R"):
            for soles in lies(walker, side)[[0, 9]]:
                self.assertLess(float(np.abs(soles[:2, 1] - slope * (soles[:2, 2] - 1.0)).max()), 0.002)


if __name__ == "__main__":
    unittest.main()
