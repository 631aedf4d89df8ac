"""Ways: drawn on the ground, changed, bent, stretched, joined, and taken away."""

from __future__ import annotations

from dataclasses import dataclass, replace
from math import degrees, pi
from typing import Annotated, Literal

import numpy as np

from hame.character.rig import Rig
from hame.clip.clip import Clip
from hame.clip.curve import Curve, from_keys, from_table
from hame.clip.going import plan_of
from hame.clip.key import FRAME, IN_VALUE, OUT_VALUE, VALUE
from hame.clip.quantities import QUANTITIES, TRAITS, quantities_in, quantity_address
from hame.clip.way import Stand, Way, ways_of
from hame.edits.chosen import counted
from hame.edits.edit import AtMost, Edit, Frame, Values, Within
from hame.edits.outcome import Outcome
from hame.edits.tying import refuse_outside
from hame.edits.wayed import refuse_unable, rests_of, rewayed, way_at, with_way
from hame.errors import BadEdit
from hame.gait.line import Point, bent, line_of, stretched, with_point
from hame.scene.scene import Scene

_FAR = Within(-500.0, 500.0, "metres", "a way lies within 500 metres, and {value:g} is past that. Nothing was changed")
Metres = Annotated[float, _FAR]
Pair = Annotated[tuple[float, float], AtMost(2)]
Side = Literal["L", "R"]
Gait = Literal["", "walk", "trot", "pace", "canter", "gallop", "wave"]
MOST_POINTS = 400
Lead = Annotated[int, Within(0, 240, "frames")]
Lasts = Annotated[int, Within(0, 20_000, "frames")]
Speed = Annotated[float, Within(0.0, 12.0, "metres a second")]
Turn = Annotated[float, Within(-4.0 * pi, 4.0 * pi, "radians")]


@dataclass(frozen=True)
class WayPoint:
    """A point of a way on the ground, metres, with its handles seen from it; none where they follow by themselves."""

    x: Metres
    z: Metres
    into: Pair | None = None
    out: Pair | None = None

    @property
    def point(self) -> Point:
        return Point((self.x, self.z), self.into, self.out)

    @classmethod
    def of(cls, point: Point) -> WayPoint:
        return cls(*point.place, point.into, point.out)


Points = Annotated[tuple[WayPoint, ...], AtMost(MOST_POINTS)]


@dataclass(frozen=True, kw_only=True)
class LayWay(Edit):
    """A way that begins at a frame, through points on the ground.

    ``here`` has it begin where its figure stands; else its first point is where the figure is put, on what lies about
    ``level`` there. With a ``turn`` it turns on the spot instead, so many radians to its left.
    """

    kind: Literal["lay way"] = "lay way"
    start: Frame
    points: Points = ()
    here: bool = True
    closed: bool = False
    ends: bool = True
    lasts: Lasts = 0
    begins_with: Side = "R"
    lead: Lead = 8
    speed: Speed = 0.0
    turn: Turn = 0.0
    level: Metres = 0.0
    gait: Gait = ""

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        refuse_unable(rig)
        refuse_outside(scene, self.start, self.start, "a way")
        points = tuple(one.point for one in self.points)
        here = self.here or any(way.start < self.start for way in ways_of(clip))
        if self.turn:
            points = (points[0], Point((points[0].place[0], points[0].place[1] + 1.0))) if points else _AHEAD
        elif len(points) < 2:
            raise BadEdit("a way goes through two points or more; nothing was laid")
        endless = self.closed or not self.ends
        way = Way(
            self.start, self.start + 1, points, closed=self.closed and not self.turn, turn=self.turn,
            begins_with=self.begins_with, lead=self.lead, ends=self.ends and not self.closed,
            lasts=self.lasts or (240 if endless else 0), fps=scene.fps, gravity=scene.gravity, speed=self.speed,
            stands=NOWHERE if here else (), level=self.level, gait=self.gait, rests=rests_of(rig),
        )  # fmt: skip
        hidden = sum(frame >= self.start for frame in clip.key_frames())
        laid = with_way(clip, None, way)
        notes = (f"keys on {counted(hidden, 'frame')} lie below it: they are kept, and seen where it is taken away",)
        return Outcome(laid, notes if hidden else ())

    def label(self, rig: Rig, scene: Scene) -> str:
        if self.turn:
            return f"Turn on the spot by {degrees(self.turn):.0f}° from {self.start}"
        return f"Way from {self.start}"


_AHEAD = (Point((0.0, 0.0)), Point((0.0, 1.0)))
NOWHERE = (Stand("L", 0.0, 0.0, 0.0), Stand("R", 0.0, 0.0, 0.0))  # found where its figure really stands


@dataclass(frozen=True, kw_only=True)
class ChangeWay(Edit):
    """A way, told by the frame it begins at, with something of it otherwise; what is not given stays."""

    kind: Literal["change way"] = "change way"
    at: Frame
    start: Frame | None = None
    points: Points | None = None
    closed: bool | None = None
    ends: bool | None = None
    lasts: Lasts | None = None
    begins_with: Side | None = None
    lead: Lead | None = None
    speed: Speed | None = None
    turn: Turn | None = None
    level: Metres | None = None
    gait: Gait | None = None

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        old = way_at(clip, self.at)
        given = {
            name: getattr(self, name)
            for name in ("start", "closed", "ends", "lasts", "begins_with", "lead", "speed", "turn", "level", "gait")
            if getattr(self, name) is not None
        }
        if self.points is not None:
            if len(self.points) < 2:
                raise BadEdit("a way goes through two points or more; nothing was changed")
            given["points"] = tuple(one.point for one in self.points)
        if self.turn == 0.0 and old.turn:
            raise BadEdit("a turn on the spot has an angle; take it away instead. Nothing was changed")
        new = replace(old, **given)
        if new.closed and new.ends:
            new = replace(new, ends=False)
        if not new.ends and not new.lasts:
            new = replace(new, lasts=max(old.end - old.start, 24))
        if self.start is not None:
            refuse_outside(scene, self.start, self.start, "a way")
            new = _later(new, self.start - old.start)
        return Outcome(with_way(clip, old, new))

    def label(self, rig: Rig, scene: Scene) -> str:
        if self.start is not None and self.start != self.at:
            return f"Way from {self.at} begins at {self.start}"
        return f"Change the way from {self.at}"


def _later(way: Way, by: int) -> Way:
    """A way whose end and footfalls by hand come so many frames later; its first frame is there already."""
    hands = tuple(
        replace(h, first=None if h.first is None else h.first + by, last=None if h.last is None else h.last + by)
        for h in way.hands
    )
    return replace(way, end=way.end + by, hands=hands)


@dataclass(frozen=True, kw_only=True)
class DropWay(Edit):
    """A way taken away; what is keyed below it is seen again. Its keyed paces go with the last one."""

    kind: Literal["drop way"] = "drop way"
    at: Frame

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        return Outcome(without_way(clip, way_at(clip, self.at)))

    def label(self, rig: Rig, scene: Scene) -> str:
        return f"Take away the way from {self.at}"


def without_way(clip: Clip, way: Way) -> Clip:
    """The clip without a way, and without keyed quantities where no way is left."""
    clip = with_way(clip, way, None)
    if ways_of(clip):
        return clip
    gone: dict[str, Curve | None] = {quantity_address(name): None for name in quantities_in(clip.curves)}
    return clip.with_curves(gone)


@dataclass(frozen=True, kw_only=True)
class BendWay(Edit):
    """A way bent as a whole, radians from its first heading to its last; lengths along it stay."""

    kind: Literal["bend way"] = "bend way"
    at: Frame
    angle: Turn

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        way = _open(clip, self.at)
        return Outcome(with_way(clip, way, replace(way, points=tuple(bent(way.points, self.angle)))))

    def label(self, rig: Rig, scene: Scene) -> str:
        return f"Bend the way from {self.at} by {degrees(self.angle):.0f}°"


def _open(clip: Clip, at: int) -> Way:
    way = way_at(clip, at)
    if way.closed or way.turn:
        raise BadEdit("a way that goes round, or turns on the spot, has no end to be moved; nothing was changed")
    return way


@dataclass(frozen=True, kw_only=True)
class StretchWay(Edit):
    """A way so many times as long, gone by as many footfalls: each step is as much longer, and no wider."""

    kind: Literal["stretch way"] = "stretch way"
    at: Frame
    factor: Annotated[float, Within(0.1, 10.0, "times")]

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        way = _open(clip, self.at)
        new = replace(way, points=tuple(stretched(way.points, self.factor)), stretch=way.stretch * self.factor)
        # As quick as before in steps, and as much faster: all is keyed, so that nothing follows from the other.
        pace = plan_of(rig, clip, way).pace
        curves = {}
        kept = {"cadence": pace.cadence * way.fps, "share": pace.share}
        for name, values, times in (("speed", pace.speed, self.factor), *((n, v, 1.0) for n, v in kept.items())):
            curves[quantity_address(name)] = _scaled(clip, name, way, float(values[0]), times)
        return Outcome(with_way(clip, way, new).with_curves(curves))

    def label(self, rig: Rig, scene: Scene) -> str:
        return f"Make the way from {self.at} {self.factor:g} times as long"


def _scaled(clip: Clip, name: str, way: Way, usual: float, times: float) -> Curve:
    """The curve of a quantity, so many times as much on the frames of a way; what it usually is where none is keyed."""
    curve = clip.curves.get(quantity_address(name))
    if curve is None:
        return from_keys({way.start: usual * times})
    table = curve.table.copy()
    mine = (table[:, FRAME] >= way.start) & (table[:, FRAME] <= way.end)
    mine |= len(table) == 1
    for column in (VALUE, IN_VALUE, OUT_VALUE):
        table[mine, column] *= times
    return from_table(table)


@dataclass(frozen=True, kw_only=True)
class WidenWay(Edit):
    """A way whose feet stand so many times as far apart across it; its steps stay as long."""

    kind: Literal["widen way"] = "widen way"
    at: Frame
    factor: Annotated[float, Within(0.0, 10.0, "times")]

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        way = way_at(clip, self.at)
        wide = float(plan_of(rig, clip, way).pace.width[0])
        return Outcome(clip.with_curves({quantity_address("width"): _scaled(clip, "width", way, wide, self.factor)}))

    def label(self, rig: Rig, scene: Scene) -> str:
        return f"Make the way from {self.at} {self.factor:g} times as wide"


@dataclass(frozen=True, kw_only=True)
class PointOnWay(Edit):
    """One point more on a way, so many metres along it; its line stays where it is."""

    kind: Literal["point on way"] = "point on way"
    at: Frame
    along: Annotated[float, Within(0.0, 5000.0, "metres")]

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        way = way_at(clip, self.at)
        if len(way.points) >= MOST_POINTS:
            raise BadEdit(f"a way goes through {MOST_POINTS} points at most; nothing was changed")
        points, _ = with_point(way.points, self.along, way.closed)
        return Outcome(with_way(clip, way, replace(way, points=tuple(points))))

    def label(self, rig: Rig, scene: Scene) -> str:
        return f"A point more on the way from {self.at}"


@dataclass(frozen=True, kw_only=True)
class JoinWays(Edit):
    """A way with the next one joined to its end: they are gone as one, without a stand between."""

    kind: Literal["join ways"] = "join ways"
    at: Frame

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        way = _open(clip, self.at)
        later = [other for other in ways_of(clip) if other.start > way.start]
        if not later or later[0].closed or later[0].turn:
            raise BadEdit(
                f"after the way from {self.at} there is no open one that could be joined to it; nothing was changed"
            )
        other = later[0]
        gap = np.hypot(*np.subtract(way.points[-1].place, other.points[0].place))
        rest = other.points[1:] if gap < 0.35 else other.points
        last = way.points[-1] if gap >= 0.35 else replace(way.points[-1], out=other.points[0].out)
        if len(way.points) + len(rest) > MOST_POINTS:
            raise BadEdit(f"a way goes through {MOST_POINTS} points at most; nothing was changed")
        joined = replace(
            way, points=(*way.points[:-1], last, *rest), ends=other.ends, lasts=way.lasts + other.lasts, most=0
        )
        line_of(joined.points)
        found = with_way(with_way(clip, other, None), way, joined)
        count = len(other.hands) + len(other.changed)
        notes = (f"what was set by hand of {counted(count, 'footfall')} of the second went",) if count else ()
        return Outcome(found, notes)

    def label(self, rig: Rig, scene: Scene) -> str:
        return f"Join the next way to that from {self.at}"


@dataclass(frozen=True, kw_only=True)
class WayManner(Edit):
    """How somebody goes on a way, by the names of traits; what is not given is plain. Keyed quantities go before."""

    kind: Literal["way manner"] = "way manner"
    at: Frame
    manner: Annotated[Values, AtMost(40)]

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        way = way_at(clip, self.at)
        for name, value in self.manner.items():
            if name not in TRAITS:
                raise BadEdit(f"{name} is nothing by which somebody goes; nothing was changed")
            bounds = QUANTITIES[name]
            Within(bounds.low, bounds.high, bounds.said or bounds.unit).check(value, bounds.label.lower())
        manner = tuple(sorted((name, float(value)) for name, value in self.manner.items()))
        return Outcome(with_way(clip, way, replace(way, manner=manner)))

    def label(self, rig: Rig, scene: Scene) -> str:
        return f"How the way from {self.at} is gone" if self.manner else f"Go the way from {self.at} plainly"


@dataclass(frozen=True, kw_only=True)
class GroundAnew(Edit):
    """What the footfalls of all ways lie on found again, where props have moved."""

    kind: Literal["ground anew"] = "ground anew"

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        if not ways_of(clip):
            raise BadEdit("there is no way whose footfalls could lie on anything; nothing was changed")
        clip, notes = rewayed(clip, clip, rig, scene, anew=True)
        return Outcome(clip, notes)

    def label(self, rig: Rig, scene: Scene) -> str:
        return "Find the ground under all footfalls again"
