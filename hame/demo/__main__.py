"""Makes the demo characters anew: ``python -m hame.demo [brannoc] [wick]``. The files are shipped, so this is seldom needed."""

from __future__ import annotations

import sys
from pathlib import Path

from hame.demo import apprentice, keeper
from hame.formats.gltf_write import write_character

DATA = Path(__file__).parent / "data"

if __name__ == "__main__":
    wanted = sys.argv[1:] or ["brannoc", "wick"]
    for name, maker in (("Brannoc", keeper), ("Wick", apprentice)):
        if name.lower() not in wanted:
            continue
        skin = maker.skin()
        target = DATA / f"{name.lower()}.glb"
        target.write_bytes(write_character(name, maker.skeleton(), skin))
        print(f"{target.name}: {len(maker.skeleton())} joints, {skin.triangle_count:,} triangles")
