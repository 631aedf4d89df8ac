"""What all who go share: the parts of their bodies, and their mass."""

from __future__ import annotations

import numpy as np
from scipy.ndimage import gaussian_filter1d

from hame.character.masses import Parts, masses_of
from hame.character.rig import Rig
from hame.evaluate.going.body import about
from hame.evaluate.some import some_nodes
from hame.maths.rotations import Array, inverse, rotate

_GOES_WITH = 0.8  # of what the body is moved by, how much its mass goes along while the feet stay
_EASED = 0.012  # metres that who stands is lower than with straight knees


def parts_of(rig: Rig, values: Array) -> Parts:
    """The parts of a body for channel values (F, C)."""
    masses = masses_of(rig)
    nodes = some_nodes(rig, tuple(int(rig.joint_nodes[j]) for j in masses.joints), values)
    places = nodes[..., :3] + rotate(nodes[..., 3:7], masses.at[None] * nodes[..., 7:8])
    return Parts(places, nodes[..., 3:7], nodes[..., 7])


def centre_of(rig: Rig, parts: Parts) -> Array:
    """The centre of mass (F, 3) of a body."""
    return np.asarray((parts.places * masses_of(rig).share[None, :, None]).sum(axis=1))


def standing_height(rig: Rig) -> float:
    """How high the mass is when the rig stands, its knees all but straight, metres."""
    return float(centre_of(rig, parts_of(rig, rig.rest[None]))[0, 1]) - _EASED


def carry_body(rig: Rig, values: Array, places: Array, heading: Array, rounds: int = 2) -> None:
    """Moves the body so that its mass is at ``places (F, 3)``, in place."""
    columns = [rig.number(f"body/{name}") for name in ("tx", "ty", "tz")]
    for _ in range(rounds):
        missing = (places - centre_of(rig, parts_of(rig, values))) / _GOES_WITH
        values[:, columns] += rotate(inverse(about(np.array([0.0, 1.0, 0.0]), heading)), missing)


def smooth_most(short: Array, fps: float) -> Array:
    """A smooth line over all of what is missing (F,)."""
    half = int(0.3 * fps)
    padded = np.pad(short, half, mode="edge")
    most = np.array([padded[n : n + 2 * half + 1].max() for n in range(len(short))])
    return np.asarray(gaussian_filter1d(most, 0.15 * fps, mode="nearest"))
