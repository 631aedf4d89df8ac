"""Pictures for tests."""

from __future__ import annotations

import struct
import zlib


def png(width: int = 8, height: int = 6, told: tuple[int, int] | None = None) -> bytes:
    """A small grey picture; ``told`` is the size that its head claims."""

    def chunk(kind: bytes, data: bytes) -> bytes:
        return struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))

    rows = b"".join(b"\0" + b"\x80" * width for _ in range(height))
    head = struct.pack(">IIBBBBB", *(told or (width, height)), 8, 0, 0, 0, 0)
    return b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head) + chunk(b"IDAT", zlib.compress(rows)) + chunk(b"IEND", b"")
