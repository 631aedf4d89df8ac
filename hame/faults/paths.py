"""Faults of paths: corners, jerks, pops, lines where an arc should open, and trembling."""

from __future__ import annotations

from abc import abstractmethod
from collections.abc import Iterator
from math import degrees, radians

import numpy as np

from hame.character.rig import Limb, Rig
from hame.clip.clip import Clip
from hame.edits.arcs import SmoothArc, kept_poses, loose_keys
from hame.edits.cleaning import FitKeys, Tolerance
from hame.faults.fault import Alert, Fault
from hame.faults.look import Followed, Look
from hame.maths import rotations
from hame.maths.rotations import Array
from hame.measure import paths

KNEE, HEAD, EYES = radians(1.2), radians(0.6), radians(1.5)  # steps to and fro that are seen
NEAR_GROUND = 0.03  # of the height: a foot so low may turn as the ground makes it


class PathFault(Fault):
    """A fault that is looked for path by path."""

    group = "paths"

    def found(self, look: Look) -> Iterator[Alert]:
        for part in look.parts:
            yield from self.of_path(look, part, look.path(part))

    @abstractmethod
    def of_path(self, look: Look, part: Followed, path: Array) -> Iterator[Alert]:
        """The faults of the path (F, 3) of one part."""


class Corner(PathFault):
    """A path that turns sharply, also between frames."""

    kind = "corner"

    def of_path(self, look: Look, part: Followed, path: Array) -> Iterator[Alert]:
        is_foot = part.limb is not None and part.limb.kind == "leg"
        low = path[:, 1] < path[:, 1].min() + NEAR_GROUND * look.rig.size if is_foot else None
        free = look.free(part)
        for n, angle in _sharp(look, part, path):
            if not free[n] or (low is not None and low[n]):
                continue
            frame = look.first + n
            near = look.first + max(n - 6, 0), look.first + min(n + 6, len(path) - 1)
            said = f"{part.label}: the path has a corner of {paths.angle_said(angle)}"
            mend = _smoothed(part, look.clip, look.rig, frame, near)
            yield Alert(self.kind, part.control, frame, frame, frame, angle, said).mended(mend, "smooth the arc here")


def _sharp(look: Look, part: Followed, path: Array) -> list[tuple[int, float]]:
    """The corners of a path, without those that are round in between."""
    corners = paths.corners(path, look.rig.size)
    if look.finer is None or not corners:
        return corners
    times = paths.around(np.array([look.first + n for n, _ in corners]))
    nodes, camera = look.finer(times.ravel())
    fine = nodes[:, part.node, :3]
    if camera is not None:
        fine = paths.in_picture(fine, camera)
    looked_at = fine.reshape(len(corners), -1, 3)
    return [corner for corner, near in zip(corners, looked_at, strict=True) if paths.is_sharp(near, corner[1])]


def _smoothed(part: Followed, clip: Clip, rig: Rig, frame: int, near: tuple[int, int]) -> SmoothArc | None:
    """What rounds a corner, where keys may move for it: none at a key pose itself, or where others are shown."""
    control = _posed_by(part, clip)
    shown = any(span.derives(np.array([float(frame)]))[0] for _, span in clip.spans())
    if shown or frame in kept_poses(clip) or not loose_keys(clip, rig, control, *near):
        return None
    return SmoothArc(control=control, first=near[0], last=near[1])


def _posed_by(part: Followed, clip: Clip) -> str:
    """The control whose keys lead a path: of a limb, its IK control where that has keys, else its hand's or foot's."""
    if part.limb is None or any(a.startswith(f"{part.limb.ik}/t") for a in clip.curves):
        return part.control
    return part.limb.fk[2]


class Jerk(PathFault):
    """A move that is not smooth, by how many times the jerk of the smoothest such move it has."""

    kind = "jerk"

    def of_path(self, look: Look, part: Followed, path: Array) -> Iterator[Alert]:
        size, first, free = look.rig.size, look.first, look.free(part)
        for a, b in paths.moves_of(path, size):
            times, at = paths.jerks(path[a : b + 1])
            way = float(np.linalg.norm(np.diff(path[a : b + 1], axis=0), axis=1).sum())
            if times > paths.JERKY and way > 0.05 * size and b - a >= 6 and free[a + at]:
                said = f"{part.label}: a jerk {times:.0f} times that of the smoothest such move"
                yield Alert(self.kind, part.control, first + a, first + b, first + a + at, times, said)


class Pop(PathFault):
    """A part that is somewhere else within a frame, and holds."""

    kind = "pop"

    def of_path(self, look: Look, part: Followed, path: Array) -> Iterator[Alert]:
        free = look.free(part)
        for n, far in paths.pops(path, look.rig.size):
            if free[n]:
                frame, said = look.first + n, f"{part.label}: pops by {100 * far:.0f} cm in a frame, and holds"
                yield Alert(self.kind, part.control, frame - 1, frame, frame, far, said)


class Line(PathFault):
    """A hand that goes out and comes back on one line."""

    kind = "line"

    def of_path(self, look: Look, part: Followed, path: Array) -> Iterator[Alert]:
        if part.limb is None or part.limb.kind != "arm":
            return
        free = look.free(part)
        for n, apart in paths.lines(path, look.rig.size):
            if free[n]:
                frame = look.first + n
                said = (
                    f"{part.label}: goes out and back on one line ({100 * apart:.0f}% apart) where an arc should open"
                )
                yield Alert(self.kind, part.control, frame, frame, frame, apart, said)


class Tremble(Fault):
    """A knee, an elbow, a head or an eye that goes to and fro from frame to frame."""

    kind = "tremble"
    group = "paths"

    def found(self, look: Look) -> Iterator[Alert]:
        if not look.parts:
            return
        rig, nodes, first = look.rig, look.posed.nodes, look.first
        for limb in rig.limbs:
            word = "knee" if limb.kind == "leg" else "elbow"
            for a, b, most in paths.trembling(_bends(nodes, limb), KNEE):
                said = f"{limb.label} {word} trembles by {degrees(most):.1f}° from frame to frame"
                mend = FitKeys(tolerance=Tolerance(0.008, 0.05), controls=(limb.ik, *limb.fk))
                found = Alert(self.kind, limb.ik, first + a, first + b, first + a, most, said)
                yield found.mended(mend, f"fewer keys for the {limb.label} {limb.kind}")
        for control, least, word in (("head", HEAD, "unsteady head"), *((e, EYES, "unsteady eye") for e in _eyes(rig))):
            if not rig.has_control(control):
                continue
            turn = nodes[:, rig.control(control).node, 3:7]
            steps = rotations.to_vector(rotations.multiply(turn[1:], rotations.inverse(turn[:-1])))
            for axis in range(3):
                for a, b, most in paths.trembling(np.append(0.0, np.cumsum(steps[:, axis])), least):
                    said = f"{word}: to and fro by {degrees(most):.1f}° from frame to frame"
                    mend = FitKeys(tolerance=Tolerance(0.008, 0.03), controls=(control,))
                    found = Alert(self.kind, control, first + a, first + b, first + a, most, said)
                    yield found.mended(mend, f"fewer keys for {control}")
                    break


def _eyes(rig: Rig) -> list[str]:
    return [c.name for c in rig.controls if c.kind == "face" and "eye" in c.name]


def _bends(nodes: Array, limb: Limb) -> Array:
    """By how much a limb is bent, radians (F,), in nodes (F, N, 8)."""
    a, b, c = (nodes[:, n, :3] for n in (limb.upper, limb.lower, limb.end))
    return rotations.angles_between(b - a, c - b)
