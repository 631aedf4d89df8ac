"""Layers that turn as a whole, against SciPy's rotations: each turn on the one below, in the axes that it leaves."""

from __future__ import annotations

import unittest

import numpy as np
from scipy.spatial.transform import Rotation

from hame.clip.clip import Clip
from hame.clip.curve import from_keys
from hame.clip.layer import Layer
from hame.clip.layers import layers_of, with_layer
from hame.clip.spans import spans_from_json
from hame.edits.layers import AddLayer, ChangeLayer, WeighLayer
from hame.edits.merging import MergeLayer
from hame.edits.pose import SetPose
from hame.errors import BadEdit
from tests.hame.examples import brannoc_rig
from tests.hame.test_layers import FRAMES, edited, values

HEAD = ("rx", "ry", "rz")


def turned(clip: Clip, control: str = "head", prefix: str = "", frames: np.ndarray = FRAMES) -> Rotation:
    """How a control is turned by its channels, or by those of a layer, whatever lies below."""
    order = brannoc_rig().control(control).order
    if prefix:
        clip = Clip().with_curves({a.removeprefix(prefix): c for a, c in clip.curves.items() if a.startswith(prefix)})
    return Rotation.from_euler(
        order, np.stack([values(clip, f"{control}/r{a.lower()}", frames) for a in order], axis=1)
    )


def apart(a: Rotation, b: Rotation) -> float:
    """The largest angle between two, radians."""
    return float((a.inv() * b).magnitude().max())


def below() -> Clip:
    return Clip().with_curves({
        "head/ry": from_keys({1: 0.0, 20: 0.9, 40: -0.6}), "head/rx": from_keys({1: 0.2, 40: 0.5}),
        "head/rz": from_keys({10: 0.0, 30: 0.4}),
    })  # fmt: skip


def laid(clip: Clip, number: int = 1, turned: bool = True) -> Clip:
    over = {"rx": {1: 0.3, 30: 0.7}, "rz": {5: -0.4, 25: 0.5}}
    curves = {f"#{number}/head/{c}": from_keys(keys) for c, keys in over.items()}
    return with_layer(clip.with_curves(curves), number, Layer(0, 0, name=f"L{number}", place=number, turned=turned))


class TurnedTest(unittest.TestCase):
    def test_a_turn_is_laid_on_the_turn_below(self) -> None:
        clip = laid(below())
        wished = turned(below()) * turned(clip, prefix="#1/")
        self.assertLess(apart(turned(clip), wished), 1e-9)
        added = laid(below(), turned=False)
        self.assertGreater(np.degrees(apart(turned(added), wished)), 10.0)

    def test_what_counts_by_a_share_turns_by_that_share(self) -> None:
        clip = edited(laid(below()), WeighLayer(number=1, weight=0.4))
        part = Clip().with_curves({
            a: from_keys({int(k): 0.4 * v for k, v in zip(c.frames, c.values, strict=True)})
            for a, c in clip.curves.items()
            if a.startswith("#1/head")
        })  # fmt: skip
        self.assertLess(apart(turned(clip), turned(below()) * turned(part, prefix="#1/")), 1e-9)

    def test_it_runs_on_without_a_jump(self) -> None:
        frames = np.arange(1, 40.01, 0.05)
        clip = laid(below())
        for channel in HEAD:
            self.assertLess(np.abs(np.diff(values(clip, f"head/{channel}", frames))).max(), 0.02, channel)

    def test_a_pose_is_seen_as_it_was_made_in_any_layer_of_a_stack(self) -> None:
        rng = np.random.default_rng(8)
        for n in range(40):
            kinds = rng.integers(0, 2, 3).astype(bool)
            clip = below()
            for number, kind in enumerate(kinds.tolist(), start=1):
                clip = laid(clip, number, kind)
                clip = edited(clip, WeighLayer(number=number, weight=float(rng.uniform(0.3, 1.0))))
            wished = dict(zip((f"head/{c}" for c in HEAD), rng.uniform(-0.5, 0.5, 3).tolist(), strict=True))
            some = {a: wished[a] for a in list(wished)[: 1 + n % 3]}
            before = {a: float(values(clip, a, np.array([14.0]))[0]) for a in wished}
            layer = n % 4
            after = edited(clip, SetPose(frame=14, values=some, layer=layer))
            for address, value in {**before, **some}.items():
                self.assertAlmostEqual(values(after, address, np.array([14.0]))[0], value, places=6, msg=f"{n} {kinds}")
            changed = {a for a in after.curves if after.curves[a] is not clip.curves.get(a)}
            self.assertTrue(all(a.startswith(f"#{layer}/" if layer else "head/") for a in changed), changed)

    def test_only_what_changes_is_keyed(self) -> None:
        clip = edited(Clip().with_curves({"head/ry": from_keys({1: 0.4})}), AddLayer(name="Nod"))
        after = edited(clip, SetPose(frame=5, values={"head/ry": 0.6}, layer=1))
        self.assertEqual({a for a in after.curves if a.startswith("#")}, {"#1/head/ry"})

    def test_merged_down_nothing_turns(self) -> None:
        for clip in (laid(below()), edited(laid(below()), WeighLayer(number=1, weight=0.0, frame=5),
                     WeighLayer(number=1, weight=1.0, frame=25)), laid(laid(below()), 2)):  # fmt: skip
            top = max(layers_of(clip))
            merged = edited(clip, MergeLayer(number=top))
            times = np.sort(np.random.default_rng(3).uniform(0.0, 45.0, 500))
            self.assertLess(apart(turned(merged, frames=times), turned(clip, frames=times)), 0.001)
            self.assertNotIn(top, layers_of(merged))

    def test_one_that_turns_as_a_whole_does_not_go_into_one_that_adds(self) -> None:
        for one, other in ((True, False), (False, True)):
            clip = laid(laid(below(), 1, one), 2, other)
            with self.assertRaisesRegex(BadEdit, "turn alike first"):
                edited(clip, MergeLayer(number=2))

    def test_how_it_turns_is_a_choice_and_what_was_stored_before_adds(self) -> None:
        clip = edited(below(), AddLayer(name="Nod"))
        self.assertTrue(layers_of(clip)[1].turned)
        self.assertFalse(layers_of(edited(clip, ChangeLayer(number=1, turned=False)))[1].turned)
        stored = layers_of(laid(below()))[1].to_json()
        del stored["turned"]
        again = spans_from_json("layer/1", [stored])[0]
        assert isinstance(again, Layer)
        self.assertFalse(again.turned)

    def test_a_joint_of_one_axis_is_added(self) -> None:
        clip = Clip().with_curves({"arm.L.lower/rx": from_keys({1: 0.3}), "#1/arm.L.lower/rx": from_keys({1: 0.2})})
        clip = with_layer(clip, 1, Layer(0, 0, name="x", place=1, turned=True))
        self.assertAlmostEqual(values(clip, "arm.L.lower/rx")[0], 0.5)
