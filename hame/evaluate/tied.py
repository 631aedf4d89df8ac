"""Ties of a scene worked out for some frames: epoch by epoch, each control after those that carry it."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from functools import lru_cache
from itertools import groupby, pairwise
from threading import Lock
from typing import Any

import numpy as np

from hame.character.rig import Rig
from hame.clip.belonging import Belonging
from hame.clip.plants import Plant
from hame.clip.played import played_spans
from hame.clip.spans import OWN, control_of
from hame.evaluate import ties_kernel
from hame.evaluate.kernel import ORDERS, run
from hame.evaluate.keyed import Player, keyed_values
from hame.evaluate.links import (
    FARTHEST_RELEASE,
    FOREVER,
    Epoch,
    Ints,
    Link,
    Name,
    Planted,
    events_of,
    in_order,
    near_to,
    planted_of,
    reaching,
    row_of,
    tie_in,
    tie_row,
    until,
)
from hame.evaluate.stretch import Stretch, composed, relative_to
from hame.maths import transforms
from hame.maths.rotations import Array
from hame.program import NONE, Part, Program, joined, part

Over = Mapping[int, Mapping[str, float]]


@dataclass
class Known:
    """What is known of the ties of a scene, whatever frames are asked for.

    Attributes
    ----------
    orders : by epoch and the names of the links, these in the order in which they are worked out
    whole : by the names of the links, one order for all epochs; None where there is none
    frames : by link and first time of an epoch, where its frame lies in what carries it, and in its owner
    plants : by link and plant, its row for the kernel
    """

    players: Mapping[int, Player]
    whole: dict[frozenset[Name], tuple[Name, ...] | None] = field(default_factory=dict)
    orders: dict[tuple[Epoch, frozenset[Name]], tuple[Name, ...]] = field(default_factory=dict)
    frames: dict[tuple[Name, float], tuple[Array, Array]] = field(default_factory=dict)
    plants: dict[tuple[Name, Planted], Array] = field(default_factory=dict)

    def holds(self, tied: Tied) -> bool:
        """Whether it is all that is needed."""
        return all((link.name, plant) in self.plants for link in tied.links for plant in link.plants) and all(
            (link.name, epoch.first) in self.frames for link in tied.links for epoch in tied.epochs
        )


_remembered: OrderedDict[tuple[tuple[int, int, int], ...], Known] = OrderedDict()
_lock = Lock()
_MOST_REMEMBERED = 24


def known_of(players: Mapping[int, Player]) -> Known:
    """What is known of a scene of these very clips; the last few are remembered."""
    key = tuple((number, id(player.rig), id(player.clip)) for number, player in players.items())
    with _lock:
        if key not in _remembered:
            _remembered[key] = Known(dict(players))  # which keeps the clips, so that their ids stay theirs
            while len(_remembered) > _MOST_REMEMBERED:
                _remembered.popitem(last=False)
        _remembered.move_to_end(key)
        return _remembered[key]


class Tied:
    """Ties of a scene worked out for some frames."""

    def __init__(self, players: Mapping[int, Player], frames: Array, over: Over | None = None) -> None:
        self.players, self.frames, self.over = players, frames, over or {}
        self.rigs = tuple(player.rig for player in players.values())
        self.program = program_of(self.rigs)
        self.nodes = bases(players, [rig.program.nodes for rig in self.rigs])
        self.channels = bases(players, [len(rig.channels) for rig in self.rigs])
        span = (float(frames.min()), float(frames.max())) if len(frames) else None
        self.links = [link for number in players for link in self._belonging(number)]
        changes = sorted({t for link in self.links for s in link.belongings for t in (float(s.start), until(link, s))})
        self.epochs = [Epoch(a, b) for a, b in pairwise([-FOREVER, *changes, FOREVER])]
        for number in players:
            self._plant(number, span and (min([span[0], *changes[:1]]), max([span[1], *changes[-1:]])))
        self.by_name = {link.name: link for link in self.links}

    # What ties what

    def _belonging(self, number: int) -> Iterator[Link]:
        """The controls of a player that belong to something at some time."""
        player = self.players[number]
        for track, spans in player.clip.tracks.items():
            if track.partition("/")[0] == Belonging.kind and player.rig.has_control(control_of(track)):
                link = self._link(number, control_of(track))
                link.belongings = [span for span in spans if isinstance(span, Belonging)]
                yield link

    def _plant(self, number: int, span: tuple[float, float] | None) -> None:
        """Adds the plants of a player that have a say on frames from the first to the last of a span.

        Without one all are added, but those that a cycle shows again.
        """
        player = self.players[number]
        first, last = span or (-FOREVER, -FOREVER)
        rig, clip = player.rig, player.clip
        found = {link.control.name: link for link in self.links if link.figure == number}
        for track, spans in played_spans(clip, rig, Plant.kind, first - FARTHEST_RELEASE, last).items():
            name = control_of(track)
            if not any(limb.ik == name for limb in rig.limbs):
                continue
            link = found.get(name) or self._link(number, name)
            mine = [s for s in spans if isinstance(s, Plant)]
            near = near_to(mine, first, last) if span else slice(0, len(mine))
            plants = planted_of(rig, clip, link, mine, first, last, near)
            link.plants = reaching(plants, first, last) if span else plants
            if link.plants and name not in found:
                self.links.append(link)

    def _link(self, number: int, name: str) -> Link:
        rig = self.players[number].rig
        control = rig.control(name)
        limb = next((limb for limb in rig.limbs if limb.ik == name), None)
        channel, node = self.channels[number], self.nodes[number]
        link = Link(
            number, control, limb, channel + control.first, NONE, node + control.frame, node + control.node
        )  # fmt: skip
        link.order = ORDERS[rig.tables.control[rig.number_of(name), 3]].astype(np.int64)
        if limb is not None:
            link.soft = channel + rig.number(f"{limb.name}/soft")
            link.limb_nodes = node + limb.end, node + limb.target
        return link

    def _owner(self, link: Link, figure: int, name: str) -> int:
        """The node of an owner, among all; NONE for the world and for one that does not play."""
        number = link.figure if figure == OWN else figure
        player = self.players.get(number)
        if not name or player is None or not player.rig.has_control(name):
            return NONE
        return self.nodes[number] + player.rig.carrying_node(name)

    def _needed(self, link: Link, epoch: Epoch) -> list[int]:
        """The nodes that have to stand before a link can be worked out: its own frame, its owner, what it stands on."""
        tie = tie_in(link, epoch)
        owner = NONE if tie is None else self._owner(link, tie.figure, tie.to)
        things = [
            self._owner(link, p.span.figure, p.span.thing)
            for p in link.plants
            if p.span.start - p.span.land <= epoch.last and p.until >= epoch.first
        ]
        return [link.own, owner, *things]

    def order_in(self, epoch: Epoch) -> tuple[list[Link], tuple[tuple[int, str], ...]]:
        """The links in an order in which each stands on those before it; and a ring, if there is one.

        Where a limb's end is planted, the limb's root comes first if it can: from it follows how far the limb came.
        """
        hard = {link.name: self._carriers(tuple(self._needed(link, epoch)), link) for link in self.links}
        soft = {
            link.name: hard[link.name] | (self._carriers(link.limb_nodes, link) if link.plants else set())
            for link in self.links
        }
        found, _ = in_order(soft)
        if len(found) < len(self.links):
            found, ring = in_order(hard)
            if ring:  # whoever cannot be placed is placed last, with what there is
                left = [link for link in self.links if link.name not in found]
                return [*(self.by_name[name] for name in found), *left], ring
        return [self.by_name[name] for name in found], ()

    def _carriers(self, nodes: tuple[int, ...], link: Link) -> set[tuple[int, str]]:
        rows = set(part_of(self.rigs, nodes).rows.tolist())
        filled = filled_by(self.rigs)
        return {other.name for other in self.links if other is not link and filled[other.node] in rows}

    def stretch_at(self, link: Link, row: int) -> Stretch | None:
        """A link in the epoch of a row; None where nothing ties it there."""
        return next((stretch for stretch in self.seen.get(link.name, ()) if stretch.a <= row < stretch.b), None)

    # Working it out

    def values(self, whole: bool = False) -> dict[int, Array]:
        """Channel values (F, C) by player. ``whole``: with the rows of all events worked out as well."""
        events = {t for link in self.links for p in link.plants for t in events_of(p)}
        laid_on = {e.first for e in self.epochs} | events if self.over else set()
        apart = not any(float(f) in laid_on for f in self.frames)  # what is laid over changes nothing that is known
        known = known_of(self.players)
        self.known = known if apart and not whole and known.holds(self) else None
        epoch_of, self.times, asked = self._rows(set() if self.known else events)
        self.asked = asked
        keyed = [keyed_values(player.rig, player.clip, self.times) for player in self.players.values()]
        self.keyed = np.concatenate(keyed, axis=1)
        self._lay_over(asked)
        for link in self.links:
            told = [known.plants[link.name, p] if self.known else row_of(link, p) for p in link.plants]
            link.table = np.array(told).reshape(-1, ties_kernel.PLANT)
        self.played = self.keyed.copy()
        self.seen: dict[Name, list[Stretch]] = {}
        for link in self.links:
            link.near = self.keyed[:, link.first : link.first + 6].copy()
        if self.known is None:
            self._find(known if apart else Known(self.players), epoch_of)
        else:
            self._lay(known, epoch_of)
        wanted = self.played[asked]
        return {
            number: np.ascontiguousarray(wanted[:, base : base + len(self.players[number].rig.channels)])
            for number, base in self.channels.items()
        }

    def _find(self, known: Known, epoch_of: Ints) -> None:
        """Works out everything, epoch by epoch, and tells what is known by that."""
        # How a limb is to land is known when it has landed: where that is in a later epoch, all is gone over again.
        for _ in range(2 if any(self._lands_across(link) for link in self.links) else 1):
            self.seen = {}
            for link in self.links:
                link.kept = transforms.IDENTITY
            for number, epoch in enumerate(self.epochs):
                rows = np.flatnonzero(epoch_of == number)
                if not len(rows):
                    continue
                for name in self._order(known, epoch):
                    link, kept = self.by_name[name], self.by_name[name].kept
                    self._work_out(link, epoch, int(rows[0]), int(rows[-1]) + 1)
                    known.frames[name, epoch.first] = kept, link.offset
        for link in self.links:
            known.plants.update({(link.name, p): row for p, row in zip(link.plants, link.table, strict=True)})

    def _order(self, known: Known, epoch: Epoch) -> tuple[Name, ...]:
        key = epoch, frozenset(self.by_name)
        if key not in known.orders:
            known.orders[key] = tuple(link.name for link in self.order_in(epoch)[0])
        return known.orders[key]

    def _lay(self, known: Known, epoch_of: Ints) -> None:
        """Works out the frames that are asked for by what is known: in one order for all times, where there is one."""
        names = frozenset(self.by_name)
        if names not in known.whole:
            needs: dict[Name, set[Name]] = {name: set() for name in names}
            for epoch in self.epochs:
                for link in self.links:
                    needs[link.name] |= self._carriers(tuple(self._needed(link, epoch)), link)
            found, ring = in_order(needs)
            known.whole[names] = None if ring else tuple(found)
        order = known.whole[names]
        stretches = [
            (epoch, int(rows[0]), int(rows[-1]) + 1)
            for number, epoch in enumerate(self.epochs)
            if len(rows := np.flatnonzero(epoch_of == number))
        ]
        if order is not None:
            for name in order:
                self._lay_link(self.by_name[name], known, stretches)
            return
        for stretch in stretches:
            for name in self._order(known, stretch[0]):
                self._lay_link(self.by_name[name], known, [stretch])

    def _lay_link(self, link: Link, known: Known, stretches: Sequence[tuple[Epoch, int, int]]) -> None:
        """A link in the rows of some epochs, those together in which nothing changes for it."""

        def state(stretch: tuple[Epoch, int, int]) -> tuple[int, int, int]:
            tie = tie_in(link, stretch[0])
            kept, offset = known.frames[link.name, stretch[0].first]
            return id(kept), 0 if tie is None else id(tie), 0 if tie is None else id(offset)

        for _, group in groupby(stretches, state):
            mine = list(group)
            link.kept, link.offset = known.frames[link.name, mine[0][0].first]
            self._work_out(link, Epoch(mine[0][0].first, mine[-1][0].last), mine[0][1], mine[-1][2])

    def _lay_over(self, asked: Ints) -> None:
        """Lays values over what is keyed; those of tied controls come when these are worked out."""
        tied = {n for link in self.links for n in (*range(link.first, link.first + 6), link.soft)}
        rows = np.flatnonzero(np.isin(self.times, self.times[asked]))
        self.laid: dict[int, float] = {}
        self.laid_rows = rows
        for number, values in self.over.items():
            rig, base = self.players[number].rig, self.channels[number]
            for address, value in values.items():
                if not rig.has_channel(address):
                    continue
                channel = base + rig.number(address)
                if channel in tied:
                    self.laid[channel] = value
                else:
                    self.keyed[rows, channel] = value

    def _rows(self, events: set[float]) -> tuple[Ints, Array, Ints]:
        """The times that have to be looked at: which epoch each is in, the times, and the rows that were asked for.

        The end of an epoch is in it once more beside being the first of the next, since both sides are looked at.
        """
        times: list[Array] = []
        for epoch in self.epochs:
            inside = [t for t in events if epoch.first <= t <= epoch.last]
            edges = [t for t in (epoch.first, epoch.last) if abs(t) < FOREVER and not self.known]
            wanted = self.frames[(self.frames >= epoch.first) & (self.frames < epoch.last)]
            times.append(np.unique(np.concatenate([inside, edges, wanted])))
        epoch_of = np.repeat(np.arange(len(times)), [len(t) for t in times])
        together = np.concatenate(times)
        # Of a time that is there twice, the later epoch's.
        asked = np.searchsorted(together, self.frames, side="right") - 1
        return epoch_of, together, asked

    def _lands_across(self, link: Link) -> bool:
        edges = [epoch.last for epoch in self.epochs[:-1]]
        return any(p.span.start - p.span.land < e <= p.span.start for p in link.plants if p.span.land for e in edges)

    def _work_out(self, link: Link, epoch: Epoch, a: int, b: int) -> None:
        """A link's values in the rows from a to before b, which are those of an epoch."""
        tie = tie_in(link, epoch)
        times = self.times[a:b]
        touched = [p for p in link.plants if p.free >= times[0] and p.span.start - p.span.land <= times[-1]]
        if tie is None and not touched and link.kept is transforms.IDENTITY:
            return
        owner = NONE if tie is None else self._owner(link, tie.figure, tie.to)
        things = [self._owner(link, p.span.figure, p.span.thing) for p in link.plants]
        used = [thing for thing in dict.fromkeys(things) if thing != NONE]
        stand = self.stand((link.own, owner, *used), a, b)
        own, owned, on = (
            np.ascontiguousarray(part) for part in (stand[:, 0], stand[:, 1], stand[:, 2:].swapaxes(0, 1))
        )
        if (
            tie is not None and tie.start == epoch.first and not self.known
        ):  # so that nothing jumps as it comes to its owner
            link.offset = relative_to(owned[0], composed(own[0], link.kept))
        place, turn = np.empty((b - a, 8)), np.empty((b - a, 4))
        row = np.zeros(7) if tie is None else tie_row(link, tie)
        ties_kernel.frames_of(times, own, owned, link.kept, link.offset, row, place, turn)
        link.table[:, ties_kernel.THING] = [used.index(thing) if thing != NONE else NONE for thing in things]
        stretch = Stretch(self, link, times, a, b, place, turn, own, on)
        self.seen.setdefault(link.name, []).append(stretch)
        for number, plant in enumerate(() if self.known else link.plants):
            start, end = plant.span.start, plant.until
            if epoch.first <= start < epoch.last:
                stretch.begin(number, plant)
            if plant.free > end and (epoch.first < end <= epoch.last or start == end == epoch.first):
                stretch.let_go(number)
        stretch.settle(slice(a, b), len(link.plants))
        if tie is not None and not tie.ease_out and until(link, tie) == epoch.last and not self.known:
            link.kept = relative_to(own[-1], _left(place[-1], turn[-1], link.near[b - 1]))

    def stand(self, nodes: tuple[int, ...], a: int, b: int) -> Array:
        """Transforms (n, K, 8) of nodes in some rows; the world's for NONE."""
        some = part_of(self.rigs, nodes)
        out = np.empty((b - a, some.program.nodes, 8))
        run(some.program.ops, some.program.params, ORDERS, self.played[a:b], out)
        found = out[:, some.at]
        found[:, some.at == NONE] = transforms.IDENTITY
        return found


def _left(place: Array, turn: Array, near: Array) -> Array:
    """The frame (8,) of a control that is let go where it is: one for its place (8,) and its turn (4,) together."""
    seen = transforms.IDENTITY.copy()
    seen[:3] = near[:3]
    frame = transforms.transform(np.zeros(3), turn, place[7])
    frame[:3] = composed(place, seen)[:3] - composed(frame, seen)[:3]
    return frame


def bases(players: Mapping[int, Any], sizes: Sequence[int]) -> dict[int, int]:
    """By player, where what is its begins when the parts of all, of these sizes, are laid one after the other."""
    ends = np.cumsum([0, *sizes]).tolist()
    return dict(zip(players, ends, strict=False))


@lru_cache(maxsize=128)
def program_of(rigs: tuple[Rig, ...]) -> Program:
    """The programs of several rigs, joined to one."""
    return joined([rig.program for rig in rigs])


@lru_cache(maxsize=64)
def filled_by(rigs: tuple[Rig, ...]) -> dict[int, int]:
    """By node, the row of the joined program that fills it."""
    return {int(out): row for row, out in enumerate(program_of(rigs).ops[:, 1])}


@lru_cache(maxsize=1024)
def part_of(rigs: tuple[Rig, ...], nodes: tuple[int, ...]) -> Part:
    """What of the joined program has to run for some nodes."""
    return part(program_of(rigs), nodes)
