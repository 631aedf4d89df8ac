"""The brittle star of Skerry Light's rock pools: a disc no larger than a biscuit, on five arms of nine joints."""

from __future__ import annotations

from math import cos, pi, sin

from hame.character.skeleton import Skeleton
from hame.character.skin import Material, Skin
from hame.demo.body import Parents, Point, Points, bone, colour, skeleton_of
from hame.demo.figure import Part, sculpt

DISC, RIM, ARM, BAND, SPINE, EYE = range(6)

MATERIALS = (
    Material("disc", colour("7A4B5C"), 0.7),
    Material("disc rim", colour("B9707B"), 0.7),
    Material("arms", colour("8E5A66"), 0.75),
    Material("arm bands", colour("E2C3A6"), 0.8),
    Material("spines", colour("D8B7A4"), 0.8),
    Material("eyespots", colour("2A2024"), 0.4),
)
ARMS, JOINTS = 5, 9
# Metres: how high it stands, where arms begin, how long their bones are, and how far they wind aside.
_HIGH, _FROM, _BONE, _WINDS = 0.035, 0.055, 0.04, 0.038


def _points() -> tuple[Points, Parents]:
    at: Points = {"floor": (0, 0, 0), "pelvis": (0, _HIGH, 0)}
    up: Parents = {"pelvis": "floor"}
    for arm in range(ARMS):
        for n in range(JOINTS):
            name = f"arm{arm + 1}_{n + 1}"
            at[name] = _place(arm, n)
            up[name] = f"arm{arm + 1}_{n}" if n else "pelvis"
    return at, up


def _place(arm: int, n: int) -> Point:
    """Where a joint of an arm lies, or its end: the arm comes down from the disc to the ground, and winds."""
    x, z = _way(arm)
    far, high = _FROM + _BONE * n, _HIGH * max(1.0 - (n / JOINTS) ** 1.5, 0.0) + 0.006
    aside = _WINDS * sin(2.0 * pi * n / JOINTS)
    return far * x + aside * z, high, far * z - aside * x


def _way(arm: int) -> tuple[float, float]:
    """Which way an arm goes (x, z): the first straight ahead, the others round to its left."""
    angle = 2.0 * pi * arm / ARMS
    return sin(angle), cos(angle)


def skeleton() -> Skeleton:
    """Its joints, lying on the ground."""
    return skeleton_of(*_points())


def parts() -> list[Part]:
    """The shapes that it is made of."""
    at, _ = _points()
    disc = bone("pelvis")
    made = [
        Part(DISC, disc, (0, _HIGH + 0.004, 0), radii=(0.066, 0.021, 0.066), group="disc", blend=0.01),
        Part(RIM, disc, (0, _HIGH, 0), radii=(0.071, 0.012, 0.071), group="rim", blend=0.006),
    ]
    for arm in range(ARMS):
        x, z = _way(arm)
        made.append(Part(EYE, disc, (0.045 * x, _HIGH + 0.02, 0.045 * z), radii=(0.008, 0.006, 0.008),
                         group=f"eye {arm}", blend=0.002))  # fmt: skip
        for n in range(JOINTS):
            name = f"arm{arm + 1}_{n + 1}"
            here, end = at[name], _place(arm, n + 1)
            wide, thin = (0.0165 * (1.0 - (n + k) / (JOINTS + 2.5)) for k in (0, 1))
            made.append(
                Part(ARM, bone(name), here, end, wide, thin, flat=(1, 0.85, 1), group=f"arm {arm}", blend=0.006)
            )
            if n % 2:
                middle: Point = tuple((a + b) / 2 for a, b in zip(here, end, strict=True))  # type: ignore[assignment]
                made.append(Part(BAND, bone(name), here, middle, wide + 0.0016, wide + 0.0008, flat=(1, 0.85, 1),
                                 group=f"band {arm}", blend=0.003))  # fmt: skip
            for side in (1.0, -1.0):
                out: Point = (end[0] + side * 0.02 * z, end[1] + 0.004, end[2] - side * 0.02 * x)
                made.append(Part(SPINE, bone(name), end, out, 0.0042, 0.0016, group=f"spines {arm}", blend=0.002))
    return made


def skin(triangles: int = 4_500) -> Skin:
    """Its surface; takes half a minute."""
    return sculpt(parts(), MATERIALS, skeleton(), triangles, step=0.003)
