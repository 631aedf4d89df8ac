"""Pulling a body by some of its parts: they are obeyed, what is gripped stays, and the rest follows.

A pull is counted from the pose at which it was begun, never from the one before: so it has no memory of its way, and
back at the start the pose is the first one again. What comes out are channel values, by IK or FK as each limb stands.
"""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass
from functools import cached_property, lru_cache
from typing import Literal

import numpy as np

from hame.character.limb import softness_of
from hame.character.rig import Rig
from hame.errors import BadEdit
from hame.evaluate.evaluate import evaluate
from hame.maths import rotations
from hame.maths.rotations import Array
from hame.solve.body import Body, body_of, frozen, stood
from hame.solve.kept import Kept, kept_in_controls
from hame.solve.pull_kernel import HINGE, Ints, Tree, Wish, centre, solve, stand

Grade = Literal["loose", "firm", "fast"]

# How strongly each wish counts, by metre for a body one metre tall (by radian for turns), and with what force at most:
# a pulled part goes before what is held firmly, and that before what is held loosely; what is held fast goes before
# all. A body at the end of its reach is not torn straight: what pulls, pulls with so much force and no more.
_PULL, _BY_GRADE = 100.0, {"loose": 2.0, "firm": 15.0, "fast": 3e3}
_MOST = {"pulled": 6.0, "loose": 0.25, "firm": 1.0, "fast": np.inf}
_TURN = 0.3  # of a grip's weight by place
_OWN_TURN = 0.25  # how much the pulled part itself wants to keep its turn, by radian
_AHEAD = 0.1  # of the body's size: so far a step looks ahead
ROUNDS = 45
SEEN, SEEN_TURN = 5e-4, np.radians(0.5)  # metres and radians: what gave by less did not give

# By radian: what turns easily goes first.
_STIFF = {
    "collar": 0.8, "upper": 0.2, "lower": 0.16, "hand": 0.4, "foot": 0.3, "spine": 0.6, "neck": 0.5, "hips": 1.2,
    "leg.upper": 0.25, "leg.lower": 0.2,
}  # fmt: skip
_ROOT_PLACE, _ROOT_TURN, _FREELY, _UPRIGHT = 1.2, 0.9, 1e-3, 0.4
_PLACED = 40.0  # the force by which a pose is made of parts that are placed
_ROW, _EASE, _EASED, _BALANCE = 0.8, 1.2, np.radians(12.0), 8.0


@dataclass(frozen=True)
class Grip:
    """A part that should stay where it is, in place, in turn, or both."""

    part: str
    grade: Grade
    place: bool = True
    turn: bool = True


@dataclass(frozen=True)
class Target:
    """Where a part is wanted: a ``place (3,)`` in metres, a ``turn (4,)``, or both."""

    part: str
    place: Array | None
    turn: Array | None = None


@dataclass(frozen=True)
class Leanings:
    """What a body tends to, each from 0 to 1: how much the spine bends, how soon the shoulders come along, how bent
    knees stay, how much it keeps its balance, and how near to the pose before.
    """

    spine: float = 0.5
    shoulders: float = 0.5
    knees: float = 0.5
    balance: float = 0.5
    before: float = 0.5


USUAL = Leanings()


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


@dataclass(frozen=True, eq=False)
class Begun:
    """A pose from which a pull counts: see :func:`begin`."""

    body: Body
    tree: Tree
    angles: Array
    low: Array
    high: Array
    values: Array
    nodes: Array
    kept: Kept
    beyond: tuple[str, ...]

    @cached_property
    def size(self) -> float:
        """How large the body is as it stands, metres."""
        return float(self.body.rig.size * self.nodes[self.body.links[0].node, 7])

    @cached_property
    def over(self) -> Array:
        """Where on the ground (2,), x and z, its centre of mass is over."""
        x, _, z = centre(self.tree, *_standing(self.tree, self.angles))
        return np.array([x, z])

    @cached_property
    def eased(self) -> Array:
        """By angle (n,), below what a hinge is too straight; straighter than at the start it was already."""
        eased = np.full(len(self.angles), -np.inf)
        for link in self.body.links:
            if link.kind == HINGE:
                eased[link.first] = min(_EASED, self.angles[link.first])
        return eased


def begin(
    rig: Rig, values: Array, nodes: Array | None = None, protected: Collection[str] = (), planted: Collection[str] = ()
) -> Begun:
    """Everything about a pose, channel values ``(C,)``, that holds for all of a pull.

    A joint that is out of its range already may stay where it is, and is named in ``beyond``. What is ``protected``,
    by control, does not turn. ``planted`` are the IK controls of limbs that are planted.

    Raises
    ------
    BadEdit
        For a prop.
    """
    body = body_of(rig)
    nodes = evaluate(rig, values[None])[0] if nodes is None else nodes
    tree, angles = stood(body, nodes)
    slack = 1e-6
    out = (angles < body.low - slack) | (angles > body.high + slack)
    low, high = np.minimum(body.low, angles), np.maximum(body.high, angles)
    beyond = [link.label for n, link in enumerate(body.links) if n and out[body.angles(n)].any()]
    for n in frozen(body, protected):
        low[body.angles(n)] = high[body.angles(n)] = angles[body.angles(n)]
    for n, link in enumerate(body.links):  # in the last share of its length a limb that softens reaches no further
        if link.kind == HINGE and link.limb is not None:
            low[link.first] = min(max(low[link.first], _softly(body, n, values)), angles[link.first])
    return Begun(body, tree, angles, low, high, values, nodes, Kept.of(body, nodes, protected, planted), tuple(beyond))


def pull(begun: Begun, targets: Sequence[Target], grips: Sequence[Grip] = (), leanings: Leanings = USUAL) -> Pulled:
    """The pose in which the parts of ``targets`` come where they are wanted, as far as ``grips`` let them.

    Without any grip the whole figure goes along.

    Raises
    ------
    BadEdit
        If a part is none of the body's, is wanted nowhere or too far off to be meant.
    """
    wish = _wish(begun, targets, grips, leanings)
    if _held(begun, targets, grips):
        angles, _ = solve(begun.tree, wish, begun.angles, ROUNDS)
    else:
        angles = begun.angles.copy()
        ways = [t.place - where(begun, t.part)[0] for t in targets if t.place is not None]
        angles[:3] += np.mean(ways, axis=0) if ways else 0.0
    return _taken(begun, angles, targets, grips)


def _held(begun: Begun, targets: Sequence[Target], grips: Sequence[Grip]) -> bool:
    """Whether anything keeps a pulled body from going along as it is."""
    pulled = {begun.body.number(target.part) for target in targets}
    return any(t.turn is not None for t in targets) or any(
        grip.place and begun.body.number(grip.part) not in pulled for grip in grips
    )


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
    wish = _wish(begun, targets, (), leanings)
    near = np.clip(body.neutral, begun.low, begun.high)
    near[:6] = _standing_by(begun, near, targets)
    size = begun.size
    stiff = wish.stiff.copy()
    stiff[:3], stiff[3:6] = _FREELY, _UPRIGHT
    wish = wish._replace(
        near=near, stiff=stiff, most=np.full(len(wish.most), _PLACED / size),
        eased=np.where(np.isfinite(wish.eased), _EASED, -np.inf),
    )  # fmt: skip
    wish = _on_its_feet(begun, wish, near, targets)
    feet = wish.place[[body.links[n].name.endswith(".foot") for n in wish.link]]
    if len(feet):
        wish = wish._replace(over=feet.mean(axis=0)[[0, 2]], by_balance=_BALANCE / size * leanings.balance**2)
    angles, _ = solve(begun.tree, wish, near, 2 * ROUNDS)
    return _taken(begun, angles, targets, ())


def _on_its_feet(begun: Begun, wish: Wish, near: Array, targets: Sequence[Target]) -> Wish:
    """The wish that feet which nobody has placed stand flat under the body, as they do at rest, as far as they can."""
    body, size = begun.body, begun.size
    told = {body.number(target.part) for target in targets}
    feet = [n for n, link in enumerate(body.links) if link.name.endswith(".foot") and n not in told]
    if not feet:
        return wish
    at, way = _standing(begun.tree, np.concatenate([near[:1], [_height(begun)], near[2:]]))
    weight, count = _BY_GRADE["firm"], len(feet)
    return wish._replace(
        link=np.concatenate([wish.link, np.array(feet, np.int32)]),
        place=np.concatenate([wish.place, at[feet]]), turn=np.concatenate([wish.turn, way[feet]]),
        by_place=np.concatenate([wish.by_place, np.full(count, weight / size)]),
        by_turn=np.concatenate([wish.by_turn, np.full(count, weight * _TURN)]),
        most=np.concatenate([wish.most, np.full(count, _MOST["firm"] / size)]),
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


def over_support(begun: Begun, over: Array, grips: Sequence[Grip], leanings: Leanings = USUAL) -> Pulled:
    """The pose with the centre of mass over a place on the ground ``over (2,)``, x and z, brought there by the body.

    Raises
    ------
    BadEdit
        As :func:`pull`.
    """
    size = begun.size
    wish = _wish(begun, (), grips, leanings)._replace(over=np.asarray(over, float), by_balance=_PULL / size)
    wish.stiff[:3] = _FREELY / size
    angles, _ = solve(begun.tree, wish, begun.angles, ROUNDS)
    return _taken(begun, angles, (), grips)


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
    place, _ = _standing(begun.tree, near)
    mine = np.array([place[body.number(t.part)] for t in targets if t.place is not None])
    wanted = np.array([t.place for t in targets if t.place is not None])
    standing = _standing(begun.tree, near)[1]
    # Which way it faces is told by what is turned as it is; where nothing is, by where its parts lie.
    ways = [
        _heading_of(rotations.multiply(t.turn, rotations.inverse(standing[body.number(t.part)])))
        for t in targets
        if t.turn is not None and not t.part.endswith((".hand", ".lower", ".upper"))
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
        place, _ = _standing(begun.tree, near)
        mine = np.array([place[body.number(t.part)] for t in targets if t.place is not None])
        near[:3] = (wanted - mine).mean(axis=0)
    if not any(body.number(t.part) == 0 or t.part.endswith(".foot") for t in targets if t.place is not None):
        near[1] = _height(begun)
    return np.asarray(near[:6])


def _heading_of(turn: Array) -> float:
    """How far a turn (4,) goes about the vertical, radians."""
    return float(2.0 * np.arctan2(turn[1], turn[3]))


def where(begun: Begun, part: str) -> tuple[Array, Array]:
    """The place (3,) and turn (4,) of a part at the start."""
    node = begun.nodes[begun.body.link(part).node]
    return node[:3], node[3:7]


def _taken(begun: Begun, angles: Array, targets: Sequence[Target], grips: Sequence[Grip]) -> Pulled:
    body = begun.body
    place, turn = _standing(begun.tree, angles)
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


def _standing(tree: Tree, angles: Array) -> tuple[Array, Array]:
    links = len(tree.parent)
    place, turn = np.empty((links, 3)), np.empty((links, 4))
    stand(tree, angles, place, turn, np.empty((len(angles), 3)))
    return place, turn


def _wish(begun: Begun, targets: Sequence[Target], grips: Sequence[Grip], leanings: Leanings) -> Wish:
    body, size = begun.body, begun.size
    pulled = {body.number(target.part) for target in targets}
    rows: list[tuple[int, Array, Array, float, float, float]] = []
    for target in targets:
        n = body.number(target.part)
        for given, name in ((target.place, "place"), (target.turn, "turn")):
            if given is not None and not (np.all(np.isfinite(given)) and np.abs(given).max() < _FAR):
                raise BadEdit(f"the {name} that {body.links[n].label} is wanted at is too far off; nothing was changed")
        at, way = where(begun, target.part)
        by_turn = _OWN_TURN if target.turn is None else _PULL * _TURN
        place = at if target.place is None else target.place
        turn = way if target.turn is None else target.turn
        by_place = 0.0 if target.place is None else _PULL / size
        rows.append((n, place, turn, by_place, by_turn, _MOST["pulled"] / size))
    holding = _held(begun, targets, grips)
    for grip in grips:
        n = body.number(grip.part)
        if n in pulled or not (grip.place or grip.turn):
            continue
        weight = _BY_GRADE[grip.grade]
        at, way = where(begun, grip.part)
        rows.append((n, at, way, weight / size * grip.place, weight * _TURN * grip.turn, _MOST[grip.grade] / size))
    stiff = _stiffness(body, leanings).copy()
    stiff[:3] /= size
    pairs = _in_rows(body)
    return Wish(
        link=np.array([r[0] for r in rows], np.int32),
        place=np.array([r[1] for r in rows], float).reshape(-1, 3),
        turn=np.array([r[2] for r in rows], float).reshape(-1, 4),
        by_place=np.array([r[3] for r in rows], float),
        by_turn=np.array([r[4] for r in rows], float),
        most=np.array([r[5] for r in rows], float), ahead=_AHEAD * size,
        near=begun.angles, stiff=stiff, low=begun.low, high=begun.high,
        rows=pairs, row_stiff=np.full(len(pairs), _ROW), over=begun.over,
        by_balance=_BALANCE / size * leanings.balance**2 if holding else 0.0,
        eased=begun.eased, by_ease=_EASE * 2.0 * leanings.knees,
    )  # fmt: skip


_FAR = 1e4  # metres: nobody pulls as far


@lru_cache(maxsize=64)
def _in_rows(body: Body) -> Ints:
    """Pairs of angles (P, 2) of neighbours in a row, which change alike."""
    pairs = [
        (a.first + k, b.first + k)
        for a, b in zip(body.links, body.links[1:], strict=False)
        if a.row and a.row == b.row
        for k in range(3)
    ]
    return np.array(pairs, np.int32).reshape(-1, 2)


@lru_cache(maxsize=256)
def _stiffness(body: Body, leanings: Leanings) -> Array:
    """How strongly each angle (n,) stays where it was, for a body one metre tall."""
    stiff = np.zeros(len(body.low))
    for n, link in enumerate(body.links):
        part = link.name.rpartition(".")[2]
        if link.limb is not None:
            of = _STIFF.get(f"{link.limb.kind}.{part}", _STIFF.get(part, 0.3))
        else:
            of = _STIFF["collar"] if part == "collar" else _STIFF.get(link.row or "hips", 0.6)
        if link.row == "spine":
            of *= 4.0 ** (1.0 - 2.0 * leanings.spine)
        if part == "collar":
            of *= 4.0 ** (1.0 - 2.0 * leanings.shoulders)
        stiff[body.angles(n)] = of
    stiff[:3], stiff[3:6] = _ROOT_PLACE, _ROOT_TURN
    return np.asarray(stiff * 4.0 ** (2.0 * leanings.before - 1.0))


def _softly(body: Body, n: int, values: Array) -> float:
    """The bend of a limb's hinge at which its softness begins, radians."""
    limb = body.links[n].limb
    assert limb is not None
    rig = body.rig
    soft = float(values[rig.number(softness_of(limb.name))])
    if soft <= 0.0 or values[rig.number(limb.switch)] <= 0.0:
        return 0.0
    one, two = limb.lengths
    reach = (one + two) * (1.0 - soft)
    cosine = (one * one + two * two - reach * reach) / (2.0 * one * two)
    return float(np.pi - np.arccos(np.clip(cosine, -1.0, 1.0)))
