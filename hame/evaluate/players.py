"""Those who are evaluated together, and where each one's channels and nodes lie when they are laid side by side."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from hame.character.rig import Rig
from hame.clip.clip import Clip
from hame.program import Part, Program, joined, part


@dataclass(frozen=True)
class Player:
    """A rig and the clip that moves it."""

    rig: Rig
    clip: Clip


Players = Mapping[int, Player]  # by the number of their casting
Over = Mapping[int, Mapping[str, float]]  # by player, values by address that stand instead of those that play


def rigs_of(players: Players) -> tuple[Rig, ...]:
    return tuple(player.rig for player in players.values())


def first_channels(players: Players) -> dict[int, int]:
    """By player, the first of its channels among those of all."""
    return _bases(players, [len(player.rig.channels) for player in players.values()])


def first_nodes(players: Players) -> dict[int, int]:
    """By player, the first of its nodes among those of all."""
    return _bases(players, [player.rig.program.nodes for player in players.values()])


def _bases(players: Players, sizes: Sequence[int]) -> dict[int, int]:
    return dict(zip(players, np.cumsum([0, *sizes]).tolist(), strict=False))


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
