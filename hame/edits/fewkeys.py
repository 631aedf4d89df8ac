"""A stretch of a curve laid anew through values, with as few keys as a person would set."""

from __future__ import annotations

from functools import lru_cache
from itertools import pairwise
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from hame.clip.curve import Curve, from_table
from hame.clip.key import BEZIER, FRAME, FREE_BOTH, HANDLES, IN_TIME, IN_VALUE, OUT_TIME, OUT_VALUE, SHAPE, VALUE
from hame.edits.cleaning import fitted_table
from hame.edits.merging import parted_at
from hame.maths.rotations import Array
from hame.maths.thinning import BETWEEN, SUB, thinned

MOST_KEYS = 6
THINNED = 0.0014
"""Metres that it may be off along each axis where that saves keys: two millimetres in all."""
PLAYED = 0.005  # metres that it may be off between frames, where it is as near as can be on those that are played
LONG = 60  # frames: a longer stretch is thinned as other motion is
_FINE, _BETWEEN = 0.00002, 0.05  # how near keys hold it if few are enough; what counts what is between frames


def refitted(curve: Curve, first: int, last: int, values: Array) -> Curve:
    """A curve that goes through values (T,) at the times between two frames, with few keys, and elsewhere as it did.

    At both frames themselves it has the first and the last of them; where these are new, it goes there from beside.
    """
    table = parted_at(curve, np.array([float(first), float(last)]))
    inner = few_keys(values)
    inner[:, FRAME] += first
    before, after = table[table[:, FRAME] <= first], table[table[:, FRAME] >= last]
    before[-1, VALUE], after[0, VALUE] = values[0], values[-1]
    before[-1, [OUT_TIME, OUT_VALUE]] = inner[0, [OUT_TIME, OUT_VALUE]]
    before[-1, SHAPE] = BEZIER
    after[0, [IN_TIME, IN_VALUE]] = inner[-1, [IN_TIME, IN_VALUE]]
    before[-2:, HANDLES] = after[:2, HANDLES] = FREE_BOTH  # what lies beyond is not led by what is new
    return from_table(np.concatenate([before, inner[1:-1], after]))


def few_keys(values: Array) -> Array:
    """The table of keys through values (T,), from frame 0 on: as few as hold them, or else as many as one may have."""
    for near in (_FINE, THINNED):
        keys, handles = thinned(np.ascontiguousarray(values)[None], np.array([BETWEEN * near]), None, SUB)[0]
        if near == THINNED or len(keys) <= MOST_KEYS:
            break
        if len(values) <= SUB * LONG:
            few, cubics, off = _through_frames(values, MOST_KEYS - 1)
            if off <= PLAYED:
                keys, handles = few, cubics
                break
    return fitted_table(np.asarray(keys, float), values[SUB * keys], handles, np.full(len(keys), float(BEZIER)))


def _through_frames(values: Array, most: int) -> tuple[npt.NDArray[np.int64], Array, float]:
    """Keys (K,) with at most so many gaps, and handles (K - 1, 2) at thirds of these, with which a curve goes through
    values (T,) best: through those of whole frames first, so that what is played falls evenly whatever the arms do.

    The gaps are those whose squares come to least, looked for one after another (dynamic programming). The third is how
    far it is off at most, between frames too.
    """
    count = (len(values) - 1) // SUB + 1
    cubics = {(a, b): _cubic(values[SUB * a : SUB * b + 1]) for b in range(1, count) for a in range(b)}
    least = np.full((most + 1, count), np.inf)
    least[0, 0] = 0.0
    came = np.zeros((most + 1, count), np.int64)
    for gaps in range(1, most + 1):
        for b in range(1, count):
            costs = [least[gaps - 1, a] + cubics[a, b].cost for a in range(b)]
            came[gaps, b] = int(np.argmin(costs))
            least[gaps, b] = costs[came[gaps, b]]
    gaps = int(np.argmin(least[:, -1]))
    keys = [count - 1]
    for left in range(gaps, 0, -1):
        keys.append(int(came[left, keys[-1]]))
    keys.reverse()
    mine = [cubics[pair] for pair in pairwise(keys)]
    return np.array(keys), np.array([cubic.handles for cubic in mine]), max(cubic.off for cubic in mine)


class _Cubic(NamedTuple):
    """Two handles, the weighted squares of what is left, and how far it is off at most."""

    handles: tuple[float, float]
    cost: float
    off: float


def _cubic(values: Array) -> _Cubic:
    """The cubic through the first and last of values (T,) that is nearest to the others."""
    ends, adds, counts, back = _cubics(len(values))
    there = ends @ values[[0, -1]]
    found = back @ ((values - there) * counts)
    left = there + adds @ found - values
    return _Cubic((float(found[0]), float(found[1])), float(((counts * left) ** 2).sum()), float(np.abs(left).max()))


@lru_cache(maxsize=SUB * LONG)
def _cubics(count: int) -> tuple[Array, Array, Array, Array]:
    """Of so many values along a cubic: what its ends (T, 2) and its handles (T, 2) add (Bernstein's polynomials), what
    each counts for (T,), and what finds the handles of least squares (2, T).
    """
    u = np.linspace(0.0, 1.0, count)
    # From the one that is level at both ends.
    ends = np.stack([(1.0 - u) ** 2 * (1.0 + 2.0 * u), u**2 * (3.0 - 2.0 * u)], axis=1)
    adds = np.stack([3.0 * u * (1.0 - u) ** 2, 3.0 * u**2 * (1.0 - u)], axis=1)
    counts = np.where(np.arange(count) % SUB == 0, 1.0, _BETWEEN)
    return ends, adds, counts, np.asarray(np.linalg.pinv(adds * counts[:, None]))
