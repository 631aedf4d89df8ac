"""A carry-through laid at what happens: all above the hips goes on, comes late, and swings back."""

from __future__ import annotations

from dataclasses import dataclass
from math import radians
from typing import Annotated, Literal

from hame.character.rig import Rig
from hame.clip.clip import Clip
from hame.clip.through import MOST_LATE, MOST_OVER, CarryThrough
from hame.edits.answering import Frames, Speed, What, refuse_things
from hame.edits.edit import Edit, Frame, Within
from hame.edits.outcome import Outcome
from hame.edits.ruled import beside, refuse_meeting
from hame.edits.tying import refuse_outside
from hame.errors import BadEdit
from hame.evaluate.leaning import lean_of
from hame.scene.scene import Scene

Leant = Annotated[float, Within(radians(-60), radians(60), "radians", "it goes on by 60° at most. Nothing was changed")]
LONG = 14  # frames that it takes, if nothing else is said


@dataclass(frozen=True, kw_only=True)
class LayCarryThrough(Edit):
    """All above the hips that goes on after ``event``, each link so many frames ``late``, and swings back past where
    it rests by ``overshoot``, once or twice.

    ``at`` is where the one begins that is changed by it, None for a new one. Planted and tied parts stay.
    """

    kind: Literal["carry-through"] = "carry-through"
    at: Frame | None = None
    event: Frame
    frames: Frames = LONG
    late: Annotated[float, Within(0.0, MOST_LATE, "frames")] = 1.5
    overshoot: Annotated[float, Within(0.0, MOST_OVER, "")] = 0.3
    times: Annotated[int, Within(1, 2, "frames")] = 1
    nod: Leant = radians(6.0)
    twist: Leant = 0.0
    tilt: Leant = 0.0
    factor: Annotated[float, Within(0.0, 1.5, "")] = 1.0
    muted: bool = False
    of: What = ""
    speed: Speed = 0.0

    lays = True

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        refuse_things(rig, "could go on")
        if lean_of(rig) is None:
            raise BadEdit("nothing above its hips could go on; nothing was changed")
        refuse_outside(scene, self.event, self.event + self.frames, "a carry-through")
        others, flipped = beside(clip, CarryThrough, "", self.at)
        span = CarryThrough(
            self.event, self.event + self.frames, self.muted, flipped, self.of, self.speed, self.late, self.overshoot,
            self.times, self.nod, self.twist, self.tilt, self.factor,
        )  # fmt: skip
        refuse_meeting(span, others)
        return Outcome(clip.with_tracks({CarryThrough.kind: [*others, span]}))

    def label(self, rig: Rig, scene: Scene) -> str:
        return f"{'Change the carry-through' if self.at is not None else 'Carry-through'} at {self.event}"
