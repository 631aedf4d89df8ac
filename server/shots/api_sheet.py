"""The reference sheet of a shot: pictures beside the stage, each tied to a frame if wished."""

from __future__ import annotations

from django.core.files.base import ContentFile
from django.db.models import Max
from django.http import FileResponse, HttpRequest, HttpResponse
from ninja import File, Form, Router
from ninja.files import UploadedFile

from hame.blocking.reference import reference_sheet
from hame.errors import BadFile
from server.characters import store as characters
from server.productions.access import need, shared
from server.productions.models import Role
from server.rows import changing
from server.shots import schemas
from server.shots.api import find_shot
from server.shots.models import Casting, SheetImage
from server.shots.pictures import stored_type, type_of
from server.shots.removal import delete_files
from server.shots.schemas import FrameNumber

router = Router(tags=["sheet"])
LIMIT = 8_000_000
MOST = 600  # a reference film of 25 seconds


def _image(request: HttpRequest, image_id: int, role: Role = Role.GUEST) -> SheetImage:
    image: SheetImage = shared(request.user, SheetImage.objects.select_related("shot"), "shot__production", pk=image_id)
    need(request.user, image.shot.production_id, role)
    return image


def _out(image: SheetImage) -> schemas.SheetImageOut:
    return schemas.SheetImageOut(id=image.pk, name=image.name, frame=image.frame)


@router.get("/castings/{casting_id}/reference", response=list[schemas.DrawnPoseOut])
def reference(
    request: HttpRequest, casting_id: int, kind: str = "walk", start: FrameNumber = 1, step: FrameNumber = 12
) -> list[schemas.DrawnPoseOut]:
    """The drawn poses of a walk, a run or a take in the proportions of a character of the cast."""
    casting = shared(request.user, Casting.objects.select_related("version"), "shot__production", pk=casting_id)
    return [
        schemas.DrawnPoseOut(
            frame=pose.frame, name=pose.name, rank=pose.rank,
            strokes=[schemas.StrokeOut(part=s.part, side=s.side, points=s.points.tolist()) for s in pose.strokes],
        )
        for pose in reference_sheet(characters.rig(casting.version), kind, start, step)
    ]  # fmt: skip


@router.get("/shots/{shot_id}/sheet", response=list[schemas.SheetImageOut])
def images(request: HttpRequest, shot_id: int) -> list[schemas.SheetImageOut]:
    return [_out(image) for image in find_shot(request, shot_id).images.all()]


@router.post("/shots/{shot_id}/sheet", response=schemas.SheetImageOut)
def put_image(
    request: HttpRequest, shot_id: int, file: File[UploadedFile], frame: Form[int | None] = None
) -> schemas.SheetImageOut:
    """Puts a PNG, JPEG or WebP picture on the sheet."""
    shot = find_shot(request, shot_id)
    need(request.user, shot.production_id, Role.ANIMATOR)
    if frame is not None and not -100_000 <= frame <= 100_000:
        raise BadFile("a picture is tied to a frame within 100,000 of zero; nothing was stored")
    if shot.images.count() >= MOST:
        raise BadFile(f"a sheet holds {MOST} pictures; take some away first. Nothing was stored")
    if file.size is not None and file.size > LIMIT:
        raise BadFile(f"a picture has at most {LIMIT // 1_000_000} MB; nothing was stored")
    data = file.read()
    kind = type_of(data, LIMIT)
    place = (shot.images.aggregate(last=Max("place"))["last"] or 0) + 1
    image = SheetImage(shot=shot, name=(file.name or "picture")[:120], frame=frame, place=place)
    image.picture.save(f"sheet.{kind.rsplit('/', 1)[1]}", ContentFile(data), save=False)
    image.save()
    return _out(image)


@router.patch("/sheet/{image_id}", response=schemas.SheetImageOut)
def tie_image(request: HttpRequest, image_id: int, given: schemas.SheetImageChange) -> schemas.SheetImageOut:
    """Ties a picture to a frame, or (null) to none."""
    image = _image(request, image_id, Role.ANIMATOR)
    with changing(image) as now:
        now.frame = given.frame
    return _out(now)


@router.delete("/sheet/{image_id}", response={204: None})
def drop_image(request: HttpRequest, image_id: int) -> HttpResponse:
    image = _image(request, image_id, Role.ANIMATOR)
    delete_files([image.picture])
    image.delete()
    return HttpResponse(status=204)


@router.get("/sheet/{image_id}/picture", include_in_schema=False)
def picture(request: HttpRequest, image_id: int) -> FileResponse:
    image = _image(request, image_id).picture
    response = FileResponse(image.open("rb"), content_type=stored_type(image.name))
    response["Cache-Control"] = "private, max-age=86400"
    return response
