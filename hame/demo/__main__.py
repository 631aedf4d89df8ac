"""Makes the demo characters anew: ``python -m hame.demo``. The files are shipped, so this is seldom needed."""

from __future__ import annotations

from pathlib import Path

from hame.demo import keeper
from hame.formats.gltf_write import write_character

DATA = Path(__file__).parent / "data"

if __name__ == "__main__":
    skin = keeper.skin()
    target = DATA / "brannoc.glb"
    target.write_bytes(write_character("Brannoc", keeper.skeleton(), skin))
    print(f"{target.name}: {len(keeper.skeleton())} joints, {skin.triangle_count:,} triangles")
