"""Reading a body off its shape alone: a tree of joints that faces +Z, with names that tell nothing.

What stands in the middle is trunk, neck, head or tail; what leaves the middle
on both sides alike is a pair of limbs; those that reach the ground are legs.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from hame.character.bodyplan import FINGERS
from hame.character.skeleton import Skeleton

_MIDDLE = 0.01  # of the size: so near to the middle plane a joint counts as in it
_SHORT = 0.12  # of the size: shorter chains are eyes, ears and the like, no limbs
_ON_FLOOR = 0.01  # of the size: a joint that stands on the ground itself
_MANY, _ALIKE = 7, 3.0  # joints in a row that no limb has, whose longest bone is so many times the shortest at most
_GROUND = 0.15  # of the size: so near to the lowest joint a limb's end is on the ground


@dataclass(frozen=True)
class _Pair:
    """A limb on the left and its counterpart: joints from the trunk outwards to the tip."""

    on: int  # the joint of the trunk that carries them
    left: tuple[int, ...]
    right: tuple[int, ...]
    ends_low: bool


def roles_by_shape(skeleton: Skeleton, known: dict[str, str]) -> dict[str, str]:
    """Roles by what joints look like; ``known`` are roles that names have told already."""
    pairs = _pairs(skeleton)
    legs = [pair for pair in pairs if pair.ends_low and len(pair.left) >= 3 and len(pair.right) >= 3]
    arms = [pair for pair in pairs if not pair.ends_low and len(pair.left) >= 3 and len(pair.right) >= 3]
    if not legs:
        return {}
    depth = _depths(skeleton)
    roles: dict[str, str] = {}
    hips = skeleton.index(known["hips"]) if "hips" in known else min((pair.on for pair in legs), key=lambda j: depth[j])
    roles["hips"] = skeleton.names[hips]
    legs = [p for p in legs if p.on == hips or skeleton.is_above(hips, p.on)]
    # A body of many legs may be one joint, which carries claws as well; on the hips of others hang skirts and tails.
    arms = [p for p in arms if skeleton.is_above(hips, p.on) or p.on == hips and len(legs) > 2]
    # From the hips along the trunk; of those on one joint from the front back.
    legs.sort(key=lambda p: (depth[p.on], -float(skeleton.places[p.left[0], 2])))
    arms.sort(key=lambda p: (depth[p.on], -float(skeleton.places[p.left[0], 2])))
    for number, pair in enumerate(legs):
        for side, line in (("L", pair.left), ("R", pair.right)):
            limb = f"leg{number + 1 if number else ''}.{side}"
            parts = _leg_parts(skeleton, line, len(legs))
            for part, j in zip(parts, line, strict=False):
                roles[f"{limb}.{part}"] = skeleton.names[j]
    for number, pair in enumerate(arms):
        for side, line in (("L", pair.left), ("R", pair.right)):
            _arm(skeleton, roles, f"arm{number + 1 if number else ''}.{side}", line)
    _trunk(skeleton, roles, hips, [p.on for p in (*arms, *legs) if p.on != hips], depth)
    _face(skeleton, roles)
    above = skeleton.parents[hips]
    if above >= 0:
        roles["root"] = skeleton.names[above]
    return roles


def _leg_parts(skeleton: Skeleton, line: tuple[int, ...], pairs: int) -> tuple[str, ...]:
    """What the joints of a leg are: of many legs, one that ends in a point on the ground has a tip and no ball."""
    if pairs > 2 and len(line) == 4 and not skeleton.children[line[3]]:
        floor = float(skeleton.places[:, 1].min()) + _ON_FLOOR * skeleton.size
        if skeleton.places[line[3], 1] < floor:
            return ("upper", "lower", "foot", "tip")
    return ("upper", "lower", "foot", "ball", "tip")


def _depths(skeleton: Skeleton) -> list[int]:
    depth: list[int] = []
    for parent in skeleton.parents:
        depth.append(0 if parent < 0 else depth[parent] + 1)
    return depth


def _pairs(skeleton: Skeleton) -> list[_Pair]:
    """Limbs that leave the middle on both sides, each with the one that begins at its mirror image."""
    places, size = skeleton.places, max(skeleton.size, 1e-9)
    trunk = [j for j in range(len(skeleton)) if skeleton.children[j]]
    middle = float(np.median(places[trunk or [0], 0]))
    x = places[:, 0] - middle
    found: list[_Pair] = []
    floor = float(places[:, 1].min())
    for on in range(len(skeleton)):
        if abs(x[on]) > _MIDDLE * size:
            continue
        sides = {
            "L": [c for c in skeleton.children[on] if x[c] > _MIDDLE * size],
            "R": [c for c in skeleton.children[on] if x[c] < -_MIDDLE * size],
        }
        for a in sides["L"]:
            if not sides["R"]:
                break
            mirrored = places[a] * [-1, 1, 1] + [2 * middle, 0, 0]
            b = min(sides["R"], key=lambda c: float(np.linalg.norm(places[c] - mirrored)))
            sides["R"].remove(b)
            lines = tuple(_line(skeleton, j) for j in (a, b))
            long = [float(np.linalg.norm(np.diff(places[[on, *line]], axis=0), axis=1).sum()) for line in lines]
            if min(long) < _SHORT * size:
                continue
            if any(_is_chain(skeleton, line) for line in lines):
                continue  # an arm of a sea creature, not one with an elbow
            low = [float(places[list(line), 1].min()) < floor + _GROUND * size for line in lines]
            found.append(_Pair(on, lines[0], lines[1], all(low)))
    return found


def _is_chain(skeleton: Skeleton, line: tuple[int, ...]) -> bool:
    """Whether joints are a row of many bones about alike, without a branch, as no arm or leg is."""
    if len(line) < _MANY or any(len(skeleton.children[j]) > 1 for j in line):
        return False
    bones = np.linalg.norm(np.diff(skeleton.places[list(line)], axis=0), axis=1)
    return bool(bones.max() <= _ALIKE * bones.min())


def _line(skeleton: Skeleton, top: int) -> tuple[int, ...]:
    """The joints from ``top`` to the tip of its limb: of a hand where fingers branch, of a foot the foremost leaf."""
    below = [j for j in range(top, len(skeleton)) if j == top or skeleton.is_above(top, j)]
    leaves = [j for j in below if not skeleton.children[j]]
    places = skeleton.places
    lowest = min(float(places[j, 1]) for j in leaves)
    on_ground = [j for j in leaves if places[j, 1] < lowest + 0.05 * skeleton.size]
    ground = float(places[:, 1].min()) + _GROUND * skeleton.size
    if lowest < ground:  # a foot
        leaf = max(on_ground, key=lambda j: float(places[j, 2]))
    else:
        leaf = max(leaves, key=lambda j: float(np.linalg.norm(places[j] - places[top])))
    return tuple(skeleton.chain(top, leaf))


def _arm(skeleton: Skeleton, roles: dict[str, str], limb: str, line: tuple[int, ...]) -> None:
    """The hand is where fingers branch off, or else the end of three bones behind a collar."""

    def branches(j: int) -> bool:
        return len(skeleton.children[j]) >= 3 or sum(bool(skeleton.children[c]) for c in skeleton.children[j]) >= 2

    at = next((n for n, j in enumerate(line) if branches(j)), min(len(line) - 1, 3))
    upto = line[: at + 1]
    if len(upto) < 3:
        return
    # Of four, the first is a collar if it is short: a wing or a claw may have four bones of a length.
    if len(upto) >= 4:
        roles[f"{limb}.collar"] = skeleton.names[upto[-4]]
    for part, j in zip(("upper", "lower", "hand"), upto[-3:], strict=True):
        roles[f"{limb}.{part}"] = skeleton.names[j]
    _fingers(skeleton, roles, limb, upto[-1])
    beside = [j for j in skeleton.children[upto[-2]] if j != upto[-1] and not skeleton.children[j]]
    if len(beside) == 1:  # a joint half way down the forearm that leads nowhere: it takes a share of the hand's turn
        roles[f"{limb}.twist"] = skeleton.names[beside[0]]


def _fingers(skeleton: Skeleton, roles: dict[str, str], limb: str, hand: int) -> None:
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
            roles[f"{limb}.{finger}.{number + 1}"] = skeleton.names[joint]


def _trunk(skeleton: Skeleton, roles: dict[str, str], hips: int, carry: list[int], depth: list[int]) -> None:
    """Spine from the hips to the last joint that carries limbs, then neck and head."""
    chest = max(carry, key=lambda j: depth[j], default=hips)
    if chest != hips:
        for number, j in enumerate(skeleton.chain(hips, chest)[1:]):
            roles[f"spine.{number + 1}"] = skeleton.names[j]
    line = _neck(skeleton, chest, set(roles.values()))
    if not line:
        return
    # Two make a neck and a head; a third is the crown of the head, unless the neck is long.
    head = next((n for n, j in enumerate(line) if len(skeleton.children[j]) > 1), min(len(line) - 1, 1))
    if len(line) > 3:
        head = max(head, len(line) - 2)
    roles["head"] = skeleton.names[line[head]]
    for number, j in enumerate(line[:head]):
        roles[f"neck.{number + 1}"] = skeleton.names[j]


def _neck(skeleton: Skeleton, chest: int, taken: set[str]) -> list[int]:
    """The middle joints that go on from the chest, upwards or ahead; a tail goes back and down."""
    places = skeleton.places
    middle = float(places[chest, 0])
    best: list[int] = []
    reach = 0.0
    for child in skeleton.children[chest]:
        line, j = [], child
        while abs(float(places[j, 0]) - middle) <= _MIDDLE * skeleton.size and skeleton.names[j] not in taken:
            line.append(j)
            onward = [c for c in skeleton.children[j] if abs(float(places[c, 0]) - middle) <= _MIDDLE * skeleton.size]
            if not onward:
                break
            j = max(onward, key=lambda c: float(places[c, 1] + places[c, 2]))
        if line:
            way = places[line[-1]] - places[chest]
            far = float(way[1] + way[2])
            if far > reach:
                best, reach = line, far
    return best


def _face(skeleton: Skeleton, roles: dict[str, str]) -> None:
    """On the head, a pair of leaves are the eyes, and a leaf in the middle, ahead and below them, is the jaw."""
    if "head" not in roles:
        return
    head = skeleton.index(roles["head"])
    places = skeleton.places
    leaves = [j for j in skeleton.children[head] if not skeleton.children[j]]
    across = {j: float(places[j, 0] - places[head, 0]) for j in leaves}
    slack = 0.004 * skeleton.size
    left, right = ([j for j in leaves if sign * across[j] > slack] for sign in (1, -1))
    if len(left) == len(right) == 1:
        roles["eye.L"], roles["eye.R"] = skeleton.names[left[0]], skeleton.names[right[0]]
    below = float(places[left[0], 1]) if left else float(places[head, 1])
    across |= {j: float(places[j, 0] - places[head, 0]) for j in skeleton.children[head]}
    middle = [j for j in across if abs(across[j]) <= slack and places[j, 2] > places[head, 2] and places[j, 1] < below]
    if middle:
        roles["jaw"] = skeleton.names[middle[0]]
