"""What is said over the socket of a take, up and down, as it stands in the API's document.

Up, as JSON: ``begin`` names a casting and a frame (and values that are not stored yet) and is the start of a drag;
``move``, ``turn`` and ``set``, and ``pull`` and ``few`` by parts of the body, then ask for the pose at the present
state of the drag, each from that start. ``try`` asks how the pose at a frame would be after an edit, which is not made
by that.

Down, as bytes, the figures that move (:mod:`server.shots.packing`), after which :class:`Said` may follow as JSON; and
as JSON by itself every other message.
"""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, Field, TypeAdapter

from hame.edits.reading import AnyEdit
from hame.solve.wishes import Leanings
from server.shots.schemas import BalanceOut, FrameNumber

Number = Annotated[float, Field(ge=-1e6, le=1e6, allow_inf_nan=False)]
Triple = Annotated[list[Number], Field(min_length=3, max_length=3)]
Quaternion = Annotated[list[Number], Field(min_length=4, max_length=4)]
Seq = Annotated[int, Field(ge=0, le=2**32 - 1)]
RowId = Annotated[int, Field(ge=0, le=2**63 - 1)]
AxesName = Literal["world", "parent", "own", "view"]
SidesName = Literal["one", "mirrored", "opposite"]
PartName = Annotated[str, Field(max_length=120)]
Share = Annotated[float, Field(ge=0.0, le=1.0)]
MOST_THINGS = 24

# Up


class ThingIn(BaseModel):
    """A control of one of the cast, or a joint of its skeleton."""

    casting: RowId
    name: str = Field(max_length=200)
    joint: bool = False


class Watch(BaseModel):
    """The parts whose paths are looked at, from a frame to another one; and how what is dragged would be keyed."""

    first: FrameNumber
    last: FrameNumber
    things: list[ThingIn] = Field(max_length=MOST_THINGS)
    keying: Literal["off", "changed", "control", "whole"] = "changed"
    layer: int = Field(0, ge=0, le=1_000_000)


class Begin(BaseModel):
    """The start of a drag."""

    do: Literal["begin"]
    seq: Seq
    casting: RowId
    frame: FrameNumber
    values: dict[str, float] = {}
    balance: bool = False
    watch: Watch | None = None


class _Drag(BaseModel):
    seq: Seq
    controls: list[str] = Field(max_length=2000)
    axes: AxesName = "world"
    view: Quaternion = [0, 0, 0, 1]
    sides: SidesName = "one"


class Move(_Drag):
    do: Literal["move"]
    offset: Triple


class Turn(_Drag):
    do: Literal["turn"]
    axis: Triple
    angle: float = Field(ge=-1000, le=1000, allow_inf_nan=False)
    pivot: Triple | None = None


class Set(_Drag):
    do: Literal["set"]
    values: dict[str, float]


class Try(BaseModel):
    """An edit looked at before it is made: the pose at a frame as it would be.

    With ``instead``, the name of one's own last step, as it would be in place of that; no edit is without either.
    """

    do: Literal["try"]
    seq: Seq
    casting: RowId
    frame: FrameNumber
    edit: AnyEdit | None
    instead: str | None = Field(default=None, max_length=64)
    watch: Watch | None = None


class GripIn(BaseModel):
    part: PartName
    grade: Literal["loose", "firm", "fast"]
    place: bool = True
    turn: bool = True


class LeaningsIn(BaseModel):
    spine: Share = 0.5
    shoulders: Share = 0.5
    knees: Share = 0.5
    balance: Share = 0.5
    before: Share = 0.5

    def leanings(self) -> Leanings:
        return Leanings(**self.model_dump())


class Pull(BaseModel):
    """Parts (or controls of them) pulled from where they were by an offset in the world, metres."""

    do: Literal["pull"]
    seq: Seq
    controls: list[PartName] = Field(min_length=1, max_length=200)
    offset: Triple
    grips: list[GripIn] = Field(default=[], max_length=200)
    leanings: LeaningsIn = LeaningsIn()


class TargetIn(BaseModel):
    """A part that is placed; with ``turn`` it keeps its turn as well."""

    part: PartName
    turn: bool = True


class Few(BaseModel):
    """A pose made of the parts that are placed: where they are, those of ``controls`` moved on by an offset, metres."""

    do: Literal["few"]
    seq: Seq
    controls: list[PartName] = Field(max_length=200)
    offset: Triple
    targets: list[TargetIn] = Field(max_length=200)
    leanings: LeaningsIn = LeaningsIn()


Drag = Move | Turn | Set | Pull | Few
UP: TypeAdapter[Begin | Drag | Try] = TypeAdapter(
    Annotated[Begin | Move | Turn | Set | Pull | Few | Try, Field(discriminator="do")]
)

# Down


class Gave(BaseModel):
    """A part that could not stay, or not come where it was wanted; by how much, metres and radians."""

    part: str
    label: str
    grade: Literal["loose", "firm", "fast", "pulled"]
    metres: float
    radians: float


class PathsMoved(BaseModel):
    """What changes of the watched paths: its first frame, and places and turns (T, F, 7) as float32 in base64."""

    first: int
    frames: int
    data: str


class Said(BaseModel):
    """What follows the figures of an answer.

    Attributes
    ----------
    revision : that a drag counts from
    gave, whole, beyond : of a pull, which parts gave, whether nothing holds the body, what was out of its range before
    balance : how the body stands; null for a prop
    paths : what a trial changes of watched paths; null where that is nothing
    """

    revision: int | None = None
    gave: list[Gave] | None = None
    whole: bool | None = None
    beyond: list[str] | None = None
    balance: BalanceOut | None = None
    paths: PathsMoved | None = None


class Passed(BaseModel):
    """A newer state of the drag took the place of this one."""

    type: Literal["passed"] = "passed"
    seq: int


class Failed(BaseModel):
    """Why there is no answer; -1 is of a message that was not understood."""

    type: Literal["error"] = "error"
    seq: int
    message: str


class Traced(BaseModel):
    """What a state of a drag does to watched paths, when there was time."""

    type: Literal["traced"] = "traced"
    seq: int
    paths: PathsMoved | None


class TakeChanged(BaseModel):
    """A step was made, undone or redone, by whom."""

    type: Literal["changed"] = "changed"
    revision: int
    label: str
    by: str


class PathsChanged(BaseModel):
    """Other paths are looked at."""

    type: Literal["paths"] = "paths"


class GuidesChanged(BaseModel):
    """Others have drawn guides that they share, or taken some away."""

    type: Literal["guides"] = "guides"


class CastChanged(BaseModel):
    """Who plays, or what is known of them or of the shot, changed."""

    type: Literal["cast"] = "cast"


class Came(BaseModel):
    """Somebody has the take open."""

    type: Literal["came"] = "came"
    who: str
    name: str


class Left(BaseModel):
    """Somebody has it open no more."""

    type: Literal["left"] = "left"
    who: str
    name: str


_Told = Passed | Failed | Traced | TakeChanged | PathsChanged | GuidesChanged | CastChanged | Came | Left
DOWN: TypeAdapter[_Told] = TypeAdapter(Annotated[_Told, Field(discriminator="type")])
