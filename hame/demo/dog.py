"""Bosun, the harbour dog of Skerry Light: a rough-coated, long-legged dog with a kerchief and a docked ear."""

from __future__ import annotations

from hame.character.skeleton import Skeleton
from hame.character.skin import Material, Skin
from hame.demo.body import Parents, Point, Points, between, bone, both_sides, colour, mirrored, skeleton_of
from hame.demo.figure import Part, sculpt

COAT, PALE, PATCH, NOSE, EYE, CLOTH, PAD = range(7)

MATERIALS = (
    Material("coat", colour("8C7B66"), 0.95),
    Material("pale coat", colour("E0D3BC"), 0.95),
    Material("patch", colour("51463C"), 0.95),
    Material("nose", colour("2A2526"), 0.4),
    Material("eyes", colour("2B1F18"), 0.2),
    Material("kerchief", colour("9C3D33"), 0.9),
    Material("pads", colour("3A3230"), 0.8),
)
TAIL = 4


def _points() -> tuple[Points, Parents]:
    at: Points = {
        "floor": (0, 0, 0),
        "croup": (0, 0.56, -0.27),
        "loin_1": (0, 0.585, -0.15), "loin_2": (0, 0.585, -0.01), "withers": (0, 0.59, 0.13),
        "throat_1": (0, 0.645, 0.25), "throat_2": (0, 0.715, 0.305), "skull": (0, 0.78, 0.34), "jaw": (0, 0.757, 0.375),
        "eye_l": (0.037, 0.815, 0.405), "flap_l": (0.058, 0.853, 0.335),
        "hind_upper_l": (0.075, 0.515, -0.265), "hind_lower_l": (0.085, 0.335, -0.205),
        "hind_hock_l": (0.085, 0.155, -0.335), "hind_paw_l": (0.085, 0.03, -0.275),
        "fore_upper_l": (0.08, 0.505, 0.17), "fore_lower_l": (0.085, 0.36, 0.09), "fore_hock_l": (0.085, 0.125, 0.115),
        "fore_paw_l": (0.085, 0.028, 0.145),
    }  # fmt: skip
    up: Parents = {
        "croup": "floor", "loin_1": "croup", "loin_2": "loin_1", "withers": "loin_2", "throat_1": "withers",
        "throat_2": "throat_1", "skull": "throat_2", "jaw": "skull", "eye_l": "skull", "flap_l": "skull",
        "hind_upper_l": "croup", "hind_lower_l": "hind_upper_l", "hind_hock_l": "hind_lower_l",
        "hind_paw_l": "hind_hock_l", "fore_upper_l": "withers", "fore_lower_l": "fore_upper_l",
        "fore_hock_l": "fore_lower_l", "fore_paw_l": "fore_hock_l",
    }  # fmt: skip
    for n, (y, z) in enumerate(((0.575, -0.33), (0.6, -0.41), (0.65, -0.475), (0.715, -0.51))):
        at[f"tail_{n + 1}"], up[f"tail_{n + 1}"] = (0, y, z), "croup" if n == 0 else f"tail_{n}"
    return at, up


def skeleton() -> Skeleton:
    """The dog's joints, standing four-square."""
    return skeleton_of(*both_sides(*_points()))


def parts() -> list[Part]:
    """The shapes that it is made of."""
    at, _ = both_sides(*_points())

    def mid(a: str, b: str, t: float) -> Point:
        return between(at, a, b, t)

    trunk = bone("croup", "loin_1", "loin_2", "withers")
    middle = [
        Part(COAT, trunk, (0, 0.51, 0.14), (0, 0.51, -0.02), 0.125, 0.118, flat=(0.88, 1.06, 1), group="trunk",
            blend=0.05),
        Part(COAT, trunk, (0, 0.525, -0.02), (0, 0.53, -0.25), 0.11, 0.1, flat=(0.9, 1, 1), group="trunk", blend=0.05),
        Part(PALE, bone("withers"), (0, 0.475, 0.172), radii=(0.083, 0.1, 0.08), group="breast", blend=0.03),
        Part(PATCH, bone("loin_1", "loin_2"), (0.02, 0.607, -0.1), radii=(0.082, 0.04, 0.12), group="saddle",
            blend=0.008),
        Part(COAT, bone("throat_1", "throat_2", "withers"), (0, 0.59, 0.19), (0, 0.735, 0.315), 0.088, 0.068,
            group="neck", blend=0.04),
        Part(CLOTH, bone("throat_1"), (0, 0.645, 0.252), (0, 0.662, 0.266), 0.093, 0.088, group="kerchief", blend=0.01),
        Part(CLOTH, bone("throat_1"), (0, 0.61, 0.335), (0, 0.545, 0.345), 0.045, 0.012, flat=(1.1, 1, 0.35),
            group="knot", blend=0.01),
        Part(COAT, bone("skull"), (0, 0.808, 0.352), radii=(0.083, 0.074, 0.086), group="head", blend=0.03),
        Part(PALE, bone("skull"), (0, 0.79, 0.415), (0, 0.778, 0.492), 0.043, 0.034, flat=(0.95, 0.85, 1),
            group="muzzle", blend=0.03),
        Part(PALE, bone("jaw"), (0, 0.757, 0.4), (0, 0.752, 0.475), 0.027, 0.021, group="jaw", blend=0.008),
        Part(PALE, bone("jaw"), (0, 0.735, 0.43), (0, 0.712, 0.44), 0.024, 0.009, group="jaw", blend=0.012),
        Part(NOSE, bone("skull"), (0, 0.797, 0.522), radii=(0.0215, 0.0165, 0.0165), group="nose", blend=0.003),
        Part(PATCH, bone("skull"), (0.04, 0.84, 0.372), radii=(0.036, 0.03, 0.052), group="brow patch", blend=0.006),
    ]  # fmt: skip
    names = [f"tail_{n + 1}" for n in range(TAIL)]
    for n, name in enumerate(names):
        end = at[names[n + 1]] if n + 1 < TAIL else between(at, names[n - 1], name, 1.9)
        middle.append(
            Part(COAT if n < TAIL - 1 else PALE, bone(name), at[name], end, 0.035 - 0.004 * n, 0.031 - 0.005 * n,
                group="tail", blend=0.02)
        )  # fmt: skip
    middle.append(Part(COAT, bone("croup", "tail_1"), (0, 0.55, -0.29), at["tail_1"], 0.05, 0.036, group="trunk",
                       blend=0.04))  # fmt: skip
    hip, knee, hock, paw = (at[f"hind_{p}_l"] for p in ("upper", "lower", "hock", "paw"))
    shoulder, elbow, wrist, hand = (at[f"fore_{p}_l"] for p in ("upper", "lower", "hock", "paw"))
    left = [
        Part(COAT, bone("hind_upper_l", "croup"), (hip[0] - 0.005, hip[1] - 0.02, hip[2] + 0.005), knee, 0.085, 0.052,
            flat=(0.75, 1, 1.05), group="trunk", blend=0.045),
        Part(COAT, bone("hind_lower_l"), knee, hock, 0.05, 0.028, group="left hind", blend=0.03),
        Part(COAT, bone("hind_hock_l"), hock, (paw[0], paw[1] + 0.02, paw[2]), 0.028, 0.026, group="left hind",
            blend=0.02),
        Part(PALE, bone("hind_paw_l"), (paw[0], 0.033, paw[2] + 0.005), (paw[0], 0.026, paw[2] + 0.055), 0.033, 0.029,
            flat=(1.05, 0.85, 1), group="left hind paw", blend=0.02),
        Part(PAD, bone("hind_paw_l"), (paw[0], 0.01, paw[2] + 0.005), (paw[0], 0.01, paw[2] + 0.05), 0.029, 0.026,
            flat=(1, 0.36, 1), group="left hind pad", blend=0.006),
        Part(COAT, bone("fore_upper_l", "withers"), (shoulder[0] - 0.012, shoulder[1] + 0.04, shoulder[2] - 0.03),
            elbow, 0.074, 0.047, flat=(0.78, 1, 1.05), group="trunk", blend=0.045),
        Part(COAT, bone("fore_lower_l"), elbow, wrist, 0.043, 0.029, group="left fore", blend=0.03),
        Part(PALE, bone("fore_lower_l", "fore_hock_l"), mid("fore_lower_l", "fore_hock_l", 0.55), wrist, 0.036, 0.0295,
            group="left stocking", blend=0.02),
        Part(PALE, bone("fore_hock_l"), wrist, (hand[0], hand[1] + 0.02, hand[2]), 0.029, 0.027, group="left stocking",
            blend=0.02),
        Part(PALE, bone("fore_paw_l"), (hand[0], 0.033, hand[2] + 0.003), (hand[0], 0.026, hand[2] + 0.055), 0.034,
            0.03, flat=(1.05, 0.85, 1), group="left fore paw", blend=0.02),
        Part(PAD, bone("fore_paw_l"), (hand[0], 0.01, hand[2] + 0.005), (hand[0], 0.01, hand[2] + 0.05), 0.03, 0.027,
            flat=(1, 0.36, 1), group="left fore pad", blend=0.006),
        Part(EYE, bone("eye_l"), (0.037, 0.817, 0.418), radii=(0.0135, 0.0145, 0.0105), group="left eye", blend=0.002),
    ]  # fmt: skip
    ears = [  # one hangs whole, of the other the tip is gone
        Part(PATCH, bone("flap_l"), at["flap_l"], (0.105, 0.775, 0.325), 0.03, 0.024, flat=(0.5, 1, 1.1),
            group="left ear", blend=0.012),
        Part(COAT, bone("flap_r"), at["flap_r"], (-0.092, 0.812, 0.33), 0.03, 0.027, flat=(0.5, 1, 1.1),
            group="right ear", blend=0.012),
    ]  # fmt: skip
    return middle + left + [mirrored(part) for part in left] + ears


def skin(triangles: int = 7_000) -> Skin:
    """Its surface; takes a minute."""
    return sculpt(parts(), MATERIALS, skeleton(), triangles, step=0.005)
