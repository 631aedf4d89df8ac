"""Cubic Bezier segments read as functions of time.

A segment between two keys has the control points (0, 0), out, in, (gap, rise)
in (frames, value). Its time coordinate may not run backwards, or more than one
value would belong to a time: handles that are too long for their gap are
shortened when the curve is read (:func:`fit`), never where they are stored.
"""

from __future__ import annotations

import math

from numba import njit


@njit(cache=True, nogil=True)
def fit(gap, out_t, in_t):  # type: ignore[no-untyped-def]
    """The share of both handles with which time just does not run backwards; 1 where they fit as they are.

    With a = out_t and c = -in_t the derivative of time is, but for a factor,
    a (1-u)^2 + 2 (gap-a-c) u (1-u) + c u^2, which is nowhere below zero
    if and only if gap - a - c >= -sqrt(a c).
    """
    a, c = max(out_t, 0.0), max(-in_t, 0.0)
    needed = a + c - math.sqrt(a * c)
    return 1.0 if needed <= gap * (1.0 + 1e-12) else gap / needed


@njit(cache=True, nogil=True)
def bezier_parameter(gap, out_t, in_t, t):  # type: ignore[no-untyped-def]
    """The parameter (0 to 1) at which a segment's time is ``t``.

    ``out_t`` is the first handle's time relative to the first key and ``in_t``
    (<= 0) the second's relative to the second key. Newton's method inside a
    bracket that bisection keeps, so that flat stretches of time cannot lead it astray.
    """
    x1, x2 = out_t, gap + in_t
    low, high = 0.0, 1.0
    u = t / gap
    for _ in range(60):
        w = 1.0 - u
        x = 3.0 * w * w * u * x1 + 3.0 * w * u * u * x2 + u * u * u * gap
        error = x - t
        if abs(error) < 1e-13 * gap:
            break
        if error > 0.0:
            high = u
        else:
            low = u
        slope = 3.0 * w * w * x1 + 6.0 * w * u * (x2 - x1) + 3.0 * u * u * (gap - x2)
        following = u - error / slope if slope > 1e-12 * gap else -1.0
        if not (low < following < high):
            following = 0.5 * (low + high)
        if following == u:
            break
        u = following
    return u


@njit(cache=True, nogil=True)
def bezier_value(gap, v0, v1, out_t, out_v, in_t, in_v, t):  # type: ignore[no-untyped-def]
    """The value at time ``t`` of a cubic Bezier from (0, v0) to (gap, v1).

    ``out_t, out_v`` is the first handle relative to the first key and
    ``in_t, in_v`` (``in_t`` <= 0) the second relative to the second key, as
    in css-easing-1's ``cubic-bezier``.
    """
    u = bezier_parameter(gap, out_t, in_t, t)
    w = 1.0 - u
    y1, y2 = v0 + out_v, v1 + in_v
    return w * w * w * v0 + 3.0 * w * w * u * y1 + 3.0 * w * u * u * y2 + u * u * u * v1
