"""Clips, steps and their history, and edits as they are sent."""

from __future__ import annotations

from dataclasses import fields, make_dataclass
from typing import TYPE_CHECKING, Annotated, Any, Literal, Union, get_args, get_origin, get_type_hints

from ninja import Schema
from pydantic import Field

from hame.clip.marks import Rank
from hame.clip.spans import SPANS, Span
from hame.edits.rate import Keeping
from hame.edits.reading import AnyEdit
from server.shots.schemas.common import FrameNumber, KeyRow, Values


def _out(kind: type[Span]) -> Any:
    """A kind of span as it is told: its own fields, and which kind it is."""
    hints = get_type_hints(kind)
    mine = [field.name for field in fields(kind) if not kind.told or field.name in kind.told]
    told = [(name, _listed(hints[name])) for name in mine]
    made = make_dataclass(f"{kind.__name__}Span", [("kind", Literal[kind.kind]), *told])  # type: ignore[valid-type]
    made.__doc__ = kind.__doc__
    return made


def _listed(hint: Any) -> Any:
    """A tuple of a fixed length is told as a list: readers of the document take it for one."""
    return list.__class_getitem__(get_args(hint)[0]) if get_origin(hint) is tuple else hint


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
    SpanOut = Union[tuple(_out(SPANS[kind]) for kind in sorted(SPANS))]  # noqa: UP007  made of what there is


class ClipOut(Schema):
    """Curves by channel; pending poses and labels by frame; spans by track, and which frames show which by them.

    ``poses`` are the frames of whole poses: with keys of at least half of all channels that are keyed.
    """

    curves: dict[str, list[KeyRow]]
    pending: dict[str, Values]
    labels: dict[str, LabelOut]
    tracks: dict[str, list[SpanOut]]
    follows: list[FollowOut]
    poses: list[int]


class TakeOut(Schema):
    id: int
    name: str
    shot_id: int
    revision: int
    clips: dict[str, ClipOut]
    can_undo: bool
    can_redo: bool


class CurveChange(Schema):
    """Frames whose keys went, and keys that came or changed; or, ``whole``, all keys there are now.

    With ``moved``, the keys at ``removed`` are told by their new frames alone, in the same order: whole takes are often
    moved.
    """

    removed: list[int]
    rows: list[KeyRow]
    whole: bool
    moved: list[int] | None = None


class ClipChange(Schema):
    """What changed in a clip: curves, and pending poses now (null: gone); and all its whole ``poses``.

    Labels, tracks and what follows from them are as they are now, whole; null where they did not change. With
    ``all``, what is not told of curves and pending poses is gone.
    """

    all: bool
    curves: dict[str, CurveChange]
    pending: dict[str, Values | None]
    labels: dict[str, LabelOut] | None
    tracks: dict[str, list[SpanOut]] | None
    follows: list[FollowOut] | None
    poses: list[int]


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
    whose it is: it is stored for nobody else. With ``looked``, the frame that the page looks at, frames that the step
    changed come along, and the answer is bytes (see :mod:`server.shots.along`).
    """

    revision: int
    id: StepId | None = None
    after: list[StepId] = Field(default=[], max_length=2000)
    shown: int | None = None
    by: str = Field(default="", max_length=150)
    looked: FrameNumber | None = None


class RateIn(Revised):
    """``keep``: what stays as it is where the frames of a second change, the frame of every key, or its time."""

    fps: float = Field(ge=1, le=240)
    keep: Keeping


class DoubleOut(Schema):
    """Two that add up, the one that the pose ``beside`` keys and the one that it does not; see
    :class:`hame.measure.doubles.Double`.
    """

    first: str
    second: str
    addresses: list[str]
    values: list[float]
    units: list[str]
    beside: int


class GoTo(Revised):
    step: int | None = None


class EditIn(Revised):
    """One edit, for one character of the cast, made on one revision of the take.

    ``read`` is a frame whose whole pose was read for it, as a pull does: it is not made where that has been changed.
    ``instead`` is the name of one's own last step, whose place it takes: the same edit with another amount.
    """

    casting: int
    edit: AnyEdit
    read: FrameNumber | None = None
    instead: StepId | None = None
