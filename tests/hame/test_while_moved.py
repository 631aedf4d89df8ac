"""What hangs on a body, and what it looks at, as a hand moves it."""

from __future__ import annotations

import unittest
from typing import Any
from unittest.mock import patch

import numpy as np

from hame.clip.clip import Clip
from hame.clip.curve import from_keys
from hame.clip.gaze import Gaze
from hame.clip.layer import Layer
from hame.clip.spring import Spring
from hame.demo.shots import figure, walk_across
from hame.edits import whilemoved
from hame.edits.cycles import MakeCycle
from hame.edits.making import made
from hame.edits.pose import SetPose
from hame.edits.whilemoved import answers, as_keyed
from hame.evaluate.evaluate import channel_values
from hame.evaluate.springs import stage
from hame.scene.joined import seen
from hame.scene.scene import Figure, Scene

SCARF = "chain.scarf"


class WhileMovedTest(unittest.TestCase):
    def setUp(self) -> None:
        self.rig = figure("wick")[0]
        keys = {"chest/ry": {1: 0.0, 30: 0.6, 60: -0.4, 100: 0.2, 140: 0.0}, "body/tx": {1: 0.0, 90: 0.5, 140: 0.0}}
        self.clip = Clip().with_curves({a: from_keys(k) for a, k in keys.items()})
        self.clip = self.clip.with_tracks({f"spring/{SCARF}": [Spring(1, 150, weight=0.3)]})

    def scene(self, clip: Clip) -> Scene:
        return Scene({1: Figure(self.rig, clip)}, 1, 150)

    def told(self, clip: Clip, frame: int, values: dict[str, float], layer: int = 0) -> tuple[np.ndarray, np.ndarray]:
        """As it is told to a hand; and as it plays once it is keyed, of a clip of which nothing is known."""
        scene = self.scene(clip)
        found = as_keyed(scene, scene.figures, 1, frame, values, layer)
        assert found is not None
        done = made(SetPose(frame=frame, values=values, keying="changed", layer=layer), scene, 1).clips[1]
        return found[1], channel_values(self.rig, done.with_labels({}), [frame])[0]

    def test_what_hangs_is_told_as_it_will_be(self) -> None:
        for frame, values in (
            (100, {"chest/ry": -0.5}),
            (117, {"chest/ry": 0.9, "body/tx": 0.4}),
            (3, {"chest/rx": 0.4}),
        ):
            seen(self.scene(self.clip).figures, frame)  # what is known of it by then
            mine, then = self.told(self.clip, frame, values)
            np.testing.assert_allclose(mine, then, atol=1e-9)
            before = channel_values(self.rig, self.clip, [frame])[0]
            swings = [self.rig.number(f"scarf_{n}/r{a}") for n in range(1, 5) for a in "xyz"]
            self.assertGreater(float(np.abs(mine - before)[swings].max()), 0.01)

    def test_in_a_layer_and_over_a_cycle_as_well(self) -> None:
        layered = self.clip.with_tracks({**self.clip.tracks, "layer/1": [Layer(0, 0, name="Over", place=1)]})
        mine, then = self.told(layered, 100, {"chest/ry": -0.5}, 1)
        np.testing.assert_allclose(mine, then, atol=1e-9)
        walk = walk_across(self.rig)
        walk = walk.with_tracks({**walk.tracks, f"spring/{SCARF}": [Spring(1, 72, weight=0.3)]})
        seen(self.scene(walk).figures, 70)
        mine, then = self.told(walk, 5, {"chest/ry": 0.5})
        np.testing.assert_allclose(mine, then, atol=1e-9)

    def test_in_a_cycle_it_begins_by_all_of_that(self) -> None:
        keys = {"chest/ry": {1: 0.0, 30: 0.6, 60: -0.4, 80: 0.2, 101: 0.0}}
        clip = Clip().with_curves({a: from_keys(k) for a, k in keys.items()})
        clip = made(MakeCycle(start=1, end=101), self.scene(clip), 1).clips[1]
        clip = clip.with_tracks({**clip.tracks, f"spring/{SCARF}": [Spring(1, 150, period=60.0, rests=400.0)]})
        seen(self.scene(clip).figures, 140)
        mine, then = self.told(clip, 70, {"chest/ry": 1.2})
        np.testing.assert_allclose(mine, then, atol=1e-9)

    def test_eyes_stay_on_what_they_look_at(self) -> None:
        clip = self.clip.with_tracks({"gaze": [Gaze(1, 150, x=2.0, y=1.5, z=2.0)]})
        mine, then = self.told(clip, 100, {"chest/ry": -0.5})
        np.testing.assert_allclose(mine, then, atol=1e-9)
        self.assertTrue(answers(Figure(self.rig, clip), 100))

    def test_it_goes_on_from_what_is_known_before(self) -> None:
        counts = []
        for known in (False, True):
            clip, gone = self.clip.with_labels({}), []
            if known:
                seen(self.scene(clip).figures, 140)
            swing = stage.kernel.swing

            def counted(*given: object, gone: list[int] = gone, swing: Any = swing) -> None:
                gone.append(1)
                swing(*given)

            with patch.object(stage.kernel, "swing", counted):
                as_keyed(self.scene(clip), self.scene(clip).figures, 1, 140, {"chest/ry": 0.5})
            counts.append(len(gone))
        self.assertGreater(counts[0], 138)
        self.assertLess(counts[1], 120)  # from the checkpoint before the key before last, and from the last one for it

    def test_only_what_counts_there_and_not_too_much_of_it(self) -> None:
        mine = Figure(self.rig, self.clip)
        self.assertTrue(answers(mine, 100))
        self.assertFalse(answers(mine, 151))
        self.assertFalse(answers(Figure(self.rig, Clip()), 1))
        muted = self.clip.with_tracks({f"spring/{SCARF}": [Spring(1, 150, muted=True)]})
        self.assertFalse(answers(Figure(self.rig, muted), 100))
        with patch.object(whilemoved, "_MOST", 300):
            self.assertFalse(answers(mine, 100))
            self.assertTrue(answers(mine, 20))

    def test_what_cannot_be_keyed_is_told_otherwise(self) -> None:
        scene = self.scene(self.clip)
        self.assertIsNone(as_keyed(scene, scene.figures, 1, 100, {"chest/ry": float("nan")}))


if __name__ == "__main__":
    unittest.main()
