"""Keeping and finding what belongs to a person and not to a take. Nobody sees what others keep."""

from __future__ import annotations

from typing import Any

import orjson
from django.http import HttpRequest, HttpResponse
from ninja import Path, Router, Schema
from pydantic import Field

from hame.errors import BadEdit
from server.keeping.models import EVERYWHERE, Kept

router = Router(tags=["kept"])

LARGEST = 64 * 1024  # bytes of one value
MOST = 5000  # values of one person


class KeptIn(Schema):
    value: Any
    shot: int = Field(EVERYWHERE, ge=0, lt=2**63)


class Name(Schema):
    name: str = Field(min_length=1, max_length=40, pattern=r"^[a-z][a-z ]*$")


@router.get("/kept", response=dict[str, Any])
def kept(request: HttpRequest, shot: int = EVERYWHERE) -> dict[str, Any]:
    """What the person keeps, by name: of a shot, or everywhere."""
    return dict(Kept.objects.filter(user=request.user, shot=shot).values_list("name", "value"))  # type: ignore[misc]


@router.put("/kept/{name}", response={204: None})
def keep(request: HttpRequest, path: Path[Name], given: KeptIn) -> HttpResponse:
    """Keeps a value in place of the one before; null lets it go."""
    mine = Kept.objects.filter(user=request.user)  # type: ignore[misc]
    if given.value is None:
        mine.filter(shot=given.shot, name=path.name).delete()
        return HttpResponse(status=204)
    if len(orjson.dumps(given.value)) > LARGEST:
        raise BadEdit(f"that is more than {LARGEST // 1024} KB to keep; what was kept before stays")
    if mine.count() >= MOST and not mine.filter(shot=given.shot, name=path.name).exists():
        raise BadEdit(f"{MOST:,} things are kept for you already, and no more can be; nothing was lost")
    mine.update_or_create(user=request.user, shot=given.shot, name=path.name, defaults={"value": given.value})
    return HttpResponse(status=204)
