"""What is usual of steps at a speed, as published: how long they are, how often they come, how long a foot stands.

Speeds are metres a second, lengths metres, cadences steps a second.
"""

from __future__ import annotations

import numpy as np

from hame.maths.rotations import Array

WALK_TO_RUN = 0.5  # the Froude number up to which one walks (Alexander 1989)
_WALKS = np.array([[0.0, 0.75], [0.05, 0.68], [0.2, 0.62], [0.5, 0.56]])  # Froude numbers, and shares on the ground
_RUNS = np.array([[0.5, 0.40], [1.0, 0.35], [3.0, 0.28], [10.0, 0.22]])
_RUN_SHARES = 0.2, 0.45


def froude(speed: Array, leg: float | Array, gravity: float) -> Array:
    """Speed squared over gravity times the length of a leg (Alexander 1989)."""
    return np.asarray(np.asarray(speed, float) ** 2 / (gravity * leg))


def usual_step(speed: Array, leg: float, gravity: float, ground: float = 1.0) -> Array:
    """How long a step is at a speed.

    Relative stride 2.3 times the Froude number to the power of 0.3 (Alexander, "Estimates of speeds of dinosaurs",
    Nature 261, 1976; from memory): the same for walks and runs.

    Parameters
    ----------
    leg : how long a leg is
    ground : times as long it is from the hip to the ground, which is what walks go by; the steps of runs are quicker
    """
    walks = froude(speed, leg, gravity) <= WALK_TO_RUN
    high = leg * np.where(walks, ground, 1.0)
    return np.asarray(0.5 * 2.3 * high * np.maximum(froude(speed, high, gravity), 1e-4) ** 0.3)


def usual_speed(cadence: Array, leg: float, gravity: float, ground: float = 1.0) -> Array:
    """The speed at which steps of the usual length come at a cadence: where it is that times :func:`usual_step`. At
    cadences too high for a walk and too low for a run one walks as fast as can be."""

    def of(high: float) -> Array:
        return np.asarray((np.asarray(cadence, float) * 0.5 * 2.3 * high * (gravity * high) ** -0.3) ** 2.5)

    fastest = float(np.sqrt(WALK_TO_RUN * gravity * leg))
    runs = of(leg)
    return np.asarray(np.where(runs > fastest, runs, np.minimum(of(ground * leg), fastest)))


def usual_share(speed: Array, leg: float, gravity: float, step: Array | None = None) -> Array:
    """What share of its period a foot is on the ground at a speed, of steps that long in metres; of usual ones else.

    It walks up to a Froude number of 0.5 and runs beyond (Alexander 1989). Walks are on the ground for 60 to 62 % at a
    free speed (Perry 1992; Whittle 2007) and for more when slow; runs for 40 % and less (Alexander and Jayes 1980; all
    from memory). Runs with longer steps at a speed are on the ground for less of their period, by about the root of
    how much longer they are: for hardly longer in time (after Farley and Gonzalez, "Leg stiffness and stride frequency
    in human running", Journal of Biomechanics 29, 1996; from memory).
    """
    number = froude(speed, leg, gravity)
    walks = np.interp(number, _WALKS[:, 0], _WALKS[:, 1])
    runs = np.interp(number, _RUNS[:, 0], _RUNS[:, 1])
    if step is not None:
        usual = usual_step(speed, leg, gravity)
        runs = np.clip(runs * np.sqrt(usual / np.maximum(step, 1e-6)), *_RUN_SHARES)
    return np.asarray(np.where(number <= WALK_TO_RUN, walks, runs))
