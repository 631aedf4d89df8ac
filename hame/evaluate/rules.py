"""What spans add to channel values by rule, in closed form: living holds.

It is laid over keys and layers and comes before ties, so that planted feet stay
where they are, and before the rig's own program, so that feet posed by IK do.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np

from hame.character.rig import Rig
from hame.clip.clip import Clip
from hame.clip.living import Living, livings_of
from hame.clip.played import played_spans
from hame.evaluate.players import Player, Players
from hame.evaluate.stage import Hang, Rows, Stage, Task
from hame.maths.rotations import Array

# How far the body goes down when it goes aside, as a share: a leg that is straight still reaches its foot, which stands
# up to about 20 degrees aside or ahead of its hip.
_LOWER = 0.36
_NECK = -0.6  # of a breath: the head stays about level
# Numbers of what swings, the same on every rig.
_BREATH, _ASIDE, _FORTH, _TRUNK, _HEAD, _ARMS = 0, 1, 2, 10, 30, 50
_AXES = ("rx", "ry", "rz")


@dataclass(frozen=True)
class Moved:
    """A channel that a living hold moves: by which of its sizes, how much of that, along which swing.

    Attributes
    ----------
    mirrored : the share and the swing where left and right have changed places
    """

    channel: int
    size: str
    share: float
    swing: int
    mirrored: tuple[float, int] = (0.0, 0)


class Rules(Stage):
    """The stage that lays over keys what spans add by rule."""

    name = Living.stage

    def concerns(self, clip: Clip) -> bool:
        return bool(clip.tracks) and any(span.counts for span in livings_of(clip))

    def task(self, players: Players, frames: Array, over: bool) -> Task:
        return _Adding()

    def hangs(self, players: Players) -> Iterator[Hang]:
        return iter(())  # what they add depends on nothing but the figure's own keys


class _Adding(Task):
    def values(self, rows: Rows, before: Array) -> Array:
        after = before.copy()
        for number, player in rows.players.items():
            if livings_of(player.clip):
                after[:, rows.of(number)] += added(player, rows.times, before[:, rows.of(number)])
        return after


def added(player: Player, times: Array, values: Array) -> Array:
    """What all living holds of a player add to its channel values (T, C) at ``times (T,)``."""
    total = np.zeros_like(values)
    rig = player.rig
    spans = played_spans(player.clip, rig, Living.kind, float(times.min()), float(times.max())) if len(times) else {}
    for span in spans.get(Living.kind, []):
        rows = np.flatnonzero((times >= span.start) & (times <= span.end))
        if isinstance(span, Living) and span.counts and len(rows):
            total[rows] += _one(rig, span, times[rows], values[rows])
    return total


def _one(rig: Rig, span: Living, times: Array, values: Array) -> Array:
    """What one of them adds (T, C) at times inside of it."""
    found = np.zeros_like(values)
    counts = span.fades(times)
    for moved in moved_by(rig):
        size = getattr(span, moved.size)
        if size:
            share, swing = moved.mirrored if span.flipped else (moved.share, moved.swing)
            found[:, moved.channel] += size * share * counts * span.swing(times, swing)
    if span.shift:
        _shift(rig, span, times, values, counts, found)
    return found


def _shift(rig: Rig, span: Living, times: Array, values: Array, counts: Array, found: Array) -> None:
    """The body over its feet, in place; not where a leg is posed by FK, which it would take along."""
    body = next((control for control in rig.controls if control.kind == "body"), None)
    legs = [rig.number(limb.switch) for limb in rig.limbs if limb.kind == "leg"]
    if body is None:
        return
    firm = np.min(np.clip(values[:, legs], 0.0, 1.0), axis=1) if legs else np.ones(len(times))
    most = span.shift * counts * np.where(firm >= 1.0, 1.0, 0.0)
    aside, forth = span.swing(times, _ASIDE), 0.5 * span.swing(times, _FORTH)
    # Never more than `most` in all, and down by at least a share of how far it is aside: (a + b / a) / 2 >= sqrt(b).
    found[:, body.first] += most * aside * 0.85 * (-1.0 if span.flipped else 1.0)
    found[:, body.first + 2] += most * forth
    found[:, body.first + 1] -= 0.5 * _LOWER * most * (1.0 + aside**2 + forth**2)


@lru_cache(maxsize=256)
def moved_by(rig: Rig) -> tuple[Moved, ...]:
    """The turns that living holds move on a rig, by parts of the body; none of what a rig lacks or has locked."""
    found: list[Moved] = []

    def move(control: str, axis: str, size: str, share: float, swing: int) -> None:
        address = f"{control}/{axis}"
        if rig.has_channel(address) and not rig.channels[rig.number(address)].locked:
            found.append(Moved(rig.number(address), size, share, swing))

    trunk = [c.name for c in rig.controls if c.kind == "trunk" and c.part == "spine"]
    head = [c.name for c in rig.controls if c.kind == "trunk" and c.part == "head"]
    arms = [limb for limb in rig.limbs if limb.kind == "arm"]
    for control in trunk[-1:]:
        move(control, "rx", "breath", 1.0, _BREATH)
    for control in head[:1]:
        move(control, "rx", "breath", _NECK, _BREATH)
    for n, control in enumerate(trunk):
        for m, axis in enumerate(_AXES):
            move(control, axis, "trunk", (0.5, 0.8, 1.0)[m] / len(trunk), _TRUNK + 3 * n + m)
    for n, control in enumerate(head):
        for m, axis in enumerate(_AXES):
            move(control, axis, "head", (1.0, 0.8, 0.5)[m] / len(head), _HEAD + 3 * n + m)
    for n, limb in enumerate(arms):
        for m, (control, share) in enumerate(zip(limb.fk[:2], (1.0, 0.6), strict=False)):
            move(control, "rx", "arms", share, _ARMS + 2 * n + m)
    return tuple(replace(moved, mirrored=_mirrored(rig, moved, found)) for moved in found)


def _mirrored(rig: Rig, moved: Moved, among: list[Moved]) -> tuple[float, int]:
    """The share and the swing of the channel on the other side, seen in the mirror."""
    channel = rig.channels[moved.channel]
    address = f"{rig.control(channel.control).other}/{channel.name}"
    other = next((m for m in among if rig.addresses[m.channel] == address and m.size == moved.size), moved)
    return other.share * channel.mirror, other.swing
