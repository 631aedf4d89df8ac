"""The stage of evaluation that works ties into channel values."""

from __future__ import annotations

from collections.abc import Iterator, Mapping

import numpy as np

from hame.clip.clip import Clip
from hame.clip.plants import Plant
from hame.clip.spans import OWN
from hame.clip.way import Way
from hame.evaluate.players import Players
from hame.evaluate.stage import NO_TIMES, Before, Hang, Keys, Rows, Stage, Task, rows_of
from hame.evaluate.ties.back import Tied, keys_back
from hame.evaluate.ties.buffer import Buffer, buffer_of, edges, written_by
from hame.evaluate.ties.known import Known
from hame.evaluate.ties.links import FOREVER, events_of, until
from hame.evaluate.ties.plan import Window, plan_of
from hame.evaluate.ties.working import Passages, found, lay
from hame.maths.rotations import Array


class Ties(Stage):
    """Plants and belonging."""

    name = Plant.stage
    alone = False

    def concerns(self, clip: Clip) -> bool:
        return Way.kind in clip.tracks or super().concerns(clip)  # footfalls are plants

    def task(self, players: Players, frames: Array, over: bool) -> Task:
        plan = plan_of(players)
        window = plan.window(float(frames.min()), float(frames.max()))
        # What stands instead at a time that others follow from is not to be known of it.
        apart = not over or not np.isin(frames, [*(e.first for e in plan.epochs), *_events(window)]).any()
        return _Tying(window, plan.known if apart else Known(), apart and _all_known(window, plan.known))

    def hangs(self, players: Players) -> Iterator[Hang]:
        for link, plants in plan_of(players).everything().plants.items():
            for p in plants:
                on = link.figure if p.span.figure == OWN else p.span.figure
                last = None if p.free >= FOREVER else int(p.free)
                yield Hang(link.figure, frozenset({link.figure, on}), (p.span.start - p.span.land, last))
            for span in link.belongings:
                on = link.figure if span.figure == OWN else span.figure
                last = int(until(link, span)) if span.ease_out else None
                yield Hang(link.figure, frozenset({link.figure, on}), (span.start, last))

    def back(self, players: Players, of: int, frame: int, wanted: Mapping[str, float], before: Before) -> Keys:
        """What is tied is keyed in the frame that carries it.

        A planted limb is moved by the key with which it was planted, so that all of its plant moves; where it does not
        move, it is keyed where it is.
        """
        plan, time = plan_of(players), np.array([float(frame)])
        task = _Tying(plan.window(frame, frame), plan.known, known_all=False)
        rows = rows_of(players, time, [task])
        buffer, passages = task.work(rows, before(rows.times))
        row = int(np.searchsorted(buffer.picked, rows.asked[0], side="right")) - 1
        return keys_back(Tied(buffer, passages), of, row, frame, wanted)


class _Tying(Task):
    """What ties have to do in one call.

    Attributes
    ----------
    known : what is known, or where what is found is told
    known_all : whether that is all that is needed
    """

    def __init__(self, window: Window, known: Known, known_all: bool) -> None:
        self.window, self.known, self.known_all = window, known, known_all
        self.times = NO_TIMES if known_all else np.array(sorted({*_events(window), *edges(window)}))
        self.writes = written_by(window)

    def values(self, rows: Rows, before: Array) -> Array:
        if not self.known_all:
            return self.work(rows, before)[0].result(rows)
        buffer = buffer_of(self.window, rows, before, self.known)
        lay(buffer, self.known)
        return buffer.result(rows)

    def work(self, rows: Rows, before: Array) -> tuple[Buffer, Passages]:
        """Everything, with what is found on the way."""
        buffer = buffer_of(self.window, rows, before, None)
        return buffer, found(buffer, self.known)


def _events(window: Window) -> set[float]:
    return {time for plants in window.plants.values() for plant in plants for time in events_of(plant)}


def _all_known(window: Window, known: Known) -> bool:
    return all(
        (link.name, plant) in known.plants for link, plants in window.plants.items() for plant in plants
    ) and all((name, epoch.first) in known.frames for name in window.links for epoch in window.plan.epochs)
