"""Chains of joints: bent as one, without kinks, and mirrored."""

from __future__ import annotations

import unittest
from dataclasses import replace

import numpy as np

from hame.character.bodyplan import BodyPlan, Zone
from hame.character.build import build_rig
from hame.character.propose import propose
from hame.character.rig import Rig
from hame.clip.clip import Clip
from hame.demo import brittle_star
from hame.demo.shots import figure
from hame.edits.chains import ChainMode
from hame.edits.making import made
from hame.edits.pose import SetPose
from hame.errors import BadEdit
from hame.evaluate.evaluate import channel_values, evaluate, joints
from hame.evaluate.line import played_values
from hame.evaluate.players import Player
from hame.evaluate.posed import posed
from hame.evaluate.some import some_nodes
from hame.evaluate.springs.rows import row_of
from hame.faults.kinds import Alert, faults_in
from hame.faults.look import Look
from hame.maths import rotations
from hame.maths.rotations import Array
from hame.scene.joined import played
from hame.scene.scene import Figure, Scene
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

    def test_joints_of_a_face_are_no_chain(self) -> None:
        rows: dict[str, tuple[str | None, tuple[float, float, float]]] = {
            "hips": (None, (0, 0.5, 0)), "head": ("hips", (0, 0.8, 0.1)),
        }  # fmt: skip
        for n in range(4):
            rows[f"tongue_{n + 1}"] = (f"tongue_{n}" if n else "head", (0, 0.8, 0.15 + 0.02 * n))
        skeleton, plan = skeleton_of(rows), BodyPlan({"hips": "hips", "head": "head"})
        self.assertEqual([chain.label for chain in build_rig(skeleton, plan).chains], ["tongue"])
        face = {"tongue": Zone(tuple(f"tongue_{n}" for n in range(1, 5)), ())}
        rig = build_rig(skeleton, replace(plan, face=face))
        self.assertEqual(rig.chains, ())
        self.assertFalse([c for c in rig.controls if c.kind in ("chain", "tip")])
        # With one of them left out there are not enough for a chain; of those of a face none is bent by one.
        face = {"tongue": Zone(("tongue_4",), ())}
        rig = build_rig(skeleton, replace(plan, face=face))
        self.assertEqual([len(chain.joints) for chain in rig.chains], [3])

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

    def test_a_wave_runs_to_the_tip_a_joint_after_the_other(self) -> None:
        turned = []
        for at in np.linspace(0.0, 2.0 * np.pi, 49):
            row = self.rig.rest.copy()
            for name, value in (("wave", 0.5), ("crest", float(at)), ("late", np.pi / 6.0)):
                row[self.rig.number(f"chain.tail/{name}")] = value
            nodes = joints(self.rig, evaluate(self.rig, row[None]))[0][[self.rig.skeleton.index(n) for n in self.tail]]
            own = rotations.multiply(rotations.inverse(nodes[:-1, 3:7]), nodes[1:, 3:7])
            turned.append(rotations.to_vector(own)[:, 1])
        table = np.array(turned)
        tops = np.linspace(0.0, 2.0 * np.pi, 49)[np.abs(table[:25]).argmax(axis=0)]
        np.testing.assert_allclose(np.diff(np.unwrap(2.0 * tops) / 2.0), np.pi / 6.0, atol=0.14)  # steps of 7.5 degrees
        np.testing.assert_allclose(np.abs(table).max(axis=0), 0.5 * np.arange(2, 10) / 9.0, atol=0.005)
        lengths = np.linalg.norm(np.diff(nodes[:, :3], axis=0), axis=1)
        np.testing.assert_allclose(lengths, LENGTH, rtol=1e-9)


class ReachTest(unittest.TestCase):
    """Chains that reach for their tip: of the rock pools' brittle star, five arms of nine joints."""

    def setUp(self) -> None:
        self.rig = build_rig(brittle_star.skeleton(), propose(brittle_star.skeleton()))
        self.arms = sorted(c.name for c in self.rig.controls if c.kind == "chain")

    def ends(self, values: Array) -> dict[str, Array]:
        nodes = evaluate(self.rig, values[None])[0]
        found = {}
        for arm in self.arms:
            row = row_of(self.rig, arm)
            assert row is not None
            last = nodes[row.joints[-1]]
            found[arm] = last[:3] + rotations.rotate(last[3:7], row.tips[-1])
        return found

    def lengths(self, values: Array, arm: str) -> Array:
        row = row_of(self.rig, arm)
        assert row is not None
        places = evaluate(self.rig, values[None])[0][list(row.joints), :3]
        return np.asarray(np.linalg.norm(np.diff(places, axis=0), axis=1))

    def reaching(self, **by: Array) -> Array:
        values = self.rig.rest.copy()
        for arm in self.arms:
            values[self.rig.number(f"{arm}/ik")] = 1.0
            for axis, v in zip("xyz", by.get(arm.replace(".", "_"), np.zeros(3)), strict=True):
                values[self.rig.number(f"{arm}.tip/t{axis}")] = v
        return values

    def test_as_it_is_bent_it_reaches_and_nothing_moves(self) -> None:
        values = self.reaching()
        plain = evaluate(self.rig, self.rig.rest[None])[0][self.rig.joint_nodes, :7]
        np.testing.assert_allclose(evaluate(self.rig, values[None])[0][self.rig.joint_nodes, :7], plain, atol=1e-9)

    def test_four_tips_stay_while_the_body_goes_and_one_is_pulled(self) -> None:
        values = self.reaching(**{self.arms[0].replace(".", "_"): np.array([0.05, 0.12, 0.02])})
        before = self.ends(self.reaching())
        values[self.rig.number("body/tx")], values[self.rig.number("body/ty")] = 0.015, 0.01
        values[self.rig.number("body/ry")] = 0.2
        after = self.ends(values)
        for arm in self.arms[1:]:
            self.assertLess(float(np.linalg.norm(after[arm] - before[arm])), 0.0005)
        wanted = before[self.arms[0]] + [0.05, 0.12, 0.02]
        self.assertLess(float(np.linalg.norm(after[self.arms[0]] - wanted)), 0.001)
        for arm in self.arms:
            np.testing.assert_allclose(self.lengths(values, arm), self.lengths(self.rig.rest, arm), rtol=1e-6)

    def test_out_of_reach_it_is_straight_or_longer_as_it_is_let(self) -> None:
        arm = self.arms[0]
        away = self.ends(self.reaching())[arm] * [1.0, 0.0, 1.0]
        far = 0.5 * away / np.linalg.norm(away)
        kept = self.reaching(**{arm.replace(".", "_"): far})
        longer = kept.copy()
        longer[self.rig.number(f"{arm}/reach")] = 1.0
        goal = self.ends(self.reaching())[arm] + far
        row = row_of(self.rig, arm)
        assert row is not None
        last = evaluate(self.rig, longer[None])[0][row.joints[-1], :3]  # from there one bone, as much longer, is left
        left = float(np.linalg.norm(row.tips[-1])) * self.lengths(longer, arm)[0] / self.lengths(kept, arm)[0]
        self.assertAlmostEqual(float(np.linalg.norm(last - goal)), left, 3)
        self.assertGreater(float(np.linalg.norm(self.ends(kept)[arm] - goal)), 0.1)
        np.testing.assert_allclose(self.lengths(kept, arm), self.lengths(self.rig.rest, arm), rtol=1e-6)

    def test_how_far_one_is_short_of_its_tip_is_told_and_mended(self) -> None:
        arm = self.arms[0]
        away = self.ends(self.rig.rest)[arm] * [1.0, 0.0, 1.0]
        far = 0.5 * away / np.linalg.norm(away)
        pose = {f"{arm}/ik": 1.0, **{f"{arm}.tip/t{axis}": float(v) for axis, v in zip("xyz", far, strict=True)}}
        clip = made(SetPose(frame=5, values=pose), Scene({1: Figure(self.rig, Clip())}), 1).clips[1]

        def told(clip: Clip) -> list[Alert]:
            look = Look(clip, played({1: Figure(self.rig, clip)}, np.arange(1, 9))[1], 1, 24.0)
            return [alert for alert in faults_in("contacts", look) if alert.kind == "chain"]

        (alert,) = told(clip)
        self.assertEqual((alert.control, alert.first, alert.last), (f"{arm}.tip", 1, 8))
        goal = self.ends(self.rig.rest)[arm] + far
        self.assertAlmostEqual(
            alert.amount, float(np.linalg.norm(self.ends(channel_values(self.rig, clip, [5])[0])[arm] - goal)), 4
        )
        assert alert.mend is not None
        mended = made(alert.mend, Scene({1: Figure(self.rig, clip)}), 1).clips[1]
        self.assertEqual(told(mended), [])
        self.assertEqual(told(Clip()), [])

    def test_the_middle_draws_it_and_the_tip_stays(self) -> None:
        arm = self.arms[0]
        bent = self.reaching(**{arm.replace(".", "_"): -0.35 * self.ends(self.rig.rest)[arm] * [1.0, 0.0, 1.0]})
        drawn = bent.copy()
        drawn[self.rig.number(f"{arm}.middle/ty")] = 0.12
        self.assertLess(float(np.linalg.norm(self.ends(drawn)[arm] - self.ends(bent)[arm])), 0.0005)
        row = row_of(self.rig, arm)
        assert row is not None
        heights = [evaluate(self.rig, v[None])[0][row.joints[4], 1] for v in (bent, drawn)]
        self.assertGreater(heights[1], heights[0] + 0.04)
        nodes = evaluate(self.rig, drawn[None])[0][list(row.joints), :3]
        ways = np.diff(nodes, axis=0)
        ways /= np.linalg.norm(ways, axis=1, keepdims=True)
        self.assertLess(
            float(np.degrees(np.arccos(np.clip((ways[1:] * ways[:-1]).sum(axis=1), -1, 1))).max()), 50.0
        )  # no kink

    def test_tip_and_bend_are_changed_into_one_another_without_a_move(self) -> None:
        arm, clip = self.arms[1], Clip()
        pose = {f"{arm}/bend": 0.7, f"{arm}/side": -0.4}
        scene = Scene(
            {1: Figure(self.rig, made(SetPose(frame=1, values=pose), Scene({1: Figure(self.rig, clip)}), 1).clips[1])}
        )
        for to in ("ik", "fk"):
            before = scene.figure(1).clip
            after = made(ChainMode(control=arm, frame=1, to=to), scene, 1).clips[1]  # type: ignore[arg-type]
            values = [channel_values(self.rig, one, [1]) for one in (before, after)]
            places = [evaluate(self.rig, v)[0][self.rig.joint_nodes, :3] for v in values]
            np.testing.assert_allclose(places[1], places[0], atol=1e-6)
            moved = made(
                SetPose(frame=1, values={f"{arm}.tip/ty": 0.08}), Scene({1: Figure(self.rig, after)}), 1
            ).clips[1]
            scene = Scene({1: Figure(self.rig, moved if to == "ik" else after)})
        with self.assertRaisesRegex(BadEdit, "by FK at 1 already"):
            made(ChainMode(control=arm, frame=1, to="fk"), scene, 1)
        with self.assertRaisesRegex(BadEdit, "is no chain"):
            made(ChainMode(control="body", frame=1, to="ik"), scene, 1)

    def test_parts_of_the_program_and_programs_together_reach_alike(self) -> None:
        values = self.reaching(**{self.arms[2].replace(".", "_"): np.array([0.0, 0.1, 0.0])})
        whole = evaluate(self.rig, values[None])
        row = row_of(self.rig, self.arms[2])
        assert row is not None
        np.testing.assert_array_equal(some_nodes(self.rig, row.joints, values[None]), whole[:, list(row.joints)])
        twice = played_values({1: Player(self.rig, Clip()), 2: Player(self.rig, Clip())}, np.array([1.0]))
        both = posed([self.rig, self.rig], [values[None], twice[2]])
        np.testing.assert_array_equal(both[0].nodes, whole)
