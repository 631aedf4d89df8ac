"""What a gait does with its legs, measured from a handed-off file by code of its own."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.spatial.transform import Rotation

from hame.character.rig import Rig
from hame.character.skin import Skin
from hame.clip.clip import Clip
from hame.evaluate.evaluate import channel_values, evaluate, joints
from hame.formats.gltf_write import write_character
from tests.hame.handed import HandedOff, read_handed


def handed(rig: Rig, skin: Skin, clip: Clip, last: int) -> HandedOff:
    motion = joints(rig, evaluate(rig, channel_values(rig, clip, np.arange(1, last + 1))))
    return read_handed(write_character("x", rig.skeleton, skin, motion))


@dataclass(frozen=True)
class Leg:
    """By frame: degrees of knee and thigh (behind the vertical below 0) and ankle, and points of the sole, metres."""

    knee: np.ndarray
    thigh: np.ndarray
    ankle: np.ndarray
    heel: np.ndarray
    ball: np.ndarray
    tip: np.ndarray


def leg(file: HandedOff, rig: Rig, side: str) -> Leg:
    roles, places = rig.plan.roles, rig.skeleton.places
    names = {part: roles[f"leg.{side}.{part}"] for part in ("upper", "lower", "foot", "ball")}
    hip, knee, ankle = (file.places("x", names[part]) for part in ("upper", "lower", "foot"))
    thigh, shank = knee - hip, ankle - knee
    level = rig.plan.soles[f"leg.{side}"]

    def angle(a: np.ndarray, b: np.ndarray) -> np.ndarray:
        return np.degrees(np.arctan2(np.linalg.norm(np.cross(a, b), axis=1), (a * b).sum(axis=1)))

    def point(joint: str, place: np.ndarray) -> np.ndarray:
        at = rig.skeleton.world[rig.skeleton.index(joint)]
        local = Rotation.from_quat(at[3:7]).inv().apply(place - at[:3])
        return file.points("x", joint, local[None])[:, 0]

    heel, tip = np.array(level["heel"]), np.array(level["tip"])
    floor = heel[1]
    ball_at = places[rig.skeleton.index(names["ball"])] * [1, 0, 1] + [0, floor, 0]
    found = [point(names["foot"], heel), point(names["ball"], ball_at), point(names["ball"], tip)]
    foot = point(names["foot"], ball_at) - found[0]
    return Leg(
        angle(thigh, shank), np.degrees(np.arctan2(thigh[:, 2], -thigh[:, 1])), 90.0 - angle(foot, -shank),
        *(f - [0, floor, 0] for f in found),
    )  # fmt: skip


def turning(file: HandedOff, rig: Rig) -> tuple[np.ndarray, np.ndarray]:
    """By frame, degrees about the vertical by which the line of the hips and that of the shoulders are turned."""
    found = []
    for part in ("leg", "arm"):
        left, right = (file.places("x", rig.plan.roles[f"{part}.{side}.upper"]) for side in "LR")
        found.append(np.degrees(np.arctan2(-(left - right)[:, 2], (left - right)[:, 0])))
    return found[0], found[1]


def down(file: HandedOff, rig: Rig, side: str) -> np.ndarray:
    """By frame, whether any point of a boot is within 4 mm of where it is when he stands."""
    outline = np.array(rig.plan.outlines[f"leg.{side}"])
    carried = []
    for part in ("foot", "ball"):
        joint = rig.plan.roles[f"leg.{side}.{part}"]
        at = rig.skeleton.world[rig.skeleton.index(joint)]
        carried.append(file.points("x", joint, Rotation.from_quat(at[3:7]).inv().apply(outline[:, :3] - at[:3])))
    toes = outline[:, 3:]
    height = ((1.0 - toes) * carried[0] + toes * carried[1])[..., 1].min(axis=1)
    return np.asarray(height - outline[:, 1].min() < 0.004)
