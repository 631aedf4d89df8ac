"""Ways of gaps: closed forms, handles, and what is done to keys in the graph."""

from __future__ import annotations

import math
import unittest
from collections.abc import Callable

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.interpolate import PchipInterpolator

from hame.clip.clip import Clip
from hame.clip.curve import Curve, from_json, from_keys, from_table, with_keys
from hame.clip.key import (
    CHORD,
    FLAT,
    FREE,
    HANDLES,
    IN_TIME,
    IN_VALUE,
    OUT_TIME,
    OUT_VALUE,
    PRESETS,
    SHAPE,
    VALUE,
    handle_kinds,
    handles_code,
)
from hame.clip.sampling import sample_curve
from hame.edits.edit import Edit
from hame.edits.graph import DragHandle, LengthenHandles, ReshapeKeys, SetHandles
from hame.edits.keys import PasteKeys
from hame.edits.making import made
from hame.edits.ways import SetWay
from hame.errors import BadEdit
from hame.scene.scene import Figure, Scene
from tests.hame.examples import brannoc_rig

FORMS: dict[str, Callable[[float], float]] = {
    # Penner, "Motion, Tweening, and Easing", 2002, at the strength that is his own.
    "even": lambda t: t,
    "slow start": lambda t: t**3,
    "slow stop": lambda t: 1 - (1 - t) ** 3,
    "both": lambda t: 4 * t**3 if t < 0.5 else 1 - (-2 * t + 2) ** 3 / 2,
    "wind-up": lambda t: 2.70158 * t**3 - 1.70158 * t**2,
    "overshoot": lambda t: 1 + 2.70158 * (t - 1) ** 3 + 1.70158 * (t - 1) ** 2,
    "instant": lambda t: 0.0 if t == 0 else 1.0,
}


def penner_bounce(t: float) -> float:
    """His easeOutBounce, as he wrote it down."""
    if t < 1 / 2.75:
        return 7.5625 * t * t
    if t < 2 / 2.75:
        t -= 1.5 / 2.75
        return 7.5625 * t * t + 0.75
    if t < 2.5 / 2.75:
        t -= 2.25 / 2.75
        return 7.5625 * t * t + 0.9375
    t -= 2.625 / 2.75
    return 7.5625 * t * t + 0.984375


def edited(clip: Clip, edit: Edit, start: int = 1) -> Clip:
    return made(edit, Scene({1: Figure(brannoc_rig(), clip)}, start, 100), 1).clips[1]


def notes_of(clip: Clip, edit: Edit) -> str:
    return " ".join(made(edit, Scene({1: Figure(brannoc_rig(), clip)}, 1, 100), 1).notes)


class WaysTest(unittest.TestCase):
    def setUp(self) -> None:
        self.clip = Clip().with_curves({
            "head/ry": from_keys({1: 0.1, 25: 0.9, 40: 0.2}), "body/ty": from_keys({1: 0.0, 25: -0.2}),
        })  # fmt: skip

    def test_presets_equal_their_closed_forms(self) -> None:
        frames = np.linspace(1, 25, 97)
        for way, form in {**FORMS, "bounce": penner_bounce}.items():
            clip = edited(self.clip, SetWay(way=way, gaps=((1, 25),)))  # type: ignore[arg-type]
            for address, first, last in (("head/ry", 0.1, 0.9), ("body/ty", 0.0, -0.2)):
                found = sample_curve(clip.curves[address], frames)
                wished = [first + (last - first) * form((f - 1) / 24) for f in frames[:-1]] + [last]
                np.testing.assert_allclose(found, wished, atol=1e-9, err_msg=f"{way} of {address}")

    def test_strength_leads_from_even_to_the_fifth_power(self) -> None:
        frames = np.arange(1, 26)
        t = (frames - 1) / 24
        for strength, power in ((0.0, 1), (0.25, 2), (0.75, 4), (1.0, 5)):
            clip = edited(self.clip, SetWay(way="slow start", strength=strength, gaps=((1, 25),)))
            np.testing.assert_allclose(sample_curve(clip.curves["head/ry"], frames), 0.1 + 0.8 * t**power, atol=1e-9)

    def test_a_gap_remembers_its_way_until_its_curve_is_changed_by_hand(self) -> None:
        clip = edited(self.clip, SetWay(way="overshoot", strength=0.4, gaps=((1, 25),)))
        stored = from_json(clip.curves["head/ry"].to_json())
        self.assertEqual(stored.table[0, SHAPE], PRESETS["overshoot"])
        moved = edited(clip, ReshapeKeys(keys={"head/ry": (25,)}, by_frames=3))
        self.assertEqual(moved.curves["head/ry"].table[0, SHAPE], PRESETS["overshoot"], "moving its end is no change")
        by_hand = edited(clip, DragHandle(address="head/ry", frame=1, side="after", time=5.0, value=0.1))
        self.assertEqual(by_hand.curves["head/ry"].table[0, SHAPE], 2)
        parted = edited(clip, ReshapeKeys(keys={"head/ry": (40,)}, by={"head/ry": 0.1}))
        parted = parted.with_curves({"head/ry": with_keys(parted.curves["head/ry"], {12: 0.5})})
        self.assertEqual(parted.curves["head/ry"].table[:2, SHAPE].tolist(), [2, 2], "a key within parts it")

    def test_only_chosen_parts_and_gaps_take_it(self) -> None:
        clip = edited(self.clip, SetWay(way="even", gaps=((1, 25),), controls=("head",)))
        self.assertEqual(clip.curves["head/ry"].table[:, SHAPE].tolist(), [1, 2, 2])
        self.assertIs(clip.curves["body/ty"], self.clip.curves["body/ty"])

    def test_what_would_swing_past_a_limit_stops_at_the_pose_and_says_so(self) -> None:
        stretch = next(c for c in brannoc_rig().channels if c.name == "volume")
        curves = {"arm.L/ik": {1: 0.0, 25: 1.0}, stretch.address: {1: 0.0, 25: 1.0}, "head/ry": {1: 0.0, 25: 1.0}}
        clip = Clip().with_curves({address: from_keys(keys) for address, keys in curves.items()})
        edit = SetWay(way="overshoot", gaps=((1, 25),))
        after = edited(clip, edit)
        self.assertEqual(after.curves["arm.L/ik"].table[0, SHAPE], 2, "a limb's switch changes over as it did")
        self.assertEqual(after.curves["head/ry"].table[0, SHAPE], PRESETS["overshoot"])
        self.assertEqual(after.curves[stretch.address].table[0, SHAPE], PRESETS["slow stop"])
        self.assertIn("past a limit", notes_of(clip, edit))

    def test_a_gap_that_is_none_is_refused(self) -> None:
        for edit, words in (
            (SetWay(way="even", gaps=((50, 60),)), "no gap"),
            (SetWay(way="even", keys={"body/ty": (25,)}), "no gap"),
            (SetWay(way="even", strength=1.4, gaps=((1, 25),)), "not 140%"),
            (SetWay(way="even", keys={"body/ty": (7,)}), "no keys at frame 7"),
        ):  # fmt: skip
            with self.assertRaisesRegex(BadEdit, words):
                edited(self.clip, edit)


class HandlesTest(unittest.TestCase):
    def setUp(self) -> None:
        self.clip = Clip().with_curves({"head/ry": from_keys({1: 0.0, 9: 0.6, 17: 0.1, 33: 0.4})})

    def row(self, clip: Clip, n: int) -> np.ndarray:
        return clip.curves["head/ry"].table[n]

    @settings(max_examples=60, deadline=None)
    @given(st.lists(st.tuples(st.integers(1, 9), st.floats(-3, 3)), min_size=3, max_size=12))
    def test_automatic_handles_never_overshoot_and_go_as_scipys_pchip(self, steps: list[tuple[int, float]]) -> None:
        frames = np.cumsum([gap for gap, _ in steps]).astype(float)
        values = np.array([value for _, value in steps])
        curve = from_keys(dict(zip(frames.astype(int).tolist(), values.tolist(), strict=True)))
        every = np.linspace(frames[0], frames[-1], 301)
        found = sample_curve(curve, every)
        at = np.clip(np.searchsorted(frames, every, side="right") - 1, 0, len(frames) - 2)
        low, high = np.minimum(values[at], values[at + 1]), np.maximum(values[at], values[at + 1])
        self.assertTrue((found >= low - 1e-9).all() and (found <= high + 1e-9).all())
        # SciPy's monotone interpolant has the same slopes inside (Fritsch and Butland 1984); ours is level at the ends.
        inner = from_table(curve.table)
        slopes = PchipInterpolator(frames, values).derivative()(frames)[1:-1]
        np.testing.assert_allclose(inner.table[1:-1, OUT_VALUE] / inner.table[1:-1, OUT_TIME], slopes, atol=1e-9)

    def test_each_kind_is_what_it_says_and_is_kept(self) -> None:
        for how, kinds in (
            ("automatic", (0, 0, False)), ("flat", (FLAT, FLAT, False)), ("straight", (CHORD, CHORD, False)),
            ("free", (FREE, FREE, False)), ("in line", (FREE, FREE, True)), ("broken", (FREE, FREE, False)),
        ):  # fmt: skip
            clip = edited(self.clip, SetHandles(keys={"head/ry": (9,)}, how=how))  # type: ignore[arg-type]
            self.assertEqual(handle_kinds(self.row(clip, 1)[HANDLES]), kinds, how)
            again = from_json(clip.curves["head/ry"].to_json())
            self.assertEqual(again, clip.curves["head/ry"], how)
        straight = edited(self.clip, SetHandles(keys={"head/ry": (9, 17)}, how="straight"))
        between = sample_curve(straight.curves["head/ry"], np.arange(9, 18))
        np.testing.assert_allclose(between, np.linspace(0.6, 0.1, 9), atol=1e-9)

    def test_computed_handles_follow_when_a_neighbour_moves_and_set_ones_stay(self) -> None:
        clip = edited(self.clip, SetHandles(keys={"head/ry": (9,)}, how="straight", side="after"))
        clip = edited(clip, SetHandles(keys={"head/ry": (17,)}, how="free"))
        before = self.row(clip, 2)[IN_VALUE]
        clip = edited(clip, ReshapeKeys(keys={"head/ry": (33,)}, by={"head/ry": 0.3}))
        self.assertEqual(self.row(clip, 2)[IN_VALUE], before)
        clip = edited(clip, ReshapeKeys(keys={"head/ry": (17,)}, by={"head/ry": -0.2}))
        self.assertAlmostEqual(self.row(clip, 1)[OUT_VALUE] / self.row(clip, 1)[OUT_TIME], (-0.1 - 0.6) / 8)

    def test_two_handles_in_one_line_turn_together_until_one_is_broken_off(self) -> None:
        clip = edited(self.clip, DragHandle(address="head/ry", frame=9, side="after", time=2.0, value=0.4))
        row = self.row(clip, 1)
        self.assertAlmostEqual(row[IN_VALUE] / row[IN_TIME], 0.2)
        clip = edited(clip, DragHandle(address="head/ry", frame=9, side="after", time=2.0, value=-0.4, alone=True))
        row = self.row(clip, 1)
        self.assertAlmostEqual(row[IN_VALUE] / row[IN_TIME], 0.2)
        self.assertAlmostEqual(row[OUT_VALUE] / row[OUT_TIME], -0.2)

    def test_a_longer_handle_at_the_top_hangs_longer(self) -> None:
        def near_the_top(clip: Clip) -> int:
            return int((sample_curve(clip.curves["head/ry"], np.linspace(1, 17, 321)) > 0.59).sum())

        longer = edited(self.clip, LengthenHandles(keys={"head/ry": (9,)}, factor=2.0))
        self.assertGreater(near_the_top(longer), 1.3 * near_the_top(self.clip))
        self.assertEqual(handle_kinds(self.row(longer, 1)[HANDLES])[:2], (FLAT, FLAT), "it stays level")

    def test_a_handle_past_its_neighbour_is_drawn_in_and_said(self) -> None:
        edit = DragHandle(address="head/ry", frame=9, side="after", time=30.0, value=0.1)
        self.assertEqual(self.row(edited(self.clip, edit), 1)[OUT_TIME], 8.0)
        self.assertIn("reach past the key next to it", notes_of(self.clip, edit))
        back = DragHandle(address="head/ry", frame=9, side="after", time=-3.0, value=0.1)
        self.assertIn("cannot lead back", notes_of(self.clip, back))

    def test_what_has_no_handle_says_so(self) -> None:
        stepped = edited(self.clip, SetWay(way="stepped", keys={"head/ry": (9,)}))
        for clip, frame, side, words in (
            (self.clip, 33, "after", "after the last"), (self.clip, 1, "before", "before the first"),
            (stepped, 9, "after", "stepped"), (self.clip, 12, "after", "no keys at frame 12"),
        ):  # fmt: skip
            edit = DragHandle(address="head/ry", frame=frame, side=side, time=1, value=0)  # type: ignore[arg-type]
            with self.assertRaisesRegex(BadEdit, words):
                edited(clip, edit)
        with self.assertRaisesRegex(BadEdit, "frames and a value"):
            edited(self.clip, DragHandle(address="head/ry", frame=9, side="after", time=math.inf, value=0))

    def test_codes_go_both_ways(self) -> None:
        for before in range(4):
            for after in range(4):
                for aligned in (False, True):
                    self.assertEqual(handle_kinds(handles_code(before, after, aligned)), (before, after, aligned))


class ReshapeTest(unittest.TestCase):
    def setUp(self) -> None:
        self.clip = Clip().with_curves({
            "head/ry": from_keys({1: 0.0, 9: 0.6, 17: 0.1, 33: 0.4}), "head/rx": from_keys({1: 0.1, 9: 0.2}),
        })  # fmt: skip
        self.keys = {"head/ry": (1, 9, 17)}

    def values(self, clip: Clip) -> list[float]:
        return [round(v, 9) for v in clip.curves["head/ry"].table[:, VALUE].tolist()]

    def frames(self, clip: Clip) -> list[int]:
        return clip.curves["head/ry"].frames.tolist()

    def test_values_are_moved_scaled_sheared_bent_flattened_and_typed(self) -> None:
        for edit, wished in (
            (ReshapeKeys(keys=self.keys, by={"head/ry": 0.1}), [0.1, 0.7, 0.2, 0.4]),
            (ReshapeKeys(keys=self.keys, value=0.5, about={"head/ry": 0.2}), [0.1, 0.4, 0.15, 0.4]),
            (ReshapeKeys(keys=self.keys, shear={"head/ry": 0.01}, about_frame=9), [-0.08, 0.6, 0.18, 0.4]),
            (ReshapeKeys(keys=self.keys, bend={"head/ry": 0.3}), [0.0, 0.9, 0.1, 0.4]),
            (ReshapeKeys(keys={"head/ry": (9, 17)}, value=0.0), [0.0, 0.35, 0.35, 0.4]),
            (ReshapeKeys(keys={"head/ry": (9, 17)}, to={"head/ry": 0.25}), [0.0, 0.25, 0.25, 0.4]),
            (ReshapeKeys(keys=self.keys, value=-1.0, about={"head/ry": 0.0}), [0.0, -0.6, -0.1, 0.4]),
        ):  # fmt: skip
            after = edited(self.clip, edit)
            self.assertEqual(self.values(after), wished, edit)
            self.assertIs(after.curves["head/rx"], self.clip.curves["head/rx"])

    def test_what_is_done_to_values_is_done_to_slopes(self) -> None:
        """A sheared and bent curve whose handles were set is that curve plus the line and the parabola, everywhere."""
        clip = edited(self.clip, SetHandles(keys={"head/ry": (1, 9, 17, 33)}, how="free"))
        frames = np.arange(1, 34, dtype=float)
        before = sample_curve(clip.curves["head/ry"], frames)
        keys = {"head/ry": (1, 9, 17, 33)}
        sheared = edited(clip, ReshapeKeys(keys=keys, shear={"head/ry": 0.02}, about_frame=1))
        np.testing.assert_allclose(
            sample_curve(sheared.curves["head/ry"], frames), before + 0.02 * (frames - 1), atol=1e-9
        )
        bent = edited(clip, ReshapeKeys(keys=keys, bend={"head/ry": 0.4}))
        arch = 0.4 * (1 - ((frames - 17) / 16) ** 2)
        np.testing.assert_allclose(sample_curve(bent.curves["head/ry"], frames), before + arch, atol=1e-9)

    def test_times_are_scaled_to_whole_frames_and_what_meets_is_said(self) -> None:
        half = ReshapeKeys(keys=self.keys, time=0.5, about_frame=1)
        self.assertEqual(self.frames(edited(self.clip, half)), [1, 5, 9, 33])
        tight = ReshapeKeys(keys=self.keys, time=0.03, about_frame=1)
        self.assertEqual(self.frames(edited(self.clip, tight)), [1, 33])
        self.assertIn("gave way to others", notes_of(self.clip, tight))
        over = ReshapeKeys(keys={"head/ry": (9,)}, by_frames=8)
        self.assertIn("1 key at frame 17 gave way", notes_of(self.clip, over))

    def test_bad_input_is_refused_in_words_and_nothing_is_lost(self) -> None:
        for edit, words in (
            (ReshapeKeys(keys=self.keys, time=0.0), "fall on one frame"),
            (ReshapeKeys(keys=self.keys, time=-1.0), "run backwards"),
            (ReshapeKeys(keys=self.keys, by_frames=-4), "before the first frame of the shot, 1"),
            (ReshapeKeys(keys={}), "no key is chosen"),
            (ReshapeKeys(keys={"head/ry": (5,)}), "no keys at frame 5"),
            (ReshapeKeys(keys={"tail/ry": (5,)}), "no channel called tail/ry"),
            (ReshapeKeys(keys=self.keys, by={"head/ry": math.nan}), "not a number"),
        ):  # fmt: skip
            with self.assertRaisesRegex(BadEdit, words):
                edited(self.clip, edit)
        limited = ReshapeKeys(keys={"head/ry": (9,)}, by={"head/ry": 9000.0})
        with self.assertRaises(BadEdit):
            edited(self.clip, limited)

    def test_a_curve_of_one_key_can_be_moved_and_has_no_way(self) -> None:
        clip = Clip().with_curves({"head/ry": from_keys({5: 0.3})})
        self.assertEqual(edited(clip, ReshapeKeys(keys={"head/ry": (5,)}, by_frames=2)).curves["head/ry"].frames, [7])
        self.assertEqual(edited(clip, ReshapeKeys(keys={"head/ry": (5,)}, bend={"head/ry": 0.1})).key_count(), 1)
        with self.assertRaises(BadEdit):
            edited(clip, SetWay(way="both", keys={"head/ry": (5,)}))

    def test_keys_are_pasted_in_place_or_going_on_from_the_curve(self) -> None:
        rows = {"head/ry": ((1.0, 0.0, 2.0), (4.0, 0.3, 2.0))}
        plain = edited(self.clip, PasteKeys(frame=17, keys=rows))
        self.assertEqual(self.values(plain), [0.0, 0.6, 0.0, 0.3, 0.4])
        joined = edited(self.clip, PasteKeys(frame=17, keys=rows, joined=True))
        self.assertEqual(self.values(joined), [0.0, 0.6, 0.1, 0.4, 0.4])


class OlderRowsTest(unittest.TestCase):
    def test_rows_as_they_were_stored_before_are_read_and_written_alike(self) -> None:
        rows = [[0, 0.0, 2], [4, 1.0, 2, -1.0, 0.2, 2.0, 0.1], [9, 2.0, 0]]
        curve: Curve = from_json(rows)
        self.assertEqual(curve.to_json(), rows)
        self.assertEqual(handle_kinds(curve.table[1, HANDLES]), (FREE, FREE, False))
