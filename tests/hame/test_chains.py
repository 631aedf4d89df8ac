"""Chains of joints: bent as one, without kinks, and mirrored."""

from __future__ import annotations

import unittest

import numpy as np

from hame.character.bodyplan import BodyPlan
from hame.character.build import build_rig
from hame.character.rig import Rig
from hame.demo.shots import figure
from hame.evaluate.evaluate import evaluate, joints
from hame.maths.rotations import Array
from tests.hame.examples import skeleton_of

LENGTH = 0.12


def limpet(count: int = 9) -> Rig:
    """Hips with a tail of so many joints straight behind them, and two feelers of four, up and aside."""
    rows: dict[str, tuple[str | None, tuple[float, float, float]]] = {
        "hips": (None, (0, 0.5, 0)),
        "spine": ("hips", (0, 0.6, 0)),
        "head": ("spine", (0, 0.8, 0.1)),
    }
    for n in range(count):
        rows[f"tail_{n + 1}"] = (f"tail_{n}" if n else "hips", (0, 0.5, -0.1 - LENGTH * n))
    for side, x in (("l", 1.0), ("r", -1.0)):
        for n in range(4):
            at = (x * (0.05 + 0.03 * n), 0.9 + 0.1 * n, 0.1)
            rows[f"feeler_{n + 1}_{side}"] = (f"feeler_{n}_{side}" if n else "head", at)
    skeleton = skeleton_of(rows)
    return build_rig(skeleton, BodyPlan({"hips": "hips", "spine.1": "spine", "head": "head"}))


def places(rig: Rig, names: list[str], **values: float) -> Array:
    row = rig.rest.copy()
    for address, value in values.items():
        row[rig.number(address.replace("__", "/"))] = value
    found = joints(rig, evaluate(rig, row[None]))[0]
    return np.asarray(found[[rig.skeleton.index(name) for name in names], :3])


class ChainTest(unittest.TestCase):
    def setUp(self) -> None:
        self.rig = limpet()
        self.tail = [f"tail_{n}" for n in range(1, 10)]

    def test_they_are_found_where_joints_follow_one_another(self) -> None:
        names = [control.name for control in self.rig.controls if control.kind == "chain"]
        self.assertEqual(sorted(names), ["chain.feeler_1_l", "chain.feeler_1_r", "chain.tail"])
        for who, chains in (("wick", ["chain.scarf"]), ("bosun", ["chain.tail"]), ("brannoc", [])):
            rig = figure(who)[0]
            self.assertEqual([c.name for c in rig.controls if c.kind == "chain"], chains)

    def test_a_bend_goes_round_evenly_and_keeps_every_length(self) -> None:
        """Of a straight chain whose joints lie equally far apart: all on one circle, chords as long as they were."""
        for total in (0.5, 1.5, 5.0):
            for slider, flat in (("bend", 0), ("side", 1)):
                at = places(self.rig, self.tail, **{f"chain.tail__{slider}": total})
                steps = np.diff(at, axis=0)
                np.testing.assert_allclose(np.linalg.norm(steps, axis=1), LENGTH, rtol=1e-9)
                cosines = (steps[1:] * steps[:-1]).sum(axis=1) / LENGTH**2
                np.testing.assert_allclose(np.arccos(np.clip(cosines, -1.0, 1.0)), total / 9.0, atol=1e-6)
                self.assertLess(float(np.ptp(at[:, flat])), 1e-9)

    def test_it_bends_up_and_down_and_twists_about_itself(self) -> None:
        up, down = (places(self.rig, self.tail, **{"chain.tail__bend": by}) for by in (-0.8, 0.8))
        self.assertLess(float((up[-1, 1] - 0.5) * (down[-1, 1] - 0.5)), 0.0)
        twisted = places(self.rig, self.tail, **{"chain.tail__twist": 1.0})
        np.testing.assert_allclose(twisted, places(self.rig, self.tail), atol=1e-9)

    def test_sides_are_each_other_s_mirror_image(self) -> None:
        names = {side: [f"feeler_{n}_{side}" for n in range(1, 5)] for side in "lr"}
        for slider in ("bend", "side", "twist"):
            left, right = f"chain.feeler_1_l/{slider}", f"chain.feeler_1_r/{slider}"
            self.assertEqual(self.rig.counterpart(left), right)
            sign = self.rig.channels[self.rig.number(left)].mirror
            one = places(self.rig, names["l"], **{left.replace("/", "__"): 0.7})
            other = places(self.rig, names["r"], **{right.replace("/", "__"): sign * 0.7})
            np.testing.assert_allclose(one * [-1.0, 1.0, 1.0], other, atol=1e-9)

    def test_in_the_middle_it_is_swung_across(self) -> None:
        for slider in ("bend", "side", "twist"):
            sign = self.rig.channels[self.rig.number(f"chain.tail/{slider}")].mirror
            one, other = (
                places(self.rig, self.tail, **{"chain.tail__bend": 0.4, f"chain.tail__{slider}": k * 0.9})
                for k in (1, sign)
            )
            np.testing.assert_allclose(one * [-1.0, 1.0, 1.0], other, atol=1e-9)

    def test_it_is_stretched_as_a_whole_and_grows_thinner(self) -> None:
        for longer in (0.5, 1.0, 1.7):
            at = places(self.rig, self.tail, **{"chain.tail__stretch": longer, "chain.tail__bend": 1.2})
            np.testing.assert_allclose(np.linalg.norm(np.diff(at, axis=0), axis=1), longer * LENGTH, rtol=1e-9)
            np.testing.assert_allclose(at[0], [0.0, 0.5, -0.1], atol=1e-12)
        row = np.tile(self.rig.rest, (2, 1))
        row[:, self.rig.number("chain.tail/stretch")] = 1.7
        row[1, self.rig.number("chain.tail/volume")] = 0.0
        scales = joints(self.rig, evaluate(self.rig, row))[:, self.rig.skeleton.index("tail_4"), 7]
        np.testing.assert_allclose(scales, [1.7**-0.5, 1.0])

    def test_joints_are_turned_on_top(self) -> None:
        one = places(self.rig, self.tail, **{"chain.tail__bend": 0.9})
        other = places(self.rig, self.tail, **{"chain.tail__bend": 0.9, "tail_5__ry": 0.5})
        np.testing.assert_allclose(one[:5], other[:5], atol=1e-12)
        self.assertGreater(float(np.abs(one[5:] - other[5:]).max()), 0.05)


if __name__ == "__main__":
    unittest.main()
