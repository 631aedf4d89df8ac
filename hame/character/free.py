"""Joints that a person lets move, turn and be sized as they see fit: those without a role, jaw and eyes, and parts of
props."""

from __future__ import annotations

from collections.abc import Mapping
from math import degrees, inf, isfinite, radians
from typing import TypedDict

from hame.character.bodyplan import BodyPlan
from hame.character.face import zone_of_joint
from hame.character.rig import Rig
from hame.character.skeleton import Skeleton
from hame.errors import BadPlan

PLACES, TURNS, SIZE = ("tx", "ty", "tz"), ("rx", "ry", "rz"), "s"
FREE = (*PLACES, *TURNS, SIZE)
"""The channels of a control that can be free: metres, degrees, and times its size."""
_FARTHEST = {**dict.fromkeys(PLACES, 1000.0), **dict.fromkeys(TURNS, 3600.0), SIZE: 100.0}
_LEAST_SIZE = 0.01
_OF_FACE = frozenset({"jaw", "eye.L", "eye.R"})


class Freedom(TypedDict, total=False):
    """What a control may do, as :meth:`Draft.control` takes it."""

    locks: dict[str, str]
    limits: dict[str, tuple[float, float]]
    scalable: bool


def freedom(plan: BodyPlan, joint: str, usual: Freedom) -> Freedom:
    """What the control of a joint may do: as a person has said, or else as is ``usual``."""
    given = plan.free.get(joint)
    if given is None:
        return usual
    locks = {name: "does not move so" for name in PLACES if name not in given}
    locks |= {name: "does not turn so" for name in TURNS if name not in given}
    limits = {name: (low, high) for name, (low, high) in given.items() if name in PLACES or name == SIZE}
    limits |= {
        name: (radians(low), radians(high)) if (low, high) != (-_FARTHEST[name], _FARTHEST[name]) else (-inf, inf)
        for name, (low, high) in given.items() if name in TURNS
    }  # fmt: skip
    return {"locks": locks, "limits": limits, "scalable": SIZE in given}


def moves_of(rig: Rig, joint: str) -> dict[str, tuple[float, float]]:
    """What the control of a joint may do, as a plan says it; nothing where it has none of its own."""
    name = rig.picks[rig.skeleton.index(joint)][0]
    of_zone = zone_of_joint(rig.plan, joint)
    own = (of_zone and rig.plan.face[of_zone].joints[0] == joint) or rig.plan.roles.get(name) == joint
    if not name or (rig.control(name).label != joint and not own):
        return {}
    found = {}
    for channel in rig.channels_of(name):
        if channel.name in FREE and not channel.locked:
            ends = (channel.low, channel.high)
            low, high = (degrees(end) if channel.name in TURNS else end for end in ends)
            most = _FARTHEST[channel.name]
            found[channel.name] = round(max(low, -most), 9), round(min(high, most), 9)
    return found


def can_be_free(plan: BodyPlan, skeleton: Skeleton) -> list[str]:
    """Joints of which a person may say how they move: those of no role, jaw and eyes; of a prop all but its base."""
    fixed = {joint for role, joint in plan.roles.items() if role not in _OF_FACE}
    first = skeleton.index(plan.roles["base" if plan.is_prop else "hips"])
    above: set[int] = set()
    while first >= 0:  # what lies above goes with the master
        above.add(first)
        first = skeleton.parents[first]
    return [name for j, name in enumerate(skeleton.names) if name not in fixed and j not in above]


def check_free(
    free: Mapping[str, Mapping[str, tuple[float, float]]], plan: BodyPlan, skeleton: Skeleton
) -> None:  # fmt: skip
    """Refuses what no joint can do.

    Raises
    ------
    BadPlan
        If a joint is not one of :func:`can_be_free`, or a range leaves out how it rests or goes absurdly far.
    """
    able = set(can_be_free(plan, skeleton))
    for joint, given in free.items():
        if joint not in able:
            raise BadPlan(f"{joint} moves by its role in the body, or is not there; nothing was changed")
        for name, (low, high) in given.items():
            if name not in FREE:
                raise BadPlan(f"a joint has no {name} that could be free; nothing was changed")
            least, rest = (_LEAST_SIZE, 1.0) if name == SIZE else (-_FARTHEST[name], 0.0)
            if not (isfinite(low) and isfinite(high) and least <= low <= rest <= high <= _FARTHEST[name]):
                raise BadPlan(
                    f"{joint} {name} from {low:g} to {high:g}: a range holds {rest:g}, where it rests, and lies within "
                    f"{least:g} and {_FARTHEST[name]:g}. Nothing was changed"
                )
