"""What a fault is: something wrong with a motion, by how much and where, and what mends it, which is an edit.

A kind of fault is one class in the module of its family. It finds its faults in
a :class:`~hame.faults.look.Look`; from the class follow the route that tells
them, their list and their marks. Where one action mends a fault, it says so.
"""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Iterator
from dataclasses import dataclass, replace
from typing import ClassVar, Literal, get_args

from hame.edits.edit import Edit
from hame.faults.look import Look

Group = Literal["contacts", "paths", "weight"]
GROUPS: tuple[Group, ...] = get_args(Group)
FAULTS: dict[str, type[Fault]] = {}


@dataclass(frozen=True)
class Alert:
    """A fault on some frames.

    Attributes
    ----------
    worst : the frame on which it is most, and ``amount`` how much: metres, radians of angles, or what ``says`` tells
    says : it in words
    mend, mending : an edit that mends it and that edit in words, where one does
    others : other edits that mend it, in words
    """

    kind: str
    control: str
    first: int
    last: int
    worst: int
    amount: float
    says: str
    mend: Edit | None = None
    mending: str = ""
    others: tuple[tuple[Edit, str], ...] = ()

    def mended(self, by: Edit | None, how: str) -> Alert:
        """The same with what mends it, if anything does."""
        return replace(self, mend=by, mending=how if by is not None else "")


class Fault(ABC):
    """A kind of fault.

    Attributes
    ----------
    kind : its name
    group : with which others it is looked for
    """

    kind: ClassVar[str] = ""
    group: ClassVar[Group]

    def __init_subclass__(cls) -> None:
        super().__init_subclass__()
        if cls.kind:
            FAULTS[cls.kind] = cls

    @abstractmethod
    def found(self, look: Look) -> Iterator[Alert]:
        """The faults of this kind."""


def faults_in(group: Group, look: Look) -> list[Alert]:
    """The faults of a group, in the order of time.

    >>> import numpy as np, hame.faults.kinds
    >>> from hame.clip.clip import Clip
    >>> from hame.clip.curve import from_keys
    >>> from hame.demo.shots import figure
    >>> from hame.scene.joined import played
    >>> from hame.scene.scene import Figure
    >>> rig, _ = figure("brannoc")
    >>> keys = {"body/ty": {1: -0.1}, "leg.L.goal/ty": {1: 0.0, 6: -0.05, 12: 0.0}}
    >>> clip = Clip().with_curves({address: from_keys(values) for address, values in keys.items()})
    >>> look = Look(clip, played({1: Figure(rig, clip)}, np.arange(1, 13))[1], 1, 24.0)
    >>> [(fault.worst, fault.says, fault.mending) for fault in faults_in("contacts", look) if fault.kind == "sink"]
    [(6, 'left foot sinks 50 mm into the ground', 'lift it from 2 to 11, on as few frames as hold it')]
    """
    found = [alert for fault in FAULTS.values() if fault.group == group for alert in fault().found(look)]
    return sorted(found, key=lambda alert: (alert.first, alert.kind, alert.control))
