"""The core on the command line: ``look FILE.glb``, ``take-in FILE.glb MESH.glb``, ``warm``."""

from __future__ import annotations

import argparse
import sys
from pathlib import Path

from hame.errors import HameError


def _look(path: Path) -> None:
    """Prints what a character file holds and what rig it would get."""
    from hame.character.intake import take_in

    found = take_in(path.stem, path.read_bytes())
    print(f"{path.stem}: {found.card.joints} joints, {found.card.triangles:,} triangles, {found.card.height:.2f} m")
    for role, joint in found.plan.roles.items():
        print(f"  {role:<18} {joint}  (by {found.plan.found_by[role]})")
    for note in found.notes:
        print(f"  note: {note}")
    print(f"  {found.card.problem}" if found.card.problem else f"  {found.card.controls} controls")


MEMORY = 500_000_000  # bytes that reading a file may take


def _take_in(path: Path, mesh: Path, name: str) -> None:
    """Reads a character file, writes it regular and prints plan, card and notes as JSON. For a process of its own."""
    import json
    import resource

    from hame.character.intake import take_in

    pages = int(Path("/proc/self/statm").read_text().split()[0])
    most = pages * resource.getpagesize() + MEMORY
    resource.setrlimit(resource.RLIMIT_AS, (most, most))
    found = take_in(name, path.read_bytes())
    mesh.write_bytes(found.mesh)
    print(json.dumps({"plan": found.plan.to_json(), "card": found.card.to_json(), "notes": found.notes}))


def _warm() -> None:
    """Compiles the kernels, which are then kept on disk."""
    from hame.warming import warm

    warm()


def main() -> int:
    parser = argparse.ArgumentParser(prog="hame", description=__doc__)
    commands = parser.add_subparsers(dest="command", required=True)
    look = commands.add_parser("look", help="say what a skinned .glb holds")
    look.add_argument("file", type=Path)
    taking = commands.add_parser("take-in", help="write a skinned .glb regular and say what it holds, as JSON")
    taking.add_argument("file", type=Path)
    taking.add_argument("mesh", type=Path)
    taking.add_argument("--name", default="character")
    commands.add_parser("warm", help="compile the kernels")
    chosen = parser.parse_args()
    try:
        if chosen.command == "look":
            _look(chosen.file)
        elif chosen.command == "take-in":
            _take_in(chosen.file, chosen.mesh, chosen.name)
        else:
            _warm()
    except (HameError, OSError) as error:
        print(error, file=sys.stderr)
        return 1
    except MemoryError:
        print("the file takes too much memory to read; reduce its parts", file=sys.stderr)
        return 1
    return 0


if __name__ == "__main__":
    sys.exit(main())
