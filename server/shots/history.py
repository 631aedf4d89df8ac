"""The line of steps of a take: which lead where, and which is a person's own last one. No difference is read here."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from server.shots.models import Edit, Take

FAR = 500  # steps: so far back a person's own last step is looked for


def with_ends(take: Take) -> Take:
    """The take with its head and tip at hand."""
    if _at_hand(take, "head") and _at_hand(take, "tip"):
        return take
    ends = Edit.objects.select_related("inverse_of")
    found = ends.in_bulk({pk for pk in (take.head_id, take.tip_id) if pk is not None})
    take.head, take.tip = found.get(take.head_id or 0), found.get(take.tip_id or 0)
    return take


def _at_hand(take: Take, end: str) -> bool:
    """Whether an end of the line is known, with what it takes back."""
    if getattr(take, f"{end}_id") is None:
        return True
    step = take._state.fields_cache.get(end)
    return isinstance(step, Edit) and (step.inverse_of_id is None or "inverse_of" in step._state.fields_cache)


def takes_back(step: Edit | None) -> bool:
    """Whether a step takes another one back (and does not bring one again)."""
    return step is not None and step.inverse_of is not None and step.inverse_of.inverse_of_id is None


def can_redo(take: Take) -> bool:
    """Whether there is something to redo in a take with its ends at hand."""
    return take.tip_id is not None and (take.tip_id != take.head_id or takes_back(take.head))


def line_to(step_id: int | None, take_id: int) -> list[int]:
    """The numbers of a step and all before it, latest first."""
    parents = dict(Edit.objects.filter(take_id=take_id).values_list("id", "parent_id")) if step_id else {}
    line: list[int] = []
    at = step_id
    while at is not None:
        line.append(at)
        at = parents[at]
    return line


def next_to(take: Take) -> int | None:
    """The step that redo leads to: of those that follow the head, the one on the way to the tip."""
    if take.tip_id == take.head_id or take.tip_id is None:
        return None
    following = list(Edit.objects.filter(take_id=take.pk, parent_id=take.head_id).values_list("id", flat=True)[:2])
    if len(following) == 1:
        return following[0]
    line = line_to(take.tip_id, take.pk)
    at = len(line) if take.head_id is None else line.index(take.head_id) if take.head_id in line else 0
    return line[at - 1] if at else None


@dataclass(frozen=True)
class Own:
    """A person's own last steps on the line of a take: one that undo takes back, one that redo brings again."""

    undo: int | None
    redo: int | None


def own_last(take: Take, user: Any) -> Own:
    """What of a person's own steps stands last, looking past those of others and those taken back already."""
    rows = {
        pk: (parent, by, inverse)
        for pk, parent, by, inverse in Edit.objects.filter(take_id=take.pk, id__lte=take.head_id or 0)
        .order_by("-id")
        .values_list("id", "parent_id", "user_id", "inverse_of_id")[:FAR]
    }
    targets = {inverse for _, _, _, inverse in ((0, *row) for row in rows.values()) if inverse is not None}
    again = set(
        Edit.objects.filter(pk__in=targets, inverse_of__isnull=False).values_list("id", flat=True)
    )  # inverses that were taken back themselves: what takes those back brings something again
    cancelled: set[int] = set()
    redo: int | None = None
    at = take.head_id
    while at is not None and at in rows:
        parent, by, inverse = rows[at]
        if at not in cancelled:
            if inverse is not None:
                cancelled.add(inverse)
                if by == user.pk and redo is None and inverse not in again:
                    redo = at
            elif by == user.pk:
                return Own(at, redo)
        at = parent
    return Own(None, redo)
