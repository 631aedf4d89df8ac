"""Round the gallery: Brannoc comes up its stair and walks round the lamp, brisk at first and tired at the end.

Wick runs in, jumps a coil of rope and lands beside him; Bosun trots behind, and the crab crosses sideways below."""

from __future__ import annotations

from math import radians

from hame.clip.going import plan_of
from hame.clip.way import ways_of
from hame.demo.acting import Acting
from hame.demo.props import DECK
from hame.demo.scenes import ScenePlan
from hame.edits.layers import AddLayer
from hame.edits.paces import KeyQuantity, WayTimes
from hame.edits.pose import SetPose
from hame.edits.wayside import LayWay, WayManner, WayPoint

KEEPER, BOY, DOG, CRAB = "Brannoc", "Wick", "Bosun", "Tide crab"
LAST = 500
LAMP = (0.0, 5.0)
ROUND = ((0.0, -0.9), (0.0, 0.6), (0.35, 2.2), (1.55, 3.6), (1.7, 5.4), (0.3, 6.7), (-1.3, 6.1), (-1.8, 4.6))
RUN = ((2.9, 7.9), (1.6, 7.75), (0.2, 7.9), (-1.4, 7.6), (-2.4, 6.6), (-2.65, 5.1), (-2.65, 3.4))
TROT = ((2.7, 1.75), (2.85, 3.2), (2.7, 5.2), (1.6, 6.7))
ACROSS = ((-2.6, -1.3), (0.0, -1.5), (2.7, -1.2))


def points(*places: tuple[float, float]) -> tuple[WayPoint, ...]:
    return tuple(WayPoint(x, z) for x, z in places)


def round_the_gallery(acting: Acting) -> None:
    """All by ways; what is of these people alone lies in layers and in how they go."""
    acting.pose("Lamp post", 1, {"master/tx": LAMP[0], "master/tz": LAMP[1], "master/ty": DECK})
    _brannoc(acting)
    _wick(acting)
    acting.make(DOG, LayWay(start=176, points=points(*TROT), here=False, level=DECK, speed=1.35, gait="trot"))
    acting.make(CRAB, LayWay(start=40, points=points(*ACROSS), here=False, speed=0.42))


def _brannoc(acting: Acting) -> None:
    """Up the stair, round the lamp, ever slower; a stand, and a turn back to where he came from."""
    acting.make(KEEPER, LayWay(start=1, points=points(*ROUND), here=False, lead=6))
    paces = ((1, 0.5), (80, 0.52), (136, 1.38), (170, 1.3), (245, 0.72), (310, 0.62))
    for frame, speed in paces:
        acting.make(KEEPER, KeyQuantity(name="speed", frame=frame, value=speed))
    for name, brisk, tired in (
        ("pitch", radians(5.0), radians(13.0)), ("head", radians(-3.0), radians(10.0)), ("swing", radians(26.0),
        radians(9.0)), ("lift", 0.03, 0.012), ("bounce", 0.5, 0.28), ("steady", 0.95, 0.7), ("width", 0.12, 0.19),
    ):  # fmt: skip
        acting.make(KEEPER, KeyQuantity(name=name, frame=110, value=brisk))
        acting.make(KEEPER, KeyQuantity(name=name, frame=225, value=tired))
    acting.make(KEEPER, WayManner(at=1, manner={"uneven": 0.04, "hands": radians(26.0), "arms_out": radians(7.0)}))
    end = ways_of(acting.clip(KEEPER))[0].end
    acting.make(KEEPER, LayWay(start=end + 8, turn=radians(-120.0)))
    # On the way he looks up at the lamp: over the walk, in a layer.
    acting.make(KEEPER, AddLayer(name="Looks at the lamp", controls=("head", "neck"), turned=True))
    for frame, turn, nod in ((112, 0.0, 0.0), (132, 34.0, -14.0), (176, 40.0, -16.0), (200, 0.0, 0.0)):
        values = {"head/ry": acting.value(KEEPER, "head/ry", frame) + radians(turn),
                  "head/rx": acting.value(KEEPER, "head/rx", frame) + radians(nod)}  # fmt: skip
        acting.make(KEEPER, SetPose(frame=frame, values=values, keying="changed", layer=1))


def _wick(acting: Acting) -> None:
    """A run that begins late, a jump over the coil of rope, and a stand beside the keeper."""
    acting.make(BOY, LayWay(start=196, points=points(*RUN), here=False, level=DECK, lead=12))
    for frame, speed in ((196, 2.5), (250, 2.7)):
        acting.make(BOY, KeyQuantity(name="speed", frame=frame, value=speed))
    way = ways_of(acting.clip(BOY))[0]
    plan = plan_of(acting.rig(BOY), acting.clip(BOY), way)
    before = next(one for one in plan.found if one.number > 0 and one.place[1] < 5.5 and one.place[0] < -2.0)
    acting.make(BOY, WayTimes(frame=before.first, on=6, air=10, together=True))
    for frame, lift in ((before.first - 24, 0.17), (before.first, 0.21)):  # his feet clear the rope
        acting.make(BOY, KeyQuantity(name="lift", frame=frame, value=lift))
    jump = plan_of(acting.rig(BOY), acting.clip(BOY), ways_of(acting.clip(BOY))[0])
    lands = [one for one in jump.found if one.first >= before.first and one.number > before.number]
    middle = 0.5 * (before.place[1] + lands[0].place[1])
    acting.pose("Coil of rope", 1, {"master/tx": RUN[-1][0], "master/tz": middle, "master/ty": DECK})


GALLERY = ScenePlan(
    "Round the gallery", LAST, (KEEPER, BOY, DOG, CRAB, "Gallery", "Lamp post", "Coil of rope"), round_the_gallery
)
