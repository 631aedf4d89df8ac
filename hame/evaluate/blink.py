"""What a blink adds to channel values: lids go to where eyes are shut, and back to where they are keyed."""

from __future__ import annotations

import re
from collections.abc import Mapping
from functools import lru_cache
from math import radians
from types import MappingProxyType

import numpy as np

from hame.character.names import words_of
from hame.character.rig import Rig
from hame.clip.blink import Blink
from hame.maths.rotations import Array

_SHUTS = re.compile(r"lid|blink|shut|clos|wink")
_NOT = re.compile(r"wide|open|squint|tight|up$|rais")
_TURN_UPPER, _TURN_LOWER = radians(38.0), radians(-12.0)
_AT_EYE = 0.35  # of how far apart the eyes are: a lid's joint that near to the eye's is turned, not moved


def blink_adds(rig: Rig, span: Blink, times: Array, values: Array) -> Array:
    """What a blink adds to channel ``values (T, C)`` at times (T,) inside of it."""
    found = np.zeros_like(values)
    shut = dict(zip(span.shut, span.amounts, strict=True)) or shut_of(rig)
    for address, value in shut.items():
        if not rig.has_channel(address):
            continue
        number = rig.number(address)
        late = (rig.side_of(address) == "R") != span.flipped
        found[:, number] = span.closed(times, late) * (value - values[:, number])
    return found


@lru_cache(maxsize=256)
def shut_of(rig: Rig) -> Mapping[str, float]:
    """By address, what shuts the eyes of a rig, as the zones of its lids tell: shapes that are called so, all others of
    an upper lid at rest; without such, joints turned about the eye, or moved to meet. Empty without lids.
    """
    found: dict[str, float] = {}
    zones = {name: zone for name, zone in rig.plan.face.items() if name.startswith("lid")}
    shaping = {rig.plan.shapes[n][0]: rig.addresses[c] for n, c in enumerate(rig.shape_channels.tolist())}
    for name, zone in zones.items():
        shutting = [shape for shape in zone.shapes if _shuts(shape)]
        for shape in zone.shapes:
            if shape in shutting:
                found[shaping[shape]] = float(min(rig.high[rig.number(shaping[shape])], 1.0))
            elif shutting and name.endswith("upper"):
                found[shaping[shape]] = 0.0
        if not shutting:
            found |= _joints_shut(rig, name)
    return MappingProxyType(found)


def _shuts(shape: str) -> bool:
    text = " ".join(words_of(shape))
    return bool(_SHUTS.search(text)) and not _NOT.search(text)


def _joints_shut(rig: Rig, name: str) -> dict[str, float]:
    """How the joint of a lid is turned or moved, by address."""
    zone = rig.plan.face[name]
    side = next((word for word in name.split(".") if word in "LR"), "")
    if not zone.joints or not rig.has_control(name):
        return {}
    upper = name.endswith("upper")
    eyes = {s: rig.skeleton.index(joint) for s in "LR" if (joint := rig.plan.roles.get(f"eye.{s}")) is not None}
    apart = float(np.linalg.norm(np.subtract(*rig.skeleton.places[list(eyes.values())]))) if len(eyes) == 2 else 0.0
    if side in eyes and np.linalg.norm(rig.skeleton.places[eyes[side]] - np.array(zone.at)) < _AT_EYE * apart * 0.3:
        return {f"{name}/rx": _TURN_UPPER if upper else _TURN_LOWER}
    other = rig.plan.face.get(name.replace("upper", "lower") if upper else name.replace("lower", "upper"))
    if other is None:
        return {f"{name}/ty": -0.35 * apart if upper else 0.1 * apart}
    gap = other.at[1] - zone.at[1]
    return {f"{name}/ty": (0.75 if upper else 0.25) * gap}
