"""A pose as a person sees it: pending values laid over, ties worked in; and back, what to key for it."""

from __future__ import annotations

from collections.abc import Iterator, Mapping

import numpy as np

from hame.character.rig import Rig
from hame.clip.clip import Clip
from hame.clip.spans import OWN
from hame.evaluate import line
from hame.evaluate.evaluate import overlaid
from hame.evaluate.line import keyed_values, played_values
from hame.evaluate.players import Player
from hame.maths.rotations import Array
from hame.scene.scene import Figure, Scene


class Players(Mapping[int, Player]):
    """Those figures of a scene that are in the shot, opened when they are asked for."""

    def __init__(self, figures: Mapping[int, Figure]) -> None:
        self._figures = figures

    def __getitem__(self, number: int) -> Player:
        figure = self._figures[number]
        if not figure.plays:
            raise KeyError(number)
        return Player(figure.rig, figure.clip)

    def __contains__(self, number: object) -> bool:
        return number in self._figures and self._figures[number].plays  # type: ignore[index]

    def __iter__(self) -> Iterator[int]:
        return (number for number in self._figures if number in self)

    def __len__(self) -> int:
        return sum(1 for _ in self)


def players_for(rig: Rig, clip: Clip, scene: Scene | None) -> tuple[int, dict[int, Player]]:
    """The number of the figure that a scene is seen by, with a clip of its own, and those that have a say on it."""
    of = OWN if scene is None else scene.of
    others = {} if scene is None else Players(scene.figures)
    return of, line.needed_players(of, Player(rig, clip), others)


def pose_values(rig: Rig, clip: Clip, frame: int, scene: Scene | None = None) -> Array:
    """Channel values ``(C,)`` of a figure at one frame as the person sees it: with the pending pose laid over.

    Without a scene, what belongs to others of the cast stands where it came to them.
    """
    of, players = players_for(rig, clip, scene)
    over = {number: player.clip.pending.get(frame, {}) for number, player in players.items()}
    return np.asarray(played_values(players, np.array([float(frame)]), over)[of][0])


def keyed_values_at(rig: Rig, clip: Clip, frame: int) -> Array:
    """Channel values ``(C,)`` at one frame by its own keys and what is pending there, ties and layers left out."""
    values = keyed_values(rig, clip, np.array([float(frame)]))[0]
    return overlaid(rig, values, clip.pending.get(frame, {}))


def keys_for(
    rig: Rig, clip: Clip, frame: int, wanted: Mapping[str, float], scene: Scene | None = None
) -> dict[int, dict[str, float]]:
    """By frame, what to key so that a figure stands as ``wanted``, by address as it is seen."""
    of, players = players_for(rig, clip, scene)
    return line.keys_for(players, of, frame, wanted)
