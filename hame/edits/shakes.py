"""Shakes: laid from where something begins to shake, changed, taken away, or made into a layer of few keys."""

from __future__ import annotations

from dataclasses import dataclass
from math import radians
from typing import Annotated, Literal

from hame.character.rig import Rig
from hame.clip.clip import Clip
from hame.clip.shake import Shake
from hame.clip.spans import track_name
from hame.edits.edit import Edit, Frame, Within
from hame.edits.outcome import Outcome
from hame.edits.ruled import into_layer, refuse_meeting, rule_at, without
from hame.edits.spans import beginning_at, spans_of
from hame.edits.tying import ControlName, refuse_outside
from hame.errors import BadEdit
from hame.evaluate.shake import can_shake, chain_of
from hame.scene.scene import Scene

Shifted = Annotated[float, Within(0.0, 0.03, "metres", "a shake shifts by 30 mm at most. Nothing was changed")]
Turned = Annotated[
    float, Within(0.0, radians(12.0), "radians", "a shake turns by 12 degrees at most. Nothing was changed")
]


@dataclass(frozen=True, kw_only=True)
class LayShake(Edit):
    """A shake of a control over some frames; ``at`` is where the one begins that it changes, None for a new one."""

    kind: Literal["shake"] = "shake"
    control: ControlName
    at: Frame | None = None
    start: Frame
    end: Frame
    aside: Shifted = 0.006
    up: Shifted = 0.0
    forth: Shifted = 0.004
    nod: Turned = radians(1.5)
    twist: Turned = radians(1.0)
    tilt: Turned = radians(1.0)
    period: Annotated[float, Within(2.0, 100.0, "frames")] = 5.0
    half: Annotated[int, Within(0, 1000, "frames")] = 6
    factor: Annotated[float, Within(0.0, 1.0, "")] = 0.5
    seed: Annotated[int, Within(0, 1_000_000, "")] = 1
    muted: bool = False

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        if self.end <= self.start:
            raise BadEdit("a shake lasts for two frames or more; nothing was changed")
        refuse_outside(scene, self.start, self.end, "a shake")
        label = rig.control(self.control).label
        if not can_shake(rig, self.control):
            raise BadEdit(f"{label} neither turns nor has a place that could shake. Nothing was changed")
        others = spans_of(clip, Shake, self.control)
        flipped = False
        if self.at is not None:
            before = rule_at(clip, Shake, self.control, self.at)
            others.remove(before)
            flipped = before.flipped
        chain = chain_of(rig, self.control)
        if self.up and chain.rising:
            raise BadEdit(
                f"up and down {label} would take all of the trunk along, as no spine gives way to it; key the body for "
                "that. Nothing was changed"
            )
        span = Shake(
            self.start, self.end, self.muted, flipped, self.aside, self.up, self.forth, self.nod, self.twist,
            self.tilt, self.factor, self.period, self.half, self.seed,
        )  # fmt: skip
        refuse_meeting(span, others)
        notes = []
        if (self.aside or self.up or self.forth) and not chain.places:
            notes.append(f"{label} has no place of its own here: it only turns")
        return Outcome(clip.with_tracks({track_name(Shake.kind, self.control): [*others, span]}), tuple(notes))

    def label(self, rig: Rig, scene: Scene) -> str:
        name = rig.control(self.control).label if rig.has_control(self.control) else self.control
        if self.at is None:
            return f"Shake of {name}, {self.start} to {self.end}"
        before = beginning_at(scene.figure(scene.of).clip, Shake, self.control, self.at)
        if before is not None and before.muted != self.muted:
            return f"{'Mute' if self.muted else 'Unmute'} the shake of {name}, {self.start} to {self.end}"
        return f"Change the shake of {name}, {self.start} to {self.end}"


@dataclass(frozen=True, kw_only=True)
class _OneShake(Edit):
    control: ControlName
    at: Frame

    def _found(self, clip: Clip) -> tuple[str, Shake]:
        return track_name(Shake.kind, self.control), rule_at(clip, Shake, self.control, self.at)


@dataclass(frozen=True, kw_only=True)
class DropShake(_OneShake):
    """A shake taken away."""

    kind: Literal["drop shake"] = "drop shake"

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        return Outcome(without(clip, *self._found(clip)))

    def label(self, rig: Rig, scene: Scene) -> str:
        return f"Take away the shake of {self.at}"


@dataclass(frozen=True, kw_only=True)
class ShakeKeys(_OneShake):
    """A shake made into keys, as few as hold it, in a layer of its own; the motion stays what it is."""

    kind: Literal["shake keys"] = "shake keys"

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        return into_layer(clip, rig, *self._found(clip))

    def label(self, rig: Rig, scene: Scene) -> str:
        return f"Shake of {self.at} into keys"
