"""A contact sheet: frames of a motion drawn from the side and from the front in one picture, to judge it by.

``python -m hame.demo.contact_sheet OUT.png`` draws all demo motions. It needs Pillow (a development package).
"""

from __future__ import annotations

import sys
from collections.abc import Sequence
from pathlib import Path

import numpy as np
import numpy.typing as npt

from hame.character.rig import Rig
from hame.character.skin import Skin, deform
from hame.clip.clip import Clip
from hame.evaluate.evaluate import channel_values, evaluate, joints
from hame.maths import transforms
from hame.maths.rotations import Array

VIEWS = {"side": (1.0, 0.0), "front": (0.0, 1.0), "quarter": (0.6, 0.8)}


def skinned(skin: Skin, motion: Array, amounts: Array | None = None) -> Array:
    """Corners (T, 3, 3) of all triangles for joint transforms ``motion (J, 8)`` and amounts (S,) of its shapes."""
    matrices = transforms.to_matrix(motion)
    return np.concatenate(
        [deform(piece, matrices, skin.inverse_bind, amounts)[piece.triangles.astype(int)] for piece in skin.pieces]
    )


def draw_sheet(
    rig: Rig,
    skin: Skin,
    clip: Clip,
    frames: Sequence[int],
    views: Sequence[str] = ("side", "front"),
    cell: int = 150,
    numbers: bool = True,
) -> npt.NDArray[np.uint8]:
    """The picture (H, W, 3): a column a frame, a row a view; the ground is a line."""
    from PIL import Image, ImageDraw

    values = channel_values(rig, clip, list(frames))
    nodes = evaluate(rig, values)
    motion, masters = joints(rig, nodes), nodes[:, rig.controls[0].node, :3]
    colours = np.concatenate(
        [np.tile(np.array(piece.material.colour[:3]) ** (1 / 2.2), (len(piece.triangles), 1)) for piece in skin.pieces]
    )
    scale = cell * 0.82 / max(rig.skeleton.height, 1.9 * rig.size if rig.skeleton.height < 0.8 * rig.size else 0.0)
    picture = Image.new("RGB", (cell * len(frames), cell * len(views)), (251, 248, 242))
    pen = ImageDraw.Draw(picture)
    for column, frame in enumerate(frames):
        corners = skinned(skin, motion[column], values[column, rig.shape_channels] if skin.shapes else None)
        middle = masters[column]  # a travelling figure stays in its cell
        for row, view in enumerate(views):
            x, z = VIEWS[view]
            right, out = np.array([z, 0.0, -x]), np.array([x, 0.0, z])
            flat = (corners - [middle[0], 0, middle[2]]) @ np.stack([right, [0, 1, 0], out], axis=1)
            normal = np.cross(flat[:, 1] - flat[:, 0], flat[:, 2] - flat[:, 0])
            normal /= np.maximum(np.linalg.norm(normal, axis=1, keepdims=True), 1e-12)
            shade = 0.55 + 0.45 * np.clip(normal @ np.array([0.3, 0.5, 0.8]), 0, 1)
            at = np.empty(flat.shape[:2] + (2,))
            at[..., 0] = cell * (column + 0.5) + flat[..., 0] * scale
            at[..., 1] = cell * (row + 0.94) - flat[..., 1] * scale
            ground = cell * (row + 0.94)
            pen.line([(cell * column, ground), (cell * (column + 1), ground)], fill=(190, 180, 160))
            for t in np.argsort(flat[:, :, 2].mean(axis=1)):
                if normal[t, 2] > 0:
                    pen.polygon([tuple(p) for p in at[t]], fill=tuple(int(c) for c in 255 * colours[t] * shade[t]))
        if numbers:
            pen.text((cell * column + 4, 2), str(frame), fill=(35, 48, 59))
    return np.asarray(picture)


def main() -> None:
    from PIL import Image

    from hame.demo.shots import demo_motions

    sheets = [draw_sheet(m.rig, m.skin, m.clip, m.frames) for m in demo_motions()]
    width = max(sheet.shape[1] for sheet in sheets)
    padded = [np.pad(s, ((0, 0), (0, width - s.shape[1]), (0, 0)), constant_values=245) for s in sheets]
    Image.fromarray(np.concatenate(padded)).save(Path(sys.argv[1]))


if __name__ == "__main__":
    main()
