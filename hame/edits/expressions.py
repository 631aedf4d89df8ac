"""Expressions: poses of the face, several at once, each by a share of its own."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Annotated, Literal

import numpy as np
from scipy.optimize import nnls

from hame.character.rig import PLACE, Rig
from hame.clip.clip import Clip
from hame.clip.key import SHAPES, ShapeName, whole_frame
from hame.edits.chosen import refuse_derived
from hame.edits.edit import AtMost, Edit, Frame, Within
from hame.edits.library import size_of
from hame.edits.outcome import Outcome
from hame.edits.pose import Keying, set_pose
from hame.errors import BadEdit
from hame.maths.rotations import Array
from hame.scene.scene import Scene, StoredPose
from hame.scene.seen import pose_values

MOST = 1.5
SHARE = Within(0.0, MOST, "share", "an expression goes from 0 to 150 percent, not {value:.0%}. Nothing was changed")
_NEAR = 1e-9


@dataclass(frozen=True)
class Mixed:
    """A pose of the library, and how much of it there is; where it is told how much there ``was``, only what that
    differs is laid on what is seen."""

    pose: int
    share: Annotated[float, SHARE]
    was: Annotated[float, SHARE] | None = None


def of_face(rig: Rig) -> set[str]:
    """Addresses of the channels that a face is posed by."""
    return {channel.address for channel in rig.channels
            if rig.control(channel.control).part == "face" and not channel.locked}  # fmt: skip


def differences(rig: Rig, pose: StoredPose) -> dict[str, float]:
    """What a pose of the face makes of each channel that it moves, more than that is at rest; places by the figure's
    size."""
    ratio = size_of(rig) / pose.size if pose.size > 0 else 1.0
    mine, found = of_face(rig), {}
    for address, value in pose.values.items():
        if address in mine:
            channel = rig.channels[rig.number(address)]
            by = (value * ratio if channel.kind == PLACE else value) - channel.rest
            if abs(by) > _NEAR:
                found[address] = by
    return found


def mixed_values(
    rig: Rig, parts: Sequence[tuple[Mapping[str, float], float]], begun: Mapping[str, float] | None = None
) -> dict[str, float]:
    """Values of all channels that expressions move, by their :func:`differences` and shares, within limits; from rest,
    or from what they were ``begun`` at.

    What several move is the sum of what each does to it, as glTF 2.0 sums morph targets (section 3.7.2.2).
    """
    found: dict[str, float] = {}
    for moved, share in parts:
        for address, by in moved.items():
            rest = rig.channels[rig.number(address)].rest if begun is None else begun[address]
            found[address] = found.get(address, rest) + share * by
    return {a: float(np.clip(v, rig.low[rig.number(a)], rig.high[rig.number(a)])) for a, v in found.items()}


def shares_of(rig: Rig, seen: Array, poses: Sequence[Mapping[str, float]]) -> list[float]:
    """How much of each expression, by its :func:`differences`, is in channel values ``seen (C,)``: the shares, none
    below 0, that come nearest (non-negative least squares, Lawson and Hanson 1974)."""
    used = sorted({address for moved in poses for address in moved})
    if not used:
        return [0.0] * len(poses)
    numbers = [rig.number(address) for address in used]
    largest = np.array([max(abs(moved.get(a, 0.0)) for moved in poses) for a in used])  # every channel counts alike
    table = np.array([[moved.get(a, 0.0) for moved in poses] for a in used]) / largest[:, None]
    shares, _ = nnls(table, (seen[numbers] - rig.rest[numbers]) / largest)
    return [float(min(share, MOST)) for share in shares]


@dataclass(frozen=True, kw_only=True)
class Express(Edit):
    """The face posed as a mixture of expressions, or with more or less of some; what none of them moves stays."""

    kind: Literal["express"] = "express"
    frame: Frame
    mixed: Annotated[tuple[Mixed, ...], AtMost(500)]
    keying: Keying = "changed"
    shape: ShapeName = "smooth"

    poses = True

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        frame = whole_frame(self.frame)
        refuse_derived(clip, [frame])
        moved = [differences(rig, scene.stored_pose(one.pose)) for one in self.mixed]
        whole = [(by, one.share) for by, one in zip(moved, self.mixed, strict=True) if one.was is None]
        more = [(by, one.share - one.was) for by, one in zip(moved, self.mixed, strict=True) if one.was is not None]
        values = mixed_values(rig, whole)
        if more:
            seen = pose_values(rig, clip, frame, scene)
            begun = {a: values.get(a, float(seen[rig.number(a)])) for by, _ in more for a in by}
            values |= mixed_values(rig, more, begun)
        if not values:
            raise BadEdit("none of these poses moves anything of this face; nothing was changed")
        return set_pose(clip, rig, frame, values, self.keying, shape=SHAPES[self.shape], scene=scene)

    def label(self, rig: Rig, scene: Scene) -> str:
        said = [f"{scene.stored_pose(one.pose).name} {one.share:.0%}" for one in self.mixed if one.share > 0.0]
        more = f" and {len(said) - 3} more" if len(said) > 3 else ""
        return f"Face at {self.frame}: {', '.join(said[:3]) + more if said else 'at rest'}"
