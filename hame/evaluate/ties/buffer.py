"""The rows of one call, in which ties are worked out."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from hame.character.rig import Rig
from hame.evaluate.kernel import ORDERS, run
from hame.evaluate.players import part_of
from hame.evaluate.stage import Ints, Rows
from hame.evaluate.ties import kernel
from hame.evaluate.ties.known import Known
from hame.evaluate.ties.links import FOREVER, Planted, TiedControl, row_of
from hame.evaluate.ties.order import Name
from hame.evaluate.ties.plan import Window
from hame.maths import transforms
from hame.maths.rotations import Array
from hame.program import NONE


@dataclass(frozen=True, eq=False)
class Buffer:
    """Times with the values of all who play there, as they are made.

    Attributes
    ----------
    picked : (N,) the row of the call that each is of; the end of an epoch is there once more beside being the first
        time of the next, since both sides are looked at
    times, epoch_of : (N,)
    keyed : (N, C) the values that ties are worked into
    played : (N, C) those that they are worked out to
    near : by link, (N, 6) its values as they are seen in the frame that carries it, as its keys are
    table : by link, (P, PLANT) its plants for the kernel
    over : by channel, what stands instead; standing : (K,) the rows where it does
    """

    window: Window
    rigs: tuple[Rig, ...]
    picked: Ints
    times: Array
    epoch_of: Ints
    keyed: Array
    played: Array
    near: dict[Name, Array]
    table: dict[Name, Array]
    over: dict[int, float]
    standing: Ints

    def stand(self, nodes: tuple[int, ...], a: int, b: int) -> Array:
        """Transforms (n, K, 8) of nodes in the rows from a to before b; the world's for NONE."""
        some = part_of(self.rigs, nodes)
        out = np.empty((b - a, some.program.nodes, 8))
        run(some.program.ops, some.program.params, ORDERS, self.played[a:b], out)
        found = out[:, some.at]
        found[:, some.at == NONE] = transforms.IDENTITY
        return found

    def epoch_rows(self, number: int) -> tuple[int, int]:
        """The first row of an epoch, and the one after its last."""
        a, b = np.searchsorted(self.epoch_of, [number, number + 1])
        return int(a), int(b)

    def result(self, rows: Rows) -> Array:
        """The values (T, C) in the rows of the call: of a time that is there twice, the later epoch's."""
        if len(self.picked) == len(rows.times):
            return self.played
        return self.played[np.searchsorted(self.picked, np.arange(len(rows.times)), side="right") - 1]


def buffer_of(window: Window, rows: Rows, before: Array, known: Known | None) -> Buffer:
    """A buffer for the rows of a call; where all is ``known`` that ties need, each time is looked at once."""
    inside = [
        np.flatnonzero(
            (rows.times >= epoch.first) & ((rows.times < epoch.last) if known else (rows.times <= epoch.last))
        )
        for epoch in window.plan.epochs
    ]
    picked = np.concatenate(inside)
    keyed = before if len(picked) == len(before) else before[picked]
    over = {channel: rows.over[channel] for channel in rows.over.keys() & written_by(window)}
    standing = np.flatnonzero(np.isin(picked, rows.asked))
    played = keyed.copy()
    for channel, value in over.items():  # until a tie comes to it, and where none does
        played[standing, channel] = value
    return Buffer(
        window,
        tuple(player.rig for player in rows.players.values()),
        picked,
        rows.times[picked],
        np.repeat(np.arange(len(inside)), [len(part) for part in inside]),
        keyed,
        played,
        {name: played[:, link.channels].copy() for name, link in window.links.items()},
        {link.name: _table(link, plants, known) for link, plants in window.plants.items()},
        over,
        standing,
    )


def written_by(window: Window) -> frozenset[int]:
    """The channels of which ties say what they are, and none that stands instead may be laid on before.

    The softness of a limb is none of them: what is laid on it is what fades in a plant.
    """
    return frozenset(channel for link in window.plants for channel in range(link.first, link.first + 6))


def _table(link: TiedControl, plants: tuple[Planted, ...], known: Known | None) -> Array:
    told = [known.plants[link.name, p] if known else row_of(link, p) for p in plants]
    return np.array(told).reshape(-1, kernel.PLANT)


def edges(window: Window) -> list[float]:
    """The times at which epochs meet."""
    return [t for epoch in window.plan.epochs for t in (epoch.first, epoch.last) if abs(t) < FOREVER]
