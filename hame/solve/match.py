"""Changing a limb between FK and IK without a visible change of its pose."""

from __future__ import annotations

import math
from typing import Literal

import numpy as np
from numba import njit

from hame.character.limb import softness_of
from hame.character.rig import Limb, Rig
from hame.evaluate.evaluate import evaluate, joints
from hame.maths import rotations, transforms
from hame.maths.kernels import qrot, swung
from hame.maths.rotations import Array
from hame.program import FARTHEST_BEND
from hame.solve.drag import place_control

ROLLS = ("roll", "bank", "heel", "ball", "tip")  # channels of a foot that move its end from where its control is
FOLLOWED = 0.9 * FARTHEST_BEND  # up to here a pole leads the bend by itself; beyond, the swivel does


def match(rig: Rig, values: Array, limb: Limb, to: Literal["ik", "fk"]) -> Array:
    """Channel values ``(C,)`` in which the limb stands as before, posed by ``to``.

    For FK the three controls take the turns of the bones, the upper one turned
    so that the lower one hangs on it as on a hinge. For IK the end control goes
    where the end is (its roll is taken out), and the pole out from the middle
    joint in the plane of the bend, or where no pole leads there, the swivel
    does. What a limit or a hinge keeps from being the same is told by
    :func:`moved`.
    """
    result = values.copy()
    nodes = evaluate(rig, values[None])[0]
    switch = rig.number(limb.switch)
    _as_long(rig, result, limb, nodes)
    if to == "fk":
        wanted = {limb.fk[0]: _hinged(limb, nodes), limb.fk[1]: nodes[limb.lower], limb.fk[2]: nodes[limb.end]}
        for name, transform in wanted.items():
            now = evaluate(rig, result[None])[0]
            place_control(rig, result, rig.control(name), now, transform)
        result[switch] = 0.0
    else:
        goal, pole = rig.control(limb.ik), rig.control(limb.pole)
        for channel in rig.channels_of(limb.ik):
            if channel.name in ROLLS:
                result[rig.number(channel.address)] = 0.0
        aim, swivel = bend_of(limb, nodes)
        softness, length = rig.number(softness_of(limb.name)), length_of(limb, nodes)
        reach = float(np.linalg.norm(nodes[limb.end, :3] - nodes[limb.root, :3]))
        if reach > length * (1.0 - result[softness]):  # so straight that a soft limb would not come there
            result[softness] = 0.0
        result[rig.number(f"{limb.pole}/swivel")] = swivel
        now = evaluate(rig, result[None])[0]
        wanted_end = transforms.compose(nodes[limb.end], transforms.inverse(limb.end_offset))
        place_control(rig, result, goal, now, wanted_end)
        now = evaluate(rig, result[None])[0]
        place_control(rig, result, pole, now, transforms.transform(aim, rotations.IDENTITY))
        result[switch] = 1.0
    return _toes_kept(rig, result, limb, nodes)


def _as_long(rig: Rig, values: Array, limb: Limb, nodes: Array) -> None:
    """Gives a limb by hand the length that it has, where it is one that it stretched to."""
    reaches = rig.number(f"{limb.name}/reach")
    if values[reaches] <= 0.0:
        return
    stretch = rig.number(f"{limb.name}/stretch")
    values[stretch] = np.clip(
        length_of(limb, nodes) / (sum(limb.lengths) * nodes[limb.root, 7]), rig.low[stretch], rig.high[stretch]
    )
    values[reaches] = 0.0


def length_of(limb: Limb, nodes: Array) -> float:
    """How long both bones of a limb are as it stands, metres: it may be stretched."""
    upper, lower, end = (nodes[n, :3] for n in (limb.upper, limb.lower, limb.end))
    return float(np.linalg.norm(lower - upper) + np.linalg.norm(end - lower))


def moved(rig: Rig, before: Array, after: Array) -> tuple[float, float, str]:
    """How far joints stand apart in two poses (C,): metres, radians, and the joint for which it is most."""
    a, b = (joints(rig, evaluate(rig, values[None]))[0] for values in (before, after))
    way = np.linalg.norm(a[:, :3] - b[:, :3], axis=1)
    turn = 2.0 * np.arccos(np.clip(np.abs((a[:, 3:7] * b[:, 3:7]).sum(axis=1)), 0.0, 1.0))
    worst = int(np.argmax(way if way.max() > 1e-4 else turn))
    return float(way.max()), float(turn.max()), rig.skeleton.names[worst]


def _hinged(limb: Limb, nodes: Array) -> Array:
    """The upper bone, turned about itself so that its hinge is square to the plane in which the limb is bent."""
    upper, lower, end = nodes[limb.upper], nodes[limb.lower], nodes[limb.end]
    one, two = lower[:3] - upper[:3], end[:3] - lower[:3]
    normal = np.cross(one, two)
    size = float(np.linalg.norm(normal))
    hinge = rotations.rotate(upper[3:7], np.array([1.0, 0.0, 0.0]))
    if size < 1e-4 * float(np.linalg.norm(one)) * float(np.linalg.norm(two)):
        return np.asarray(upper)
    # A limb bends one way only: of both directions of the normal the one that the bone's own hinge has.
    x = normal / size * (1.0 if float(normal @ hinge) >= 0 else -1.0)
    y = limb.side * one / np.linalg.norm(one)
    turn = rotations.from_matrix(np.stack([x, y, np.cross(x, y)], axis=1))
    return transforms.transform(upper[:3], turn, upper[7])


def bend_of(limb: Limb, nodes: Array) -> tuple[Array, float]:
    """A place (3,) for the pole, out from the line between root and end, and the swivel that goes on from there."""
    x, y, z, swivel = _bend(
        nodes, limb.root, limb.upper, limb.lower, limb.end, limb.line, limb.toward, *limb.lengths, limb.pole_distance
    )
    return np.array([x, y, z]), swivel


@njit(cache=True, nogil=True)
def _bend(nodes, root, upper, lower, end, line, toward, one, two, pole_distance):  # type: ignore[no-untyped-def]
    """The place (x, y, z) of the pole and the swivel, of :func:`bend_of`."""
    rx, ry, rz = nodes[root, 0], nodes[root, 1], nodes[root, 2]
    lx, ly, lz = nodes[lower, 0] - rx, nodes[lower, 1] - ry, nodes[lower, 2] - rz
    dx, dy, dz = nodes[end, 0] - rx, nodes[end, 1] - ry, nodes[end, 2] - rz
    length = math.sqrt(dx * dx + dy * dy + dz * dz)
    if length < 1e-9:
        dx, dy, dz, length = lx, ly, lz, one
    dx, dy, dz = dx / length, dy / length, dz / length
    along = lx * dx + ly * dy + lz * dz
    tx, ty, tz = lx - along * dx, ly - along * dy, lz - along * dz
    size = math.sqrt(tx * tx + ty * ty + tz * tz)
    qx, qy, qz, qw = nodes[upper, 3], nodes[upper, 4], nodes[upper, 5], nodes[upper, 6]
    if size < 1e-4 * (one + two):  # straight: only the hinge tells
        hx, hy, hz = qrot(qx, qy, qz, qw, 1.0, 0.0, 0.0)
        tx, ty, tz = dy * hz - dz * hy, dz * hx - dx * hz, dx * hy - dy * hx
        size = math.sqrt(tx * tx + ty * ty + tz * tz)
    tx, ty, tz, out = tx / size, ty / size, tz / size, min(size, one * nodes[upper, 7])
    qx, qy, qz, qw = nodes[root, 3], nodes[root, 4], nodes[root, 5], nodes[root, 6]
    ax, ay, az = qrot(-qx, -qy, -qz, qw, dx, dy, dz)
    ox, oy, oz = swung(line[0], line[1], line[2], ax, ay, az, toward[0], toward[1], toward[2])
    ox, oy, oz = qrot(qx, qy, qz, qw, ox, oy, oz)
    cx, cy, cz = oy * tz - oz * ty, oz * tx - ox * tz, ox * ty - oy * tx
    angle = math.atan2(cx * dx + cy * dy + cz * dz, ox * tx + oy * ty + oz * tz)
    swivel = 0.0
    if abs(angle) > FOLLOWED:
        tx, ty, tz, swivel = ox, oy, oz, angle
    far = out + pole_distance * nodes[upper, 7]
    return rx + along * dx + far * tx, ry + along * dy + far * ty, rz + along * dz + far * tz, swivel


def _toes_kept(rig: Rig, values: Array, limb: Limb, before: Array) -> Array:
    """The toes' control turned so that the toes point as before, although what carries them has changed."""
    if not limb.toe or not rig.has_control(limb.toe):
        return values
    toe = rig.control(limb.toe)
    now = evaluate(rig, values[None])[0]
    place_control(rig, values, toe, now, before[toe.node])
    return values
