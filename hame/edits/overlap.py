"""Part delay: the keys of chosen parts shifted by whole frames down a chain, for drag and overlap."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Annotated, Literal

import numpy as np

from hame.character.rig import PLACE, Rig
from hame.clip.clip import Clip
from hame.clip.curve import Curve, Stack, stacked, unstacked
from hame.clip.cycle import Cycle
from hame.clip.cycles import cycles_of
from hame.clip.key import FRAME, IN_VALUE, OUT_VALUE, VALUE, WIDTH, whole_frame
from hame.clip.layers import own_curves
from hame.clip.played import played_curves
from hame.edits.chosen import counted
from hame.edits.edit import AtMost, Edit, Frame, Names, Within, controls_said
from hame.edits.outcome import Outcome
from hame.errors import BadEdit
from hame.scene.scene import Scene

DELAY = Within(-24, 24, "frames", "parts are delayed by up to 24 frames, not {value:g}")
AMPLITUDE = Within(0.0, 2.0, "share", "amplitude goes from 0 to 200 percent")


@dataclass(frozen=True)
class Trail:
    """Some controls that trail (or, below zero, lead) by so many frames, with so much of their amplitude."""

    controls: Names
    frames: Annotated[int, DELAY]
    amplitude: Annotated[float, AMPLITUDE] = 1.0


def delay_parts(
    clip: Clip, rig: Rig, chain: Sequence[Trail], first: int | None = None, last: int | None = None
) -> Outcome:
    """Shifts the keys of each link, and scales its turns about their middle.

    In a cycle the keys go round its end; where the second half echoes the
    first, a key that passes the middle comes back on the other side of the
    body, so both sides are always delayed alike; keys outside of cycles stay
    where some are. Elsewhere only keys from
    ``first`` to ``last`` are shifted, and without a ``first`` all but those of
    the first pose: a motion begins where it began.
    """
    if not chain:
        raise BadEdit("no part is chosen to delay")
    cycles = cycles_of(clip)
    changes: dict[str, Curve | None] = {}
    notes: list[str] = []
    replaced = 0
    begins = min((float(curve.table[0, FRAME]) for curve in own_curves(clip.curves).values()), default=0.0)
    for link in chain:
        DELAY.check(whole_frame(link.frames))
        AMPLITUDE.check(link.amplitude)
        names = list(dict.fromkeys(link.controls))
        if any(cycle.echo for cycle in cycles):
            others = [o for n in names if (o := rig.control(n).other) not in names and rig.has_control(o)]
            names += others
        addresses = [c.address for name in names for c in rig.channels_of(name) if c.address in clip.curves]
        stack = _scaled(clip, rig, addresses, link.amplitude)
        if cycles:
            for cycle in cycles:
                laid = _round(rig, stack, link.frames, cycle)
                stack = stacked({address: curve for address, curve in laid.items() if curve is not None})
                changes |= laid
            continue
        frames = stack.keys[:, FRAME]
        going = np.ones(len(frames), bool)
        going &= frames > begins if first is None else frames >= first
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
    cycles = cycles_of(clip)
    played = played_curves(clip, rig, *((cycles[0].start, cycles[-1].end) if cycles else ()))
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
    keys, step = stack.keys.copy(), cycle.step
    inside = cycle.holds(keys[:, FRAME])
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
    keys[odd] *= np.where(np.isin(np.arange(WIDTH), (VALUE, IN_VALUE, OUT_VALUE)), sign[odd, None], 1.0)
    owner = np.where(odd, other, own)
    known = owner >= 0
    laid = unstacked(Stack(tuple(names), owner[known], keys[known]))
    return {name: laid.get(name) for name in names}


@dataclass(frozen=True, kw_only=True)
class DelayParts(Edit):
    """Parts that trail down a chain."""

    kind: Literal["delay"] = "delay"
    chain: Annotated[tuple[Trail, ...], AtMost(50)]
    first: Frame | None = None
    last: Frame | None = None

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        return delay_parts(clip, rig, self.chain, self.first, self.last)

    def label(self, rig: Rig, scene: Scene) -> str:
        names = [name for link in self.chain for name in link.controls]
        return f"Part delay of {controls_said(rig, names)}"
