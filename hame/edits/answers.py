"""Answers to events: a landing or a take-off that gives, and a blow that goes through a body."""

from __future__ import annotations

from dataclasses import dataclass, replace
from math import radians
from typing import Annotated, Literal

import numpy as np

from hame.character.rig import Limb, Rig
from hame.clip.answers import SLOWER, Give, Knock
from hame.clip.clip import Clip
from hame.clip.spans import track_name
from hame.edits.answering import Frames, Speed, What, refuse_things
from hame.edits.asif import AsIf
from hame.edits.edit import Edit, Frame, Within
from hame.edits.outcome import Outcome
from hame.edits.ruled import beside, refuse_meeting
from hame.edits.tying import ControlName, refuse_outside
from hame.errors import BadEdit
from hame.evaluate.shake import can_shake, chain_of
from hame.maths.rotations import Array
from hame.measure.dynamics import dynamics
from hame.scene.scene import Scene

Shoved = Annotated[float, Within(-0.3, 0.3, "metres", "a blow shoves by 30 cm at most. Nothing was changed")]
Bent = Annotated[
    float, Within(radians(-60), radians(60), "radians", "a blow turns by 60° at most. Nothing was changed")
]
MOST_BENT = radians(140.0)  # of a knee, where its range does not say (common practice, no source)


@dataclass(frozen=True, kw_only=True)
class LayGive(Edit):
    """The body that goes down with a landing at ``event``, or ``before`` a take-off at it, and comes back.

    ``at`` is where the one begins that is changed by it, None for a new one. It goes no deeper than the knees bend.
    """

    kind: Literal["give"] = "give"
    at: Frame | None = None
    event: Frame
    before: bool = False
    drop: Annotated[float, Within(0.0, 2.0, "metres")] = 0.15
    there: Frames = 3
    back: Frames = 9
    muted: bool = False
    of: What = ""
    speed: Speed = 0.0

    lays = True

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        refuse_things(rig, "gives")
        if self.back <= self.there:
            raise BadEdit("a body comes back more slowly than it goes down; nothing was changed")
        length = self.there + self.back
        start = self.event - length if self.before else self.event
        refuse_outside(scene, start, start + length, "a give")
        others, flipped = beside(clip, Give, "", self.at)
        span = Give(
            start,
            start + length,
            self.muted,
            flipped,
            self.of,
            self.speed,
            self.there,
            self.back,
            self.drop,
            self.before,
        )
        refuse_meeting(span, others)
        rest = clip.with_tracks({Give.kind: others})
        seen, notes = AsIf(scene), []
        most = _deepest(seen, rest, span)
        if span.drop > most:
            span = replace(span, drop=most)
            notes.append(f"it goes {100 * most:.0f} cm down: there a knee is bent as far as it goes")
        given = rest.with_tracks({Give.kind: [*others, span]})
        if not self.before and span.counts:
            was, now = (_peak(seen, c, span, scene) for c in (rest, given))
            notes.append(f"it lands with {now:.1f} times its weight, without that with {was:.1f}")
        return Outcome(given, tuple(notes))

    def label(self, rig: Rig, scene: Scene) -> str:
        what = "Give before" if self.before else "Give at"
        return f"{'Change: ' if self.at is not None else ''}{what} {self.event}, {100 * self.drop:.0f} cm"


def _deepest(seen: AsIf, clip: Clip, span: Give) -> float:
    """How deep the body can go at most, metres, so that no knee that holds it is bent farther than it goes."""
    times = np.linspace(span.start, span.end, 4 * (span.end - span.start) + 1)
    comes = span.comes(span.start + span.end - times if span.before else times)
    posed, most = seen.posed(clip, times), np.inf
    for limb in posed.rig.limbs:
        if limb.kind != "leg":
            continue
        by_ik = posed.values[:, posed.rig.number(limb.switch)] > 0.5
        hip, foot = posed.nodes[:, limb.upper, :3], posed.nodes[:, limb.end, :3]
        least = _shortest(posed.rig, limb) * posed.nodes[:, limb.upper, 7]
        # Going straight down, it is so near when the upright part of the way between is this.
        level = np.linalg.norm((hip - foot)[:, [0, 2]], axis=1)
        upright = np.sqrt(np.maximum(least**2 - level**2, 0.0))
        room = np.where(by_ik & (comes > 0.05), np.maximum(hip[:, 1] - foot[:, 1] - upright, 0.0), np.inf)
        most = min(most, float((room / np.maximum(comes, 0.05)).min()))
    return most


def _shortest(rig: Rig, limb: Limb) -> float:
    """From hip to ankle, with the knee bent as far as it goes, metres."""
    upper, lower = limb.lengths[0], limb.lengths[1]
    number = rig.number(f"{limb.fk[1]}/rx") if rig.has_channel(f"{limb.fk[1]}/rx") else None
    bounds = [] if number is None else [abs(float(rig.low[number])), abs(float(rig.high[number]))]
    known = [bound for bound in bounds if np.isfinite(bound) and bound > radians(60)]
    bent = min(max(known, default=MOST_BENT), MOST_BENT + radians(20))
    return float(np.sqrt(upper**2 + lower**2 + 2.0 * upper * lower * np.cos(bent)))


def _peak(seen: AsIf, clip: Clip, span: Give, scene: Scene) -> float:
    """The most that it presses with from its event on, in weights."""
    frames = np.arange(max(span.start - 2, scene.start), min(span.end + 2, scene.end) + 1.0)
    if len(frames) < 3:
        return 1.0
    posed, loads = seen.laden(clip, frames)
    force = dynamics(posed.rig, posed.nodes, scene.fps, scene.gravity, loads=loads).force[:, 1]
    return float(force[frames >= span.start].max() / max(scene.gravity, 1e-9))


@dataclass(frozen=True, kw_only=True)
class LayKnock(Edit):
    """A blow that lands on a control at ``event``: it goes so far in ``there`` frames, and slowly ``back``.

    ``at`` is where the one begins that is changed by it, None for a new one. Each next link of the body has it ``late``
    frames later, by a ``factor``; planted feet stay.
    """

    kind: Literal["knock"] = "knock"
    control: ControlName
    at: Frame | None = None
    event: Frame
    there: Annotated[int, Within(1, 24, "frames")] = 2
    back: Frames = 8
    aside: Shoved = 0.0
    up: Shoved = 0.0
    forth: Shoved = -0.03
    nod: Bent = radians(-8.0)
    twist: Bent = 0.0
    tilt: Bent = 0.0
    factor: Annotated[float, Within(0.0, 1.0, "")] = 0.6
    late: Annotated[float, Within(0.0, 1.0, "frames")] = 0.5
    muted: bool = False

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        if self.back < SLOWER * self.there:
            raise BadEdit(
                f"a blow that comes in {self.there} frames goes back in {SLOWER * self.there} at least; nothing was "
                "changed"
            )
        label = rig.control(self.control).label
        if not can_shake(rig, self.control):
            raise BadEdit(f"{label} neither turns nor has a place that could be knocked. Nothing was changed")
        chain = chain_of(rig, self.control)
        if self.up and chain.rising:
            raise BadEdit(
                f"up and down {label} would take all of the trunk along: let the body give. Nothing was changed"
            )
        refuse_outside(scene, self.event, self.event + self.there + self.back, "a blow")
        others, flipped = beside(clip, Knock, self.control, self.at)
        span = Knock(
            self.event, self.event + self.there + self.back, self.muted, flipped, "", 0.0, self.there, self.back,
            self.aside, self.up, self.forth, self.nod, self.twist, self.tilt, self.factor, self.late,
        )  # fmt: skip
        refuse_meeting(span, others)
        given = clip.with_tracks({track_name(Knock.kind, self.control): [*others, span]})
        return Outcome(given, _leaves(AsIf(scene), clip, given, span))

    def label(self, rig: Rig, scene: Scene) -> str:
        name = rig.control(self.control).label if rig.has_control(self.control) else self.control
        return f"{'Change the' if self.at is not None else 'A'} blow on {name} at {self.event}"


def _leaves(seen: AsIf, before: Clip, after: Clip, span: Knock) -> tuple[str, ...]:
    """Where a blow brings the mass off what bears it, in words."""
    if not span.counts:
        return ()

    def margins(clip: Clip) -> Array:
        stands = seen.stood(clip, span.start, span.end)[1]
        return np.array([np.nan if stand.margin is None else stand.margin for stand in stands])

    was, now = margins(before), margins(after)
    if not len(now) or np.isnan(now).all():
        return ()
    worst = int(np.nanargmin(now))
    if now[worst] < 0.0 <= was[worst]:
        return (f"it brings the weight {-100 * now[worst]:.0f} cm beside what bears it at {span.start + worst}",)
    return ()
