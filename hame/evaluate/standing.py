"""Where all stand, for stages that look at it before ties are worked in: with limits, ties, and what stands instead."""

from __future__ import annotations

import numpy as np

from hame.evaluate.keyed import within
from hame.evaluate.players import Players
from hame.evaluate.stage import Rows, Task
from hame.evaluate.ties.stage import Ties
from hame.maths.rotations import Array

_TIES = Ties()


class Standing:
    """How players stand at ``frames (F,)``.

    Attributes
    ----------
    times : at which ties have to be looked at for that, those frames among them
    """

    def __init__(self, players: Players, frames: Array) -> None:
        tied = any(_TIES.concerns(player.clip) for player in players.values())
        self._ties: Task | None = _TIES.task(players, frames, True) if tied else None
        self.times = frames if self._ties is None else np.union1d(frames, self._ties.times)

    def values(self, rows: Rows, before: Array) -> Array:
        """The values (T, C) as they stand, of those ``before (T, C)``, which stay what they are."""
        found = before.copy()
        for number, player in rows.players.items():
            within(player.rig, found[:, rows.of(number)])
        rows.stand_instead(found, rows.over.keys())
        return found if self._ties is None else self._ties.values(rows, found)
