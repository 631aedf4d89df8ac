"""What edits of answers share."""

from __future__ import annotations

from typing import Annotated

from hame.character.rig import Rig
from hame.edits.edit import AtMost, Within
from hame.errors import BadEdit
from hame.evaluate.give import can_give

Frames = Annotated[int, Within(1, 240, "frames")]
What = Annotated[str, AtMost(20)]
"""What an answer answers, by the word of a happening; nothing where it stays where it is laid."""
Speed = Annotated[float, Within(0.0, 1000.0, "metres a second")]


def refuse_things(rig: Rig, does: str) -> None:
    """Raises :class:`BadEdit` for a rig without a body."""
    if rig.plan.is_prop or not can_give(rig):
        raise BadEdit(f"a thing has no body that {does}; nothing was changed")
