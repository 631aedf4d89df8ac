"""One step for several of the cast: each gets its own, and who cannot take part is left out and named."""

from __future__ import annotations

import unittest

import numpy as np

from hame.clip.clip import Clip
from hame.clip.curve import from_keys
from hame.clip.layers import address_in
from hame.clip.plants import Plant
from hame.edits.edit import Edit
from hame.edits.making import Made, made
from hame.edits.reading import edit_from_json, edit_to_json
from hame.edits.together import Part, Together
from hame.errors import Asks, BadEdit
from hame.maths import transforms
from hame.scene.joined import played
from hame.scene.scene import Figure, Scene
from tests.hame.examples import brannoc_rig, prop_rig


def key(frame: int) -> dict[str, object]:
    return {"kind": "key", "frame": frame}


class TogetherTest(unittest.TestCase):
    def setUp(self) -> None:
        self.rig, self.thing = brannoc_rig(), prop_rig("signal_lamp")
        self.moved = Clip().with_curves({"head/ry": from_keys({1: 0.1, 9: 0.3})})

    def scene(self, **others: Figure) -> Scene:
        figures = {
            1: Figure(self.rig, self.moved, "Brannoc"), 2: Figure(self.rig, Clip(), "Wick"),
            3: Figure(self.thing, Clip(), "Lantern"),
        }  # fmt: skip
        return Scene({**figures, **{int(n[1:]): figure for n, figure in others.items()}}, 1, 48)

    def make(self, edit: Edit, scene: Scene | None = None) -> Made:
        return made(edit, scene or self.scene(), 1)

    def test_a_set_of_two_figures_and_a_prop_is_keyed_in_one_step(self) -> None:
        edit = Together(parts=tuple(Part(n, key(24)) for n in (1, 2, 3)))
        done = self.make(edit)
        self.assertEqual(set(done.clips), {1, 2, 3})
        for clip in done.clips.values():
            self.assertIn(24, clip.key_frames())
        self.assertEqual(
            edit.label(self.rig, self.scene()), "Key the whole character at 24 (Brannoc, Wick and Lantern)"
        )
        self.assertEqual(edit_from_json(edit_to_json(edit)), edit)

    def test_what_makes_room_and_what_comes_then_are_one_step_or_none(self) -> None:
        room = {"kind": "add layer"}
        pose = {"kind": "pose", "frame": 5, "values": {"head/ry": 0.5}}
        step = Together(parts=(Part(1, room), Part(1, {**pose, "layer": 1})), whole=True)
        after = self.make(step).clips[1]
        self.assertEqual(after.curves["head/ry"], self.moved.curves["head/ry"])
        self.assertIn(address_in(1, "head/ry"), after.curves)
        self.assertTrue(step.label(self.rig, self.scene()).startswith("Layer added, then "))
        with self.assertRaisesRegex(BadEdit, "not there"):
            self.make(Together(parts=(Part(1, room), Part(1, {**pose, "layer": 7})), whole=True))

    def test_each_gets_its_own(self) -> None:
        parts = (
            Part(1, {"kind": "pose", "frame": 5, "values": {"head/ry": 0.5}}),
            Part(2, {"kind": "pose", "frame": 5, "values": {"head/ry": -0.5}}),
        )
        done = self.make(Together(parts=parts))
        self.assertEqual([done.clips[n].curves["head/ry"].values[-1] for n in (2,)], [-0.5])
        self.assertIn(0.5, done.clips[1].curves["head/ry"].values.tolist())

    def test_who_cannot_take_part_is_left_out_and_named(self) -> None:
        protected = Figure(self.rig, Clip(), "Wick", tuple(c.name for c in self.rig.controls))
        gone = Figure(self.thing, Clip(), "Lantern", plays=False)
        done = self.make(Together(parts=tuple(Part(n, key(24)) for n in (1, 2, 3))), self.scene(_2=protected, _3=gone))
        self.assertEqual(set(done.clips), {1})
        said = " ".join(done.notes)
        self.assertIn("Wick was left out: protected", said)
        self.assertIn("Lantern was left out: it was taken out", said)
        moving = Together(parts=tuple(Part(n, {"kind": "move", "frames": [9], "by": 2}) for n in (1, 2)))
        done = self.make(moving)
        self.assertEqual(done.clips[1].key_frames(), [1, 11])
        self.assertIn("Wick was left out", " ".join(done.notes))
        self.assertEqual(moving.moves_time(), edit_from_json({"kind": "move", "frames": [9], "by": 2}).moves_time())

    def test_a_later_one_sees_what_an_earlier_one_did(self) -> None:
        parts = (
            Part(1, {"kind": "pose", "frame": 5, "values": {"body/ty": -0.1}}),
            Part(2, {"kind": "carry", "figure": 1, "controls": None, "way": "along"}),
        )
        done = self.make(Together(parts=parts))
        self.assertIn("body/ty", done.clips[2].curves)

    def test_what_one_asks_is_asked_of_all(self) -> None:
        moved = self.moved.with_curves({"master/tz": from_keys({1: 0.0, 9: 1.0})})
        planted = Figure(self.rig, moved.with_tracks({"plant/leg.L.goal": (Plant(1, 6),)}), "Wick")
        parts = tuple(Part(n, {"kind": "clear away", "what": ["plants"]}) for n in (1, 2))
        with self.assertRaisesRegex(Asks, "Wick: without 1 plant"):
            self.make(Together(parts=parts), self.scene(_2=planted))
        done = self.make(Together(parts=parts, anyway=True), self.scene(_2=planted))
        self.assertEqual(set(done.clips), {2})

    def test_one_of_the_cast_may_have_several_in_their_order(self) -> None:
        done = self.make(Together(parts=(Part(1, key(3)), Part(1, {"kind": "move", "frames": [3], "by": 2}))))
        self.assertEqual(done.clips[1].key_frames(), [1, 5, 9])

    def test_a_thing_is_held_by_both_hands_in_one_step_or_not_at_all(self) -> None:
        walk = {"body/tx": from_keys({1: 0.0, 20: 0.2}), "arm.R.goal/ty": from_keys({1: 0.0, 20: 0.15})}
        arms = {f"arm.{side}/ik": from_keys({1: 1.0 if side == "R" else 0.0}) for side in "LR"}
        holder = Figure(self.rig, Clip().with_curves({**walk, **arms}), "Brannoc")
        spans = {"start": 1, "end": 20, "ties": "both"}
        parts = (
            Part(1, {"kind": "limb", "frame": 1, "limb": "arm.L", "to": "ik"}),
            Part(3, {"kind": "belong", "controls": ["master"], "figure": 1, "to": "arm.R.goal", **spans}),
            Part(1, {"kind": "belong", "controls": ["arm.L.goal"], "figure": 3, "to": "master", **spans}),
        )
        scene = self.scene(_1=holder)
        done = self.make(Together(parts=parts, whole=True), scene)
        figures = {n: scene.figures[n].with_clip(done.clips[n]) for n in (1, 3)}
        stood = played(figures, np.arange(1.0, 21.0))
        goal = self.rig.control("arm.L.goal").node
        thing = stood[3].rig.controls[0].node
        from_thing = transforms.compose(transforms.inverse(stood[3].nodes[:, thing]), stood[1].nodes[:, goal])
        self.assertLess(np.abs(from_thing - from_thing[0]).max(), 1e-6)
        self.assertGreater(np.ptp(stood[3].nodes[:, thing, 1]), 0.1)
        strange = Part(1, {"kind": "belong", "controls": ["arm.L.goal"], "figure": 3, "to": "anchor", **spans})
        with self.assertRaisesRegex(BadEdit, "anchor"):
            self.make(Together(parts=(*parts[:2], strange), whole=True), scene)

    def test_nobody_and_steps_within_steps_are_refused(self) -> None:
        inner = {"kind": "together", "parts": [{"casting": 1, "edit": key(3)}]}
        for parts, words in (
            ((), "nobody is chosen"),
            ((Part(1, inner),), "none for several"),
            ((Part(9, key(3)),), "does not play"),
            ((Part(1, {"kind": "dance"}),), "not an edit"),
            ((Part(2, {"kind": "move", "frames": [9], "by": 2}),), "no keys"),
            (tuple(Part(n, key(3)) for n in range(1, 200)), "too many"),
        ):
            with self.subTest(words), self.assertRaisesRegex(BadEdit, words):
                self.make(Together(parts=parts))


if __name__ == "__main__":
    unittest.main()
