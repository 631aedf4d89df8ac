"""The demo's scenes of weight, measured as they play: a fall, a sack for two, a run that is turned round in the air."""

from __future__ import annotations

import unittest
from functools import cache

import numpy as np

from hame.character.build import build_rig
from hame.character.masses import centre_of_mass, masses_of
from hame.character.rig import Rig
from hame.character.skin import Skin
from hame.demo import falls, quay, roundover
from hame.demo.props import SHELF
from hame.demo.scenes import ScenePlan, acted
from hame.demo.shelf import weighed
from hame.demo.shots import figure
from hame.faults.kinds import faults_in
from hame.faults.look import Look
from hame.intake.intake import prop_plan
from hame.measure.dynamics import GRAVITY
from hame.measure.heaving import forces
from hame.scene.carried import carried
from hame.scene.joined import played
from hame.scene.scene import Figure
from tests.hame.test_limp import surface

FPS = 24.0


@cache
def _one(name: str) -> tuple[Rig, Skin]:
    if name in ("Wick", "Brannoc"):
        return figure(name.lower())
    skeleton, skin = SHELF[name]()
    return build_rig(skeleton, weighed(name, prop_plan(skeleton, skin))), skin


@cache
def scene(plan: ScenePlan) -> dict[str, Figure]:
    cast = {name: _one(name) for name in plan.cast}
    numbers = {name: n for n, name in enumerate(cast, start=1)}
    clips = acted(plan, {n: rig for n, (rig, _) in cast.items()}, numbers, {n: skin for n, (_, skin) in cast.items()})
    return {name: Figure(cast[name][0], clips[name], name) for name in cast}


class ScenesTest(unittest.TestCase):
    def test_wick_falls_from_the_ladder_and_lies(self) -> None:
        figures = scene(falls.GIVES_WAY)
        posed = played(dict(enumerate(figures.values(), start=1)), np.arange(1, falls.LAST + 1))[1]
        rig, skin = _one("Wick")
        mass = centre_of_mass(rig, posed.nodes)
        self.assertGreater(float(mass[19, 1]), 1.4)
        self.assertLess(float(mass[-1, 1]), 0.3)
        # In the air between ladder and ground it is not held up: as fast as things fall, but for what still holds on.
        speed = float(np.diff(mass[falls.FALLS : falls.FALLS + 9, 1]).min() * FPS)
        self.assertLess(speed, -2.0)
        self.assertGreater(speed, -GRAVITY * 12 / FPS)
        lowest = min(float(surface(rig, skin, posed, f)[:, 1].min()) for f in range(falls.FALLS, falls.LAST, 5))
        self.assertGreater(lowest, -0.0055)
        # At the end he lies still.
        self.assertLess(float(np.abs(np.diff(posed.nodes[-6:, rig.joint_nodes, :3], axis=0)).max()), 0.01)

    def test_a_sack_is_borne_by_both_and_lifted_as_heavy_as_it_is(self) -> None:
        figures = dict(enumerate(scene(quay.QUAY).values(), start=1))
        frames = np.arange(1, quay.QUAY.last + 1)
        posed = played(figures, frames)
        loads = carried(figures, posed, 1)
        for who in (1, 2):
            [load] = loads[who]
            share = load.kilograms[60:120] / masses_of(load.rig).kilograms
            self.assertTrue(bool(((share > 0.3) & (share < 0.7)).all()), who)
            figure = figures[who]
            look = Look(figure.clip, posed[who], 1, FPS, loads=loads[who])
            self.assertEqual([a.says for a in faults_in("weight", look) if a.kind == "pressure"], [])
            self.assertEqual([a.says for a in faults_in("contacts", look) if a.amount > 0.005], [])
            lifted = forces(load, FPS, GRAVITY)[0][quay.LIFT : quay.BEGIN]
            self.assertLessEqual(float(lifted.max()), 1.02 * quay.STRENGTH)
        node = figures[3].rig.controls[0].node
        where = posed[3].nodes[:, node, :3]
        self.assertAlmostEqual(float(where[-1, 1]), 0.0, delta=0.02)
        self.assertAlmostEqual(float(where[-1, 2] - where[0, 2]), quay.STEP * quay.SIDE, delta=0.03)
        tipped = posed[3].nodes[60:120, node, 3:7] @ posed[3].nodes[0, node, 3:7]
        self.assertGreater(float(np.abs(tipped).min()), np.cos(np.radians(4.0)))

    def test_the_jump_falls_and_turns_as_nothing_but_the_take_off_made_it(self) -> None:
        figures = scene(roundover.ROUND)
        posed = played({1: figures["Wick"]}, np.arange(1, roundover.LAST + 1))[1]
        look = Look(figures["Wick"].clip, posed, 1, FPS)
        flight = next(one for one in look.flights if one.release <= 28 <= one.landing)
        self.assertAlmostEqual(flight.gravity, 1.0, delta=0.01)
        self.assertLess(look.turning(flight).uneven, np.radians(12.0))
        turned = posed.values[flight.landing - 1, posed.rig.number("master/ry")] - posed.values[
            flight.release - 1, posed.rig.number("master/ry")]  # fmt: skip
        self.assertAlmostEqual(float(np.degrees(turned)), 180.0, delta=15.0)
        # He lands with give: with no more than some times his weight.
        press = look.dynamics.force[flight.landing - 1 : flight.landing + 6, 1].max() / GRAVITY
        self.assertLess(float(press), 5.0)


if __name__ == "__main__":
    unittest.main()
