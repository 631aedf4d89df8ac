"""What of a face moves what: its zones, from the brows down to the jaw, each made of joints, of shapes, or of both.

Zones are ``brow.L.inner|middle|outer``, ``lid.L.upper|lower``, ``eye.L``, ``pupil.L``, ``cheek.L``, ``nose.L``,
``corner.L`` (of the mouth), ``lip.L.upper|lower``, each of them without a side for what moves both at once, ``mouth``
(all of it), ``tongue`` and ``jaw``. Jaw and eyes have joints by their roles in the body; their zones add shapes to
these.
"""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import replace

import numpy as np

from hame.character.bodyplan import BodyPlan, Zone
from hame.character.names import LEFT, RIGHT, counterpart_name, side_of, words_of
from hame.character.skeleton import Skeleton
from hame.character.skin import Skin
from hame.errors import BadPlan
from hame.maths.rotations import Array

SIDED = (
    "brow.{}.inner", "brow.{}.middle", "brow.{}.outer", "lid.{}.upper", "lid.{}.lower", "eye.{}", "pupil.{}",
    "cheek.{}", "nose.{}", "corner.{}", "lip.{}.upper", "lip.{}.lower",
)  # fmt: skip
ZONES = (
    *(zone.format(side) for zone in SIDED for side in "LR"), *(zone.replace(".{}", "") for zone in SIDED), "mouth",
    "tongue", "jaw",
)  # fmt: skip
BY_ROLE = ("jaw", "eye.L", "eye.R")  # of these zones the joint is that of the role

# What the words of a name, put together, may say of a zone without its side. Earlier entries win.
_WORDS = (
    ("brow.inner", r"brow.*inn?er|inn?er.*brow|brow.*in$"),
    ("brow.outer", r"brow.*outer|outer.*brow|brow.*out$"),
    ("brow.middle", r"brow"),
    ("lid.lower", r"(lid|lash).*(low|bot|down$)|(low|bot).*(lid|lash)|squint"),
    ("lid.upper", r"eye ?lid|lid|blink|wink|eye.*(wide|clos|open)|lash"),
    ("pupil", r"pupil|iris"),
    ("eye", r"^eye.*(look|in$|out$|up$|down$|dart|squash|size|swell)"),
    ("cheek", r"cheek"),
    ("nose", r"nose|nostril|sneer|snarl|wrinkle"),
    ("tongue", r"tongue"),
    ("corner", r"corner|smile|frown|dimple|grin|mouth.*(stretch|wide|narrow)|(stretch|wide|narrow).*mouth"),
    ("lip.upper", r"lip.*(up|top)|(up|top).*lip|mouth.*(upper|raise)"),
    ("lip.lower", r"lip.*(low|bot|down)|(low|bot|down).*lip|mouth.*(lower|down)"),
    ("jaw", r"jaw|chin|mouth.*open|open.*mouth"),
    ("mouth", r"mouth|lips?|pucker|funnel|blow|kiss|puff|press|roll|shrug|^(aa?|e|i|oh?|ou|u)$|viseme|phoneme"),
)  # fmt: skip
_OFF = re.compile(
    r"ear|flap|hair|cap|hat|beard|horn|helmet|whisker|antenna|feeler"
)  # what no place makes part of a face
_LEVELS = 22  # of an outline
_PAIRS = {"brow", "lid", "eye", "pupil", "cheek", "corner"}
_BOTH = {"brow.inner", "brow.middle", "brow.outer", "lid.upper", "lid.lower", "pupil", "eye", "cheek", "corner"}
# Where zones lie on a face (common practice, no source): aside and up from between the eyes, as shares of how far
# these are apart.
_AT = {
    "brow.inner": (0.28, 0.38), "brow.middle": (0.52, 0.46), "brow.outer": (0.82, 0.38), "lid.upper": (0.5, 0.12),
    "lid.lower": (0.5, -0.16), "cheek": (0.72, -0.62), "nose": (0.0, -0.5), "corner": (0.4, -1.06),
    "lip.upper": (0.0, -0.94), "lip.lower": (0.0, -1.2), "jaw": (0.0, -1.6),
}  # fmt: skip


def proposed(plan: BodyPlan, skeleton: Skeleton, skin: Skin) -> BodyPlan:
    """The plan with zones of its face: by names, and where these tell nothing by where on the face something lies."""
    if plan.is_prop or "head" not in plan.roles:
        return plan
    scale = _Scale.of(plan, skeleton, skin)
    moved = moved_at(skin)
    joints: dict[str, list[str]] = {}
    shapes: dict[str, list[str]] = {}
    for name in _joints_of_face(plan, skeleton):
        zone = zone_called(name) or scale.nearest(skeleton.places[skeleton.index(name)])
        if zone in ZONES and zone not in BY_ROLE:
            joints.setdefault(zone, []).append(name)
    for name in skin.shapes:
        place = moved.get(name)
        zone = zone_called(name) or ("" if place is None else scale.nearest(place))
        if zone in ZONES:
            shapes.setdefault(zone, []).append(name)
    found = {z: Zone(tuple(joints.get(z, ())), tuple(shapes.get(z, ()))) for z in ZONES if z in joints or z in shapes}
    return placed(replace(plan, face=found), skeleton, skin)


def zone_called(name: str) -> str:
    """The zone that a joint or shape is called by, or nothing where its name does not tell."""
    text = _told(name)
    stem = next((zone for zone, pattern in _WORDS if re.search(pattern, text)), "")
    return _sided(stem, side_of(name)) if stem else ""


def _told(name: str) -> str:
    """The words of a name without numbers and sides."""
    return " ".join(word for word in words_of(name) if not word.isdigit() and word not in LEFT | RIGHT)


def _sided(stem: str, side: str) -> str:
    """A zone's name on a side; that of what is only on sides is nothing without one."""
    first, _, rest = stem.partition(".")
    zone = f"{first}.{side}" + (f".{rest}" if rest else "") if side else stem
    return zone if zone in ZONES else stem if stem in ZONES else ""


class _Scale:
    """Where zones would lie on a face, as large as this one."""

    def __init__(self, middle: Array, apart: float) -> None:
        self.middle, self.apart = middle, apart

    @staticmethod
    def of(plan: BodyPlan, skeleton: Skeleton, skin: Skin) -> _Scale:
        """By the eyes, or by the skin of the head without any."""
        eyes = [skeleton.places[skeleton.index(plan.roles[f"eye.{s}"])] for s in "LR" if f"eye.{s}" in plan.roles]
        if len(eyes) == 2:
            return _Scale((eyes[0] + eyes[1]) / 2, max(float(abs(eyes[0][0] - eyes[1][0])), 1e-4))
        head = skeleton.index(plan.roles["head"])
        points = [piece.points[(piece.weights * (piece.joints == head)).sum(axis=1) > 0.5] for piece in skin.pieces]
        cloud = np.concatenate([np.asarray(p, float) for p in points] or [np.zeros((0, 3))])
        if not len(cloud):
            return _Scale(skeleton.places[head], 0.04 * skeleton.size)
        low, high = cloud.min(axis=0), cloud.max(axis=0)
        return _Scale(np.array([(low[0] + high[0]) / 2, low[1] + 0.55 * (high[1] - low[1]), high[2]]),
                      0.42 * float(high[0] - low[0]))  # fmt: skip

    def nearest(self, place: Array) -> str:
        """The zone that lies nearest to a place; nothing for what lies off the face, as hair does."""
        aside, up = (np.asarray(place, float) - self.middle)[:2] / self.apart
        side = "L" if aside > 0.15 else "R" if aside < -0.15 else ""
        far = {
            stem: float(np.hypot(abs(aside) - x, up - y)) for stem, (x, y) in _AT.items() if side or stem not in _BOTH
        }
        stem = min(far, key=lambda one: far[one])
        return _sided(stem, side) if far[stem] < 0.45 else ""


def _joints_of_face(plan: BodyPlan, skeleton: Skeleton) -> list[str]:
    """Joints below the head without a role, but for what hangs in rows, as hair does: names there tell, or a place."""
    used, head = set(plan.roles.values()), skeleton.index(plan.roles["head"])
    found = []
    for j, name in enumerate(skeleton.names):
        if name in used or not skeleton.is_above(head, j):
            continue
        alone = not skeleton.children[j] and skeleton.names[skeleton.parents[j]] in used
        paired = alone and counterpart_name(name) in skeleton.names and not _OFF.search(_told(name))
        if zone_called(name) or paired:
            found.append(name)
    return found


def moved_at(skin: Skin) -> dict[str, Array]:
    """By shape, where on the skin (3,) it moves most: the mean of the points that go at least half as far as any."""
    sums: dict[int, list[tuple[Array, Array]]] = {}
    for piece in skin.pieces:
        for morph in piece.morphs:
            sums.setdefault(morph.shape, []).append(
                (np.asarray(piece.points[morph.rows], float), np.linalg.norm(np.asarray(morph.moves, float), axis=1))
            )
    found = {}
    for number, parts in sums.items():
        points, far = np.concatenate([p for p, _ in parts]), np.concatenate([f for _, f in parts])
        if len(far) and far.max() > 0.0:
            found[skin.shapes[number]] = points[far >= 0.5 * far.max()].mean(axis=0)
    return found


def placed(plan: BodyPlan, skeleton: Skeleton, skin: Skin) -> BodyPlan:
    """The plan with where each zone of its face lies: at its first joint, or where its shapes move most."""
    moved = moved_at(skin)
    found: dict[str, Zone] = {}
    for name, zone in plan.face.items():
        joint = plan.roles.get(name) if name in BY_ROLE else next(iter(zone.joints), None)
        places = [moved[shape] for shape in zone.shapes if shape in moved]
        if joint is not None:
            place = skeleton.places[skeleton.index(joint)]
        elif places:
            place = np.mean(places, axis=0)
        else:
            place = skeleton.places[skeleton.index(plan.roles["head"])] if "head" in plan.roles else np.zeros(3)
        found[name] = replace(zone, at=(float(place[0]), float(place[1]), float(place[2])))
    return replace(plan, face=found)


def still_there(face: Mapping[str, Zone], plan: BodyPlan) -> dict[str, Zone]:
    """Zones without the joints that have a role in a plan, and without those that are empty then."""
    used = set(plan.roles.values())
    kept = {name: replace(zone, joints=tuple(j for j in zone.joints if j not in used)) for name, zone in face.items()}
    return {name: zone for name, zone in kept.items() if zone.joints or zone.shapes}


def outline_of(plan: BodyPlan, skeleton: Skeleton, skin: Skin) -> list[tuple[float, float]]:
    """The outline (x, y) of a face from the front at rest, metres: around what of the skin the head carries, with the
    jaw and what hangs on it, eyes and the joints of the zones. Nothing of what has no head.
    """
    if plan.is_prop or "head" not in plan.roles:
        return []
    names = {plan.roles[role] for role in ("head", *BY_ROLE) if role in plan.roles}
    names |= {joint for zone in plan.face.values() for joint in zone.joints}
    if "jaw" in plan.roles:
        jaw = skeleton.index(plan.roles["jaw"])
        names |= {name for j, name in enumerate(skeleton.names) if skeleton.is_above(jaw, j)}
    mine = np.array([name in names for name in skeleton.names])
    parts = [piece.points[(piece.weights * mine[piece.joints]).sum(axis=1) > 0.5] for piece in skin.pieces]
    cloud = np.concatenate(parts)[:, :2].astype(float) if parts else np.zeros((0, 2))
    if len(cloud) < 3 or float(np.ptp(cloud, axis=0).min()) <= 0.0:
        return []
    # As far as it reaches to both sides, level by level, from above down on the left and up again on the right.
    level = np.clip(((cloud[:, 1].max() - cloud[:, 1]) / np.ptp(cloud[:, 1]) * _LEVELS).astype(int), 0, _LEVELS - 1)
    sides: tuple[list[tuple[float, float]], list[tuple[float, float]]] = ([], [])
    top, step = float(cloud[:, 1].max()), float(np.ptp(cloud[:, 1])) / _LEVELS
    for n in range(_LEVELS):
        here = cloud[np.abs(level - n) <= 1]  # of a level and those beside it, so that few points leave no gaps
        if len(here):
            for side, x in zip(sides, (here[:, 0].max(), here[:, 0].min()), strict=True):
                side.append((float(x), top - (n + 0.5) * step))
    return [*sides[0], *reversed(sides[1])]


def check_face(plan: BodyPlan, skeleton: Skeleton) -> None:
    """Raises :class:`~hame.errors.BadPlan` with the first of :func:`face_problems`, if there is one."""
    for reason in face_problems(plan, skeleton).values():
        raise BadPlan(f"{reason}. Nothing was changed")


def face_problems(plan: BodyPlan, skeleton: Skeleton) -> dict[str, str]:
    """What is wrong with the zones of a plan, by zone: such as no face has, joints and shapes that are not there or
    belong to two."""
    used, shapes = {joint: role for role, joint in plan.roles.items()}, {shape[0] for shape in plan.shapes}
    taken: dict[str, str] = {}
    bad: dict[str, str] = {}

    def refuse(zone: str, reason: str) -> None:
        bad.setdefault(zone, reason)

    for name, zone in plan.face.items():
        if name not in ZONES:
            refuse(name, f"a face has no zone called {name}")
        if plan.is_prop:
            refuse(name, "a prop has no face")
        if name in BY_ROLE and zone.joints:
            refuse(name, f"the joint of {name} is the one of its role in the body")
        for joint in zone.joints:
            if joint not in skeleton.names:
                refuse(name, f"the skeleton has no joint called {joint}")
            elif joint in used:
                refuse(name, f"{joint} is {used[joint]} already; a joint of the face has no other role")
        for shape in zone.shapes:
            if shape not in shapes:
                refuse(name, f"the skin has no shape called {shape}")
        for member in (*(f"joint {joint}" for joint in zone.joints), *(f"shape {shape}" for shape in zone.shapes)):
            if member in taken:
                refuse(name, f"the {member} is in {taken[member]} and in {name}; one zone moves it")
            taken[member] = name
    return bad


def zone_of_joint(plan: BodyPlan, joint: str) -> str:
    """The zone that a joint belongs to, or nothing."""
    return next((name for name, zone in plan.face.items() if joint in zone.joints), "")


def label_of(zone: str) -> str:
    """What a person calls a zone: ``brow.L.inner`` is the left brow, inner."""
    words = zone.split(".")
    side = next((word for word in words if word in "LR"), "")
    first, *rest = [word for word in words if word not in "LR"]
    named = {"corner": "mouth corner"}.get(first, first)
    if not side and first in _PAIRS:
        named += "s"
    return " ".join(filter(None, [{"L": "left", "R": "right"}.get(side, ""), named, *rest]))
