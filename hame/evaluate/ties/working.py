"""Ties worked out in the rows of a call: epoch by epoch, each control after those that carry it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from itertools import groupby
from typing import NamedTuple

import numpy as np

from hame.evaluate.ties import kernel
from hame.evaluate.ties.buffer import Buffer
from hame.evaluate.ties.known import Known
from hame.evaluate.ties.links import Epoch, Planted, TiedControl, tie_in, tie_row, until
from hame.evaluate.ties.order import Name
from hame.evaluate.ties.passage import Passage, begin, composed, let_go, relative_to, settle
from hame.evaluate.ties.plan import Window
from hame.maths import transforms
from hame.maths.rotations import Array
from hame.program import NONE


class Lie(NamedTuple):
    """Where the frame of a control lies (8,): ``kept`` in what carries it by itself, ``offset`` in its owner."""

    kept: Array = transforms.IDENTITY  # which itself says that it lies where its rig puts it
    offset: Array = transforms.IDENTITY


Passages = Mapping[Name, Sequence[Passage]]


def found(buffer: Buffer, known: Known) -> Passages:
    """Works out everything, epoch by epoch, and tells what is known by that; the passages in which links are tied."""
    window, seen = buffer.window, dict[Name, list[Passage]]()
    # How a limb is to land is known when it has landed: where that is in a later epoch, all is gone over again.
    lies = dict.fromkeys(window.links, Lie())
    for _ in range(2 if any(_lands_across(window, plants) for plants in window.plants.values()) else 1):
        seen = {}
        lies = {name: Lie(offset=lie.offset) for name, lie in lies.items()}
        for number, epoch in enumerate(window.plan.epochs):
            a, b = buffer.epoch_rows(number)
            if a == b:
                continue
            for name in _order(window, known, epoch):
                kept = lies[name].kept
                passage, lies[name] = _worked_out(buffer, window.links[name], epoch, a, b, lies[name], fresh=True)
                if passage is not None:
                    seen.setdefault(name, []).append(passage)
                known.frames[name, epoch.first] = kept, lies[name].offset
    for link, plants in window.plants.items():
        known.plants.update({(link.name, p): row for p, row in zip(plants, buffer.table[link.name], strict=True)})
    return seen


def lay(buffer: Buffer, known: Known) -> None:
    """Works out the rows by what is known: in one order for all times, where there is one."""
    window = buffer.window
    if window.names not in known.whole:
        known.whole[window.names] = window.order()
    order = known.whole[window.names]
    runs = [
        (epoch, *rows)
        for number, epoch in enumerate(window.plan.epochs)
        if (rows := buffer.epoch_rows(number))[0] < rows[1]
    ]
    if order is not None:
        for name in order:
            _lay_link(buffer, window.links[name], known, runs)
        return
    for run in runs:
        for name in _order(window, known, run[0]):
            _lay_link(buffer, window.links[name], known, [run])


def _order(window: Window, known: Known, epoch: Epoch) -> tuple[Name, ...]:
    key = epoch, window.names
    if key not in known.orders:
        known.orders[key] = window.order_in(epoch)[0]
    return known.orders[key]


def _lay_link(buffer: Buffer, link: TiedControl, known: Known, runs: Sequence[tuple[Epoch, int, int]]) -> None:
    """A link in the rows of some epochs, those together in which nothing changes for it."""

    def state(run: tuple[Epoch, int, int]) -> tuple[int, int, int]:
        tie = tie_in(link, run[0])
        kept, offset = known.frames[link.name, run[0].first]
        return id(kept), 0 if tie is None else id(tie), 0 if tie is None else id(offset)

    for _, group in groupby(runs, state):
        mine = list(group)
        lie = Lie(*known.frames[link.name, mine[0][0].first])
        together = Epoch(mine[0][0].first, mine[-1][0].last)
        _worked_out(buffer, link, together, mine[0][1], mine[-1][2], lie, fresh=False)


def _lands_across(window: Window, plants: Sequence[Planted]) -> bool:
    return any(
        p.span.start - p.span.land < e <= p.span.start for p in plants if p.span.land for e in window.plan.changes
    )


def _worked_out(
    buffer: Buffer, link: TiedControl, epoch: Epoch, a: int, b: int, lie: Lie, fresh: bool
) -> tuple[Passage | None, Lie]:
    """A link worked out in the rows from a to before b, which are those of an epoch, and how its frame lies after it.

    Parameters
    ----------
    fresh : nothing is known yet of where plants hold and owners carry
    """
    window = buffer.window
    plants, tie, times = window.plants[link], tie_in(link, epoch), buffer.times[a:b]
    touched = any(p.free >= times[0] and p.span.start - p.span.land <= times[-1] for p in plants)
    if tie is None and not touched and lie.kept is transforms.IDENTITY:
        return None, lie
    owner = NONE if tie is None else window.plan.owner(link, tie.figure, tie.to)
    things = [window.plan.owner(link, p.span.figure, p.span.thing) for p in plants]
    used = [thing for thing in dict.fromkeys(things) if thing != NONE]
    stand = buffer.stand((link.own, owner, *used), a, b)
    own, owned, on = (np.ascontiguousarray(part) for part in (stand[:, 0], stand[:, 1], stand[:, 2:].swapaxes(0, 1)))
    kept, offset = lie.kept, lie.offset
    if tie is not None and tie.start == epoch.first and fresh:  # so that nothing jumps as it comes to its owner
        offset = relative_to(owned[0], composed(own[0], kept))
    place, turn = np.empty((b - a, 8)), np.empty((b - a, 4))
    row = np.zeros(7) if tie is None else tie_row(link, tie)
    kernel.frames_of(times, own, owned, kept, offset, row, place, turn)
    buffer.table[link.name][:, kernel.THING] = [used.index(thing) if thing != NONE else NONE for thing in things]
    passage = Passage(link, times, a, b, place, turn, own, on)
    for number, plant in enumerate(plants if fresh else ()):
        start, end = plant.span.start, plant.until
        if epoch.first <= start < epoch.last:
            begin(buffer, passage, number, plant)
        if plant.free > end and (epoch.first < end <= epoch.last or start == end == epoch.first):
            let_go(buffer, passage, number)
    settle(buffer, passage, a, b, len(plants))
    if tie is not None and not tie.ease_out and until(link, tie) == epoch.last and fresh:
        kept = relative_to(own[-1], _left(place[-1], turn[-1], buffer.near[link.name][b - 1]))
    return passage, Lie(kept, offset)


def _left(place: Array, turn: Array, near: Array) -> Array:
    """The frame (8,) of a control that is let go where it is: one for its place (8,) and its turn (4,) together."""
    seen = transforms.IDENTITY.copy()
    seen[:3] = near[:3]
    frame = transforms.transform(np.zeros(3), turn, place[7])
    frame[:3] = composed(place, seen)[:3] - composed(frame, seen)[:3]
    return frame
