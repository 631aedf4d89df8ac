"""Layers laid over a motion: made, weighed, muted, put in order, merged; and poses made in one."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Annotated, Any, Literal

import numpy as np

from hame.character.rig import Rig
from hame.clip import layers
from hame.clip.clip import Clip
from hame.clip.curve import (
    Curve,
    from_keys,
    from_table,
    with_keys,
)  # fmt: skip
from hame.clip.cycles import cycle_at
from hame.clip.layer import Layer
from hame.edits.chosen import counted
from hame.edits.cleaning import fitted_table
from hame.edits.cycles import free_cycle, make_cycle
from hame.edits.edit import AtMost, Edit, Frame, Names, Within
from hame.edits.outcome import Outcome
from hame.errors import BadEdit
from hame.evaluate.line import keyed_values
from hame.maths.thinning import BETWEEN, SUB, between_frames, thinned
from hame.scene.scene import Scene
from hame.work import refuse_samples

Name = Annotated[str, AtMost(layers.LONGEST_NAME)]
Number = Annotated[int, Within(1, 1_000_000, "")]
WEIGHT = Within(0.0, 1.0, "share", "a layer counts by 0 to 100%, not by {value:.0%}. Nothing was changed")
LEAST_WEIGHT = 1e-3
_SAME = 1e-9
_ALIKE = 2e-5  # metres and radians: so near a difference between two sides is told
_MERGED = {"m": 0.0001, "rad": 0.0005, "": 0.0005}


def free_number(clip: Clip) -> int:
    """The number for one layer more: one that none has, of those that have left keys behind either."""
    used = {n for address in clip.curves if (n := layers.parted(address)[0])}
    return 1 + max([0, *used, *layers.layers_of(clip)])


def new_layer(clip: Clip, name: str, controls: tuple[str, ...] = (), turned: bool = True) -> tuple[Clip, int]:
    """The clip with one layer more above all others, and its number.

    ``turned`` tells how it lays on what turns: as a whole, or angle by angle.

    Raises
    ------
    BadEdit
        If there are as many as there may be.
    """
    there = layers.layers_of(clip)
    if len(there) >= layers.MOST:
        raise BadEdit(f"there are {layers.MOST} layers already; merge some first. Nothing was changed")
    number = free_number(clip)
    place = 1 + max((layer.place for layer in there.values()), default=0)
    name = name.strip()[: layers.LONGEST_NAME] or f"Layer {number}"
    return layers.with_layer(
        clip, number, Layer(0, 0, name=name, place=place, controls=controls, turned=turned)
    ), number


@dataclass(frozen=True, kw_only=True)
class AddLayer(Edit):
    """A layer more, above all others: of some controls, or of all.

    ``turned``: what it turns is turned as a whole, a nod about the head's own ears wherever it looks; otherwise each
    angle is added to the one below.
    """

    kind: Literal["add layer"] = "add layer"
    name: Name = ""
    controls: Names = ()
    turned: bool = True

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        for control in self.controls:
            rig.control(control)
        return Outcome(new_layer(clip, self.name, self.controls, self.turned)[0])

    def label(self, rig: Rig, scene: Scene) -> str:
        return f"Layer {self.name or 'added'}"


@dataclass(frozen=True, kw_only=True)
class ChangeLayer(Edit):
    """What a layer is called, whether it counts, what it is of, how it turns (see :class:`AddLayer`), and how far up it
    lies; None leaves it as it is.
    """

    kind: Literal["change layer"] = "change layer"
    number: Number
    name: Name | None = None
    muted: bool | None = None
    solo: bool | None = None
    controls: Names | None = None
    turned: bool | None = None
    up: Annotated[int, Within(-100, 100, "places")] = 0

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        before = layers.layer_of(clip, self.number)
        told: dict[str, Any] = {
            key: value
            for key, value in (
                ("muted", self.muted), ("solo", self.solo), ("controls", self.controls), ("turned", self.turned),
            )
            if value is not None
        }  # fmt: skip
        if self.name is not None:
            told["name"] = self.name.strip()[: layers.LONGEST_NAME] or before.name
        for control in self.controls or ():
            rig.control(control)
        clip = layers.with_layer(clip, self.number, replace(before, **told))
        if self.up:
            order = list(layers.layers_of(clip))
            at = order.index(self.number)
            order.insert(min(max(at + self.up, 0), len(order) - 1), order.pop(at))
            for place, number in enumerate(order, 1):
                clip = layers.with_layer(clip, number, replace(layers.layer_of(clip, number), place=place))
        otherwise = self.turned not in (None, before.turned) and any(layers.curves_in(clip.curves, self.number))
        return Outcome(clip, ("its keys are what they were, and turn otherwise now",) if otherwise else ())

    def label(self, rig: Rig, scene: Scene) -> str:
        clip = scene.figure(scene.of).clip
        there = layers.layers_of(clip).get(self.number)
        name = there.name if there else "Layer"
        if self.muted is not None:
            return f"{'Mute' if self.muted else 'Unmute'} {name}"
        if self.solo is not None:
            return f"{name} {'alone' if self.solo else 'with the others'}"
        if self.turned is not None:
            return f"{name} turns {'as a whole' if self.turned else 'angle by angle'}"
        return f"Rename {name}" if self.name is not None else f"Change {name}"


@dataclass(frozen=True, kw_only=True)
class DeleteLayer(Edit):
    """A layer and all its keys deleted."""

    kind: Literal["delete layer"] = "delete layer"
    number: Number

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        layers.layer_of(clip, self.number)
        return Outcome(without_layer(clip, self.number))

    def label(self, rig: Rig, scene: Scene) -> str:
        return "Delete a layer"


def without_layer(clip: Clip, number: int, merged: bool = False) -> Clip:
    """The clip without a layer and all that it holds, which may be ``merged`` into what lies below."""
    gone: dict[str, Curve | None] = {a: None for a in clip.curves if layers.parted(a)[0] == number}
    left = {t: [new for s in spans if (new := s.without_layer(number, merged))] for t, spans in clip.tracks.items()}
    changed = {t: spans for t, spans in left.items() if tuple(spans) != tuple(clip.tracks[t])}
    return layers.with_layer(clip.with_curves(gone).with_tracks(changed), number, None)


@dataclass(frozen=True, kw_only=True)
class WeighLayer(Edit):
    """How much of a layer counts: keyed at a frame, or (no frame) all along, its keys gone."""

    kind: Literal["weigh layer"] = "weigh layer"
    number: Number
    weight: Annotated[float, WEIGHT]
    frame: Frame | None = None

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        layers.layer_of(clip, self.number)
        address = layers.weight_address(self.number)
        if self.frame is None:
            curve = None if self.weight == 1.0 else from_keys({scene.start: self.weight})
        else:
            curve = with_keys(clip.curves.get(address), {self.frame: self.weight})
        return Outcome(clip.with_curves({address: curve}))

    def label(self, rig: Rig, scene: Scene) -> str:
        return f"Weight {self.weight:.0%}" + ("" if self.frame is None else f" at {self.frame}")


def part_sides(clip: Clip, rig: Rig, start: int, end: int, controls: tuple[str, ...], name: str) -> Outcome:
    """Makes the second half of a cycle an echo of the first, and lays how it went otherwise over it as a layer.

    Nothing moves by it while the layer counts whole: with its weight the two sides become as alike as wished.

    Raises
    ------
    BadEdit
        If the sides are alike already, or the cycle echoes already.
    """
    cycle = cycle_at(clip, start)
    if cycle is not None and cycle.echo:
        raise BadEdit("the second half of this cycle shows the first one mirrored, so there is no difference to lay")
    if cycle is not None:
        start, end = cycle.start, cycle.end
        if cycle.until > cycle.end:
            raise BadEdit("the cycle is repeated; let it end where it began first. Nothing was changed")
        clip = free_cycle(clip, rig, cycle.start).clip
    half = start + (end - start) // 2
    refuse_samples(SUB * (end - start) * len(rig.channels), "the difference of two sides")
    times = between_frames(start, end)
    before = keyed_values(rig, clip, times)
    echoed = make_cycle(clip, rig, start, end, echo=True)
    after = keyed_values(rig, echoed.clip, times)
    chosen = {c.name for c in rig.controls} if not controls else set(controls)
    curves: dict[str, Curve] = {}
    for n, channel in enumerate(rig.channels):
        far = before[:, n] - after[:, n]
        if channel.locked or channel.control not in chosen or np.abs(far).max() < 1e-6:
            continue
        kept = np.zeros((1, end - start + 1), bool)
        kept[0, [0, half - start, -1]] = True
        keys, handles = thinned(far[None], np.array([BETWEEN * _ALIKE]), kept, SUB)[0]
        shapes = np.full(len(keys), 2.0)
        curves[channel.address] = from_table(
            fitted_table(np.asarray(keys, float) + start, far[SUB * keys], handles, shapes)
        )
    if not curves:
        raise BadEdit("left and right are alike already in what is chosen; nothing was changed")
    laid, number = new_layer(echoed.clip, name or "Difference", tuple(controls), turned=False)
    over = {layers.address_in(number, address): curve for address, curve in curves.items()}
    note = f"{counted(len(over), 'channel')} differ, and lie in the layer {layers.layer_of(laid, number).name}"
    return Outcome(laid.with_curves(over), (*echoed.notes, note))


@dataclass(frozen=True, kw_only=True)
class PartSides(Edit):
    """A cycle parted into a mirrored base and the difference of its second half as a layer over it."""

    kind: Literal["part sides"] = "part sides"
    start: Frame
    end: Frame
    controls: Names = ()
    name: Name = ""

    dear = True

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        return part_sides(clip, rig, self.start, self.end, self.controls, self.name)

    def label(self, rig: Rig, scene: Scene) -> str:
        return f"Difference of sides from {self.start} to {self.end} as a layer"
