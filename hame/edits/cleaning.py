"""Fewer keys, calmer keys: what says nothing taken out, dense curves fitted, flips unwound, channels cleared."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from math import isfinite, pi
from typing import Annotated, Literal

import numpy as np

from hame.character.rig import Rig
from hame.clip.clip import Clip
from hame.clip.curve import Curve, from_keys, from_table
from hame.clip.key import (
    BEZIER,
    FRAME,
    FREE,
    FREE_BOTH,
    HANDLES,
    IN_TIME,
    IN_VALUE,
    OUT_TIME,
    OUT_VALUE,
    SHAPE,
    VALUE,
    WIDTH,
    Array,
    handles_code,
)
from hame.clip.layers import address_in, channel_at, curves_in, own_curves
from hame.clip.sampling import sample_curve
from hame.edits.chosen import counted, curves_of, refuse_derived
from hame.edits.edit import Chosen, Controls, Edit, Frame, Names, Within, controls_said, keys_said, of_said
from hame.edits.outcome import Outcome
from hame.errors import BadEdit
from hame.maths.thinning import BETWEEN, SUB, between_frames, straightened, thinned
from hame.scene.scene import Scene
from hame.work import refuse_samples

METRES = Within(0.0, 1.0, "m", "a place may be off by 0 to 1 m, not by {value:g}; nothing was changed")
RADIANS = Within(0.0, pi, "rad", "a turn may be off by 0 to 180 degrees; nothing was changed")
_EXACT = 1e-9
Metres = Annotated[float, METRES]
Radians = Annotated[float, RADIANS]


@dataclass(frozen=True)
class Tolerance:
    """How far a curve may be off: a place in metres, a turn in radians, and a plain number as much as a turn."""

    place: Metres = 0.0005
    turn: Radians = 0.004

    def of(self, rig: Rig, address: str) -> float:
        channel = channel_at(rig, address)
        return self.place if channel is not None and channel.unit == "m" else self.turn


def _curves(clip: Clip, rig: Rig, controls: Iterable[str] | None, layer: int) -> dict[str, Curve]:
    """The curves that are cleaned, of a layer by the addresses it keeps them under."""
    if layer:
        names = {c.name for c in rig.controls} if controls is None else set(controls)
        mine = curves_in(clip.curves, layer).items()
        return {address_in(layer, own): curve for own, curve in mine if own.rsplit("/", 1)[0] in names}
    return {a: c for a, c in own_curves(curves_of(clip, rig, controls)).items() if rig.has_channel(a)}


def spare_keys(clip: Clip, rig: Rig, tolerance: Tolerance, controls: Controls = None, layer: int = 0) -> Outcome:
    """Takes out keys without which a curve is the same on every frame, within a tolerance.

    The first and the last key of a curve stay.
    """
    changes: dict[str, Curve] = {}
    gone = total = 0
    curves = _curves(clip, rig, controls, layer)
    refuse_samples(sum(map(len, curves.values())) * _A_KEY, "looking for spare keys")
    compared = _Compared()
    for address, curve in curves.items():
        total += len(curve)
        kept = _spared(curve, max(tolerance.of(rig, address), _EXACT), compared)
        if len(kept) < len(curve):
            gone += len(curve) - len(kept)
            changes[address] = kept
    if not changes:
        return Outcome(clip, (f"each of the {counted(total, 'key')} says something; none was taken out",))
    return Outcome(clip.with_curves(changes), (f"{counted(gone, 'key')} of {total} taken out",))


_A_KEY = 200  # samples: what it costs to look whether a curve needs one
_MOST_COMPARED = 30_000_000  # samples that one look for spare keys may compare


@dataclass
class _Compared:
    """How many samples have been compared so far."""

    count: int = 0

    def add(self, count: int) -> None:
        self.count += count
        if self.count > _MOST_COMPARED:
            raise BadEdit(
                "looking for spare keys in all of this takes too long for one step: choose fewer parts, or fit fewer "
                "keys instead. Nothing was changed"
            )


def _spared(curve: Curve, allowed: float, compared: _Compared) -> Curve:
    """The curve without keys that it does not need at any time, whole or not.

    A key changes the gaps beside it and, by the slopes of its neighbours, those beside them; farther out it is not
    looked at, so that a long curve costs no more a key than a short one.
    """
    frames = curve.table[:, FRAME]
    times, begins = between(frames)
    goal = sample_curve(curve, times)
    kept = list(range(len(curve)))
    at = 1
    while at < len(kept) - 1:
        near = kept[max(at - 4, 0) : at + 5]
        less = from_table(curve.table[[row for row in near if row != kept[at]]])
        a, b = begins[kept[max(at - 2, 0)]], begins[kept[min(at + 2, len(kept) - 1)]] + 1
        compared.add(b - a)
        if np.abs(sample_curve(less, times[a:b]) - goal[a:b]).max() <= BETWEEN * allowed:
            del kept[at]
        else:
            at += 1
    return curve if len(kept) == len(curve) else from_table(curve.table[kept])


_FEW, _MANY = 4, 16


def between(frames: Array) -> tuple[Array, list[int]]:
    """Times (T,) at which curves with keys at ``frames (K,)`` are compared, and which of them are those of the keys.

    They are on all whole frames of short gaps and in between, and as many in long ones as show a bend.
    """
    gaps = np.diff(frames)
    counts = np.minimum(_FEW * gaps, _FEW * _MANY).astype(int)
    begins = np.append(0, np.cumsum(counts))
    share = np.arange(begins[-1]) - np.repeat(begins[:-1], counts)
    found = np.repeat(frames[:-1], counts) + share * np.repeat(gaps / counts, counts)
    return np.append(found, frames[-1]), begins.tolist()


@dataclass(frozen=True, kw_only=True)
class SpareKeys(Edit):
    """Keys that change nothing within a tolerance taken out."""

    kind: Literal["spare keys"] = "spare keys"
    tolerance: Tolerance = Tolerance()
    controls: Controls = None

    dear = True

    cleans = True

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        return spare_keys(clip, rig, self.tolerance, self.controls, self.layer)

    def label(self, rig: Rig, scene: Scene) -> str:
        return f"Spare keys taken out{of_said(rig, self.controls)}"


def fit_keys(clip: Clip, rig: Rig, tolerance: Tolerance, controls: Controls = None, layer: int = 0) -> Outcome:
    """Fits fewer keys to curves: at no time, on a frame or between, is one farther off than the tolerance.

    Raises
    ------
    BadEdit
        For a tolerance of zero: then every frame would keep its key.
    """
    if tolerance.place <= 0.0 or tolerance.turn <= 0.0:
        raise BadEdit(
            "a fit has to be allowed some error: with none, every frame keeps its key. Nothing was changed; "
            "spare keys can be taken out without any"
        )
    curves = {a: c for a, c in _curves(clip, rig, controls, layer).items() if len(c) > 2}
    if not curves:
        raise BadEdit("there is no curve with more than two keys there; nothing was changed")
    changes: dict[str, Curve] = {}
    before = after = 0
    worst = 0.0
    spans: dict[tuple[int, int], list[str]] = {}
    for address, curve in curves.items():
        spans.setdefault((int(curve.table[0, FRAME]), int(curve.table[-1, FRAME])), []).append(address)
    refuse_samples(SUB * sum((last - first) * len(a) for (first, last), a in spans.items()), "a fit")
    for (first, last), addresses in _in_parts(spans):
        frames, times = np.arange(first, last + 1, dtype=float), between_frames(first, last)
        seen = np.stack([sample_curve(curves[a], times) for a in addresses])
        allowed = np.array([tolerance.of(rig, a) for a in addresses])
        fixed = np.stack([_steps(curves[a], frames) for a in addresses])
        found = thinned(straightened(seen, fixed), BETWEEN * allowed, fixed, SUB)
        for n, (keys, handles) in enumerate(found):
            curve = curves[addresses[n]]
            before += len(curve)
            if len(keys) >= len(curve):
                after += len(curve)
                continue
            values = seen[n, SUB * keys]
            fitted = from_table(fitted_table(frames[keys], values, handles, _shapes(curve, frames[keys])))
            off = float(np.abs(sample_curve(fitted, times) - seen[n]).max()) / allowed[n]
            if off > 1.0:  # bends inside single frames, which keys on whole frames cannot follow
                after += len(curve)
                continue
            worst, after = max(worst, off), after + len(keys)
            changes[addresses[n]] = fitted
    if not changes:
        return Outcome(clip, (f"{counted(before, 'key')} are as few as this error allows; nothing was changed",))
    note = f"{before} keys became {after}; the largest error is {worst:.0%} of what was allowed"
    return Outcome(clip.with_curves(changes), (note,))


_AT_ONCE = 500_000  # samples


def _in_parts(spans: dict[tuple[int, int], list[str]]) -> Iterator[tuple[tuple[int, int], list[str]]]:
    """The same, so few curves at a time that their frames need little memory."""
    for (first, last), addresses in spans.items():
        some = max(_AT_ONCE // (SUB * (last - first + 1)), 1)
        for n in range(0, len(addresses), some):
            yield (first, last), addresses[n : n + some]


def _steps(curve: Curve, frames: Array) -> np.ndarray:
    """Frames on which a stepped way begins or ends: a key stays there."""
    found = np.zeros(len(frames), bool)
    for row in np.flatnonzero(curve.shapes == 0).tolist():
        for frame in curve.table[row : row + 2, FRAME].tolist():
            found[int(frame - frames[0])] = True
            if frame > frames[0] and row + 1 < len(curve) and frame == curve.table[row + 1, FRAME]:
                found[int(frame - frames[0]) - 1] = True
    return found


def _shapes(curve: Curve, frames: Array) -> Array:
    at = np.clip(np.searchsorted(curve.table[:, FRAME], frames, side="right") - 1, 0, len(curve) - 1)
    return np.where(curve.table[at, SHAPE] == 0.0, 0.0, float(BEZIER))


def fitted_table(frames: Array, values: Array, handles: Array, shapes: Array) -> Array:
    """The table of keys with handles of a third of each gap, at ``handles (K - 1, 2)`` values from the keys.

    Those that go on from one another are aligned, so that they still do when one of them is dragged.
    """
    table = np.zeros((len(frames), WIDTH))
    table[:, FRAME], table[:, VALUE], table[:, SHAPE], table[:, HANDLES] = frames, values, shapes, FREE_BOTH
    gaps = np.diff(np.asarray(frames, float))
    table[:-1, OUT_TIME], table[:-1, OUT_VALUE] = gaps / 3.0, handles[:, 0]
    table[1:, IN_TIME], table[1:, IN_VALUE] = -gaps / 3.0, handles[:, 1]
    if len(frames) > 2:
        into, out = -handles[:-1, 1] / gaps[:-1], handles[1:, 0] / gaps[1:]
        table[1 + np.flatnonzero(np.abs(into - out) < _EXACT), HANDLES] = handles_code(FREE, FREE, aligned=True)
    return table


@dataclass(frozen=True, kw_only=True)
class FitKeys(Edit):
    """Fewer keys for the same curves, with a stated largest error."""

    kind: Literal["fit keys"] = "fit keys"
    tolerance: Tolerance = Tolerance(0.002, 0.01)
    controls: Controls = None

    dear = True

    cleans = True

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        return fit_keys(clip, rig, self.tolerance, self.controls, self.layer)

    def label(self, rig: Rig, scene: Scene) -> str:
        return f"Fewer keys fitted{of_said(rig, self.controls)}"


@dataclass(frozen=True, kw_only=True)
class ClearChannels(Edit):
    """Channels that should have no animation cleared of their keys; with ``keep``, but for one that holds the value at
    a frame.
    """

    kind: Literal["clear channels"] = "clear channels"
    addresses: Names
    frame: Frame = 1
    keep: bool = True

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        changes: dict[str, Curve | None] = {}
        for address in self.addresses:
            channel = channel_at(rig, address)
            curve = clip.curves.get(address)
            if curve is None:
                continue
            value = float(sample_curve(curve, np.array([float(self.frame)]))[0])
            rest = channel.rest if channel is not None and not address.startswith("#") else 0.0
            keep = self.keep and abs(value - rest) > _EXACT
            changes[address] = from_keys({int(curve.table[0, FRAME]): value}) if keep else None
        if not changes:
            raise BadEdit("none of these channels has keys; nothing was changed")
        return Outcome(clip.with_curves(changes), (f"{counted(len(changes), 'channel')} cleared",))

    def label(self, rig: Rig, scene: Scene) -> str:
        names = {a.rsplit("/", 1)[0] for a in self.addresses}
        return f"Clear {counted(len(self.addresses), 'channel')} of {controls_said(rig, names)}"


@dataclass(frozen=True, kw_only=True)
class CalmKeys(Edit):
    """Keys that make a bump brought a share of the way to where their neighbours would have the curve."""

    kind: Literal["calm"] = "calm"
    keys: Chosen
    share: Annotated[float, Within(0.0, 1.0, "share", "a bump is taken away by 0 to 100%, not {value:.0%}")] = 1.0

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        if not isfinite(self.share):
            raise BadEdit("a bump is taken away by a share of it; nothing was changed")
        refuse_derived(clip, {f for a, frames in self.keys.items() if not a.startswith("#") for f in frames})
        chosen = {a: set(frames) for a, frames in self.keys.items()}
        goals = {}
        for address, frames in chosen.items():
            curve = clip.curves.get(address)
            rest = None if curve is None else curve.table[~np.isin(curve.table[:, FRAME], list(frames))]
            if curve is not None and rest is not None and len(rest) > 1:
                at = np.array(sorted(frames), float)
                for frame, value in zip(at, sample_curve(from_table(rest), at), strict=True):
                    goals[address, int(frame)] = float(value)
        if not goals:
            raise BadEdit("these keys have no neighbours that could say where the curve would go; nothing was changed")
        changes = {}
        for address, frames in chosen.items():
            curve = clip.curves.get(address)
            if curve is None:
                continue
            table = curve.table.copy()
            for row, frame in enumerate(table[:, FRAME].astype(int).tolist()):
                if frame in frames and (address, frame) in goals:
                    table[row, VALUE] += self.share * (goals[address, frame] - table[row, VALUE])
                    table[row, HANDLES] = 0.0
            changes[address] = from_table(table)
        return Outcome(clip.with_curves(changes))

    def label(self, rig: Rig, scene: Scene) -> str:
        return f"Calm {keys_said(self.keys)}"
