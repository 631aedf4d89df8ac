"""The compiled part of curves: two compared, and handles laid."""

from __future__ import annotations

from numba import njit

from hame.clip.key import NO_FIRST, NO_LAST


@njit(cache=True, nogil=True)
def _compare(a, b, gone, new):  # type: ignore[no-untyped-def]
    i, j = 0, 0
    low, high = 1e18, -1e18
    while i < len(a) or j < len(b):
        if j >= len(b) or (i < len(a) and a[i, 0] < b[j, 0]):
            low, high = min(low, a[i, 0]), max(high, a[i, 0])
            i += 1
        elif i >= len(a) or b[j, 0] < a[i, 0]:
            low, high = min(low, b[j, 0]), max(high, b[j, 0])
            j += 1
        else:
            same = a[i, 1] == b[j, 1] and a[i, 2] == b[j, 2] and a[i, 3] == b[j, 3] and a[i, 8] == b[j, 8]
            if same and a[i, 3] != 0.0:
                for side in range(2):
                    how = (int(a[i, 3]) >> (2 * side)) & 3
                    if how == 1 or how == 2:
                        same = same and a[i, 4 + 2 * side] == b[j, 4 + 2 * side]
                    if how == 1:
                        same = same and a[i, 5 + 2 * side] == b[j, 5 + 2 * side]
            if same:
                gone[i] = False
                new[j] = False
            else:
                low, high = min(low, a[i, 0]), max(high, a[i, 0])
            i += 1
            j += 1
    if high < low:  # no key differs: only stored handles of an earlier version can; take it all
        return NO_FIRST, NO_LAST
    first, last = NO_FIRST, NO_LAST
    before, after = 0, 0
    for k in range(len(a) - 1, -1, -1):
        if not gone[k] and a[k, 0] < low:
            before += 1
            if before == 2:
                first = a[k, 0]
                break
    for k in range(len(a)):
        if not gone[k] and a[k, 0] > high:
            after += 1
            if after == 2:
                last = a[k, 0]
                break
    return first, last


@njit(cache=True, nogil=True)
def _compare_all(a, ends_a, b, ends_b, gone, new, spans):  # type: ignore[no-untyped-def]
    for c in range(len(spans)):
        m, n = ends_a[c], ends_a[c + 1]
        o, p = ends_b[c], ends_b[c + 1]
        spans[c, 0], spans[c, 1] = _compare(a[m:n], b[o:p], gone[m:n], new[o:p])


@njit(cache=True, nogil=True)
def _lay_handles(table):  # type: ignore[no-untyped-def]
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
        before = table[i, 0] - table[i - 1, 0] if i > 0 else 0.0
        after = table[i + 1, 0] - table[i, 0] if i < count - 1 else 0.0
        if (i > 0 and before <= 0.0) or (i < count - 1 and after <= 0.0):
            return False
        code = int(table[i, 3])
        kind_in, kind_out = code & 3, (code >> 2) & 3
        if kind_in == 1 and kind_out == 1:
            continue
        left = (table[i, 1] - table[i - 1, 1]) / before if before > 0.0 else 0.0
        right = (table[i + 1, 1] - table[i, 1]) / after if after > 0.0 else 0.0
        slope = 0.0
        if left * right > 0.0:
            w1, w2 = 2.0 * after + before, after + 2.0 * before
            slope = (w1 + w2) / (w1 / left + w2 / right)
        back = before if before > 0.0 else after
        forth = after if after > 0.0 else before
        if kind_in == 0 or kind_in == 3:
            table[i, 4] = -back / 3.0
            table[i, 5] = -back / 3.0 * (slope if kind_in == 0 else left)
        elif kind_in == 2:
            table[i, 5] = 0.0
        if kind_out == 0 or kind_out == 3:
            table[i, 6] = forth / 3.0
            table[i, 7] = forth / 3.0 * (slope if kind_out == 0 else right)
        elif kind_out == 2:
            table[i, 7] = 0.0
    return True


@njit(cache=True, nogil=True)
def _lay_all(keys, starts, ends):  # type: ignore[no-untyped-def]
    fine = True
    for c in range(len(starts)):
        fine = _lay_handles(keys[starts[c] : ends[c]]) and fine
    return fine
