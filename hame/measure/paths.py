"""What can be read off the path of a part: corners, jerks, pops, ways out and back on one line, trembling, evenness.

Paths are places (F, 3) in metres, a row a frame. Figures of size are shares of the figure's height, so that a small
figure's small moves count.
"""

from __future__ import annotations

from dataclasses import dataclass
from math import degrees, radians

import numpy as np

from hame.maths import rotations
from hame.maths.rotations import Array
from hame.measure.found import Bools, runs

# Bounds of what counts as a fault: common practice, no source, but for the jerk's scale.
CORNER, CORNER_TIMES = radians(40.0), 2.5  # least angle, and how many times its neighbours
LEAST_STEP = 0.004  # share of the height that a frame has to go for its direction to count
TURNED_BACK = radians(140.0)  # beyond, a path goes back where it came from: a line or an end, no corner
EIGHTHS = 8  # parts of a frame in which a corner is looked at
SHARP = 0.35  # of the angle of a corner that falls into one of them where it is one
BESIDE = 8  # frames on both sides of a jerk that it is compared with
JERKY = 12.0  # times the peak jerk of the smoothest move as long and as far
POP = 6.0  # times the steps before and after
LINE = 0.035  # how far out and back lie apart, as a share of the way
LINE_WAY = 0.12  # least way, as a share of the height
TREMBLE = 3  # changes of direction one frame after the other
SLOWED = 0.4  # of the speed beside
NEAREST = 0.05  # metres before a camera
EVEN = 0.25  # spread of speeds and of lengths of moves below which a motion floats


def turning(path: Array, least: float) -> Array:
    """The angle (F,) by which a path turns at each frame, radians; 0 at its ends, and where it goes less than
    ``least`` metres on one side.
    """
    angles = np.zeros(len(path))
    if len(path) < 3:
        return angles
    steps = np.diff(path, axis=0)
    long = np.linalg.norm(steps, axis=1)
    a, b = steps[:-1], steps[1:]
    both = np.minimum(long[:-1], long[1:])
    cross = np.linalg.norm(np.cross(a, b), axis=1)
    found = np.arctan2(cross, (a * b).sum(axis=1))
    angles[1:-1] = np.where(both >= least, found, 0.0)
    return angles


def corners(path: Array, size: float) -> list[tuple[int, float]]:
    """Frames at which a path turns far more than beside them, with the angle. One that turns back ends there."""
    angles = turning(path, LEAST_STEP * size)
    steps = np.linalg.norm(np.diff(path, axis=0), axis=1)
    found = []
    for n in np.flatnonzero((angles > CORNER) & (angles < TURNED_BACK)).tolist():
        near = np.concatenate([angles[max(n - 3, 0) : n], angles[n + 1 : n + 4]])
        # Where a part slows down to turn round, as at the bottom of a crouch, nothing cracks.
        slow = min(steps[n - 1], steps[n]) < SLOWED * steps[max(n - 4, 0) : n + 4].max()
        if not slow and angles[n] > CORNER_TIMES * float(np.median(near)) and angles[n] >= near.max(initial=0.0):
            found.append((n, float(angles[n])))
    return found


def around(frames: Array) -> Array:
    """The times (K, T) at which paths are looked at around frames (K,), a frame on both sides in eighths."""
    return np.asarray(frames, float)[:, None] + np.arange(-EIGHTHS, EIGHTHS + 1) / EIGHTHS


def is_sharp(fine: Array, angle: float) -> bool:
    """Whether a path that turns by an angle from frame to frame has a corner in between as well: ``fine`` (T, 3) are
    its places in eighths of frames. A quick arc is round there, however far it turns from one frame to the next.
    """
    return bool(turning(fine, 1e-9).max() >= SHARP * angle)


def jerks(path: Array) -> tuple[float, int]:
    """How many times too jerky one move is, as a whole and around its worst frame, whichever is less; and that frame.

    A part that goes on for long, as hips do in a run, is no reach of that length: what it does in a few frames is
    compared with a reach over those.
    """
    times, at = jerk_times(path)
    if len(path) <= 2 * BESIDE + 1:
        return times, at
    near = path[max(at - BESIDE, 0) : at + BESIDE + 1]
    return min(times, jerk_times(near)[0]), at


def moves_of(path: Array, size: float) -> list[tuple[int, int]]:
    """The moves of a path between rests, each from and to a frame: in a rest, steps are a twentieth of the largest."""
    steps = np.linalg.norm(np.diff(path, axis=0), axis=1)
    if not len(steps) or steps.max() < LEAST_STEP * size:
        return []
    going = steps > max(0.05 * float(steps.max()), 0.25 * LEAST_STEP * size)
    return [part for a, b in runs(going) for part in _parted(steps, a, b + 1)]


def _parted(steps: Array, first: int, last: int) -> list[tuple[int, int]]:
    """A stretch of going parted where it slows to half of what it goes before and after: there one move ends."""
    found, begun = [], first
    ahead = np.maximum.accumulate(steps[first:last][::-1])[::-1]  # the largest from each on
    before = float(steps[first : first + 2].max(initial=0.0))
    for n in range(first + 2, last - 2):
        low = steps[n] <= steps[n - 1] and steps[n] <= steps[n + 1]
        if low and n >= begun + 2 and steps[n] < 0.5 * min(before, float(ahead[n + 1 - first])):
            found.append((begun, n))
            begun, before = n, 0.0
        before = max(before, float(steps[n]))
    return [*found, (begun, last)]


def jerk_times(path: Array) -> tuple[float, int]:
    """How many times the peak jerk of one move is that of the smoothest move as long and as far, and where.

    References
    ----------
    Flash and Hogan, "The coordination of arm movements: an experimentally confirmed mathematical model", J. Neurosci.
    5(7), 1985: the minimum-jerk move of a way D in a time T has its peak jerk, 60 D / T^3, at both ends.
    """
    way, time = float(np.linalg.norm(np.diff(path, axis=0), axis=1).sum()), float(len(path) - 1)
    if len(path) < 5 or way <= 0.0:
        return 0.0, 0
    jerk = np.linalg.norm(np.diff(path, 3, axis=0), axis=1)
    at = int(np.argmax(jerk))
    return float(jerk[at] / (60.0 * way / time**3)), at + 2


def pops(path: Array, size: float) -> list[tuple[int, float]]:
    """Frames into which a path jumps while it stands before and after: the frame, and how far, metres."""
    steps = np.linalg.norm(np.diff(path, axis=0), axis=1)
    found = []
    for n in range(1, len(steps) - 1):
        beside = max(steps[n - 1], steps[n + 1])
        if steps[n] > 2.0 * LEAST_STEP * size and steps[n] > POP * beside:
            found.append((n + 1, float(steps[n])))
    return found


def lines(path: Array, size: float) -> list[tuple[int, float]]:
    """Ends at which a path turns back on the line it came by, with how far the two ways lie apart as a share of them.

    The ways before and after the end are compared over the shorter of the two: at each distance from the end, how far
    the one is from the other.
    """
    angles = turning(path, 0.0)
    found = []
    for n in np.flatnonzero(angles > TURNED_BACK).tolist():
        out, back = _arm(path[n::-1]), _arm(path[n:])
        reach = min(out[1][-1], back[1][-1])
        if reach < LINE_WAY * size:
            continue
        at = np.linspace(0.2, 1.0, 9) * reach
        a, b = (np.stack([np.interp(at, d, p[:, c]) for c in range(3)], axis=1) for p, d in (out, back))
        apart = float(np.linalg.norm(a - b, axis=1).max() / reach)
        if apart < LINE:
            found.append((n, apart))
    return found


def _arm(path: Array) -> tuple[Array, Array]:
    """A path from an end on, up to where it comes nearer again, and how far from the end each frame is by the way."""
    far = np.linalg.norm(path - path[0], axis=1)
    nearer = np.flatnonzero(np.diff(far) < 0.0)
    stop = int(nearer[0]) + 1 if len(nearer) else len(path)
    arm = path[: max(stop, 2)]
    return arm, np.append(0.0, np.cumsum(np.linalg.norm(np.diff(arm, axis=0), axis=1)))


def trembling(values: Array, least: float) -> list[tuple[int, int, float]]:
    """Where a value (F,) goes to and fro frame by frame: from, to, and by how much it does so at most.

    Each of the steps has to be ``least`` or more.
    """
    steps = np.diff(values)
    over = np.zeros(len(steps), bool)
    over[1:] = (steps[1:] * steps[:-1] < 0.0) & (np.minimum(np.abs(steps[1:]), np.abs(steps[:-1])) >= least)
    return [
        (a, b + 1, float(np.abs(steps[a : b + 1]).max())) for a, b in runs(over) if b - a + 1 >= TREMBLE
    ]  # fmt: skip


@dataclass(frozen=True)
class Evenness:
    """How alike all of a motion is.

    Attributes
    ----------
    speeds : spread of its speeds while it goes, as a share of their mean
    lengths : spread of the lengths of its moves, as a share of their mean
    moves : how many there are
    """

    speeds: float
    lengths: float
    moves: int

    @property
    def floats(self) -> bool:
        return self.moves >= 3 and self.speeds < EVEN and self.lengths < EVEN


def evenness(path: Array, keys: Array, size: float) -> Evenness:
    """How even a path is; its moves are those between ``keys``, the frames (from 0 on) of its poses."""
    steps = np.linalg.norm(np.diff(path, axis=0), axis=1)
    going = steps[steps > 0.25 * LEAST_STEP * size]
    lengths = np.diff(np.asarray(keys, float))
    spread = float(going.std() / going.mean()) if len(going) > 2 else 1.0
    alike = float(lengths.std() / lengths.mean()) if len(lengths) > 1 else 1.0
    return Evenness(spread, alike, len(lengths))


def rises(height: Array, least: float) -> list[tuple[int, int, int]]:
    """Rises and the falls after them: where each rise begins, its top, and where the fall ends.

    Only those of ``least`` or more, metres.
    """
    turns = [0]
    for n in range(1, len(height) - 1):
        before, after = height[n] - height[n - 1], height[n + 1] - height[n]
        if before * after < 0.0 or (before != 0.0 and after == 0.0):
            turns.append(n)
    turns.append(len(height) - 1)
    kept = [turns[0]]
    for n in turns[1:]:
        if abs(height[n] - height[kept[-1]]) >= least:
            kept.append(n)
        elif len(kept) > 1 and (height[n] - height[kept[-1]]) * (height[kept[-1]] - height[kept[-2]]) > 0:
            kept[-1] = n
    return [
        (a, b, c)
        for a, b, c in zip(kept, kept[1:], kept[2:], strict=False)
        if height[b] > height[a] and height[b] > height[c]
    ]


def moving(path: Array, size: float) -> Bools:
    """Whether a path goes on at each frame."""
    steps = np.linalg.norm(np.diff(path, axis=0), axis=1) > LEAST_STEP * size
    return np.asarray(np.append(steps, False) | np.append(False, steps))


def in_picture(path: Array, camera: Array) -> Array:
    """A path (F, 3) as a camera (F, 7) sees it: across and up in its picture at the mean distance, metres, and 0.

    What lies behind the camera is seen at its least distance.
    """
    seen = rotations.rotate(rotations.inverse(camera[:, 3:7]), path - camera[:, :3])
    depth = np.maximum(seen[:, 2], NEAREST)
    flat = seen[:, :2] / depth[:, None] * float(depth.mean())
    return np.concatenate([flat, np.zeros((len(path), 1))], axis=1)


def angle_said(angle: float) -> str:
    return f"{degrees(angle):.0f}°"
