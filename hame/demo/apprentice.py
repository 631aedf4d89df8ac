"""Wick, the apprentice of Skerry Light: lanky, in a knitted jumper and rolled trousers, with a cap and a long scarf.

Lengths of thigh, shank, upper arm and forearm follow Drillis and Contini for a
height of 1.78 m; he is narrow, and his hands, feet, ears and nose are large for him.
"""

from __future__ import annotations

from hame.character.skeleton import Skeleton
from hame.character.skin import Material, Skin
from hame.demo.body import (
    Parents,
    Point,
    Points,
    between,
    bone,
    both_sides,
    colour,
    finger_parts,
    hang_arm,
    mirrored,
    skeleton_of,
)  # fmt: skip
from hame.demo.faces import Head, with_face
from hame.demo.figure import Part, sculpt

HEIGHT = 1.78
JUMPER, BAND, TROUSERS, SOCKS, BOOTS, SKIN, HAIR, CAP, SCARF, FRINGE, WHITE, IRIS, SOLE = range(13)

MATERIALS = (
    Material("jumper", colour("3F6C7A"), 0.95),
    Material("jumper band", colour("E6DCC6"), 0.95),
    Material("trousers", colour("6B5A48"), 0.95),
    Material("socks", colour("C9BBA0"), 0.95),
    Material("boots", colour("3B3331"), 0.6),
    Material("skin", colour("E7B48F"), 0.8),
    Material("hair", colour("B5652B"), 0.9),
    Material("cap", colour("8A3B34"), 0.95),
    Material("scarf", colour("D9A441"), 0.95),
    Material("scarf fringe", colour("A8552F"), 0.95),
    Material("eye white", colour("FBFAF6"), 0.3),
    Material("iris", colour("2B4A3A"), 0.3),
    Material("sole", colour("221D1C"), 0.8),
)

HEAD = Head(
    eye=(0.033, 1.668, 0.079), radii=(0.0195, 0.0225, 0.0175), brow=(0.033, 1.701, 0.082), long=0.024,
    mouth=(0.0, 1.607), wide=0.022, lid=Material("lid", colour("D9A98C"), 0.8),
    lip=Material("lip", colour("C07B6B"), 0.7),
    inside=Material("mouth", colour("3A1A18"), 0.9), soft=(MATERIALS[SKIN], MATERIALS[HAIR]),
    eyeball=(MATERIALS[WHITE], MATERIALS[IRIS]),
)  # fmt: skip

SCARF_TAIL = 5


def _points() -> tuple[Points, Parents]:
    """Joint places at rest (left side and middle) and parents; the right side is mirrored from them."""
    at: Points = {
        "root": (0, 0, 0),
        "pelvis": (0, 0.985, 0),
        "spine_1": (0, 1.05, -0.004),
        "spine_2": (0, 1.165, -0.01),
        "spine_3": (0, 1.29, -0.016),
        "neck": (0, 1.485, -0.02),
        "head": (0, 1.575, -0.004),
        "jaw": (0, 1.612, 0.022),
        "eye_l": (0.033, 1.668, 0.079),
        "cap": (0, 1.725, -0.012),
        "clavicle_l": (0.026, 1.45, -0.006),
        "upper_arm_l": (0.178, 1.442, -0.018),
        "thigh_l": (0.084, 0.953, 0.0),
        "shin_l": (0.088, 0.517, 0.016),
        "foot_l": (0.091, 0.08, -0.014),
        "ball_l": (0.1, 0.03, 0.13),
        "toe_l": (0.103, 0.028, 0.218),
    }
    up: Parents = {
        "pelvis": "root", "spine_1": "pelvis", "spine_2": "spine_1", "spine_3": "spine_2", "neck": "spine_3",
        "head": "neck", "jaw": "head", "eye_l": "head", "cap": "head",
        "clavicle_l": "spine_3", "upper_arm_l": "clavicle_l", "thigh_l": "pelvis", "shin_l": "thigh_l",
        "foot_l": "shin_l", "ball_l": "foot_l", "toe_l": "ball_l",
    }  # fmt: skip
    # The scarf's tail hangs down his back from the left of the neck, clear of the jumper, so that it can fly.
    for n, back in enumerate((-0.112, -0.152, -0.168, -0.166, -0.162)):
        at[f"scarf_{n + 1}"] = (0.052 + 0.004 * n, 1.47 - 0.095 * n, back)
        up[f"scarf_{n + 1}"] = "spine_3" if n == 0 else f"scarf_{n}"
    hang_arm(at, up, HEIGHT, hand=1.04)
    return at, up


def skeleton() -> Skeleton:
    """Wick's joints in his rest pose, arms held a little away from the body."""
    return skeleton_of(*both_sides(*_points()))


def parts() -> list[Part]:
    """The shapes that he is made of."""
    at, _ = both_sides(*_points())

    def mid(a: str, b: str, t: float) -> Point:
        return between(at, a, b, t)

    trunk = bone("pelvis", "spine_1", "spine_2", "spine_3")
    middle = [
        # Jumper: narrow chest, long waist, ribbed hem
        Part(JUMPER, trunk, (0, 1.345, -0.022), (0, 1.17, -0.006), 0.134, 0.117, flat=(1.14, 1, 0.8), group="jumper",
            blend=0.05),
        Part(JUMPER, trunk, (0, 1.17, -0.004), (0, 0.985, 0.0), 0.115, 0.137, flat=(1.12, 1, 0.86), group="jumper",
            blend=0.05),
        Part(JUMPER, bone("spine_3"), (0, 1.415, -0.026), (0, 1.45, -0.02), 0.1, 0.06, flat=(1.2, 1, 0.85),
            group="jumper", blend=0.05),
        Part(BAND, bone("spine_2", "spine_3"), (0, 1.268, -0.015), radii=(0.148, 0.024, 0.1075), group="band",
            blend=0.006),
        Part(BAND, bone("pelvis"), (0, 0.905, 0.0), radii=(0.165, 0.022, 0.128), group="hem", blend=0.01),
        # Trousers' seat
        Part(JUMPER, bone("pelvis"), (0, 0.95, 0.0), (0, 0.915, 0.0), 0.14, 0.142, flat=(1.12, 1, 0.86),
            group="jumper", blend=0.03),
        Part(JUMPER, bone("pelvis"), (0, 0.7, 0.0), radii=(0.6, 0.2, 0.6), group="jumper", blend=0.008, cut=True),
        Part(TROUSERS, bone("pelvis"), (0, 0.93, -0.004), radii=(0.135, 0.075, 0.104), group="seat", blend=0.03),
        # Neck
        Part(SKIN, bone("neck"), (0, 1.46, -0.02), (0, 1.575, -0.008), 0.05, 0.047, group="neck", blend=0.02),
        # Scarf: two turns round the neck
        Part(SCARF, bone("spine_3", "neck"), (0, 1.477, -0.016), radii=(0.094, 0.034, 0.088), group="scarf",
            blend=0.014),
        Part(SCARF, bone("neck"), (0, 1.512, -0.01), radii=(0.08, 0.03, 0.077), group="scarf", blend=0.012),
        Part(SCARF, bone("spine_3"), (0.03, 1.475, 0.062), radii=(0.036, 0.036, 0.03), group="scarf", blend=0.012),
        # Head: long face, pointed chin, big nose
        Part(SKIN, bone("head"), (0, 1.675, -0.004), radii=(0.085, 0.105, 0.098), group="head", blend=0.03),
        Part(SKIN, bone("head"), (0, 1.635, 0.022), radii=(0.066, 0.07, 0.074), group="head", blend=0.03),
        Part(SKIN, bone("jaw"), (0, 1.592, 0.045), radii=(0.044, 0.036, 0.044), group="head", blend=0.035),
        Part(SKIN, bone("head"), (0, 1.668, 0.086), (0, 1.638, 0.126), 0.0115, 0.0215, group="head", blend=0.016),
        Part(HAIR, bone("head"), (0, 1.66, -0.05), radii=(0.086, 0.075, 0.066), group="hair", blend=0.02),
        # Cap: soft, pulled back, with a bobble
        Part(CAP, bone("cap"), (0, 1.728, -0.02), radii=(0.096, 0.03, 0.106), group="cap band", blend=0.006),
        Part(CAP, bone("cap"), (0, 1.762, -0.032), radii=(0.09, 0.056, 0.098), group="cap", blend=0.02),
        Part(CAP, bone("cap"), (0, 1.79, -0.062), radii=(0.056, 0.044, 0.06), group="cap", blend=0.03),
        Part(BAND, bone("cap"), (0, 1.822, -0.094), radii=(0.031, 0.031, 0.031), group="bobble", blend=0.004),
    ]  # fmt: skip
    names = [f"scarf_{n + 1}" for n in range(SCARF_TAIL)]
    for n, name in enumerate(names):
        below = at[names[n + 1]] if n + 1 < len(names) else between(at, names[n - 1], name, 1.75)
        middle.append(
            Part(SCARF, bone(name), at[name], below, 0.042, 0.044, flat=(1.0, 1, 0.42), group="tail", blend=0.015)
        )
    end = between(at, names[-2], names[-1], 1.95)
    middle.append(Part(FRINGE, bone(names[-1]), end, radii=(0.043, 0.022, 0.019), group="fringe", blend=0.004))
    thigh, shin, foot = at["thigh_l"], at["shin_l"], at["foot_l"]
    left = [
        # Trousers rolled above the ankle, knitted socks
        Part(TROUSERS, bone("thigh_l"), (thigh[0] + 0.002, thigh[1] - 0.01, 0), shin, 0.069, 0.052, flat=(1, 1, 1.05),
            group="left leg", blend=0.03),
        Part(TROUSERS, bone("shin_l"), shin, mid("shin_l", "foot_l", 0.5), 0.054, 0.051, group="left leg", blend=0.03),
        Part(TROUSERS, bone("shin_l"), mid("shin_l", "foot_l", 0.47), mid("shin_l", "foot_l", 0.55), 0.058, 0.058,
            group="left roll", blend=0.006),
        Part(SOCKS, bone("shin_l"), mid("shin_l", "foot_l", 0.5), (foot[0], 0.14, foot[2]), 0.043, 0.041,
            group="left sock", blend=0.01),
        # Boots, long for him
        Part(BOOTS, bone("shin_l"), (foot[0], 0.15, foot[2]), (foot[0], 0.12, foot[2]), 0.05, 0.049, group="left boot",
            blend=0.02),
        Part(BOOTS, bone("foot_l"), (foot[0], 0.11, foot[2]), (foot[0] + 0.002, 0.055, foot[2] - 0.016), 0.051, 0.049,
            group="left boot", blend=0.04),
        Part(BOOTS, bone("foot_l"), (0.091, 0.07, 0.02), (0.098, 0.047, 0.12), 0.052, 0.045, flat=(1.0, 1, 1),
            group="left boot", blend=0.04),
        Part(BOOTS, bone("ball_l"), (0.1, 0.043, 0.13), (0.103, 0.042, 0.19), 0.048, 0.044, flat=(1.12, 0.95, 1),
            group="left boot", blend=0.03),
        Part(BOOTS, bone("foot_l"), (0.09, -0.2, 0.05), radii=(0.6, 0.2, 0.6), group="left boot", blend=0.008,
            cut=True),
        Part(SOLE, bone("foot_l"), (0.092, 0.012, -0.028), (0.094, 0.012, 0.02), 0.054, 0.049, flat=(0.92, 0.22, 1),
            group="left sole", blend=0.006),
        Part(SOLE, bone("foot_l"), (0.094, 0.012, 0.02), (0.1, 0.012, 0.125), 0.048, 0.054, flat=(0.95, 0.22, 1),
            group="left sole", blend=0.006),
        Part(SOLE, bone("ball_l"), (0.1, 0.012, 0.13), (0.103, 0.012, 0.188), 0.054, 0.048, flat=(1.0, 0.23, 1),
            group="left sole", blend=0.006),
        # Sleeve, thin, with a band and a ribbed cuff
        Part(JUMPER, bone("clavicle_l", "upper_arm_l"), (0.075, 1.405, -0.02), (0.168, 1.418, -0.018), 0.073, 0.062,
            group="jumper", blend=0.05),
        Part(JUMPER, bone("upper_arm_l"), at["upper_arm_l"], at["forearm_l"], 0.06, 0.05, group="jumper", blend=0.04),
        Part(JUMPER, bone("forearm_l", "forearm_twist_l"), at["forearm_l"], mid("forearm_l", "hand_l", 0.82), 0.05,
            0.044, group="jumper", blend=0.03),
        Part(BAND, bone("forearm_twist_l"), mid("forearm_l", "hand_l", 0.72), mid("forearm_l", "hand_l", 0.84), 0.05,
            0.05, group="cuff left", blend=0.008),
        # Hand
        Part(SKIN, (("hand_l", 0.6), ("forearm_twist_l", 0.4)), mid("forearm_l", "hand_l", 0.82), at["hand_l"], 0.031,
            0.032, group="left hand", blend=0.02),
        *(Part(SKIN, bone("hand_l"), mid("hand_l", f"{f}_1_l", 0.12), mid("hand_l", f"{f}_1_l", 0.95), 0.0225, 0.0185,
            group="left hand", blend=0.02)
          for f in ("index", "middle", "ring", "little")),
        Part(SKIN, bone("hand_l"), at["hand_l"], at["thumb_1_l"], 0.03, 0.022, group="left hand", blend=0.02),
        # Ear, eye, brow, hair at the temple
        Part(SKIN, bone("head"), (0.092, 1.655, -0.006), radii=(0.014, 0.034, 0.021), group="head", blend=0.008),
        Part(WHITE, bone("eye_l"), at["eye_l"], radii=(0.0195, 0.0225, 0.0175), group="left eye", blend=0.002),
        Part(IRIS, bone("eye_l"), (0.034, 1.667, 0.0895), radii=(0.0108, 0.0122, 0.009), group="left eye", blend=0.001),
        Part(HAIR, bone("head"), (0.014, 1.7, 0.09), (0.052, 1.702, 0.074), 0.0075, 0.0065, group="left brow",
            blend=0.005),
        Part(HAIR, bone("head"), (0.08, 1.69, 0.03), (0.083, 1.65, 0.022), 0.014, 0.01, group="hair", blend=0.015),
    ]  # fmt: skip
    left += finger_parts(
        at, SKIN, {"thumb": 0.0185, "index": 0.0157, "middle": 0.0162, "ring": 0.0154, "little": 0.0137}
    )
    return middle + left + [mirrored(part) for part in left]


def skin(triangles: int = 8_000) -> Skin:
    """His surface; takes a minute."""
    return with_face(sculpt(parts(), MATERIALS, skeleton(), triangles), skeleton(), parts(), HEAD)
