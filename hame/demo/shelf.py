"""Things that ship with the application, for every production to take."""

from __future__ import annotations

from pathlib import Path

THINGS = (
    "Oil can",
    "Signal lamp",
    "Crate",
    "Coil of rope",
    "Ladder",
    "Step",
    "Rail",
    "Lamp post",
    "Shot camera",
    "Bollard",
    "Boat-hook",
)


def thing(name: str) -> Path | None:
    """The file of a thing; None if there is none of that name."""
    return Path(__file__).parent / "data" / f"{name.lower().replace(' ', '-')}.glb" if name in THINGS else None
