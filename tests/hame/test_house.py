"""The rooms and their one direction, read off the imports."""

from __future__ import annotations

import ast
import unittest
from pathlib import Path

ROOT = Path(__file__).parents[2]


def imported(path: Path) -> set[str]:
    names: set[str] = set()
    for node in ast.walk(ast.parse(path.read_text())):
        if isinstance(node, ast.Import):
            names |= {alias.name for alias in node.names}
        elif isinstance(node, ast.ImportFrom) and node.module:
            names.add(node.module)
    return {name.split(".")[0] for name in names}


class HouseTest(unittest.TestCase):
    def test_the_core_knows_neither_server_nor_web_frameworks(self) -> None:
        for path in (ROOT / "hame").rglob("*.py"):
            self.assertFalse(imported(path) & {"server", "django", "channels", "ninja"}, path)
            if path.name != "reading.py":  # where JSON comes in
                self.assertNotIn("pydantic", imported(path), path)

    def test_what_builds_rigs_does_not_know_what_runs_them(self) -> None:
        for path in (ROOT / "hame" / "character").rglob("*.py"):
            self.assertNotIn("from hame.evaluate", path.read_text(), path)

    def test_no_feature_of_the_front_end_imports_another(self) -> None:
        features = ROOT / "web" / "src" / "features"
        for folder in features.iterdir():
            for path in folder.rglob("*.ts*"):
                for other in features.iterdir():
                    if other != folder:
                        self.assertNotIn(f"features/{other.name}/", path.read_text(), path)
