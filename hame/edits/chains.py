"""Chains changed between bent (FK) and reaching (IK), so that nothing moves by it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np

from hame.character.rig import Rig
from hame.clip.clip import Clip
from hame.clip.key import SHAPES, ShapeName, whole_frame
from hame.edits.chosen import refuse_derived
from hame.edits.edit import Edit, Frame
from hame.edits.outcome import Outcome
from hame.edits.pose import Keying, set_pose
from hame.edits.tying import ControlName
from hame.errors import BadEdit
from hame.evaluate.evaluate import evaluate
from hame.maths import rotations
from hame.maths.rotations import Array
from hame.program import CHAIN, CHANNEL, CODE, FOLLOW, OFFSET, OUT, A
from hame.scene.scene import Scene
from hame.scene.seen import pose_values


@dataclass(frozen=True, kw_only=True)
class ChainMode(Edit):
    """A chain that reaches for its tip from a frame on, or is bent by sliders and joints; it stays as it is seen."""

    kind: Literal["chain mode"] = "chain mode"
    control: ControlName
    frame: Frame
    to: Literal["ik", "fk"]
    keying: Keying = "changed"
    shape: ShapeName = "smooth"

    poses = True

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        frame = whole_frame(self.frame)
        refuse_derived(clip, [frame])
        if rig.control(self.control).kind != "chain":
            raise BadEdit(f"{rig.control(self.control).label} is no chain; nothing was changed")
        seen = pose_values(rig, clip, frame, scene)
        switch = f"{self.control}/ik"
        if (seen[rig.number(switch)] > 0.5) == (self.to == "ik"):
            raise BadEdit(f"it is posed by {self.to.upper()} at {frame} already; nothing was changed")
        values = (reaching_as_bent if self.to == "ik" else bent_as_reaching)(rig, self.control, seen)
        values[switch] = float(self.to == "ik")
        return set_pose(clip, rig, frame, values, self.keying, shape=SHAPES[self.shape], scene=scene)

    def label(self, rig: Rig, scene: Scene) -> str:
        return f"{rig.control(self.control).label} to {self.to.upper()} at {self.frame}"


def reaching_as_bent(rig: Rig, control: str, seen: Array) -> dict[str, float]:
    """Where the handles of a chain have to be so that it reaches as it is bent by its sliders in values ``seen (C,)``.

    What its joints are turned by themselves lies on top of both.
    """
    nodes = evaluate(rig, seen[None])[0]
    end = int(_row(rig, control)[A])
    tip, middle = rig.control(f"{control}.tip"), rig.control(f"{control}.middle")
    frame = nodes[tip.frame]
    place = rotations.rotate(rotations.inverse(frame[3:7]), nodes[end, :3] - frame[:3]) / frame[7]
    found = {f"{tip.name}/{axis}": float(v) for axis, v in zip(("tx", "ty", "tz"), place, strict=True)}
    return found | {f"{middle.name}/{axis}": 0.0 for axis in ("tx", "ty", "tz")}


def bent_as_reaching(rig: Rig, control: str, seen: Array) -> dict[str, float]:
    """How the joints of a chain have to be turned so that it is bent as it reaches in values ``seen (C,)``."""
    nodes, ops = evaluate(rig, seen[None])[0], rig.program.ops
    by = rig.number(f"{control}/ik")
    found: dict[str, float] = {}
    for op in ops[(ops[:, CODE] == FOLLOW) & (ops[:, CHANNEL] == by)]:
        out, bent = int(op[OUT]), int(op[A])
        frames = {int(o[OUT]) for o in ops[(ops[:, CODE] == OFFSET) & (ops[:, A] == out)]}
        own = next((c for c in rig.controls if c.frame in frames), None)
        if own is None:
            continue
        frame = rotations.multiply(rotations.inverse(nodes[out, 3:7]), nodes[own.frame, 3:7])
        axes = rotations.multiply(rotations.multiply(nodes[bent, 3:7], frame), own.pre)
        turn = rotations.multiply(rotations.inverse(axes), nodes[own.node, 3:7])
        order = [f"r{axis.lower()}" for axis in own.order]
        near = np.array([seen[rig.number(f"{own.name}/{name}")] for name in order])
        angles = rotations.to_euler_near(turn / np.linalg.norm(turn), own.order, near)
        found |= {f"{own.name}/{name}": float(v) for name, v in zip(order, angles, strict=True)}
    return found


def _row(rig: Rig, control: str) -> Array:
    """The operation by which a chain reaches."""
    ops, by = rig.program.ops, rig.number(f"{control}/ik")
    return np.asarray(ops[(ops[:, CODE] == CHAIN) & (ops[:, CHANNEL] == by)][0])
