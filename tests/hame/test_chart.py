"""Timing charts: where frames stand between two poses, and ticks that are set."""

from __future__ import annotations

import unittest

import numpy as np

from hame.clip.clip import Clip
from hame.clip.curve import from_keys
from hame.clip.cycle import Cycle
from hame.edits.chart import LayChart, Tick, beyond, ease_through
from hame.edits.making import made
from hame.edits.pose import key_pose, set_pose
from hame.edits.ways import SetWay
from hame.errors import BadEdit
from hame.evaluate.evaluate import channel_values
from hame.measure.favour import chart_of
from hame.scene.scene import Figure, Scene
from tests.hame.examples import brannoc_rig, random_pose, with_cycle


def two_poses(first: int = 1, last: int = 9, stretch: float = 0.3) -> Clip:
    rig = brannoc_rig()
    clip = Clip()
    for n, frame in enumerate((first, last)):
        pose = random_pose(rig, 70 + n, stretch)
        values = {a: float(pose[m]) for m, a in enumerate(rig.addresses) if not rig.channels[m].locked}
        clip = set_pose(clip, rig, frame, values, "changed").clip
    return clip


def laid(clip: Clip, edit: LayChart) -> Clip:
    return made(edit, Scene({1: Figure(brannoc_rig(), clip)}, 1, 100), 1).clips[1]


class ChartTest(unittest.TestCase):
    def test_an_even_gap_has_even_ticks_and_a_slow_start_late_ones(self) -> None:
        rig, clip = brannoc_rig(), two_poses()
        scene = Scene({1: Figure(rig, clip)}, 1, 100)
        even = made(SetWay(way="even", gaps=((1, 9),)), scene, 1).clips[1]
        np.testing.assert_allclose(chart_of(rig, even, 1, 9).favours, np.linspace(0, 1, 9), atol=0.02)
        late = made(SetWay(way="slow start", gaps=((1, 9),)), scene, 1).clips[1]
        np.testing.assert_allclose(chart_of(rig, late, 1, 9).favours, np.linspace(0, 1, 9) ** 3, atol=0.02)
        self.assertLess(chart_of(rig, late, 1, 9).spread.max(), 0.05)

    def test_what_moves_more_of_the_body_counts_more(self) -> None:
        """A finger that comes late hardly moves the chart; the trunk that comes late does."""
        rig = brannoc_rig()
        rest = key_pose(Clip(), rig, 1).clip
        for late, far in (("arm.L.index/curl", 0.02), ("body/tz", 0.5)):
            pose = {"body/ty": -0.2, "spine/rx": 0.4, "arm.L.index/curl": 0.8, "body/tz": 0.3}
            clip = set_pose(rest, rig, 9, pose, "changed").clip
            curve = from_keys({1: 0.0, 8: 0.0, 9: pose[late]})
            chart = chart_of(rig, clip.with_curves({late: curve}), 1, 9)
            even = chart_of(rig, clip, 1, 9)
            moved = float(np.abs(chart.favours - even.favours).max())
            self.assertTrue(moved < far if late.endswith("curl") else moved > 0.15, (late, moved))

    def test_a_tick_that_is_set_stands_there_exactly(self) -> None:
        rig, clip = brannoc_rig(), two_poses()
        now = chart_of(rig, clip, 1, 9).favours
        ticks = tuple(Tick((f - 1) / 8, float(now[f - 1]), False) for f in range(2, 9) if f not in (4, 7))
        after = laid(clip, LayChart(gaps=((1, 9),), ticks=(*ticks, Tick(3 / 8, 0.5), Tick(6 / 8, 0.9))))
        chart = chart_of(rig, after, 1, 9)
        self.assertAlmostEqual(chart.favours[3], 0.5, places=6)
        self.assertAlmostEqual(chart.favours[6], 0.9, places=6)
        np.testing.assert_allclose(channel_values(rig, after, [1, 9]), channel_values(rig, clip, [1, 9]), atol=1e-12)

    def test_more_ticks_than_a_curve_can_meet_are_said_and_keys_meet_them(self) -> None:
        rig, clip = brannoc_rig(), two_poses()
        ticks = tuple(Tick(n / 8, f) for n, f in ((1, 0.5), (3, 0.1), (5, 0.9), (7, 0.4)))
        outcome = made(LayChart(gaps=((1, 9),), ticks=ticks), Scene({1: Figure(rig, clip)}, 1, 100), 1)
        self.assertIn("cannot meet all", " ".join(outcome.notes))
        after = laid(clip, LayChart(gaps=((1, 9),), ticks=ticks, keyed=True))
        chart = chart_of(rig, after, 1, 9)
        for n, favour in ((1, 0.5), (3, 0.1), (5, 0.9), (7, 0.4)):
            self.assertAlmostEqual(chart.favours[n], favour, places=6)

    def test_one_chart_lies_on_gaps_of_other_lengths(self) -> None:
        rig = brannoc_rig()
        clip = two_poses(1, 9)
        later = two_poses(21, 33)
        clip = clip.with_curves({a: from_keys({**dict(zip(c.frames.tolist(), c.values.tolist(), strict=True)),
                                               **dict(zip(later.curves[a].frames.tolist(),
                                                          later.curves[a].values.tolist(), strict=True))})
                                 for a, c in clip.curves.items()})  # fmt: skip
        after = laid(clip, LayChart(gaps=((1, 9), (21, 33)), ticks=(Tick(0.25, 0.5), Tick(0.5, 0.8))))
        for first, last in ((1, 9), (21, 33)):
            chart = chart_of(rig, after, first, last)
            self.assertAlmostEqual(chart.favours[(last - first) // 4], 0.5, places=6)
            self.assertAlmostEqual(chart.favours[(last - first) // 2], 0.8, places=6)

    def test_chosen_parts_alone_follow(self) -> None:
        rig, clip = brannoc_rig(), two_poses()
        after = laid(clip, LayChart(gaps=((1, 9),), ticks=(Tick(0.5, 0.8),), controls=("head",)))
        self.assertAlmostEqual(chart_of(rig, after, 1, 9, ["head"]).favours[4], 0.8, places=6)
        self.assertIs(after.curves["spine/rx"], clip.curves["spine/rx"])

    def test_the_last_gap_of_a_cycle_reaches_the_key_that_it_shows(self) -> None:
        rig = brannoc_rig()
        curves = {"body/ty": from_keys({1: 0.0, 9: 0.3}), "spine/rx": from_keys({1: 0.1, 9: 0.4})}
        clip = with_cycle(Clip().with_curves(curves), Cycle(1, 17))
        after = laid(clip, LayChart(gaps=((9, 17),), ticks=(Tick(0.5, 0.8),)))
        self.assertAlmostEqual(chart_of(rig, after, 9, 17).favours[4], 0.8, places=6)

    def test_an_ease_of_one_tick_bends_no_more_than_it_has_to(self) -> None:
        even = ease_through([Tick(0.5, 0.5)])
        np.testing.assert_allclose(even.at(np.linspace(0, 1, 9)), np.linspace(0, 1, 9), atol=1e-9)
        self.assertAlmostEqual(float(ease_through([Tick(0.25, 0.5)]).at(np.array([0.25]))[0]), 0.5)

    def test_between_two_poses_nothing_rises_over_the_second_one_where_it_need_not(self) -> None:
        """A tick half way that stands near a pose: the ease that bends least for it would go beyond that pose."""
        for ticks in ([Tick(0.5, 0.1)], [Tick(0.5, 0.9)], [Tick(0.25, 0.03)], [Tick(0.6, 0.97)]):
            ease = ease_through(ticks)
            self.assertLess(beyond(ease), 0.005, ticks)
            self.assertAlmostEqual(float(ease.at(np.array([ticks[0].time]))[0]), ticks[0].favour, delta=0.006)

    def test_where_it_has_to_go_beyond_it_is_said(self) -> None:
        rig = brannoc_rig()
        scene = Scene({1: Figure(rig, two_poses())}, 1, 100)
        outcome = made(LayChart(gaps=((1, 9),), ticks=(Tick(0.125, 0.9),)), scene, 1)
        self.assertIn("beyond one of the poses", " ".join(outcome.notes))
        plain = made(LayChart(gaps=((1, 9),), ticks=(Tick(0.5, 0.8),)), scene, 1)
        self.assertNotIn("beyond", " ".join(plain.notes))

    def test_ticks_that_were_set_count_far_more_than_those_that_follow(self) -> None:
        held = [Tick(0.2, 0.05), Tick(0.5, 0.5), Tick(0.8, 0.95)]
        loose = [Tick(t, t, False) for t in (0.1, 0.3, 0.4, 0.6, 0.7, 0.9)]
        ease = ease_through([*held, *loose])
        off = [abs(float(ease.at(np.array([tick.time]))[0]) - tick.favour) for tick in held]
        self.assertLess(max(off), 0.01)

    def test_what_cannot_be_charted_says_why(self) -> None:
        rig, clip = brannoc_rig(), two_poses()
        with self.assertRaisesRegex(BadEdit, "has no frames"):
            chart_of(rig, clip, 9, 9)
        same = key_pose(key_pose(Clip(), rig, 1).clip, rig, 9).clip
        with self.assertRaisesRegex(BadEdit, "stand alike"):
            chart_of(rig, same, 1, 9)
        for edit, words in (
            (LayChart(gaps=((1, 2),), ticks=(Tick(0.5, 0.5),)), "no frame in between"),
            (LayChart(gaps=((30, 40),), ticks=(Tick(0.5, 0.5),)), "keyed at both 30 and 40"),
            (LayChart(gaps=(), ticks=(Tick(0.5, 0.5),)), "needs a gap and a tick"),
            (LayChart(gaps=((1, 9),), ticks=(Tick(0.5, 0.5, False),)), "needs a gap and a tick"),
            (LayChart(gaps=((1, 9),), ticks=(Tick(0.5, 7.0),)), "not at 700%"),
        ):  # fmt: skip
            with self.assertRaisesRegex(BadEdit, words):
                laid(clip, edit)
