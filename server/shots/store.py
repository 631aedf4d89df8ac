"""Committing one step at a time, and going back and forth among them."""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterable
from dataclasses import dataclass, field
from typing import Any

from django.db import transaction

from hame.clip.clip import Clip, Patch, difference
from hame.clip.spans import Reach
from hame.edits.chosen import refuse_hidden
from hame.edits.making import Made
from hame.edits.rings import refuse_rings
from hame.errors import BadEdit
from hame.scene.scene import Scene
from server.errors import Stale
from server.shots import clips, history
from server.shots.ahead import Ahead
from server.shots.clips import forget, open_clip, open_clips
from server.shots.history import with_ends
from server.shots.models import Casting, Change, Edit, Take
from server.shots.rates import cross
from server.shots.scenes import Cast, cast_of
from server.shots.since import MOST_MISSED_STEPS, Basis, missed, patches_by_step, rebased, reversed_by_figure
from server.shots.writing import add, advance, announce, group_of, locked

__all__ = [
    "Basis",
    "Committed",
    "announce",
    "commit",
    "copy_take",
    "forget",
    "go_to",
    "group_of",
    "named",
    "open_clip",
    "open_clips",
    "redo",
    "undo",
    "with_ends",
]


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


def commit(
    take_id: int, cast: Cast, basis: Basis, user: Any, label: str | Callable[[Scene], str],
    make: Callable[[Scene], Made], key: str | None = None, moved_time: Reach | None = None,
    ahead: Ahead | None = None, instead: str | None = None, away: bool = False,
) -> Committed:  # fmt: skip
    """Makes an edit on the scene of a take and stores the step, all or nothing.

    An edit made on an older take is made again on the take as it is now, if it
    means the same there (:func:`server.shots.since.rebased`). The same ``key``
    again gets the same answer and makes no second step. ``moved_time`` are the
    frames of which what lay there lies elsewhere by it. ``ahead`` is what it was
    found to do before: where the take is what it was then, that is stored, and
    others are locked out only for as long as that takes. One that goes ``away`` is not made in any other way: it would
    lock them out for seconds. With ``instead`` it takes the place of the step of that name,
    which has to be the last one and the person's own: made on what was before that, and undone as one.

    Raises
    ------
    Stale
        If others have changed something that the edit read or wrote; nothing was stored.
    BadEdit
        If the edit cannot be made; nothing was stored.
    """
    with transaction.atomic():
        take = locked(take_id)
        take.shot = cast.shot
        done = _again(take, basis, user, key)
        if done is not None:
            return done
        _refuse_unknown(take, basis)
        before: dict[int, clips.Held] = {}
        if instead is not None:
            return _remade(take, cast, basis, user, label, make, key, moved_time, instead)
        scene = cast.scene(lambda casting: _held(take, casting, before).clip)
        if ahead is not None and ahead.revision == take.revision == stands_at(take, basis, user):
            made = ahead.on(lambda casting: _held(take, casting, before).clip)
        elif away:
            others = [m.told() for m in missed(take, basis.revision) if not m.belongs(basis, user)]
            raise Stale(take.revision, others[-20:], others[-3:])
        elif take.revision == basis.revision:
            made = make(scene)
        else:
            made = rebased(take, cast, scene, basis, user, make)
        name = label if isinstance(label, str) else label(scene)  # of an edit that could be made
        caught_up = take.revision != basis.known
        patches = {c: difference(_held(take, c, before).clip, clip) for c, clip in made.clips.items()}
        patches = {c: patch for c, patch in patches.items() if patch}
        if not patches:
            return Committed(take, {}, {}, made.notes or ("nothing changed by this",), name, caught_up)
        add(take, user, name, patches, made.notes, key, moved_time=moved_time)
        now = {c: made.clips[c] for c in patches}
        clips.keep(take, {c: (before[c], now[c], patch) for c, patch in patches.items()})
        return Committed(take, patches, now, made.notes, name, caught_up)


def stands_at(take: Take, basis: Basis, user: Any) -> int:
    """The revision up to which nobody has changed a take but who makes a step: that on which it may be made ahead."""
    if take.revision == basis.revision or all(m.belongs(basis, user) for m in missed(take, basis.revision)):
        return take.revision
    return basis.revision


def _remade(
    take: Take, cast: Cast, basis: Basis, user: Any, label: str | Callable[[Scene], str],
    make: Callable[[Scene], Made], key: str | None, moved_time: Reach | None, instead: str,
) -> Committed:  # fmt: skip
    """Commits a step of a locked take in place of its last one."""
    held: dict[int, clips.Held] = {}
    old, stood = before_last(take, user, instead)
    scene = cast.scene(lambda casting: stood.get(casting) or _held(take, casting, held).clip)
    made = make(scene)
    name = label if isinstance(label, str) else label(scene)
    now = {**stood, **made.clips}
    before = {casting: _held(take, casting, held) for casting in now}
    own = {c: difference(stood.get(c) or before[c].clip, clip) for c, clip in now.items()}
    own = {casting: patch for casting, patch in own.items() if patch}
    add(take, user, name, own, made.notes, key, moved_time=moved_time, instead=old)
    patches = {c: difference(before[c].clip, clip) for c, clip in now.items()}
    clips.keep(take, {c: (before[c], now[c], patch) for c, patch in patches.items()})
    return Committed(take, patches, now, made.notes, name, take.revision - 1 != basis.known)


def before_last(take: Take, user: Any, key: str) -> tuple[Edit, dict[int, Clip]]:
    """The last step of a take, and the clips that it changed as they were before it.

    Raises
    ------
    BadEdit
        If the last step is not the person's own of that name.
    """
    last = with_ends(take).head
    if last is None or last.key != key or last.user_id != user.pk or last.rate_id is not None:
        raise BadEdit("more has been done since, so the amount of that step is settled. Nothing was changed")
    back = reversed_by_figure(patches_by_step([last.pk])[last.pk])
    return last, {casting: patch.apply(clips.held(take, casting).clip) for casting, patch in back.items()}


def as_before_last(take: Take, user: Any, key: str) -> dict[int, Clip]:
    """The clips that the last step of a take changed as they were before it; see :func:`before_last`."""
    with clips.one_moment():
        take.refresh_from_db(fields=["revision", "head", "tip"])
        return before_last(take, user, key)[1]


def _held(take: Take, casting: int, opened: dict[int, clips.Held]) -> clips.Held:
    if casting not in opened:
        opened[casting] = clips.held(take, casting)
    return opened[casting]


def _refuse_unknown(take: Take, basis: Basis) -> None:
    for revision in (basis.revision, basis.known):
        if not 0 <= revision <= take.revision:
            raise BadEdit(f"this take has no revision {revision}; reload the page")


def named(take: Take, user: Any, key: str) -> str | None:
    """The label of a step that a person stored under a name; None where there is none."""
    label = Edit.objects.filter(take=take, user=user, key=key).values_list("label", flat=True).first()
    if label is None:
        change = Change.objects.filter(take=take, user=user, key=key).select_related("edit").last()
        label = None if change is None else change.edit.label
    return label


def _again(take: Take, basis: Basis, user: Any, key: str | None) -> Committed | None:
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
    if at == take.revision == basis.known + 1:
        patches = patches_by_step([step.pk])[step.pk]
        now = {casting: clips.held(take, casting).clip for casting in patches}
        return Committed(take, patches, now, tuple(step.notes), step.label)
    return Committed(take, {}, {}, tuple(step.notes), step.label, caught_up=True)


# Going back and forth


def undo(take_id: int, basis: Basis, user: Any, key: str | None = None) -> Committed:
    """Takes back the last step, or where others have gone on since, the person's own last one, as a step of its own.

    Raises
    ------
    Stale
        If the person has gone on elsewhere meanwhile: which step is the last would be a guess.
    BadEdit
        If there is nothing to take back, or others have changed what the step changed.
    """
    with transaction.atomic():
        take = locked(take_id)
        done = _again(take, basis, user, key)
        if done is not None:
            return done
        _refuse_own(take, basis, user)
        with_ends(take)
        head = take.head
        if head is None:
            raise BadEdit("there is nothing to undo")
        if head.user_id in (user.pk, None) and not history.takes_back(head):
            return _go(take, head.parent_id, user, key, take.revision != basis.known)
        own = history.own_last(take, user)
        if own.undo is None:
            raise BadEdit("the last steps are other people's, and none of yours is near; the history goes to any step")
        return _inverse(take, own.undo, "Undo", user, key, take.revision != basis.known)


def redo(take_id: int, basis: Basis, user: Any, key: str | None = None) -> Committed:
    """Brings again what was undone last."""
    with transaction.atomic():
        take = locked(take_id)
        done = _again(take, basis, user, key)
        if done is not None:
            return done
        _refuse_own(take, basis, user)
        with_ends(take)
        following = history.next_to(take)
        if following is not None:
            return _go(take, following, user, key, take.revision != basis.known, towards_tip=True)
        own = history.own_last(take, user)
        if own.redo is None:
            raise BadEdit("there is nothing to redo")
        return _inverse(take, own.redo, "Redo", user, key, take.revision != basis.known)


def go_to(take_id: int, basis: Basis, user: Any, goal: int | None, key: str | None = None) -> Committed:
    """Goes to the state after a step (None: before the first), undoing and redoing on the way.

    Raises
    ------
    Stale
        If others have changed the take: it would be undone unseen.
    BadEdit
        If the step is not one of this take.
    """
    with transaction.atomic():
        take = locked(take_id)
        done = _again(take, basis, user, key)
        if done is not None:
            return done
        _refuse_unknown(take, basis)
        others = [m for m in missed(take, basis.revision) if not m.belongs(basis, user)]
        if others:
            raise Stale(take.revision, [m.told() for m in others[-20:]], [m.told() for m in others[-3:]])
        if goal is not None and not Edit.objects.filter(take=take, pk=goal).exists():
            raise BadEdit("this step does not belong to this take")
        return _go(take, goal, user, key, take.revision != basis.known)


def _refuse_own(take: Take, basis: Basis, user: Any) -> None:
    _refuse_unknown(take, basis)
    if take.revision == basis.revision:
        return
    happened = missed(take, basis.revision)
    own = [m.told() for m in happened if m.user == user.pk and not m.belongs(basis, user)]
    if own or len(happened) > MOST_MISSED_STEPS:
        raise Stale(take.revision, [m.told() for m in happened[-20:]], own)


def _go(
    take: Take, goal: int | None, user: Any, key: str | None, caught_up: bool, towards_tip: bool = False,
    alone: bool = False,
) -> Committed:  # fmt: skip
    """Moves the head of a locked take to a step of it, which is known to lie ``towards_tip`` or is looked for.

    Where that takes back or brings again a frame rate, the other takes of the shot go along, unless ``alone``.
    """
    moves = _moves(take, goal)
    if not moves:
        return Committed(take, {})
    before: dict[int, clips.Held] = {}
    now: dict[int, Clip] = {}
    labels: list[tuple[int, bool, str]] = []
    for some in (moves[n : n + 50] for n in range(0, len(moves), 50)):  # patches can be long: not all at once
        steps = Edit.objects.in_bulk([pk for pk, _ in some])
        patches = patches_by_step(steps)
        for pk, forward in some:
            for of, patch in (patches[pk] if forward else reversed_by_figure(patches[pk])).items():
                now[of] = patch.apply(now.get(of) or _held(take, of, before).clip)
            labels.append((pk, forward, steps[pk].label))
            if steps[pk].rate_id is not None and not alone:
                cross(take, steps[pk], forward, lambda other, to: _go(other, to, user, None, False, alone=True))
    take.head_id = goal  # type: ignore[assignment]
    if moves[-1][1] and not towards_tip and goal not in history.line_to(take.tip_id, take.pk):
        take.tip_id = goal  # type: ignore[assignment]
    advance(take, labels, user, key)
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
    if step.rate_id is not None:
        raise BadEdit(
            f"your last step is “{step.label}”, of the whole shot, and others have gone on since: set the frame rate "
            "by its own field. Nothing was undone"
        )
    name = step.label.split(": ", 1)[-1] if step.inverse_of_id is not None else step.label
    back = reversed_by_figure(patches_by_step([step_id])[step_id])
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
    opened = dict(before)
    refuse_rings(cast_of(take.shot).scene(lambda casting: _held(take, casting, opened).clip), now)
    patches = {casting: difference(before[casting].clip, clip) for casting, clip in now.items()}
    notes = (f"others have gone on since: only your own step was {'taken back' if way == 'Undo' else 'made again'}",)
    add(take, user, f"{way}: {name}", patches, notes, key, inverse_of=step_id, moved_time=step.moved_time)
    clips.keep(take, {c: (before[c], now[c], patch) for c, patch in patches.items()})
    told = f"{'Undone' if way == 'Undo' else 'Redone'}: {name}"
    return Committed(take, patches, now, notes, told, caught_up)


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
            patches = patches_by_step([pk for pk, _ in some])
            for pk, forward in some:
                for of, patch in (patches[pk] if forward else reversed_by_figure(patches[pk])).items():
                    if of in found:
                        found[of] = patch.apply(found[of])
        return found


def copy_take(source: Take, name: str, user: Any) -> Take:
    """A new take with the motion and pending poses of another; its history begins anew."""
    with transaction.atomic():
        source = locked(source.pk)
        take = Take.objects.create(shot=source.shot, name=name, created_by=user, paths=source.paths)
        for casting in source.shot.cast.all():
            clips.store_snapshot(take, casting.pk, Clip(), clips.held(source, casting.pk).clip)
    return take


def castings_of(take: Take) -> Iterable[Casting]:
    """Those who play, without those taken out."""
    return take.shot.cast.filter(taken_out_at=None).select_related("version__character")
