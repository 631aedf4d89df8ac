"""Who plays in a take: figures and props with their rigs and clips, by number."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from types import MappingProxyType

from hame.character.rig import Rig
from hame.character.skin import Skin
from hame.clip.clip import Clip
from hame.clip.spans import OWN
from hame.errors import BadEdit
from hame.measure.dynamics import GRAVITY


@dataclass(frozen=True)
class StoredPose:
    """Channel values with what is needed to lay them on another figure.

    Attributes
    ----------
    values : by address
    size : length of the legs (or height, without legs) of the figure it was stored from, metres
    """

    values: Mapping[str, float]
    size: float
    name: str = "a pose"


@dataclass(frozen=True)
class Figure:
    """One of the cast, a character or a prop.

    Attributes
    ----------
    protected : names of controls that no edit may touch
    plays : whether it is in the shot; one that was taken out carries nobody
    """

    rig: Rig
    clip: Clip = field(default_factory=Clip)
    name: str = ""
    protected: tuple[str, ...] = ()
    plays: bool = True

    def with_clip(self, clip: Clip) -> Figure:
        return replace(self, clip=clip)


@dataclass(frozen=True)
class Scene:
    """The cast of a take.

    Attributes
    ----------
    figures : by number. It may open a clip only when it is asked for
    of : the figure that something is done for
    start, end : the first and last frame of the shot
    library : stored poses by number
    skins : the surfaces of the cast, by number, where they are at hand; opened when they are asked for
    fps : frames a second
    gravity : of its world, metres a second, each second
    """

    figures: Mapping[int, Figure]
    start: int = 1
    end: int = 1_000_000
    library: Mapping[int, StoredPose] = field(default_factory=lambda: MappingProxyType({}))
    of: int = OWN
    skins: Mapping[int, Skin] = field(default_factory=lambda: MappingProxyType({}))
    fps: float = 24.0
    gravity: float = GRAVITY

    def figure(self, number: int) -> Figure:
        """Raises :class:`BadEdit` if nobody of that number plays."""
        try:
            return self.figures[number]
        except KeyError:
            raise BadEdit("this character does not play in the shot of this take") from None

    def stored_pose(self, number: int) -> StoredPose:
        """Raises :class:`BadEdit` if the library has no pose of that number."""
        try:
            return self.library[number]
        except KeyError:
            raise BadEdit("this pose is not in the library of this production; nothing was laid") from None
