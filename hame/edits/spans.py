"""What edits of keys do with the spans beside them: one way for all kinds."""

from __future__ import annotations

from collections.abc import Collection, Iterable
from dataclasses import replace
from typing import TypeVar

from hame.character.rig import Rig
from hame.clip.clip import Clip
from hame.clip.key import Array
from hame.clip.spans import Span, Warp, control_of, other_track, track_name

S = TypeVar("S", bound=Span)


def spans_of(clip: Clip, kind: type[S], control: str) -> list[S]:
    """The spans of a kind that are stored of a control, in the order of time."""
    return [span for span in clip.tracks.get(track_name(kind.kind, control), ()) if isinstance(span, kind)]


def beginning_at(clip: Clip, kind: type[S], control: str, start: int) -> S | None:
    """The span of a kind that begins at a frame; None where none does."""
    return next((span for span in spans_of(clip, kind, control) if span.start == start), None)


def given_way(spans: Iterable[S], to: Span, word: str) -> tuple[list[S], list[str]]:
    """What is left of spans where another one comes to lie, and what to say of those that it takes frames from.

    They end before it, begin after it, or go. ``word`` names them before the frames at which they began and ended.
    """
    kept: list[S] = []
    notes: list[str] = []
    for span in spans:
        left = _outside(span, to)
        if left == [(span.start, span.end)]:
            kept.append(span)
        else:
            kept += [replace(span, start=a, end=b) for a, b in left]
            said = " and ".join(f"{a} to {b}" for a, b in left)
            rest = f": {said} is left of it" if left else ""
            notes.append(f"{word} {span.start} to {span.end} gave way{rest}")
    return kept, notes


def _outside(span: Span, of: Span) -> list[tuple[int, int]]:
    """The frames of a span that lie before and after another one, each from and to."""
    parts = [(span.start, min(span.end, of.start - 1)), (max(span.start, of.end + 1), span.end)]
    return [(a, b) for a, b in parts if a <= b]


def concerned(track: str, controls: Collection[str] | None) -> bool:
    """Whether a track is about what is chosen: ``controls``, or (None) the whole character."""
    return controls is None or control_of(track) in controls


def cut(clip: Clip, after: int, count: int, controls: Collection[str] | None) -> tuple[Clip, list[str]]:
    """The clip with what is left of its spans when ``count`` frames after one are taken away, and what to say of it."""
    changes: dict[str, list[Span]] = {}
    notes: list[str] = []
    for track, spans in clip.tracks.items():
        if control_of(track) and not concerned(track, controls):
            continue
        left = [(span, span.cut(after, count)) for span in spans]
        changes[track] = [now for _, now in left if now is not None]
        notes += [_gone(span) for span, now in left if now is None]
    return clip.with_tracks(changes), notes


def _gone(span: Span) -> str:
    return f"of {span.word} {span.start} to {span.end} nothing is left; undo brings it back"


def warped(
    clip: Clip, warp: Warp, controls: Collection[str] | None
) -> tuple[Clip, Warp, list[tuple[Span, Span]], list[str]]:
    """Spans after a warp of time, the warp as it is for keys, and what each span that stays became.

    Of what is not chosen only spans about the whole character are asked: they may refuse. The last of what is handed
    back is what to say of spans of which nothing is left.
    """
    changes: dict[str, list[Span]] = {}
    became: list[tuple[Span, Span]] = []
    notes: list[str] = []
    for track, spans in clip.tracks.items():
        if control_of(track) and not concerned(track, controls):
            continue
        changes[track] = []
        for span in spans:
            now, warp = span.moved(warp, controls is None)
            if now is None:
                notes.append(_gone(span))
            else:
                changes[track].append(now)
                became.append((span, now))
    return clip.with_tracks(changes), warp, became, notes


def refuse_moves(became: Iterable[tuple[Span, Span]], before: Array, after: Array) -> None:
    """Raises :class:`BadEdit` if a span does not let keys go from frames ``before (N,)`` to ``after (N,)``."""
    for span, now in became:
        span.refuse_moves(before, after, now)


def copied(
    clip: Clip, source: Clip, rig: Rig, first: int, last: int, by: int, controls: Collection[str] | None,
    mirrored: bool = False,
) -> Clip:  # fmt: skip
    """``clip`` with copies of the spans of ``source`` that lie from ``first`` to ``last``, so many frames later.

    ``mirrored`` copies go to the tracks of the other side. Spans that a copy would overlap give way to it.
    """
    changes: dict[str, list[Span]] = {}
    for track, spans in source.tracks.items():
        target = other_track(track, rig) if mirrored else track
        if target is None or not concerned(track, controls):
            continue
        for span in spans:
            laid = span.copied(by) if first <= span.start and span.last <= last else None
            if laid is None:
                continue
            laid = laid.mirrored() if mirrored else laid
            there = changes.setdefault(target, list(clip.tracks.get(target, ())))
            changes[target] = [s for s in there if s.last < laid.start or laid.last < s.start] + [laid]
    return clip.with_tracks(changes) if changes else clip


def carried(clip: Clip, rig: Rig, frames: Collection[int], by: int, controls: Collection[str] | None) -> Clip:
    """The clip with spans moved along whose both ends are among the frames of which keys are moved."""
    going = {
        track: [s for s in spans if s.start in frames and s.last in frames and s.copied(by) is not None]
        for track, spans in clip.tracks.items()
        if concerned(track, controls)
    }
    for track, spans in going.items():
        if spans:
            clip = clip.with_tracks({track: [s for s in clip.tracks[track] if s not in spans]})
    for track, spans in going.items():
        laid = [moved for span in spans if (moved := span.copied(by)) is not None]
        there = [s for s in clip.tracks.get(track, ()) if all(s.last < m.start or m.last < s.start for m in laid)]
        if laid:
            clip = clip.with_tracks({track: [*there, *laid]})
    return clip


def restored(clip: Clip, before: Clip, protected: Collection[str]) -> Clip:
    """The clip with the tracks of protected controls as they were."""
    changes = {
        track: before.tracks.get(track, ())
        for track in before.tracks.keys() | clip.tracks.keys()
        if control_of(track) in protected and before.tracks.get(track) != clip.tracks.get(track)
    }
    return clip.with_tracks(changes) if changes else clip
