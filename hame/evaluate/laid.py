"""Layers laid over channel values, and the way back, for keying what is seen.

A layer adds to each channel what it holds for it. Turns it adds angle by
angle, or, where it is told so (:attr:`Layer.turned`), it lays them on as
turns: a head that looks aside is nodded by a nod about its own ears, which
sums of angles are only while they are small.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from hame.character.rig import TURN, Rig
from hame.clip.clip import Clip
from hame.clip.curve import Curve
from hame.clip.layer import Layer
from hame.clip.layers import WEIGHT, layers_of, parted, sounding, weights
from hame.clip.sampling import Table, sample, tabulate
from hame.evaluate import laid_kernel
from hame.evaluate.players import Players, first_channels
from hame.evaluate.stage import Before, Hang, Ints, Keys, Rows, Stage, Task
from hame.maths.rotations import Array, axes_of


@dataclass(frozen=True, eq=False)
class Turns:
    """The controls of a rig that turn about three axes.

    Attributes
    ----------
    columns : (T, 3) the numbers of their channels, in the sequence of their axes
    axes : (T, 3) those axes
    """

    columns: Ints
    axes: Ints

    def among(self, channels: Iterable[int]) -> Turns:
        """Those of which some channel is among these."""
        mine = np.isin(self.columns, list(channels)).any(axis=1)
        return Turns(self.columns[mine], self.axes[mine])


@lru_cache(maxsize=256)
def turns_of(rig: Rig) -> Turns:
    """A control with an axis locked is not among them: turning it as a whole could turn it about that."""
    columns, axes = [], []
    for control in rig.controls:
        mine = {c.name: rig.number(c.address) for c in rig.channels_of(control.name) if c.kind == TURN and not c.locked}
        names = [f"r{axis.lower()}" for axis in control.order]
        if all(name in mine for name in names):
            columns.append([mine[name] for name in names])
            axes.append(list(axes_of(control.order)))
    return Turns(np.array(columns, np.int64).reshape(-1, 3), np.array(axes, np.int64).reshape(-1, 3))


@dataclass(frozen=True, eq=False)
class Laid:
    """What one layer lays over some frames.

    Attributes
    ----------
    over : (F, C) what it holds for the channels
    counts : (F,) how much of it counts
    turns : those that it lays on as turns; none of a layer that adds angle by angle
    """

    number: int
    over: Array
    counts: Array
    turns: Turns

    def lay(self, values: Array) -> Array:
        """Channel values (F, C) with the layer on them."""
        return self._turned(values, values + self._plain(), back=False)

    def lift(self, values: Array) -> Array:
        """Channel values (F, C) without it."""
        return self._turned(values, values - self._plain(), back=True)

    def _turned(self, values: Array, result: Array, back: bool) -> Array:
        """``result`` with the turns of ``values`` turned as a whole."""
        result[:, self.turns.columns] = values[:, self.turns.columns]
        laid_kernel.turn(result, self.over, self.counts, self.turns.columns, self.turns.axes, back)
        return result

    def wanted(self, values: Array, below: Array) -> Array:
        """What it has to hold (F, C) for ``below (F, C)`` to become ``values (F, C)``; on each row it counts."""
        held = self.counts[:, None] * self.over
        result = values - below
        result[:, self.turns.columns] = values[:, self.turns.columns]
        laid_kernel.part(result, below, held, self.turns.columns, self.turns.axes)
        return np.asarray(result / self.counts[:, None])

    def _plain(self) -> Array:
        return np.asarray(self.counts[:, None] * self.over)


def laid_over(rig: Rig, clip: Clip, times: Array) -> list[Laid]:
    """The layers of a clip that count at ``times (F,)`` and hold something, the lowest first."""
    chosen = sounding(clip) if clip.tracks else []
    if not chosen:
        return []
    tables = clip.remembered(("layers", rig), lambda: _tables(rig, clip))
    return [
        Laid(number, sample(tables[number][0], times), weights(clip, number, times), tables[number][1])
        for number in chosen
        if number in tables
    ]


def laid_on(rig: Rig, clip: Clip, times: Array, values: Array) -> Array:
    """Channel values ``(F, C)`` at ``times`` with all layers on them."""
    for layer in laid_over(rig, clip, times):
        values = layer.lay(values)
    return values


class Layers(Stage):
    """The stage that lays layers over what is keyed."""

    name = Layer.stage

    def concerns(self, clip: Clip) -> bool:
        return bool(clip.tracks) and bool(sounding(clip))

    def task(self, players: Players, frames: Array, over: bool) -> Task:
        return _Laying()

    def hangs(self, players: Players) -> Iterator[Hang]:
        return iter(())  # what they add does not depend on anything

    def back(self, players: Players, of: int, frame: int, wanted: Mapping[str, float], before: Before) -> Keys:
        """Where a control is turned as a whole all its angles are keyed, if one of them is wanted."""
        rig, clip = players[of].rig, players[of].clip
        time = np.array([float(frame)])
        layers = laid_over(rig, clip, time)
        if not layers:
            return {frame: dict(wanted)}
        first = first_channels(players)[of]
        values = laid_on(rig, clip, time, before(time)[:, first : first + len(rig.channels)])
        values = np.clip(values, rig.low, rig.high)  # as they are seen
        asked = {rig.number(address): value for address, value in wanted.items() if rig.has_channel(address)}
        for n, value in asked.items():
            values[0, n] = value
        together = {*asked}
        for layer in layers:
            columns = layer.turns.columns
            moved = (layer.counts[0] * layer.over[0, columns] != 0.0).any(axis=1) if len(columns) else np.zeros(0, bool)
            mine = np.isin(columns, list(asked)).any(axis=1) & moved
            together |= set(columns[mine].ravel().tolist())
        for layer in reversed(layers):
            values = layer.lift(values)
        below = {rig.addresses[n]: float(values[0, n]) for n in sorted(together)}
        return {frame: {**{a: v for a, v in wanted.items() if not rig.has_channel(a)}, **below}}


class _Laying(Task):
    def values(self, rows: Rows, before: Array) -> Array:
        laid = [
            laid_on(player.rig, player.clip, rows.times, before[:, rows.of(number)])
            for number, player in rows.players.items()
        ]
        return laid[0] if len(laid) == 1 else np.concatenate(laid, axis=1)


def _tables(rig: Rig, clip: Clip) -> dict[int, tuple[Table, Turns]]:
    """By layer, what it holds, laid out for the sampler, and what it lays on as turns; in one go over all curves."""
    found: dict[int, dict[str, Curve]] = {}
    for address, curve in clip.curves.items():
        if address.startswith("#"):
            number, own = parted(address)
            if own != WEIGHT and rig.has_channel(own):
                found.setdefault(number, {})[own] = curve
    nothing, layers, turns = np.zeros(len(rig.channels)), layers_of(clip), turns_of(rig)
    return {
        number: (
            tabulate(curves, rig.addresses, nothing),
            turns.among(rig.number(own) for own in curves if number in layers and layers[number].turned),
        )
        for number, curves in found.items()
    }
