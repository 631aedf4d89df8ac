"""Clips in the database: a snapshot of each, and the steps made since.

Every committed step is stored as an Edit at once, and that is what makes it
last. The rows of keys are a snapshot of the clip at some revision
(ClipMarks.revision); they are brought up to date only now and then, so that an
edit of ten thousand keys need not write them all twice. Opening a clip reads
the snapshot and applies the steps since, all of it as it was at one moment.
"""

from __future__ import annotations

from collections.abc import Collection, Iterator, Mapping
from contextlib import contextmanager
from dataclasses import dataclass
from threading import Lock
from typing import Any

from cachetools import LRUCache
from django.db import connection, transaction

from hame.clip import clip as clips
from hame.clip.clip import Clip, Patch, difference, patch_from_json
from hame.clip.key import WIDTH
from hame.clip.rows import packed_rows
from server.shots.models import Change, ClipMarks, Curve, PendingPose, Take

# How far a snapshot may lag: steps, and keys that they changed. Opening a clip anew has to apply them.
MOST_STEPS = 60
MOST_KEYS = 120_000
AT_HAND = 256 * 1024 * 1024  # bytes of clips that a process keeps


@dataclass(frozen=True)
class Held:
    """A clip with the snapshot that is stored of it, the revision of that, and the keys changed since."""

    clip: Clip
    stored: Clip
    stored_at: int
    waiting: int = 0

    def weight(self) -> int:
        """About how many bytes it takes; what is stored shares its keys with the clip, but for those changed since."""
        apart = 0 if self.stored is self.clip else 8 * WIDTH * self.waiting
        return self.clip.weight() + apart


@dataclass
class _Kept:
    """A clip that is the same from one revision of its take to another."""

    held: Held
    first: int
    last: int


class _Recent:
    """The newest of each clip that was used last, by (take, casting), within so many bytes.

    The database stays the truth: what is not here is read there.
    """

    def __init__(self, most: int = AT_HAND) -> None:
        self._lock = Lock()
        self._clips: LRUCache[tuple[int, int], _Kept] = LRUCache(most, getsizeof=lambda kept: kept.held.weight())

    @property
    def weight(self) -> int:
        """Bytes of all of it, about."""
        return int(self._clips.currsize)

    def get(self, take_id: int, casting_id: int, revision: int) -> Held | None:
        with self._lock:
            kept = self._clips.get((take_id, casting_id))
            if kept is None or not kept.first <= revision <= kept.last:
                return None
            self._weigh((take_id, casting_id), kept)  # what is remembered of it grows as it is used
            return kept.held

    def clear(self) -> None:
        with self._lock:
            self._clips.clear()

    def put(self, take_id: int, casting_id: int, revision: int, held: Held) -> None:
        with self._lock:
            self._put((take_id, casting_id), _Kept(held, revision, revision))

    def step(self, take_id: int, revision: int, changed: Mapping[int, Held]) -> None:
        """A step led to ``revision``: the clips it changed, and that the others are what they were."""
        with self._lock:
            for take, casting in list(self._clips):
                if take == take_id and casting not in changed:
                    kept = self._clips[take, casting]
                    if kept.last == revision - 1:
                        kept.last = revision
            for casting, held in changed.items():
                self._put((take_id, casting), _Kept(held, revision, revision))

    def _put(self, key: tuple[int, int], kept: _Kept) -> None:
        before = self._clips.get(key)
        if before is not None and before.last >= kept.first:
            return  # a later one came first
        self._weigh(key, kept)

    def _weigh(self, key: tuple[int, int], kept: _Kept) -> None:
        try:
            self._clips[key] = kept
        except ValueError:  # more than all of them may take together
            self._clips.pop(key, None)


_recent = _Recent()


def forget() -> None:
    """Lets all clips go; they are read from the database when they are needed again."""
    _recent.clear()


@contextmanager
def one_moment() -> Iterator[None]:
    """What is read inside is the database as it was at one moment, whatever is committed meanwhile.

    Inside a transaction that holds the take's lock nothing of it can change, and nothing more is needed.
    """
    if connection.in_atomic_block:
        yield
        return
    with connection.cursor() as cursor:
        cursor.execute("SET TRANSACTION ISOLATION LEVEL REPEATABLE READ")
    with transaction.atomic():
        yield


def open_clips(take: Take, casting_ids: Collection[int]) -> dict[int, Clip]:
    """The clips of some castings, all at one revision, which ``take`` is brought up to."""
    at_hand = {c: _recent.get(take.pk, c, take.revision) for c in casting_ids}
    if all(at_hand.values()):
        return {c: found.clip for c, found in at_hand.items() if found is not None}
    with one_moment():
        take.refresh_from_db(fields=["revision", "head", "tip"])
        return {c: held(take, c).clip for c in casting_ids}


def open_clip(take: Take, casting_id: int) -> Clip:
    """The clip of one casting at the take's revision, which ``take`` is brought up to."""
    return open_clips(take, [casting_id])[casting_id]


def held(take: Take, casting_id: int) -> Held:
    """The clip of one casting with what is stored of it, at the take's revision.

    To be called where that cannot change meanwhile: with the take locked, or inside :func:`one_moment`.
    """
    found = _recent.get(take.pk, casting_id, take.revision)
    if found is None:
        found = _read(take, casting_id)
        _recent.put(take.pk, casting_id, take.revision, found)
    return found


def _read(take: Take, casting_id: int) -> Held:
    mine = {"take": take, "casting_id": casting_id}
    marks: dict[str, Any] = dict(ClipMarks.objects.filter(**mine).values("labels", "tracks", "revision").first() or {})
    stored_at = marks.pop("revision", 0)
    stored = clip = clips.from_json({
        "curves": dict(Curve.objects.filter(**mine).values_list("channel", "keys")),
        "pending": dict(PendingPose.objects.filter(**mine).values_list("frame", "values")),
        **marks,
    })  # fmt: skip
    waiting = 0
    since = Change.objects.filter(take=take, revision__gt=stored_at, revision__lte=take.revision)
    mine_of = since.filter(edit__differences__casting_id=casting_id).order_by("revision", "id")
    for forward, found in mine_of.values_list("forward", "edit__differences__patch"):
        patch = patch_from_json(found)
        clip = (patch if forward else patch.reversed()).apply(clip)
        waiting += patch.size()
    return Held(clip, stored, stored_at, waiting)


def keep(take: Take, changes: Mapping[int, tuple[Held, Clip, Patch]]) -> None:
    """Keeps clips at the take's new revision, at hand and, when much has gathered, as new snapshots.

    To be called once inside the transaction that stores the step. At hand they
    are kept only once that is really stored; before that, it might never have been.

    Parameters
    ----------
    changes : by casting, what was held before, the clip now, and the difference
    """
    now: dict[int, Held] = {}
    for casting_id, (before, clip, patch) in changes.items():
        waiting = before.waiting + patch.size()
        now[casting_id] = Held(clip, before.stored, before.stored_at, waiting)
        if waiting > MOST_KEYS or take.revision - before.stored_at >= MOST_STEPS:
            now[casting_id] = store_snapshot(take, casting_id, before.stored, clip)
    take_id, revision = take.pk, take.revision
    transaction.on_commit(lambda: _recent.step(take_id, revision, now), robust=True)


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
