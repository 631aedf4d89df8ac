"""From keys to the channel values that play: the stages of evaluation in their order, and the way back.

Keys come first (:mod:`hame.evaluate.keyed`). Who goes along a way moves as that
has it. What is *laid over* is added
to channel values, within the limits of the channels. Then come *ties*, which
read where things stand, and after them the rig's own program. A new stage is
one row in one of the two lists.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np

from hame.character.rig import Rig
from hame.clip.clip import Clip
from hame.clip.spans import OWN, Reach
from hame.evaluate.gaze import Gazes
from hame.evaluate.keyed import curve_value, curve_values, within
from hame.evaluate.laid import Layers
from hame.evaluate.players import Over, Player, Players, first_channels
from hame.evaluate.rules import Rules
from hame.evaluate.springs.stage import Springs
from hame.evaluate.stage import Keys, Stage, rows_of
from hame.evaluate.ties.stage import Ties
from hame.evaluate.ways import Ways
from hame.maths.rotations import Array

LAID: tuple[Stage, ...] = (Ways(), Layers(), Rules(), Gazes(), Springs())
TIED: tuple[Stage, ...] = (Ties(),)


def played_values(players: Players, frames: Array, over: Over | None = None) -> dict[int, Array]:
    """Channel values ``(F, C)`` of all players at ``frames (F,)`` as they play.

    An owner that does not play leaves what belongs to it where it was when it came to it.

    Parameters
    ----------
    over : by player, values by address that stand instead of those that play, at every one of the frames: of a pose
        that waits, or of a hand that moves. What depends on them follows

    Examples
    --------
    >>> from hame.clip.curve import from_keys
    >>> from hame.demo.shots import figure
    >>> rig, _ = figure("brannoc")
    >>> clip = Clip().with_curves({"head/ry": from_keys({1: 0.0, 13: 0.6, 25: 0.0})})
    >>> values = played_values({1: Player(rig, clip)}, np.array([7.0, 13.0]))[1]
    >>> values[:, rig.number("head/ry")].round(3).tolist()
    [0.3, 0.6]
    """
    frames = np.asarray(frames, float)
    values = _values(players, frames, [*LAID, *TIED], over)
    return {number: np.ascontiguousarray(values[:, part]) for number, part in _parts(players).items()}


def laid_values(rig: Rig, clip: Clip, times: Array) -> Array:
    """Channel values ``(T, C)`` at rising ``times`` with what is laid over the keys, but for ties."""
    return _values({OWN: Player(rig, clip)}, times, LAID)


def keyed_values(rig: Rig, clip: Clip, times: Array) -> Array:
    """Channel values ``(T, C)`` at rising ``times`` by the keys alone."""
    return within(rig, curve_values(rig, clip, times))


def laid_value(rig: Rig, clip: Clip, address: str, frame: float) -> float:
    """The value of one channel at a frame with what is laid over its keys, but for ties."""
    if _concerned(LAID, {OWN: Player(rig, clip)}):
        return float(laid_values(rig, clip, np.array([float(frame)]))[0, rig.number(address)])
    return keyed_value(rig, clip, address, frame)


def keyed_value(rig: Rig, clip: Clip, address: str, frame: float) -> float:
    """The value of one channel at a frame by its keys alone."""
    number = rig.number(address)
    return float(np.clip(curve_value(rig, clip, address, frame), rig.low[number], rig.high[number]))


def keys_for(players: Players, of: int, frame: int, wanted: Mapping[str, float]) -> Keys:
    """By frame, the channel values to key so that a player stands at ``frame`` as ``wanted``: values as they play."""
    keys: Keys = {frame: dict(wanted)}
    line = [*LAID, *TIED]
    for stage in reversed(_concerned(line, {of: players[of]})):
        before = line[: line.index(stage)]
        alone = {of: players[of]} if stage.alone else players
        found: Keys = {}
        for at, values in keys.items():
            back = stage.back(alone, of, at, values, lambda times, a=alone, b=before: _values(a, times, b))  # type: ignore[misc]
            for when, what in back.items():
                found.setdefault(when, {}).update(what)
        keys = found
    return keys


def _values(players: Players, frames: Array, stages: Sequence[Stage], over: Over | None = None) -> Array:
    """Values (F, C) of all players side by side after some stages; within the limits before the first that is tied."""
    standing = _standing(players, over)
    mine = _concerned(stages, players) if len(frames) else []
    tasks, wanted = {}, frames
    for stage in reversed(mine):  # what a later one looks at besides is to be right of those before it as well
        tasks[stage] = stage.task(players, wanted if stage in LAID else frames, bool(standing))
        if stage in LAID and len(tasks[stage].times):
            wanted = np.union1d(wanted, tasks[stage].times)
    rows = rows_of(players, frames, tasks.values(), standing)
    values = np.empty((len(rows.times), sum(len(player.rig.channels) for player in players.values())))
    for number, player in players.items():
        values[:, rows.of(number)] = curve_values(player.rig, player.clip, rows.times)
    for stage in mine:
        if stage in LAID:
            values = tasks[stage].values(rows, values)
    for number, player in players.items():  # between two keys inside its limits a curve may swing past them
        within(player.rig, values[:, rows.of(number)])
    tied = [tasks[stage] for stage in mine if stage in TIED]
    rows.stand_instead(values, rows.over.keys() - {channel for task in tied for channel in task.writes})
    for task in tied:
        values = task.values(rows, values)
        rows.stand_instead(values, task.writes)
    return values if rows.times is frames else values[rows.asked]


def _concerned(stages: Sequence[Stage], players: Players) -> list[Stage]:
    """Those that have something to do, in their order."""
    return [stage for stage in stages if any(stage.concerns(player.clip) for player in players.values())]


def _standing(players: Players, over: Over | None) -> dict[int, float]:
    """By channel among those of all, what stands instead; channels that a rig lacks are passed over."""
    if not over:
        return {}
    first = first_channels(players)
    return {
        first[number] + player.rig.number(address): value
        for number, player in players.items()
        for address, value in over.get(number, {}).items()
        if player.rig.has_channel(address)
    }


def _parts(players: Players) -> dict[int, slice]:
    first = first_channels(players)
    return {n: slice(first[n], first[n] + len(player.rig.channels)) for n, player in players.items()}


def is_tied(clip: Clip) -> bool:
    """Whether a clip has ties, so that others may have a say on how it stands."""
    return bool(clip.tracks) and any(stage.concerns(clip) for stage in TIED)


def read_by(clip: Clip) -> set[int]:
    """The numbers of those whose pose has a say on a player's: who carry something of it, or on whom it is planted."""
    return {number for stage in [*LAID, *TIED] for number in stage.reads(clip)} if clip.tracks else set()


def needed_players(of: int, player: Player, others: Players) -> dict[int, Player]:
    """A player with those of ``others`` that have a say on how it stands: owners, their owners, and so on."""
    found = {of: player}
    waiting = [player]
    while waiting:
        for number in read_by(waiting.pop().clip):
            if number not in found and number in others:
                found[number] = others[number]
                waiting.append(others[number])
    return found


def spread(players: Players, moved: Mapping[int, Sequence[Reach]]) -> dict[int, list[Reach]]:
    """By player, the frames that move when those ``moved`` do: what hangs on them, and what hangs on that.

    ``players`` are to have the ties that were there before as well as those that are there now. The frames may be more
    than those that really move, never less.
    """
    found = {number: list(ranges) for number, ranges in moved.items()}
    hangs = [hang for stage in _concerned([*LAID, *TIED], players) for hang in stage.hangs(players)]
    going = bool(hangs)
    while going:
        going = False
        for hang in hangs:
            mine = found.get(hang.of, [])
            touched = any(_meet(other, hang.reach) for owner in hang.on for other in found.get(owner, ()))
            if touched and not any(_holds(other, hang.reach) for other in mine):
                found[hang.of] = [*mine, hang.reach]
                going = True
    return found


def _meet(a: Reach, b: Reach) -> bool:
    return (a[0] is None or b[1] is None or a[0] <= b[1] + 1) and (b[0] is None or a[1] is None or b[0] <= a[1] + 1)


def _holds(a: Reach, b: Reach) -> bool:
    return (a[0] is None or (b[0] is not None and a[0] <= b[0])) and (
        a[1] is None or (b[1] is not None and b[1] <= a[1])
    )
