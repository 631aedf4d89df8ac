"""The core on the command line: ``python -m hame look FILE.glb``, ``python -m hame warm``."""

from __future__ import annotations

import argparse
import sys
from pathlib import Path

from hame.errors import HameError


def _look(path: Path) -> None:
    """Prints what a character file holds and what rig it would get."""
    from hame.character.build import build_rig
    from hame.character.propose import propose
    from hame.formats.gltf_read import read_character

    found = read_character(path.read_bytes())
    plan = propose(found.skeleton)
    print(f"{found.name}: {len(found.skeleton)} joints, {found.skin.triangle_count:,} triangles, "
          f"{found.skeleton.height:.2f} m")  # fmt: skip
    for role, joint in plan.roles.items():
        print(f"  {role:<18} {joint}  (by {plan.found_by[role]})")
    for note in found.notes:
        print(f"  note: {note}")
    if "hips" in plan.roles:
        print(f"  {len(build_rig(found.skeleton, plan).controls)} controls")
    else:
        print("  no hips found: map them by hand")


def _warm() -> None:
    """Compiles the kernels, which are then kept on disk."""
    from hame.character.bodyplan import BodyPlan
    from hame.character.build import build_rig
    from hame.clip.clip import Clip
    from hame.clip.curve import from_keys
    from hame.demo.keeper import skeleton
    from hame.evaluate.evaluate import channel_values, evaluate

    rig = build_rig(skeleton(), BodyPlan({"hips": "pelvis"}))
    clip = Clip().with_curves({"body/ty": from_keys({1: 0.0, 9: 1.0, 17: 0.5})})
    evaluate(rig, channel_values(rig, clip, range(3)))


def main() -> int:
    parser = argparse.ArgumentParser(prog="hame", description=__doc__)
    commands = parser.add_subparsers(dest="command", required=True)
    look = commands.add_parser("look", help="say what a skinned .glb holds")
    look.add_argument("file", type=Path)
    commands.add_parser("warm", help="compile the kernels")
    chosen = parser.parse_args()
    try:
        if chosen.command == "look":
            _look(chosen.file)
        else:
            _warm()
    except (HameError, OSError) as error:
        print(error, file=sys.stderr)
        return 1
    return 0


if __name__ == "__main__":
    sys.exit(main())
