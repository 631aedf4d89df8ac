"""A control with ties over the rows of an epoch: where its plants hold it there, and how it leaves them."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from hame.evaluate.ties import kernel
from hame.evaluate.ties.buffer import Buffer
from hame.evaluate.ties.links import STEP_BACK, Planted, TiedControl
from hame.maths import transforms
from hame.maths.rotations import Array
from hame.program import NONE


@dataclass(frozen=True, eq=False)
class Passage:
    """A link in the rows of an epoch, with the frames that it is placed in.

    Attributes
    ----------
    times : (n,) of the rows
    a, b : its first row among those of the buffer, and the one after its last
    place, turn : (n, 8) and (n, 4) the frame that carries its place, and its turn
    own : (n, 8) the frame that its rig gives it
    things : (K, n, 8) what its plants stand on
    """

    link: TiedControl
    times: Array
    a: int
    b: int
    place: Array
    turn: Array
    own: Array
    things: Array

    def row_at(self, time: float) -> int:
        """The row of a time of the epoch; none of it for a time that is not there."""
        inside = int(np.searchsorted(self.times, time))
        return self.a + inside if inside < len(self.times) and self.times[inside] == time else -1

    def world(self, row: int, near: Array) -> Array:
        """Where a control is (8,) in a row, by its values (6,) in the frame that carries it."""
        there, n = np.empty(8), row - self.a
        kernel.world_of(self.place[n], self.turn[n], near, self.link.control.pre, self.link.order, there)
        return there

    def thing(self, row: int, table: Array, plant: int) -> Array:
        """Where what a plant stands on is (8,) in a row; ``table (P, PLANT)`` is of all plants of the link."""
        number = int(table[plant, kernel.THING])
        return transforms.IDENTITY if number < 0 else np.asarray(self.things[number, row - self.a])

    def near_of(self, row: int, values: Array, keyed: Array) -> Array:
        """Values (6,) as they play, seen in the frame that carries the control in a row; ``keyed (6,)`` there."""
        link, n = self.link, row - self.a
        there = np.empty(8)
        own = self.own[n]
        kernel.world_of(own, own[3:7], values, link.control.pre, link.order, there)
        near = keyed.copy()
        kernel.seen_from(self.place[n], self.turn[n], there, link.control.pre, link.order, near)
        return near


def settle(buffer: Buffer, passage: Passage, a: int, b: int, count: int) -> None:
    """Works out the rows from a to before b with the first ``count`` plants."""
    link = passage.link
    here = slice(a - passage.a, b - passage.a)
    size = b - a
    keyed = buffer.keyed[a:b]
    soft = keyed[:, link.soft] if link.soft != NONE else np.zeros(size)
    out, soft_out = np.empty((size, 6)), np.empty(size)
    near = np.empty((size, 6))
    kernel.settle(
        passage.times[here], np.ascontiguousarray(keyed[:, link.channels]), np.ascontiguousarray(soft),
        passage.place[here], passage.turn[here], passage.own[here], np.ascontiguousarray(passage.things[:, here]),
        buffer.table[link.name], count, link.control.pre, link.order, out, near, soft_out,
    )  # fmt: skip
    buffer.near[link.name][a:b] = near
    free = buffer.window.plan.players[link.figure].rig.free[link.control.first : link.control.first + 6]
    for c in np.flatnonzero(free).tolist():
        buffer.played[a:b, link.first + c] = out[:, c]
    if link.soft != NONE:
        buffer.played[a:b, link.soft] = soft_out
    if buffer.over:
        _stand_instead(buffer, passage, a, b)


def _stand_instead(buffer: Buffer, passage: Passage, a: int, b: int) -> None:
    """Lays what stands instead over rows that were asked for: then that is where the control is."""
    link = passage.link
    over = {c: buffer.over[link.first + c] for c in range(6) if link.first + c in buffer.over}
    here = buffer.standing[(buffer.standing >= a) & (buffer.standing < b)]
    if not over or not len(here):
        return
    for c, value in over.items():
        buffer.played[here, link.first + c] = value
    for row in here.tolist():
        keyed, played = buffer.keyed[row, link.channels], buffer.played[row, link.channels]
        buffer.near[link.name][row] = passage.near_of(row, played, keyed)


def begin(buffer: Buffer, passage: Passage, number: int, plant: Planted) -> None:
    """Finds where a plant holds its limb."""
    k, link = kernel, passage.link
    table, near = buffer.table[link.name], buffer.near[link.name]
    row = _row(buffer, passage, plant.span.start)
    settle(buffer, passage, row, row + 1, number)
    there = passage.world(row, near[row])
    if not plant.follows_on:  # it stays where the limb is, which may not have reached as far as it was to
        end, target = buffer.stand(link.limb_nodes, row, row + 1)[0]
        there[:3] += end[:3] - target[:3]
    seen = passage.thing(row, table, number)
    table[number, k.KEPT : k.KEPT + 6] = near[row] - buffer.keyed[row, link.channels]
    if plant.span.about:
        pivot = transforms.IDENTITY.copy()
        pivot[:3] = table[number, k.PIVOT : k.PIVOT + 3]
        table[number, k.HELD : k.HELD + 3] = relative_to(seen, composed(there, pivot))[:3]
    else:
        table[number, k.HELD : k.HELD + 8] = relative_to(seen, there)
    if plant.span.land:
        before, after = (_row(buffer, passage, plant.span.start + step) for step in (-STEP_BACK, STEP_BACK))
        settle(buffer, passage, row, after + 1, number + 1)
        keyed = buffer.keyed[:, link.channels]
        speed = (near[after] - near[row]) - (keyed[row] - keyed[before])
        table[number, k.MEET : k.MEET + 6] = speed / STEP_BACK


def let_go(buffer: Buffer, passage: Passage, number: int) -> None:
    """Finds how far from its keys a limb is when it is let go, and how fast it goes from or towards them."""
    k, link = kernel, passage.link
    table, near = buffer.table[link.name], buffer.near[link.name]
    end = float(table[number, k.UNTIL])
    row, before, after = (_row(buffer, passage, t) for t in (end, end - STEP_BACK, end + STEP_BACK))
    for n in (before, row):
        if passage.a <= n:
            settle(buffer, passage, n, n + 1, number + 1)
    keyed = buffer.keyed[:, link.channels]
    table[number, k.GAP : k.GAP + 6] = near[row] - keyed[row]
    speed = (near[row] - near[before]) - (keyed[after] - keyed[row])
    table[number, k.SLOPE : k.SLOPE + 6] = speed / STEP_BACK


def _row(buffer: Buffer, passage: Passage, time: float) -> int:
    """The row of an event: in this epoch if it is in it."""
    here = passage.row_at(time)
    return here if here >= 0 else int(np.searchsorted(buffer.times, time))


def composed(outer: Array, inner: Array) -> Array:
    """:func:`hame.maths.transforms.compose` of two single transforms (8,), without its cost for many."""
    out = np.empty(8)
    kernel.compose(outer, inner, out)
    return out


def relative_to(outer: Array, world: Array) -> Array:
    """:func:`hame.maths.transforms.relative` of two single transforms (8,), without its cost for many."""
    out = np.empty(8)
    kernel.relative(outer, world, out)
    return out
