"""Makes the demo characters, props and their pictures anew: ``python -m hame.demo [brannoc|wick|props|pictures]``.

The files are shipped, so this is seldom needed.
"""

from __future__ import annotations

import sys
from pathlib import Path

from PIL import Image

from hame.character.skeleton import Skeleton
from hame.character.skin import Skin
from hame.clip.clip import Clip
from hame.demo import apprentice, keeper, poses, props, shots
from hame.demo.contact_sheet import thumbnail
from hame.formats.gltf_write import write_character

DATA = Path(__file__).parent / "data"


def make_character(name: str, skeleton: Skeleton, skin: Skin) -> None:
    target = DATA / f"{name.lower().replace(' ', '-')}.glb"
    target.write_bytes(write_character(name, skeleton, skin))
    print(f"{target.name}: {len(skeleton)} joints, {skin.triangle_count:,} triangles")


def make_pictures() -> None:
    brannoc, wick = shots.figure("brannoc"), shots.figure("wick")
    for name, (rig, skin), clip, frames in (
        ("before-dawn", brannoc, Clip(), [1] * 8),
        ("morning-round", brannoc, shots.walk(brannoc[0]), list(range(1, 25, 3))),
        ("late-for-the-lamp", wick, shots.run(wick[0]), list(range(1, 17, 2))),
        ("gull-on-the-rail", brannoc, shots.take(brannoc[0]), [1, 9, 15, 19, 22, 26, 36, 50]),
    ):
        Image.fromarray(thumbnail(rig, skin, clip, frames)).save(DATA / f"{name}.png", optimize=True)


def make_shelf() -> None:
    figures = {"Brannoc": shots.figure("brannoc"), "Wick": shots.figure("wick")}
    for pose in poses.SHELF:
        picture = poses.pose_picture(*figures[pose.figure], pose)
        Image.fromarray(picture).quantize(64).save(DATA / pose.picture, optimize=True)


if __name__ == "__main__":
    wanted = sys.argv[1:] or ["brannoc", "wick", "props", "pictures"]
    if "brannoc" in wanted:
        make_character("Brannoc", keeper.skeleton(), keeper.skin())
    if "wick" in wanted:
        make_character("Wick", apprentice.skeleton(), apprentice.skin())
    if "props" in wanted:
        make_character("Oil can", *props.oil_can())
        make_character("Signal lamp", *props.signal_lamp())
    if "pictures" in wanted:
        make_pictures()
        make_shelf()
