"""Living holds: laid over a stretch, changed, taken away, or made into a layer of few keys."""

from __future__ import annotations

from dataclasses import dataclass
from math import degrees, radians
from typing import Annotated, Literal

import numpy as np

from hame.character.rig import Rig
from hame.clip import layers
from hame.clip.clip import Clip
from hame.clip.curve import Curve, from_table
from hame.clip.key import BEZIER, FRAME, SHAPE, STEP, VALUE, no_keys
from hame.clip.living import Living, livings_of
from hame.clip.played import played_spans
from hame.edits.chosen import counted
from hame.edits.cleaning import fitted_table
from hame.edits.edit import Edit, Frame, Within
from hame.edits.layers import new_layer
from hame.edits.outcome import Outcome
from hame.edits.tying import refuse_outside
from hame.errors import BadEdit
from hame.evaluate.line import keyed_values
from hame.evaluate.players import Player
from hame.evaluate.rules import added
from hame.maths.thinning import BETWEEN, SUB, between_frames, thinned
from hame.scene.scene import Scene
from hame.work import refuse_samples

# A living hold is no move (common practice, no source): slower than this a figure still counts as standing.
MOST_TURN = radians(0.6)
MOST_SHIFT = 0.002  # metres a frame
_TURNED = Within(
    0.0, radians(8.0), "radians", "a living hold turns no part by more than 8 degrees. Nothing was changed"
)
_SHIFTED = Within(0.0, 0.04, "metres", "a living hold shifts the body by 40 mm at most. Nothing was changed")
Turned = Annotated[float, _TURNED]
_FEW = {"m": 0.0001, "rad": 0.0005, "": 0.0005}


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
            before = living_at(clip, self.at)
            others.remove(before)
            flipped = before.flipped
        span = Living(
            self.start, self.end, self.breath, self.trunk, self.head, self.arms, self.shift, self.period, self.seed,
            self.fade, self.muted, flipped,
        )  # fmt: skip
        turn, shift = span.fastest()
        said = f"{degrees(turn):.2f} degrees and {1000 * shift:.2f} mm a frame"
        if turn > MOST_TURN or shift > MOST_SHIFT:
            raise BadEdit(
                f"that would move by up to {said}, which is no hold any more ({degrees(MOST_TURN):g} degrees, "
                f"{1000 * MOST_SHIFT:g} mm): a longer period, a longer fade or less of it. Nothing was changed"
            )
        met = next((other for other in others if other.start <= span.end and other.end >= span.start), None)
        if met is not None:
            raise BadEdit(
                f"a living hold lies from {met.start} to {met.end} already; change that one, or let this one end "
                "before it or begin after it. Nothing was changed"
            )
        return Outcome(clip.with_tracks({Living.kind: [*others, span]}), (f"it never moves by more than {said}",))

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
        return Outcome(_without(clip, living_at(clip, self.at)))

    def label(self, rig: Rig, scene: Scene) -> str:
        return f"Take away the living hold of {self.at}"


@dataclass(frozen=True, kw_only=True)
class LivingKeys(Edit):
    """A living hold made into keys, as few as hold it, in a layer of its own; the motion stays what it is."""

    kind: Literal["living keys"] = "living keys"
    at: Frame

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        span = living_at(clip, self.at)
        if not span.counts:
            raise BadEdit("this living hold moves nothing: it is muted, or of no amount. Nothing was changed")
        if len(played_spans(clip, rig, Living.kind, -1e9, 1e9)[Living.kind]) > len(livings_of(clip)):
            raise BadEdit("a cycle shows living holds again; free the cycle first. Nothing was changed")
        refuse_samples(SUB * (span.end - span.start) * len(rig.channels), "a living hold made into keys")
        times = between_frames(span.start, span.end)
        alone = clip.with_tracks({Living.kind: (span,)})
        over = added(Player(rig, alone), times, keyed_values(rig, clip, times))
        laid, number = new_layer(_without(clip, span), "Living hold", turned=False)
        curves: dict[str, Curve] = {}
        for n, channel in enumerate(rig.channels):
            if np.abs(over[:, n]).max() > 0.0:
                keys, handles = thinned(over[None, :, n], np.array([BETWEEN * _FEW[channel.unit]]), None, SUB)[0]
                table = fitted_table(
                    np.asarray(keys, float) + span.start,
                    over[SUB * keys, n],
                    handles,
                    np.full(len(keys), float(BEZIER)),
                )
                curves[layers.address_in(number, channel.address)] = from_table(_ended(table))
        count = sum(len(curve) for curve in curves.values())
        note = f"{counted(count, 'key')} of {counted(len(curves), 'channel')} in a layer of its own"
        return Outcome(laid.with_curves(dict(curves)), (note,))

    def label(self, rig: Rig, scene: Scene) -> str:
        return f"Living hold of {self.at} into keys"


def living_at(clip: Clip, start: int) -> Living:
    """The living hold that begins at a frame; raises :class:`BadEdit` where none does."""
    for span in livings_of(clip):
        if span.start == start:
            return span
    raise BadEdit(f"no living hold begins at {start}; it may have been changed meanwhile. Nothing was changed")


def _without(clip: Clip, span: Living) -> Clip:
    return clip.with_tracks({Living.kind: [other for other in livings_of(clip) if other is not span]})


def _ended(table: np.ndarray) -> np.ndarray:
    """The keys with nothing before the first and after the last, where these are not at nothing themselves."""
    parts = [table]
    for row, by in ((0, -1), (-1, 1)):
        if table[row, VALUE] != 0.0:
            end = np.zeros((1, table.shape[1]))
            end[0, FRAME], end[0, SHAPE] = table[row, FRAME] + by, STEP
            parts.insert(0 if by < 0 else len(parts), end)
    return np.concatenate([no_keys(), *parts])
