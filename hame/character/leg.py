"""Legs of a rig, with the rolling foot and its toes."""

from __future__ import annotations

from math import radians

import numpy as np

from hame import program
from hame.character.draft import (
    FORWARD,
    MOVE_ONLY,
    TURN_ONLY,
    UP,
    Draft,
    carry_between,
)
from hame.character.limb import LimbJoints, limb_label, plane_of, switch_of, swivel_of, two_bones
from hame.character.rig import EXTRA, Channel, Shape
from hame.maths import rotations, transforms
from hame.maths.rotations import Array


def lay_leg(d: Draft, limb: str, master: int, size: float) -> None:
    side, label = limb[-1], limb_label(limb)
    upper, lower, foot = (d.at(f"{limb}.{part}") for part in ("upper", "lower", "foot"))
    assert upper is not None and lower is not None and foot is not None  # checked with the plan
    root, root_control = carry_between(d, upper)
    bend = plane_of(d.place(upper), d.place(lower), d.place(foot), FORWARD)
    ankle, ball, heel, tip = _sole(d, limb, foot, size)
    forward = (tip - heel) * np.array([1, 0, 1])
    forward = forward / np.linalg.norm(forward) if np.linalg.norm(forward) > 1e-6 else FORWARD
    level = rotations.from_matrix(np.stack([np.cross(UP, forward), UP, forward], axis=1))
    foot_rest = transforms.transform(ankle, level)
    switch = switch_of(d, limb, f"{label} leg", 1.0, bend.stretch)
    ik, pole_name, toe_name = f"{limb}.goal", f"{limb}.pole", f"{limb}.toe"
    extra = [
        Channel(
            address=f"{ik}/roll",
            control=ik,
            name="roll",
            label="roll",
            kind=EXTRA,
            unit="rad",
            low=radians(-60),
            high=radians(120),
            purpose="below 0 back on the heel; above 0 over the ball, after the break over the toe",
        ),
        Channel(
            address=f"{ik}/break",
            control=ik,
            name="break",
            label="roll break",
            kind=EXTRA,
            unit="rad",
            rest=radians(40),
            low=0.0,
            high=radians(120),
            purpose="the angle at which the roll goes on from the ball to the toe",
        ),
    ]
    for name, label_of, most, purpose, mirror in (
        ("bank", "bank", 60, "above 0 onto the outer edge of the sole, below 0 onto the inner one", 1),
        ("heel", "swivel on heel", 180, "turns the foot about its heel, which stays", -1),
        ("ball", "swivel on ball", 180, "turns the foot about its ball, which stays", -1),
        ("tip", "swivel on toe tip", 180, "turns the foot about the tip of its toes, which stays", -1),
    ):
        extra.append(
            Channel(
                address=f"{ik}/{name}",
                control=ik,
                name=name,
                label=label_of,
                kind=EXTRA,
                unit="rad",
                low=radians(-most),
                high=radians(most),
                purpose=purpose,
                mirror=mirror,
            )  # fmt: skip
        )
    local = [rotations.rotate(rotations.inverse(level), p - ankle) for p in (ball, heel, tip)]
    goal = d.control(
        ik, master, foot_rest, label=f"{label} foot", part=limb, kind="ik", side=side, limb=limb, mode="ik",
        shape=Shape("foot", float(np.linalg.norm(tip - heel)), (0.0, float(local[1][1]), float(local[1][2]))),
        parent_control="master", frame_turn=rotations.IDENTITY,
        labels={"tx": "sideways", "ty": "height", "tz": "forward", "rx": "pitch", "ry": "heading", "rz": "tilt"},
        extra=extra,
    )  # fmt: skip
    toe_rest = transforms.transform(ball, level)
    toes, target = d.node(toe_rest), d.node(foot_rest)
    d.emit(
        program.foot_roll(
            toes, foot=goal, roll=d.number(f"{ik}/roll"), limit=d.number(f"{ik}/break"), bank=d.number(f"{ik}/bank"),
            ball=local[0], heel=local[1], tip=local[2], edges=_edges(local, side),
        )
    )  # fmt: skip
    pole_at = d.place(lower) + 0.6 * sum(bend.lengths) * bend.toward
    pole = d.control(
        pole_name, goal, transforms.transform(pole_at), label=f"{label} knee aim", part=limb, kind="pole", side=side,
        limb=limb, mode="ik", shape=Shape("pole", 0.022 * size), parent_control=ik, locks={"r": MOVE_ONLY},
        extra=[swivel_of(pole_name)],
    )  # fmt: skip
    joints = LimbJoints(limb, side, label, upper, lower, foot)
    end = two_bones(
        d, joints, root=root, root_control=root_control, bend=bend, end_rest=foot_rest, target=target, pole=pole, ik=ik,
        pole_control=pole_name, toe=toe_name, mixed_by=switch, reflect_end=True, size=size,
        points=dict(zip(("ball", "heel", "tip"), local, strict=True)),
    )  # fmt: skip
    ball_joint = d.at(f"{limb}.ball")
    if ball_joint is None:
        return
    # In IK the toes lie with the rolling foot's toe frame, in FK with the foot.
    carrier = d.node(toe_rest)
    local_toe = transforms.relative(d.rest[end], toe_rest)
    # The foot of FK, not the blended one: turned against what goes with the blend, the toes could flip over on the way.
    flat = d.offset(d.node_of(f"{limb}.foot"), toe_rest)
    d.emit(program.mix(carrier, zero=flat, one=toes, carrier=end, by=d.number(switch), local=local_toe))
    toe = d.control(
        toe_name, carrier, toe_rest, label=f"{label} toes", part=limb, kind="foot", side=side, limb=limb,
        shape=Shape("toe", 0.035 * size), parent_control=ik, labels={"rx": "down", "ry": "aside", "rz": "tilt"},
        locks={"t": TURN_ONLY}, limits={"rx": (radians(-80), radians(80))},
    )  # fmt: skip
    d.joint(ball_joint, toe, toe_name)


def _edges(local: list[Array], side: str) -> tuple[float, float]:
    """How far to the side the outer and the inner edge of a sole lie at the ball, seen from the foot's control.

    A foot is about two and a half times as long as it is broad (from memory of Drillis and Contini 1966).
    """
    ball, heel, tip = local
    half = 0.2 * float(np.linalg.norm(tip - heel))
    out = 1.0 if side == "L" else -1.0
    return float(ball[0] + out * half), float(ball[0] - out * half)


def _sole(d: Draft, limb: str, foot: int, size: float) -> tuple[Array, Array, Array, Array]:
    """Ankle, ball, heel and toe tip; heel and tip as measured on the skin, or guessed from the joints."""
    ankle = d.place(foot)
    ball_joint, tip_joint = d.at(f"{limb}.ball"), d.at(f"{limb}.tip")
    floor = min(0.0, float(d.skeleton.places[:, 1].min())) if ankle[1] > 0 else float(ankle[1])
    sole = d.plan.soles.get(limb)
    if sole:
        heel, tip = np.array(sole["heel"], float), np.array(sole["tip"], float)
        ball = d.place(ball_joint) if ball_joint is not None else heel + 0.7 * (tip - heel)
        return ankle, ball, heel, tip
    reach = ball_joint if ball_joint is not None else tip_joint
    forward = (d.place(reach) - ankle) * np.array([1, 0, 1]) if reach is not None else FORWARD * 0.08 * size
    length = max(float(np.linalg.norm(forward)), 0.02 * size)
    unit = forward / max(float(np.linalg.norm(forward)), 1e-9) if np.linalg.norm(forward) > 1e-9 else FORWARD
    on_floor = np.array([ankle[0], floor, ankle[2]])
    ball = d.place(ball_joint) if ball_joint is not None else on_floor + unit * length
    return ankle, ball, on_floor - unit * 0.35 * length, on_floor + unit * 1.5 * length
