"""The curves of a clip as they play: with the keys that its spans derive."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Mapping

from hame.character.rig import Rig
from hame.clip.clip import Clip
from hame.clip.curve import Curve
from hame.clip.going import planted_by
from hame.clip.marks import Label
from hame.clip.plants import Plant
from hame.clip.spans import Follow, Span, Track
from hame.clip.way import Way


def played_curves(clip: Clip, rig: Rig, first: float | None = None, last: float | None = None) -> Mapping[str, Curve]:
    """All curves as they play, derived keys included; the stored ones when no span derives any.

    Parameters
    ----------
    first, last : frames that are looked at. Where much is derived the curves are right there, with the neighbouring
        keys on both sides, and hold nothing farther away
    """
    curves: Mapping[str, Curve] = clip.curves
    windows: list[object] = []
    for _, span in clip.spans():
        window = span.window(first, last)
        if window is not None:
            windows += [span, window]
            kept = (rig, *windows)
            curves = clip.remembered(kept, lambda c=curves, s=span, w=window: s.laid(c, rig, w))  # type: ignore[misc]
    return curves


def played_spans(clip: Clip, rig: Rig, kind: str, first: float, last: float) -> dict[str, list[Span]]:
    """The spans of a kind by track as they play, those that others show again included, in the order of time.

    Of what is shown again, only what reaches the frames from ``first`` to ``last``. Where copies would overlap what
    is stored, or one another, the later one gives way.
    """
    found = {track: list(spans) for track, spans in clip.tracks.items() if Track.named(track).kind == kind}
    if kind == Plant.kind and Way.kind in clip.tracks:
        found = planted_by(rig, clip, found)
    showing = [span for _, span in clip.spans() if type(span).shows is not Span.shows]
    if not showing:
        return found
    shown = [
        copy
        for cycle in showing
        for track, spans in list(found.items())
        for span in list(spans)
        for copy in cycle.shows(track, span, rig, first, last)
    ]
    starts = {track: [span.start for span in spans] for track, spans in found.items()}
    for track, copy in sorted(shown, key=lambda pair: pair[1].start):
        there, begins = found.setdefault(track, []), starts.setdefault(track, [])
        at = bisect_right(begins, copy.start)
        if (at and there[at - 1].last >= copy.start) or (at < len(there) and there[at].start <= copy.last):
            continue
        there.insert(at, copy)
        begins.insert(at, copy.start)
    return found


def stored_value(clip: Clip, rig: Rig, address: str, frame: int, value: float) -> float:
    """What to store of a channel at a frame so that it plays at a value there: less what spans add to its keys."""
    return value - sum(span.adds(address, frame, rig) for _, span in clip.spans() if type(span).adds is not Span.adds)


def follows(clip: Clip) -> list[Follow]:
    """Which frames show which: told to whoever draws the time line, so that it need not know how it comes."""
    return [run for _, span in clip.spans() for run in span.follows()]


def shown_labels(clip: Clip) -> dict[int, Label]:
    """The labels of derived frames."""
    return {frame: label for _, span in clip.spans() for frame, label in span.names(clip.labels).items()}
