"""The page's model, run by vitest on cases that the core writes: a case there is a test here."""

from __future__ import annotations

import json
import os
import re
import subprocess
import tempfile
from pathlib import Path
from typing import Any, ClassVar

from django.test import SimpleTestCase

from tests.model_cases import cases

WEB = Path(__file__).parents[1] / "web"
FILES = sorted((WEB / "tests").glob("*.test.ts"))


class ModelTest(SimpleTestCase):
    report: ClassVar[dict[str, Any]]

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        with tempfile.TemporaryDirectory() as folder:
            told, report = Path(folder) / "cases.json", Path(folder) / "report.json"
            told.write_text(json.dumps(cases()))
            done = subprocess.run(
                ["node_modules/.bin/vitest", "run", "--reporter=json", f"--outputFile={report}"],
                cwd=WEB, env={**os.environ, "HAME_CASES": str(told)}, capture_output=True, text=True,
            )  # fmt: skip
            if not report.exists():
                raise AssertionError(done.stdout + done.stderr)
            found = json.loads(report.read_text())
        cls.report = {
            (Path(file["name"]).name, one["title"]): one
            for file in found["testResults"]
            for one in file["assertionResults"]
        }
        broken = [file["message"] for file in found["testResults"] if not file["assertionResults"]]
        if broken:
            raise AssertionError("\n".join(broken))

    def told(self, file: str, title: str) -> None:
        one = self.report[file, title]
        self.assertEqual(one["status"], "passed", "\n".join(one["failureMessages"]))


def _test(file: str, title: str) -> Any:
    def run(self: ModelTest) -> None:
        self.told(file, title)

    run.__doc__ = title
    return run


for _file in FILES:
    for _title in re.findall(r'^test\("([^"]+)"', _file.read_text(), re.MULTILINE):
        _name = f"test_{_file.name.partition('.')[0]}_{re.sub(r'[^a-z]+', '_', _title.lower()).strip('_')}"
        setattr(ModelTest, _name, _test(_file.name, _title))
