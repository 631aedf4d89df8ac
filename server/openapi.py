"""Writes ``server/openapi.json`` and the front end's types from it; ``--check`` only says whether they are current."""

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


def main(check: bool) -> int:
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "server.settings")
    import django

    django.setup()
    from server.api import api

    text = json.dumps(api.get_openapi_schema(), indent=1, sort_keys=True) + "\n"
    with tempfile.TemporaryDirectory() as folder:
        document, types = (DOCUMENT, TYPES) if not check else (Path(folder) / "api.json", Path(folder) / "api.ts")
        document.write_text(text)
        subprocess.run(
            [str(ROOT / "web" / "node_modules" / ".bin" / "openapi-typescript"), str(document), "-o", str(types)],
            check=True, stdout=subprocess.DEVNULL, cwd=ROOT / "web",
        )  # fmt: skip
        if check and (document.read_text() != DOCUMENT.read_text() or types.read_text() != TYPES.read_text()):
            print("The API's document or types are stale: run .venv/bin/python -m server.openapi")
            return 1
    return 0


if __name__ == "__main__":
    sys.exit(main("--check" in sys.argv[1:]))
