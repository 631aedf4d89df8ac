"""Channels that do one thing together, such as the roll and the pitch of a foot, while poses beside key only one."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from math import radians

import numpy as np

from hame.character.rig import Rig
from hame.clip.clip import Clip
from hame.clip.curve import Curve
from hame.clip.layers import address_in, layers_of, sounding, weights
from hame.clip.sampling import sample_curve
from hame.maths.rotations import Array
from hame.measure.keyed import whole_columns

LITTLE = {"rad": radians(0.5), "m": 0.001}  # less than that is not seen to add to anything
_FOOT = (("roll", "rx"), ("bank", "rz"), ("heel", "ry"), ("ball", "ry"), ("tip", "ry"))


@dataclass(frozen=True)
class Double:
    """Two that add up at a frame.

    Attributes
    ----------
    first, second : what they are called, the one that is keyed beside and the one that is not
    addresses : of the two, where their keys are kept
    values : what each adds here, in its unit: radians, metres, or plain
    units : of the two
    beside : the frame of the pose beside at which only the first is keyed
    """

    first: str
    second: str
    addresses: tuple[str, str]
    values: tuple[float, float]
    units: tuple[str, str]
    beside: int


@dataclass(frozen=True)
class _Part:
    """One of two: where its keys are, what it is called, and what it adds here."""

    address: str
    says: str
    value: float
    unit: str

    @property
    def counts(self) -> bool:
        return abs(self.value) > LITTLE.get(self.unit, 0.001)


def doubles(rig: Rig, clip: Clip, frame: int, control: str, values: Array) -> list[Double]:
    """What adds up in a control at a frame.

    ``values (C,)`` are the channels as they are seen there. Raises :class:`BadEdit` for a control the rig has not.
    """
    poses = [f for f in whole_columns(clip) if f != frame]
    before = max((f for f in poses if f < frame), default=None)
    after = min((f for f in poses if f > frame), default=None)
    found = []
    for one, other in _pairs(rig, clip, frame, rig.control(control).name, values):
        if not (one.counts and other.counts):
            continue
        for beside in (before, after):
            keyed = [beside is not None and _keyed(clip.curves.get(part.address), beside) for part in (one, other)]
            if keyed[0] != keyed[1] and beside is not None:
                first, second = (one, other) if keyed[0] else (other, one)
                found.append(Double(
                    first.says, second.says, (first.address, second.address), (first.value, second.value),
                    (first.unit, second.unit), beside,
                ))  # fmt: skip
                break
    return found


def _keyed(curve: Curve | None, frame: int) -> bool:
    return curve is not None and bool(np.isin(frame, curve.frames))


def _pairs(rig: Rig, clip: Clip, frame: int, control: str, values: Array) -> Iterator[tuple[_Part, _Part]]:
    channels = {channel.name: channel for channel in rig.channels_of(control)}

    def part(name: str) -> _Part:
        channel = channels[name]
        there = float(values[rig.number(channel.address)]) - channel.rest
        return _Part(channel.address, channel.label, there, channel.unit)

    if {"roll", "bank"} <= channels.keys():
        for extra, turn in _FOOT:
            if extra in channels and turn in channels:
                yield part(extra), part(turn)
    if "swivel" in channels:
        places = [part(name) for name in ("tx", "ty", "tz") if name in channels]
        far = float(np.linalg.norm([place.value for place in places]))
        widest = max(places, key=lambda place: abs(place.value))
        yield part("swivel"), _Part(widest.address, "the aim’s place", far, "m")
    times, playing, layers = np.array([float(frame)]), sounding(clip), layers_of(clip)
    for channel in channels.values():
        base = clip.curves.get(channel.address)
        if base is None:
            continue
        below = _Part(channel.address, channel.label, float(sample_curve(base, times)[0]) - channel.rest, channel.unit)
        for number in playing:
            curve = clip.curves.get(address_in(number, channel.address))
            if curve is None:
                continue
            adds = float(sample_curve(curve, times)[0]) * float(weights(clip, number, times)[0])
            says = f"{channel.label} in {layers[number].name}"
            yield below, _Part(address_in(number, channel.address), says, adds, channel.unit)
