"""Sack on the quay: Brannoc and Wick take a heavy sack by its ends, carry it a few steps aside, and set it down."""

from __future__ import annotations

from math import radians

import numpy as np

from hame.demo.acting import Acting
from hame.demo.scenes import AHEAD, LEFT, UP, ScenePlan, hands, named, plant, turns
from hame.demo.shots import standing
from hame.edits.belongings import Belong
from hame.edits.heavy import AsHeavy
from hame.edits.underway import BorneInMotion
from hame.edits.ways import SetWay
from hame.maths.rotations import Array

KEEPER, BOY, SACK = "Brannoc", "Wick", "Sack"
APART, END = 0.58, 0.40  # metres from the middle of the sack to where each stands, and to its ends
GRIP, LIFT, UP_AT = 26, 31, 43  # frames: hands are on it, it leaves the ground, it is up
BORNE = ((8, 14), (30, 46), (54, 126), (136, 173))  # frames on which ground and feet are asked for much
STEP, SIDE, BEGIN, EACH = 3, 0.26, 52, 20  # steps aside, how far each goes, when, and for how long
DOWN_AT = BEGIN + STEP * EACH + 24
STRENGTH = 350.0  # newtons that each lifts with and is not hurt


def sack_on_the_quay(acting: Acting) -> None:
    """Down by the knees, a look, up together and too fast at first; three steps aside; and down more slowly."""
    last = DOWN_AT + 24
    for who, side in ((KEEPER, -1.0), (BOY, 1.0)):
        acting.pose(who, 1, {"master/tx": side * APART, "master/tz": 0.0, "master/ry": radians(-90 * side)})
        ease = {a: v for a, v in standing().items() if not a.startswith("arm.")}
        acting.pose(who, 1, ease | {"body/rx": 0.0, "spine/rx": 0.0, "body/tz": 0.0, "arm.L/ik": 1.0, "arm.R/ik": 1.0}
                    | hands(24))  # fmt: skip
        for hand, sign in (("L", 1.0), ("R", -1.0)):
            for frame in (1, 9):
                _hand(acting, who, hand, frame, np.array([side * (APART - 0.08), 0.84, 0.27 * sign * side]), side, 0.2)
            _hand(acting, who, hand, 19, np.array([side * 0.56, 0.5, 0.2 * sign * side]), side, 0.6)
            for frame in (GRIP, LIFT - 2):
                _hand(acting, who, hand, frame, np.array([side * (END - 0.02), 0.13, 0.1 * sign * side]), side, 0.9)
        acting.pose(who, GRIP, hands(58, 30))
        acting.pose(who, 19, hands(12, 4))
        _stoop(acting, who, 9, 0.06)
        for frame, much in ((19, 0.6), (GRIP, 1.0), (LIFT - 1, 1.0)):
            _stoop(acting, who, frame, much)
    number = acting.numbers
    acting.make(SACK, Belong(controls=("master",), figure=number[KEEPER], to="arm.R.goal", start=GRIP + 1,
                             end=DOWN_AT + 3))  # fmt: skip
    held = ((KEEPER, ("arm.L.goal",)), (BOY, ("arm.L.goal", "arm.R.goal")))
    for who, controls in held:
        acting.make(who, Belong(controls=controls, figure=number[SACK], to="master", start=GRIP + 1, end=DOWN_AT + 3))
    _carried(acting)
    for who, side in ((KEEPER, -1.0), (BOY, 1.0)):
        _aside(acting, who, side, last)
    # Both get up as fast as if it weighed nothing: then as fast as it lets them.
    acting.make(KEEPER, AsHeavy(at=LIFT + 2, strength=STRENGTH))
    named(acting, KEEPER, {1: "At ease", GRIP: "Takes hold"})
    named(acting, BOY, {GRIP: "Takes hold"})
    # Its steps are quick, and so is what else they do: borne in motion, not over each foot.
    for who in (KEEPER, BOY):
        for first, final in BORNE:
            acting.make(who, BorneInMotion(first=first, last=final))


def _hand(acting: Acting, who: str, hand: str, frame: int, place: Array, side: float, down: float) -> None:
    """A palm at a place, its fingers towards the sack and so much down."""
    toward = -side * LEFT
    acting.hold_at(who, hand, frame, place, (1.0 - down) * toward - down * UP, toward * 0.2 + UP * 0.2
                   + AHEAD * (1.0 if (hand == "L") == (side < 0) else -1.0))  # fmt: skip


def _stoop(acting: Acting, who: str, frame: int, much: float, aside: float = 0.0, swing: float = 0.0) -> None:
    """So deep in the knees, the back kept long; ``aside`` in the world's z, metres, and leaned so far, degrees."""
    sign = -1.0 if who == KEEPER else 1.0
    acting.pose(who, frame, {"body/ty": -0.015 - 0.5 * much, "body/tz": -0.11 * much, "body/tx": sign * aside}
                | turns(body__rx=54 * much, spine__rx=13 * much, chest__rx=11 * much, neck__rx=-15 * much,
                        head__rx=-10 * much, body__rz=swing))  # fmt: skip


def _carried(acting: Acting) -> None:
    """The way of the sack, by the hand that it belongs to: up, aside in three goes, and down."""
    held = acting.where(KEEPER, "arm.R.goal", LIFT)
    way = [(LIFT, 0.0, 0.0), (UP_AT, 0.0, 0.69), (BEGIN, 0.0, 0.68)]
    for n in range(STEP):
        way.append((BEGIN + (n + 1) * EACH, SIDE * (n + 1), 0.675))
        way.append((BEGIN + n * EACH + EACH // 2, SIDE * (n + 0.42), 0.70))
    far = SIDE * STEP
    way += [(DOWN_AT - 18, far, 0.68), (DOWN_AT, far, 0.0), (DOWN_AT + 3, far, 0.0)]
    for frame, z, y in way:
        acting.reach(KEEPER, "arm.R.goal", frame, held[:3] + np.array([0.0, y, z]), held[3:7])
    acting.make(KEEPER, SetWay(way="both", strength=0.4, keys={"arm.R.goal/ty": (LIFT,)}))


def _aside(acting: Acting, who: str, side: float, last: int) -> None:
    """The body under the load, its steps, and how it gets up and down with it."""
    sign = -1.0 if who == KEEPER else 1.0
    first, second = ("R", "L") if who == KEEPER else ("L", "R")  # the foot on the side that they go to
    _stoop(acting, who, UP_AT, 0.1)
    _stoop(acting, who, UP_AT + 4, 0.07)
    plants: dict[str, list[tuple[int, int]]] = {"L": [], "R": []}
    since, went = dict.fromkeys("LR", 1), dict.fromkeys("LR", 0.0)
    stand = {foot: acting.where(who, f"leg.{foot}.goal", 1)[:3] for foot in "LR"}
    for n in range(STEP):
        begin = BEGIN + n * EACH
        for foot, lift, land in ((first, begin, begin + 9), (second, begin + 10, begin + 18)):
            goal = SIDE * (n + 1)
            for frame, share, height in ((lift, 0.0, 0.0), ((lift + land) // 2, 0.55, 0.05), (land, 1.0, 0.0)):
                place = stand[foot] + np.array([0.0, height, went[foot] + share * (goal - went[foot])])
                acting.reach(who, f"leg.{foot}.goal", frame, place)
            plants[foot].append((since[foot], lift))
            since[foot], went[foot] = land, goal
        # Over the foot that stays, then over the one that went; a little lower with both.
        _stoop(acting, who, begin, 0.09, SIDE * n - 0.04, 2.0 * sign)
        _stoop(acting, who, begin + 9, 0.14, SIDE * (n + 0.55), 0.0)
        _stoop(acting, who, begin + 18, 0.1, SIDE * (n + 1) - 0.01, -1.0 * sign)
    far = SIDE * STEP
    for frame, much in ((DOWN_AT - 18, 0.09), (DOWN_AT, 1.0), (DOWN_AT + 4, 1.0), (DOWN_AT + 12, 0.5), (last, 0.02)):
        _stoop(acting, who, frame, much, far)
    for hand, turn in (("L", 1.0), ("R", -1.0)):
        z = 0.27 * turn * side + far
        _hand(acting, who, hand, DOWN_AT + 12, np.array([side * (APART - 0.1), 0.64, z]), side, 0.6)
        _hand(acting, who, hand, last, np.array([side * (APART - 0.05), 0.87, z]), side, 0.2)
    acting.pose(who, DOWN_AT + 3, hands(58, 30))
    acting.pose(who, DOWN_AT + 8, hands(14, 6))
    acting.pose(who, last, hands(24))
    for foot in "LR":
        plant(acting, who, *((foot, a, b) for a, b in (*plants[foot], (since[foot], last))))


QUAY = ScenePlan("Sack on the quay", 176, (KEEPER, BOY, SACK), sack_on_the_quay)
