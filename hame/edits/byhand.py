"""Controls moved, turned or set by a hand: what a drag does, as one step that needs no drag to be under way."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Literal

import numpy as np

from hame.character.rig import Rig
from hame.clip.clip import Clip
from hame.clip.key import SHAPES, ShapeName
from hame.edits.edit import KINDS_KEYED, AtMost, Edit, Frame, Names, Values, Within
from hame.edits.outcome import Outcome
from hame.edits.pose import Keying, Kinds, check_values, posed_said, said, set_pose
from hame.errors import BadEdit, HameError
from hame.evaluate.evaluate import overlaid
from hame.maths.rotations import Array
from hame.scene.scene import Scene
from hame.scene.seen import pose_values
from hame.solve import drag
from hame.solve.drag import Axes, Sides

Way = Literal["move", "turn", "set", "add"]
Metres = Annotated[float, Within(-1e6, 1e6, "m")]
Radians = Annotated[float, Within(-1000.0, 1000.0, "rad")]


def moved_by_hand(
    rig: Rig, start: Array, way: Way, controls: Names, by: Array, angle: float, values: Values, axes: Axes,
    view: Array, pivot: Array | None, sides: Sides, nodes: Array | None = None,
) -> Array:  # fmt: skip
    """Channel values ``(C,)`` after a hand's way from ``start (C,)``, whose ``nodes (N, 8)`` may be known.

    Parameters
    ----------
    by : metres to ``move`` by (3,), or the axis to ``turn`` about (3,)
    angle : radians to turn by
    values : to ``set``, or to ``add`` to those there, by address
    view : the turn (4,) of the camera, for ``axes`` of the view
    pivot : what all turn about (3,), in the world; None is each about itself

    Raises
    ------
    HameError
        If a control is unknown, an axis has no length, the view no turn or a value is past its limits.
    """
    if way == "move":
        after = drag.move(rig, start, controls, by, axes, view, nodes)
    elif way == "turn":
        after = drag.turn(rig, start, controls, by, angle, axes, view, pivot, nodes)
    else:
        there = {a: float(start[rig.number(a)]) for a in values} if way == "add" else dict.fromkeys(values, 0.0)
        after = overlaid(rig, start, check_values(rig, {a: there[a] + value for a, value in values.items()}))
    return drag.on_both_sides(rig, start, after, controls, sides)


@dataclass(frozen=True, kw_only=True)
class ByHand(Edit):
    """Controls moved by so much, turned about an axis, set to values or changed by them, from the pose that is seen.

    ``by`` are metres along the axes, or the axis that is turned about.
    """

    kind: Literal["by hand"] = "by hand"
    frame: Frame
    controls: Names
    way: Way
    by: tuple[Metres, ...] = (0.0, 0.0, 0.0)
    angle: Radians = 0.0
    axes: Axes = "world"
    view: tuple[float, ...] = (0.0, 0.0, 0.0, 1.0)
    pivot: tuple[Metres, ...] | None = None
    values: Values | None = None
    sides: Sides = "one"
    keying: Keying = "changed"
    kinds: Kinds = KINDS_KEYED
    shape: ShapeName = "smooth"
    what: Annotated[str, AtMost(80)] = ""

    poses = True

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        start = pose_values(rig, clip, self.frame, scene)
        by, view = _numbers(self.by, 3), _numbers(self.view, 4)
        pivot = None if self.pivot is None else _numbers(self.pivot, 3)
        try:
            after = moved_by_hand(
                rig, start, self.way, self.controls, by, self.angle, self.values or {}, self.axes, view, pivot,
                self.sides,
            )  # fmt: skip
        except BadEdit:
            raise
        except HameError as error:
            raise BadEdit(f"{error}. Nothing was changed") from None
        changed = np.flatnonzero(after != start).tolist()
        if not changed:
            return Outcome(clip, ("it stands so already; nothing was changed",))
        values = {rig.addresses[n]: float(after[n]) for n in changed}
        return set_pose(clip, rig, self.frame, values, self.keying, self.kinds, SHAPES[self.shape], scene)

    def label(self, rig: Rig, scene: Scene) -> str:
        what = self.what
        if not what and self.values and self.way in ("set", "add"):  # in the words of the panel
            known = [said(rig, address) for address in self.values if rig.has_channel(address)]
            more = f" and {len(known) - 1} more" if len(known) > 1 else ""
            what = f"{known[0][:1].upper()}{known[0][1:]}{more}" if known else ""
        return posed_said(rig, self.controls, what, self.frame, self.keying)


def _numbers(given: tuple[float, ...], count: int) -> Array:
    found = np.array(given, float)
    if found.shape != (count,) or not np.isfinite(found).all():
        raise BadEdit(f"a place or an axis has {count} numbers that are finite; nothing was changed")
    return found
