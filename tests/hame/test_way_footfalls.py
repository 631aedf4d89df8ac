"""Footfalls of ways: plants that do not slip, moved, taken out, put in; and what is planned for that."""

from __future__ import annotations

import unittest
from unittest.mock import patch

import numpy as np

from hame.clip.going import _planned, plan_of
from hame.clip.plants import Plant
from hame.clip.played import played_spans
from hame.clip.way import ways_of
from hame.edits.footfalls import PutFootfall, SetFootfall, TakeFootfall
from hame.edits.paces import KeyQuantity, WayTimes
from hame.edits.wayside import LayWay
from hame.errors import BadEdit
from hame.evaluate.evaluate import evaluate
from hame.gait.footfalls import STAYS
from tests.hame.going import Walker, points


class ManyTest(unittest.TestCase):
    def test_what_is_done_to_one_of_many_ways_has_only_that_one_planned(self) -> None:
        walker = Walker()
        for n in range(8):
            start = ways_of(walker.clip)[-1].end + 10 if n else 1
            walker.make(LayWay(start=start, points=points((0.0, 1.5 * n), (0.0, 1.5 * (n + 1)))))
        last = ways_of(walker.clip)[-1]
        one = next(one for one in plan_of(walker.rig, walker.clip, last).found if one.number == 2)
        with patch("hame.clip.going._planned", wraps=_planned) as planned:
            walker.make(SetFootfall(at=last.start, number=2, side=one.side, x=0.1, z=one.place[1]))
        self.assertTrue(planned.called)
        self.assertEqual({call.args[1].start for call in planned.call_args_list}, {last.start})


class FootfallTest(unittest.TestCase):
    def test_footfalls_are_plants_and_do_not_slip(self) -> None:
        walker = Walker.along((0.0, 0.0), (0.0, 3.0), (2.0, 5.0))
        frames = np.arange(1.0, walker.way.end + 1, 0.25)
        nodes = evaluate(walker.rig, walker.values(frames))
        for limb in (limb for limb in walker.rig.limbs if limb.kind == "leg"):
            plants = played_spans(walker.clip, walker.rig, Plant.kind, 1, 500)[f"plant/{limb.ik}"]
            side = walker.rig.control(limb.ik).side
            mine = [one for one in walker.plan.found if one.side == side]
            self.assertEqual([p.start for p in plants], [max(one.first, 1) for one in mine])
            for plant in plants:
                held = nodes[(frames >= plant.start) & (frames <= plant.end), walker.rig.control(limb.ik).node, :3]
                self.assertLess(float(np.ptp(held, axis=0).max()), 1e-9)

    def test_one_that_is_moved_stays_set_and_all_else_stays_what_it_was(self) -> None:
        walker = Walker.along((0.0, 0.0), (0.0, 18.0))
        one, before = walker.footfall(10), walker.values()
        walker.make(SetFootfall(at=1, number=10, side=one.side, x=one.place[0] + 0.12))
        differs = np.abs(walker.values() - before).max(axis=1)
        frames = np.flatnonzero(differs) + 1
        self.assertGreater(int(frames[0]), one.first - 60)
        self.assertLess(int(frames[-1]), one.last + 60)
        self.assertGreater(float(differs.max()), 0.05)
        walker.make(KeyQuantity(name="width", frame=1, value=0.3))
        self.assertAlmostEqual(walker.footfall(10).place[0], one.place[0] + 0.12, 9)
        walker.make(SetFootfall(at=1, number=10, side=one.side, clear=True))
        self.assertAlmostEqual(walker.footfall(10).place[0], walker.footfall(12).place[0], 6)

    def test_moved_alone_or_found_with_all_others_it_goes_the_same(self) -> None:
        """What is found out of those about it is what the whole way would give; but arms swing on as they did, and with
        them turns what is counted from them."""
        from hame.evaluate.going import kept

        walker = Walker.along((0.0, 0.0), (0.0, 24.0))
        one = walker.footfall(14)
        walker.make(SetFootfall(at=1, number=14, side=one.side, z=one.place[1] + 0.1))
        plan, rig = walker.plan, walker.rig
        whole = [kept._made(rig, plan, some, 1, plan.end).values for some in (plan.found, plan.plain)]
        near = plan.near[0][2][:, None]
        differs = np.abs(walker.values() - (whole[1] + near * (whole[0] - whole[1])))
        arms = [n for n, one in enumerate(rig.channels) if one.control.startswith("arm")]
        rolls = [n for n, address in enumerate(rig.addresses) if address.endswith("/roll")]
        self.assertLess(float(np.delete(differs, arms + rolls, axis=1).max()), 8e-3)
        self.assertLess(float(differs[:, rolls].max()), np.radians(4.5))
        self.assertLess(float(differs[:, arms].max()), np.radians(8.0))

    def test_one_that_is_moved_is_reached_and_stood_on(self) -> None:
        for x, z in ((0.0, 0.2), (0.15, 0.1), (-0.1, -0.25), (0.25, 0.0)):
            walker = Walker.along((0.0, 0.0), (0.0, 12.0))
            one = walker.footfall(8)
            walker.make(SetFootfall(at=1, number=8, side=one.side, x=one.place[0] + x, z=one.place[1] + z))
            nodes = walker.nodes(np.arange(1.0, walker.way.end + 1))
            for limb in (limb for limb in walker.rig.limbs if limb.kind == "leg"):
                off = np.linalg.norm(nodes[:, limb.end, :3] - nodes[:, limb.target, :3], axis=1)
                self.assertLess(float(off.max()), 0.004, (x, z))  # as far as it eases out of being straight

    def test_one_taken_out_or_put_in(self) -> None:
        walker = Walker.along()
        before = {one.number: one for one in walker.plan.found if one.number > 0}
        walker.make(TakeFootfall(at=1, number=5))
        five = walker.footfall(5)
        self.assertEqual((five.place, five.side, five.first), (before[6].place, before[5].side, before[5].first))
        walker.make(PutFootfall(at=1, number=3))
        self.assertEqual(walker.footfall(4).side, before[3].side)  # a skip
        with self.assertRaisesRegex(BadEdit, "there is no footfall 99"):
            walker.make(TakeFootfall(at=1, number=99))

    def test_one_taken_out_before_jumps_leaves_both_feet_to_these(self) -> None:
        walker = Walker.along()
        walker.make(WayTimes(frame=walker.footfall(7).first, on=6, air=10, together=True), TakeFootfall(at=1, number=4))
        later = [one for one in walker.plan.found if one.number > 8]
        self.assertEqual({n: sum(o.number == n for o in later) for n in {o.number for o in later}},
                         dict.fromkeys({o.number for o in later}, 2))  # fmt: skip
        self.assertEqual({one.side for one in walker.plan.found if one.last >= STAYS}, {"L", "R"})

    def test_a_foot_cannot_stand_in_two_places(self) -> None:
        walker = Walker.along()
        one = walker.footfall(4)
        with self.assertRaisesRegex(BadEdit, "two places at once"):
            walker.make(
                SetFootfall(at=1, number=4, side=one.side, last=one.last + 20),
                SetFootfall(at=1, number=6, side=one.side, first=one.last + 2),
            )


if __name__ == "__main__":
    unittest.main()
