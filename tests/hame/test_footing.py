"""Weight from foot to foot: over the one that stays before the other leaves; plants and named poses stay."""

from __future__ import annotations

import unittest

import numpy as np

from hame.character.masses import centre_of_mass
from hame.clip.clip import Clip
from hame.clip.curve import from_keys
from hame.clip.marks import Label
from hame.clip.plants import Plant
from hame.edits.edit import Edit
from hame.edits.footing import OverFeet, steps_of
from hame.edits.making import Made, made
from hame.errors import BadEdit
from hame.evaluate.posed import Posed
from hame.maths.rotations import Array
from hame.measure.balance import hull, inside
from hame.measure.soles import sole_outline
from hame.scene.joined import played
from hame.scene.scene import Figure, Scene
from tests.hame.examples import brannoc_rig

RELEASES = {21: "leg.R", 41: "leg.L", 61: "leg.R"}  # who stays, by the frame of the last touch of the other


class FootingTest(unittest.TestCase):
    """Three slow steps of 0.25 m in which the body goes ahead evenly, between the feet."""

    def setUp(self) -> None:
        self.rig = brannoc_rig()
        left = {1: 0.0, 21: 0.0, 31: 0.25, 61: 0.25, 71: 0.75}
        right = {1: 0.0, 41: 0.0, 51: 0.5, 90: 0.5}
        lifted = {1: 0.0, 21: 0.0, 26: 0.06, 31: 0.0, 61: 0.0, 66: 0.06, 71: 0.0}
        self.clip = Clip().with_curves({
            "leg.L.goal/tz": from_keys(left), "leg.R.goal/tz": from_keys(right),
            "leg.L.goal/ty": from_keys(lifted), "leg.R.goal/ty": from_keys({1: 0.0, 41: 0.0, 46: 0.06, 51: 0.0}),
            "body/ty": from_keys({1: -0.08}), "body/tz": from_keys({1: 0.0, 80: 0.55}),
        }).with_tracks({
            "plant/leg.L.goal": (Plant(1, 21), Plant(31, 61), Plant(71, 90)),
            "plant/leg.R.goal": (Plant(1, 41), Plant(51, 90)),
        })  # fmt: skip

    def make(self, edit: Edit, clip: Clip | None = None) -> Made:
        scene = Scene({1: Figure(self.rig, clip or self.clip)}, 1, 100, of=1)
        return made(edit, scene, 1)

    def posed(self, clip: Clip, frames: Array) -> Posed:
        return played({1: Figure(self.rig, clip)}, frames)[1]

    def margins(self, clip: Clip) -> dict[int, float]:
        """How far the mass is inside of the sole that stays, at each release and on the frame before, the least."""
        found = {}
        for release, stays in RELEASES.items():
            posed = self.posed(clip, np.array([release - 1.0, release]))
            centres = centre_of_mass(self.rig, posed.nodes)[:, [0, 2]]
            soles = sole_outline(self.rig, self.rig.limb(stays), posed.nodes)[:, :, [0, 2]]
            found[release] = min(inside(hull(sole), at) for sole, at in zip(soles, centres, strict=True))
        return found

    def test_steps_are_found_where_a_planted_foot_leaves_and_another_stays(self) -> None:
        found = steps_of(self.clip, self.rig, 1, 90)
        self.assertEqual([(s.release, [limb.name for limb in s.bear]) for s in found],
                         [(release, [stays]) for release, stays in RELEASES.items()])  # fmt: skip
        self.assertEqual([s.release for s in steps_of(self.clip, self.rig, 30, 50)], [41])

    def test_the_mass_is_over_the_foot_that_stays_before_each_release(self) -> None:
        self.assertLess(max(self.margins(self.clip).values()), 0.0)
        done = self.make(OverFeet(first=1, last=90))
        after = done.clips[1]
        for release, margin in self.margins(after).items():
            self.assertGreater(margin, 0.002, release)
        # Plants move nothing, and at the ends and beyond nothing moves at all.
        frames = np.arange(1.0, 101.0, 0.5)
        old, new = self.posed(self.clip, frames).nodes, self.posed(after, frames).nodes
        for limb in self.rig.limbs:
            if limb.kind == "leg":
                soles = [sole_outline(self.rig, limb, nodes) for nodes in (old, new)]
                for plant in self.clip.tracks[f"plant/{limb.ik}"]:
                    held = (frames >= plant.start) & (frames <= plant.end)
                    np.testing.assert_allclose(soles[1][held], soles[0][held], atol=1e-9)
        still = (frames <= 1) | (frames >= 90)
        np.testing.assert_allclose(new[still], old[still], atol=1e-9)
        # A key for each step beside the ends, and on nothing but the body's place.
        for address, curve in after.curves.items():
            if curve is not self.clip.curves.get(address):
                self.assertIn(address, ("body/tx", "body/tz"))
                more = set(curve.frames) - set(self.clip.curves[address].frames if address in self.clip.curves else ())
                self.assertLessEqual(len(more), 2 * len(RELEASES))
        self.assertIn("3 releases", done.notes[0])

    def test_done_again_there_is_nothing_left(self) -> None:
        after = self.make(OverFeet(first=1, last=90)).clips[1]
        with self.assertRaisesRegex(BadEdit, "already before each release"):
            self.make(OverFeet(first=1, last=90), after)

    def test_named_poses_stay_unless_they_are_chosen(self) -> None:
        named = self.clip.with_labels({31: Label("Down"), 41: Label("Up")})
        done = self.make(OverFeet(first=1, last=90), named)
        frames = np.array([31.0, 41.0])
        old, new = (self.posed(clip, frames).nodes[..., :3] for clip in (named, done.clips[1]))
        self.assertLess(float(np.abs(new - old).max()), 0.001)
        self.assertIn("at frame 41 a pose stays", done.notes[0])
        margins = self.margins(done.clips[1])
        self.assertTrue(margins[41] < 0.0 < min(margins[21], margins[61]))
        free = self.make(OverFeet(first=1, last=90, free=(41,)), named).clips[1]
        self.assertGreater(min(self.margins(free).values()), 0.002)

    def test_quick_steps_are_left_as_they_are_borne_in_motion(self) -> None:
        fast = self.clip.with_curves({"body/tz": from_keys({1: 0.0, 20: 0.0, 22: 0.3, 80: 0.55})})
        done = self.make(OverFeet(first=1, last=90), fast)
        self.assertIn("quick steps at frame 21 are borne in motion", done.notes[0])

    def test_a_turned_figure_is_brought_over_its_feet_too(self) -> None:
        turned = self.clip.with_curves({"master/ry": from_keys({1: 2.0}), "master/tx": from_keys({1: 3.0})})
        after = self.make(OverFeet(first=1, last=90), turned).clips[1]
        self.assertGreater(min(self.margins(after).values()), 0.002)

    def test_what_cannot_be_is_refused(self) -> None:
        bare = self.clip.with_tracks(dict.fromkeys(self.clip.tracks, ()))
        for edit, clip, words in (
            (OverFeet(first=1, last=90), bare, "plant the feet first"),
            (OverFeet(first=1, last=20), None, "plant the feet first"),
            (OverFeet(first=60, last=20), None, "before it begins"),
            (OverFeet(first=200, last=300), None, "outside of the shot"),
            (OverFeet(first=21, last=41), None, "plant the feet first"),
        ):
            with self.subTest(words), self.assertRaisesRegex(BadEdit, words):
                self.make(edit, clip)


if __name__ == "__main__":
    unittest.main()
