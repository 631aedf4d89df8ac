"""What is found by looking at a motion."""

from __future__ import annotations

from typing import Literal

from ninja import Schema
from pydantic import Field

from hame.edits.reading import AnyEdit
from hame.faults.kinds import FAULTS
from hame.faults.limits import Limits

MOST_PATHS = 24


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


class MendOut(Schema):
    """An edit that mends a fault, and that in words."""

    edit: AnyEdit
    says: str


class AlertOut(Schema):
    """A fault on some frames; ``amount`` in metres, or radians of a snap or a pole; of weight, what ``says`` tells."""

    casting: int
    kind: Literal[tuple(sorted(FAULTS))]  # type: ignore[valid-type]
    control: str
    first: int
    last: int
    worst: int
    amount: float
    says: str
    mend: AnyEdit | None
    mending: str
    others: list[MendOut]


class FlightOut(Schema):
    """A flight: the last frame on which something bears the figure and the first on which something does again, metres
    that its mass rises above the one, with what share of gravity it falls, and metres that it goes along the ground.

    ``beside`` are speeds of the mass, metres a second: what the frame before gives, what the flight has there; what it
    has as it lands, and what the frame after gives. ``meets``: whether those agree, before and after. ``uneven``: how
    much of its turn nothing turns, at most, radians a second. ``short``: legs that do not reach as they land, by their
    IK controls, metres.
    """

    release: int
    landing: int
    rise: float
    gravity: float
    far: float
    beside: list[float]
    meets: list[bool]
    uneven: float
    short: dict[str, float]


class HappeningOut(Schema):
    """Something that happens to a body at a frame: to which foot, how fast in metres a second, and what answers it."""

    what: Literal["take-off", "landing", "foot down", "stop", "letting go"]
    frame: int
    control: str
    speed: float
    answers: list[AnyEdit]


class LimitsIn(Schema):
    """Beyond what the weight of a motion is a fault (see :class:`hame.faults.limits.Limits`)."""

    falls: float = Field(Limits.falls, ge=0.0, le=10.0)
    outside: float = Field(Limits.outside, ge=0.0, le=10.0)
    frames: int = Field(Limits.frames, ge=1, le=1000)
    pull: float = Field(Limits.pull, ge=0.0, le=10_000.0)
    friction: float = Field(Limits.friction, ge=0.0, le=100.0)
    flight: float = Field(Limits.flight, ge=0.0, le=10_000.0)
    turning: float = Field(Limits.turning, ge=0.0, le=100_000.0)
    landing: float = Field(Limits.landing, ge=0.0, le=1000.0)
    strength: float = Field(Limits.strength, ge=0.0, le=1e6)


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
