"""Ties: what carries a control, and where the end of a limb is planted, worked into the channel values that play.

A control is placed in a frame: at rest the one that its rig gives it. While it
belongs to something, the frame goes along with that; while it is planted, its
place stays. Either way the outcome is channel values as the rig's program reads
them, so that everything that takes values (drags, matches, measures, files)
takes ties without knowing of them.

Nothing is carried from frame to frame. What has to be known of other frames is
known of a few: how a control lay to its owner where it came to it, where a limb
was when it was planted, how far from its keys when it was let go. These are
worked out first, along the line of time and in the order in which controls
carry each other, and any frame follows from them alone.
"""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from functools import lru_cache
from itertools import groupby, pairwise
from threading import Lock
from typing import Any

import numpy as np
import numpy.typing as npt

from hame.character.rig import Control, Limb, Rig
from hame.clip.belonging import Belonging
from hame.clip.clip import Clip
from hame.clip.curve import FRAME, SHAPE, STEP, Curve
from hame.clip.plants import Plant
from hame.clip.played import played_curves, played_spans
from hame.clip.sampling import sample, tabulate
from hame.clip.spans import OWN, Reach, control_of
from hame.evaluate import ties_kernel
from hame.evaluate.kernel import ORDERS, run
from hame.maths import transforms
from hame.maths.rotations import Array
from hame.program import NONE, Part, Program, joined, part

STEP_BACK = 1.0 / 64.0  # frames: how far apart two times are between which a speed is read
FOREVER = 1e9
SIX = ("tx", "ty", "tz", "rx", "ry", "rz")
FARTHEST_RELEASE = 500  # frames: so far back plants that are shown again are looked for
Ints = npt.NDArray[np.int64]
_Name = tuple[int, str]  # of a link: its figure, its control
Over = Mapping[int, Mapping[str, float]]


@dataclass(frozen=True)
class Player:
    """One of those who are tied together."""

    rig: Rig
    clip: Clip


@dataclass(frozen=True)
class Ring:
    """Controls that would carry each other round, from frame ``first`` on: (figure, control), each by the next."""

    first: float
    links: tuple[tuple[int, str], ...]


def has_ties(clip: Clip) -> bool:
    return any(track.partition("/")[0] in (Plant.kind, Belonging.kind) for track in clip.tracks)


def keyed_values(rig: Rig, clip: Clip, times: Array) -> Array:
    """Channel values ``(F, C)`` at rising ``times`` as they are keyed, echoes and repeats included, ties not."""
    values = np.empty((len(times), len(rig.channels)))
    for a in range(0, len(times), AT_ONCE):
        some = times[a : a + AT_ONCE]
        played = played_curves(clip, rig, some.min(), some.max())
        values[a : a + AT_ONCE] = sample(tabulate(played, rig.addresses, rig.rest), some)
    # Between two keys inside its limits a curve may swing past them.
    return np.clip(values, rig.low, rig.high, out=values)


AT_ONCE = 2048  # frames: of a long cycle only so much is derived at a time


def tied_values(players: Mapping[int, Player], frames: Array, over: Over | None = None) -> dict[int, Array]:
    """Channel values ``(F, C)`` of all players at ``frames (F,)`` as they play.

    An owner that does not play leaves what belongs to it where it was when it came to it.

    Parameters
    ----------
    over : by player, values by address that stand instead of those that play, at every one of the frames: of a pose
        that waits, or of a hand that moves. What depends on them follows
    """
    if len(frames) == 0 or not any(has_ties(player.clip) for player in players.values()):
        return {
            number: _overlaid(player.rig, keyed_values(player.rig, player.clip, frames), (over or {}).get(number, {}))
            for number, player in players.items()
        }
    return _Tied(players, np.asarray(frames, float), over or {}).values()


def _overlaid(rig: Rig, values: Array, over: Mapping[str, float]) -> Array:
    for address, value in over.items():
        if rig.has_channel(address):
            values[:, rig.number(address)] = value
    return values


def rings(players: Mapping[int, Player]) -> list[Ring]:
    """Where controls would carry each other round, so that none could be placed."""
    if not any(has_ties(player.clip) for player in players.values()):
        return []
    tied = _Tied(players, np.zeros(0))
    return [Ring(epoch.first, ring) for epoch in tied.epochs if (ring := tied.order_in(epoch)[1])]


def keys_for(
    players: Mapping[int, Player], of: int, frame: int, wanted: Mapping[str, float]
) -> dict[int, dict[str, float]]:
    """By frame, the channel values to key so that a player stands at ``frame`` as ``wanted``: values as they play.

    What is tied is keyed in the frame that carries it. A planted limb is moved by the key with which it was planted, so
    that all of its plant moves; where it does not move, it is keyed where it is.
    """
    player = players[of]
    if not has_ties(player.clip):
        return {frame: dict(wanted)}
    tied = _Tied(players, np.array([float(frame)]))
    tied.values(whole=True)
    keys: dict[int, dict[str, float]] = {frame: dict(wanted)}
    for link in tied.links:
        if link.figure == of and link.seen:
            for at, values in _keys_of(tied, link, frame, wanted).items():
                keys.setdefault(at, {}).update(values)
    return keys


MOVED = 1e-9  # metres and radians: less is no wish to move


def _keys_of(tied: _Tied, link: _Link, frame: int, wanted: Mapping[str, float]) -> dict[int, dict[str, float]]:
    """The same for one tied control; nothing where it is keyed as it plays."""
    names = [f"{link.control.name}/{c}" for c in SIX]
    row = int(tied.asked[0])
    rows = next(r for r in link.seen if r.a <= row < r.b)
    played, keyed = (values[row, link.first : link.first + 6] for values in (tied.played, tied.keyed))
    aim = np.array([wanted.get(name, value) for name, value in zip(names, played, strict=True)])
    found: dict[int, dict[str, float]] = {frame: {}}
    held = next((n for n, p in enumerate(link.plants) if p.span.start <= frame <= p.until), None)
    if link.soft != NONE and link.limb is not None and f"{link.limb.name}/soft" in wanted:
        soft = f"{link.limb.name}/soft"
        if abs(wanted[soft] - tied.played[row, link.soft]) < MOVED:
            found[frame][soft] = float(tied.keyed[row, link.soft])
    told = [any(name in wanted for name in names[:3]), any(name in wanted for name in names[3:])]
    if not any(told):
        return found
    near, goal = link.near[row].copy(), rows.near_of(row, aim)
    off = near - keyed
    if held is not None and (link.plants[held].span.start < frame or link.plants[held].follows_on):
        if np.abs(aim - played).max() > MOVED:
            first = held
            while link.plants[first].follows_on:
                first -= 1
            start = link.plants[first].span.start
            there = _carried_back(tied, link, rows, row, goal, held, start)
            found[start] = {name: float(value) for name, value in zip(names, there, strict=True)}
        # A key while it is planted says nothing: what its curve says already, so that nothing else changes by it.
        goal[:3] = near[:3]
        if not link.plants[held].span.about:
            goal[3:] = near[3:]
    elif held is None:
        leaving = next((p for p in link.plants if p.until < frame <= p.free), None)
        if leaving is not None and not leaving.span.release:
            off = np.zeros(6)  # the new key is the one that it comes back to
    values = goal - off
    free = tied.players[link.figure].rig.free[link.control.first : link.control.first + 6]
    whole = [bool(np.abs(values[n : n + 3] - aim[n : n + 3]).max() > 1e-12) for n in (0, 3)]
    for c, name in enumerate(names):
        if name in wanted or (free[c] and told[c // 3] and whole[c // 3]):
            found[frame][name] = float(values[c])
    return found


def _carried_back(tied: _Tied, link: _Link, rows: _Rows, row: int, goal: Array, held: int, start: int) -> Array:
    """The values (6,) at the start of a plant that bring what it holds at a row to ``goal (6,)``."""
    then = next(r for r in link.seen if r.a <= r.row_at(start) < r.b)
    first = then.row_at(start)
    now, aim, before = rows.world(row, link.near[row]), rows.world(row, goal), then.world(first, link.near[first])
    plant = link.plants[held]
    if plant.span.about:
        pivot = link.table[held, ties_kernel.PIVOT : ties_kernel.PIVOT + 3]
        now, aim = (transforms.transform(transforms.apply(t, pivot)) for t in (now, aim))
    # Seen from what it stands on, which may have moved since.
    here, there = rows.thing(row, held), then.thing(first, held)
    way = transforms.compose(transforms.relative(here, aim), transforms.inverse(transforms.relative(here, now)))
    moved = transforms.compose(there, transforms.compose(way, transforms.relative(there, before)))
    near = link.near[first].copy()
    ties_kernel.seen_from(
        then.place[first - then.a], then.turn[first - then.a], moved, link.control.pre, link.order, near
    )
    off = link.near[first] - tied.keyed[first, link.first : link.first + 6]
    return np.asarray(near - off)


def owners(clip: Clip) -> set[int]:
    """The numbers of those who carry something of a player, or on whom it is planted; itself left out."""
    return {number for _, span in clip.spans() if (number := getattr(span, "figure", OWN)) != OWN}


def needed_players(of: int, player: Player, others: Mapping[int, Player]) -> dict[int, Player]:
    """A player with those of ``others`` that have a say on how it stands: owners, their owners, and so on."""
    found = {of: player}
    waiting = [player]
    while waiting:
        for number in owners(waiting.pop().clip):
            if number not in found and number in others:
                found[number] = others[number]
                waiting.append(others[number])
    return found


def spread(players: Mapping[int, Player], moved: Mapping[int, Sequence[Reach]]) -> dict[int, list[Reach]]:
    """By player, the frames that move when those ``moved`` do: what hangs on them, and what hangs on that.

    ``players`` are to have the ties that were there before as well as those that are there now. The frames may be more
    than those that really move, never less.
    """
    found = {number: list(ranges) for number, ranges in moved.items()}
    if not any(has_ties(player.clip) for player in players.values()):
        return found
    hangs = [hang for link in _Tied(players, np.zeros(0)).links for hang in _hangs(link)]
    going = True
    while going:
        going = False
        for number, on, reach in hangs:
            mine = found.get(number, [])
            touched = any(_meet(other, reach) for owner in on for other in found.get(owner, ()))
            if touched and not any(_holds(other, reach) for other in mine):
                found[number] = [*mine, reach]
                going = True
    return found


def _hangs(link: _Link) -> Iterator[tuple[int, set[int], Reach]]:
    """What a link hangs on, and the frames on which it does: whose it is, on whom, and from when to when."""
    for p in link.plants:
        last = None if p.free >= FOREVER else int(p.free)
        on = {link.figure, p.span.figure if p.span.figure != OWN else link.figure}
        yield link.figure, on, (p.span.start - p.span.land, last)
    for span in link.belongings:
        last = int(_until(link, span)) if span.ease_out else None
        yield link.figure, {link.figure, span.figure if span.figure != OWN else link.figure}, (span.start, last)


def _meet(a: Reach, b: Reach) -> bool:
    return (a[0] is None or b[1] is None or a[0] <= b[1] + 1) and (b[0] is None or a[1] is None or b[0] <= a[1] + 1)


def _holds(a: Reach, b: Reach) -> bool:
    return (a[0] is None or (b[0] is not None and a[0] <= b[0])) and (
        a[1] is None or (b[1] is not None and b[1] <= a[1])
    )


@dataclass
class _Known:
    """What is known of the ties of a scene, whatever frames are asked for.

    Attributes
    ----------
    orders : by epoch and the names of the links, these in the order in which they are worked out
    whole : by the names of the links, one order for all epochs; None where there is none
    frames : by link and first time of an epoch, where its frame lies in what carries it, and in its owner
    plants : by link and plant, its row for the kernel
    """

    players: Mapping[int, Player]
    whole: dict[frozenset[_Name], tuple[_Name, ...] | None] = field(default_factory=dict)
    orders: dict[tuple[_Epoch, frozenset[_Name]], tuple[_Name, ...]] = field(default_factory=dict)
    frames: dict[tuple[_Name, float], tuple[Array, Array]] = field(default_factory=dict)
    plants: dict[tuple[_Name, _Planted], Array] = field(default_factory=dict)

    def holds(self, tied: _Tied) -> bool:
        """Whether it is all that is needed."""
        return all((link.name, plant) in self.plants for link in tied.links for plant in link.plants) and all(
            (link.name, epoch.first) in self.frames for link in tied.links for epoch in tied.epochs
        )


_remembered: OrderedDict[tuple[tuple[int, int, int], ...], _Known] = OrderedDict()
_lock = Lock()
_MOST_REMEMBERED = 24


def _known(players: Mapping[int, Player]) -> _Known:
    """What is known of a scene of these very clips; the last few are remembered."""
    key = tuple((number, id(player.rig), id(player.clip)) for number, player in players.items())
    with _lock:
        if key not in _remembered:
            _remembered[key] = _Known(dict(players))  # which keeps the clips, so that their ids stay theirs
            while len(_remembered) > _MOST_REMEMBERED:
                _remembered.popitem(last=False)
        _remembered.move_to_end(key)
        return _remembered[key]


@dataclass(frozen=True)
class _Planted:
    """A plant with the frames on which it holds, and from which on the limb is its own again."""

    span: Plant
    until: float
    free: float
    stepped: bool
    follows_on: bool  # begins where another one ends: nothing lies in between


@dataclass
class _Link:
    """A control with ties, and what is known of it so far."""

    figure: int
    control: Control
    limb: Limb | None
    first: int  # its first channel, among all
    soft: int
    own: int  # nodes, among all
    node: int
    limb_nodes: tuple[int, int] = (NONE, NONE)  # where the limb comes to, and what it reaches for
    belongings: list[Belonging] = field(default_factory=list)
    plants: list[_Planted] = field(default_factory=list)
    table: Array = field(default_factory=lambda: np.zeros((0, ties_kernel.PLANT)))
    kept: Array = field(default_factory=lambda: transforms.IDENTITY.copy())
    offset: Array = field(default_factory=lambda: transforms.IDENTITY.copy())
    order: Array = field(default_factory=lambda: np.zeros(3, np.int64))
    near: Array = field(default_factory=lambda: np.zeros((0, 6)))
    seen: list[_Rows] = field(default_factory=list)

    @property
    def name(self) -> tuple[int, str]:
        return self.figure, self.control.name


@dataclass(frozen=True)
class _Epoch:
    """A stretch of time in which nobody changes owner, its first time included."""

    first: float
    last: float


class _Tied:
    """Ties of a scene worked out for some frames."""

    def __init__(self, players: Mapping[int, Player], frames: Array, over: Over | None = None) -> None:
        self.players, self.frames, self.over = players, frames, over or {}
        self.rigs = tuple(player.rig for player in players.values())
        self.program = _program(self.rigs)
        self.nodes = _bases(players, [rig.program.nodes for rig in self.rigs])
        self.channels = _bases(players, [len(rig.channels) for rig in self.rigs])
        span = (float(frames.min()), float(frames.max())) if len(frames) else None
        self.links = [link for number in players for link in self._belonging(number)]
        changes = sorted({t for link in self.links for s in link.belongings for t in (float(s.start), _until(link, s))})
        self.epochs = [_Epoch(a, b) for a, b in pairwise([-FOREVER, *changes, FOREVER])]
        for number in players:
            self._plant(number, span and (min([span[0], *changes[:1]]), max([span[1], *changes[-1:]])))
        self.by_name = {link.name: link for link in self.links}

    # What ties what

    def _belonging(self, number: int) -> Iterator[_Link]:
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
            plants = _planted(rig, clip, link, [s for s in spans if isinstance(s, Plant)], first, last)
            link.plants = _reaching(plants, first, last) if span else plants
            if link.plants and name not in found:
                self.links.append(link)

    def _link(self, number: int, name: str) -> _Link:
        rig = self.players[number].rig
        control = rig.control(name)
        limb = next((limb for limb in rig.limbs if limb.ik == name), None)
        channel, node = self.channels[number], self.nodes[number]
        link = _Link(
            number, control, limb, channel + control.first, NONE, node + control.frame, node + control.node
        )  # fmt: skip
        link.order = ORDERS[rig.tables.control[rig.number_of(name), 3]].astype(np.int64)
        if limb is not None:
            link.soft = channel + rig.number(f"{limb.name}/soft")
            link.limb_nodes = node + limb.end, node + limb.target
        return link

    def _owner(self, link: _Link, figure: int, name: str) -> int:
        """The node of an owner, among all; NONE for the world and for one that does not play."""
        number = link.figure if figure == OWN else figure
        player = self.players.get(number)
        if not name or player is None or not player.rig.has_control(name):
            return NONE
        return self.nodes[number] + player.rig.carrying_node(name)

    def _needed(self, link: _Link, epoch: _Epoch) -> list[int]:
        """The nodes that have to stand before a link can be worked out: its own frame, its owner, what it stands on."""
        tie = _tie_in(link, epoch)
        owner = NONE if tie is None else self._owner(link, tie.figure, tie.to)
        things = [self._owner(link, p.span.figure, p.span.thing) for p in link.plants]
        return [link.own, owner, *things]

    def order_in(self, epoch: _Epoch) -> tuple[list[_Link], tuple[tuple[int, str], ...]]:
        """The links in an order in which each stands on those before it; and a ring, if there is one.

        Where a limb's end is planted, the limb's root comes first if it can: from it follows how far the limb came.
        """
        hard = {link.name: self._carriers(tuple(self._needed(link, epoch)), link) for link in self.links}
        soft = {
            link.name: hard[link.name] | (self._carriers(link.limb_nodes, link) if link.plants else set())
            for link in self.links
        }
        found, _ = _sorted(soft)
        if len(found) < len(self.links):
            found, ring = _sorted(hard)
            if ring:  # whoever cannot be placed is placed last, with what there is
                left = [link for link in self.links if link.name not in found]
                return [*(self.by_name[name] for name in found), *left], ring
        return [self.by_name[name] for name in found], ()

    def _carriers(self, nodes: tuple[int, ...], link: _Link) -> set[tuple[int, str]]:
        rows = set(_part(self.rigs, nodes).rows.tolist())
        filled = _filled(self.rigs)
        return {other.name for other in self.links if other is not link and filled[other.node] in rows}

    # Working it out

    def values(self, whole: bool = False) -> dict[int, Array]:
        """Channel values (F, C) by player. ``whole``: with the rows of all events worked out as well."""
        events = {t for link in self.links for p in link.plants for t in _events(p)}
        laid_on = {e.first for e in self.epochs} | events if self.over else set()
        apart = not any(float(f) in laid_on for f in self.frames)  # what is laid over changes nothing that is known
        known = _known(self.players)
        self.known = known if apart and not whole and known.holds(self) else None
        epoch_of, self.times, asked = self._rows(set() if self.known else events)
        self.asked = asked
        keyed = [keyed_values(player.rig, player.clip, self.times) for player in self.players.values()]
        self.keyed = np.concatenate(keyed, axis=1)
        self._lay_over(asked)
        for link in self.links:
            told = [known.plants[link.name, p] if self.known else _row(link, p) for p in link.plants]
            link.table = np.array(told).reshape(-1, ties_kernel.PLANT)
        self.played = self.keyed.copy()
        for link in self.links:
            link.near, link.seen = self.keyed[:, link.first : link.first + 6].copy(), []
        if self.known is None:
            self._find(known if apart else _Known(self.players), epoch_of)
        else:
            self._lay(known, epoch_of)
        wanted = self.played[asked]
        return {
            number: np.ascontiguousarray(wanted[:, base : base + len(self.players[number].rig.channels)])
            for number, base in self.channels.items()
        }

    def _find(self, known: _Known, epoch_of: Ints) -> None:
        """Works out everything, epoch by epoch, and tells what is known by that."""
        # How a limb is to land is known when it has landed: where that is in a later epoch, all is gone over again.
        for _ in range(2 if any(self._lands_across(link) for link in self.links) else 1):
            for link in self.links:
                link.kept, link.seen = transforms.IDENTITY, []
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

    def _order(self, known: _Known, epoch: _Epoch) -> tuple[_Name, ...]:
        key = epoch, frozenset(self.by_name)
        if key not in known.orders:
            known.orders[key] = tuple(link.name for link in self.order_in(epoch)[0])
        return known.orders[key]

    def _lay(self, known: _Known, epoch_of: Ints) -> None:
        """Works out the frames that are asked for by what is known: in one order for all times, where there is one."""
        names = frozenset(self.by_name)
        if names not in known.whole:
            needs: dict[_Name, set[_Name]] = {name: set() for name in names}
            for epoch in self.epochs:
                for link in self.links:
                    needs[link.name] |= self._carriers(tuple(self._needed(link, epoch)), link)
            found, ring = _sorted(needs)
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

    def _lay_link(self, link: _Link, known: _Known, stretches: Sequence[tuple[_Epoch, int, int]]) -> None:
        """A link in the rows of some epochs, those together in which nothing changes for it."""

        def state(stretch: tuple[_Epoch, int, int]) -> tuple[int, int, int]:
            tie = _tie_in(link, stretch[0])
            kept, offset = known.frames[link.name, stretch[0].first]
            return id(kept), 0 if tie is None else id(tie), 0 if tie is None else id(offset)

        for _, group in groupby(stretches, state):
            mine = list(group)
            link.kept, link.offset = known.frames[link.name, mine[0][0].first]
            self._work_out(link, _Epoch(mine[0][0].first, mine[-1][0].last), mine[0][1], mine[-1][2])

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

    def _lands_across(self, link: _Link) -> bool:
        edges = [epoch.last for epoch in self.epochs[:-1]]
        return any(p.span.start - p.span.land < e <= p.span.start for p in link.plants if p.span.land for e in edges)

    def _work_out(self, link: _Link, epoch: _Epoch, a: int, b: int) -> None:
        """A link's values in the rows from a to before b, which are those of an epoch."""
        tie = _tie_in(link, epoch)
        times = self.times[a:b]
        touched = [p for p in link.plants if p.free >= times[0] and p.span.start - p.span.land <= times[-1]]
        if tie is None and not touched and link.kept is transforms.IDENTITY:
            return
        owner = NONE if tie is None else self._owner(link, tie.figure, tie.to)
        things = [self._owner(link, p.span.figure, p.span.thing) for p in link.plants]
        used = [thing for thing in dict.fromkeys(things) if thing != NONE]
        stand = self._stand((link.own, owner, *used), a, b)
        own, owned, on = (
            np.ascontiguousarray(part) for part in (stand[:, 0], stand[:, 1], stand[:, 2:].swapaxes(0, 1))
        )
        if (
            tie is not None and tie.start == epoch.first and not self.known
        ):  # so that nothing jumps as it comes to its owner
            link.offset = _relative(owned[0], _composed(own[0], link.kept))
        place, turn = np.empty((b - a, 8)), np.empty((b - a, 4))
        row = np.zeros(7) if tie is None else _tie_row(link, tie)
        ties_kernel.frames_of(times, own, owned, link.kept, link.offset, row, place, turn)
        link.table[:, ties_kernel.THING] = [used.index(thing) if thing != NONE else NONE for thing in things]
        rows = _Rows(self, link, times, a, b, place, turn, own, on)
        link.seen.append(rows)
        for number, plant in enumerate(() if self.known else link.plants):
            start, end = plant.span.start, plant.until
            if epoch.first <= start < epoch.last:
                rows.begin(number, plant)
            if plant.free > end and (epoch.first < end <= epoch.last or start == end == epoch.first):
                rows.let_go(number)
        rows.settle(slice(a, b), len(link.plants))
        if tie is not None and not tie.ease_out and _until(link, tie) == epoch.last and not self.known:
            link.kept = _relative(own[-1], _left(place[-1], turn[-1], link.near[b - 1]))

    def _stand(self, nodes: tuple[int, ...], a: int, b: int) -> Array:
        """Transforms (n, K, 8) of nodes in some rows; the world's for NONE."""
        some = _part(self.rigs, nodes)
        out = np.empty((b - a, some.program.nodes, 8))
        run(some.program.ops, some.program.params, ORDERS, self.played[a:b], out)
        found = out[:, some.at]
        found[:, some.at == NONE] = transforms.IDENTITY
        return found


@dataclass
class _Rows:
    """A link in the rows of an epoch, with the frames that it is placed in."""

    tied: _Tied
    link: _Link
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

    def begin(self, number: int, plant: _Planted) -> None:
        """Finds where a plant holds its limb."""
        k, link, table = ties_kernel, self.link, self.link.table
        row = self._row(plant.span.start)
        self.settle(slice(row, row + 1), number)
        near = link.near[row]
        there = self.world(row, near)
        if not plant.follows_on:  # it stays where the limb is, which may not have reached as far as it was to
            end, target = self.tied._stand(link.limb_nodes, row, row + 1)[0]
            there[:3] += end[:3] - target[:3]
        seen = self.thing(row, number)
        table[number, k.KEPT : k.KEPT + 6] = near - self.tied.keyed[row, link.first : link.first + 6]
        if plant.span.about:
            pivot = transforms.IDENTITY.copy()
            pivot[:3] = table[number, k.PIVOT : k.PIVOT + 3]
            table[number, k.HELD : k.HELD + 3] = _relative(seen, _composed(there, pivot))[:3]
        else:
            table[number, k.HELD : k.HELD + 8] = _relative(seen, there)
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


def _planted(rig: Rig, clip: Clip, link: _Link, spans: list[Plant], first: float, last: float) -> list[_Planted]:
    """The plants of a limb with the times at which they end and let go, of those that reach the frames looked at."""
    names = [f"{link.control.name}/{c}" for c in SIX]
    low = min((s.start for s in spans), default=0)
    high = max((s.end + s.release for s in spans), default=0)
    curves = played_curves(clip, rig, min(first, low), max(last, high))
    mine = [curves[name] for name in names if name in curves]
    keys = np.unique(np.concatenate([np.zeros(0), *(curve.table[:, FRAME] for curve in mine)]))
    found = []
    for n, span in enumerate(spans):
        following = spans[n + 1] if n + 1 < len(spans) else None
        before = spans[n - 1] if n else None
        until, free = float(span.end), FOREVER
        if following is not None and following.start == span.end + 1:
            until = free = float(following.start)
        else:
            if span.release:
                free = span.end + float(span.release)
            elif len(later := keys[keys > span.end]):
                free = float(later[0])
            if following is not None:
                free = min(free, float(following.start))
        follows_on = before is not None and before.end + 1 == span.start
        found.append(_Planted(span, until, free, _stepped(mine, span.end), follows_on))
    return found


def _stepped(curves: Iterable[Curve], frame: float) -> bool:
    """Whether curves are held from the last key up to a frame on."""
    for curve in curves:
        at = int(np.searchsorted(curve.table[:, FRAME], frame, side="right")) - 1
        if 0 <= at < len(curve.table) - 1 and curve.table[at, SHAPE] == STEP:
            return True
    return False


def _events(planted: _Planted) -> list[float]:
    """The times that have to be looked at for a plant."""
    start, until = float(planted.span.start), planted.until
    times = [start]
    if planted.span.land:
        times += [start - STEP_BACK, start + STEP_BACK]
    if planted.free > until:
        times += [until - STEP_BACK, until, until + STEP_BACK]
    return times


def _row(link: _Link, planted: _Planted) -> Array:
    """A plant's row for the kernel, so far as it is known."""
    k, row = ties_kernel, np.zeros(ties_kernel.PLANT)
    row[[k.START, k.END, k.UNTIL, k.FREE, k.LAND]] = (
        planted.span.start, planted.span.end, planted.until, planted.free, planted.span.land,
    )  # fmt: skip
    row[[k.FIXED, k.STEPPED, k.THING]] = not planted.span.about, planted.stepped, NONE
    if planted.span.about and link.limb is not None:
        row[k.PIVOT : k.PIVOT + 3] = link.limb.points.get(planted.span.about, (0.0, 0.0, 0.0))
    return row


def _until(link: _Link, span: Belonging) -> float:
    """The time at which a belonging ends: where the next one begins at once, that is when it does."""
    adjoining = any(other.start == span.end + 1 for other in link.belongings)
    return float(span.end + 1 if adjoining else span.end)


def _tie_in(link: _Link, epoch: _Epoch) -> Belonging | None:
    return next((s for s in link.belongings if s.start <= epoch.first and epoch.last <= _until(link, s)), None)


def _tie_row(link: _Link, tie: Belonging) -> Array:
    eased = float(tie.ease_in), float(tie.ease_out)
    return np.array([tie.ties != "turn", tie.ties != "place", tie.start, _until(link, tie), tie.weight, *eased])


def _left(place: Array, turn: Array, near: Array) -> Array:
    """The frame (8,) of a control that is let go where it is: one for its place (8,) and its turn (4,) together."""
    seen = transforms.IDENTITY.copy()
    seen[:3] = near[:3]
    frame = transforms.transform(np.zeros(3), turn, place[7])
    frame[:3] = _composed(place, seen)[:3] - _composed(frame, seen)[:3]
    return frame


def _composed(outer: Array, inner: Array) -> Array:
    out = np.empty(8)
    ties_kernel.compose(outer, inner, out)
    return out


def _relative(outer: Array, world: Array) -> Array:
    out = np.empty(8)
    ties_kernel.relative(outer, world, out)
    return out


def _reaching(plants: list[_Planted], first: float, last: float) -> list[_Planted]:
    """Those plants that have a say on frames from ``first`` to ``last``, and those from which they go on."""
    found: list[_Planted] = []
    for plant in reversed(plants):
        needed = bool(found) and found[-1].follows_on and found[-1].span.start == plant.until
        if needed or (plant.free >= first and plant.span.start - plant.span.land <= last):
            found.append(plant)
    return found[::-1]


def _bases(players: Mapping[int, Any], sizes: Sequence[int]) -> dict[int, int]:
    ends = np.cumsum([0, *sizes]).tolist()
    return dict(zip(players, ends, strict=False))


def _sorted(needs: Mapping[tuple[int, str], set[tuple[int, str]]]) -> tuple[list[Any], tuple[Any, ...]]:
    """Names in an order in which each comes after what it needs; and a ring of them, if there is one."""
    found: list[tuple[int, str]] = []
    left = dict(needs)
    while left:
        ready = [name for name, need in left.items() if not need & left.keys()]
        if not ready:
            return found, _ring(left)
        found += ready
        left = {name: need for name, need in left.items() if name not in ready}
    return found, ()


def _ring(needs: Mapping[tuple[int, str], set[tuple[int, str]]]) -> tuple[tuple[int, str], ...]:
    """One ring among names of which each needs another."""
    line = [next(iter(needs))]
    while True:
        following = min(needs[line[-1]] & needs.keys())
        if following in line:
            return tuple(line[line.index(following) :])
        line.append(following)


@lru_cache(maxsize=64)
def _program(rigs: tuple[Rig, ...]) -> Program:
    return joined([rig.program for rig in rigs])


@lru_cache(maxsize=64)
def _filled(rigs: tuple[Rig, ...]) -> dict[int, int]:
    """By node, the row of the joined program that fills it."""
    return {int(out): row for row, out in enumerate(_program(rigs).ops[:, 1])}


@lru_cache(maxsize=1024)
def _part(rigs: tuple[Rig, ...], nodes: tuple[int, ...]) -> Part:
    return part(_program(rigs), nodes)
