"""Named groups of a figure's controls, such as its coat and its cap, that are hidden and shown together."""

from __future__ import annotations

import re
from collections.abc import Iterable
from dataclasses import dataclass

from hame.character.rig import Rig
from hame.errors import BadPlan

LONGEST = 60  # letters of a name
MOST = 100  # groups of a figure

_SIDES = {"l", "r", "left", "right"}


@dataclass(frozen=True)
class Group:
    """Controls of a rig under a name, each by its own name."""

    name: str
    controls: tuple[str, ...]


def usual_groups(rig: Rig) -> tuple[Group, ...]:
    """What moves late in the work, grouped by what it is called first: the coat's controls, the cap's, the hair's."""
    found: dict[str, list[str]] = {}
    for control in rig.controls:
        if control.kind == "extra":
            found.setdefault(_first_word(control.label), []).append(control.name)
    return tuple(Group(name, tuple(controls)) for name, controls in found.items())


def _first_word(label: str) -> str:
    words = [w for w in re.findall(r"[^\W\d_]+", re.sub(r"(?<=[a-z])(?=[A-Z])", " ", label)) if w.lower() not in _SIDES]
    return words[0].capitalize() if words else "Further"


def checked_groups(rig: Rig, groups: Iterable[Group]) -> tuple[Group, ...]:
    """Groups as they may be kept, their names trimmed.

    Raises
    ------
    BadPlan
        If one has no name, or that of another, or a control that the figure has not, or there are too many.
    """
    kept: dict[str, Group] = {}
    for group in groups:
        name = group.name.strip()
        if not name or len(name) > LONGEST:
            raise BadPlan(f"a group has a name of up to {LONGEST} letters; nothing was changed")
        if name in kept:
            raise BadPlan(f"two groups are called {name}; nothing was changed")
        for control in group.controls:
            if not rig.has_control(control):
                raise BadPlan(f"there is no control called {control}; nothing was changed")
        kept[name] = Group(name, tuple(dict.fromkeys(group.controls)))
    if len(kept) > MOST:
        raise BadPlan(f"a figure has {MOST} groups at the most; nothing was changed")
    return tuple(kept.values())
