"""Fewer keys for dense curves: smooth pieces as long as a stated error allows, joined without corners.

Keys are first laid as far apart as pieces that join anyhow allow. Then the
slopes at all keys are found together, one for both sides of a key, and where
that takes a piece too far off it gets a key more. Only where a curve has a
corner itself, as on a landing, the two sides of a key stay parted.
"""

from __future__ import annotations

import numpy as np
import numpy.typing as npt
from numba import njit

Array = npt.NDArray[np.float64]
SUB = 4
"""Values a frame that a fit is held to where it has to hold between frames as well."""
BETWEEN = 0.97
"""The share of the tolerance that is held at those times, so that it holds at all others."""
CORNER = 3.0
"""How many tolerances one slope for both sides of a key would be off where the curve has a corner there."""
SLACK = 0.6
"""The share of the tolerance within which keys are first laid: with what is left, slopes can be made to agree."""


@njit(cache=True, nogil=True)
def _piece(values, sub, a, b, best):  # type: ignore[no-untyped-def]
    """The largest error of one smooth piece from frame ``a`` to ``b``, with its handles in ``best (2,)``.

    Both handles are a third of the gap long; their values are fitted by least squares. There are ``sub`` values a
    frame.
    """
    gap = (b - a) * sub
    s11 = s12 = s22 = r1 = r2 = 0.0
    va, vb = values[a * sub], values[b * sub]
    for n in range(a * sub + 1, b * sub):
        t = (n - a * sub) / gap
        u = 1.0 - t
        c1, c2 = 3.0 * u * u * t, 3.0 * u * t * t
        rest = values[n] - (u * u * u * va + c1 * va + c2 * vb + t * t * t * vb)
        s11 += c1 * c1
        s12 += c1 * c2
        s22 += c2 * c2
        r1 += c1 * rest
        r2 += c2 * rest
    det = s11 * s22 - s12 * s12
    if det > 1e-18:
        best[0], best[1] = (r1 * s22 - r2 * s12) / det, (r2 * s11 - r1 * s12) / det
    elif gap > 1:  # one value between, which any two handles of a line of them meet
        best[0] = best[1] = r1 / (s11 + s12)
    else:
        best[0] = (vb - va) / 3.0
        best[1] = -best[0]
    return _worst(values, sub, a, b, best)[0]


@njit(cache=True, nogil=True)
def _worst(values, sub, a, b, handles):  # type: ignore[no-untyped-def]
    """The largest error of a piece with given handles, and the whole frame inside it that is nearest to where it is."""
    gap = (b - a) * sub
    va, vb = values[a * sub], values[b * sub]
    worst, at = 0.0, a * sub
    for n in range(a * sub + 1, b * sub):
        t = (n - a * sub) / gap
        u = 1.0 - t
        c1, c2 = 3.0 * u * u * t, 3.0 * u * t * t
        found = u * u * u * va + c1 * (va + handles[0]) + c2 * (vb + handles[1]) + t * t * t * vb
        off = abs(found - values[n])
        if off > worst:
            worst, at = off, n
    return worst, min(max((at + sub // 2) // sub, a + 1), b - 1)


@njit(cache=True, nogil=True)
def _thinned(values, sub, tolerance, fixed, keys, handles):  # type: ignore[no-untyped-def]
    """Fills ``keys`` with frames and ``handles (.., 2)`` with those of the pieces after them; how many keys there are.

    Each piece is as long as it can be: its length is doubled until it fails, then halved in on.
    """
    count = len(fixed)
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
        _piece(values, sub, a, good, kept)
        step = 2
        bad = limit + 1
        while good < limit:
            b = min(a + step, limit)
            if b <= good:
                break
            if _piece(values, sub, a, b, best) <= tolerance:
                good = b
                kept[:] = best
                step *= 2
            else:
                bad = b
                break
        while bad - good > 1:
            b = (good + bad) // 2
            if _piece(values, sub, a, b, best) <= tolerance:
                good = b
                kept[:] = best
            else:
                bad = b
        handles[used - 1] = kept
        keys[used] = good
        used += 1
        a = good
    return used


@njit(cache=True, nogil=True)
def _corners(keys, count, handles, tolerance, corner):  # type: ignore[no-untyped-def]
    """Marks the keys at which the pieces beside part by more than one slope for both could make up for."""
    corner[:] = False
    for k in range(1, count - 1):
        before, after = keys[k] - keys[k - 1], keys[k + 1] - keys[k]
        apart = abs(3.0 * handles[k, 0] / after + 3.0 * handles[k - 1, 1] / before)
        # Half of it each has to give, and a slope bends a piece by 4/27 of its length at most. Of short pieces nothing
        # can be told: two slopes meet whatever lies between.
        corner[keys[k]] = min(before, after) > 3 and apart * min(before, after) * 2.0 / 27.0 > CORNER * tolerance


@njit(cache=True, nogil=True)
def _join(values, sub, keys, count, corner, handles):  # type: ignore[no-untyped-def]
    """Fills ``handles`` by least squares with one slope at each key, or two where it is a corner.

    The normal equations of cubic Hermite pieces are tridiagonal in the slopes.
    """
    size = 0
    into, out = np.empty(count, np.int64), np.empty(count, np.int64)
    for k in range(count):
        into[k] = size
        if corner[keys[k]] and 0 < k < count - 1:
            size += 1
        out[k] = size
        size += 1
    own, beside, slopes = np.full(size, 1e-12), np.zeros(size), np.zeros(size)
    for k in range(count - 1):
        a, b = keys[k], keys[k + 1]
        gap = b - a
        i, j = out[k], into[k + 1]
        va, vb = values[a * sub], values[b * sub]
        if gap * sub == 1:  # nothing between to go by: as straight as the pieces beside allow
            for n in (i, j):
                own[n] += 1e-6
                slopes[n] += 1e-6 * (vb - va)
        for n in range(a * sub + 1, b * sub):
            t = (n - a * sub) / (gap * sub)
            u = 1.0 - t
            c1, c2 = gap * u * u * t, -gap * u * t * t
            rest = values[n] - (u * u * (u + 3.0 * t) * va + t * t * (t + 3.0 * u) * vb)
            own[i] += c1 * c1
            own[j] += c2 * c2
            beside[i] += c1 * c2
            slopes[i] += c1 * rest
            slopes[j] += c2 * rest
    for n in range(1, size):
        share = beside[n - 1] / own[n - 1]
        own[n] -= share * beside[n - 1]
        slopes[n] -= share * slopes[n - 1]
    slopes[size - 1] /= own[size - 1]
    for n in range(size - 2, -1, -1):
        slopes[n] = (slopes[n] - beside[n] * slopes[n + 1]) / own[n]
    for k in range(count - 1):
        gap = keys[k + 1] - keys[k]
        handles[k, 0], handles[k, 1] = slopes[out[k]] * gap / 3.0, -slopes[into[k + 1]] * gap / 3.0


@njit(cache=True, nogil=True)
def _joined(values, sub, frames, tolerance, keys, count, handles):  # type: ignore[no-untyped-def]
    """Joins pieces without corners, with keys more where that takes them too far off; how many keys there are then."""
    corner, more = np.zeros(frames, np.bool_), np.zeros(frames, np.bool_)
    _corners(keys, count, handles, tolerance, corner)
    while True:
        _join(values, sub, keys, count, corner, handles)
        more[:] = False
        added = 0
        for k in range(count - 1):
            worst, at = _worst(values, sub, keys[k], keys[k + 1], handles[k])
            if worst > tolerance and keys[k + 1] - keys[k] > 1:
                more[at] = True
                added += 1
        if not added:
            return count
        k, n = count - 1, count + added - 1
        for frame in range(frames - 1, -1, -1):  # from the end on, as the keys lie in the same array
            if keys[k] == frame or more[frame]:
                if keys[k] == frame:
                    k -= 1
                keys[n] = frame
                n -= 1
            if n < 0:
                break
        count += added


@njit(cache=True, nogil=True)
def _thin_all(values, sub, tolerances, fixed, keys, handles, used):  # type: ignore[no-untyped-def]
    for c in range(len(values)):
        count = _thinned(values[c], sub, SLACK * tolerances[c], fixed[c], keys[c], handles[c])
        used[c] = _joined(values[c], sub, len(fixed[c]), tolerances[c], keys[c], count, handles[c])


def thinned(
    values: Array, tolerances: Array, fixed: npt.NDArray[np.bool_] | None = None, sub: int = 1
) -> list[tuple[npt.NDArray[np.int64], Array]]:
    """Keys for dense curves: of each its frames (K,), and the values of the handles (K - 1, 2) of the pieces between.

    Parameters
    ----------
    values : (C, sub (F - 1) + 1) at ``sub`` times a frame, the first and the last on whole frames
    tolerances : (C,) the largest error at any of these; where a gap of one frame holds more, no key can help
    fixed : (C, F) frames that get a key in any case

    Notes
    -----
    As in Schneider's fit ("An Algorithm for Automatically Fitting Digitized Curves", Graphics Gems, 1990) handles are
    found by least squares, and the two sides of a key go on from one another. But a piece here is a function of time,
    the longest that keeps the error is taken from each key on instead of halving where the error is largest, and the
    slopes at all keys are solved together.
    """
    values = np.ascontiguousarray(values, float)
    count, frames = len(values), (values.shape[1] - 1) // sub + 1
    fixed = np.zeros((count, frames), bool) if fixed is None else fixed
    keys = np.zeros((count, frames), np.int64)
    handles = np.zeros((count, frames, 2))
    used = np.zeros(count, np.int64)
    _thin_all(values, sub, np.asarray(tolerances, float), fixed, keys, handles, used)
    return [(keys[c, :n].copy(), handles[c, : n - 1].copy()) for c, n in enumerate(used.tolist())]


def between_frames(first: float, last: float) -> Array:
    """The times (T,) from a whole frame to another at which a fit is held to a curve, SUB a frame."""
    return np.arange(SUB * int(last - first) + 1) / SUB + first


def straightened(values: Array, fixed: npt.NDArray[np.bool_]) -> Array:
    """``values (C, SUB (F - 1) + 1)``, straight in gaps of one frame between two ``fixed (C, F)`` frames.

    There a stepped way jumps at its end, which no smooth piece can follow, and none has to: it stays stepped.
    """
    found = values.copy()
    for c, n in zip(*np.nonzero(fixed[:, :-1] & fixed[:, 1:]), strict=True):
        a, b = found[c, SUB * n], found[c, SUB * (n + 1)]
        found[c, SUB * n : SUB * (n + 1) + 1] = np.linspace(a, b, SUB + 1)
    return found
