"""No edit may store what cannot be read, played or handed off afterwards."""

from __future__ import annotations

from unittest import TestCase

import numpy as np
import orjson

from hame.clip.clip import Clip, from_json
from hame.clip.curve import from_json as curve
from hame.edits.guard import guarded
from hame.edits.holds import hold_pose
from hame.edits.keys import move_keys, paste_keys
from hame.edits.outcome import Outcome
from hame.edits.overlap import Trail, delay_parts
from hame.edits.pose import key_pose, set_pose
from hame.errors import BadEdit
from hame.evaluate.evaluate import channel_values, evaluate
from tests.hame.examples import brannoc_rig


class BoundsTest(TestCase):
    def setUp(self) -> None:
        self.rig = brannoc_rig()
        self.clip = key_pose(Clip(), self.rig, 1).clip

    def guarded(self, outcome: Outcome) -> Clip:
        return guarded(self.clip, outcome, self.rig).clip

    def test_values_are_bounded_by_their_unit(self) -> None:
        for address, value, words in (
            ("body/tx", 1e160, "within a kilometre"),
            ("body/tx", 1e39, "within a kilometre"),
            ("body/tx", -1e308, "within a kilometre"),
            ("body/tx", 1000.5, "within a kilometre"),
            ("body/ry", 6284.0, "within a thousand"),
        ):
            for keying in ("changed", "off"):
                with self.assertRaisesRegex(BadEdit, words):
                    self.guarded(set_pose(self.clip, self.rig, 5, {address: value}, keying))  # type: ignore[arg-type]
        self.guarded(set_pose(self.clip, self.rig, 5, {"body/tx": 999.0, "body/ry": 6283.0}, "changed"))

    def test_handles_are_bounded(self) -> None:
        for handle in ([0, 0, 1e300, 0], [0, 0, 3, 1e38]):
            pasted = {"body/tx": [[1, 0.0, 2, *handle], [9, 1.0, 2]]}
            with self.assertRaisesRegex(BadEdit, "a handle of body/tx"):
                self.guarded(paste_keys(self.clip, self.rig, 1, pasted))

    def test_what_is_at_the_bounds_still_plays(self) -> None:
        far = {f"{c}/{t}": 999.0 for c in ("master", "body", "leg.L.goal", "leg.L.pole") for t in ("tx", "ty", "tz")}
        clip = self.guarded(set_pose(self.clip, self.rig, 5, {**far, "master/s": 100.0}, "changed"))
        nodes = evaluate(self.rig, channel_values(self.rig, clip, np.arange(1, 6)))
        self.assertTrue(np.isfinite(nodes.astype(np.float32)).all())

    def test_frames_stay_where_reading_takes_them(self) -> None:
        late = Clip().with_curves({"head/rx": curve([[999_990, 0.1, 2], [999_999, 0.2, 2]])})
        self.clip = late
        for edit in (
            lambda: hold_pose(late, self.rig, 999_999, 5),
            lambda: delay_parts(late, self.rig, [Trail(("head",), 12)]),
            lambda: move_keys(late, self.rig, {"head/rx": [999_999]}, 12),
        ):
            with self.assertRaisesRegex(BadEdit, "million"):
                self.guarded(edit())
        held = self.guarded(hold_pose(late, self.rig, 999_990, 5, push=False))
        self.assertEqual(from_json(orjson.loads(orjson.dumps(held.to_json()))).to_json(), held.to_json())
