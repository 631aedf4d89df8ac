"""What is wished of a body: parts that are pulled, parts that hold, and what it tends to."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import Literal

import numpy as np

from hame.character.rig import Chain
from hame.errors import BadEdit
from hame.maths.rotations import Array
from hame.solve.begun import Begun, where
from hame.solve.body import Body
from hame.solve.pull_kernel import Ints, Wish

Grade = Literal["loose", "firm", "fast"]

# How strongly each wish counts, by metre for a body one metre tall (by radian for turns), and with what force at most:
# a pulled part goes before what is held firmly, and that before what is held loosely; what is held fast goes before
# all. A body at the end of its reach is not torn straight: what pulls, pulls with so much force and no more.
PULL = 100.0
BY_GRADE = {"loose": 2.0, "firm": 15.0, "fast": 3e3}
MOST = {"pulled": 6.0, "loose": 0.25, "firm": 1.0, "fast": np.inf}
TURN = 0.3  # of a grip's weight by place
_OWN_TURN = 0.25  # how much the pulled part itself wants to keep its turn, by radian
_AHEAD = 0.1  # of the body's size: so far a step looks ahead
ROUNDS = 45

# By radian: what turns easily goes first.
_STIFF = {
    "collar": 0.8, "upper": 0.2, "lower": 0.16, "hand": 0.4, "foot": 0.3, "spine": 0.6, "neck": 0.5, "hips": 1.2,
    "leg.upper": 0.25, "leg.lower": 0.2, "joint": 0.2,
}  # fmt: skip
_ROOT_PLACE, _ROOT_TURN = 1.2, 0.9
FREELY = 1e-3
_ROW, _EASE, BALANCE = 0.8, 1.2, 8.0


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


def is_held(begun: Begun, targets: Sequence[Target], grips: Sequence[Grip]) -> bool:
    """Whether anything keeps a pulled body from going along as it is."""
    pulled = {begun.body.number(target.part) for target in targets}
    return any(t.turn is not None for t in targets) or any(
        grip.place and begun.body.number(grip.part) not in pulled for grip in grips
    )


def wished(begun: Begun, targets: Sequence[Target], grips: Sequence[Grip], leanings: Leanings) -> Wish:
    body, size = begun.body, begun.size
    pulled = {body.number(target.part) for target in targets}
    rows: list[tuple[int, Array, Array, float, float, float]] = []
    for target in targets:
        n = body.number(target.part)
        for given, name in ((target.place, "place"), (target.turn, "turn")):
            if given is not None and not (np.all(np.isfinite(given)) and np.abs(given).max() < _FAR):
                raise BadEdit(f"the {name} that {body.links[n].label} is wanted at is too far off; nothing was changed")
        _refuse_within(begun, n)
        at, way = where(begun, target.part)
        by_turn = _OWN_TURN if target.turn is None else PULL * TURN
        place = at if target.place is None else target.place
        turn = way if target.turn is None else target.turn
        by_place = 0.0 if target.place is None else PULL / size
        rows.append((n, place, turn, by_place, by_turn, MOST["pulled"] / size))
    holding = is_held(begun, targets, grips)
    for grip in grips:
        n = body.number(grip.part)
        if n in pulled or not (grip.place or grip.turn):
            continue
        weight = BY_GRADE[grip.grade]
        at, way = where(begun, grip.part)
        rows.append((n, at, way, weight / size * grip.place, weight * TURN * grip.turn, MOST[grip.grade] / size))
    stiff = _stiffness(body, leanings).copy()
    stiff[:3] /= size
    pairs = _in_rows(body)
    low, high = _as_far_as_meant(begun, {chain for row in rows if (chain := body.links[row[0]].chain)})
    return Wish(
        link=np.array([r[0] for r in rows], np.int32),
        place=np.array([r[1] for r in rows], float).reshape(-1, 3),
        turn=np.array([r[2] for r in rows], float).reshape(-1, 4),
        by_place=np.array([r[3] for r in rows], float),
        by_turn=np.array([r[4] for r in rows], float),
        most=np.array([r[5] for r in rows], float), ahead=_AHEAD * size,
        near=begun.angles, stiff=stiff, low=low, high=high,
        rows=pairs, row_stiff=np.full(len(pairs), _ROW), over=begun.over,
        by_balance=BALANCE / size * leanings.balance**2 if holding else 0.0,
        eased=begun.eased, by_ease=_EASE * 2.0 * leanings.knees,
    )  # fmt: skip


def _refuse_within(begun: Begun, n: int) -> None:
    """Refuses to pull a chain that reaches for its tip by one of its joints, which follow from that."""
    link, rig = begun.body.links[n], begun.body.rig
    if link.role == "joint" and link.chain is not None and begun.values[rig.number(link.chain.switch)] > 0.5:
        raise BadEdit(
            f"{link.chain.label} reaches for its tip (IK), so it is pulled by that; move its middle to bend it, or "
            "change it to FK. Nothing was changed"
        )


def _as_far_as_meant(begun: Begun, meant: Collection[Chain]) -> tuple[Array, Array]:
    """The ranges (n,) of the angles, with chains that nothing pulls or holds as they are: they bear no weight."""
    low, high = begun.low, begun.high
    if any(link.chain for link in begun.body.links):
        low, high = low.copy(), high.copy()
        for n, link in enumerate(begun.body.links):
            if link.chain is not None and link.chain not in meant:
                low[begun.body.angles(n)] = high[begun.body.angles(n)] = begun.angles[begun.body.angles(n)]
    return low, high


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
        part = link.role
        if link.limb is not None:
            of = _STIFF.get(f"{link.limb.kind}.{part}", _STIFF.get(part, 0.3))
        else:
            of = _STIFF[part] if part in ("collar", "joint") else _STIFF.get(link.row or "hips", 0.6)
        if link.row == "spine":
            of *= 4.0 ** (1.0 - 2.0 * leanings.spine)
        if part == "collar":
            of *= 4.0 ** (1.0 - 2.0 * leanings.shoulders)
        stiff[body.angles(n)] = of
    stiff[:3], stiff[3:6] = _ROOT_PLACE, _ROOT_TURN
    return np.asarray(stiff * 4.0 ** (2.0 * leanings.before - 1.0))
