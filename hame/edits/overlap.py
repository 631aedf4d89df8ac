"""Part delay: the keys of chosen parts shifted by whole frames down a chain, for drag and overlap."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from hame.character.rig import PLACE, Rig
from hame.clip.clip import Clip
from hame.clip.curve import FRAME, IN_VALUE, OUT_VALUE, VALUE, Curve, Stack, stacked, unstacked, whole_frame
from hame.clip.cycle import played_curves
from hame.clip.marks import Cycle
from hame.edits.chosen import counted
from hame.edits.outcome import Outcome
from hame.errors import BadEdit

FARTHEST = 24


@dataclass(frozen=True)
class Link:
    """Some controls that trail (or, below zero, lead) by so many frames, with so much of their amplitude."""

    controls: tuple[str, ...]
    frames: int
    amplitude: float = 1.0


def delay_parts(
    clip: Clip, rig: Rig, chain: Sequence[Link], first: int | None = None, last: int | None = None
) -> Outcome:
    """Shifts the keys of each link, and scales its turns about their middle.

    In a cycle the keys go round its end; where the second half echoes the
    first, a key that passes the middle comes back on the other side of the
    body, so both sides are always delayed alike. Elsewhere only keys from
    ``first`` to ``last`` are shifted.
    """
    if not chain:
        raise BadEdit("no part is chosen to delay")
    cycle = clip.cycle
    changes: dict[str, Curve | None] = {}
    notes: list[str] = []
    replaced = 0
    for link in chain:
        if abs(whole_frame(link.frames)) > FARTHEST:
            raise BadEdit(f"parts are delayed by up to {FARTHEST} frames, not {link.frames}")
        if not np.isfinite(link.amplitude) or not 0 <= link.amplitude <= 2:
            raise BadEdit("amplitude goes from 0 to 200 percent")
        names = list(dict.fromkeys(link.controls))
        if cycle is not None and cycle.echo:
            others = [o for n in names if (o := rig.control(n).other) not in names and rig.has_control(o)]
            names += others
        addresses = [c.address for name in names for c in rig.channels_of(name) if c.address in clip.curves]
        stack = _scaled(clip, rig, addresses, link.amplitude)
        if cycle is not None:
            changes |= _round(rig, stack, link.frames, cycle)
            continue
        frames = stack.keys[:, FRAME]
        going = np.ones(len(frames), bool)
        if first is not None:
            going &= frames >= first
        if last is not None:
            going &= frames <= last
        keys = stack.keys.copy()
        keys[going, FRAME] += link.frames
        # A key that moved replaces one that it comes to lie on.
        order = np.lexsort((going, keys[:, FRAME], stack.owner))
        owner, keys = stack.owner[order], keys[order]
        stays = np.append((np.diff(keys[:, FRAME]) != 0) | (np.diff(owner) != 0), True)[: len(keys)]
        replaced += int((~stays).sum())
        changes |= unstacked(Stack(stack.addresses, owner[stays], keys[stays]))
    if not changes:
        raise BadEdit("the chosen parts have no keys; nothing was delayed")
    if replaced:
        notes.append(f"{counted(replaced, 'key')} replaced by keys that came to lie on them")
    return Outcome(clip.with_curves(changes), tuple(notes))


def _scaled(clip: Clip, rig: Rig, addresses: Sequence[str], amplitude: float) -> Stack:
    """Keys with their turns scaled about the middle of all that plays."""
    stack = stacked({address: clip.curves[address] for address in addresses})
    channels = [rig.channels[rig.number(address)] for address in stack.addresses]
    turns = np.array([c.kind != PLACE and not c.address.endswith("/ik") for c in channels], bool)
    if amplitude == 1.0 or not turns.any():
        return stack
    played = played_curves(clip, rig, *((clip.cycle.start, clip.cycle.end) if clip.cycle else ()))
    middle = np.array([0.5 * (v.min() + v.max()) for a in stack.addresses if len(v := played[a].table[:, VALUE])])
    low, high = np.array([c.low for c in channels]), np.array([c.high for c in channels])
    mine = turns[stack.owner]
    own = stack.owner[mine]
    values = middle[own] + amplitude * (stack.keys[mine, VALUE] - middle[own])
    stack.keys[mine, VALUE] = np.clip(values, low[own], high[own])
    for column in (IN_VALUE, OUT_VALUE):
        stack.keys[mine, column] *= amplitude
    return stack


def _round(rig: Rig, stack: Stack, by: int, cycle: Cycle) -> dict[str, Curve | None]:
    """Keys shifted round a cycle, on to the other side where its second half is an echo."""
    step = cycle.half if cycle.echo else cycle.length
    keys = stack.keys.copy()
    inside = (keys[:, FRAME] >= cycle.start) & (keys[:, FRAME] < cycle.source_end)
    turns = np.where(inside, np.floor((keys[:, FRAME] + by - cycle.start) / step), 0.0)
    keys[inside, FRAME] += by - turns[inside] * step
    names = dict.fromkeys(stack.addresses)
    over = {a: rig.echo_of(a) if cycle.echo else (a, 1) for a in stack.addresses}
    names |= dict.fromkeys(other for other, _ in over.values() if other is not None)
    number = {name: n for n, name in enumerate(names)}
    own = np.array([number[a] for a in stack.addresses], np.int64)[stack.owner]
    odd = cycle.echo & (turns % 2 != 0)
    other = np.array([number.get(over[a][0] or "", -1) for a in stack.addresses], np.int64)[stack.owner]
    sign = np.array([over[a][1] for a in stack.addresses], float)[stack.owner]
    keys[odd] *= np.where(np.isin(np.arange(8), (VALUE, IN_VALUE, OUT_VALUE)), sign[odd, None], 1.0)
    owner = np.where(odd, other, own)
    known = owner >= 0
    laid = unstacked(Stack(tuple(names), owner[known], keys[known]))
    return {name: laid.get(name) for name in names}
