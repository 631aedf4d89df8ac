"""How far the joints of a body turn.

A ball joint is told by three angles, counted from the anatomical position (standing, arms hanging, palms in): *bend*
and *side*, the parts of one turn that takes the bone from there the shortest way, and *twist*, the turn about the bone
before it. A hinge has *bend* alone. In the planes of the body these are the angles of the sources. What is said of the
left holds for the right, as in a mirror.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from math import radians

import numpy as np

from hame.character.bodyplan import BodyPlan, limb_kind
from hame.character.skeleton import Skeleton
from hame.errors import BadPlan

ANGLES = ("bend", "twist", "side")
Range = tuple[float, float]


@dataclass(frozen=True)
class JointRange:
    """Least and greatest angles of a joint, radians."""

    bend: Range
    twist: Range = (0.0, 0.0)
    side: Range = (0.0, 0.0)


def _degrees(bend: Range, twist: Range = (0, 0), side: Range = (0, 0)) -> JointRange:
    low_high = [(radians(low), radians(high)) for low, high in (bend, twist, side)]
    return JointRange(*low_high)


# American Academy of Orthopaedic Surgeons, Joint Motion: Method of Measuring and Recording, 1965: knee and elbow, bend
# of hip and ankle, as named in its tables; the rest from memory of the same. Above 150 degrees an arm is raised by the
# shoulder blade, which the collar does here. Signs: towards the front of the limb's own hinge, outwards, inwards.
_HUMAN = {
    "arm.upper": _degrees((-60, 150), (-90, 70), (-45, 150)),
    "arm.lower": _degrees((0, 150)),
    "arm.hand": _degrees((-70, 80), (-80, 80), (-30, 20)),
    "leg.upper": _degrees((-120, 30), (-45, 45), (-45, 30)),
    "leg.lower": _degrees((0, 135)),
    "leg.foot": _degrees((-20, 50), (-20, 20), (-35, 35)),
    # From memory of practice with figures, no source: how far a collar goes.
    "arm.collar": _degrees((-15, 15), (-25, 20), (-10, 40)),
    "hips": _degrees((-15, 15), (-10, 10), (-10, 10)),
}
# The whole of it, shared out over the joints there are.
_SPINE = _degrees((-25, 80), (-45, 45), (-35, 35))
_NECK = _degrees((-45, 45), (-60, 60), (-45, 45))
# Of creatures nothing is known but how they stand: room on all sides of that.
_CREATURE = _degrees((-70, 70), (-50, 50), (-70, 70))
_CREATURE_TRUNK = _degrees((-30, 30), (-30, 30), (-30, 30))


def is_upright(plan: BodyPlan, skeleton: Skeleton) -> bool:
    """Whether it is a body as ours: two legs, no more than two arms, and a trunk that stands on its legs."""
    limbs = set(plan.limbs())
    if not {"leg.L", "leg.R"} <= limbs <= {"leg.L", "leg.R", "arm.L", "arm.R"}:
        return False
    roles = plan.roles
    top = next((r for r in ("head", "neck.1", *(f"spine.{n}" for n in range(9, 0, -1))) if r in roles), None)
    if top is None:
        return True
    up = skeleton.places[skeleton.index(roles[top])] - skeleton.places[skeleton.index(roles["hips"])]
    return bool(up[1] > 0.7 * float(np.linalg.norm(up)))


def shared(whole: JointRange, count: int) -> JointRange:
    """An equal share of a range for each of ``count`` joints in a row."""
    return JointRange(*((low / count, high / count) for low, high in (whole.bend, whole.twist, whole.side)))


def range_of(role: str, plan: BodyPlan, upright: bool, row: str = "", in_row: int = 1) -> JointRange:
    """The range of a joint by its name (``leg.L.lower``, ``chest``); in a ``row`` (``spine``, ``neck``) its share.

    What the body plan says of it goes before what is usual.
    """
    limb, _, part = role.rpartition(".")
    if limb and limb[:3] in ("arm", "leg"):
        usual = _HUMAN[f"{limb_kind(limb)}.{part}"] if upright else _CREATURE
    elif role == "hips":
        usual = _HUMAN["hips"]
    elif upright:
        usual = shared(_NECK if row == "neck" else _SPINE, in_row)
    else:
        usual = _CREATURE_TRUNK
    return changed(usual, plan.ranges.get(role, {}))


def check_ranges(plan: BodyPlan) -> None:
    """Raises :class:`~hame.errors.BadPlan` where a plan says of a joint what no joint can be said of."""
    for joint, angles in plan.ranges.items():
        for name, (low, high) in angles.items():
            if name not in ANGLES:
                raise BadPlan(f"{joint} has no angle called {name}; a joint has {', '.join(ANGLES)}")
            if not (-180.0 <= low <= high <= 180.0):
                raise BadPlan(
                    f"{joint}: {name} from {low:g} to {high:g} degrees is no range; give the smaller one first, both "
                    "within 180. Nothing was changed"
                )


def changed(usual: JointRange, own: Mapping[str, Range]) -> JointRange:
    """A range with some of its angles replaced, which are given in degrees."""
    return JointRange(
        *((radians(own[name][0]), radians(own[name][1])) if name in own else getattr(usual, name) for name in ANGLES)
    )
