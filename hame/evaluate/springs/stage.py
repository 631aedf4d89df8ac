"""The stage that swings what hangs on bodies, over keys, rules and gazes.

A spring is stepped from its first frame, always, a frame at a time: so any frame alone is what it is when all are
played. Where bodies stand is read with ties worked in. What is found at whole frames is kept as checkpoints.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from hame.character.rig import Rig
from hame.clip.cycles import cycle_at
from hame.clip.spans import Track
from hame.clip.spring import Spring
from hame.evaluate.laid import turns_of
from hame.evaluate.laid_kernel import turn_by
from hame.evaluate.past import Past, Whose, whose
from hame.evaluate.players import Players
from hame.evaluate.some import some_nodes
from hame.evaluate.springs import kernel
from hame.evaluate.springs.rows import Row, kept_out, row_of, shells_of
from hame.evaluate.stage import NO_TIMES, Rows, Stage, Task
from hame.evaluate.standing import Standing
from hame.maths import rotations
from hame.maths.kernels import shortest
from hame.maths.rotations import Array

GRAVITY = 9.80665  # metres a second, each second
STEPS = 4  # parts of a frame
_TWENTIETH = math.log(20.0)
_PAST = Past()
_ROUNDS, _CLOSED = 24, 1e-7  # of a cycle until it swings alike, metres
_SETTLES = 400  # frames that it is given to come to rest before it begins


@dataclass(frozen=True)
class Swinging:
    """A spring of a player that counts, with its row."""

    number: int
    about: str
    span: Spring
    row: Row


@dataclass(frozen=True)
class _Begun:
    """A spring with whose its states are, and the frame from which it is stepped."""

    spring: Swinging
    mark: Whose
    since: int


class Springs(Stage):
    """Rows of joints that swing.

    What is seen of one is keyed less what it swings there; since that hangs on keys before, it comes near to it only.
    """

    name = Spring.stage
    alone = False

    def task(self, players: Players, frames: Array, over: bool) -> Task:
        return _Swinging(players, frames, over)


def _swinging(players: Players) -> list[Swinging]:
    found = []
    for number, player in players.items():
        for track, spans in player.clip.tracks.items():
            kind, about = Track.named(track)
            if kind != Spring.kind or not player.rig.has_control(about):
                continue
            row = row_of(player.rig, about)
            found += [Swinging(number, about, span, row) for span in spans
                      if row is not None and isinstance(span, Spring) and span.counts]  # fmt: skip
    return found


def carry_over(before: Players, after: Players, until: float) -> None:
    """Takes over what is known of how springs swing for players who do as others did before, up to a time."""
    if not np.isfinite(until):
        return
    for spring in _swinging(after):
        start = spring.span.start
        if spring.number not in before or _round(after, spring):  # it begins by all of a cycle
            continue
        marks = [whose(players, spring.number, spring.about, spring.span) for players in (before, after)]
        since = _PAST.since(marks[0], start, until)
        state = _PAST.get(marks[0], since) if since > start else None
        if state is not None:
            _PAST.put(marks[1], since, state)


class _Swinging(Task):
    def __init__(self, players: Players, frames: Array, over: bool) -> None:
        self.over = over
        self.begun: list[_Begun] = []
        wanted = [frames]
        for spring in _swinging(players):
            span = spring.span
            mine = frames[(frames >= span.start) & (frames <= span.end)]
            if not len(mine):
                continue
            mark = whose(players, spring.number, spring.about, span)
            since = _PAST.since(mark, span.start, float(mine.min()))
            until = max(math.floor(float(mine.max())), span.start + 1)  # how fast it goes as it begins
            if since == span.start:
                until = max(until, span.start + _round(players, spring))
            self.begun.append(_Begun(spring, mark, since))
            wanted.append(np.arange(float(since), until + 1.0))
        self.standing = Standing(players, np.unique(np.concatenate(wanted)))
        self.times = self.standing.times if self.begun else NO_TIMES

    def values(self, rows: Rows, before: Array) -> Array:
        if not self.begun:
            return before
        after, stood = before.copy(), self.standing.values(rows, before)
        for begun in self.begun:
            self._swing(begun, rows, stood, after)
        return after

    def _swing(self, begun: _Begun, rows: Rows, stood: Array, after: Array) -> None:
        spring, mark, since = begun.spring, begun.mark, begun.since
        span, row, rig = spring.span, spring.row, rows.players[spring.number].rig
        mine = rows.of(spring.number)
        at = np.flatnonzero((rows.times >= since) & (rows.times <= span.end))
        times = rows.times[at]
        carried, ends = _carried(rig, row, np.ascontiguousarray(stood[at, mine]))
        table = table_of(span, row, float(carried[0, 0, 7]))
        tips = row.tips * carried[0, 0, 7]
        thick = kept_out(rig, spring.about) * carried[0, 0, 7] if span.body else np.zeros((len(table), len(ends[0])))
        turned = np.zeros((len(times), len(table), 4))
        kept = _PAST.get(mark, since)
        if kept is None:
            first = np.searchsorted(times, np.arange(since, since + max(_round(rows.players, spring), 1) + 1.0))
            first = first[first < len(times)]
            state = _began(carried[first], ends[first], table, tips, thick)
        else:
            state = kept.reshape(-1, kernel.STATE).copy()
        _turned(carried[0], state, tips, turned[0])
        whole = 0
        for n in range(1, len(times)):
            shells = np.concatenate([ends[whole], ends[n]], axis=2)
            step = float(times[n] - times[whole])
            own = table if step == 1.0 else table_of(span, row, float(carried[0, 0, 7]), step)
            now = state.copy()
            kernel.swing(carried[whole], carried[n], now, own, tips, shells, thick, step, STEPS, turned[n])
            if times[n] == math.floor(times[n]):
                whole, state = n, now
                if not self.over and (int(times[n]) - span.start) % _PAST.every == 0:
                    _PAST.put(mark, int(times[n]), state.ravel().copy())
        counts = span.strength * _eases(span, times)
        by = np.empty((len(table), len(times), 4))
        for n in range(len(table)):
            part = rotations.from_vector(counts[:, None] * rotations.to_vector(turned[:, n]))
            by[n] = rotations.multiply(rotations.multiply(row.own[n], part), rotations.inverse(row.own[n]))
        turns, found = turns_of(rig), np.ascontiguousarray(after[at, mine])
        which = list(row.turns)
        turn_by(found, by, turns.columns[which], turns.axes[which])
        after[at[:, None], np.arange(mine.start, mine.stop)] = found


def _eases(span: Spring, times: Array) -> Array:
    """How much of a spring counts (T,) as it comes and goes."""
    come = np.clip((times - span.start) / span.ease_in, 0.0, 1.0) if span.ease_in else np.ones(len(times))
    left = np.clip((span.end - times) / span.ease_out, 0.0, 1.0) if span.ease_out else np.ones(len(times))
    both = np.minimum(come, left)
    return np.asarray(both * both * (3.0 - 2.0 * both))


def _carried(rig: Rig, row: Row, values: Array) -> tuple[Array, Array]:
    """What carries a row and each joint seen from the one before it (T, N + 1, 8), and the ends (T, K, 2, 3) of the
    parts of the body."""
    shells = shells_of(rig)
    nodes = some_nodes(rig, (row.carrier, *row.joints, *shells.nodes), values)
    count = len(row.joints)
    found = np.empty((len(values), count + 1, 8))
    found[:, 0] = nodes[:, 0]
    for n in range(count):
        above, here = nodes[:, n], nodes[:, n + 1]
        back = rotations.inverse(above[:, 3:7])
        found[:, n + 1, :3] = rotations.rotate(back, here[:, :3] - above[:, :3])
        found[:, n + 1, 3:7] = rotations.multiply(back, here[:, 3:7])
        found[:, n + 1, 7] = here[:, 7]
    about = nodes[:, count + 1 :]
    ends = about[:, :, None, :3] + about[:, :, None, 7:8] * rotations.rotate(
        np.repeat(about[:, :, None, 3:7], 2, axis=2), np.broadcast_to(shells.ends, (len(values), *shells.ends.shape))
    )
    return found, ends


@lru_cache(maxsize=512)
def _steps(period: float, rests: float, h: float) -> tuple[float, ...]:
    """How a place and a speed off what draws them go on over a step of ``h`` frames, and what a pull adds: the exact
    solution of a damped swing, by the exponential of its matrix."""
    from scipy.linalg import expm

    square = (2.0 * math.pi / period) ** 2 if period else 0.0
    lost = _TWENTIETH / rests if rests else 0.0
    whole = expm(h * np.array([[0.0, 1.0, 0.0], [-square, -2.0 * lost, 1.0], [0.0, 0.0, 0.0]]))
    return tuple(float(n) for n in (whole[0, 0], whole[0, 1], whole[1, 0], whole[1, 1], whole[0, 2], whole[1, 2]))


def table_of(span: Spring, row: Row, scale: float, step: float = 1.0) -> Array:
    """What the kernel needs of each joint of a row (N, WIDTH), for steps of ``step`` frames in STEPS parts."""
    count = len(row.joints)
    found = np.zeros((count, kernel.WIDTH))
    for n in range(count):
        share = n / max(count - 1, 1)
        period = span.period + share * (span.period_tip - span.period)
        rests = span.rests + share * (span.rests_tip - span.rests)
        length = float(np.linalg.norm(row.tips[n])) * scale
        square = (2.0 * math.pi / period) ** 2 if period else 0.0
        found[n, : kernel.LENGTH] = _steps(period, rests, step / STEPS)
        found[n, kernel.LENGTH], found[n, kernel.LIMIT] = length, span.limit
        # A joint that is keyed level hangs down by the droop where the pull is what its stiffness then holds.
        found[n, kernel.PULL_Y] = -math.sin(span.droop) * length * square - span.weight * GRAVITY / span.fps**2
        found[n, kernel.WIND_X], found[n, kernel.WIND_Z] = span.wind_x / span.fps, span.wind_z / span.fps
        found[n, kernel.AIR] = span.air / span.fps
        found[n, kernel.FLOOR] = 0.0 if span.ground else -np.inf
    return found


def _begun(carried: Array, tips: Array) -> Array:
    """The state of a row that is as it is keyed and at rest."""
    state = np.zeros((len(tips), kernel.STATE))
    place, turn = carried[0, :3], carried[0, 3:7]
    for n, tip in enumerate(tips):
        place = place + rotations.rotate(turn, carried[n + 1, :3])
        turn = rotations.multiply(turn, carried[n + 1, 3:7])
        state[n, :3] = state[n, 6:9] = place + rotations.rotate(turn, tip)
        state[n, 9:] = place
    return state


def _round(players: Players, spring: Swinging) -> int:
    """How many frames come back again and again from where a spring begins; 0 where none do."""
    cycle = cycle_at(players[spring.number].clip, spring.span.start)
    return cycle.length if cycle is not None and spring.span.start + cycle.length <= cycle.until else 0


def _began(carried: Array, ends: Array, table: Array, tips: Array, thick: Array) -> Array:
    """The state of a row as its spring begins, over what carries it on that frame and on some after it (F, N + 1, 8).

    It hangs at rest, and goes along. Where a cycle begins, which those frames are, it swings as it will when the cycle
    has come back often enough: so every round is alike from the first on.
    """
    state = _settled(carried[0], ends[0], table, tips, thick)
    if len(carried) > 1:
        state[:, 3:6] = _begun(carried[1], tips)[:, :3] - _begun(carried[0], tips)[:, :3]
    out = np.empty((len(tips), 4))
    # From where the cycle has brought what carries it, back to where it began.
    turn = rotations.multiply(carried[0, 0, 3:7], rotations.inverse(carried[-1, 0, 3:7]))
    for _ in range(_ROUNDS if len(carried) > 2 else 0):
        now = state.copy()
        for n in range(1, len(carried)):
            shells = np.concatenate([ends[n - 1], ends[n]], axis=2)
            kernel.swing(carried[n - 1], carried[n], now, table, tips, shells, thick, 1.0, STEPS, out)
        for a in (0, 6, 9):
            now[:, a : a + 3] = carried[0, 0, :3] + rotations.rotate(turn, now[:, a : a + 3] - carried[-1, 0, :3])
        now[:, 3:6] = rotations.rotate(turn, now[:, 3:6])
        far = float(np.abs(now - state).max())
        state = now
        if far < _CLOSED:
            break
    return state


def _settled(carried: Array, ends: Array, table: Array, tips: Array, thick: Array) -> Array:
    """The state of a row that hangs at rest on what carries it, as that is."""
    state, out = _begun(carried, tips), np.empty((len(tips), 4))
    shells = np.concatenate([ends, ends], axis=2)
    for _ in range(_SETTLES):
        before = state[:, :3].copy()
        kernel.swing(carried, carried, state, table, tips, shells, thick, 1.0, STEPS, out)
        state[:, 3:6] *= 0.5  # it is soon there
        if np.abs(state[:, :3] - before).max() < 1e-9:
            break
    state[:, 3:6] = 0.0
    return state


def _turned(carried: Array, state: Array, tips: Array, out: Array) -> None:
    """How each joint is turned (N, 4) in a state, more than it is keyed, in its own axes."""
    place, turn = carried[0, :3], carried[0, 3:7]
    for n in range(len(tips)):
        place = place + rotations.rotate(turn, carried[n + 1, :3])
        keyed = rotations.multiply(turn, carried[n + 1, 3:7])
        by = np.array(shortest(*rotations.rotate(keyed, tips[n]), *(state[n, :3] - place)))
        turn = rotations.multiply(by, keyed)
        out[n] = rotations.multiply(rotations.inverse(keyed), turn)
