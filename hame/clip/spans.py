"""Spans on tracks: what lies on the time line beside keys.

A clip has tracks by name; on each lie spans, one after the other. A track
about the whole character is called as its kind of span is (``cycle``), one
about a control has that control's name behind a stroke (``kind/hand.L``).

A kind of span is a subclass of :class:`Span`. It names the rules in which it
differs from a plain stretch of frames, and nothing else knows it: differences,
storage, retiming, copying, mirroring, choosing parts and protection go over
all spans alike.
"""

from __future__ import annotations

from collections.abc import Callable, Hashable, Iterable, Mapping, Sequence
from dataclasses import asdict, dataclass, replace
from typing import Any, ClassVar, NamedTuple, Protocol, Self

import numpy as np
import numpy.typing as npt

from hame.character.rig import Rig
from hame.clip.curve import Curve
from hame.clip.key import Array, whole_frame
from hame.clip.marks import Label
from hame.errors import BadEdit

Bools = npt.NDArray[np.bool_]
Warp = Callable[[Array], Array]  # frames as they are -> frames as they shall be, not yet whole
Reach = tuple[int | None, int | None]  # frames from and to; None is without end on that side

OWN = 0  # among owners, the figure itself; all others are told by the number of their casting

SPANS: dict[str, type[Span]] = {}


class Carrying(Protocol):
    """How a motion is carried to another figure."""

    @property
    def in_place(self) -> bool:
        """Without its way over the ground."""

    def travel(self, by: tuple[float, float]) -> tuple[float, float]:
        """The way (x, z) that is there what ``by`` is here."""


@dataclass(frozen=True)
class Follow:
    """A run of frames that show others, one by one: ``first`` shows ``source``, and so on; mirrored or as they are."""

    first: int
    last: int
    source: int
    mirrored: bool


@dataclass(frozen=True)
class Span:
    """Frames from ``start`` to ``end``, both included. What stands below are the rules that a kind may name anew."""

    start: int
    end: int

    kind: ClassVar[str] = ""
    of_controls: ClassVar[bool] = True  # what its tracks are about, if anything, is a control
    stays: ClassVar[bool] = False  # where the motion of another figure is carried here, it is no part of that
    told: ClassVar[tuple[str, ...]] = ()  # what pages are told of it with its clip; all of it where nothing is named
    covers: ClassVar[bool] = False  # keys that lie where it derives others are kept below it, unseen
    stage: ClassVar[str] = ""  # by which it is played (hame.evaluate.stage); none plays what derives keys, or nothing

    def __init_subclass__(cls, **given: Any) -> None:
        super().__init_subclass__(**given)
        if cls.kind:
            SPANS[cls.kind] = cls

    @property
    def word(self) -> str:
        """What a person calls it."""
        return self.kind

    @property
    def last(self) -> int:
        """The last frame that it has a say on; no other span of its track may begin up to there."""
        return self.end

    @property
    def figure_read(self) -> int:
        """The figure whose pose has a say on what it does."""
        return OWN

    # Keys that it derives from others

    def derives(self, frames: Array) -> Bools:
        """Whether keys at frames (N,) come from other frames."""
        return np.zeros(np.shape(frames), bool)

    def source_of(self, frame: int) -> tuple[int, bool]:
        """The frame that a derived one comes from, and whether it is mirrored on the way."""
        return frame, False

    def follows(self) -> Iterable[Follow]:
        """The runs of frames that show others."""
        return ()

    def names(self, labels: Mapping[int, Label]) -> dict[int, Label]:
        """Labels that derived frames show, of those that are stored."""
        return {}

    def window(self, first: float | None, last: float | None) -> Hashable:
        """What has to be worked out for frames to be looked at (None: for all); None if it lays no curves."""
        return None

    def laid(self, curves: Mapping[str, Curve], rig: Rig, window: Any) -> Mapping[str, Curve]:
        """Curves as they play under it, right in the window."""
        return curves

    def adds(self, address: str, frame: int, rig: Rig) -> float:
        """What it adds to a stored key of a channel as it plays: that much less is stored of a value that is seen."""
        return 0.0

    def shows(self, track: str, span: Span, rig: Rig, first: float, last: float) -> Iterable[tuple[str, Span]]:
        """What it shows of another span again, with the tracks they lie on, where that reaches frames to be looked at.

        ``first`` and ``last`` are those frames.
        """
        return ()

    def without_layer(self, number: int, merged: bool) -> Self | None:
        """What becomes of it as a layer is taken away, or ``merged`` into what lies below; None where it goes."""
        return self

    # Where the motion differs

    def reach(self) -> Reach:
        """Frames on which the motion may differ when it comes, goes or changes."""
        return self.start, self.end

    def spreads(self, frames: Array) -> Reach | None:
        """Where else the motion may differ when keys at frames (N,) change; an empty list stands for handles alone."""
        return None

    # Time

    def moved(self, warp: Warp, whole: bool) -> tuple[Self | None, Warp]:
        """It after a warp of time, or None where nothing is left of it; and the warp as it is for everything else.

        ``whole`` tells whether time is warped for the whole character.
        """
        start, end = (int(f) for f in whole_frames(warp(np.array([self.start, self.end], float))))
        return (replace(self, start=start, end=end) if end >= start else None), warp

    def refuse_moves(self, before: Array, after: Array, now: Self) -> None:
        """Raises :class:`BadEdit` if keys may not go from ``before (N,)`` to ``after (N,)`` as it becomes ``now``."""

    def cut(self, after: int, count: int) -> Self | None:
        """What is left of it, before anything moves, when ``count`` frames after one are taken away; None for nothing.

        Raises
        ------
        BadEdit
            If they cannot be.
        """
        start = after + count + 1 if after < self.start <= after + count else self.start
        end = after if after < self.end <= after + count else self.end
        return replace(self, start=start, end=end) if end >= start else None

    def phases(self, poses: set[int]) -> set[int]:
        """Of the frames that divide a motion into phases, those that count under it."""
        return poses

    # Copies

    def copied(self, by: int) -> Self | None:
        """The same so many frames later; None for a kind that is not copied with its keys."""
        return replace(self, start=self.start + by, end=self.end + by)

    def carried_to(self, carrying: Carrying) -> Self | None:
        """The same on a figure that takes its motion over; None where it does not go along."""
        return self

    def mirrored(self) -> Self:
        """The same for the other side of the body."""
        return self

    # What may be stored

    def numbers(self) -> Iterable[tuple[str, float, str]]:
        """Its numbers besides frames: what each is called, its value and its unit."""
        return ()

    def to_json(self) -> dict[str, Any]:
        return {"kind": self.kind, **asdict(self)}

    @classmethod
    def read(cls, data: Mapping[str, Any]) -> Self:
        """Of what :meth:`to_json` made; raises :class:`BadEdit` for frames that are none."""
        fields = {name: value for name, value in data.items() if name != "kind"}
        return cls(**{**fields, "start": whole_frame(data["start"]), "end": whole_frame(data["end"])})


Spans = tuple[Span, ...]
Tracks = Mapping[str, Spans]


def whole_frames(frames: Array) -> Array:
    """The nearest whole frames, the later one of two."""
    return np.floor(frames + 0.5)


class Track(NamedTuple):
    """What a track is called by: the kind of its spans, and what they are about; nothing is the whole character."""

    kind: str
    about: str = ""

    @classmethod
    def named(cls, name: str) -> Track:
        kind, _, about = name.partition("/")
        return cls(kind, about)

    @property
    def name(self) -> str:
        return f"{self.kind}/{self.about}" if self.about else self.kind

    @property
    def control(self) -> str:
        """The control that it is about; empty for the whole character, and where it is about something else."""
        kind = SPANS.get(self.kind)
        return self.about if kind is None or kind.of_controls else ""


def track_name(kind: str, about: str = "") -> str:
    return Track(kind, about).name


def control_of(track: str) -> str:
    """The control that a track of that name is about; empty for the whole character."""
    return Track.named(track).control


def other_track(track: str, rig: Rig) -> str | None:
    """The track of the other side, itself in the middle; None where this rig has no such control."""
    kind, control = Track.named(track).kind, control_of(track)
    if not control:
        return track
    other = rig.control(control).other if rig.has_control(control) else ""
    return track_name(kind, other) if rig.has_control(other) else None


def owner_read(data: Mapping[str, Any], control: str) -> Mapping[str, Any]:
    """The stored fields of a span that names an owner, by figure and ``control``.

    Raises
    ------
    BadEdit
        If they name none.
    """
    figure, name = data.get("figure", OWN), data.get(control, "")
    if isinstance(figure, bool) or not isinstance(figure, int) or figure < 0 or not isinstance(name, str):
        raise BadEdit(f"{figure!r} and {name!r} name nobody who plays")
    return data


def ordered(track: str, spans: Iterable[Span]) -> Spans:
    """The spans of a track in the order of time.

    Raises
    ------
    BadEdit
        If two of them overlap.
    """
    found = tuple(sorted(spans, key=lambda span: (span.start, span.end)))
    for a, b in zip(found, found[1:], strict=False):
        if b.start <= a.last:
            raise BadEdit(
                f"on the track {track}, {b.start} to {b.last} would overlap {a.start} to {a.last}; nothing was changed"
            )
    return found


def tracks_to_json(tracks: Tracks) -> dict[str, list[dict[str, Any]]]:
    return {track: [span.to_json() for span in spans] for track, spans in tracks.items() if spans}


def spans_from_json(track: str, data: Sequence[Mapping[str, Any]]) -> Spans:
    """Raises :class:`BadEdit` for a kind of span that there is not."""
    kind = Track.named(track).kind
    if kind not in SPANS:
        raise BadEdit(f"there is no kind of span called {kind}; this was stored by a later version of Hame")
    return tuple(SPANS[kind].read(span) for span in data)
