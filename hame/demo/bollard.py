"""Over the bollard: Wick jumps. Anticipation, stretched take-off, a hang at the top, squash on landing, settle."""

from __future__ import annotations

from math import radians

import numpy as np

from hame.demo.acting import Acting
from hame.demo.pulled import rest_of_body
from hame.demo.scenes import UP, ScenePlan, hands, named, plant, turns
from hame.demo.shots import standing
from hame.edits.airturn import TurnInFlight
from hame.edits.flights import Fly
from hame.edits.graph import DragHandle
from hame.edits.keys import DeleteKeys
from hame.edits.labels import LabelPose
from hame.edits.meeting import MeetFlight
from hame.edits.overlap import DelayParts, Trail
from hame.edits.ways import SetWay
from hame.maths import rotations

WHO = "Wick"
FAR = 1.5  # metres from where he stands to where he lands
OFF, ON = 24, 36  # frames: the feet leave the ground, and come to it
GRAVITY, FPS = 9.80665, 24.0  # standard gravity, 3rd CGPM, 1901

Pose = dict[str, float]


def both_sides(**angles: float) -> Pose:
    """The same angles on both sides; ``X`` stands for the side."""
    return {a.replace("X", side): v for side in "LR" for a, v in turns(**angles).items()}


def feet(tz: float, ty: float, roll: float, apart: float = 0.05, toe: float = 0.0) -> Pose:
    pose: Pose = {}
    for side, sign in (("L", 1.0), ("R", -1.0)):
        goal = f"leg.{side}.goal"
        # One foot is a little ahead of the other: no jump is twinned.
        ahead = 0.04 * sign
        pose |= {f"{goal}/tx": 0.02 * sign + sign * (apart - 0.05), f"{goal}/ty": ty, f"{goal}/tz": tz + ahead}
        pose |= {f"{goal}/rx": 0.0, f"{goal}/rz": 0.0, f"{goal}/bank": 0.0, **turns(**{f"leg_{side}_toe__rx": toe})}
        pose |= turns(
            **{f"leg_{side}_goal__ry": 10.0 * sign, f"leg_{side}_goal__roll": roll, f"leg_{side}_goal__break": 74.0}
        )
    return pose


def trunk(lean: float, bend: float, nod: float, look: float = 0.0) -> Pose:
    """Body leaned, spine bent, head turned against both, so that he looks ahead; degrees."""
    return turns(
        body__rx=lean, spine__rx=0.3 * bend, spine_2__rx=0.35 * bend, chest__rx=0.35 * bend, neck__rx=0.4 * nod,
        head__rx=0.6 * nod, head__ry=look, hips__rx=-0.15 * bend,
    )  # fmt: skip


def arms(swing: float, out: float, bend: float, wrist: float = 0.0) -> Pose:
    return both_sides(arm_X_upper__rx=swing, arm_X_upper__rz=out, arm_X_lower__rx=bend, arm_X_hand__rx=wrist)


def over_the_bollard(acting: Acting) -> None:
    """A jump over what ships are made fast to, with the arms swung and the feet drawn up."""
    # A low one, a little ahead of the middle: his toes trail as he goes over it.
    acting.pose("Bollard", 1, {"master/tz": 0.5 * FAR + 0.06, "master/s": 0.85})
    rest = {**standing(), **hands(20, 10), "arm.L/ik": 0.0, "arm.R/ik": 0.0}
    rest = rest | rest_of_body(rest)
    ground = FAR
    poses: list[tuple[int, str, Pose]] = [
        (1, "Ready", {**feet(0.0, 0.0, 0.0), "body/ty": -0.02, **trunk(2, 3, -2), **arms(4, -32, 18)}),
        (8, "Sees it", {**feet(0.0, 0.0, 0.0), "body/ty": -0.03, "body/tz": 0.01, **trunk(5, 8, 8),
                        **arms(8, -31, 26)}),
        (14, "Anticipation", {**feet(0.0, 0.0, 0.0), "body/ty": -0.26, "body/tz": -0.03, **trunk(26, 34, -34),
                              **arms(-62, -30, 22, -12), **hands(48, 20)}),
        (17, "Lower", {**feet(0.0, 0.0, 2.0), "body/ty": -0.3, "body/tz": 0.02, **trunk(30, 36, -36),
                       **arms(-48, -28, 16, -18), **hands(52, 20)}),
        (OFF, "Take-off", {**feet(0.0, 0.0, 68.0, toe=-4), "body/ty": 0.04, "body/tz": 0.32, **trunk(20, 0, -18),
                           **arms(134, -20, 14, 16), **hands(14, 6)}),
        (30, "Hang", {**feet(0.5 * FAR + 0.02, 0.46, 26.0), "body/tz": 0.24 + 0.5 * (FAR - 0.42),
                      **trunk(20, 26, -14), **arms(78, -4, 24, -10), **hands(-6, 0)}),
        (ON, "Landing", {**feet(ground, 0.0, -10.0), "body/ty": -0.1, "body/tz": FAR - 0.16, **trunk(-2, 12, 6),
                         **arms(52, -14, 26, 22), **hands(8, 4)}),
        (39, "Squash", {**feet(ground, 0.0, 0.0), "body/ty": -0.31, "body/tz": FAR - 0.05, **trunk(28, 38, -16),
                        **arms(-16, -26, 34, -18), **hands(26, 10)}),
        (47, "Rise", {**feet(ground, 0.0, 0.0), "body/ty": -0.01, "body/tz": FAR + 0.02, **trunk(-3, -6, 2),
                      **arms(16, -28, 30, 8), **hands(22, 10)}),
        (56, "Settle", {**feet(ground, 0.0, 0.0), "body/ty": -0.035, "body/tz": FAR, **trunk(3, 4, -2, 10),
                        **arms(4, -32, 20), **hands(22, 12)}),
        (66, "Stands", {**feet(ground, 0.0, 0.0), "body/ty": -0.03, "body/tz": FAR, **trunk(2, 3, -2, 14),
                        **arms(4, -33, 18), **hands(22, 12)}),
    ]  # fmt: skip
    for frame, _, pose in poses:
        acting.pose(WHO, frame, {**rest, **pose})
    # Between: heels up before the toes leave, feet folded behind and drawn through, flat after the heel.
    for frame, stand in ((22, feet(0.0, 0.0, 38.0)), (25, feet(0.075, 0.085, 74.0, toe=-6)),
                        (27, feet(0.33, 0.29, 72.0, toe=-8)), (33, feet(FAR - 0.22, 0.3, 2.0)),
                        (37, feet(ground, 0.0, 0.0))):  # fmt: skip
        acting.pose(WHO, frame, stand)
    acting.pose(WHO, 21, {**trunk(28, 18, -28), **both_sides(arm_X_upper__rx=24)})
    acting.pose(WHO, 41, {**trunk(31, 40, -10), "body/ty": -0.335, "body/tz": FAR + 0.01})
    acting.pose(WHO, 44, {"body/ty": -0.2, "body/tz": FAR + 0.045})
    _in_the_air(acting)
    plant(acting, WHO, ("L", 1, OFF - 1), ("R", 1, OFF - 1), ("L", ON, 66), ("R", ON, 66))
    titles = {frame: name for frame, name, _ in poses}
    named(acting, WHO, titles)
    for frame in (8, 17, 30, 47):
        acting.make(WHO, LabelPose(frame=frame, name=titles[frame], rank="breakdown"))
    _overlap(acting)
    # Not the hips fly but the mass: they go where it is on its way, against what arms and legs do.
    acting.make(WHO, Fly(at=30))
    acting.make(WHO, TurnInFlight(at=30))
    acting.make(WHO, MeetFlight(at=30, side="before"))
    _filmed(acting)


def _in_the_air(acting: Acting) -> None:
    """The body flies as a thrown thing does: evenly ahead, and up and down by gravity, with a sharp take-off."""
    time = float(ON - OFF)
    start, end = (float(acting.values(WHO, f)[acting.rig(WHO).number("body/ty")]) for f in (OFF, ON))
    seconds = time / FPS
    rise = (end - start + 0.5 * GRAVITY * seconds**2) / time  # metres a frame as it leaves
    fall = (end - start - 0.5 * GRAVITY * seconds**2) / time  # and as it lands
    keys = {"body/ty": (30,)}
    acting.make(WHO, DeleteKeys(keys=keys))
    for frame, side, slope in ((OFF, "after", rise), (ON, "before", fall)):
        sign = 1.0 if side == "after" else -1.0
        acting.make(WHO, DragHandle(address="body/ty", frame=frame, side=side, time=time / 3.0,  # type: ignore[arg-type]
                                    value=sign * slope * time / 3.0, alone=True))  # fmt: skip
    acting.make(WHO, DeleteKeys(keys={"body/tz": (30,)}))
    acting.make(WHO, SetWay(way="even", keys={"body/tz": (OFF,)}))
    # Down slowly, up at once: the crouch is eased into, and left ever faster.
    acting.make(WHO, SetWay(way="slow start", strength=0.1, keys={"body/ty": (17,)}))
    acting.make(WHO, SetWay(way="slow stop", strength=0.3, keys={"body/ty": (ON,)}))


def _overlap(acting: Acting) -> None:
    """Head a frame ahead, forearms a frame and hands two behind; the scarf trails."""
    hands_of = tuple(f"arm.{s}.{f}" for s in "LR" for f in ("index", "middle", "ring", "little", "thumb"))
    chain = [
        Trail(("arm.L.lower", "arm.R.lower"), 1), Trail(("arm.L.hand", "arm.R.hand"), 2), Trail(hands_of, 3),
        Trail(("head", "neck"), -1),
    ]  # fmt: skip
    acting.make(WHO, DelayParts(chain=tuple(chain), first=2))


def _filmed(acting: Acting) -> None:
    """The shot camera beside his way, which goes along with him and comes to rest before he does."""
    aside = rotations.from_axis_angle(UP, radians(-90.0))
    for frame, z in ((1, 0.25), (20, 0.3), (40, 1.15), (66, 1.2)):
        acting.reach("Shot camera", "camera", frame, np.array([4.6, 0.95, z]), aside)
    acting.make("Shot camera", SetWay(way="both", strength=0.3, gaps=((1, 66),)))
    acting.pose("Shot camera", 1, {"master/tx": 4.6, "camera/lens": 32.0})
    acting.reach("Shot camera", "camera", 1, np.array([4.6, 0.95, 0.25]), aside)


BOLLARD = ScenePlan("Over the bollard", 66, (WHO, "Bollard", "Shot camera"), over_the_bollard)
PATHS = ("hips", "head", "arm.L.hand", "arm.R.hand")
"""The controls of Wick whose paths are drawn when the shot is opened."""
