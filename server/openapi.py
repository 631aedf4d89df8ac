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

ROOT = Path(__file__).resolve().parent.parent
DOCUMENT = ROOT / "server" / "openapi.json"
TYPES = ROOT / "web" / "src" / "api" / "schema.gen.ts"
FACTS = ROOT / "web" / "src" / "api" / "facts.gen.ts"


def main(check: bool) -> int:
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "server.settings")
    import django

    django.setup()
    from hame.facts import facts
    from server.api import api

    text = json.dumps(api.get_openapi_schema(), indent=1, sort_keys=True) + "\n"
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
