"""Answers that go along with what they answer, where an edit has that happen elsewhere."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from hame.character.rig import Rig
from hame.clip.answers import Answering, unanswered
from hame.clip.clip import Clip
from hame.clip.spans import control_of
from hame.edits.asif import AsIf
from hame.edits.offered import laid_anew
from hame.errors import BadEdit
from hame.measure.flights import airborne, flights
from hame.measure.happenings import Happening, happenings
from hame.scene.scene import Scene

AROUND = 16  # frames that what is answered may come to lie elsewhere by one edit
_SAME = 0.02  # of a speed: less is the same


def followed(before: Clip, after: Clip, rig: Rig, scene: Scene) -> tuple[Clip, tuple[str, ...]]:
    """The clip of the figure that a scene is seen by after an edit, with answers where what they answer has come.

    One whose event is gone stays, and so does one that would meet another.
    """
    notes: list[str] = []
    kept = list(_kept(before, after))
    if not kept or (before.curves == after.curves and before.tracks == after.tracks):
        return after, ()
    for track, old, span in kept:
        was = _like(AsIf(scene), before, old, track)
        mine = next((n for n, one in enumerate(was) if one.frame == old.event), None)
        if mine is None:
            continue
        now = _like(AsIf(scene), after, span, track)
        found = _the_same(was, mine, now, span.event)
        if found is None or (found.frame == span.event and _as_fast(found, span)):
            continue
        edit = laid_anew(track, span, found.frame, abs(found.speed))
        if edit is None:
            continue
        try:
            after = edit.change(after, rig, scene).clip
        except BadEdit as refusal:
            notes.append(f"the {span.word} at {span.event} stays there: {refusal}")
            continue
        if found.frame != span.event:
            notes.append(f"the {span.word} goes along to the {found.what} at {found.frame}")
    return after, tuple(notes)


def _kept(before: Clip, after: Clip) -> Iterator[tuple[str, Answering, Answering]]:
    """The answers that go along with something, by track, as they were and as they are."""
    for track, spans in list(after.tracks.items()):
        olds = before.tracks.get(track, ())
        if len(olds) != len(spans):
            continue
        for old, span in zip(olds, spans, strict=True):
            if isinstance(old, Answering) and isinstance(span, Answering) and span.of:
                yield track, old, span


def _the_same(was: list[Happening], mine: int, now: list[Happening], at: int) -> Happening | None:
    """What of a kind happens now, where the same happened before; None where it does not any more."""
    if not now:
        return None
    found = now[mine] if len(now) == len(was) else min(now, key=lambda one: abs(one.frame - at))
    return found if abs(found.frame - at) <= AROUND else None


def _as_fast(found: Happening, span: Answering) -> bool:
    return span.speed == 0.0 or abs(abs(found.speed) - span.speed) <= _SAME * max(span.speed, 0.1)


def _like(seen: AsIf, clip: Clip, span: Answering, track: str) -> list[Happening]:
    """What of the kind that an answer answers happens about its event."""
    scene = seen.scene
    first, last = max(scene.start, span.event - 2 * AROUND), min(scene.end, span.event + 2 * AROUND)
    if last - first < 2:
        return []
    bare = unanswered(clip)
    posed, stands = seen.stood(bare, first, last)
    if not stands:
        return []
    centres = np.array([stand.centre for stand in stands])
    flown = flights(centres, airborne(stands), first, scene.fps, scene.gravity)
    loads = seen.laden(bare, np.arange(float(first), last + 1))[1] if span.of == "letting go" else []
    found = happenings(posed.rig, posed.nodes, stands, flown, loads, first, scene.fps)
    foot = control_of(track)
    return [one for one in found if one.what == span.of and (not foot or one.control == foot)]
