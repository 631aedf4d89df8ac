"""What the interface of shots and takes takes and gives. The front end's types are generated from these."""

from __future__ import annotations

from typing import Annotated, Literal

from ninja import Schema
from pydantic import Field

KeyingName = Literal["off", "changed", "control", "whole"]
Kind = Literal["place", "turn", "scale", "extra"]
DEFAULT_KINDS: list[Kind] = ["place", "turn", "extra"]
Values = dict[str, float]
KeyRow = list[float]


Shape = Literal["stepped", "straight", "smooth"]


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


class CastingChange(Schema):
    protected: list[str] = Field(max_length=2000)


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
    takes: list[TakeSummary]


class ShotIn(Schema):
    name: str = Field(min_length=1, max_length=100)
    character_ids: list[int] = Field(min_length=1, max_length=12)
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


class ControlOut(Schema):
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


class LimbOut(Schema):
    name: str
    label: str
    kind: str
    switch: str
    fk: list[str]
    ik: str
    pole: str
    toe: str


class RigOut(Schema):
    controls: list[ControlOut]
    channels: list[ChannelOut]
    limbs: list[LimbOut]
    joints: list[str]
    parents: list[int]
    height: float
    picks: list[list[str]]
    rest_places: list[list[float]]


class LabelOut(Schema):
    name: str
    rank: Literal["key", "breakdown", "in-between"]


class CycleOut(Schema):
    """Frames from ``start`` on that come back; keys of later frames up to ``until`` are derived."""

    start: int
    end: int
    echo: bool
    until: int
    travel: list[float]


class ClipOut(Schema):
    """Curves by channel; pending poses and labels by frame."""

    curves: dict[str, list[KeyRow]]
    pending: dict[str, Values]
    labels: dict[str, LabelOut]
    cycle: CycleOut | None


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
    """What changed in a clip: curves, pending poses now (null: gone), spans of frames (null: open).

    Labels and cycle are as they are now, whole. With ``all``, what is not told of curves and pending poses is gone.
    """

    all: bool
    curves: dict[str, CurveChange]
    pending: dict[str, Values | None]
    ranges: list[list[int | None]]
    labels: dict[str, LabelOut]
    cycle: CycleOut | None


class StepDone(Schema):
    revision: int
    label: str
    notes: list[str]
    clips: dict[str, ClipChange]
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
    """``id`` is a name that the page gives what it asks for: asking again under the same is doing it once."""

    revision: int
    id: StepId | None = None


class GoTo(Revised):
    step: int | None = None


class Mirrored(Schema):
    """How a mirror handles what stands in the middle."""

    master: Literal["leave", "keep", "mirror"] = "keep"
    body: Literal["mirror", "keep"] = "mirror"


class PoseEdit(Schema):
    """Channel values set at a frame: by a drag, typed, or brought back to rest."""

    kind: Literal["pose"]
    frame: int
    values: Values
    keying: KeyingName = "changed"
    kinds: list[Kind] = DEFAULT_KINDS
    shape: Shape = "smooth"
    label: str = Field("", max_length=80)


class ResetEdit(Schema):
    kind: Literal["reset"]
    frame: int
    controls: list[str] | None = None
    kinds: list[Kind] = DEFAULT_KINDS
    keying: KeyingName = "changed"
    shape: Shape = "smooth"


class KeyEdit(Schema):
    kind: Literal["key"]
    frame: int
    controls: list[str] | None = None
    kinds: list[Kind] = DEFAULT_KINDS
    shape: Shape = "smooth"


class DropEdit(Schema):
    kind: Literal["drop"]
    frame: int


class LimbEdit(Schema):
    kind: Literal["limb"]
    frame: int
    limb: str
    to: Literal["ik", "fk"]
    keying: KeyingName = "changed"
    anyway: bool = False


class ColumnsEdit(Schema):
    kind: Literal["move", "duplicate", "delete"]
    frames: list[int] = Field(max_length=5000)
    by: int = 0
    controls: list[str] | None = None


class PasteEdit(Schema):
    kind: Literal["paste"]
    frame: int
    values: Values
    controls: list[str] | None = None
    mirrored: Mirrored | None = None
    shape: Shape = "smooth"


class MirrorEdit(Schema):
    """A pose mirrored where it is, or onto another frame."""

    kind: Literal["mirror"]
    frame: int
    to: int | None = None
    way: Literal["swap", "left to right", "right to left"] = "swap"
    controls: list[str] | None = None
    how: Mirrored = Mirrored()
    keying: KeyingName = "changed"


class MirrorRangeEdit(Schema):
    kind: Literal["mirror range"]
    first: int
    last: int
    to: int
    controls: list[str] | None = None
    how: Mirrored = Mirrored()


class KeysEdit(Schema):
    """Any choice of keys, by channel."""

    kind: Literal["move keys", "duplicate keys", "delete keys"]
    keys: dict[str, list[int]] = Field(max_length=5000)
    by: int = 0


class PasteKeysEdit(Schema):
    kind: Literal["paste keys"]
    frame: int
    keys: dict[str, list[KeyRow]] = Field(max_length=5000)
    mirrored: Mirrored | None = None


class BreakdownEdit(Schema):
    kind: Literal["breakdown"]
    frame: int
    share: float
    controls: list[str] | None = None
    keying: KeyingName = "changed"
    shape: Shape = "smooth"


class ExaggerateEdit(Schema):
    kind: Literal["exaggerate"]
    frame: int
    degree: float
    against: Literal["neighbours", "rest"] = "neighbours"
    controls: list[str] | None = None
    keying: KeyingName = "changed"


class ShapeEdit(Schema):
    kind: Literal["shape"]
    shape: Shape
    controls: list[str] | None = None
    gaps: list[tuple[int, int]] | None = None


class InsertEdit(Schema):
    """Frames made (or, below zero, taken away) after a column."""

    kind: Literal["insert"]
    after: int
    count: int
    controls: list[str] | None = None


class ScaleEdit(Schema):
    kind: Literal["scale"]
    frames: list[int] = Field(max_length=5000)
    about: int
    factor: float
    controls: list[str] | None = None
    along: bool = False


class SlowEdit(Schema):
    kind: Literal["slow"]
    count: int
    first: int | None = None
    last: int | None = None


class HoldEdit(Schema):
    kind: Literal["hold"]
    frame: int
    count: int
    drift: float = 0.0
    push: bool = True
    controls: list[str] | None = None


class LinkIn(Schema):
    controls: list[str] = Field(min_length=1, max_length=2000)
    frames: int
    amplitude: float = 1.0


class DelayEdit(Schema):
    kind: Literal["delay"]
    chain: list[LinkIn] = Field(max_length=50)
    first: int | None = None
    last: int | None = None


class CycleEdit(Schema):
    kind: Literal["cycle"]
    start: int
    end: int
    echo: bool = False


class FreeEdit(Schema):
    kind: Literal["free"]


class RepeatEdit(Schema):
    """``travel``: metres a cycle, "stride" for what the feet do, or null to leave it."""

    kind: Literal["repeat"]
    until: int
    travel: float | Literal["stride"] | None = None


class MendEdit(Schema):
    kind: Literal["mend"]
    start: int
    end: int
    controls: list[str] | None = None


class LabelEdit(Schema):
    kind: Literal["label"]
    frame: int
    name: str = Field("", max_length=60)
    rank: Literal["key", "breakdown", "in-between"] = "key"


class TemplateEdit(Schema):
    kind: Literal["template"]
    template: Literal["walk", "run", "take"]
    start: int = 1
    step: int
    posed: bool = False


class LayEdit(Schema):
    """A pose of the library laid by a share."""

    kind: Literal["lay"]
    frame: int
    pose: int
    share: float = 1.0
    controls: list[str] | None = None
    with_master: bool = False
    mirrored: Mirrored | None = None
    keying: KeyingName = "changed"
    shape: Shape = "smooth"


AnyEdit = Annotated[
    PoseEdit | ResetEdit | KeyEdit | DropEdit | LimbEdit | ColumnsEdit | PasteEdit | MirrorEdit | MirrorRangeEdit
    | KeysEdit | PasteKeysEdit | BreakdownEdit | ExaggerateEdit | ShapeEdit | InsertEdit | ScaleEdit | SlowEdit
    | HoldEdit | DelayEdit | CycleEdit | FreeEdit | RepeatEdit | MendEdit | LabelEdit | TemplateEdit | LayEdit,
    Field(discriminator="kind"),
]  # fmt: skip


class EditIn(Schema):
    """One edit, for one character of the cast, made on one revision of the take.

    ``id`` is a name that the page gives the step: sending it again under the same makes it once.
    """

    revision: int
    id: StepId | None = None
    casting: int
    edit: AnyEdit


class JoinOut(Schema):
    """A channel that does not close over a loop."""

    address: str
    first: float
    last: float
    jumps: bool


class ChecksOut(Schema):
    """Controls missing a key on a key pose (by frame), controls first keyed in the middle, and open joins."""

    missing: dict[str, list[str]]
    late: dict[str, int]
    joins: list[JoinOut]


class StrokeOut(Schema):
    part: str
    side: str
    points: list[list[float]]


class DrawnPoseOut(Schema):
    """A pose seen from the side: strokes forward and up, as shares of the figure's height."""

    frame: int
    name: str
    rank: Literal["key", "breakdown", "in-between"]
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
    kinds: list[Kind] = DEFAULT_KINDS
    with_master: bool = False


class LibraryPoseChange(Schema):
    name: str | None = Field(None, min_length=1, max_length=100)
    set_aside: bool | None = None
