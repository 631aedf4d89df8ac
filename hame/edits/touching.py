"""Moved until it touches: a hand, foot or thing along a line, and a body lowered until a knee is bent so far."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace
from math import degrees, radians
from typing import Annotated, Literal

import numpy as np
from scipy.optimize import brentq

from hame.character.rig import PLACE, Limb, Rig
from hame.clip.clip import Clip
from hame.clip.key import SHAPES, ShapeName
from hame.edits.edit import Edit, Frame, Within
from hame.edits.outcome import Outcome
from hame.edits.pose import Keying, set_pose
from hame.edits.tying import ControlName
from hame.errors import BadEdit
from hame.evaluate.evaluate import evaluate
from hame.evaluate.posed import Posed
from hame.maths.rotations import Array
from hame.measure.soles import has_sole, sole_points
from hame.measure.touching import Surface, carried_by, surface_of, way_to_ground, way_until
from hame.scene.joined import seen
from hame.scene.scene import Scene
from hame.scene.seen import pose_values
from hame.solve import drag

Met = Literal["anything", "ground", "things", "body"]
By = Literal["whole", "heel", "ball", "tip"]
Toward = Annotated[float, Within(-1.0, 1.0, "of a unit")]
NEAR = 1e-4  # metres: so near is touching
FARTHEST = 20.0  # metres
MOST_FACES = 150_000
"""Triangles that may meet: of so many one look takes about two seconds, and several are needed."""
_ROUNDS = 12
_POINTS = ("heel", "ball", "tip")


@dataclass(frozen=True, kw_only=True)
class Touch(Edit):
    """A control moved along a direction of the world at a frame, until what it carries meets something.

    ``met`` is what it may meet: the ground, other figures and things, or the figure's own body. ``by`` is the part of a
    foot that shall come to it.
    """

    kind: Literal["touch"] = "touch"
    frame: Frame
    control: ControlName
    x: Toward = 0.0
    y: Toward = -1.0
    z: Toward = 0.0
    met: Met = "anything"
    by: By = "whole"
    keying: Keying = "changed"
    shape: ShapeName = "smooth"

    poses = True

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        control = rig.control(self.control)
        along = np.array([self.x, self.y, self.z])
        size = float(np.linalg.norm(along))
        if size < 1e-6:
            raise BadEdit("the way to go has no direction; nothing was changed")
        if not any(c.kind == PLACE and not c.locked for c in rig.channels_of(control.name)):
            raise BadEdit(f"{control.label} has no place of its own that could be moved; nothing was changed")
        reach = _Reach(self, rig, pose_values(rig, clip, self.frame, scene), along / size, scene)
        after, way = reach.until()
        wanted = {
            rig.addresses[n]: float(after[n]) for n in np.flatnonzero(np.abs(after - reach.values) > 1e-12).tolist()
        }
        if not wanted:
            return Outcome(clip, (f"{control.label} touches already: nothing was changed",))
        done = set_pose(clip, rig, self.frame, wanted, self.keying, shape=SHAPES[self.shape], scene=scene)
        return Outcome(done.clip, (*done.notes, f"{control.label} went {1000 * way:.1f} mm"))

    def label(self, rig: Rig, scene: Scene) -> str:
        return f"{rig.control(self.control).label} until it touches, at {self.frame}"


class _Reach:
    """A control on its way: what it carries, and what that may meet."""

    def __init__(self, edit: Touch, rig: Rig, values: Array, along: Array, scene: Scene) -> None:
        self.edit, self.rig, self.values, self.along = edit, rig, values, along
        self.label = rig.control(edit.control).label
        self.skin = scene.skins.get(scene.of)
        self.limb = next((limb for limb in rig.limbs if limb.ik == edit.control), None)
        if edit.by != "whole" and (self.limb is None or not has_sole(rig, self.limb)):
            raise BadEdit(f"{self.label} is no foot: it has no {edit.by}. Nothing was changed")
        start, moved = self._posed(values), self._posed(self._moved(0.001))
        joints = rig.joint_nodes
        gone = moved.nodes[0, joints, :3] - start.nodes[0, joints, :3]
        self.carried = (np.linalg.norm(gone - 0.001 * along, axis=1) < 1e-6) & (
            np.abs(moved.nodes[0, joints, 3:7] - start.nodes[0, joints, 3:7]).max(axis=1) < 1e-6
        )
        if self.skin is None and edit.by == "whole":
            raise BadEdit(f"{self.label} has no surface that could touch anything; nothing was changed")
        if not self.carried.any():
            raise BadEdit(
                f"{self.label} does not go that way from here, its limb may be stretched or posed by FK; "
                "nothing was changed"
            )
        self.others = list(self._others(start, scene))
        faces = sum(len(one.triangles) for one in [self._mover(start), *self.others])
        if self.others and faces > MOST_FACES:
            raise BadEdit(
                f"what may meet here has {faces:,} triangles, and at most {MOST_FACES:,} are looked at; choose less "
                "that it may meet, such as the ground. Nothing was changed"
            )

    def _moved(self, way: float) -> Array:
        return drag.move(self.rig, self.values, (self.edit.control,), way * self.along, "world")

    def _posed(self, values: Array) -> Posed:
        return Posed(self.rig, values[None], evaluate(self.rig, values[None]))

    def _others(self, start: Posed, scene: Scene) -> Iterator[Surface]:
        """What it may meet, but for the ground."""
        if self.edit.met in ("anything", "things"):
            playing = {n: scene.figure(n) for n in scene.skins if n != scene.of and scene.figure(n).plays}
            if playing:
                for number, posed in seen({**playing, scene.of: scene.figure(scene.of)}, self.edit.frame).items():
                    if number in playing:
                        yield surface_of(scene.skins[number], posed)
        if self.edit.met in ("anything", "body") and self.skin is not None and not self.carried.all():
            apart = ~(self.carried | self._limb_joints())
            yield surface_of(self.skin, start).part(carried_by(self.skin, apart) > 0.5)

    def _limb_joints(self) -> Array:
        """Of the limb that it moves, the joints (J,): its own limb is in nobody's way."""
        skeleton = self.rig.skeleton
        mine = np.zeros(len(skeleton.names), bool)
        if self.limb is not None:
            mine[skeleton.index(self.rig.plan.roles[f"{self.limb.name}.upper"])] = True
            for joint, parent in enumerate(skeleton.parents):
                mine[joint] |= parent >= 0 and mine[parent]
        return mine

    def _mover(self, posed: Posed) -> Surface:
        if self.edit.by != "whole" and self.limb is not None:
            point = sole_points(self.rig, self.limb, posed.nodes)[0, _POINTS.index(self.edit.by)]
            return Surface(point[None], np.zeros((0, 3), int))
        assert self.skin is not None
        return surface_of(self.skin, posed).part(carried_by(self.skin, self.carried) > 0.5)

    def _left(self, posed: Posed) -> float | None:
        """How far it still has to go."""
        mover = self._mover(posed)
        ways = [way_until(mover, other, self.along) for other in self.others]
        if self.edit.met in ("anything", "ground"):
            ways.append(way_to_ground(mover.points, self.along))
        found = [way for way in ways if way is not None]
        return min(found) if found else None

    def until(self) -> tuple[Array, float]:
        """The channel values (C,) where it touches, and how far it went, metres."""
        left = self._left(self._posed(self.values))
        if left is None or left > FARTHEST:
            raise BadEdit(f"nothing lies that way of {self.label} within {FARTHEST:.0f} m; nothing was changed")
        way, values = 0.0, self.values
        for _ in range(_ROUNDS):
            if abs(left) < 0.1 * NEAR:
                return values, way
            way += left
            values = self._moved(way)
            before, left = left, self._left(self._posed(values))
            if left is None or abs(left) > 0.5 * abs(before):
                break  # it does not follow any more, or goes past what it came to by its edge
        if left is not None and abs(left) <= NEAR:
            return values, way
        stays = f": it stays {1000 * left:.1f} mm away" if left is not None and left > 0 else ""
        raise BadEdit(f"{self.label} cannot reach it that way{stays}. Nothing was changed")


@dataclass(frozen=True, kw_only=True)
class BendKnee(Edit):
    """The body lowered, or raised, at a frame until a knee is bent by an angle; a straight leg is bent by none.

    Without a ``limb`` it is the knee that is bent most.
    """

    kind: Literal["bend knee"] = "bend knee"
    frame: Frame
    angle: Annotated[float, Within(0.0, radians(170.0), "rad")]
    limb: ControlName = ""
    keying: Keying = "changed"
    shape: ShapeName = "smooth"

    poses = True

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        body = next((control for control in rig.controls if control.kind == "body"), None)
        values = pose_values(rig, clip, self.frame, scene)
        legs = [limb for limb in rig.limbs if limb.kind == "leg" and values[rig.number(limb.switch)] > 0.5]
        if self.limb:
            legs = [limb for limb in legs if limb.name == self.limb]
        if body is None or not legs:
            raise BadEdit("there is no leg here that is posed by IK, so no knee bends by the body; nothing was changed")
        leg = max(legs, key=lambda limb: float(bends(rig, limb, values[None])[0]))

        def lowered(ways: Array) -> Array:
            return np.stack([drag.move(rig, values, (body.name,), np.array([0.0, -w, 0.0]), "world") for w in ways])

        def over(way: float) -> float:
            return float(bends(rig, leg, lowered(np.array([way])))[0]) - self.angle

        tries = np.linspace(-1.0, 1.0, 161) * rig.size / 2.0
        found = bends(rig, leg, lowered(tries)) - self.angle
        crossed = np.flatnonzero((found[:-1] < 0.0) & (found[1:] >= 0.0))
        if not len(crossed):
            raise BadEdit(
                f"the {leg.label} knee cannot be bent by {degrees(self.angle):.1f}° by the body alone: up and down it "
                f"goes from {degrees(found.min() + self.angle):.1f}° to {degrees(found.max() + self.angle):.1f}°. "
                "Nothing was changed"
            )
        n = int(crossed[np.argmin(np.abs(tries[crossed]))])
        way = float(brentq(over, tries[n], tries[n + 1], xtol=1e-7))
        after = lowered(np.array([way]))[0]
        if abs(degrees(over(way))) > 0.1:
            raise BadEdit(
                f"the {leg.label} knee goes past {degrees(self.angle):.1f}° at once, where its leg comes to be "
                "stretched; nothing was changed"
            )
        changed = np.flatnonzero(np.abs(after - values) > 1e-12).tolist()
        wanted = {rig.addresses[k]: float(after[k]) for k in changed}
        done = set_pose(clip, rig, self.frame, wanted, self.keying, shape=SHAPES[self.shape], scene=scene)
        return replace(
            done, notes=(*done.notes, f"the body went {'down' if way > 0 else 'up'} {1000 * abs(way):.1f} mm")
        )

    def label(self, rig: Rig, scene: Scene) -> str:
        return f"Knee bent by {degrees(self.angle):.0f}° at {self.frame}"


def bends(rig: Rig, leg: Limb, values: Array) -> Array:
    """How far the knee of a leg is bent (F,) for channel values (F, C), radians; 0 is straight."""
    nodes = evaluate(rig, values)
    hip, knee, ankle = (nodes[:, n, :3] for n in (leg.upper, leg.lower, leg.end))
    thigh, shin = knee - hip, ankle - knee
    across = np.linalg.norm(np.cross(thigh, shin), axis=1)
    return np.asarray(np.arctan2(across, (thigh * shin).sum(axis=1)))
