"""Ways as a person lays them: exact times, footfalls as plants, what is set by hand, layers over them, and keys."""

from __future__ import annotations

import unittest
from math import pi, radians

import numpy as np
import orjson

from hame.clip.clip import from_json
from hame.clip.going import plan_of
from hame.clip.plants import Plant
from hame.clip.played import played_spans
from hame.clip.quantities import QUANTITIES, TRAITS, quantity_address
from hame.clip.way import Way, ways_of
from hame.edits.footfalls import SetFootfall, TakeFootfall
from hame.edits.layers import AddLayer
from hame.edits.paces import KeyQuantity, WayTimes
from hame.edits.pose import KeyPose, SetPose
from hame.edits.waykeys import GiveWay, WayKeys
from hame.edits.wayside import (
    BendWay,
    ChangeWay,
    DropWay,
    JoinWays,
    LayWay,
    PointOnWay,
    StretchWay,
    WayManner,
    WayPoint,
    WidenWay,
)
from hame.errors import BadEdit, ShownAgain
from hame.evaluate.evaluate import evaluate
from hame.evaluate.going.kept import made_of
from hame.gait.footfalls import STAYS
from hame.maths.rotations import inverse, rotate
from hame.measure.manner import footfalls_in, manner_of
from hame.scene.joined import played
from tests.hame.examples import prop_rig
from tests.hame.faulty import alerts
from tests.hame.going import Walker, points


class TimesTest(unittest.TestCase):
    def test_typed_frames_are_kept_exactly(self) -> None:
        for given, step, on in (
            ({"on": 16, "both": 3}, 13, 16),
            ({"on": 6, "air": 9}, 15, 6),
            ({"on": 5, "air": 15, "together": True}, 20, 5),
        ):
            walker = Walker.along((0.0, 0.0), (0.0, 14.0)).make(WayTimes(frame=1, **given))  # type: ignore[arg-type]
            mine = [one for one in walker.plan.found if one.number > 0 and one.last < STAYS]
            landed = sorted({one.first for one in mine})
            self.assertEqual(set(np.diff(landed)), {step}, given)
            self.assertEqual({one.last - one.first for one in mine}, {on}, given)
            self.assertEqual(all(sum(o.first == f for o in mine) == 2 for f in landed), bool(given.get("together")))

    def test_what_nobody_could_do_is_refused_in_words(self) -> None:
        walker = Walker.along()
        for edit, words in (
            (WayTimes(frame=1, on=10, both=10), "longer than the 10 frames"),
            (WayTimes(frame=1, on=10, both=3, air=3), "while both feet are on the ground"),
            (WayTimes(frame=1, on=10, together=True), "has frames in the air"),
            (KeyQuantity(name="speed", frame=1, value=40.0), "past that"),
            (KeyQuantity(name="hat", frame=1, value=1.0), "nothing by which somebody goes"),
            (KeyQuantity(name="speed", frame=1, value=0.0), "pace is 0 all along"),
            (KeyQuantity(name="speed", frame=7), "has no key at 7"),
            (WayManner(at=1, manner={"swing": 9.0}), "past that"),
        ):
            with self.assertRaisesRegex(BadEdit, words):
                walker.make(edit)

    def test_a_first_key_says_that_it_counts_everywhere(self) -> None:
        walker = Walker.along().make(KeyQuantity(name="swing", frame=40, value=0.2))
        self.assertIn("key an earlier one as well", walker.notes[0])
        walker.make(KeyQuantity(name="swing", frame=1, value=0.2))
        self.assertEqual(walker.notes, ())

    def test_times_of_a_later_way_leave_the_ones_before_as_they_are(self) -> None:
        """Also where their pace changes on the way, and where one is between that and the first."""
        for far in (5.0, 5.91, 6.95, 8.25):
            walker = Walker.along((0.0, 0.0), (0.0, far))
            walker.make(KeyQuantity(name="speed", frame=1, value=1.3), KeyQuantity(name="speed", frame=110, value=0.8))
            for long in (2.0, 3.0):
                start = ways_of(walker.clip)[-1].end + 6
                walker.make(LayWay(start=start, points=points((0.0, far), (long, far))))
            ways = ways_of(walker.clip)
            before = [plan_of(walker.rig, walker.clip, way).found for way in ways]
            walker.make(WayTimes(frame=ways[-1].start, on=6, air=9, together=True))
            after = [plan_of(walker.rig, walker.clip, way).found for way in ways_of(walker.clip)]
            self.assertEqual({one.last - one.first for one in after[-1] if one.number > 0 and one.last < STAYS}, {6})
            for one, other in zip(before[:-1], after[:-1], strict=True):
                self.assertEqual([(f.side, f.first, f.last) for f in one], [(f.side, f.first, f.last) for f in other])
                np.testing.assert_allclose([f.place for f in one], [f.place for f in other], atol=0.002)

    def test_every_quantity_of_a_manner_tells(self) -> None:
        """Each of them moves somebody who goes, where it is keyed and where the manner has it."""
        walker = Walker.along()
        frames = np.arange(1, 120)
        plain = walker.nodes(frames)
        for name in TRAITS:
            bounds = QUANTITIES[name]
            other = 0.5 * (bounds.low + bounds.high) + 0.21 * (bounds.high - bounds.low)
            for edit in (KeyQuantity(name=name, frame=1, value=other), WayManner(at=1, manner={name: other})):
                moved = np.abs(Walker.along().make(edit).nodes(frames) - plain)[..., :7].max()
                self.assertGreater(moved, 0.005, f"{name} {edit.kind}")

    def test_uneven_steps_are_longer_on_one_side_and_are_read_so(self) -> None:
        walker = Walker.along((0.0, 0.0), (0.0, 12.0))
        before = {one.number: one for one in walker.plan.found}
        walker.make(WayManner(at=1, manner={"uneven": 0.3}))
        found = [one for one in walker.plan.found if 2 < one.number < 12]
        steps = {one.side: other for one, other in
                 zip(found[1:], np.diff([one.along for one in found]), strict=True)}  # fmt: skip
        whole = 0.5 * (steps["L"] + steps["R"])
        self.assertAlmostEqual((steps["L"] - steps["R"]) / whole, 0.3, delta=0.01)
        for one in found:  # when and which way is not touched
            same = before[one.number]
            self.assertEqual((one.first, one.last, one.heading), (same.first, same.last, same.heading))
        nodes = walker.nodes(np.arange(1, 200))
        read = manner_of(walker.rig, nodes, footfalls_in(walker.rig, nodes, 1, 24.0), 1, 24.0)
        self.assertAlmostEqual(float(np.mean(read.traits.uneven)), 0.3, delta=0.02)
        walker.make(StretchWay(at=1, factor=1.5))
        for one in found:
            self.assertAlmostEqual(walker.footfall(one.number).along, 1.5 * one.along, 6)

    def test_who_goes_low_has_knees_bent_and_feet_where_they_were(self) -> None:
        frames = np.arange(1, 160)
        plain, low = Walker.along(), Walker.along().make(WayManner(at=1, manner={"low": 0.15}))
        legs = [limb for limb in plain.rig.limbs if limb.kind == "leg"]
        high, down = plain.nodes(frames), low.nodes(frames)
        hips = [nodes[:, [limb.upper for limb in legs], 1].mean() for nodes in (high, down)]
        self.assertAlmostEqual(hips[0] - hips[1], 0.15 * sum(legs[0].lengths), delta=0.03)
        self.assertEqual(plain.plan.found, low.plan.found)

    def test_pace_keyed_down_makes_the_same_way_take_longer(self) -> None:
        walker = Walker.along()
        before = walker.way.end
        walker.make(*(KeyQuantity(name="speed", frame=f, value=v) for f, v in ((1, 1.4), (60, 1.4), (120, 0.6))))
        self.assertGreater(walker.way.end, before)
        landed = np.diff([one.first for one in walker.plan.found if one.number > 0])
        self.assertGreater(int(landed[-3]), int(landed[1]))


class WholeTest(unittest.TestCase):
    def test_bent_by_a_right_angle_footfalls_keep_their_spacing_and_turn_evenly(self) -> None:
        walker = Walker.along((0.0, 0.0), (0.0, 9.0)).make(
            WayTimes(frame=1, on=16, both=3), KeyQuantity(name="toe_out", frame=1, value=0.0)
        )
        before = walker.plan.found
        walker.make(BendWay(at=1, angle=pi / 2))
        after = walker.plan.found
        self.assertEqual([one.number for one in before], [one.number for one in after])
        np.testing.assert_allclose([o.along for o in after], [o.along for o in before], rtol=0.01, atol=1e-6)
        length = walker.plan.line.length
        turned = np.degrees([one.heading for one in after if one.number > 0])
        wished = [90.0 * one.along / length for one in after if one.number > 0]
        np.testing.assert_allclose(turned, wished, atol=0.1)

    def test_stretched_strides_are_longer_and_no_wider(self) -> None:
        walker = Walker.along()
        before = walker.plan.found
        walker.make(StretchWay(at=1, factor=1.5))
        for one, other in zip(before, walker.plan.found, strict=True):
            self.assertAlmostEqual(other.along, 1.5 * one.along, 6)
            self.assertAlmostEqual(abs(other.place[0]), abs(one.place[0]), 9)
            self.assertEqual((other.first, other.last), (one.first, one.last))
        walker.make(WidenWay(at=1, factor=2.0))
        self.assertAlmostEqual(abs(walker.footfall(4).place[0]), 2.0 * abs(before[5].place[0]), 9)

    def test_a_point_more_leaves_the_motion_as_it_was(self) -> None:
        walker = Walker.along((0.0, 0.0), (1.0, 3.0), (0.0, 6.0))
        before = walker.values()
        walker.make(PointOnWay(at=1, along=2.0))
        self.assertEqual(len(walker.way.points), 4)
        np.testing.assert_allclose(walker.values(), before, atol=1e-5)

    def test_joined_ways_are_gone_without_a_stand_between(self) -> None:
        walker = Walker.along((0.0, 0.0), (0.0, 3.0))
        walker.make(LayWay(start=walker.way.end + 1, points=points((0.0, 3.0), (2.0, 5.0))), JoinWays(at=1))
        self.assertEqual(len(ways_of(walker.clip)), 1)
        self.assertEqual(sum(one.last >= STAYS for one in walker.plan.found), 2)
        speed = np.diff(walker.values()[:, walker.rig.number("master/tz")])
        self.assertGreater(float(speed[40:100].min()), 0.005)

    def test_a_turn_on_the_spot_ends_turned_where_it_stood(self) -> None:
        walker = Walker()
        walker.make(LayWay(start=1, turn=pi / 2))
        heading = walker.values()[:, walker.rig.number("master/ry")]
        self.assertAlmostEqual(float(heading[-1]), pi / 2, 2)
        master = walker.values()[-1, [walker.rig.number("master/tx"), walker.rig.number("master/tz")]]
        self.assertLess(float(np.abs(master).max()), 0.03)

    def test_a_turn_on_the_spot_neither_sags_nor_is_called_falling(self) -> None:
        """The weight goes over to one foot as the other is about to be lifted; the ground presses all the time."""
        for angle, lead in ((pi / 2, 8), (-2.0, 8), (pi, 4)):
            walker = Walker().make(LayWay(start=1, turn=angle, lead=lead))
            gone = made_of(walker.rig, walker.plan).gone
            assert gone is not None
            self.assertGreater(float(gone.mass.force.min()), 0.75, angle)
            self.assertLess(float(np.ptp(gone.mass.places[:, 1])), 0.03, angle)
            posed = played(walker.scene.figures, np.arange(1.0, walker.way.end + 1))[1]
            self.assertEqual([one.says for one in alerts(walker.clip, posed, 1, 24.0)], [], angle)
            # Arms hang: they go against legs that stride.
            chest = posed.nodes[:, walker.rig.control("chest").node]
            hand = rotate(inverse(chest[:, 3:7]), posed.nodes[:, walker.rig.limb("arm.L").end, :3] - chest[:, :3])
            self.assertLess(float(np.ptp(hand, axis=0).max()), 0.18, angle)

    def test_another_way_begins_where_the_one_before_stands(self) -> None:
        walker = Walker.along((0.0, 0.0), (0.0, 3.0))
        end = walker.way.end
        walker.make(LayWay(start=end + 20, points=points((5.0, 5.0), (2.0, 5.0))))
        joints = walker.joints(np.arange(1, ways_of(walker.clip)[1].end + 1))
        self.assertLess(float(np.linalg.norm(np.diff(joints, axis=0), axis=2).max()), 0.35)
        # A new end of the first takes the second along.
        walker.make(ChangeWay(at=1, points=points((0.0, 0.0), (1.0, 2.5))))
        self.assertAlmostEqual(ways_of(walker.clip)[1].points[0].place[0], 1.0, 1)


class OverItTest(unittest.TestCase):
    def test_keys_below_are_kept_unseen_and_come_back(self) -> None:
        walker = Walker().make(KeyPose(frame=1), SetPose(frame=40, values={"head/ry": 0.5}, keying="changed"))
        seen = walker.joints(np.arange(1, 60))
        walker.make(LayWay(start=12, points=points((0.0, 0.0), (0.0, 3.0))))
        self.assertIn("lie below it", walker.notes[0])
        self.assertIn(40, walker.clip.key_frames())
        walker.make(DropWay(at=12))
        np.testing.assert_array_equal(walker.joints(np.arange(1, 60)), seen)

    def test_it_begins_out_of_the_pose_that_is_keyed(self) -> None:
        walker = Walker().make(SetPose(frame=1, values={"chest/ry": 0.4, "body/ty": -0.1, "arm.L.upper/rz": -0.5}))
        stood = walker.joints(np.array([11.0]))
        walker.make(LayWay(start=12, points=points((0.0, 0.0), (0.0, 3.0))))
        joints = walker.joints(np.arange(11, 40))
        self.assertLess(float(np.linalg.norm(joints[1] - stood[0], axis=1).max()), 0.03)
        self.assertLess(float(np.linalg.norm(np.diff(joints, axis=0), axis=2).max()), 0.2)

    def test_a_key_under_it_is_refused_and_laid_in_a_layer(self) -> None:
        walker = Walker.along().make(AddLayer(name="Looks aside"))
        with self.assertRaises(ShownAgain) as told:
            walker.make(SetPose(frame=50, values={"head/ry": 0.5}))
        self.assertEqual((told.exception.by, told.exception.begins), ("way", 1))
        walker.make(SetPose(frame=50, values={"head/ry": 0.5}, layer=1))
        self.assertAlmostEqual(float(walker.values()[49, walker.rig.number("head/ry")]), 0.5, 9)

    def test_keys_in_a_layer_keep_to_their_phase(self) -> None:
        walker = Walker.along((0.0, 0.0), (0.0, 12.0)).make(WayTimes(frame=1, on=16, both=3), AddLayer(name="Arm"))
        for number in (6, 8):
            frame = walker.footfall(number).first
            walker.make(SetPose(frame=frame, values={"arm.L.upper/rx": 0.6}, layer=1))
        keyed = [walker.footfall(n).first for n in (6, 8)]
        was = walker.clip.curves["#1/arm.L.upper/rx"]
        self.assertEqual(was.frames.astype(int).tolist(), keyed)
        walker.make(WayTimes(frame=1, on=20, both=4))
        now = walker.clip.curves["#1/arm.L.upper/rx"]
        self.assertEqual(now.frames.astype(int).tolist(), [walker.footfall(n).first for n in (6, 8)])
        np.testing.assert_array_equal(now.values, was.values)
        # Moved as a whole it keeps to what it adds, to the hair.
        walker.make(ChangeWay(at=1, points=points((0.0, 0.0), (0.5, 12.0))))
        np.testing.assert_array_equal(walker.clip.curves["#1/arm.L.upper/rx"].values, was.values)

    def test_into_keys_it_is_ordinary_motion_with_plants(self) -> None:
        walker = Walker.along((0.0, 0.0), (0.0, 2.5), (1.5, 4.0))
        frames = np.arange(1, walker.way.end + 1)
        before = evaluate(walker.rig, walker.values())[:, walker.rig.joint_nodes]
        plants = played_spans(walker.clip, walker.rig, Plant.kind, 1, 900)
        walker.make(WayKeys(at=1))
        self.assertEqual(ways_of(walker.clip), ())
        self.assertFalse(any(a.startswith("~") for a in walker.clip.curves))
        after = evaluate(walker.rig, walker.values(frames))[:, walker.rig.joint_nodes]
        self.assertLess(float(np.linalg.norm((after - before)[..., :3], axis=2).max()), 0.002)
        dots = np.abs((after[..., 3:7] * before[..., 3:7]).sum(axis=2)).clip(0.0, 1.0)
        self.assertLess(float(np.degrees(2.0 * np.arccos(dots).max())), 1.0)
        self.assertEqual(
            {track: len(spans) for track, spans in plants.items()},
            {track: len(spans) for track, spans in walker.clip.tracks.items() if track.startswith("plant/")},
        )
        keys = sum(len(curve) for curve in walker.clip.curves.values())
        self.assertLess(keys, 0.35 * len(frames) * len(walker.clip.curves))
        walker.make(SetPose(frame=40, values={"head/ry": 0.5}))

    def test_steps_that_are_keyed_are_given_a_way_and_stay_what_they_were(self) -> None:
        walker = Walker.along((0.0, 0.0), (0.0, 5.0)).make(KeyQuantity(name="swing", frame=1, value=0.5))
        first, last = 20, walker.way.end - 20
        walker.make(WayKeys(at=1))
        frames = np.arange(first, last + 1)
        before = walker.joints(frames)
        walker.make(GiveWay(first=first, last=last))
        np.testing.assert_allclose(walker.joints(frames), before, atol=0.0015)
        self.assertGreater(len(walker.way.hands), 6)
        self.assertAlmostEqual(dict(walker.way.manner)["swing"], 0.5, delta=0.06)
        walker.make(BendWay(at=first, angle=radians(40)))
        self.assertGreater(abs(float(walker.values(np.array([last]))[0, walker.rig.number("master/tx")])), 0.3)

    def test_hands_that_are_led_are_where_they_were_as_a_way_begins(self) -> None:
        """Their master is elsewhere there; what it carries stays where it was in the world."""
        walker = Walker()
        walker.make(
            SetPose(frame=1, values={"arm.L/ik": 1.0, "arm.L.goal/tx": 0.15, "arm.L.goal/ty": 0.1, "master/ry": 0.7}),
            SetPose(frame=1, values={"leg.L.goal/tz": 0.2, "leg.R.goal/tz": 0.2, "body/tz": 0.2}),
        )
        goal = walker.rig.control("arm.L.goal").node
        before = walker.nodes(np.array([1.0]))[0, goal]
        walker.make(LayWay(start=1, points=points((0.0, 0.0), (1.5, 3.0), (0.0, 5.0))))
        self.assertGreater(abs(float(walker.values(np.array([1.0]))[0, walker.rig.number("master/tz")])), 0.1)
        np.testing.assert_allclose(walker.nodes(np.array([1.0]))[0, goal], before, atol=1e-4)

    def test_nothing_that_stands_is_given_a_way(self) -> None:
        walker = Walker().make(KeyPose(frame=1), KeyPose(frame=80))
        with self.assertRaisesRegex(BadEdit, "no steps that could be given a way"):
            walker.make(GiveWay(first=1, last=80))


class StoredTest(unittest.TestCase):
    def test_it_is_read_as_it_was_stored(self) -> None:
        walker = Walker.along((0.0, 0.0), (1.0, 3.0), (0.0, 6.0))
        one = walker.footfall(3)
        walker.make(
            SetFootfall(at=1, number=3, side=one.side, heading=0.4), TakeFootfall(at=1, number=6),
            WayManner(at=1, manner={"swing": 0.7}),
        )  # fmt: skip
        again = from_json(orjson.loads(orjson.dumps(walker.clip.to_json())))
        self.assertEqual(ways_of(again), ways_of(walker.clip))
        with self.assertRaises(BadEdit):
            Way.read({"kind": "way", "start": 1, "end": 9, "points": [[1.0]]})
        with self.assertRaises(BadEdit):
            Way.read({**walker.way.to_json(), "fps": 0.0})

    def test_a_figure_without_two_legs_is_told_so(self) -> None:
        with self.assertRaisesRegex(BadEdit, "two legs"):
            Walker(prop_rig("oil_can")).make(LayWay(start=1, points=points((0.0, 0.0), (0.0, 3.0))))

    def test_retimed_it_takes_as_much_longer_and_lies_where_it_lay(self) -> None:
        walker = Walker.along()
        before, way = walker.plan.found, walker.way
        moved, _ = way.moved(lambda f: 1.0 + 2.0 * (f - 1.0), True)
        assert moved is not None
        self.assertEqual((moved.start, moved.fps), (1, 2.0 * way.fps))
        walker.scene = type(walker.scene)(
            {1: walker.scene.figures[1].with_clip(walker.clip.with_tracks({"way": (moved,)}))}, 1, 900
        )
        for one, other in zip(before, walker.plan.found, strict=True):
            self.assertAlmostEqual(other.first, 1 + 2 * (one.first - 1), delta=2)
            np.testing.assert_allclose(other.place, one.place, atol=0.03)

    def test_mirrored_it_goes_the_other_way_with_the_other_foot(self) -> None:
        walker = Walker.along((0.0, 0.0), (1.0, 3.0))
        other = walker.way.mirrored()
        self.assertEqual(other.points[1].place, (-1.0, 3.0))
        self.assertEqual(other.begins_with, "L")

    def test_quantities_have_curves_of_their_own(self) -> None:
        walker = Walker.along().make(KeyQuantity(name="lift", frame=1, value=0.2))
        self.assertIn(quantity_address("lift"), walker.clip.curves)
        self.assertGreater(walker.values()[:, walker.rig.number("leg.L.goal/ty")].max(), 0.1)
        self.assertTrue(all(q.low < q.high and q.label for q in QUANTITIES.values()))
        walker.make(DropWay(at=1))
        self.assertNotIn(quantity_address("lift"), walker.clip.curves)

    def test_odd_ways_are_refused_before_anything_is_stored(self) -> None:
        walker = Walker()
        for given, words in (
            (points((0.0, 0.0)), "two points or more"),
            (points((0.0, 0.0), (0.0, 0.0), (0.0, 1.0)), "lie in one place"),
            ((WayPoint(0.0, 0.0), WayPoint(900.0, 0.0)), "within 500 metres"),
        ):
            with self.assertRaisesRegex(BadEdit, words):
                walker.make(LayWay(start=1, points=given, here=False))
        self.assertEqual(walker.clip.tracks, {})
        walker.make(LayWay(start=5, points=points((0.0, 0.0), (0.0, 2.0))))
        with self.assertRaisesRegex(BadEdit, "begins at 5 already"):
            walker.make(LayWay(start=5, points=points((0.0, 0.0), (0.0, 2.0))))


if __name__ == "__main__":
    unittest.main()
