"""The way: a kind of span. Somebody goes along a line on the ground, and the motion follows from that."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import asdict, dataclass, replace
from math import isfinite
from typing import Any, ClassVar, Literal, NamedTuple, Self

import numpy as np

from hame.clip.key import Array, whole_frame
from hame.clip.spans import Bools, Reach, Span, Warp, whole_frames
from hame.errors import BadEdit
from hame.gait.byhand import Hand
from hame.gait.creatures import Rest
from hame.gait.footfalls import Side
from hame.gait.line import Point
from hame.work import LONGEST

FOREVER = LONGEST


class Stand(NamedTuple):
    """A foot as it stands when a way begins: place in metres, heading in radians."""

    side: Side
    x: float
    z: float
    heading: float
    y: float = 0.0


class Lies(NamedTuple):
    """What a footfall lies on: how high it is there, metres, and how steep, metres a metre along x and z.

    So that it lies on one step of a stair, it is so many metres further ``ahead`` than the way has it.
    """

    number: int
    leg: str
    height: float
    along_x: float = 0.0
    along_z: float = 0.0
    ahead: float = 0.0


class Changed(NamedTuple):
    """A footfall that was taken out, as a ``gap`` or with all later ones coming sooner, or put in after ``number``."""

    number: int
    what: Literal["out", "gap", "in"]


@dataclass(frozen=True)
class Way(Span):
    """A way on the ground: from its first frame on its figure goes along it, and stands at its end.

    Attributes
    ----------
    points : through which it goes, in the world
    closed : it goes round and round
    turn : radians that it turns on the spot instead, to its left
    begins_with : the foot that is lifted first, ``lead`` frames after its first frame
    ends : it ends in a stand at the end of its line; else it goes on for ``lasts`` frames, and by ``most`` footfalls if
        that is told
    fps, gravity : frames a second, and metres a second each second, by which it is made
    speed : metres a second where none is keyed; 0 is what goes with the cadence, or a usual one
    manner : how somebody goes, by the names of traits, where that is not keyed
    stands : how both feet stand as it begins; nowhere in particular if it places the figure
    lies : what its footfalls lie on, where that is not the plain ground; ``under`` is the same of those that are set by
        hand, where they would lie otherwise
    changed, hands : what a person has set of its footfalls, the first in the order in which that was done
    stretch : times as long as its footfalls were counted for: each step is as much longer
    level : metres about which its first footfalls lie, where it places its figure
    gait : of a creature, how its legs go: ``walk``, ``trot`` and so on; as is usual at its speed where it is empty
    rests : of a creature, where its feet are as it stands; of who goes on two legs nothing
    """

    points: tuple[Point, ...] = ()
    closed: bool = False
    turn: float = 0.0
    begins_with: Side = "R"
    lead: int = 8
    ends: bool = True
    lasts: int = 0
    most: int = 0
    fps: float = 24.0
    gravity: float = 9.81
    speed: float = 0.0
    manner: tuple[tuple[str, float], ...] = ()
    stands: tuple[Stand, ...] = ()
    lies: tuple[Lies, ...] = ()
    under: tuple[Lies, ...] = ()
    changed: tuple[Changed, ...] = ()
    hands: tuple[Hand, ...] = ()
    level: float = 0.0
    stretch: float = 1.0
    gait: str = ""
    rests: tuple[Rest, ...] = ()

    kind: ClassVar[str] = "way"
    of_controls: ClassVar[bool] = False
    covers: ClassVar[bool] = True
    told: ClassVar[tuple[str, ...]] = ("start", "end", "ends", "closed", "turn")  # the rest is told as it is gone
    stage: ClassVar[str] = "ways"

    def derives(self, frames: Array) -> Bools:
        at = np.asarray(frames, float)
        return np.asarray((at >= self.start) & (self.comes_to_stand | (at <= self.end)))

    @property
    def comes_to_stand(self) -> bool:
        """Whether its figure stands at its end; else it goes on by what is keyed after that, if there is something."""
        return self.ends or bool(self.turn)

    def reach(self) -> Reach:
        return None, None  # who is placed by it stands there before it, and what comes after it goes on from there

    def moved(self, warp: Warp, whole: bool) -> tuple[Self | None, Warp]:
        """It by the frames of its first and last one: it goes as much faster or slower as these come closer or apart.

        Keyed paces come to lie where their keys do; of what was set by hand each frame goes on its own.
        """
        ends = np.array([self.start, self.end], float)
        there = warp(ends)
        start, end = (int(f) for f in whole_frames(there))
        if end <= start:
            return None, warp
        factor = float(there[1] - there[0]) / max(self.end - self.start, 1)
        fps = self.fps if abs(factor - 1.0) < 1e-9 else self.fps * factor

        def at(frame: int | None) -> int | None:
            return None if frame is None else int(whole_frames(warp(np.array([float(frame)])))[0])

        hands = tuple(replace(hand, first=at(hand.first), last=at(hand.last)) for hand in self.hands)
        lasts, lead = round(self.lasts * factor), round(self.lead * factor)
        return replace(self, start=start, end=end, fps=fps, hands=hands, lasts=lasts, lead=lead), warp

    def cut(self, after: int, count: int) -> Self | None:
        if self.start <= after + count and self.end > after:
            raise BadEdit(
                f"frames of a way cannot be taken out of it; it goes from {self.start} to {self.end}. Make it into "
                "keys first, or let it begin elsewhere. Nothing was changed"
            )
        return self

    def copied(self, by: int) -> None:
        return None

    def carried_to(self, carrying: Any) -> Self | None:
        if carrying.in_place:
            return None
        return self.placed(lambda x, z: carrying.travel((x, z)))

    def mirrored(self) -> Self:
        """The same with left and right exchanged, seen from the world's middle."""
        swapped: dict[Side, Side] = {"L": "R", "R": "L"}
        flipped = self.placed(lambda x, z: (-x, z))
        return replace(
            flipped, begins_with=swapped[self.begins_with], turn=-self.turn,
            stands=tuple(Stand(swapped[s.side], -s.x, s.z, -s.heading, s.y) for s in self.stands),
            hands=tuple(
                replace(
                    h, side=swapped[h.side], place=None if h.place is None else (-h.place[0], h.place[1]),
                    heading=None if h.heading is None else -h.heading,
                ) for h in self.hands
            ), lies=(), under=(),
        )  # fmt: skip

    def placed(self, at: Callable[[float, float], tuple[float, float]]) -> Self:
        """The same with its points where ``at`` brings them; it places its figure anew."""

        def led(point: Point) -> Point:
            x, z = at(*point.place)

            def handle(h: tuple[float, float] | None) -> tuple[float, float] | None:
                if h is None:
                    return None
                hx, hz = at(point.place[0] + h[0], point.place[1] + h[1])
                return hx - x, hz - z

            return Point((x, z), handle(point.into), handle(point.out))

        return replace(self, points=tuple(led(point) for point in self.points), stands=(), lies=(), under=())

    def numbers(self) -> Iterable[tuple[str, float, str]]:
        for point in self.points:
            for pair in (point.place, point.into, point.out):
                yield from (("a point of a way", value, "m") for value in pair or ())
        yield from (
            ("a way", value, "") for value in (self.fps, self.gravity, self.speed, float(self.lead), self.stretch)
        )
        yield from (("a way", self.turn, "rad"), ("a way", self.level, "m"))
        for hand in self.hands:
            yield from (("a footfall", value, "m") for value in hand.place or ())
            yield "a footfall", hand.heading or 0.0, "rad"

    def to_json(self) -> dict[str, Any]:
        points = [[p.place, p.into, p.out] for p in self.points]
        hands, rests = [asdict(hand) for hand in self.hands], [asdict(rest) for rest in self.rests]
        rows: dict[str, Any] = {name: [list(one) for one in getattr(self, name)] for name in _ROWS}
        return {
            "kind": self.kind,
            **{n: getattr(self, n) for n in _PLAIN},
            "points": points,
            "hands": hands,
            **rows,
            "rests": rests,
        }

    @classmethod
    def read(cls, data: Mapping[str, Any]) -> Self:
        try:
            fields = {name: data[name] for name in _SIMPLE if name in data}
            span = cls(
                **fields,
                start=whole_frame(data["start"]),
                end=whole_frame(data["end"]),
                points=tuple(Point(_two(p[0]), _maybe(p[1]), _maybe(p[2])) for p in data["points"]),
                manner=tuple((str(name), float(value)) for name, value in data.get("manner", ())),
                stands=tuple(Stand(*one) for one in data.get("stands", ())),
                lies=tuple(Lies(*one) for one in data.get("lies", ())),
                under=tuple(Lies(*one) for one in data.get("under", ())),
                changed=tuple(Changed(*one) for one in data.get("changed", ())),
                hands=tuple(_hand(one) for one in data.get("hands", ())),
                rests=tuple(Rest(**one) for one in data.get("rests", ())),
            )
        except (KeyError, TypeError, ValueError, IndexError) as fault:
            raise BadEdit("a way is stored that cannot be read") from fault
        if (
            not all(isfinite(value) for _, value, _ in span.numbers())
            or min(span.fps, span.gravity, span.stretch) <= 0.0
        ):
            raise BadEdit("a way is given in numbers")
        return span


_SIMPLE = (
    "closed",
    "turn",
    "begins_with",
    "lead",
    "ends",
    "lasts",
    "most",
    "fps",
    "gravity",
    "speed",
    "level",
    "stretch",
    "gait",
)
_PLAIN = ("start", "end", *_SIMPLE)
_ROWS = ("manner", "stands", "lies", "under", "changed")


def _two(pair: Sequence[float]) -> tuple[float, float]:
    x, z = pair
    return float(x), float(z)


def _maybe(pair: Sequence[float] | None) -> tuple[float, float] | None:
    return None if pair is None else _two(pair)


def _hand(data: Mapping[str, Any]) -> Hand:
    return Hand(**{**data, "place": _maybe(data.get("place"))})


def ways_of(clip: Any) -> tuple[Way, ...]:
    """The ways of a clip in the order of time."""
    return tuple(span for span in clip.tracks.get(Way.kind, ()) if isinstance(span, Way))
