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


class CastingOut(Schema):
    id: int
    name: str
    character_id: int
    version: int


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


class TakeIn(Schema):
    name: str = Field(min_length=1, max_length=100)
    source: int | None = None


class TakeChange(Schema):
    name: str = Field(min_length=1, max_length=100)


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


class ClipOut(Schema):
    """Curves by channel; pending poses by frame."""

    curves: dict[str, list[KeyRow]]
    pending: dict[str, Values]


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
    """What changed in a clip: curves, pending poses now (null: gone), spans of frames (null: open)."""

    curves: dict[str, CurveChange]
    pending: dict[str, Values | None]
    ranges: list[list[int | None]]


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


class Revised(Schema):
    revision: int


class GoTo(Revised):
    step: int | None = None


class PoseEdit(Schema):
    """Channel values set at a frame: by a drag, typed, or brought back to rest."""

    kind: Literal["pose"]
    frame: int
    values: Values
    keying: KeyingName = "changed"
    kinds: list[Kind] = DEFAULT_KINDS
    label: str = Field("", max_length=80)


class ResetEdit(Schema):
    kind: Literal["reset"]
    frame: int
    controls: list[str] | None = None
    kinds: list[Kind] = DEFAULT_KINDS
    keying: KeyingName = "changed"


class KeyEdit(Schema):
    kind: Literal["key"]
    frame: int
    controls: list[str] | None = None
    kinds: list[Kind] = DEFAULT_KINDS


class DropEdit(Schema):
    kind: Literal["drop"]
    frame: int


class LimbEdit(Schema):
    kind: Literal["limb"]
    frame: int
    limb: str
    to: Literal["ik", "fk"]
    keying: KeyingName = "changed"


class ColumnsEdit(Schema):
    kind: Literal["move", "duplicate", "delete"]
    frames: list[int] = Field(max_length=5000)
    by: int = 0
    controls: list[str] | None = None


class PasteEdit(Schema):
    kind: Literal["paste"]
    frame: int
    values: Values


AnyEdit = Annotated[
    PoseEdit | ResetEdit | KeyEdit | DropEdit | LimbEdit | ColumnsEdit | PasteEdit, Field(discriminator="kind")
]


class EditIn(Schema):
    """One edit, for one character of the cast, made on one revision of the take."""

    revision: int
    casting: int
    edit: AnyEdit
