"""Deriving what a cycle shows from the keys that are stored: echoes, repeats and travel."""

from __future__ import annotations

from collections.abc import Mapping
from types import MappingProxyType

import numpy as np

from hame.character.rig import Rig
from hame.clip.clip import Clip
from hame.clip.curve import (
    BEZIER,
    BY_HAND,
    FRAME,
    IN_TIME,
    IN_VALUE,
    OUT_TIME,
    OUT_VALUE,
    VALUE,
    Array,
    Curve,
    from_table,
    split_at,
)  # fmt: skip
from hame.clip.marks import Cycle

TRAVELLING = ("tx", "tz")


def played_curves(clip: Clip, rig: Rig) -> Mapping[str, Curve]:
    """All curves as they play, derived keys included; the stored ones when there is no cycle.

    A derived key that is not set by hand gets the handles that it would have
    if the cycle went on without end both ways, so that values and slopes agree
    at every seam.
    """
    if clip.cycle is None:
        return clip.curves
    kept: tuple[Rig, Mapping[str, Curve]] | None = clip.__dict__.get("_played")
    if kept is None or kept[0] is not rig:
        kept = (rig, MappingProxyType(dict(_derived(clip, rig, clip.cycle))))
        clip.__dict__["_played"] = kept  # a clip never changes, so neither does this
    return kept[1]


def played_clip(clip: Clip, rig: Rig) -> Clip:
    """The clip with every derived key spelled out and without its cycle."""
    return Clip(played_curves(clip, rig), clip.pending, clip.labels)


def _derived(clip: Clip, rig: Rig, cycle: Cycle) -> dict[str, Curve]:
    found: dict[str, Curve] = {}
    nothing = np.zeros((0, 8))
    stored = {address: curve.table for address, curve in clip.curves.items()}
    travelling = {f"{rig.controls[0].name}/{name}": way for name, way in zip(TRAVELLING, cycle.travel, strict=True)}
    for address, way in travelling.items():
        if way and address in rig.addresses and address not in stored:
            rest = rig.channels[rig.number(address)].rest
            stored[address] = np.array([[cycle.start, rest, BEZIER, 0, 0, 0, 0, 0]], float)
    addresses = dict.fromkeys(stored)
    if cycle.echo:
        addresses |= dict.fromkeys(a for address in stored if (a := rig.echo_of(address)[0]) is not None)
    for address in addresses:
        own = stored.get(address, nothing)
        mine = _within(own, cycle)
        period = mine
        if cycle.echo:
            other, sign = rig.echo_of(address)
            echoed = _within(stored.get(other, nothing), cycle).copy() if other is not None else nothing.copy()
            echoed[:, FRAME] += cycle.half
            echoed[:, [VALUE, IN_VALUE, OUT_VALUE]] *= sign
            period = np.concatenate([mine, echoed])
        before, after = own[own[:, FRAME] < cycle.start], own[own[:, FRAME] > cycle.until]
        inside = _repeated(period, cycle, travelling.get(address, 0.0))
        table = np.concatenate([before, inside, after])
        if len(table):
            found[address] = from_table(table)
    return found


def _within(table: Array, cycle: Cycle) -> Array:
    return table[(table[:, FRAME] >= cycle.start) & (table[:, FRAME] < cycle.source_end)]


def _repeated(period: Array, cycle: Cycle, travel: float) -> Array:
    """The keys of one cycle laid again and again up to its last frame, with a steady way added."""
    if not len(period):
        return period
    period = period[np.argsort(period[:, FRAME], kind="stable")]
    count = -(-(cycle.until - cycle.start) // cycle.length)
    # One more on both sides: there the handles find the neighbours that they would have without end.
    laid = np.tile(period, (count + 3, 1))
    turns = np.repeat(np.arange(-1, count + 2), len(period))
    laid[:, FRAME] += turns * cycle.length
    laid[:, VALUE] += turns * travel
    _inclined(laid, period, cycle, travel)
    laid = from_table(laid).table.copy()
    laid[:, BY_HAND] = 1.0
    for edge in (cycle.start, cycle.until):  # what goes over the edge is cut there
        if not (laid[:, FRAME] == edge).any():
            laid = split_at(laid, edge)
    laid = laid[(laid[:, FRAME] >= cycle.start) & (laid[:, FRAME] <= cycle.until)]
    return laid


def _inclined(laid: Array, period: Array, cycle: Cycle, travel: float) -> None:
    """Adds the steady way inside a cycle, to keys and to handles that were set by hand, in place."""
    if not travel:
        return
    slope = travel / cycle.length
    laid[:, VALUE] += slope * (np.tile(period[:, FRAME], len(laid) // len(period)) - cycle.start)
    laid[:, IN_VALUE] += slope * laid[:, IN_TIME]
    laid[:, OUT_VALUE] += slope * laid[:, OUT_TIME]
