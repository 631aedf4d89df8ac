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
carry each other, and any frame follows from them alone."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from hame.clip.belonging import Belonging
from hame.clip.clip import Clip
from hame.clip.layers import sounding
from hame.clip.plants import Plant
from hame.clip.spans import OWN, Reach
from hame.evaluate import ties_kernel
from hame.evaluate.keyed import Player, keyed_values, overlaid_with
from hame.evaluate.laid import lifted
from hame.evaluate.links import FOREVER, SIX, Link, until
from hame.evaluate.stretch import Stretch
from hame.evaluate.tied import Over, Tied
from hame.maths import transforms
from hame.maths.rotations import Array
from hame.program import NONE


@dataclass(frozen=True)
class Ring:
    """Controls that would carry each other round, from frame ``first`` on: (figure, control), each by the next."""

    first: float
    links: tuple[tuple[int, str], ...]


def has_ties(clip: Clip) -> bool:
    return any(track.partition("/")[0] in (Plant.kind, Belonging.kind) for track in clip.tracks)


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
            number: overlaid_with(
                player.rig, keyed_values(player.rig, player.clip, frames), (over or {}).get(number, {})
            )
            for number, player in players.items()
        }
    return Tied(players, np.asarray(frames, float), over or {}).values()


def rings(players: Mapping[int, Player]) -> list[Ring]:
    """Where controls would carry each other round, so that none could be placed."""
    if not any(has_ties(player.clip) for player in players.values()):
        return []
    tied = Tied(players, np.zeros(0))
    return [Ring(epoch.first, ring) for epoch in tied.epochs if (ring := tied.order_in(epoch)[1])]


def keys_for(
    players: Mapping[int, Player], of: int, frame: int, wanted: Mapping[str, float]
) -> dict[int, dict[str, float]]:
    """By frame, the channel values to key so that a player stands at ``frame`` as ``wanted``: values as they play.

    What is tied is keyed in the frame that carries it. A planted limb is moved by the key with which it was planted, so
    that all of its plant moves; where it does not move, it is keyed where it is.
    """
    keys = _played_keys(players, of, frame, wanted)
    clip, rig = players[of].clip, players[of].rig
    if not (clip.tracks and sounding(clip)):
        return keys
    return {  # what layers add is not keyed once more
        at: lifted(rig, clip, at, keyed_values(rig, clip, np.array([float(at)]))[0], values)
        for at, values in keys.items()
    }


def _played_keys(
    players: Mapping[int, Player], of: int, frame: int, wanted: Mapping[str, float]
) -> dict[int, dict[str, float]]:
    """The same before layers are taken off."""
    player = players[of]
    if not has_ties(player.clip):
        return {frame: dict(wanted)}
    tied = Tied(players, np.array([float(frame)]))
    tied.values(whole=True)
    keys: dict[int, dict[str, float]] = {frame: dict(wanted)}
    row = int(tied.asked[0])
    for link in tied.links:
        stretch = tied.stretch_at(link, row) if link.figure == of else None
        if stretch is not None:  # where nothing ties it, it is keyed as it plays
            for at, values in _keys_of(tied, stretch, row, frame, wanted).items():
                keys.setdefault(at, {}).update(values)
    return keys


MOVED = 1e-9  # metres and radians: less is no wish to move


def _keys_of(
    tied: Tied, stretch: Stretch, row: int, frame: int, wanted: Mapping[str, float]
) -> dict[int, dict[str, float]]:
    """The same for one tied control; nothing where it is keyed as it plays."""
    link = stretch.link
    names = [f"{link.control.name}/{c}" for c in SIX]
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
    near, goal = link.near[row].copy(), stretch.near_of(row, aim)
    off = near - keyed
    if held is not None and (link.plants[held].span.start < frame or link.plants[held].follows_on):
        if np.abs(aim - played).max() > MOVED:
            first = held
            while link.plants[first].follows_on:
                first -= 1
            start = link.plants[first].span.start
            there = _carried_back(tied, stretch, row, goal, held, start)
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


def _carried_back(tied: Tied, stretch: Stretch, row: int, goal: Array, held: int, start: int) -> Array:
    """The values (6,) at the start of a plant that bring what it holds at a row to ``goal (6,)``."""
    link = stretch.link
    then = next(s for s in tied.seen[link.name] if s.row_at(start) >= 0)
    first = then.row_at(start)
    now, aim, before = stretch.world(row, link.near[row]), stretch.world(row, goal), then.world(first, link.near[first])
    plant = link.plants[held]
    if plant.span.about:
        pivot = link.table[held, ties_kernel.PIVOT : ties_kernel.PIVOT + 3]
        now, aim = (transforms.transform(transforms.apply(t, pivot)) for t in (now, aim))
    # Seen from what it stands on, which may have moved since.
    here, there = stretch.thing(row, held), then.thing(first, held)
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
    hangs = [hang for link in Tied(players, np.zeros(0)).links for hang in _hangs(link)]
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


def _hangs(link: Link) -> Iterator[tuple[int, set[int], Reach]]:
    """What a link hangs on, and the frames on which it does: whose it is, on whom, and from when to when."""
    for p in link.plants:
        last = None if p.free >= FOREVER else int(p.free)
        on = {link.figure, p.span.figure if p.span.figure != OWN else link.figure}
        yield link.figure, on, (p.span.start - p.span.land, last)
    for span in link.belongings:
        last = int(until(link, span)) if span.ease_out else None
        yield link.figure, {link.figure, span.figure if span.figure != OWN else link.figure}, (span.start, last)


def _meet(a: Reach, b: Reach) -> bool:
    return (a[0] is None or b[1] is None or a[0] <= b[1] + 1) and (b[0] is None or a[1] is None or b[0] <= a[1] + 1)


def _holds(a: Reach, b: Reach) -> bool:
    return (a[0] is None or (b[0] is not None and a[0] <= b[0])) and (
        a[1] is None or (b[1] is not None and b[1] <= a[1])
    )
