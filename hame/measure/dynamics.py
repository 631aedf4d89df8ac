"""What moves a figure: its momenta, and the force and moment that it asks of what bears it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import NamedTuple

import numpy as np
from scipy.signal import butter, sosfiltfilt

from hame.character.masses import masses_of, parts_at
from hame.character.momenta import ended, spins
from hame.character.rig import Rig
from hame.maths.rotations import Array
from hame.measure.loads import Load

GRAVITY = 9.80665  # metres a second, each second: standard gravity, CGPM 1901
SEEN = 6.0  # hertz: forces that change faster are of keys that lie a frame beside, and seen by nobody
_LEAST = 1e-6  # of the weight: a force that presses less than this has no centre on the ground


@dataclass(frozen=True, eq=False)
class Dynamics:
    """Frames of a figure with what it carries, by a clip that is played at its rate. Everything is of each kilogram.

    Attributes
    ----------
    centre, velocity, acceleration : (F, 3) of the mass, metres and seconds
    spin : (F, 3) the angular momentum about that, square metres a second
    moment : (F, 3) the change of that, square metres a second, each second
    force : (F, 3) what is asked of the ground, newtons a kilogram; nothing at all in a fall
    pressure : (F, 2) x and z where that force would have to act on level ground to give the moment as well, but for a
        twist about the upright; NaN where nothing presses down
    twist : (F,) the moment about the upright that is asked of the ground there
    kilograms : (F,) of the figure with what it carries
    """

    centre: Array
    velocity: Array
    acceleration: Array
    spin: Array
    moment: Array
    force: Array
    pressure: Array
    twist: Array
    kilograms: Array


class _Own(NamedTuple):
    """What moves by itself: (F, 3) each, of one kilogram."""

    centre: Array
    velocity: Array
    acceleration: Array
    spin: Array
    moment: Array


def dynamics(
    rig: Rig, nodes: Array, fps: float, gravity: float = GRAVITY, level: Array | float = 0.0,
    loads: Sequence[Load] = (),
) -> Dynamics:  # fmt: skip
    """The dynamics of a figure on frames that follow each other, out of its nodes ``(F, N, 8)``, three at least.

    ``level`` is the height of the ground that bears it, metres: of all frames, or of each ``(F,)``; ``loads`` are what
    it carries.

    Speeds are those between the frames beside, and changes of them those of three frames in a row: on the first and the
    last frame they are what they are on the next one inside.

    Raises
    ------
    ValueError
        For fewer than three frames.
    """
    if len(nodes) < 3:
        raise ValueError("a motion has three frames at least")
    kilograms = np.full(len(nodes), masses_of(rig).kilograms)
    whole = _own(rig, nodes, fps)
    for load in loads:
        more = np.divide(load.kilograms, kilograms + load.kilograms)[:, None]
        whole = _joined(whole, _own(load.rig, load.nodes, fps), more)
        kilograms = kilograms + load.kilograms
    centre, velocity, acceleration, spin, moment = whole
    force = acceleration + [0.0, gravity, 0.0]
    pressure, twist = _pressed(centre, centre[:, 1] - level, force, moment, gravity)
    return Dynamics(centre, velocity, acceleration, spin, moment, force, pressure, twist, kilograms)


def steadied(found: Dynamics, fps: float, cut: float, gravity: float = GRAVITY, level: Array | float = 0.0) -> Dynamics:
    """The same without what changes faster than ``cut`` hertz in its forces and moments, and not late.

    A Butterworth filter of the second order, there and back, as is usual for bodies that were filmed (Winter,
    Biomechanics and Motor Control of Human Movement, section 3.4.4, who takes 6 Hz for a walk). At less than twice as
    many frames a second there is nothing to take out, and all is what it is.
    """
    if fps <= 2.0 * cut:
        return found
    sections = butter(2, cut, fs=fps, output="sos")
    least = min(9, len(found.centre) - 1)
    acceleration, moment = (
        np.asarray(sosfiltfilt(sections, values, axis=0, padlen=least))
        for values in (found.acceleration, found.moment)
    )  # fmt: skip
    force = acceleration + [0.0, gravity, 0.0]
    pressure, twist = _pressed(found.centre, found.centre[:, 1] - level, force, moment, gravity)
    return replace(
        found, acceleration=acceleration, moment=moment, force=force, pressure=pressure, twist=twist
    )  # fmt: skip


def _own(rig: Rig, nodes: Array, fps: float) -> _Own:
    masses = masses_of(rig)
    parts = parts_at(rig, nodes, masses)
    centre = np.einsum("m,fmk->fk", masses.share, parts.places)
    return _Own(centre, _rate(centre, fps), _change(centre, fps), *spins(masses, parts, fps))


def _joined(one: _Own, other: _Own, share: Array) -> _Own:
    """Both together, of which the other has a share (F, 1): each turns about the centre of both as well.

    The second theorem of Koenig, "the motion about the centre and that of the centre" (Goldstein, section 1.2).
    """
    mixed = [a + share * (b - a) for a, b in zip(one, other, strict=True)]
    between = share * (1.0 - share)
    apart, speed, pull = (b - a for a, b in zip(one[:3], other[:3], strict=True))
    spin = mixed[3] + between * np.cross(apart, speed)
    moment = mixed[4] + between * np.cross(apart, pull)
    return _Own(mixed[0], mixed[1], mixed[2], spin, moment)


def _rate(values: Array, fps: float) -> Array:
    return ended((values[2:] - values[:-2]) * (0.5 * fps))


def _change(values: Array, fps: float) -> Array:
    return ended((values[2:] - 2.0 * values[1:-1] + values[:-2]) * fps**2)


def _pressed(centre: Array, above: Array, force: Array, moment: Array, gravity: float) -> tuple[Array, Array]:
    """Where on the ground, which a centre is so far ``above``, a force acts that gives a moment about that, and the
    twist that is left.

    The moment about the centre is (p - c) x f and the twist n about the upright (Popovic, Goswami and Herr, "Ground
    reference points in legged locomotion", Int. J. Robotics Research 24(12), 2005; from memory).
    """
    down = force[:, 1]
    presses = down > _LEAST * max(gravity, _LEAST)
    safe = np.where(presses, down, 1.0)
    aside = (moment[:, 2] - above * force[:, 0]) / safe
    forth = -(moment[:, 0] + above * force[:, 2]) / safe
    pressure = centre[:, [0, 2]] + np.stack([aside, forth], axis=1)
    twist = moment[:, 1] - (forth * force[:, 0] - aside * force[:, 2])
    return np.where(presses[:, None], pressure, np.nan), np.where(presses, twist, np.nan)
