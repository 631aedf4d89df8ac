"""What edits of spans that add by rule share: being found, being laid beside others, and becoming a layer of keys."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import TypeVar

import numpy as np

from hame.character.rig import Rig
from hame.clip import layers
from hame.clip.clip import Clip
from hame.clip.curve import Curve, from_table
from hame.clip.key import BEZIER, FRAME, SHAPE, STEP, VALUE, Array, no_keys
from hame.clip.played import played_spans
from hame.clip.rule import Rule
from hame.clip.spans import Span
from hame.edits.chosen import counted
from hame.edits.cleaning import fitted_table
from hame.edits.layers import new_layer
from hame.edits.outcome import Outcome
from hame.edits.spans import beginning_at, spans_of
from hame.errors import BadEdit
from hame.evaluate.line import laid_values
from hame.maths.thinning import BETWEEN, SUB, between_frames, thinned
from hame.work import refuse_samples

R = TypeVar("R", bound=Rule)

_FEW = {"m": 0.0001, "rad": 0.0005, "": 0.0005}


def rule_at(clip: Clip, kind: type[R], control: str, start: int) -> R:
    """The span of a kind, of a control, that begins at a frame; raises :class:`BadEdit` where none does."""
    found = beginning_at(clip, kind, control, start)
    if found is not None:
        return found
    word = kind(start, start).word
    raise BadEdit(f"no {word} begins at {start}; it may have been changed meanwhile. Nothing was changed")


def beside(clip: Clip, kind: type[R], control: str, at: int | None) -> tuple[list[R], bool]:
    """The spans of a kind, of a control, beside that which begins at a frame; and whether that one is flipped.

    Raises :class:`BadEdit` where none begins there; no frame is of a new one.
    """
    others = spans_of(clip, kind, control)
    if at is None:
        return others, False
    old = rule_at(clip, kind, control, at)
    return [other for other in others if other is not old], old.flipped


def refuse_meeting(span: Rule, others: Sequence[Rule]) -> None:
    """Raises :class:`BadEdit` where a span would lie on frames of another one of its track."""
    met = next((other for other in others if other.start <= span.end and other.end >= span.start), None)
    if met is not None:
        raise BadEdit(
            f"a {span.word} lies from {met.start} to {met.end} already; change that one, or let this one end "
            "before it or begin after it. Nothing was changed"
        )


def without(clip: Clip, track: str, span: Rule) -> Clip:
    """The clip without a span of a track."""
    return clip.with_tracks({track: [other for other in clip.tracks.get(track, ()) if other is not span]})


def into_layer(clip: Clip, rig: Rig, track: str, span: Rule) -> Outcome:
    """The clip with keys, as few as hold what a span adds, in a layer of its own instead of the span.

    Raises
    ------
    BadEdit
        If it adds nothing, or a cycle shows it again.
    """
    if not span.counts:
        raise BadEdit(f"this {span.word} moves nothing: it is muted, or of no amount. Nothing was changed")
    shown = played_spans(clip, rig, span.kind, -1e9, 1e9)
    if sum(map(len, shown.values())) > sum(1 for _, other in clip.spans() if other.kind == span.kind):
        raise BadEdit(f"a cycle shows the {span.word} again; free the cycle first. Nothing was changed")
    return few_keys_over(
        clip, without(clip, track, span), rig, span, span.word.capitalize(),
        lambda of, times: laid_values(rig, of, times), span.start, span.end,
    )  # fmt: skip


def few_keys_over(
    clip: Clip, rest: Clip, rig: Rig, span: Span, name: str, values: Callable[[Clip, Array], Array], first: int,
    last: int, turned: float | None = None,
) -> Outcome:  # fmt: skip
    """``rest`` with a layer of as few keys as make of it what ``clip`` is, from a frame to another.

    Parameters
    ----------
    span : that ``rest`` is without
    values : (clip, times (T,)) -> channel values (T, C) as they play
    turned : radians within which turns are held, where that is not the usual
    """
    refuse_samples(2 * SUB * (last - first) * len(rig.channels), f"a {span.word} made into keys")
    times = between_frames(first, last)
    over = values(clip, times) - values(rest, times)
    laid, number = new_layer(rest, name, turned=False)
    curves: dict[str, Curve] = {}
    for n, channel in enumerate(rig.channels):
        near = turned if turned is not None and channel.unit == "rad" else _FEW[channel.unit]
        if np.abs(over[:, n]).max() > 1e-12:
            curves[layers.address_in(number, channel.address)] = from_table(_few(over[:, n], first, near))
    count = sum(len(curve) for curve in curves.values())
    note = f"{counted(count, 'key')} of {counted(len(curves), 'channel')} in a layer of its own"
    return Outcome(laid.with_curves(dict(curves)), (note,))


def _few(values: Array, start: int, near: float) -> Array:
    """A table of few keys for values (T,) between frames from ``start``; nothing before and after them."""
    keys, handles = thinned(values[None], np.array([BETWEEN * near]), None, SUB)[0]
    frames = np.asarray(keys, float) + start
    table = fitted_table(frames, values[SUB * keys], handles, np.full(len(keys), float(BEZIER)))
    parts = [table]
    for row, by in ((0, -1), (-1, 1)):
        if table[row, VALUE] != 0.0:
            end = np.zeros((1, table.shape[1]))
            end[0, FRAME], end[0, SHAPE] = table[row, FRAME] + by, STEP
            parts.insert(0 if by < 0 else len(parts), end)
    return np.concatenate([no_keys(), *parts])
