"""A control with ties over the rows of an epoch: where its plants hold it there, and how it leaves them."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from hame.evaluate import ties_kernel
from hame.evaluate.links import STEP_BACK, Link, Planted
from hame.maths import transforms
from hame.maths.rotations import Array
from hame.program import NONE

if TYPE_CHECKING:
    from hame.evaluate.tied import Tied


@dataclass
class Stretch:
    """A link in the rows of an epoch, with the frames that it is placed in.

    Attributes
    ----------
    times : (n,) of the rows
    a, b : its first row among all that are worked out, and the one after its last
    place, turn : (n, 8) and (n, 4) the frame that carries its place, and its turn
    own : (n, 8) the frame that its rig gives it
    things : (K, n, 8) what its plants stand on
    """

    tied: Tied
    link: Link
    times: Array
    a: int
    b: int
    place: Array
    turn: Array
    own: Array
    things: Array

    def settle(self, rows: slice, count: int) -> None:
        """Works out some rows with the first ``count`` plants."""
        link, tied = self.link, self.tied
        here = slice(rows.start - self.a, rows.stop - self.a)
        size = rows.stop - rows.start
        keyed = tied.keyed[rows]
        soft = keyed[:, link.soft] if link.soft != NONE else np.zeros(size)
        out, soft_out = np.empty((size, 6)), np.empty(size)
        near = np.empty((size, 6))
        ties_kernel.settle(
            self.times[here], np.ascontiguousarray(keyed[:, link.first : link.first + 6]), np.ascontiguousarray(soft),
            self.place[here], self.turn[here], self.own[here], np.ascontiguousarray(self.things[:, here]), link.table,
            count, link.control.pre, link.order, out, near, soft_out,
        )  # fmt: skip
        link.near[rows] = near
        rig = tied.players[link.figure].rig
        free = rig.free[link.control.first : link.control.first + 6]
        for c in np.flatnonzero(free).tolist():
            tied.played[rows, link.first + c] = out[:, c]
        if link.soft != NONE:
            tied.played[rows, link.soft] = soft_out
        if tied.laid:
            self._lay_over(rows)

    def _lay_over(self, rows: slice) -> None:
        """Lays what stands instead over rows that were asked for: then that is where the control is."""
        link, tied = self.link, self.tied
        laid = {c: tied.laid[link.first + c] for c in range(6) if link.first + c in tied.laid}
        here = tied.laid_rows[(tied.laid_rows >= rows.start) & (tied.laid_rows < rows.stop)]
        if not laid or not len(here):
            return
        for c, value in laid.items():
            tied.played[here, link.first + c] = value
        for row in here.tolist():
            link.near[row] = self.near_of(row, tied.played[row, link.first : link.first + 6])

    def row_at(self, time: float) -> int:
        """The row of a time of the epoch; none of it for a time that is not there."""
        inside = int(np.searchsorted(self.times, time))
        return self.a + inside if inside < len(self.times) and self.times[inside] == time else -1

    def world(self, row: int, near: Array) -> Array:
        """Where a control is (8,) in a row, by its values (6,) in the frame that carries it."""
        there, n = np.empty(8), row - self.a
        ties_kernel.world_of(self.place[n], self.turn[n], near, self.link.control.pre, self.link.order, there)
        return there

    def thing(self, row: int, plant: int) -> Array:
        """Where what a plant stands on is (8,) in a row."""
        number = int(self.link.table[plant, ties_kernel.THING])
        return transforms.IDENTITY if number < 0 else np.asarray(self.things[number, row - self.a])

    def near_of(self, row: int, values: Array) -> Array:
        """Values (6,) as they play, seen in the frame that carries the control in a row."""
        link, n = self.link, row - self.a
        there = np.empty(8)
        own = self.own[n]
        ties_kernel.world_of(own, own[3:7], values, link.control.pre, link.order, there)
        near = self.tied.keyed[row, link.first : link.first + 6].copy()
        ties_kernel.seen_from(self.place[n], self.turn[n], there, link.control.pre, link.order, near)
        return near

    def begin(self, number: int, plant: Planted) -> None:
        """Finds where a plant holds its limb."""
        k, link, table = ties_kernel, self.link, self.link.table
        row = self._row(plant.span.start)
        self.settle(slice(row, row + 1), number)
        near = link.near[row]
        there = self.world(row, near)
        if not plant.follows_on:  # it stays where the limb is, which may not have reached as far as it was to
            end, target = self.tied.stand(link.limb_nodes, row, row + 1)[0]
            there[:3] += end[:3] - target[:3]
        seen = self.thing(row, number)
        table[number, k.KEPT : k.KEPT + 6] = near - self.tied.keyed[row, link.first : link.first + 6]
        if plant.span.about:
            pivot = transforms.IDENTITY.copy()
            pivot[:3] = table[number, k.PIVOT : k.PIVOT + 3]
            table[number, k.HELD : k.HELD + 3] = relative_to(seen, composed(there, pivot))[:3]
        else:
            table[number, k.HELD : k.HELD + 8] = relative_to(seen, there)
        if plant.span.land:
            before, after = self._row(plant.span.start - STEP_BACK), self._row(plant.span.start + STEP_BACK)
            self.settle(slice(row, after + 1), number + 1)
            keyed = self.tied.keyed[:, link.first : link.first + 6]
            speed = (link.near[after] - link.near[row]) - (keyed[row] - keyed[before])
            table[number, k.MEET : k.MEET + 6] = speed / STEP_BACK

    def let_go(self, number: int) -> None:
        """Finds how far from its keys a limb is when it is let go, and how fast it goes from or towards them."""
        k, link, table = ties_kernel, self.link, self.link.table
        end = float(table[number, k.UNTIL])
        row, before, after = (self._row(t) for t in (end, end - STEP_BACK, end + STEP_BACK))
        for n in (before, row):
            if self.a <= n:
                self.settle(slice(n, n + 1), number + 1)
        keyed = self.tied.keyed[:, link.first : link.first + 6]
        table[number, k.GAP : k.GAP + 6] = link.near[row] - keyed[row]
        speed = (link.near[row] - link.near[before]) - (keyed[after] - keyed[row])
        table[number, k.SLOPE : k.SLOPE + 6] = speed / STEP_BACK

    def _row(self, time: float) -> int:
        """The row of an event: in this epoch if it is in it."""
        here = self.row_at(time)
        return here if here >= 0 else int(np.searchsorted(self.tied.times, time))


def composed(outer: Array, inner: Array) -> Array:
    """:func:`hame.maths.transforms.compose` of two single transforms (8,), without its cost for many."""
    out = np.empty(8)
    ties_kernel.compose(outer, inner, out)
    return out


def relative_to(outer: Array, world: Array) -> Array:
    """:func:`hame.maths.transforms.relative` of two single transforms (8,), without its cost for many."""
    out = np.empty(8)
    ties_kernel.relative(outer, world, out)
    return out
