"""Layers merged into what lies below them."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from hame.character.rig import Rig
from hame.clip import layers
from hame.clip.clip import Clip
from hame.clip.curve import Curve, from_keys, from_table, split_at
from hame.clip.cycles import cycles_of
from hame.clip.key import FRAME, FREE_BOTH, HANDLES, IN_TIME, IN_VALUE, OUT_TIME, OUT_VALUE, SHAPE, STEP, VALUE, Array
from hame.clip.sampling import sample_curve
from hame.edits.cleaning import fitted_table
from hame.edits.edit import Edit
from hame.edits.layers import LEAST_WEIGHT, Number, without_layer
from hame.edits.outcome import Outcome
from hame.errors import BadEdit
from hame.evaluate.laid import Laid, Turns, turns_of
from hame.maths.thinning import BETWEEN, SUB, between_frames, thinned
from hame.scene.scene import Scene
from hame.work import refuse_samples

_SAME = 1e-9
_MERGED = {"m": 0.0001, "rad": 0.0005, "": 0.0005}


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
    elif cycles_of(clip):
        raise BadEdit("what lies below is a cycle, in which one change shows again and again: free it first")
    weight = clip.curves.get(layers.weight_address(number))
    changes, worst = merged_turns(clip, rig, number, below, share)
    for own, curve in layers.curves_in(clip.curves, number).items():
        if not rig.has_channel(own) or layers.address_in(below, own) in changes:
            continue
        channel = rig.channels[rig.number(own)]
        address = layers.address_in(below, own)
        there = clip.curves.get(address) or from_keys({int(curve.table[0, FRAME]): 0.0 if below else channel.rest})
        changes[address], off = summed(there, curve, weight, share, _MERGED[channel.unit])
        worst = max(worst, off)
    notes = (f"the largest difference on a frame is {worst:.1g}",) if worst > _SAME else ()
    if below and (under := layers.layer_of(clip, below)).controls:
        now = {*under.controls, *(layers.parted(address)[1].rpartition("/")[0] for address in changes)}
        of = tuple(control.name for control in rig.controls if control.name in now)
        clip = layers.with_layer(clip, below, replace(under, controls=of))
    return Outcome(without_layer(clip.with_curves(changes), number, merged=True), notes)


def summed(base: Curve, over: Curve, weight: Curve | None, share: float, tolerance: float) -> tuple[Curve, float]:
    """The curve of a base and what a weighted curve adds to it, and how far it is off at any time."""
    frames = np.unique(np.concatenate([c.table[:, FRAME] for c in (base, over, weight) if c is not None]))
    every = between_frames(frames[0], frames[-1])
    counts = 1.0 if weight is None else np.clip(sample_curve(weight, every), 0.0, 1.0)
    goal = sample_curve(base, every) + counts * sample_curve(over, every) / share
    if weight is None or len(weight) == 1:
        factor = (1.0 if weight is None else float(np.clip(weight.values[0], 0.0, 1.0))) / share
        both = from_table(_added(parted_at(base, frames), parted_at(over, frames), factor))
        off = float(np.abs(sample_curve(both, every) - goal).max())
        if off < _SAME:
            return both, off
    return _fitted(goal, every, frames, tolerance)


def _fitted(goal: Array, every: Array, frames: Array, tolerance: float) -> tuple[Curve, float]:
    """A curve through values ``goal`` at the times ``every``, keyed at ``frames`` too; and how far it is off."""
    fixed = np.isin(every[::SUB], frames)[None]
    keys, handles = thinned(np.ascontiguousarray(goal)[None], np.array([BETWEEN * tolerance]), fixed, SUB)[0]
    fitted = from_table(fitted_table(keys + every[0], goal[SUB * keys], handles, np.full(len(keys), 2.0)))
    return fitted, float(np.abs(sample_curve(fitted, every) - goal).max())


def parted_at(curve: Curve, frames: Array) -> Array:
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

    dear = True

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        return merge_down(clip, rig, self.number)

    def label(self, rig: Rig, scene: Scene) -> str:
        there = layers.layers_of(scene.figure(scene.of).clip).get(self.number)
        return f"Merge {there.name if there else 'a layer'} down"


def merged_turns(clip: Clip, rig: Rig, number: int, below: int, share: float) -> tuple[dict[str, Curve | None], float]:
    """The curves of turns that a layer lays on as a whole, merged with those below, and how far they are off at most.

    Parameters
    ----------
    below : the layer below, or 0 for the motion itself
    share : how much of the one below counts

    Raises
    ------
    BadEdit
        If one turns as a whole and the other angle by angle: no keys of one layer can do both.
    """
    layer, over = layers.layer_of(clip, number), layers.curves_in(clip.curves, number)
    under = layers.layer_of(clip, below) if below else None
    turns = turns_of(rig).among(rig.number(own) for own in over if rig.has_channel(own))
    if not len(turns.columns) or not (layer.turned or (under is not None and under.turned)):
        return {}, 0.0
    if under is not None and under.turned != layer.turned:
        raise BadEdit(
            f"{layer.name} turns {'as a whole' if layer.turned else 'angle by angle'} and {under.name}, the layer "
            "below, does not: let both turn alike first. Nothing was changed"
        )
    weight = clip.curves.get(layers.weight_address(number))
    changes: dict[str, Curve | None] = {}
    worst = 0.0
    for columns, axes in zip(turns.columns, turns.axes, strict=True):
        own = [rig.addresses[n] for n in columns]
        mine = [over.get(a) for a in own]
        there = [clip.curves.get(layers.address_in(below, a)) for a in own]
        keyed = [curve for curve in (*mine, *there, weight) if curve is not None]
        frames = np.unique(np.concatenate([curve.table[:, FRAME] for curve in keyed]))
        every = between_frames(frames[0], frames[-1])
        refuse_samples(3 * len(every), "the turns of the two")
        rest = [0.0 if below else rig.channels[n].rest for n in columns]
        values = _angles(there, every, rest) * share
        over_it = _angles(mine, every, [0.0] * 3)
        turn = Laid(number, over_it, layers.weights(clip, number, every), Turns(np.array([[0, 1, 2]]), axes[None]))
        goal = turn.lay(values) / share
        for n, address in enumerate(own):
            changes[layers.address_in(below, address)], off = _fitted(goal[:, n], every, frames, _MERGED["rad"])
            worst = max(worst, off)
    return changes, worst


def _angles(curves: list[Curve | None], times: Array, rest: list[float]) -> Array:
    """The values (F, 3) of three curves, ``rest`` where there is none."""
    found = [np.full(len(times), r) if c is None else sample_curve(c, times) for c, r in zip(curves, rest, strict=True)]
    return np.stack(found, axis=1)
