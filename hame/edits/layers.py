"""Layers laid over a motion: made, weighed, muted, put in order, merged; and poses made in one."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Annotated, Any, Literal

import numpy as np

from hame.character.rig import Rig
from hame.clip import layers
from hame.clip.clip import Clip
from hame.clip.curve import (
    FRAME,
    FREE_BOTH,
    HANDLES,
    IN_TIME,
    IN_VALUE,
    OUT_TIME,
    OUT_VALUE,
    SHAPE,
    STEP,
    VALUE,
    Array,
    Curve,
    compared,
    from_keys,
    from_table,
    no_keys,
    split_at,
    with_keys,
)  # fmt: skip
from hame.clip.cycle import cycle_of, with_cycle
from hame.clip.layers import Layer
from hame.clip.played import played_curves
from hame.clip.sampling import sample_curve
from hame.edits.chosen import counted
from hame.edits.cleaning import fitted_table
from hame.edits.cycles import free_cycle, make_cycle
from hame.edits.edit import AtMost, Edit, Frame, Names, Within
from hame.edits.outcome import Outcome
from hame.edits.pose import KeyPose
from hame.errors import BadEdit
from hame.evaluate.keyed import keyed_values
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
    return 1 + max([*used, *layers.layers_of(clip)], default=0)


def new_layer(clip: Clip, name: str, controls: tuple[str, ...] = ()) -> tuple[Clip, int]:
    """The clip with one layer more above all others, and its number.

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
    return layers.with_layer(clip, number, Layer(0, 0, name=name, place=place, controls=controls)), number


@dataclass(frozen=True, kw_only=True)
class AddLayer(Edit):
    """A layer more, above all others: of some controls, or of all."""

    kind: Literal["add layer"] = "add layer"
    name: Name = ""
    controls: Names = ()

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        for control in self.controls:
            rig.control(control)
        return Outcome(new_layer(clip, self.name, self.controls)[0])

    def label(self, rig: Rig, scene: Scene) -> str:
        return f"Layer {self.name or 'added'}"


@dataclass(frozen=True, kw_only=True)
class ChangeLayer(Edit):
    """What a layer is called, whether it counts, what it is of, and how far up it lies; None leaves it as it is."""

    kind: Literal["change layer"] = "change layer"
    number: Number
    name: Name | None = None
    muted: bool | None = None
    solo: bool | None = None
    controls: Names | None = None
    up: Annotated[int, Within(-100, 100, "places")] = 0

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        before = layers.layer_of(clip, self.number)
        told: dict[str, Any] = {
            key: value
            for key, value in (("muted", self.muted), ("solo", self.solo), ("controls", self.controls))
            if value is not None
        }
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
        return Outcome(clip)

    def label(self, rig: Rig, scene: Scene) -> str:
        clip = scene.figure(scene.of).clip
        there = layers.layers_of(clip).get(self.number)
        name = there.name if there else "Layer"
        if self.muted is not None:
            return f"{'Mute' if self.muted else 'Unmute'} {name}"
        if self.solo is not None:
            return f"{name} {'alone' if self.solo else 'with the others'}"
        return f"Rename {name}" if self.name is not None else f"Change {name}"


@dataclass(frozen=True, kw_only=True)
class DeleteLayer(Edit):
    """A layer and all its keys deleted."""

    kind: Literal["delete layer"] = "delete layer"
    number: Number

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        layers.layer_of(clip, self.number)
        return Outcome(_without(clip, self.number))

    def label(self, rig: Rig, scene: Scene) -> str:
        return "Delete a layer"


def _without(clip: Clip, number: int) -> Clip:
    gone: dict[str, Curve | None] = {a: None for a in clip.curves if layers.parted(a)[0] == number}
    return layers.with_layer(clip.with_curves(gone), number, None)


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


def merge_down(clip: Clip, rig: Rig, number: int) -> Outcome:
    """Lays a layer into the one below it, or into the motion itself where none is below; nothing moves by it.

    Raises
    ------
    BadEdit
        If it does not count, or what is below cannot take it: a cycle, or a layer whose weight is keyed.
    """
    layer = layers.layer_of(clip, number)
    if number not in layers.sounding(clip):
        raise BadEdit(
            f"{layer.name} does not count now (it is muted, or another one is alone), so there is nothing to merge: "
            "let it count first, or delete it"
        )
    order = list(layers.layers_of(clip))
    at = order.index(number)
    below = order[at - 1] if at else 0
    share = 1.0
    if below:
        name = layers.layer_of(clip, below).name
        if below not in layers.sounding(clip):
            raise BadEdit(f"{name}, the layer below, does not count now: let it count first. Nothing was changed")
        weight = clip.curves.get(layers.weight_address(below))
        if weight is not None:
            share = float(weight.values[0])
            if len(weight) > 1 or share < LEAST_WEIGHT:
                raise BadEdit(f"how much of {name} counts is keyed: merge {name} down first. Nothing was changed")
    elif cycle_of(clip) is not None:
        raise BadEdit("what lies below is a cycle, in which one change shows again and again: free it first")
    weight = clip.curves.get(layers.weight_address(number))
    changes: dict[str, Curve | None] = {}
    worst = 0.0
    for own, curve in layers.curves_in(clip.curves, number).items():
        if not rig.has_channel(own):
            continue
        channel = rig.channels[rig.number(own)]
        address = layers.address_in(below, own)
        there = clip.curves.get(address) or from_keys({int(curve.table[0, FRAME]): 0.0 if below else channel.rest})
        changes[address], off = _sum(there, curve, weight, share, _MERGED[channel.unit])
        worst = max(worst, off)
    notes = (f"the largest difference on a frame is {worst:.1g}",) if worst > _SAME else ()
    if below and (under := layers.layer_of(clip, below)).controls:
        now = {*under.controls, *(layers.parted(address)[1].rpartition("/")[0] for address in changes)}
        of = tuple(control.name for control in rig.controls if control.name in now)
        clip = layers.with_layer(clip, below, replace(under, controls=of))
    return Outcome(_without(clip.with_curves(changes), number), notes)


def _sum(base: Curve, over: Curve, weight: Curve | None, share: float, tolerance: float) -> tuple[Curve, float]:
    """The curve of a base and what a weighted curve adds to it, and how far it is off at any time."""
    frames = np.unique(np.concatenate([c.table[:, FRAME] for c in (base, over, weight) if c is not None]))
    every = between_frames(frames[0], frames[-1])
    counts = 1.0 if weight is None else np.clip(sample_curve(weight, every), 0.0, 1.0)
    goal = sample_curve(base, every) + counts * sample_curve(over, every) / share
    if weight is None or len(weight) == 1:
        factor = (1.0 if weight is None else float(np.clip(weight.values[0], 0.0, 1.0))) / share
        both = from_table(_added(_parted_at(base, frames), _parted_at(over, frames), factor))
        off = float(np.abs(sample_curve(both, every) - goal).max())
        if off < _SAME:
            return both, off
    fixed = np.isin(every[::SUB], frames)[None]
    keys, handles = thinned(goal[None], np.array([BETWEEN * tolerance]), fixed, SUB)[0]
    fitted = from_table(fitted_table(keys + every[0], goal[SUB * keys], handles, np.full(len(keys), 2.0)))
    return fitted, float(np.abs(sample_curve(fitted, every) - goal).max())


def _parted_at(curve: Curve, frames: Array) -> Array:
    """The table of a curve with keys at all of some frames, which its own are among; held before and after its own."""
    table = curve.table.copy()
    for frame in frames:
        if table[0, FRAME] < frame < table[-1, FRAME] and frame not in table[:, FRAME]:
            table = split_at(table, float(frame))
    first, last = table[0, FRAME], table[-1, FRAME]
    held = [(f, table[0, VALUE]) for f in frames if f < first] + [(f, table[-1, VALUE]) for f in frames if f > last]
    if held:
        more = np.zeros((len(held), table.shape[1]))
        more[:, FRAME], more[:, VALUE] = np.array(held).T
        more[:, SHAPE] = 2.0
        ends = table[[0, -1]]
        ends[:, HANDLES] = FREE_BOTH
        if first > frames[0]:
            table[0, [HANDLES, IN_TIME, IN_VALUE]] = FREE_BOTH, 0.0, 0.0
        if last < frames[-1]:
            table[-1, [HANDLES, OUT_TIME, OUT_VALUE, SHAPE]] = FREE_BOTH, 0.0, 0.0, 2.0
        table = np.concatenate([table, more])
        table = table[np.argsort(table[:, FRAME], kind="stable")]
    return np.array(from_table(table).table)


def _added(a: Array, b: Array, factor: float) -> Array:
    """Two tables of the same frames added, handle by handle, on thirds of each gap."""
    table = a.copy()
    table[:, VALUE] += factor * b[:, VALUE]
    gaps = np.diff(a[:, FRAME])
    for column, time, gap in ((IN_VALUE, IN_TIME, np.append(gaps[:1], gaps)),
                              (OUT_VALUE, OUT_TIME, np.append(gaps, gaps[-1:]))):  # fmt: skip
        third = (gap if len(gap) else np.ones(len(a))) / 3.0 * (-1.0 if time == IN_TIME else 1.0)
        total = np.zeros(len(a))
        for part, share in ((a, 1.0), (b, factor)):
            slope = np.divide(part[:, column], part[:, time], out=np.zeros(len(a)), where=np.abs(part[:, time]) > 1e-12)
            total += share * slope
        table[:, time], table[:, column] = third, total * third
    table[:, HANDLES] = FREE_BOTH
    stepped = (a[:, SHAPE] == STEP) & (b[:, SHAPE] == STEP)
    table[:, SHAPE] = np.where(stepped, 0.0, 2.0)
    straight = (a[:, SHAPE] == 1.0) & (b[:, SHAPE] == 1.0)
    table[straight, SHAPE] = 1.0
    return table


@dataclass(frozen=True, kw_only=True)
class MergeLayer(Edit):
    """A layer merged down: its keys become part of what lies below it."""

    kind: Literal["merge layer"] = "merge layer"
    number: Number

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        return merge_down(clip, rig, self.number)

    def label(self, rig: Rig, scene: Scene) -> str:
        there = layers.layers_of(scene.figure(scene.of).clip).get(self.number)
        return f"Merge {there.name if there else 'a layer'} down"


def part_sides(clip: Clip, rig: Rig, start: int, end: int, controls: tuple[str, ...], name: str) -> Outcome:
    """Makes the second half of a cycle an echo of the first, and lays how it went otherwise over it as a layer.

    Nothing moves by it while the layer counts whole: with its weight the two sides become as alike as wished.

    Raises
    ------
    BadEdit
        If the sides are alike already, or the cycle echoes already.
    """
    cycle = cycle_of(clip)
    if cycle is not None and cycle.echo:
        raise BadEdit("the second half of this cycle shows the first one mirrored, so there is no difference to lay")
    if cycle is not None:
        start, end = cycle.start, cycle.end
        if cycle.until > cycle.end:
            raise BadEdit("the cycle is repeated; let it end where it began first. Nothing was changed")
        clip = free_cycle(clip, rig).clip
    half = start + (end - start) // 2
    refuse_samples(SUB * (end - start) * len(rig.channels), "the difference of two sides")
    times = between_frames(start, end)
    before = keyed_values(rig, clip, times, layered=False)
    echoed = make_cycle(clip, rig, start, end, echo=True)
    after = keyed_values(rig, echoed.clip, times, layered=False)
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
    laid, number = new_layer(echoed.clip, name or "Difference", tuple(controls))
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

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        return part_sides(clip, rig, self.start, self.end, self.controls, self.name)

    def label(self, rig: Rig, scene: Scene) -> str:
        return f"Difference of sides from {self.start} to {self.end} as a layer"


# Poses made in a layer

Apply = Callable[[Scene], tuple[dict[int, Clip], tuple[str, ...]]]


def in_layer(edit: Edit, scene: Scene, of: int) -> tuple[dict[int, Clip], tuple[str, ...]]:
    """What an edit that sets poses does to a scene when it is made in a layer.

    It is made on the motion as it plays, with all that a cycle derives free to be posed; how it changes what is seen at
    the frames that it keys is then keyed in the layer, and the motion below stays what it was.

    Raises
    ------
    BadEdit
        If the layer does not count there, or nothing that it is of would change.
    """
    figure = scene.figure(of)
    clip, rig, number = figure.clip, figure.rig, edit.layer
    layer = layers.layer_of(clip, number)
    if number not in layers.sounding(clip):
        raise BadEdit(f"{layer.name} does not count now (it is muted, or another one is alone); nothing was changed")
    view = with_cycle(clip.with_curves(dict(played_curves(clip, rig))), None)
    figures = dict(scene.figures)
    figures[of] = figure.with_clip(view)
    plain = replace(edit, layer=0)
    clips, notes = plain.apply(replace(scene, figures=figures), of)
    after = clips[of]
    told = [*notes]
    wanted: dict[str, dict[int, float]] = {}
    left: set[str] = set()
    for address, curve in after.curves.items():
        before = view.curves.get(address)
        if curve is before or layers.parted(address)[0] or not rig.has_channel(address):
            continue
        _, added, _ = compared([before.table if before is not None else no_keys()], [curve.table])
        channel = rig.channels[rig.number(address)]
        if layer.controls and channel.control not in layer.controls:
            left.add(channel.control)
            continue
        frames = added[0][:, FRAME]
        was = np.full(len(frames), channel.rest) if before is None else sample_curve(before, frames)
        wanted[address] = dict(zip(frames.astype(int).tolist(), (added[0][:, VALUE] - was).tolist(), strict=True))
    if isinstance(edit, KeyPose):
        names = [c.name for c in rig.controls] if edit.controls is None else edit.controls
        for channel in (c for name in names for c in rig.channels_of(name)):
            of_layer = not layer.controls or channel.control in layer.controls
            if channel.kind in edit.kinds and not channel.locked and of_layer:
                wanted.setdefault(channel.address, {}).setdefault(edit.frame, 0.0)
    if left:
        told.append(f"not of {layer.name}, left as they were: {', '.join(sorted(left)[:4])}")
    if not wanted:
        if after.pending == clip.pending:
            raise BadEdit(f"nothing that {layer.name} is of would change; nothing was keyed")
        return {**clips, of: _pending_of(clip, after)}, tuple(told)
    changes: dict[str, Curve | None] = {}
    for address, deltas in wanted.items():
        frames = np.array(sorted(deltas), float)
        counts = layers.weights(clip, number, frames)
        if (counts < LEAST_WEIGHT).any():
            at = int(frames[np.argmin(counts)])
            raise BadEdit(f"{layer.name} has no weight at frame {at}, so nothing can be posed in it there")
        mine = layers.address_in(number, address)
        there = clip.curves.get(mine)
        now = np.zeros(len(frames)) if there is None else sample_curve(there, frames)
        values = now + np.array([deltas[int(f)] for f in frames]) / counts
        changes[mine] = with_keys(there, dict(zip(frames.astype(int).tolist(), values.tolist(), strict=True)))
    told.append(f"keyed in {layer.name}: {counted(len(changes), 'channel')}")
    return {**clips, of: _pending_of(clip, after).with_curves(changes)}, tuple(told)


def _pending_of(clip: Clip, after: Clip) -> Clip:
    """The clip with the poses that wait in another one."""
    for frame in clip.pending.keys() | after.pending.keys():
        if clip.pending.get(frame) is not after.pending.get(frame):
            clip = clip.with_pending(frame, after.pending.get(frame))
    return clip
