"""Quantities of how somebody goes, each with a curve of its own beside those of channels.

They are kept with the other curves, under addresses that no channel has, so
that everything which stores, compares, moves and retimes curves does the same
for them.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, fields
from math import pi

import numpy as np

from hame.clip.curve import Curve
from hame.clip.key import Array
from hame.clip.sampling import sample_curve
from hame.gait.traits import Traits

MARK = "~"  # begins the address of a quantity
OF_WAYS = -1  # where others have the number of a layer


@dataclass(frozen=True)
class Quantity:
    """A quantity that can be keyed.

    Attributes
    ----------
    unit : of its values: ``m``, ``rad`` or none; speeds are metres a second, and cadence steps a second
    said : the unit in words
    """

    label: str
    unit: str
    low: float
    high: float
    said: str = ""


_TURN = pi
_OF_PACE = {
    "speed": Quantity("Speed", "", 0.0, 12.0, "m/s"),
    "cadence": Quantity("Cadence", "", 0.0, 12.0, "steps/s"),
    "share": Quantity("Share on the ground", "", 0.08, 0.95, "%"),
    "together": Quantity("Both feet together", "", 0.0, 1.0),
    "width": Quantity("Width", "m", -0.3, 1.0),
    "toe_out": Quantity("Toes out", "rad", -1.0, 1.5),
    "facing": Quantity("Turned from the way", "rad", -2.0 * _TURN, 2.0 * _TURN),
}
_OF_MANNER = {
    "lift": Quantity("Foot lift", "", 0.0, 0.6, "% of the leg"),
    "strike": Quantity("Toes up as the heel lands", "rad", -0.6, 0.8),
    "push": Quantity("Up over the toes", "rad", 0.0, 1.3),
    "bounce": Quantity("Bounce", "", 0.0, 1.5, "%"),
    "low": Quantity("Goes low", "", 0.0, 0.45, "% of the leg"),
    "turn": Quantity("Pelvis turns", "rad", -0.6, 0.6),
    "list": Quantity("Pelvis lists", "rad", -0.5, 0.5),
    "pitch": Quantity("Trunk pitch", "rad", -0.8, 1.2),
    "lean": Quantity("Trunk leans over", "rad", -0.6, 0.6),
    "chest": Quantity("Chest against pelvis", "", -3.0, 5.0),
    "swing": Quantity("Arms swing", "rad", -1.6, 1.6),
    "arm_bend": Quantity("Elbows bent", "rad", 0.0, 2.4),
    "arm_bends": Quantity("Elbows bend ahead", "rad", -1.0, 1.5),
    "arms_out": Quantity("Arms away", "rad", -0.3, 1.4),
    "head": Quantity("Head pitch", "rad", -1.0, 1.0),
    "steady": Quantity("Head steady", "", 0.0, 1.0, "%"),
    "late": Quantity("Hands late", "", 0.0, 6.0, "frames"),
    "hands": Quantity("Hands closed", "rad", -0.3, 1.6),
    "uneven": Quantity("Uneven steps", "", -0.8, 0.8, "%"),
}
QUANTITIES: Mapping[str, Quantity] = {**_OF_PACE, **_OF_MANNER}
TRAITS = tuple(field.name for field in fields(Traits))
assert set(_OF_MANNER) == set(TRAITS)


def quantity_address(name: str) -> str:
    return f"{MARK}{name}"


def quantity_at(address: str) -> Quantity | None:
    """The quantity at an address; None where that is of no quantity."""
    return QUANTITIES.get(address[len(MARK) :]) if address.startswith(MARK) else None


def quantities_in(curves: Mapping[str, Curve]) -> dict[str, Curve]:
    """By name, the curves of quantities among some."""
    return {address[len(MARK) :]: curve for address, curve in curves.items() if quantity_at(address)}


def quantity_values(curve: Curve, name: str, times: Array) -> Array:
    """A quantity at ``times (T,)``, within its bounds."""
    bounds = QUANTITIES[name]
    return np.clip(sample_curve(curve, times), bounds.low, bounds.high)
