"""Answers that go along with what they answer, where an edit has that happen elsewhere."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np

from hame.character.rig import Rig
from hame.clip.answers import Answering, unanswered
from hame.clip.clip import Clip, difference
from hame.clip.spans import Reach, control_of
from hame.edits.asif import AsIf
from hame.edits.offered import laid_anew
from hame.errors import BadEdit
from hame.measure.flights import airborne, flights
from hame.measure.happenings import Happening, happenings
from hame.scene.scene import Scene

AROUND = 16  # frames that what is answered may come to lie elsewhere by one edit
NEAR = 2 * AROUND  # frames about it that are looked at
_SAME = 0.02  # of a speed: less is the same


def followed(before: Clip, after: Clip, rig: Rig, scene: Scene) -> tuple[Clip, tuple[str, ...]]:
    """The clip of the figure that a scene is seen by after an edit, with answers where what they answer has come.

    One whose event is gone stays, and so does one that would meet another. Only what lies near a change is looked at,
    and frames that several answers are about once.
    """
    kept = list(_kept(before, after))
    if not kept:
        return after, ()
    ranges = difference(before, after).ranges
    kept = [
        (track, old, span) for track, old, span in kept
        if any(_meets(reach, event) for reach in ranges for event in (old.event, span.event))
    ]  # fmt: skip
    was = _Happened(AsIf(scene), before, [old.event for _, old, _ in kept])
    now = _Happened(AsIf(scene), after, [span.event for _, _, span in kept])
    notes: list[str] = []
    for track, old, span in kept:
        alike = was.like(old, track)
        mine = next((n for n, one in enumerate(alike) if one.frame == old.event), None)
        if mine is None:
            continue
        found = _the_same(alike, mine, now.like(span, track), span.event)
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


def _meets(reach: Reach, event: int) -> bool:
    """Whether a change that reaches so far can have a say on what happens about a frame."""
    first, last = reach
    return (first is None or first <= event + NEAR) and (last is None or last >= event - NEAR)


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


class _Happened:
    """What happens in a clip about some frames, without the answers that are laid."""

    def __init__(self, seen: AsIf, clip: Clip, events: Sequence[int]) -> None:
        scene = seen.scene
        self._parts: list[tuple[int, int, list[Happening]]] = []
        windows: list[list[int]] = []
        for event in sorted(set(events)):
            first, last = max(scene.start, event - NEAR), min(scene.end, event + NEAR)
            if windows and first <= windows[-1][1] + 1:
                windows[-1][1] = max(windows[-1][1], last)
            elif last - first >= 2:
                windows.append([first, last])
        bare = unanswered(clip)
        for first, last in windows:
            posed, stands = seen.stood(bare, first, last)
            if not stands:
                continue
            centres = np.array([stand.centre for stand in stands])
            flown = flights(centres, airborne(stands), first, scene.fps, scene.gravity)
            loads = seen.laden(bare, np.arange(float(first), last + 1))[1]
            found = happenings(posed.rig, posed.nodes, stands, flown, loads, first, scene.fps)
            self._parts.append((first, last, found))

    def like(self, span: Answering, track: str) -> list[Happening]:
        """What of the kind that an answer answers happens about its event."""
        foot = control_of(track)
        return [
            one for first, last, found in self._parts if first <= span.event <= last for one in found
            if one.what == span.of and (not foot or one.control == foot) and abs(one.frame - span.event) <= NEAR
        ]  # fmt: skip
