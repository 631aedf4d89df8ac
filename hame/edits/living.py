"""Living holds: laid over a stretch, changed, taken away, or made into a layer of few keys."""

from __future__ import annotations

from dataclasses import dataclass
from math import degrees, radians
from typing import Annotated, Literal

from hame.character.rig import Rig
from hame.clip.clip import Clip
from hame.clip.living import Living, livings_of
from hame.edits.edit import Edit, Frame, Within
from hame.edits.outcome import Outcome
from hame.edits.ruled import into_layer, refuse_meeting, rule_at, without
from hame.edits.tying import refuse_outside
from hame.errors import BadEdit
from hame.evaluate.living import stands
from hame.evaluate.players import Player
from hame.scene.scene import Scene

# A living hold is no move (common practice, no source): slower than this a figure still counts as standing.
MOST_TURN = radians(0.6)
MOST_SHIFT = 0.002  # metres a frame
_TURNED = Within(
    0.0, radians(8.0), "radians", "a living hold turns no part by more than 8 degrees. Nothing was changed"
)
_SHIFTED = Within(0.0, 0.04, "metres", "a living hold shifts the body by 40 mm at most. Nothing was changed")
Turned = Annotated[float, _TURNED]


@dataclass(frozen=True, kw_only=True)
class LayLiving(Edit):
    """A living hold over some frames; ``at`` is where the one begins that is changed by it, None for a new one."""

    kind: Literal["living"] = "living"
    at: Frame | None = None
    start: Frame
    end: Frame
    breath: Turned = radians(0.8)
    trunk: Turned = radians(0.6)
    head: Turned = radians(0.8)
    arms: Turned = radians(0.6)
    shift: Annotated[float, _SHIFTED] = 0.004
    period: Annotated[int, Within(8, 2000, "frames")] = 72
    seed: Annotated[int, Within(0, 1_000_000, "")] = 1
    fade: Annotated[int, Within(0, 500, "frames")] = 12
    muted: bool = False

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        if self.end <= self.start:
            raise BadEdit("a living hold lasts for two frames or more; nothing was changed")
        refuse_outside(scene, self.start, self.end, "a living hold")
        others = list(livings_of(clip))
        flipped = False
        if self.at is not None:
            before = rule_at(clip, Living, "", self.at)
            others.remove(before)
            flipped = before.flipped
        span = Living(
            self.start, self.end, self.muted, flipped, self.breath, self.trunk, self.head, self.arms, self.shift,
            self.period, self.seed, self.fade,
        )  # fmt: skip
        turn, shift = span.fastest()
        said = f"{degrees(turn):.2f} degrees and {1000 * shift:.2f} mm a frame"
        if turn > MOST_TURN or shift > MOST_SHIFT:
            raise BadEdit(
                f"that would move by up to {said}, which is no hold any more ({degrees(MOST_TURN):g} degrees, "
                f"{1000 * MOST_SHIFT:g} mm): a longer period, a longer fade or less of it. Nothing was changed"
            )
        refuse_meeting(span, others)
        laid = clip.with_tracks({Living.kind: [*others, span]})
        notes = [f"it never moves by more than {said}"]
        if span.shift and not stands(Player(rig, laid), span):
            notes.append("the body keeps its place: a leg is posed by FK there, or changes between IK and FK")
        return Outcome(laid, tuple(notes))

    def label(self, rig: Rig, scene: Scene) -> str:
        if self.at is None:
            return f"Living hold {self.start} to {self.end}"
        before = next((s for s in livings_of(scene.figure(scene.of).clip) if s.start == self.at), None)
        if before is not None and before.muted != self.muted:
            return f"{'Mute' if self.muted else 'Unmute'} the living hold {self.start} to {self.end}"
        return f"Change the living hold {self.start} to {self.end}"


@dataclass(frozen=True, kw_only=True)
class DropLiving(Edit):
    """A living hold taken away."""

    kind: Literal["drop living"] = "drop living"
    at: Frame

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        return Outcome(without(clip, Living.kind, rule_at(clip, Living, "", self.at)))

    def label(self, rig: Rig, scene: Scene) -> str:
        return f"Take away the living hold of {self.at}"


@dataclass(frozen=True, kw_only=True)
class LivingKeys(Edit):
    """A living hold made into keys, as few as hold it, in a layer of its own; the motion stays what it is."""

    kind: Literal["living keys"] = "living keys"
    at: Frame

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        return into_layer(clip, rig, Living.kind, rule_at(clip, Living, "", self.at))

    def label(self, rig: Rig, scene: Scene) -> str:
        return f"Living hold of {self.at} into keys"
