"""Makes the demo figures, props and pictures of poses anew: ``python -m hame.demo [brannoc|wick|star|props|pictures]``.

The files are shipped, so this is seldom needed. Thumbnails of the demo's shots are drawn by the application itself, as
those of any other shot: ``HAME_DEMO_PICTURES=1 ./test tests.browser.test_demo_pictures``.
"""

from __future__ import annotations

import sys
from pathlib import Path

from PIL import Image

from hame.character.skeleton import Skeleton
from hame.character.skin import Skin
from hame.demo import apprentice, brittle_star, keeper, poses, props, shots
from hame.formats.gltf_write import write_character

DATA = Path(__file__).parent / "data"


def make_character(name: str, skeleton: Skeleton, skin: Skin) -> None:
    target = DATA / f"{name.lower().replace(' ', '-')}.glb"
    target.write_bytes(write_character(name, skeleton, skin))
    print(f"{target.name}: {len(skeleton)} joints, {skin.triangle_count:,} triangles")


def make_shelf() -> None:
    figures = {"Brannoc": shots.figure("brannoc"), "Wick": shots.figure("wick")}
    for pose in (*poses.SHELF, *poses.FACES):
        picture = poses.pose_picture(*figures[pose.figure], pose)
        Image.fromarray(picture).quantize(64).save(DATA / pose.picture, optimize=True)


if __name__ == "__main__":
    wanted = sys.argv[1:] or ["brannoc", "wick", "star", "props", "pictures"]
    if "brannoc" in wanted:
        make_character("Brannoc", keeper.skeleton(), keeper.skin())
    if "wick" in wanted:
        make_character("Wick", apprentice.skeleton(), apprentice.skin())
    if "star" in wanted:
        make_character("Brittle star", brittle_star.skeleton(), brittle_star.skin())
    if "props" in wanted:
        for name, make in props.SHELF.items():
            make_character(name, *make())
    if "pictures" in wanted:
        make_shelf()
