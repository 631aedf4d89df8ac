"""Plants, belonging, layers and rules of a choice taken away at once: what would jump is said before it does."""

from __future__ import annotations

import unittest

import numpy as np

from hame.clip.belonging import Belonging
from hame.clip.clip import Clip
from hame.clip.curve import from_keys
from hame.clip.layers import address_in, layers_of
from hame.clip.living import Living
from hame.clip.plants import Plant
from hame.clip.shake import Shake
from hame.clip.spans import OWN
from hame.edits.clearing import ClearAway
from hame.edits.edit import Edit
from hame.edits.layers import new_layer
from hame.edits.making import Made, made
from hame.errors import Asks, BadEdit
from hame.evaluate.evaluate import channel_values, evaluate, joints
from hame.scene.scene import Figure, Scene
from tests.hame.examples import brannoc_rig


class ClearingTest(unittest.TestCase):
    def setUp(self) -> None:
        self.rig = brannoc_rig()
        walk = {"master/tz": from_keys({1: 0.0, 40: 1.0}), "leg.L.goal/tz": from_keys({1: 0.0, 40: 0.1})}
        clip, number = new_layer(Clip().with_curves(walk), "Nod")
        clip = clip.with_curves({
            address_in(number, "head/rx"): from_keys({1: 0.0, 20: 0.4}),
            address_in(number, "chest/rx"): from_keys({1: 0.0, 20: 0.1}),
        })  # fmt: skip
        self.clip = clip.with_tracks({
            "plant/leg.L.goal": (Plant(1, 12), Plant(20, 30)), "plant/leg.R.goal": (Plant(1, 12),),
            "belonging/head": (Belonging(3, 9, OWN, "hips", "both", 1.0, 1, 1),),
            "living": (Living(1, 40, head=0.01),), "shake/hips": (Shake(1, 20, nod=0.05),),
        })  # fmt: skip

    def make(self, edit: Edit, clip: Clip | None = None) -> Made:
        return made(edit, Scene({1: Figure(self.rig, clip or self.clip, "Brannoc")}, 1, 48), 1)

    def test_what_would_jump_is_said_first_with_how_far(self) -> None:
        with self.assertRaisesRegex(Asks, r"2 plants, .* would move by (\d+\.\d) cm at (\d+)") as refused:
            self.make(ClearAway(what=("plants",), controls=("leg.L.goal",)))
        done = self.make(ClearAway(what=("plants",), controls=("leg.L.goal",), anyway=True))
        clip = done.clips[1]
        self.assertFalse(clip.tracks.get("plant/leg.L.goal"))
        self.assertTrue(clip.tracks["plant/leg.R.goal"])
        frames = np.arange(1.0, 49.0)
        stood = [joints(self.rig, evaluate(self.rig, channel_values(self.rig, c, frames))) for c in (self.clip, clip)]  # type: ignore[arg-type]
        far = 100 * np.linalg.norm(stood[1][:, :, :3] - stood[0][:, :, :3], axis=2).max()
        self.assertIn(f"by {far:.1f} cm", str(refused.exception))
        self.assertIn("2 plants taken away", " ".join(done.notes))

    def test_each_kind_goes_and_the_others_stay(self) -> None:
        for what, gone in (
            ("plants", {"plant/leg.L.goal", "plant/leg.R.goal"}), ("belonging", {"belonging/head"}),
            ("rules", {"living", "shake/hips"}), ("layers", {"layer/1"}),
        ):  # fmt: skip
            clip = self.make(ClearAway(what=(what,), anyway=True)).clips[1]  # type: ignore[arg-type]
            left = {track for track, spans in self.clip.tracks.items() if spans} - gone
            self.assertEqual({track for track, spans in clip.tracks.items() if spans}, left, what)
            self.assertEqual(any(a.startswith("#") for a in clip.curves), what != "layers")
        nothing = self.make(ClearAway(what=("plants", "belonging", "layers", "rules"), anyway=True)).clips[1]
        self.assertFalse(any(nothing.tracks.values()))

    def test_of_a_layer_that_is_of_more_only_what_is_chosen_goes(self) -> None:
        clip = self.make(ClearAway(what=("layers",), controls=("head",), anyway=True)).clips[1]
        self.assertEqual(len(layers_of(clip)), 1)
        self.assertEqual([a for a in clip.curves if a.startswith("#")], ["#1/chest/rx"])

    def test_what_moves_nothing_needs_no_word(self) -> None:
        still = Clip().with_tracks({"plant/leg.L.goal": (Plant(1, 12),)})
        done = self.make(ClearAway(what=("plants",)), still)
        self.assertIn("nothing moved", " ".join(done.notes))

    def test_where_there_is_nothing_it_is_refused(self) -> None:
        for edit, words in (
            (ClearAway(what=("plants",), controls=("head",)), "no plant"),
            (ClearAway(what=()), "nothing to take away"),
            (ClearAway(what=("plants",), controls=("tail",)), "tail"),
        ):
            with self.subTest(words), self.assertRaisesRegex(BadEdit, words):
                self.make(edit)


if __name__ == "__main__":
    unittest.main()
