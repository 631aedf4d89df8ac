"""What is abrupt in curves, what says nothing, and turns that flip over."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from math import pi

import numpy as np

from hame.character.rig import Rig
from hame.clip.clip import Clip
from hame.clip.curve import Curve
from hame.clip.key import FRAME, STEP, VALUE
from hame.clip.layers import channel_at, own_curves, parted
from hame.clip.sampling import sample_curve
from hame.maths import rotations
from hame.maths.rotations import Array

ABRUPT = 6.0
"""How many times the usual change of speed counts as abrupt (common practice, no source)."""
LEAST = {"m": 0.003, "rad": np.radians(1.5), "": 0.02}
"""A change of speed below this, by unit and frame, is none that anybody sees."""
FLIP = 0.75 * pi


@dataclass(frozen=True)
class Bump:
    """A frame on which a curve changes its speed abruptly: by so much in its unit a frame, so many times the usual."""

    address: str
    frame: int
    amount: float
    times: float


def bumps(curves: Mapping[str, Curve], rig: Rig, first: int, last: int) -> list[Bump]:
    """Abrupt changes between frames, the worst first: a second difference far beyond those of its neighbourhood.

    Gaps that are stepped jump on purpose and are left out.
    """
    found: list[Bump] = []
    frames = np.arange(first, last + 1, dtype=float)
    if len(frames) < 5:
        return []
    for address, curve in curves.items():
        if len(curve) < 2 or not rig.has_channel(parted(address)[1]):
            continue
        channel = channel_at(rig, address)
        least = LEAST[channel.unit if channel else ""]
        bend = np.abs(np.diff(sample_curve(curve, frames), 2))
        usual = _usual(bend)
        stepped = _stepped(curve, frames)[1:-1]
        for n in np.flatnonzero((bend > least) & (bend > ABRUPT * np.maximum(usual, least / ABRUPT)) & ~stepped):
            peak = bend[max(n - 1, 0) : n + 2].max() <= bend[n]
            if peak:
                times = float(bend[n] / max(usual[n], least / ABRUPT))
                found.append(Bump(address, int(frames[n + 1]), float(bend[n]), times))
    return sorted(found, key=lambda bump: -bump.times)


_AROUND = 5


def _usual(bend: Array) -> Array:
    """By place, the median of what lies up to five places before and behind it, itself left out."""
    count, wide = len(bend), 2 * _AROUND + 1
    found = np.empty(count)
    if count >= wide:
        rows = np.lib.stride_tricks.sliding_window_view(bend, wide)
        beside = np.concatenate([rows[:, :_AROUND], rows[:, _AROUND + 1 :]], axis=1)
        found[_AROUND : count - _AROUND] = np.median(beside, axis=1)
    ends = range(count) if count < wide else [*range(_AROUND), *range(count - _AROUND, count)]
    for n in ends:
        found[n] = np.median(np.delete(bend[max(n - _AROUND, 0) : n + _AROUND + 1], min(n, _AROUND)))
    return found


def _stepped(curve: Curve, frames: Array) -> np.ndarray:
    """Whether a frame, or one beside it, lies where a curve is stepped."""
    at = np.clip(np.searchsorted(curve.table[:, FRAME], frames, side="right") - 1, 0, len(curve) - 1)
    steps = curve.shapes[at] == STEP
    return np.asarray(steps | np.roll(steps, 1) | np.roll(steps, -1))


@dataclass(frozen=True)
class Flip:
    """A place where the angles of a control jump between keys though its turn does not go so far."""

    control: str
    before: int
    after: int
    by: float


def flips(clip: Clip, rig: Rig, controls: Iterable[str] | None = None) -> list[Flip]:
    """Pairs of keys between which angles go round the long way: more than 135 degrees for a turn of less."""
    found: list[Flip] = []
    own = own_curves(clip.curves)
    for name in [c.name for c in rig.controls] if controls is None else controls:
        rows = turn_channels(rig, own, name)
        if rows is None:
            continue
        addresses, order = rows
        frames = turn_frames(own, addresses)
        angles = turns_at(rig, own, addresses, frames)
        turned = rotations.from_euler(angles, order)
        for n in range(len(frames) - 1):
            way = float(np.abs(np.diff(angles[n : n + 2], axis=0)).max())
            real = float(rotations.angle_between(turned[n], turned[n + 1]))
            if way > FLIP and way > real + pi / 3:
                found.append(Flip(name, int(frames[n]), int(frames[n + 1]), way - real))
        found += _apart(own, name, addresses, frames, turned, found)
    return found


def _apart(
    own: Mapping[str, Curve], name: str, addresses: Iterable[str], frames: Array, turned: Array, told: list[Flip]
) -> list[Flip]:
    """The flips between keys of one angle that others of the control are keyed between."""
    known = {(flip.control, flip.before, flip.after) for flip in told}
    found = []
    for curve in (own[a] for a in addresses if a in own):
        at = np.searchsorted(frames, curve.table[:, FRAME])
        for n, way in enumerate(np.abs(np.diff(curve.values)).tolist()):
            if way <= FLIP or at[n + 1] == at[n] + 1:
                continue
            real = float(rotations.angle_between(turned[at[n]], turned[at[n + 1]]))
            place = name, int(curve.table[n, FRAME]), int(curve.table[n + 1, FRAME])
            if way > real + pi / 3 and place not in known:
                known.add(place)
                found.append(Flip(*place, way - real))
    return found


def turn_channels(rig: Rig, curves: Mapping[str, Curve], name: str) -> tuple[list[str], str] | None:
    """The three angles of a control in the order in which they are read, and that; None where they are not keyed."""
    control = rig.control(name)
    addresses = [f"{name}/r{axis}" for axis in control.order.lower()]
    if not all(rig.has_channel(a) for a in addresses) or not any(a in curves for a in addresses):
        return None
    return addresses, control.order


def turn_frames(curves: Mapping[str, Curve], addresses: Iterable[str]) -> Array:
    """All frames on which one of some channels is keyed, rising."""
    keyed = [curves[a].table[:, FRAME] for a in addresses if a in curves]
    return np.unique(np.concatenate(keyed)) if keyed else np.zeros(0)


def turns_at(rig: Rig, curves: Mapping[str, Curve], addresses: Iterable[str], frames: Array) -> Array:
    """Angles (F, 3) at frames; of one that is not keyed, as it rests."""
    return np.stack(
        [
            sample_curve(curves[a], frames) if a in curves else np.full(len(frames), rig.channels[rig.number(a)].rest)
            for a in addresses
        ],
        axis=1,
    )


@dataclass(frozen=True)
class Idle:
    """A channel with keys that say nothing: it keeps one value all along."""

    address: str
    value: float
    at_rest: bool


def idle(curves: Mapping[str, Curve], rig: Rig) -> list[Idle]:
    """Channels whose keys all have one value, with level handles: they need no keys, or one."""
    found = []
    for address, curve in curves.items():
        channel = channel_at(rig, address) if rig.has_channel(parted(address)[1]) else None
        values = curve.table[:, VALUE]
        if channel is None or np.ptp(values) > 1e-9 or np.abs(curve.table[:, [5, 7]]).max() > 1e-9:
            continue
        rest = 0.0 if parted(address)[0] else channel.rest
        found.append(Idle(address, float(values[0]), bool(abs(values[0] - rest) < 1e-9)))
    return found
