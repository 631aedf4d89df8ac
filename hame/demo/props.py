"""Things of Skerry Light: an oil can with a lid, and a signal lamp with a lid before its light and a crank."""

from __future__ import annotations

from math import cos, pi, sin

from hame.character.skeleton import Skeleton
from hame.character.skin import Material, Skin
from hame.demo.body import Point, Points, bone, colour, skeleton_of
from hame.demo.figure import Part, sculpt

TIN, BRASS, DARK, GLASS = range(4)
MATERIALS = (
    Material("tin", colour("7D8C8F"), 0.45, 0.5),
    Material("brass", colour("C9A227"), 0.35, 0.6),
    Material("dark iron", colour("39434B"), 0.7),
    Material("glass", colour("E8E3C8"), 0.2),
)


def _ring(joint: str, material: int, middle: Point, radius: float, thick: float, group: str, upright: bool = True,
          first: float = 0.0, last: float = 2 * pi) -> list[Part]:  # fmt: skip
    """A bent rod: round a point, in a plane that stands across x (upright) or lies flat."""
    count = max(int((last - first) / 0.35), 4)

    def at(n: int) -> Point:
        angle = first + (last - first) * n / count
        u, v = radius * cos(angle), radius * sin(angle)
        x, y, z = middle
        return (x, y + v, z + u) if upright else (x + u, y, z + v)

    return [Part(material, bone(joint), at(n), at(n + 1), thick, thick, group=group, blend=0.004) for n in range(count)]


def oil_can() -> tuple[Skeleton, Skin]:
    """A can of 30 cm with a long spout, a handle behind, and a lid that opens."""
    at: Points = {"can": (0, 0, 0), "lid": (0, 0.243, -0.045)}
    skeleton = skeleton_of(at, {"lid": "can"})
    can, lid = bone("can"), bone("lid")
    parts = [
        Part(TIN, can, (0, 0.085, 0), (0, 0.12, 0), 0.088, 0.085, group="can", blend=0.02),
        Part(TIN, can, (0, 0.12, 0), (0, 0.165, 0), 0.085, 0.055, group="can", blend=0.03),
        Part(BRASS, can, (0, 0.012, 0), radii=(0.092, 0.012, 0.092), group="foot", blend=0.004),
        Part(BRASS, can, (0, 0.1, 0.06), (0, 0.19, 0.17), 0.02, 0.012, group="spout", blend=0.02),
        Part(BRASS, can, (0, 0.19, 0.17), (0, 0.285, 0.2), 0.012, 0.007, group="spout", blend=0.02),
        *_ring("can", DARK, (0, 0.125, -0.075), 0.075, 0.011, "handle", first=0.62 * pi, last=1.4 * pi),
        Part(TIN, can, (0, 0.15, 0), (0, 0.176, 0), 0.062, 0.045, group="can", blend=0.02),
        Part(BRASS, can, (0, 0.216, 0), radii=(0.045, 0.012, 0.045), group="collar", blend=0.004),
        Part(BRASS, lid, (0, 0.247, 0), radii=(0.046, 0.0095, 0.046), group="lid", blend=0.004),
        Part(BRASS, lid, (0, 0.263, 0), radii=(0.011, 0.012, 0.011), group="lid", blend=0.006),
    ]
    return skeleton, sculpt(parts, MATERIALS, skeleton, 2600, 0.0035, rigid=True)


def signal_lamp() -> tuple[Skeleton, Skin]:
    """A lamp of 60 cm on a foot: its head turns, a lid swings before the glass, and a crank stands out at its side."""
    at: Points = {"foot": (0, 0, 0), "head": (0, 0.36, 0), "lid": (0, 0.555, 0.16), "crank": (0.13, 0.42, 0)}
    skeleton = skeleton_of(at, {"head": "foot", "lid": "head", "crank": "head"})
    foot, head, lid, crank = (bone(name) for name in at)
    parts = [
        Part(DARK, foot, (0, 0.022, 0), radii=(0.15, 0.022, 0.15), group="foot", blend=0.006),
        Part(DARK, foot, (0, 0.03, 0), (0, 0.3, 0), 0.032, 0.026, group="foot", blend=0.05),
        Part(BRASS, foot, (0, 0.315, 0), radii=(0.05, 0.02, 0.05), group="collar", blend=0.005),
        Part(TIN, head, (0, 0.43, -0.04), (0, 0.43, 0.05), 0.11, 0.105, group="head", blend=0.02),
        Part(TIN, head, (0, 0.545, 0), (0, 0.59, 0), 0.045, 0.032, group="head", blend=0.03),
        Part(BRASS, head, (0, 0.6, 0), radii=(0.05, 0.014, 0.05), group="chimney", blend=0.004),
        *_glass(head),
        Part(DARK, lid, (0, 0.44, 0.188), radii=(0.1, 0.112, 0.011), group="lid", blend=0.004),
        Part(DARK, lid, (-0.05, 0.556, 0.172), (0.05, 0.556, 0.172), 0.012, 0.012, group="hinge", blend=0.004),
        Part(BRASS, crank, (0.134, 0.42, 0), (0.165, 0.42, 0), 0.013, 0.013, group="crank", blend=0.006),
        Part(BRASS, crank, (0.165, 0.42, 0), (0.165, 0.33, 0), 0.012, 0.012, group="crank", blend=0.006),
        Part(DARK, crank, (0.17, 0.33, 0), (0.245, 0.33, 0), 0.018, 0.017, group="grip", blend=0.004),
    ]
    return skeleton, sculpt(parts, MATERIALS, skeleton, 3600, 0.005, rigid=True)


def _glass(head: tuple[tuple[str, float], ...]) -> list[Part]:
    return [
        Part(BRASS, head, (0, 0.43, 0.125), radii=(0.098, 0.098, 0.02), group="rim", blend=0.004),
        Part(GLASS, head, (0, 0.43, 0.14), radii=(0.08, 0.08, 0.018), group="glass", blend=0.003),
    ]
