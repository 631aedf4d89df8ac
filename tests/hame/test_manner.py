"""How somebody goes is read off a motion, and is what it was made by; laid on another it is read again."""

from __future__ import annotations

import unittest
from math import degrees, radians

import numpy as np

from hame.blocking.poses import STEP
from hame.demo.shots import figure, walk_across
from hame.edits.library import size_of
from hame.errors import BadEdit
from hame.evaluate.evaluate import channel_values, evaluate
from hame.evaluate.going.made import gone
from hame.gait.footfalls import Footfall, Pace, Times, footfalls
from hame.gait.line import Point, bent, line_of
from hame.gait.traits import Traits
from hame.measure.manner import Manner, footfalls_in, manner_of

FPS, G = 24.0, 9.80665


def went(name: str, traits: Traits, speed: float = 1.2, width: float = 0.14, turn: float = 0.0) -> Manner:
    """How one of the cast goes who was made to go so."""
    rig = figure(name)[0]
    points = [Point((0.0, 0.0)), Point((0.0, 8.0))]
    line = line_of(bent(points, turn) if turn else points)
    found: list[Footfall] = footfalls(line, Pace.even(24, speed, Times.walking(15, 2), width, 0.12), 12, FPS, lead=8)
    frames = np.arange(1.0, max(one.first for one in found) + 30)
    nodes = evaluate(rig, gone(rig, found, frames, FPS, G, traits).values)
    return manner_of(rig, nodes, found, 1, FPS)


ANGLES = ("turn", "list", "pitch", "swing", "arms_out", "head")


class MannerTest(unittest.TestCase):
    def same(self, read: Traits, made: Traits, names: tuple[str, ...] = ANGLES, within: float = 0.05) -> None:
        for name in names:
            got, want = float(np.mean(getattr(read, name))), float(np.mean(getattr(made, name)))
            self.assertLess(abs(got - want), within * abs(want) + radians(0.25), f"{name}: {got:.4f} for {want:.4f}")

    def test_what_it_was_made_by_is_read_again(self) -> None:
        for made in (
            Traits(), Traits(turn=radians(8.0), list=radians(6.0), pitch=radians(8.0), swing=radians(30.0)),
            Traits(swing=radians(8.0), arms_out=radians(12.0), head=radians(9.0), chest=2.0),
        ):  # fmt: skip
            read = went("brannoc", made)
            self.same(read.traits, made)
            self.assertAlmostEqual(float(read.traits.chest) / float(made.chest), 1.0, delta=0.05)  # type: ignore[arg-type]

    def test_pace_and_footfalls_are_read_as_well(self) -> None:
        read = went("brannoc", Traits(), speed=1.2, width=0.16)
        self.assertAlmostEqual(read.speed, 1.2, delta=0.06)
        self.assertAlmostEqual(read.width, 0.16, delta=0.008)
        self.assertAlmostEqual(read.toe_out, 0.12, delta=0.012)
        self.assertAlmostEqual(read.step_frames, 13.0, delta=0.5)
        self.assertAlmostEqual(read.on, 15.0, delta=0.1)
        rig = figure("brannoc")[0]
        leg = sum(next(limb.lengths for limb in rig.limbs if limb.kind == "leg"))
        self.assertAlmostEqual(read.step * leg, 1.2 * 13 / FPS, delta=0.03)
        self.assertTrue(0.02 < read.rise < 0.06 and 0.01 < read.sway < 0.06)

    def test_what_feet_and_mass_do_is_read_as_well(self) -> None:
        for made in (
            Traits(lift=0.06, strike=radians(10.0), bounce=0.5, lean=radians(5.0)),
            Traits(lift=0.12, strike=radians(25.0), bounce=0.3, lean=radians(-4.0), list=radians(7.0)),
        ):
            for name in ("brannoc", "wick"):
                read = went(name, made).traits
                self.same(read, made, ("strike", "lean", "list"))
                self.assertAlmostEqual(float(read.lift) / float(made.lift), 1.0, delta=0.01)  # type: ignore[arg-type]
                self.assertAlmostEqual(float(read.bounce) / float(made.bounce), 1.0, delta=0.03)  # type: ignore[arg-type]

    def test_so_is_how_low_it_goes_and_what_heels_hands_and_head_do(self) -> None:
        for made in (
            Traits(), Traits(push=radians(42.0), low=0.05, steady=0.5, late=3.0, hands=radians(50.0)),
            Traits(push=radians(50.0), low=0.1, steady=0.8, late=2.0, hands=radians(6.0)),
        ):  # fmt: skip
            for name in ("brannoc", "wick"):
                read = went(name, made, speed=1.1).traits
                self.same(read, made, ("push", "hands"))
                for trait in ("low", "steady", "late"):
                    got, want = float(getattr(read, trait)), float(getattr(made, trait))
                    self.assertAlmostEqual(got, want, delta=0.05 * want + 0.002, msg=trait)

    def test_bounce_and_late_hands_count_where_they_are_and_nowhere_else(self) -> None:
        rig = figure("brannoc")[0]
        line = line_of([Point((0.0, 0.0)), Point((0.0, 14.0))])
        found = footfalls(line, Pace.even(24, 1.2, Times.walking(15, 2)), 12, FPS, lead=8)
        frames = np.arange(1.0, max(one.first for one in found) + 30)
        later = np.clip((frames - 190.0) / 20.0, 0.0, 1.0)
        plain, other = (
            gone(rig, found, frames, FPS, G, traits).values
            for traits in (Traits(), Traits(bounce=0.4 + 0.5 * later, late=1.0 + 3.0 * later))
        )
        moved = np.abs(other - plain).max(axis=1)
        self.assertLess(moved[frames < 140].max(), 1e-3)
        heights = other[:, rig.number("body/ty")] - plain[:, rig.number("body/ty")]
        self.assertGreater(np.ptp(heights[(frames > 215) & (frames < 260)]), 0.01)

    def test_laid_on_another_it_is_read_again(self) -> None:
        made = Traits(turn=radians(7.0), list=radians(5.0), pitch=radians(6.0), swing=radians(27.0), head=radians(4.0))
        read = went("brannoc", made).traits
        again = went("wick", read, speed=1.05)
        self.same(again.traits, read)

    def test_round_a_bend_it_is_the_same(self) -> None:
        made = Traits(swing=radians(25.0))
        self.same(went("brannoc", made, turn=1.2).traits, made, ("pitch", "swing", "list"), 0.12)

    def test_any_walk_is_read_by_the_footfalls_that_it_shows(self) -> None:
        """The demo's keyed walk: 12 frames a step, its stride as it is laid out."""
        rig = figure("brannoc")[0]
        nodes = evaluate(rig, channel_values(rig, walk_across(rig), np.arange(1, 74)))
        found = footfalls_in(rig, nodes, 1, FPS)
        read = manner_of(rig, nodes, found, 1, FPS)
        leg = sum(next(limb.lengths for limb in rig.limbs if limb.kind == "leg"))
        self.assertAlmostEqual(read.step * leg, STEP["walk"] * size_of(rig), delta=0.03)
        self.assertAlmostEqual(read.step_frames, 12.0, delta=0.01)
        self.assertAlmostEqual(read.on, 14.0, delta=0.01)
        self.assertTrue(0.3 < degrees(float(read.traits.turn)) < 12.0)  # type: ignore[arg-type]
        self.assertTrue(8.0 < degrees(float(read.traits.swing)) < 45.0)  # type: ignore[arg-type]
        again = went("wick", read.traits)
        self.same(again.traits, read.traits, ("turn", "swing", "pitch"), 0.08)

    def test_a_motion_without_a_stride_is_refused(self) -> None:
        rig = figure("brannoc")[0]
        nodes = evaluate(rig, np.tile(rig.rest, (30, 1)))
        with self.assertRaisesRegex(BadEdit, "no whole stride"):
            manner_of(rig, nodes, [], 1, FPS)


if __name__ == "__main__":
    unittest.main()
