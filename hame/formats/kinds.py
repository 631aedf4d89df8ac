"""Files that are read and written, by what they hold and by the end of their names. A format that is new is one row."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from pathlib import PurePath
from typing import Literal

from hame.errors import BadFile
from hame.formats.gltf_read import Character, read_character
from hame.formats.gltf_write import Handed, write_scene

Holds = Literal["character", "motions"]


@dataclass(frozen=True)
class Reader:
    """What reads a kind of file.

    Attributes
    ----------
    title : what a person calls such a file
    read : its bytes, and whether all of its surface may hang on single joints (a prop's); raises :class:`BadFile`
    """

    title: str
    read: Callable[[bytes, bool], Character]


@dataclass(frozen=True)
class Writer:
    """What writes a kind of file.

    Attributes
    ----------
    media : the media type
    write : those who are handed off, frames a second and a title, to bytes
    """

    title: str
    media: str
    write: Callable[[Sequence[Handed], float, str], bytes]


READERS: dict[tuple[Holds, str], Reader] = {("character", ".glb"): Reader("a skinned .glb (glTF 2.0)", read_character)}
WRITERS: dict[tuple[Holds, str], Writer] = {("motions", ".glb"): Writer("glTF", "model/gltf-binary", write_scene)}
FIRST = ".glb"  # what a file is taken for whose name ends otherwise, or says nothing


def suffix_of(name: str, holds: Holds = "character") -> str:
    """By which end a file of that name is read.

    >>> suffix_of("Brannoc.GLB"), suffix_of("no end at all")
    ('.glb', '.glb')
    """
    suffix = PurePath(name).suffix.lower()
    return suffix if (holds, suffix) in READERS else FIRST


def reader_for(holds: Holds, name: str) -> Reader:
    """The reader of a file by its name; it says itself what it cannot read."""
    return READERS[holds, suffix_of(name, holds)]


def writer_for(holds: Holds, suffix: str) -> Writer:
    """The writer for an end of a name.

    Raises
    ------
    BadFile
        If there is none.
    """
    found = WRITERS.get((holds, f".{suffix.lstrip('.').lower()}"))
    if found is None:
        known = ", ".join(suffix for kind, suffix in WRITERS if kind == holds)
        raise BadFile(f"there is no such file to hand off; these are: {known}")
    return found
