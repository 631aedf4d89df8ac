"""A database that an earlier version left behind: takes open unchanged, and their histories go both ways.

``data/before_spans.sql.xz`` is a dump of such a database: the demo with steps of many kinds, steps undone and set
aside, pending poses, a cycle that was freed and brought back, and snapshots. ``data/before_spans.json.gz`` is what
that version itself said of it.
"""

from __future__ import annotations

import gzip
import json
import lzma
import os
import subprocess
import sys
import tempfile
import unittest
from pathlib import Path
from typing import Any

from django.db import connection

ROOT = Path(__file__).parents[2]
DATA = Path(__file__).parent / "data"
NAME = "test_hame_earlier"


class EarlierTest(unittest.TestCase):
    maxDiff = 2000

    @classmethod
    def setUpClass(cls) -> None:
        base = connection.settings_dict
        reach = ["mariadb", "--no-defaults", f"-h{base['HOST']}", f"-P{base['PORT']}", f"-u{base['USER']}"]
        own = {**os.environ, "MYSQL_PWD": base["PASSWORD"]}

        def say(sql: str) -> None:
            subprocess.run([*reach, "-e", sql], env=own, check=True)

        say(f"DROP DATABASE IF EXISTS {NAME}; CREATE DATABASE {NAME} CHARACTER SET utf8mb4")
        cls.addClassCleanup(say, f"DROP DATABASE IF EXISTS {NAME}")
        subprocess.run(
            [*reach, NAME], env=own, check=True, input=lzma.decompress((DATA / "before_spans.sql.xz").read_bytes())
        )
        with tempfile.TemporaryDirectory() as media:
            env = {**os.environ, "HAME_DB_NAME": NAME, "HAME_MEDIA": media, "DJANGO_SETTINGS_MODULE": "server.settings"}
            subprocess.run([sys.executable, "manage.py", "migrate", "-v0"], cwd=ROOT, env=env, check=True)
            told = subprocess.run(
                [sys.executable, "-m", "tests.server.earlier"], cwd=ROOT, env=env, check=True, stdout=subprocess.PIPE
            )
        cls.now: dict[str, Any] = json.loads(told.stdout)
        cls.then: dict[str, Any] = json.loads(gzip.decompress((DATA / "before_spans.json.gz").read_bytes()))

    def clip_then(self, clip: dict[str, Any]) -> dict[str, Any]:
        """A clip as the earlier version told it, in the words of the present one."""
        cycle = clip["cycle"]
        tracks = {"cycle": [{"kind": "cycle", **cycle}]} if cycle else {}
        return {"curves": clip["curves"], "pending": clip["pending"], "labels": clip["labels"], "tracks": tracks}

    def clip_now(self, clip: dict[str, Any]) -> dict[str, Any]:
        labels = {f: {"name": label["name"], "rank": label["rank"]} for f, label in clip["labels"].items()}
        return {"curves": clip["curves"], "pending": clip["pending"], "labels": labels, "tracks": clip["tracks"]}

    def test_every_take_is_there_with_its_clips(self) -> None:
        self.assertEqual(set(self.now), set(self.then))
        cycles = 0
        for number, then in self.then.items():
            now = self.now[number]
            for key in ("revision", "name", "can_undo", "can_redo"):
                self.assertEqual(now["take"][key], then["take"][key])
            for casting, clip in then["take"]["clips"].items():
                cycles += clip["cycle"] is not None
                self.assertEqual(self.clip_now(now["take"]["clips"][casting]), self.clip_then(clip))
        self.assertGreaterEqual(cycles, 5)

    def test_every_take_moves_as_it_did(self) -> None:
        for number, then in self.then.items():
            for casting, frames in then["motion"].items():
                for a, b in zip(self.now[number]["motion"][casting], frames, strict=True):
                    self.assertLess(max(abs(x - y) for x, y in zip(a, b, strict=True)), 2e-5)

    def test_every_history_is_there_and_goes_back_and_forth(self) -> None:
        for number, then in self.then.items():
            now = self.now[number]
            self.assertEqual(now["history"], then["history"])
            self.assertEqual(now["again"], now["take"]["clips"])
            # A copied take begins with the motion of its source, which no step laid down.
            self.assertEqual(now["began_empty"], bool(now["history"]) and number != "8", number)
