"""What a control belongs to: set, changed and ended."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Annotated, Literal

from hame.character.rig import Rig
from hame.clip.belonging import Belonging, Ties
from hame.clip.clip import Clip
from hame.clip.spans import OWN, track_name
from hame.edits.edit import Edit, Frame, Names, Within, controls_said
from hame.edits.outcome import Outcome
from hame.edits.spans import beginning_at, given_way, spans_of
from hame.edits.tying import ControlName, Eased, FigureNumber, owner_said, refuse_outside, refuse_unknown_owner
from hame.errors import BadEdit
from hame.scene.scene import Scene

Share = Annotated[float, Within(0.0, 1.0, "share")]


def belongings_of(clip: Clip, control: str) -> list[Belonging]:
    """The belongings that are stored of a control, in the order of time."""
    return spans_of(clip, Belonging, control)


def belong(clip: Clip, control: str, span: Belonging) -> tuple[Clip, list[str]]:
    """The clip with a control that belongs to something, and what to say of it.

    What it belonged to before on these frames gives way: it ends before, or begins after.
    """
    kept, notes = given_way(belongings_of(clip, control), span, "what it belonged to from")
    return clip.with_tracks({track_name(Belonging.kind, control): [*kept, span]}), notes


@dataclass(frozen=True, kw_only=True)
class Belong(Edit):
    """Controls that move along with something over some frames; nothing jumps as they come to it or leave it."""

    kind: Literal["belong"] = "belong"
    controls: Names
    figure: FigureNumber = OWN
    to: ControlName = ""
    start: Frame
    end: Frame
    ties: Ties = "both"
    weight: Share = 1.0
    ease_in: Eased = 0
    ease_out: Eased = 0

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        if not self.controls:
            raise BadEdit("nothing is selected that could belong to something; nothing was changed")
        refuse_outside(scene, self.start, self.end, "a belonging")
        refuse_unknown_owner(scene, self.figure, self.to)
        notes: list[str] = []
        for name in self.controls:
            control = rig.control(name)
            if not control.posed:
                raise BadEdit(f"{control.label} has no place; it cannot belong to anything. Nothing was changed")
            if self.figure == OWN and self.to and self.to in rig.below(name):
                raise BadEdit(
                    f"{control.label} carries {rig.control(self.to).label}; it cannot be carried by it too. "
                    "Nothing was changed"
                )
            span = Belonging(
                self.start, self.end, self.figure, self.to, self.ties, self.weight, self.ease_in, self.ease_out
            )  # fmt: skip
            clip, said = belong(clip, name, span)
            notes += said
        return Outcome(clip, tuple(dict.fromkeys(notes)))

    def label(self, rig: Rig, scene: Scene) -> str:
        return f"{controls_said(rig, self.controls)} to {owner_said(scene, self.figure, self.to)} from {self.start}"


@dataclass(frozen=True, kw_only=True)
class ChangeBelonging(Edit):
    """One belonging over other frames, or tied in another way; ``at`` is where it begins now."""

    kind: Literal["rebelong"] = "rebelong"
    control: ControlName
    at: Frame
    start: Frame
    end: Frame
    ties: Ties = "both"
    weight: Share = 1.0
    ease_in: Eased = 0
    ease_out: Eased = 0

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        rig.control(self.control)
        before = belonging_at(clip, self.control, self.at)
        refuse_outside(scene, self.start, self.end, "a belonging")
        others = [span for span in belongings_of(clip, self.control) if span is not before]
        clip = clip.with_tracks({track_name(Belonging.kind, self.control): others})
        span = replace(
            before, start=self.start, end=self.end, ties=self.ties, weight=self.weight, ease_in=self.ease_in,
            ease_out=self.ease_out,
        )  # fmt: skip
        clip, notes = belong(clip, self.control, span)
        return Outcome(clip, tuple(notes))

    def label(self, rig: Rig, scene: Scene) -> str:
        return f"What {rig.control(self.control).label} belongs to, {self.start} to {self.end}"


@dataclass(frozen=True, kw_only=True)
class EndBelonging(Edit):
    """Belongings taken away: the controls go by their keys again. Without frames, all of the chosen controls go."""

    kind: Literal["unbelong"] = "unbelong"
    controls: Names
    starts: tuple[int, ...] = ()

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        found = 0
        for name in self.controls:
            spans = belongings_of(clip, rig.control(name).name)
            left = [span for span in spans if self.starts and span.start not in self.starts]
            found += len(spans) - len(left)
            clip = clip.with_tracks({track_name(Belonging.kind, name): left})
        if not found:
            raise BadEdit("nothing of what is chosen belongs to anything there; nothing was changed")
        return Outcome(clip)

    def label(self, rig: Rig, scene: Scene) -> str:
        return f"Untie {controls_said(rig, self.controls)}"


def belonging_at(clip: Clip, control: str, start: int) -> Belonging:
    """The belonging of a control that begins at a frame; raises :class:`BadEdit` where none does."""
    found = beginning_at(clip, Belonging, control, start)
    if found is not None:
        return found
    raise BadEdit(f"nothing that {control} belongs to begins at {start}; it may have been changed meanwhile")
