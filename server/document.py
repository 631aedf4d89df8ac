"""The API's document with what does not go over HTTP: the messages of sockets."""

from __future__ import annotations

from typing import Any

from ninja import NinjaAPI
from ninja.openapi.schema import OpenAPISchema
from pydantic import TypeAdapter
from pydantic.json_schema import models_json_schema

from server.shots import messages


class DocumentedAPI(NinjaAPI):
    """An API whose document tells of sockets as well."""

    def get_openapi_schema(self, **told: Any) -> OpenAPISchema:
        document = super().get_openapi_schema(**told)
        add_messages(document)
        return document


def add_messages(document: dict[str, Any]) -> None:
    """Adds to an API's document what is said over sockets, as schemas ``Up``, ``Down`` and ``Said``.

    Raises
    ------
    ValueError
        If something else is called so there already.
    """
    there = document["components"]["schemas"]
    ours = frozenset(
        name for name, one in vars(messages).items() if getattr(one, "__module__", "") == messages.__name__
    )
    at = "#/components/schemas/{model}"
    either: dict[str, TypeAdapter[Any]] = {"Up": messages.UP, "Down": messages.DOWN}
    for name, told in either.items():
        found = told.json_schema(ref_template=at)
        _add(there, {**found.pop("$defs"), name: found}, ours)
    _, said = models_json_schema([(messages.Said, "serialization")], ref_template=at)
    _add(there, said["$defs"], ours)


def _add(there: dict[str, Any], more: dict[str, Any], ours: frozenset[str]) -> None:
    """Adds schemas; what both speak of, as edits, stays as it stands there."""
    for name, schema in more.items():
        if there.setdefault(name, schema) != schema and name in ours:
            raise ValueError(f"two things are called {name} in the API's document")
