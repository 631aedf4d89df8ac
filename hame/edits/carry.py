"""A motion carried to another figure, with a layer over it to be adjusted in."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Annotated, Literal

import numpy as np

from hame.character.rig import PLACE, Rig
from hame.clip.belonging import Belonging
from hame.clip.clip import Clip
from hame.clip.curve import IN_VALUE, OUT_VALUE, VALUE, Curve, from_table
from hame.clip.cycle import Cycle
from hame.clip.layers import LONGEST_NAME, Layer, own_curves
from hame.clip.plants import Plant
from hame.clip.spans import OWN, Span, control_of
from hame.edits.chosen import addresses_of, counted
from hame.edits.edit import AtMost, Controls, Edit
from hame.edits.layers import new_layer
from hame.edits.library import size_of
from hame.edits.outcome import Outcome
from hame.edits.tying import FigureNumber
from hame.errors import BadEdit
from hame.scene.scene import Scene


def carry_motion(clip: Clip, rig: Rig, scene: Scene, edit: CarryMotion) -> Outcome:
    """See :class:`CarryMotion`."""
    if edit.figure in (OWN, scene.of):
        raise BadEdit("a motion is carried from one figure to another one; nothing was changed")
    source = scene.figure(edit.figure)
    allowed = None if edit.controls is None else set(addresses_of(rig, edit.controls))
    ratio = size_of(rig) / max(size_of(source.rig), 1e-6)
    master = source.rig.controls[0].name
    changes: dict[str, Curve | None] = {}
    absent: set[str] = set()
    stopped: set[str] = set()
    for address, curve in own_curves(source.clip.curves).items():
        if allowed is not None and address not in allowed:
            continue
        if not rig.has_channel(address):
            absent.add(address.rsplit("/", 1)[0])
            continue
        channel = rig.channels[rig.number(address)]
        if channel.locked or (channel.control == master and not edit.with_master):
            continue
        table = curve.table.copy()
        if channel.kind == PLACE:
            table[:, [VALUE, IN_VALUE, OUT_VALUE]] *= ratio
        kept = np.clip(table[:, VALUE], channel.low, channel.high)
        if np.abs(kept - table[:, VALUE]).max() > 1e-9:
            stopped.add(channel.control)
        table[:, VALUE] = kept
        changes[address] = from_table(table)
    if not changes:
        raise BadEdit(f"nothing that {source.name or 'the other figure'} does fits what is chosen; nothing was changed")
    clip = clip.with_curves(changes)
    notes = [f"{counted(len(changes), 'channel')} of {source.name or 'the other figure'} carried over"]
    if allowed is None:
        clip = clip.with_labels({**dict.fromkeys(clip.labels), **source.clip.labels})
        clip = clip.with_tracks(_tracks(clip, rig, source.clip, ratio, edit.with_master))
    if absent:
        notes.append(f"not on this rig: {', '.join(sorted(absent)[:4])}" + (" …" if len(absent) > 4 else ""))
    if stopped:
        notes.append(f"stopped at limits of this rig: {', '.join(sorted(stopped)[:4])}")
    if abs(ratio - 1.0) > 0.005:
        notes.append(f"places are {ratio:.2f} times as large, as the legs are long")
    if edit.name.strip():
        clip, number = new_layer(clip, edit.name)
        notes.append(f"pose in the layer {edit.name.strip()} to adjust it (it is number {number})")
    return Outcome(clip, tuple(notes))


def _tracks(clip: Clip, rig: Rig, source: Clip, ratio: float, with_master: bool) -> dict[str, tuple[Span, ...]]:
    """What lies beside the keys of the motion, in place of what lay beside one's own; layers and owners stay."""
    laid: dict[str, tuple[Span, ...]] = {
        track: () for track, spans in clip.tracks.items() if any(isinstance(s, Plant | Cycle) for s in spans)
    }
    for track, spans in source.tracks.items():
        if any(isinstance(span, Layer | Belonging) for span in spans):
            continue
        control = control_of(track)
        if control and not rig.has_control(control):
            continue
        found: list[Span] = []
        for span in spans:
            if isinstance(span, Cycle):
                span = replace(span, travel=tuple(way * ratio * with_master for way in span.travel))  # type: ignore[arg-type]
            if isinstance(span, Plant) and span.thing:
                continue  # what it stands on stands where the other figure is
            found.append(span)
        laid[track] = tuple(found)
    return laid


@dataclass(frozen=True, kw_only=True)
class CarryMotion(Edit):
    """The motion of another figure of the cast carried to this one, channel by channel, in its proportions.

    A layer of a ``name`` is laid over it, to be adjusted in; none without one. What one's own keys were is replaced.
    """

    kind: Literal["carry"] = "carry"
    figure: FigureNumber
    with_master: bool = False
    controls: Controls = None
    name: Annotated[str, AtMost(LONGEST_NAME)] = "Fitting"

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        return carry_motion(clip, rig, scene, self)

    def label(self, rig: Rig, scene: Scene) -> str:
        return f"Carry the motion of {scene.figure(self.figure).name or 'another figure'}"
