"""A motion carried to another figure, with a layer over it to be adjusted in."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Literal

import numpy as np

from hame.character.rig import PLACE, Rig
from hame.clip.clip import Clip
from hame.clip.curve import Curve, from_keys, from_table
from hame.clip.key import FRAME, IN_VALUE, OUT_VALUE, VALUE, Array
from hame.clip.layers import LONGEST_NAME, layers_of, own_curves
from hame.clip.sampling import sample_curve
from hame.clip.spans import OWN, Span, control_of
from hame.edits.chosen import addresses_of, counted
from hame.edits.edit import AtMost, Controls, Edit
from hame.edits.layers import new_layer
from hame.edits.library import size_of
from hame.edits.outcome import Outcome
from hame.edits.tying import FigureNumber
from hame.errors import BadEdit
from hame.evaluate.line import laid_value
from hame.scene.scene import Figure, Scene

Way = Literal["in place", "from here", "along"]


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
        if channel.locked or (channel.control == master and edit.way != "along"):
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
    start = Start.of(clip, rig, source, ratio)
    if edit.way == "from here" and (allowed is None or f"{rig.controls[0].name}/tx" in allowed):
        changes |= start.way(rig, source)
    clip = clip.with_curves(changes)
    notes = [f"{counted(len(changes), 'channel')} of {source.name or 'the other figure'} carried over"]
    if allowed is None:
        clip = clip.with_labels({**dict.fromkeys(clip.labels), **source.clip.labels})
        clip = clip.with_tracks(_tracks(clip, rig, source.clip, _Going(start, edit.way)))
    if absent:
        notes.append(f"not on this rig: {', '.join(sorted(absent)[:4])}" + (" …" if len(absent) > 4 else ""))
    if stopped:
        notes.append(f"stopped at limits of this rig: {', '.join(sorted(stopped)[:4])}")
    if abs(ratio - 1.0) > 0.005:
        notes.append(f"places are {ratio:.2f} times as large, as the legs are long")
    if edit.name.strip():
        name = edit.name.strip()
        known = next((n for n, layer in layers_of(clip).items() if layer.name == name), None)
        if known is None:  # a second try goes on with the layer of the first
            clip, known = new_layer(clip, edit.name)
        number = known
        notes.append(f"pose in the layer {edit.name.strip()} to adjust it (it is number {number})")
    return Outcome(clip, tuple(notes))


@dataclass(frozen=True)
class Start:
    """Where a figure and the one whose motion it takes stand when that begins.

    Attributes
    ----------
    mine, theirs : places (3,) of the masters
    turn : how far mine is turned from theirs about the vertical, radians
    ratio : of the lengths of their legs
    """

    mine: Array
    theirs: Array
    turn: float
    ratio: float

    @classmethod
    def of(cls, clip: Clip, rig: Rig, source: Figure, ratio: float) -> Start:
        frames = source.clip.key_frames()
        at = float(frames[0]) if frames else 1.0
        places = []
        for one_rig, one_clip in ((rig, clip), (source.rig, source.clip)):
            master = one_rig.controls[0].name
            places.append(
                np.array([laid_value(one_rig, one_clip, f"{master}/{c}", at) for c in ("tx", "ty", "tz", "ry")])
            )
        mine, theirs = places
        return cls(mine[:3], theirs[:3], float(mine[3] - theirs[3]), ratio)

    def turned(self, way: Array) -> Array:
        """Ways (K, 2) over the ground, x and z, as they go from here: in proportion, and by one's own heading."""
        c, s = np.cos(self.turn), np.sin(self.turn)
        return self.ratio * np.stack([c * way[:, 0] + s * way[:, 1], c * way[:, 1] - s * way[:, 0]], axis=1)

    def way(self, rig: Rig, source: Figure) -> dict[str, Curve | None]:
        """The curves of the master that go from here as the other one goes from there."""
        theirs, mine = source.rig.controls[0].name, rig.controls[0].name
        found: dict[str, Curve | None] = {}
        ground = [source.clip.curves.get(f"{theirs}/{c}") for c in ("tx", "tz")]
        keyed = [curve for curve in ground if curve is not None]
        if keyed:
            frames = np.unique(np.concatenate([curve.table[:, FRAME] for curve in keyed]))
            rest = (self.theirs[0], self.theirs[2])
            there = np.stack([
                np.full(len(frames), at) if curve is None else sample_curve(curve, frames)
                for curve, at in zip(ground, rest, strict=True)
            ], axis=1)  # fmt: skip
            goes = self.turned(there - np.array(rest)) + self.mine[[0, 2]]
            for n, name in enumerate(("tx", "tz")):
                found[f"{mine}/{name}"] = from_keys(
                    dict(zip(frames.astype(int).tolist(), goes[:, n].tolist(), strict=True))
                )
        for name, by in (("ty", self.mine[1] - self.ratio * self.theirs[1]), ("ry", self.turn)):
            curve = source.clip.curves.get(f"{theirs}/{name}")
            if curve is not None:
                table = curve.table.copy()
                if name == "ty":
                    table[:, [VALUE, IN_VALUE, OUT_VALUE]] *= self.ratio
                table[:, VALUE] += by
                found[f"{mine}/{name}"] = from_table(table)
        return found

    def travel(self, way: tuple[float, float], how: Way) -> tuple[float, float]:
        """How a cycle travels that is carried so."""
        if how == "in place":
            return 0.0, 0.0
        if how == "along":
            return self.ratio * way[0], self.ratio * way[1]
        x, z = self.turned(np.array([way]))[0].tolist()
        return x, z


@dataclass(frozen=True)
class _Going:
    """How spans are carried: by the start of a motion and the way that is chosen."""

    start: Start
    way: Way

    @property
    def in_place(self) -> bool:
        return self.way == "in place"

    def travel(self, by: tuple[float, float]) -> tuple[float, float]:
        return self.start.travel(by, self.way)


def _tracks(clip: Clip, rig: Rig, source: Clip, going: _Going) -> dict[str, tuple[Span, ...]]:
    """What lies beside the keys of the motion, in place of what lay beside one's own; what stays is left as it is."""
    laid: dict[str, tuple[Span, ...]] = {
        track: () for track, spans in clip.tracks.items() if any(not span.stays for span in spans)
    }
    for track, spans in source.tracks.items():
        control = control_of(track)
        if any(span.stays for span in spans) or (control and not rig.has_control(control)):
            continue
        carried = [span.carried_to(going) for span in spans]
        laid[track] = tuple(span for span in carried if span is not None)
    return laid


@dataclass(frozen=True, kw_only=True)
class CarryMotion(Edit):
    """The motion of another figure of the cast carried to this one, channel by channel, in its proportions.

    ``way``: in place, without its way over the ground and its plants; from here, with its way begun where this figure
    stands and as it faces; along, on the way of the other one.

    A layer of a ``name`` is laid over it, to be adjusted in; none without one. What one's own keys were is replaced.
    """

    kind: Literal["carry"] = "carry"
    figure: FigureNumber
    way: Way = "from here"
    controls: Controls = None
    name: Annotated[str, AtMost(LONGEST_NAME)] = "Fitting"

    dear = True

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        return carry_motion(clip, rig, scene, self)

    def label(self, rig: Rig, scene: Scene) -> str:
        return f"Carry the motion of {scene.figure(self.figure).name or 'another figure'}"
