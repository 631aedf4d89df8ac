"""What answers something that happens, as deep and as far as that is fast; and an answer laid at another event."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import fields
from math import hypot, pi, radians
from typing import Any

from hame.clip.answers import Answering, Give
from hame.clip.footdown import FootDown
from hame.clip.spans import control_of
from hame.clip.through import CarryThrough
from hame.edits.answers import LayGive
from hame.edits.edit import Edit
from hame.edits.footdown import LayFootDown
from hame.edits.through import LayCarryThrough
from hame.measure.happenings import Happening

SOFT, DEEP = 0.05, 0.35  # metres that a body gives at least and at most of itself
_LEAN, _NOD, _FARTHEST = radians(5.0), radians(2.5), radians(25.0)
"""How far what is carried goes on for each metre a second that is lost along the ground, and downward, and at most
(common practice, no source)."""
_DIPS, _NODS, _MOST_DIP = 0.01, radians(1.5), 0.05  # a metre a second of a foot (common practice, no source)
_TOES = radians(12.0)  # that toes are up as a heel comes down: about so in a walk (common practice, no source)


def answers_to(happening: Happening, fps: float) -> dict[str, Edit]:
    """What answers something that happens, by the kind of the answer, in the order in which to offer them."""
    given: dict[str, Any] = {"of": happening.what, "speed": abs(happening.speed)}
    found: dict[str, Edit] = {}
    if happening.what in ("landing", "take-off"):
        found["give"] = _give(happening, fps, given)
    if happening.what == "foot down":
        fast = abs(happening.speed)
        found["foot down"] = LayFootDown(
            control=happening.control, event=happening.frame, drop=round(min(_DIPS * fast, _MOST_DIP), 3),
            nod=min(_NODS * fast, radians(6.0)), toes=_TOES, **given,
        )  # fmt: skip
    if happening.what in ("landing", "stop"):
        aside, down, forth = happening.lost
        # A turn about "up x way" leans the way it went; downward it is a nod.
        nod, tilt = _LEAN * forth + _NOD * max(-down, 0.0), -_LEAN * aside
        size = hypot(nod, tilt)
        by = min(1.0, _FARTHEST / size) if size > 0.0 else 0.0
        if size > radians(0.5):
            found["carry-through"] = LayCarryThrough(event=happening.frame, nod=nod * by, tilt=tilt * by, **given)
    return found


def _give(happening: Happening, fps: float, given: dict[str, Any]) -> Edit:
    """A give as deep as a landing is fast, or a crouch before a take-off.

    It goes down with the speed of the landing at first: its quarter of a sine is that steep.
    """
    before = happening.what == "take-off"
    there = 4 if before else 3
    deep = min(max(happening.speed * there / fps * 2.0 / pi, SOFT), DEEP)
    return LayGive(event=happening.frame, before=before, drop=round(deep, 2), there=there, **given)


_SCALED: Mapping[type[Answering], tuple[str, ...]] = {
    Give: ("drop",), CarryThrough: ("nod", "twist", "tilt"), FootDown: ("drop", "nod"),
}  # fmt: skip


def laid_anew(track: str, span: Answering, event: int, speed: float) -> Edit | None:
    """The edit that lays an answer at another event; scaled, where it is, by how fast that is.

    None for a kind that answers nothing.
    """
    edits: dict[type[Answering], type[LayGive] | type[LayCarryThrough] | type[LayFootDown]] = {
        Give: LayGive, CarryThrough: LayCarryThrough, FootDown: LayFootDown,
    }  # fmt: skip
    edit = edits.get(type(span))
    if edit is None:
        return None
    known = {field.name for field in fields(edit)} - {"kind", "layer", "at", "event"}
    told = {name: getattr(span, name) for name in known if hasattr(span, name)}
    if "control" in known:
        told["control"] = control_of(track)
    if "frames" in known:
        told["frames"] = span.end - span.start
    if span.speed > 0.0 and speed > 0.0:
        for name in _SCALED[type(span)]:
            told[name] = told[name] * speed / span.speed
        told["speed"] = speed
    return edit(at=span.start, event=event, **told)
