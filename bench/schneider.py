"""Schneider's fit of Bezier pieces to points, written down from its publication, to hold ours against; and curves.

Philip J. Schneider, "An Algorithm for Automatically Fitting Digitized Curves", in Graphics Gems, Academic Press, 1990:
chord-length parameters, least squares for the two handles with the end tangents given, Newton's reparametrization
where the error is near, and a split at the point of the largest error.
"""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

Array = npt.NDArray[np.float64]
TRIES = 4


def captured(seed: int, count: int = 240) -> Array:
    """A curve (F,) such as a capture brings: slow waves, a step or two, a hold, and a little noise."""
    rng = np.random.default_rng(seed)
    t = np.linspace(0.0, 1.0, count)
    curve = np.zeros(count)
    for k in (1, 2, 3, 5):
        curve += rng.normal(0, 1 / k) * np.sin(2 * np.pi * (k * t * rng.uniform(0.7, 1.6) + rng.random()))
    for at in rng.random(2):
        curve += rng.normal(0, 0.6) / (1 + np.exp(-(t - at) * rng.uniform(40, 90)))
    hold = int(rng.integers(20, count - 60))
    curve[hold : hold + 18] = curve[hold]
    return np.asarray(curve + rng.normal(0, 0.002, count))


def fit(points: Array, error: float) -> int:
    """How many keys the pieces have together, for ``points (N, 2)`` and a largest distance between."""
    if len(points) < 2:
        return len(points)
    return 1 + _fit(points, _unit(points[1] - points[0]), _unit(points[-2] - points[-1]), error)


def _fit(points: Array, left: Array, right: Array, error: float) -> int:
    if len(points) == 2:
        return 1
    u = _chords(points)
    bezier = _generate(points, u, left, right)
    worst, split = _largest(points, bezier, u)
    if worst < error**2:
        return 1
    if worst < 16.0 * error**2:  # Schneider's iteration error, squared
        for _ in range(TRIES):
            u = _reparametrize(points, bezier, u)
            bezier = _generate(points, u, left, right)
            worst, split = _largest(points, bezier, u)
            if worst < error**2:
                return 1
    centre = _unit(points[split - 1] - points[split + 1])
    return _fit(points[: split + 1], left, centre, error) + _fit(points[split:], -centre, right, error)


def _unit(v: Array) -> Array:
    return np.asarray(v / max(float(np.linalg.norm(v)), 1e-12))


def _chords(points: Array) -> Array:
    way = np.append(0.0, np.cumsum(np.linalg.norm(np.diff(points, axis=0), axis=1)))
    return np.asarray(way / way[-1])


def _terms(u: Array) -> Array:
    w = 1.0 - u
    return np.stack([w**3, 3 * u * w**2, 3 * u**2 * w, u**3], axis=1)


def _generate(points: Array, u: Array, left: Array, right: Array) -> Array:
    b = _terms(u)
    a1, a2 = left * b[:, 1:2], right * b[:, 2:3]
    c = np.array([[(a1 * a1).sum(), (a1 * a2).sum()], [(a1 * a2).sum(), (a2 * a2).sum()]])
    rest = points - (points[0] * (b[:, :1] + b[:, 1:2]) + points[-1] * (b[:, 2:3] + b[:, 3:4]))
    x = np.array([(a1 * rest).sum(), (a2 * rest).sum()])
    det = c[0, 0] * c[1, 1] - c[0, 1] ** 2
    long = float(np.linalg.norm(points[-1] - points[0]))
    alpha = np.linalg.solve(c, x) if abs(det) > 1e-12 else np.zeros(2)
    if (alpha < 1e-6 * long).any():
        alpha = np.full(2, long / 3.0)
    return np.stack([points[0], points[0] + alpha[0] * left, points[-1] + alpha[1] * right, points[-1]])


def _largest(points: Array, bezier: Array, u: Array) -> tuple[float, int]:
    far = ((_terms(u) @ bezier - points) ** 2).sum(axis=1)
    at = int(np.argmax(far[1:-1])) + 1
    return float(far[at]), at


def _reparametrize(points: Array, bezier: Array, u: Array) -> Array:
    w = 1.0 - u
    d1, d2 = 3.0 * np.diff(bezier, axis=0), 6.0 * np.diff(bezier, 2, axis=0)
    at = _terms(u) @ bezier
    first = (w**2)[:, None] * d1[0] + (2 * u * w)[:, None] * d1[1] + (u**2)[:, None] * d1[2]
    second = w[:, None] * d2[0] + u[:, None] * d2[1]
    up = ((at - points) * first).sum(axis=1)
    down = (first**2).sum(axis=1) + ((at - points) * second).sum(axis=1)
    return np.where(np.abs(down) > 1e-12, u - up / np.where(down == 0.0, 1.0, down), u)
