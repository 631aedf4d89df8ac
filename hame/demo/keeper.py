"""Brannoc, the keeper of Skerry Light: a stocky man in an oilskin coat, with cap, beard and sea boots.

Lengths of thigh, shank, upper arm, forearm and ankle height follow Drillis and
Contini for a height of 1.75 m; breadth, hands, boots and head are larger than life.
"""

from __future__ import annotations

from hame.character.skeleton import Skeleton
from hame.character.skin import Material, Skin
from hame.demo.body import Point, between, bone, both_sides, colour, finger_parts, hang_arm, mirrored, skeleton_of
from hame.demo.faces import Head, with_face
from hame.demo.figure import Part, sculpt

HEIGHT = 1.75

COAT, TROUSERS, BOOTS, SKIN, HAIR, CAP, PEAK, BRASS, WHITE, IRIS, WOOL = range(11)


MATERIALS = (
    Material("oilskin", colour("D49A2A"), 0.55),
    Material("trousers", colour("40525F"), 0.95),
    Material("boots", colour("4A3429"), 0.6),
    Material("skin", colour("DDA47F"), 0.8),
    Material("beard", colour("E4DFD3"), 0.95),
    Material("cap", colour("2C4258"), 0.9),
    Material("peak", colour("1E2933"), 0.5),
    Material("brass", colour("C9A227"), 0.35, 0.6),
    Material("eye white", colour("FBFAF6"), 0.3),
    Material("iris", colour("24313A"), 0.3),
    Material("wool", colour("B8503F"), 0.95),
)
HEAD = Head(
    eye=(0.037, 1.628, 0.092), radii=(0.0215, 0.0225, 0.0195), brow=(0.039, 1.6585, 0.102), long=0.03,
    mouth=(0.0, 1.5535), wide=0.03, lid=Material("lid", colour("C98F6B"), 0.8),
    lip=Material("lip", colour("B9705A"), 0.7),
    inside=Material("mouth", colour("3A1A18"), 0.9), soft=(MATERIALS[SKIN], MATERIALS[HAIR]),
    eyeball=(MATERIALS[WHITE], MATERIALS[IRIS]),
)  # fmt: skip


def _points() -> tuple[dict[str, Point], dict[str, str]]:
    """Joint places at rest (left side and middle) and parents; the right side is mirrored from them."""
    at: dict[str, Point] = {
        "root": (0, 0, 0),
        "pelvis": (0, 0.975, 0),
        "spine_1": (0, 1.045, -0.006),
        "spine_2": (0, 1.155, -0.012),
        "spine_3": (0, 1.275, -0.016),
        "neck": (0, 1.455, -0.018),
        "head": (0, 1.535, 0.0),
        "jaw": (0, 1.572, 0.03),
        "eye_l": (0.037, 1.628, 0.092),
        "cap": (0, 1.69, -0.01),
        "beard": (0, 1.52, 0.085),
        "clavicle_l": (0.028, 1.42, -0.005),
        "upper_arm_l": (0.205, 1.415, -0.018),
        "thigh_l": (0.1, 0.947, 0.0),
        "shin_l": (0.106, 0.5185, 0.016),
        "foot_l": (0.11, 0.09, -0.014),
        "ball_l": (0.12, 0.032, 0.125),
        "toe_l": (0.124, 0.03, 0.215),
        "coat_front_l": (0.11, 0.93, 0.1),
        "coat_back_l": (0.11, 0.93, -0.1),
    }
    up = {
        "pelvis": "root", "spine_1": "pelvis", "spine_2": "spine_1", "spine_3": "spine_2", "neck": "spine_3",
        "head": "neck", "jaw": "head", "eye_l": "head", "cap": "head", "beard": "jaw",
        "clavicle_l": "spine_3", "upper_arm_l": "clavicle_l", "thigh_l": "pelvis", "shin_l": "thigh_l",
        "foot_l": "shin_l", "ball_l": "foot_l", "toe_l": "ball_l", "coat_front_l": "pelvis", "coat_back_l": "pelvis",
    }  # fmt: skip

    hang_arm(at, up, HEIGHT)
    return at, up


def skeleton() -> Skeleton:
    """Brannoc's joints in his rest pose, arms held a little away from the body."""
    return skeleton_of(*both_sides(*_points()))


def parts() -> list[Part]:
    """The shapes that he is made of."""
    at, _ = both_sides(*_points())

    def mid(a: str, b: str, t: float) -> Point:
        return between(at, a, b, t)

    trunk = bone("pelvis", "spine_1", "spine_2", "spine_3")
    middle = [
        # Coat: chest, belly, hips, high collar
        Part(COAT, trunk, (0, 1.31, -0.02), (0, 1.12, 0.004), 0.165, 0.158, flat=(1.14, 1, 0.84), group="coat",
            blend=0.06),
        Part(COAT, trunk, (0, 1.12, 0.008), (0, 0.97, 0.0), 0.158, 0.165, flat=(1.08, 1, 0.86), group="coat",
            blend=0.05),
        Part(COAT, bone("spine_3"), (0.0, 1.38, -0.03), (0.0, 1.425, -0.02), 0.125, 0.075, flat=(1.2, 1, 0.85),
            group="coat", blend=0.05),
        Part(COAT, bone("pelvis"), (0, 0.985, 0.0), (0, 0.945, 0.0), 0.178, 0.186, flat=(1.08, 1, 0.88), group="coat",
            blend=0.03),
        # Belt and buttons
        Part(PEAK, bone("spine_1"), (0, 1.056, 0.004), radii=(0.2075, 0.021, 0.176), group="belt", blend=0.01),
        *(Part(BRASS, bone(b), (0.018, y, z), radii=(0.0125, 0.0125, 0.009), group="buttons", blend=0.003)
          for y, z, b in ((1.35, 0.118, "spine_3"), (1.26, 0.125, "spine_3"), (1.16, 0.136, "spine_2"), (0.955, 0.172,
              "pelvis"))),
        Part(BRASS, bone("spine_1"), (0, 1.056, 0.172), radii=(0.027, 0.021, 0.011), group="buckle", blend=0.003),
        # Woollen neck
        Part(WOOL, bone("neck"), (0, 1.43, -0.02), (0, 1.502, -0.012), 0.072, 0.066, flat=(1.08, 1, 1.0), group="wool",
            blend=0.02),
        Part(WOOL, bone("neck", "spine_3"), (0, 1.448, -0.018), radii=(0.096, 0.03, 0.088), group="wool", blend=0.02),
        # Head: skull, face, nose
        Part(SKIN, bone("head"), (0, 1.635, 0.0), radii=(0.098, 0.118, 0.112), group="head", blend=0.03),
        Part(SKIN, bone("head"), (0, 1.585, 0.03), radii=(0.078, 0.075, 0.085), group="head", blend=0.03),
        Part(SKIN, bone("head"), (0, 1.628, 0.102), (0, 1.595, 0.135), 0.014, 0.0235, group="head", blend=0.018),
        # Beard: full, pointed a little, moved by jaw and beard
        Part(HAIR, bone("jaw"), (0, 1.555, 0.05), radii=(0.092, 0.058, 0.082), group="beard", blend=0.03),
        Part(HAIR, bone("beard"), (0, 1.53, 0.085), (0, 1.455, 0.105), 0.066, 0.026, flat=(1.05, 1, 0.8),
            group="beard", blend=0.04),
        Part(HAIR, bone("head"), (0, 1.605, -0.055), radii=(0.096, 0.062, 0.072), group="nape", blend=0.02),
        # Cap: band, crown, peak, badge
        Part(PEAK, bone("cap"), (0, 1.693, -0.006), radii=(0.113, 0.026, 0.127), group="band", blend=0.006),
        Part(CAP, bone("cap"), (0, 1.728, -0.012), radii=(0.133, 0.046, 0.142), group="cap", blend=0.01),
        Part(CAP, bone("cap"), (0, 1.706, -0.008), radii=(0.117, 0.03, 0.131), group="cap", blend=0.012),
        Part(PEAK, bone("cap"), (0, 1.679, 0.128), radii=(0.078, 0.011, 0.066), group="peak", blend=0.01),
        Part(BRASS, bone("cap"), (0, 1.705, 0.124), radii=(0.02, 0.02, 0.012), group="badge", blend=0.003),
    ]  # fmt: skip
    thigh, shin, foot = at["thigh_l"], at["shin_l"], at["foot_l"]
    left = [
        # Coat skirt: half carried by the thigh, half by its own joints
        Part(COAT, (("coat_front_l", 0.45), ("thigh_l", 0.55)), (0.075, 0.98, 0.03), (0.1, 0.765, 0.05), 0.112, 0.137,
            group="coat", blend=0.05),
        Part(COAT, (("coat_back_l", 0.6), ("thigh_l", 0.4)), (0.075, 0.98, -0.035), (0.1, 0.765, -0.05), 0.112, 0.137,
            group="coat", blend=0.05),
        # Flat hem
        Part(COAT, (("thigh_l", 1.0),), (0.1, 0.5, 0.0), radii=(0.6, 0.2, 0.6), group="coat", blend=0.012, cut=True),
        # Pocket flap
        Part(COAT, (("coat_front_l", 0.6), ("thigh_l", 0.4)), (0.1, 0.89, 0.168), (0.18, 0.885, 0.125), 0.027, 0.027,
            flat=(1, 1, 0.7), group="pocket left", blend=0.005),
        # Trousers and boots
        Part(TROUSERS, bone("thigh_l"), thigh, shin, 0.088, 0.07, flat=(1, 1, 1.05), group="left leg", blend=0.03),
        Part(TROUSERS, bone("shin_l"), shin, mid("shin_l", "foot_l", 0.5), 0.074, 0.072, group="left leg", blend=0.03),
        Part(BOOTS, bone("shin_l"), mid("shin_l", "foot_l", 0.36), mid("shin_l", "foot_l", 0.42), 0.084, 0.083,
            group="left boot", blend=0.02),
        Part(BOOTS, bone("shin_l"), mid("shin_l", "foot_l", 0.42), (foot[0], 0.13, foot[2]), 0.079, 0.062,
            group="left boot", blend=0.03),
        Part(BOOTS, bone("foot_l"), (foot[0], 0.12, foot[2]), (foot[0] + 0.002, 0.058, foot[2] - 0.018), 0.061, 0.056,
            group="left boot", blend=0.04),
        Part(BOOTS, bone("foot_l"), (0.11, 0.075, 0.02), (0.118, 0.05, 0.115), 0.062, 0.05, flat=(1.04, 1, 1),
            group="left boot", blend=0.04),
        Part(BOOTS, bone("ball_l"), (0.119, 0.045, 0.125), (0.123, 0.043, 0.18), 0.052, 0.046, flat=(1.12, 0.95, 1),
            group="left boot", blend=0.03),
        # The sole is flat, and stands out a little: heel and tread
        Part(BOOTS, bone("foot_l"), (0.1, -0.2, 0.05), radii=(0.6, 0.2, 0.6), group="left boot", blend=0.008, cut=True),
        Part(PEAK, bone("foot_l"), (0.111, 0.012, -0.03), (0.113, 0.012, 0.02), 0.062, 0.056, flat=(0.92, 0.21, 1),
            group="left sole", blend=0.006),
        Part(PEAK, bone("foot_l"), (0.113, 0.012, 0.02), (0.119, 0.012, 0.12), 0.054, 0.06, flat=(0.95, 0.2, 1),
            group="left sole", blend=0.006),
        Part(PEAK, bone("ball_l"), (0.119, 0.012, 0.125), (0.123, 0.012, 0.178), 0.06, 0.052, flat=(1.0, 0.22, 1),
            group="left sole", blend=0.006),
        # Sleeve with a wide cuff
        Part(COAT, bone("clavicle_l", "upper_arm_l"), (0.09, 1.375, -0.02), (0.195, 1.385, -0.018), 0.095, 0.08,
            group="coat", blend=0.06),
        Part(COAT, bone("upper_arm_l"), at["upper_arm_l"], at["forearm_l"], 0.077, 0.066, group="coat", blend=0.05),
        Part(COAT, bone("forearm_l", "forearm_twist_l"), at["forearm_l"], mid("forearm_l", "hand_l", 0.86), 0.067,
            0.061, group="coat", blend=0.03),
        Part(COAT, bone("forearm_twist_l"), mid("forearm_l", "hand_l", 0.74), mid("forearm_l", "hand_l", 0.86), 0.07,
            0.073, group="cuff left", blend=0.01),
        # Hand
        Part(SKIN, (("hand_l", 0.6), ("forearm_twist_l", 0.4)), mid("forearm_l", "hand_l", 0.85), at["hand_l"], 0.036,
            0.036, group="left hand", blend=0.02),
        *(Part(SKIN, bone("hand_l"), mid("hand_l", f"{f}_1_l", t), mid("hand_l", f"{f}_1_l", 0.95), 0.0235, 0.0195,
            group="left hand", blend=0.02)
          for f, t in (("index", 0.12), ("middle", 0.12), ("ring", 0.12), ("little", 0.12))),
        Part(SKIN, bone("hand_l"), at["hand_l"], at["thumb_1_l"], 0.032, 0.024, group="left hand", blend=0.02),
        # Ear, eye, brow, moustache, hair at the temple
        Part(SKIN, bone("head"), (0.101, 1.612, -0.005), radii=(0.013, 0.029, 0.019), group="head", blend=0.008),
        Part(WHITE, bone("eye_l"), at["eye_l"], radii=(0.0215, 0.0225, 0.0195), group="left eye", blend=0.002),
        Part(IRIS, bone("eye_l"), (0.0385, 1.6275, 0.104), radii=(0.0115, 0.0125, 0.0096), group="left eye",
            blend=0.001),
        Part(HAIR, bone("head"), (0.016, 1.659, 0.111), (0.062, 1.658, 0.093), 0.0105, 0.0095, group="left brow",
            blend=0.005),
        Part(HAIR, bone("head"), (0.01, 1.582, 0.126), (0.056, 1.563, 0.098), 0.0165, 0.0115, group="beard",
            blend=0.012),
        Part(HAIR, bone("head"), (0.094, 1.64, 0.0), (0.088, 1.575, 0.03), 0.016, 0.026, group="beard", blend=0.02),
    ]  # fmt: skip
    left += finger_parts(
        at, SKIN, {"thumb": 0.0195, "index": 0.0165, "middle": 0.0172, "ring": 0.0163, "little": 0.0145}
    )
    return middle + left + [mirrored(part) for part in left]


def skin(triangles: int = 8_500) -> Skin:
    """His surface; takes a minute."""
    return with_face(sculpt(parts(), MATERIALS, skeleton(), triangles), skeleton(), parts(), HEAD)
