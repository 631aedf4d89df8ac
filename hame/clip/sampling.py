"""Reading a clip's channels at any frames, in one compiled pass over all of them."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
from numba import njit

from hame.clip.curve import Curve
from hame.clip.key import (
    BEZIER,
    FRAME,
    HANDLES,
    IN_TIME,
    IN_VALUE,
    LINEAR,
    OUT_TIME,
    OUT_VALUE,
    SHAPE,
    STEP,
    STRENGTH,
    VALUE,
    Array,
    no_keys,
)
from hame.maths.bezier import bezier_value, fit
from hame.maths.eases import eased

STEPPED, STRAIGHT, SMOOTH = float(STEP), float(LINEAR), float(BEZIER)  # as they stand in a table


@dataclass(frozen=True)
class Table:
    """Curves of many channels laid end to end for the compiled sampler.

    Attributes
    ----------
    starts : (C + 1,) int64, where each channel's keys begin; equal to the next where it has none
    keys : (K, 9) tables of :class:`~hame.clip.curve.Curve`, one after the other
    rest : (C,) values of channels without keys
    """

    starts: npt.NDArray[np.int64]
    keys: Array
    rest: Array


def tabulate(curves: Mapping[str, Curve], channels: Sequence[str], rest: Array) -> Table:
    """Lays curves by address out in the order of ``channels (C,)``; curves of other channels are left out."""
    starts = np.zeros(len(channels) + 1, np.int64)
    blocks: list[Array] = []
    for number, channel in enumerate(channels):
        found = curves.get(channel)
        if found is not None:
            blocks.append(found.table)
        starts[number + 1] = starts[number] + (0 if found is None else len(found))
    keys = np.concatenate(blocks) if blocks else no_keys()
    return Table(starts, keys, rest)


def sample(table: Table, frames: Array) -> Array:
    """Channel values ``(F, C)`` at ``frames (F,)``, which need not be whole.

    Before its first and after its last key a channel keeps that key's value.
    """
    out = np.empty((len(frames), len(table.rest)))
    _sample(table.starts, table.keys, table.rest, np.asarray(frames, float), out)
    return out


def sample_curve(curve: Curve, frames: Array) -> Array:
    """Values ``(F,)`` of one curve at ``frames (F,)``."""
    return sample(Table(np.array([0, len(curve)]), curve.table, np.zeros(1)), frames)[:, 0]


@njit(cache=True, nogil=True)
def _sample(starts, keys, rest, frames, out):  # type: ignore[no-untyped-def]
    for c in range(len(rest)):
        first, last = starts[c], starts[c + 1] - 1
        k = first
        for n in range(len(frames)):
            frame = frames[n]
            # One loop after all: calls from here, even such as are put in their place, take twice as long (bench.core).
            if last < first:
                out[n, c] = rest[c]
                continue
            if frame <= keys[first, FRAME]:
                out[n, c] = keys[first, VALUE]
                continue
            if frame >= keys[last, FRAME]:
                out[n, c] = keys[last, VALUE]
                continue
            if keys[k, FRAME] > frame:
                k = first  # frames need not come in order
            while keys[k + 1, FRAME] <= frame:
                k += 1
            gap = keys[k + 1, FRAME] - keys[k, FRAME]
            t = frame - keys[k, FRAME]
            v0, v1 = keys[k, VALUE], keys[k + 1, VALUE]
            shape = keys[k, SHAPE]
            if shape == STEPPED or t == 0.0:
                out[n, c] = v0
            elif shape == STRAIGHT or v0 == v1 and keys[k, OUT_VALUE] == 0.0 and keys[k + 1, IN_VALUE] == 0.0:
                out[n, c] = v0 + (v1 - v0) * t / gap
            elif shape > SMOOTH:
                out[n, c] = v0 + (v1 - v0) * eased(int(shape), keys[k, STRENGTH], t / gap)
            else:
                out_t, out_v = max(keys[k, OUT_TIME], 0.0), keys[k, OUT_VALUE]
                in_t, in_v = min(keys[k + 1, IN_TIME], 0.0), keys[k + 1, IN_VALUE]
                if keys[k, HANDLES] != 0.0 or keys[k + 1, HANDLES] != 0.0:
                    share = fit(gap, out_t, in_t)
                    out_t, out_v, in_t, in_v = share * out_t, share * out_v, share * in_t, share * in_v
                out[n, c] = bezier_value(gap, v0, v1, out_t, out_v, in_t, in_v, t)
