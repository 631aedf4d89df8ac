"""Limp bodies: what falls keeps to the ranges of its joints, to the ground, to its speeds and to its energy."""

from __future__ import annotations

import unittest
from dataclasses import replace
from functools import cache

import numpy as np

from hame.character.masses import centre_of_mass, masses_of
from hame.character.rig import Rig
from hame.character.skin import Skin, deform
from hame.clip.belonging import Belonging
from hame.clip.clip import Clip
from hame.clip.curve import from_keys
from hame.clip.layers import layers_of
from hame.clip.plants import Plant
from hame.demo.props import crate
from hame.demo.shots import figure, run, standing, walk
from hame.edits.layers import AddLayer
from hame.edits.limp import GoLimp, fallen
from hame.edits.making import Made, made
from hame.edits.pose import SetPose, set_pose
from hame.errors import BadEdit
from hame.evaluate.posed import Posed
from hame.limp.fall import Fallen, Muscle, fall
from hame.maths import transforms
from hame.maths.rotations import Array
from hame.measure.dynamics import GRAVITY
from hame.scene.joined import played
from hame.scene.scene import Figure, Scene
from hame.solve.begun import begin
from tests.hame.test_loads import heavy

FPS, ONE, BOX = 24.0, 1, 2
SHORT = 60


@cache
def cast(name: str) -> tuple[Rig, Skin]:
    return figure(name)


def stands(rig: Rig, forth: float = 0.0) -> Clip:
    """Stands, or slides forth by so much in ten frames."""
    base = set_pose(Clip(), rig, 1, standing(), "changed").clip
    return base.with_curves({"master/tz": from_keys({1: 0.0, 11: forth, 21: 2.0 * forth})})


def scene_of(name: str, clip: Clip, **more: object) -> Scene:
    rig, skin = cast(name)
    return Scene({ONE: Figure(rig, clip, "Brannoc")}, 1, 200, of=ONE, fps=FPS, skins={ONE: skin}, **more)  # type: ignore[arg-type]


def surface(rig: Rig, skin: Skin, posed: Posed, frame: int) -> Array:
    """The points (P, 3) of what is firm on a figure: not of its coat's tails and cap, which give way."""
    giving = np.array([bool(rig.picks[j][0]) and rig.control(rig.picks[j][0]).kind in ("extra", "face")
                       for j in range(len(rig.skeleton))])  # fmt: skip
    matrices = transforms.to_matrix(posed.nodes[frame, rig.joint_nodes])
    found = []
    for piece in skin.pieces:
        soft = (piece.weights * giving[piece.joints]).sum(axis=1)
        found.append(deform(piece, matrices, skin.inverse_bind)[soft < 0.1])
    return np.concatenate(found)


class FallTest(unittest.TestCase):
    """Each of the bounds is one that a person would see."""

    def falls(self) -> list[tuple[str, Scene, GoLimp, list[Fallen]]]:
        found = []
        for name, clip, at in (
            ("brannoc", stands(cast("brannoc")[0]), 10), ("brannoc", stands(cast("brannoc")[0], 0.8), 10),
            ("brannoc", walk(cast("brannoc")[0]), 9), ("wick", run(cast("wick")[0]), 9), ("tide-crab", Clip(), 10),
        ):  # fmt: skip
            for muscle in (0.0, 0.3):
                edit = GoLimp(at=at, frames=SHORT, trunk=muscle, head=muscle, arms=muscle, legs=muscle)
                scene = scene_of(name, clip)
                found.append((f"{name} {at} {muscle}", scene, edit, list(fallen(edit, scene, ONE))))
        return found

    def test_ranges_ground_speeds_and_energy_are_kept(self) -> None:
        for name, scene, edit, fell in self.falls():
            with self.subTest(name):
                rig = scene.figures[ONE].rig
                before = played(scene.figures, np.array([edit.at - 1.0, edit.at]))[ONE]
                begun = begin(rig, before.values[1], before.nodes[1])
                # Within two degrees of its ranges.
                angles = np.array([one.angles for one in fell])[:, 6:]
                beyond = np.maximum(np.maximum(begun.low[6:] - angles, angles - begun.high[6:]), 0.0)
                self.assertLess(float(np.degrees(beyond.max())), 2.0)
                # Nothing is gained.
                energy = np.array([one.energy for one in fell])
                self.assertLess(float(np.diff(energy).max()), 0.005 * energy[0])
                if edit.legs == 0.0:
                    self.assertLess(float(energy[-1]), 0.5 * energy[0])
                self.assertLess(float(np.abs(fell[0].place - before.nodes[1, begun.body.nodes, :3]).max()), 0.001)

    def test_its_first_frames_go_on_as_it_moved(self) -> None:
        """In the air, where nothing stops it: within a tenth of its speed."""
        for name, motion, at in (("brannoc", walk, 9), ("wick", run, 5), ("wick", run, 12)):
            with self.subTest(name):
                rig = cast(name)[0]
                clip = motion(rig).with_curves({"master/ty": from_keys({1: 20.0})})
                rate, skin = 600.0, cast(name)[1]  # so quick that nothing has time to turn it aside
                posed = played({ONE: Figure(rig, clip)}, np.array([at - FPS / rate, at]))[ONE]
                was, now = (begin(rig, posed.values[n], posed.nodes[n]) for n in range(2))
                step = np.diff(posed.nodes[:, now.body.nodes, :3], axis=0)[0]
                one, other = fall(now, was, skin, {}, 1, rate, GRAVITY, Muscle())
                off = np.linalg.norm(other.place - one.place - step, axis=1)
                self.assertLess(float(off.max()), 0.1 * float(np.linalg.norm(step, axis=1).max()))

    def test_it_is_the_same_on_every_run(self) -> None:
        scene = scene_of("wick", run(cast("wick")[0]))
        edit = GoLimp(at=9, frames=40)
        one, other = (np.array([f.place for f in fallen(edit, scene, ONE)]) for _ in range(2))
        np.testing.assert_allclose(one, other, atol=1e-6)

    def test_with_nothing_to_fall_on_its_mass_falls_as_things_do(self) -> None:
        """The path of the centre of mass is a parabola, whatever its joints do (Newton; checked by hand)."""
        rig = cast("brannoc")[0]
        clip = stands(rig, 0.5).with_curves({"master/ty": from_keys({1: 30.0})})
        scene = scene_of("brannoc", clip)
        posed = played(scene.figures, np.array([9.0, 10.0]))[ONE]
        fell = list(fallen(GoLimp(at=10, frames=24), scene, ONE))
        done = made(GoLimp(at=10, frames=24), scene, ONE).clips[ONE]
        path = centre_of_mass(rig, played({ONE: Figure(rig, done)}, np.arange(10, 35))[ONE].nodes)
        speed = (centre_of_mass(rig, posed.nodes)[1] - centre_of_mass(rig, posed.nodes)[0]) * FPS
        seconds = np.arange(25)[:, None] / FPS
        wanted = path[0] + speed * seconds - [0.0, 0.5 * GRAVITY, 0.0] * seconds**2
        # Links without mass of their own have a little here, so that the mass is a little beside.
        np.testing.assert_allclose(path, wanted, atol=0.03)
        self.assertAlmostEqual(fell[0].energy, fell[-1].energy, delta=0.02 * fell[0].energy)

    def test_limbs_do_not_go_through_one_another(self) -> None:
        """Hands and shins stay out of head, chest and hips: their middles are not nearer than these are thick."""
        scene = scene_of("wick", run(cast("wick")[0]))
        fell = list(fallen(GoLimp(at=9, frames=SHORT), scene, ONE))
        rig = scene.figures[ONE].rig
        posed = played(scene.figures, np.array([9.0]))[ONE]
        names = [link.name for link in begin(rig, posed.values[0], posed.nodes[0]).body.links]
        places = np.array([one.place for one in fell])
        for part in ("arm.L.hand", "arm.R.hand", "leg.L.foot", "leg.R.foot"):
            for other in ("hips", "chest", "head"):
                apart = np.linalg.norm(places[:, names.index(part)] - places[:, names.index(other)], axis=1)
                self.assertGreater(float(apart.min()), 0.06, f"{part} in {other}")

    def test_muscle_holds_how_it_stands(self) -> None:
        scene = scene_of("brannoc", stands(cast("brannoc")[0]))
        heads = []
        for muscle in (0.0, 0.2, 1.0):
            edit = GoLimp(at=10, frames=24, trunk=muscle, head=muscle, arms=muscle, legs=muscle)
            heads.append(float(list(fallen(edit, scene, ONE))[-1].place[6, 1]))
        self.assertEqual(heads, sorted(heads))
        self.assertLess(heads[0], 1.0)
        self.assertGreater(heads[2], 1.3)


class TakenTest(unittest.TestCase):
    def make(self, edit: GoLimp, scene: Scene) -> Made:
        return made(edit, scene, ONE)

    def test_it_is_taken_as_few_keys_within_five_millimetres(self) -> None:
        rig, skin = cast("brannoc")
        clip = stands(rig, 0.6).with_tracks({f"plant/leg.{side}.goal": (Plant(1, 60),) for side in "LR"})
        scene = scene_of("brannoc", clip)
        edit = GoLimp(at=10, frames=SHORT)
        fell = list(fallen(edit, scene, ONE))
        done = self.make(edit, scene)
        self.assertEqual(done.notes[0], "it falls from 10 to 70")
        after = done.clips[ONE]
        posed = played({ONE: Figure(rig, after)}, np.arange(1, 71))[ONE]
        nodes = begin(rig, posed.values[9], posed.nodes[9]).body.nodes
        places = np.array([one.place for one in fell])
        off = np.linalg.norm(posed.nodes[9:, nodes, :3] - places, axis=2)
        self.assertLess(float(off.max()), 0.0055)
        # What came before plays as it did, and its feet are planted up to there.
        was = played({ONE: Figure(rig, clip)}, np.arange(1, 11))[ONE]
        joints = rig.joint_nodes
        np.testing.assert_allclose(posed.nodes[:10, joints], was.nodes[:, joints], atol=1e-4)
        self.assertEqual([span.end for span in after.tracks["plant/leg.L.goal"]], [10])
        keys = [len(curve.table) for address, curve in after.curves.items() if address.startswith("spine/r")]
        self.assertTrue(keys and max(keys) < 45, keys)
        # No firm part of it is sunk by more than five millimetres, as it is keyed.
        for frame in range(9, 70, 6):
            self.assertGreater(float(surface(rig, skin, posed, frame)[:, 1].min()), -0.0055)

    def test_a_creature_is_taken_alike(self) -> None:
        rig, skin = cast("tide-crab")
        scene = scene_of("tide-crab", Clip())
        edit = GoLimp(at=10, frames=20, legs=0.1)
        fell = list(fallen(edit, scene, ONE))
        posed = played({ONE: Figure(rig, self.make(edit, scene).clips[ONE])}, np.arange(10, 31))[ONE]
        nodes = begin(rig, posed.values[0], posed.nodes[0]).body.nodes
        off = np.linalg.norm(posed.nodes[:, nodes, :3] - np.array([one.place for one in fell]), axis=2)
        self.assertLess(float(off.max()), 0.0055)
        # A wide and nearly flat belly does not sink between the points at which it is looked at.
        self.assertGreater(min(float(surface(rig, skin, posed, f)[:, 1].min()) for f in (8, 14, 20)), -0.005)

    def test_what_comes_later_stays_and_is_told(self) -> None:
        rig, _ = cast("brannoc")
        clip = stands(rig).with_curves({"body/ty": from_keys({1: 0.0, 90: -0.2, 100: 0.0})})
        done = self.make(GoLimp(at=10, frames=30), scene_of("brannoc", clip))
        self.assertIn("stays: it gets up into that", done.notes[-1])
        after = played({ONE: Figure(rig, done.clips[ONE])}, np.arange(90, 101))[ONE]
        before = played({ONE: Figure(rig, clip)}, np.arange(90, 101))[ONE]
        np.testing.assert_allclose(after.values[:, rig.number("body/ty")], before.values[:, rig.number("body/ty")],
                                   atol=1e-9)  # fmt: skip
        self.assertTrue((after.values[:, rig.number("leg.L/ik")] > 0.5).all())

    def test_what_it_carries_falls_as_well(self) -> None:
        rig, skin = cast("brannoc")
        clip = stands(rig)
        grip = Clip().with_tracks({"belonging/master": (Belonging(1, 100, ONE, "arm.L.goal"),)})
        box = heavy(5.0)
        scene = Scene({ONE: Figure(rig, clip, "Brannoc"), BOX: Figure(box, grip, "Crate")}, 1, 200, of=ONE, fps=FPS,
                      skins={ONE: skin, BOX: crate()[1]})  # fmt: skip
        done = self.make(GoLimp(at=10, frames=40), scene)
        self.assertEqual(set(done.clips), {ONE, BOX})
        self.assertIn("Crate fell as well", done.notes)
        figures = {n: scene.figures[n].with_clip(clip) for n, clip in done.clips.items()}
        posed = played(figures, np.arange(1, 51))
        held = played(scene.figures, np.arange(1, 51))
        node = box.controls[0].node
        np.testing.assert_allclose(posed[BOX].nodes[:10, node], held[BOX].nodes[:10, node], atol=1e-4)
        corners = surface(box, crate()[1], posed[BOX], 49)
        self.assertAlmostEqual(float(corners[:, 1].min()), 0.0, delta=0.008)
        self.assertGreater(masses_of(box).kilograms, 4.9)

    def test_it_falls_onto_a_prop(self) -> None:
        rig, skin = cast("brannoc")
        clip = stands(rig).with_curves({"master/ty": from_keys({1: 1.2})})
        scene = Scene({ONE: Figure(rig, clip, "Brannoc"), BOX: Figure(heavy(500.0), Clip(), "Crate")}, 1, 200, of=ONE,
                      fps=FPS, skins={ONE: skin, BOX: crate()[1]})  # fmt: skip
        bare = Scene({ONE: Figure(rig, clip, "Brannoc")}, 1, 200, of=ONE, fps=FPS, skins={ONE: skin})
        on, off = (list(fallen(GoLimp(at=10, frames=30), s, ONE)) for s in (scene, bare))
        self.assertGreater(float(np.abs(on[-1].place - off[-1].place).max()), 0.05)

    def test_layers_over_it_are_made_up_for(self) -> None:
        rig, _ = cast("brannoc")
        scene = scene_of("brannoc", stands(rig))
        layered = made(AddLayer(name="Tired"), scene, ONE).clips[ONE]
        [number] = layers_of(layered)
        figures = {ONE: Figure(rig, layered, "Brannoc")}
        bent = made(SetPose(frame=1, values={"spine/rx": 0.2}, layer=number), Scene(figures, 1, 200, fps=FPS), ONE)
        scene = scene_of("brannoc", bent.clips[ONE])
        edit = GoLimp(at=10, frames=30)
        fell = list(fallen(edit, scene, ONE))
        posed = played({ONE: Figure(rig, self.make(edit, scene).clips[ONE])}, np.arange(10, 41))[ONE]
        nodes = begin(rig, posed.values[0], posed.nodes[0]).body.nodes
        off = np.linalg.norm(posed.nodes[:, nodes, :3] - np.array([one.place for one in fell]), axis=2)
        self.assertLess(float(off.max()), 0.006)

    def test_what_cannot_be_is_refused(self) -> None:
        rig, _ = cast("brannoc")
        scene = scene_of("brannoc", stands(rig))
        for edit, words in (
            (GoLimp(at=400), "outside of the shot"), (GoLimp(at=10, frames=1000), "240"),
            (GoLimp(at=10, legs=1.5), "legs"),
        ):  # fmt: skip
            with self.subTest(words), self.assertRaisesRegex(BadEdit, words):
                self.make(edit, scene)
        slow = replace(scene, fps=4.0)
        self.assertIn("body/ty", self.make(GoLimp(at=10, frames=6), slow).clips[ONE].curves)
        with self.assertRaisesRegex(BadEdit, "12 seconds at most, which are 48 frames here"):
            self.make(GoLimp(at=10, frames=49), slow)
        box = Scene({ONE: Figure(heavy(5.0), Clip(), "Crate")}, 1, 200, of=ONE, fps=FPS)
        with self.assertRaisesRegex(BadEdit, "no body that could go limp"):
            self.make(GoLimp(at=10), box)


if __name__ == "__main__":
    unittest.main()
