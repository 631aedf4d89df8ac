"""The ladder gives way: Wick climbs, the ladder slips aside, and he falls with what little he can do about it."""

from __future__ import annotations

from math import radians

import numpy as np

from hame.demo.acting import Acting
from hame.demo.ladder import foot_on, hand_on
from hame.demo.scenes import ScenePlan, hands, named, turns
from hame.demo.shots import standing
from hame.edits.labels import LabelPose
from hame.edits.limp import GoLimp
from hame.edits.plants import Planting, PlantLimbs
from hame.edits.ways import SetWay

WHO, LADDER = "Wick", "Ladder"
SLIPS, LETS_GO, LAST = 24, 33, 96  # frames: the ladder begins to slip, his hands come off it
FALLS = LETS_GO + 1
LEANS = 9.0  # degrees that the ladder leans ahead of him


def the_ladder_gives_way(acting: Acting) -> None:
    """A step up, a jolt, a moment in which he knows, and the fall: onto his back, the legs last."""
    acting.pose(LADDER, 1, {"master/tx": 0.0, "master/ty": 0.0055, "master/tz": 0.4, "master/rx": radians(LEANS)})
    rungs = {n: acting.where(LADDER, f"rung {n}", 1)[:3] for n in range(1, 11)}
    ease = {a: v for a, v in standing().items() if not a.startswith(("arm.", "leg."))}
    still = dict.fromkeys(("body/rx", "body/rz", "spine/rx", "hips/rx"), 0.0)
    acting.pose(WHO, 1, still | ease | {"arm.L/ik": 1.0, "arm.R/ik": 1.0} | hands(58, 30))
    low, high, grip = 2, 3, 6
    for frame in (1, 8):
        for side in "LR":
            foot_on(acting, WHO, side, frame, rungs[low])
    for frame in (1, SLIPS + 2):
        hand_on(acting, WHO, "L", frame, rungs[grip])
        hand_on(acting, WHO, "R", frame, rungs[grip])
    _body(acting, 1, rungs[low][1], 0.0, turn=2.0)
    _body(acting, 8, rungs[low][1] + 0.005, 0.05, turn=-3.0)
    # One foot goes up, and takes the weight.
    foot_on(acting, WHO, "R", 11, 0.8 * rungs[low] + 0.2 * rungs[high] + np.array([0.0, 0.0, -0.15]))
    foot_on(acting, WHO, "R", 15, rungs[high] + np.array([0.0, 0.05, -0.14]))
    foot_on(acting, WHO, "R", 18, rungs[high])
    foot_on(acting, WHO, "L", 18, rungs[low])
    _body(acting, 14, rungs[low][1] + 0.06, 0.04, turn=-2.0)
    _body(acting, 20, rungs[low][1] + 0.04, -0.02, turn=3.0)
    _slips(acting)
    _knows(acting, rungs[low][1])
    # What he stands on and holds goes from under him; his hands hold on a moment longer.
    held = [("leg.L.goal", f"rung {low}", 1, SLIPS + 2), ("leg.R.goal", f"rung {low}", 1, 8),
            ("leg.R.goal", f"rung {high}", 18, SLIPS + 2), ("arm.L.goal", f"rung {grip}", 1, SLIPS + 2),
            ("arm.R.goal", f"rung {grip}", 1, SLIPS + 1)]  # fmt: skip
    thing = acting.numbers[LADDER]
    for control, rung, first, last in held:
        acting.make(WHO, PlantLimbs(plants=(Planting(control, first, last),), figure=thing, thing=rung))
    named(acting, WHO, {1: "Climbs", 20: "Weight on it", SLIPS + 4: "It slips", LETS_GO: "Lets go"})
    acting.make(WHO, LabelPose(frame=SLIPS + 4, name="It slips", rank="breakdown"))
    acting.make(WHO, GoLimp(at=FALLS, frames=LAST - FALLS, trunk=0.12, head=0.2, arms=0.1, legs=0.06))


def _body(acting: Acting, frame: int, height: float, aside: float, turn: float, back: float = 0.0) -> None:
    """The body over the rung it stands on, so far aside and back, metres; turned against the chest, degrees."""
    lean = {"body/ty": height + 0.85 - 0.975, "body/tz": 0.07 - back, "body/tx": aside}
    acting.pose(WHO, frame, lean | turns(
        body__rx=6, hips__ry=turn, hips__rz=turn * 0.5, chest__ry=-0.6 * turn, spine__rx=3, chest__rx=2, neck__rx=-10,
        head__rx=-14,
    ))  # fmt: skip


def _slips(acting: Acting) -> None:
    """The ladder goes over to his left: a jolt first, then ever faster, and it bounces once on the ground."""
    acting.pose(LADDER, SLIPS, {"master/rz": 0.0, "master/tx": 0.0})
    for frame, lean, aside, rise in ((SLIPS + 3, -2.5, 0.03, 0.0), (SLIPS + 12, -20.0, 0.12, 0.02),
                                     (SLIPS + 24, -86.0, 0.3, 0.23), (SLIPS + 28, -82.0, 0.31, 0.25),
                                     (SLIPS + 31, -86.0, 0.32, 0.23)):  # fmt: skip
        acting.pose(LADDER, frame, {"master/rz": radians(lean), "master/tx": aside, "master/ty": rise})
    acting.make(LADDER, SetWay(way="slow start", strength=0.8, keys={"master/rz": (SLIPS + 3, SLIPS + 12)}))


def _knows(acting: Acting, height: float) -> None:
    """He feels it go, looks where to, and reaches for what is not there."""
    _body(acting, SLIPS, height + 0.04, -0.02, turn=3.0)
    jolt = turns(body__rx=2, body__rz=-4, chest__rz=5, chest__rx=-6, neck__rx=2, head__rx=-6, head__ry=18)
    acting.pose(WHO, SLIPS + 4, jolt | {"body/ty": height - 0.06, "body/tx": 0.03, "body/tz": -0.03})
    acting.pose(WHO, SLIPS + 6, hands(10, 4, "R"))
    away = turns(body__rx=-12, body__rz=-9, chest__rz=8, chest__rx=-12, spine__rx=-4, neck__rx=10, head__rx=14,
                 head__ry=6)  # fmt: skip
    acting.pose(WHO, LETS_GO, away | {"body/ty": height - 0.13, "body/tx": 0.09, "body/tz": -0.16} | hands(8, 2))
    spot = acting.where(WHO, "chest", LETS_GO)[:3]
    out = (("L", np.array([0.42, 0.42, 0.26])), ("R", np.array([-0.46, 0.2, 0.3])))
    for side, way in out:
        sign = 1.0 if side == "L" else -1.0
        acting.hold_at(WHO, side, LETS_GO, spot + way, np.array([0.3 * sign, 0.5, 0.6]), np.array([0.0, -0.5, 0.6]))
    for side, at in (("L", np.array([0.06, -0.03, -0.03])), ("R", np.array([0.02, -0.10, -0.12]))):
        foot = acting.where(WHO, f"leg.{side}.goal", 20)[:3]
        acting.reach(WHO, f"leg.{side}.goal", LETS_GO, foot + at)


GIVES_WAY = ScenePlan("The ladder gives way", LAST, (WHO, LADDER), the_ladder_gives_way)
