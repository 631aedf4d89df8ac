"""Deriving what a cycle shows from the keys that are stored: echoes, repeats and travel."""

from __future__ import annotations

from collections.abc import Mapping
from types import MappingProxyType

import numpy as np
import numpy.typing as npt

from hame.character.rig import Rig
from hame.clip.clip import Clip
from hame.clip.curve import (
    BY_HAND,
    FRAME,
    IN_TIME,
    IN_VALUE,
    OUT_TIME,
    OUT_VALUE,
    VALUE,
    Array,
    Curve,
    Stack,
    from_keys,
    lay_handles,
    split_at,
    stacked,
    unstacked,
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
    stored = {address: curve for address, curve in clip.curves.items() if rig.has_channel(address)}
    strange = {address: curve for address, curve in clip.curves.items() if not rig.has_channel(address)}
    travel = np.zeros(len(rig.channels))
    for name, way in zip(TRAVELLING, cycle.travel, strict=True):
        address = f"{rig.controls[0].name}/{name}"
        if way and rig.has_channel(address):
            travel[rig.number(address)] = way
            if address not in stored:
                stored[address] = from_keys({cycle.start: rig.channels[rig.number(address)].rest})
    stack = stacked(stored)
    owner, keys = np.array([rig.number(a) for a in stack.addresses], np.int64)[stack.owner], stack.keys
    inside = (keys[:, FRAME] >= cycle.start) & (keys[:, FRAME] < cycle.source_end)
    outside = (keys[:, FRAME] < cycle.start) | (keys[:, FRAME] > cycle.until)
    period_owner, period = owner[inside], keys[inside]
    if cycle.echo:
        target, sign = _echoes(rig)
        echoed = period.copy()
        echoed[:, FRAME] += cycle.half
        echoed[:, [VALUE, IN_VALUE, OUT_VALUE]] *= sign[period_owner][:, None]
        known = target[period_owner] >= 0
        period_owner = np.append(period_owner, target[period_owner][known])
        period = np.concatenate([period, echoed[known]])
    laid_owner, laid = _repeated(period_owner, period, cycle, travel)
    laid_owner, laid = _cut(laid_owner, laid, cycle)
    whole = Stack(rig.addresses, np.append(owner[outside], laid_owner), np.concatenate([keys[outside], laid]))
    return {**unstacked(whole), **strange}


def _echoes(rig: Rig) -> tuple[npt.NDArray[np.int64], Array]:
    """By channel, the channel (C,) that its echo shows on, or -1, and the sign (C,) it has there."""
    kept: tuple[npt.NDArray[np.int64], Array] | None = rig.__dict__.get("_echoes")
    if kept is None:
        target, sign = np.full(len(rig.channels), -1, np.int64), np.ones(len(rig.channels))
        for number, address in enumerate(rig.addresses):
            source, factor = rig.echo_of(address)
            if source is not None:
                target[rig.number(source)], sign[rig.number(source)] = number, factor
        kept = rig.__dict__["_echoes"] = target, sign
    return kept


def _repeated(
    owner: npt.NDArray[np.int64], period: Array, cycle: Cycle, travel: Array
) -> tuple[npt.NDArray[np.int64], Array]:
    """The keys of one cycle laid again and again past both its ends, each with its handles, a steady way added."""
    order = np.lexsort((period[:, FRAME], owner))
    owner, period = owner[order], period[order].copy()
    slope = travel[owner] / cycle.length
    period[:, VALUE] += slope * (period[:, FRAME] - cycle.start)
    period[:, IN_VALUE] += slope * period[:, IN_TIME]
    period[:, OUT_VALUE] += slope * period[:, OUT_TIME]
    count = -(-(cycle.until - cycle.start) // cycle.length)
    # One more on both sides: there the handles find the neighbours that they would have without end.
    turns = np.arange(-1, count + 2)
    laid = np.tile(period, (len(turns), 1))
    turn = np.repeat(turns, len(period))
    laid_owner = np.tile(owner, len(turns))
    laid[:, FRAME] += turn * cycle.length
    laid[:, VALUE] += turn * travel[laid_owner]
    order = np.lexsort((laid[:, FRAME], laid_owner))
    laid_owner, laid = laid_owner[order], laid[order]
    lay_handles(laid_owner, laid)
    laid[:, BY_HAND] = 1.0
    return laid_owner, laid


def _cut(owner: npt.NDArray[np.int64], laid: Array, cycle: Cycle) -> tuple[npt.NDArray[np.int64], Array]:
    """Keys from the start to the last repeat; a way that goes over an edge is cut there by a key of its own."""
    for edge in (cycle.start, cycle.until):
        there = set(owner[laid[:, FRAME] == edge].tolist())
        for number in sorted(set(owner.tolist()) - there):
            mine = np.flatnonzero(owner == number)
            parted = split_at(laid[mine], edge)
            laid = np.concatenate([laid[: mine[0]], parted, laid[mine[-1] + 1 :]])
            owner = np.insert(owner, mine[0], number)
    kept = (laid[:, FRAME] >= cycle.start) & (laid[:, FRAME] <= cycle.until)
    return owner[kept], laid[kept]
