"""The frame rate of a shot, which all of its takes have: changed, and taken back, as a step of each of them."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from django.db import OperationalError, transaction

from hame.clip.clip import Clip, Patch, difference
from hame.edits.guard import guarded
from hame.edits.rate import Keeping, keep_seconds
from hame.errors import BadEdit
from server.shots import clips
from server.shots.models import MAX_RANGE, Edit, RateChange, Shot, Take
from server.shots.scenes import cast_of
from server.shots.writing import add, announce

RANGE = ("start", "end", "play_start", "play_end")


def change_rate(
    shot: Shot, user: Any, fps: float, keep: Keeping, named: dict[int, str | None] | None = None
) -> list[str]:
    """Sets the frames a second of a shot, in a step of each of its takes; returns what there is to tell of it.

    Parameters
    ----------
    keep : ``frames``: every key stays on its frame, and what moves goes faster or slower; ``seconds``: everything stays
        at its time, and keys come to lie on the frames nearest to that
    named : by take, the name that the page gave the step

    Raises
    ------
    BadEdit
        If a motion cannot go along, or the range would get too long; nothing was changed then.
    """
    with transaction.atomic():
        takes = list(Take.objects.select_for_update().filter(shot=shot).order_by("pk"))
        now = Shot.objects.select_for_update().get(pk=shot.pk)
        if now.fps == fps:
            return [f"there are {fps:g} frames a second already"]
        factor = fps / now.fps if keep == "seconds" else 1.0
        before = {"fps": now.fps, **{name: getattr(now, name) for name in RANGE}}
        after = {"fps": fps, **{name: _at(getattr(now, name), now.start, factor) for name in RANGE}}
        after["end"] = max(after["end"], after["start"] + 1)
        if after["end"] - after["start"] >= MAX_RANGE:
            raise BadEdit(f"a shot has at most {MAX_RANGE} frames; with its seconds kept it would have more")
        change = RateChange.objects.create(shot=now, before=before, after=after)
        label = f"{before['fps']:g} to {fps:g} frames a second, {keep} kept"
        notes: list[str] = []
        for take in takes:
            take.shot = now
            told = _step(take, user, label, now.start, factor, change, (named or {}).get(take.pk))
            notes += told if len(takes) == 1 else [f"{take.name}: {note}" for note in told]
        _set(now, after)
    return notes


def _at(frame: int, start: int, factor: float) -> int:
    return start + round((frame - start) * factor)


def _step(
    take: Take, user: Any, label: str, start: int, factor: float, change: RateChange, key: str | None
) -> list[str]:
    cast = cast_of(take.shot)
    held = {casting: clips.held(take, casting) for casting in cast.castings}
    scene = cast.scene(lambda casting: held[casting].clip)
    patches: dict[int, Patch] = {}
    changes: dict[int, tuple[clips.Held, Clip, Patch]] = {}
    notes: list[str] = []
    for casting, before in held.items():
        if factor == 1.0:
            break
        rig = scene.figures[casting].rig
        outcome = guarded(before.clip, keep_seconds(before.clip, rig, start, factor), rig)
        patch = difference(before.clip, outcome.clip)
        if patch:
            patches[casting], changes[casting] = patch, (before, outcome.clip, patch)
            notes += outcome.notes
    moved = None if factor == 1.0 else (None, None)
    notes = list(dict.fromkeys(notes))
    add(take, user, label, patches, notes, key, moved_time=moved, rate=change)
    clips.keep(take, changes)
    return notes


def cross(take: Take, step: Edit, forward: bool, walk: Callable[[Take, int | None], object]) -> None:
    """Takes a frame rate back, or brings it again, with a step of a locked take: the other takes of the shot go along.

    Raises
    ------
    BadEdit
        If one of them has gone on since, or was begun since: its motion is timed for the rate of now.
    """
    change = step.rate
    assert change is not None
    mine = {other.take_id: other for other in change.edits.exclude(pk=step.pk)}
    try:
        others = list(
            Take.objects.select_for_update(nowait=True).filter(shot_id=take.shot_id).exclude(pk=take.pk).order_by("pk")
        )
        shot = Shot.objects.select_for_update(nowait=True).get(pk=take.shot_id)
    except OperationalError:
        raise BadEdit("another take of the shot is being changed right now; try again. Nothing was undone") from None
    for other in others:
        own = mine.get(other.pk)
        here = None if own is None else own.pk if not forward else own.parent_id
        if own is None or other.head_id != here:
            raise BadEdit(
                f"the frame rate is that of the whole shot, and {other.name} has gone on since; set the rate by its "
                "own field instead. Nothing was undone"
            )
    for other in others:
        other.shot = shot
        walk(other, mine[other.pk].pk if forward else mine[other.pk].parent_id)
    was, to = (change.before, change.after) if forward else (change.after, change.before)
    # A range that was set by hand since stays.
    _set(shot, {name: to[name] for name in to if name == "fps" or getattr(shot, name) == was[name]})
    take.shot = shot


def _set(shot: Shot, values: dict[str, Any]) -> None:
    for name, value in values.items():
        setattr(shot, name, value)
    shot.save(update_fields=[*values, "changed_at"])
    shot_id = shot.pk
    transaction.on_commit(lambda: _tell(shot_id), robust=True)


def _tell(shot_id: int) -> None:
    for take in Take.objects.filter(shot_id=shot_id).values_list("pk", flat=True):
        announce(take, {"type": "cast.changed"})
