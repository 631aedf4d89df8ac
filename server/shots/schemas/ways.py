"""Ways as they are told to pages: their lines, their footfalls, and how they are gone."""

from __future__ import annotations

from ninja import Schema
from pydantic import Field

from hame.edits.reading import AnyEdit
from server.shots.schemas.common import FrameNumber


class FootfallOut(Schema):
    """A foot that stands: where (metres), how it faces (radians), and from which frame to which.

    ``set_by_hand`` names what is set of it; ``short`` is how many metres it is too far from the foot before, and
    ``nearest`` where it would be in reach.
    """

    number: int
    leg: str
    control: str
    first: int
    last: int
    x: float
    y: float
    z: float
    heading: float
    stays: bool
    set_by_hand: list[str]
    short: float
    nearest: list[float] | None


class WayPointOut(Schema):
    """A point of a way, metres, with its handles seen from it; ``set_out`` and ``set_into`` say if they are set."""

    x: float
    z: float
    into: list[float]
    out: list[float]
    set_into: bool
    set_out: bool


class WayOut(Schema):
    """A way as it is gone; speeds in metres a second, cadence in steps a second, shares of a foot's period."""

    start: int
    end: int
    begins_with: str
    lead: int
    closed: bool
    ends: bool
    turn: float
    lasts: int
    here: bool
    level: float
    gait: str
    creature: bool
    length: float
    line: list[list[float]]
    points: list[WayPointOut]
    footfalls: list[FootfallOut]
    speed: list[float]
    cadence: list[float]
    share: list[float]
    together: list[bool]
    manner: dict[str, float]
    now: dict[str, float]
    wrong: str


class QuantityOut(Schema):
    """A quantity by which somebody goes: its unit, and between which values it lies."""

    name: str
    label: str
    unit: str
    low: float
    high: float


class WaysOut(Schema):
    """The ways of one of the cast, and what can be keyed of how they are gone; ``able`` says why none can be laid."""

    ways: list[WayOut]
    quantities: list[QuantityOut]
    keyed: list[str]
    able: str


class WaysTried(Schema):
    """An edit of ways that is tried: what would be told of them."""

    casting: int
    frame: FrameNumber
    edit: AnyEdit


class MannerOut(Schema):
    """How a figure goes on some frames, by the names of traits; lengths in metres, times in frames."""

    traits: dict[str, float]
    step: float
    width: float
    on: float
    step_frames: float
    toe_out: float
    speed: float
    rise: float
    sway: float


class MannerIn(Schema):
    """How somebody goes, kept under a name."""

    name: str = Field(min_length=1, max_length=80)
    traits: dict[str, float] = Field(max_length=40)


class StoredManner(Schema):
    """How somebody goes as it is kept, and who kept it."""

    id: int
    name: str
    traits: dict[str, float]
    by: str
