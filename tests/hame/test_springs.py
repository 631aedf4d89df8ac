"""Springs: what hangs on a body swings as it is said to, and any frame alone is what it is when all are played."""

from __future__ import annotations

import base64
import math
import unittest
import zlib
from dataclasses import replace
from functools import cache
from math import radians

import numpy as np
from scipy.integrate import solve_ivp

from hame.character.bodyplan import BodyPlan
from hame.character.build import build_rig
from hame.character.rig import Rig
from hame.character.skeleton import build
from hame.clip.clip import Clip, from_json
from hame.clip.curve import from_keys
from hame.clip.cycle import Cycle
from hame.clip.gaze import Gaze
from hame.clip.layers import layers_of
from hame.clip.spring import Spring
from hame.demo.shots import figure, run, run_across, walk_across
from hame.edits.columns import MoveColumns
from hame.edits.layers import DeleteLayer
from hame.edits.making import made
from hame.edits.merging import MergeLayer
from hame.edits.pose import SetPose
from hame.edits.rate import keep_seconds
from hame.edits.reading import edit_from_json, edit_to_json
from hame.edits.springs import DropSpring, LaySpring, SpringKeys
from hame.errors import BadEdit
from hame.evaluate.evaluate import channel_values, evaluate
from hame.evaluate.line import played_values
from hame.evaluate.players import Player
from hame.evaluate.springs.rows import row_of, shells_of
from hame.evaluate.springs.taken import read_trace
from hame.faults.fault import Alert
from hame.faults.kinds import faults_in
from hame.faults.look import Look
from hame.maths import rotations, transforms
from hame.maths.rotations import Array
from hame.scene.joined import played
from hame.scene.scene import Figure, Scene
from hame.scene.taken import taken_since

FPS = 24.0
LENGTH = 0.3


@cache
def hanging(count: int = 1, way: tuple[float, float, float] = (0.0, -1.0, 0.0)) -> Rig:
    """Rods that hang on hips that are moved, each as long as the others, one after the other."""
    names, parents, rest = ["hips"], [-1], [transforms.transform(np.array([0.0, 2.0, 0.0]))]
    for n in range(count + 1):
        names.append(f"rod_{n + 1}" if n < count else "rod_end")
        parents.append(n)
        rest.append(transforms.transform(LENGTH * np.array(way) if n else np.zeros(3)))
    return build_rig(build(names, parents, np.array(rest)), BodyPlan({"hips": "hips"}))


def clip_of(rig: Rig, span: Spring, about: str = "rod_1", **curves: dict[int, float]) -> Clip:
    named = {name.replace("__", "/"): from_keys(keys, shape=1) for name, keys in curves.items()}
    return Clip().with_curves(named).with_tracks({f"spring/{about}": [span]})


def bare(**more: object) -> Spring:
    """A spring without air, weight and obstacles."""
    plain = {"start": 1, "end": 400, "air": 0.0, "weight": 0.0, "body": False, "ground": False, "limit": math.pi}
    return Spring(**{**plain, **more})  # type: ignore[arg-type]


def ends(rig: Rig, clip: Clip, frames: Array, rod: int = 1) -> Array:
    """Where a rod ends (F, 3), seen from where it hangs."""
    nodes = evaluate(rig, channel_values(rig, clip, frames))
    row = row_of(rig, "rod_1")
    assert row is not None
    node = nodes[:, row.joints[rod - 1]]
    return np.asarray(rotations.rotate(node[:, 3:7], np.broadcast_to(row.tips[rod - 1], (len(node), 3))))


def crossings(times: Array, values: Array) -> Array:
    at = np.flatnonzero(np.sign(values[:-1]) * np.sign(values[1:]) < 0)
    return np.asarray(times[at] + values[at] / (values[at] - values[at + 1]) * (times[1] - times[0]))


class SwingTest(unittest.TestCase):
    def test_a_rod_without_stiffness_swings_as_a_pendulum(self) -> None:
        """A simple pendulum: 2 pi sqrt(l / g), for small swings; within 5 %."""
        rig = hanging()
        clip = clip_of(rig, bare(period=0.0, period_tip=0.0, rests=0.0, rests_tip=0.0, weight=1.0),
                       body__tx={1: 0.0, 10: 0.0, 13: 0.04, 400: 0.04})  # fmt: skip
        frames = np.arange(20.0, 300.0)
        aside = ends(rig, clip, frames)[:, 0]
        period = 2.0 * np.diff(crossings(frames, aside)).mean() / FPS
        wanted = 2.0 * math.pi * math.sqrt(LENGTH / 9.80665)
        self.assertLess(abs(period / wanted - 1.0), 0.05)
        self.assertGreater(np.abs(aside[-60:]).max(), 0.75 * np.abs(aside[:60]).max())  # and is hardly damped

    def test_period_and_decrement_are_those_that_are_said(self) -> None:
        """The damped swing in closed form: sqrt(w^2 - d^2), and e^-dt."""
        for period, rests in ((12.0, 48.0), (30.0, 90.0)):
            rig = hanging()
            clip = clip_of(rig, bare(period=period, period_tip=period, rests=rests, rests_tip=rests),
                           body__tx={1: 0.0, 10: 0.0, 12: 0.03, 400: 0.03})  # fmt: skip
            times = np.arange(14.0, 14.0 + 2.5 * period, 0.25)
            aside = ends(rig, clip, times)[:, 0]
            lost = math.log(20.0) / rests
            swing = 2.0 * math.pi / math.sqrt((2.0 * math.pi / period) ** 2 - lost**2)
            self.assertLess(abs(2.0 * np.diff(crossings(times, aside)).mean() / swing - 1.0), 0.03)
            tops = [
                np.abs(aside[(times >= 14 + n * swing / 2) & (times < 14 + (n + 1) * swing / 2)]).max()
                for n in range(4)
            ]
            decrement = math.log(tops[1] / tops[3]) / swing
            self.assertLess(abs(decrement / lost - 1.0), 0.08)

    def test_over_a_moved_body_it_goes_as_the_equation_says(self) -> None:
        """Against SciPy's solve_ivp of the same spring, for swings of a few degrees."""
        rig = hanging()
        keys = {1: 0.0, 20: 0.02, 31: -0.03, 50: 0.01, 60: 0.0, 120: 0.0}
        clip = clip_of(rig, bare(period=18.0, period_tip=18.0, rests=40.0, rests_tip=40.0), body__tx=keys)
        frames = np.arange(1.0, 100.0)
        base = channel_values(rig, clip, frames)[:, rig.number("body/tx")]
        square, lost = (2.0 * math.pi / 18.0) ** 2, math.log(20.0) / 40.0

        def speed(t: float, y: Array) -> list[float]:
            n = min(int(t - 1.0), len(base) - 2)
            at, going = np.interp(t, frames, base), base[n + 1] - base[n]
            return [y[1], -square * (y[0] - at) - 2.0 * lost * (y[1] - going)]

        wanted = solve_ivp(speed, (1.0, 99.0), [base[0], base[1] - base[0]], t_eval=frames, max_step=0.05, rtol=1e-9).y[
            0
        ]
        found = ends(rig, clip, frames)[:, 0] + base
        self.assertLess(np.abs(found - wanted).max(), 0.02 * np.ptp(wanted))

    def test_what_is_keyed_level_hangs_down_by_the_droop(self) -> None:
        rig = hanging(1, (0.0, 0.0, -1.0))
        clip = clip_of(rig, bare(droop=radians(20.0)))
        end = ends(rig, clip, np.array([1.0, 200.0]))
        sunk = np.degrees(np.arcsin(-end[:, 1] / LENGTH))
        np.testing.assert_allclose(sunk, 20.0, atol=1.5)
        self.assertAlmostEqual(sunk[0], sunk[1], 2)  # from the first frame on

    def test_wind_blows_it_aside_and_air_slows_it(self) -> None:
        rig = hanging()
        calm, blown = (ends(rig, clip_of(rig, bare(air=4.0, wind_x=wind)), np.array([200.0]))[0] for wind in (0.0, 3.0))
        self.assertAlmostEqual(calm[0], 0.0, 6)
        self.assertGreater(blown[0], 0.02)

    def test_a_chain_trails_from_link_to_link(self) -> None:
        rig = hanging(5)
        span = bare(period=14.0, period_tip=14.0, rests=16.0, rests_tip=16.0)
        clip = clip_of(rig, span, body__tx={1: 0.0, 10: 0.0, 16: 0.5, 400: 0.5})
        frames = np.arange(1.0, 60.0)
        turned = [ends(rig, clip, frames, rod)[:, 0] for rod in (1, 3, 5)]
        peaks = [int(frames[column.argmin()]) for column in turned]
        self.assertTrue(peaks[0] <= peaks[1] <= peaks[2] and peaks[0] < peaks[2], peaks)


class FramesTest(unittest.TestCase):
    def setUp(self) -> None:
        self.rig: Rig = figure("wick")[0]
        self.base = walk_across(self.rig)
        self.clip = self.with_spring(Spring(1, 72, weight=0.4))

    def with_spring(self, *spans: Spring, about: str = "chain.scarf") -> Clip:
        return self.base.with_tracks({**self.base.tracks, f"spring/{about}": spans})

    def again(self) -> Player:
        return Player(self.rig, self.clip.with_labels({}))  # nothing is known of it yet

    def test_any_frame_alone_is_what_it_is_when_all_are_played_and_backwards(self) -> None:
        frames = np.arange(1.0, 73.0)
        whole = played_values({0: self.again()}, frames)[0]
        swings = np.abs(whole - channel_values(self.rig, self.base, frames)).max()
        self.assertGreater(swings, 0.1)
        for frame in (1.0, 24.0, 25.0, 26.0, 49.0, 72.0):
            np.testing.assert_array_equal(
                played_values({0: self.again()}, np.array([frame]))[0][0], whole[int(frame) - 1]
            )
        player = self.again()
        for frame in (72.0, 50.0, 33.0, 7.0):
            np.testing.assert_array_equal(played_values({0: player}, np.array([frame]))[0][0], whole[int(frame) - 1])
        between = played_values({0: self.again()}, np.arange(1.0, 73.0, 0.5))[0]
        np.testing.assert_array_equal(between[::2], whole)
        np.testing.assert_array_equal(played_values({0: self.again()}, np.array([33.5]))[0][0], between[65])

    def test_over_a_gaze_as_well(self) -> None:
        """What a spring looks at before is right of the gaze as well, which follows things later."""
        tracks = {"spring/cap": [Spring(1, 64)], "gaze": [Gaze(1, 64, x=2.0, y=1.4, z=5.0)]}
        looks = run_across(self.rig).with_tracks(tracks)
        known = {0: Player(self.rig, looks)}
        whole = played_values(known, np.arange(1.0, 65.0))[0]
        for frame in (5.0, 40.0):
            for players in (
                known,
                {0: Player(self.rig, looks.with_labels({}))},
            ):  # from a checkpoint, and from its start
                alone = played_values(players, np.array([frame]))[0][0]
                np.testing.assert_array_equal(alone, whole[int(frame) - 1])

    def test_of_no_strength_or_muted_it_is_as_it_is_keyed_to_the_bit(self) -> None:
        frames = np.arange(1.0, 73.0)
        keyed = channel_values(self.rig, self.base, frames)
        for span in (Spring(1, 72, strength=0.0), Spring(1, 72, muted=True)):
            np.testing.assert_array_equal(channel_values(self.rig, self.with_spring(span), frames), keyed)
        outside = channel_values(self.rig, self.with_spring(Spring(20, 40)), frames)
        np.testing.assert_array_equal(outside[:19], keyed[:19])
        np.testing.assert_array_equal(outside[40:], keyed[40:])

    def test_there_is_no_kick_as_it_begins(self) -> None:
        rig = hanging(4)
        clip = clip_of(rig, bare(), body__tx={1: 0.0, 100: 8.0})  # already going, evenly
        aside = ends(rig, clip, np.arange(1.0, 60.0), 4)[:, 0]
        self.assertLess(np.abs(aside).max(), 1e-6)

    def test_every_round_of_a_cycle_is_alike(self) -> None:
        cycled = run(self.rig)
        cycle = next(s for s in cycled.tracks["cycle"] if isinstance(s, Cycle))
        length = cycle.end - cycle.start
        cycled = cycled.with_tracks({"cycle": [replace(cycle, until=cycle.start + 6 * length)]})
        spring = cycled.with_tracks({"spring/chain.scarf": [Spring(cycle.start, cycle.start + 6 * length)]})
        frames = np.arange(float(cycle.start), cycle.start + 6.0 * length)
        row = row_of(self.rig, "chain.scarf")
        assert row is not None
        columns = [self.rig.number(f"{name}/{axis}") for name in row.names for axis in ("rx", "ry", "rz")]
        values = np.degrees(channel_values(self.rig, spring, frames)[:, columns])
        self.assertGreater(np.ptp(values, axis=0).max(), 5.0)
        for first, then in ((0, 1), (2, 3)):
            rounds = [values[n * length : (n + 1) * length] for n in (first, then)]
            self.assertLess(np.abs(rounds[0] - rounds[1]).max(), 0.1)

    def test_what_is_seen_of_one_that_hangs_is_about_what_is_keyed(self) -> None:
        clip = Clip().with_tracks({"spring/chain.scarf": [Spring(1, 72, weight=0.4)]})
        seen = channel_values(self.rig, clip, [30])[0]
        wanted = {f"scarf_2/{axis}": float(seen[self.rig.number(f"scarf_2/{axis}")]) + 0.1 for axis in ("rx", "rz")}
        posed = made(SetPose(frame=30, values=wanted), Scene({0: Figure(self.rig, clip)}, 1, 72), 0).clips[0]
        now = channel_values(self.rig, posed, [30])[0]
        for address, value in wanted.items():
            self.assertAlmostEqual(now[self.rig.number(address)], value, delta=0.05)  # it hangs otherwise by that


class ObstaclesTest(unittest.TestCase):
    def test_it_turns_no_farther_than_its_limit(self) -> None:
        rig = hanging()
        clip = clip_of(
            rig, bare(period=40.0, period_tip=40.0, limit=radians(15.0)), body__tx={1: 0.0, 10: 0.0, 14: 2.0}
        )
        aside = ends(rig, clip, np.arange(1.0, 60.0))
        angles = np.degrees(np.arccos(np.clip(-aside[:, 1] / LENGTH, -1.0, 1.0)))
        self.assertGreater(angles.max(), 14.0)
        self.assertLess(angles.max(), 15.01)

    def test_the_ground_keeps_it_out(self) -> None:
        rig = hanging(4)
        keys = {1: 0.0, 20: -1.6, 60: -1.6}
        for ground, low in ((True, -0.005), (False, -0.5)):
            clip = clip_of(rig, bare(ground=ground), body__ty=keys)
            nodes = evaluate(rig, channel_values(rig, clip, np.arange(1.0, 60.0)))
            row = row_of(rig, "rod_1")
            assert row is not None
            node = nodes[:, row.joints[-1]]
            heights = (node[:, :3] + rotations.rotate(node[:, 3:7], np.broadcast_to(row.tips[-1], (len(node), 3))))[
                :, 1
            ]
            self.assertTrue(heights.min() > low if ground else heights.min() < low, heights.min())

    def test_the_body_keeps_the_scarf_out(self) -> None:
        rig = figure("wick")[0]
        keys = {"master/tz": from_keys({1: 0.0, 10: 0.0, 14: -1.2, 60: -1.2}, shape=1)}  # back all at once
        deep = []
        for body in (True, False):
            clip = Clip().with_curves(keys).with_tracks({"spring/chain.scarf": [Spring(1, 60, body=body, weight=0.0)]})
            nodes = evaluate(rig, channel_values(rig, clip, np.arange(8.0, 30.0)))
            row, shells = row_of(rig, "chain.scarf"), shells_of(rig)
            assert row is not None
            chest = shells.nodes.index(int(rig.joint_nodes[rig.skeleton.index("spine_3")]))
            node = nodes[:, row.joints[-1]]
            tip = node[:, :3] + rotations.rotate(node[:, 3:7], np.broadcast_to(row.tips[-1], (len(node), 3)))
            about = nodes[:, shells.nodes[chest]]
            a, b = (
                about[:, :3] + rotations.rotate(about[:, 3:7], np.broadcast_to(e, (len(about), 3)))
                for e in shells.ends[chest]
            )
            along = np.clip(((tip - a) * (b - a)).sum(axis=1) / ((b - a) ** 2).sum(axis=1), 0.0, 1.0)
            deep.append(float(np.linalg.norm(tip - a - along[:, None] * (b - a), axis=1).min()))
        self.assertGreater(deep[0], 0.6 * shells.radii[chest])
        self.assertGreater(deep[0], deep[1])


class EditsTest(unittest.TestCase):
    def setUp(self) -> None:
        self.rig: Rig = figure("brannoc")[0]

    def scene(self, clip: Clip | None = None, fps: float = 24.0) -> Scene:
        return Scene({1: Figure(self.rig, clip or Clip(), "Brannoc")}, 1, 72, fps=fps)

    def test_on_several_rows_at_once_changed_and_taken_away(self) -> None:
        edit = LaySpring(controls=("cap", "coat_front_l", "coat_front_r"), start=1, end=60)
        self.assertEqual(edit_from_json(edit_to_json(edit)), edit)
        clip = made(edit, self.scene(fps=30.0), 1).clips[1]
        self.assertEqual({t: s[0].fps for t, s in clip.tracks.items()},  # type: ignore[attr-defined]
                         {"spring/cap": 30.0, "spring/coat_front_l": 30.0, "spring/coat_front_r": 30.0})  # fmt: skip
        self.assertEqual(from_json(clip.to_json()).tracks, clip.tracks)
        now = made(replace(edit, controls=("cap",), at=1, period=20.0), self.scene(clip), 1).clips[1]
        self.assertEqual(now.tracks["spring/cap"], (replace(clip.tracks["spring/cap"][0], period=20.0),))
        gone = made(DropSpring(control="cap", at=1), self.scene(now), 1).clips[1]
        self.assertEqual(set(gone.tracks), {"spring/coat_front_l", "spring/coat_front_r"})

    def test_into_few_keys_within_a_degree(self) -> None:
        base = walk_across(self.rig)
        clip = made(LaySpring(controls=("beard",), start=1, end=72), self.scene(base), 1).clips[1]
        done = made(SpringKeys(control="beard", at=1), self.scene(clip), 1)
        frames = np.arange(1.0, 72.5, 0.5)
        before, after = (channel_values(self.rig, one, frames) for one in (clip, done.clips[1]))
        self.assertLess(np.degrees(np.abs(before - after)).max(), 1.0)
        laid = [curve for address, curve in done.clips[1].curves.items() if "beard" in address]
        self.assertLess(max(map(len, laid)), 40)

    def test_taken_as_keys_it_is_older_once_the_motion_goes_otherwise(self) -> None:
        clip = made(LaySpring(controls=("beard", "cap"), start=1, end=48), self.scene(walk_across(self.rig)), 1).clips[
            1
        ]
        clip = made(SpringKeys(control="beard", at=1), self.scene(clip), 1).clips[1]
        (span,) = clip.tracks["spring/beard"]
        assert isinstance(span, Spring)
        self.assertFalse(span.counts)
        self.assertEqual(span.layer, 1)
        self.assertEqual(from_json(clip.to_json()).tracks, clip.tracks)

        def older(clip: Clip, first: int = 1, last: int = 72) -> list[Alert]:
            look = Look(clip, played({1: Figure(self.rig, clip)}, np.arange(first, last + 1))[1], first, 24.0)
            return [alert for alert in faults_in("paths", look) if alert.kind == "older"]

        self.assertEqual(older(clip), [])
        self.assertEqual(older(clip, 20, 30), [])
        self.assertFalse(taken_since({1: Figure(self.rig, clip)}, 1)[0].by.seen)
        # What hangs itself, and where all of it goes, is no other motion.
        same = made(SetPose(frame=9, values={"beard/rx": 0.3}), self.scene(clip), 1).clips[1]
        self.assertEqual(older(same), [])
        bowed = made(SetPose(frame=4, values={"head/rx": 0.3}), self.scene(clip), 1).clips[1]
        (alert,) = older(bowed)
        self.assertEqual((alert.control, alert.first, alert.last), ("beard", 1, 48))
        self.assertLess(alert.worst, 49)
        self.assertEqual(older(bowed, 60, 72), [])
        self.assertTrue(taken_since({1: Figure(self.rig, bowed)}, 1)[0].by.seen)
        assert alert.mend is not None
        anew = made(alert.mend, self.scene(bowed), 1)
        self.assertIn("which held it before", " ".join(anew.notes))
        self.assertEqual(older(anew.clips[1]), [])
        self.assertEqual([layer.name for layer in layers_of(anew.clips[1]).values()], ["Spring"])
        self.assertEqual(len(anew.clips[1].tracks["spring/beard"]), 1)

    def test_at_another_rate_its_keys_are_no_older(self) -> None:
        base = Clip().with_curves({"head/rx": from_keys({1: 0.0, 10: 0.5, 16: -0.3, 30: 0.0})})
        laid = made(LaySpring(controls=("beard",), start=1, end=49), self.scene(base), 1).clips[1]
        keyed = made(SpringKeys(control="beard", at=1), self.scene(laid), 1).clips[1]
        for clip, older in ((keyed, False), (keep_seconds(keyed, self.rig, 1, 2.0).clip, False),
                            (made(MoveColumns(frames=(16,), by=4), self.scene(keyed), 1).clips[1], True)):  # fmt: skip
            (found,) = taken_since({1: Figure(self.rig, clip)}, 1)
            self.assertEqual(found.by.seen, older, found)

    def test_it_swings_again_as_its_keys_go_and_is_gone_as_they_are_merged(self) -> None:
        base = Clip().with_curves({"head/rx": from_keys({1: 0.0, 10: 0.5, 16: -0.3, 30: 0.0})})
        laid = made(LaySpring(controls=("beard",), start=1, end=48), self.scene(base), 1).clips[1]
        keyed = made(SpringKeys(control="beard", at=1), self.scene(laid), 1).clips[1]
        self.assertEqual(made(DeleteLayer(number=1), self.scene(keyed), 1).clips[1], laid)
        (span,) = keyed.tracks["spring/beard"]
        self.assertEqual(span.carried_to(None), laid.tracks["spring/beard"][0])  # type: ignore[arg-type]
        longer = made(LaySpring(controls=("beard",), at=1, start=1, end=48, period=20.0), self.scene(keyed), 1).clips[1]
        frames = np.arange(1.0, 49.0)
        np.testing.assert_array_equal(channel_values(self.rig, longer, frames), channel_values(self.rig, keyed, frames))
        merged = made(MergeLayer(number=1), self.scene(keyed), 1).clips[1]
        self.assertEqual(merged.tracks.get("spring/beard", ()), ())
        off = np.abs(channel_values(self.rig, merged, frames) - channel_values(self.rig, keyed, frames))
        self.assertLess(float(np.degrees(off[:, self.rig.number("beard/rx")].max())), 0.2)

    def test_a_trace_that_is_none_is_refused(self) -> None:
        for trace in ("no", "AAAA", "!", base64.b64encode(zlib.compress(b"12345")).decode()):
            with self.assertRaisesRegex(BadEdit, "cannot be read"):
                read_trace(trace)

    def test_at_another_rate_it_swings_as_before(self) -> None:
        clip = made(LaySpring(controls=("cap",), start=1, end=49), self.scene(), 1).clips[1]
        twice = keep_seconds(clip, self.rig, 1, 2.0).clip.tracks["spring/cap"][0]
        self.assertEqual((twice.start, twice.end, twice.period, twice.fps), (1, 97, 28.0, 48.0))  # type: ignore[attr-defined]

    def test_refusals(self) -> None:
        laid = made(LaySpring(controls=("cap",), start=1, end=40), self.scene(), 1).clips[1]
        wick = figure("wick")[0]
        scarf = made(
            LaySpring(controls=("chain.scarf",), start=1, end=40), Scene({1: Figure(wick, Clip())}, 1, 72), 1
        ).clips[1]
        for edit, rig, clip, words in (
            (LaySpring(controls=(), start=1, end=40), self.rig, Clip(), "nothing is selected"),
            (LaySpring(controls=("arm.L.lower",), start=1, end=40), self.rig, Clip(), "does not hang on anything"),
            (LaySpring(controls=("cap",), start=40, end=40), self.rig, Clip(), "two frames"),
            (
                LaySpring(controls=("cap",), start=1, end=9, period=0, period_tip=0, weight=0),
                self.rig,
                Clip(),
                "draws it",
            ),
            (LaySpring(controls=("scarf_2",), start=9, end=20), wick, scarf, "swings with scarf"),
            (LaySpring(controls=("cap", "beard"), at=1, start=1, end=9), self.rig, laid, "one spring is changed"),
            (DropSpring(control="cap", at=7), self.rig, laid, "no spring begins at 7"),
        ):
            with self.subTest(words), self.assertRaisesRegex(BadEdit, words):
                made(edit, Scene({1: Figure(rig, clip)}, 1, 72), 1)
