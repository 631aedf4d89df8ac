"""Demo scenes of several who carry, climb and hand over, made with the same edits that people use."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from math import radians

import numpy as np

from hame.character.rig import Rig
from hame.character.skin import Skin
from hame.clip.clip import Clip
from hame.demo.acting import Acting
from hame.demo.shots import standing
from hame.edits.belongings import Belong
from hame.edits.labels import LabelPose
from hame.edits.plants import Planting, PlantLimbs
from hame.maths.rotations import Array

UP, AHEAD, LEFT = np.eye(3)[1], np.eye(3)[2], np.eye(3)[0]


def turns(**angles: float) -> dict[str, float]:
    """Angles in degrees by ``control__channel``."""
    return {name.replace("__", "/").replace("_", "."): radians(value) for name, value in angles.items()}


def hands(curl: float, thumb: float = 12.0, sides: str = "LR") -> dict[str, float]:
    """Fingers closed by so many degrees, a little more from index to little finger."""
    pose = {}
    for side in sides:
        for n, finger in enumerate(("index", "middle", "ring", "little")):
            pose[f"arm.{side}.{finger}/curl"] = radians(curl + 3.0 * n)
        pose[f"arm.{side}.thumb/curl"] = radians(thumb)
    return pose


def plant(acting: Acting, who: str, *plants: tuple[str, int, int]) -> None:
    wished = tuple(Planting(f"leg.{side}.goal", start, end) for side, start, end in plants)
    acting.make(who, PlantLimbs(plants=wished))


def named(acting: Acting, who: str, names: Mapping[int, str]) -> None:
    for frame, name in names.items():
        acting.make(who, LabelPose(frame=frame, name=name))


CAN = 0.43  # metres ahead of where he stands: how far away the can is
HANGING = np.array([0.285, 0.79, 0.06])  # where the palm of a hanging arm is
STEPS = 3
LONG = 0.34  # metres: with such a weight steps are short


def heavy_can(acting: Acting) -> None:
    """Brannoc stoops, takes a full can with both hands, heaves it up, carries it three steps and sets it down.

    Its weight is seen: it leaves the ground late and slowly, he leans away from it, steps short and quick, and is
    glad to be rid of it.
    """
    who, can = "Brannoc", "Oil can"
    number = acting.numbers[who]
    acting.pose(can, 1, {"master/tx": 0.0, "master/ty": 0.0, "master/tz": CAN, "master/ry": radians(90)})
    start, low, firm, heave, up = 1, 27, 33, 43, 53
    acting.pose(who, start, {"master/tx": 0.0, "master/tz": 0.0, "arm.L/ik": 1.0, "arm.R/ik": 1.0})
    ease = standing() | {"leg.L.goal/tx": 0.02, "leg.R.goal/tx": -0.02, "leg.R.goal/tz": 0.0,
                         "leg.L.goal/ry": radians(9),
                         "leg.R.goal/ry": radians(-9)}  # fmt: skip
    ease = {
        a: v for a, v in ease.items() if not a.startswith(("arm.L.upper", "arm.R.upper", "arm.L.lower", "arm.R.lower"))
    }
    upright = dict.fromkeys(("body/rx", "body/rz", "spine/rx", "hips/rx"), 0.0)
    ease = upright | ease
    acting.pose(who, start, ease | hands(20))
    for side, sign in (("L", 1.0), ("R", -1.0)):
        acting.hold_at(who, side, start, HANGING * [sign, 1, 1], -UP + 0.2 * AHEAD, -LEFT * sign)
    for side, sign in (("L", 1.0), ("R", -1.0)):
        acting.hold_at(who, side, 9, HANGING * [sign, 1, 1], -UP + 0.2 * AHEAD, -LEFT * sign)
    acting.pose(who, 9, ease | turns(head__rx=16, neck__rx=10))
    _feet(acting, who, start)
    # Down, over bent knees, the back kept long.
    stoop = {"body/ty": -0.46, "body/tz": -0.10, "body/tx": 0.0} | turns(
        body__rx=48, hips__rz=0, spine__rx=14, spine__rz=0, chest__rx=12, chest__rz=0, neck__rx=-20, head__rx=-10,
        head__rz=0,
    )  # fmt: skip
    acting.pose(
        who,
        18,
        {"body/ty": -0.17, "body/tz": -0.05} | turns(body__rx=16, spine__rx=10, chest__rx=8, neck__rx=6, head__rx=12),
    )
    for frame in (low, firm):
        acting.pose(who, frame, stoop)
    for side, sign in (("L", 1.0), ("R", -1.0)):
        acting.hold_at(who, side, 18, np.array([0.24 * sign, 0.62, 0.34]), AHEAD - 0.6 * UP, -LEFT * sign)
        acting.hold_at(who, side, low, np.array([0.125 * sign, 0.16, CAN]), AHEAD - 0.75 * UP, -LEFT * sign)
        acting.hold_at(who, side, firm, np.array([0.095 * sign, 0.15, CAN]), AHEAD - 0.75 * UP, -LEFT * sign)
    acting.pose(who, low, hands(8, 0))
    acting.pose(who, firm, hands(34, 20))
    # From here on the hands lead the can: it belongs to the right one, and the left one rests on it.
    end = 132
    acting.make(can, Belong(controls=("master",), figure=number, to="arm.R.goal", start=firm, end=117))
    acting.make(who, Belong(controls=("arm.L.goal",), figure=acting.numbers[can], to="master", start=firm, end=117))
    # It hangs on the ground yet: the body goes first, arms straighten, and only then it comes.
    acting.pose(
        who, 37, {"body/ty": -0.455, "body/tz": -0.10} | turns(body__rx=47, spine__rx=13, chest__rx=10, neck__rx=-24)
    )
    carried = _carried(acting, who, firm)
    for frame, height, ahead in ((37, 0.0, 0.0), (heave, 0.20, 0.0), (48, 0.55, -0.12), (up, 0.70, -0.20)):
        _carry(acting, who, frame, carried + np.array([0.0, height, ahead]))
    lean = {"body/ty": -0.075, "body/tz": -0.065} | turns(
        body__rx=-9, spine__rx=-5, chest__rx=-5, neck__rx=8, head__rx=6
    )
    acting.pose(
        who, heave, {"body/ty": -0.37, "body/tz": -0.10} | turns(body__rx=38, spine__rx=10, chest__rx=6, neck__rx=-18)
    )
    acting.pose(who, up, lean)
    acting.pose(who, 48, {"body/ty": -0.2, "body/tz": -0.10} | turns(body__rx=14, chest__rx=-2))
    # Three short steps, from foot to foot, the can swinging a little behind the body.
    begin, each = 58, 13
    stand = {side: acting.where(who, f"leg.{side}.goal", up) for side in "LR"}
    downs: dict[str, list[tuple[int, int]]] = {"L": [], "R": []}
    since = dict.fromkeys("LR", start)
    went = dict.fromkeys("LR", 0.0)
    hold = _carried(acting, who, up)
    for n, side in enumerate(("R", "L", "R")):
        lift, land = begin + n * each + 2, begin + (n + 1) * each - 2
        downs[side].append((since[side], lift))
        since[side] = land
        goal = LONG * (n + 1) if n < STEPS - 1 else LONG * STEPS - LONG / 2
        other = "L" if side == "R" else "R"
        sign = 1.0 if other == "L" else -1.0
        for frame, share, height in ((lift, 0.0, 0.0), ((lift + land) // 2, 0.55, 0.065), (land, 1.0, 0.0)):
            foot = stand[side][:3] + np.array([0.0, height, went[side] + share * (goal - went[side])])
            acting.reach(who, f"leg.{side}.goal", frame, foot)
        went[side] = goal
        body = LONG * (n + 0.5)
        # Over the bearing foot before the other lifts; down as it takes the weight.
        for frame, ahead, height, aside in (
            (lift, body - 0.30 * LONG, -0.085, 0.055 * sign),
            ((lift + land) // 2, body + 0.05 * LONG, -0.065, 0.06 * sign),
            (land + 2, body + 0.45 * LONG, -0.105, 0.012 * sign),
        ):
            acting.pose(
                who,
                frame,
                {"body/tz": lean["body/tz"] + ahead, "body/ty": height, "body/tx": aside}
                | turns(
                    body__rz=-2.5 * sign,
                    hips__rz=3.0 * sign,
                    chest__rz=1.5 * sign,
                    body__rx=-9,
                    spine__rx=-5,
                    chest__rx=-5,
                ),
            )
            _carry(acting, who, frame + 1, hold + np.array([0.35 * aside, height - lean["body/ty"], ahead]))
    ahead = LONG * STEPS - LONG / 2
    settle = begin + STEPS * each + 4
    acting.pose(who, settle, lean | {"body/tz": lean["body/tz"] + ahead, "body/tx": 0.0})
    _carry(acting, who, settle, hold + np.array([0.0, 0.0, ahead]))
    # Down again: slower than up, and the last hand's breadth falls.
    set_down = 114
    nearer = ahead - 0.05  # one foot is behind the other now: what bears him ends farther back than at the start
    far = np.array([0.0, 0.0, nearer])
    acting.pose(
        who,
        107,
        {"body/ty": -0.35, "body/tz": -0.12 + nearer}
        | turns(body__rx=35, spine__rx=4, chest__rx=0, neck__rx=4, head__rx=6),
    )
    _carry(acting, who, 107, carried + far + np.array([0.0, 0.33, -0.05]))
    for frame in (set_down, set_down + 3):
        acting.pose(who, frame, stoop | {"body/tz": -0.10 + nearer, "body/tx": 0.0})
        _carry(acting, who, frame, carried + far + 0.007 * UP)
    downs["L"].append((since["L"], end))
    downs["R"].append((since["R"], end))
    # The hands come away, and he stands, shaking out his shoulders.
    acting.pose(who, 121, hands(10, 2))
    for side, sign in (("L", 1.0), ("R", -1.0)):
        acting.hold_at(who, side, 121, np.array([0.17 * sign, 0.26, CAN - 0.03]) + far, AHEAD - 0.8 * UP, -LEFT * sign)
        acting.hold_at(who, side, 126, np.array([0.24 * sign, 0.52, 0.22]) + far, 0.4 * AHEAD - UP, -LEFT * sign)
        acting.hold_at(who, side, end, HANGING * [sign, 1, 1] + [0.0, 0.0, ahead], -UP + 0.2 * AHEAD, -LEFT * sign)
    acting.pose(
        who,
        126,
        {"body/ty": -0.25, "body/tz": -0.08 + nearer} | turns(body__rx=20, spine__rx=10, chest__rx=8, neck__rx=4),
    )
    acting.pose(
        who, end, {a: v for a, v in ease.items() if not a.startswith("leg")} | {"body/tz": ahead + 0.004} | hands(20)
    )
    for side, plants in downs.items():
        plant(acting, who, *((side, a, b) for a, b in plants))
    named(
        acting, who, {1: "At ease", 18: "Going down", 27: "Stoop", 33: "Grip", 43: "Heave", 53: "Up", 114: "Set down"}
    )


def _feet(acting: Acting, who: str, frame: int) -> None:
    """Feet level on the ground, a little apart."""
    for side, sign in (("L", 1.0), ("R", -1.0)):
        foot = acting.where(who, f"leg.{side}.goal", frame)
        acting.reach(who, f"leg.{side}.goal", frame, np.array([0.135 * sign, foot[1], 0.0]))


def _carried(acting: Acting, who: str, frame: int) -> Array:
    """Where the right hand is."""
    return np.asarray(acting.where(who, "arm.R.goal", frame)[:3])


def _carry(acting: Acting, who: str, frame: int, place: Array) -> None:
    """Brings the right hand, and with it what it carries, to a place, turned as it is."""
    acting.reach(who, "arm.R.goal", frame, place)


def passing_it_on(acting: Acting) -> None:
    """Brannoc holds the can out to Wick, who takes it, and finds it heavier than he thought."""
    keeper, boy, can = "Brannoc", "Wick", "Oil can"
    apart = 0.52
    for who, side in ((keeper, -1.0), (boy, 1.0)):
        acting.pose(who, 1, {"master/tx": side * apart, "master/tz": 0.0, "master/ry": radians(-90 * side)})
        ease = {a: v for a, v in standing().items() if not a.startswith(("arm.R.upper", "arm.R.lower"))}
        acting.pose(who, 1, ease | {"body/rx": 0.0, "spine/rx": 0.0, "body/tz": 0.0} | hands(22))
        acting.pose(who, 1, {"arm.R/ik": 1.0})
    # The can hangs from his right hand by its handle before anything begins.
    held = np.array([-apart + 0.06, 0.80, 0.29])
    give, taken, gone, end = 26, 38, 44, 72
    between = np.array([0.02, 1.02, 0.06])
    offset = np.array([0.0, -0.21, 0.0])

    # Seen from the left: he faces +X, so his right is +Z.
    def grip(frame: int, place: Array) -> None:
        acting.hold_at(keeper, "R", frame, place, LEFT - 0.7 * UP, -AHEAD)

    for frame in (1, 10):
        grip(frame, held)
    acting.pose(can, 1, {"master/tx": float(held[0] + 0.03), "master/ty": float((held + offset)[1]),
                         "master/tz": float(held[2]), "master/ry": radians(-90)})  # fmt: skip
    acting.pose(keeper, 1, hands(52, 30, "R"))
    for frame, place in ((give, between), (gone, between + 0.012 * UP)):
        grip(frame, place)
    grip(18, 0.55 * held + 0.45 * between - 0.05 * UP)
    # He reaches from the shoulder and leans in; the weight draws him over.
    reach = {"body/tz": 0.05, "body/tx": 0.03} | turns(
        body__rx=7, spine__rx=5, chest__ry=14, chest__rx=5, neck__rx=-3, head__rx=3
    )
    acting.pose(
        keeper, 10, turns(body__rx=0, spine__rx=0, chest__ry=0, chest__rx=2, head__rx=8, neck__rx=6) | {"body/tz": 0.0}
    )
    acting.pose(keeper, 15, turns(body__rx=-3, spine__rx=-1, chest__ry=-5))  # a little back before he gives
    for frame in (give, gone):
        acting.pose(keeper, frame, reach)
    acting.pose(
        keeper,
        end,
        turns(body__rx=-2, spine__rx=0, chest__ry=0, chest__rx=2, head__rx=-4, neck__rx=2)
        | {"body/tz": -0.02, "body/tx": 0.02},
    )
    acting.hold_at(keeper, "R", 58, np.array([-0.36, 0.82, 0.28]), -UP + 0.3 * LEFT, -AHEAD)
    acting.hold_at(keeper, "R", end, np.array([-apart + 0.04, 0.775, 0.30]), -UP + 0.15 * LEFT, -AHEAD)
    acting.pose(keeper, gone, hands(52, 30, "R"))
    acting.pose(keeper, gone + 5, hands(8, 2, "R"))
    acting.pose(keeper, end, hands(22, 12, "R"))
    # Wick's right is -Z; he sees it coming, reaches late, and takes it low on the handle's other side.
    low = np.array([apart - 0.05, 0.79, -0.27])
    meet = between + np.array([0.055, -0.035, -0.045])
    for frame, place, fingers in (
        (1, low, -UP - 0.15 * LEFT), (22, low, -UP - 0.15 * LEFT),
        (31, 0.5 * low + 0.5 * meet + 0.05 * UP, -LEFT - 0.3 * UP),
        (taken, meet, -LEFT - 0.15 * UP), (gone, meet + 0.012 * UP, -LEFT - 0.15 * UP),
        (49, meet + [0.12, -0.13, -0.03], -LEFT - 0.4 * UP),
        (58, meet + [0.26, -0.02, -0.08], -LEFT - 0.3 * UP), (end, meet + [0.27, -0.05, -0.09], -LEFT - 0.3 * UP),
    ):  # fmt: skip
        acting.hold_at(boy, "R", frame, np.asarray(place), fingers, UP + 0.5 * AHEAD)
    acting.pose(boy, 30, hands(6, 0, "R"))
    acting.pose(boy, taken, hands(50, 34, "R"))
    acting.pose(boy, 22, turns(body__rx=0, spine__rx=0, chest__ry=0, head__rx=0, neck__rx=4) | {"body/ty": -0.018})
    toward = turns(body__rx=6, spine__rx=4, chest__ry=16, head__rx=6, neck__rx=6)
    acting.pose(boy, taken, toward | {"body/tz": 0.03, "body/ty": -0.022})
    acting.pose(boy, gone, toward | {"body/tz": 0.03, "body/ty": -0.022})
    # It pulls him down and forward as it is let go; he catches himself and leans away from it.
    acting.pose(
        boy,
        49,
        turns(body__rx=11, spine__rx=8, chest__ry=14, head__rx=14, neck__rx=10) | {"body/ty": -0.075, "body/tz": 0.035},
    )
    acting.pose(
        boy,
        58,
        turns(body__rx=-7, spine__rx=-4, chest__ry=2, head__rx=2, neck__rx=4, body__rz=-3)
        | {"body/ty": -0.03, "body/tz": -0.02},
    )
    acting.pose(
        boy,
        end,
        turns(body__rx=-5, spine__rx=-3, chest__ry=0, head__rx=-6, neck__rx=0, body__rz=-2)
        | {"body/ty": -0.022, "body/tz": -0.015},
    )
    acting.make(
        can, Belong(controls=("master",), figure=acting.numbers[keeper], to="arm.R.goal", start=1, end=taken + 2)
    )
    acting.make(
        can, Belong(controls=("master",), figure=acting.numbers[boy], to="arm.R.goal", start=taken + 3, end=end)
    )
    for who in (keeper, boy):
        plant(acting, who, ("L", 1, end), ("R", 1, end))
    named(acting, keeper, {10: "Sees him", 26: "Gives", 44: "Lets go"})
    named(acting, boy, {38: "Takes it", 49: "Heavy!", 58: "Has it"})


@dataclass(frozen=True)
class ScenePlan:
    """A demo shot of several: who plays, how long, and what is made of it."""

    name: str
    last: int
    cast: tuple[str, ...]
    make: Callable[[Acting], None]


SCENES = (
    ScenePlan("The heavy can", 132, ("Brannoc", "Oil can"), heavy_can),
    ScenePlan("Passing it on", 72, ("Brannoc", "Wick", "Oil can"), passing_it_on),
)


def acted(
    plan: ScenePlan, rigs: Mapping[str, Rig], numbers: Mapping[str, int], skins: Mapping[str, Skin] | None = None
) -> dict[str, Clip]:
    """The clips of a scene by name, for a cast whose numbers are known; who falls in it needs a surface."""
    acting = Acting.of(rigs, numbers, plan.last, skins)
    plan.make(acting)
    return acting.clips()
