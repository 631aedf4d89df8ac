"""What carried a row of joints when its spring was taken as keys, kept to tell whether it goes otherwise since."""

from __future__ import annotations

import base64
import binascii
import zlib
from collections.abc import Iterator
from typing import NamedTuple

import numpy as np

from hame.character.rig import Rig
from hame.clip.clip import Clip
from hame.clip.spans import control_of
from hame.clip.spring import Spring
from hame.errors import BadEdit
from hame.evaluate.springs.rows import Row, row_of
from hame.maths.rotations import Array

_FINE = 1e-4  # metres, and of a quaternion: so finely it is kept
_MOST = 1 << 22  # bytes: more is none of ours
MOVED, TURNED = 0.001, np.radians(0.25)  # metres and radians: less is not seen in what swings


class Since(NamedTuple):
    """How far what carries a row lies at most from where it was, metres and radians, and on which frame."""

    metres: float
    radians: float
    frame: int

    @property
    def seen(self) -> bool:
        return self.metres > MOVED or self.radians > TURNED


def trace_of(nodes: Array) -> str:
    """Transforms ``(F, 8)`` of whole frames as a short text; how far a body goes counts in it, not from where on."""
    rows = np.concatenate([nodes[:, :3] - nodes[:1, :3], nodes[:, 3:7]], axis=1)
    steps = np.diff(np.round(rows / _FINE), axis=0, prepend=0.0).astype("<i4")
    return base64.b64encode(zlib.compress(steps.tobytes(), 9)).decode("ascii")


def read_trace(trace: str) -> Array:
    """Places and turns ``(F, 7)`` out of such a text; raises :class:`BadEdit` for one that is none."""
    try:
        packed = zlib.decompressobj()
        data = packed.decompress(base64.b64decode(trace, validate=True), _MOST)
        rows = np.frombuffer(data, "<i4").reshape(-1, 7)
    except (ValueError, binascii.Error, zlib.error):
        raise BadEdit("a spring that was taken as keys has a trace of its motion that cannot be read") from None
    return np.cumsum(rows, axis=0) * _FINE


def since(span: Spring, nodes: Array, first: int) -> Since | None:
    """How far transforms ``(F, 8)`` on frames from ``first`` on lie from those that a spring was taken from; None where
    they have no two frames in common.

    A spring that lasts longer now, as all of the motion does, went as much slower.
    """
    was = read_trace(span.taken)
    times = np.linspace(span.start, span.end, len(was)) - first
    mine = (times > -1e-9) & (times < len(nodes) - 1 + 1e-9)
    if mine.sum() < 2:
        return None
    was, times = was[mine], np.clip(times[mine], 0.0, len(nodes) - 1)
    row = np.minimum(times.astype(np.int64), max(len(nodes) - 2, 0))
    share = (times - row)[:, None]
    one, two = nodes[row, :7], nodes[np.minimum(row + 1, len(nodes) - 1), :7].copy()
    two[(one[:, 3:] * two[:, 3:]).sum(axis=1) < 0.0, 3:] *= -1.0  # the same turn, told from the nearer side
    now = one + share * (two - one)
    far = np.linalg.norm((now[:, :3] - now[0, :3]) - (was[:, :3] - was[0, :3]), axis=1)
    sizes = np.linalg.norm(was[:, 3:], axis=1) * np.linalg.norm(now[:, 3:], axis=1)
    alike = np.abs((now[:, 3:] * was[:, 3:]).sum(axis=1)) / np.maximum(sizes, _FINE)
    turned = 2.0 * np.arccos(np.minimum(alike, 1.0))
    worst = int(np.argmax(far / MOVED + turned / TURNED))
    return Since(float(far.max()), float(turned.max()), first + round(float(times[worst])))


def taken_in(rig: Rig, clip: Clip) -> Iterator[tuple[str, Spring, Row]]:
    """The springs of a clip that were taken as keys, with their controls and the rows that they are of."""
    for track, span in clip.spans():
        if isinstance(span, Spring) and span.layer and rig.has_control(control_of(track)):
            row = row_of(rig, control_of(track))
            if row is not None:
                yield control_of(track), span, row
