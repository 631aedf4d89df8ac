"""Up to the gallery: a keeper climbs a ladder; and how feet and hands are put on its rungs."""

from __future__ import annotations

from math import radians

import numpy as np

from hame.demo.acting import Acting
from hame.demo.scenes import AHEAD, UP, ScenePlan, hands, turns
from hame.edits.plants import Planting, PlantLimbs
from hame.maths.rotations import Array


def foot_on(acting: Acting, who: str, side: str, frame: int, rung: Array) -> None:
    """Keys a foot so that its ball stands on a rung (3,)."""
    limb = acting.rig(who).limb(f"leg.{side}")
    ball, heel = np.array(limb.points["ball"]), np.array(limb.points["heel"])
    sole = np.array([ball[0], heel[1], ball[2] - 0.01])
    sign = 1.0 if side == "L" else -1.0
    place = rung + np.array([0.10 * sign, 0.018, 0.0]) - sole
    acting.reach(who, f"leg.{side}.goal", frame, place, np.array([0.0, 0.0, 0.0, 1.0]))


def hand_on(acting: Acting, who: str, side: str, frame: int, rung: Array, away: float = 0.0) -> None:
    """Keys a hand so that it holds a rung (3,), or is so far away from it."""
    sign = 1.0 if side == "L" else -1.0
    grip = rung + np.array([0.15 * sign, 0.034, -0.012 - away])
    acting.hold_at(who, side, frame, grip, AHEAD + 0.25 * UP, -UP + 0.3 * AHEAD)


def up_to_the_gallery(acting: Acting) -> None:
    """Brannoc climbs the ladder, hand over hand, a foot and the opposite hand at a time, planted on the rungs."""
    who, ladder = "Brannoc", "Ladder"
    thing = acting.numbers[ladder]
    acting.pose(ladder, 1, {"master/tx": 0.0, "master/ty": 0.0055, "master/tz": 0.40, "master/rx": radians(9)})
    rungs = {n: acting.where(ladder, f"rung {n}", 1)[:3] for n in range(1, 11)}
    acting.pose(who, 1, {"arm.L/ik": 1.0, "arm.R/ik": 1.0, "master/tx": 0.0, "master/tz": 0.0} | hands(58, 30))
    move, rest, begin = 11, 3, 5
    at = {"foot L": 1, "foot R": 2, "hand L": 6, "hand R": 5}
    since = dict.fromkeys(at, 1)
    plants: list[tuple[str, int, int, int]] = []

    def foot(side: str, frame: int, rung: Array) -> None:
        foot_on(acting, who, side, frame, rung)

    def hand(side: str, frame: int, rung: Array, away: float = 0.0) -> None:
        hand_on(acting, who, side, frame, rung, away)

    def body(frame: int, height: float, aside: float, turn: float) -> None:
        lean = {
            "body/ty": height - 0.975,
            "body/tz": 0.02 + (height - 1.2) * float(np.tan(radians(9))),
            "body/tx": aside,
        }
        acting.pose(who, frame, lean | turns(
            body__rx=6, hips__ry=turn, hips__rz=turn * 0.5, chest__ry=-0.6 * turn, chest__rz=-0.4 * turn, spine__rx=3,
            chest__rx=2, neck__rx=-10, head__rx=-14,
        ))  # fmt: skip

    for side in "LR":
        foot(side, 1, rungs[at[f"foot {side}"]])
        hand(side, 1, rungs[at[f"hand {side}"]])
    # As high as the lower leg lets him: its foot bears him.
    height = 0.28 + 0.86
    body(1, height, 0.0, 4.0)
    frame = begin
    for n in range(4):
        side = "LR"[n % 2]
        other = "R" if side == "L" else "L"
        sign = 1.0 if other == "L" else -1.0
        lift, land = frame, frame + move
        for kind, own, goal, key in (("foot", side, 2, foot), ("hand", other, 2, hand)):
            name = f"{kind} {own}"
            early = lift + (2 if kind == "foot" else 0)  # the hand goes first and the foot follows
            late = land
            plants.append((name, since[name], early, at[name]))
            low, high = rungs[at[name]], rungs[at[name] + goal]
            if kind == "foot":
                key(own, early, low)
                # Back from the rung between, over the one it goes to, and down onto it: its toes touch neither.
                key(own, early + 2, 0.8 * low + 0.2 * high + [0.0, 0.0, -0.17])
                key(own, late - 3, high + [0.0, 0.05, -0.17])
                key(own, late - 1, high + [0.0, 0.03, -0.02])
                key(own, late, high)
            else:
                hand(own, early, low)
                hand(own, (early + late) // 2, 0.4 * low + 0.6 * high, 0.13)
                hand(own, late, high)
            at[name] += goal
            since[name] = late
            if kind == "hand":
                for f, curl in ((early, 58), (early + 2, 12), (late - 2, 12), (late, 58)):
                    acting.pose(who, f, hands(curl, curl / 2, own))
        # Over the bearing foot first, then up by its leg; a little more than needed, and settling.
        body(lift + 2, height + 0.01, 0.045 * sign, -4.0 * sign)
        body((lift + land) // 2 + 1, height + 0.13, 0.05 * sign, -1.0 * sign)
        height += 0.28
        body(land, height - 0.03, 0.03 * sign, 2.0 * sign)
        body(land + rest - 1, height, 0.0, 4.0 * sign)
        frame = land + rest
    end = frame + 4
    body(end, height + 0.004, 0.0, 4.0)
    plants += [(name, since[name], end, at[name]) for name in at]
    for name, start, stop, rung in plants:
        kind, side = name.split()
        control = f"leg.{side}.goal" if kind == "foot" else f"arm.{side}.goal"
        wish = (Planting(control, start, stop),)
        acting.make(who, PlantLimbs(plants=wish, figure=thing, thing=f"rung {rung}"))


UP_THE_LADDER = ScenePlan("Up to the gallery", 66, ("Brannoc", "Ladder"), up_to_the_gallery)
