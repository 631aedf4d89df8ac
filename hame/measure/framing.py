"""What a camera has in its picture, and where it has to stand to have all of something in it."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from hame.maths.rotations import Array, rotate

ROOM = 1.12  # so many times as much of the picture is taken in as is filmed


@dataclass(frozen=True)
class Filmed:
    """How a camera films, frame by frame.

    Attributes
    ----------
    spots : (F, 7) its places, metres, and how it is turned; it looks along its z axis, y up
    lens : (F,) focal length, millimetres
    gate : (F, 2) how wide and how high its picture is on the film, millimetres
    """

    spots: Array
    lens: Array
    gate: Array

    @property
    def axes(self) -> Array:
        """To the right of the picture, up, and away from the camera (F, 3, 3)."""
        turns = self.spots[:, None, 3:7]
        return rotate(turns, np.array([[-1.0, 0.0, 0.0], [0.0, 1.0, 0.0], [0.0, 0.0, 1.0]])[None])

    @property
    def slopes(self) -> Array:
        """How far the edges of the picture lie from its middle a metre away (F, 2), metres."""
        return np.asarray(self.gate / 2 / self.lens[:, None])


def inside(filmed: Filmed, middles: Array, radius: float) -> bool:
    """Whether spheres about ``middles (F, 3)`` are in the picture, each on its own frame. Metres.

    A sphere is inside where it lies on this side of the four planes through the eye and the edges of the picture, as a
    pinhole camera sees (Hartley and Zisserman, Multiple View Geometry, chapter 6; from memory).
    """
    axes, slopes = filmed.axes, filmed.slopes
    to = np.einsum("fkd,fd->fk", axes, middles - filmed.spots[:, :3])
    deep = to[:, 2:]
    outermost = np.abs(to[:, :2]) + radius * np.hypot(1.0, slopes)
    return bool(np.all(deep > radius) and np.all(outermost <= slopes * deep))


def stood_back(filmed: Filmed, middles: Array, radius: float) -> Array:
    """Where a camera that stands still as in the first frame has to stand to have all spheres in its picture (3,).

    It looks as it does; it moves along its line of sight and across it. ``middles (F, 3)`` and ``radius`` in metres.
    """
    axes, slopes = filmed.axes[0], filmed.slopes[0] / ROOM
    to = middles @ axes.T
    place, back = np.zeros(3), -np.inf
    for axis in range(2):
        slope = slopes[axis]
        edge = radius * np.hypot(1.0, slope)
        # The two edges that just hold all: the camera stands where the lines along them cross.
        over = np.max(to[:, axis] - slope * to[:, 2] + edge)
        under = np.max(-to[:, axis] - slope * to[:, 2] + edge)
        place += axes[axis] * (over - under) / 2
        back = max(back, (over + under) / 2 / slope)
    return np.asarray(place - axes[2] * back)
