"""Handing out the files of a version. A file of one name never changes, so that a page may keep it."""

from __future__ import annotations

from pathlib import PurePath

from django.http import FileResponse, HttpRequest
from django.http.response import HttpResponseBase

from server.characters.models import CharacterVersion


def stamp(version: CharacterVersion) -> str:
    """What the mesh of a version is asked for by: another file has another stamp."""
    return f"{version.pk}-{PurePath(version.mesh.name).stem}"


def mesh_of(request: HttpRequest, version: CharacterVersion) -> HttpResponseBase:
    """The regular .glb. Asked for by its stamp (``?v=``) it may be kept for good, otherwise not at all."""
    response = FileResponse(version.mesh.open("rb"), content_type="model/gltf-binary")
    known = request.GET.get("v") == stamp(version)
    response["Cache-Control"] = "private, max-age=31536000, immutable" if known else "no-cache"
    return response
