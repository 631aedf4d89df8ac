"""What the interface of shots and takes takes and gives. The front end's types are generated from these."""

from __future__ import annotations

from dataclasses import fields, make_dataclass
from typing import TYPE_CHECKING, Annotated, Any, Literal, Union, get_args, get_origin, get_type_hints

from ninja import Schema
from pydantic import Field

from hame.character.rig import Kind
from hame.clip.marks import Rank
from hame.clip.spans import KINDS as SPANS
from hame.clip.spans import Span
from hame.edits.edit import KINDS_KEYED
from hame.edits.rate import Keeping
from hame.edits.reading import AnyEdit
from hame.faults.kinds import KINDS as FAULTS

Values = dict[str, float]
KeyRow = list[float]
MOST_PATHS = 24
FrameNumber = Annotated[int, Field(ge=-1_000_000, le=1_000_000)]


def _out(kind: type[Span]) -> Any:
    """A kind of span as it is told: its own fields, and which kind it is."""
    hints = get_type_hints(kind)
    told = [(field.name, _listed(hints[field.name])) for field in fields(kind)]
    made = make_dataclass(f"{kind.__name__}Span", [("kind", Literal[kind.kind]), *told])  # type: ignore[valid-type]
    made.__doc__ = kind.__doc__
    return made


def _listed(hint: Any) -> Any:
    """A tuple of a fixed length is told as a list: readers of the document take it for one."""
    return list.__class_getitem__(get_args(hint)[0]) if get_origin(hint) is tuple else hint


class SetOut(Schema):
    id: int
    name: str
    controls: list[str]
    pivot: str


class SetIn(Schema):
    name: str = Field(min_length=1, max_length=60)
    controls: list[str] = Field(min_length=1, max_length=2000)
    pivot: str = Field("", max_length=160)


class CastingOut(Schema):
    """A character of the cast; ``protected`` controls are changed by no edit."""

    id: int
    name: str
    character_id: int
    version: int
    protected: list[str]
    sets: list[SetOut]
    mesh: str
    prop: bool


class CastingChange(Schema):
    """``out``: taken out of the shot, where it keeps its motion, or brought back.

    ``was`` are the protected controls that the page showed before the person changed them: what others have protected
    or freed since stays so.
    """

    protected: list[str] | None = Field(None, max_length=2000)
    was: list[str] | None = Field(None, max_length=2000)
    name: str | None = Field(None, min_length=1, max_length=100)
    out: bool | None = None


class CastIn(Schema):
    """A character or prop that comes to play."""

    character_id: int


class CastOrder(Schema):
    """All who play, in the order in which they are listed."""

    castings: list[int] = Field(max_length=100)


class TakenOut(Schema):
    id: int
    name: str


class SheetImageOut(Schema):
    id: int
    name: str
    frame: int | None


class SheetImageChange(Schema):
    frame: int | None = Field(None, ge=-100_000, le=100_000)


class TakeSummary(Schema):
    id: int
    name: str
    revision: int
    changed_at: str


class ShotSummary(Schema):
    id: int
    name: str
    fps: float
    start: int
    end: int
    cast: list[str]
    takes: int
    changed_at: str
    thumbnail: bool


class ShotOut(Schema):
    id: int
    name: str
    production_id: int
    production: str
    fps: float
    start: int
    end: int
    play_start: int
    play_end: int
    can_change: bool
    role: Literal["guest", "animator", "lead"]
    cast: list[CastingOut]
    taken_out: list[TakenOut]
    takes: list[TakeSummary]


class ShotIn(Schema):
    name: str = Field(min_length=1, max_length=100)
    character_ids: list[int] = Field(min_length=1, max_length=24)
    fps: float = Field(24, ge=1, le=240)
    start: int = Field(1, ge=-100_000, le=100_000)
    end: int = Field(48, ge=-100_000, le=100_000)


class ShotChange(Schema):
    name: str | None = Field(None, min_length=1, max_length=100)
    fps: float | None = Field(None, ge=1, le=240)
    start: int | None = Field(None, ge=-100_000, le=100_000)
    end: int | None = Field(None, ge=-100_000, le=100_000)
    play_start: int | None = Field(None, ge=-100_000, le=100_000)
    play_end: int | None = Field(None, ge=-100_000, le=100_000)
    put_away: bool | None = None


class TakeIn(Schema):
    name: str = Field(min_length=1, max_length=100)
    source: int | None = None


class TakeChange(Schema):
    name: str | None = Field(None, min_length=1, max_length=100)
    put_away: bool | None = None


class ShapeOut(Schema):
    kind: str
    size: float
    offset: list[float]


class ChannelOut(Schema):
    """One number of a control; ``echo`` is the channel whose keys it shows where a frame shows another mirrored."""

    address: str
    name: str
    label: str
    kind: Kind
    unit: str
    rest: float
    low: float | None
    high: float | None
    locked: str
    purpose: str
    mirror: int
    echo: str


class ControlOut(Schema):
    """``order`` and ``pre``: the Euler order of its turn, and the quaternion of its axes at rest in its frame."""

    name: str
    label: str
    part: str
    kind: str
    side: str
    parent: str
    limb: str
    mode: str
    shape: ShapeOut
    first: int
    count: int
    posed: bool
    other: str
    can_move: bool
    can_turn: bool
    place: list[float]
    order: str
    pre: list[float]


class LimbOut(Schema):
    name: str
    label: str
    kind: str
    switch: str
    fk: list[str]
    ik: str
    pole: str
    toe: str
    points: dict[str, list[float]]


class BalanceOut(Schema):
    """How a body stands at a frame: its centre of mass, the corners (x, z) of what bears it, metres that the centre is
    inside of it (below zero: outside; none in flight), and the IK controls of the limbs that bear with their shares;
    and how far chest against hips and face against chest are turned to the left, radians.
    """

    centre: list[float]
    area: list[list[float]]
    margin: float | None
    bearing: dict[str, float]
    chest: float | None
    face: float | None


class PartOut(Schema):
    """A part by which the body can be pulled: by which controls, at which joint, and what a grip holds at first."""

    name: str
    label: str
    controls: list[str]
    joint: int
    place: bool
    turn: bool


class RigOut(Schema):
    controls: list[ControlOut]
    channels: list[ChannelOut]
    limbs: list[LimbOut]
    parts: list[PartOut]
    joints: list[str]
    parents: list[int]
    height: float
    picks: list[list[str]]
    rest_places: list[list[float]]


class LabelOut(Schema):
    """What a pose is called; ``opposite`` is the name under which it shows mirrored."""

    name: str
    rank: Rank
    opposite: str


class FollowOut(Schema):
    """A run of frames that show others, one by one: ``first`` shows ``source``, and so on."""

    first: int
    last: int
    source: int
    mirrored: bool


if TYPE_CHECKING:
    SpanOut = Span
else:
    SpanOut = Union[tuple(_out(kind) for kind in SPANS.values())]  # noqa: UP007  made of what there is


class ClipOut(Schema):
    """Curves by channel; pending poses and labels by frame; spans by track, and which frames show which by them."""

    curves: dict[str, list[KeyRow]]
    pending: dict[str, Values]
    labels: dict[str, LabelOut]
    tracks: dict[str, list[SpanOut]]
    follows: list[FollowOut]


class TakeOut(Schema):
    id: int
    name: str
    shot_id: int
    revision: int
    clips: dict[str, ClipOut]
    can_undo: bool
    can_redo: bool


class CurveChange(Schema):
    """Frames whose keys went, and keys that came or changed; or, ``whole``, all keys there are now."""

    removed: list[int]
    rows: list[KeyRow]
    whole: bool


class ClipChange(Schema):
    """What changed in a clip: curves, and pending poses now (null: gone).

    Labels, tracks and what follows from them are as they are now, whole; null where they did not change. With
    ``all``, what is not told of curves and pending poses is gone.
    """

    all: bool
    curves: dict[str, CurveChange]
    pending: dict[str, Values | None]
    labels: dict[str, LabelOut] | None
    tracks: dict[str, list[SpanOut]] | None
    follows: list[FollowOut] | None


class StepDone(Schema):
    """A step: by casting, what changed in its clip, and the frames that move by it, from and to (null: open)."""

    revision: int
    label: str
    notes: list[str]
    clips: dict[str, ClipChange]
    moves: dict[str, list[list[int | None]]]
    can_undo: bool
    can_redo: bool


class HistoryStep(Schema):
    id: int
    label: str
    by: str
    at: str
    state: Literal["done", "undone", "aside"]
    head: bool


StepId = Annotated[str, Field(min_length=8, max_length=64, pattern=r"^[\w-]+$")]


class Revised(Schema):
    """What a step was made on, and by whom.

    ``id`` is a name that the page gives what it asks for: asking again under the same is doing it once. ``revision``
    is what the page showed when it was made, ``after`` are the names of the person's own steps that were on their way
    then: they are part of what it was made on, and what others have done since is not. The answer says what changed
    since ``shown``, the revision that the page shows as it sends it (that of the step where none is told). ``by`` is
    whose it is: it is stored for nobody else.
    """

    revision: int
    id: StepId | None = None
    after: list[StepId] = Field(default=[], max_length=2000)
    shown: int | None = None
    by: str = Field(default="", max_length=150)


class RateIn(Revised):
    """``keep``: what stays as it is where the frames of a second change, the frame of every key, or its time."""

    fps: float = Field(ge=1, le=240)
    keep: Keeping


class GoTo(Revised):
    step: int | None = None


class EditIn(Revised):
    """One edit, for one character of the cast, made on one revision of the take.

    ``read`` is a frame whose whole pose was read for it, as a pull does: it is not made where that has been changed.
    """

    casting: int
    edit: AnyEdit
    read: FrameNumber | None = None


class JoinOut(Schema):
    """A channel that does not close over a loop: by how much in its unit, and its slope in its unit a frame.

    ``travels``: it is on its way over the ground, and need not close.
    """

    address: str
    travels: bool
    jumps: bool
    gap: float
    corner: float


class ChecksOut(Schema):
    """Controls missing a key on a key pose (by frame), controls first keyed in the middle, and open joins."""

    missing: dict[str, list[str]]
    late: dict[str, int]
    joins: list[JoinOut]


class AlertOut(Schema):
    """A fault of contact on some frames; ``amount`` in metres, or radians of a snap or a pole."""

    casting: int
    kind: Literal[tuple(FAULTS)]  # type: ignore[valid-type]
    control: str
    first: int
    last: int
    worst: int
    amount: float
    says: str
    mend: AnyEdit | None
    mending: str


class BorneOut(Schema):
    """How much of the weight a planted limb bears, from 0 to 1."""

    control: str
    share: float


class FoundOut(Schema):
    """A plant that a motion shows, and how far it slides in it now, metres."""

    control: str
    start: int
    end: int
    about: str
    slip: float


class StrokeOut(Schema):
    part: str
    side: str
    points: list[list[float]]


class DrawnPoseOut(Schema):
    """A pose seen from the side: strokes forward and up, as shares of the figure's height."""

    frame: int
    name: str
    rank: Rank
    strokes: list[StrokeOut]


class LibraryPoseOut(Schema):
    id: int
    name: str
    character: str
    controls: list[str]
    channels: int
    with_master: bool
    made_by: str
    picture: bool


class LibraryPoseIn(Schema):
    """The pose as it is seen at a frame: of ``controls`` (null: of all), channels of some kinds."""

    name: str = Field(min_length=1, max_length=100)
    take: int
    casting: int
    frame: int
    controls: list[str] | None = None
    kinds: list[Kind] = list(KINDS_KEYED)
    with_master: bool = False


class LibraryPoseChange(Schema):
    name: str | None = Field(None, min_length=1, max_length=100)
    set_aside: bool | None = None


CAMERA = "camera"
"""Where a path is seen: in the picture of the shot's camera."""


class PathIn(Schema):
    """A path that is looked at: of a control or a joint of one of the cast, in a tone (its number).

    It is seen in the world, from another control of the same figure, or in the camera's picture (``within``).
    """

    casting: int = Field(ge=0, le=2**63 - 1)
    name: str = Field(min_length=1, max_length=200)
    joint: bool = False
    tone: int = Field(0, ge=0, le=7)
    within: str = Field("", max_length=200)
    shown: bool = True


class PathOut(PathIn):
    """``lacks``: why it cannot be drawn, if it cannot."""

    lacks: str


class PathsIn(Schema):
    """``was`` is what the page showed before the person changed it: what others have done since stays."""

    paths: list[PathIn] = Field(max_length=MOST_PATHS)
    was: list[PathIn] | None = Field(None, max_length=MOST_PATHS)


class ChartOut(Schema):
    """Favours of the second pose by frame, and how far parts stand from that."""

    first: int
    last: int
    favours: list[float]
    spread: list[float]


class BumpOut(Schema):
    """A frame on which a curve changes its speed by ``amount``, so many times the usual."""

    address: str
    frame: int
    amount: float
    times: float


class FlipOut(Schema):
    """Two keys between which angles go the long way round, by so many radians more than the turn."""

    control: str
    before: int
    after: int
    by: float


class IdleOut(Schema):
    """A channel whose keys all say one value."""

    address: str
    value: float
    at_rest: bool


class CurvesOut(Schema):
    bumps: list[BumpOut]
    flips: list[FlipOut]
    idle: list[IdleOut]


class SidesOut(Schema):
    """A part against its other side half a cycle later: the largest differences, in degrees and metres."""

    part: str
    label: str
    degrees: float
    metres: float
    worst: int


class LagOut(Schema):
    """By how many frames a part trails the hips, and how well the two then go together."""

    part: str
    label: str
    frames: int
    fit: float


class AlikeOut(Schema):
    """``said``: why sides cannot be compared, if they cannot."""

    parts: list[SidesOut]
    lags: list[LagOut]
    said: str
