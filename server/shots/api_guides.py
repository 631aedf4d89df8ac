"""Guides of a shot: points, lines and arcs on its stage, one's own or shared."""

from __future__ import annotations

from typing import Annotated, Literal, cast

from django.db.models import Q, QuerySet
from django.http import HttpRequest, HttpResponse
from ninja import Router, Schema
from pydantic import Field

from hame.errors import BadEdit
from server.productions.access import need, shared
from server.productions.models import Role
from server.shots.api import find_shot
from server.shots.models import Guide, Shot
from server.shots.store import announce

router = Router(tags=["guides"])

Kind = Literal["point", "line", "arc"]
Metres = Annotated[float, Field(ge=-10_000, le=10_000, allow_inf_nan=False)]
Points = Annotated[list[tuple[Metres, Metres, Metres]], Field(max_length=3)]
NEEDED: dict[Kind, int] = {"point": 1, "line": 2, "arc": 3}
MOST = 200  # of a shot that one person sees


class GuideIn(Schema):
    """``view``: only drawn in a straight view, as a line on its picture; empty for one that lies in the world.

    One on the picture of the shot camera has places of that picture: from its middle to the right and up, in halves of
    its height, and 0.
    """

    kind: Kind
    view: Literal["", "front", "side", "top", "back", "camera"] = ""
    points: Points
    shared: bool = False


class GuideOut(Schema):
    id: int
    kind: str
    view: str
    points: list[list[float]]
    shared: bool
    mine: bool


class GuideChange(Schema):
    shared: bool | None = None
    points: Points | None = None


def _seen(request: HttpRequest, shot: Shot) -> QuerySet[Guide]:
    """What a person sees of a shot: what is shared, and their own."""
    return shot.guides.filter(Q(shared=True) | Q(user=request.user)).order_by("id")  # type: ignore[misc]


def _out(request: HttpRequest, guide: Guide) -> GuideOut:
    return GuideOut(
        id=guide.pk, kind=guide.kind, view=guide.view, points=guide.points, shared=guide.shared,
        mine=guide.user_id == request.user.pk,
    )  # fmt: skip


def _tell(shot: Shot) -> None:
    for take in shot.takes.filter(put_away_at=None).values_list("pk", flat=True):
        announce(take, {"type": "guides.changed"})


def _guide(request: HttpRequest, guide_id: int) -> Guide:
    """One that the person may change: their own, or as an animator a shared one. What others keep is not found."""
    seen = Guide.objects.select_related("shot").filter(Q(shared=True) | Q(user=request.user))  # type: ignore[misc]
    found: Guide = shared(request.user, seen, "shot__production", pk=guide_id)
    if found.user_id != request.user.pk:
        need(request.user, found.shot.production_id, Role.ANIMATOR)
    return found


def _need_all(kind: Kind, points: list[tuple[float, float, float]]) -> None:
    if len(points) != NEEDED[kind]:
        raise BadEdit(f"a guide that is {kind} has {NEEDED[kind]} places; nothing was kept")


@router.get("/shots/{shot_id}/guides", response=list[GuideOut])
def guides(request: HttpRequest, shot_id: int) -> list[GuideOut]:
    shot = find_shot(request, shot_id)
    return [_out(request, guide) for guide in _seen(request, shot)]


@router.post("/shots/{shot_id}/guides", response=GuideOut)
def draw(request: HttpRequest, shot_id: int, given: GuideIn) -> GuideOut:
    """A new guide; anybody who sees the shot may have their own, animators share them."""
    shot = find_shot(request, shot_id)
    if given.shared:
        need(request.user, shot.production_id, Role.ANIMATOR)
    _need_all(given.kind, given.points)
    if _seen(request, shot).count() >= MOST:
        raise BadEdit(f"there are {MOST} guides in this shot already; take some away first. Nothing was kept")
    made = shot.guides.create(
        user=request.user,  # type: ignore[misc]
        kind=given.kind, view=given.view, points=given.points, shared=given.shared,
    )  # fmt: skip
    if made.shared:
        _tell(shot)
    return _out(request, made)


@router.patch("/guides/{guide_id}", response=GuideOut)
def change(request: HttpRequest, guide_id: int, given: GuideChange) -> GuideOut:
    """Shares one's own guide or keeps it to oneself again, or lays it elsewhere."""
    guide = _guide(request, guide_id)
    if guide.user_id != request.user.pk:
        raise BadEdit("it is somebody else's, who shares it; draw your own beside it. Nothing was changed")
    told = guide.shared or bool(given.shared)
    if given.shared or (guide.shared and given.points is not None):
        need(request.user, guide.shot.production_id, Role.ANIMATOR)
    if given.points is not None:
        _need_all(cast(Kind, guide.kind), given.points)
        guide.points = given.points
    if given.shared is not None:
        guide.shared = given.shared
    guide.save(update_fields=["shared", "points"])
    if told:
        _tell(guide.shot)
    return _out(request, guide)


@router.delete("/guides/{guide_id}", response={204: None})
def take_away(request: HttpRequest, guide_id: int) -> HttpResponse:
    guide = _guide(request, guide_id)
    shot, told = guide.shot, guide.shared
    guide.delete()
    if told:
        _tell(shot)
    return HttpResponse(status=204)
