"""Demo scenes of bodies that follow: a reach on tiptoe, a crab of three and three, a stumble that is caught."""

from __future__ import annotations

from math import radians

import numpy as np

from hame.demo.acting import Acting
from hame.demo.props import LAMP_HOOK, RAIL
from hame.demo.scenes import AHEAD, LEFT, UP, ScenePlan, hands, named, plant, turns
from hame.demo.shots import standing
from hame.edits.plants import Planting, PlantLimbs
from hame.solve.wishes import Leanings

_LAMP = 0.33  # metres: how far ahead of him the lamp hangs


def reaching_for_the_lamp(acting: Acting) -> None:
    """Brannoc holds on to the rail, looks up at the lamp, rises on his toes and just gets a finger to it."""
    who = "Brannoc"
    acting.pose("Rail", 1, {"master/tx": -0.585, "master/tz": 0.16, "master/ry": radians(90)})
    acting.pose("Lamp post", 1, {"master/tx": 0.58, "master/tz": _LAMP, "master/ry": radians(-90)})
    right = {"arm.R/ik": 1.0, "arm.L/ik": 0.0}
    rest = {**standing(), **right, **hands(22, 12, "L"), **hands(50, 30, "R")}
    for frame in (1, 10):
        acting.pose(who, frame, rest | rest_of_body(rest))
        acting.hold_at(who, "R", frame, np.array([-0.585, RAIL + 0.005, 0.2]), AHEAD - 0.4 * LEFT, -UP)
    # Eyes and head first, then the hand begins, and the body comes along.
    look = turns(head__rx=-24, neck__rx=-12, chest__rx=-5)
    acting.pose(who, 10, turns(head__rx=-6))
    acting.pose(who, 18, look)
    goal = np.array([0.13, LAMP_HOOK - 0.36, _LAMP - 0.02])
    for frame, high, out in ((18, 0.0, -0.18), (26, 0.12, 0.0), (38, 1.0, 0.0), (46, 1.0, 0.02), (50, 1.0, 0.0)):
        foot = {"roll": radians(38.0 * high), "break": radians(60.0)}
        acting.pose(who, frame, {f"leg.{s}.goal/{name}": v for s in "LR" for name, v in foot.items()})
        acting.pose(who, frame, {**hands(8 if frame > 18 else 16, 6, "L"), **rest_of_body(rest)})
        acting.pose(who, frame, look)
        acting.hold_at(who, "R", frame, np.array([-0.585, RAIL + 0.005, 0.2]), AHEAD - 0.4 * LEFT, -UP)
        if frame > 18:  # over the balls of his feet
            acting.pull(
                who, frame, {"body": 0.055 * high * UP + 0.16 * AHEAD}, ("leg.L.foot", "leg.R.foot", "arm.R.hand")
            )
        held = ("leg.L.foot", "leg.R.foot", "arm.R.hand", *(("body",) if frame > 18 else ()))
        at = goal + out * UP - (0.25 * UP + 0.2 * AHEAD if frame == 18 else 0.0) - (0.07 * UP if frame == 26 else 0.0)
        acting.pull(
            who, frame, {"arm.L.hand": at}, held, firm=("head",), offset=False,
            leanings=Leanings(spine=0.55, shoulders=0.7, balance=1.0, knees=0.1),
        )  # fmt: skip
    # Down again: the heels first, the arm sinks last.
    acting.pose(who, 60, {**rest_of_body(rest), **turns(head__rx=4, chest__rx=3, **{"arm_L_upper__rx": 12.0})})
    acting.hold_at(who, "R", 60, np.array([-0.585, RAIL + 0.005, 0.2]), AHEAD - 0.4 * LEFT, -UP)
    acting.pose(who, 70, {**rest_of_body(rest), **turns(head__rx=8)})
    acting.hold_at(who, "R", 70, np.array([-0.585, RAIL + 0.005, 0.2]), AHEAD - 0.4 * LEFT, -UP)
    for frame in (60, 70):
        acting.pose(who, frame, {f"leg.{s}.goal/{name}": 0.0 for s in "LR" for name in ("roll",)})
    for frame, swing in ((46, 0.0), (52, 7.0), (60, -5.0), (68, 3.0)):
        acting.pose("Lamp post", frame, {"lamp/rx": radians(swing)})
    plant(acting, who, ("L", 1, 70), ("R", 1, 70))
    acting.make(who, PlantLimbs(plants=(Planting("arm.R.goal", 1, 70),)))
    named(acting, who, {1: "At the rail", 18: "Looks up", 38: "On his toes", 60: "Down"})


def rest_of_body(pose: dict[str, float]) -> dict[str, float]:
    """Trunk and arms as they were, from which a reach counts."""
    kept = ("body/", "hips/", "spine", "chest/", "neck/", "head/", "arm.")
    own = {a: v for a, v in pose.items() if a.startswith(kept)}
    trunk = ("body", "hips", "spine", "spine.2", "chest", "neck", "head")
    arms = [f"arm.{side}.{part}" for side in "LR" for part in ("collar", "hand")]
    zeros = {f"{c}/r{axis}": 0.0 for c in (*trunk, *arms) for axis in "xyz"}
    return zeros | {f"body/t{axis}": 0.0 for axis in "xyz"} | own


_TRIPODS = (("leg.L", "leg2.R", "leg3.L"), ("leg.R", "leg2.L", "leg3.R"))
_STEP, _HIGH, _PACE = 0.13, 0.055, 7


def crab_on_the_slip(acting: Acting) -> None:
    """The tide crab goes sideways over the slip, three legs and three, stops, and shows its claws."""
    who = "Tide crab"
    rig = acting.rig(who)
    legs = [limb.name for limb in rig.limbs if limb.kind == "leg"]
    zero = {f"{c}/{n}": 0.0 for c in ("body",) for n in ("tx", "ty", "tz", "rx", "ry", "rz")}
    start = -3 * _STEP
    home = {leg: acting.where(who, f"{leg}.goal", 1)[:3] for leg in legs}
    acting.pose(who, 1, {**zero, "body/tx": start})
    at = {leg: home[leg] + start * LEFT for leg in legs}
    since = dict.fromkeys(legs, 1)
    for leg in legs:
        acting.reach(who, f"{leg}.goal", 1, at[leg])
    plants: list[tuple[str, int, int]] = []
    frame, steps = 9, 8
    for n in range(steps):
        way = _STEP if n in (0, steps - 1) else 2 * _STEP
        moving = _TRIPODS[n % 2]
        for leg in moving:
            plants.append((leg, since[leg], frame))
            to = at[leg] + way * LEFT
            acting.reach(who, f"{leg}.goal", frame, at[leg])
            acting.reach(who, f"{leg}.goal", frame + _PACE // 2, 0.5 * (at[leg] + to) + _HIGH * UP)
            acting.reach(who, f"{leg}.goal", frame + _PACE, to)
            at[leg], since[leg] = to, frame + _PACE
        middle = np.mean([at[leg] - home[leg] for leg in legs], axis=0)
        sway = 1.0 if n % 2 else -1.0
        acting.pose(who, frame, {"body/ty": -0.012, "body/rz": radians(-1.5 * sway), "body/ry": radians(2.0 * sway)})
        acting.pose(who, frame + _PACE // 2, {"body/ty": 0.01, "body/rz": radians(1.5 * sway)})
        acting.pose(who, frame + _PACE, {"body/tx": float(middle[0]), "body/ty": -0.012})
        frame += _PACE
    acting.pose(who, 9, {"body/tx": start})
    end = acting.last
    plants += [(leg, since[leg], end) for leg in legs]
    for leg, first, stop in plants:
        acting.make(who, PlantLimbs(plants=(Planting(f"{leg}.goal", first, stop),)))
    # The eyes go before it, and it shows what it has.
    for f, look in ((1, 0), (5, 14), (frame - 6, 14), (frame, -4), (frame + 6, 0)):
        acting.pose(who, f, {"eye.L/rz": 0.0, "eye.L/ry": radians(look), "eye.R/ry": radians(look)})
    up = frame + 8
    acting.pose(who, up, {"body/ty": -0.05, "body/rx": radians(4)})
    acting.pose(who, up - 5, {})
    for f, rise in ((up - 5, 0.0), (up, -0.03), (up + 6, 0.2), (up + 14, 0.19), (up + 17, 0.21), (up + 22, 0.19)):
        for side in "LR":
            acting.pose(who, f, {f"arm.{side}.thumb/curl": radians(24.0 if rise in (0.2, 0.21) else 4.0)})
            for part in ("upper", "lower", "hand"):
                acting.pose(who, f, {f"arm.{side}.{part}/r{axis}": 0.0 for axis in "xyz"})
        if rise:
            acting.pose(who, f, {**zero, "body/tx": float(middle[0])})
            sides = (("L", 1.0), ("R", -1.0))
            acting.pull(who, f, {f"arm.{s}.hand": rise * UP + sign * 0.4 * rise * LEFT for s, sign in sides}, ())
    named(acting, who, {1: "Still", 9: "Off", frame: "There", up + 6: "Claws"})


def wick_off_balance(acting: Acting) -> None:
    """Wick leans to look over the rail, leans too far, throws his arms up and catches himself with a step."""
    who = "Wick"
    acting.pose("Rail", 1, {"master/tz": 0.56})
    rest = {**standing(), **hands(20, 10), "arm.L/ik": 0.0, "arm.R/ik": 0.0}
    feet = ("leg.L.foot", "leg.R.foot")
    rest = rest | rest_of_body(rest)
    acting.pose(who, 1, rest)
    acting.pose(who, 10, {**rest, **turns(head__rx=10)})
    free = Leanings(balance=0.0, knees=0.6)
    for frame, way in ((22, (0.0, -0.12, 0.24)), (32, (0.0, -0.2, 0.36)), (36, (0.02, -0.24, 0.44))):
        acting.pose(who, frame, rest)
        acting.pull(who, frame, {"chest": np.array(way)}, feet, leanings=free)
    acting.pose(who, 36, turns(head__rx=-8, neck__rx=-6))
    # Too far: the arms fly back and up, the body after them, and one foot has to go.
    acting.pose(who, 41, rest)
    acting.pull(who, 41, {"chest": np.array([0.05, -0.05, -0.12])}, feet, leanings=free)
    acting.pull(who, 41, {"arm.L.hand": np.array([0.3, 0.75, 0.25]), "arm.R.hand": np.array([-0.3, 0.55, 0.4])}, feet,
                leanings=free)  # fmt: skip
    back = np.array([0.06, 0.0, -0.36])
    foot = acting.where(who, "leg.L.goal", 41)[:3]
    acting.reach(who, "leg.L.goal", 41, foot)
    acting.reach(who, "leg.L.goal", 45, foot + 0.5 * back + 0.1 * UP)
    acting.reach(who, "leg.L.goal", 48, foot + back)
    # Planted before the body is brought over them: a foot that does not reach its plant yet is to come to it.
    plant(acting, who, ("R", 1, 78), ("L", 1, 41), ("L", 48, 78))
    ways = (
        (48, (0.02, -0.1, -0.16), (0.0, -0.02, -0.1)), (54, (0.03, -0.16, -0.2), (0.0, -0.12, 0.14)),
        (66, (0.02, -0.06, -0.17), (0.0, -0.02, 0.04)), (78, (0.02, -0.05, -0.17), (0.0, 0.0, 0.0)),
    )  # fmt: skip
    for frame, hips, chest in ways:
        acting.pose(who, frame, {a: v for a, v in rest.items() if not a.startswith("leg.")})
        acting.pull(who, frame, {"body": np.array(hips)}, feet, leanings=free)
        acting.pull(who, frame, {"chest": np.array(chest)}, (*feet, "body"), leanings=free)
    arms = {"arm.L.hand": np.array([0.34, 0.5, 0.1]), "arm.R.hand": np.array([-0.3, 0.62, 0.15])}
    acting.pull(who, 48, arms, (*feet, "body"), leanings=free)
    acting.pull(who, 54, {name: 0.5 * way for name, way in arms.items()}, (*feet, "body"), leanings=free)
    acting.pose(who, 66, turns(head__rx=12))
    acting.pose(who, 78, turns(head__rx=6, head__ry=14))
    named(acting, who, {1: "Curious", 32: "Leans over", 36: "Too far", 41: "Arms", 48: "Caught", 66: "Phew"})


PULLED = (
    ScenePlan("Reaching for the lamp", 70, ("Brannoc", "Rail", "Lamp post"), reaching_for_the_lamp),
    ScenePlan("Crab on the slip", 104, ("Tide crab",), crab_on_the_slip),
    ScenePlan("Wick off balance", 78, ("Wick", "Rail"), wick_off_balance),
)
