"""Layers over a motion: what they add, poses made in one, order, merging, and what stays as it was."""

from __future__ import annotations

import unittest
from math import radians

import numpy as np
import orjson

from hame.clip import clip as clips
from hame.clip.clip import Clip, difference, patch_from_json
from hame.clip.curve import from_json, from_keys
from hame.clip.cycle import Cycle
from hame.clip.layer import Layer
from hame.clip.layers import address_in, layers_of, parted, with_layer
from hame.demo.refined import tired_round
from hame.demo.shots import figure, walk_across
from hame.edits.carry import CarryMotion
from hame.edits.columns import MoveColumns
from hame.edits.cycles import FreeCycle
from hame.edits.edit import Edit
from hame.edits.keys import DeleteKeys, MoveKeys
from hame.edits.layers import AddLayer, ChangeLayer, DeleteLayer, PartSides, WeighLayer, new_layer
from hame.edits.library import size_of
from hame.edits.making import made
from hame.edits.merging import MergeLayer
from hame.edits.pose import KeyPose, SetPose
from hame.edits.retime import InsertFrames
from hame.errors import BadEdit
from hame.evaluate.evaluate import channel_values
from hame.evaluate.line import laid_values
from hame.measure.likeness import likeness
from hame.scene.joined import played
from hame.scene.scene import Figure, Scene
from tests.hame.examples import brannoc_rig, with_cycle
from tests.hame.faulty import alerts

FRAMES = np.arange(1, 41)


def edited(clip: Clip, *edits: Edit, protected: tuple[str, ...] = ()) -> Clip:
    for edit in edits:
        scene = Scene({1: Figure(brannoc_rig(), clip, protected=protected)}, 1, 200)
        clip = made(edit, scene, 1).clips[1]
    return clip


def values(clip: Clip, address: str, frames: np.ndarray = FRAMES) -> np.ndarray:
    rig = brannoc_rig()
    return np.asarray(channel_values(rig, clip, frames)[:, rig.number(address)])


def base() -> Clip:
    return Clip().with_curves({"head/ry": from_keys({1: 0.0, 20: 0.5, 40: 0.1}), "spine/rx": from_keys({1: 0.2})})


class SoundTest(unittest.TestCase):
    def setUp(self) -> None:
        layer = {"#1/head/ry": from_keys({10: 0.0, 20: 0.3, 30: -0.1}), "#1/spine/rx": from_keys({1: 0.1})}
        self.below = base()
        self.clip = with_layer(self.below.with_curves(layer), 1, Layer(0, 0, name="Tired", place=1))
        self.over = with_layer(Clip().with_curves(layer), 1, Layer(0, 0, name="Tired", place=1))

    def test_at_weight_one_it_is_exactly_the_sum_and_at_weight_zero_exactly_the_base(self) -> None:
        rig = brannoc_rig()
        below, both = channel_values(rig, self.below, FRAMES), channel_values(rig, self.clip, FRAMES)
        added = channel_values(rig, self.over, FRAMES) - rig.rest
        np.testing.assert_array_equal(both, below + added)
        for weight, wished in ((1.0, both), (0.0, below)):
            weighed = edited(self.clip, WeighLayer(number=1, weight=weight, frame=5))
            np.testing.assert_array_equal(channel_values(rig, weighed, FRAMES), wished)

    def test_a_keyed_weight_fades_it_in(self) -> None:
        clip = edited(self.clip, WeighLayer(number=1, weight=0.0, frame=10), WeighLayer(number=1, weight=1.0, frame=30))
        share = (values(clip, "spine/rx") - 0.2) / 0.1
        self.assertEqual(share[0], 0.0)
        self.assertAlmostEqual(share[-1], 1.0)
        self.assertAlmostEqual(share[19], 0.5)
        self.assertTrue((np.diff(share) >= -1e-12).all())

    def test_mute_solo_and_order(self) -> None:
        clip = edited(self.clip, AddLayer(name="Nod"))
        clip = clip.with_curves({"#2/head/ry": from_keys({1: 1.0})})
        all_of = values(clip, "head/ry")
        muted = edited(clip, ChangeLayer(number=1, muted=True))
        np.testing.assert_allclose(values(muted, "head/ry"), values(self.below, "head/ry") + 1.0)
        alone = edited(clip, ChangeLayer(number=1, solo=True))
        np.testing.assert_allclose(values(alone, "head/ry"), values(self.clip, "head/ry"))
        self.assertEqual(list(layers_of(clip)), [1, 2])
        swapped = edited(clip, ChangeLayer(number=1, up=1))
        self.assertEqual(list(layers_of(swapped)), [2, 1])
        np.testing.assert_allclose(values(swapped, "head/ry"), all_of)

    def test_what_plays_stops_at_limits(self) -> None:
        rig = brannoc_rig()
        channel = next(c for c in rig.channels if np.isfinite(c.high) and c.kind == "turn")
        clip = self.clip.with_curves({channel.address: from_keys({1: channel.high}),
                                      f"#1/{channel.address}": from_keys({1: 1.0})})  # fmt: skip
        self.assertEqual(values(clip, channel.address).max(), channel.high)

    def test_it_is_stored_undone_and_read_as_all_else_is(self) -> None:
        stored = clips.from_json(orjson.loads(orjson.dumps(self.clip.to_json())))
        self.assertEqual(stored.to_json(), self.clip.to_json())
        patch = patch_from_json(difference(self.below, self.clip).to_json())
        self.assertEqual(patch.apply(self.below).to_json(), self.clip.to_json())
        self.assertEqual(patch.reversed().apply(self.clip).to_json(), self.below.to_json())

    def test_keys_of_controls_that_the_rig_lacks_now_are_kept_and_add_nothing(self) -> None:
        clip = self.clip.with_curves({"#1/tail/rx": from_keys({1: 0.5})})
        np.testing.assert_array_equal(values(clip, "head/ry"), values(self.clip, "head/ry"))
        named = edited(clip, ChangeLayer(number=1, name="Weary"))
        self.assertIn("#1/tail/rx", named.curves)
        self.assertEqual(layers_of(named)[1].name, "Weary")

    def test_addresses_go_both_ways(self) -> None:
        self.assertEqual(parted(address_in(12, "head/ry")), (12, "head/ry"))
        self.assertEqual(parted("head/ry"), (0, "head/ry"))
        self.assertEqual(parted("#x/head/ry"), (0, "#x/head/ry"))


class PosedTest(unittest.TestCase):
    def setUp(self) -> None:
        self.clip = edited(base(), AddLayer(name="Tired"))

    def test_a_pose_in_a_layer_is_seen_and_the_motion_below_stays(self) -> None:
        after = edited(self.clip, SetPose(frame=20, values={"head/ry": 0.9, "neck/rx": 0.2}, layer=1))
        self.assertAlmostEqual(values(after, "head/ry")[19], 0.9)
        self.assertAlmostEqual(values(after, "neck/rx")[19], 0.2)
        self.assertEqual(set(after.curves) - set(self.clip.curves), {"#1/head/ry", "#1/neck/rx"})
        self.assertIs(after.curves["head/ry"], self.clip.curves["head/ry"])

    def test_with_half_the_weight_twice_as_much_is_keyed(self) -> None:
        clip = edited(self.clip, WeighLayer(number=1, weight=0.5))
        after = edited(clip, SetPose(frame=20, values={"head/ry": 0.9}, layer=1))
        self.assertAlmostEqual(values(after, "head/ry")[19], 0.9)
        self.assertAlmostEqual(after.curves["#1/head/ry"].table[0, 1], 0.8)

    def test_a_pose_of_the_motion_itself_is_seen_with_layers_over_it(self) -> None:
        clip = edited(self.clip, SetPose(frame=20, values={"head/ry": 0.9}, layer=1))
        after = edited(clip, SetPose(frame=20, values={"head/ry": -0.2}))
        self.assertAlmostEqual(values(after, "head/ry")[19], -0.2)
        self.assertIs(after.curves["#1/head/ry"], clip.curves["#1/head/ry"])

    def test_keying_keys_what_is_seen_and_moves_nothing(self) -> None:
        clip = edited(self.clip, SetPose(frame=20, values={"head/ry": 0.9}, layer=1))
        after = edited(clip, KeyPose(frame=30, controls=("head",), layer=1))
        self.assertIn(30, after.curves["#1/head/ry"].frames)
        self.assertAlmostEqual(values(after, "head/ry")[29], values(clip, "head/ry")[29])

    def test_where_a_cycle_shows_others_a_layer_can_be_posed(self) -> None:
        short = Clip().with_curves({"head/ry": from_keys({1: 0.0, 11: 0.5})})
        cycled = with_cycle(edited(short, AddLayer()), Cycle(1, 21, until=41))
        with self.assertRaisesRegex(BadEdit, "shows frame"):
            edited(cycled, SetPose(frame=30, values={"head/ry": 0.9}))
        after = edited(cycled, SetPose(frame=30, values={"head/ry": 0.9}, layer=1))
        self.assertAlmostEqual(values(after, "head/ry")[29], 0.9)

    def test_a_layer_of_some_controls_takes_no_others(self) -> None:
        clip = edited(base(), AddLayer(name="Head only", controls=("head",)))
        scene = Scene({1: Figure(brannoc_rig(), clip)}, 1, 200)
        outcome = made(SetPose(frame=20, values={"head/ry": 0.9, "neck/rx": 0.2}, layer=1), scene, 1)
        self.assertIn("not of Head only", " ".join(outcome.notes))
        self.assertNotIn("#1/neck/rx", outcome.clips[1].curves)

    def test_protected_parts_stay_in_layers_too(self) -> None:
        with self.assertRaisesRegex(BadEdit, "protected"):
            edited(self.clip, SetPose(frame=20, values={"head/ry": 0.9}, layer=1), protected=("head",))

    def test_refusals_say_why(self) -> None:
        muted = edited(self.clip, ChangeLayer(number=1, muted=True))
        none = edited(self.clip, WeighLayer(number=1, weight=0.0))
        for clip, edit, words in (
            (self.clip, SetPose(frame=1, values={"head/ry": 0.1}, layer=7), "not there any more"),
            (muted, SetPose(frame=1, values={"head/ry": 0.1}, layer=1), "does not count"),
            (none, SetPose(frame=1, values={"head/ry": 0.1}, layer=1), "no weight at frame 1"),
            (self.clip, MoveColumns(frames=(1,), by=2, layer=1), "not made in a layer"),
            (self.clip, WeighLayer(number=1, weight=1.5), "not by 150%"),
            (self.clip, AddLayer(name="x", controls=("tail",)), "tail"),
            (muted, MergeLayer(number=1), "nothing to merge"),
            (self.clip, DeleteLayer(number=3), "not there any more"),
        ):  # fmt: skip
            with self.assertRaisesRegex(BadEdit, words):
                edited(clip, edit)

    def test_keys_of_a_layer_are_moved_and_deleted_as_its_own(self) -> None:
        clip = edited(self.clip, SetPose(frame=20, values={"head/ry": 0.9}, layer=1))
        moved = edited(clip, MoveKeys(keys={"#1/head/ry": (20,)}, by=5))
        self.assertEqual(moved.curves["#1/head/ry"].frames.tolist(), [25])
        self.assertIs(moved.curves["head/ry"], clip.curves["head/ry"])
        gone = edited(clip, DeleteKeys(keys={"#1/head/ry": (20,)}))
        self.assertNotIn("#1/head/ry", gone.curves)

    def test_more_frames_move_layers_along(self) -> None:
        clip = edited(self.clip, SetPose(frame=20, values={"head/ry": 0.9}, layer=1))
        longer = edited(clip, InsertFrames(after=1, count=6))
        self.assertEqual(longer.curves["#1/head/ry"].frames.tolist(), [26])
        self.assertEqual(longer.tracks["layer/1"], clip.tracks["layer/1"])


class MergeTest(unittest.TestCase):
    def merged(self, clip: Clip, number: int = 1) -> Clip:
        return edited(clip, MergeLayer(number=number))

    def test_merged_down_nothing_moves_between_frames_either(self) -> None:
        rng = np.random.default_rng(8)
        keys = {int(f): float(v) for f, v in zip(range(1, 97, 6), rng.normal(0, 0.3, 16), strict=True)}
        clip, number = new_layer(Clip().with_curves({"head/ry": from_keys(keys)}), "Over", ())
        over = {int(f): float(v) for f, v in zip(range(1, 97, 5), rng.normal(0, 0.3, 20), strict=True)}
        weight = from_keys({1: 0.2, 40: 1.0, 90: 0.5})
        clip = clip.with_curves({f"#{number}/head/ry": from_keys(over), f"#{number}/weight": weight})
        times = rng.uniform(1, 96, 5000)
        rig = brannoc_rig()
        column = rig.number("head/ry")
        before, after = (laid_values(rig, c, times)[:, column] for c in (clip, self.merged(clip)))
        self.assertLess(float(np.abs(after - before).max()), 6e-4)

    def test_merged_down_nothing_moves(self) -> None:
        clip = edited(base(), AddLayer(name="Tired"))
        clip = edited(clip, *(SetPose(frame=f, values={"head/ry": v, "neck/rx": 0.1}, layer=1)
                              for f, v in ((7, 0.4), (20, 0.9), (33, -0.1))))  # fmt: skip
        after = self.merged(clip)
        np.testing.assert_allclose(values(after, "head/ry"), values(clip, "head/ry"), atol=1e-9)
        np.testing.assert_allclose(values(after, "neck/rx"), values(clip, "neck/rx"), atol=1e-9)
        self.assertEqual((layers_of(after), [a for a in after.curves if a.startswith("#")]), ({}, []))
        self.assertLessEqual(len(after.curves["head/ry"]), 6)

    def test_with_a_keyed_weight_or_odd_handles_it_is_as_near_as_is_said(self) -> None:
        clip = edited(base(), AddLayer(name="Tired"))
        clip = clip.with_curves({"head/ry": from_json([[1, 0.0, 2, 0, 0, 12, 0.4], [20, 0.5, 0], [40, 0.1, 2]])})
        clip = edited(clip, *(SetPose(frame=f, values={"head/ry": v}, layer=1) for f, v in ((5, 0.3), (35, 0.6))))
        clip = edited(clip, WeighLayer(number=1, weight=0.2, frame=1), WeighLayer(number=1, weight=1.0, frame=40))
        np.testing.assert_allclose(values(self.merged(clip), "head/ry"), values(clip, "head/ry"), atol=6e-4)

    def test_it_goes_into_the_layer_below_where_there_is_one(self) -> None:
        clip = edited(base(), AddLayer(name="A"), AddLayer(name="B"), WeighLayer(number=1, weight=0.5))
        clip = edited(clip, *(SetPose(frame=f, values={"head/ry": v}, layer=1) for f, v in ((10, 0.9), (25, 0.2))))
        clip = edited(clip, *(SetPose(frame=f, values={"head/ry": v}, layer=2) for f, v in ((20, 1.4), (30, 0.6))))
        after = self.merged(clip, 2)
        self.assertEqual(list(layers_of(after)), [1])
        self.assertEqual(after.curves["#1/head/ry"].frames.tolist(), [10, 20, 25, 30])
        np.testing.assert_allclose(values(after, "head/ry"), values(clip, "head/ry"), atol=1e-9)
        narrow = edited(clip, ChangeLayer(number=1, controls=("neck",)))
        self.assertEqual(set(layers_of(self.merged(narrow, 2))[1].controls), {"neck", "head"})
        keyed = edited(clip, WeighLayer(number=1, weight=1.0, frame=30), WeighLayer(number=1, weight=0.0, frame=9))
        with self.assertRaisesRegex(BadEdit, "merge A down first"):
            self.merged(keyed, 2)

    def test_onto_a_cycle_it_is_refused(self) -> None:
        short = Clip().with_curves({"head/ry": from_keys({1: 0.0, 11: 0.5})})
        clip = with_cycle(edited(short, AddLayer(name="A")), Cycle(1, 21, until=41))
        clip = edited(clip, SetPose(frame=30, values={"head/ry": 0.9}, layer=1))
        with self.assertRaisesRegex(BadEdit, "a cycle"):
            self.merged(clip)


class FeetTest(unittest.TestCase):
    def test_planted_feet_stay_planted_under_a_layer(self) -> None:
        """A walk that travels, with a layer that stoops and sinks the body: no foot slides."""
        rig = brannoc_rig()
        clip = tired_round(rig)
        frames = np.arange(1, 74)
        posed = played({1: Figure(rig, clip)}, frames)[1]
        self.assertEqual([a for a in alerts(clip, posed, 1, 24.0) if a.kind in ("slip", "sink")], [])
        plain = played({1: Figure(rig, walk_across(rig))}, frames)[1]
        lower = plain.nodes[:, rig.control("head").node, 1] - posed.nodes[:, rig.control("head").node, 1]
        self.assertLess(abs(lower[0]), 1e-6, "at its start the layer has no weight")
        self.assertGreater(lower[-1], 0.04, "at its end he stoops")


class CarriedTest(unittest.TestCase):
    def test_a_motion_is_carried_to_another_figure_in_its_proportions_and_adjusted_in_a_layer(self) -> None:
        keeper, apprentice = figure("brannoc")[0], figure("wick")[0]
        walk = walk_across(keeper)
        scene = Scene({1: Figure(keeper, walk, "Brannoc"), 2: Figure(apprentice, Clip(), "Wick")}, 1, 80)
        outcome = made(CarryMotion(figure=1, way="along"), scene, 2)
        clip = outcome.clips[2]
        self.assertEqual([layer.name for layer in layers_of(clip).values()], ["Fitting"])
        self.assertIn("not on this rig", " ".join(outcome.notes))
        ratio = size_of(apprentice) / size_of(keeper)
        np.testing.assert_allclose(clip.curves["body/ty"].values, ratio * walk.curves["body/ty"].values)
        np.testing.assert_allclose(clip.curves["spine/rx"].values, walk.curves["spine/rx"].values)
        frames = np.arange(1, 73)
        posed = played({2: Figure(apprentice, clip)}, frames)[2]
        way = posed.nodes[:, apprentice.control("master").node, 2]
        theirs = played({1: Figure(keeper, walk)}, frames)[1].nodes[:, keeper.control("master").node, 2]
        np.testing.assert_allclose(way - way[0], ratio * (theirs - theirs[0]), atol=1e-6)
        self.assertEqual([a for a in alerts(clip, posed, 1, 24.0) if a.kind == "slip"], [], "planted feet stay planted")
        nodding = made(
            SetPose(frame=30, values={"head/rx": 0.4}, layer=1), Scene({2: Figure(apprentice, clip)}, 1, 80), 2
        )
        self.assertIn("#1/head/rx", nodding.clips[2].curves)

    def test_three_ways_to_take_a_motion_over(self) -> None:
        keeper, apprentice = figure("brannoc")[0], figure("wick")[0]
        stands = Clip().with_curves({"master/tx": from_keys({1: 2.0}), "master/ry": from_keys({1: 0.7})})
        scene = Scene({1: Figure(keeper, walk_across(keeper), "A"), 2: Figure(apprentice, stands, "B")}, 1, 96)
        frames = np.arange(1, 73)
        ratio = size_of(apprentice) / size_of(keeper)

        def carried(way: str) -> tuple[Clip, np.ndarray, list[str]]:
            clip = made(CarryMotion(figure=1, way=way), scene, 2).clips[2]  # type: ignore[arg-type]
            posed = played({2: Figure(apprentice, clip)}, frames)[2]
            numbers = [apprentice.number(f"master/{c}") for c in ("tx", "tz", "ry")]
            return clip, posed.values[:, numbers], [a.kind for a in alerts(clip, posed, 1, 24.0)]

        clip, ground, _ = carried("in place")
        self.assertFalse([track for track in clip.tracks if track.startswith("plant/")])
        np.testing.assert_allclose(ground, np.tile([2.0, 0.0, 0.7], (len(frames), 1)), atol=1e-9)
        clip, ground, kinds = carried("from here")
        self.assertTrue([track for track in clip.tracks if track.startswith("plant/")])
        np.testing.assert_allclose(ground[0], [2.0, 0.0, 0.7], atol=1e-6)
        theirs = channel_values(keeper, walk_across(keeper), frames)[:, keeper.number("master/tz")]
        far = ratio * (theirs[-1] - theirs[0])
        np.testing.assert_allclose(ground[-1] - ground[0], [far * np.sin(0.7), far * np.cos(0.7), 0.0], atol=1e-6)
        self.assertNotIn("slip", kinds)
        self.assertNotIn("balance", kinds)
        clip, ground, _ = carried("along")
        np.testing.assert_allclose(ground[:, 0] - ground[0, 0], 0.0, atol=1e-9)
        # A second try goes on with the layer of the first.
        again = Scene({1: scene.figures[1], 2: Figure(apprentice, clip, "B")}, 1, 96)
        twice = made(CarryMotion(figure=1, way="from here"), again, 2).clips[2]
        self.assertEqual([layer.name for layer in layers_of(twice).values()], ["Fitting"])

    def test_what_cannot_be_carried_says_why(self) -> None:
        rig = brannoc_rig()
        scene = Scene({1: Figure(rig, base(), "A"), 2: Figure(rig, Clip(), "B")}, 1, 80)
        for edit, words in ((CarryMotion(figure=2), "nothing that B does"), (CarryMotion(figure=9), "does not play"),
                            (CarryMotion(figure=1), "to another one")):  # fmt: skip
            with self.assertRaisesRegex(BadEdit, words):
                made(edit, scene, 1)


class SidesTest(unittest.TestCase):
    def limping(self) -> Clip:
        rig = brannoc_rig()
        clip = walk_across(rig)
        freed = edited(clip, FreeCycle())
        changes = {"head/ry": from_keys({1: 0.0, 13: 0.0, 19: radians(12), 25: 0.0})}
        kept = {a: c for a, c in freed.curves.items() if not a.startswith("master/")}
        short = {a: from_json([row for row in c.to_json() if row[0] <= 25]) for a, c in kept.items()}
        return Clip().with_curves({**short, **changes})

    def test_a_difference_is_laid_over_a_mirrored_base_and_its_weight_makes_the_sides_alike(self) -> None:
        rig, clip = brannoc_rig(), self.limping()
        frames = np.arange(1, 25)
        worst = max(part.degrees for part in likeness(rig, clip, 1, 25))
        self.assertAlmostEqual(worst, 12.0, delta=0.5)
        after = edited(clip, PartSides(start=1, end=25))
        np.testing.assert_allclose(
            channel_values(rig, after, frames), channel_values(rig, clip, frames), atol=1e-4, rtol=0
        )
        number = next(iter(layers_of(after)))
        half = edited(after, WeighLayer(number=number, weight=0.5))
        self.assertAlmostEqual(max(part.degrees for part in likeness(rig, half, 1, 25)), 6.0, delta=0.5)
        none = edited(after, WeighLayer(number=number, weight=0.0))
        self.assertLess(max(part.degrees for part in likeness(rig, none, 1, 25)), 1e-6)

    def test_sides_that_are_alike_have_no_difference(self) -> None:
        rig = brannoc_rig()
        with self.assertRaisesRegex(BadEdit, "no difference to lay"):
            edited(walk_across(rig), PartSides(start=1, end=25))
