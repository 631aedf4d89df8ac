"""Committing one step at a time, and going back and forth among them."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass, field
from typing import Any

from asgiref.sync import async_to_sync
from channels.layers import get_channel_layer
from django.db import transaction
from django.db.models import QuerySet

from hame.clip.clip import Clip, Patch, difference, patch_from_json
from hame.edits.outcome import Outcome
from hame.errors import BadEdit
from server.errors import Stale
from server.shots import clips
from server.shots.clips import forget, open_clip
from server.shots.models import Casting, Change, Edit, Take

__all__ = [
    "Committed",
    "commit",
    "copy_take",
    "forget",
    "go_to",
    "one_back",
    "one_forth",
    "open_clip",
    "since",
    "with_ends",
]


@dataclass(frozen=True)
class Committed:
    """What a step did: per casting the patch that was applied and the clip now, and what to tell the person."""

    take: Take
    patches: dict[int, Patch]
    clips: dict[int, Clip] = field(default_factory=dict)
    notes: tuple[str, ...] = ()


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
        before = clips.held(take, casting_id)
        outcome = edit(before.clip)
        patch = difference(before.clip, outcome.clip)
        if not patch:
            return Committed(take, {}, {}, outcome.notes or ("nothing changed by this",))
        step = Edit.objects.create(
            take=take,
            casting_id=casting_id,
            parent_id=take.head_id,
            user=user,
            label=label[:200],
            patch=patch.to_json(),
        )
        take.head = take.tip = step
        _advance(take, [(step, True)], user)
        clips.keep(take, casting_id, before, outcome.clip, patch)
        return Committed(take, {casting_id: patch}, {casting_id: outcome.clip}, outcome.notes)


def go_to(take_id: int, revision: int, user: Any, target: Callable[[Take], Edit | None]) -> Committed:
    """Goes to the state after the step that ``target`` names (None: before the first), undoing and redoing on the way."""
    with transaction.atomic():
        take = with_ends(_locked(take_id, revision))
        goal = target(take)
        back, forth = _way(take.head, goal)
        moves = [(step, False) for step in back] + [(step, True) for step in forth]
        if not moves:
            return Committed(take, {})
        opened: dict[int, clips.Held] = {}
        now: dict[int, Clip] = {}
        for step, forward in moves:
            of = step.casting_id
            if of not in opened:
                opened[of] = clips.held(take, of)
                now[of] = opened[of].clip
            patch = patch_from_json(step.patch)
            now[of] = (patch if forward else patch.reversed()).apply(now[of])
        take.head = goal
        if forth and not _on_line(take.tip, goal):
            take.tip = goal
        _advance(take, moves, user)
        patches = {}
        for casting_id, before in opened.items():
            patches[casting_id] = difference(before.clip, now[casting_id])
            clips.keep(take, casting_id, before, now[casting_id], patches[casting_id])
        return Committed(take, patches, now)


def one_back(take: Take) -> Edit | None:
    if take.head is None:
        raise BadEdit("there is nothing to undo")
    before = take.head.parent_id
    return None if before is None else _without_patches().get(pk=before)


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


def _without_patches() -> QuerySet[Edit]:
    """Steps without their patches, which can be long and are seldom needed."""
    return Edit.objects.defer("patch")


def with_ends(take: Take) -> Take:
    """The take with its head and tip at hand, without their patches."""
    ends = _without_patches().in_bulk({pk for pk in (take.head_id, take.tip_id) if pk is not None})
    take.head, take.tip = ends.get(take.head_id or 0), ends.get(take.tip_id or 0)
    return take


def _locked(take_id: int, revision: int) -> Take:
    take = Take.objects.select_for_update().get(pk=take_id)
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


def line_to(step: Edit | None) -> list[Edit]:
    """The step and all before it, latest first."""
    if step is None:
        return []
    steps = _without_patches().filter(take_id=step.take_id).in_bulk()
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
        for casting in castings_of(source):
            clips.store_snapshot(take, casting.pk, Clip(), clips.open_clip(source, casting.pk))
    return take


def castings_of(take: Take) -> Iterable[Casting]:
    return take.shot.cast.select_related("version__character").all()
