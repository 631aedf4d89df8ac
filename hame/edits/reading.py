"""Edits of JSON: what scripts, the command line and the server's interface are given."""

from __future__ import annotations

from collections.abc import Mapping
from typing import TYPE_CHECKING, Annotated, Any, Union

from pydantic import Field, TypeAdapter, ValidationError

from hame.edits.edit import Edit
from hame.edits.kinds import ALL
from hame.errors import BadEdit

if TYPE_CHECKING:
    AnyEdit = Edit
else:
    AnyEdit = Annotated[Union[ALL], Field(discriminator="kind")]  # noqa: UP007  made of what there is

_any: TypeAdapter[Edit] = TypeAdapter(AnyEdit)


def edit_from_json(data: Mapping[str, Any]) -> Edit:
    """The edit of its ``kind`` and fields.

    Raises
    ------
    BadEdit
        If there is no such kind, or a field is missing or of another type.
    """
    try:
        return _any.validate_python(data)
    except ValidationError as error:
        first = error.errors()[0]
        where = " ".join(str(part) for part in first["loc"])
        raise BadEdit(f"not an edit: {where}: {first['msg']}".replace(": : ", ": ")) from None


def edit_to_json(edit: Edit) -> dict[str, Any]:
    """What :func:`edit_from_json` takes."""
    found: dict[str, Any] = TypeAdapter(type(edit)).dump_python(edit, mode="json")
    return found


def schema() -> dict[str, Any]:
    """The JSON Schema of all kinds, with units and bounds."""
    return _any.json_schema()
