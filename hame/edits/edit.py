"""What an edit is: a small frozen value with fields, what it does to a scene, and its name in the history.

Each kind is a class in the module of its family. It is known from then on:
:mod:`hame.edits.kinds` finds it, scripts make it, the server's interface takes
it. Fields tell their units and bounds by what they are annotated with.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, fields, is_dataclass, replace
from functools import cache
from typing import Annotated, Any, ClassVar, get_args, get_origin, get_type_hints

from hame.character.rig import Kind, Rig
from hame.clip.clip import Clip
from hame.clip.spans import Reach
from hame.edits.outcome import Outcome
from hame.errors import BadEdit
from hame.scene.scene import Scene


@dataclass(frozen=True)
class Within:
    """The bounds of a number, both included, and its unit.

    Attributes
    ----------
    says : what to say of a ``{value}`` beyond them
    """

    low: float
    high: float
    unit: str
    says: str = ""

    def check(self, value: float, what: str = "a number") -> None:
        """Raises :class:`BadEdit` for a value beyond, or one that is no number."""
        if not math.isfinite(value) or not self.low <= value <= self.high:
            told = (
                self.says
                or "{what} goes from {low:g} to {high:g} {unit}, and {value:g} is past that. Nothing was changed"
            )
            raise BadEdit(told.format(what=what, low=self.low, high=self.high, unit=self.unit, value=value))

    def __get_pydantic_json_schema__(self, core: Any, handler: Any) -> dict[str, Any]:
        """What the interface's document says of the number; it is checked here, so that the words are ours."""
        schema: dict[str, Any] = {**handler(core), "minimum": self.low, "maximum": self.high}
        return {**schema, "x-unit": self.unit} if self.unit else schema


@dataclass(frozen=True)
class AtMost:
    """How many things, or letters, a field may hold."""

    count: int

    def check(self, value: Any, what: str) -> None:
        if len(value) > self.count:
            raise BadEdit(f"{what}: {len(value):,} are too many; there may be {self.count:,}. Nothing was changed")

    def __get_pydantic_json_schema__(self, core: Any, handler: Any) -> dict[str, Any]:
        schema = handler(core)
        most = {"string": "maxLength", "object": "maxProperties"}.get(schema.get("type"), "maxItems")
        return {**schema, most: self.count}


_FAR = "{what} {value:.0f} is out of range; frames lie within a million of zero. Nothing was changed"
Frame = Annotated[int, Within(-1_000_000, 1_000_000, "frames", _FAR)]
Count = Annotated[int, Within(-1_000_000, 1_000_000, "frames", _FAR)]
Frames = Annotated[tuple[int, ...], AtMost(5000)]
Names = Annotated[tuple[str, ...], AtMost(2000)]
Controls = Names | None  # the chosen ones; None is the whole character
Values = Mapping[str, float]  # by channel address, in metres, radians or plain numbers
Chosen = Annotated[Mapping[str, tuple[int, ...]], AtMost(5000)]  # frames of keys by channel address
KINDS_KEYED: tuple[Kind, ...] = ("place", "turn", "extra")  # scale is keyed only when it is asked for or changed

EDITS: dict[str, type[Edit]] = {}


@dataclass(frozen=True, kw_only=True)
class Edit:
    """Something a person can do to a scene, for one figure of it.

    ``layer`` is the layer that it is made in, for kinds that set poses; 0 is the motion below all layers.
    """

    kind: str
    layer: Annotated[int, Within(0, 1_000_000, "")] = 0

    poses: ClassVar[bool] = False
    """Whether it only keys poses, so that it can be made in a layer."""
    cleans: ClassVar[bool] = False
    """Whether its layer is the one whose keys it is about."""
    lays: ClassVar[bool] = False
    """Whether it says where answers lie, so that they do not go along with what they answer."""
    away: ClassVar[bool] = False
    """Whether it takes seconds whatever the motion: it is made in a process of its own, and not tried on the way."""
    dear: ClassVar[bool] = False
    """Whether it works out much of a motion: of a long one it is made where nobody waits for it."""

    def __init_subclass__(cls, **given: Any) -> None:
        super().__init_subclass__(**given)
        kind = cls.__dict__.get("kind")
        if kind is not None:
            EDITS[kind] = cls

    def apply(self, scene: Scene, of: int) -> tuple[dict[int, Clip], tuple[str, ...]]:
        """The clips that it changes, by figure, and what the person should be told.

        Raises
        ------
        BadEdit
            If it cannot be made.
        """
        figure = scene.figure(of)
        outcome = self.change(figure.clip, figure.rig, replace(scene, of=of))
        return {of: outcome.clip}, outcome.notes

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        """What becomes of the own clip of the figure that the scene is seen by, for kinds that change no other."""
        raise NotImplementedError

    def label(self, rig: Rig, scene: Scene) -> str:
        """It in a few words, for the history."""
        raise NotImplementedError

    def takes_long(self) -> bool:
        """Whether it can work out much of a motion."""
        return self.dear

    def goes_away(self) -> bool:
        """Whether it takes seconds whatever the motion."""
        return self.away

    def moves_time(self) -> Reach | None:
        """The frames of which what lies there comes to lie elsewhere by it; None where time stays as it is.

        A step that somebody else made before, about such frames, means other ones afterwards.
        """
        return None


def check(edit: Any, what: str = "") -> None:
    """Checks the fields of an edit against their bounds.

    Raises
    ------
    BadEdit
        If one is past them.
    """
    for name, hints in _bounds(type(edit)):  # type: ignore[arg-type]
        value = getattr(edit, name)
        if value is not None:
            for bound in hints:
                bound.check(value, what + name.replace("_", " "))
    for field in fields(edit):
        value = getattr(edit, field.name)
        for part in value if isinstance(value, tuple) else (value,):
            if is_dataclass(part):
                check(part, f"{field.name} ")


@cache
def _bounds(kind: Any) -> tuple[tuple[str, tuple[Any, ...]], ...]:
    return tuple((name, tuple(_bounds_of(hint))) for name, hint in get_type_hints(kind, include_extras=True).items())


def _bounds_of(hint: Any) -> Iterable[Within | AtMost]:
    if get_origin(hint) is Annotated:
        yield from (m for m in hint.__metadata__ if isinstance(m, Within | AtMost))
    elif type(None) in get_args(hint):
        for part in get_args(hint):
            yield from _bounds_of(part)


# Words for the history


def frames_said(frames: Iterable[int]) -> str:
    shown = sorted(frames)
    return ", ".join(map(str, shown[:4])) + (" …" if len(shown) > 4 else "")


def keys_said(keys: Mapping[str, Sequence[int]]) -> str:
    count = sum(map(len, keys.values()))
    return f"{count} key{'' if count == 1 else 's'}"


def of_said(rig: Rig, controls: Iterable[str] | None) -> str:
    return "" if controls is None else f" of {controls_said(rig, controls)}"


def controls_said(rig: Rig, names: Iterable[str] | None) -> str:
    if names is None:
        return "the whole character"
    labels = [rig.control(name).label for name in names if rig.has_control(name)]
    if len(labels) > 2:
        return f"{labels[0]} and {len(labels) - 1} more"
    return " and ".join(sorted(labels)) or "nothing"
