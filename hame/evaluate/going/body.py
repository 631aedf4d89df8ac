"""Pelvis, trunk, arms and head of somebody who goes: turned by how far feet are apart, and by which of them bears."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from scipy.ndimage import gaussian_filter1d, maximum_filter1d, minimum_filter1d, uniform_filter1d

from hame.character.rig import Control, Rig
from hame.evaluate.some import some_nodes
from hame.gait.traits import Traits
from hame.maths.rotation_rows import eulers_in
from hame.maths.rotations import Array, axes_of, from_vector, inverse, multiply, to_vector

_USUAL = 0.78  # of the leg: so far apart are feet in a usual walk, one to the other
_SMALL = 0.3  # of what is usual: steps that are smaller are made with less of everything
_OUTWARD = np.radians(22.0)  # that an arm is turned out as it hangs, so that its elbow bends ahead
_X, _Y, _Z = np.eye(3)


@dataclass(frozen=True, eq=False)
class Phases:
    """What all of it is turned by, frame by frame.

    Attributes
    ----------
    ahead : (F,) how far the left foot is ahead of the right, as a share of what is usual
    bears : (F,) how much more the left foot bears than the right, of the weight
    heading : (F,) where who goes faces, radians
    arms : (F,) by how much arms swing, as ``ahead``; None where as that
    """

    ahead: Array
    bears: Array
    heading: Array
    arms: Array | None = None

    def cut(self, rows: slice) -> Phases:
        """It on some rows."""
        arms = None if self.arms is None else self.arms[rows]
        return Phases(self.ahead[rows], self.bears[rows], self.heading[rows], arms)


def phases_of(
    left: Array, right: Array, bears: Array, heading: Array, leg: float, step: float, early: float = 0.0
) -> Phases:  # fmt: skip
    """From places of the feet (F, 2), from how much more the left one bears (F,), and from a heading (F,).

    Both go to 1 either way in each stride, whatever its length; where steps are small, as at the ends, to less.
    ``step`` is how many frames one takes, and ``early`` how many before the weight has gone over to a foot the pelvis
    does: it is level as that comes down, and drops on the other side as it takes the weight (Perry, Gait Analysis,
    1992; from memory).
    """
    ahead = ((left - right) * np.stack([np.sin(heading), np.cos(heading)], axis=1)).sum(axis=1) / (_USUAL * leg)
    ahead = gaussian_filter1d(ahead, 1.0, mode="nearest")
    bears = _late(gaussian_filter1d(bears, 2.0, mode="nearest"), -early)
    return Phases(_whole(ahead, step), _whole(bears, step), heading)


def against(legs: Array, ahead: Array, step: float) -> Array:
    """How arms swing (F,) that take up what ``legs (F,)`` turn with, angular momentum about the upright: as whoever
    walks all but does (Herr and Popovic, "Angular momentum in human walking", Journal of Experimental Biology 211,
    2008; from memory). In shape only: how far they swing is their own matter, and less where steps are small or none,
    as at the ends and in a turn on the spot.
    """
    turned = np.cumsum(legs)
    turned = turned - uniform_filter1d(turned, max(round(2.0 * step), 3), mode="nearest")
    swings = _whole(turned / max(float(np.abs(turned).max()), 1e-9), step)
    far = maximum_filter1d(np.abs(ahead), max(round(2.0 * step), 3), mode="nearest")
    swings = swings * np.minimum(gaussian_filter1d(far, 0.5 * step, mode="nearest"), 1.0)
    return np.asarray(swings if float(swings @ ahead) >= 0.0 else -swings)


def _whole(values: Array, step: float) -> Array:
    """Values (F,) as shares of how far they go within a stride about each frame, or of a little."""
    window = max(round(2.0 * step), 3)
    far = 0.5 * (maximum_filter1d(values, window, mode="nearest") - minimum_filter1d(values, window, mode="nearest"))
    return np.asarray(values / np.maximum(gaussian_filter1d(far, step, mode="nearest"), _SMALL))


def turn_trunk(rig: Rig, values: Array, phases: Phases, traits: Traits) -> None:
    """Writes turns of pelvis, spine and chest into channel values (F, C); of controls that the rig has."""
    turn = -traits.turn * np.clip(phases.ahead, -1.6, 1.6)
    drop = traits.list * np.clip(phases.bears, -1.0, 1.0)
    lean = -traits.lean * np.clip(phases.bears, -1.0, 1.0)
    for address, amount in (
        ("body/rx", 0.5 * traits.pitch), ("spine/rx", 0.3 * traits.pitch), ("chest/rx", 0.2 * traits.pitch),
        ("hips/ry", turn), ("hips/rz", drop), ("chest/ry", -traits.chest * turn),
        ("spine/rz", 0.6 * lean - 0.25 * drop), ("chest/rz", 0.4 * lean),
    ):  # fmt: skip
        write(rig, values, address, amount)


def swing_arms(rig: Rig, values: Array, phases: Phases, traits: Traits) -> None:
    """Writes arms that hang and swing against the legs into channel values (F, C), by FK."""
    yaw = about(_Y, phases.heading)
    arms = [limb for limb in rig.limbs if limb.kind == "arm"]
    hangs_on = some_nodes(rig, tuple(rig.control(limb.fk[0]).frame for limb in arms), values)[..., 3:7]
    for n, limb in enumerate(arms):
        side = 1.0 if rig.control(limb.fk[0]).side == "L" else -1.0
        write(rig, values, limb.switch, 0.0)
        swings = phases.ahead if phases.arms is None else phases.arms
        swing = -side * traits.swing * np.clip(swings, -1.5, 1.5)
        out = side * np.asarray(traits.arms_out)
        control = rig.control(limb.fk[0])
        hang = multiply(from_vector(side * _OUTWARD * _Y), _hanging(rig, limb.name))
        wanted = multiply(multiply(yaw, about(_X, -swing)), about(_Z, out))
        turn_control(rig, values, control, multiply(wanted, hang), hangs_on[:, n])
        bends = traits.arm_bend + traits.arm_bends * np.clip(
            _late(swing, 1.0) / np.maximum(traits.swing, 1e-6), -0.6, 1.0
        )
        write(rig, values, f"{limb.fk[1]}/rx", np.maximum(bends, 0.0))
        drags = 0.35 * (_late(swing, 1.0 + np.asarray(traits.late)) - _late(swing, 1.0))
        write(rig, values, f"{limb.fk[2]}/rx", drags)
        for far, finger in enumerate(("index", "middle", "ring", "little")):
            write(rig, values, f"{limb.name}.{finger}/curl", traits.hands * (1.0 + 0.12 * far))
        write(rig, values, f"{limb.name}.thumb/curl", 0.4 * np.asarray(traits.hands))


def steady_head(rig: Rig, values: Array, phases: Phases, traits: Traits) -> None:
    """Writes a head that looks where it goes and stays level into channel values (F, C): the neck takes some of it."""
    wanted = multiply(about(_Y, phases.heading), about(_X, np.asarray(traits.head)))
    # A head that sits on a neck has gone along with that.
    gone = np.zeros((len(values), 4))
    gone[:, 3] = 1.0
    mine = [(rig.control(name), share) for name, share in (("neck", 0.6), ("head", 1.0)) if rig.has_control(name)]
    for control, _ in mine:
        for axis in "xyz":
            write(rig, values, f"{control.name}/r{axis}", rest_of(rig, f"{control.name}/r{axis}"))
    wanted_nodes = tuple(node for control, _ in mine for node in (control.node, control.frame))
    nodes = some_nodes(rig, wanted_nodes, values)[..., 3:7]
    for n, (control, share) in enumerate(mine):
        rest = at_rest(rig)[control.node, 3:7]
        level = multiply(wanted, rest)
        now, frame = multiply(gone, nodes[:, 2 * n]), multiply(gone, nodes[:, 2 * n + 1])
        new = _between(now, level, share * np.asarray(traits.steady))
        turn_control(rig, values, control, new, frame)
        gone = multiply(multiply(new, inverse(now)), gone)


def _between(one: Array, other: Array, share: Array) -> Array:
    return np.asarray(multiply(one, from_vector(share[:, None] * to_vector(multiply(inverse(one), other)))))


def _late(values: Array, frames: Array | float) -> Array:
    """Values (F,) so many frames later."""
    at = np.arange(len(values), dtype=float)
    return np.asarray(np.interp(at - frames, at, values))


def rest_of(rig: Rig, address: str) -> float:
    """The value of a channel at rest; 0 of one that is not there."""
    return float(rig.rest[rig.number(address)]) if rig.has_channel(address) else 0.0


def write(rig: Rig, values: Array, address: str, amount: Array | float) -> None:
    """Writes into channel values (F, C), in place, what the rig has and is not locked."""
    if rig.has_channel(address) and not rig.channels[rig.number(address)].locked:
        values[:, rig.number(address)] = amount


def turn_control(rig: Rig, values: Array, control: Control, wanted: Array, frame: Array | None = None) -> None:
    """Writes the turns of a control by which it is turned as ``wanted (F, 4)`` in the world, where what it turns in is
    turned as ``frame (F, 4)``, if that is known."""
    if frame is None:
        frame = some_nodes(rig, (control.frame,), values)[:, 0, 3:7]
    i, j, k = axes_of(control.order)
    frame, pre, wanted = map(np.ascontiguousarray, (frame, control.pre, wanted))
    angles = eulers_in(frame, pre, wanted, i, j, k)
    # Radians in the sequence of the order, whose letters name the channels.
    for n, axis in enumerate(control.order):
        write(rig, values, f"{control.name}/r{axis.lower()}", angles[:, n])


@lru_cache(maxsize=64)
def at_rest(rig: Rig) -> Array:
    """The nodes (N, 8) of a rig of which every channel rests."""
    return np.asarray(some_nodes(rig, tuple(range(rig.program.nodes)), rig.rest[None])[0])


@lru_cache(maxsize=128)
def _hanging(rig: Rig, arm: str) -> Array:
    """How an upper arm is turned in the world where it hangs straight down, by the shortest way from its rest."""
    limb = rig.limb(arm)
    nodes = at_rest(rig)
    way = nodes[limb.lower, :3] - nodes[limb.upper, :3]
    way = way / np.linalg.norm(way)
    axis = np.cross(way, -_Y)
    sine = float(np.linalg.norm(axis))
    turn = np.array([0.0, 0.0, 0.0, 1.0])
    if sine > 1e-9:
        turn = from_vector(axis / sine * float(np.arctan2(sine, way @ -_Y)))
    hanging: Array = multiply(turn, nodes[rig.control(limb.fk[0]).node, 3:7])
    return hanging


def about(axis: Array, angles: Array) -> Array:
    """Turns (F, 4) by angles (F,) about one axis (3,)."""
    return from_vector(np.outer(angles, axis))
