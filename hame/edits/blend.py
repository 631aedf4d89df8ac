"""Breakdowns between two poses, and poses made stronger or weaker."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Annotated, Literal

import numpy as np

from hame.character.rig import Rig
from hame.clip.clip import Clip
from hame.clip.key import BEZIER, FRAME, SHAPES, ShapeName, whole_frame
from hame.edits.chosen import played_of, refuse_derived
from hame.edits.edit import Controls, Edit, Frame, Within, of_said
from hame.edits.outcome import Outcome
from hame.edits.pose import Keying, set_pose
from hame.errors import BadEdit
from hame.scene.scene import Scene
from hame.scene.seen import keyed_values_at

SHARE = Within(-0.5, 1.5, "share", "a breakdown lies from -50% to 150% of the way; {value:.0%} was not laid")
DEGREE = Within(-1.0, 2.0, "share", "a pose is changed by -100% to 200% of itself; {value:.0%} was not laid")


def breakdown_values(
    clip: Clip, rig: Rig, frame: int, share: float, controls: Iterable[str] | None = None
) -> dict[str, float]:
    """The pose that lies ``share`` of the way from each channel's key before ``frame`` to the one after it.

    0 is the pose before, 1 the one after, 0.5 half way; -0.5 to 1.5 go
    beyond them. Values that would pass a limit stop there.

    Raises
    ------
    BadEdit
        If the share is out of range, or no channel has keys on both sides.
    """
    frame = whole_frame(frame)
    SHARE.check(share)
    found: dict[str, float] = {}
    for address, curve in played_of(clip, rig, controls, frame, frame).items():
        channel = rig.channels[rig.number(address)]
        frames = curve.table[:, FRAME]
        before, after = int(np.searchsorted(frames, frame)) - 1, int(np.searchsorted(frames, frame, side="right"))
        if channel.locked or before < 0 or after >= len(frames):
            continue
        a, b = curve.table[before, 1], curve.table[after, 1]
        found[address] = float(np.clip(a + share * (b - a), channel.low, channel.high))
    if not found:
        raise BadEdit(f"a breakdown needs a key before and one after frame {frame}; nothing was laid")
    return found


def lay_breakdown(
    clip: Clip, rig: Rig, frame: int, share: float, keying: Keying, controls: Iterable[str] | None = None,
    shape: int = BEZIER,
) -> Outcome:  # fmt: skip
    """Poses a breakdown at a frame; see :func:`breakdown_values`."""
    refuse_derived(clip, [frame])
    return set_pose(
        clip, rig, frame, breakdown_values(clip, rig, frame, share, controls), keying, shape=shape, as_keyed=True
    )


def exaggerated_values(
    clip: Clip,
    rig: Rig,
    frame: int,
    degree: float,
    controls: Iterable[str] | None = None,
    against: Literal["neighbours", "rest"] = "neighbours",
) -> dict[str, float]:
    """The pose at a frame made stronger (``degree`` above 0) or weaker (below, -1 takes all of it away).

    What is scaled is the difference from the way its neighbouring keys would
    take without it, in time, or from ``rest``.
    """
    frame = whole_frame(frame)
    DEGREE.check(degree)
    now = keyed_values_at(rig, clip, frame)
    found: dict[str, float] = {}
    for address, curve in played_of(clip, rig, controls, frame, frame).items():
        channel = rig.channels[rig.number(address)]
        if channel.locked:
            continue
        value = float(now[rig.number(address)])
        base = channel.rest
        if against == "neighbours":
            rest = curve.table[curve.table[:, FRAME] != frame]
            if not len(rest):
                continue
            base = float(np.interp(frame, rest[:, FRAME], rest[:, 1]))
        found[address] = float(np.clip(base + (1.0 + degree) * (value - base), channel.low, channel.high))
    if not found:
        raise BadEdit(f"there is nothing keyed to measure the pose at {frame} against; nothing was changed")
    return found


def exaggerate(
    clip: Clip, rig: Rig, frame: int, degree: float, keying: Keying, controls: Iterable[str] | None = None,
    against: Literal["neighbours", "rest"] = "neighbours",
) -> Outcome:  # fmt: skip
    """Makes the pose at a frame stronger or weaker; see :func:`exaggerated_values`."""
    refuse_derived(clip, [frame])
    return set_pose(
        clip, rig, frame, exaggerated_values(clip, rig, frame, degree, controls, against), keying, as_keyed=True
    )


@dataclass(frozen=True, kw_only=True)
class Breakdown(Edit):
    """A pose between the keys before and after."""

    kind: Literal["breakdown"] = "breakdown"
    frame: Frame
    share: Annotated[float, SHARE]
    controls: Controls = None
    keying: Keying = "changed"
    shape: ShapeName = "smooth"

    poses = True

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        shape = SHAPES[self.shape]
        return lay_breakdown(clip, rig, self.frame, self.share, self.keying, self.controls, shape)

    def label(self, rig: Rig, scene: Scene) -> str:
        return f"Breakdown {self.share:.0%} at {self.frame}{of_said(rig, self.controls)}"


@dataclass(frozen=True, kw_only=True)
class Exaggerate(Edit):
    """A pose made stronger or weaker."""

    kind: Literal["exaggerate"] = "exaggerate"
    frame: Frame
    degree: Annotated[float, DEGREE]
    against: Literal["neighbours", "rest"] = "neighbours"
    controls: Controls = None
    keying: Keying = "changed"

    poses = True

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        return exaggerate(clip, rig, self.frame, self.degree, self.keying, self.controls, self.against)

    def label(self, rig: Rig, scene: Scene) -> str:
        way = "Exaggerate" if self.degree >= 0 else "Tone down"
        return f"{way} by {abs(self.degree):.0%} at {self.frame}{of_said(rig, self.controls)}"
