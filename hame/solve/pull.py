"""Pulling a body by some of its parts: they are obeyed, what is gripped stays, and the rest follows.

A pull is counted from the pose at which it was begun, never from the one before: so it has no memory of its way, and
back at the start the pose is the first one again. What comes out are channel values, by IK or FK as each limb stands.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from hame.maths import rotations
from hame.maths.rotations import Array
from hame.solve.begun import Begun, links_at, where
from hame.solve.body import Body
from hame.solve.kept import kept_in_controls
from hame.solve.pull_kernel import solve
from hame.solve.wishes import (
    ROUNDS,
    USUAL,
    Grade,
    Grip,
    Leanings,
    Target,
    is_held,
    wished,
)

SEEN, SEEN_TURN = 5e-4, np.radians(0.5)  # metres and radians: what gave by less did not give


@dataclass(frozen=True)
class Gave:
    """A part that could not stay, or not come where it was wanted; by how much, metres and radians."""

    part: str
    label: str
    grade: Grade | Literal["pulled"]
    metres: float
    radians: float


@dataclass(frozen=True)
class Pulled:
    """Channel values ``(C,)``, their nodes ``(N, 8)``, and what gave."""

    values: Array
    nodes: Array
    gave: tuple[Gave, ...]


def pull(begun: Begun, targets: Sequence[Target], grips: Sequence[Grip] = (), leanings: Leanings = USUAL) -> Pulled:
    """The pose in which the parts of ``targets`` come where they are wanted, as far as ``grips`` let them.

    Without any grip the whole figure goes along.

    Raises
    ------
    BadEdit
        If a part is none of the body's, is wanted nowhere or too far off to be meant.
    """
    wish = wished(begun, targets, grips, leanings)
    if is_held(begun, targets, grips):
        angles, _ = solve(begun.tree, wish, begun.angles, ROUNDS)
    else:
        angles = begun.angles.copy()
        ways = [t.place - where(begun, t.part)[0] for t in targets if t.place is not None]
        angles[:3] += np.mean(ways, axis=0) if ways else 0.0
    return taken(begun, angles, targets, grips)


def taken(begun: Begun, angles: Array, targets: Sequence[Target], grips: Sequence[Grip]) -> Pulled:
    body = begun.body
    place, turn = links_at(begun.tree, angles)
    wanted = begun.kept.placed(body, place, turn, begun.nodes)
    values, nodes = kept_in_controls(body, begun.kept, begun.values, begun.nodes, wanted)
    gave = []
    for target in targets:
        gave.append(_gave(body, nodes, target, "pulled"))
    for grip in grips:
        if body.number(grip.part) not in {body.number(t.part) for t in targets}:
            at, way = where(begun, grip.part)
            kept = Target(grip.part, at if grip.place else None, way if grip.turn else None)
            gave.append(_gave(body, nodes, kept, grip.grade))
    return Pulled(values, nodes, tuple(g for g in gave if g.metres > SEEN or g.radians > SEEN_TURN))


def _gave(body: Body, nodes: Array, target: Target, grade: Grade | Literal["pulled"]) -> Gave:
    link = body.link(target.part)
    node = nodes[link.node]
    metres = 0.0 if target.place is None else float(np.linalg.norm(node[:3] - target.place))
    radians = 0.0
    if target.turn is not None and grade != "pulled":
        radians = rotations.angle_between(node[3:7], target.turn)
    return Gave(link.name, link.label, grade, metres, radians)
