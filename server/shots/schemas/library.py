"""Stored poses, reference pictures and drawn sheets."""

from __future__ import annotations

from ninja import Schema
from pydantic import Field

from hame.character.rig import Kind
from hame.clip.marks import Rank
from hame.edits.edit import KINDS_KEYED


class SheetImageOut(Schema):
    id: int
    name: str
    frame: int | None


class SheetImageChange(Schema):
    frame: int | None = Field(None, ge=-100_000, le=100_000)


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
