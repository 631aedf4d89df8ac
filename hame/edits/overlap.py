"""Part delay: the keys of chosen parts shifted by whole frames down a chain, for drag and overlap."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from hame.character.rig import PLACE, Rig
from hame.clip.clip import Clip
from hame.clip.curve import FRAME, IN_VALUE, OUT_VALUE, VALUE, Array, Curve, from_table, whole_frame
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
        tables = {a: _scaled(clip, rig, a, link.amplitude) for a in addresses}
        if cycle is not None:
            changes |= _round(rig, tables, link.frames, cycle)
            continue
        for address, table in tables.items():
            going = np.ones(len(table), bool)
            if first is not None:
                going &= table[:, FRAME] >= first
            if last is not None:
                going &= table[:, FRAME] <= last
            moved = table[going].copy()
            moved[:, FRAME] += link.frames
            stays = table[~going]
            hit = np.isin(stays[:, FRAME], moved[:, FRAME])
            replaced += int(hit.sum())
            changes[address] = from_table(np.concatenate([stays[~hit], moved]))
    if not changes:
        raise BadEdit("the chosen parts have no keys; nothing was delayed")
    if replaced:
        notes.append(f"{counted(replaced, 'key')} replaced by keys that came to lie on them")
    return Outcome(clip.with_curves(changes), tuple(notes))


def _scaled(clip: Clip, rig: Rig, address: str, amplitude: float) -> Array:
    """A curve's keys with their turns scaled about the middle of all that plays."""
    table = clip.curves[address].table.copy()
    channel = rig.channels[rig.number(address)]
    if amplitude != 1.0 and channel.kind != PLACE and not address.endswith("/ik"):
        values = played_curves(clip, rig)[address].table[:, VALUE]
        middle = 0.5 * (values.min() + values.max())
        table[:, VALUE] = np.clip(middle + amplitude * (table[:, VALUE] - middle), channel.low, channel.high)
        table[:, [IN_VALUE, OUT_VALUE]] *= amplitude
    return table


def _round(rig: Rig, tables: Mapping[str, Array], by: int, cycle: Cycle) -> dict[str, Curve | None]:
    """Keys shifted round a cycle, on to the other side where its second half is an echo."""
    step = cycle.half if cycle.echo else cycle.length
    found: dict[str, list[Array]] = {address: [] for address in tables}
    for address, table in tables.items():
        inside = (table[:, FRAME] >= cycle.start) & (table[:, FRAME] < cycle.source_end)
        found[address].append(table[~inside])
        moved = table[inside].copy()
        turns = np.floor((moved[:, FRAME] + by - cycle.start) / step)
        moved[:, FRAME] += by - turns * step
        for turn in np.unique(turns):
            part = moved[turns == turn].copy()
            target = address
            if cycle.echo and turn % 2 != 0:
                other, sign = rig.echo_of(address)
                if other is None:
                    continue
                target = other
                part[:, [VALUE, IN_VALUE, OUT_VALUE]] *= sign
            found.setdefault(target, []).append(part)
    return {
        address: from_table(np.concatenate(parts)) if sum(map(len, parts)) else None for address, parts in found.items()
    }
