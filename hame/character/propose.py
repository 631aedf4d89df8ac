"""Guessing the body plan of a skeleton: by the usual spellings of names, by side marks, and by shape."""

from __future__ import annotations

import re
from collections import defaultdict

from hame.character.bodyplan import FINGERS, BodyPlan
from hame.character.names import LEFT, RIGHT, side_of, words_of
from hame.character.shape import roles_by_shape
from hame.character.skeleton import Skeleton

_HELPERS = re.compile(r"twist|roll|end|nub|tip|corrective|helper|volume|hair|cape|skirt|cloth")

# What a name without its side, digits and separators may say. Earlier entries win.
_WORDS = (
    ("eye", r"^eye(ball)?$"),
    ("thumb", r"thumb"),
    ("index", r"index|pointer|forefinger"),
    ("middle", r"middle"),
    ("ring", r"ring"),
    ("little", r"little|pinky|pinkie"),
    ("ball", r"toe|ball"),
    ("foot", r"foot|ankle"),
    ("thigh", r"upleg|upperleg|thigh|femur"),
    ("shank", r"lowerleg|lowleg|shin|calf|shank|knee|tibia"),
    ("forearm", r"forearm|lowerarm|lowarm|elbow|ulna"),
    ("upperarm", r"upperarm|uparm|humerus"),
    ("hand", r"hand|wrist"),
    ("collar", r"clavicle|collar"),
    ("shoulder", r"shoulder"),
    ("jaw", r"jaw|chin"),
    ("neck", r"neck"),
    ("head", r"^head$"),
    ("hips", r"hips|pelvis|^hip$"),
    ("spine", r"spine|chest|torso|waist|abdomen|belly|thorax"),
    ("root", r"^root$|^master$|^origin$|^armature$"),
    ("leg", r"leg"),
    ("arm", r"arm"),
)  # fmt: skip


def propose(skeleton: Skeleton) -> BodyPlan:
    """A body plan for a skeleton that faces +Z; parts that neither names nor shape tell stay without a role."""
    roles = _by_name(skeleton)
    found_by = dict.fromkeys(roles, "name")
    shaped = roles_by_shape(skeleton, roles)
    _part_spine(skeleton, roles, shaped)
    # A row of joints (a spine, a neck) that names have told gets nothing from the shape.
    told = {stem for stem in ("spine", "neck") if f"{stem}.1" in roles}
    for role, joint in shaped.items():
        if role not in roles and joint not in roles.values() and role.split(".")[0] not in told:
            roles[role] = joint
            found_by[role] = "shape"
    _drop_broken_limbs(skeleton, roles)
    return BodyPlan(roles, {role: found_by.get(role, "name") for role in roles})


def _part_spine(skeleton: Skeleton, roles: dict[str, str], shaped: dict[str, str]) -> None:
    """Where the whole trunk is called spine, with numbers, its lowest joint are the hips and its last the head."""
    count = sum(role.startswith("spine.") for role in roles)
    line = [roles[f"spine.{n + 1}"] for n in range(count)]
    hips, chest = (
        shaped.get("hips"),
        max((n for n, j in enumerate(line) if _carries_arms(skeleton, j, shaped)), default=-1),
    )
    if "hips" in roles or hips not in line or count < 2:
        return
    lowest = line.index(hips)
    if lowest > chest:
        return
    for n in range(count):
        del roles[f"spine.{n + 1}"]
    roles["hips"] = line[lowest]
    for n, joint in enumerate(line[lowest + 1 : chest + 1]):
        roles[f"spine.{n + 1}"] = joint
    above = line[chest + 1 :]
    if above and "head" not in roles:
        roles["head"] = above.pop()
    if "neck.1" not in roles:
        for n, joint in enumerate(above):
            roles[f"neck.{n + 1}"] = joint


def _carries_arms(skeleton: Skeleton, joint: str, shaped: dict[str, str]) -> bool:
    j = skeleton.index(joint)
    first = [shaped.get(f"arm.{side}.collar") or shaped.get(f"arm.{side}.upper") for side in "LR"]
    return any(name is not None and skeleton.is_above(j, skeleton.index(name)) for name in first)


def _joints_called(skeleton: Skeleton) -> tuple[dict[tuple[str, str], list[int]], dict[str, list[int]]]:
    """Joints by what they are called and their side; and those by side that twist a lower arm."""
    kinds: dict[tuple[str, str], list[int]] = defaultdict(list)
    twists: dict[str, list[int]] = defaultdict(list)
    edge = 0.01 * max(skeleton.size, 1e-6)
    for j, name in enumerate(skeleton.names):
        words = [w for w in words_of(name) if not w.isdigit()]
        text = "".join(w for w in words if w not in LEFT | RIGHT)
        x = float(skeleton.places[j, 0])
        side = side_of(name) or ("L" if x > edge else "R" if x < -edge else "")
        if re.search(r"(fore|lower|low)arm.*(twist|roll)", text):
            twists[side].append(j)
        if _HELPERS.search(text):
            continue
        kind = next((kind for kind, pattern in _WORDS if re.search(pattern, text)), None)
        if kind is not None:
            kinds[kind, side].append(j)
    return kinds, twists


def _by_name(skeleton: Skeleton) -> dict[str, str]:
    kinds, twists = _joints_called(skeleton)
    roles: dict[str, str] = {}

    def give(role: str, joints: list[int]) -> None:
        if joints and role not in roles:
            roles[role] = skeleton.names[joints[0]]

    give("hips", kinds["hips", ""])
    give(
        "root",
        [j for j in kinds["root", ""] if "hips" in roles and skeleton.is_above(j, skeleton.index(roles["hips"]))],
    )
    for part in ("spine", "neck"):
        for number, j in enumerate(kinds[part, ""]):
            roles[f"{part}.{number + 1}"] = skeleton.names[j]
    give("head", kinds["head", ""])
    give("jaw", kinds["jaw", ""])
    for side in "LR":
        give(f"eye.{side}", kinds["eye", side])
        # "arm" and "leg" alone, and "shoulder", mean what the more telling names leave open.
        upper, lower = list(kinds["upperarm", side]), list(kinds["forearm", side])
        collar, plain = kinds["collar", side] + kinds["shoulder", side], list(kinds["arm", side])
        if not upper and plain:
            upper = [plain.pop(0)]
        if not upper and collar:
            upper, collar = [collar[-1]], collar[:-1]
        if not lower and plain:
            lower = [plain.pop(0)]
        give(f"arm.{side}.collar", collar)
        give(f"arm.{side}.upper", upper)
        give(f"arm.{side}.lower", lower)
        give(f"arm.{side}.twist", twists[side])
        give(f"arm.{side}.hand", kinds["hand", side])
        for finger in FINGERS:
            joints = kinds[finger, side]
            # A fourth joint in a finger is the bone inside the palm or the tip: the first three that bend count.
            for number, j in enumerate(joints[:3]):
                roles[f"arm.{side}.{finger}.{number + 1}"] = skeleton.names[j]
        thigh, shank, plain = list(kinds["thigh", side]), list(kinds["shank", side]), list(kinds["leg", side])
        if not thigh and plain:
            thigh = [plain.pop(0)]
        if not shank and plain:
            shank = [plain.pop(0)]
        give(f"leg.{side}.upper", thigh)
        give(f"leg.{side}.lower", shank)
        give(f"leg.{side}.foot", kinds["foot", side])
        give(f"leg.{side}.ball", kinds["ball", side])
        ball = kinds["ball", side]
        if ball:
            ends = [c for c in skeleton.children[ball[0]] if not skeleton.children[c]]
            give(f"leg.{side}.tip", ends)
    return roles


def _drop_broken_limbs(skeleton: Skeleton, roles: dict[str, str]) -> None:
    """Takes back guesses that could not make a rig, so that a proposal never starts with an error."""
    from hame.character.bodyplan import problems

    for _ in range(len(roles) + 1):
        bad = problems(BodyPlan(roles), skeleton)
        removable = [role for role in bad if role in roles]
        missing = [role for role in bad if role not in roles and role != "hips"]
        for role in removable:
            del roles[role]
        for role in missing:  # a limb without its three joints goes whole, a chain with a gap from the gap on
            stem = role.rsplit(".", 1)[0]
            for other in [r for r in roles if r == stem or r.startswith(stem + ".")]:
                del roles[other]
        if not removable and not missing:
            return
