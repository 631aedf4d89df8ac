"""Things that ship with the application, for every production to take."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from pathlib import Path

from hame.character.bodyplan import BodyPlan

# What each of them weighs, kilograms: estimates after things of such a size, no source.
THINGS: Mapping[str, float] = {
    "Oil can": 3.5,
    "Signal lamp": 9.0,
    "Crate": 18.0,
    "Coil of rope": 7.0,
    "Ladder": 12.0,
    "Step": 25.0,
    "Rail": 40.0,
    "Lamp post": 90.0,
    "Shot camera": 6.0,
    "Bollard": 140.0,
    "Boat-hook": 2.5,
    "Sack": 44.0,
    "Gallery": 2600.0,
    "Gangway": 45.0,
}


def thing(name: str) -> Path | None:
    """The file of a thing; None if there is none of that name."""
    return Path(__file__).parent / "data" / f"{name.lower().replace(' ', '-')}.glb" if name in THINGS else None


def weighed(name: str, plan: BodyPlan) -> BodyPlan:
    """The plan of a thing that weighs what it does: its parts as they were measured, all by the same share."""
    whole = sum(plan.masses.values())
    if name not in THINGS or not plan.is_prop or whole <= 0.0:
        return plan
    by = THINGS[name] / whole
    return replace(plan, weights={joint: {"kilograms": [round(m * by, 4)]} for joint, m in plan.masses.items()})
