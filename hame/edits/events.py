"""Lead and delay for one event: parts that trail, lead or come together over a stretch, and nothing beyond it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Annotated, Literal

import numpy as np

from hame.character.rig import Rig
from hame.clip.clip import Clip
from hame.clip.curve import Curve, from_table, split_at
from hame.clip.key import FRAME, FREE_BOTH, HANDLES, Array, whole_frame
from hame.edits.chosen import counted, listed, refuse_derived
from hame.edits.edit import AtMost, Edit, Frame, controls_said
from hame.edits.outcome import Outcome
from hame.edits.overlap import Trail
from hame.errors import BadEdit
from hame.measure.keyed import whole_columns
from hame.scene.scene import Scene
from hame.work import refuse_samples


def stretch_of(clip: Clip, pose: int) -> tuple[int, int]:
    """The frames about a pose: from the one before it to the next, by names or else by whole columns.

    Raises
    ------
    BadEdit
        If there is none on one side, so that nothing would end the event.
    """
    poses = sorted({*clip.labels, *whole_columns(clip)} - {pose})
    before, after = [f for f in poses if f < pose], [f for f in poses if f > pose]
    if not before or not after:
        side = "before" if not before else "after"
        raise BadEdit(
            f"there is no pose {side} {pose}, so that the event has no {'beginning' if side == 'before' else 'end'}; "
            "choose its first and last column instead. Nothing was changed"
        )
    return before[-1], after[0]


def delay_event(
    clip: Clip, rig: Rig, chain: Sequence[Trail], first: int, last: int, together: int | None = None
) -> Outcome:
    """Shifts keys between two frames, which stay what they are, as does everything beyond them.

    Parameters
    ----------
    chain : parts that trail or (below zero) lead by so many frames; their amplitude is left alone
    together : the frame that the key of each channel that is nearest to it comes to lie on, the others along with it,
        instead of the chain's frames

    Keys that would come to one of the frames or beyond it are overtaken by what stays there, and left out.

    Raises
    ------
    BadEdit
        If no key lies between the frames, all those of a channel would leave them, or some are shown from elsewhere by
        a cycle.
    """
    first, last = whole_frame(first), whole_frame(last)
    if last - first < 2:
        raise BadEdit(f"no frame lies between {first} and {last}; nothing was changed")
    refuse_samples(last - first, "an event")
    refuse_derived(clip, range(first, last + 1))
    changes: dict[str, Curve | None] = {}
    beyond: set[int] = set()
    overtaken: set[int] = set()
    for link in chain:
        for address in (c.address for name in link.controls for c in rig.channels_of(name)):
            curve = clip.curves.get(address)
            if curve is None:
                continue
            frames = curve.frames
            mine = frames[(frames > first) & (frames < last)]
            if not len(mine):
                continue
            by = link.frames if together is None else together - int(mine[np.argmin(np.abs(mine - together))])
            out = mine[(mine + by <= first) | (mine + by >= last)]
            (beyond if len(out) == len(mine) else overtaken).update(out.astype(int).tolist())
            if by and len(out) < len(mine):
                changes[address] = from_table(_shifted(curve.table, first, last, by))
    if beyond:
        raise BadEdit(
            f"keys at {listed(sorted(beyond))} would leave the stretch from {first} to {last}: fewer frames, or a "
            "longer stretch. Nothing was changed"
        )
    if not changes:
        raise BadEdit(f"no key of these parts would move between {first} and {last}; nothing was changed")
    said = f"{counted(len(changes), 'channel')} between {first} and {last}"
    if overtaken:
        said += f"; keys at {listed(sorted(overtaken))} were overtaken by the end of that and are left out"
    return Outcome(clip.with_curves(changes), (said,))


def _shifted(table: Array, first: int, last: int, by: int) -> Array:
    """The table with its keys between two frames shifted, and the same curve as before on both sides of these."""
    for edge in (first, last):
        if table[0, FRAME] < edge < table[-1, FRAME] and edge not in table[:, FRAME]:
            table = split_at(table, edge)
    table = table.copy()
    frames = table[:, FRAME]
    # What would be laid anew by keys that lie elsewhere now is held as it is: the ends, and the keys beyond them.
    held = (frames <= first) & (frames >= max((f for f in frames if f < first), default=first))
    held |= (frames >= last) & (frames <= min((f for f in frames if f > last), default=last))
    table[held, HANDLES] = FREE_BOTH
    inside = (frames > first) & (frames < last)
    table[inside, FRAME] += by
    return table[~inside | ((table[:, FRAME] > first) & (table[:, FRAME] < last))]


@dataclass(frozen=True, kw_only=True)
class DelayEvent(Edit):
    """Parts that trail, lead or come together at one event.

    It lasts from ``first`` to ``last``; about one pose, ``about``, it lasts from the pose before to the next.
    ``together`` brings the keys of the parts onto the pose, or else onto the middle one of those that they have.
    """

    kind: Literal["delay event"] = "delay event"
    chain: Annotated[tuple[Trail, ...], AtMost(50)]
    first: Frame | None = None
    last: Frame | None = None
    about: Frame | None = None
    together: bool = False

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        if not self.chain:
            raise BadEdit("no part is chosen to delay")
        first, last = self.first, self.last
        if self.about is not None and (first is None or last is None):
            first, last = stretch_of(clip, self.about)
        if first is None or last is None:
            raise BadEdit("choose the pose of the event, or its first and last frame. Nothing was changed")
        onto = None
        if self.together:
            onto = self.about if self.about is not None else _middle(clip, rig, self.chain, first, last)
        return delay_event(clip, rig, self.chain, first, last, onto)

    def label(self, rig: Rig, scene: Scene) -> str:
        names = [name for link in self.chain for name in link.controls]
        when = f"at {self.about}" if self.about is not None else f"from {self.first} to {self.last}"
        return f"{'Together' if self.together else 'Delay'} of {controls_said(rig, names)} {when}"


def _middle(clip: Clip, rig: Rig, chain: Sequence[Trail], first: int, last: int) -> int:
    """The frame in the middle of those on which parts have keys between two frames."""
    names = [c.address for link in chain for name in link.controls for c in rig.channels_of(name)]
    tables = [clip.curves[a].frames for a in names if a in clip.curves]
    frames = np.concatenate([f[(f > first) & (f < last)] for f in tables]) if tables else np.zeros(0)
    if not len(frames):
        raise BadEdit(f"these parts have no key between {first} and {last}; nothing was changed")
    return int(np.sort(frames)[len(frames) // 2])
