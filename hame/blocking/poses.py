"""Rough poses to block a walk, a run or a surprise take from, for any figure with two legs.

They are common practice, no source: angles in degrees, lengths as shares of
the legs' length, so that a tall figure takes longer steps. Each is a start
to pose on from, not a finished pose.
"""

from __future__ import annotations

from collections.abc import Mapping
from math import radians

import numpy as np

from hame.character.rig import PLACE, Rig
from hame.evaluate.evaluate import evaluate, overlaid

Pose = dict[str, float]

# Step length as a share of the legs' length, from hip joint to ankle.
STEP = {"walk": 0.80, "run": 1.0}

# By channel: degrees, or (with the suffix of a place, tx ty tz) shares of the legs' length. The left leg leads.
_HANDS = {f"arm.{s}.{f}/curl": v for s in "LR" for f, v in
          (("index", 22), ("middle", 27), ("ring", 31), ("little", 34), ("thumb", 10))}  # fmt: skip
_ARMS_DOWN = {f"arm.{s}.upper/rz": -37.0 for s in "LR"} | {f"arm.{s}.lower/rx": 14.0 for s in "LR"}
_BASE: dict[str, float] = {**_HANDS, **_ARMS_DOWN, "leg.L.goal/tx": -0.03, "leg.R.goal/tx": 0.03,
                           "leg.L.goal/ry": 5.0, "leg.R.goal/ry": -5.0}  # fmt: skip

_WALK: dict[str, dict[str, float]] = {
    "Contact": {
        "body/ty": 0.0, "body/rx": 2.0, "hips/ry": -4.5, "spine/ry": 1.5, "spine.2/ry": 2.0, "chest/ry": 2.5,
        "neck/ry": -2.5, "head/ry": -3.5, "head/rx": -1.0,
        "leg.L.goal/tz": 0.5, "leg.L.goal/roll": -22.0, "leg.R.goal/tz": -0.5, "leg.R.goal/roll": 40.0,
        "arm.L.upper/rx": -24.0, "arm.L.lower/rx": 14.0, "arm.R.upper/rx": 24.0, "arm.R.lower/rx": 30.0,
    },
    "Down": {
        "body/ty": -0.068, "body/tx": 0.018, "body/rx": 3.5, "hips/ry": -3.5, "hips/rz": 3.5, "spine/rz": -1.5,
        "chest/rz": -2.0,
        "spine/ry": 1.5, "spine.2/ry": 1.5, "chest/ry": 2.5, "neck/ry": -2.5, "head/ry": -3.0, "head/rx": 1.0,
        "leg.L.goal/tz": 0.25, "leg.R.goal/tz": -0.72, "leg.R.goal/ty": 0.04, "leg.R.goal/roll": 66.0,
        "leg.R.toe/rx": 8.0,
        "arm.L.upper/rx": -27.0, "arm.L.lower/rx": 12.0, "arm.R.upper/rx": 27.0, "arm.R.lower/rx": 34.0,
    },
    "Passing": {
        "body/ty": 0.0, "body/tx": 0.03, "body/rx": 2.5, "hips/rz": 4.5, "spine/rz": -2.0, "chest/rz": -2.5,
        "hips/ry": 0.5,
        "head/rx": -1.0, "head/rz": 0.5,
        "leg.L.goal/tz": 0.0, "leg.R.goal/tz": -0.2, "leg.R.goal/ty": 0.13, "leg.R.goal/roll": 34.0,
        "leg.R.toe/rx": 12.0,
        "arm.L.upper/rx": 2.0, "arm.L.lower/rx": 20.0, "arm.R.upper/rx": 3.0, "arm.R.lower/rx": 22.0,
    },
    "Up": {
        "body/ty": 0.002, "body/tx": 0.016, "body/rx": 1.0, "hips/ry": 3.0, "hips/rz": 1.5, "spine/rz": -0.5,
        "chest/rz": -1.0,
        "spine/ry": -1.0, "spine.2/ry": -1.5, "chest/ry": -2.0, "neck/ry": 1.5, "head/ry": 2.5, "head/rx": -2.0,
        "leg.L.goal/tz": -0.25, "leg.L.goal/roll": 14.0, "leg.R.goal/tz": 0.34, "leg.R.goal/ty": 0.055,
        "leg.R.goal/roll": -10.0,
        "arm.L.upper/rx": 17.0, "arm.L.lower/rx": 26.0, "arm.R.upper/rx": -15.0, "arm.R.lower/rx": 15.0,
    },
}  # fmt: skip

_RUN: dict[str, dict[str, float]] = {
    "Extreme": {
        "body/ty": -0.03, "body/rx": 9.0, "hips/ry": -9.0, "hips/rx": 3.0, "spine/ry": 4.0, "spine.2/ry": 5.0,
        "chest/ry": 7.5,
        "neck/ry": -6.5, "head/ry": -9.0, "neck/rx": -4.0, "head/rx": -4.0,
        "leg.L.goal/tz": 0.42, "leg.L.goal/roll": -9.0,
        "leg.R.goal/tz": -0.62, "leg.R.goal/ty": 0.34, "leg.R.goal/roll": 84.0, "leg.R.toe/rx": 10.0,
        "arm.L.upper/rx": -48.0, "arm.L.lower/rx": 78.0, "arm.R.upper/rx": 42.0, "arm.R.lower/rx": 96.0,
        "arm.L.collar/ry": -6.0, "arm.R.collar/ry": 8.0,
    },
    "Down": {
        "body/ty": -0.12, "body/tx": 0.012, "body/rx": 12.0, "hips/ry": -5.5, "hips/rz": 5.0, "hips/rx": 3.0,
        "spine/rz": -2.0,
        "chest/rz": -2.5, "spine/ry": 2.5, "spine.2/ry": 3.5, "chest/ry": 5.0, "neck/ry": -4.0, "head/ry": -6.5,
        "neck/rx": -5.0, "head/rx": -3.0,
        "leg.L.goal/tz": 0.14, "leg.R.goal/tz": -0.5, "leg.R.goal/ty": 0.42, "leg.R.goal/roll": 88.0,
        "leg.R.toe/rx": 14.0,
        "arm.L.upper/rx": -40.0, "arm.L.lower/rx": 82.0, "arm.R.upper/rx": 34.0, "arm.R.lower/rx": 98.0,
    },
    "Passing": {
        "body/ty": -0.075, "body/tx": 0.012, "body/rx": 11.0, "hips/rz": 4.0, "hips/rx": 3.0, "spine/rz": -1.5,
        "chest/rz": -2.0,
        "neck/rx": -5.0, "head/rx": -4.0,
        "leg.L.goal/tz": -0.14, "leg.L.goal/roll": 8.0, "leg.R.goal/tz": 0.02, "leg.R.goal/ty": 0.4,
        "leg.R.goal/roll": 48.0,
        "leg.R.toe/rx": 10.0,
        "arm.L.upper/rx": -6.0, "arm.L.lower/rx": 88.0, "arm.R.upper/rx": -2.0, "arm.R.lower/rx": 90.0,
    },
    "Push": {
        "body/ty": 0.015, "body/rx": 8.0, "hips/ry": 7.0, "hips/rx": 2.0, "spine/ry": -3.5, "spine.2/ry": -4.0,
        "chest/ry": -5.5,
        "neck/ry": 5.0, "head/ry": 7.5, "neck/rx": -4.0, "head/rx": -5.0,
        "leg.L.goal/tz": -0.42, "leg.L.goal/roll": 58.0, "leg.R.goal/tz": 0.36, "leg.R.goal/ty": 0.26,
        "leg.R.goal/roll": 4.0,
        "arm.L.upper/rx": 32.0, "arm.L.lower/rx": 94.0, "arm.R.upper/rx": -40.0, "arm.R.lower/rx": 80.0,
    },
}  # fmt: skip

_STARTLE: dict[str, dict[str, float]] = {
    "Rest": {"body/ty": -0.015, "leg.L.goal/tx": 0.03, "leg.R.goal/tx": -0.03, "leg.L.goal/ry": 12.0,
        "leg.R.goal/ry": -12.0},
    "Anticipation": {
        "body/ty": -0.3, "body/tz": -0.06, "body/rx": 14.0, "spine/rx": 14.0, "spine.2/rx": 12.0, "chest/rx": 12.0,
        "neck/rx": 10.0, "head/rx": 8.0, "arm.L.collar/rz": 10.0, "arm.R.collar/rz": 10.0,
        "leg.L.goal/tx": 0.03, "leg.R.goal/tx": -0.03, "leg.L.goal/ry": 14.0, "leg.R.goal/ry": -14.0,
        **{f"arm.{s}.upper/rx": 26.0 for s in "LR"}, **{f"arm.{s}.upper/rz": -32.0 for s in "LR"},
        **{f"arm.{s}.lower/rx": 96.0 for s in "LR"},
        **{f"arm.{s}.{f}/curl": 72.0 for s in "LR" for f in ("index", "middle", "ring", "little")},
        **{f"eye.{s}/rx": 12.0 for s in "LR"},
    },
    "Accent": {
        "body/ty": 0.05, "body/tz": -0.02, "body/rx": -3.0, "spine/rx": -6.0, "spine.2/rx": -5.0, "chest/rx": -6.0,
        "neck/rx": 8.0, "head/rx": 6.0, "jaw/rx": 20.0, "arm.L.collar/rz": 18.0, "arm.R.collar/rz": 18.0,
        "leg.L.goal/tx": 0.03, "leg.R.goal/tx": -0.03, "leg.L.goal/ry": 14.0, "leg.R.goal/ry": -14.0,
        "leg.L.goal/roll": 26.0, "leg.R.goal/roll": 26.0,
        **{f"arm.{s}.upper/rz": 6.0 for s in "LR"}, **{f"arm.{s}.upper/rx": 16.0 for s in "LR"},
        **{f"arm.{s}.lower/rx": 44.0 for s in "LR"},
        **{f"arm.{s}.{f}/curl": -12.0 for s in "LR" for f in ("index", "middle", "ring", "little")},
        **{f"arm.{s}.{f}/rz": v for s in "LR" for f, v in (("index", 10.0), ("ring", -8.0), ("little", -16.0))},
    },
    "Settle": {
        "body/ty": -0.05, "body/tz": -0.02, "body/rx": 3.0, "spine/rx": -1.0, "chest/rx": -2.0, "neck/rx": 3.0,
        "head/rx": -1.0,
        "jaw/rx": 7.0, "arm.L.collar/rz": 5.0, "arm.R.collar/rz": 5.0,
        "leg.L.goal/tx": 0.03, "leg.R.goal/tx": -0.03, "leg.L.goal/ry": 12.0, "leg.R.goal/ry": -12.0,
        **{f"arm.{s}.upper/rx": 10.0 for s in "LR"}, **{f"arm.{s}.upper/rz": -26.0 for s in "LR"},
        **{f"arm.{s}.lower/rx": 40.0 for s in "LR"},
    },
}  # fmt: skip

_TABLES = {"walk": _WALK, "run": _RUN, "startle": _STARTLE}
_STRETCH = {"walk": 0.991, "run": 0.985, "startle": 0.985}


def rough_pose(rig: Rig, kind: str, name: str) -> tuple[Pose, set[str]]:
    """Channel values of a named pose of a ``walk``, ``run`` or ``take``, and the controls that this rig lacks for it.

    ``Opposite ...`` is the pose mirrored and ``... again`` the pose itself. The
    body is lowered as far as the legs need to reach their feet without locking the knee.
    """
    plain = name.removesuffix(" again").removeprefix("Opposite ").capitalize()
    table = dict(_BASE) | _TABLES[kind][plain]
    legs = [limb for limb in rig.limbs if limb.kind == "leg"]
    size = float(np.mean([sum(limb.lengths) for limb in legs])) if legs else rig.skeleton.size
    step = STEP.get(kind, 1.0)
    values: Pose = {}
    lacking: set[str] = set()
    for address, number in table.items():
        if not rig.has_channel(address):
            lacking.add(address.rsplit("/", 1)[0])
            continue
        channel = rig.channels[rig.number(address)]
        if channel.kind == PLACE:
            scale = size * (step if address.endswith(".goal/tz") else 1.0)
            value = number * scale
        else:
            value = radians(number)
        values[address] = float(np.clip(value, channel.low, channel.high))
    values = _settled(rig, values, _STRETCH[kind])
    if name.startswith("Opposite"):
        values = opposite(rig, values)
    return values, lacking


def opposite(rig: Rig, values: Mapping[str, float]) -> Pose:
    """A pose about the master's middle plane; channels without another side stay."""
    found: Pose = {}
    for address, value in values.items():
        channel = rig.channels[rig.number(address)]
        target = rig.counterpart(address)
        found[target or address] = channel.mirror * value if target else value
    return found


def _settled(rig: Rig, values: Pose, stretch: float) -> Pose:
    """The pose with the body lowered until no leg is straighter than ``stretch`` of its length."""
    if not rig.has_channel("body/ty"):
        return values
    legs = [limb for limb in rig.limbs if limb.kind == "leg"]

    def straightest(lowered: float) -> float:
        nodes = evaluate(rig, overlaid(rig, rig.rest, {**values, "body/ty": lowered})[None])[0]
        return max(
            (float(np.linalg.norm(nodes[leg.end, :3] - nodes[leg.upper, :3])) / sum(leg.lengths) for leg in legs),
            default=0.0,
        )

    start = values.get("body/ty", 0.0)
    if straightest(start) <= stretch:
        return values
    low, high = start - 0.5 * rig.skeleton.size, start
    for _ in range(30):
        middle = 0.5 * (low + high)
        low, high = (middle, high) if straightest(middle) <= stretch else (low, middle)
    return {**values, "body/ty": low}
