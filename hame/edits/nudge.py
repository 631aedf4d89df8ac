"""A nudge: the body a little to one side, as when a pose leans too far by a hair."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Literal

from hame.character.rig import Rig
from hame.clip.clip import Clip
from hame.edits.edit import Edit, Frame, Within
from hame.edits.outcome import Outcome
from hame.edits.pose import set_pose
from hame.evaluate.evaluate import channel_values
from hame.scene.scene import Scene


@dataclass(frozen=True, kw_only=True)
class Nudge(Edit):
    """The body moved sideways by a little at a frame, and keyed there."""

    kind: Literal["nudge"] = "nudge"
    frame: Frame
    by: Annotated[float, Within(-0.1, 0.1, "m")] = 0.01

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        now = channel_values(rig, clip, [self.frame])[0, rig.number("body/tx")]
        return set_pose(clip, rig, self.frame, {"body/tx": float(now) + self.by}, "changed")

    def label(self, rig: Rig, scene: Scene) -> str:
        return f"Nudge the body at {self.frame}"
