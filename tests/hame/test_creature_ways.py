"""Creatures that go along ways: a dog in its gaits, a crab sideways, by what plays of them."""

from __future__ import annotations

import unittest
from functools import lru_cache
from math import pi

import numpy as np

from hame.clip.plants import Plant
from hame.clip.played import played_spans
from hame.clip.way import ways_of
from hame.demo.shots import figure
from hame.edits.footfalls import SetFootfall, TakeFootfall
from hame.edits.wayside import ChangeWay, LayWay
from hame.errors import BadEdit
from hame.evaluate.evaluate import evaluate
from hame.gait.footfalls import STAYS
from hame.maths.rotations import Array
from hame.scene.joined import played
from tests.hame.faulty import alerts
from tests.hame.going import Walker, points


@lru_cache(maxsize=4)
def gone(who: str, gait: str, speed: float) -> tuple[Walker, Array]:
    """A creature that goes ahead (the crab: to its left), and its nodes on each frame."""
    rig, _ = figure(who)
    ahead = (6.0, 0.0) if who == "tide-crab" else (0.0, 6.0)
    walker = Walker(rig)
    walker.make(LayWay(start=1, points=points((0.0, 0.0), ahead), speed=speed, gait=gait))  # type: ignore[arg-type]
    return walker, evaluate(rig, walker.values())


def landings(walker: Walker, leg: str) -> list[int]:
    """The frames on which a leg lands amidst the way."""
    mine = [one.first for one in walker.plan.found if one.side == leg and one.number > 0 and one.last < STAYS]
    return mine[2:-2]


class CreatureWaysTest(unittest.TestCase):
    def test_legs_land_as_hildebrand_has_them(self) -> None:
        """How much of a stride after the hind foot of its side a fore foot lands (Hildebrand 1965, from memory): a
        quarter in a walk, a half in a trot, none in a pace; to a frame."""
        for gait, speed, share in (("walk", 0.75, 0.25), ("trot", 1.5, 0.5), ("pace", 1.0, 0.0)):
            walker, _ = gone("bosun", gait, speed)
            hind, fore = landings(walker, "leg.L"), landings(walker, "leg2.L")
            stride = float(np.mean(np.diff(hind)))
            after = [min((f - h for f in fore if f >= h - 1), key=abs) for h in hind[:-1]]
            for frames in after:
                self.assertAlmostEqual(frames / stride, share, delta=1.01 / stride, msg=gait)
            right = landings(walker, "leg.R")
            self.assertAlmostEqual(min(r - hind[0] for r in right if r > hind[0]) / stride, 0.5, delta=1.01 / stride)

    def test_feet_stay_where_they_stand_and_none_goes_under(self) -> None:
        for who, gait, speed in (("bosun", "walk", 0.75), ("bosun", "trot", 1.5), ("tide-crab", "", 0.4)):
            walker, nodes = gone(who, gait, speed)
            rig = walker.rig
            spans = played_spans(walker.clip, rig, Plant.kind, 1, 900)
            for limb in (limb for limb in rig.limbs if limb.kind == "leg"):
                places = nodes[:, rig.control(limb.ik).node, :3]
                for plant in spans[f"plant/{limb.ik}"]:
                    held = places[plant.start - 1 : min(plant.end, len(places))]
                    self.assertLess(float(np.ptp(held, axis=0).max()), 1e-9, (who, limb.name))
                low = places[:, 1] - places[0, 1]
                self.assertGreater(float(low.min()), -0.006, (who, gait, limb.name))
                self.assertGreater(float(low.max()), 0.015)

    def test_its_body_goes_evenly_along_the_way(self) -> None:
        for who, gait, speed in (("bosun", "walk", 0.75), ("tide-crab", "", 0.4)):
            walker, nodes = gone(who, gait, speed)
            body = nodes[:, walker.rig.control("body").node, :3]
            steps = np.linalg.norm(np.diff(body[60:-80], axis=0)[:, [0, 2]], axis=1) * 24.0
            self.assertAlmostEqual(float(steps.mean()), speed, delta=0.08 * speed)
            self.assertLess(float(steps.std()), 0.12 * speed)
            self.assertLess(float(np.ptp(body[60:-80, 1])), 0.05)

    def test_it_goes_off_and_comes_to_a_stand_without_sinking_and_no_leg_snaps(self) -> None:
        """In the gaits of Hildebrand and Wilson, each at speeds it is gone at."""
        for who, gait, speed in (
            ("bosun", "walk", 0.6), ("bosun", "walk", 0.9), ("bosun", "trot", 1.35), ("bosun", "trot", 2.2),
            ("bosun", "pace", 1.4), ("bosun", "canter", 2.2), ("bosun", "gallop", 3.0), ("tide-crab", "", 0.42),
            ("tide-crab", "tripod", 0.7),
        ):  # fmt: skip
            walker, nodes = gone(who, gait, speed)
            posed = played(walker.scene.figures, np.arange(1.0, walker.way.end + 1))[1]
            self.assertEqual([one.says for one in alerts(walker.clip, posed, 1, 24.0)], [], (who, gait, speed))
            high = nodes[:, walker.rig.control("body").node, 1]
            # No lower as it gets going or comes to a stand than amidst the way, by a tenth of how high it stands.
            amidst = high[len(high) // 3 : -len(high) // 3]
            self.assertGreater(float(high.min()), float(amidst.min()) - 0.1 * high[0], (who, gait, speed))
            self.assertLess(float(high.max()), 1.17 * float(high[-1]), (who, gait, speed))

    def test_aims_of_knees_stay_before_legs_that_are_thrown_far_back(self) -> None:
        for gait, speed in (("gallop", 2.5), ("gallop", 4.0)):
            walker, _ = gone("bosun", gait, speed)
            posed = played(walker.scene.figures, np.arange(1.0, walker.way.end + 1))[1]
            found = [one.says for one in alerts(walker.clip, posed, 1, 24.0) if one.kind in ("pole", "snap", "reach")]
            self.assertEqual(found, [], (gait, speed))

    def test_the_crab_goes_sideways_as_it_stands(self) -> None:
        walker, nodes = gone("tide-crab", "", 0.4)
        heading = walker.values()[:, walker.rig.number("master/ry")]
        self.assertLess(float(np.abs(heading).max()), 0.02)
        self.assertGreater(float(nodes[-1, walker.rig.control("body").node, 0]), 5.5)
        # Its six legs go in two tripods, all but: never fewer than three stand (Wilson 1966, from memory).
        stood = np.zeros(walker.way.end + 1, int)
        for one in walker.plan.found:
            stood[one.first : min(one.last, walker.way.end) + 1] += 1
        self.assertGreaterEqual(int(stood[1:].min()), 3)

    def test_a_gait_is_changed_and_a_foot_moved_by_hand(self) -> None:
        walker, _ = gone("bosun", "walk", 0.75)
        other = Walker(walker.rig, walker.clip)
        other.make(ChangeWay(at=1, gait="pace"))
        self.assertEqual(ways_of(other.clip)[0].gait, "pace")
        one = next(o for o in other.plan.found if o.side == "leg2.R" and o.number == 4)
        other.make(SetFootfall(at=1, number=4, side="leg2.R", x=one.place[0] - 0.05))
        moved = next(o for o in other.plan.found if o.side == "leg2.R" and o.number == 4)
        self.assertAlmostEqual(moved.place[0], one.place[0] - 0.05, 9)
        # One that lands sooner is let go sooner from where it stood; and stands in one place alone.
        before = next(o for o in other.plan.found if o.side == "leg2.R" and o.number == 3)
        other.make(SetFootfall(at=1, number=4, side="leg2.R", first=before.last))
        earlier = next(o for o in other.plan.found if o.side == "leg2.R" and o.number == 3)
        self.assertEqual(earlier.last, before.last - 2)
        with self.assertRaisesRegex(BadEdit, "a foot would stand in two places at once"):
            other.make(SetFootfall(at=1, number=3, side="leg2.R", last=before.last + 3))
        with self.assertRaisesRegex(BadEdit, "of a creature"):
            other.make(TakeFootfall(at=1, number=4))
        with self.assertRaisesRegex(BadEdit, "turns along a way"):
            Walker(walker.rig).make(LayWay(start=1, turn=pi / 2))


if __name__ == "__main__":
    unittest.main()
