"""How a body turns in the air: with the angular momentum that it left the ground with, whatever its limbs do."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy.optimize import root
from scipy.spatial.transform import Rotation

from hame.character.masses import Masses, Parts, masses_of, parts_at
from hame.evaluate.posed import Posed
from hame.maths import rotations
from hame.maths.rotations import Array
from hame.measure.loads import Load

_LEAST = 1e-9


@dataclass(frozen=True, eq=False)
class Turning:
    """Between frames (T,) that follow each other, of one kilogram of all that is in the air.

    Attributes
    ----------
    momenta : (T - 1, 3) angular momentum about the centre of mass, square metres a second
    inertias : (T - 1, 3, 3) moments of inertia about it, in the world's axes, square metres
    seconds : from frame to frame
    """

    momenta: Array
    inertias: Array
    seconds: float

    @property
    def uneven(self) -> float:
        """How much of its turn its inertia does not explain, at most, radians a second; nothing of a free flight."""
        off = self.momenta - self.momenta.mean(axis=0)
        return float(np.linalg.norm(np.linalg.solve(self.inertias, off[..., None])[..., 0], axis=1).max())


def turning(posed: Posed, loads: Sequence[Load], fps: float) -> Turning:
    """How a figure turns with what it carries, on two frames at least."""
    bodies = [(posed.rig, posed.nodes, np.full(len(posed.nodes), masses_of(posed.rig).kilograms))]
    bodies += [(load.rig, load.nodes, load.kilograms) for load in loads]
    whole = np.sum([kilograms for _, _, kilograms in bodies], axis=0)
    found = [_between(masses_of(rig), parts_at(rig, nodes, masses_of(rig)), fps) for rig, nodes, _ in bodies]
    # By frame and part: its share of all, places, speeds, moments of inertia in the world and spins.
    share = np.concatenate(
        [(0.5 * ((k / whole)[1:] + (k / whole)[:-1]))[:, None] * masses_of(rig).share for rig, _, k in bodies], axis=1
    )
    places, speeds, spread, spins = (np.concatenate(parts, axis=1) for parts in zip(*found, strict=True))
    out = places - np.einsum("fm,fmk->fk", share, places)[:, None]
    off = speeds - np.einsum("fm,fmk->fk", share, speeds)[:, None]
    momenta = np.einsum("fm,fmk->fk", share, np.cross(out, off) + np.einsum("fmij,fmj->fmi", spread, spins))
    apart = np.einsum("fmi,fmi->fm", out, out)[..., None, None] * np.eye(3) - out[..., :, None] * out[..., None, :]
    return Turning(momenta, np.einsum("fm,fmij->fij", share, apart + spread), 1.0 / fps)


def _between(masses: Masses, parts: Parts, fps: float) -> tuple[Array, Array, Array, Array]:
    """Places, speeds, moments of inertia in the world and spins of parts half way between frames."""
    places, turns, sizes = parts
    steps = rotations.to_vector(rotations.multiply(turns[1:], rotations.inverse(turns[:-1]))) * fps
    half = rotations.to_matrix(rotations.multiply(rotations.from_vector(0.5 / fps * steps), turns[:-1]))
    size = 0.5 * (sizes[1:] + sizes[:-1])
    spread = size[..., None, None] ** 2 * (half @ masses.spread @ np.swapaxes(half, -1, -2))
    return 0.5 * (places[1:] + places[:-1]), np.diff(places, axis=0) * fps, spread, steps


def kept(found: Turning) -> Array:
    """By how much (T, 4) all of it has to be turned about its mass on each frame to keep its angular momentum.

    On the first and the last frame it is not turned: what it turns in all stays. With a turn R of all the momentum is
    R (I w + L), w what R turns with in its own axes; that is to be one vector, which is looked for until R ends at
    nothing (a boundary value problem, by shooting; the middle rule from frame to frame).

    Raises
    ------
    ValueError
        Where no such momentum is found.
    """
    inverses = np.linalg.inv(found.inertias)
    steps = [
        (np.asarray(inverse), np.asarray(momentum)) for inverse, momentum in zip(inverses, found.momenta, strict=True)
    ]

    def way(momentum: Array) -> list[Rotation]:
        turns = [Rotation.identity()]
        for inverse, own in steps:
            before = turns[-1]
            rate = inverse @ (before.inv().apply(momentum) - own)
            for _ in range(3):
                midway = before * Rotation.from_rotvec(0.5 * found.seconds * rate)
                rate = inverse @ (midway.inv().apply(momentum) - own)
            turns.append(before * Rotation.from_rotvec(found.seconds * rate))
        return turns

    start = np.linalg.solve(inverses.sum(axis=0), np.einsum("fij,fj->i", inverses, found.momenta))
    ends = root(lambda momentum: way(momentum)[-1].as_rotvec(), start, tol=1e-10)
    if not ends.success or np.linalg.norm(ends.fun) > 1e-6:
        raise ValueError("no momentum turns it so")
    return np.stack([turn.as_quat() for turn in way(ends.x)])
