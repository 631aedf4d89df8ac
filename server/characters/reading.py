"""Character files are read in a process of their own, which can be ended: a file may be built to take minutes."""

from __future__ import annotations

import json
import logging
import subprocess
import sys
import tempfile
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from django.conf import settings

from hame.errors import BadFile
from hame.formats.kinds import suffix_of

_log = logging.getLogger("hame.reading")

SECONDS = 10  # beside what the process takes to begin
_BEGIN = 5


@dataclass(frozen=True)
class Taken:
    """What was made of a file: the regular file, and as JSON its plan and its card; notes in words."""

    mesh: bytes
    plan: dict[str, Any]
    card: dict[str, Any]
    notes: list[str]


def take_ours(name: str, data: bytes, prop: bool = False) -> Taken:
    """Reads a file of our own here, at once: nothing in it can be meant to take long, and to begin a process does.

    Things of the shelf weigh what such things do.
    """
    from hame.demo.shelf import weighed
    from hame.intake import intake

    found = intake.take_in(name, data, prop)
    return Taken(found.mesh, weighed(name, found.plan).to_json(), found.card.to_json(), list(found.notes))


def take_in(name: str, data: bytes, prop: bool = False, file: str = "") -> Taken:
    """Reads a file that somebody brings in, as a figure or as a prop; ``file`` is what it is called.

    Raises
    ------
    BadFile
        If it cannot be used, or takes too much time or memory to read.
    """
    with tempfile.TemporaryDirectory(prefix="hame-") as folder:
        source, mesh = Path(folder) / f"source{suffix_of(file)}", Path(folder) / "mesh.glb"
        source.write_bytes(data)
        command = [
            sys.executable,
            "-m",
            "hame",
            "take-in",
            str(source),
            str(mesh),
            f"--name={name}",  # in one word: a name may begin as an option does
            *(["--prop"] if prop else []),
        ]
        try:
            done = subprocess.run(
                command, capture_output=True, text=True, timeout=SECONDS + _BEGIN, cwd=settings.BASE_DIR
            )
        except subprocess.TimeoutExpired:
            raise BadFile(
                f"reading the file took longer than {SECONDS} seconds and was ended; reduce its parts"
            ) from None
        if "Traceback" in done.stderr:
            _log.error("reading a file failed:\n%s", done.stderr[-4000:])
        if done.returncode == 1 and done.stderr.strip():
            raise BadFile(done.stderr.strip().splitlines()[-1])
        if done.returncode != 0:
            raise BadFile("the file is damaged, or takes too much memory to read; reduce its parts")
        told = json.loads(done.stdout)
        return Taken(mesh.read_bytes(), told["plan"], told["card"], told["notes"])
