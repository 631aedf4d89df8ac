"""Things of Skerry Light: an oil can with a lid, and a signal lamp with a lid before its light and a crank."""

from __future__ import annotations

from math import cos, pi, sin

import numpy as np

from hame.character.skeleton import Skeleton
from hame.character.skin import Material, Skin
from hame.demo.body import Point, Points, bone, colour, skeleton_of
from hame.demo.boxes import Board, Rod, joined
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


WOOD, OLD_WOOD, IRON, HEMP = range(4)
OF_WOOD = (
    Material("pale wood", colour("B98F5A"), 0.85),
    Material("old wood", colour("8A6239"), 0.85),
    Material("black iron", colour("39434B"), 0.6, 0.4),
    Material("hemp", colour("B8A272"), 0.95),
)


def crate() -> tuple[Skeleton, Skin]:
    """A crate of half a metre, of boards on a frame, with a lid that opens on hinges behind."""
    at: Points = {"crate": (0, 0, 0), "lid": (0, 0.46, -0.24)}
    skeleton = skeleton_of(at, {"lid": "crate"})
    parts: list[Board | Rod] = [Board("crate", OLD_WOOD, (0, 0.03, 0), (0.46, 0.02, 0.46))]
    for n in range(4):
        y = 0.075 + 0.112 * n
        for sign in (1.0, -1.0):
            parts.append(Board("crate", WOOD, (0, y, 0.235 * sign), (0.47, 0.1, 0.018)))
            parts.append(Board("crate", WOOD, (0.235 * sign, y, 0), (0.018, 0.1, 0.47)))
    for x in (-0.24, 0.24):
        parts += [Board("crate", OLD_WOOD, (x, 0.23, z), (0.04, 0.46, 0.04)) for z in (-0.24, 0.24)]
    parts += [Board("lid", WOOD, (-0.18 + 0.12 * n, 0.472, 0), (0.112, 0.02, 0.5)) for n in range(4)]
    parts += [Board("lid", OLD_WOOD, (0, 0.49, z), (0.46, 0.016, 0.05)) for z in (-0.16, 0.16)]
    parts += [Rod("crate", IRON, (x - 0.03, 0.466, -0.255), (x + 0.03, 0.466, -0.255), 0.008) for x in (-0.15, 0.15)]
    return skeleton, joined(parts, OF_WOOD, skeleton)


def step() -> tuple[Skeleton, Skin]:
    """A step of 18 cm, as it stands before a door."""
    skeleton = skeleton_of({"step": (0, 0, 0)}, {})
    parts: list[Board | Rod] = [
        Board("step", WOOD, (0, 0.168, 0), (0.9, 0.024, 0.36)),
        Board("step", OLD_WOOD, (0, 0.078, 0.15), (0.84, 0.156, 0.022)),
        *(Board("step", OLD_WOOD, (x, 0.078, 0), (0.03, 0.156, 0.32)) for x in (-0.4, 0.4)),
    ]
    return skeleton, joined(parts, OF_WOOD, skeleton)


RUNGS = 10
RUNG_GAP = 0.28


def ladder() -> tuple[Skeleton, Skin]:
    """A ladder of three metres with ten rungs, each a joint of its own, so that hands and feet find them."""
    at: Points = {"ladder": (0, 0, 0)}
    up = {}
    for n in range(1, RUNGS + 1):
        at[f"rung {n}"] = (0, RUNG_GAP * n, 0)
        up[f"rung {n}"] = "ladder"
    skeleton = skeleton_of(at, up)
    top = RUNG_GAP * RUNGS + 0.22
    parts: list[Board | Rod] = [Board("ladder", OLD_WOOD, (x, top / 2, 0), (0.036, top, 0.06)) for x in (-0.22, 0.22)]
    parts += [
        Rod(f"rung {n}", WOOD, (-0.225, RUNG_GAP * n, 0), (0.225, RUNG_GAP * n, 0), 0.017) for n in range(1, RUNGS + 1)
    ]
    return skeleton, joined(parts, OF_WOOD, skeleton)


RAIL = 0.96  # metres: how high its bar is


def rail() -> tuple[Skeleton, Skin]:
    """A length of the gallery's rail: two posts, a bar to hold on to and one below it."""
    skeleton = skeleton_of({"rail": (0, 0, 0)}, {})
    parts: list[Board | Rod] = [Board("rail", OLD_WOOD, (x, 0.47, 0), (0.055, 0.94, 0.055)) for x in (-0.62, 0.62)]
    parts += [Board("rail", OLD_WOOD, (x, 0.02, 0), (0.13, 0.04, 0.13)) for x in (-0.62, 0.62)]
    parts += [
        Rod("rail", WOOD, (-0.72, RAIL - 0.02, 0), (0.72, RAIL - 0.02, 0), 0.022, 12),
        Rod("rail", IRON, (-0.62, 0.5, 0), (0.62, 0.5, 0), 0.012, 8),
    ]
    return skeleton, joined(parts, OF_WOOD, skeleton)


STEPS, RISE, TREAD = 4, 0.17, 0.33  # of the gallery's stair
DECK = STEPS * RISE  # metres: how high it is
WIDE, LONG = 3.6, 7.4  # metres from its middle to a side, and from its stair to its far end


def gallery() -> tuple[Skeleton, Skin]:
    """The gallery about the lamp: a deck with a stair up to it, all in one piece, and posts along its far sides."""
    skeleton = skeleton_of({"gallery": (0, 0, 0)}, {})
    begins = STEPS * TREAD
    parts: list[Board | Rod] = [
        Board("gallery", OLD_WOOD, (0, 0.5 * RISE * (n + 1), TREAD * (n + 0.5)), (1.5, RISE * (n + 1), TREAD))
        for n in range(STEPS)
    ]
    parts.append(Board("gallery", WOOD, (0, DECK - 0.05, begins + 0.5 * LONG), (2.0 * WIDE, 0.1, LONG)))
    parts += [
        Board("gallery", OLD_WOOD, (x, 0.5 * (DECK - 0.1), begins + z), (0.14, DECK - 0.1, 0.14))
        for x in (-WIDE + 0.1, -0.9, 0.9, WIDE - 0.1) for z in (0.1, 0.5 * LONG, LONG - 0.1)
    ]  # fmt: skip
    posts = [(sign * (WIDE - 0.06), begins + z) for sign in (-1.0, 1.0) for z in np.linspace(0.1, LONG - 0.06, 6)]
    posts += [(x, begins + LONG - 0.06) for x in np.linspace(-WIDE + 1.4, WIDE - 1.4, 4)]
    parts += [Rod("gallery", IRON, (x, DECK, float(z)), (x, DECK + 0.9, float(z)), 0.018, 8) for x, z in posts]
    corners = [(-WIDE + 0.06, begins + 0.1), (-WIDE + 0.06, begins + LONG - 0.06), (WIDE - 0.06, begins + LONG - 0.06),
               (WIDE - 0.06, begins + 0.1)]  # fmt: skip
    for high in (0.5, 0.9):
        parts += [
            Rod("gallery", IRON, (a[0], DECK + high, a[1]), (b[0], DECK + high, b[1]), 0.014, 8)
            for a, b in zip(corners[:-1], corners[1:], strict=True)
        ]
    return skeleton, joined(parts, OF_WOOD, skeleton)


def gangway() -> tuple[Skeleton, Skin]:
    """A gangway up to a boat: planks that rise by a sixth of their length, with cleats across and a trestle."""
    skeleton = skeleton_of({"gangway": (0, 0, 0)}, {})
    long, lean = 3.2, 0.17
    rise = long * float(np.sin(lean))
    parts: list[Board | Rod] = [
        Board("gangway", WOOD, (0.31 * n, 0.5 * rise - 0.025, 0.0), (0.3, 0.05, long), (-lean, 0.0, 0.0))
        for n in (-1, 0, 1)
    ]
    parts += [Board("gangway", OLD_WOOD, (x, 0.5 * rise - 0.06, 1.35), (0.08, rise - 0.1, 0.08)) for x in (-0.4, 0.4)]
    parts.append(Board("gangway", OLD_WOOD, (0, rise - 0.13, 1.35), (0.9, 0.08, 0.08)))
    return skeleton, joined(parts, OF_WOOD, skeleton)


LAMP_HOOK = 2.36  # metres: where the lamp on the post hangs


def lamp_post() -> tuple[Skeleton, Skin]:
    """A post with a lamp on its arm, which swings on its hook; its little door opens."""
    at: Points = {"post": (0, 0, 0), "lamp": (0, LAMP_HOOK, 0.42), "door": (0.07, LAMP_HOOK - 0.2, 0.49)}
    skeleton = skeleton_of(at, {"lamp": "post", "door": "lamp"})
    y, z = LAMP_HOOK, 0.42
    parts: list[Board | Rod] = [
        Board("post", OLD_WOOD, (0, 1.28, 0), (0.09, 2.56, 0.09)),
        Board("post", OLD_WOOD, (0, 0.03, 0), (0.3, 0.06, 0.3)),
        Rod("post", IRON, (0, y + 0.09, 0), (0, y + 0.09, z + 0.05), 0.014, 8),
        Rod("post", IRON, (0, y - 0.22, 0.045), (0, y + 0.09, 0.3), 0.01, 8),
        Rod("lamp", IRON, (0, y + 0.09, z), (0, y - 0.06, z), 0.006, 6),
        Board("lamp", IRON, (0, y - 0.08, z), (0.17, 0.035, 0.17)),
        Board("lamp", IRON, (0, y - 0.33, z), (0.17, 0.03, 0.17)),
        Board("lamp", HEMP, (0, y - 0.2, z), (0.1, 0.2, 0.1)),
        *(Board("lamp", IRON, (a, y - 0.2, z + b), (0.016, 0.24, 0.016)) for a in (-0.07, 0.07) for b in (-0.07, 0.07)),
        Board("door", IRON, (0, y - 0.2, z + 0.076), (0.13, 0.03, 0.008)),
    ]
    return skeleton, joined(parts, OF_WOOD, skeleton)


def rope() -> tuple[Skeleton, Skin]:
    """A coil of rope, with an end that hangs out of it in three joints."""
    at: Points = {"coil": (0, 0, 0), "end 1": (0.2, 0.07, 0), "end 2": (0.34, 0.03, 0.02), "end 3": (0.48, 0.014, 0.05)}
    skeleton = skeleton_of(at, {"end 1": "coil", "end 2": "end 1", "end 3": "end 2"})
    parts: list[Board | Rod] = []
    for layer in range(4):
        radius, height = 0.2 - 0.012 * (layer % 2), 0.016 + 0.03 * layer
        ring = [(radius * cos(a), height, radius * sin(a)) for a in (2 * pi * n / 20 for n in range(21))]
        parts += [Rod("coil", HEMP, a, b, 0.017, 8) for a, b in zip(ring, ring[1:], strict=False)]
    tail = [(0.2, 0.1, 0.0), at["end 1"], at["end 2"], at["end 3"], (0.6, 0.014, 0.1)]
    joints = ["coil", "end 1", "end 2", "end 3"]
    parts += [Rod(j, HEMP, a, b, 0.016, 8) for j, a, b in zip(joints, tail, tail[1:], strict=False)]
    return skeleton, joined(parts, OF_WOOD, skeleton)


def bollard() -> tuple[Skeleton, Skin]:
    """An iron bollard of 42 cm, of the kind that boats are made fast to."""
    skeleton = skeleton_of({"bollard": (0, 0, 0)}, {})
    parts: list[Board | Rod] = [
        Board("bollard", IRON, (0, 0.012, 0), (0.34, 0.024, 0.34)),
        Rod("bollard", IRON, (0, 0.02, 0), (0, 0.34, 0), 0.085, 18),
        Rod("bollard", IRON, (0, 0.3, 0), (0, 0.4, 0), 0.125, 18),
        Rod("bollard", IRON, (-0.2, 0.33, 0), (0.2, 0.33, 0), 0.035, 12),
        Rod("bollard", HEMP, (0, 0.1, 0), (0, 0.19, 0), 0.1, 18),
    ]
    return skeleton, joined(parts, OF_WOOD, skeleton)


def boat_hook() -> tuple[Skeleton, Skin]:
    """A pole of two metres with an iron spike and hook, to stand with on watch and to fetch boats in with."""
    skeleton = skeleton_of({"boat-hook": (0, 0, 0)}, {})
    bend = [(0.018 + 0.06 * sin(a), 1.92 + 0.06 * cos(a) - 0.06, 0.0) for a in (pi * n / 8 for n in range(9))]
    parts: list[Board | Rod] = [
        Rod("boat-hook", WOOD, (0, 0.0, 0), (0, 1.86, 0), 0.019, 12),
        Rod("boat-hook", HEMP, (0, 0.98, 0), (0, 1.16, 0), 0.023, 12),
        Rod("boat-hook", IRON, (0, 1.78, 0), (0, 1.94, 0), 0.022, 12),
        Rod("boat-hook", IRON, (0, 1.93, 0), (0, 2.06, 0), 0.011, 8),
        *(Rod("boat-hook", IRON, a, b, 0.01, 8) for a, b in zip(bend, bend[1:], strict=False)),
    ]
    return skeleton, joined(parts, OF_WOOD, skeleton)


def shot_camera() -> tuple[Skeleton, Skin]:
    """A camera on a stand, whose head moves and turns by itself; it looks along its z axis."""
    at: Points = {"stand": (0, 0, 0), "camera": (0, 1.45, 0)}
    skeleton = skeleton_of(at, {"camera": "stand"})
    parts: list[Board | Rod] = [
        Rod("stand", IRON, (0, 0.62, 0), (0, 1.33, 0), 0.02, 10),
        *(Rod("stand", OLD_WOOD, (0, 0.7, 0), (0.36 * sin(a), 0.01, 0.36 * cos(a)), 0.016, 8)
          for a in (0.0, 2 * pi / 3, 4 * pi / 3)),
        Board("camera", IRON, (0, 1.45, -0.02), (0.15, 0.17, 0.26)),
        Rod("camera", IRON, (0, 1.46, 0.1), (0, 1.46, 0.22), 0.045, 14),
        Rod("camera", HEMP, (0, 1.46, 0.2), (0, 1.46, 0.226), 0.052, 14),
        Board("camera", OLD_WOOD, (0, 1.56, -0.03), (0.03, 0.05, 0.18)),
    ]  # fmt: skip
    return skeleton, joined(parts, OF_WOOD, skeleton)


# What every production may take things from, by the name that each has there.
SACKING = (Material("sacking", colour("B59B6C"), 0.95), Material("twine", colour("6E5B3A"), 0.9))
SACK, TWINE = range(2)


def sack() -> tuple[Skeleton, Skin]:
    """A full sack of 90 cm that lies on its side, tied at both ends, with ears to take hold of."""
    skeleton = skeleton_of({"sack": (0, 0, 0)}, {})
    own = bone("sack")
    parts = [
        Part(SACK, own, (-0.24, 0.16, 0), (0.02, 0.165, 0.01), 0.155, 0.16, group="sack", blend=0.05),
        Part(SACK, own, (0.02, 0.165, 0.01), (0.26, 0.158, 0), 0.16, 0.15, group="sack", blend=0.05),
        Part(SACK, own, (0.05, 0.15, 0.05), (0.2, 0.15, 0.05), 0.135, 0.13, group="sack", blend=0.06),
    ]
    for sign in (-1.0, 1.0):
        parts += [
            Part(SACK, own, (0.33 * sign, 0.16, 0), (0.405 * sign, 0.165, 0), 0.075, 0.03, group="sack", blend=0.06),
            Part(TWINE, own, (0.402 * sign, 0.166, 0), (0.412 * sign, 0.166, 0), 0.034, 0.034, group=f"tie {sign}",
                 blend=0.004),
            Part(SACK, own, (0.415 * sign, 0.167, 0), (0.46 * sign, 0.175, 0.03), 0.026, 0.034, group=f"ear {sign}",
                 blend=0.01),
            Part(SACK, own, (0.415 * sign, 0.167, 0), (0.46 * sign, 0.17, -0.03), 0.026, 0.034, group=f"ear {sign}",
                 blend=0.01),
        ]  # fmt: skip
    return skeleton, sculpt(parts, SACKING, skeleton, 2600, 0.007, rigid=True)


SHELF = {
    "Oil can": oil_can, "Signal lamp": signal_lamp, "Crate": crate, "Coil of rope": rope, "Ladder": ladder,
    "Step": step, "Rail": rail, "Lamp post": lamp_post, "Shot camera": shot_camera,
    "Bollard": bollard, "Boat-hook": boat_hook, "Sack": sack,
    "Gallery": gallery, "Gangway": gangway,
}  # fmt: skip
