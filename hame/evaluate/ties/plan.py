"""Who is tied in a scene, when, and in which order that is worked out."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field, replace
from functools import cached_property
from itertools import pairwise
from threading import Lock

import numpy as np
from cachetools import LRUCache

from hame.clip.belonging import Belonging
from hame.clip.plants import Plant
from hame.clip.played import played_spans
from hame.clip.spans import OWN, Track, control_of
from hame.evaluate.kernel import ORDERS
from hame.evaluate.players import Players, filled_by, first_channels, first_nodes, part_of, rigs_of
from hame.evaluate.ties.known import Known
from hame.evaluate.ties.links import (
    FARTHEST_RELEASE,
    FOREVER,
    Epoch,
    Planted,
    TiedControl,
    near_to,
    planted_of,
    reaching,
    tie_in,
    until,
)
from hame.evaluate.ties.order import Name, in_order
from hame.program import NONE


@dataclass(frozen=True, eq=False)
class Plan:
    """What ties what in a scene, whatever frames are asked for.

    Attributes
    ----------
    channels, nodes : by player, the first of its channels and nodes among those of all
    belonging : the controls that belong to something at some time
    epochs : the passages of time in which nobody changes owner
    known : what has been found of it so far
    """

    players: Players
    channels: Mapping[int, int]
    nodes: Mapping[int, int]
    belonging: tuple[TiedControl, ...]
    epochs: tuple[Epoch, ...]
    known: Known = field(default_factory=Known)

    @cached_property
    def changes(self) -> tuple[float, ...]:
        """The times at which somebody changes owner."""
        return tuple(epoch.first for epoch in self.epochs[1:])

    @cached_property
    def limbs(self) -> dict[Name, TiedControl]:
        """The ends of all limbs and chains, which may be planted; those that belong to something with when they do."""
        ends = [(n, end.ik) for n, player in self.players.items() for end in player.rig.ends]
        tied = {link.name: link for link in self.belonging}
        return {name: tied.get(name) or link_of(self, *name) for name in ends}

    def owner(self, link: TiedControl, figure: int, name: str) -> int:
        """The node of an owner, among all; NONE for the world and for one that does not play."""
        number = link.figure if figure == OWN else figure
        player = self.players.get(number)
        if not name or player is None or not player.rig.has_control(name):
            return NONE
        return self.nodes[number] + player.rig.carrying_node(name)

    def window(self, first: float, last: float) -> Window:
        """What ties what on frames from ``first`` to ``last``."""
        reach = min([first, *self.changes[:1]]), max([last, *self.changes[-1:]])
        return Window(self, dict(self._plants(reach)))

    def everything(self) -> Window:
        """What ties what at any time; but for the plants that a cycle shows again."""
        return Window(self, dict(self._plants(None)))

    def _plants(self, reach: tuple[float, float] | None) -> Iterator[tuple[TiedControl, tuple[Planted, ...]]]:
        """Links with their plants that have a say on frames from the first to the last; all of them without those."""
        first, last = reach or (-FOREVER, -FOREVER)
        tied = {link.name for link in self.belonging}
        there: dict[Name, tuple[Planted, ...]] = {}
        more: list[tuple[TiedControl, tuple[Planted, ...]]] = []
        for number, player in self.players.items():
            rig, clip = player.rig, player.clip
            for track, spans in played_spans(clip, rig, Plant.kind, first - FARTHEST_RELEASE, last).items():
                link = self.limbs.get((number, control_of(track)))
                if link is None:
                    continue
                mine = [span for span in spans if isinstance(span, Plant)]
                near = near_to(mine, first, last) if reach else slice(0, len(mine))
                plants = planted_of(rig, clip, link, mine, first, last, near)
                plants = reaching(plants, first, last) if reach else plants
                if link.name in tied:
                    there[link.name] = tuple(plants)
                elif plants:
                    more.append((link, tuple(plants)))
        yield from ((link, there.get(link.name, ())) for link in self.belonging)
        yield from more


@dataclass(frozen=True, eq=False)
class Window:
    """The controls that are tied at some frames, and the plants that have a say there."""

    plan: Plan
    plants: Mapping[TiedControl, tuple[Planted, ...]]

    @cached_property
    def links(self) -> dict[Name, TiedControl]:
        return {link.name: link for link in self.plants}

    @cached_property
    def names(self) -> frozenset[Name]:
        return frozenset(self.links)

    def needed(self, link: TiedControl, epoch: Epoch) -> tuple[int, ...]:
        """The nodes that have to stand before a link can be worked out: its own frame, its owner, what it stands on."""
        tie = tie_in(link, epoch)
        owner = NONE if tie is None else self.plan.owner(link, tie.figure, tie.to)
        things = [
            self.plan.owner(link, p.span.figure, p.span.thing)
            for p in self.plants[link]
            if p.span.start - p.span.land <= epoch.last and p.until >= epoch.first
        ]
        return (link.own, owner, *things)

    def order_in(self, epoch: Epoch) -> tuple[tuple[Name, ...], tuple[Name, ...]]:
        """The links in an order in which each stands on those before it; and a ring, if there is one.

        Where a limb's end is planted, the limb's root comes first if it can: from it follows how far the limb came.
        """
        hard = {name: self.carriers(self.needed(link, epoch), link) for name, link in self.links.items()}
        soft = {
            name: hard[name] | (self.carriers(link.limb_nodes, link) if self.plants[link] else set())
            for name, link in self.links.items()
        }
        found, _ = in_order(soft)
        if len(found) == len(self.links):
            return tuple(found), ()
        found, ring = in_order(hard)
        # Whoever cannot be placed is placed last, with what there is.
        return (*found, *(name for name in self.links if ring and name not in found)), ring

    def order(self) -> tuple[Name, ...] | None:
        """One order for all epochs; None where there is none."""
        needs: dict[Name, set[Name]] = {name: set() for name in self.links}
        for epoch in self.plan.epochs:
            for name, link in self.links.items():
                needs[name] |= self.carriers(self.needed(link, epoch), link)
        found, ring = in_order(needs)
        return None if ring else tuple(found)

    def carriers(self, nodes: tuple[int, ...], link: TiedControl) -> set[Name]:
        """The other links that some nodes hang on."""
        rigs = rigs_of(self.plan.players)
        rows = set(part_of(rigs, nodes).rows.tolist())
        filled = filled_by(rigs)
        return {other.name for other in self.links.values() if other is not link and filled[other.node] in rows}


def link_of(plan: Plan, number: int, name: str) -> TiedControl:
    """A control of a player as one that may be tied."""
    rig, channel, node = plan.players[number].rig, plan.channels[number], plan.nodes[number]
    control = rig.control(name)
    limb = next((limb for limb in rig.limbs if limb.ik == name), None)
    chain = next((chain for chain in rig.chains if chain.ik == name), None)
    ends = (limb.end, limb.target) if limb else (chain.reached, chain.tip) if chain else None
    return TiedControl(
        number,
        control,
        limb,
        channel + control.first,
        NONE if limb is None else channel + rig.number(f"{limb.name}/soft"),
        node + control.frame,
        node + control.node,
        (NONE, NONE) if ends is None else (node + ends[0], node + ends[1]),
        ORDERS[rig.tables.control[rig.number_of(name), 3]].astype(np.int64),
    )


def made_plan(players: Players) -> Plan:
    bare = Plan(dict(players), first_channels(players), first_nodes(players), (), ())
    links = tuple(link for number in players for link in _belonging(bare, number))
    changes = sorted({t for link in links for s in link.belongings for t in (float(s.start), until(link, s))})
    epochs = tuple(Epoch(a, b) for a, b in pairwise([-FOREVER, *changes, FOREVER]))
    return replace(bare, belonging=links, epochs=epochs)


def _belonging(plan: Plan, number: int) -> Iterator[TiedControl]:
    """The controls of a player that belong to something at some time."""
    player = plan.players[number]
    for track, spans in player.clip.tracks.items():
        if Track.named(track).kind == Belonging.kind and player.rig.has_control(control_of(track)):
            mine = tuple(span for span in spans if isinstance(span, Belonging))
            yield replace(link_of(plan, number, control_of(track)), belongings=mine)


_plans: LRUCache[tuple[tuple[int, int, int], ...], Plan] = LRUCache(maxsize=24)
_lock = Lock()


def plan_of(players: Players) -> Plan:
    """The plan of a scene of these very clips; the last few are remembered."""
    key = tuple((number, id(player.rig), id(player.clip)) for number, player in players.items())
    with _lock:
        found = _plans.get(key)
        if found is None:  # a plan keeps its clips, so that their ids stay theirs
            found = _plans[key] = made_plan(players)
        return found


@dataclass(frozen=True)
class Ring:
    """Controls that would carry each other round, from frame ``first`` on: (figure, control), each by the next."""

    first: float
    links: tuple[Name, ...]


def rings(players: Players) -> list[Ring]:
    """Where controls would carry each other round, so that none could be placed."""
    window = plan_of(players).everything()
    return [Ring(epoch.first, ring) for epoch in window.plan.epochs if (ring := window.order_in(epoch)[1])]
