"""The compiled part of curves: two compared, and handles laid."""

from __future__ import annotations

from numba import njit

from hame.clip.key import (
    AUTO,
    CHORD,
    FLAT,
    FRAME,
    FREE,
    HANDLES,
    IN_TIME,
    IN_VALUE,
    NO_FIRST,
    NO_LAST,
    OUT_TIME,
    OUT_VALUE,
    SHAPE,
    STRENGTH,
    VALUE,
)


@njit(cache=True, nogil=True)
def compare_all(a, ends_a, b, ends_b, gone, new, spans):  # type: ignore[no-untyped-def]
    """Compares many curves, which lie one after the other in ``a (K, 9)`` and ``b (L, 9)``, their ends told.

    Parameters
    ----------
    gone, new : (K,) and (L,), True at first; False is written where a key is in both
    spans : (C, 2) filled with the frames between which a curve differs, kept keys that lead to them included
    """
    for c in range(len(spans)):
        m, n = ends_a[c], ends_a[c + 1]
        o, p = ends_b[c], ends_b[c + 1]
        low, high = _differ(a[m:n], b[o:p], gone[m:n], new[o:p])
        spans[c, 0], spans[c, 1] = _reached(a[m:n], gone[m:n], low, high)


@njit(cache=True, nogil=True)
def _differ(a, b, gone, new):  # type: ignore[no-untyped-def]
    """Marks the keys that are in both, and gives the first and last frame of those that are not."""
    i, j = 0, 0
    low, high = 1e18, -1e18
    while i < len(a) or j < len(b):
        if j >= len(b) or (i < len(a) and a[i, FRAME] < b[j, FRAME]):
            low, high = min(low, a[i, FRAME]), max(high, a[i, FRAME])
            i += 1
        elif i >= len(a) or b[j, FRAME] < a[i, FRAME]:
            low, high = min(low, b[j, FRAME]), max(high, b[j, FRAME])
            j += 1
        else:
            if _same(a[i], b[j]):
                gone[i] = False
                new[j] = False
            else:
                low, high = min(low, a[i, FRAME]), max(high, a[i, FRAME])
            i += 1
            j += 1
    return low, high


@njit(cache=True, nogil=True)
def _same(one, other):  # type: ignore[no-untyped-def]
    """Whether two keys of one frame hold the same; of handles, what does not follow from the keys."""
    if one[VALUE] != other[VALUE] or one[SHAPE] != other[SHAPE]:
        return False
    if one[HANDLES] != other[HANDLES] or one[STRENGTH] != other[STRENGTH]:
        return False
    code = int(one[HANDLES])
    kind_in, kind_out = code & 3, (code >> 2) & 3
    if (kind_in in (FREE, FLAT)) and one[IN_TIME] != other[IN_TIME]:
        return False
    if kind_in == FREE and one[IN_VALUE] != other[IN_VALUE]:
        return False
    if (kind_out in (FREE, FLAT)) and one[OUT_TIME] != other[OUT_TIME]:
        return False
    return not (kind_out == FREE and one[OUT_VALUE] != other[OUT_VALUE])


@njit(cache=True, nogil=True)
def _reached(a, gone, low, high):  # type: ignore[no-untyped-def]
    """The frames that a difference from ``low`` to ``high`` reaches: to the second key on each side that is kept."""
    if high < low:  # no key differs: only stored handles of an earlier version can; take it all
        return NO_FIRST, NO_LAST
    first, last = NO_FIRST, NO_LAST
    before, after = 0, 0
    for k in range(len(a) - 1, -1, -1):
        if not gone[k] and a[k, FRAME] < low:
            before += 1
            if before == 2:
                first = a[k, FRAME]
                break
    for k in range(len(a)):
        if not gone[k] and a[k, FRAME] > high:
            after += 1
            if after == 2:
                last = a[k, FRAME]
                break
    return first, last


@njit(cache=True, nogil=True)
def lay_all(keys, starts, ends):  # type: ignore[no-untyped-def]
    """Lays the handles of many curves in one table, in place; False if two frames of one are the same."""
    fine = True
    for c in range(len(starts)):
        fine = lay_handles_of(keys[starts[c] : ends[c]]) and fine
    return fine


@njit(cache=True, nogil=True)
def lay_handles_of(table):  # type: ignore[no-untyped-def]
    """Computes those handles in place that follow from the keys; False if two frames are the same.

    Automatic handles are a third of the gap long; their slope is zero at
    extremes and at the ends, and elsewhere the harmonic mean of the two
    neighbouring slopes, weighted by the gaps. Such a curve is monotone
    between keys, so it never overshoots them. Handles along the chord are a
    third of it; level ones have the length they were given.

    References
    ----------
    Fritsch and Butland, "A method for constructing local monotone piecewise
    cubic interpolants", SIAM J. Sci. Stat. Comput. 5(2), 1984.
    """
    count = table.shape[0]
    for i in range(count):
        before = table[i, FRAME] - table[i - 1, FRAME] if i > 0 else 0.0
        after = table[i + 1, FRAME] - table[i, FRAME] if i < count - 1 else 0.0
        if (i > 0 and before <= 0.0) or (i < count - 1 and after <= 0.0):
            return False
        code = int(table[i, HANDLES])
        kind_in, kind_out = code & 3, (code >> 2) & 3
        if kind_in == FREE and kind_out == FREE:
            continue
        left = (table[i, VALUE] - table[i - 1, VALUE]) / before if before > 0.0 else 0.0
        right = (table[i + 1, VALUE] - table[i, VALUE]) / after if after > 0.0 else 0.0
        slope = 0.0
        if left * right > 0.0:
            w1, w2 = 2.0 * after + before, after + 2.0 * before
            slope = (w1 + w2) / (w1 / left + w2 / right)
        back = before if before > 0.0 else after
        forth = after if after > 0.0 else before
        if kind_in in (AUTO, CHORD):
            table[i, IN_TIME] = -back / 3.0
            table[i, IN_VALUE] = -back / 3.0 * (slope if kind_in == AUTO else left)
        elif kind_in == FLAT:
            table[i, IN_VALUE] = 0.0
        if kind_out in (AUTO, CHORD):
            table[i, OUT_TIME] = forth / 3.0
            table[i, OUT_VALUE] = forth / 3.0 * (slope if kind_out == AUTO else right)
        elif kind_out == FLAT:
            table[i, OUT_VALUE] = 0.0
    return True
