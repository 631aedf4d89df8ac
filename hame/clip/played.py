"""The curves of a clip as they play: with the keys that its spans derive."""

from __future__ import annotations

from collections.abc import Mapping

from hame.character.rig import Rig
from hame.clip.clip import Clip
from hame.clip.curve import Curve
from hame.clip.marks import Label
from hame.clip.spans import Follow


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


def follows(clip: Clip) -> list[Follow]:
    """Which frames show which: told to whoever draws the time line, so that it need not know how it comes."""
    return [run for _, span in clip.spans() for run in span.follows()]


def shown_labels(clip: Clip) -> dict[int, Label]:
    """The labels of derived frames."""
    return {frame: label for _, span in clip.spans() for frame, label in span.names(clip.labels).items()}
