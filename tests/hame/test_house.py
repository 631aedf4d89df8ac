"""What the core may use. Which room may ask which is held by import-linter (pyproject.toml) and eslint."""

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
    def test_only_where_json_comes_in_the_core_knows_how_it_is_read(self) -> None:
        for path in (ROOT / "hame").rglob("*.py"):
            if path.name != "reading.py":
                self.assertNotIn("pydantic", imported(path), path)
