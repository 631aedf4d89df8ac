"""Committing one step at a time, and going back and forth among them."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, field
from typing import Any

from asgiref.sync import async_to_sync
from channels.layers import get_channel_layer
from django.db import transaction

from hame.clip.clip import Clip, Patch, difference, patch_from_json
from hame.clip.curve import rows_of
from hame.edits.chosen import refuse_hidden
from hame.edits.outcome import Outcome
from hame.errors import BadEdit
from server.errors import Stale
from server.shots import clips, history
from server.shots.clips import forget, open_clip, open_clips
from server.shots.history import with_ends, without_patches
from server.shots.models import Casting, Change, Edit, Take

__all__ = [
    "Committed",
    "Missed",
    "commit",
    "copy_take",
    "forget",
    "go_to",
    "missed",
    "open_clip",
    "open_clips",
    "redo",
    "undo",
    "with_ends",
]

# How much may have happened since for a step to be made again on the head; beyond, the page catches up first.
MOST_MISSED_STEPS = 100
MOST_MISSED_KEYS = 40_000


@dataclass(frozen=True)
class Committed:
    """What a step did: per casting the patch that was applied and the clip now, and what to tell the person.

    ``caught_up`` is set where more has happened than this step since the revision that the page knew: then it needs
    all of that.
    """

    take: Take
    patches: dict[int, Patch]
    clips: dict[int, Clip] = field(default_factory=dict)
    notes: tuple[str, ...] = ()
    label: str = ""
    caught_up: bool = False


@dataclass(frozen=True)
class Missed:
    """One thing that happened to a take: a step done or undone, without its patch."""

    edit: int
    casting: int
    forward: bool
    size: int
    label: str
    user: int | None
    by: str
    revision: int

    def told(self) -> dict[str, Any]:
        return {"label": self.label, "done": self.forward, "by": self.by, "revision": self.revision}


def missed(take: Take, revision: int, most: int = MOST_MISSED_STEPS) -> list[Missed]:
    """What happened after ``revision``, oldest first: one more than ``most`` at the most."""
    rows = (
        Change.objects.filter(take=take, revision__gt=revision, revision__lte=take.revision)
        .order_by("revision", "id")
        .values_list(
            "edit_id", "edit__casting_id", "forward", "edit__size", "edit__label", "edit__user_id", "user__first_name",
            "user__last_name", "user__username", "revision",
        )[: most + 1]
    )  # fmt: skip
    return [
        Missed(edit, casting, forward, MOST_MISSED_KEYS // 20 if size is None else size, label, user,
               f"{first or ''} {last or ''}".strip() or name or "", at)
        for edit, casting, forward, size, label, user, first, last, name, at in rows
    ]  # fmt: skip


def much(happened: Sequence[Missed]) -> bool:
    """Whether it is more than is worth reading step by step."""
    return len(happened) > MOST_MISSED_STEPS or sum(m.size for m in happened) > MOST_MISSED_KEYS


def patches_of(happened: Iterable[Missed]) -> list[Patch]:
    """The patches of what happened, in its order, each the way it went."""
    listed = list(happened)
    found = dict(Edit.objects.filter(pk__in={m.edit for m in listed}).values_list("id", "patch"))
    read = {pk: patch_from_json(patch) for pk, patch in found.items()}
    return [read[m.edit] if m.forward else read[m.edit].reversed() for m in listed]


def commit(
    take_id: int, casting_id: int, revision: int, user: Any, label: str, edit: Callable[[Clip], Outcome],
    key: str | None = None,
) -> Committed:  # fmt: skip
    """Applies an edit to the take's clip and stores the step, all or nothing.

    An edit made on an older revision is made again on the take as it is now,
    if it does the same there. The same ``key`` again gets the same answer and
    makes no second step.

    Raises
    ------
    Stale
        If something that the edit read or wrote was changed after ``revision``; nothing was stored.
    BadEdit
        If the edit cannot be made; nothing was stored.
    """
    with transaction.atomic():
        take = _locked(take_id)
        done = _again(take, revision, user, key)
        if done is not None:
            return done
        _refuse_unknown(take, revision)
        before = clips.held(take, casting_id)
        if take.revision == revision:
            outcome = edit(before.clip)
        else:
            outcome = _rebased(take, casting_id, revision, before.clip, edit)
        caught_up = take.revision != revision
        patch = difference(before.clip, outcome.clip)
        if not patch:
            notes = outcome.notes or ("nothing changed by this",)
            return Committed(take, {}, {}, notes, label, caught_up)
        _add(take, casting_id, user, label, patch, outcome.notes, key)
        clips.keep(take, {casting_id: (before, outcome.clip, patch)})
        return Committed(take, {casting_id: patch}, {casting_id: outcome.clip}, outcome.notes, label, caught_up)


def _locked(take_id: int) -> Take:
    return Take.objects.select_for_update().get(pk=take_id)


def _refuse_unknown(take: Take, revision: int) -> None:
    if not 0 <= revision <= take.revision:
        raise BadEdit(f"this take has no revision {revision}; reload the page")


def _add(
    take: Take, casting_id: int, user: Any, label: str, patch: Patch, notes: Sequence[str], key: str | None,
    inverse_of: int | None = None,
) -> None:  # fmt: skip
    step = Edit.objects.create(
        take=take, casting_id=casting_id, parent_id=take.head_id, user=user, label=label[:200], patch=patch.to_json(),
        size=patch.size(), notes=list(notes), key=key, inverse_of_id=inverse_of,
    )  # fmt: skip
    take.head = take.tip = step
    _advance(take, [(step.pk, True, step.label)], user)


def _again(take: Take, revision: int, user: Any, key: str | None) -> Committed | None:
    """The answer of a step that was stored already under the same key; None for a new one."""
    if key is None:
        return None
    step = without_patches().filter(key=key).first()
    if step is None:
        change = Change.objects.filter(take=take, key=key).select_related("edit").defer("edit__patch").last()
        if change is None:
            return None
        label = change.edit.label if change.forward else f"Undone: {change.edit.label}"
        return Committed(take, {}, {}, (), label, caught_up=True)
    if step.take_id != take.pk or step.user_id != user.pk:
        raise BadEdit("a step of this key was made elsewhere; nothing was stored")
    at = Change.objects.filter(take=take, edit=step).order_by("id").values_list("revision", flat=True)[0]
    if at == take.revision == revision + 1:
        patch = patch_from_json(Edit.objects.values_list("patch", flat=True).get(pk=step.pk))
        clip = clips.held(take, step.casting_id).clip
        return Committed(take, {step.casting_id: patch}, {step.casting_id: clip}, tuple(step.notes), step.label)
    return Committed(take, {}, {}, tuple(step.notes), step.label, caught_up=True)


def _rebased(
    take: Take, casting_id: int, revision: int, now: Clip, edit: Callable[[Clip], Outcome]
) -> Outcome:  # fmt: skip
    """The edit made on the clip as it is now, if it does there what it did on the revision it was made on.

    An edit is a pure function of the clip: where it makes the same difference on both, nothing that it read or
    wrote was touched in between.
    """
    happened = missed(take, revision)
    mine = [m for m in happened if m.casting == casting_id]
    if not mine and len(happened) <= MOST_MISSED_STEPS:
        return edit(now)
    if much(happened):
        raise Stale(take.revision, [m.told() for m in happened[-20:]], [])
    patches = patches_of(mine)
    then = now
    for patch in reversed(patches):
        then = patch.reversed().apply(then)
    wished = difference(then, edit(then).clip)
    try:
        outcome = edit(now)
    except BadEdit:
        outcome = None
    if outcome is not None and _tells(difference(now, outcome.clip)) == _tells(wished):
        return outcome
    clash = [m.told() for m, patch in zip(mine, patches, strict=True) if _touch(patch, wished)] or [
        m.told() for m in mine
    ]
    raise Stale(take.revision, [m.told() for m in happened], clash)


def _tells(patch: Patch) -> Any:
    """What a patch does, in values that can be compared; computed handles follow from the keys and do not count."""
    return (
        {ch: (rows_of(rows.removed), rows_of(rows.added)) for ch, rows in patch.curves.items()},
        {f: (dict(old or {}), dict(new or {})) for f, (old, new) in patch.pending.items()},
        dict(patch.labels),
        patch.cycle,
    )


def _touch(a: Patch, b: Patch) -> bool:
    """Whether two patches have to do with the same: a channel, a frame that waits or is named, the cycle."""
    return bool(
        a.curves.keys() & b.curves.keys() or a.pending.keys() & b.pending.keys() or a.labels.keys() & b.labels.keys()
        or (a.cycle and b.cycle)
    )  # fmt: skip


# Going back and forth


def undo(take_id: int, revision: int, user: Any, key: str | None = None) -> Committed:
    """Takes back the last step, or where others have gone on since, the person's own last one, as a step of its own.

    Raises
    ------
    Stale
        If the person has gone on elsewhere after ``revision``: which step is the last would be a guess.
    BadEdit
        If there is nothing to take back, or others have changed what the step changed.
    """
    with transaction.atomic():
        take = _locked(take_id)
        done = _again(take, revision, user, key)
        if done is not None:
            return done
        _refuse_own(take, revision, user)
        with_ends(take)
        head = take.head
        if head is None:
            raise BadEdit("there is nothing to undo")
        if head.user_id in (user.pk, None) and not history.takes_back(head):
            return _go(take, head.parent_id, user, key, take.revision != revision)
        own = history.own_last(take, user)
        if own.undo is None:
            raise BadEdit("the last steps are other people's, and none of yours is near; the history goes to any step")
        return _inverse(take, own.undo, "Undo", user, key, take.revision != revision)


def redo(take_id: int, revision: int, user: Any, key: str | None = None) -> Committed:
    """Brings again what was undone last."""
    with transaction.atomic():
        take = _locked(take_id)
        done = _again(take, revision, user, key)
        if done is not None:
            return done
        _refuse_own(take, revision, user)
        with_ends(take)
        following = history.next_to(take)
        if following is not None:
            return _go(take, following, user, key, take.revision != revision, towards_tip=True)
        own = history.own_last(take, user)
        if own.redo is None:
            raise BadEdit("there is nothing to redo")
        return _inverse(take, own.redo, "Redo", user, key, take.revision != revision)


def go_to(take_id: int, revision: int, user: Any, goal: int | None, key: str | None = None) -> Committed:
    """Goes to the state after a step (None: before the first), undoing and redoing on the way.

    Raises
    ------
    Stale
        If the take has changed after ``revision``: it would be undone unseen.
    BadEdit
        If the step is not one of this take.
    """
    with transaction.atomic():
        take = _locked(take_id)
        done = _again(take, revision, user, key)
        if done is not None:
            return done
        _refuse_unknown(take, revision)
        if take.revision != revision:
            happened = missed(take, revision)
            raise Stale(take.revision, [m.told() for m in happened[-20:]], [m.told() for m in happened[-3:]])
        if goal is not None and not Edit.objects.filter(take=take, pk=goal).exists():
            raise BadEdit("this step does not belong to this take")
        return _go(take, goal, user, key, False)


def _refuse_own(take: Take, revision: int, user: Any) -> None:
    _refuse_unknown(take, revision)
    if take.revision == revision:
        return
    happened = missed(take, revision)
    own = [m.told() for m in happened if m.user == user.pk]
    if own or len(happened) > MOST_MISSED_STEPS:
        raise Stale(take.revision, [m.told() for m in happened[-20:]], own)


def _go(
    take: Take, goal: int | None, user: Any, key: str | None, caught_up: bool, towards_tip: bool = False
) -> Committed:
    """Moves the head of a locked take to a step of it, which is known to lie ``towards_tip`` or is looked for."""
    moves = _moves(take, goal)
    if not moves:
        return Committed(take, {})
    before: dict[int, clips.Held] = {}
    now: dict[int, Clip] = {}
    labels: list[tuple[int, bool, str]] = []
    for some in (moves[n : n + 50] for n in range(0, len(moves), 50)):  # patches can be long: not all at once
        steps = Edit.objects.in_bulk([pk for pk, _ in some])
        for pk, forward in some:
            step = steps[pk]
            of = step.casting_id
            if of not in before:
                before[of] = clips.held(take, of)
                now[of] = before[of].clip
            patch = patch_from_json(step.patch)
            now[of] = (patch if forward else patch.reversed()).apply(now[of])
            labels.append((pk, forward, step.label))
    take.head_id = goal  # type: ignore[assignment]
    if moves[-1][1] and not towards_tip and goal not in history.line_to(take.tip_id, take.pk):
        take.tip_id = goal  # type: ignore[assignment]
    _advance(take, labels, user, key)
    changes = {of: (held, now[of], difference(held.clip, now[of])) for of, held in before.items()}
    clips.keep(take, changes)
    last, forward, label = labels[-1]
    told = f"{'Redone' if forward else 'Undone'}: {label}" if len(labels) == 1 else "Went to a step of the history"
    return Committed(take, {of: patch for of, (_, _, patch) in changes.items()}, now, (), told, caught_up)


def _moves(take: Take, goal: int | None) -> list[tuple[int, bool]]:
    """The steps to undo, in that order, and then those to do, to come from the head to ``goal``."""
    if goal == take.head_id:
        return []
    if take.head is not None and goal == take.head.parent_id:  # one back: as near as it gets
        return [(take.head.pk, False)]
    if goal is not None and Edit.objects.filter(pk=goal, parent_id=take.head_id).exists():  # one forth
        return [(goal, True)]
    here, there = history.line_to(take.head_id, take.pk), history.line_to(goal, take.pk)
    shared = set(here) & set(there)
    back = [(pk, False) for pk in here if pk not in shared]
    return back + [(pk, True) for pk in reversed(there) if pk not in shared]


def _inverse(take: Take, step_id: int, way: str, user: Any, key: str | None, caught_up: bool) -> Committed:
    """Commits a step that takes another one back although more has happened since."""
    step = Edit.objects.get(pk=step_id)
    name = step.label.split(": ", 1)[-1] if step.inverse_of_id is not None else step.label
    back = patch_from_json(step.patch).reversed()
    before = clips.held(take, step.casting_id)
    if not _stands(before.clip, back):
        after = without_patches().filter(take=take, casting_id=step.casting_id, id__gt=step_id).exclude(user=user)
        others = [
            f"{other.user.get_full_name() or other.user.get_username() if other.user else 'somebody'}'s “{other.label}”"
            for other in after.select_related("user").order_by("-id")[:3]
        ]
        raise BadEdit(
            f"your last step, “{name}”, cannot be taken back by itself: what it changed has been changed since, "
            f"perhaps by {' or '.join(others) or 'a later step'}. Nothing was undone; the history goes back to any step"
        )
    clip = back.apply(before.clip)
    refuse_hidden(clip)
    patch = difference(before.clip, clip)
    notes = (f"others have gone on since: only your own step was {'taken back' if way == 'Undo' else 'made again'}",)
    _add(take, step.casting_id, user, f"{way}: {name}", patch, notes, key, inverse_of=step_id)
    clips.keep(take, {step.casting_id: (before, clip, patch)})
    told = f"{'Undone' if way == 'Undo' else 'Redone'}: {name}"
    return Committed(take, {step.casting_id: patch}, {step.casting_id: clip}, notes, told, caught_up)


def _stands(clip: Clip, patch: Patch) -> bool:
    """Whether all that a patch takes away is there, and nothing where it lays something new."""
    for channel, rows in patch.curves.items():
        there = {row[0]: row for row in rows_of(clip.curves[channel].table)} if channel in clip.curves else {}
        gone = {row[0]: row for row in rows_of(rows.removed)}
        frames = gone.keys() | {row[0] for row in rows_of(rows.added)}
        if any(there.get(frame) != gone.get(frame) for frame in frames):
            return False
    return (
        all(dict(clip.pending.get(f, {})) == dict(old or {}) for f, (old, _) in patch.pending.items())
        and all(clip.labels.get(f) == old for f, (old, _) in patch.labels.items())
        and (patch.cycle is None or clip.cycle == patch.cycle[0])
    )


def _advance(take: Take, moves: list[tuple[int, bool, str]], user: Any, key: str | None = None) -> None:
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
    send_to(group_of(take_id), message)


def send_to(group: str, message: dict[str, Any]) -> None:
    layer = get_channel_layer()
    if layer is not None:
        async_to_sync(layer.group_send)(group, message)


def group_of(take_id: int) -> str:
    return f"take.{take_id}"


def copy_take(source: Take, name: str, user: Any) -> Take:
    """A new take with the motion and pending poses of another; its history begins anew."""
    with transaction.atomic():
        source = _locked(source.pk)
        take = Take.objects.create(shot=source.shot, name=name, created_by=user)
        for casting in castings_of(source):
            clips.store_snapshot(take, casting.pk, Clip(), clips.held(source, casting.pk).clip)
    return take


def castings_of(take: Take) -> Iterable[Casting]:
    return take.shot.cast.select_related("version__character").all()
