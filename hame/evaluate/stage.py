"""A stage of evaluation: one step on the way from keys to the channel values that the rig's program reads.

A stage takes the values of all who play, side by side, and hands on new ones.
It may look at other times than those that were asked for, and says at which;
it keeps nothing from one call to the next but what a cache may forget. Each is
a module, and :mod:`hame.evaluate.line` lists them in their order.
"""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Callable, Collection, Iterator, Mapping
from dataclasses import dataclass, field
from functools import cached_property
from typing import ClassVar

import numpy as np
import numpy.typing as npt

from hame.clip.clip import Clip
from hame.clip.spans import OWN, Reach
from hame.evaluate.players import Players, first_channels
from hame.maths.rotations import Array

Ints = npt.NDArray[np.int64]
NO_TIMES: Array = np.zeros(0)


@dataclass(frozen=True, eq=False)
class Rows:
    """What is worked out in one call.

    Attributes
    ----------
    times : (T,) rising
    asked : (F,) which of them were asked for
    over : by channel, among those of all, what stands instead in the rows that were asked for
    """

    players: Players
    times: Array
    asked: Ints
    over: Mapping[int, float] = field(default_factory=dict)

    @cached_property
    def channels(self) -> dict[int, int]:
        """By player, the first of its channels."""
        return first_channels(self.players)

    def of(self, number: int) -> slice:
        """The channels of a player."""
        first = self.channels[number]
        return slice(first, first + len(self.players[number].rig.channels))

    def stand_instead(self, values: Array, channels: Collection[int]) -> None:
        """Writes into ``values (T, C)`` what stands instead, of those channels."""
        for channel, value in self.over.items():
            if channel in channels:
                values[self.asked, channel] = value


class Task(ABC):
    """What a stage has to do in one call.

    Attributes
    ----------
    times : at which it has to look besides those that were asked for
    writes : of a stage that reads poses, the channels that it makes anew, among those of all. What stands instead of a
        value is laid over these when it is through; over all others before the first such stage
    """

    times: Array = NO_TIMES
    writes: frozenset[int] = frozenset()

    @abstractmethod
    def values(self, rows: Rows, before: Array) -> Array:
        """New channel values (T, C) for those ``before (T, C)``, which it leaves as they are."""


@dataclass(frozen=True)
class Hang:
    """Frames ``reach`` on which a player hangs on some, itself among them."""

    of: int
    on: frozenset[int]
    reach: Reach


Before = Callable[[Array], Array]  # rising times (T,) -> the values (T, C) that a stage is given there
Keys = dict[int, dict[str, float]]  # by frame and address


class Stage(ABC):
    """A step of evaluation.

    Attributes
    ----------
    name : by which kinds of span say that they are played by it (:attr:`hame.clip.spans.Span.stage`)
    alone : whether what it makes of a figure follows from that figure alone
    """

    name: ClassVar[str]
    alone: ClassVar[bool] = True  # what it makes of a figure follows from that alone

    def concerns(self, clip: Clip) -> bool:
        """Whether it has anything to do for a clip."""
        return any(spans and spans[0].stage == self.name for spans in clip.tracks.values())

    @abstractmethod
    def task(self, players: Players, frames: Array, over: bool) -> Task:
        """What it has to do for frames (F,); ``over`` tells that values stand instead there, which it may not keep."""

    def reads(self, clip: Clip) -> set[int]:
        """The numbers of the other players whose pose has a say on this one's."""
        return {span.figure_read for _, span in clip.spans() if span.stage == self.name} - {OWN}

    def hangs(self, players: Players) -> Iterator[Hang]:
        """What moves when something else does: the frames of each span, unless a stage knows better."""
        for number, player in players.items():
            for _, span in player.clip.spans():
                if span.stage == self.name:
                    on = number if span.figure_read == OWN else span.figure_read
                    yield Hang(number, frozenset({number, on}), span.reach())

    def back(self, players: Players, of: int, frame: int, wanted: Mapping[str, float], before: Before) -> Keys:
        """By frame, what it has to be given for a player to stand at ``frame`` as ``wanted``, by address.

        What it adds there is taken off, unless a stage knows better.
        """
        times = np.array([float(frame)])
        task = self.task(players, times, False)
        rows = rows_of(players, times, [task])
        given = before(rows.times)
        made = task.values(rows, given)
        rig, row, first = players[of].rig, int(rows.asked[0]), rows.channels[of]
        found = dict(wanted)
        for address in wanted:
            if rig.has_channel(address):
                channel = first + rig.number(address)
                found[address] += float(given[row, channel] - made[row, channel])
        return {frame: found}


def rows_of(players: Players, frames: Array, tasks: Collection[Task], over: Mapping[int, float] | None = None) -> Rows:
    """The rows that tasks need for frames (F,); just these, in their own order, where they need no more."""
    more = [task.times for task in tasks if len(task.times)]
    if not more:
        return Rows(players, frames, np.arange(len(frames)), over or {})
    times = np.unique(np.concatenate([frames, *more]))
    return Rows(players, times, np.searchsorted(times, frames), over or {})
