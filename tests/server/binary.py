"""Reading what the server packs for the page, as the page does."""

from __future__ import annotations

import json
import struct
from dataclasses import dataclass

import numpy as np


@dataclass(frozen=True)
class Frames:
    joints: np.ndarray  # (F, J, 8)
    controls: np.ndarray  # (F, K, 12)
    values: np.ndarray  # (F, C)


def motion_of(data: bytes) -> tuple[int, int, dict[int, Frames]]:
    """Revision, first frame, and frames by casting; nothing may be left over."""
    revision, first, count, figures = struct.unpack_from("<IiII", data)
    at = 16 + 16 * figures
    found = {}
    for n in range(figures):
        casting, j, k, c = struct.unpack_from("<IIII", data, 16 + 16 * n)
        parts = []
        for shape in ((count, j, 8), (count, k, 12), (count, c)):
            size = int(np.prod(shape))
            parts.append(np.frombuffer(data, "<f4", size, at).reshape(shape))
            at += 4 * size
        found[casting] = Frames(*parts)
    assert at == len(data)
    return revision, first, found


@dataclass(frozen=True)
class Moved:
    changed: dict[int, float]
    joints: np.ndarray  # (J, 8)


def drag_of(data: bytes) -> tuple[int, dict[int, Moved]]:
    """Sequence number, and by casting what moved; of a drag's start its revision may follow."""
    seq, found, rest = pull_of(data)
    assert not rest or set(json.loads(rest)) == {"revision"}
    return seq, found


def pull_of(data: bytes) -> tuple[int, dict[int, Moved], bytes]:
    """The same of a pull, and what follows: JSON of what gave."""
    seq, figures = struct.unpack_from("<II", data)
    at = 8 + 16 * figures
    found = {}
    for m in range(figures):
        casting, j, k, n = struct.unpack_from("<IIII", data, 8 + 16 * m)
        pairs = np.frombuffer(data, "<f8", n * 2, at).reshape(n, 2)
        joints = np.frombuffer(data, "<f4", j * 8, at + 16 * n).reshape(j, 8)
        found[casting] = Moved({int(c): float(v) for c, v in pairs}, joints)
        at += 16 * n + 4 * (j * 8 + k * 12)
    return seq, found, data[at:]
