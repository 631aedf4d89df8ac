"""Guessing the body plan of a skeleton: by the usual spellings of names, by side marks, and by shape."""

from __future__ import annotations

import re
from collections import defaultdict

from hame.character.bodyplan import FINGERS, BodyPlan
from hame.character.skeleton import Skeleton

_WORD = re.compile(r"[A-Z]+(?![a-z])|[A-Z]?[a-z]+|\d+")
_LEFT, _RIGHT = {"l", "left", "lft"}, {"r", "right", "rgt"}
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


def words_of(name: str) -> list[str]:
    """The words of a joint's name in small letters: ``"rig:LeftUpLeg_01"`` -> left, up, leg, 01."""
    return [word.lower() for word in _WORD.findall(name.rsplit(":", 1)[-1].rsplit("|", 1)[-1])]


def side_of(name: str) -> str:
    """``"L"``, ``"R"`` or ``""`` by the side mark in a name."""
    words = words_of(name)
    if any(word in _LEFT for word in words):
        return "L"
    if any(word in _RIGHT for word in words):
        return "R"
    return ""


def counterpart_name(name: str) -> str | None:
    """The same name with the other side's mark, or None without a mark."""
    swaps = {"l": "r", "left": "right", "lft": "rgt"}
    swaps |= {b: a for a, b in swaps.items()}
    start = max(name.rfind(":"), name.rfind("|")) + 1
    for match in _WORD.finditer(name, start):
        word = match[0]
        other = swaps.get(word.lower())
        if other is not None:
            other = other.upper() if word.isupper() else other.capitalize() if word[0].isupper() else other
            return name[: match.start()] + other + name[match.end() :]
    return None


def propose(skeleton: Skeleton) -> BodyPlan:
    """A body plan for the skeleton; parts that neither names nor shape tell stay without a role."""
    roles = _by_name(skeleton)
    found_by = dict.fromkeys(roles, "name")
    shaped = _by_shape(skeleton, roles)
    for role, joint in shaped.items():
        if role not in roles and joint not in roles.values():
            roles[role] = joint
            found_by[role] = "shape"
    _drop_broken_limbs(skeleton, roles)
    return BodyPlan(roles, {role: found_by[role] for role in roles})


def _by_name(skeleton: Skeleton) -> dict[str, str]:
    kinds: dict[tuple[str, str], list[int]] = defaultdict(list)
    twists: dict[str, list[int]] = defaultdict(list)
    edge = 0.01 * max(skeleton.height, 1e-6)
    for j, name in enumerate(skeleton.names):
        words = [w for w in words_of(name) if not w.isdigit()]
        text = "".join(w for w in words if w not in _LEFT | _RIGHT)
        x = float(skeleton.places[j, 0])
        side = side_of(name) or ("L" if x > edge else "R" if x < -edge else "")
        if re.search(r"(fore|lower|low)arm.*(twist|roll)", text):
            twists[side].append(j)
        if _HELPERS.search(text):
            continue
        kind = next((kind for kind, pattern in _WORDS if re.search(pattern, text)), None)
        if kind is not None:
            kinds[kind, side].append(j)

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


def _by_shape(skeleton: Skeleton, known: dict[str, str]) -> dict[str, str]:
    """Roles read off the tree: legs reach the ground in a pair, the head is the highest leaf, arms reach out."""
    places, height = skeleton.places, max(skeleton.height, 1e-6)
    leaves = [j for j in range(len(skeleton)) if not skeleton.children[j]]
    floor = float(places[:, 1].min())
    roles: dict[str, str] = {}

    def path(top: int, leaf: int) -> list[int]:
        return skeleton.chain(top, leaf)

    def lowest_common(a: int, b: int) -> int:
        line = {a}
        up = a
        while up >= 0:
            line.add(up)
            up = skeleton.parents[up]
        while b not in line:
            b = skeleton.parents[b]
        return b

    low = [j for j in leaves if places[j, 1] < floor + 0.15 * height]
    left = [j for j in low if places[j, 0] > 0.01 * height]
    right = [j for j in low if places[j, 0] < -0.01 * height]
    if not left or not right:
        return roles
    # The tip of a foot is the leaf that reaches furthest forward.
    l_tip, r_tip = (max(side, key=lambda j: float(places[j, 2])) for side in (left, right))
    hips = skeleton.index(known["hips"]) if "hips" in known else lowest_common(l_tip, r_tip)
    roles["hips"] = skeleton.names[hips]
    for side, tip in (("L", l_tip), ("R", r_tip)):
        if not skeleton.is_above(hips, tip):
            continue
        line = path(hips, tip)[1:]
        parts = ("upper", "lower", "foot", "ball", "tip")
        if len(line) >= 3:
            for part, j in zip(parts, line, strict=False):
                roles[f"leg.{side}.{part}"] = skeleton.names[j]
    middle = [j for j in leaves if abs(places[j, 0]) < 0.03 * height and places[j, 1] > places[hips, 1]]
    if not middle:
        return roles
    top = max(middle, key=lambda j: float(places[j, 1]))
    if not skeleton.is_above(hips, top):
        return roles
    trunk = path(hips, top)
    out = [j for j in leaves if abs(places[j, 0]) > 0.15 * height and places[j, 1] > places[hips, 1] - 0.2 * height]
    arms = {"L": [j for j in out if places[j, 0] > 0], "R": [j for j in out if places[j, 0] < 0]}
    chest = -1
    for side, tips in arms.items():
        tips = [j for j in tips if skeleton.is_above(hips, j)]
        if not tips:
            continue
        furthest = max(tips, key=lambda j: abs(float(places[j, 0])))
        branch = max((t for t in trunk if skeleton.is_above(t, furthest)), default=hips)
        if branch == hips:
            continue
        chest = max(chest, branch)
        line = path(branch, furthest)[1:]
        # The hand is where fingers branch off, or else the third joint from the shoulder.
        hand_at = next((n for n, j in enumerate(line) if len(skeleton.children[j]) >= 3), min(len(line) - 1, 3))
        line = line[: hand_at + 1]
        if len(line) < 3:
            continue
        ends = ("upper", "lower", "hand")
        if len(line) >= 4:
            roles[f"arm.{side}.collar"] = skeleton.names[line[-4]]
        for part, j in zip(ends, line[-3:], strict=True):
            roles[f"arm.{side}.{part}"] = skeleton.names[j]
        _fingers_by_shape(skeleton, roles, side, line[-1])
    if chest >= 0:
        rise = trunk[1 : trunk.index(chest) + 1]
        for number, j in enumerate(rise):
            roles[f"spine.{number + 1}"] = skeleton.names[j]
        above = trunk[trunk.index(chest) + 1 :]
        if len(above) >= 2:
            roles["neck.1"], roles["head"] = skeleton.names[above[0]], skeleton.names[above[1]]
        elif above:
            roles["head"] = skeleton.names[above[0]]
    return roles


def _fingers_by_shape(skeleton: Skeleton, roles: dict[str, str], side: str, hand: int) -> None:
    """The chains below a hand: the thumb starts nearest to the wrist, the others follow from the front back."""
    bases = [j for j in skeleton.children[hand] if skeleton.children[j]]
    if not 2 <= len(bases) <= 5:
        return
    wrist = skeleton.places[hand]
    thumb = min(bases, key=lambda j: float(((skeleton.places[j] - wrist) ** 2).sum()))
    others = sorted((j for j in bases if j != thumb), key=lambda j: -float(skeleton.places[j, 2]))
    for finger, base in zip(FINGERS, [thumb, *others], strict=False):
        line, j = [base], base
        while skeleton.children[j] and len(line) < 3:
            j = skeleton.children[j][0]
            line.append(j)
        for number, joint in enumerate(line):
            roles[f"arm.{side}.{finger}.{number + 1}"] = skeleton.names[joint]


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
