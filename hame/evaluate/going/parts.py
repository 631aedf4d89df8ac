"""What all who go share: the parts of their bodies, and their mass."""

from __future__ import annotations

from functools import lru_cache

import numpy as np
from scipy.ndimage import gaussian_filter1d, maximum_filter1d

from hame.character.masses import Parts, masses_of
from hame.character.rig import Rig
from hame.evaluate.cores import on_cores
from hame.evaluate.going.carry_kernel import carry
from hame.evaluate.kernel import ORDERS
from hame.evaluate.players import part_of
from hame.evaluate.some import some_nodes
from hame.maths.rotations import Array, rotate

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


@lru_cache(maxsize=64)
def standing_height(rig: Rig) -> float:
    """How high the mass is when the rig stands, its knees all but straight, metres."""
    return float(centre_of(rig, parts_of(rig, rig.rest[None]))[0, 1]) - _EASED


def carry_body(rig: Rig, values: Array, places: Array, heading: Array, rounds: int = 2) -> None:
    """Moves the body so that its mass is at ``places (F, 3)``, in place."""
    masses = masses_of(rig)
    some = part_of((rig,), tuple(int(rig.joint_nodes[j]) for j in masses.joints))
    body = np.array([rig.number(f"body/{name}") for name in ("tx", "ty", "tz")])
    program, at, nodes = some.program, np.ascontiguousarray(masses.at), np.asarray(some.at, np.int64)
    places, heading = np.ascontiguousarray(places), np.ascontiguousarray(heading)

    def some_rows(a: int, b: int) -> None:
        carry(
            program.ops, program.params, ORDERS, program.nodes, values[a:b], body, nodes, at, masses.share,
            places[a:b], heading[a:b], rounds, _GOES_WITH,
        )  # fmt: skip

    on_cores(len(values), some_rows)


def smooth_most(short: Array, fps: float) -> Array:
    """A smooth line over all of what is missing (F,)."""
    most = maximum_filter1d(short, 2 * int(0.3 * fps) + 1, mode="nearest")
    return np.asarray(gaussian_filter1d(most, 0.15 * fps, mode="nearest"))
