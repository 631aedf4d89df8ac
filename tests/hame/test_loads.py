"""What is carried counts with who carries it: by hand, and against sums over all that moves."""

from __future__ import annotations

import unittest
from dataclasses import replace

import numpy as np

from hame.character.build import build_rig
from hame.character.masses import masses_of, parts_at
from hame.character.rig import Rig
from hame.clip.belonging import Belonging
from hame.clip.clip import Clip
from hame.clip.curve import from_keys
from hame.clip.spans import track_name
from hame.demo.props import crate
from hame.demo.shots import figure
from hame.edits.making import made
from hame.edits.overrun import MendRun
from hame.edits.pulled import ShiftWeight
from hame.evaluate.posed import Posed
from hame.faults.kinds import Alert, faults_in
from hame.faults.look import Look
from hame.intake.intake import prop_plan
from hame.maths import rotations
from hame.maths.rotations import Array
from hame.measure.balance import balances, hull, middle_of
from hame.measure.dynamics import GRAVITY, Dynamics, dynamics
from hame.measure.loads import Load
from hame.measure.soles import sole_outline
from hame.scene.carried import carried
from hame.scene.joined import played
from hame.scene.scene import Figure, Scene
from tests.hame.examples import brannoc_rig

FRAMES = np.arange(1, 13)
MEN, BOX, BOARD = 1, 2, 3


def heavy(kilograms: float) -> Rig:
    """A crate that weighs so much, at one point: its middle."""
    skeleton, skin = crate()
    plan = prop_plan(skeleton, skin)
    [joint] = [j for j, _ in [(skeleton.names[0], 0)]]
    weight = {"kilograms": [kilograms], "at": [0.0, 0.0, 0.0], "radii": [0.0, 0.0, 0.0]}
    return build_rig(skeleton, replace(plan, masses={}, weights={joint: weight}))


def held(control: str = "arm.L.goal", by: int = MEN, first: int = 1, last: int = 12) -> Clip:
    return Clip().with_tracks({track_name(Belonging.kind, "master"): (Belonging(first, last, by, control),)})


def at(place: tuple[float, float, float], clip: Clip | None = None) -> Clip:
    keys = {f"master/t{axis}": from_keys({1: value}) for axis, value in zip("xyz", place, strict=True)}
    return (clip or Clip()).with_curves(keys)


class CarriedTest(unittest.TestCase):
    def setUp(self) -> None:
        self.rig, self.box = brannoc_rig(), heavy(20.0)

    def loads(self, figures: dict[int, Figure], of: int = MEN) -> list[Load]:
        self.posed = played(figures, FRAMES)
        return carried(figures, self.posed, 1).get(of, [])

    def test_what_belongs_to_a_hand_is_borne_while_it_does(self) -> None:
        figures = {MEN: Figure(self.rig), BOX: Figure(self.box, held(first=4, last=9))}
        [load] = self.loads(figures)
        np.testing.assert_allclose(load.kilograms, [0.0] * 3 + [20.0] * 6 + [0.0] * 3)
        self.assertEqual(load.of, BOX)

    def test_what_stands_or_follows_its_turn_alone_weighs_on_nobody(self) -> None:
        turning = Belonging(1, 12, MEN, "arm.L.goal", "turn")
        for clip in (Clip(), Clip().with_tracks({track_name(Belonging.kind, "master"): (turning,)})):
            self.assertEqual(self.loads({MEN: Figure(self.rig), BOX: Figure(self.box, clip)}), [])
        # A hand that belongs to what stands is held by it, and bears nothing.
        hand = Clip().with_tracks({track_name(Belonging.kind, "arm.L.goal"): (Belonging(1, 12, BOX, "master"),)})
        self.assertEqual(self.loads({MEN: Figure(self.rig, hand), BOX: Figure(self.box)}), [])

    def test_what_lies_on_what_is_carried_is_carried_too(self) -> None:
        figures = {
            MEN: Figure(self.rig), BOX: Figure(self.box, held("master", BOARD)), BOARD: Figure(heavy(5.0), held()),
        }  # fmt: skip
        loads = self.loads(figures)
        self.assertEqual({load.of: float(load.kilograms[0]) for load in loads}, {BOX: 20.0, BOARD: 5.0})

    def test_two_bear_what_lies_between_them(self) -> None:
        """A beam on two supports: each bears by how near the weight is to it (statics, the law of the lever)."""
        other = 4
        wide = {MEN: (0.0, 0.0, 0.0), other: (3.0, 0.0, 0.0)}
        hands = Clip().with_tracks({track_name(Belonging.kind, "arm.R.goal"): (Belonging(1, 12, BOX, "master"),)})
        figures = {
            MEN: Figure(self.rig, at(wide[MEN])), other: Figure(self.rig, at(wide[other], hands)),
            BOX: Figure(self.box, at((1.0, 1.0, 0.0), held())),
        }  # fmt: skip
        first, second = self.loads(figures), carried(figures, played(figures, FRAMES), 1)[other]
        posed = played(figures, FRAMES)
        box = posed[BOX].nodes[0, self.box.joint_nodes[0], :3]
        ends = [
            posed[MEN].nodes[0, self.rig.limb("arm.L").end, :3], posed[other].nodes[0, self.rig.limb("arm.R").end, :3],
        ]  # fmt: skip
        way = (ends[1] - ends[0])[[0, 2]]
        along = float(np.clip((box - ends[0])[[0, 2]] @ way / (way @ way), 0.0, 1.0))
        self.assertTrue(0.0 < along < 1.0)
        self.assertAlmostEqual(float(first[0].kilograms[0]), 20.0 * (1.0 - along), 6)
        self.assertAlmostEqual(float(second[0].kilograms[0]), 20.0 * along, 6)

    def test_who_was_taken_out_carries_nothing(self) -> None:
        figures = {MEN: Figure(self.rig), BOX: Figure(self.box, held(), plays=False)}
        self.assertEqual(self.loads(figures), [])


class JoinedTest(unittest.TestCase):
    def test_twenty_kilograms_at_arms_length(self) -> None:
        """By hand: the mass of both lies m d / (M + m) from that of the body, and so does what bears them at rest."""
        rig, box = brannoc_rig(), heavy(20.0)
        figures = {MEN: Figure(rig), BOX: Figure(box, at((0.0, 1.0, 0.7), held()))}
        posed = played(figures, FRAMES)
        loads = carried(figures, posed, 1)[MEN]
        mine = posed[MEN]
        alone = balances(Clip(), mine, 1)[0].centre
        place = posed[BOX].nodes[0, box.joint_nodes[0], :3]
        weigh = masses_of(rig).kilograms
        wished = alone + 20.0 / (weigh + 20.0) * (place - alone)
        stand = balances(Clip(), mine, 1, loads=loads)[0]
        np.testing.assert_allclose(stand.centre, wished, atol=1e-9)
        found = dynamics(rig, mine.nodes, 24.0, loads=loads)
        np.testing.assert_allclose(found.pressure[3], wished[[0, 2]], atol=1e-9)
        np.testing.assert_allclose(found.kilograms, weigh + 20.0)
        self.assertGreater(np.linalg.norm(wished - alone), 0.1)

    def test_the_weight_of_both_is_brought_over_what_bears_them(self) -> None:
        """A held pose with a heavy thing before it falls; it is mended with it in hand, on a frame and over a run."""
        rig = brannoc_rig()
        clips = {MEN: Clip(), BOX: at((0.0, 1.0, 0.9), held("chest"))}
        scene = Scene({MEN: Figure(rig), BOX: Figure(heavy(40.0), clips[BOX])}, 1, 12)

        def told(clip: Clip) -> list[Alert]:
            figures = {MEN: Figure(rig, clip), BOX: scene.figures[BOX]}
            posed = played(figures, FRAMES)
            look = Look(clip, posed[MEN], 1, 24.0, loads=carried(figures, posed, 1)[MEN])
            return [alert for alert in faults_in("contacts", look) if alert.kind == "balance"]

        [fault] = told(clips[MEN])
        self.assertGreater(fault.amount, 0.02)
        assert isinstance(fault.mend, MendRun)
        self.assertEqual(told(made(fault.mend, scene, MEN).clips[MEN]), [])
        self.assertEqual(told(made(ShiftWeight(frame=1), scene, MEN).clips[MEN]), [])
        onto = made(ShiftWeight(frame=1, onto="leg.L.goal"), scene, MEN).clips[MEN]
        figures = {MEN: Figure(rig, onto), BOX: scene.figures[BOX]}
        posed = played(figures, FRAMES)
        stand = balances(onto, posed[MEN], 1, loads=carried(figures, posed, 1)[MEN])[0]
        sole = sole_outline(rig, rig.limb("leg.L"), posed[MEN].nodes)[0][:, [0, 2]]
        np.testing.assert_allclose(stand.centre[[0, 2]], middle_of(hull(sole)), atol=0.006)

    def test_both_have_the_momenta_of_all_their_parts(self) -> None:
        """About their common centre, summed over every part of both (Goldstein, Classical Mechanics, section 1.2)."""
        rig, crab = brannoc_rig(), figure("tide-crab")[0]
        fps, times = 2000.0, np.arange(5) / 2000.0
        rng = np.random.default_rng(3)
        nodes = {}
        for one in (rig, crab):
            rest = np.zeros((one.program.nodes, 8))
            rest[:, 6:8] = 1.0
            rest[one.joint_nodes] = one.skeleton.world
            axis, way = rng.normal(size=3), rng.normal(size=(2, 3))
            turns = rotations.from_vector(times[:, None] * axis)
            moved = np.repeat(rest[None], len(times), axis=0)
            moved[..., :3] = rotations.rotate(turns[:, None], rest[None, :, :3])
            moved[..., :3] += (times[:, None] * way[0] + 0.5 * times[:, None] ** 2 * way[1])[:, None]
            moved[..., 3:7] = rotations.multiply(turns[:, None], rest[None, :, 3:7])
            nodes[one] = moved
        load = Load(7, crab, nodes[crab], np.full(len(times), 12.0))
        found = dynamics(rig, nodes[rig], fps, loads=[load])
        whole, spin = self.summed({rig: 1.0, crab: 12.0 / masses_of(crab).kilograms}, nodes, fps)
        self.assertAlmostEqual(float(found.kilograms[2]), whole)
        np.testing.assert_allclose(found.spin[2], spin, rtol=1e-4, atol=1e-6)
        # What it asks of the ground is the force of both, where it gives both their moments.
        alone = [dynamics(one, nodes[one], fps) for one in (rig, crab)]
        weights = np.array([masses_of(rig).kilograms, 12.0]) / whole
        np.testing.assert_allclose(
            found.force, sum(w * d.force for w, d in zip(weights, alone, strict=True)), atol=1e-9
        )
        moment = sum(w * (np.cross(d.centre[2], d.force[2]) + d.moment[2]) for w, d in zip(weights, alone, strict=True))
        x, z = found.pressure[2]
        given = np.cross([x, 0.0, z], found.force[2]) + [0.0, found.twist[2], 0.0]
        np.testing.assert_allclose(given, moment, atol=1e-6)

    def summed(self, scale: dict[Rig, float], nodes: dict[Rig, Array], fps: float) -> tuple[float, Array]:
        places, speeds, masses, own = [], [], [], np.zeros(3)
        for one, by in scale.items():
            known = masses_of(one)
            before, now, after = (parts_at(one, nodes[one][n : n + 1], known) for n in (1, 2, 3))
            mass = known.share * known.kilograms * by
            places.append(now.places[0])
            speeds.append((after.places[0] - before.places[0]) * fps / 2.0)
            masses.append(mass)
            step = (
                rotations.to_vector(rotations.multiply(after.turns[0], rotations.inverse(before.turns[0]))) * fps / 2.0
            )
            for m, turn, spread, w in zip(mass, now.turns[0], known.spread, step, strict=True):
                matrix = rotations.to_matrix(turn)
                own += m * matrix @ spread @ matrix.T @ w
        r, v, m = np.concatenate(places), np.concatenate(speeds), np.concatenate(masses)
        whole = float(m.sum())
        centre, speed = (m[:, None] * r).sum(axis=0) / whole, (m[:, None] * v).sum(axis=0) / whole
        return whole, (own + (m[:, None] * np.cross(r - centre, v - speed)).sum(axis=0)) / whole

    def test_what_falls_with_who_falls_asks_for_nothing(self) -> None:
        rig, box = brannoc_rig(), heavy(30.0)
        times = np.arange(6) / 24.0
        posed = played({MEN: Figure(rig), BOX: Figure(box)}, np.arange(1, 7))
        fall = np.zeros((6, 1, 3))
        fall[:, 0, 1] = -0.5 * GRAVITY * times**2
        nodes = {number: one.nodes.copy() for number, one in posed.items()}
        for one in nodes.values():
            one[..., :3] += fall
        found: Dynamics = dynamics(rig, nodes[MEN], 24.0, loads=[Load(BOX, box, nodes[BOX], np.full(6, 30.0))])
        np.testing.assert_allclose(found.force, 0.0, atol=1e-9)
        self.assertTrue(np.isnan(found.pressure).all())

    def test_nothing_carried_changes_nothing(self) -> None:
        rig, box = brannoc_rig(), heavy(30.0)
        posed = played({MEN: Figure(rig), BOX: Figure(box)}, FRAMES)
        alone = dynamics(rig, posed[MEN].nodes, 24.0)
        none = dynamics(rig, posed[MEN].nodes, 24.0, loads=[Load(BOX, box, posed[BOX].nodes, np.zeros(12))])
        for name in ("centre", "spin", "moment", "force", "kilograms"):
            np.testing.assert_array_equal(getattr(alone, name), getattr(none, name))
        stands = [
            balances(Clip(), posed[MEN], 1, loads=loads)[0].centre
            for loads in ([], [Load(BOX, box, posed[BOX].nodes, np.zeros(12))])
        ]
        np.testing.assert_array_equal(*stands)
        self.assertIsInstance(posed[MEN], Posed)


if __name__ == "__main__":
    unittest.main()
