"""Turning a figure on the spot in planted steps."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from math import cos, degrees, sin
from typing import Annotated, Literal, TypeVar

import numpy as np

from hame.character.rig import Limb, Rig
from hame.clip.clip import Clip
from hame.clip.key import whole_frame
from hame.clip.plants import Plant
from hame.edits.chosen import refuse_derived
from hame.edits.edit import Edit, Frame, Within
from hame.edits.outcome import Outcome
from hame.edits.plants import plant_limb
from hame.edits.pose import set_pose
from hame.errors import BadEdit
from hame.evaluate.evaluate import evaluate
from hame.evaluate.ties.links import SIX
from hame.maths import rotations, transforms
from hame.maths.rotations import Array
from hame.scene.scene import Scene
from hame.scene.seen import pose_values
from hame.solve.drag import place_control

LIFT = 0.06  # how high a foot goes, as a share of the leg's length
SHIFT = 0.35  # how far the body goes over to the foot that bears it, as a share of the way there


@dataclass(frozen=True, kw_only=True)
class TurnInPlace(Edit):
    """The master turned on the spot in steps, each foot planted where it stands; everything made is ordinary keys."""

    kind: Literal["turn"] = "turn"
    start: Frame
    angle: Annotated[float, Within(-12.6, 12.6, "rad")]
    steps: Annotated[int, Within(2, 40, "frames")] = 3
    step: Annotated[int, Within(4, 200, "frames")] = 8
    first: Literal["near", "L", "R"] = "near"

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        return turn_in_place(clip, rig, self.start, self.angle, self.steps, self.step, self.first, scene)

    def label(self, rig: Rig, scene: Scene) -> str:
        return f"Turn by {degrees(self.angle):.0f}° in {self.steps} steps from {self.start}"


def turn_in_place(
    clip: Clip, rig: Rig, start: int, angle: float, steps: int, step: int, first: Literal["near", "L", "R"],
    scene: Scene | None = None,
) -> Outcome:  # fmt: skip
    """The figure turned by ``angle`` (radians) on the spot, in ``steps`` of ``step`` frames from ``start`` on.

    Feet take turns; the one on the side that it turns to goes first (``near``).
    A foot is planted but for the frames of its own step; it is lifted and put
    down turned about the master. The body goes over to the foot that bears it
    before the other one lifts.

    Raises
    ------
    BadEdit
        If the figure has not one left and one right leg.
    """
    start = whole_frame(start)
    legs = {limb.name[-1]: limb for limb in rig.limbs if limb.kind == "leg"}
    if set(legs) != {"L", "R"} or len([limb for limb in rig.limbs if limb.kind == "leg"]) != 2:
        raise BadEdit("a turn in steps is made with a left and a right leg; nothing was changed")
    end = start + steps * step
    refuse_derived(clip, range(start, end + 1))
    side = ("L" if angle > 0 else "R") if first == "near" else first
    order = [(side, "R" if side == "L" else "L")[n % 2] for n in range(steps)]
    at_start = pose_values(rig, clip, start, scene)
    nodes = evaluate(rig, at_start[None])[0]
    stands = {name: nodes[rig.control(limb.ik).node].copy() for name, limb in legs.items()}
    heading = float(at_start[rig.number("master/ry")])
    pivot = nodes[rig.control("master").node, :3]
    made, feet, bodies, plants = _laid_out(legs, stands, pivot, heading, angle, order, start, step)
    for frame, values in sorted(made.items()):
        clip = set_pose(clip, rig, frame, values, "changed", scene=scene).clip
    clip = _keyed_body(clip, rig, bodies, start, end, scene)
    for frame, wanted in sorted(feet.items()):
        aim = pose_values(rig, clip, frame, scene).copy()
        now = evaluate(rig, aim[None])[0]
        for name, world in wanted.items():
            place_control(rig, aim, rig.control(legs[name].ik), now, world)
        told = {f"{legs[name].ik}/{c}" for name in wanted for c in SIX}
        clip = set_pose(
            clip, rig, frame, {a: float(aim[rig.number(a)]) for a in told}, "changed", scene=scene
        ).clip  # fmt: skip
    notes: list[str] = []
    for limb, plant in plants:
        clip, said = plant_limb(clip, rig, limb, plant, scene)
        notes += said
    return Outcome(clip, tuple(dict.fromkeys(notes)))


_T = TypeVar("_T")
_ByFrame = dict[int, dict[str, _T]]


def _laid_out(
    legs: dict[str, Limb], stands: dict[str, Array], pivot: Array, heading: float, angle: float,
    order: Sequence[str], start: int, step: int,
) -> tuple[_ByFrame[float], _ByFrame[Array], dict[int, str], list[tuple[Limb, Plant]]]:  # fmt: skip
    """What is to be seen at each frame of a turn: values of the master, where feet are, over which foot the body is;
    and the plants between.
    """
    steps = len(order)
    end = start + steps * step
    made: dict[int, dict[str, float]] = {start: {"master/ry": heading}}
    feet: dict[int, dict[str, Array]] = {start: dict(stands)}
    bodies: dict[int, str] = {}
    turned = dict.fromkeys(legs, 0.0)
    downs: dict[str, list[int]] = {name: [start] for name in legs}
    plants: list[tuple[Limb, Plant]] = []
    for n, foot in enumerate(order):
        lift, land = start + n * step + max(step // 4, 1), start + (n + 1) * step
        goal = min(1.0, (n + 1) / (steps - 1))
        plants.append((legs[foot], Plant(downs[foot][-1], lift)))
        downs[foot].append(land)
        middle = (lift + land) // 2
        half = 0.5 * (turned[foot] + goal)
        up = LIFT * sum(legs[foot].lengths)
        feet.setdefault(lift, {})[foot] = _about(stands[foot], pivot, turned[foot] * angle)
        feet.setdefault(middle, {})[foot] = _raised(_about(stands[foot], pivot, half * angle), up)
        feet.setdefault(land, {})[foot] = _about(stands[foot], pivot, goal * angle)
        turned[foot] = goal
        bodies[lift] = "R" if foot == "L" else "L"
        made[land] = {"master/ry": heading + angle * (n + 1) / steps}
    plants += [(legs[name], Plant(frames[-1], end)) for name, frames in downs.items() if frames[-1] < end]
    return made, feet, bodies, plants


def _keyed_body(clip: Clip, rig: Rig, bodies: dict[int, str], start: int, end: int, scene: Scene | None) -> Clip:
    """The body keyed over the foot that bears it at each frame, and back in the middle at both ends."""
    values = pose_values(rig, clip, start, scene)
    rest = {f"body/{c}": float(values[rig.number(f"body/{c}")]) for c in ("tx", "ty", "tz")}
    for frame in (start, end):
        clip = set_pose(clip, rig, frame, rest, "changed", scene=scene).clip
    for frame, name in bodies.items():
        now = pose_values(rig, clip, frame, scene)
        nodes = evaluate(rig, now[None])[0]
        limb = next(limb for limb in rig.limbs if limb.kind == "leg" and limb.name[-1] == name)
        body, foot = rig.control("body"), nodes[limb.end, :3]
        way = (foot - nodes[body.node, :3]) * np.array([SHIFT, 0.0, SHIFT])
        local = rotations.rotate(rotations.inverse(nodes[body.frame, 3:7]), way) / nodes[body.frame, 7]
        moved = {f"body/{c}": rest[f"body/{c}"] + float(d) for c, d in zip(("tx", "ty", "tz"), local, strict=True)}
        clip = set_pose(clip, rig, frame, moved, "changed", scene=scene).clip
    return clip


def _about(world: Array, pivot: Array, angle: float) -> Array:
    """A transform (8,) turned about the upright through a place (3,)."""
    turn = np.array([0.0, sin(angle / 2), 0.0, cos(angle / 2)])
    about = transforms.transform(pivot - rotations.rotate(turn, pivot), turn)
    return transforms.compose(about, world)


def _raised(world: Array, by: float) -> Array:
    raised = world.copy()
    raised[1] += by
    return raised
