"""Clips in the database: opening them, and committing one step at a time."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from threading import Lock
from typing import Any

from asgiref.sync import async_to_sync
from channels.layers import get_channel_layer
from django.db import transaction

from hame.clip import clip as clips
from hame.clip.clip import Clip, Patch, difference, patch_from_json
from hame.clip.curve import packed_rows
from hame.edits.outcome import Outcome
from hame.errors import BadEdit
from server.errors import Stale
from server.shots.models import Casting, Change, ClipMarks, Curve, Edit, PendingPose, Take


class _Recent:
    """The clips used last, by (take, casting, revision). The database stays the truth."""

    def __init__(self, size: int) -> None:
        self._size, self._lock = size, Lock()
        self._clips: OrderedDict[tuple[int, int, int], Clip] = OrderedDict()

    def get(self, key: tuple[int, int, int]) -> Clip | None:
        with self._lock:
            if key in self._clips:
                self._clips.move_to_end(key)
            return self._clips.get(key)

    def clear(self) -> None:
        with self._lock:
            self._clips.clear()

    def put(self, key: tuple[int, int, int], clip: Clip) -> None:
        with self._lock:
            self._clips[key] = clip
            while len(self._clips) > self._size:
                self._clips.popitem(last=False)


_recent = _Recent(64)


def _remember(take: Take, casting_id: int, clip: Clip) -> None:
    """Keeps a clip at hand once its revision is really stored; before that, it might never have been."""
    key = (take.pk, casting_id, take.revision)
    transaction.on_commit(lambda: _recent.put(key, clip), robust=True)


def forget() -> None:
    """Lets all clips go; they are read from the database when they are needed again."""
    _recent.clear()


@dataclass(frozen=True)
class Committed:
    """What a step did: per casting the patch that was applied, and what to tell the person."""

    revision: int
    patches: dict[int, Patch]
    notes: tuple[str, ...] = ()


def open_clip(take: Take, casting_id: int) -> Clip:
    """The clip of one casting at the take's revision."""
    key = (take.pk, casting_id, take.revision)
    clip = _recent.get(key)
    if clip is None:
        found = ClipMarks.objects.filter(take=take, casting_id=casting_id).values("labels", "cycle").first()
        marks: dict[str, Any] = dict(found or {})
        clip = clips.from_json({
            **marks,
            "curves": dict(Curve.objects.filter(take=take, casting_id=casting_id).values_list("channel", "keys")),
            "pending": dict(PendingPose.objects.filter(take=take, casting_id=casting_id).values_list("frame", "values")),
        })  # fmt: skip
        _recent.put(key, clip)
    return clip


def commit(
    take_id: int, casting_id: int, revision: int, user: Any, label: str, edit: Callable[[Clip], Outcome]
) -> Committed:
    """Applies an edit to the take's clip and stores the step, all or nothing.

    Raises
    ------
    Stale
        If ``revision`` is not the take's any more; nothing was stored.
    BadEdit
        If the edit cannot be made; nothing was stored.
    """
    with transaction.atomic():
        take = _locked(take_id, revision)
        before = open_clip(take, casting_id)
        outcome = edit(before)
        patch = difference(before, outcome.clip)
        if not patch:
            return Committed(take.revision, {}, outcome.notes or ("nothing changed by this",))
        step = Edit.objects.create(
            take=take, casting_id=casting_id, parent=take.head, user=user, label=label[:200], patch=patch.to_json()
        )
        take.head = take.tip = step
        _advance(take, [(step, True)], user)
        _store(take, casting_id, patch, outcome.clip)
        _remember(take, casting_id, outcome.clip)
        return Committed(take.revision, {casting_id: patch}, outcome.notes)


def go_to(take_id: int, revision: int, user: Any, target: Callable[[Take], Edit | None]) -> Committed:
    """Goes to the state after the step that ``target`` names (None: before the first), undoing and redoing on the way."""
    with transaction.atomic():
        take = _locked(take_id, revision)
        goal = target(take)
        back, forth = _way(take.head, goal)
        moves = [(step, False) for step in back] + [(step, True) for step in forth]
        if not moves:
            return Committed(take.revision, {})
        opened: dict[int, tuple[Clip, Clip]] = {}
        for step, forward in moves:
            before, now = opened.setdefault(step.casting_id, (open_clip(take, step.casting_id),) * 2)
            patch = patch_from_json(step.patch)
            opened[step.casting_id] = before, (patch if forward else patch.reversed()).apply(now)
        take.head = goal
        if forth and not _on_line(take.tip, goal):
            take.tip = goal
        _advance(take, moves, user)
        patches = {}
        for casting_id, (before, now) in opened.items():
            patches[casting_id] = difference(before, now)
            _store(take, casting_id, patches[casting_id], now)
            _remember(take, casting_id, now)
        return Committed(take.revision, patches)


def one_back(take: Take) -> Edit | None:
    if take.head is None:
        raise BadEdit("there is nothing to undo")
    return take.head.parent


def one_forth(take: Take) -> Edit | None:
    for step in line_to(take.tip):
        if step.parent_id == take.head_id:
            return step
    raise BadEdit("there is nothing to redo")


def since(take: Take, revision: int) -> list[Change]:
    """What happened after ``revision``, oldest first."""
    return list(
        Change.objects.filter(take=take, revision__gt=revision)
        .select_related("edit", "user")
        .order_by("revision", "id")
    )


def _locked(take_id: int, revision: int) -> Take:
    take = Take.objects.select_for_update().select_related("shot").get(pk=take_id)
    if take.revision != revision:
        steps = [
            {
                "label": c.edit.label,
                "done": c.forward,
                "by": c.user.get_username() if c.user else "",
                "revision": c.revision,
            }
            for c in since(take, revision)
        ]
        raise Stale(take.revision, steps)
    return take


def _advance(take: Take, moves: list[tuple[Edit, bool]], user: Any) -> None:
    take.revision += 1
    take.save(update_fields=["revision", "head", "tip", "changed_at"])
    take.shot.save(update_fields=["changed_at"])
    Change.objects.bulk_create(
        Change(take=take, revision=take.revision, edit=step, forward=forward, user=user) for step, forward in moves
    )
    label = f"{moves[-1][0].label}" if moves[-1][1] else f"Undo: {moves[-1][0].label}"
    notice = {"revision": take.revision, "label": label, "by": user.get_full_name() or user.get_username()}
    # Robust: the step is stored by now, and telling others of it must not make it look as if it were not.
    transaction.on_commit(lambda: announce(take.pk, {"type": "take.changed", **notice}), robust=True)


def announce(take_id: int, message: dict[str, Any]) -> None:
    """Tells everybody who has the take open. Losing it loses nothing: pages ask for what they missed."""
    layer = get_channel_layer()
    if layer is not None:
        async_to_sync(layer.group_send)(group_of(take_id), message)


def group_of(take_id: int) -> str:
    return f"take.{take_id}"


def _store(take: Take, casting_id: int, patch: Patch, clip: Clip) -> None:
    """Writes the curves and pending poses that ``patch`` changed, as they are in ``clip`` now."""
    gone = [channel for channel in patch.curves if channel not in clip.curves]
    rows = [
        Curve(take=take, casting_id=casting_id, channel=channel, keys=packed_rows(clip.curves[channel].table))
        for channel in patch.curves
        if channel in clip.curves
    ]
    if gone:
        Curve.objects.filter(take=take, casting_id=casting_id, channel__in=gone).delete()
    if rows:
        Curve.objects.bulk_create(rows, update_conflicts=True, update_fields=["keys"])
    for frame, (_, values) in patch.pending.items():
        if values:
            PendingPose.objects.update_or_create(
                take=take, casting_id=casting_id, frame=frame, defaults={"values": dict(values)}
            )
        else:
            PendingPose.objects.filter(take=take, casting_id=casting_id, frame=frame).delete()

    if patch.labels or patch.cycle is not None:
        data = clip.to_json_marks()
        ClipMarks.objects.update_or_create(take=take, casting_id=casting_id, defaults=data)


def line_to(step: Edit | None) -> list[Edit]:
    """The step and all before it, latest first."""
    if step is None:
        return []
    steps = Edit.objects.filter(take_id=step.take_id).defer("patch").in_bulk()
    line = []
    number: int | None = step.pk
    while number is not None:
        line.append(steps[number])
        number = steps[number].parent_id
    return line


def _way(head: Edit | None, goal: Edit | None) -> tuple[list[Edit], list[Edit]]:
    """The steps to undo, in that order, and then those to do."""
    line_here, line_there = line_to(head), line_to(goal)
    shared = {step.pk for step in line_here} & {step.pk for step in line_there}
    back = [step for step in line_here if step.pk not in shared]
    forth = [step for step in line_there if step.pk not in shared]
    return back, forth[::-1]


def _on_line(tip: Edit | None, goal: Edit | None) -> bool:
    return goal is None or any(step.pk == goal.pk for step in line_to(tip))


def copy_take(source: Take, name: str, user: Any) -> Take:
    """A new take with the motion and pending poses of another; its history begins anew."""
    with transaction.atomic():
        source = Take.objects.select_for_update().get(pk=source.pk)
        take = Take.objects.create(shot=source.shot, name=name, created_by=user)
        Curve.objects.bulk_create(
            Curve(take=take, casting_id=c.casting_id, channel=c.channel, keys=c.keys) for c in source.curves.all()
        )
        PendingPose.objects.bulk_create(
            PendingPose(take=take, casting_id=p.casting_id, frame=p.frame, values=p.values)
            for p in source.pending.all()
        )
        ClipMarks.objects.bulk_create(
            ClipMarks(take=take, casting_id=m.casting_id, labels=m.labels, cycle=m.cycle) for m in source.marks.all()
        )
    return take


def castings_of(take: Take) -> Iterable[Casting]:
    return take.shot.cast.select_related("version__character").all()
