"""Gazes: what looks at a place or a thing is turned to it, more than it is keyed.

Chest, head and eyes are turned one after the other, each by what those before it leave, so that the last of them points
there exactly, wherever the others have carried it by then. What chest and head follow is where the thing was a few
frames before: eyes lead. The turns do not depend on what is keyed of the controls that they turn, so keys lie on top,
and what is seen can be keyed. Where things stand is read with ties worked in, which come afterwards.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np

from hame.character.rig import TURN, Control, Rig
from hame.clip.gaze import Gaze
from hame.clip.spans import OWN, Track
from hame.evaluate.players import Player, Players, first_channels
from hame.evaluate.some import some_nodes
from hame.evaluate.stage import Before, Keys, Rows, Stage, Task
from hame.evaluate.standing import Standing
from hame.maths import rotations
from hame.maths.rotations import Array

EYES, HEAD, CHEST = 0, 1, 2
_KNEE = math.radians(4.0)  # so softly the next part begins
_PITCH = 0.6  # of how far head and chest turn aside they turn up and down
_BEHIND = math.radians(
    150.0
)  # what is farther round than this is let go, until it looks ahead for what is right behind
_NECK = 0.4  # of the head's turn


@dataclass(frozen=True)
class Turned:
    """A control that takes a share of a turn aside and of one up and down.

    Attributes
    ----------
    first : of its channels
    aside, down : the channels, of the rig, or -1 where it does not turn so
    """

    control: Control
    share: float
    aside: int
    down: int


@dataclass(frozen=True)
class Looks:
    """By what a rig looks: its eyes, and the controls of its head and chest, from below upwards."""

    eyes: tuple[Turned, ...]
    head: tuple[Turned, ...]
    chest: tuple[Turned, ...]

    @property
    def there(self) -> bool:
        return bool(self.eyes or self.head)


@lru_cache(maxsize=256)
def looks_of(rig: Rig) -> Looks:
    """What of a rig looks; of a prop nothing does by itself."""

    def turned(control: Control, share: float) -> Turned:
        free = {c.name: rig.number(c.address) for c in rig.channels_of(control.name) if not c.locked}
        return Turned(control, share, free.get("ry", -1), free.get("rx", -1))

    trunk = [c for c in rig.controls if c.kind == "trunk" and c.order == "YXZ"]
    head = [c for c in trunk if c.part == "head"]
    spine = [c for c in trunk if c.part == "spine"]
    shares = [_NECK / max(len(head) - 1, 1)] * (len(head) - 1) + [1.0 - _NECK if len(head) > 1 else 1.0]
    eyes = [rig.control(name) for name in ("eye.L", "eye.R") if rig.has_control(name)]
    return Looks(
        tuple(turned(c, 1.0) for c in eyes if c.order == "YXZ"),
        tuple(turned(c, share) for c, share in zip(head, shares, strict=False)),
        tuple(turned(c, 1.0 / len(spine)) for c in spine),
    )


def can_aim(rig: Rig, control: str) -> bool:
    """Whether a control can be aimed: it turns about three axes of its own."""
    free = {c.name for c in rig.channels_of(control) if c.kind == TURN and not c.locked}
    return rig.control(control).posed and {"rx", "ry", "rz"} <= free


class Gazes(Stage):
    """The stage that turns what looks, over keys and rules."""

    name = Gaze.stage
    alone = False

    def task(self, players: Players, frames: Array, over: bool) -> Task:
        return _Looking(players, frames)

    def back(self, players: Players, of: int, frame: int, wanted: Mapping[str, float], before: Before) -> Keys:
        """What it turns is that much less keyed; it follows from all that carries it, which is keyed first."""
        rig, keyed = players[of].rig, dict(wanted)
        for _ in range(4):  # the chest's own keys turn the head's, and these the eyes'
            found = super().back(players, of, frame, wanted, _with(before, players, of, keyed))[frame]
            if all(abs(found[a] - keyed[a]) < 1e-12 for a in found if rig.has_channel(a)):
                break
            keyed = found
        return {frame: keyed}


def _with(before: Before, players: Players, of: int, keyed: Mapping[str, float]) -> Before:
    """What the stage would be given if some channels of a player were keyed so."""
    rig, first = players[of].rig, first_channels(players)[of]

    def given(times: Array) -> Array:
        values = before(times).copy()
        for address, value in keyed.items():
            if rig.has_channel(address):
                values[:, first + rig.number(address)] = value
        return values

    return given


class _Looking(Task):
    def __init__(self, players: Players, frames: Array) -> None:
        self.shifts = sorted({n * span.lead for p in players.values() for _, span in p.clip.spans()
                              if isinstance(span, Gaze) for n in (1, 2) if span.lead})  # fmt: skip
        wanted = Standing(players, frames).times  # where ties look, it is to be known of what looks as well
        self.standing = Standing(players, np.unique(np.concatenate([wanted, *(wanted - n for n in self.shifts)])))
        self.times = self.standing.times

    def values(self, rows: Rows, before: Array) -> Array:
        after = before.copy()
        seen = {number: self._spans(player) for number, player in rows.players.items()}
        stood = plain = self.standing.values(rows, after)
        # The chest first, then the head over it, then the eyes: each stands where those before have brought it.
        for part in (CHEST, HEAD, EYES):
            for number, spans in seen.items():
                if spans:
                    self._turn(rows, number, spans, part, plain, stood, after)
            stood = self.standing.values(rows, after) if part != EYES else stood
        for number, player in rows.players.items():
            for track, laid in player.clip.tracks.items():
                kind, about = Track.named(track)
                if kind == Gaze.kind and about:
                    self._aim(rows, number, about, [span for span in laid if isinstance(span, Gaze)], stood, after)
        return after

    @staticmethod
    def _spans(player: Player) -> list[Gaze]:
        spans = player.clip.tracks.get(Gaze.kind, ())
        return [s for s in spans if isinstance(s, Gaze) and s.counts] if looks_of(player.rig).there else []

    def _turn(
        self, rows: Rows, number: int, spans: Sequence[Gaze], part: int, plain: Array, stood: Array, after: Array
    ) -> None:
        """Adds what one part of a figure turns by, in place.

        The ``plain`` values are those without any gaze: by these, what chest and head follow is known frames before.
        """
        rig, mine = rows.players[number].rig, rows.of(number)
        looks = looks_of(rig)
        turned = (looks.eyes, looks.head, looks.chest)[part]
        last = part == EYES or (part == HEAD and not looks.eyes)
        by = stood if last else plain
        alone = [(replace(one, share=1.0),) for one in (turned if part == EYES else turned[-1:])]  # each points exactly
        for group in alone if last else [turned] if turned else []:
            base, place = _base(rig, group[0].control, stood[:, mine])
            if not last:
                place = _middle(rig, looks, plain[:, mine])
            ends = _ends(rig, group[0]) if last else None
            total = np.zeros((len(rows.times), 2))
            for span in spans:
                goal = _goal(rows, by, number, span)
                if goal is not None:
                    ways = _at(rows.times, goal - place, 0 if last else part * span.lead)
                    wanted = _angles(rotations.rotate(rotations.inverse(base), ways), span, part, ends)
                    total = _blended(total, wanted, span, spans, rows.times, part)
            for one in group:
                for column, angle in ((one.aside, total[:, 0]), (one.down, total[:, 1])):
                    if column >= 0:
                        after[:, mine.start + column] += one.share * angle

    def _aim(self, rows: Rows, number: int, about: str, spans: list[Gaze], stood: Array, after: Array) -> None:
        """Adds what a control turns by that is aimed alone, in place."""
        rig, mine = rows.players[number].rig, rows.of(number)
        spans = [span for span in spans if span.counts]
        if not spans or not rig.has_control(about) or not can_aim(rig, about):
            return
        control = rig.control(about)
        base, place = _base(rig, control, stood[:, mine])
        total = np.zeros((len(rows.times), 3))
        for span in spans:
            goal = _goal(rows, stood, number, span)
            if goal is None:
                continue
            ways = rotations.rotate(rotations.inverse(base), goal - place)
            total = _blended(total, _shortest(ways, span.axis, control.order), span, spans, rows.times, EYES)
        for axis in range(3):
            after[:, mine.start + control.first + 3 + axis] += total[:, axis]


def _goal(rows: Rows, values: Array, number: int, span: Gaze) -> Array | None:
    """Where what is looked at is (T, 3) in the world; None where it does not play."""
    whose = number if span.figure == OWN else span.figure
    if not span.to:
        return np.broadcast_to(span.at, (len(rows.times), 3))
    player = rows.players.get(whose)
    if player is None or not player.rig.has_control(span.to):
        return None
    node = some_nodes(player.rig, (player.rig.carrying_node(span.to),), np.ascontiguousarray(values[:, rows.of(whose)]))
    return np.asarray(node[:, 0, :3] + node[:, 0, 7:8] * rotations.rotate(node[:, 0, 3:7], span.at))


def _base(rig: Rig, control: Control, values: Array) -> tuple[Array, Array]:
    """The axes (T, 4) in which a control is turned, and where it is (T, 3)."""
    nodes = some_nodes(rig, (control.frame, control.node), np.ascontiguousarray(values))
    return rotations.multiply(nodes[:, 0, 3:7], control.pre), np.asarray(nodes[:, 1, :3])


def _middle(rig: Rig, looks: Looks, values: Array) -> Array:
    """From where a figure looks (T, 3): between its eyes, or from its head."""
    among = [one.control.node for one in (looks.eyes or looks.head[-1:])]
    return np.asarray(some_nodes(rig, tuple(among), np.ascontiguousarray(values))[:, :, :3].mean(axis=1))


def _at(times: Array, ways: Array, late: int) -> Array:
    """Ways (T, 3) as they were so many frames before."""
    if not late:
        return ways
    return np.asarray(ways[np.clip(np.searchsorted(times, times - late), 0, len(times) - 1)])


def _ends(rig: Rig, one: Turned) -> tuple[Array, Array]:
    """How far a control turns (2,) aside and down, at least and at most."""
    columns = [one.aside, one.down]
    low, high = (np.where(np.array(columns) >= 0, ends[columns], 0.0) for ends in (rig.low, rig.high))
    return low, high


def _angles(ways: Array, span: Gaze, part: int, ends: tuple[Array, Array] | None) -> Array:
    """How far a part turns (T, 2) aside and down towards ways (T, 3) in its own axes: the last one, which has ``ends``,
    all of it that it can."""
    aside = np.arctan2(ways[:, 0], ways[:, 2])
    down = -np.arctan2(ways[:, 1], np.hypot(ways[:, 0], ways[:, 2]))
    behind = np.clip((math.pi - np.abs(aside)) / (math.pi - _BEHIND), 0.0, 1.0)
    behind = behind * behind * (3.0 - 2.0 * behind)
    most = (span.eyes, span.head, span.chest)
    if ends is not None:
        low, high = np.maximum(ends[0], -math.pi), np.minimum(ends[1], math.pi)
        if part != EYES:
            low, high = np.maximum(low, -np.array([most[part]] * 2)), np.minimum(high, np.array([most[part]] * 2))
        return np.asarray(np.clip(np.stack([aside, down], axis=1), low, high) * behind[:, None])
    before = sum(most[:part])
    wide = [_rest(aside, before, most[part]), _rest(down, _PITCH * before, _PITCH * most[part])]
    return np.stack(wide, axis=1) * behind[:, None]


def _rest(angle: Array, before: float, most: float) -> Array:
    """What of an angle is past what others take, up to a most; it begins softly, where others come first."""
    past = np.abs(angle) - before
    if before:
        past = np.where(past > _KNEE, past, np.clip(past + _KNEE, 0.0, None) ** 2 / (4.0 * _KNEE))
    return np.asarray(np.sign(angle) * np.clip(past, 0.0, most))


def _shortest(ways: Array, axis: str, order: str) -> Array:
    """The angles (T, 3), about x, y and z, of the shortest turns of an axis to ways (T, 3)."""
    own = np.zeros(3)
    own["xyz".index(axis[-1])] = -1.0 if axis.startswith("-") else 1.0
    to = ways / np.maximum(np.linalg.norm(ways, axis=1, keepdims=True), 1e-12)
    half = own + to
    length = np.linalg.norm(half, axis=1, keepdims=True)
    other = np.roll(own, 1)  # right behind: about any axis that is square to its own
    across = np.where(length > 1e-6, np.cross(own, half / np.maximum(length, 1e-12)), other)
    cosine = np.where(length > 1e-6, half @ own[:, None] / np.maximum(length, 1e-12), 0.0)
    turns = np.concatenate([across, cosine], axis=1)
    found = np.zeros((len(ways), 3))
    sequence = rotations.axes_of(order)
    for n, turn in enumerate(turns):
        found[n, list(sequence)] = rotations.to_euler(turn / np.linalg.norm(turn), order)
    return found


def _blended(total: Array, wanted: Array, span: Gaze, spans: Sequence[Gaze], times: Array, part: int) -> Array:
    """Turns (T, N) with those of a span on them by how far it has come; one that is followed at once gives way."""
    come = span.come(times, part)[:, None]
    left = 1.0 if any(other.start == span.end + 1 for other in spans) else span.left(times, part)[:, None]
    return np.asarray((total + come * (span.share * wanted - total)) * left)
