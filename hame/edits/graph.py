"""What is done to keys in a graph: moved, scaled, sheared and bent, flattened, typed; their handles; ways of gaps."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from math import isfinite
from typing import Annotated, Literal

import numpy as np
import numpy.typing as npt

from hame.character.rig import Rig
from hame.clip.clip import Clip
from hame.clip.curve import Curve, Stack, unstacked
from hame.clip.key import (
    AUTO,
    BEZIER,
    CHORD,
    FLAT,
    FRAME,
    FREE,
    HANDLES,
    IN_TIME,
    IN_VALUE,
    OUT_TIME,
    OUT_VALUE,
    SHAPE,
    STRENGTH,
    VALUE,
    Array,
    handle_kinds,
    handles_code,
    spots,
    whole_frame,
)
from hame.clip.layers import bounds_of, channel_at, parted
from hame.edits.chosen import Bools, chosen_keys, counted, listed, refuse_derived
from hame.edits.edit import AtMost, Chosen, Count, Edit, Frame, Values, Within, keys_said
from hame.edits.outcome import Outcome
from hame.edits.pose import limits_of
from hame.errors import BadEdit
from hame.maths.eases import ease
from hame.scene.scene import Scene

Numbers = npt.NDArray[np.int64]
Side = Literal["both", "before", "after"]
How = Literal["automatic", "flat", "straight", "free", "in line", "broken"]
FACTOR = Within(-100.0, 100.0, "times", "values are scaled by -100 to 100, not by {value:g}. Nothing was changed")
TIMES = Within(-100.0, 100.0, "times", "times are scaled by up to 100, not by {value:g}. Nothing was moved")
LENGTHENED = Within(0.05, 20.0, "times", "a handle is made 0.05 to 20 times as long, not {value:g} times")
_LEVEL = 1e-12


def reshape(clip: Clip, rig: Rig, scene: Scene, edit: ReshapeKeys) -> Outcome:
    """See :class:`ReshapeKeys`."""
    if edit.time <= 0.0:
        word = "all keys would fall on one frame" if edit.time == 0.0 else "time would run backwards"
        raise BadEdit(f"times cannot be scaled by {edit.time:g}: {word}. Nothing was changed")
    stack, going = chosen_keys(clip, rig, edit.keys)
    addresses, owner = stack.addresses, stack.owner[going]
    keys = stack.keys[going].copy()
    frames = keys[:, FRAME]
    by, shear, bend = (_by_owner(stack, given) for given in (edit.by, edit.shear, edit.bend))
    counts = np.maximum(np.bincount(owner, minlength=len(addresses)), 1)
    means = np.bincount(owner, keys[:, VALUE], len(addresses)) / counts
    about = np.array([edit.about.get(a, m) for a, m in zip(addresses, means.tolist(), strict=True)])
    for named in (edit.by, edit.about, edit.shear, edit.bend, edit.to):
        for address, value in named.items():
            if not isfinite(value):
                raise BadEdit(f"{address}: {value} is not a number; nothing was changed")
    # Values, with handles along: what is done to the curve is done to its slopes.
    slope = shear[owner]
    middle, half = 0.5 * (frames.min() + frames.max()), max(0.5 * float(np.ptp(frames)), 1e-9)
    share = np.clip((frames - middle) / half, -1.0, 1.0)
    keys[:, VALUE] = about[owner] + edit.value * (keys[:, VALUE] - about[owner])
    keys[:, VALUE] += by[owner] + slope * (frames - edit.about_frame) + bend[owner] * (1.0 - share**2)
    steeper = slope - 2.0 * bend[owner] * share / half * (np.ptp(frames) > 0)
    for time, value in ((IN_TIME, IN_VALUE), (OUT_TIME, OUT_VALUE)):
        keys[:, value] = edit.value * keys[:, value] + steeper * keys[:, time]
        keys[:, time] *= edit.time
    for n, address in enumerate(addresses):
        if address in edit.to:
            keys[owner == n, VALUE] = edit.to[address]
    notes = _kept_in_limits(rig, addresses, owner, keys)
    moved = np.floor(edit.about_frame + edit.time * (frames - edit.about_frame) + edit.by_frames + 0.5)
    if (moved != frames).any():
        early = (moved < scene.start) & (frames >= scene.start)
        if early.any():
            raise BadEdit(
                f"{counted(int(early.sum()), 'key')} would come to lie before the first frame of the shot, "
                f"{scene.start}; nothing was moved"
            )
        for frame in (moved.min(), moved.max()):
            whole_frame(float(frame))
    own = [n for n, address in enumerate(addresses) if not parted(address)[0]]
    mine = np.isin(owner, own)
    refuse_derived(clip, {*frames[mine].tolist(), *moved[mine].tolist()})
    keys[:, FRAME] = moved
    after, more = _laid(stack, going, owner, keys)
    if edit.value < 0.0:
        notes.append("the values were turned over")
    return Outcome(clip.with_curves(unstacked(after)), (*notes, *more))


def _by_owner(stack: Stack, given: Mapping[str, float]) -> Array:
    return np.array([given.get(address, 0.0) for address in stack.addresses], float)


def _kept_in_limits(rig: Rig, addresses: tuple[str, ...], owner: Numbers, keys: Array) -> list[str]:
    """Stops values at the limits of their channels, in place, and says which."""
    stopped = []
    for n, address in enumerate(addresses):
        channel = channel_at(rig, address)
        low, high = bounds_of(channel, address)
        mine = np.flatnonzero(owner == n)
        over = (keys[mine, VALUE] < low - 1e-9) | (keys[mine, VALUE] > high + 1e-9)
        if over.any():
            told = limits_of(channel) if channel else f"it goes from {low:g} to {high:g}"
            stopped.append(f"{address} ({told})")
            keys[mine, VALUE] = np.clip(keys[mine, VALUE], low, high)
    if not stopped:
        return []
    return [f"stopped at the limit: {', '.join(stopped[:3])}" + (" …" if len(stopped) > 3 else "")]


def _laid(stack: Stack, going: Bools, owner: Numbers, keys: Array) -> tuple[Stack, list[str]]:
    """Keys laid back among those that stay. One that they land on gives way; of two that meet the later one stays."""
    staying, stayers = stack.keys[~going], stack.owner[~going]
    taken = spots(owner, keys[:, FRAME])
    hit = np.isin(spots(stayers, staying[:, FRAME]), taken)
    last = np.append(np.diff(taken) != 0, True)
    gone = [*staying[hit, FRAME].astype(int).tolist(), *keys[~last, FRAME].astype(int).tolist()]
    notes = [f"{counted(len(gone), 'key')} at {listed(set(gone))} gave way to others that came to lie there"]
    laid = Stack(
        stack.addresses, np.concatenate([stayers[~hit], owner[last]]), np.concatenate([staying[~hit], keys[last]])
    )
    return laid, notes if gone else []


@dataclass(frozen=True, kw_only=True)
class ReshapeKeys(Edit):
    """Keys moved, scaled about a point, sheared, bent, flattened (values by 0) or set to a value, in one.

    Values go by address, in the unit of each: ``by`` so much, ``to`` that value, scaled ``about`` one (else about the
    mean of those chosen), ``shear`` so much a frame, ``bend`` so much in the middle and nothing at both ends.
    """

    kind: Literal["reshape"] = "reshape"
    keys: Chosen
    by_frames: Count = 0
    by: Values = field(default_factory=dict)
    to: Values = field(default_factory=dict)
    about_frame: float = 0.0
    time: Annotated[float, TIMES] = 1.0
    about: Values = field(default_factory=dict)
    value: Annotated[float, FACTOR] = 1.0
    shear: Values = field(default_factory=dict)
    bend: Values = field(default_factory=dict)

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        return reshape(clip, rig, scene, self)

    def label(self, rig: Rig, scene: Scene) -> str:
        done = [
            word
            for word, is_so in (
                ("Move", self.by_frames or self.by), ("Set", self.to), ("Scale time of", self.time != 1.0),
                ("Flatten", self.value == 0.0), ("Scale", self.value not in (0.0, 1.0)), ("Shear", self.shear),
                ("Bend", self.bend),
            )
            if is_so
        ]  # fmt: skip
        return f"{' and '.join(done[:2]) or 'Leave'} {keys_said(self.keys)}"


def on_tables(clip: Clip, rig: Rig, keys: Mapping[str, tuple[int, ...]], do: Callable[[Array, int], None]) -> Clip:
    """The clip after ``do`` was done to chosen keys: it is given a copy of each table, and the row of a key."""
    changes: dict[str, Curve | None] = {}
    stack, going = chosen_keys(clip, rig, keys)
    refuse_derived(clip, {f for a, frames in keys.items() if not parted(a)[0] for f in frames})
    start = 0
    found: list[Array] = []
    owners: list[Array] = []
    for n in range(len(stack.addresses)):
        count = int((stack.owner == n).sum())
        table, mine = stack.keys[start : start + count], going[start : start + count]
        for row in np.flatnonzero(mine).tolist():
            do(table, row)
        found.append(table)
        owners.append(np.full(count, n))
        start += count
    changes |= unstacked(Stack(stack.addresses, np.concatenate(owners), np.concatenate(found)))
    return clip.with_curves(changes)


def by_hand(table: Array, row: int) -> None:
    """Lets the way after a key be led by its handles: one that is straight or in closed form becomes what it looks
    like, as near as two handles can."""
    if row < 0 or row >= len(table) - 1 or table[row, SHAPE] in (BEZIER, 0.0):
        return
    a, b = table[row], table[row + 1]
    gap, rise = b[FRAME] - a[FRAME], b[VALUE] - a[VALUE]
    if a[SHAPE] == 1.0:
        first, second = 1.0 / 3.0, 2.0 / 3.0
    else:
        first, second = nearest_handles(int(a[SHAPE]), float(a[STRENGTH]))
    before, _, aligned = handle_kinds(b[HANDLES])
    kept = handle_kinds(a[HANDLES])
    a[[SHAPE, STRENGTH, OUT_TIME, OUT_VALUE]] = BEZIER, 0.0, gap / 3.0, rise * first
    a[HANDLES] = handles_code(kept[0], FREE)
    b[[IN_TIME, IN_VALUE]] = -gap / 3.0, -rise * (1.0 - second)
    b[HANDLES] = handles_code(FREE, handle_kinds(b[HANDLES])[1])


def nearest_handles(kind: int, strength: float) -> tuple[float, float]:
    """Of a way in closed form, how far (of the rise) two handles of a third of the gap bring the nearest Bezier."""
    t = np.linspace(0.0, 1.0, 65)
    u = 1.0 - t
    terms = np.stack([3.0 * u * u * t, 3.0 * u * t * t], axis=1)
    found = np.linalg.lstsq(terms, ease(kind, strength, t) - t**3, rcond=None)[0]
    return float(found[0]), float(found[1])


def set_handles(clip: Clip, rig: Rig, keys: Mapping[str, tuple[int, ...]], how: How, side: Side) -> Outcome:
    """Gives handles of chosen keys their kind; a handle that becomes free stays where it is."""

    def do(table: Array, row: int) -> None:
        if side != "after":
            by_hand(table, row - 1)
        if side != "before":
            by_hand(table, row)
        key = table[row]
        kinds = list(handle_kinds(key[HANDLES])[:2])
        wanted = {"automatic": AUTO, "flat": FLAT, "straight": CHORD}.get(how, FREE)
        sides = {"both": (0, 1), "before": (0,), "after": (1,)}[side]
        for one in (0, 1) if how in ("in line", "broken") else sides:
            kinds[one] = wanted
        key[HANDLES] = handles_code(kinds[0], kinds[1], how == "in line")
        if how == "in line":
            _align(key)

    return Outcome(on_tables(clip, rig, keys, do))


def _align(key: Array) -> None:
    """Turns both handles into one line, half way between the two; their lengths in time stay."""
    back, forth = -key[IN_TIME], key[OUT_TIME]
    slopes = [key[v] / key[t] for t, v in ((IN_TIME, IN_VALUE), (OUT_TIME, OUT_VALUE)) if abs(key[t]) > 1e-9]
    slope = sum(slopes) / len(slopes) if slopes else 0.0
    key[IN_VALUE], key[OUT_VALUE] = -back * slope, forth * slope


@dataclass(frozen=True, kw_only=True)
class SetHandles(Edit):
    """How handles of keys come: of themselves without overshoot, level, along the way, or by hand: free, the two in
    one line, or broken.
    """

    kind: Literal["handles"] = "handles"
    keys: Chosen
    how: How
    side: Side = "both"

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        return set_handles(clip, rig, self.keys, self.how, self.side)

    def label(self, rig: Rig, scene: Scene) -> str:
        where = "" if self.side == "both" else f" {self.side}"
        return f"{self.how.capitalize()} handles{where} of {keys_said(self.keys)}"


def drag_handle(clip: Clip, rig: Rig, edit: DragHandle) -> Outcome:
    """See :class:`DragHandle`."""
    for number in (edit.time, edit.value):
        if not isfinite(number):
            raise BadEdit("a handle ends at a number of frames and a value; nothing was changed")
    notes: list[str] = []
    after = edit.side == "after"

    def do(table: Array, row: int) -> None:
        if row == (len(table) - 1 if after else 0):
            word = "after the last" if after else "before the first"
            raise BadEdit(f"there is no way {word} key for a handle to lead; nothing was changed")
        by_hand(table, row if after else row - 1)
        key = table[row]
        if (table[row] if after else table[row - 1])[SHAPE] == 0.0:
            raise BadEdit("the way there is stepped, which has no handles; make it smooth first. Nothing was changed")
        gap = table[row + 1, FRAME] - key[FRAME] if after else key[FRAME] - table[row - 1, FRAME]
        time = max(edit.time, 0.0)
        if edit.time < 0.0:
            notes.append("a handle cannot lead back over its key: it stands upright over it now")
        if time > gap:
            notes.append(f"the handle would reach past the key next to it, {gap:g} frames away; it ends there")
            time = float(gap)
        kinds = handle_kinds(key[HANDLES])
        aligned = not edit.alone and (kinds[2] or kinds[0] in (AUTO, FLAT) and kinds[1] in (AUTO, FLAT))
        if after:
            key[OUT_TIME], key[OUT_VALUE] = time, edit.value
        else:
            key[IN_TIME], key[IN_VALUE] = -time, edit.value
        if not aligned:
            other = kinds[0] if after else kinds[1]
            key[HANDLES] = handles_code(other if after else FREE, FREE if after else other)
            return
        key[HANDLES] = handles_code(FREE, FREE, True)
        slope = (key[OUT_VALUE] / time if after else key[IN_VALUE] / -time) if time > 1e-9 else None
        if slope is not None and after:
            key[IN_VALUE] = slope * key[IN_TIME]
        elif slope is not None:
            key[OUT_VALUE] = slope * key[OUT_TIME]

    return Outcome(on_tables(clip, rig, {edit.address: (edit.frame,)}, do), tuple(notes))


@dataclass(frozen=True, kw_only=True)
class DragHandle(Edit):
    """The end of a handle brought to so many frames from its key and a value from its value.

    ``alone`` breaks it from the other one; else the two go on in one line where they did.
    """

    kind: Literal["handle"] = "handle"
    address: Annotated[str, AtMost(200)]
    frame: Frame
    side: Literal["before", "after"]
    time: float
    value: float
    alone: bool = False

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        return drag_handle(clip, rig, self)

    def label(self, rig: Rig, scene: Scene) -> str:
        return f"Handle {self.side} {self.frame} of {self.address}"


@dataclass(frozen=True, kw_only=True)
class LengthenHandles(Edit):
    """Handles made longer along their own line, as for a hang at the top, or shorter."""

    kind: Literal["lengthen"] = "lengthen"
    keys: Chosen
    factor: Annotated[float, LENGTHENED]
    side: Side = "both"

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        def do(table: Array, row: int) -> None:
            key = table[row]
            kinds = list(handle_kinds(key[HANDLES]))
            joined = kinds[2] or kinds[0] in (AUTO, FLAT) and kinds[1] in (AUTO, FLAT)
            for side, (time, value) in enumerate(((IN_TIME, IN_VALUE), (OUT_TIME, OUT_VALUE))):
                if self.side == ("after", "before")[side]:
                    continue
                by_hand(table, row - 1 + side)
                key[[time, value]] *= self.factor
                kinds[side] = FLAT if abs(key[value]) < _LEVEL else FREE
            if FREE in kinds[:2] and joined:
                kinds[:2] = [FREE, FREE]
            key[HANDLES] = handles_code(kinds[0], kinds[1], bool(joined) and kinds[0] == kinds[1] == FREE)

        return Outcome(on_tables(clip, rig, self.keys, do))

    def label(self, rig: Rig, scene: Scene) -> str:
        return f"{'Lengthen' if self.factor > 1 else 'Shorten'} handles of {keys_said(self.keys)}"
