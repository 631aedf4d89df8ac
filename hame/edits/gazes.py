"""Gazes: laid over a stretch, changed, taken away, or made into a layer of few keys."""

from __future__ import annotations

from dataclasses import dataclass
from math import pi, radians
from typing import Annotated, Literal

import numpy as np

from hame.character.rig import Rig
from hame.clip.clip import Clip
from hame.clip.gaze import FARTHEST, MOST_EASED, MOST_LEAD, Axis, Gaze
from hame.clip.spans import OWN, track_name
from hame.edits.edit import Edit, Frame, Within
from hame.edits.outcome import Outcome
from hame.edits.ruled import few_keys_over
from hame.edits.spans import beginning_at, given_way, spans_of
from hame.edits.tying import ControlName, FigureNumber, owner_said, refuse_outside, refuse_unknown_owner
from hame.errors import BadEdit
from hame.evaluate.gaze import can_aim, looks_of
from hame.evaluate.line import played_values
from hame.maths.rotations import Array
from hame.scene.scene import Scene
from hame.scene.seen import players_for

Metres = Annotated[float, Within(-FARTHEST, FARTHEST, "metres")]
Turned = Annotated[float, Within(0.0, pi, "radians")]
Eased = Annotated[int, Within(0, MOST_EASED, "frames")]
Lead = Annotated[int, Within(0, MOST_LEAD, "frames")]
Share = Annotated[float, Within(0.0, 1.0, "share")]


@dataclass(frozen=True, kw_only=True)
class Look(Edit):
    """A figure that looks at something over some frames, or one ``control`` that is aimed at it.

    ``at`` is where the gaze begins that is changed by it, None for a new one, to which others on its frames give way.
    """

    kind: Literal["gaze"] = "gaze"
    control: ControlName = ""
    at: Frame | None = None
    start: Frame
    end: Frame
    figure: FigureNumber = OWN
    to: ControlName = ""
    x: Metres = 0.0
    y: Metres = 0.0
    z: Metres = 0.0
    eyes: Turned = radians(18.0)
    head: Turned = radians(60.0)
    chest: Turned = radians(20.0)
    lead: Lead = 3
    ease_in: Eased = 6
    ease_out: Eased = 6
    share: Share = 1.0
    axis: Axis = "z"
    muted: bool = False

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        refuse_outside(scene, self.start, self.end, "a gaze")
        refuse_unknown_owner(scene, self.figure, self.to)
        self._refuse(rig)
        others = spans_of(clip, Gaze, self.control)
        if self.at is not None:
            others.remove(gaze_at(clip, self.control, self.at))
        span = Gaze(
            self.start, self.end, self.figure, self.to, self.x, self.y, self.z, self.eyes, self.head, self.chest,
            self.lead, self.ease_in, self.ease_out, self.share, self.axis, self.muted,
        )  # fmt: skip
        kept, notes = given_way(others, span, "the gaze from")
        laid = clip.with_tracks({track_name(Gaze.kind, self.control): [*kept, span]})
        return Outcome(laid, (*notes, *_keyed_there(clip, rig, span, self.control)))

    def _refuse(self, rig: Rig) -> None:
        if not self.control and not looks_of(rig).there:
            raise BadEdit(
                "this has neither eyes nor a head by which it could look: choose one control that is aimed, or map the "
                "head on the character's page. Nothing was changed"
            )
        if self.control and not can_aim(rig, self.control):
            raise BadEdit(
                f"{rig.control(self.control).label} does not turn freely, so it cannot be aimed. Nothing was changed"
            )
        if self.figure != OWN or not self.to:
            return
        turned = [self.control] if self.control else ["head"] if rig.has_control("head") else []
        for name in turned:
            if self.to in rig.below(name):
                raise BadEdit(
                    f"{rig.control(self.to).label} goes along with {rig.control(name).label}; nobody looks at what "
                    "turns with it. Nothing was changed"
                )

    def label(self, rig: Rig, scene: Scene) -> str:
        who = rig.control(self.control).label if self.control else "Look"
        what = owner_said(scene, self.figure, self.to) if self.to else "a place"
        if self.at is not None:
            before = beginning_at(scene.figure(scene.of).clip, Gaze, self.control, self.at)
            if before is not None and before.muted != self.muted:
                return f"{'Mute' if self.muted else 'Unmute'} the gaze {self.start} to {self.end}"
            return f"Change the gaze {self.start} to {self.end}"
        return f"{who} at {what}, {self.start} to {self.end}"


@dataclass(frozen=True, kw_only=True)
class DropGaze(Edit):
    """A gaze taken away."""

    kind: Literal["drop gaze"] = "drop gaze"
    control: ControlName = ""
    at: Frame

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        return Outcome(without_gaze(clip, self.control, gaze_at(clip, self.control, self.at)))

    def label(self, rig: Rig, scene: Scene) -> str:
        return f"Take away the gaze of {self.at}"


@dataclass(frozen=True, kw_only=True)
class GazeKeys(Edit):
    """A gaze made into keys, as few as hold it, in a layer of its own; the motion stays what it is."""

    kind: Literal["gaze keys"] = "gaze keys"
    control: ControlName = ""
    at: Frame
    dear = True

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        span = gaze_at(clip, self.control, self.at)
        if not span.counts:
            raise BadEdit("this gaze is muted, so it turns nothing. Nothing was changed")
        if any(o.start == span.end + 1 or o.end + 1 == span.start for o in spans_of(clip, Gaze, self.control)):
            raise BadEdit(
                "this gaze goes over into another one; make a frame of room between them. Nothing was changed"
            )
        rest = without_gaze(clip, self.control, span)

        def values(of: Clip, times: Array) -> Array:
            number, players = players_for(rig, of, scene)
            return played_values(players, times)[number]

        return few_keys_over(clip, rest, rig, span, "Gaze", values, max(span.start - 1, -1_000_000), span.end + 1)

    def label(self, rig: Rig, scene: Scene) -> str:
        return f"Gaze of {self.at} into keys"


def gaze_at(clip: Clip, control: str, start: int) -> Gaze:
    """The gaze that begins at a frame; raises :class:`BadEdit` where none does."""
    found = beginning_at(clip, Gaze, control, start)
    if found is None:
        raise BadEdit(f"no gaze begins at {start}; it may have been changed meanwhile. Nothing was changed")
    return found


def without_gaze(clip: Clip, control: str, span: Gaze) -> Clip:
    """The clip without a gaze."""
    left = [other for other in spans_of(clip, Gaze, control) if other is not span]
    return clip.with_tracks({track_name(Gaze.kind, control): left})


def _keyed_there(clip: Clip, rig: Rig, span: Gaze, control: str) -> tuple[str, ...]:
    """What to say of keys that turn the eyes, or what is aimed, on its frames: they go on top."""
    names = [control] if control else [one.control.name for one in looks_of(rig).eyes]
    most = 0.0
    for name in names:
        for channel in ("rx", "ry"):
            curve = clip.curves.get(f"{name}/{channel}")
            if curve is not None and len(curve):
                most = max(most, float(np.abs(curve.table[:, 1]).max()))
    if most < radians(0.5):
        return ()
    what = "what is aimed is" if control else "the eyes are"
    return (f"{what} keyed aside by up to {np.degrees(most):.0f} degrees somewhere: keys go on top of a gaze",)
