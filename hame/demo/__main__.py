"""Makes the demo characters anew: ``python -m hame.demo [brannoc] [wick] [pictures]``. The files are shipped, so this is seldom needed."""

from __future__ import annotations

import sys
from pathlib import Path

from PIL import Image

from hame.clip.clip import Clip
from hame.demo import apprentice, keeper, shots
from hame.demo.contact_sheet import thumbnail
from hame.formats.gltf_write import write_character

DATA = Path(__file__).parent / "data"

if __name__ == "__main__":
    wanted = sys.argv[1:] or ["brannoc", "wick", "pictures"]
    for name, maker in (("Brannoc", keeper), ("Wick", apprentice)):
        if name.lower() not in wanted:
            continue
        skin = maker.skin()
        target = DATA / f"{name.lower()}.glb"
        target.write_bytes(write_character(name, maker.skeleton(), skin))
        print(f"{target.name}: {len(maker.skeleton())} joints, {skin.triangle_count:,} triangles")
    if "pictures" in wanted:
        keeper, apprentice = shots.figure("brannoc"), shots.figure("wick")
        for shot, (rig, surface), motion, frames in (
            ("before-dawn", keeper, Clip(), [1] * 8),
            ("morning-round", keeper, shots.walk(keeper[0]), list(range(1, 25, 3))),
            ("late-for-the-lamp", apprentice, shots.run(apprentice[0]), list(range(1, 17, 2))),
            ("gull-on-the-rail", keeper, shots.take(keeper[0]), [1, 9, 15, 19, 22, 26, 36, 50]),
        ):
            Image.fromarray(thumbnail(rig, surface, motion, frames)).save(DATA / f"{shot}.png", optimize=True)
