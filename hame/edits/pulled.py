"""Edits that let the body follow: a part pulled, and the weight brought over what bears it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Annotated, Literal

import numpy as np

from hame.character.masses import centre_of_mass
from hame.character.rig import Rig
from hame.clip.clip import Clip
from hame.clip.key import SHAPES, ShapeName
from hame.edits.asif import AsIf
from hame.edits.edit import AtMost, Edit, Frame, Within
from hame.edits.outcome import Outcome
from hame.edits.pose import Keying, set_pose
from hame.edits.tying import ControlName
from hame.errors import BadEdit
from hame.maths.rotations import Array
from hame.measure.balance import Balance, bearing_points, brought_inside, hull, inside, middle_of
from hame.scene.gripped import limbs_planted, planted_parts
from hame.scene.scene import Scene
from hame.scene.seen import pose_values
from hame.solve.begun import Begun, begin, where
from hame.solve.body import body_of
from hame.solve.pull import Pulled, pull
from hame.solve.weight import over_support
from hame.solve.wishes import Grip, Target

Metres = Annotated[float, Within(-1000.0, 1000.0, "m")]
_STANDS = 0.02  # metres: so far inside what bears it the weight is brought, where there is room
_LOOKS, _NEAR = 4, 0.005  # at most so often, until it is so near, metres


@dataclass(frozen=True, kw_only=True)
class PullPart(Edit):
    """A part of the body pulled by so much in the world, x, y and z; feet that stand stay, and the rest follows."""

    kind: Literal["pull"] = "pull"
    frame: Frame
    part: ControlName
    x: Metres = 0.0
    y: Metres = 0.0
    z: Metres = 0.0
    keying: Keying = "changed"
    shape: ShapeName = "smooth"
    what: Annotated[str, AtMost(80)] = ""

    poses = True

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        begun = _begun(clip, rig, self.frame, scene)
        link = begun.body.link(self.part)
        part = link.name
        place, turn = where(begun, part)
        kept = turn if link.role in ("foot", "hand") else None  # a sole stays level, a palm as it lies
        target = Target(part, place + np.array([self.x, self.y, self.z]), kept)
        _, stands = AsIf(scene).seen(clip, self.frame)
        grips = [grip for grip in _grips(begun, clip, self.frame, stands) if grip.part != part]
        result = pull(begun, [target], grips)
        return _keyed(clip, rig, self.frame, begun, result, self.keying, self.shape, scene)

    def label(self, rig: Rig, scene: Scene) -> str:
        body = body_of(rig, chains=True)
        return f"{self.what or f'Pull {body.link(self.part).label}'} at {self.frame}"


@dataclass(frozen=True, kw_only=True)
class ShiftWeight(Edit):
    """The weight brought over what bears it; or ``onto`` one limb, by its IK control, before another one lifts."""

    kind: Literal["weight"] = "weight"
    frame: Frame
    onto: ControlName = ""
    keying: Keying = "changed"
    shape: ShapeName = "smooth"

    poses = True

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        begun = _begun(clip, rig, self.frame, scene)
        as_if = AsIf(scene)
        _, now = as_if.seen(clip, self.frame)
        if not now.bearing:
            raise BadEdit(f"at {self.frame} nothing bears the body: it is in the air. Nothing was changed")
        if self.onto:
            limb = next((end for end in rig.ends if end.ik == self.onto), None)
            if limb is None or limb.ik not in now.bearing:
                raise BadEdit(
                    f"{rig.control(self.onto).label} does not bear the body at {self.frame}: it is neither planted nor "
                    "on the ground. Nothing was changed"
                )
            over = middle_of(hull(bearing_points(rig, limb, begun.nodes[None])[0][:, [0, 2]]))
        else:
            over = _inwards(now.centre[[0, 2]], now.area, now.margin or 0.0)
        grips = _grips(begun, clip, self.frame, now)
        # What is carried goes along with the hands, not quite as the body does: so it is looked at again.
        own = centre_of_mass(rig, begun.nodes[None])[0, [0, 2]]
        aim = over + own - now.centre[[0, 2]]
        for _ in range(_LOOKS):
            result = over_support(begun, aim, grips)
            made = _keyed(clip, rig, self.frame, begun, result, self.keying, self.shape, scene)
            _, then = as_if.seen(made.clip, self.frame)
            beside = over - then.centre[[0, 2]]
            if np.linalg.norm(beside) < _NEAR:
                break
            aim = aim + beside
        return made

    def label(self, rig: Rig, scene: Scene) -> str:
        onto = f"the {rig.control(self.onto).label}" if self.onto else "what bears it"
        return f"Weight over {onto} at {self.frame}"


def _inwards(centre: Array, area: Array, margin: float) -> Array:
    """A place (2,) inside an area, not far from where the centre is."""
    middle = middle_of(area)
    if margin >= _STANDS:
        return middle
    return brought_inside(area, centre, min(_STANDS, 0.5 * inside(area, middle)))


def _begun(clip: Clip, rig: Rig, frame: int, scene: Scene) -> Begun:
    protected = scene.figures[scene.of].protected if scene.of in scene.figures else ()
    planted = limbs_planted(rig, clip, frame)
    return begin(rig, pose_values(rig, clip, frame, scene), protected=protected, planted=planted, chains=True)


def _grips(begun: Begun, clip: Clip, frame: int, now: Balance) -> list[Grip]:
    """What stands stays: planted limbs, feet on the ground; and the head keeps looking."""
    parts = dict.fromkeys(planted_parts(begun.body.rig, clip, frame))
    parts |= dict.fromkeys(begun.body.link(control).name for control in now.bearing)
    grips = [Grip(part, "fast") for part in parts]
    if any(link.name == "head" for link in begun.body.links):
        grips.append(Grip("head", "firm", place=False))
    return grips


def _keyed(
    clip: Clip, rig: Rig, frame: int, begun: Begun, result: Pulled, keying: Keying, shape: ShapeName, scene: Scene
) -> Outcome:
    changed: Sequence[int] = np.flatnonzero(result.values != begun.values).tolist()
    if not changed:
        raise BadEdit("nothing has to move for that; nothing was changed")
    values = {rig.addresses[n]: float(result.values[n]) for n in changed}
    outcome = set_pose(clip, rig, frame, values, keying, shape=SHAPES[shape], scene=scene)
    gave = tuple(f"{g.label} gave by {1000 * g.metres:.0f} mm" for g in result.gave if g.metres > 1e-3)
    return Outcome(outcome.clip, (*outcome.notes, *gave))
