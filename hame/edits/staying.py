"""Controls brought to places in the world: back where they were before something above them was turned, say."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from math import isfinite
from typing import Annotated, Literal

import numpy as np

from hame.character.rig import Rig
from hame.clip.clip import Clip
from hame.edits.edit import AtMost, Edit, Frame, controls_said
from hame.edits.outcome import Outcome
from hame.edits.pose import Keying, set_pose
from hame.errors import BadEdit
from hame.evaluate.evaluate import evaluate
from hame.maths import transforms
from hame.scene.scene import Scene
from hame.scene.seen import pose_values
from hame.solve.drag import place_control

FARTHEST_HELD = 1000.0  # metres
Places = Annotated[Mapping[str, tuple[float, ...]], AtMost(300)]  # by control: place (3), quaternion (4)


@dataclass(frozen=True, kw_only=True)
class BringTo(Edit):
    """Controls brought to places and turns in the world at a frame, those that carry others first."""

    kind: Literal["bring"] = "bring"
    frame: Frame
    places: Places
    keying: Keying = "changed"

    poses = True

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        if not self.places:
            raise BadEdit("nothing is chosen to be brought anywhere; nothing was changed")
        before = pose_values(rig, clip, self.frame, scene)
        values = before.copy()
        for name in self.places:
            if not rig.control(name).posed:
                raise BadEdit(f"{rig.control(name).label} has no place; nothing was changed")
        for control in rig.controls:
            wish = self.places.get(control.name)
            if wish is None:
                continue
            if len(wish) != 7 or not all(isfinite(n) for n in wish) or max(abs(n) for n in wish[:3]) > FARTHEST_HELD:
                raise BadEdit(f"{control.label}: a place is three numbers of up to a kilometre, and a quaternion")
            size = float(np.linalg.norm(wish[3:]))
            if size < 1e-6:
                raise BadEdit(f"{control.label}: its turn is none; nothing was changed")
            nodes = evaluate(rig, values[None])[0]
            goal = transforms.transform(np.array(wish[:3]), np.array(wish[3:]) / size, nodes[control.node, 7])
            place_control(rig, values, control, nodes, goal)
        changed = np.flatnonzero(np.abs(values - before) > 1e-12)
        wanted = {rig.addresses[n]: float(values[n]) for n in changed}
        return set_pose(clip, rig, self.frame, wanted, self.keying, scene=scene)

    def label(self, rig: Rig, scene: Scene) -> str:
        return f"Put {controls_said(rig, self.places)} back at {self.frame}"
