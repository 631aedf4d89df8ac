"""What the demo characters share: an arm with its hand, two sides made from one, and parts for fingers."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from hame.character import skeleton as skeletons
from hame.character.skeleton import Skeleton
from hame.demo.figure import Part
from hame.maths import transforms
from hame.maths.rotations import Array

Point = tuple[float, float, float]
Points = dict[str, Point]
Parents = dict[str, str]


def colour(code: str) -> tuple[float, float, float, float]:
    """Linear RGBA of an sRGB hex code."""
    srgb = [int(code[i : i + 2], 16) / 255 for i in (0, 2, 4)]
    r, g, b = (c / 12.92 if c <= 0.04045 else ((c + 0.055) / 1.055) ** 2.4 for c in srgb)
    return r, g, b, 1.0


def _vector(p: Point) -> Array:
    return np.array(p, float)


def bone(*names: str) -> tuple[tuple[str, float], ...]:
    """Joints that carry a part alike."""
    return tuple((name, 1.0) for name in names)


def between(at: Mapping[str, Point], a: str, b: str, t: float) -> Point:
    """The point ``t`` of the way from one joint to another; beyond 1 it lies past the second."""
    p = _vector(at[a]) * (1 - t) + _vector(at[b]) * t
    return float(p[0]), float(p[1]), float(p[2])


def hang_arm(at: Points, up: Parents, height: float, hand: float = 1.0) -> None:
    """Adds the left arm below ``upper_arm_l``, held a little away from the body, lengths after Drillis and Contini.

    ``hand`` makes the hand larger or smaller.
    """

    def tell(name: str, parent: str, place: Array) -> None:
        at[name], up[name] = (float(place[0]), float(place[1]), float(place[2])), parent

    down = np.array([0.76, -0.65, -0.03])
    down /= np.linalg.norm(down)
    shoulder = _vector(at["upper_arm_l"])
    elbow = shoulder + 0.186 * height * down
    fore = np.array([0.72, -0.66, 0.17])
    fore /= np.linalg.norm(fore)
    wrist = elbow + 0.146 * height * fore
    tell("upper_arm_twist_l", "upper_arm_l", shoulder + 0.5 * (elbow - shoulder))
    tell("forearm_l", "upper_arm_l", elbow)
    tell("forearm_twist_l", "forearm_l", elbow + 0.55 * (wrist - elbow))
    tell("hand_l", "forearm_l", wrist)
    # The hand: along the fingers, towards the thumb's side, out of the palm.
    along = np.array([0.70, -0.69, 0.17])
    along /= np.linalg.norm(along)
    front = np.array([0.0, 0.0, 1.0]) - along[2] * along
    front /= np.linalg.norm(front)
    palm = np.cross(-front, along)
    fingers = {"index": (0.036, 0.098, 0.088), "middle": (0.012, 0.102, 0.096), "ring": (-0.012, 0.098, 0.09),
               "little": (-0.035, 0.088, 0.072)}  # fmt: skip
    for finger, (side, out, length) in fingers.items():
        base = wrist + hand * (out * along + side * front - 0.004 * palm)
        way = along + 1.5 * side * front
        for number, share in enumerate((0.0, 0.45, 0.3)):
            bent = way + 0.16 * number * palm
            base = base + hand * share * length * bent / np.linalg.norm(bent)
            parent = "hand_l" if number == 0 else f"{finger}_{number}_l"
            tell(f"{finger}_{number + 1}_l", parent, base)
    base = wrist + hand * (0.03 * along + 0.036 * front + 0.012 * palm)
    for number, (length, way) in enumerate(
        ((0.0, along), (0.046, along + 0.95 * front + 0.35 * palm), (0.036, along + 0.6 * front + 0.45 * palm))
    ):
        base = base + hand * length * way / np.linalg.norm(way)
        tell(f"thumb_{number + 1}_l", "hand_l" if number == 0 else f"thumb_{number}_l", base)


def right_of(name: str) -> str:
    """The name of a joint on the other side."""
    return name[:-2] + "_r" if name.endswith("_l") else name


def both_sides(at: Points, up: Parents) -> tuple[Points, Parents]:
    """Left and middle joints with the right ones mirrored from them, in an order in which parents come first."""
    at, up = dict(at), dict(up)
    for name in list(at):
        if name.endswith("_l"):
            x, y, z = at[name]
            at[right_of(name)] = (-x, y, z)
            up[right_of(name)] = right_of(up[name])
    order: list[str] = []
    while len(order) < len(at):
        order += [n for n in at if n not in order and (up.get(n) is None or up[n] in order)]
    return {name: at[name] for name in order}, up


def skeleton_of(at: Points, up: Parents) -> Skeleton:
    """A skeleton of joints at places in the world, with the world's axes at rest."""
    names = list(at)
    parents = [names.index(up[name]) if name in up else -1 for name in names]
    rest = np.array([
        transforms.transform(_vector(at[name]) - (_vector(at[up[name]]) if name in up else 0)) for name in names
    ])  # fmt: skip
    return skeletons.build(names, parents, rest)


def mirrored(part: Part) -> Part:
    """The same part on the right."""

    def flip(p: Point) -> Point:
        return -p[0], p[1], p[2]

    bones = tuple((right_of(name), share) for name, share in part.bones)
    return Part(part.material, bones, flip(part.a), None if part.b is None else flip(part.b), part.ra, part.rb,
                part.radii, part.flat, part.group.replace("left", "right"), part.blend, part.cut)  # fmt: skip


def finger_parts(at: Mapping[str, Point], material: int, widths: Mapping[str, float]) -> list[Part]:
    """Three tapered pieces a finger, for the left hand."""
    found = []
    for finger, radius in widths.items():
        names = [f"{finger}_{n}_l" for n in (1, 2, 3)]
        tip = between(at, names[1], names[2], 1.95 if finger == "thumb" else 1.85)
        ends = [at[names[0]], at[names[1]], at[names[2]], tip]
        for n in range(3):
            found.append(
                Part(material, bone(names[n]), ends[n], ends[n + 1], radius * (1 - 0.06 * n),
                    radius * (0.96 - 0.08 * n),
                     group=f"left {finger}", blend=0.004)
            )  # fmt: skip
    return found
