"""Which joint is which part of a body.

A :class:`BodyPlan` maps roles to joints. Roles are

``root``                                   a joint above the hips that travels with the character
``hips``, ``spine.1`` ... ``spine.n``      from the pelvis up; the last spine joint is the chest
``neck.1`` ... , ``head``, ``jaw``, ``eye.L``, ``eye.R``
``arm.L.collar|upper|lower|twist|hand``, ``arm.L.thumb|index|middle|ring|little.1`` ...
``leg.L.upper|lower|foot|ball|tip``

and a creature's further limbs carry numbers: ``leg2.R.upper``. Only ``hips``
must be there; joints without a role get plain controls of their own. A prop
has no body but a ``base``: the joint by which all of it is carried.
"""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

import numpy as np

from hame.character.skeleton import Skeleton
from hame.errors import BadPlan

FINGERS = ("thumb", "index", "middle", "ring", "little")
LIMB_PARTS = {
    "arm": ("collar", "upper", "lower", "twist", "hand"),
    "leg": ("upper", "lower", "foot", "ball", "tip"),
}
END_OF = {"arm": "hand", "leg": "foot"}

_ROLE = re.compile(
    r"^(root|base|hips|head|jaw|eye\.[LR]|(spine|neck)\.[1-9]\d?"
    r"|arm\d*\.[LR]\.(collar|upper|lower|twist|hand|(thumb|index|middle|ring|little)\.[1-4])"
    r"|leg\d*\.[LR]\.(upper|lower|foot|ball|tip))$"
)
_LIMB = re.compile(r"^((arm|leg)\d*\.[LR])\.")


@dataclass(frozen=True)
class Zone:
    """What moves a zone of a face (see :mod:`hame.character.face`).

    Attributes
    ----------
    joints : their names, the first of which has the zone's own control
    shapes : names of shapes of the skin
    at : (x, y, z) where it lies in the rest pose, metres
    """

    joints: tuple[str, ...] = ()
    shapes: tuple[str, ...] = ()
    at: tuple[float, float, float] = (0.0, 0.0, 0.0)

    def to_json(self) -> dict[str, Any]:
        return {"joints": list(self.joints), "shapes": list(self.shapes), "at": list(self.at)}


def zone_from_json(data: Mapping[str, Any]) -> Zone:
    x, y, z = data.get("at", (0.0, 0.0, 0.0))
    return Zone(tuple(data.get("joints", ())), tuple(data.get("shapes", ())), (float(x), float(y), float(z)))


@dataclass(frozen=True)
class BodyPlan:
    """Roles by joint name, how each was found, and measured soles.

    Attributes
    ----------
    roles : role -> joint name
    found_by : role -> "name", "shape" or "hand"
    soles : limb -> {"heel": (x, y, z), "tip": (x, y, z)} in the rest pose, metres: where it rolls over its ends
    outlines : limb -> points of its sole (x, y, z, share that the toes carry) in the rest pose, metres: those that can
        touch the ground, whichever way the foot is turned (see :mod:`hame.character.soles`)
    facing : where the figure faced in the file it came from, degrees about +Y from +Z
    size : of a prop, from end to end of its surface, metres; 0 where the skeleton tells
    ranges : joint (``leg.L.lower``, ``chest``) -> angle (``bend``, ``twist``, ``side``) -> least and greatest, degrees,
        where they differ from what is usual (see :mod:`hame.character.ranges`)
    masses : joint name -> kilograms, where they differ from what is usual (see :mod:`hame.character.masses`)
    centres : joint name -> (x, y, z) in the rest pose, metres: where its mass lies, where that was measured
    spreads : joint name -> (xx, yy, zz, xy, xz, yz) in the rest pose: moments of inertia about that place, of each
        kilogram, square metres
    weights : joint name -> what was set by hand, which goes before all of that: "kilograms" (1), "at" (x, y, z) and
        "radii" of gyration about the axes x, y, z through that, the last two in the rest pose, metres
    shapes : of the skin, in its order: the name of each, by how much it morphs at rest, and the least and greatest
        amount that may be keyed
    free : joint name -> ``tx`` to ``rz`` and ``s`` -> least and greatest, metres, degrees and times its size: what the
        control of a joint without a role may do, where a person has said so (see :mod:`hame.character.free`)
    face : by zone, what moves it
    bulks : joint name -> how thick it is, and where it ends (x, y, z) in the rest pose, metres (see
        :mod:`hame.character.bulks`)
    """

    roles: Mapping[str, str]
    found_by: Mapping[str, str] = field(default_factory=dict)
    soles: Mapping[str, Mapping[str, tuple[float, float, float]]] = field(default_factory=dict)
    facing: float = 0.0
    size: float = 0.0
    ranges: Mapping[str, Mapping[str, tuple[float, float]]] = field(default_factory=dict)
    masses: Mapping[str, float] = field(default_factory=dict)
    outlines: Mapping[str, Sequence[Sequence[float]]] = field(default_factory=dict)
    centres: Mapping[str, Sequence[float]] = field(default_factory=dict)
    spreads: Mapping[str, Sequence[float]] = field(default_factory=dict)
    weights: Mapping[str, Mapping[str, Sequence[float]]] = field(default_factory=dict)
    shapes: Sequence[tuple[str, float, float, float]] = ()
    free: Mapping[str, Mapping[str, tuple[float, float]]] = field(default_factory=dict)
    face: Mapping[str, Zone] = field(default_factory=dict)
    bulks: Mapping[str, Sequence[float]] = field(default_factory=dict)

    @property
    def is_prop(self) -> bool:
        return "base" in self.roles

    def numbered(self, prefix: str) -> list[str]:
        """Joint names of ``prefix.1``, ``prefix.2`` ... in order."""
        found = [(int(role.rsplit(".", 1)[1]), joint) for role, joint in self.roles.items()
                 if re.fullmatch(re.escape(prefix) + r"\.\d+", role)]  # fmt: skip
        return [joint for _, joint in sorted(found)]

    def limbs(self) -> list[str]:
        """Names of the limbs (``arm.L``, ``leg2.R``) in order."""
        return sorted({match[1] for role in self.roles if (match := _LIMB.match(role))})

    def to_json(self) -> dict[str, Any]:
        return {
            "roles": dict(self.roles),
            "found_by": dict(self.found_by),
            "facing": self.facing,
            "size": self.size,
            "soles": {limb: {k: list(p) for k, p in sole.items()} for limb, sole in self.soles.items()},
            "ranges": {joint: {k: list(r) for k, r in angles.items()} for joint, angles in self.ranges.items()},
            "masses": dict(self.masses),
            "outlines": {limb: [list(point) for point in outline] for limb, outline in self.outlines.items()},
            "centres": {joint: list(place) for joint, place in self.centres.items()},
            "spreads": {joint: list(spread) for joint, spread in self.spreads.items()},
            "weights": {joint: {k: list(v) for k, v in set_.items()} for joint, set_ in self.weights.items()},
            "shapes": [list(shape) for shape in self.shapes],
            "free": {joint: {k: list(r) for k, r in given.items()} for joint, given in self.free.items()},
            "face": {zone: found.to_json() for zone, found in self.face.items()},
            "bulks": {joint: list(bulk) for joint, bulk in self.bulks.items()},
        }


def from_json(data: Mapping[str, Any]) -> BodyPlan:
    return BodyPlan(
        data["roles"], data.get("found_by", {}), data.get("soles", {}), data.get("facing", 0.0), data.get("size", 0.0),
        data.get("ranges", {}), data.get("masses", {}), data.get("outlines", {}), data.get("centres", {}),
        data.get("spreads", {}), data.get("weights", {}),
        tuple((str(name), float(rest), float(low), float(high)) for name, rest, low, high in data.get("shapes", ())),
        {j: {k: (float(r[0]), float(r[1])) for k, r in given.items()} for j, given in data.get("free", {}).items()},
        {zone: zone_from_json(found) for zone, found in data.get("face", {}).items()}, data.get("bulks", {}),
    )  # fmt: skip


def limb_kind(limb: str) -> str:
    """``arm`` or ``leg``."""
    return limb[:3]


def problems(plan: BodyPlan, skeleton: Skeleton) -> dict[str, str]:
    """What keeps a rig from being built, by role, in words for the person who maps the joints."""
    bad: dict[str, str] = {}
    users: dict[str, str] = {}
    for role, joint in plan.roles.items():
        if not _ROLE.match(role):
            bad[role] = f"{role} is not a role of a body plan"
        elif joint not in skeleton.names:
            bad[role] = f"the skeleton has no joint called {joint}"
        elif joint in users:
            bad[role] = f"{joint} is already used as {users[joint]}; a joint has one role"
        else:
            users[joint] = role
    if bad:
        return bad
    if plan.is_prop:
        base = skeleton.index(plan.roles["base"])
        for role in plan.roles:
            if role != "base":
                bad[role] = "a prop has a base and no parts of a body; clear it, or clear the base"
        if any(j != base and not skeleton.is_above(base, j) and not skeleton.is_above(j, base)
               for j in range(len(skeleton))):  # fmt: skip
            bad["base"] = f"not everything hangs below {plan.roles['base']}; choose the joint above all others"
        return bad
    if "hips" not in plan.roles:
        bad["hips"] = "choose the joint that carries both the spine and the legs"
        return bad
    for limb in plan.limbs():
        kind = limb_kind(limb)
        needed = [f"{limb}.{part}" for part in ("upper", "lower", END_OF[kind])]
        missing = [role for role in needed if role not in plan.roles]
        for role in missing:
            bad[role] = f"{limb} needs {role.rsplit('.', 1)[1]}; choose it or clear the whole limb"
    for prefix in ("spine", "neck", *(f"{limb}.{f}" for limb in plan.limbs() for f in FINGERS)):
        for i in range(len(plan.numbered(prefix))):
            if f"{prefix}.{i + 1}" not in plan.roles:
                bad[f"{prefix}.{i + 1}"] = f"{prefix} has a gap: {prefix}.{i + 1} is missing"
    for line in _lines(plan):
        present = [role for role in line if role in plan.roles]
        for above, below in zip(present, present[1:], strict=False):
            a, b = skeleton.index(plan.roles[above]), skeleton.index(plan.roles[below])
            if below not in bad and not skeleton.is_above(a, b):
                bad[below] = f"{plan.roles[below]} does not hang below {plan.roles[above]} ({above})"
    for limb in plan.limbs():
        roles = [f"{limb}.{part}" for part in ("upper", "lower", END_OF[limb_kind(limb)])]
        if any(role in bad for role in roles):
            continue
        places = [skeleton.places[skeleton.index(plan.roles[role])] for role in roles]
        for k in (1, 2):
            if np.linalg.norm(places[k] - places[k - 1]) < 1e-4 * max(skeleton.size, 1e-6):
                bad[roles[k]] = f"{plan.roles[roles[k]]} lies in the same place as {plan.roles[roles[k - 1]]}"
    return bad


def _lines(plan: BodyPlan) -> list[list[str]]:
    """Roles that hang one below the other, line by line."""
    lines: list[list[str]] = [["root", "hips"]]
    spine = [f"spine.{i + 1}" for i in range(len(plan.numbered("spine")))]
    neck = [f"neck.{i + 1}" for i in range(len(plan.numbered("neck")))]
    lines.append(["hips", *spine, *neck, "head", "jaw"])
    lines += [["head", "eye.L"], ["head", "eye.R"]]
    for limb in plan.limbs():
        kind = limb_kind(limb)
        parts = [p for p in LIMB_PARTS[kind] if p != "twist"]
        lines.append(["hips", *(f"{limb}.{part}" for part in parts)])
        if kind == "arm":
            lines.append([f"{limb}.lower", f"{limb}.twist"])
            for finger in FINGERS:
                count = len(plan.numbered(f"{limb}.{finger}"))
                lines.append([f"{limb}.hand", *(f"{limb}.{finger}.{i + 1}" for i in range(count))])
    return lines


def check(plan: BodyPlan, skeleton: Skeleton) -> None:
    """Raises :class:`~hame.errors.BadPlan` with the first problem, if there is one."""
    bad = problems(plan, skeleton)
    if bad:
        role, reason = next(iter(bad.items()))
        raise BadPlan(f"{role}: {reason}")
