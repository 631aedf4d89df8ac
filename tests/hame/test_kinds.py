"""Kinds of edit as values: fields, bounds, names, and making them from JSON, a script and the command line."""

from __future__ import annotations

import json
import subprocess
import sys
import tempfile
import unittest
from dataclasses import FrozenInstanceError, dataclass, fields
from pathlib import Path
from typing import Any, Literal, get_type_hints

from hame.character.rig import Rig
from hame.clip.clip import Clip
from hame.clip.curve import from_keys
from hame.edits import edit as edits
from hame.edits.blend import Breakdown
from hame.edits.columns import MoveColumns
from hame.edits.edit import Edit, check
from hame.edits.holds import HoldPose
from hame.edits.kinds import ALL
from hame.edits.making import made
from hame.edits.outcome import Outcome
from hame.edits.overlap import DelayParts, Trail
from hame.edits.pose import KeyPose, SetPose
from hame.edits.reading import edit_from_json, edit_to_json, schema
from hame.errors import BadEdit
from hame.scene.scene import Figure, Scene
from tests.hame.examples import brannoc_rig

BRANNOC = Path(edits.__file__).parents[1] / "demo" / "data" / "brannoc.glb"


class KindsTest(unittest.TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        cls.rig = brannoc_rig()

    def scene(self, **clips: Clip) -> Scene:
        return Scene({n: Figure(self.rig, clip, name) for n, (name, clip) in enumerate(clips.items())}, 1, 48)

    def test_every_kind_is_frozen_named_and_says_what_it_does(self) -> None:
        for kind in ALL:
            self.assertTrue(kind.__doc__, kind)
            self.assertEqual(get_type_hints(kind)["kind"], Literal[kind.kind])
            self.assertIsNot(kind.label, Edit.label, kind)
        edit = KeyPose(frame=3)
        with self.assertRaises(FrozenInstanceError):
            edit.frame = 4  # type: ignore[misc]

    def test_whole_numbers_tell_their_unit_and_bounds(self) -> None:
        told = schema()["$defs"]
        for kind in ALL:
            for field in fields(kind):
                described = told[kind.__name__]["properties"][field.name]
                numbers = (
                    "pose",
                    "figure",
                    "layer",
                    "number",
                    "up",
                    "seed",
                )  # of rows and layers, places, and a choice
                if described.get("type") == "integer" and field.name not in numbers:
                    self.assertEqual(
                        (kind.kind, field.name, described.get("x-unit")), (kind.kind, field.name, "frames")
                    )
                    self.assertLess(described["minimum"], described["maximum"])

    def test_a_field_past_its_bounds_is_refused_in_words(self) -> None:
        many = {"head/ry": tuple(range(10))}
        for edit, words in (
            (Breakdown(frame=3, share=1.8), "lies from -50% to 150% of the way; 180% was not laid"),
            (HoldPose(frame=1, count=3, drift=0.6), "drifts by 0 to 50 percent"),
            (KeyPose(frame=2_000_000), "frame 2000000 is out of range"),
            (DelayParts(chain=(Trail(("head",), 1, 7.0),)), "0 to 200 percent"),
            (MoveColumns(frames=tuple(range(6000)), by=1), "frames: 6,000 are too many; there may be 5,000"),
            (SetPose(frame=1, values={}, what="x" * 81), "what: 81 are too many"),
            (Breakdown(frame=3, share=float("nan")), "was not laid"),
        ):  # fmt: skip
            with self.assertRaisesRegex(BadEdit, words):
                made(edit, self.scene(Brannoc=Clip()), 0)
        check(MoveColumns(frames=(1,), by=1))
        self.assertTrue(many)

    def test_json_that_is_no_edit_is_refused_with_the_place(self) -> None:
        for given, words in (
            ({"kind": "nudge"}, "nudge"),
            ({"kind": "hold", "frame": 1}, "hold count"),
            ({"kind": "hold", "frame": "soon", "count": 1}, "hold frame"),
            ({"frame": 1}, "kind"),
            ({"kind": "delay", "chain": [{"controls": ["head"]}]}, "delay chain 0 frames"),
        ):
            with self.assertRaisesRegex(BadEdit, words):
                edit_from_json(given)

    def test_an_edit_of_several_figures_changes_them_in_one(self) -> None:
        """A made-up kind: whoever nods first, the other nods so many frames later."""

        @dataclass(frozen=True, kw_only=True)
        class Nod(Edit):
            """Two heads, one after the other."""

            kind: Literal["nod"] = "nod"
            later: int

            def apply(self, scene: Scene, of: int) -> tuple[dict[int, Clip], tuple[str, ...]]:
                other = next(n for n in scene.figures if n != of)
                heads = {n: from_keys({1 + (self.later if n == other else 0): 0.3}) for n in (of, other)}
                clips = {n: scene.figure(n).clip.with_curves({"head/rx": head}) for n, head in heads.items()}
                return clips, ("they nod",)

            def label(self, rig: Rig, scene: Scene) -> str:
                return "Nod"

        self.addCleanup(edits.EDITS.pop, "nod")
        scene = self.scene(Brannoc=Clip(), Wick=Clip())
        done = made(Nod(later=4), scene, 0)
        self.assertEqual({n: c.curves["head/rx"].frames.tolist() for n, c in done.clips.items()}, {0: [1], 1: [5]})
        self.assertEqual(done.notes, ("they nod",))
        kept = Scene({0: scene.figure(0), 1: Figure(self.rig, Clip(), "Wick", ("head",))}, 1, 48)
        with self.assertRaisesRegex(BadEdit, "protected: head"):
            made(Nod(later=4), kept, 0)

    def test_a_made_up_kind_takes_one_class(self) -> None:
        @dataclass(frozen=True, kw_only=True)
        class Nudge(Edit):
            """The head turned by a little."""

            kind: Literal["nudge"] = "nudge"
            by: float

            def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
                return Outcome(clip.with_curves({"head/ry": from_keys({1: self.by})}))

            def label(self, rig: Rig, scene: Scene) -> str:
                return f"Nudge by {self.by:g}"

        self.addCleanup(edits.EDITS.pop, "nudge")
        done = made(Nudge(by=0.2), self.scene(Brannoc=Clip()), 0)
        self.assertEqual(done.clips[0].curves["head/ry"].values.tolist(), [0.2])
        self.assertEqual(edit_to_json(Nudge(by=0.2)), {"kind": "nudge", "layer": 0, "by": 0.2})

    def test_who_does_not_play_is_told(self) -> None:
        with self.assertRaisesRegex(BadEdit, "does not play"):
            made(KeyPose(frame=1), self.scene(Brannoc=Clip()), 7)


class CommandLineTest(unittest.TestCase):
    def run_hame(self, *words: str, given: str = "") -> Any:
        return subprocess.run(
            [sys.executable, "-m", "hame", *words], input=given, capture_output=True, text=True, check=False
        )

    def test_edits_are_made_from_the_command_line(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            clip = Path(folder) / "clip.json"
            lines = [{"kind": "key", "frame": 1}, {"kind": "pose", "frame": 9, "values": {"head/ry": 0.4}}]
            done = self.run_hame("edit", str(BRANNOC), str(clip), given="\n".join(map(json.dumps, lines)))
            self.assertEqual(done.returncode, 0, done.stderr)
            self.assertEqual(done.stderr.splitlines(), ["Key the whole character at 1", "Pose head at 9"])
            clip.write_text(done.stdout)
            self.assertEqual(json.loads(done.stdout)["curves"]["head/ry"], [[1, 0, 2], [9, 0.4, 2]])
            bad = self.run_hame("edit", str(BRANNOC), str(clip), given='{"kind": "free"}')
            self.assertEqual((bad.returncode, bad.stdout), (1, ""))
            self.assertIn("there is no cycle; make one first", bad.stderr)

    def test_the_kinds_are_told(self) -> None:
        done = self.run_hame("kinds")
        self.assertIn("HoldPose", json.loads(done.stdout)["$defs"])
