"""What a living hold adds to channel values: breathing, sway and small shifts of weight."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np

from hame.character.rig import Control, Limb, Rig
from hame.clip.curve import Curve
from hame.clip.layers import parted
from hame.clip.living import Living
from hame.clip.played import played_curves
from hame.clip.sampling import sample_curve
from hame.clip.spans import Span
from hame.evaluate.players import Player
from hame.maths.rotations import Array

# How far the body goes down when it goes aside, as a share: a leg that is straight still reaches its foot, which stands
# up to about 20 degrees aside or ahead of its hip.
_LOWER = 0.36
_NECK = -0.6  # of a breath: the head stays about level
# Numbers of what swings, the same on every rig.
_BREATH, _ASIDE, _FORTH, _TRUNK, _HEAD, _ARMS = 0, 1, 2, 10, 30, 50
_AXES = ("rx", "ry", "rz")


@dataclass(frozen=True)
class Moved:
    """A channel that a living hold moves: by which of its sizes, how much of that, along which swing.

    Attributes
    ----------
    mirrored : the share and the swing where left and right have changed places
    """

    channel: int
    size: str
    share: float
    swing: int
    mirrored: tuple[float, int] = (0.0, 0)


def living_adds(player: Player, span: Living, times: Array) -> Array:
    """What a living hold adds to channel values (T, C) at times (T,) inside of it."""
    rig = player.rig
    found = np.zeros((len(times), len(rig.channels)))
    counts = span.fades(times)
    for moved in moved_by(rig):
        size = getattr(span, moved.size)
        if size:
            share, swing = moved.mirrored if span.flipped else (moved.share, moved.swing)
            found[:, moved.channel] += size * share * counts * span.swing(times, swing)
    body = next((control for control in rig.controls if control.kind == "body"), None)
    if span.shift and body is not None and stands(player, span):
        _shift(body, span, times, counts, found)
    return found


def stands(player: Player, span: Living) -> bool:
    """Whether all legs are posed by IK on all frames of a span, so that the body can shift over its feet.

    It hangs on the span as a whole: shifted on some frames and not on others the body would jump between them.
    """
    return not unfirm(player, span, "leg")


def unfirm(player: Player, span: Span, kind: str) -> tuple[Limb, ...]:
    """The limbs of a kind that are not posed by IK all along a span."""
    rig, clip = player.rig, player.clip

    def found() -> tuple[Limb, ...]:
        frames = np.arange(span.start, span.end + 1.0)
        curves = played_curves(clip, rig, frames[0], frames[-1])
        laid = {parted(address)[1] for address in clip.curves if address.startswith("#")}
        limbs = [limb for limb in rig.limbs if limb.kind == kind]
        return tuple(limb for limb in limbs if limb.switch in laid or _lowest(rig, curves, limb.switch, frames) < 1.0)

    return clip.remembered((rig, span, "unfirm", kind), found)


def _lowest(rig: Rig, curves: Mapping[str, Curve], address: str, frames: Array) -> float:
    curve = curves.get(address)
    return float(rig.rest[rig.number(address)] if curve is None else sample_curve(curve, frames).min())


def _shift(body: Control, span: Living, times: Array, counts: Array, found: Array) -> None:
    """The body over its feet, in place."""
    most = span.shift * counts
    aside, forth = span.swing(times, _ASIDE), 0.5 * span.swing(times, _FORTH)
    # Never more than `most` in all, and down by at least a share of how far it is aside: (a + b / a) / 2 >= sqrt(b).
    found[:, body.first] += most * aside * 0.85 * (-1.0 if span.flipped else 1.0)
    found[:, body.first + 2] += most * forth
    found[:, body.first + 1] -= 0.5 * _LOWER * most * (1.0 + aside**2 + forth**2)


@lru_cache(maxsize=256)
def moved_by(rig: Rig) -> tuple[Moved, ...]:
    """The turns that living holds move on a rig, by parts of the body; none of what a rig lacks or has locked."""
    found: list[Moved] = []

    def move(control: str, axis: str, size: str, share: float, swing: int) -> None:
        address = f"{control}/{axis}"
        if rig.has_channel(address) and not rig.channels[rig.number(address)].locked:
            found.append(Moved(rig.number(address), size, share, swing))

    trunk = [c.name for c in rig.controls if c.kind == "trunk" and c.part == "spine"]
    head = [c.name for c in rig.controls if c.kind == "trunk" and c.part == "head"]
    arms = [limb for limb in rig.limbs if limb.kind == "arm"]
    for control in trunk[-1:]:
        move(control, "rx", "breath", 1.0, _BREATH)
    for control in head[:1]:
        move(control, "rx", "breath", _NECK, _BREATH)
    for n, control in enumerate(trunk):
        for m, axis in enumerate(_AXES):
            move(control, axis, "trunk", (0.5, 0.8, 1.0)[m] / len(trunk), _TRUNK + 3 * n + m)
    for n, control in enumerate(head):
        for m, axis in enumerate(_AXES):
            move(control, axis, "head", (1.0, 0.8, 0.5)[m] / len(head), _HEAD + 3 * n + m)
    for n, limb in enumerate(arms):
        for m, (control, share) in enumerate(zip(limb.fk[:2], (1.0, 0.6), strict=False)):
            move(control, "rx", "arms", share, _ARMS + 2 * n + m)
    return tuple(replace(moved, mirrored=_mirrored(rig, moved, found)) for moved in found)


def _mirrored(rig: Rig, moved: Moved, among: list[Moved]) -> tuple[float, int]:
    """The share and the swing of the channel on the other side, seen in the mirror."""
    channel = rig.channels[moved.channel]
    address = f"{rig.control(channel.control).other}/{channel.name}"
    other = next((m for m in among if rig.addresses[m.channel] == address and m.size == moved.size), moved)
    return other.share * channel.mirror, other.swing
