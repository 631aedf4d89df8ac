"""Expressions: poses of the library that are of the face alone, and how much of each a face shows; and gazes."""

from __future__ import annotations

from django.http import HttpRequest
from ninja import Router, Schema

from hame.edits.expressions import differences, of_face, shares_of
from hame.scene.joined import seen
from hame.scene.looked import gazes_off
from hame.scene.scene import StoredPose
from hame.scene.taken import frames_taken, taken_since
from server.characters import store as characters
from server.shots.api_takes import figures_of, find_casting, find_take
from server.shots.models import LibraryPose
from server.shots.pace import FRAMES, keep_pace
from server.shots.schemas import FrameNumber

router = Router(tags=["faces"])


class OffOut(Schema):
    """By how many radians a control does not point at what the gaze that begins at ``start`` is meant for; ``about`` is
    the control that is aimed by it, or nothing."""

    about: str
    start: int
    control: str
    angle: float


class ExpressionOut(Schema):
    """A pose of the library that moves nothing but a face; ``share``: how much of it the face shows at a frame."""

    id: int
    name: str
    character: str
    picture: bool
    share: float


@router.get("/takes/{take_id}/expressions", response=list[ExpressionOut])
def expressions(
    request: HttpRequest, take_id: int, casting: int, frame: FrameNumber, others: bool = False
) -> list[ExpressionOut]:
    """The expressions of one of the cast, by name; with ``others`` all that fit its face, whosever they are."""
    take = find_take(request, take_id)
    mine = find_casting(take, casting)
    rig = characters.rig(mine.version)
    keep_pace(request.user, FRAMES, 1)
    face = of_face(rig)
    poses = LibraryPose.objects.filter(production_id=take.shot.production_id, set_aside=False).order_by("name", "pk")
    if not others:
        poses = poses.filter(character=mine.name)
    found = []
    for pose in poses:
        known = {address for address in pose.values if rig.has_channel(address)}
        moved = differences(rig, StoredPose(pose.values, pose.size, pose.name)) if known and known <= face else {}
        if moved:
            found.append((pose, moved))
    now = seen(figures_of(take, [casting]), frame)[casting].values[0]
    shares = shares_of(rig, now, [moved for _, moved in found])
    return [
        ExpressionOut(id=pose.pk, name=pose.name, character=pose.character, picture=bool(pose.picture), share=share)
        for (pose, _), share in zip(found, shares, strict=True)
    ]


@router.get("/takes/{take_id}/gazes", response=list[OffOut])
def gazes(request: HttpRequest, take_id: int, casting: int, frame: FrameNumber) -> list[OffOut]:
    """How far the gazes of one of the cast are off at a frame."""
    take = find_take(request, take_id)
    find_casting(take, casting)
    keep_pace(request.user, FRAMES, 1)
    figures = figures_of(take, [casting])
    found = gazes_off(figures, seen(figures, frame), casting, frame)
    return [OffOut(about=one.about, start=one.start, control=one.control, angle=one.angle) for one in found]


class OlderOut(Schema):
    """By how much a motion goes otherwise than when the spring of a control that begins at ``start`` was taken as keys,
    metres and radians; ``older``: by so much that it would be seen."""

    control: str
    start: int
    metres: float
    radians: float
    older: bool


@router.get("/takes/{take_id}/springs", response=list[OlderOut])
def springs(request: HttpRequest, take_id: int, casting: int) -> list[OlderOut]:
    """The springs of one of the cast that were taken as keys, and whether those are older than the motion."""
    take = find_take(request, take_id)
    find_casting(take, casting)
    figures = figures_of(take, [casting])
    keep_pace(request.user, FRAMES, frames_taken(figures, casting))
    return [
        OlderOut(control=one.control, start=one.start, metres=one.by.metres, radians=one.by.radians, older=one.by.seen)
        for one in taken_since(figures, casting)
    ]
