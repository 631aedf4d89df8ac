"""Expressions of the demo's figures, by the shapes of their faces, and the gull's take finished with them."""

from __future__ import annotations

from math import radians

from hame.character.rig import Rig
from hame.clip.clip import Clip
from hame.demo import refined, shots
from hame.edits.edit import Edit
from hame.edits.overlap import DelayParts, Trail
from hame.edits.pose import SetPose

Amounts = dict[str, float]


def _both(**amounts: float) -> Amounts:
    """The same on the left and on the right."""
    return {f"{name}_{side}": amount for name, amount in amounts.items() for side in "lr"}


# By shape, and "jaw" in degrees that it is open.
EXPRESSIONS: dict[str, Amounts] = {
    "Surprised": {
        **_both(eye_wide=1.0, brow_inner_up=1.0, brow_middle_up=1.0, brow_outer_up=0.9),
        "mouth_open": 0.85, "jaw": 13.0,
    },
    "Squinting": _both(lid_upper=0.4, lid_lower=0.9, cheek_up=0.9, brow_inner_down=0.6),
    "Snarling": {
        "lip_upper_up_l": 1.0, "nose_wrinkle_l": 1.0, "cheek_up_l": 0.7, "lid_lower_l": 0.6, "brow_inner_down_l": 0.9,
        "brow_inner_down_r": 0.4,
    },
    "Smiling": _both(corner_up=0.9, cheek_up=0.7, lid_lower=0.45, brow_outer_up=0.2),
    "Blowing": {**_both(cheek_up=0.3, brow_middle_up=0.3), "mouth_narrow": 1.0},
    "Eyes shut": _both(lid_upper=1.0, lid_lower=1.0),
    "Worried": _both(brow_inner_up=1.0, corner_down=0.7, lid_upper=0.15),
}  # fmt: skip


def face_values(rig: Rig, *parts: tuple[str, float]) -> dict[str, float]:
    """Values of a face at a mixture of expressions, each with its share; nothing of what a rig has not."""
    known = {rig.channels[n].name: rig.addresses[n] for n in rig.shape_channels.tolist()}
    found = dict.fromkeys(known.values(), 0.0)
    if rig.has_channel("jaw/rx"):
        found["jaw/rx"] = 0.0
    for name, share in parts:
        for shape, amount in EXPRESSIONS[name].items():
            if shape == "jaw" and "jaw/rx" in found:
                found["jaw/rx"] += share * radians(amount)
            elif shape in known:
                found[known[shape]] += share * amount
    return {a: min(max(v, float(rig.low[rig.number(a)])), float(rig.high[rig.number(a)])) for a, v in found.items()}


def expression(rig: Rig, name: str) -> dict[str, float]:
    """What an expression alone moves on a rig."""
    return {address: value for address, value in face_values(rig, (name, 1.0)).items() if value != 0.0}


def gull_keeper(rig: Rig) -> Clip:
    """The keeper sees the gull: a squint, eyes squeezed as he ducks, wide before the mouth opens, and a smile."""
    return _faced(rig, refined.refined_take(rig), {
        1: [], 8: [("Squinting", 0.5)], 12: [("Squinting", 0.9)], 16: [("Squinting", 0.9)],
        19: [("Eyes shut", 1.0), ("Squinting", 0.6), ("Snarling", 0.3)], 21: [("Eyes shut", 0.9), ("Squinting", 0.5)],
        24: [("Surprised", 1.0)], 33: [("Surprised", 0.85)], 42: [("Worried", 0.8), ("Surprised", 0.25)],
        50: [("Squinting", 0.3), ("Smiling", 0.5)], 58: [("Smiling", 0.9)],
    })  # fmt: skip


def gull_apprentice(rig: Rig) -> Clip:
    """Wick is less startled, blows his cheeks when it is over, and smiles on one side."""
    return _faced(rig, shots.second_take(rig), {
        1: [], 18: [("Squinting", 0.4)], 26: [("Eyes shut", 0.9), ("Squinting", 0.4)], 31: [("Surprised", 0.7)],
        38: [("Surprised", 0.5)], 46: [("Worried", 0.5)], 52: [("Blowing", 1.0)], 56: [("Blowing", 0.8)],
        61: [("Snarling", 0.3), ("Smiling", 0.6)],
    })  # fmt: skip


def _faced(rig: Rig, clip: Clip, events: dict[int, list[tuple[str, float]]]) -> Clip:
    """The clip with a face at each event, its parts one after the other: lids, brows, the mouth, the jaw last."""
    zones = {control.name: control.name.split(".")[0] for control in rig.controls if control.part == "face"}
    if "lid" not in zones.values():
        return clip  # a figure from before it had a face

    def of(*stems: str) -> tuple[str, ...]:
        return tuple(name for name, stem in zones.items() if stem in stems)

    edits: list[Edit] = [
        SetPose(frame=frame, values=face_values(rig, *parts), what="Face") for frame, parts in events.items()
    ]
    edits.append(DelayParts(first=min(events) + 1, chain=(
        Trail(of("lid"), -2), Trail(of("brow"), -1), Trail(of("cheek", "nose"), 0), Trail(of("corner", "lip"), 1),
        Trail(("jaw",), 2),
    )))  # fmt: skip
    return refined.done(rig, clip, *edits)
