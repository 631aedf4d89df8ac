"""The examples that stand in the core's front doors, run; and those of the docs, as far as they name what there is."""

from __future__ import annotations

import doctest
import io
import re
import unittest
from contextlib import redirect_stdout
from importlib import import_module
from pathlib import Path

DOORS = ("hame.clip.curve", "hame.edits.making", "hame.evaluate.line", "hame.faults.fault", "hame.formats.kinds",
         "hame.character.build")  # fmt: skip
DOCS = Path(__file__).parents[2] / "docs"


class DoorsTest(unittest.TestCase):
    def test_the_examples_of_the_front_doors_give_what_they_say(self) -> None:
        for door in DOORS:
            said = io.StringIO()
            with redirect_stdout(said):
                result = doctest.testmod(import_module(door))
            self.assertGreater(result.attempted, 0, f"{door} has no example")
            self.assertEqual(result.failed, 0, said.getvalue())


class DocsTest(unittest.TestCase):
    def test_links_between_docs_lead_somewhere(self) -> None:
        root = DOCS.parent
        for page in [root / "README.md", root / "CHANGELOG.md", *DOCS.rglob("*.md")]:
            for link in re.findall(r"\]\(([^)#:]+)\)", page.read_text()):
                self.assertTrue((page.parent / link).exists(), f"{page.relative_to(root)}: {link}")

    def test_files_that_are_named_are_there(self) -> None:
        root = DOCS.parent
        for page in (DOCS / "contributing.md", DOCS / "house.md"):
            for name in re.findall(r"`((?:hame|server|web|tests|scripts)/[\w./-]+)`", page.read_text()):
                self.assertTrue((root / name).exists(), f"{page.name}: {name}")
