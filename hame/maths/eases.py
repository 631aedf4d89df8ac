"""Ways from 0 to 1 in closed form: how far something has come at a share of its time.

Each begins at 0 and ends at 1. How strong it is goes from 0 to 1; 0 is even
everywhere but for the two that have a form of their own.

References
----------
Robert Penner, "Motion, Tweening, and Easing", in *Programming Macromedia Flash MX*, 2002: the power, back and bounce
equations. ``2``, ``3``, ``4`` and ``5`` as powers are his quadratic to quintic ones; 1.70158 is his overshoot of ten
percent, 7.5625 and 2.75 his bounce.
"""

from __future__ import annotations

import numpy as np
import numpy.typing as npt
from numba import njit

Array = npt.NDArray[np.float64]

# Numbers under which they are stored; 0 to 2 are a step, a straight way and a Bezier (see hame.clip.curve).
SLOW_START, SLOW_STOP, BOTH, WIND_UP, OVERSHOOT, BOUNCE, INSTANT = range(3, 10)
TEN_PERCENT = 1.70158
USUAL = 0.5
"""The strength with which the back and bounce equations are Penner's own, and the powers cubic."""


@njit(cache=True, nogil=True)
def eased(kind, strength, t):  # type: ignore[no-untyped-def]
    """How far the way numbered ``kind`` has come at ``t`` (0 to 1), for a ``strength`` of 0 to 1."""
    if t <= 0.0:
        return 0.0
    if t >= 1.0:
        return 1.0
    power = 1.0 + 4.0 * strength
    if kind == 3:
        return t**power
    if kind == 4:
        return 1.0 - (1.0 - t) ** power
    if kind == 5:
        return 0.5 * (2.0 * t) ** power if t < 0.5 else 1.0 - 0.5 * (2.0 - 2.0 * t) ** power
    if kind == 6:
        s = 2.0 * strength * 1.70158
        return t * t * ((s + 1.0) * t - s)
    if kind == 7:
        s = 2.0 * strength * 1.70158
        u = t - 1.0
        return u * u * ((s + 1.0) * u + s) + 1.0
    if kind == 8:
        # The height of the bounces goes with the strength; the fall before the first stays.
        if t < 1.0 / 2.75:
            return 7.5625 * t * t
        if t < 2.0 / 2.75:
            u = t - 1.5 / 2.75
            b = 7.5625 * u * u + 0.75
        elif t < 2.5 / 2.75:
            u = t - 2.25 / 2.75
            b = 7.5625 * u * u + 0.9375
        else:
            u = t - 2.625 / 2.75
            b = 7.5625 * u * u + 0.984375
        return 1.0 - 2.0 * strength * (1.0 - b)
    if kind == 9:
        return 1.0
    return t


def ease(kind: int, strength: float, t: Array) -> Array:
    """:func:`eased` at shares of the time ``t`` of any shape."""
    flat = np.ravel(np.asarray(t, float))
    return np.array([eased(kind, strength, share) for share in flat]).reshape(np.shape(t))
