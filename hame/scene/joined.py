"""Figures of a scene evaluated together: their programs joined to one, so that a frame of all is one pass."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from typing import Any

import numpy as np
import numpy.typing as npt

from hame.clip.clip import Patch
from hame.clip.spans import Reach
from hame.evaluate.line import played_values, read_by, spread
from hame.evaluate.players import Over, Player
from hame.evaluate.posed import Posed, posed
from hame.maths.rotations import Array
from hame.scene.scene import Figure


def played(figures: Mapping[int, Figure], frames: Sequence[int] | npt.NDArray[Any]) -> dict[int, Posed]:
    """Figures of a scene at ``frames`` as they play, pending poses left out."""
    return _posed(figures, np.asarray(frames, float))


def seen(figures: Mapping[int, Figure], frame: int, over: Over | None = None) -> dict[int, Posed]:
    """Figures of a scene at one frame as a person sees them: with pending poses laid over, then ``over``."""
    waiting = {
        number: {**figure.clip.pending.get(frame, {}), **(over or {}).get(number, {})}
        for number, figure in figures.items()
    }
    return _posed(figures, np.array([float(frame)]), waiting)


def _posed(figures: Mapping[int, Figure], frames: Array, over: Over | None = None) -> dict[int, Posed]:
    if not figures:
        return {}
    players = {number: Player(figure.rig, figure.clip) for number, figure in figures.items()}
    values = played_values(players, frames, over)
    found = posed([figure.rig for figure in figures.values()], [values[number] for number in figures])
    return dict(zip(figures, found, strict=True))


def bound_to(figures: Mapping[int, Figure], of: int) -> dict[int, Figure]:
    """A figure with all of those in the shot that are tied to it, or to one that is, whoever carries whom."""
    playing = {number: figure for number, figure in figures.items() if figure.plays or number == of}
    pairs = [
        (number, owner)
        for number, figure in playing.items()
        for owner in read_by(figure.clip)
        if owner in playing and owner != number
    ]
    found = {of}
    while True:
        more = {n for pair in pairs if found & set(pair) for n in pair} - found
        if not more:
            return {number: playing[number] for number in playing if number in found}
        found |= more


def all_bound_to(figures: Mapping[int, Figure], wanted: Iterable[int]) -> dict[int, Figure]:
    """Some figures with all of those in the shot that are tied to any of them."""
    return {number: figure for of in wanted for number, figure in bound_to(figures, of).items()}


def moves(figures: Mapping[int, Figure], patches: Mapping[int, Patch]) -> dict[int, list[Reach]]:
    """By figure, the frames that move when clips change so, of those that changed and of those that are tied to them.

    ``figures`` are all who play, after the change.
    """
    players = {number: Player(figure.rig, figure.clip) for number, figure in figures.items()}
    found = {number: list(patch.ranges) for number, patch in patches.items()}
    for number, patch in patches.items():  # what was tied before moves as well
        if number in players and patch.tracks:
            before = patch.reversed().apply(players[number].clip)
            found = spread({**players, number: Player(players[number].rig, before)}, found)
    return spread(players, found)
