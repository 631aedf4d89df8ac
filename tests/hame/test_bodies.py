"""Rigs of unusual bodies: any size, any number of limbs, straight limbs, knees that bend backwards."""

from __future__ import annotations

import subprocess
import sys
import tempfile
import unittest
from pathlib import Path

import numpy as np

from hame.character.bodyplan import BodyPlan
from hame.character.build import build_rig
from hame.character.propose import propose
from hame.character.rig import Rig
from hame.evaluate.evaluate import evaluate, joints
from hame.solve.match import match
from tests.hame.examples import BRANNOC, brannoc, skeleton_of
from tests.hame.foreign import PLACES


def places_of(rig: Rig, values: np.ndarray) -> np.ndarray:
    return joints(rig, evaluate(rig, values[None]))[0, :, :3]


def person(scale: float = 1.0, knee: float = 0.02) -> Rig:
    places = [(p, tuple(scale * v for v in at)) for p, at in PLACES]
    for n in (12, 16):
        x, y, _ = places[n][1]
        places[n] = (places[n][0], (x, y, scale * knee))
    rows = {f"b{n}": (f"b{p}" if p >= 0 else None, at) for n, (p, at) in enumerate(places)}
    skeleton = skeleton_of(rows)  # type: ignore[arg-type]
    return build_rig(skeleton, propose(skeleton))


def crab() -> Rig:
    """A tide crab: a body and six legs of three bones."""
    rows: dict[str, tuple[str | None, tuple[float, float, float]]] = {"shell": (None, (0, 0.3, 0))}
    roles = {"hips": "shell"}
    for number, z in enumerate((0.2, 0.0, -0.2)):
        for side, sign in (("L", 1), ("R", -1)):
            above = "shell"
            for part, (x, y) in {"upper": (0.15, 0.32), "lower": (0.35, 0.5), "foot": (0.6, 0.02)}.items():
                name = f"{part}{number}{side}"
                rows[name] = (above, (sign * x, y, z * (1 + x)))
                roles[f"leg{number or ''}.{side}.{part}"] = name
                above = name
    return build_rig(skeleton_of(rows), BodyPlan(roles))


class BodiesTest(unittest.TestCase):
    def test_every_size_rests_where_it_was_and_steps(self) -> None:
        for scale in (0.02, 1.0, 90.0):
            rig = person(scale)
            np.testing.assert_allclose(places_of(rig, rig.rest), rig.skeleton.places, atol=1e-9 * scale)
            values = rig.rest.copy()
            values[rig.number("leg.L.goal/ty")] = 0.2 * scale
            foot = rig.skeleton.index("b13")
            lifted = places_of(rig, values)[foot] - rig.skeleton.places[foot]
            np.testing.assert_allclose(lifted, [0, 0.2 * scale, 0], atol=1e-9 * scale)

    def test_a_straight_leg_bends_forwards_and_a_bird_s_backwards(self) -> None:
        for knee, way in ((0.0, 1), (0.02, 1), (-0.06, -1)):
            rig = person(knee=knee)
            np.testing.assert_allclose(places_of(rig, rig.rest), rig.skeleton.places, atol=1e-7)
            values = rig.rest.copy()
            values[rig.number("body/ty")] = -0.2
            bent = places_of(rig, values)[rig.skeleton.index("b12")]
            self.assertGreater(way * bent[2], 0.1)

    def test_six_legs_are_six_limbs_that_stay_planted(self) -> None:
        rig = crab()
        self.assertEqual(len(rig.limbs), 6)
        np.testing.assert_allclose(places_of(rig, rig.rest), rig.skeleton.places, atol=1e-9)
        values = rig.rest.copy()
        values[rig.number("body/ty")] = -0.06
        values[rig.number("body/ry")] = 0.1
        moved = places_of(rig, values)
        for name in rig.skeleton.names:
            j = rig.skeleton.index(name)
            shift = np.linalg.norm(moved[j] - rig.skeleton.places[j])
            self.assertTrue(shift < 1e-9 if name.startswith("foot") else shift > 1e-3, name)

    def test_the_limbs_of_a_crab_change_between_ik_and_fk_too(self) -> None:
        rig = crab()
        values = rig.rest.copy()
        values[rig.number("body/ty")] = -0.05
        before = places_of(rig, values)
        for limb in rig.limbs:
            for to in ("fk", "ik"):
                values = match(rig, values, limb, to)  # type: ignore[arg-type]
                np.testing.assert_allclose(places_of(rig, values), before, atol=1e-7)

    def test_joints_that_are_called_as_controls_are_get_controls_of_their_own(self) -> None:
        names = ["pelvis", "body", "body joint", "master", "hips"]
        rows = {name: (names[n - 1] if n else None, (0.0, 1.0 - 0.1 * n, 0.0)) for n, name in enumerate(names)}
        rig = build_rig(skeleton_of(rows), BodyPlan({"hips": "pelvis"}))
        found = [control.name for control in rig.controls]
        self.assertEqual(len(found), len(set(found)))
        self.assertEqual(len(rig.addresses), len(set(rig.addresses)))
        np.testing.assert_allclose(places_of(rig, rig.rest), rig.skeleton.places, atol=1e-9)

    def test_limits_of_a_hinge_leave_the_rest_bend_free(self) -> None:
        rig = person()
        channel = rig.channels[rig.number("leg.L.lower/rx")]
        straight = rig.rest.copy()
        straight[rig.number("leg.L/ik")] = 0.0
        straight[rig.number("leg.L.lower/rx")] = channel.low
        at = places_of(rig, straight)
        hip, knee, foot = (at[rig.skeleton.index(name)] for name in ("b11", "b12", "b13"))
        along = np.cross(knee - hip, foot - knee)
        self.assertLess(np.linalg.norm(along), 1e-6)  # at its low limit the leg is exactly straight

    def test_a_positive_bend_closes_elbow_knee_and_finger(self) -> None:
        character = brannoc()
        rig = build_rig(character.skeleton, propose(character.skeleton))
        for side in "lr":
            big = side.upper()
            for address, moved, root, extra in (
                (f"arm.{big}.lower/rx", f"hand_{side}", f"upper_arm_{side}", {}),
                (f"leg.{big}.lower/rx", f"foot_{side}", f"thigh_{side}", {f"leg.{big}/ik": 0.0}),
                (f"arm.{big}.index/curl", f"index_3_{side}", f"hand_{side}", {}),
            ):
                values = rig.rest.copy()
                for name, value in extra.items():
                    values[rig.number(name)] = value
                before = places_of(rig, values)
                values[rig.number(address)] += 0.9
                after = places_of(rig, values)
                a, b = rig.skeleton.index(moved), rig.skeleton.index(root)
                self.assertLess(
                    np.linalg.norm(after[a] - after[b]), np.linalg.norm(before[a] - before[b]) - 0.005, address
                )
        self.assertGreater(rig.channels[rig.number("arm.L.index/curl")].high, 1.5)


class CommandLineTest(unittest.TestCase):
    def run_hame(self, *arguments: str) -> subprocess.CompletedProcess[str]:
        return subprocess.run([sys.executable, "-m", "hame", *arguments], capture_output=True, text=True)

    def test_look_says_what_a_file_holds(self) -> None:
        done = self.run_hame("look", str(BRANNOC))
        self.assertEqual(done.returncode, 0)
        self.assertIn("68 joints", done.stdout)
        self.assertRegex(done.stdout, r"leg\.L\.lower\s+shin_l")

    def test_a_bad_file_is_an_error_in_one_line(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            bad = Path(folder) / "bad.glb"
            bad.write_bytes(b"no lantern")
            for path in (bad, Path(folder) / "missing.glb"):
                done = self.run_hame("look", str(path))
                self.assertEqual(done.returncode, 1)
                self.assertEqual(len(done.stderr.strip().splitlines()), 1)
