"""What an edit hands back."""

from __future__ import annotations

from dataclasses import dataclass

from hame.clip.clip import Clip


@dataclass(frozen=True)
class Outcome:
    """The clip after an edit, and what the person should be told about it."""

    clip: Clip
    notes: tuple[str, ...] = ()
