"""Clips in the database: a snapshot of each, and the steps made since.

Every committed step is stored as an Edit at once, and that is what makes it
last. The rows of keys are a snapshot of the clip at some revision
(ClipMarks.revision); they are brought up to date only now and then, so that an
edit of ten thousand keys need not write them all twice. Opening a clip reads
the snapshot and applies the steps since.
"""

from __future__ import annotations

from collections import OrderedDict
from dataclasses import dataclass
from threading import Lock
from typing import Any

from django.db import transaction

from hame.clip import clip as clips
from hame.clip.clip import Clip, Patch, difference, patch_from_json
from hame.clip.curve import packed_rows
from server.shots.models import Change, ClipMarks, Curve, PendingPose, Take

# How far a snapshot may lag: steps, and keys that they changed. Opening a clip anew has to apply them.
MOST_STEPS = 60
MOST_KEYS = 40_000


@dataclass(frozen=True)
class Held:
    """A clip with the snapshot that is stored of it, the revision of that, and the keys changed since."""

    clip: Clip
    stored: Clip
    stored_at: int
    waiting: int = 0


class _Recent:
    """The clips used last, by (take, casting, revision). The database stays the truth."""

    def __init__(self, size: int) -> None:
        self._size, self._lock = size, Lock()
        self._clips: OrderedDict[tuple[int, int, int], Held] = OrderedDict()

    def get(self, key: tuple[int, int, int]) -> Held | None:
        with self._lock:
            if key in self._clips:
                self._clips.move_to_end(key)
            return self._clips.get(key)

    def clear(self) -> None:
        with self._lock:
            self._clips.clear()

    def put(self, key: tuple[int, int, int], held: Held) -> None:
        with self._lock:
            self._clips[key] = held
            while len(self._clips) > self._size:
                self._clips.popitem(last=False)

    def carry(self, take_id: int, before: int, revision: int) -> None:
        """A step of one character leaves the others' clips as they are, at the new revision too."""
        with self._lock:
            for (take, casting, known), held in list(self._clips.items()):
                if take == take_id and known == before and (take, casting, revision) not in self._clips:
                    self._clips[take, casting, revision] = held


_recent = _Recent(64)


def forget() -> None:
    """Lets all clips go; they are read from the database when they are needed again."""
    _recent.clear()


def open_clip(take: Take, casting_id: int) -> Clip:
    """The clip of one casting at the take's revision."""
    return held(take, casting_id).clip


def held(take: Take, casting_id: int) -> Held:
    """The clip of one casting at the take's revision, with what is stored of it."""
    key = (take.pk, casting_id, take.revision)
    found = _recent.get(key)
    if found is None:
        found = _read(take, casting_id)
        _recent.put(key, found)
    return found


def _read(take: Take, casting_id: int) -> Held:
    mine = {"take": take, "casting_id": casting_id}
    marks: dict[str, Any] = dict(ClipMarks.objects.filter(**mine).values("labels", "cycle", "revision").first() or {})
    stored_at = marks.pop("revision", 0)
    stored = clip = clips.from_json({
        "curves": dict(Curve.objects.filter(**mine).values_list("channel", "keys")),
        "pending": dict(PendingPose.objects.filter(**mine).values_list("frame", "values")),
        **marks,
    })  # fmt: skip
    waiting = 0
    since = Change.objects.filter(
        take=take, revision__gt=stored_at, revision__lte=take.revision, edit__casting_id=casting_id
    )
    for change in since.select_related("edit").order_by("revision", "id"):
        patch = patch_from_json(change.edit.patch)
        clip = (patch if change.forward else patch.reversed()).apply(clip)
        waiting += patch.size()
    return Held(clip, stored, stored_at, waiting)


def keep(take: Take, casting_id: int, before: Held, clip: Clip, patch: Patch) -> None:
    """Keeps a clip at the take's new revision, at hand and, when much has gathered, as the new snapshot.

    To be called inside the transaction that stores the step. At hand it is
    kept only once that is really stored; before that, it might never have been.
    """
    waiting = before.waiting + patch.size()
    now = Held(clip, before.stored, before.stored_at, waiting)
    if waiting > MOST_KEYS or take.revision - before.stored_at >= MOST_STEPS:
        now = store_snapshot(take, casting_id, before.stored, clip)
    key = (take.pk, casting_id, take.revision)

    def at_hand() -> None:
        _recent.put(key, now)
        _recent.carry(take.pk, take.revision - 1, take.revision)

    transaction.on_commit(at_hand, robust=True)


def store_snapshot(take: Take, casting_id: int, before: Clip, clip: Clip) -> Held:
    """Writes what differs of the rows of keys, pending poses and marks, which stand at ``before``."""
    mine: dict[str, Any] = {"take": take, "casting_id": casting_id}
    patch = difference(before, clip)
    gone = [channel for channel in patch.curves if channel not in clip.curves]
    rows = [
        Curve(**mine, channel=channel, keys=packed_rows(clip.curves[channel].table))
        for channel in patch.curves
        if channel in clip.curves
    ]
    if gone:
        Curve.objects.filter(**mine, channel__in=gone).delete()
    if rows:
        Curve.objects.bulk_create(rows, update_conflicts=True, update_fields=["keys"])
    for frame, (_, values) in patch.pending.items():
        if values:
            PendingPose.objects.update_or_create(**mine, frame=frame, defaults={"values": dict(values)})
        else:
            PendingPose.objects.filter(**mine, frame=frame).delete()
    marks = {**clip.to_json_marks(), "revision": take.revision}
    ClipMarks.objects.update_or_create(**mine, defaults=marks)
    return Held(clip, clip, take.revision)
