"""Pulls of the demo's figures, for tests and for the bench."""

from __future__ import annotations

from functools import cache

import numpy as np

from hame.demo.shots import figure, standing
from hame.evaluate.evaluate import overlaid
from hame.maths import rotations
from hame.maths.rotations import Array
from hame.solve.begun import Begun, begin, where
from hame.solve.body import stood
from hame.solve.pull import Pulled, pull
from hame.solve.pull_kernel import Wish, centre, stand
from hame.solve.wishes import Grade, Grip, Target

GRADES: tuple[Grade, ...] = ("loose", "firm", "fast")
NAMES = ("brannoc", "wick", "tide-crab", "bosun")
FEET = (Grip("leg.L.foot", "fast"), Grip("leg.R.foot", "fast"))


@cache
def begun(name: str) -> Begun:
    rig = figure(name)[0]
    upright = name in ("brannoc", "wick")
    return begin(rig, overlaid(rig, rig.rest, standing() if upright else {}))


def by(start: Begun, part: str, offset: tuple[float, float, float]) -> Target:
    return Target(part, where(start, part)[0] + np.array(offset))


def place(start: Begun, result: Pulled, part: str) -> Array:
    return np.asarray(result.nodes[start.body.link(part).node, :3])


def turned(a: Array, b: Array) -> Array:
    """Angles, in degrees, between the turns of two sets of nodes."""
    return np.asarray(np.degrees(2 * np.arccos(np.abs((a[:, 3:7] * b[:, 3:7]).sum(axis=1)).clip(0, 1))))


def random_pulls(name: str, count: int, seed: int) -> list[str]:
    """What was wrong with some random pulls of a figure: NaN, ranges, fast grips, and flips over a millimetre."""
    start = begun(name)
    body, size = start.body, start.body.rig.size
    rng = np.random.default_rng(seed)
    parts = [k.name for k in body.links if k.name != "hips" and not k.name.endswith((".upper", ".collar"))]
    held = [k.name for k in body.links if k.name.endswith((".foot", ".hand")) or k.name in ("head", "chest")]
    wrong = []
    for n in range(count):
        part = str(rng.choice(parts))
        grips = [
            Grip(p, GRADES[int(rng.choice(3, p=[0.2, 0.2, 0.6]))], place=p not in ("head", "chest"))
            for p in held
            if p != part and rng.random() < 0.5
        ]
        offset, nudge = rng.normal(size=(2, 3))
        offset *= rng.random() * 0.7 * size / np.linalg.norm(offset)
        at = where(start, part)[0] + offset
        a, b = (pull(start, [Target(part, p)], grips) for p in (at, at + 1e-3 * nudge / np.linalg.norm(nudge)))
        told = f"{n}: {part} by {offset.round(3)} with {[(g.part, g.grade) for g in grips]}"
        if not (np.isfinite(a.values).all() and np.isfinite(a.nodes).all()):
            wrong.append(f"{told}: NaN")
            continue
        angles = stood(body, a.nodes)[1]
        if ((angles < start.low - 2e-4) | (angles > start.high + 2e-4)).any():
            wrong.append(f"{told}: out of range")
        for grip in grips:
            off = np.linalg.norm(place(start, a, grip.part) - where(start, grip.part)[0])
            if grip.grade == "fast" and grip.place and off > 1e-4:
                wrong.append(f"{told}: {grip.part} off by {1000 * off:.2f} mm")
        if turned(a.nodes, b.nodes)[body.nodes].max() > 15.0:
            wrong.append(f"{told}: turns by {turned(a.nodes, b.nodes)[body.nodes].max():.1f} degrees for a millimetre")
    return wrong


def residuals(start: Begun, wish: Wish, x: Array) -> Array:
    """Every square of a wish, one by one, written out by itself."""
    links = len(start.tree.parent)
    at, way = np.empty((links, 3)), np.empty((links, 4))
    stand(start.tree, x, at, way, np.empty((len(x), 3)))
    parts: list[Array] = [wish.stiff * (x - wish.near)]
    parts.append(wish.by_ease * np.maximum(np.where(np.isfinite(wish.eased), wish.eased - x, 0.0), 0.0))
    a, b = wish.rows.T
    parts.append(wish.row_stiff * ((x - wish.near)[a] - (x - wish.near)[b]))
    middle = centre(start.tree, at, way)
    parts.append(wish.by_balance * (wish.over - np.array([middle[0], middle[2]])))
    for t, link in enumerate(wish.link):
        off = wish.place[t] - at[link]
        far, weight, most = float(np.linalg.norm(off)), wish.by_place[t], wish.most[t]
        cost = (weight * far) ** 2
        if weight and weight**2 * far > most:  # pulls with so much force and no more (Huber 1964)
            cost = 2 * most * far - (most / weight) ** 2
        parts.append(off / max(far, 1e-12) * np.sqrt(cost))
        turn = rotations.multiply(wish.turn[t], rotations.inverse(way[link]))
        turn = turn if turn[3] >= 0 else -turn
        sine = float(np.linalg.norm(turn[:3]))
        parts.append(wish.by_turn[t] * turn[:3] * (2 * np.arctan2(sine, turn[3]) / sine if sine > 1e-12 else 2.0))
    return np.concatenate(parts)
