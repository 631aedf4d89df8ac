"""The HTTP interface, put together from the apps' routers. Its OpenAPI document is ``server/openapi.json``."""

from __future__ import annotations

from typing import Any

import orjson
from django.http import Http404, HttpRequest, HttpResponse
from ninja.errors import HttpError, ValidationError
from ninja.parser import Parser
from ninja.security import django_auth

from hame.errors import Asks, HameError, ShownAgain
from server.accounts.api import router as session
from server.characters.api import router as characters
from server.document import DocumentedAPI
from server.errors import NotTheirs, Refused, Stale, TooMany
from server.jobs.api import router as jobs
from server.keeping.api import router as keeping
from server.productions.api import router as productions
from server.shots.api import router as shots
from server.shots.api_arcs import router as arcs
from server.shots.api_contacts import router as contacts
from server.shots.api_faces import router as faces
from server.shots.api_falls import router as falls
from server.shots.api_faults import router as faults
from server.shots.api_framing import router as framing
from server.shots.api_guides import router as guides
from server.shots.api_handoff import router as handoff
from server.shots.api_library import router as library
from server.shots.api_removal import router as removal
from server.shots.api_sheet import router as sheet
from server.shots.api_takes import router as takes
from server.shots.api_ways import router as ways


class StrictParser(Parser):
    """Bodies read by orjson: numbers that are none, lone surrogates and endless integers are no JSON to it."""

    def parse_body(self, request: HttpRequest) -> Any:
        body = request.body
        found = orjson.loads(body)
        if rb"\u0000" in body and _holds_zero(found):
            raise HttpError(422, "a text holds a zero byte")
        return found


def _holds_zero(found: Any) -> bool:
    """Whether a text in it holds the character of number zero, which no database keeps and no file name bears."""
    if isinstance(found, str):
        return "\0" in found
    if isinstance(found, dict):
        return any(_holds_zero(part) for pair in found.items() for part in pair)
    return isinstance(found, list) and any(_holds_zero(part) for part in found)


api = DocumentedAPI(title="Hame", version="1", auth=django_auth, docs_url=None, parser=StrictParser())
api.add_router("", session)
api.add_router("", keeping)
api.add_router("", productions)
api.add_router("", characters)
api.add_router("", shots)
api.add_router("", takes)
api.add_router("", library)
api.add_router("", sheet)
api.add_router("", framing)
api.add_router("", guides)
api.add_router("", contacts)
api.add_router("", arcs)
api.add_router("", faults)
api.add_router("", handoff)
api.add_router("", falls)
api.add_router("", faces)
api.add_router("", removal)
api.add_router("", ways)
api.add_router("", jobs)


def _answer(request: HttpRequest, status: int, message: str, **more: Any) -> HttpResponse:
    return api.create_response(request, {"message": message, **more}, status=status)


@api.exception_handler(HameError)
def _bad_request(request: HttpRequest, error: HameError | type[HameError]) -> HttpResponse:
    return _answer(request, 422, str(error))


@api.exception_handler(Refused)
def _refused(request: HttpRequest, error: Refused | type[Refused]) -> HttpResponse:
    return _answer(request, 403, str(error))


@api.exception_handler(NotTheirs)
def _not_theirs(request: HttpRequest, error: Any) -> HttpResponse:
    return _answer(request, 403, str(error), whose=error.whose)


@api.exception_handler(Stale)
def _stale(request: HttpRequest, error: Any) -> HttpResponse:
    return _answer(request, 409, str(error), revision=error.revision, since=error.since, clash=error.clash)


@api.exception_handler(TooMany)
def _too_many(request: HttpRequest, error: Any) -> HttpResponse:
    response = _answer(request, 429, str(error))
    response["Retry-After"] = str(error.wait)
    return response


@api.exception_handler(ShownAgain)
def _shown_again(request: HttpRequest, error: Any) -> HttpResponse:
    return _answer(request, 422, str(error), shows={"source": error.source, "begins": error.begins, "by": error.by})


@api.exception_handler(Asks)
def _asks(request: HttpRequest, error: Asks | type[Asks]) -> HttpResponse:
    return _answer(request, 422, str(error), asks=True)


@api.exception_handler(Http404)
def _missing(request: HttpRequest, error: Http404 | type[Http404]) -> HttpResponse:
    return _answer(request, 404, "There is nothing here, or it is not shared with you.")


@api.exception_handler(HttpError)
def _not_read(request: HttpRequest, error: Any) -> HttpResponse:
    if error.status_code == 403:
        return _answer(request, 403, "This page is older than your sign-in, so nothing was stored. Reload it.")
    return _answer(request, error.status_code, f"{error}: what was sent could not be read. Nothing was stored.")


@api.exception_handler(ValidationError)
def _invalid(request: HttpRequest, error: Any) -> HttpResponse:
    first = error.errors[0] if error.errors else {"loc": (), "msg": "not understood"}
    where = ".".join(str(part) for part in first["loc"][2:] if not isinstance(part, int))
    return _answer(request, 422, f"{where}: {first['msg']}".lstrip(": "))
