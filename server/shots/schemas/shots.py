"""Shots, their cast and their takes."""

from __future__ import annotations

from typing import Literal

from ninja import Schema
from pydantic import Field


class SetOut(Schema):
    id: int
    name: str
    controls: list[str]
    pivot: str
    beside: dict[int, list[str]]


class SetIn(Schema):
    """Controls to be selected together; ``beside``: of others of the cast, by casting, some controls or the whole."""

    name: str = Field(min_length=1, max_length=60)
    controls: list[str] = Field(min_length=1, max_length=2000)
    pivot: str = Field("", max_length=160)
    beside: dict[int, list[str]] = Field(default_factory=dict, max_length=100)


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
    gravity: float
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
    gravity: float | None = Field(None, ge=0.01, le=100)
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
