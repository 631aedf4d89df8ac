"""Pictures that people put in: checked by what they are, not by what they are called."""

from __future__ import annotations

from hame.errors import BadFile

_STARTS = {"image/png": b"\x89PNG\r\n\x1a\n", "image/jpeg": b"\xff\xd8\xff"}


def type_of(data: bytes, limit: int) -> str:
    """``image/png``, ``image/jpeg`` or ``image/webp``.

    Raises
    ------
    BadFile
        If it is none of them, or larger than ``limit`` bytes.
    """
    if len(data) > limit:
        raise BadFile(
            f"the picture has {len(data) / 1e6:.1f} MB; at most {limit / 1e6:.0f} MB are taken. Nothing was stored"
        )
    for kind, start in _STARTS.items():
        if data.startswith(start):
            return kind
    if data[:4] == b"RIFF" and data[8:12] == b"WEBP":
        return "image/webp"
    raise BadFile("this is no PNG, JPEG or WebP picture; nothing was stored")
