"""Fewer keys for dense curves: smooth pieces as long as a stated error allows."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt
from numba import njit

Array = npt.NDArray[np.float64]


@njit(cache=True)
def _slopes(values, out):  # type: ignore[no-untyped-def]
    """Slopes (F,) of values (F,) at frames one apart: of the parabola through each and its neighbours."""
    count = len(values)
    for n in range(count):
        if count == 1:
            out[n] = 0.0
        elif n == 0:
            out[n] = values[1] - values[0] if count == 2 else -1.5 * values[0] + 2.0 * values[1] - 0.5 * values[2]
        elif n == count - 1:
            out[n] = (
                values[n] - values[n - 1] if count == 2 else 1.5 * values[n] - 2.0 * values[n - 1] + 0.5 * values[n - 2]
            )
        else:
            out[n] = 0.5 * (values[n + 1] - values[n - 1])


@njit(cache=True)
def _piece(values, a, b, slope_a, slope_b, tolerance, best):  # type: ignore[no-untyped-def]
    """The largest error of one smooth piece from frame ``a`` to ``b``, with its handles in ``best (2,)``.

    Both handles are a third of the gap long; their values are fitted by least squares. Where the slopes at the ends do
    as well, those are taken, so that pieces join without a corner.
    """
    gap = b - a
    s11 = s12 = s22 = r1 = r2 = 0.0
    va, vb = values[a], values[b]
    for n in range(a + 1, b):
        t = (n - a) / gap
        u = 1.0 - t
        c1, c2 = 3.0 * u * u * t, 3.0 * u * t * t
        rest = values[n] - (u * u * u * va + c1 * va + c2 * vb + t * t * t * vb)
        s11 += c1 * c1
        s12 += c1 * c2
        s22 += c2 * c2
        r1 += c1 * rest
        r2 += c2 * rest
    best[0], best[1] = slope_a * gap / 3.0, -slope_b * gap / 3.0
    worst = _worst(values, a, b, best)
    if worst <= tolerance:
        return worst
    det = s11 * s22 - s12 * s12
    if det > 1e-18:
        best[0], best[1] = (r1 * s22 - r2 * s12) / det, (r2 * s11 - r1 * s12) / det
        return _worst(values, a, b, best)
    return worst


@njit(cache=True)
def _worst(values, a, b, handles):  # type: ignore[no-untyped-def]
    gap = b - a
    va, vb = values[a], values[b]
    worst = 0.0
    for n in range(a + 1, b):
        t = (n - a) / gap
        u = 1.0 - t
        c1, c2 = 3.0 * u * u * t, 3.0 * u * t * t
        found = u * u * u * va + c1 * (va + handles[0]) + c2 * (vb + handles[1]) + t * t * t * vb
        worst = max(worst, abs(found - values[n]))
    return worst


@njit(cache=True)
def _thinned(values, tolerance, fixed, keys, handles):  # type: ignore[no-untyped-def]
    """Fills ``keys`` with frames and ``handles (.., 2)`` with those of the pieces after them; how many keys there are.

    Each piece is as long as it can be: its length is doubled until it fails, then halved in on.
    """
    count = len(values)
    slopes = np.empty(count)
    _slopes(values, slopes)
    best, kept = np.empty(2), np.empty(2)
    keys[0] = 0
    used = 1
    a = 0
    while a < count - 1:
        limit = count - 1
        for n in range(a + 1, count):
            if fixed[n]:
                limit = n
                break
        good = a + 1
        kept[0] = kept[1] = 0.0
        kept[0] = (values[good] - values[a]) / 3.0
        kept[1] = -kept[0]
        step = 2
        bad = limit + 1
        while good < limit:
            b = min(a + step, limit)
            if b <= good:
                break
            if _piece(values, a, b, slopes[a], slopes[b], tolerance, best) <= tolerance:
                good = b
                kept[:] = best
                step *= 2
            else:
                bad = b
                break
        while bad - good > 1:
            b = (good + bad) // 2
            if _piece(values, a, b, slopes[a], slopes[b], tolerance, best) <= tolerance:
                good = b
                kept[:] = best
            else:
                bad = b
        handles[used - 1] = kept
        keys[used] = good
        used += 1
        a = good
    return used


@njit(cache=True)
def _thin_all(values, tolerances, fixed, keys, handles, used):  # type: ignore[no-untyped-def]
    for c in range(len(values)):
        used[c] = _thinned(values[c], tolerances[c], fixed[c], keys[c], handles[c])


def thinned(
    values: Array, tolerances: Array, fixed: npt.NDArray[np.bool_] | None = None
) -> list[tuple[npt.NDArray[np.int64], Array]]:
    """Keys for dense curves: of each its frames (K,), and the values of the handles (K - 1, 2) of the pieces between.

    Parameters
    ----------
    values : (C, F) at frames one apart
    tolerances : (C,) the largest error at any frame
    fixed : (C, F) frames that get a key in any case

    Notes
    -----
    As in Schneider's fit ("An Algorithm for Automatically Fitting Digitized Curves", Graphics Gems, 1990) handles are
    found by least squares; but a piece here is a function of time, and the longest that keeps the error is taken from
    each key on, instead of halving where the error is largest.
    """
    values = np.ascontiguousarray(values, float)
    count, frames = values.shape
    fixed = np.zeros((count, frames), bool) if fixed is None else fixed
    keys = np.zeros((count, frames), np.int64)
    handles = np.zeros((count, frames, 2))
    used = np.zeros(count, np.int64)
    _thin_all(values, np.asarray(tolerances, float), fixed, keys, handles, used)
    return [(keys[c, :n].copy(), handles[c, : n - 1].copy()) for c, n in enumerate(used.tolist())]
