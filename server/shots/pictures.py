"""Pictures that people put in: checked by what they are, not by what they are called."""

from __future__ import annotations

from io import BytesIO
from pathlib import PurePath
from typing import Any

from django.core.files.base import ContentFile
from PIL import Image, UnidentifiedImageError

from hame.errors import BadFile
from server.rows import changing
from server.shots.removal import delete_files

_TYPES = {"PNG": "image/png", "JPEG": "image/jpeg", "WEBP": "image/webp"}
_BY_ENDING = {".png": "image/png", ".jpeg": "image/jpeg", ".jpg": "image/jpeg", ".webp": "image/webp"}
MOST_PIXELS = 40_000_000  # unpacked in a browser a pixel takes four bytes
LONGEST = 16_000


def type_of(data: bytes, limit: int) -> str:
    """``image/png``, ``image/jpeg`` or ``image/webp``.

    Only its head is read, so that a picture of many pixels costs nothing here.

    Raises
    ------
    BadFile
        If it is none of them, larger than ``limit`` bytes, or of too many pixels.
    """
    if len(data) > limit:
        raise BadFile(
            f"the picture has {len(data) / 1e6:.1f} MB; at most {limit / 1e6:.1f} MB are taken. Nothing was stored"
        )
    try:
        with Image.open(BytesIO(data), formats=list(_TYPES)) as picture:
            kind, (width, height) = picture.format or "", picture.size
    except (UnidentifiedImageError, Image.DecompressionBombError, OSError, ValueError, SyntaxError) as error:
        if isinstance(error, Image.DecompressionBombError):
            raise BadFile("the picture has too many pixels; nothing was stored") from None
        raise BadFile("this is no PNG, JPEG or WebP picture; nothing was stored") from None
    if width * height > MOST_PIXELS or max(width, height) > LONGEST:
        raise BadFile(
            f"the picture has {width:,} x {height:,} pixels; at most {MOST_PIXELS // 1_000_000} million are taken, and "
            f"{LONGEST:,} on a side. Nothing was stored"
        )
    return _TYPES[kind]


def stored_type(name: str) -> str:
    """The type of a picture that was stored under a name."""
    return _BY_ENDING.get(PurePath(name).suffix.lower(), "application/octet-stream")


def put(row: Any, field: str, name: str, data: bytes) -> None:
    """Stores a picture in a field of a row, whose other fields are left alone; the one before is deleted."""
    with changing(row) as now:
        old = getattr(now, field)
        before = type(old)(now, old.field, old.name)
        old.save(name, ContentFile(data), save=False)
    delete_files([before])
