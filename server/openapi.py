"""Writes ``server/openapi.json``, the front end's types from it, and the core's facts for it.

``--check`` only says whether they are current.
"""

from __future__ import annotations

import json
import os
import subprocess
import sys
import tempfile
from pathlib import Path
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from pydantic import TypeAdapter

ROOT = Path(__file__).resolve().parent.parent
DOCUMENT = ROOT / "server" / "openapi.json"
TYPES = ROOT / "web" / "src" / "api" / "schema.gen.ts"
FACTS = ROOT / "web" / "src" / "api" / "facts.gen.ts"


def add_messages(document: dict[str, Any]) -> None:
    """Adds to an API's document what is said over sockets, as schemas ``Up``, ``Down`` and ``Said``.

    Raises
    ------
    ValueError
        If something else is called so there already.
    """
    from pydantic.json_schema import models_json_schema

    from server.shots import messages

    there = document["components"]["schemas"]
    ours = frozenset(
        name for name, one in vars(messages).items() if getattr(one, "__module__", "") == messages.__name__
    )
    at = "#/components/schemas/{model}"
    either: dict[str, TypeAdapter[Any]] = {"Up": messages.UP, "Down": messages.DOWN}
    for name, told in either.items():
        found = told.json_schema(ref_template=at)
        _add(there, {**found.pop("$defs"), name: found}, ours)
    _, said = models_json_schema([(messages.Said, "serialization")], ref_template=at)
    _add(there, said["$defs"], ours)


def _add(there: dict[str, Any], more: dict[str, Any], ours: frozenset[str]) -> None:
    """Adds schemas; what both speak of, as edits, stays as it stands there."""
    for name, schema in more.items():
        if there.setdefault(name, schema) != schema and name in ours:
            raise ValueError(f"two things are called {name} in the API's document")


def main(check: bool) -> int:
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "server.settings")
    import django

    django.setup()
    from hame.facts import facts
    from server.api import api

    document = api.get_openapi_schema()
    add_messages(document)
    text = json.dumps(document, indent=1, sort_keys=True) + "\n"
    told = f"// Made from hame/facts.py.\nexport const FACTS = {json.dumps(facts(), indent=2)} as const;\n"
    with tempfile.TemporaryDirectory() as folder:
        written, types = (DOCUMENT, TYPES) if not check else (Path(folder) / "api.json", Path(folder) / "api.ts")
        written.write_text(text)
        subprocess.run(
            [str(ROOT / "web" / "node_modules" / ".bin" / "openapi-typescript"), str(written), "-o", str(types)],
            check=True, stdout=subprocess.DEVNULL, cwd=ROOT / "web",
        )  # fmt: skip
        if not check:
            FACTS.write_text(told)
        stale = [(written.read_text(), DOCUMENT), (types.read_text(), TYPES), (told, FACTS)]
        if any(now != file.read_text() for now, file in stale):
            print("The API's document or types are stale: run .venv/bin/python -m server.openapi")
            return 1
    return 0


if __name__ == "__main__":
    sys.exit(main("--check" in sys.argv[1:]))
