"""Areas that points span, frame by frame, compiled: the convex hull, and how far inside of it a centre is."""

from __future__ import annotations

import math

import numpy as np
from numba import njit


@njit(cache=True, nogil=True)
def hulls(points, counts_in, corners, counts):  # type: ignore[no-untyped-def]
    """Writes the corners of the convex hulls of ``points (F, P, 2)``, the first ``counts_in (F,)`` of each row.

    ``corners (F, P, 2)`` and ``counts (F,)`` are written, corners counter-clockwise
    from the leftmost (Andrew's monotone chain, 1979).
    """
    frames, most, _ = points.shape
    xs, ys = np.empty(most), np.empty(most)
    line = np.empty((2 * most + 1, 2))
    for f in range(frames):
        count = 0
        for k in range(counts_in[f]):  # sorted as they come, each once
            x, y = round(points[f, k, 0], 9), round(points[f, k, 1], 9)
            at = count
            while at > 0 and (xs[at - 1] > x or (xs[at - 1] == x and ys[at - 1] > y)):
                at -= 1
            if at > 0 and xs[at - 1] == x and ys[at - 1] == y:
                continue
            for n in range(count, at, -1):
                xs[n], ys[n] = xs[n - 1], ys[n - 1]
            xs[at], ys[at] = x, y
            count += 1
        if count < 3:
            for n in range(count):
                corners[f, n, 0], corners[f, n, 1] = xs[n], ys[n]
            counts[f] = count
            continue
        size = 0
        for way in range(2):  # the lower chain forth, the upper one back
            begun = size
            for k in range(count):
                n = k if way == 0 else count - 1 - k
                while size - begun > 1:
                    ax, ay = line[size - 2, 0], line[size - 2, 1]
                    bx, by = line[size - 1, 0], line[size - 1, 1]
                    if (bx - ax) * (ys[n] - ay) - (by - ay) * (xs[n] - ax) > 0.0:
                        break
                    size -= 1
                line[size, 0], line[size, 1] = xs[n], ys[n]
                size += 1
            size -= 1  # its last begins the other chain
        for n in range(size):
            corners[f, n, 0], corners[f, n, 1] = line[n, 0], line[n, 1]
        counts[f] = size


@njit(cache=True, nogil=True)
def margins(corners, counts, centres, found):  # type: ignore[no-untyped-def]
    """Writes to ``found (F,)`` how far ``centres (F, 2)`` are inside areas; below zero outside, NaN of none.

    Parameters
    ----------
    corners, counts : (F, P, 2) and (F,), as of :func:`hulls`
    """
    for f in range(len(counts)):
        count = counts[f]
        if count == 0:
            found[f] = math.nan
            continue
        near, within = math.inf, count > 2
        x, y = centres[f, 0], centres[f, 1]
        for n in range(count):
            ax, ay = corners[f, n, 0], corners[f, n, 1]
            wx, wy = corners[f, (n + 1) % count, 0] - ax, corners[f, (n + 1) % count, 1] - ay
            along = ((x - ax) * wx + (y - ay) * wy) / max(wx * wx + wy * wy, 1e-18)
            along = min(max(along, 0.0), 1.0)
            near = min(near, math.hypot(x - ax - along * wx, y - ay - along * wy))
            if wx * (y - ay) - wy * (x - ax) < 0.0:
                within = False
        found[f] = near if within else -near
