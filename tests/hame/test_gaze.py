"""Gazes and blinks: eyes, head and chest that follow what moves, and lids that shut on the way."""

from __future__ import annotations

import unittest
from dataclasses import replace
from math import radians
from typing import Any

import numpy as np

from hame.character.rig import Rig
from hame.clip.belonging import Belonging
from hame.clip.blink import Blink
from hame.clip.clip import Clip, from_json
from hame.clip.curve import from_keys
from hame.clip.gaze import Gaze
from hame.demo.shots import figure, walk_across
from hame.edits.blinks import BlinkAtTurns, BlinkKeys, DropBlinks, LayBlink
from hame.edits.gazes import DropGaze, GazeKeys, Look
from hame.edits.making import made
from hame.edits.pose import SetPose
from hame.edits.reading import edit_from_json, edit_to_json
from hame.errors import BadEdit
from hame.evaluate.blink import shut_of
from hame.evaluate.evaluate import channel_values, evaluate
from hame.evaluate.line import played_values
from hame.evaluate.players import Player
from hame.maths import rotations
from hame.maths.rotations import Array
from hame.scene.joined import bound_to, moves, played
from hame.scene.looked import gazes_off
from hame.scene.scene import Figure, Scene, StoredPose
from tests.hame.examples import prop_rig

EYES = ("eye.L", "eye.R")
PLACE = (1.4, 1.3, 2.0)


def at(place: tuple[float, float, float] = PLACE, **more: Any) -> Gaze:
    x, y, z = place
    return Gaze(**{"start": 1, "end": 60, "x": x, "y": y, "z": z, **more})


class GazeTest(unittest.TestCase):
    def setUp(self) -> None:
        self.rig: Rig = figure("brannoc")[0]
        self.lamp = prop_rig("signal_lamp")

    def off(self, players: dict[int, Player], frames: Array, goal: Array, name: str, of: int = 1) -> Array:
        """Degrees (F,) that a control points beside the places ``goal (F, 3)``: by its node alone."""
        rig = players[of].rig
        nodes = evaluate(rig, played_values(players, frames)[of])[:, rig.control(name).node]
        now = rotations.rotate(nodes[:, 3:7], np.tile([0.0, 0.0, 1.0], (len(nodes), 1)))
        way = goal - nodes[:, :3]
        return np.degrees(np.arctan2(np.linalg.norm(np.cross(now, way), axis=1), (now * way).sum(axis=1)))

    def still(self, *gazes: Gaze, clip: Clip | None = None, about: str = "") -> Player:
        track = f"gaze/{about}" if about else "gaze"
        return Player(self.rig, (clip or Clip()).with_tracks({track: gazes}))

    def values(self, player: Player, frames: Array, *addresses: str) -> Array:
        found = played_values({1: player}, frames)[1]
        return found[:, [self.rig.number(address) for address in addresses]]

    def test_both_eyes_are_on_a_place_while_the_body_walks_by(self) -> None:
        frames = np.arange(12.0, 45.0)
        for clip in (Clip(), walk_across(self.rig)):
            player = self.still(at(), clip=clip)
            for eye in EYES:
                off = self.off({1: player}, frames, np.tile(PLACE, (len(frames), 1)), eye)
                self.assertLess(off.max(), 0.1)

    def test_a_thing_that_moves_is_followed_at_any_time_between_frames(self) -> None:
        way = Clip().with_curves({"master/tx": from_keys({1: -1.5, 40: 1.6}), "master/ty": from_keys({1: 0.4, 40: 1.6}),
                                  "master/tz": from_keys({1: 1.5, 40: 1.1})})  # fmt: skip
        span = Gaze(1, 60, figure=7, to="master", y=0.1, lead=4)
        players = {1: self.still(span), 7: Player(self.lamp, way)}
        frames = np.arange(9.0, 40.0, 0.37)
        nodes = evaluate(self.lamp, played_values(players, frames)[7])[:, self.lamp.control("master").node]
        for eye in EYES:
            self.assertLess(self.off(players, frames, nodes[:, :3] + [0.0, 0.1, 0.0], eye).max(), 0.1)

    def test_a_thing_held_in_a_hand_is_followed_with_its_ties(self) -> None:
        hand = Clip().with_curves({"arm.R.mode/ik": from_keys({1: 1.0}),
                                   "arm.R.goal/ty": from_keys({1: 0.0, 30: 0.45}),
                                   "arm.R.goal/tz": from_keys({1: 0.1, 30: 0.5})})  # fmt: skip
        switch = next(limb.switch for limb in self.rig.limbs if limb.name == "arm.R")
        hand = hand.with_curves({switch: from_keys({1: 1.0}), "arm.R.mode/ik": None})
        lamp = Clip().with_tracks({"belonging/master": [Belonging(1, 60, figure=1, to="arm.R.goal")]})
        lamp = lamp.with_curves({"master/tx": from_keys({1: -0.5}), "master/ty": from_keys({1: 1.1})})
        players = {1: self.still(Gaze(1, 60, figure=7, to="master"), clip=hand), 7: Player(self.lamp, lamp)}
        frames = np.arange(10.0, 40.0)
        place = evaluate(self.lamp, played_values(players, frames)[7])[:, self.lamp.control("master").node, :3]
        self.assertGreater(np.ptp(place[:, 1]), 0.3)  # it is carried
        for eye in EYES:
            self.assertLess(self.off(players, frames, place, eye).max(), 0.1)

    def test_eyes_turn_first_then_the_head_then_the_chest(self) -> None:
        frames = np.arange(1.0, 60.0)

        def turned(aside: float) -> Array:
            place = (3.0 * float(np.sin(radians(aside))), 1.63, 3.0 * float(np.cos(radians(aside))))
            player = self.still(at(place))
            found = np.degrees(self.values(player, frames, "eye.L/ry", "neck/ry", "head/ry", "spine/ry", "chest/ry"))
            return np.asarray(found[30])

        near, aside, far = turned(10.0), turned(50.0), turned(95.0)
        self.assertTrue(abs(near[1]) + abs(near[2]) < 1.0 and near[3] == 0.0)
        self.assertTrue(aside[1] + aside[2] > 25.0 and abs(aside[3]) < 0.5)
        self.assertAlmostEqual(far[1] + far[2], 60.0, 4)
        self.assertGreater(far[3], 2.0)

    def test_eyes_lead_by_the_frames_that_are_chosen(self) -> None:
        frames = np.arange(1.0, 40.0)
        for lead in (0, 2, 4):
            player = self.still(at((3.0, 1.6, 0.5), start=10, ease_in=0, lead=lead))
            found = self.values(player, frames, "eye.L/ry", "head/ry", "chest/ry")
            begins = [int(frames[np.flatnonzero(np.abs(column) > 1e-6)[0]]) for column in found.T]
            self.assertEqual(begins, [10, 10 + lead, 10 + 2 * lead])

    def test_head_and_chest_follow_a_thing_later_than_the_eyes(self) -> None:
        aside, ahead = ({1: a, 30: a, 31: b} for a, b in ((0.0, 2.5), (0.9, 0.0)))
        way = Clip().with_curves({"master/tx": from_keys(aside, shape=1), "master/ty": from_keys({1: 1.6}),
                                  "master/tz": from_keys(ahead, shape=1)})  # fmt: skip
        players = {1: self.still(Gaze(1, 60, figure=7, to="master", lead=4)), 7: Player(self.lamp, way)}
        frames = np.arange(20.0, 55.0)
        values = played_values(players, frames)[1]
        begins = []
        for address in ("eye.L/ry", "head/ry", "chest/ry"):
            column = values[:, self.rig.number(address)]
            begins.append(int(frames[np.flatnonzero(np.abs(column - column[0]) > 0.02)[0]]))
        self.assertEqual(begins, [31, 35, 39])

    def test_what_passes_behind_is_gone_round_to_without_a_jump(self) -> None:
        angles = np.radians(np.linspace(60.0, 300.0, 241))
        way = Clip().with_curves({
            "master/tx": from_keys({n + 1: float(2.0 * np.sin(a)) for n, a in enumerate(angles)}),
            "master/ty": from_keys({1: 1.5}),
            "master/tz": from_keys({n + 1: float(2.0 * np.cos(a)) for n, a in enumerate(angles)}),
        })  # fmt: skip
        players = {1: self.still(Gaze(1, 260, figure=7, to="master", ease_in=0, ease_out=0)), 7: Player(self.lamp, way)}
        frames = np.arange(10.0, 232.0)
        values = np.degrees(played_values(players, frames)[1])
        # A degree a frame goes by behind: eyes dart from side to side as they do, the head follows.
        for address, most, quick in (("eye.L/ry", 50.0, 20.0), ("head/ry", 36.0, 4.0), ("neck/ry", 24.0, 3.0),
                                     ("chest/ry", 20.0, 2.5)):  # fmt: skip
            column = values[:, self.rig.number(address)]
            self.assertLess(np.abs(np.diff(column)).max(), quick, address)
            self.assertLess(np.abs(column).max(), most + 1e-6, address)
            self.assertGreater(column[20] * -column[-20], 0.0, address)

    def test_it_is_eased_in_and_out_and_muted_it_is_nothing(self) -> None:
        frames = np.arange(1.0, 60.0)
        player = self.still(at(start=10, end=40, ease_in=8, ease_out=8, lead=2))
        eye, head = self.values(player, frames, "eye.L/ry", "head/ry").T
        self.assertTrue((eye[frames <= 10] == 0.0).all() and (eye[frames >= 36] == 0.0).all())  # it leaves first
        self.assertTrue((head[frames >= 38] == 0.0).all() and abs(head[frames == 31][0]) > 0.05)
        self.assertTrue((self.values(self.still(at(muted=True)), frames, "eye.L/ry") == 0.0).all())

    def test_one_that_follows_takes_over_without_looking_ahead_between(self) -> None:
        left, right = at((2.0, 1.6, 2.0), end=30), at((2.0, 1.6, 0.8), start=31, end=60, ease_in=6)
        frames = np.arange(20.0, 50.0)
        head = self.values(self.still(left, right), frames, "head/ry")[:, 0]
        self.assertTrue((np.diff(head) > -1e-9).all())  # from one to the other, and never back
        self.assertLess(
            self.off({1: self.still(left, right)}, np.array([30.0]), np.array([[2.0, 1.6, 2.0]]), "eye.L")[0], 0.1
        )
        self.assertLess(
            self.off({1: self.still(left, right)}, np.array([44.0]), np.array([[2.0, 1.6, 0.8]]), "eye.L")[0], 0.1
        )

    def test_keys_go_on_top_and_what_is_seen_is_keyed(self) -> None:
        clip = Clip().with_tracks({"gaze": [at((2.5, 1.4, 0.2))]})  # so far aside that the chest turns
        plain = channel_values(self.rig, clip, [30])[0]
        scene = Scene({0: Figure(self.rig, clip)})
        wanted = {
            a: float(plain[self.rig.number(a)]) + by
            for a, by in (("head/rz", 0.2), ("chest/ry", 0.1), ("eye.L/ry", 0.05))
        }
        posed = made(SetPose(frame=30, values=wanted), scene, 0).clips[0]
        seen = channel_values(self.rig, posed, [30])[0]
        for address, value in wanted.items():
            self.assertAlmostEqual(seen[self.rig.number(address)], value, 9, address)
        tilted = self.still(at(), clip=Clip().with_curves({"head/rz": from_keys({1: 0.3})}))
        self.assertLess(self.off({1: tilted}, np.array([30.0]), np.array([PLACE]), "eye.R")[0], 0.1)
        self.assertAlmostEqual(self.values(tilted, np.array([30.0]), "head/rz")[0, 0], 0.3)

    def test_planted_feet_stay_and_a_frame_alone_is_what_it_is_when_played(self) -> None:
        clip = walk_across(self.rig).with_tracks({"gaze": [at((-2.0, 1.4, 1.0))]})
        bare = clip.with_tracks({"gaze": ()})
        frames = np.arange(1.0, 50.0)
        foot = self.rig.control("leg.L.goal").node
        places = [evaluate(self.rig, channel_values(self.rig, one, frames))[:, foot, :3] for one in (clip, bare)]
        np.testing.assert_allclose(places[0], places[1], atol=1e-9)
        all_of_them = channel_values(self.rig, clip, frames)
        for frame in (7.0, 23.0, 41.0):
            alone = channel_values(self.rig, clip, np.array([frame]))[0]
            np.testing.assert_allclose(alone, all_of_them[frames == frame][0], atol=1e-9)

    def test_two_who_look_at_one_another(self) -> None:
        other = Clip().with_curves({"master/tz": from_keys({1: 1.6}), "master/ry": from_keys({1: 2.6}),
                                    "master/tx": from_keys({1: 0.5, 40: -0.5})})  # fmt: skip
        players = {1: self.still(Gaze(1, 60, figure=2, to="head")),
                   2: Player(self.rig, other.with_tracks({"gaze": [Gaze(1, 60, figure=1, to="head")]}))}  # fmt: skip
        frames = np.arange(15.0, 40.0)
        values = played_values(players, frames)
        heads = {n: evaluate(self.rig, values[n])[:, self.rig.control("head").node, :3] for n in players}
        self.assertLess(self.off(players, frames, heads[2], "eye.L", 1).max(), 0.1)
        self.assertLess(self.off(players, frames, heads[1], "eye.L", 2).max(), 0.1)

    def test_without_eyes_the_head_points_there(self) -> None:
        dog = figure("bosun")[0]
        plan = replace(dog.plan, roles={r: j for r, j in dog.plan.roles.items() if not r.startswith("eye")}, face={})
        from hame.character.build import build_rig

        blind = build_rig(dog.skeleton, plan)
        players = {1: Player(blind, Clip().with_tracks({"gaze": [at((0.8, 0.6, 2.0))]}))}
        self.assertLess(self.off(players, np.array([30.0]), np.array([[0.8, 0.6, 2.0]]), "head")[0], 0.1)

    def test_a_thing_is_aimed_by_an_axis_of_its_own(self) -> None:
        for axis, own in (("z", (0, 0, 1)), ("-x", (-1, 0, 0)), ("y", (0, 1, 0))):
            clip = Clip().with_tracks({"gaze/master": [at(axis=axis)]})
            node = evaluate(self.lamp, played_values({1: Player(self.lamp, clip)}, np.array([30.0]))[1])[0]
            node = node[self.lamp.control("master").node]
            way = np.array(PLACE) - node[:3]
            now = rotations.rotate(node[3:7], np.array(own, float))
            self.assertLess(float(np.degrees(np.arccos(now @ way / np.linalg.norm(way)))), 0.1, axis)

    def test_who_moves_when_something_else_does(self) -> None:
        clip = Clip().with_tracks({"gaze": [Gaze(10, 30, figure=7, to="master")]})
        way = Clip().with_curves({"master/tx": from_keys({1: 0.0, 20: 1.0})})
        figures = {1: Figure(self.rig, clip), 7: Figure(self.lamp, way)}
        self.assertEqual(set(bound_to(figures, 1)), {1, 7})
        from hame.clip.clip import difference

        after = Clip().with_curves({"master/tx": from_keys({1: 0.0, 20: 1.5})})
        told = moves({**figures, 7: Figure(self.lamp, after)}, {7: difference(way, after)})
        self.assertTrue(any(a is None or a <= 10 for a, _ in told[1]))


class GazeEditsTest(unittest.TestCase):
    def setUp(self) -> None:
        self.rig: Rig = figure("brannoc")[0]
        self.lamp = prop_rig("signal_lamp")

    def scene(self, clip: Clip | None = None) -> Scene:
        return Scene(
            {1: Figure(self.rig, clip or Clip(), "Brannoc"), 7: Figure(self.lamp, Clip(), "Signal lamp")}, 1, 90
        )

    def test_it_is_laid_changed_and_taken_away_and_comes_back_from_a_file(self) -> None:
        edit = Look(start=5, end=40, figure=7, to="master", y=0.2)
        self.assertEqual(edit_from_json(edit_to_json(edit)), edit)
        self.assertEqual(edit.label(self.rig, self.scene()), "Look at Signal lamp's master, 5 to 40")
        laid = made(edit, self.scene(), 1).clips[1]
        self.assertEqual(from_json(laid.to_json()).tracks, laid.tracks)
        now = made(replace(edit, at=5, start=9, lead=2), self.scene(laid), 1).clips[1]
        self.assertEqual([(s.start, s.end, s.lead) for s in now.tracks["gaze"]], [(9, 40, 2)])  # type: ignore[attr-defined]
        second = made(Look(start=30, end=60, x=1.0, z=1.0), self.scene(now), 1)
        self.assertIn("gave way", second.notes[0])
        self.assertEqual([(s.start, s.end) for s in second.clips[1].tracks["gaze"]], [(9, 29), (30, 60)])
        gone = made(DropGaze(at=30), self.scene(second.clips[1]), 1).clips[1]
        self.assertEqual([s.start for s in gone.tracks["gaze"]], [9])

    def test_into_few_keys_in_a_layer(self) -> None:
        clip = made(Look(start=10, end=40, figure=7, to="master"), self.scene(), 1).clips[1]
        keyed = made(GazeKeys(at=10), self.scene(clip), 1).clips[1]
        frames = np.arange(1.0, 60.0, 0.5)
        before, after = (
            played({1: Figure(self.rig, one), 7: Figure(self.lamp, Clip())}, frames)[1].values for one in (clip, keyed)
        )
        self.assertLess(np.degrees(np.abs(before - after)).max(), 1.0)
        self.assertFalse(keyed.tracks.get("gaze"))
        self.assertLess(max(len(curve) for curve in keyed.curves.values()), 16)

    def test_refusals(self) -> None:
        for edit, words in (
            (Look(start=1, end=9, figure=9, to="master"), "does not play"),
            (Look(start=1, end=9, figure=7, to="wick"), "no control called wick"),
            (Look(start=9, end=1), "before it begins"),
            (Look(start=1, end=9, to="eye.L"), "turns with it"),
            (Look(start=1, end=9, control="leg.L.lower"), "cannot be aimed"),
            (Look(start=1, end=9, control="body", to="head"), "turns with it"),
            (DropGaze(at=4), "no gaze begins at 4"),
        ):
            with self.subTest(words), self.assertRaisesRegex(BadEdit, words):
                made(edit, self.scene(), 1)
        with self.assertRaisesRegex(BadEdit, "neither eyes nor a head"):
            made(Look(start=1, end=9), self.scene(), 7)

    def test_how_far_off_is_measured(self) -> None:
        clip = Clip().with_tracks({"gaze": [at((0.0, 1.6, -3.0), ease_in=0)]})
        figures = {1: Figure(self.rig, clip)}
        behind = gazes_off(figures, played(figures, [30]), 1, 30)
        self.assertEqual([one.control for one in behind], list(EYES))
        self.assertGreater(min(np.degrees(one.angle) for one in behind), 150.0)
        near = {1: Figure(self.rig, Clip().with_tracks({"gaze": [at()]}))}
        self.assertLess(max(np.degrees(one.angle) for one in gazes_off(near, played(near, [30]), 1, 30)), 0.1)


class BlinkTest(unittest.TestCase):
    def setUp(self) -> None:
        self.rig: Rig = figure("brannoc")[0]

    def scene(self, clip: Clip) -> Scene:
        library = {3: StoredPose({"lid.L.upper/lid_upper_l": 0.7, "head/rx": 0.3}, 0.9, "Half shut")}
        return Scene({1: Figure(self.rig, clip, "Brannoc")}, 1, 90, library)

    def lids(self, clip: Clip, frames: Array) -> Array:
        values = channel_values(self.rig, clip, frames)
        return values[:, [self.rig.number("lid.L.upper/lid_upper_l"), self.rig.number("lid.R.upper/lid_upper_r")]]

    def test_both_eyes_shut_a_hair_apart_and_open_to_what_is_keyed(self) -> None:
        """Two to three frames (common practice, no source)."""
        squint = Clip().with_curves({"lid.L.upper/lid_upper_l": from_keys({1: 0.4})})
        clip = made(LayBlink(start=20, frames=3), self.scene(squint), 1).clips[1]
        times = np.arange(18.0, 26.0, 0.05)
        left, right = self.lids(clip, times).T
        self.assertAlmostEqual(left.max(), 1.0, 2)
        self.assertAlmostEqual(right.max(), 1.0, 2)
        self.assertLess(times[left.argmax()], times[right.argmax()])
        np.testing.assert_allclose(left[(times <= 20.0) | (times >= 23.0)], 0.4, atol=1e-9)
        np.testing.assert_allclose(right[(times <= 20.0) | (times >= 23.0)], 0.0, atol=1e-9)

    def test_wide_eyes_are_not_wide_while_they_are_shut(self) -> None:
        self.assertEqual(shut_of(self.rig)["lid.L.upper/eye_wide_l"], 0.0)
        self.assertEqual(shut_of(self.rig)["lid.L.upper/lid_upper_l"], 1.0)
        self.assertEqual(shut_of(self.rig)["lid.L.lower/lid_lower_l"], 1.0)

    def test_a_pose_says_how_eyes_are_shut(self) -> None:
        clip = made(LayBlink(start=20, pose=3), self.scene(Clip()), 1).clips[1]
        self.assertEqual(clip.tracks["blink"][0], Blink(20, 24, shut=("lid.L.upper/lid_upper_l",), amounts=(0.7,)))
        self.assertEqual(from_json(clip.to_json()).tracks, clip.tracks)

    def test_joints_of_lids_move_to_meet(self) -> None:
        from tests.hame.test_face import lidded_rig

        shut = shut_of(lidded_rig())
        self.assertLess(shut["lid.L.upper/ty"], 0.0)
        self.assertGreater(shut["lid.L.lower/ty"], 0.0)
        self.assertAlmostEqual(shut["lid.L.lower/ty"] - shut["lid.L.upper/ty"], 0.02)

    def test_blinks_are_laid_where_the_eyes_turn_at_once(self) -> None:
        clip = Clip().with_curves({"head/ry": from_keys({1: 0.0, 20: 0.0, 24: 0.9, 50: 0.9, 80: 0.0})})
        done = made(BlinkAtTurns(first=1, last=85), self.scene(clip), 1)
        self.assertEqual(len(done.clips[1].tracks["blink"]), 1)  # the slow turn back gets none
        self.assertTrue(18 <= done.clips[1].tracks["blink"][0].start <= 22)
        gone = made(DropBlinks(starts=(done.clips[1].tracks["blink"][0].start,)), self.scene(done.clips[1]), 1).clips[1]
        self.assertFalse(gone.tracks.get("blink"))
        with self.assertRaisesRegex(BadEdit, "no blink is named"):
            made(DropBlinks(starts=()), self.scene(clip), 1)
        with self.assertRaisesRegex(BadEdit, "nowhere do the eyes turn"):
            made(BlinkAtTurns(first=50, last=85), self.scene(clip), 1)

    def test_into_keys(self) -> None:
        clip = made(LayBlink(start=20), self.scene(Clip()), 1).clips[1]
        keyed = made(BlinkKeys(at=20), self.scene(clip), 1).clips[1]
        frames = np.arange(15.0, 30.0)
        np.testing.assert_allclose(self.lids(keyed, frames), self.lids(clip, frames), atol=0.01)

    def test_who_has_no_lids_is_told(self) -> None:
        lamp = prop_rig("signal_lamp")
        with self.assertRaisesRegex(BadEdit, "nothing tells how these eyes shut"):
            made(LayBlink(start=2), Scene({1: Figure(lamp, Clip())}), 1)
