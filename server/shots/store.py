"""Committing one step at a time, and going back and forth among them."""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

from django.db import transaction

from hame.clip.clip import Clip, Patch, difference, patch_from_json
from hame.edits.chosen import refuse_hidden
from hame.edits.making import Made
from hame.errors import BadEdit
from hame.scene.scene import Scene
from server.errors import Stale
from server.shots import clips, history
from server.shots.clips import forget, open_clip, open_clips
from server.shots.history import with_ends
from server.shots.models import Casting, Change, Difference, Edit, Take
from server.shots.scenes import Cast, asked_of
from server.telling import tell

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
    """One thing that happened to a take: a step done or undone, without its differences.

    ``castings`` are those whose clips it changed, with how much each difference holds.
    """

    edit: int
    forward: bool
    castings: Mapping[int, int]
    label: str
    user: int | None
    by: str
    revision: int

    def told(self) -> dict[str, Any]:
        return {"label": self.label, "done": self.forward, "by": self.by, "revision": self.revision}


def missed(take: Take, revision: int, most: int = MOST_MISSED_STEPS) -> list[Missed]:
    """What happened after ``revision``, oldest first: one more than ``most`` at the most."""
    rows = list(
        Change.objects.filter(take=take, revision__gt=revision, revision__lte=take.revision)
        .order_by("revision", "id")
        .values_list(
            "edit_id", "forward", "edit__label", "edit__user_id", "user__first_name", "user__last_name",
            "user__username", "revision",
        )[: most + 1]
    )  # fmt: skip
    sizes: dict[int, dict[int, int]] = {}
    told = Difference.objects.filter(edit__in={row[0] for row in rows}).values_list("edit_id", "casting_id", "size")
    for edit, casting, size in told if rows else ():
        sizes.setdefault(edit, {})[casting] = size
    return [
        Missed(edit, forward, sizes.get(edit, {}), label, user, f"{first or ''} {last or ''}".strip() or name or "", at)
        for edit, forward, label, user, first, last, name, at in rows
    ]


def much(happened: Sequence[Missed]) -> bool:
    """Whether it is more than is worth reading step by step."""
    return len(happened) > MOST_MISSED_STEPS or sum(sum(m.castings.values()) for m in happened) > MOST_MISSED_KEYS


def patches_of(happened: Iterable[Missed]) -> list[dict[int, Patch]]:
    """By casting, the patches of what happened, in its order, each the way it went."""
    listed = list(happened)
    read = _patches({m.edit for m in listed})
    return [read[m.edit] if m.forward else _reversed(read[m.edit]) for m in listed]


def _patches(edits: Collection[int]) -> dict[int, dict[int, Patch]]:
    """By step and casting, what the steps changed."""
    found: dict[int, dict[int, Patch]] = {edit: {} for edit in edits}
    stored = Difference.objects.filter(edit__in=edits).values_list("edit_id", "casting_id", "patch")
    for edit, casting, patch in stored:
        found[edit][casting] = patch_from_json(patch)
    return found


def _reversed(patches: Mapping[int, Patch]) -> dict[int, Patch]:
    return {casting: patch.reversed() for casting, patch in patches.items()}


def commit(
    take_id: int, cast: Cast, revision: int, user: Any, label: str, make: Callable[[Scene], Made],
    key: str | None = None,
) -> Committed:  # fmt: skip
    """Makes an edit on the scene of a take and stores the step, all or nothing.

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
        before: dict[int, clips.Held] = {}
        scene = cast.scene(lambda casting: _held(take, casting, before).clip)
        made = make(scene) if take.revision == revision else _rebased(take, cast, scene, revision, make)
        caught_up = take.revision != revision
        patches = {c: difference(_held(take, c, before).clip, clip) for c, clip in made.clips.items()}
        patches = {c: patch for c, patch in patches.items() if patch}
        if not patches:
            return Committed(take, {}, {}, made.notes or ("nothing changed by this",), label, caught_up)
        _add(take, user, label, patches, made.notes, key)
        now = {c: made.clips[c] for c in patches}
        clips.keep(take, {c: (before[c], now[c], patch) for c, patch in patches.items()})
        return Committed(take, patches, now, made.notes, label, caught_up)


def _held(take: Take, casting: int, opened: dict[int, clips.Held]) -> clips.Held:
    if casting not in opened:
        opened[casting] = clips.held(take, casting)
    return opened[casting]


def _locked(take_id: int) -> Take:
    return Take.objects.select_for_update().get(pk=take_id)


def _refuse_unknown(take: Take, revision: int) -> None:
    if not 0 <= revision <= take.revision:
        raise BadEdit(f"this take has no revision {revision}; reload the page")


def _add(
    take: Take, user: Any, label: str, patches: Mapping[int, Patch], notes: Sequence[str], key: str | None,
    inverse_of: int | None = None,
) -> None:  # fmt: skip
    step = Edit.objects.create(
        take=take, parent_id=take.head_id, user=user, label=label[:200], notes=list(notes), key=key,
        inverse_of_id=inverse_of,
    )  # fmt: skip
    Difference.objects.bulk_create(
        Difference(edit=step, casting_id=casting, patch=patch.to_json(), size=patch.size())
        for casting, patch in patches.items()
    )
    take.head = take.tip = step
    _advance(take, [(step.pk, True, step.label)], user)


def _again(take: Take, revision: int, user: Any, key: str | None) -> Committed | None:
    """The answer of a step that was stored already under the same key; None for a new one."""
    if key is None:
        return None
    step = Edit.objects.filter(key=key).first()
    if step is None:
        change = Change.objects.filter(take=take, key=key).select_related("edit").last()
        if change is None:
            return None
        label = change.edit.label if change.forward else f"Undone: {change.edit.label}"
        return Committed(take, {}, {}, (), label, caught_up=True)
    if step.take_id != take.pk or step.user_id != user.pk:
        raise BadEdit("a step of this key was made elsewhere; nothing was stored")
    at = Change.objects.filter(take=take, edit=step).order_by("id").values_list("revision", flat=True)[0]
    if at == take.revision == revision + 1:
        patches = _patches([step.pk])[step.pk]
        now = {casting: clips.held(take, casting).clip for casting in patches}
        return Committed(take, patches, now, tuple(step.notes), step.label)
    return Committed(take, {}, {}, tuple(step.notes), step.label, caught_up=True)


def _rebased(take: Take, cast: Cast, now: Scene, revision: int, make: Callable[[Scene], Made]) -> Made:
    """The edit made on the scene as it is now, if it does there what it did on the revision it was made on.

    An edit is a pure function of the scene: where it makes the same difference on both, nothing that it read or
    wrote was touched in between.
    """
    happened = missed(take, revision)
    refused: BadEdit | None = None
    made: Made | None = None
    try:
        made = make(now)
    except BadEdit as error:
        refused = error
    mine = [m for m in happened if m.castings.keys() & asked_of(now)]
    if not mine and len(happened) <= MOST_MISSED_STEPS:
        if made is None:
            raise refused or BadEdit("the edit cannot be made")
        return made
    if much(happened):
        raise Stale(take.revision, [m.told() for m in happened[-20:]], [])
    patches = patches_of(happened)

    def clip_then(casting: int) -> Clip:
        clip = now.figure(casting).clip
        for patch in reversed([p[casting] for p in patches if casting in p]):
            clip = patch.reversed().apply(clip)
        return clip

    then = cast.scene(clip_then)
    wished = _differences(then, make(then))
    if made is not None and _the_same(_differences(now, made), wished):
        return made
    clash = [
        m.told()
        for m, was in zip(happened, patches, strict=True)
        if any(casting in was and was[casting].touches(patch) for casting, patch in wished.items())
    ]
    raise Stale(take.revision, [m.told() for m in happened], clash or [m.told() for m in mine])


def _differences(scene: Scene, made: Made) -> dict[int, Patch]:
    found = {casting: difference(scene.figure(casting).clip, clip) for casting, clip in made.clips.items()}
    return {casting: patch for casting, patch in found.items() if patch}


def _the_same(a: Mapping[int, Patch], b: Mapping[int, Patch]) -> bool:
    return a.keys() == b.keys() and all(patch.says_the_same(b[casting]) for casting, patch in a.items())


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
        patches = _patches(steps)
        for pk, forward in some:
            for of, patch in (patches[pk] if forward else _reversed(patches[pk])).items():
                now[of] = patch.apply(now.get(of) or _held(take, of, before).clip)
            labels.append((pk, forward, steps[pk].label))
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
    back = _reversed(_patches([step_id])[step_id])
    before = {casting: clips.held(take, casting) for casting in back}
    if not all(patch.stands_on(before[casting].clip) for casting, patch in back.items()):
        after = Edit.objects.filter(take=take, differences__casting__in=back, id__gt=step_id).exclude(user=user)
        others = [
            f"{other.user.get_full_name() or other.user.get_username() if other.user else 'somebody'}'s “{other.label}”"
            for other in after.distinct().select_related("user").order_by("-id")[:3]
        ]
        raise BadEdit(
            f"your last step, “{name}”, cannot be taken back by itself: what it changed has been changed since, "
            f"perhaps by {' or '.join(others) or 'a later step'}. Nothing was undone; the history goes back to any step"
        )
    now = {casting: patch.apply(before[casting].clip) for casting, patch in back.items()}
    for clip in now.values():
        refuse_hidden(clip)
    patches = {casting: difference(before[casting].clip, clip) for casting, clip in now.items()}
    notes = (f"others have gone on since: only your own step was {'taken back' if way == 'Undo' else 'made again'}",)
    _add(take, user, f"{way}: {name}", patches, notes, key, inverse_of=step_id)
    clips.keep(take, {c: (before[c], now[c], patch) for c, patch in patches.items()})
    told = f"{'Undone' if way == 'Undo' else 'Redone'}: {name}"
    return Committed(take, patches, now, notes, told, caught_up)


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
    tell(group_of(take_id), message)


def group_of(take_id: int) -> str:
    return f"take.{take_id}"


def clips_at(take: Take, step: int | None, castings: Collection[int]) -> dict[int, Clip]:
    """The clips of some castings as they were after a step of the take's history (None: before the first).

    Raises
    ------
    BadEdit
        If the step is not one of this take.
    """
    with clips.one_moment():
        take.refresh_from_db(fields=["revision", "head", "tip"])
        if step is not None and not Edit.objects.filter(take=take, pk=step).exists():
            raise BadEdit("this step does not belong to this take")
        found = {casting: clips.held(take, casting).clip for casting in castings}
        moves = _moves(take, step)
        for some in (moves[n : n + 50] for n in range(0, len(moves), 50)):
            patches = _patches([pk for pk, _ in some])
            for pk, forward in some:
                for of, patch in (patches[pk] if forward else _reversed(patches[pk])).items():
                    if of in found:
                        found[of] = patch.apply(found[of])
        return found


def copy_take(source: Take, name: str, user: Any) -> Take:
    """A new take with the motion and pending poses of another; its history begins anew."""
    with transaction.atomic():
        source = _locked(source.pk)
        take = Take.objects.create(shot=source.shot, name=name, created_by=user, paths=source.paths)
        for casting in source.shot.cast.all():
            clips.store_snapshot(take, casting.pk, Clip(), clips.held(source, casting.pk).clip)
    return take


def castings_of(take: Take) -> Iterable[Casting]:
    """Those who play, without those taken out."""
    return take.shot.cast.filter(taken_out_at=None).select_related("version__character")
