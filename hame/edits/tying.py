"""What edits of plants and of belongings share: their fields, owners in words, and what is refused of both."""

from __future__ import annotations

from typing import Annotated

from hame.clip.plants import MOST_EASED
from hame.clip.spans import OWN
from hame.edits.edit import AtMost, Within
from hame.errors import BadEdit
from hame.scene.scene import Scene

Eased = Annotated[int, Within(0, MOST_EASED, "frames")]
FigureNumber = Annotated[int, Within(0, 2**53, "")]
ControlName = Annotated[str, AtMost(200)]


def refuse_outside(scene: Scene, start: int, end: int, what: str) -> None:
    """Raises :class:`BadEdit` for frames that end before they begin, or of which none is in the shot."""
    if end < start:
        raise BadEdit(f"{what} from {start} would end at {end}, before it begins; nothing was changed")
    if end < scene.start or start > scene.end:
        raise BadEdit(
            f"{what} from {start} to {end} would lie outside of the shot, which goes from {scene.start} to "
            f"{scene.end}; nothing was changed"
        )


def refuse_unknown_owner(scene: Scene, figure: int, control: str) -> None:
    """Raises :class:`BadEdit` if what something is to be tied to does not play, or has no such control."""
    if not control:
        return
    number = scene.of if figure == OWN else figure
    owner = scene.figure(number)
    if not owner.plays:
        raise BadEdit(f"{owner.name} was taken out of this shot; bring it back first. Nothing was changed")
    owner.rig.control(control)


def owner_said(scene: Scene, figure: int, control: str) -> str:
    """An owner in words."""
    if not control:
        return "the world"
    number = scene.of if figure == OWN else figure
    try:
        owner = scene.figure(number)
        label = owner.rig.control(control).label
    except BadEdit:
        return control
    return label if number == scene.of else f"{owner.name}'s {label}"
