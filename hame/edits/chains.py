"""Chains changed between bent (FK) and reaching (IK), so that nothing moves by it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np

from hame.character.rig import Chain, Rig
from hame.clip.clip import Clip
from hame.clip.key import SHAPES, ShapeName, whole_frame
from hame.edits.chosen import refuse_derived
from hame.edits.edit import Edit, Frame
from hame.edits.limbs import held_before, unplanted
from hame.edits.outcome import Outcome
from hame.edits.pose import Keying, set_pose
from hame.edits.tying import ControlName
from hame.errors import BadEdit
from hame.evaluate.evaluate import evaluate
from hame.maths import rotations
from hame.maths.rotations import Array
from hame.program import CHANNEL, CODE, FOLLOW, OFFSET, OUT, A
from hame.scene.scene import Scene
from hame.scene.seen import pose_values


@dataclass(frozen=True, kw_only=True)
class ChainMode(Edit):
    """A chain that reaches for its tip from a frame on, or is bent by sliders and joints; it stays as it is seen.

    ``anyway``: also where that ends a plant of its tip.
    """

    kind: Literal["chain mode"] = "chain mode"
    control: ControlName
    frame: Frame
    to: Literal["ik", "fk"]
    keying: Keying = "changed"
    shape: ShapeName = "smooth"
    anyway: bool = False

    poses = True

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        frame = whole_frame(self.frame)
        refuse_derived(clip, [frame])
        chain = rig.chain(rig.control(self.control).name)
        if chain is None:
            raise BadEdit(f"{rig.control(self.control).label} is no chain; nothing was changed")
        said: tuple[str, ...] = ()
        if self.to == "fk":
            clip, said = unplanted(clip, chain, frame, self.anyway)
        outcome = switch_chain(clip, rig, frame, chain, self.to, self.keying, self.shape, scene)
        return Outcome(outcome.clip, (*said, *outcome.notes))

    def label(self, rig: Rig, scene: Scene) -> str:
        return f"{rig.control(self.control).label} to {self.to.upper()} at {self.frame}"


def switch_chain(
    clip: Clip, rig: Rig, frame: int, chain: Chain, to: Literal["ik", "fk"], keying: Keying,
    shape: ShapeName = "smooth", scene: Scene | None = None,
) -> Outcome:  # fmt: skip
    """The clip with a chain posed another way from a frame on; raises :class:`BadEdit` where it is posed so already."""
    seen = pose_values(rig, clip, frame, scene)
    if (seen[rig.number(chain.switch)] > 0.5) == (to == "ik"):
        raise BadEdit(f"it is posed by {to.upper()} at {frame} already; nothing was changed")
    values = (reaching_as_bent if to == "ik" else bent_as_reaching)(rig, chain, seen)
    values[chain.switch] = float(to == "ik")
    outcome = set_pose(clip, rig, frame, values, keying, shape=SHAPES[shape], scene=scene)
    was = float(seen[rig.number(chain.switch)])
    held = held_before(outcome.clip, chain.switch, frame, was, [*chain.controls, chain.name, chain.ik, chain.middle])
    return Outcome(held, outcome.notes)


def reaching_as_bent(rig: Rig, chain: Chain, seen: Array) -> dict[str, float]:
    """Where the handles of a chain have to be so that it reaches as it is bent by its sliders in values ``seen (C,)``.

    What its joints are turned by themselves lies on top of both.
    """
    bent = seen.copy()
    bent[rig.number(chain.switch)] = 0.0
    nodes = evaluate(rig, bent[None])[0]
    tip, middle = rig.control(chain.ik), rig.control(chain.middle)
    frame = nodes[tip.frame]
    place = rotations.rotate(rotations.inverse(frame[3:7]), nodes[chain.reached, :3] - frame[:3]) / frame[7]
    found = {f"{tip.name}/{axis}": float(v) for axis, v in zip(("tx", "ty", "tz"), place, strict=True)}
    return found | {f"{middle.name}/{axis}": 0.0 for axis in ("tx", "ty", "tz")}


def bent_as_reaching(rig: Rig, chain: Chain, seen: Array) -> dict[str, float]:
    """How the joints of a chain have to be turned so that it is bent as it reaches in values ``seen (C,)``."""
    nodes, ops = evaluate(rig, seen[None])[0], rig.program.ops
    by = rig.number(chain.switch)
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
