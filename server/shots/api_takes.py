"""Takes: their motion, the edits that change it, and their history."""

from __future__ import annotations

from dataclasses import asdict, replace

from django.db import transaction
from django.db.models import Q
from django.http import Http404, HttpRequest, HttpResponse
from django.utils import timezone
from ninja import Query, Router

from hame.clip.layers import layer_of, with_layer
from hame.edits.making import made
from hame.errors import BadEdit
from hame.measure.doubles import doubles
from hame.measure.keyed import unkeyed
from hame.measure.seam import seam
from hame.scene.joined import all_bound_to
from hame.scene.scene import Figure, Scene
from hame.scene.seen import pose_values
from server.characters import store as characters
from server.errors import NotTheirs
from server.productions.access import need, shared_as
from server.productions.models import Role
from server.rows import changing
from server.shots import history, schemas, store
from server.shots.ahead import ahead_of, may_take_long
from server.shots.api import find_shot
from server.shots.models import Casting, Shot, Take
from server.shots.motion import MAX_FRAMES, packed_motion, packed_pending
from server.shots.pace import FRAMES, MOTION, keep_pace
from server.shots.rates import change_rate
from server.shots.scenes import cast_of
from server.shots.schemas import FrameNumber
from server.shots.stepped import caught_up_told, marks, step_done, undo_state

router = Router(tags=["takes"])


def find_take(request: HttpRequest, take_id: int, role: Role = Role.GUEST) -> Take:
    takes = Take.objects.select_related("shot")
    found: Take = shared_as(request.user, role, takes, "shot__production", pk=take_id)
    return found


def find_casting(take: Take, casting_id: int) -> Casting:
    found = Casting.objects.select_related("version", "shot").filter(pk=casting_id, shot_id=take.shot_id).first()
    return _playing_casting(found)


def _playing_casting(casting: Casting | None) -> Casting:
    if casting is None:
        raise BadEdit("this character does not play in the shot of this take")
    if casting.taken_out_at is not None:
        raise BadEdit(f"{casting.name} was taken out of this shot; bring it back to change it. Nothing was changed")
    return casting


def figures_of(take: Take, castings: list[int]) -> dict[int, Figure]:
    """Figures of a take with those that are tied to them, all at one revision, which ``take`` is brought up to."""
    cast = cast_of(take.shot)
    strange = [c for c in castings if c not in cast.castings]
    if strange or not castings:
        raise BadEdit("this character does not play in the shot of this take")
    playing = {n for n, casting in cast.castings.items() if casting.taken_out_at is None}
    clips = store.open_clips(take, playing | set(castings))
    figures = cast.scene(clips.__getitem__).figures
    known = {number: figures[number] for number in clips}
    return all_bound_to(known, castings)


def compared_figures(take: Take, wanted: list[int], step: int | None, without: list[str]) -> dict[int, Figure]:
    """Figures of a take as they were after a step of its history (0: before the first; None: now), without some layers,
    each told as casting and layer, ``12:1``.
    """
    cast = cast_of(take.shot)
    playing = {n for n, casting in cast.castings.items() if casting.taken_out_at is None} | set(wanted)
    if not wanted or not set(wanted) <= cast.castings.keys():
        raise BadEdit("this character does not play in the shot of this take")
    clips = store.open_clips(take, playing) if step is None else store.clips_at(take, step or None, playing)
    for told in without:
        casting, _, layer = told.partition(":")
        short = len(told) <= 40
        if not short or not casting.isdecimal() or not layer.isdecimal() or int(casting) not in clips:
            raise BadEdit("a layer to leave out is told as a casting and its number")
        number = int(casting)
        gone = layer_of(clips[number], int(layer))
        clips[number] = with_layer(clips[number], int(layer), replace(gone, muted=True, solo=False))
    figures = cast.scene(clips.__getitem__).figures
    known = {number: figures[number] for number in clips}
    return all_bound_to(known, wanted)


@router.post("/shots/{shot_id}/takes", response=schemas.TakeSummary)
def make_take(request: HttpRequest, shot_id: int, given: schemas.TakeIn) -> schemas.TakeSummary:
    """A new take: empty, or with the motion of another one of the shot."""
    shot = find_shot(request, shot_id)
    need(request.user, shot.production_id, Role.ANIMATOR)
    if given.source is None:
        take = Take.objects.create(shot=shot, name=given.name.strip(), created_by_id=request.user.pk)
    else:
        source = shot.takes.filter(pk=given.source).first()
        if source is None:
            raise BadEdit("the take to start from does not belong to this shot")
        take = store.copy_take(source, given.name.strip(), request.user)
    return _summary(take)


@router.patch("/takes/{take_id}", response=schemas.TakeSummary)
def change_take(request: HttpRequest, take_id: int, given: schemas.TakeChange) -> schemas.TakeSummary:
    """Renames a take, puts it away, or brings it back. A shot keeps one take at least."""
    take = find_take(request, take_id, Role.ANIMATOR)
    with transaction.atomic():
        if given.put_away:  # of two people who put away the last two, one is told
            Shot.objects.select_for_update().get(pk=take.shot_id)
        with changing(take) as now:
            if given.name is not None:
                now.name = given.name.strip()
            if given.put_away is not None:
                if given.put_away and not take.shot.takes.filter(put_away_at=None).exclude(pk=take.pk).exists():
                    raise BadEdit("this is the only take of the shot; begin another one, or put the whole shot away")
                now.put_away_at = timezone.now() if given.put_away else None
    return _summary(now)


@router.get("/shots/{shot_id}/takes", response=list[schemas.TakeSummary])
def list_takes(request: HttpRequest, shot_id: int, away: bool = False) -> list[schemas.TakeSummary]:
    """The takes of a shot, or those put away."""
    found = find_shot(request, shot_id).takes.filter(put_away_at__isnull=not away)
    return [_summary(take) for take in found.order_by("id")]


def _summary(take: Take) -> schemas.TakeSummary:
    return schemas.TakeSummary(
        id=take.pk, name=take.name, revision=take.revision, changed_at=take.changed_at.isoformat()
    )


@router.get("/takes/{take_id}", response=schemas.TakeOut)
def take(request: HttpRequest, take_id: int) -> schemas.TakeOut:
    found = find_take(request, take_id)
    castings = [casting.pk for casting in store.castings_of(found)]
    clips = {
        str(c): schemas.ClipOut(**{**clip.to_json(), **marks(clip)})
        for c, clip in store.open_clips(found, castings).items()
    }
    return schemas.TakeOut(
        id=found.pk, name=found.name, shot_id=found.shot_id, revision=found.revision, clips=clips, **undo_state(found)
    )


@router.get("/takes/{take_id}/changes", response=schemas.StepDone)
def changes(request: HttpRequest, take_id: int, since: int) -> HttpResponse:
    """Everything that a page at revision ``since`` lacks."""
    return caught_up_told(find_take(request, take_id), since)


@router.post("/takes/{take_id}/edits", response=schemas.StepDone)
def edit(request: HttpRequest, take_id: int, given: schemas.EditIn) -> HttpResponse:
    """Commits one step. One made on an older revision is made on the take as it is now, if it does the same there.

    409 when it has to do with what was changed since: nothing is stored then. With an ``id``, sending the same step
    again makes it once and gets the same answer. 422 with ``asks`` when something would move or be lost by it: with
    the edit's ``anyway`` it is made.
    """
    found = find_take(request, take_id, Role.ANIMATOR)
    cast, asked = cast_of(found.shot), given.edit
    casting = _playing_casting(cast.castings.get(given.casting))

    def label(scene: Scene) -> str:
        return asked.label(characters.rig(casting.version), replace(scene, of=casting.pk))

    if given.instead and asked.takes_long():
        raise BadEdit(
            "a step of this kind takes too long to be made again in the place of the last one; take it back first. "
            "Nothing was changed"
        )
    basis = _basis(request, given, (casting.pk, given.read) if given.read is not None else None)
    ahead = None
    if may_take_long(asked) and not given.instead:
        ahead = ahead_of(found, casting.pk, asked, store.stands_at(found, basis, request.user))
    done = store.commit(
        take_id, cast, basis, request.user, label, lambda scene: made(asked, scene, casting.pk), given.id,
        asked.moves_time(),
        ahead, given.instead, asked.goes_away(),
    )  # fmt: skip
    return step_done(done, basis.known, given.looked, cast)


def _basis(request: HttpRequest, given: schemas.Revised, read: tuple[int, int] | None = None) -> store.Basis:
    """What a step was made on.

    Raises
    ------
    NotTheirs
        If somebody else is signed in now: a step is stored for who made it, and for nobody else.
    """
    if given.by and given.by != request.user.get_username():
        raise NotTheirs(given.by)
    return store.Basis(given.revision, frozenset(given.after), given.shown, read)


@router.post("/takes/{take_id}/undo", response=schemas.StepDone)
def undo(request: HttpRequest, take_id: int, given: schemas.Revised) -> HttpResponse:
    """Takes back the last step, or where others have gone on, one's own last one."""
    find_take(request, take_id, Role.ANIMATOR)
    basis = _basis(request, given)
    return step_done(store.undo(take_id, basis, request.user, given.id), basis.known, given.looked)


@router.post("/takes/{take_id}/rate", response=schemas.StepDone)
def rate(request: HttpRequest, take_id: int, given: schemas.RateIn) -> HttpResponse:
    """Sets the frames a second of the shot, in a step of each of its takes: every key stays on its frame, or at its
    time.
    """
    found = find_take(request, take_id, Role.ANIMATOR)
    basis = _basis(request, given)
    notes: list[str] = []
    if given.id is None or store.named(found, request.user, given.id) is None:
        notes = change_rate(found.shot, request.user, given.fps, given.keep, {take_id: given.id})
    return caught_up_told(find_take(request, take_id), basis.known, notes=notes)


@router.post("/takes/{take_id}/redo", response=schemas.StepDone)
def redo(request: HttpRequest, take_id: int, given: schemas.Revised) -> HttpResponse:
    find_take(request, take_id, Role.ANIMATOR)
    basis = _basis(request, given)
    return step_done(store.redo(take_id, basis, request.user, given.id), basis.known, given.looked)


@router.post("/takes/{take_id}/goto", response=schemas.StepDone)
def go_to(request: HttpRequest, take_id: int, given: schemas.GoTo) -> HttpResponse:
    """Goes to the state after any step of the history, also one that was set aside; null: the beginning."""
    find_take(request, take_id, Role.ANIMATOR)
    basis = _basis(request, given)
    return step_done(store.go_to(take_id, basis, request.user, given.step, given.id), basis.known, given.looked)


@router.get("/takes/{take_id}/named/{key}", response=schemas.StepDone)
def step_named(request: HttpRequest, take_id: int, key: str, since: int) -> HttpResponse:
    """Whether a step of one's own stands stored under its name, though no answer came: then all since a revision."""
    found = find_take(request, take_id)
    label = store.named(found, request.user, key[:64])
    if label is None:
        raise Http404
    return caught_up_told(found, since, label)


@router.get("/takes/{take_id}/history", response=list[schemas.HistoryStep])
def steps(request: HttpRequest, take_id: int, limit: int = 300) -> list[schemas.HistoryStep]:
    """The latest steps, newest first: done, undone (redo leads there), or set aside by later ones."""
    found = find_take(request, take_id)
    done = set(history.line_to(found.head_id, found.pk))
    ahead = set(history.line_to(found.tip_id, found.pk)) - done
    told = found.edits.filter(Q(remade=False) | Q(pk=found.head_id))
    latest = told.select_related("user").order_by("-id")[: min(max(limit, 1), 2000)]
    return [
        schemas.HistoryStep(
            id=s.pk, label=s.label, by=(s.user.get_full_name() or s.user.get_username()) if s.user else "",
            at=s.made_at.isoformat(), head=s.pk == found.head_id,
            state="done" if s.pk in done else "undone" if s.pk in ahead else "aside",
        )
        for s in latest
    ]  # fmt: skip


@router.get("/takes/{take_id}/checks", response=schemas.ChecksOut)
def checks(
    request: HttpRequest, take_id: int, casting: int, first: FrameNumber, last: FrameNumber
) -> schemas.ChecksOut:
    """What a blocked take lacks, and what does not close when ``first`` to ``last`` is looped."""
    found = find_take(request, take_id)
    rig = characters.rig(find_casting(found, casting).version)
    clip = store.open_clip(found, casting)
    lacking = unkeyed(clip, rig)
    joins = seam(clip, rig, first, last) if last > first else []
    return schemas.ChecksOut(
        missing={str(frame): names for frame, names in lacking.missing.items()}, late=lacking.late,
        joins=[
            schemas.JoinOut(address=j.address, travels=j.travels, jumps=j.jumps, gap=j.gap, corner=j.corner)
            for j in joins
        ],
    )  # fmt: skip


@router.get("/takes/{take_id}/doubles", response=list[schemas.DoubleOut])
def doubled(
    request: HttpRequest, take_id: int, casting: int, control: str, frame: FrameNumber
) -> list[schemas.DoubleOut]:
    """Channels of a control that add up at a frame, while a pose beside keys only one of them."""
    found = find_take(request, take_id)
    find_casting(found, casting)
    figures = figures_of(found, [casting])
    figure, scene = figures[casting], Scene(figures, of=casting)
    values = pose_values(figure.rig, figure.clip, frame, scene)
    return [schemas.DoubleOut(**asdict(one)) for one in doubles(figure.rig, figure.clip, frame, control, values)]


@router.get("/takes/{take_id}/motion", include_in_schema=False)
def motion(
    request: HttpRequest, take_id: int, casting: Query[list[int]], first: FrameNumber, last: FrameNumber,
    step: int | None = None,
    without: Query[list[str] | None] = None,
) -> HttpResponse:  # fmt: skip
    """Frames of some of the cast as they play, as bytes (see :mod:`server.shots.motion`).

    To be compared with: as they were after a ``step`` of the history (0: before the first), or ``without`` layers.
    """
    found = find_take(request, take_id)
    keep_pace(request.user, MOTION)
    wanted = list(dict.fromkeys(casting))
    keep_pace(request.user, FRAMES, min(max(last - first, 0), MAX_FRAMES) * max(len(wanted), 1))
    if step is not None or without:
        figures = compared_figures(found, wanted, step, without or [])
    else:
        figures = figures_of(found, wanted)  # which may find the take at a later revision
    body = packed_motion(figures, wanted, found.revision, first, last)
    return HttpResponse(body, content_type="application/octet-stream")


@router.get("/takes/{take_id}/pending", include_in_schema=False)
def pending(request: HttpRequest, take_id: int, casting: Query[list[int]], frame: FrameNumber) -> HttpResponse:
    """One frame of some of the cast with their pending poses, as bytes."""
    found = find_take(request, take_id)
    wanted = list(dict.fromkeys(casting))
    figures = figures_of(found, wanted)
    return HttpResponse(packed_pending(figures, wanted, found.revision, frame), content_type="application/octet-stream")
