"""A foot that comes down: toes that slap flat on a stated frame, and a body that dips with it."""

from __future__ import annotations

from dataclasses import dataclass
from math import radians
from typing import Annotated, Literal

from hame.character.rig import Rig
from hame.clip.clip import Clip
from hame.clip.footdown import FootDown
from hame.clip.spans import track_name
from hame.edits.answering import Frames, Speed, What
from hame.edits.edit import Edit, Frame, Within
from hame.edits.outcome import Outcome
from hame.edits.ruled import beside, refuse_meeting
from hame.edits.tying import ControlName, refuse_outside
from hame.errors import BadEdit
from hame.scene.scene import Scene


@dataclass(frozen=True, kw_only=True)
class LayFootDown(Edit):
    """A foot whose heel comes down at ``event``, and whose sole lies ``flat`` so many frames later; body, head and
    hands dip, are deepest ``there`` frames after it and back ``back`` frames later.

    ``at`` is where the one begins that is changed by it, None for a new one. ``toes`` is how far they come up before
    the event, in ``lead`` frames.
    """

    kind: Literal["foot down"] = "foot down"
    control: ControlName
    at: Frame | None = None
    event: Frame
    lead: Frames = 3
    flat: Frames = 2
    there: Frames = 2
    back: Frames = 4
    drop: Annotated[float, Within(0.0, 0.5, "metres")] = 0.015
    nod: Annotated[float, Within(radians(-45), radians(45), "radians")] = radians(2.0)
    toes: Annotated[float, Within(0.0, radians(60), "radians", "toes come up by 60° at most. Nothing was changed")] = (
        radians(12.0)
    )
    muted: bool = False
    of: What = ""
    speed: Speed = 0.0

    lays = True

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        limb = next((limb for limb in rig.limbs if limb.kind == "leg" and limb.ik == self.control), None)
        if limb is None:
            label = rig.control(self.control).label if rig.has_control(self.control) else self.control
            raise BadEdit(f"{label} is no foot that could come down; nothing was changed")
        # What is keyed back on the heel after it lies flat comes again over two frames at least.
        start, end = self.event - self.lead, self.event + max(self.there + self.back, self.flat + 2)
        refuse_outside(scene, start, end, "a foot that comes down")
        others, flipped = beside(clip, FootDown, self.control, self.at)
        span = FootDown(
            start, end, self.muted, flipped, self.of, self.speed, self.there, self.back, self.lead, self.flat,
            self.drop, self.nod, self.toes,
        )  # fmt: skip
        refuse_meeting(span, others)
        notes = () if rig.has_channel(f"{self.control}/roll") else ("this foot does not roll; only the body answers",)
        return Outcome(clip.with_tracks({track_name(FootDown.kind, self.control): [*others, span]}), notes)

    def label(self, rig: Rig, scene: Scene) -> str:
        name = rig.control(self.control).label if rig.has_control(self.control) else self.control
        return f"{'Change: ' if self.at is not None else ''}{name} down at {self.event}"
