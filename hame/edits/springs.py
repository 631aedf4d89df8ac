"""Springs: laid on rows of joints, changed, taken away, or made into a layer of few keys."""

from __future__ import annotations

from dataclasses import dataclass, replace
from math import pi, radians
from typing import Annotated, Literal

import numpy as np

from hame.character.rig import Rig
from hame.clip.clip import Clip
from hame.clip.layers import layers_of
from hame.clip.spans import track_name
from hame.clip.spring import LONGEST, MOST_EASED, Spring
from hame.edits.edit import Edit, Frame, Names, Within, controls_said
from hame.edits.layers import without_layer
from hame.edits.outcome import Outcome
from hame.edits.ruled import few_keys_over
from hame.edits.spans import beginning_at, given_way, spans_of
from hame.edits.tying import ControlName, refuse_outside
from hame.errors import BadEdit
from hame.evaluate.line import played_values
from hame.evaluate.some import some_nodes
from hame.evaluate.springs.rows import row_of
from hame.evaluate.springs.taken import trace_of
from hame.maths.rotations import Array
from hame.scene.scene import Scene
from hame.scene.seen import players_for

Period = Annotated[float, Within(0.0, LONGEST, "frames")]
Wind = Annotated[float, Within(-60.0, 60.0, "metres a second")]
Eased = Annotated[int, Within(0, MOST_EASED, "frames")]
_KEPT = radians(1.0)  # of keys made of a spring


@dataclass(frozen=True, kw_only=True)
class LaySpring(Edit):
    """Rows of joints that swing over some frames; ``at`` is where the one begins that is changed by it, of the one
    control that is named then; None lays new ones, to which others on their frames give way.
    """

    kind: Literal["spring"] = "spring"
    controls: Names
    at: Frame | None = None
    start: Frame
    end: Frame
    period: Period = 14.0
    period_tip: Period = 10.0
    rests: Period = 14.0
    rests_tip: Period = 10.0
    droop: Annotated[float, Within(0.0, radians(85.0), "radians")] = 0.0
    weight: Annotated[float, Within(0.0, 10.0, "times gravity")] = 0.3
    air: Annotated[float, Within(0.0, 60.0, "each second")] = 0.5
    wind_x: Wind = 0.0
    wind_z: Wind = 0.0
    limit: Annotated[float, Within(0.0, pi, "radians")] = radians(75.0)
    body: bool = True
    ground: bool = True
    strength: Annotated[float, Within(0.0, 1.0, "share")] = 1.0
    ease_in: Eased = 0
    ease_out: Eased = 0
    muted: bool = False

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        if not self.controls:
            raise BadEdit("nothing is selected that could swing; nothing was changed")
        if self.at is not None and len(self.controls) > 1:
            raise BadEdit("one spring is changed at a time; nothing was changed")
        if self.end <= self.start:
            raise BadEdit("a spring lasts for two frames or more; nothing was changed")
        refuse_outside(scene, self.start, self.end, "a spring")
        notes: list[str] = []
        for name in dict.fromkeys(self.controls):
            _refuse(rig, clip, name, self)
            span = Spring(
                self.start, self.end, self.period, self.period_tip, self.rests, self.rests_tip, self.droop, self.weight,
                self.air, self.wind_x, self.wind_z, self.limit, self.body, self.ground, self.strength, self.ease_in,
                self.ease_out, self.muted, scene.fps,
            )  # fmt: skip
            others = spans_of(clip, Spring, name)
            if self.at is not None:
                before = spring_at(clip, name, self.at)
                span = replace(span, fps=before.fps, layer=before.layer, taken=before.taken)
                others.remove(before)
            kept, said = given_way(others, span, "the spring from")
            notes += said
            clip = clip.with_tracks({track_name(Spring.kind, name): [*kept, span]})
        return Outcome(clip, tuple(dict.fromkeys(notes)))

    def label(self, rig: Rig, scene: Scene) -> str:
        what = controls_said(rig, self.controls)
        if self.at is None:
            return f"Spring on {what}, {self.start} to {self.end}"
        before = beginning_at(scene.figure(scene.of).clip, Spring, self.controls[0] if self.controls else "", self.at)
        if before is not None and before.muted != self.muted:
            return f"{'Mute' if self.muted else 'Unmute'} the spring on {what}"
        return f"Change the spring on {what}"


def _refuse(rig: Rig, clip: Clip, name: str, edit: LaySpring) -> None:
    row = row_of(rig, name)
    label = rig.control(name).label
    if row is None:
        raise BadEdit(
            f"{label} does not hang on anything that could swing it: choose a chain, or a joint without a role in the "
            "body. Nothing was changed"
        )
    if not any(period > 0.0 for period in (edit.period, edit.period_tip)) and not edit.weight and not edit.droop:
        raise BadEdit("without stiffness and without weight nothing draws it anywhere. Nothing was changed")
    mine = set(row.names)
    for track, spans in clip.tracks.items():
        kind, _, other = track.partition("/")
        if kind != Spring.kind or other == name:
            continue
        there = row_of(rig, other) if rig.has_control(other) else None
        met = there is not None and mine & set(there.names)
        if met and any(s.start <= edit.end and s.end >= edit.start for s in spans):
            raise BadEdit(
                f"{label} swings with {rig.control(other).label} on these frames already; take that spring away first. "
                "Nothing was changed"
            )


@dataclass(frozen=True, kw_only=True)
class DropSpring(Edit):
    """A spring taken away."""

    kind: Literal["drop spring"] = "drop spring"
    control: ControlName
    at: Frame

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        return Outcome(_without(clip, self.control, spring_at(clip, self.control, self.at)))

    def label(self, rig: Rig, scene: Scene) -> str:
        return f"Take away the spring of {controls_said(rig, [self.control])}"


@dataclass(frozen=True, kw_only=True)
class SpringKeys(Edit):
    """A spring taken as keys, as few as hold it within a degree, in a layer of its own; it swings no more, until that
    layer is deleted. Taken anew, keys that it was taken as before go.
    """

    kind: Literal["spring keys"] = "spring keys"
    control: ControlName
    at: Frame
    dear = True

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        span = spring_at(clip, self.control, self.at)
        notes: tuple[str, ...] = ()
        if span.layer:
            there = layers_of(clip).get(span.layer)
            notes = (f"the layer {there.name} went, which held it before",) if there else ()
            clip = without_layer(clip, span.layer)
            span = spring_at(clip, self.control, self.at)
        if not span.counts:
            raise BadEdit("this spring turns nothing: it is muted, or of no strength. Nothing was changed")

        def values(of: Clip, times: Array) -> Array:
            number, players = players_for(rig, of, scene)
            return played_values(players, times)[number]

        row = row_of(rig, self.control)
        if row is None:
            raise BadEdit(
                f"{rig.control(self.control).label} hangs on nothing that could swing it. Nothing was changed"
            )
        rest = _without(clip, self.control, span)
        first, last = max(span.start, scene.start), min(span.end, scene.end)
        made = few_keys_over(clip, rest, rig, span, "Spring", values, first, last, _KEPT / 3.0)
        (number,) = set(layers_of(made.clip)) - set(layers_of(rest))
        carried = some_nodes(rig, (row.carrier,), values(rest, np.arange(span.start, span.end + 1, dtype=float)))[:, 0]
        taken = replace(span, layer=number, taken=trace_of(carried))
        track = track_name(Spring.kind, self.control)
        done = made.clip.with_tracks({track: [*spans_of(made.clip, Spring, self.control), taken]})
        return Outcome(done, (*made.notes, *notes))

    def label(self, rig: Rig, scene: Scene) -> str:
        before = beginning_at(scene.figure(scene.of).clip, Spring, self.control, self.at)
        anew = " anew" if before is not None and before.layer else ""
        return f"Spring of {controls_said(rig, [self.control])} into keys{anew}"


def spring_at(clip: Clip, control: str, start: int) -> Spring:
    """The spring that begins at a frame; raises :class:`BadEdit` where none does."""
    found = beginning_at(clip, Spring, control, start)
    if found is None:
        raise BadEdit(f"no spring begins at {start} there; it may have been changed meanwhile. Nothing was changed")
    return found


def _without(clip: Clip, control: str, span: Spring) -> Clip:
    left = [other for other in spans_of(clip, Spring, control) if other is not span]
    return clip.with_tracks({track_name(Spring.kind, control): left})
