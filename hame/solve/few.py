"""A whole pose from few parts that are placed."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from hame.errors import BadEdit
from hame.evaluate.evaluate import evaluate
from hame.maths import rotations
from hame.maths.rotations import Array
from hame.solve.begun import EASED, Begun, links_at
from hame.solve.pull import Pulled, taken
from hame.solve.pull_kernel import Wish, solve
from hame.solve.wishes import (
    BALANCE,
    BY_GRADE,
    FREELY,
    MOST,
    ROUNDS,
    TURN,
    USUAL,
    Leanings,
    Target,
    wished,
)

_UPRIGHT = 0.4
_PLACED = 40.0  # the force by which a pose is made of parts that are placed


def estimate(begun: Begun, targets: Sequence[Target], leanings: Leanings = USUAL) -> Pulled:
    """A whole pose from few parts of it, in any number: what is not told is as it is at rest, as far as it can be.

    Where elbows and knees point follows from how hands and feet are turned, since wrists and ankles like to be
    straight. Fingers and all that is no link of the body stay as they are.

    Raises
    ------
    BadEdit
        Without a target, or as :func:`pull`.
    """
    if not targets:
        raise BadEdit("nothing is placed yet that a pose could be made from; place hips, a hand, a foot or the head")
    body = begun.body
    wish = wished(begun, targets, (), leanings)
    near = np.clip(body.neutral, wish.low, wish.high)
    near[:6] = _standing_by(begun, near, targets)
    size = begun.size
    stiff = wish.stiff.copy()
    stiff[:3], stiff[3:6] = FREELY, _UPRIGHT
    wish = wish._replace(
        near=near, stiff=stiff, most=np.full(len(wish.most), _PLACED / size),
        eased=np.where(np.isfinite(wish.eased), EASED, -np.inf),
    )  # fmt: skip
    wish = _on_its_feet(begun, wish, near, targets)
    feet = wish.place[[body.links[n].role == "foot" for n in wish.link]]
    if len(feet):
        wish = wish._replace(over=feet.mean(axis=0)[[0, 2]], by_balance=BALANCE / size * leanings.balance**2)
    angles, _ = solve(begun.tree, wish, near, 2 * ROUNDS)
    return taken(begun, angles, targets, ())


def _on_its_feet(begun: Begun, wish: Wish, near: Array, targets: Sequence[Target]) -> Wish:
    """The wish that feet which nobody has placed stand flat under the body, as they do at rest, as far as they can."""
    body, size = begun.body, begun.size
    told = {body.number(target.part) for target in targets}
    feet = [n for n, link in enumerate(body.links) if link.role == "foot" and n not in told]
    if not feet:
        return wish
    at, way = links_at(begun.tree, np.concatenate([near[:1], [_height(begun)], near[2:]]))
    weight, count = BY_GRADE["firm"], len(feet)
    return wish._replace(
        link=np.concatenate([wish.link, np.array(feet, np.int32)]),
        place=np.concatenate([wish.place, at[feet]]), turn=np.concatenate([wish.turn, way[feet]]),
        by_place=np.concatenate([wish.by_place, np.full(count, weight / size)]),
        by_turn=np.concatenate([wish.by_turn, np.full(count, weight * TURN)]),
        most=np.concatenate([wish.most, np.full(count, MOST["firm"] / size)]),
    )  # fmt: skip


def _height(begun: Begun) -> float:
    """How high the free link is, counted from the start, while the figure stands as at rest where its master is."""
    body = begun.body
    return float(_at_rest(begun)[body.links[0].node, 1] - begun.tree.offset[0, 1])


def _at_rest(begun: Begun) -> Array:
    """The nodes (N, 8) of the rest pose, where the master has brought it."""
    values, master = begun.body.rig.rest.copy(), begun.body.rig.controls[0]
    own = slice(master.first, master.first + master.count)
    values[own] = begun.values[own]
    return np.asarray(evaluate(begun.body.rig, values[None])[0])


def _standing_by(begun: Begun, near: Array, targets: Sequence[Target]) -> Array:
    """Place and turn (6,) of the free link at which a body at rest stands nearest to where its parts are wanted:
    upright, and faced so.
    """
    body = begun.body
    rest = _at_rest(begun)
    rest_turn = rest[body.links[0].node, 3:7]
    upright = rotations.multiply(rest_turn, rotations.inverse(begun.tree.zero[0]))
    first = rotations.to_vector(upright)
    near = near.copy()
    near[:3], near[3:6] = 0.0, first
    place, _ = links_at(begun.tree, near)
    mine = np.array([place[body.number(t.part)] for t in targets if t.place is not None])
    wanted = np.array([t.place for t in targets if t.place is not None])
    standing = links_at(begun.tree, near)[1]
    # Which way it faces is told by what is turned as it is; where nothing is, by where its parts lie.
    ways = [
        _heading_of(rotations.multiply(t.turn, rotations.inverse(standing[body.number(t.part)])))
        for t in targets
        if t.turn is not None and body.link(t.part).role not in ("hand", "lower", "upper")
    ]
    if ways:
        heading = float(np.arctan2(np.sin(ways).sum(), np.cos(ways).sum()))
    elif len(mine) > 1:
        a, b = mine - mine.mean(axis=0), wanted - wanted.mean(axis=0)
        # The best turn about the vertical (Kabsch 1976, in the plane).
        across, along = b[:, 0] * a[:, 2] - b[:, 2] * a[:, 0], b[:, 0] * a[:, 0] + b[:, 2] * a[:, 2]
        heading = float(np.arctan2(across.sum(), along.sum()))
    else:
        node = begun.nodes[body.links[0].node]
        heading = _heading_of(rotations.multiply(node[3:7], rotations.inverse(rest_turn)))
    turn = rotations.multiply(rotations.from_axis_angle(np.array([0.0, 1.0, 0.0]), heading), upright)
    near[3:6] = rotations.to_vector(turn)
    if len(mine):
        place, _ = links_at(begun.tree, near)
        mine = np.array([place[body.number(t.part)] for t in targets if t.place is not None])
        near[:3] = (wanted - mine).mean(axis=0)
    if not any(body.number(t.part) == 0 or body.link(t.part).role == "foot" for t in targets if t.place is not None):
        near[1] = _height(begun)
    return np.asarray(near[:6])


def _heading_of(turn: Array) -> float:
    """How far a turn (4,) goes about the vertical, radians."""
    return float(2.0 * np.arctan2(turn[1], turn[3]))
