"""Something in the fog: the keeper at the rail sees a light, and starts back; Wick wakes on a coil of rope by stages.

Eyes, head and chest follow what moves, faces go part by part, what hangs swings, and a brittle star walks over a stone.
"""

from __future__ import annotations

from math import pi, radians, sin

from hame.demo.acting import Acting
from hame.demo.brittle_star import ARMS
from hame.demo.expressions import face_values
from hame.demo.scenes import ScenePlan
from hame.demo.shots import standing
from hame.edits.blinks import LayBlink
from hame.edits.edit import Edit
from hame.edits.gazes import Look
from hame.edits.overlap import DelayParts, Trail
from hame.edits.plants import Planting, PlantLimbs
from hame.edits.pose import SetPose
from hame.edits.springs import LaySpring

KEEPER, BOY, DOG, STAR, LIGHT = "Brannoc", "Wick", "Bosun", "Brittle star", "Signal lamp"
LAST = 144
SEEN, STARTS = 26, 46  # frames: the light comes out of the fog, and he starts back
_AT = {BOY: (-1.25, -0.35), DOG: (1.15, -0.3), STAR: (0.55, 0.95)}
_CLOTH = {"period": 14.0, "period_tip": 10.0, "rests": 14.0, "rests_tip": 10.0}
_STIFF = {"period": 8.0, "period_tip": 8.0, "rests": 8.0, "rests_tip": 8.0, "weight": 0.0, "limit": radians(20.0)}


def something_in_the_fog(acting: Acting) -> None:
    acting.pose("Rail", 1, {"master/tz": 0.62})
    for frame, x in ((1, 2.6), (SEEN, 2.4), (80, 0.2), (LAST, -2.2)):
        acting.pose(LIGHT, frame, {"master/tx": x, "master/ty": 1.1 + 0.1 * sin(frame / 18.0), "master/tz": 3.4})
    acting.pose("Coil of rope", 1, {"master/tx": _AT[BOY][0], "master/tz": _AT[BOY][1]})
    acting.pose("Step", 1, {"master/tx": _AT[STAR][0] + 0.16, "master/tz": _AT[STAR][1], "master/s": 0.22})
    _keeper(acting)
    _boy(acting)
    _dog(acting)
    _star(acting)


def _faces(acting: Acting, who: str, events: dict[int, list[tuple[str, float]]]) -> None:
    """A face at each event, its parts one after the other: lids, brows, the mouth, the jaw last."""
    rig = acting.rig(who)
    for frame, parts in events.items():
        acting.make(who, SetPose(frame=frame, values=face_values(rig, *parts), what="Face"))
    of = {control.name: control.name.split(".")[0] for control in rig.controls if control.part == "face"}
    chain = [
        Trail(names, late)
        for stems, late in ((("lid",), -2), (("brow",), -1), (("corner", "lip"), 1), (("jaw",), 2))
        if (names := tuple(name for name, stem in of.items() if stem in stems))
    ]
    if chain:
        acting.make(who, DelayParts(first=min(events) + 1, chain=tuple(chain)))


def _springs(acting: Acting, who: str, cloth: tuple[str, ...], stiff: tuple[str, ...]) -> None:
    rig = acting.rig(who)
    for names, how in ((cloth, _CLOTH), (stiff, _STIFF)):
        mine = tuple(name for name in names if rig.has_control(name))
        if mine:
            acting.make(who, LaySpring(controls=mine, start=1, end=LAST, **how))  # type: ignore[arg-type]


def _looks(acting: Acting, who: str, *looks: Edit) -> None:
    for look in looks:
        acting.make(who, look)


def _keeper(acting: Acting) -> None:
    """He leans on the rail, sees it, squints, and starts back with both hands before him."""
    leaning = {**standing(), "body/tz": 0.05, "spine/rx": radians(7), "chest/rx": radians(6), "neck/rx": radians(4)}
    acting.pose(KEEPER, 1, leaning)
    acting.pose(KEEPER, SEEN - 4, leaning)
    nearer = {"body/tz": 0.085, "spine/rx": radians(12), "chest/rx": radians(10), "neck/rx": radians(8)}
    acting.pose(KEEPER, 40, {**leaning, **nearer})
    down = {"body/ty": -0.075, "body/tz": 0.07, "spine/rx": radians(15)}
    acting.pose(KEEPER, STARTS, {**leaning, **nearer, **down})
    back = {
        "body/ty": -0.045, "body/tz": -0.13, "spine/rx": radians(-9), "chest/rx": radians(-11), "neck/rx": radians(-6),
        **{f"arm.{s}.upper/rx": radians(-38) for s in "LR"}, **{f"arm.{s}.lower/rx": radians(62) for s in "LR"},
        **{f"arm.{s}.hand/rx": radians(-28) for s in "LR"},
    }  # fmt: skip
    acting.pose(KEEPER, STARTS + 6, {**leaning, **back})
    held = {**back, "body/tz": -0.115, "body/ty": -0.04, "spine/rx": radians(-7)}
    acting.pose(KEEPER, 78, {**leaning, **held})
    calmer = {"body/tz": -0.04, "spine/rx": radians(2), "chest/rx": radians(2)}
    acting.pose(KEEPER, 112, {**leaning, **calmer})
    acting.pose(KEEPER, LAST, {**leaning, **calmer, "body/tz": -0.03})
    acting.make(KEEPER, PlantLimbs(plants=(Planting("leg.L.goal", 1, LAST), Planting("leg.R.goal", 1, LAST))))
    _looks(
        acting, KEEPER, Look(start=SEEN, end=LAST, figure=acting.numbers[LIGHT], to="master", y=0.5, lead=3, ease_in=7),
    )  # fmt: skip
    _faces(acting, KEEPER, {
        1: [], SEEN: [], 32: [("Squinting", 0.8)], 42: [("Squinting", 1.0)],
        STARTS: [("Eyes shut", 1.0), ("Worried", 0.4)],
        STARTS + 5: [("Surprised", 1.0)], 74: [("Surprised", 0.85)], 96: [("Worried", 0.7)], 128: [("Squinting", 0.6)],
    })  # fmt: skip
    for start in (SEEN + 3, 88, 121):
        acting.make(KEEPER, LayBlink(start=start, frames=3))
    _springs(acting, KEEPER, (), ("beard", "cap", "coat_front_l", "coat_front_r", "coat_back_l", "coat_back_r"))


def _boy(acting: Acting) -> None:
    """He sleeps sitting on the coil, nods, blinks, and at last sees it too."""
    x, z = _AT[BOY]
    sits = {
        **standing(), "master/tx": x, "master/tz": z, "master/ry": radians(24), "body/ty": -0.6, "body/tx": 0.0,
        "body/tz": -0.1, "hips/rz": 0.0, **{f"leg.{s}.goal/tz": 0.34 for s in "LR"},
        "leg.L.goal/tx": 0.06, "leg.R.goal/tx": -0.06, "spine/rx": radians(16), "chest/rx": radians(14),
        **{f"arm.{s}.upper/rx": radians(-32) for s in "LR"}, **{f"arm.{s}.lower/rx": radians(48) for s in "LR"},
    }  # fmt: skip
    asleep = {**sits, "neck/rx": radians(24), "head/rx": radians(20), "head/rz": radians(10)}
    stages = (
        (1, 0.0, 0.0), (28, 0.08, 0.0), (52, 0.0, 0.0), (58, 0.55, 0.25), (70, 0.3, 0.2), (80, 0.9, 0.5),
        (92, 1.0, 1.0), (LAST, 1.0, 1.0),
    )  # fmt: skip
    awake = {
        "neck/rx": radians(2),
        "head/rx": radians(-2),
        "head/rz": 0.0,
        "spine/rx": radians(6),
        "chest/rx": radians(3),
    }
    for frame, head, trunk in stages:
        values = dict(asleep)
        for address, value in awake.items():
            share = trunk if address.startswith(("spine", "chest")) else head
            values[address] = asleep[address] + share * (value - asleep[address])
        acting.pose(BOY, frame, values)
    acting.make(BOY, PlantLimbs(plants=(Planting("leg.L.goal", 1, LAST), Planting("leg.R.goal", 1, LAST))))
    _faces(acting, BOY, {
        1: [("Eyes shut", 1.0)], 55: [("Eyes shut", 1.0)], 60: [("Eyes shut", 0.55)], 70: [("Eyes shut", 0.95)],
        80: [("Squinting", 0.8)], 90: [("Worried", 0.5)], 104: [("Worried", 0.3)], 110: [("Surprised", 0.9)],
        134: [("Surprised", 0.7)],
    })  # fmt: skip
    _looks(
        acting, BOY, Look(start=80, end=101, figure=acting.numbers[KEEPER], to="head", lead=2),
        Look(start=102, end=LAST, figure=acting.numbers[LIGHT], to="master", y=0.5, lead=3),
    )  # fmt: skip
    acting.make(BOY, LayBlink(start=84, frames=4))
    acting.make(BOY, LayBlink(start=103, frames=3))
    _springs(acting, BOY, ("chain.scarf",), ("cap",))


def _dog(acting: Acting) -> None:
    """Bosun hears it before he sees it: his head goes up, his tail stops, and wags again."""
    x, z = _AT[DOG]
    acting.pose(DOG, 1, {"master/tx": x, "master/tz": z, "master/ry": radians(-18), "neck/rx": 0.25, "head/rx": 0.15})
    acting.pose(DOG, 44, {"neck/rx": 0.25, "head/rx": 0.15})
    acting.pose(DOG, 52, {"neck/rx": -0.2, "head/rx": -0.1, "body/ty": -0.015})
    acting.pose(DOG, 60, {"neck/rx": -0.12, "head/rx": -0.05, "body/ty": 0.0})
    for frame in range(1, 45, 6):
        acting.pose(DOG, frame, {"chain.tail/side": 0.5 * sin(pi * (frame - 1) / 6.0 + pi / 2.0)})
    acting.pose(DOG, 52, {"chain.tail/side": 0.0, "chain.tail/bend": 0.5})
    for frame in range(96, LAST, 6):
        acting.pose(DOG, frame, {"chain.tail/side": 0.45 * sin(pi * (frame - 96) / 6.0 + pi / 2.0)})
    feet = [limb.ik for limb in acting.rig(DOG).limbs if limb.kind == "leg"]
    acting.make(DOG, PlantLimbs(plants=tuple(Planting(ik, 1, LAST) for ik in feet)))
    _looks(acting, DOG, Look(start=50, end=LAST, figure=acting.numbers[LIGHT], to="master", y=0.5, lead=2))
    _springs(acting, DOG, ("chain.tail",), ("flap_l", "flap_r"))


def _star(acting: Acting) -> None:
    """It walks over a stone: four tips are planted while the fifth is put on, one arm after the other, and the body is
    drawn after them."""
    x, z = _AT[STAR]
    arms = [f"chain.arm{n + 1}" for n in range(ARMS)]
    begin = {"master/tx": x, "master/tz": z, **{f"{arm}/ik": 1.0 for arm in arms}}
    acting.pose(STAR, 1, begin)
    step, order = 0.045, (3, 4, 0, 2, 1)  # those behind come up first, so that no arm is too short
    held = {f"{arm}.tip": 1 for arm in arms}
    plants = []
    for round_ in range(2):
        for n, arm in enumerate(order):
            name, start = f"{arms[arm]}.tip", 10 + round_ * 62 + 11 * n
            on, up = step * (round_ + 1), 0.0 if arm not in (1, 2) or round_ == 0 else 0.03
            before = {"tx": step * round_, "ty": 0.0}
            plants.append(Planting(name, held[name], start))
            held[name] = start + 10
            keys: list[tuple[int, dict[str, float]]] = [
                (start, before),
                (start + 5, {"tx": 0.5 * (on + step * round_), "ty": 0.055}),
                (start + 10, {"tx": on, "ty": up}),
            ]
            for frame, values in keys:
                acting.pose(STAR, frame, {f"{name}/{axis}": value for axis, value in values.items()})
    for frame, far, high in (
        (1, 0.0, 0.0),
        (12, 0.0, 0.004),
        (60, step, 0.008),
        (74, step, 0.01),
        (122, 2.0 * step, 0.03),
        (LAST, 2.0 * step, 0.028),
    ):
        acting.pose(STAR, frame, {"body/tx": far, "body/ty": high})
    plants += [Planting(name, first, LAST) for name, first in held.items()]
    acting.make(STAR, PlantLimbs(plants=tuple(plants)))


FOG = ScenePlan(
    "Something in the fog", LAST, (KEEPER, BOY, DOG, STAR, "Rail", LIGHT, "Coil of rope", "Step"), something_in_the_fog
)
