"""The pose library of a production."""

from __future__ import annotations

from dataclasses import replace

from django.http import FileResponse, Http404, HttpRequest, HttpResponse
from ninja import Router

from hame.edits.library import size_of
from hame.errors import BadEdit, BadFile
from hame.scene.seen import pose_values
from server.characters import store as characters
from server.productions.access import need, role_in, shared
from server.productions.models import Production, Role
from server.rows import changing
from server.shots import schemas, store
from server.shots.models import Casting, LibraryPose, Take
from server.shots.pictures import put, type_of
from server.shots.scenes import cast_of

router = Router(tags=["library"])
PICTURE_LIMIT = 200_000


def _pose(request: HttpRequest, pose_id: int, role: Role = Role.GUEST) -> LibraryPose:
    found: LibraryPose = shared(request.user, LibraryPose.objects, "production", pk=pose_id)
    need(request.user, found.production_id, role)
    return found


def _out(pose: LibraryPose) -> schemas.LibraryPoseOut:
    user = pose.made_by
    return schemas.LibraryPoseOut(
        id=pose.pk, name=pose.name, character=pose.character, with_master=pose.with_master,
        controls=sorted({address.rsplit("/", 1)[0] for address in pose.values}), channels=len(pose.values),
        made_by=(user.get_full_name() or user.get_username()) if user else "", picture=bool(pose.picture),
    )  # fmt: skip


@router.get("/productions/{production_id}/poses", response=list[schemas.LibraryPoseOut])
def poses(request: HttpRequest, production_id: int, find: str = "") -> list[schemas.LibraryPoseOut]:
    """The library; ``find`` looks in names and characters. Poses set aside are left out."""
    role_in(request.user, production_id)
    found = LibraryPose.objects.filter(production_id=production_id, set_aside=False).select_related("made_by")
    words = find.lower().split()
    return [_out(pose) for pose in found if all(w in f"{pose.name} {pose.character}".lower() for w in words)]


@router.post("/productions/{production_id}/poses", response=schemas.LibraryPoseOut)
def keep_pose(request: HttpRequest, production_id: int, given: schemas.LibraryPoseIn) -> schemas.LibraryPoseOut:
    """Stores the pose that is seen at a frame, or the chosen controls and kinds of channel of it."""
    need(request.user, production_id, Role.ANIMATOR)
    take = Take.objects.filter(pk=given.take, shot__production_id=production_id).first()
    casting = Casting.objects.filter(pk=given.casting, shot_id=take.shot_id if take else 0).first()
    if take is None or casting is None:
        raise BadEdit("this character does not play in a shot of this production; nothing was stored")
    rig = characters.rig(casting.version)
    scene = cast_of(take.shot).scene(lambda number: store.open_clip(take, number))
    clip = scene.figure(casting.pk).clip
    seen = pose_values(rig, clip, given.frame, replace(scene, of=casting.pk))
    names = [c.name for c in rig.controls] if given.controls is None else given.controls
    master = rig.controls[0].name
    values = {
        channel.address: float(seen[rig.number(channel.address)])
        for name in names
        for channel in rig.channels_of(name)
        if channel.kind in given.kinds and not channel.locked and (given.with_master or name != master)
    }
    if not values:
        raise BadEdit("nothing is chosen to store: select controls, and kinds of channel that they have")
    pose = LibraryPose.objects.create(
        production=Production.objects.get(pk=production_id), name=given.name.strip(), character=casting.name,
        values=values, size=size_of(rig), with_master=given.with_master, made_by_id=request.user.pk,
    )  # fmt: skip
    return _out(pose)


@router.patch("/poses/{pose_id}", response=schemas.LibraryPoseOut)
def change_pose(request: HttpRequest, pose_id: int, given: schemas.LibraryPoseChange) -> schemas.LibraryPoseOut:
    """Renames a pose, sets it aside (it is kept, but no more shown), or takes it back."""
    pose = _pose(request, pose_id, Role.ANIMATOR)
    with changing(pose) as now:
        if given.name is not None:
            now.name = given.name.strip()
        if given.set_aside is not None:
            now.set_aside = given.set_aside
    return _out(now)


@router.put("/poses/{pose_id}/picture", response={204: None})
def set_picture(request: HttpRequest, pose_id: int) -> HttpResponse:
    """A PNG picture of the pose, drawn by the page that stored it."""
    pose = _pose(request, pose_id, Role.ANIMATOR)
    if type_of(request.body, PICTURE_LIMIT) != "image/png":
        raise BadFile("the picture of a pose is a PNG")
    put(pose, "picture", "pose.png", request.body)
    return HttpResponse(status=204)


@router.get("/poses/{pose_id}/picture.png", include_in_schema=False)
def picture(request: HttpRequest, pose_id: int) -> FileResponse:
    pose = _pose(request, pose_id)
    if not pose.picture:
        raise Http404
    return FileResponse(pose.picture.open("rb"), content_type="image/png")
