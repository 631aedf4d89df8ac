"""Round and over: Wick runs up, jumps off one foot, turns half round in the air, and lands with give."""

from __future__ import annotations

from dataclasses import replace
from math import radians

import numpy as np

from hame.demo.acting import Acting
from hame.demo.bollard import arms, feet, trunk
from hame.demo.pulled import rest_of_body
from hame.demo.scenes import UP, ScenePlan, hands, named, turns
from hame.demo.shots import RUN_A_FRAME, run, standing
from hame.edits.airturn import TurnInFlight
from hame.edits.answers import LayGive
from hame.edits.columns import DeleteColumns
from hame.edits.cycles import FreeCycle, RepeatCycle
from hame.edits.flights import Fly
from hame.edits.labels import LabelPose
from hame.edits.library import size_of
from hame.edits.meeting import MeetFlight
from hame.edits.plants import Planting, PlantLimbs
from hame.edits.through import LayCarryThrough
from hame.maths import rotations

WHO, CAMERA = "Wick", "Shot camera"
OFF, ON, LAST = 22, 36, 84  # frames: his last foot leaves the ground, both come to it
FAR = 1.6  # metres that his mass goes in the air


def round_and_over(acting: Acting) -> None:
    """Four steps of a run, and off the left foot; round by the swing of the right leg, and down backwards."""
    rig = acting.rig(WHO)
    number = acting.numbers[WHO]
    acting.figures[number] = acting.figures[number].with_clip(run(rig))
    each = RUN_A_FRAME * size_of(rig)
    acting.make(WHO, RepeatCycle(until=33, travel=16 * each))
    acting.make(WHO, FreeCycle())
    acting.make(WHO, DeleteColumns(frames=tuple(range(OFF + 1, 40))))
    clip = acting.clip(WHO)
    acting.figures[number] = acting.figures[number].with_clip(replace(clip, labels={}))
    start = float(acting.values(WHO, OFF)[rig.number("master/tz")])
    rest = {**standing(), **hands(20, 10), "arm.L/ik": 0.0, "arm.R/ik": 0.0}
    rest = rest | rest_of_body(rest)

    def at(frame: int, pose: dict[str, float], ahead: float, turned: float) -> None:
        place = {"master/tz": start + ahead, "master/ry": radians(turned), "master/tx": 0.0, "master/ty": 0.0}
        acting.pose(WHO, frame, {**rest, **pose, **place})

    # Up on the long leg, the other knee driven through and round; arms swing the way he turns.
    acting.pose(WHO, OFF, trunk(6, -4, -6) | {"master/ry": 0.0, "master/ty": 0.0, "master/tx": 0.0}
                | turns(chest__ry=14, body__ry=6))  # fmt: skip
    air = {"body/ty": 0.0, "body/tz": 0.0}
    at(26, air | trunk(10, 12, -10, 24) | feet(-0.1, 0.26, 40.0) | arms(64, -30, 44) | turns(chest__ry=22), 0.5, 40.0)
    at(30, air | trunk(16, 26, -14, 20) | feet(-0.02, 0.42, 26.0) | arms(30, -26, 76) | turns(chest__ry=8), 0.95, 108.0)
    at(33, air | trunk(12, 16, -8, 6) | feet(-0.12, 0.24, 8.0) | arms(40, -52, 40), 1.25, 152.0)
    # Both feet reach out behind what is his back's way, to brake.
    down = {"body/ty": -0.15, "body/tz": 0.17}
    at(ON, down | trunk(10, 14, -8) | feet(-0.16, 0.0, -4.0) | arms(58, -44, 26, 16), FAR, 180.0)
    deep = {"body/ty": -0.2, "body/tz": -0.02}
    at(40, deep | trunk(24, 30, -26) | feet(-0.16, 0.0, 0.0) | arms(44, -40, 34, -10), FAR, 180.0)
    for frame, tz in ((37, 0.105), (38, 0.05)):  # he comes on over his feet, ever slower
        acting.pose(WHO, frame, {"body/tz": tz})
    # What is left of the way goes into one step back.
    step = {"body/ty": -0.12, "body/tz": -0.16}
    at(46, step | trunk(14, 18, -14) | feet(-0.16, 0.0, 0.0) | arms(18, -36, 34), FAR, 180.0)
    for frame, tz, ty in ((42, -0.12, 0.0), (45, -0.3, 0.09), (47, -0.45, 0.045), (48, -0.48, 0.0)):
        acting.pose(WHO, frame, {"leg.R.goal/tz": tz - 0.04, "leg.R.goal/ty": ty})
    stays = {"leg.R.goal/tz": -0.52, "leg.R.goal/ty": 0.0}
    at(58, {"body/ty": -0.05, "body/tz": -0.3} | trunk(2, 2, 0) | feet(-0.16, 0.0, 0.0) | stays | arms(6, -32, 22),
       FAR, 180.0)  # fmt: skip
    at(LAST, {"body/ty": -0.045, "body/tz": -0.3} | trunk(2, 4, -2, 12) | feet(-0.16, 0.0, 0.0) | stays
       | arms(3, -33, 18), FAR, 180.0)  # fmt: skip
    # The land brings all that follows to where the flight ends; then it turns and takes off as it may.
    middle = (OFF + ON) // 2
    acting.make(WHO, Fly(at=middle, far=FAR))
    acting.make(WHO, TurnInFlight(at=middle))
    acting.make(WHO, MeetFlight(at=middle, side="before", frames=4))
    run_up = (Planting("leg.L.goal", 1, 6), Planting("leg.R.goal", 9, 14), Planting("leg.L.goal", 17, OFF - 1))
    landed = (Planting("leg.L.goal", ON, LAST), Planting("leg.R.goal", ON, 42), Planting("leg.R.goal", 48, LAST))
    acting.make(WHO, PlantLimbs(plants=(*run_up, *landed)))
    acting.make(WHO, LayGive(event=ON, drop=0.14, there=4, back=12, of="landing"))
    acting.make(WHO, LayCarryThrough(event=ON + 1, frames=20, late=1.0, overshoot=0.25, nod=radians(-7), of="landing"))
    named(acting, WHO, {1: "Runs", OFF: "Take-off", 30: "Round", ON: "Landing", 40: "Squash", 58: "Comes up"})
    acting.make(WHO, LabelPose(frame=30, name="Round", rank="breakdown"))
    aside = rotations.from_axis_angle(UP, radians(-90.0))
    for frame, z in ((1, 0.6), (20, 2.0), (40, 4.4), (LAST, 4.6)):
        acting.reach(CAMERA, "camera", frame, np.array([5.2, 1.0, z]), aside)
    acting.pose(CAMERA, 1, {"master/tx": 5.2, "camera/lens": 30.0})
    acting.reach(CAMERA, "camera", 1, np.array([5.2, 1.0, 0.6]), aside)


ROUND = ScenePlan("Round and over", LAST, (WHO, CAMERA), round_and_over)
