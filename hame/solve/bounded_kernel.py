"""The compiled step of a pull: normal equations solved within the ranges of the angles."""

from __future__ import annotations

import math

from numba import njit

SUMS = {"reassoc", "contract", "nsz"}  # sums may be taken in another order; infinite ranges stay what they are


@njit(cache=True, fastmath=SUMS)
def step_within(h, over, g, x, low, high, step, work, order, ends, sides):  # type: ignore[no-untyped-def]
    """The step (n,) that solves the normal equations within the ranges of the angles.

    They are ``h (n, n)`` and the products of ``over (2, n)``, taken in afterwards (Golub and Van Loan, Matrix
    Computations, 4th ed., 2.1.4). Without those a limb has to do with others only through what carries it: taken from
    the ends of the body inwards, nothing fills in between (their 4.3.3: an envelope).
    ``ends (n,)`` are -1 and 1 for angles that stop at the low and the high end, else 0: those of the step before are
    tried first. Whatever is on the wrong side changes over, all at once; where that goes round, one by one (Judice and
    Pires 1994, A block principal pivoting algorithm).
    """
    n = g.shape[0]
    fewest, spare = n + 1, 3
    for _ in range(30):
        count = 0
        for back in range(n):
            d = n - 1 - back
            if low[d] >= high[d]:
                ends[d] = 2
            if ends[d] == 0:
                order[0, count] = d
                count += 1
            else:
                step[d] = 0.0 if ends[d] == 2 else (low[d] if ends[d] < 0 else high[d]) - x[d]
        _factored(h, work, order, count)
        b0, b1, stopped = 0.0, 0.0, 0  # what those at their ends do to the balance; and which of them go there
        for d in range(n):
            if ends[d] != 0 and step[d] != 0.0:
                b0 += over[0, d] * step[d]
                b1 += over[1, d] * step[d]
                order[2, stopped] = d
                stopped += 1
        for i in range(count):
            a = order[0, i]
            total = -g[a] - over[0, a] * b0 - over[1, a] * b1
            for s in range(stopped):
                total -= h[a, order[2, s]] * step[order[2, s]]
            sides[0, i], sides[1, i], sides[2, i] = total, over[0, a], over[1, a]
        for r in range(3):
            _solved(work, order, count, sides[r])
        # (S + U'U)^-1 r = y - Z (1 + U Z)^-1 U y, with y = S^-1 r and Z = S^-1 U'.
        m00, m01, m11, r0, r1 = 1.0, 0.0, 1.0, 0.0, 0.0
        for i in range(count):
            a = order[0, i]
            m00 += over[0, a] * sides[1, i]
            m01 += over[0, a] * sides[2, i]
            m11 += over[1, a] * sides[2, i]
            r0 += over[0, a] * sides[0, i]
            r1 += over[1, a] * sides[0, i]
        det = m00 * m11 - m01 * m01
        t0, t1 = (m11 * r0 - m01 * r1) / det, (m00 * r1 - m01 * r0) / det
        for i in range(count):
            step[order[0, i]] = sides[0, i] - sides[1, i] * t0 - sides[2, i] * t1
        b0, b1 = 0.0, 0.0
        for d in range(n):
            b0 += over[0, d] * step[d]
            b1 += over[1, d] * step[d]
        wrong, last = 0, -1
        for d in range(n):
            to = ends[d]
            if ends[d] == 0:
                if x[d] + step[d] < low[d] - 1e-12:
                    to = -1
                elif x[d] + step[d] > high[d] + 1e-12:
                    to = 1
            elif ends[d] != 2:
                slope = g[d] + over[0, d] * b0 + over[1, d] * b1
                for k in range(n):
                    slope += h[d, k] * step[k]
                if slope * ends[d] > 1e-9 * h[d, d]:
                    to = 0
            order[1, d] = to
            if to != ends[d]:
                wrong, last = wrong + 1, d
        if wrong == 0:
            break
        if wrong < fewest:
            fewest, spare = wrong, 3
        else:
            spare -= 1
        for d in range(n):
            if order[1, d] != ends[d] and (spare >= 0 or d == last):
                ends[d] = order[1, d]


@njit(cache=True, fastmath=SUMS)
def _factored(h, work, order, count):  # type: ignore[no-untyped-def]
    """Fills ``work`` with the Cholesky factor of the rows ``order[0]`` of ``h``, and ``order[1]`` with where each row
    of it begins."""
    for i in range(count):
        a, first = order[0, i], 0
        while first < i and h[a, order[0, first]] == 0.0:
            first += 1
        order[1, i] = first
        for j in range(first, i + 1):
            total = h[a, order[0, j]]
            for k in range(max(first, order[1, j]), j):
                total -= work[i, k] * work[j, k]
            if i == j:
                work[i, i] = math.sqrt(max(total, 1e-12 * h[a, a]))
            else:
                work[i, j] = total / work[j, j]


@njit(cache=True, fastmath=SUMS)
def _solved(work, order, count, side):  # type: ignore[no-untyped-def]
    """Brings ``side`` to what the factored equations make of it."""
    for i in range(count):
        total = side[i]
        for k in range(order[1, i], i):
            total -= work[i, k] * side[k]
        side[i] = total / work[i, i]
    for i in range(count - 1, -1, -1):
        side[i] /= work[i, i]
        for k in range(order[1, i], i):
            side[k] -= work[i, k] * side[i]
