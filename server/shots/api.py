"""Shots, their cast and their rigs."""

from __future__ import annotations

from typing import Literal, cast

from django.db import transaction
from django.http import FileResponse, Http404, HttpRequest, HttpResponse
from django.http.response import HttpResponseBase
from django.utils import timezone
from ninja import Router

from hame.errors import BadEdit, BadFile
from server.characters import store as characters
from server.characters.files import mesh_of, stamp
from server.characters.groups import groups_of
from server.productions.access import need, role_in, shared
from server.productions.models import Role
from server.rows import changing, merged
from server.shots import schemas
from server.shots.casting import able_to_play, add_to_cast, playing, reorder, take_out, tell_of_cast
from server.shots.models import MAX_RANGE, Casting, SelectionSet, Shot, Take
from server.shots.pictures import put, type_of
from server.shots.rates import change_rate
from server.shots.rigs import rig_out

router = Router(tags=["shots"])
THUMBNAIL_LIMIT = 1_500_000


def find_shot(request: HttpRequest, shot_id: int) -> Shot:
    shot: Shot = shared(request.user, Shot.objects.select_related("production"), "production", pk=shot_id)
    return shot


def _checked_range(shot: Shot) -> None:
    if shot.end <= shot.start:
        raise BadEdit(f"the range ends at {shot.end}, before or on its start {shot.start}; give it two frames or more")
    if shot.end - shot.start >= MAX_RANGE:
        raise BadEdit(f"a shot has at most {MAX_RANGE} frames")
    if shot.play_end < shot.play_start:
        raise BadEdit(f"the play range ends at {shot.play_end}, before its start {shot.play_start}")
    shot.play_start = min(max(shot.play_start, shot.start), shot.end)
    shot.play_end = min(max(shot.play_end, shot.start), shot.end)


def set_out(found: SelectionSet) -> schemas.SetOut:
    return schemas.SetOut(id=found.pk, name=found.name, controls=found.controls, pivot=found.pivot, beside=found.beside)


def casting_out(casting: Casting) -> schemas.CastingOut:
    version = casting.version
    return schemas.CastingOut(
        id=casting.pk, name=casting.name, character_id=version.character_id, version=version.number,
        protected=casting.protected, sets=[set_out(s) for s in casting.sets.all()], mesh=stamp(version),
        prop="base" in version.plan["roles"],
    )  # fmt: skip


def _shot_out(request: HttpRequest, shot: Shot) -> schemas.ShotOut:
    role = role_in(request.user, shot.production_id)
    return schemas.ShotOut(
        id=shot.pk, name=shot.name, production_id=shot.production_id, production=shot.production.name,
        fps=shot.fps, gravity=shot.gravity, start=shot.start, end=shot.end, play_start=shot.play_start,
        play_end=shot.play_end,
        can_change=role != Role.GUEST, role=cast(Literal["guest", "animator", "lead"], role.value),
        cast=[casting_out(c) for c in playing(shot)],
        taken_out=[
            schemas.TakenOut(id=c.pk, name=c.name)
            for c in shot.cast.exclude(taken_out_at=None).order_by("taken_out_at")
        ],
        takes=[
            schemas.TakeSummary(id=t.pk, name=t.name, revision=t.revision, changed_at=t.changed_at.isoformat())
            for t in shot.takes.filter(put_away_at=None).order_by("id")
        ],
    )  # fmt: skip


@router.get("/productions/{production_id}/shots", response=list[schemas.ShotSummary])
def list_shots(request: HttpRequest, production_id: int, away: bool = False) -> list[schemas.ShotSummary]:
    """The shots, or those put away."""
    role_in(request.user, production_id)
    found = Shot.objects.filter(production_id=production_id, put_away_at__isnull=not away)
    shots = found.prefetch_related("cast", "takes").order_by("name")
    return [
        schemas.ShotSummary(
            id=s.pk, name=s.name, fps=s.fps, start=s.start, end=s.end,
            cast=[c.name for c in s.cast.all() if c.taken_out_at is None],
            takes=len(s.takes.all()),
            changed_at=max(s.changed_at, *(t.changed_at for t in s.takes.all()), s.changed_at).isoformat(),
            thumbnail=bool(s.thumbnail),
        )
        for s in shots
    ]  # fmt: skip


@router.post("/productions/{production_id}/shots", response=schemas.ShotOut)
def make_shot(request: HttpRequest, production_id: int, given: schemas.ShotIn) -> schemas.ShotOut:
    need(request.user, production_id, Role.ANIMATOR)
    found = {pk: able_to_play(production_id, pk) for pk in set(given.character_ids)}
    shot = Shot(
        production_id=production_id, name=given.name.strip(), fps=given.fps, start=given.start, end=given.end,
        play_start=given.start, play_end=given.end,
    )  # fmt: skip
    _checked_range(shot)
    with transaction.atomic():
        shot.save()
        Take.objects.create(shot=shot, name="Take 1", created_by_id=request.user.pk)
        for number in given.character_ids:
            add_to_cast(shot, found[number])
    return _shot_out(request, shot)


@router.get("/shots/{shot_id}", response=schemas.ShotOut)
def shot(request: HttpRequest, shot_id: int) -> schemas.ShotOut:
    return _shot_out(request, find_shot(request, shot_id))


@router.patch("/shots/{shot_id}", response=schemas.ShotOut)
def change_shot(request: HttpRequest, shot_id: int, given: schemas.ShotChange) -> schemas.ShotOut:
    found = find_shot(request, shot_id)
    need(request.user, found.production_id, Role.ANIMATOR)
    changes = given.dict(exclude_none=True)
    fps = changes.pop("fps", None)
    with transaction.atomic(), changing(found) as now:
        if "put_away" in changes:
            now.put_away_at = timezone.now() if changes.pop("put_away") else None
        for field, value in changes.items():
            setattr(now, field, value)
        _checked_range(now)
    if fps is not None:
        change_rate(found, request.user, fps, "frames")
    return _shot_out(request, find_shot(request, shot_id))


@router.put("/shots/{shot_id}/thumbnail", response={204: None})
def set_thumbnail(request: HttpRequest, shot_id: int) -> HttpResponse:
    """A PNG strip of small pictures of the shot, drawn by the page that has it open."""
    found = find_shot(request, shot_id)
    need(request.user, found.production_id, Role.ANIMATOR)
    if type_of(request.body, THUMBNAIL_LIMIT) != "image/png":
        raise BadFile(f"a thumbnail is a PNG picture of at most {THUMBNAIL_LIMIT // 1000} kB")
    put(found, "thumbnail", "shot.png", request.body)
    return HttpResponse(status=204)


@router.get("/shots/{shot_id}/thumbnail.png", include_in_schema=False)
def thumbnail(request: HttpRequest, shot_id: int) -> FileResponse:
    found = find_shot(request, shot_id)
    if not found.thumbnail:
        raise Http404
    return FileResponse(found.thumbnail.open("rb"), content_type="image/png")


def _casting(request: HttpRequest, casting_id: int) -> Casting:
    casting: Casting = shared(
        request.user, Casting.objects.select_related("version", "shot"), "shot__production", pk=casting_id
    )
    return casting


def _own_casting(request: HttpRequest, casting_id: int) -> Casting:
    casting = _casting(request, casting_id)
    need(request.user, casting.shot.production_id, Role.ANIMATOR)
    return casting


@router.patch("/castings/{casting_id}", response=schemas.CastingOut)
def change_casting(request: HttpRequest, casting_id: int, given: schemas.CastingChange) -> schemas.CastingOut:
    """Which controls no edit may touch, what it is called, and whether it plays."""
    casting = _own_casting(request, casting_id)
    with transaction.atomic():
        if given.out is not None:  # how many play is asked of the whole shot
            Shot.objects.select_for_update().get(pk=casting.shot_id)
        with changing(casting) as now:
            if given.protected is not None:
                found = characters.rig(casting.version)
                wished = [found.control(name).name for name in dict.fromkeys(given.protected)]
                now.protected = merged(now.protected, now.protected if given.was is None else given.was, wished, str)
            if given.name is not None:
                now.name = given.name.strip() or now.name
            if given.out is not None:
                take_out(now, given.out)
    if given.name is not None or given.out is not None:
        tell_of_cast(casting.shot)
    return casting_out(now)


@router.post("/shots/{shot_id}/cast", response=schemas.ShotOut)
def cast_character(request: HttpRequest, shot_id: int, given: schemas.CastIn) -> schemas.ShotOut:
    """Lets a character or prop of the production play, also one that plays already."""
    found = find_shot(request, shot_id)
    need(request.user, found.production_id, Role.ANIMATOR)
    character = able_to_play(found.production_id, given.character_id)
    with transaction.atomic():
        Shot.objects.select_for_update().get(pk=found.pk)
        add_to_cast(found, character)
    tell_of_cast(found)
    return _shot_out(request, found)


@router.put("/shots/{shot_id}/cast", response=schemas.ShotOut)
def order_cast(request: HttpRequest, shot_id: int, given: schemas.CastOrder) -> schemas.ShotOut:
    """Lists those who play in another order."""
    found = find_shot(request, shot_id)
    need(request.user, found.production_id, Role.ANIMATOR)
    with transaction.atomic():
        Shot.objects.select_for_update().get(pk=found.pk)
        reorder(found, given.castings)
    tell_of_cast(found)
    return _shot_out(request, found)


@router.post("/castings/{casting_id}/sets", response=schemas.SetOut)
def keep_set(request: HttpRequest, casting_id: int, given: schemas.SetIn) -> schemas.SetOut:
    """Keeps a selection set; one of the same name is replaced."""
    casting = _own_casting(request, casting_id)
    found = characters.rig(casting.version)
    names = [found.control(name).name for name in dict.fromkeys(given.controls)]
    if given.pivot:
        found.control(given.pivot)
    others = {other.pk: other for other in casting.shot.cast.exclude(pk=casting.pk).select_related("version")}
    if not given.beside.keys() <= others.keys():
        raise BadEdit("a set is of those who play in this shot; nothing was kept")
    beside = {
        number: [characters.rig(others[number].version).control(name).name for name in dict.fromkeys(controls)]
        for number, controls in given.beside.items()
    }
    kept, _ = SelectionSet.objects.update_or_create(
        casting=casting, name=given.name.strip(), defaults={"controls": names, "pivot": given.pivot, "beside": beside}
    )
    return set_out(kept)


@router.delete("/castings/{casting_id}/sets/{set_id}", response={204: None})
def drop_set(request: HttpRequest, casting_id: int, set_id: int) -> HttpResponse:
    casting = _own_casting(request, casting_id)
    if not casting.sets.filter(pk=set_id).delete()[0]:
        raise Http404
    return HttpResponse(status=204)


@router.get("/castings/{casting_id}/rig", response=schemas.RigOut)
def rig(request: HttpRequest, casting_id: int) -> schemas.RigOut:
    version = _casting(request, casting_id).version
    found = characters.rig(version)
    return rig_out(found, groups_of(version.character, found), characters.face_of(version))


@router.get("/castings/{casting_id}/mesh.glb", include_in_schema=False)
def mesh(request: HttpRequest, casting_id: int) -> HttpResponseBase:
    return mesh_of(request, _casting(request, casting_id).version)
