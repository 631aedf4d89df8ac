"""The tide crab of Skerry Light: broad as a stool, on six legs, with a notched shell, claws and stalked eyes."""

from __future__ import annotations

from hame.character.skeleton import Skeleton
from hame.character.skin import Material, Skin
from hame.demo.body import Parents, Point, Points, between, bone, both_sides, colour, mirrored, skeleton_of
from hame.demo.figure import Part, sculpt

SHELL, RIM, BELLY, LEG, BAND, CLAW, NIP, STALK, EYE, BARNACLE = range(10)

MATERIALS = (
    Material("shell", colour("4E6B5E"), 0.6),
    Material("shell rim", colour("C98B4A"), 0.7),
    Material("belly", colour("E3D3B0"), 0.8),
    Material("legs", colour("6E8B6F"), 0.7),
    Material("leg bands", colour("D9B36A"), 0.7),
    Material("claws", colour("A9552F"), 0.55),
    Material("nippers", colour("F0DFC2"), 0.5),
    Material("stalks", colour("8FA383"), 0.7),
    Material("eyes", colour("1F2A2C"), 0.2),
    Material("barnacles", colour("EDE7D8"), 0.9),
)

# Where each pair of legs leaves the shell, and where it stands: x and z of its root, its knee, its ankle and its tip.
LEGS = {
    "first": ((0.17, 0.11), (0.33, 0.22), (0.455, 0.30), (0.50, 0.33)),
    "second": ((0.20, 0.0), (0.385, -0.005), (0.52, -0.01), (0.57, -0.012)),
    "third": ((0.16, -0.11), (0.31, -0.225), (0.425, -0.315), (0.465, -0.345)),
}
HEIGHTS = (0.225, 0.365, 0.115, 0.0)


def _points() -> tuple[Points, Parents]:
    at: Points = {"floor": (0, 0, 0), "shell": (0, 0.24, 0), "brow": (0, 0.27, 0.16)}
    up: Parents = {"shell": "floor", "brow": "shell"}
    for name, places in LEGS.items():
        above = "shell"
        for part, (x, z), y in zip(("coxa", "merus", "dactyl", "point"), places, HEIGHTS, strict=True):
            joint = f"{name}_{part}_l"
            at[joint], up[joint] = (x, y, z), above
            above = joint
    at |= {
        "pincer_root_l": (0.13, 0.235, 0.17), "pincer_mid_l": (0.235, 0.255, 0.285),
        "pincer_palm_l": (0.17, 0.25, 0.40),
        "pincer_thumb_l": (0.142, 0.262, 0.475), "nipper_thumb_l": (0.118, 0.262, 0.535),
        "pincer_fixed_l": (0.165, 0.235, 0.48), "nipper_fixed_l": (0.135, 0.232, 0.55),
        "stalk_l": (0.052, 0.292, 0.175), "eye_l": (0.066, 0.375, 0.188),
    }  # fmt: skip
    up |= {
        "pincer_root_l": "shell", "pincer_mid_l": "pincer_root_l", "pincer_palm_l": "pincer_mid_l",
        "pincer_thumb_l": "pincer_palm_l", "nipper_thumb_l": "pincer_thumb_l",
        "pincer_fixed_l": "pincer_palm_l", "nipper_fixed_l": "pincer_fixed_l",
        "stalk_l": "brow", "eye_l": "stalk_l",
    }  # fmt: skip
    return at, up


def skeleton() -> Skeleton:
    """The crab's joints, standing on six tips."""
    return skeleton_of(*both_sides(*_points()))


def parts() -> list[Part]:
    """The shapes that it is made of."""
    at, _ = both_sides(*_points())

    def mid(a: str, b: str, t: float) -> Point:
        return between(at, a, b, t)

    shell = bone("shell")
    middle = [
        Part(SHELL, shell, (0, 0.262, -0.01), radii=(0.245, 0.085, 0.185), group="shell", blend=0.03),
        Part(SHELL, shell, (0, 0.305, -0.02), radii=(0.165, 0.062, 0.13), group="shell", blend=0.05),
        Part(RIM, shell, (0, 0.243, 0.0), radii=(0.258, 0.02, 0.197), group="rim", blend=0.01),
        Part(BELLY, shell, (0, 0.222, 0.0), radii=(0.205, 0.052, 0.155), group="belly", blend=0.02),
        Part(BELLY, shell, (0, 0.213, 0.15), radii=(0.06, 0.03, 0.035), group="mouth", blend=0.01),
        Part(BARNACLE, shell, (-0.085, 0.347, -0.06), radii=(0.024, 0.02, 0.024), group="barnacle", blend=0.004),
        Part(BARNACLE, shell, (-0.05, 0.355, -0.085), radii=(0.017, 0.015, 0.017), group="barnacle", blend=0.004),
        Part(BARNACLE, shell, (0.11, 0.335, 0.02), radii=(0.015, 0.013, 0.015), group="barnacle", blend=0.004),
    ]
    left = [
        Part(RIM, shell, (0.115, 0.262, 0.166), (0.13, 0.262, 0.196), 0.016, 0.006, group="notch", blend=0.01),
        Part(RIM, shell, (0.175, 0.258, 0.132), (0.198, 0.258, 0.158), 0.016, 0.006, group="notch", blend=0.01),
        Part(RIM, shell, (0.222, 0.254, 0.078), (0.252, 0.254, 0.094), 0.015, 0.006, group="notch", blend=0.01),
        Part(STALK, bone("stalk_l"), at["stalk_l"], at["eye_l"], 0.0165, 0.0125, group="left stalk", blend=0.01),
        Part(EYE, bone("eye_l"), (0.066, 0.388, 0.19), radii=(0.0225, 0.0245, 0.0225), group="left eye", blend=0.004),
        Part(BARNACLE, bone("eye_l"), (0.071, 0.396, 0.209), radii=(0.0055, 0.006, 0.0045), group="left glint",
            blend=0.001),
        Part(CLAW, bone("pincer_root_l"), at["pincer_root_l"], mid("pincer_root_l", "pincer_mid_l", 0.92), 0.029, 0.036,
            group="left claw", blend=0.015),
        Part(CLAW, bone("pincer_mid_l"), at["pincer_mid_l"], mid("pincer_mid_l", "pincer_palm_l", 0.85), 0.036, 0.039,
            group="left fore", blend=0.015),
        Part(CLAW, bone("pincer_palm_l"), at["pincer_palm_l"], (0.157, 0.248, 0.458), 0.05, 0.047,
            flat=(1.05, 1.25, 1.0), group="left palm", blend=0.02),
        Part(NIP, bone("pincer_thumb_l", "nipper_thumb_l"), at["pincer_thumb_l"], at["nipper_thumb_l"], 0.026, 0.017,
            group="left thumb", blend=0.01),
        Part(NIP, bone("nipper_thumb_l"), at["nipper_thumb_l"], (0.114, 0.25, 0.582), 0.017, 0.006, group="left thumb",
            blend=0.01),
        Part(NIP, bone("pincer_fixed_l", "nipper_fixed_l"), at["pincer_fixed_l"], at["nipper_fixed_l"], 0.03, 0.019,
            group="left fixed", blend=0.01),
        Part(NIP, bone("nipper_fixed_l"), at["nipper_fixed_l"], (0.117, 0.242, 0.6), 0.019, 0.006, group="left fixed",
            blend=0.01),
    ]  # fmt: skip
    for name in LEGS:
        coxa, merus, dactyl = (f"{name}_{part}_l" for part in ("coxa", "merus", "dactyl"))
        x, y, z = at[f"{name}_point_l"]
        left += [
            Part(LEG, bone(coxa), at[coxa], at[merus], 0.03, 0.0245, group=f"left {name} upper", blend=0.012),
            Part(LEG, bone(merus), at[merus], at[dactyl], 0.0255, 0.0165, group=f"left {name} lower", blend=0.012),
            Part(BAND, bone(merus), mid(merus, dactyl, 0.5), mid(merus, dactyl, 0.66), 0.0235, 0.022,
                group=f"left {name} band", blend=0.004),
            Part(BAND, bone(dactyl), at[dactyl], (x, y + 0.006, z), 0.0175, 0.0055, group=f"left {name} tip",
                blend=0.008),
        ]  # fmt: skip
    return middle + left + [mirrored(part) for part in left]


def skin(triangles: int = 7_000) -> Skin:
    """Its surface; takes half a minute."""
    return sculpt(parts(), MATERIALS, skeleton(), triangles, step=0.004)
