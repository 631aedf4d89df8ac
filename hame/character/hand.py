"""Shapes of a hand that sliders mix: by finger, how its joints turn at the end of each slider.

Degrees from memory of practice, no source. Fingers fan: from the index to the little finger they close a little more,
so that no two are alike.
"""

from __future__ import annotations

from collections.abc import Sequence
from math import radians

import numpy as np

from hame.character.bodyplan import FINGERS
from hame.maths.rotations import Array

SLIDERS = ("fist", "flat", "spread", "grasp", "relaxed", "fan", "across")
LABELS = {
    "fist": "fist", "flat": "flat", "spread": "spread", "grasp": "grasp", "relaxed": "relaxed", "fan": "fan",
    "across": "thumb across",
}  # fmt: skip
PURPOSE = {
    "fist": "closes all fingers into the palm, the thumb over them", "flat": "straightens all fingers",
    "spread": "spreads the fingers apart; below 0 brings them together", "grasp": "closes them as about a handle",
    "relaxed": "lets them hang, each a little more than the one before",
    "fan": "closes them one after the other, the little finger first", "across": "brings the thumb across the palm",
}  # fmt: skip

# By slider and finger: the bend of its three joints.
_BENDS: dict[str, dict[str, tuple[float, float, float]]] = {
    "fist": {"thumb": (28, 38, 45), "index": (74, 98, 62), "middle": (80, 100, 64), "ring": (84, 100, 64),
             "little": (88, 98, 62)},
    "grasp": {"thumb": (18, 16, 18), "index": (36, 44, 26), "middle": (42, 48, 28), "ring": (47, 50, 30),
              "little": (52, 50, 30)},
    "relaxed": {"thumb": (8, 10, 10), "index": (12, 18, 10), "middle": (18, 24, 13), "ring": (23, 29, 16),
                "little": (28, 33, 18)},
    "fan": {"thumb": (0, 0, 0), "index": (4, 6, 3), "middle": (24, 30, 16), "ring": (46, 58, 30),
            "little": (68, 84, 44)},
    "across": {"thumb": (34, 30, 34)},
}  # fmt: skip
# To the side, towards the thumb.
_ASIDE = {"thumb": 22.0, "index": 13.0, "middle": 3.0, "ring": -8.0, "little": -20.0}


def bends(finger: str, joint: int, at_rest: float) -> Array:
    """How far a joint (0, 1, 2) of a finger bends by each slider, radians (7,). ``at_rest`` is how far it is bent at
    rest, which *flat* takes out.
    """
    degrees = [_BENDS.get(slider, {}).get(finger, (0.0, 0.0, 0.0))[min(joint, 2)] for slider in SLIDERS]
    found = np.array([radians(angle) for angle in degrees])
    found[SLIDERS.index("flat")] = -at_rest
    return found


def asides(finger: str) -> Array:
    """How far the first joint of a finger goes towards the thumb's side by each slider, radians (7,)."""
    found = np.zeros(len(SLIDERS))
    found[SLIDERS.index("spread")] = radians(_ASIDE[finger])
    if finger == "thumb":
        found[SLIDERS.index("across")] = radians(-24.0)
    return found


def bent_at_rest(points: Sequence[Array], hinge: Array) -> list[float]:
    """By joint, how far a finger is bent there in the rest pose about its ``hinge (3,)``, radians."""
    ways = [b - a for a, b in zip(points, points[1:], strict=False)]
    found = [0.0]
    for one, two in zip(ways, ways[1:], strict=False):
        found.append(float(np.arctan2(np.cross(one, two) @ hinge, one @ two)))
    return found


assert set(_ASIDE) == set(FINGERS)
