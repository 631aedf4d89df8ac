"""Where the middle joint of a limb is led to by its aim, beside where it bends by itself."""

from __future__ import annotations

import numpy as np

from hame.character.rig import Limb
from hame.maths.kernels import swung_rows
from hame.maths.rotations import Array, inverse, rotate


def aims_of(limb: Limb, root: Array, target: Array, aim: Array) -> tuple[Array, Array]:
    """Away from the line of a limb: where it bends by itself (F, 3), of unit length, and where its aim is (F, 3) in
    metres.

    Parameters
    ----------
    root : (F, 8) the node that it hangs on
    target, aim : (F, 3) where its end is led to, and where its aim is
    """
    line = target - root[:, :3]
    line = line / np.maximum(np.linalg.norm(line, axis=1, keepdims=True), 1e-9)
    off = aim - root[:, :3]
    away = off - (off * line).sum(axis=1, keepdims=True) * line
    local = np.ascontiguousarray(rotate(inverse(root[:, 3:7]), line))
    own = np.empty_like(local)
    swung_rows(limb.line, local, limb.toward, own)
    return rotate(root[:, 3:7], own), away
