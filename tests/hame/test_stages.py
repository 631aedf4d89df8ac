"""Stages of evaluation, by made-up kinds of span: one that adds, one that ties and one that has a past."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import ClassVar, TypeVar
from unittest import TestCase, mock

import numpy as np

from hame.character.rig import Rig
from hame.clip.clip import Clip
from hame.clip.curve import from_keys
from hame.clip.spans import OWN, SPANS, Span
from hame.evaluate import line
from hame.evaluate.evaluate import evaluate
from hame.evaluate.past import Past, stepped, whose
from hame.evaluate.players import Player, Players
from hame.evaluate.stage import NO_TIMES, Hang, Rows, Stage, Task
from hame.maths.rotations import Array
from tests.hame.examples import brannoc_rig

KEEPER, WICK = 1, 2


@dataclass(frozen=True)
class Sway(Span):
    """Adds a swing of the head while it lasts."""

    size: float = 0.1
    address: str = "head/ry"
    kind: ClassVar[str] = "test sway"
    stage: ClassVar[str] = "test sways"


@dataclass(frozen=True)
class Beside(Span):
    """Keeps the master a metre beside the hips of another."""

    figure: int = OWN
    kind: ClassVar[str] = "test beside"
    stage: ClassVar[str] = "test besides"

    @property
    def figure_read(self) -> int:
        return self.figure


@dataclass(frozen=True)
class Lag(Span):
    """The head comes after its own keys: a quarter of what is left in every frame, from where it begins."""

    kind: ClassVar[str] = "test lag"
    stage: ClassVar[str] = "test lags"


MADE_UP = (Sway, Beside, Lag)
for _kind in MADE_UP:
    SPANS.pop(_kind.kind)  # known only to tests that say so
HEAD = "head/ry"


S = TypeVar("S", bound=Span)


def spans_of(player: Player, kind: type[S]) -> list[S]:
    return [span for _, span in player.clip.spans() if isinstance(span, kind)]


class Sways(Stage):
    name = Sway.stage

    def task(self, players: Players, frames: Array, over: bool) -> Task:
        return Swaying(players)


class Swaying(Task):
    def __init__(self, players: Players) -> None:
        self.writes = frozenset(player.rig.number(HEAD) for player in players.values())

    def values(self, rows: Rows, before: Array) -> Array:
        after = before.copy()
        for number, player in rows.players.items():
            for span in spans_of(player, Sway):
                channel = rows.channels[number] + player.rig.number(span.address)
                inside = (rows.times >= span.start) & (rows.times <= span.end)
                swing = np.sin(np.pi * (rows.times - span.start) / max(span.end - span.start, 1))
                after[inside, channel] += span.size * swing[inside]
        return after


class Besides(Stage):
    name = Beside.stage

    def task(self, players: Players, frames: Array, over: bool) -> Task:
        return BesideTask(players)


class BesideTask(Task):
    def __init__(self, players: Players) -> None:
        first = 0
        mine: set[int] = set()
        for player in players.values():
            if spans_of(player, Beside):
                mine.add(first + player.rig.number("master/tx"))
            first += len(player.rig.channels)
        self.writes = frozenset(mine)

    def values(self, rows: Rows, before: Array) -> Array:
        after = before.copy()
        for number, player in rows.players.items():
            for span in spans_of(player, Beside):
                other = rows.players[span.figure]
                nodes = evaluate(other.rig, np.ascontiguousarray(before[:, rows.of(span.figure)]))
                hips = nodes[:, other.rig.control("hips").node, 0]
                inside = (rows.times >= span.start) & (rows.times <= span.end)
                after[inside, rows.channels[number] + player.rig.number("master/tx")] = hips[inside] + 1.0
        return after


class Lags(Stage):
    name = Lag.stage

    def __init__(self) -> None:
        self.past = Past()
        self.steps = 0

    def task(self, players: Players, frames: Array, over: bool) -> Task:
        return Lagging(self, players, frames, over)

    def hangs(self, players: Players) -> Iterator[Hang]:
        for number, player in players.items():
            for span in spans_of(player, Lag):
                yield Hang(number, frozenset({number}), (span.start, span.end))


class Lagging(Task):
    def __init__(self, stage: Lags, players: Players, frames: Array, over: bool) -> None:
        self.stage, self.over = stage, over
        self.times = NO_TIMES
        for player in players.values():
            for span in spans_of(player, Lag):
                inside = frames[(frames >= span.start) & (frames <= span.end)]
                if len(inside):
                    since = stage.past.since(whose(players, span), span.start, float(inside.min()))
                    self.times = np.union1d(self.times, np.arange(since, np.floor(inside.max()) + 1.0))

    def values(self, rows: Rows, before: Array) -> Array:
        after = before.copy()
        for number, player in rows.players.items():
            channel = rows.channels[number] + player.rig.number(HEAD)
            for span in spans_of(player, Lag):
                inside = np.flatnonzero((rows.times >= span.start) & (rows.times <= span.end))
                if not len(inside):
                    continue
                keys = before[inside, channel]

                def step(state: Array, row: int, by: float, keys: Array = keys) -> Array:
                    self.stage.steps += 1
                    return state + (keys[row] - state) * (1.0 - 0.75**by)

                after[inside, channel] = stepped(
                    self.stage.past,
                    whose(rows.players, span),
                    rows.times[inside],
                    lambda row, keys=keys: keys[row : row + 1],  # type: ignore[misc]
                    step,
                    span.start,
                    keep=not self.over,
                )[:, 0]
        return after


def keyed() -> Clip:
    keys = {HEAD: {1: 0.0, 20: 0.5, 40: -0.3}, "master/tx": {1: 0.0, 40: 2.0}, "body/tx": {1: 0.1, 30: -0.1}}
    return Clip().with_curves({address: from_keys(values) for address, values in keys.items()})


class StageTest(TestCase):
    rig: Rig

    @classmethod
    def setUpClass(cls) -> None:
        cls.rig = brannoc_rig()
        for kind in MADE_UP:
            SPANS[kind.kind] = kind
            cls.addClassCleanup(SPANS.pop, kind.kind)

    def setUp(self) -> None:
        self.lags = Lags()
        rows = {"LAID": (*line.LAID, Sways(), self.lags), "TIED": (*line.TIED, Besides())}
        for name, stages in rows.items():
            patch = mock.patch.object(line, name, stages)
            patch.start()
            self.addCleanup(patch.stop)

    def head(self, clip: Clip, times: Array | list[float], over: float | None = None) -> Array:
        laid = None if over is None else {OWN: {HEAD: over}}
        values = line.played_values({OWN: Player(self.rig, clip)}, np.asarray(times, float), laid)[OWN]
        return np.asarray(values[:, self.rig.number(HEAD)])

    def test_one_that_adds(self) -> None:
        clip, times = keyed().with_tracks({"test sway": [Sway(10, 30, 0.2)]}), np.arange(1.0, 41.0, 0.5)
        plain = self.head(keyed(), times)
        swing = np.where((times >= 10) & (times <= 30), 0.2 * np.sin(np.pi * (times - 10) / 20), 0.0)
        np.testing.assert_allclose(self.head(clip, times), plain + swing, atol=1e-12)
        # What it adds is not keyed once more, and a value that stands instead stands as it is.
        keys = line.keys_for({OWN: Player(self.rig, clip)}, OWN, 20, {HEAD: 0.9})
        self.assertAlmostEqual(keys[20][HEAD], 0.7)
        self.assertAlmostEqual(self.head(clip, [20], over=0.9)[0], 0.9)

    def test_one_that_adds_within_the_limits_of_a_channel(self) -> None:
        bounded = int(np.flatnonzero(np.isfinite(self.rig.high))[0])
        clip = Clip().with_tracks({"test sway": [Sway(10, 30, 100.0, self.rig.addresses[bounded])]})
        values = line.played_values({OWN: Player(self.rig, clip)}, np.array([20.0]))[OWN]
        self.assertEqual(values[0, bounded], self.rig.high[bounded])

    def players(self, *others: Span) -> dict[int, Player]:
        wick = keyed().with_tracks({"test beside": [Beside(5, 25, KEEPER)]})
        return {KEEPER: Player(self.rig, keyed()), WICK: Player(self.rig, wick)}

    def test_one_that_ties(self) -> None:
        players, times = self.players(), np.arange(1.0, 40.0)
        values = line.played_values(players, times)
        hips = evaluate(self.rig, values[KEEPER])[:, self.rig.control("hips").node, 0]
        there = values[WICK][:, self.rig.number("master/tx")]
        inside = (times >= 5) & (times <= 25)
        np.testing.assert_allclose(there[inside], hips[inside] + 1.0, atol=1e-12)
        own = line.keyed_values(self.rig, players[WICK].clip, times)[:, self.rig.number("master/tx")]
        np.testing.assert_array_equal(there[~inside], own[~inside])
        # It goes along with a hand that moves, and what is dragged itself goes where the hand is.
        moved = line.played_values(players, np.array([10.0]), {KEEPER: {"master/tx": 4.0}})
        still = line.played_values(players, np.array([10.0]))
        went = [values[KEEPER][0, self.rig.number("master/tx")] for values in (moved, still)]
        goes = [values[WICK][0, self.rig.number("master/tx")] for values in (moved, still)]
        self.assertAlmostEqual(goes[0] - goes[1], went[0] - went[1])
        held = line.played_values(players, np.array([10.0]), {WICK: {"master/tx": 7.0}})
        self.assertEqual(held[WICK][0, self.rig.number("master/tx")], 7.0)

    def test_who_is_needed_and_what_moves_follows_from_the_spans(self) -> None:
        players = self.players()
        self.assertEqual(set(line.needed_players(WICK, players[WICK], players)), {KEEPER, WICK})
        self.assertEqual(set(line.needed_players(KEEPER, players[KEEPER], players)), {KEEPER})
        moves = line.spread(players, {KEEPER: [(10, 12)]})
        self.assertEqual(moves, {KEEPER: [(10, 12)], WICK: [(5, 25)]})
        self.assertEqual(line.spread(players, {KEEPER: [(30, 32)]}), {KEEPER: [(30, 32)]})

    def lagging(self) -> Clip:
        return keyed().with_tracks({"test lag": [Lag(4, 200)]})

    def test_one_with_a_past_is_alone_what_it_is_when_it_is_played(self) -> None:
        whole = self.head(self.lagging(), np.arange(1.0, 121.0))
        self.assertGreater(np.abs(whole - self.head(keyed(), np.arange(1.0, 121.0))).max(), 0.05)
        for frame in (1, 4, 5, 50, 63, 119):
            self.assertEqual(self.head(self.lagging(), [frame])[0], whole[frame - 1], frame)
        # Out of order, on a clip that is known, and between frames.
        clip = self.lagging()
        for frame in (90, 20, 111, 30):
            self.assertEqual(self.head(clip, [frame])[0], whole[frame - 1], frame)
        between = self.head(self.lagging(), np.arange(1.0, 100.0, 0.25))
        self.assertEqual(self.head(clip, [33.25])[0], between[int((33.25 - 1) / 0.25)])
        np.testing.assert_array_equal(between[::4], whole[:99])

    def test_a_past_is_gone_over_from_a_checkpoint_and_not_from_its_start(self) -> None:
        clip = self.lagging()
        self.head(clip, [180])
        self.lags.steps = 0
        self.head(clip, [181])
        self.assertLessEqual(self.lags.steps, self.lags.past.every + 1)

    def test_a_past_forgets_within_its_bounds_and_is_the_same_then(self) -> None:
        whole = self.head(self.lagging(), np.arange(1.0, 121.0))
        self.lags.past = Past(most=200)
        for _ in range(5):
            clip = self.lagging()
            self.assertEqual(self.head(clip, [120])[0], whole[119])
        self.assertLessEqual(self.lags.past.weight, 200)

    def test_what_stands_instead_is_no_past(self) -> None:
        clip = self.lagging()
        before = self.head(self.lagging(), [60])[0]
        for frame in (48, 59, 60):
            self.assertEqual(self.head(clip, [frame], over=1.5)[0], 1.5)
        self.assertEqual(self.head(clip, [60])[0], before)

    def test_a_key_in_the_past_moves_all_that_follows(self) -> None:
        players = {OWN: Player(self.rig, self.lagging())}
        self.assertEqual(line.spread(players, {OWN: [(10, 12)]})[OWN], [(10, 12), (4, 200)])


class KindTest(TestCase):
    def test_every_kind_of_span_that_plays_names_a_stage_that_there_is(self) -> None:
        stages = {stage.name for stage in (*line.LAID, *line.TIED)}
        named = {kind.stage for kind in SPANS.values() if kind.stage}
        self.assertEqual(named, stages)
