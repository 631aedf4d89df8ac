"""Blinks: laid by hand or at quick turns, changed, taken away, or made into a layer of keys."""

from __future__ import annotations

from dataclasses import dataclass
from math import radians
from typing import Annotated, Literal

import numpy as np

from hame.character.rig import Rig
from hame.clip.blink import LONGEST, SHORTEST, Blink, blinks_of
from hame.clip.clip import Clip
from hame.edits.chosen import counted
from hame.edits.edit import Edit, Frame, Frames, Within
from hame.edits.expressions import of_face
from hame.edits.outcome import Outcome
from hame.edits.ruled import beside, into_layer, refuse_meeting, rule_at, without
from hame.edits.tying import refuse_outside
from hame.errors import BadEdit
from hame.evaluate.blink import shut_of
from hame.evaluate.gaze import looks_of
from hame.evaluate.line import played_values
from hame.evaluate.some import some_nodes
from hame.maths import rotations
from hame.maths.rotations import Array
from hame.scene.scene import Scene
from hame.scene.seen import players_for
from hame.work import refuse_samples

Long = Annotated[int, Within(SHORTEST, LONGEST, "frames")]
_NO_LIDS = (
    "nothing tells how these eyes shut: give lids to zones of the face on the character's page, or store an expression "
    "of shut eyes and choose it. Nothing was changed"
)


@dataclass(frozen=True, kw_only=True)
class LayBlink(Edit):
    """A blink from a frame; ``at`` is where the one begins that is changed by it, None for a new one.

    ``pose`` is a pose of the library in which the eyes are shut; without one the rig tells, and what is changed keeps
    what it had.
    """

    kind: Literal["blink"] = "blink"
    at: Frame | None = None
    start: Frame
    frames: Long = 4
    pose: int | None = None
    muted: bool = False

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        end = self.start + self.frames
        refuse_outside(scene, self.start, end, "a blink")
        others, flipped = beside(clip, Blink, "", self.at)
        shut: dict[str, float] = {}
        if self.at is not None:
            before = rule_at(clip, Blink, "", self.at)
            shut = dict(zip(before.shut, before.amounts, strict=True))
        if self.pose is not None:
            mine = of_face(rig)
            shut = {a: v for a, v in scene.stored_pose(self.pose).values.items() if a in mine}
            if not shut:
                raise BadEdit("this pose moves nothing of this face; nothing was changed")
        elif not shut and not shut_of(rig):
            raise BadEdit(_NO_LIDS)
        span = Blink(self.start, end, self.muted, flipped, tuple(shut), tuple(shut.values()))
        refuse_meeting(span, others)
        return Outcome(clip.with_tracks({Blink.kind: [*others, span]}))

    def label(self, rig: Rig, scene: Scene) -> str:
        return f"Blink at {self.start}" if self.at is None else f"Change the blink of {self.at}"


@dataclass(frozen=True, kw_only=True)
class DropBlinks(Edit):
    """Blinks taken away: those that begin at some frames."""

    kind: Literal["drop blinks"] = "drop blinks"
    starts: Frames

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        if not self.starts:
            raise BadEdit("no blink is named that could be taken away; nothing was changed")
        for start in self.starts:
            clip = without(clip, Blink.kind, rule_at(clip, Blink, "", start))
        return Outcome(clip)

    def label(self, rig: Rig, scene: Scene) -> str:
        return f"Take away {counted(len(self.starts), 'blink')}"


@dataclass(frozen=True, kw_only=True)
class BlinkKeys(Edit):
    """A blink made into keys, in a layer of its own."""

    kind: Literal["blink keys"] = "blink keys"
    at: Frame

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        return into_layer(clip, rig, Blink.kind, rule_at(clip, Blink, "", self.at))

    def label(self, rig: Rig, scene: Scene) -> str:
        return f"Blink of {self.at} into keys"


@dataclass(frozen=True, kw_only=True)
class BlinkAtTurns(Edit):
    """A blink wherever the eyes turn by so much within a few frames, over a stretch, where there is none yet."""

    kind: Literal["blink at turns"] = "blink at turns"
    first: Frame
    last: Frame
    least: Annotated[float, Within(radians(5.0), radians(180.0), "radians")] = radians(25.0)
    frames: Long = 4
    dear = True

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        if self.last <= self.first:
            raise BadEdit("quick turns are looked for from a frame to a later one; nothing was changed")
        if not shut_of(rig):
            raise BadEdit(_NO_LIDS)
        refuse_samples((self.last - self.first) * len(rig.channels), "quick turns")
        frames = np.arange(float(self.first), self.last + 1)
        of, players = players_for(rig, clip, scene)
        kept = list(blinks_of(clip))
        laid: list[Blink] = []
        for start in quick_turns(rig, played_values(players, frames)[of], self.least):
            begin = self.first + start
            span = Blink(begin, begin + self.frames)
            if all(span.end < other.start - self.frames or other.end + self.frames < begin for other in (*kept, *laid)):
                laid.append(span)
        if not laid:
            degrees = np.degrees(self.least)
            raise BadEdit(f"nowhere do the eyes turn by {degrees:.0f} degrees at once there; nothing was changed")
        said = f"{counted(len(laid), 'blink')} laid: {', '.join(str(span.start) for span in laid[:8])}"
        return Outcome(clip.with_tracks({Blink.kind: [*kept, *laid]}), (said,))

    def label(self, rig: Rig, scene: Scene) -> str:
        return f"Blink at quick turns, {self.first} to {self.last}"


_AT_ONCE = 5  # frames within which a turn is quick


def quick_turns(rig: Rig, values: Array, least: float) -> list[int]:
    """The rows of values (F, C), frame by frame, from which the face or an eye of it turns by ``least`` radians or more
    within five frames: of a long turn the first.

    A turn of the head is accompanied by a blink, the more surely the larger it is (Evinger and others, "Not looking
    while leaping: the linkage of blinking and saccadic gaze shifts", 1994; from memory).
    """
    looks = looks_of(rig)
    one = (looks.eyes or looks.head[-1:])[:1]
    if not one or len(values) < 2:
        return []
    turns = some_nodes(rig, (one[0].control.node,), values)[:, 0, 3:7]
    ways = rotations.rotate(turns, np.array([0.0, 0.0, 1.0]))
    found, row = [], 0
    while row < len(ways) - 1:
        until = min(row + _AT_ONCE, len(ways) - 1)
        angles = np.arccos(np.clip(ways[row + 1 : until + 1] @ ways[row], -1.0, 1.0))
        if angles.max() >= least:
            while row + 1 < until and float(np.arccos(np.clip(ways[row] @ ways[row + 1], -1, 1))) < least / 10.0:
                row += 1  # it begins where it moves
            found.append(row)
            row = until
        row += 1
    return found
