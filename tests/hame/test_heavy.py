"""Carried things that ask for more than the strength there is, and moves of them that are given time."""

from __future__ import annotations

import unittest
from typing import Any

import numpy as np

from hame.clip.clip import Clip
from hame.clip.curve import from_keys
from hame.clip.key import LINEAR
from hame.edits.edit import Edit
from hame.edits.heavy import AsHeavy
from hame.edits.making import Made, made
from hame.errors import BadEdit
from hame.faults.kinds import Alert, faults_in
from hame.faults.look import Look
from hame.measure.dynamics import GRAVITY
from hame.measure.heaving import Heave, forces, heaves
from hame.scene.carried import carried
from hame.scene.joined import played
from hame.scene.scene import Figure, Scene
from tests.hame.examples import brannoc_rig
from tests.hame.test_loads import BOX, MEN, heavy, held

FPS, LAST = 24.0, 80
UP = "arm.L.goal/ty"


class HeavyTest(unittest.TestCase):
    def setUp(self) -> None:
        self.rig = brannoc_rig()

    def cast(self, kilograms: float, frames: int, start: int = 30) -> dict[int, Figure]:
        """A box in the left hand that is lifted by 40 cm, so many frames from ``start`` on."""
        rest = self.rig.channels[self.rig.number(UP)].rest
        keys = {1: rest, start: rest, start + frames: rest + 0.4, LAST: rest + 0.4}
        clip = Clip().with_curves({UP: from_keys(keys), "arm.L/ik": from_keys({1: 1.0})})
        return {MEN: Figure(self.rig, clip, "Brannoc"), BOX: Figure(heavy(kilograms), held(last=LAST), "Box")}

    def found(self, cast: dict[int, Figure], strength: float = 400.0) -> list[Heave]:
        posed = played(cast, np.arange(1, LAST + 1))
        [load] = carried(cast, posed, 1)[MEN]
        return heaves(load, 1, FPS, GRAVITY, strength)

    def most(self, cast: dict[int, Figure]) -> float:
        posed = played(cast, np.arange(1, LAST + 1))
        [load] = carried(cast, posed, 1)[MEN]
        return float(forces(load, FPS, GRAVITY)[0].max())

    def make(self, edit: Edit, cast: dict[int, Figure]) -> Made:
        return made(edit, Scene(cast, 1, LAST, of=MEN, fps=FPS), MEN)

    def test_a_lift_asks_for_its_weight_and_what_speeds_it_up(self) -> None:
        """By hand: 10 kg that go up by h in two halves of t / 2, at a = 4 h / t^2 each, ask for m (g + a)."""
        frames = 12
        rest = self.rig.channels[self.rig.number(UP)].rest
        times = np.arange(frames + 1) / frames
        way = np.where(times < 0.5, 2.0 * times**2, 1.0 - 2.0 * (1.0 - times) ** 2)
        keys = {1: rest, **{30 + n: rest + 0.4 * float(w) for n, w in enumerate(way)}, LAST: rest + 0.4}
        clip = Clip().with_curves({UP: from_keys(keys, LINEAR), "arm.L/ik": from_keys({1: 1.0})})
        cast = {MEN: Figure(self.rig, clip, "Brannoc"), BOX: Figure(heavy(10.0), held(last=LAST), "Box")}
        asks = 10.0 * (GRAVITY + 4.0 * 0.4 / (frames / FPS) ** 2)
        self.assertAlmostEqual(self.most(cast), asks, delta=0.01 * asks)
        [heave] = self.found(cast, 150.0)
        self.assertAlmostEqual(heave.force, asks, delta=0.01 * asks)
        self.assertAlmostEqual(heave.weight, 10.0 * GRAVITY, 6)
        # In s times as long it asks for m (g + a / s^2): the frames follow by hand.
        slower = np.sqrt(4.0 * 0.4 / (frames / FPS) ** 2 / (150.0 / 10.0 - GRAVITY))
        assert heave.more is not None
        self.assertAlmostEqual(heave.more, (heave.last - heave.first) * (slower - 1.0), delta=1.0)

    def test_more_time_keeps_it_under_the_strength(self) -> None:
        cast = self.cast(20.0, 8)
        self.assertGreater(self.most(cast), 400.0)
        for way in ("longer", "sooner"):
            with self.subTest(way):
                done = self.make(AsHeavy(at=31, way=way), cast)  # type: ignore[arg-type]
                now = {n: figure.with_clip(done.clips.get(n, figure.clip)) for n, figure in cast.items()}
                self.assertLessEqual(self.most(now), 400.0)
                self.assertRegex(done.notes[0], r"\d+ frames .*: it asked for \d+ N, and now for no more than 400")
                at = np.array(done.clips[MEN].curves[UP].frames)
                self.assertEqual(at[2] - at[1] > 8, True)
                # Sooner, what follows stays when it was; longer, it comes later by as much.
                self.assertEqual(at[2] == 38, way == "sooner")
                if way == "longer":
                    self.assertEqual(at[3] - LAST, at[2] - 38)
                    [grip] = done.clips[BOX].tracks["belonging/master"]
                    self.assertEqual(grip.end - LAST, at[2] - 38)

    def test_both_ways_are_offered_with_what_they_take(self) -> None:
        [alert] = self.alerts(self.cast(20.0, 8))
        self.assertRegex(alert.mending, r"\d+ frames more for its move")
        self.assertRegex(alert.others[0][1], r"begin it sooner, out of the rest before: \d+ frames")
        # Without rest before it, it cannot begin sooner.
        [alert] = self.alerts(self.cast(20.0, 8, start=3))
        self.assertEqual(alert.others, ())
        # What is too heavy to be held at all is told, and nothing offered.
        alerts = self.alerts(self.cast(50.0, 8))
        self.assertTrue(alerts and all(alert.mend is None for alert in alerts))

    def alerts(self, cast: dict[int, Figure]) -> list[Alert]:
        posed = played(cast, np.arange(1, LAST + 1))
        look = Look(cast[MEN].clip, posed[MEN], 1, FPS, loads=carried(cast, posed, 1)[MEN])
        return [alert for alert in faults_in("weight", look) if alert.kind == "strength"][:1]

    def test_who_carries_it_with_him_goes_along(self) -> None:
        cast: dict[int, Any] = self.cast(20.0, 8)
        other = held("arm.R.goal", by=BOX, last=LAST)
        tied = Clip().with_tracks({"belonging/arm.R.goal": other.tracks["belonging/master"]})
        cast[3] = Figure(self.rig, tied.with_curves({"head/ry": from_keys({1: 0.0, LAST: 0.3})}), "Wick")
        alone = self.most({n: cast[n] for n in (MEN, BOX)})
        shared = self.found(cast, 150.0)
        self.assertLess(shared[0].force, alone)  # each bears a part
        done = self.make(AsHeavy(at=31, strength=150.0), cast)
        self.assertEqual(set(done.clips), {MEN, BOX, 3})
        self.assertIn("Box, Wick went along", done.notes)
        self.assertGreater(done.clips[3].curves["head/ry"].frames[-1], LAST)

    def test_what_cannot_be_is_refused(self) -> None:
        for cast, edit, words in (
            (self.cast(20.0, 30), AsHeavy(at=31), "nothing that it carries at 31"),
            (self.cast(50.0, 8), AsHeavy(at=31), "490 N are its weight alone"),
            (self.cast(20.0, 8, start=3), AsHeavy(at=4, way="sooner"), "before it begins it rests for"),
            (self.cast(20.0, 8), AsHeavy(at=500), "outside of the shot"),
        ):  # fmt: skip
            with self.subTest(words), self.assertRaisesRegex(BadEdit, words):
                self.make(edit, cast)


if __name__ == "__main__":
    unittest.main()
