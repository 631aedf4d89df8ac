"""Faults that run over several frames, mended by as few keys as hold them; measured by what finds faults."""

from __future__ import annotations

import unittest

import numpy as np

from hame.clip.clip import Clip
from hame.clip.curve import from_keys
from hame.clip.plants import Plant
from hame.edits.making import made
from hame.edits.overrun import MendRun
from hame.errors import BadEdit
from hame.evaluate.evaluate import channel_values
from hame.faults.fault import Alert
from hame.scene.joined import played
from hame.scene.scene import Figure, Scene
from tests.hame.examples import brannoc_rig, prop_rig
from tests.hame.faulty import alerts
from tests.hame.test_ties import FOOT, planted


class OverRunTest(unittest.TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        cls.rig = brannoc_rig()

    def found(self, clip: Clip, kind: str) -> list[Alert]:
        posed = played({1: Figure(self.rig, clip)}, np.arange(1, 49))[1]
        return [alert for alert in alerts(clip, posed, 1, 24.0) if alert.kind == kind]

    def values(self, clip: Clip, frames: object) -> np.ndarray:
        return channel_values(self.rig, clip, np.asarray(frames, float))

    def check(self, clip: Clip, kind: str, most_keys: int) -> None:
        """Mends a fault by its alert: gone in its run, few keys, and nothing else moved."""
        [alert] = [one for one in self.found(clip, kind) if one.last - one.first > 3]
        self.assertIsInstance(alert.mend, MendRun)
        assert alert.mend is not None
        after = made(alert.mend, Scene({1: Figure(self.rig, clip)}, 1, 48), 1).clips[1]
        left = [one for one in self.found(after, kind) if one.first <= alert.last and alert.first <= one.last]
        self.assertEqual(left, [])
        new = set(after.key_frames()) - set(clip.key_frames()) - {alert.first - 1, alert.last + 1}
        self.assertLessEqual(len(new), most_keys)
        beyond = np.r_[np.arange(-10, alert.first - 1 + 0.01, 0.25), np.arange(alert.last + 1, 48.01, 0.25)]
        np.testing.assert_allclose(self.values(after, beyond), self.values(clip, beyond), rtol=0, atol=1e-9)
        for address, curve in clip.curves.items():
            if not new & set(after.curves[address].frames):
                np.testing.assert_array_equal(after.curves[address].table, curve.table, address)
        self.assertFalse(np.allclose(self.values(after, [alert.worst]), self.values(clip, [alert.worst]), atol=1e-6))

    def test_a_foot_that_sinks_over_a_run_is_lifted(self) -> None:
        low = {
            "body/ty": from_keys({1: -0.1, 40: -0.1}),
            f"{FOOT}/ty": from_keys({1: 0.0, 12: -0.02, 20: -0.03, 30: 0.0}),
        }
        low["head/ry"] = from_keys({1: 0.0, 40: 0.5})  # which has nothing to do with it
        self.check(Clip().with_curves(low), "sink", 6)

    def test_keys_that_lie_at_the_edges_of_the_run_lead_what_is_beyond_as_they_did(self) -> None:
        low = {
            "body/ty": from_keys({1: -0.1, 40: -0.1}),
            f"{FOOT}/ty": from_keys({1: 0.03, 3: 0.0, 12: -0.02, 20: -0.03, 29: 0.0, 31: 0.03}),
        }
        clip = Clip().with_curves(low)
        [alert] = [one for one in self.found(clip, "sink") if one.last - one.first > 3]
        self.assertTrue({alert.first - 1, alert.last + 1} & {3, 29})
        self.check(clip, "sink", 6)

    def test_a_foot_planted_in_the_air_is_lowered_with_its_whole_plant(self) -> None:
        keys = {
            "body/ty": from_keys({1: -0.1, 40: -0.1}),
            f"{FOOT}/ty": from_keys({1: 0.0, 8: 0.03, 24: 0.03, 40: 0.0}),
        }
        clip = planted(Clip().with_curves(keys), Plant(8, 24))
        [alert] = self.found(clip, "float")
        assert alert.mend is not None
        after = made(alert.mend, Scene({1: Figure(self.rig, clip)}, 1, 48), 1).clips[1]
        self.assertEqual(self.found(after, "float"), [])

    def test_a_limb_too_short_over_a_run_takes_the_body_along(self) -> None:
        keys = {"body/ty": from_keys({1: -0.05, 40: -0.05}), f"{FOOT}/tz": from_keys({1: 0.0, 20: 0.5, 40: 0.0})}
        self.check(Clip().with_curves(keys), "reach", 8)

    def test_a_body_that_would_fall_over_a_run_is_brought_back(self) -> None:
        keys = {"body/tx": from_keys({1: 0.0, 8: 0.25, 32: 0.25, 40: 0.0}), "body/ty": from_keys({1: -0.1, 40: -0.1})}
        self.check(Clip().with_curves(keys), "balance", 8)

    def test_what_is_in_order_and_frames_out_of_reach_are_refused(self) -> None:
        scene = Scene({1: Figure(self.rig, Clip().with_curves({"body/ty": from_keys({1: -0.1})}))}, 1, 48)
        for edit, words in (
            (MendRun(fault="sunk", control=FOOT, first=3, last=9), "nothing of that to mend"),
            (MendRun(fault="sunk", control=FOOT, first=60, last=70), "outside of the shot"),
            (MendRun(fault="sunk", control="head", first=3, last=9), "of no limb"),
            (MendRun(fault="sunk", control="arm.L.goal", first=3, last=9), "no sole"),
        ):
            with self.subTest(words), self.assertRaisesRegex(BadEdit, words):
                made(edit, scene, 1)
        with self.assertRaisesRegex(BadEdit, "no body"):
            made(MendRun(fault="falling", first=3, last=9), Scene({1: Figure(prop_rig("crate"))}, 1, 48), 1)
