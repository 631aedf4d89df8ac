"""How far left and right are alike over a cycle, and which parts lead and which trail."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from hame.character.rig import PLACE, TURN, Rig
from hame.clip.clip import Clip
from hame.errors import BadEdit
from hame.evaluate.evaluate import channel_values, evaluate, joints
from hame.maths import transforms
from hame.maths.rotations import Array

FARTHEST_LAG = 8  # frames
STILL = 1e-6


@dataclass(frozen=True)
class Alike:
    """A part against its other side half a cycle later, or what is in the middle against itself mirrored.

    Attributes
    ----------
    degrees, metres : the largest difference of an angle, and of where its joints are, seen from the hips
    worst : the frame of the larger of the two
    """

    part: str
    label: str
    degrees: float
    metres: float
    worst: int


@dataclass(frozen=True)
class Lag:
    """By how many frames a part trails the hips (below zero: leads them), and how well the two then go together."""

    part: str
    label: str
    frames: int
    fit: float


def likeness(rig: Rig, clip: Clip, first: int, last: int) -> list[Alike]:
    """How alike the two sides of a body go, part by part; ``last`` shows ``first`` again.

    Raises
    ------
    BadEdit
        If the cycle has no whole half.
    """
    length = last - first
    if length < 4 or length % 2:
        raise BadEdit(f"left and right are compared over a cycle of an even number of frames, not {length}")
    frames = np.arange(first, last)
    values = channel_values(rig, clip, frames)
    half = length // 2
    nodes = evaluate(rig, values)
    hips = nodes[:, rig.control("hips" if rig.has_control("hips") else rig.controls[0].name).node]
    seen = transforms.relative(hips[:, None], joints(rig, nodes))[..., :3]
    target, sign = rig.echoes
    mirrored = np.roll(values, -half, axis=0)
    parts: dict[str, tuple[str, list[int], list[int]]] = {}
    for control in rig.controls:
        if control.side == "R" or control.kind == "master" or not control.posed:
            continue
        own = [
            n
            for n in range(control.first, control.first + control.count)
            if target[n] >= 0 and not rig.channels[n].locked and rig.channels[n].kind == TURN
        ]
        _, turns, held = parts.setdefault(control.part, (_called(rig, control.part), [], []))
        turns += own
        held += [j for j, (name, _) in enumerate(rig.picks) if name == control.name]
    other = _other_joints(rig)
    found = []
    for part, (label, turns, held) in parts.items():
        wrong = np.zeros(len(frames))
        if turns:
            wrong = np.degrees(np.abs(values[:, turns] - mirrored[:, target[turns]] * sign[turns])).max(axis=1)
        pairs = [(j, other[j]) for j in held if j in other]
        flip = np.array([-1.0, 1.0, 1.0])
        away = np.zeros(len(frames))
        for a, b in pairs:
            far = np.linalg.norm(seen[:, a] - np.roll(seen[:, b], -half, axis=0) * flip, axis=1)
            away = np.maximum(away, far)
        worst = int(np.argmax(np.maximum(wrong / 10.0, away / 0.1)))
        found.append(Alike(part, label, float(wrong.max()), float(away.max()), int(frames[worst])))
    return found


def _called(rig: Rig, part: str) -> str:
    """A part in words, both sides in one."""
    limb = next((limb for limb in rig.limbs if limb.name == part), None)
    if limb is not None:
        return f"{limb.kind}s"
    return part.replace(".L", "s").replace(".", " ")


def _other_joints(rig: Rig) -> dict[int, int]:
    """By joint, the one on the other side, or itself in the middle; told by where they are at rest."""
    places = rig.skeleton.places
    flipped = places * np.array([-1.0, 1.0, 1.0])
    found = {}
    for j, place in enumerate(places):
        far = np.linalg.norm(flipped - place, axis=1)
        near = int(np.argmin(far))
        if far[near] < 0.01 * rig.size:
            found[j] = near
    return found


def lags(rig: Rig, clip: Clip, first: int, last: int) -> list[Lag]:
    """Which parts lead the hips and which trail, by the speeds at which they turn.

    A part's lag is the shift, in whole frames, at which its speed goes best with that of the hips (their correlation).
    """
    if last - first < 2 * FARTHEST_LAG:
        return []
    values = channel_values(rig, clip, np.arange(first, last + 1))
    base = _speed(rig, values, [c.name for c in rig.controls if c.kind == "body" or c.name == "hips"])
    found = []
    if base.std() < STILL:
        return []
    for part in dict.fromkeys(c.part for c in rig.controls if c.kind != "master"):
        names = [c.name for c in rig.controls if c.part == part]
        for name, label in _links(rig, part, names):
            own = _speed(rig, values, name)
            if own.std() < STILL:
                continue
            fits = {lag: _together(base, own, lag) for lag in range(-FARTHEST_LAG, FARTHEST_LAG + 1)}
            # Where a motion comes back after some frames, so do the fits: of those as good, the nearest counts.
            best = min((lag for lag in fits if fits[lag] > max(fits.values()) - 0.02), key=abs)
            found.append(Lag(part, label, best, float(fits[best])))
    return found


def _links(rig: Rig, part: str, names: list[str]) -> list[tuple[list[str], str]]:
    """A limb link by link, as its controls go down the chain; anything else as one."""
    limb = next((limb for limb in rig.limbs if limb.name == part), None)
    if limb is None:
        side = {"L": "left ", "R": "right "}.get(part.rsplit(".", 1)[-1], "")
        return [(names, side + part.rsplit(".", 1)[0] if side else _called(rig, part))]
    return [([name], rig.control(name).label) for name in limb.fk]


def _speed(rig: Rig, values: Array, names: list[str]) -> Array:
    numbers = [
        n
        for name in names
        for n in range(rig.control(name).first, rig.control(name).first + rig.control(name).count)
        if rig.channels[n].kind in (TURN, PLACE)
    ]
    scale = np.array([1.0 if rig.channels[n].kind == TURN else 3.0 for n in numbers])  # metres beside radians
    return np.asarray(np.linalg.norm(np.diff(values[:, numbers], axis=0) * scale, axis=1))


def _together(base: Array, own: Array, lag: int) -> float:
    """The correlation of two speeds, the second shifted back by so many frames."""
    a, b = (base[: len(base) - lag], own[lag:]) if lag >= 0 else (base[-lag:], own[:lag])
    if a.std() < STILL or b.std() < STILL:
        return -1.0
    return float(np.corrcoef(a, b)[0, 1])
