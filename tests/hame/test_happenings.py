"""What happens to a body: found in the demo's motions and by hand."""

from __future__ import annotations

import unittest

import numpy as np

from hame.clip.clip import Clip
from hame.clip.curve import from_keys
from hame.clip.key import LINEAR
from hame.demo.shots import figure, walk_there
from hame.faults.look import Look
from hame.measure.happenings import Happening, happenings
from hame.scene.carried import carried
from hame.scene.joined import played
from hame.scene.scene import Figure
from tests.hame.examples import brannoc_rig
from tests.hame.test_loads import BOX, MEN, at, heavy, held

FPS = 24.0


class HappeningsTest(unittest.TestCase):
    def found(self, clip: Clip, frames: int, box: Clip | None = None) -> list[Happening]:
        figures = {MEN: Figure(brannoc_rig(), clip)}
        if box is not None:
            figures[BOX] = Figure(heavy(5.0), box)
        posed = played(figures, np.arange(1, frames + 1))
        look = Look(clip, posed[MEN], 1, FPS, loads=carried(figures, posed, 1).get(MEN, ()))
        return happenings(look.rig, posed[MEN].nodes, look.stands, look.flights, look.loads, 1, FPS)

    def test_who_stands_has_nothing_to_answer(self) -> None:
        self.assertEqual(self.found(Clip(), 30), [])

    def test_a_hop_takes_off_and_lands_as_fast_as_it_is_keyed(self) -> None:
        up = Clip().with_curves({"master/ty": from_keys({1: 0.0, 9: 0.0, 14: 0.5, 19: 0.0, 30: 0.0}, LINEAR)})
        off, on = self.found(up, 30)
        self.assertEqual([(one.what, one.frame) for one in (off, on)], [("take-off", 9), ("landing", 19)])
        self.assertAlmostEqual(off.speed, 0.1 * FPS, 6)
        self.assertAlmostEqual(on.speed, 0.1 * FPS, 6)

    def test_feet_of_a_walk_come_down_one_after_the_other(self) -> None:
        rig = figure("brannoc")[0]
        clip = walk_there(rig)
        posed = played({1: Figure(rig, clip)}, np.arange(1, 50))[1]
        look = Look(clip, posed, 1, FPS)
        downs = [
            one
            for one in happenings(rig, posed.nodes, look.stands, look.flights, (), 1, FPS)
            if one.what == "foot down"
        ]
        self.assertGreaterEqual(len(downs), 3)
        self.assertTrue(all(a.control != b.control for a, b in zip(downs, downs[1:], strict=False)))
        self.assertTrue(all(one.speed > 0.0 for one in downs))

    def test_it_stops_where_it_stays(self) -> None:
        goes = Clip().with_curves({"master/tz": from_keys({1: 0.0, 13: 1.0, 40: 1.0}, LINEAR)})
        [stop] = [one for one in self.found(goes, 40) if one.what == "stop"]
        self.assertEqual(stop.frame, 13)
        self.assertAlmostEqual(stop.speed, FPS / 12.0, 6)
        # One that only slows down and goes on does not stop.
        slows = Clip().with_curves({"master/tz": from_keys({1: 0.0, 13: 1.0, 16: 1.01, 40: 3.0}, LINEAR)})
        self.assertEqual([one for one in self.found(slows, 40) if one.what == "stop"], [])

    def test_a_thing_is_let_go(self) -> None:
        box = held(first=1, last=12)
        [gone] = [one for one in self.found(Clip(), 30, at((0.0, 1.0, 0.4), box)) if one.what == "letting go"]
        self.assertEqual(gone.frame, 13)


if __name__ == "__main__":
    unittest.main()
