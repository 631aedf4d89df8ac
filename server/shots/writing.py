"""Writing steps: the take locked, one added to its line, its revision raised, and others told of it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from django.db import transaction
from django.http import Http404

from hame.clip.clip import Patch
from hame.clip.spans import Reach
from server.shots.models import Change, Difference, Edit, RateChange, Take
from server.telling import tell


def locked(take_id: int) -> Take:
    """The take, locked; raises :class:`Http404` if it was deleted meanwhile."""
    take = Take.objects.select_for_update().filter(pk=take_id).first()
    if take is None:
        raise Http404
    return take


def add(
    take: Take, user: Any, label: str, patches: Mapping[int, Patch], notes: Sequence[str], key: str | None,
    inverse_of: int | None = None, moved_time: Reach | None = None, rate: RateChange | None = None,
    instead: Edit | None = None,
) -> None:  # fmt: skip
    """Adds a step after the head of a locked take, or in place of the step ``instead``, which is the head."""
    after = take.head_id if instead is None else instead.parent_id
    step = Edit.objects.create(
        take=take, parent_id=after, user=user, label=label[:200], notes=list(notes), key=key,
        inverse_of_id=inverse_of, moved_time=moved_time, rate=rate,
    )  # fmt: skip
    Difference.objects.bulk_create(
        Difference(edit=step, casting_id=casting, patch=patch.to_json(), size=patch.size())
        for casting, patch in patches.items()
    )
    take.head = take.tip = step
    before = [] if instead is None else [(instead.pk, False, instead.label)]
    if instead is not None:
        Edit.objects.filter(pk=instead.pk).update(remade=True)
    # Taking it back belongs to the same step, for whoever has gone on after that meanwhile.
    advance(take, [*before, (step.pk, True, step.label)], user, key if before else None)


def advance(take: Take, moves: list[tuple[int, bool, str]], user: Any, key: str | None = None) -> None:
    """Raises the revision of a locked take, by steps that were done or undone: number, whether done, and label."""
    take.revision += 1
    take.save(update_fields=["revision", "head", "tip", "changed_at"])
    Change.objects.bulk_create(
        Change(take=take, revision=take.revision, edit_id=step, forward=forward, user=user, key=key)
        for step, forward, _ in moves
    )
    _, forward, label = moves[-1]
    told = {
        "revision": take.revision,
        "label": label if forward else f"Undo: {label}",
        "by": user.get_full_name() or user.get_username(),
    }
    # Robust: the step is stored by now, and telling others of it must not make it look as if it were not.
    take_id = take.pk
    transaction.on_commit(lambda: announce(take_id, {"type": "take.changed", **told}), robust=True)


def announce(take_id: int, message: dict[str, Any]) -> None:
    """Tells everybody who has the take open. Losing it loses nothing: pages ask for what they missed."""
    tell(group_of(take_id), message)


def group_of(take_id: int) -> str:
    return f"take.{take_id}"
