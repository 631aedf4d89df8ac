"""The way back from how a tied control is to stand to what is keyed for it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from hame.evaluate.stage import Keys
from hame.evaluate.ties import kernel
from hame.evaluate.ties.buffer import Buffer
from hame.evaluate.ties.links import SIX
from hame.evaluate.ties.passage import Passage
from hame.evaluate.ties.working import Passages
from hame.maths import transforms
from hame.maths.rotations import Array
from hame.program import NONE

MOVED = 1e-9  # metres and radians: less is no wish to move


@dataclass(frozen=True)
class Tied:
    """Ties worked out, with the passages in which each link is tied."""

    buffer: Buffer
    passages: Passages


def keys_back(tied: Tied, of: int, row: int, frame: int, wanted: Mapping[str, float]) -> Keys:
    """By frame, what to key for a player to stand at ``frame``, in the buffer's ``row``, as ``wanted``."""
    keys: Keys = {frame: dict(wanted)}
    for name, passages in tied.passages.items():
        passage = next((one for one in passages if name[0] == of and one.a <= row < one.b), None)
        if passage is not None:  # where nothing ties it, it is keyed as it plays
            for at, values in _keys_of(tied, passage, row, frame, wanted).items():
                keys.setdefault(at, {}).update(values)
    return keys


def _keys_of(tied: Tied, passage: Passage, row: int, frame: int, wanted: Mapping[str, float]) -> Keys:
    """The same for one tied control; nothing where it is keyed as it plays."""
    link, buffer = passage.link, tied.buffer
    plants = buffer.window.plants[link]
    names = [f"{link.control.name}/{c}" for c in SIX]
    played, keyed = (values[row, link.channels] for values in (buffer.played, buffer.keyed))
    aim = np.array([wanted.get(name, value) for name, value in zip(names, played, strict=True)])
    found: Keys = {frame: {}}
    held = next((n for n, p in enumerate(plants) if p.span.start <= frame <= p.until), None)
    if link.soft != NONE and link.limb is not None and f"{link.limb.name}/soft" in wanted:
        soft = f"{link.limb.name}/soft"
        if abs(wanted[soft] - buffer.played[row, link.soft]) < MOVED:
            found[frame][soft] = float(buffer.keyed[row, link.soft])
    told = [any(name in wanted for name in names[:3]), any(name in wanted for name in names[3:])]
    if not any(told):
        return found
    near, goal = buffer.near[link.name][row].copy(), passage.near_of(row, aim, keyed)
    off = near - keyed
    if held is not None and (plants[held].span.start < frame or plants[held].follows_on):
        if np.abs(aim - played).max() > MOVED:
            first = held
            while plants[first].follows_on:
                first -= 1
            start = plants[first].span.start
            there = _carried_back(tied, passage, row, goal, held, start)
            found[start] = {name: float(value) for name, value in zip(names, there, strict=True)}
        # A key while it is planted says nothing: what its curve says already, so that nothing else changes by it.
        goal[:3] = near[:3]
        if not plants[held].span.about:
            goal[3:] = near[3:]
    elif held is None:
        leaving = next((p for p in plants if p.until < frame <= p.free), None)
        if leaving is not None and not leaving.span.release:
            off = np.zeros(6)  # the new key is the one that it comes back to
    values = goal - off
    free = buffer.window.plan.players[link.figure].rig.free[link.control.first : link.control.first + 6]
    whole = [bool(np.abs(values[n : n + 3] - aim[n : n + 3]).max() > 1e-12) for n in (0, 3)]
    for c, name in enumerate(names):
        if name in wanted or (free[c] and told[c // 3] and whole[c // 3]):
            found[frame][name] = float(values[c])
    return found


def _carried_back(tied: Tied, passage: Passage, row: int, goal: Array, held: int, start: int) -> Array:
    """The values (6,) at the start of a plant that bring what it holds at a row to ``goal (6,)``."""
    link, buffer = passage.link, tied.buffer
    table, near = buffer.table[link.name], buffer.near[link.name]
    then = next(s for s in tied.passages[link.name] if s.row_at(start) >= 0)
    first = then.row_at(start)
    now, aim, before = passage.world(row, near[row]), passage.world(row, goal), then.world(first, near[first])
    if buffer.window.plants[link][held].span.about:
        pivot = table[held, kernel.PIVOT : kernel.PIVOT + 3]
        now, aim = (transforms.transform(transforms.apply(t, pivot)) for t in (now, aim))
    # Seen from what it stands on, which may have moved since.
    here, there = passage.thing(row, table, held), then.thing(first, table, held)
    way = transforms.compose(transforms.relative(here, aim), transforms.inverse(transforms.relative(here, now)))
    moved = transforms.compose(there, transforms.compose(way, transforms.relative(there, before)))
    wanted = near[first].copy()
    kernel.seen_from(then.place[first - then.a], then.turn[first - then.a], moved, link.control.pre, link.order, wanted)
    off = near[first] - buffer.keyed[first, link.channels]
    return np.asarray(wanted - off)
