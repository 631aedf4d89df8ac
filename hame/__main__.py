"""The core on the command line: ``look FILE.glb``, ``edit FILE.glb CLIP.json``, ``kinds`` and what servers need."""

from __future__ import annotations

import argparse
import json
import sys
from pathlib import Path

from hame.errors import HameError


def _look(path: Path) -> None:
    """Prints what a character file holds and what rig it would get."""
    from hame.intake.intake import take_in

    found = take_in(path.stem, path.read_bytes(), file=path.name)
    print(f"{path.stem}: {found.card.joints} joints, {found.card.triangles:,} triangles, {found.card.height:.2f} m")
    for role, joint in found.plan.roles.items():
        print(f"  {role:<18} {joint}  (by {found.plan.found_by[role]})")
    for note in found.notes:
        print(f"  note: {note}")
    print(f"  {found.card.problem}" if found.card.problem else f"  {found.card.controls} controls")


MEMORY = 500_000_000  # bytes that reading a file may take


def _take_in(path: Path, mesh: Path, name: str, prop: bool) -> None:
    """Reads a character file, writes it regular and prints plan, card and notes as JSON. For a process of its own."""
    import resource

    from hame.intake.intake import take_in

    pages = int(Path("/proc/self/statm").read_text().split()[0])
    most = pages * resource.getpagesize() + MEMORY
    resource.setrlimit(resource.RLIMIT_AS, (most, most))
    found = take_in(name, path.read_bytes(), prop, path.name)
    mesh.write_bytes(found.mesh)
    print(json.dumps({"plan": found.plan.to_json(), "card": found.card.to_json(), "notes": found.notes}))


def _edit(path: Path, clip_path: Path, end: int) -> None:
    """Makes edits on a clip of a character and prints the clip, as JSON; what is to be said goes to the errors.

    The edits come as JSON, one a line. The clip's file need not be there: then it begins empty.
    """
    from hame.character.build import build_rig
    from hame.clip.clip import Clip, from_json
    from hame.edits.making import made
    from hame.edits.reading import edit_from_json
    from hame.formats.gltf_read import read_character
    from hame.intake.intake import take_in
    from hame.scene.scene import Figure, Scene

    found = take_in(path.stem, path.read_bytes(), file=path.name)
    rig = build_rig(read_character(found.mesh).skeleton, found.plan)
    clip = from_json(json.loads(clip_path.read_text())) if clip_path.exists() else Clip()
    for line in filter(str.strip, sys.stdin):
        edit = edit_from_json(json.loads(line))
        scene = Scene({1: Figure(rig, clip, path.stem)}, end=end)
        done = made(edit, scene, 1)
        clip = done.clips.get(1, clip)
        for said in (edit.label(rig, scene), *done.notes):
            print(said, file=sys.stderr)
    print(json.dumps(clip.to_json()))


def _kinds() -> None:
    """Prints the JSON Schema of all kinds of edit, with units and bounds."""
    from hame.edits.reading import schema

    print(json.dumps(schema(), indent=1))


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
    taking.add_argument("--prop", action="store_true", help="take it for a prop, not for a figure")
    editing = commands.add_parser("edit", help="make edits, read as JSON from a line each, on a clip of a character")
    editing.add_argument("file", type=Path, help="a skinned .glb")
    editing.add_argument("clip", type=Path, help="the clip as JSON")
    editing.add_argument("--end", type=int, default=1_000_000, help="the last frame of the shot")
    commands.add_parser("kinds", help="say which kinds of edit there are, as a JSON Schema")
    commands.add_parser("warm", help="compile the kernels")
    chosen = parser.parse_args()
    try:
        if chosen.command == "look":
            _look(chosen.file)
        elif chosen.command == "take-in":
            _take_in(chosen.file, chosen.mesh, chosen.name, chosen.prop)
        elif chosen.command == "edit":
            _edit(chosen.file, chosen.clip, chosen.end)
        elif chosen.command == "kinds":
            _kinds()
        else:
            _warm()
    except (HameError, OSError, json.JSONDecodeError) as error:
        print(error, file=sys.stderr)
        return 1
    except MemoryError:
        print("the file takes too much memory to read; reduce its parts", file=sys.stderr)
        return 1
    return 0


if __name__ == "__main__":
    sys.exit(main())
