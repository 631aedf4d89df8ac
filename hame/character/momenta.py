"""Angular momenta of a body out of its parts as they move."""

from __future__ import annotations

import numpy as np

from hame.character.masses import Masses, Parts
from hame.maths import rotations
from hame.maths.rotations import Array


def momentum_about(masses: Masses, parts: Parts, speeds: Array, spins: Array) -> Array:
    """Angular momentum ``(F, 3)`` of one kilogram of a body about its centre of mass.

    Of parts with ``speeds`` and ``spins``, the angular velocities, ``(F, M, 3)`` in the world: the sum of r x m v and
    of I w over them (Goldstein, Classical Mechanics, sections 1.2 and 5.1).
    """
    places, turns, sizes = parts
    share = masses.share[:, None]
    out = places - (share * places).sum(axis=-2, keepdims=True)
    off = speeds - (share * speeds).sum(axis=-2, keepdims=True)
    own = rotations.rotate(rotations.inverse(turns), spins)
    own = sizes[..., None] ** 2 * np.einsum("mij,...mj->...mi", masses.spread, own)
    own = rotations.rotate(turns, own)
    return np.asarray((share * (np.cross(out, off) + own)).sum(axis=-2))


def spins(masses: Masses, parts: Parts, fps: float) -> tuple[Array, Array]:
    """Angular momentum on each frame and its change: of what happens between frames, half a frame to both sides."""
    places, turns, sizes = parts
    steps = rotations.to_vector(rotations.multiply(turns[1:], rotations.inverse(turns[:-1]))) * fps
    half = rotations.multiply(rotations.from_vector(0.5 / fps * steps), turns[:-1])
    midway = Parts(0.5 * (places[1:] + places[:-1]), half, 0.5 * (sizes[1:] + sizes[:-1]))
    between = momentum_about(masses, midway, np.diff(places, axis=0) * fps, steps)
    return ended(0.5 * (between[1:] + between[:-1])), ended(np.diff(between, axis=0) * fps)


def ended(inner: Array) -> Array:
    """What is known of all frames but the first and last, with those beside taken for these."""
    return np.concatenate([inner[:1], inner, inner[-1:]])
