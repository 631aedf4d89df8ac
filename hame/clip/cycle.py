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


FEW = 64  # turns: so many are derived at once and kept; of more, only those that are looked at


def played_curves(clip: Clip, rig: Rig, first: float | None = None, last: float | None = None) -> Mapping[str, Curve]:
    """All curves as they play, derived keys included; the stored ones when there is no cycle.

    A derived key that is not set by hand gets the handles that it would have
    if the cycle went on without end both ways, so that values and slopes agree
    at every seam.

    Parameters
    ----------
    first, last : frames that are looked at. In a long cycle the curves are right
        there, with the neighbouring keys on both sides, and hold nothing farther away
    """
    cycle = clip.cycle
    if cycle is None:
        return clip.curves
    whole = (-1, turns_of(cycle) + 2)
    if whole[1] <= FEW or first is None or last is None:
        wanted = whole
    else:
        at = np.clip([(frame - cycle.start) // cycle.length for frame in (first, last)], 0, turns_of(cycle))
        wanted = (max(int(at[0]) - 2, -1), min(int(at[1]) + 4, whole[1]))
    kept: tuple[Rig, tuple[int, int], Mapping[str, Curve]] | None = clip.__dict__.get("_played")
    if kept is None or kept[0] is not rig or not (kept[1][0] <= wanted[0] and wanted[1] <= kept[1][1]):
        kept = (rig, wanted, MappingProxyType(dict(_derived(clip, rig, cycle, *wanted))))
        clip.__dict__["_played"] = kept  # a clip never changes, so neither does this
    return kept[2]


def turns_of(cycle: Cycle) -> int:
    """How many times a cycle is begun up to its last repeat."""
    return -(-(cycle.until - cycle.start) // cycle.length)


def _derived(clip: Clip, rig: Rig, cycle: Cycle, low: int, high: int) -> dict[str, Curve]:
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
    laid_owner, laid = _repeated(period_owner, period, cycle, travel, np.arange(low, high))
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
    owner: npt.NDArray[np.int64], period: Array, cycle: Cycle, travel: Array, turns: npt.NDArray[np.int64]
) -> tuple[npt.NDArray[np.int64], Array]:
    """The keys of one cycle laid again and again, each with its handles, a steady way added.

    Those of the outermost ``turns`` only serve the others: there their handles find the neighbours that they would
    have without end.
    """
    order = np.lexsort((period[:, FRAME], owner))
    owner, period = owner[order], period[order].copy()
    slope = travel[owner] / cycle.length
    period[:, VALUE] += slope * (period[:, FRAME] - cycle.start)
    period[:, IN_VALUE] += slope * period[:, IN_TIME]
    period[:, OUT_VALUE] += slope * period[:, OUT_TIME]
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
        if not (laid[:, FRAME] < edge).any() or not (laid[:, FRAME] > edge).any():
            continue  # not among the turns that are looked at
        there = set(owner[laid[:, FRAME] == edge].tolist())
        for number in sorted(set(owner.tolist()) - there):
            mine = np.flatnonzero(owner == number)
            parted = split_at(laid[mine], edge)
            laid = np.concatenate([laid[: mine[0]], parted, laid[mine[-1] + 1 :]])
            owner = np.insert(owner, mine[0], number)
    kept = (laid[:, FRAME] >= cycle.start) & (laid[:, FRAME] <= cycle.until)
    return owner[kept], laid[kept]
