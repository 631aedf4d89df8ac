"""Timing charts laid on gaps: where each frame shall stand between two poses, and the curves follow."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Annotated, Literal

import numpy as np

from hame.character.rig import Rig
from hame.clip.clip import Clip
from hame.clip.curve import Curve, from_table, with_keys
from hame.clip.cycles import cycle_at
from hame.clip.key import (
    BEZIER,
    FRAME,
    FREE,
    HANDLES,
    IN_TIME,
    OUT_TIME,
    SHAPE,
    STRENGTH,
    VALUE,
    Array,
    handle_kinds,
    handles_code,
)
from hame.clip.layers import own_curves
from hame.edits.chosen import counted, played_of, refuse_derived
from hame.edits.edit import AtMost, Controls, Edit, Within, of_said
from hame.edits.outcome import Outcome
from hame.errors import BadEdit
from hame.maths.bezier import bezier_value
from hame.scene.scene import Scene

SHARE = Within(0.0, 1.0, "share", "a tick lies between the two poses in time")
FAVOUR = Within(-1.0, 2.0, "share", "a tick stands from -100% to 200% of the way, not at {value:.0%}")
HELD = 400.0  # how much more a tick that was set counts than one that may follow
_NEAR = 0.005


@dataclass(frozen=True)
class Tick:
    """Where a share ``time`` of a gap shall stand: at ``favour`` of the second pose. One that is not ``set`` follows
    the others as near as it can.
    """

    time: Annotated[float, SHARE]
    favour: Annotated[float, FAVOUR]
    set: bool = True


@dataclass(frozen=True)
class Ease:
    """A Bezier from (0, 0) to (1, 1) by its two handles, as css-easing-1 writes it; times within 0 to 1."""

    x1: float
    y1: float
    x2: float
    y2: float

    def at(self, times: Array) -> Array:
        """Values at shares of the time."""
        return np.array([
            bezier_value(1.0, 0.0, 1.0, self.x1, self.y1, self.x2 - 1.0, self.y2 - 1.0, t) for t in times
        ])  # fmt: skip


def ease_through(ticks: Sequence[Tick]) -> Ease:
    """The ease nearest to some ticks.

    Up to two ticks that were set are met exactly, by handles of a third of the time each; for more, handles of other
    lengths are tried as well. Where no tick lies beyond the poses the ease does not go beyond them either, if there is
    one that meets the ticks as well: it would rise over the pose that it comes to.
    """
    inner = [tick for tick in ticks if 1e-6 < tick.time < 1.0 - 1e-6]
    held = [tick for tick in inner if tick.set]
    thirds = (1.0 / 3.0, 2.0 / 3.0)
    lengths = [thirds]
    if len(held) > 2:
        lengths += [(a, b) for a in np.linspace(0.05, 0.95, 10) for b in np.linspace(0.05, 0.95, 10)]
    best, least = _solved(inner, held, *thirds)
    for x1, x2 in lengths[1:]:
        found, off = _solved(inner, held, float(x1), float(x2))
        if off < least - 1e-12:
            best, least = found, off
    if beyond(best) > _NEAR and all(0.0 <= tick.favour <= 1.0 for tick in held):
        return _between(inner, held) or best
    return best


def beyond(ease: Ease) -> float:
    """How far an ease goes beyond the poses at its ends, as a share of the way."""
    values = ease.at(np.linspace(0.0, 1.0, 65))
    return float(max(values.max() - 1.0, -values.min(), 0.0))


def _between(inner: Sequence[Tick], held: Sequence[Tick]) -> Ease | None:
    """An ease that meets the ticks and stays between the poses; None where those that were tried cannot."""
    best, least = None, np.inf
    lengths = np.linspace(0.05, 0.95, 10)
    times = np.array([tick.time for tick in held])
    wished = np.array([tick.favour for tick in held])
    for x1, x2 in [(1.0 / 3.0, 2.0 / 3.0), *((a, b) for a in lengths for b in lengths)]:
        terms, goal, weights = _terms(inner, float(x1), float(x2))
        y1, y2 = _boxed(np.sqrt(weights)[:, None] * terms, np.sqrt(weights) * goal)
        ease = Ease(float(x1), y1, float(x2), y2)
        off = float((weights * (terms @ [y1, y2] - goal) ** 2).sum())
        if off < least and float(np.abs(ease.at(times) - wished).max()) <= _NEAR:
            best, least = ease, off
    return best


def _boxed(terms: Array, goal: Array) -> tuple[float, float]:
    """The two numbers from 0 to 1 for which ``terms @ y`` is nearest to ``goal``: inside, or on an edge."""
    tries: list[Array] = [np.asarray(np.linalg.lstsq(terms, goal, rcond=None)[0])]
    for fixed in (0, 1):
        for value in (0.0, 1.0):
            one, rest = terms[:, 1 - fixed], goal - value * terms[:, fixed]
            other = float(np.clip(one @ rest / max(float(one @ one), 1e-12), 0.0, 1.0))
            tries.append(np.array([value, other] if fixed == 0 else [other, value]))
    inside = [y for y in tries if (y >= 0.0).all() and (y <= 1.0).all()]
    best = min(inside, key=lambda y: float(((terms @ y - goal) ** 2).sum()))
    return float(best[0]), float(best[1])


def _solved(inner: Sequence[Tick], held: Sequence[Tick], x1: float, x2: float) -> tuple[Ease, float]:
    terms, goal, weights = _terms(inner, x1, x2)
    if 0 < len(held) <= 2:
        fixed = np.array([tick.set for tick in inner])
        y = _constrained(terms, goal, fixed)
    elif len(inner):
        y = np.asarray(np.linalg.lstsq(np.sqrt(weights)[:, None] * terms, np.sqrt(weights) * goal, rcond=None)[0])
    else:
        y = np.asarray([x1, x2])
    if len(inner) < 2:  # one tick alone: the ease that bends least for it
        even = np.array([x1, x2])
        y = np.asarray(even + np.linalg.pinv(terms) @ (goal - terms @ even) if len(inner) else even)
    off = float((weights * (terms @ y - goal) ** 2).sum())
    return Ease(x1, float(y[0]), x2, float(y[1])), off


def _terms(inner: Sequence[Tick], x1: float, x2: float) -> tuple[Array, Array, Array]:
    """What each handle's value adds at the ticks (T, 2), what both together shall (T,), and what a tick counts (T,)."""
    times = np.array([tick.time for tick in inner])
    favours = np.array([tick.favour for tick in inner])
    weights = np.array([HELD if tick.set else 1.0 for tick in inner])
    # Values are linear in the two handles' values: three eases span them all.
    none = Ease(x1, 0.0, x2, 0.0).at(times)
    terms = np.stack([Ease(x1, 1.0, x2, 0.0).at(times) - none, Ease(x1, 0.0, x2, 1.0).at(times) - none], axis=1)
    return terms, favours - none, weights


def _constrained(terms: Array, goal: Array, fixed: np.ndarray) -> Array:
    """Least squares of the rest with the fixed rows met exactly."""
    rows, wished = terms[fixed], goal[fixed]
    start = np.linalg.pinv(rows) @ wished
    _, sizes, across = np.linalg.svd(rows)
    free = across[int((sizes > 1e-9).sum()) :].T
    if not free.shape[1] or not (~fixed).any():
        return np.asarray(start)
    rest = np.linalg.lstsq(terms[~fixed] @ free, goal[~fixed] - terms[~fixed] @ start, rcond=None)[0]
    return np.asarray(start + free @ rest)


def lay_chart(
    clip: Clip, rig: Rig, gaps: Sequence[tuple[int, int]], ticks: Sequence[Tick], controls: Controls, keyed: bool
) -> Outcome:
    """Lays a chart on gaps between poses; see :class:`LayChart`."""
    if not gaps or not any(tick.set for tick in ticks):
        raise BadEdit("a chart needs a gap and a tick that was set; nothing was changed")
    for tick in ticks:
        SHARE.check(tick.time)
        FAVOUR.check(tick.favour)
    ease = ease_through(ticks)
    notes: list[str] = []
    held = [tick for tick in ticks if tick.set and 0.0 < tick.time < 1.0]
    if not keyed:
        off = [(abs(float(ease.at(np.array([t.time]))[0]) - t.favour), t) for t in held]
        far = [f"{t.favour:.0%} by {miss:.0%}" for miss, t in off if miss > _NEAR]
        if far:
            notes.append(
                f"one curve cannot meet all of these ticks: it misses {', '.join(far[:3])}; keys on the ticks can"
            )
        over = beyond(ease)
        if over > _NEAR and all(0.0 <= t.favour <= 1.0 for t in held):
            notes.append(
                f"to meet these ticks it goes {over:.0%} beyond one of the poses on the way; keys on them need not"
            )
    changes: dict[str, Curve] = {}
    left: set[str] = set()
    for first, last in gaps:
        if last - first < 2:
            raise BadEdit(f"the gap from {first} to {last} has no frame in between; nothing was changed")
        refuse_derived(clip, [first])
        played = own_curves(played_of(clip, rig, controls, first, last))
        for address, curve in played.items():
            if not rig.has_channel(address) or rig.channels[rig.number(address)].locked:
                continue
            table = curve.table
            at = int(np.searchsorted(table[:, FRAME], first))
            if at >= len(table) - 1 or table[at, FRAME] != first or table[at + 1, FRAME] != last:
                if ((table[:, FRAME] >= first) & (table[:, FRAME] <= last)).any():
                    left.add(address.rsplit("/", 1)[0])
                continue
            rise = float(table[at + 1, VALUE] - table[at, VALUE])
            if abs(rise) < 1e-12:
                continue
            if keyed:
                mine = {round(first + t.time * (last - first)): float(table[at, VALUE]) + rise * t.favour for t in held}
                mine = {f: v for f, v in mine.items() if first < f < last}
                changes[address] = with_keys(changes.get(address) or clip.curves.get(address), mine)
                continue
            _bend_gap(changes, clip, rig, address, first, last, rise, ease)
        if not changes:
            raise BadEdit(f"nothing that is chosen is keyed at both {first} and {last}; nothing was changed")
    if left:
        notes.append(f"{counted(len(left), 'control')} with other keys between these poses stayed as they were")
    return Outcome(clip.with_curves(changes), tuple(notes))


def _bend_gap(
    changes: dict[str, Curve], clip: Clip, rig: Rig, address: str, first: int, last: int, rise: float, ease: Ease
) -> None:
    """Gives the handles of one gap of one channel an ease, at its stored keys."""
    gap = float(last - first)
    _set_side(changes, clip, address, first, OUT_TIME, ease.x1 * gap, ease.y1 * rise)
    source, mirrored = last, False
    cycle = cycle_at(clip, last)
    if cycle is not None and cycle.derives(np.array([float(last)]))[0]:
        source, mirrored = cycle.source_of(last)
    other, sign = rig.echo_of(address) if mirrored else (address, 1)
    if other is not None:
        _set_side(changes, clip, other, source, IN_TIME, (ease.x2 - 1.0) * gap, sign * (ease.y2 - 1.0) * rise)


def _set_side(
    changes: dict[str, Curve], clip: Clip, address: str, frame: int, side: int, time: float, value: float
) -> None:
    curve = changes.get(address) or clip.curves.get(address)
    if curve is None or frame not in curve.frames:
        return
    table = curve.table.copy()
    row = int(np.searchsorted(table[:, FRAME], frame))
    before, after, _ = handle_kinds(table[row, HANDLES])
    table[row, [side, side + 1]] = time, value
    if side == OUT_TIME:
        table[row, [SHAPE, STRENGTH]] = BEZIER, 0.0
        table[row, HANDLES] = handles_code(before, FREE)
    else:
        table[row, HANDLES] = handles_code(FREE, after)
    changes[address] = from_table(table)


@dataclass(frozen=True, kw_only=True)
class LayChart(Edit):
    """Where the frames of gaps stand between the poses at their ends: the curves of chosen parts follow.

    ``ticks`` are shares of a gap's time, so that one chart fits gaps of any length. ``keyed``: a key on every tick that
    was set, which then stands there exactly.
    """

    kind: Literal["chart"] = "chart"
    gaps: Annotated[tuple[tuple[int, int], ...], AtMost(500)]
    ticks: Annotated[tuple[Tick, ...], AtMost(500)]
    controls: Controls = None
    keyed: bool = False

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        return lay_chart(clip, rig, self.gaps, self.ticks, self.controls, self.keyed)

    def label(self, rig: Rig, scene: Scene) -> str:
        where = ", ".join(f"{a} to {b}" for a, b in self.gaps[:3])
        return f"Timing chart from {where}{of_said(rig, self.controls)}"
