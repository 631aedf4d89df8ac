"""Making, freeing, repeating and closing cycles."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, replace
from math import cos, hypot, sin
from typing import Literal

import numpy as np

from hame.character.rig import Rig
from hame.clip.clip import Clip
from hame.clip.curve import Curve, Stack, from_table, stacked, unstacked
from hame.clip.cycle import Cycle
from hame.clip.cycles import cycle_at, cycles_of, with_cycles
from hame.clip.key import (
    BEZIER,
    FRAME,
    FREE_BOTH,
    HANDLES,
    IN_TIME,
    IN_VALUE,
    LINEAR,
    OUT_TIME,
    OUT_VALUE,
    SHAPE,
    STRENGTH,
    VALUE,
    Array,
    key_row,
    whole_frame,
)
from hame.clip.layers import own_curves
from hame.clip.played import played_curves
from hame.clip.sampling import sample_curve
from hame.edits.chosen import counted, curves_of, listed
from hame.edits.edit import Controls, Edit, Frame, of_said
from hame.edits.mirror import lacking_note
from hame.edits.outcome import Outcome
from hame.errors import BadEdit
from hame.evaluate.evaluate import channel_values
from hame.measure.seam import seam
from hame.measure.stride import stride_of
from hame.scene.scene import Scene


def make_cycle(clip: Clip, rig: Rig, start: int, end: int, echo: bool) -> Outcome:
    """Lets ``end`` show ``start`` again; with ``echo`` the second half is the first mirrored from now on.

    Keys that are derived from now on are taken away, which is said and can be undone.

    Raises
    ------
    BadEdit
        If there is a cycle on these frames already, there are no keys in the part that stays, or an echo's frames
        cannot be halved.
    """
    start, end = whole_frame(start), whole_frame(end)
    if end - start < 2:
        raise BadEdit(f"a cycle from {start} to {end} has no frame in between; nothing was changed")
    if echo and (end - start) % 2:
        raise BadEdit(
            f"from {start} to {end} are {end - start} frames, an odd number: the mirrored half would not begin on a "
            f"whole frame. End at {end - 1} or {end + 1}; nothing was changed"
        )
    cycle = Cycle(start, end, echo)
    now = next((other for other in cycles_of(clip) if other.start <= end and start <= other.until), None)
    if now is not None:
        said = f", repeated to {now.until}" if now.until > now.end else ""
        raise BadEdit(f"frames {now.start} to {now.end} are a cycle already{said}; free it first, or stay clear of it")
    stack = stacked(own_curves(clip.curves))
    frames = stack.keys[:, FRAME]
    if not ((frames >= start) & (frames < cycle.source_end)).any():
        raise BadEdit(f"there are no keys from {start} to {cycle.source_end - 1} to repeat; nothing was changed")
    lost = (frames >= cycle.source_end) & (frames <= cycle.end)
    gone = sorted(frames[lost].astype(int).tolist())
    kept = unstacked(Stack(stack.addresses, stack.owner[~lost], stack.keys[~lost]))
    changes = {a: kept.get(a) for a in (stack.addresses[n] for n in np.unique(stack.owner[lost]).tolist())}
    pending = _derived(cycle, clip.pending)
    if pending:
        raise BadEdit(
            f"the pose pending at frame {pending[0]} would be lost: key it or drop it first; nothing was changed"
        )
    before = channel_values(rig, clip, [cycle.source_end, cycle.end])
    after = with_cycles(clip.with_curves(changes), (*cycles_of(clip), cycle))
    after = after.with_labels(dict.fromkeys(_derived(cycle, after.labels)))
    differ = np.abs(channel_values(rig, after, [cycle.source_end, cycle.end]) - before).max(axis=0) > 1e-6
    notes: list[str] = []
    if gone:
        notes.append(
            f"{counted(len(gone), 'key')} from {gone[0]} to {gone[-1]} gave way to derived ones; undo brings them back"
        )
    if gone and differ.any():
        names = sorted({rig.channels[c].control for c in np.flatnonzero(differ)})
        more = f" and {len(names) - 4} more" if len(names) > 4 else ""
        notes.append(f"these stood elsewhere at the joins and changed: {', '.join(names[:4])}{more}")
    lacking = [a for a in clip.curves if echo and rig.has_channel(a) and rig.echo_of(a)[0] is None]
    return Outcome(after, (*notes, *lacking_note(lacking)))


MOST_FREED = 400_000


def cycle_meant(clip: Clip, at: int | None) -> Cycle:
    """The cycle that begins at a frame; without one, the only one that there is.

    Raises
    ------
    BadEdit
        If there is none there, or there are several.
    """
    cycles = cycles_of(clip)
    if not cycles:
        raise BadEdit("there is no cycle; make one first. Nothing was changed")
    if at is None and len(cycles) > 1:
        begins = listed([cycle.start for cycle in cycles])
        raise BadEdit(f"there are cycles that begin at {begins}; say which one is meant. Nothing was changed")
    found = next((cycle for cycle in cycles if at is None or cycle.start == at), None)
    if found is None:
        raise BadEdit(f"no cycle begins at {at}; it may have been changed meanwhile. Nothing was changed")
    return found


def _others(clip: Clip, cycle: Cycle) -> tuple[Cycle, ...]:
    return tuple(other for other in cycles_of(clip) if other != cycle)


def free_cycle(clip: Clip, rig: Rig, at: int | None = None) -> Outcome:
    """Turns all keys that a cycle derives into ordinary ones; nothing moves by it. ``at``: :func:`cycle_meant`."""
    cycle = cycle_meant(clip, at)
    count = cycle.turns * (2 if cycle.echo else 1) * clip.key_count()
    if count > MOST_FREED:
        raise BadEdit(
            f"freed, the repeats up to {cycle.until} would be about {count:,} keys; at most {MOST_FREED:,} are "
            "made. Repeat the cycle to an earlier frame first; nothing was changed"
        )
    changes: dict[str, Curve | None] = {}
    for address, curve in played_curves(with_cycles(clip, (cycle,)), rig).items():
        # Handles that come out the same by themselves stay automatic.
        loose = curve.table.copy()
        loose[:, HANDLES] = 0.0
        loose = from_table(loose).table.copy()
        same = np.abs(loose[:, IN_TIME:STRENGTH] - curve.table[:, IN_TIME:STRENGTH]).max(axis=1) < 1e-12
        loose[~same] = curve.table[~same]
        changes[address] = from_table(loose)
    freed = with_cycles(clip.with_curves(changes), _others(clip, cycle))
    return Outcome(freed.with_labels(cycle.names(clip.labels)))


def _derived(cycle: Cycle, frames: Iterable[int]) -> list[int]:
    """Those of some frames whose keys the cycle derives."""
    wanted = np.array(list(frames), float)
    return [int(frame) for frame in wanted[cycle.derives(wanted)]]


def repeat_cycle(
    clip: Clip, rig: Rig, until: int, travel: float | str | None = None, last: int | None = None, at: int | None = None
) -> Outcome:
    """Lets a cycle go on up to a frame, in place or with the master travelling along its heading.

    ``travel`` is metres a cycle, ``"stride"`` for as much as the planted feet
    go back under the body, or None to leave the travel as it is; 0 is in place.
    ``last`` is the end of the shot: there is nothing to repeat for beyond it. ``at``: :func:`cycle_meant`.
    """
    cycle = cycle_meant(clip, at)
    until = whole_frame(until)
    if until < cycle.end:
        raise BadEdit(f"the cycle ends at {cycle.end}; it cannot be repeated up to {until}")
    if last is not None and until > max(last, cycle.end):
        raise BadEdit(
            f"the shot ends at {last}; repeat up to there, or make the shot longer first. Nothing was changed"
        )
    waiting = [f for f in clip.pending if cycle.until < f <= until]
    if waiting:
        raise BadEdit(
            f"a pose is pending at {listed(waiting)}, where repeats would lie: key it elsewhere or drop it first; "
            "nothing was changed"
        )
    covered = [f for c in own_curves(clip.curves).values() for f in c.frames.tolist() if cycle.until < f <= until]
    if covered:
        raise BadEdit(
            f"there are {counted(len(covered), 'key')} from {min(covered)} to {max(covered)}, where repeats would lie; "
            "move or delete them first; nothing was changed"
        )
    way = cycle.travel
    if travel is not None:
        length = stride_of(clip, rig, cycle) if travel == "stride" else float(travel)
        if not np.isfinite(length) or abs(length) > 1000:
            raise BadEdit("a cycle travels by a number of metres, up to 1000")
        heading = float(channel_values(rig, clip, [cycle.start])[0, rig.number(f"{rig.controls[0].name}/ry")])
        way = (length * sin(heading), length * cos(heading))
    changed = replace(cycle, until=until, travel=way)
    gone = _derived(changed, sorted(clip.labels))
    named = [clip.labels[f].name for f in gone if clip.labels[f].name]
    clip = with_cycles(clip.with_labels(dict.fromkeys(gone)), (*_others(clip, cycle), changed))
    metres = hypot(*way)
    notes = (f"the master travels {metres:.3f} m a cycle",) if metres and travel is not None else ()
    if named:
        notes = (*notes, f"the repeats show the names of their own poses now, no more {', '.join(named[:4])}")
    return Outcome(clip, notes)


def mend_seam(clip: Clip, rig: Rig, start: int, end: int, controls: Iterable[str] | None = None) -> Outcome:
    """Makes ``end`` agree with ``start`` where it does not: the value of ``start``, and one slope at both.

    What travels over the ground is left alone, unless ``controls`` name it.
    """
    cycle = cycle_at(clip, start)
    if cycle is not None and end <= cycle.until:
        return Outcome(clip, ("inside a cycle the joins always agree",))
    joins = seam(clip, rig, start, end)
    left = [join for join in joins if join.travels and controls is None]
    said = tuple(f"{rig.controls[0].label} travels {abs(join.gap):.3f} m, which was left as it is" for join in left)
    wrong = {join.address for join in joins if join not in left}
    changes: dict[str, Curve | None] = {}
    for address, curve in curves_of(clip, rig, controls).items():
        if address not in wrong:
            continue
        table = curve.table.copy()
        value = _value_at(table, start)
        first = _key_at(table, start, value)
        last = _key_at(table, end, value)
        rest = table[(table[:, FRAME] != start) & (table[:, FRAME] != end)]
        whole = from_table(np.concatenate([rest, first[None], last[None]])).table.copy()
        inside = whole[(whole[:, FRAME] >= start) & (whole[:, FRAME] < end)]
        length = end - start
        round_ = np.concatenate([inside, inside, inside])
        round_[:, FRAME] += np.repeat([-length, 0, length], len(inside))
        round_[:, HANDLES] = 0.0  # all automatic: the slopes of a curve without end
        slopes = from_table(round_).table[len(inside)]
        for frame in (start, end):
            at = int(np.flatnonzero(whole[:, FRAME] == frame)[0])
            whole[at, [IN_TIME, IN_VALUE, OUT_TIME, OUT_VALUE]] = slopes[[IN_TIME, IN_VALUE, OUT_TIME, OUT_VALUE]]
            whole[at, HANDLES] = FREE_BOTH
            # A straight way into or out of the seam would keep its corner.
            gap = at if frame == start else at - 1
            if whole[gap, SHAPE] == LINEAR:
                whole[gap, SHAPE] = BEZIER
        changes[address] = from_table(whole)
    if not changes:
        return Outcome(clip, (f"frames {start} and {end} agree already", *said))
    return Outcome(clip.with_curves(changes), (f"{counted(len(changes), 'channel')} mended", *said))


def _value_at(table: Array, frame: int) -> float:
    return float(sample_curve(Curve(table), np.array([frame], float))[0])


def _key_at(table: Array, frame: int, value: float) -> Array:
    """The key at a frame with another value, or a new one shaped like the one before it."""
    at = np.flatnonzero(table[:, FRAME] == frame)
    if len(at):
        key = table[at[0]].copy()
        key[VALUE] = value
        return np.asarray(key)
    before = max(int(np.searchsorted(table[:, FRAME], frame)) - 1, 0)
    return np.array(key_row(frame, value, min(table[before, SHAPE], BEZIER)))


@dataclass(frozen=True, kw_only=True)
class MakeCycle(Edit):
    """A stretch that repeats, or (``echo``) whose second half shows the first mirrored."""

    kind: Literal["cycle"] = "cycle"
    start: Frame
    end: Frame
    echo: bool = False

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        return make_cycle(clip, rig, self.start, self.end, self.echo)

    def label(self, rig: Rig, scene: Scene) -> str:
        return f"{'Echo' if self.echo else 'Cycle'} {self.start} to {self.end}"


@dataclass(frozen=True, kw_only=True)
class FreeCycle(Edit):
    """Keys that a cycle derives made ordinary ones; ``at`` is where it begins, None the only one."""

    kind: Literal["free"] = "free"
    at: Frame | None = None

    dear = True

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        return free_cycle(clip, rig, self.at)

    def label(self, rig: Rig, scene: Scene) -> str:
        return f"Free the cycle{'' if self.at is None else f' of {self.at}'} into keys"


@dataclass(frozen=True, kw_only=True)
class RepeatCycle(Edit):
    """A cycle gone on with; ``at`` is where it begins, None the only one.

    ``travel``: metres a cycle, "stride" for what the feet do, or None to leave it.
    """

    kind: Literal["repeat"] = "repeat"
    at: Frame | None = None
    until: Frame
    travel: float | Literal["stride"] | None = None

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        return repeat_cycle(clip, rig, self.until, self.travel, scene.end, self.at)

    def label(self, rig: Rig, scene: Scene) -> str:
        return f"Repeat the cycle to {self.until}"


@dataclass(frozen=True, kw_only=True)
class MendSeam(Edit):
    """Two frames made to agree, so that a loop closes."""

    kind: Literal["mend"] = "mend"
    start: Frame
    end: Frame
    controls: Controls = None

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        return mend_seam(clip, rig, self.start, self.end, self.controls)

    def label(self, rig: Rig, scene: Scene) -> str:
        return f"Mend the seam of {self.start} and {self.end}{of_said(rig, self.controls)}"
