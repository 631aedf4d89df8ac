"""Ways: who goes along one moves as that has it, whatever is keyed below; what it does not pose plays as keyed."""

from __future__ import annotations

from collections.abc import Iterator, Mapping

import numpy as np

from hame.character.rig import Rig
from hame.clip.clip import Clip
from hame.clip.curve import Curve, from_table
from hame.clip.going import Plan, last_key, plans_of, planted_by, untils
from hame.clip.key import FRAME, LINEAR, SHAPE, VALUE, key_row
from hame.clip.layers import own_curves
from hame.clip.plants import Plant
from hame.clip.spans import Track
from hame.clip.way import Way
from hame.evaluate.going.kept import left_of, made_of, written_by
from hame.evaluate.keyed import curve_values, within
from hame.evaluate.players import Player, Players
from hame.evaluate.stage import Before, Hang, Keys, Rows, Stage, Task
from hame.maths.rotations import Array

_EASES = 0.6  # seconds in which it comes out of how it stood before


class Ways(Stage):
    """The stage that has figures go along their ways."""

    name = Way.stage

    def concerns(self, clip: Clip) -> bool:
        return Way.kind in clip.tracks

    def task(self, players: Players, frames: Array, over: bool) -> Task:
        return _Going(players, frames)

    def hangs(self, players: Players) -> Iterator[Hang]:
        return iter(())  # all that a way is made of is its figure's own

    def back(self, players: Players, of: int, frame: int, wanted: Mapping[str, float], before: Before) -> Keys:
        """Nothing that is keyed under a way shows: what is wanted there is keyed as it is, and in a layer made so."""
        return {frame: dict(wanted)}


class _Going(Task):
    def __init__(self, players: Players, frames: Array) -> None:
        self.plans = {number: plans_of(player.rig, player.clip) for number, player in players.items()}
        begins = [plans[0].way.start for plans in self.plans.values() if plans and plans[0].way.stands]
        after = [start for start in begins if (frames >= start).any()]
        self.times = np.array(sorted({float(start) for start in after}))

    def values(self, rows: Rows, before: Array) -> Array:
        after = before.copy()
        for number, plans in self.plans.items():
            if plans:
                mine = rows.of(number)
                after[:, mine] = gone_over(rows.players[number], plans, rows.times, before[:, mine])
        return after


def gone_over(player: Player, plans: list[Plan], times: Array, before: Array) -> Array:
    """Channel values (T, C) at ``times (T,)`` of who goes along ways, over those ``before (T, C)``.

    Among the times has to be that on which the first way begins, if that begins where its figure stands.
    """
    rig, found = player.rig, before.copy()
    columns = written_by(rig)
    stood: Array | None = None
    for plan, until in untils(plans, last_key(player.clip)):
        way, made = plan.way, None
        rows = np.flatnonzero((times >= way.start) & (times < until + 1.0))
        unkeyed = plan is plans[0] and not own_curves(player.clip.curves)
        if unkeyed:  # it stands there before it goes
            rows = np.flatnonzero(times < until + 1.0)
        if len(rows):
            made = made_of(rig, plan)
            values = made.at(times[rows])
            if way.stands and not unkeyed:
                if stood is None:
                    stood = before[np.searchsorted(times, way.start)]
                fades = np.clip(1.0 - (times[rows] - way.start) / (_EASES * way.fps), 0.0, 1.0)
                fades = fades * fades * (3.0 - 2.0 * fades)
                if fades.any():
                    left = left_of(rig, stood, made.at(np.array([float(way.start)]))[0])
                    values += fades[:, None] * left
            found[rows[:, None], columns] = values[:, columns]
        if plan is not plans[-1]:
            stood = before[-1].copy()  # how it stands as the next one begins
            stood[columns] = made_of(rig, plan).at(np.array([until + 1.0]))[0, columns]
    return found


def as_keyed(rig: Rig, clip: Clip) -> Clip:
    """The clip with what its ways make as keys on every frame instead of them, and footfalls as plants: for edits that
    are made over it."""
    plans = plans_of(rig, clip)
    if not plans:
        return clip
    first, last = plans[0].way.start, max(plan.end for plan in plans)
    frames = np.arange(float(first), last + 1)
    before = within(rig, curve_values(rig, clip, frames))
    values = gone_over(Player(rig, clip), plans, frames, before)
    until = last if next(reversed(list(untils(plans, last_key(clip)))))[1] <= last else np.inf
    curves: dict[str, Curve] = {}
    for n in written_by(rig).tolist():
        mine, address = values[:, n], rig.addresses[n]
        old = clip.curves.get(address)
        changes = np.flatnonzero(np.diff(mine) != 0.0)
        used = np.unique(np.concatenate([[0], changes, changes + 1]))
        table = np.zeros((len(used), len(key_row(0.0, 0.0))))
        table[:, FRAME], table[:, VALUE], table[:, SHAPE] = frames[used], mine[used], LINEAR
        parts = [table]
        if old is not None:
            parts.insert(0, old.table[old.table[:, FRAME] < first])
            parts.append(old.table[old.table[:, FRAME] > until])
        curves[address] = from_table(np.concatenate(parts))
    tracks = planted_by(rig, clip, {t: list(s) for t, s in clip.tracks.items() if Track.named(t).kind == Plant.kind})
    return clip.with_curves(dict(curves)).with_tracks({**tracks, Way.kind: ()})
