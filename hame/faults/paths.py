"""Faults of paths, as alerts: each with its figure, and where one action mends it, that."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from math import degrees, radians

import numpy as np

from hame.character.rig import Limb, Rig
from hame.clip.clip import Clip
from hame.clip.curve import FRAME, STEP
from hame.clip.cycles import cycle_of
from hame.clip.layers import own_curves
from hame.clip.plants import Plant
from hame.clip.played import played_curves, played_spans
from hame.clip.spans import control_of
from hame.edits.arcs import SmoothArc, kept_poses, loose_keys
from hame.edits.cleaning import FitKeys, Tolerance
from hame.edits.columns import MoveColumns
from hame.edits.overlap import DelayParts, Link
from hame.evaluate.posed import Posed
from hame.faults.contacts import Alert
from hame.maths import rotations
from hame.maths.rotations import Array
from hame.measure import paths
from hame.measure.keyed import whole_columns

RISE = 0.015  # of the height: a rise that is seen
KNEE, HEAD, EYES = radians(1.2), radians(0.6), radians(1.5)  # steps to and fro that are seen
NEAR_GROUND = 0.03  # of the height: a foot so low may turn as the ground makes it
TOGETHER = 0.9  # share of the parts whose keys all lie on the same frames


Finer = Callable[[Array], tuple[Array, Array | None]]
"""By times (T,), the nodes (T, N, 8) of the figure, and the camera (T, 7) in whose picture it is looked at, if any."""


@dataclass(frozen=True)
class Followed:
    """A part whose path is looked at: its control, how it is called, its node, and the limb that it ends."""

    control: str
    label: str
    node: int
    limb: Limb | None = None


def followed(rig: Rig) -> list[Followed]:
    """The parts of a body whose arcs are judged: hips, head, and the ends of its limbs."""
    found = [
        Followed(name, rig.control(name).label, rig.control(name).node)
        for name in ("hips", "body", "head")
        if rig.has_control(name) and not (name == "body" and rig.has_control("hips"))
    ]
    for limb in rig.limbs:
        found.append(Followed(limb.ik, rig.control(limb.ik).label, limb.end, limb))
    return found


def arc_alerts(
    clip: Clip, posed: Posed, first: int, fps: float, camera: Array | None = None, finer: Finer | None = None
) -> list[Alert]:
    """The faults of a figure's paths over its frames from ``first`` on, in the order of time; none of a prop.

    With a ``camera (F, 7)`` they are looked for in its picture, where a part may go otherwise than in the world. With
    ``finer`` corners are looked at between frames as well: a quick arc that is round there is none.
    """
    rig = posed.rig
    if rig.plan.is_prop or len(posed.nodes) < 3:
        return []
    last = first + len(posed.nodes) - 1
    planted = _planted(clip, rig, first, last)
    found: list[Alert] = []
    for part in followed(rig):
        path = posed.nodes[:, part.node, :3]
        if camera is not None:
            path = paths.in_picture(path, camera)
        free = ~planted.get(part.control, np.zeros(len(path), bool))
        sharp = _sharp(part, path, first, rig.size, finer)
        found += _of_path(part, path, free, first, rig, clip, sharp)
    found += _trembling(rig, posed, first)
    found += _timing(clip, rig, posed, first, planted)
    return sorted(found, key=lambda alert: (alert.first, alert.kind, alert.control))


def _planted(clip: Clip, rig: Rig, first: int, last: int) -> dict[str, np.ndarray]:
    """By IK control, the frames on which its limb is planted, with those beside: there a path may end as it likes."""
    found = {}
    for track, spans in played_spans(clip, rig, Plant.kind, first, last).items():
        flags = np.zeros(last - first + 1, bool)
        for span in spans:
            flags[max(span.start - 1 - first, 0) : max(span.end + 2 - first, 0)] = True
        found[control_of(track)] = flags
    return found


def _sharp(part: Followed, path: Array, first: int, size: float, finer: Finer | None) -> list[tuple[int, float]]:
    """The corners of a path, without those that are round in between."""
    corners = paths.corners(path, size)
    if finer is None or not corners:
        return corners
    times = paths.around(np.array([first + n for n, _ in corners]))
    nodes, camera = finer(times.ravel())
    fine = nodes[:, part.node, :3]
    if camera is not None:
        fine = paths.in_picture(fine, camera)
    looked_at = fine.reshape(len(corners), -1, 3)
    return [corner for corner, near in zip(corners, looked_at, strict=True) if paths.is_sharp(near, corner[1])]


def _of_path(
    part: Followed, path: Array, free: np.ndarray, first: int, rig: Rig, clip: Clip, corners: list[tuple[int, float]]
) -> Iterator[Alert]:
    size = rig.size
    low = path[:, 1] < path[:, 1].min() + NEAR_GROUND * size if part.limb and part.limb.kind == "leg" else None
    for n, angle in corners:
        if not free[n] or (low is not None and low[n]):
            continue
        near = first + max(n - 6, 0), first + min(n + 6, len(path) - 1)
        mend = _smoothed(part, clip, rig, first + n, near)
        yield Alert(
            "corner", part.control, first + n, first + n, first + n, angle,
            f"{part.label}: the path has a corner of {paths.angle_said(angle)}", mend,
            "smooth the arc here" if mend else "",
        )  # fmt: skip
    for a, b in paths.moves_of(path, size):
        times, at = paths.jerks(path[a : b + 1])
        way = float(np.linalg.norm(np.diff(path[a : b + 1], axis=0), axis=1).sum())
        if times > paths.JERKY and way > 0.05 * size and b - a >= 6 and free[a + at]:
            yield Alert(
                "jerk", part.control, first + a, first + b, first + a + at, times,
                f"{part.label}: a jerk {times:.0f} times that of the smoothest such move",
            )  # fmt: skip
    for n, far in paths.pops(path, size):
        if free[n]:
            yield Alert(
                "pop", part.control, first + n - 1, first + n, first + n, far,
                f"{part.label}: pops by {100 * far:.0f} cm in a frame, and holds",
            )  # fmt: skip
    if part.limb is not None and part.limb.kind == "arm":
        for n, apart in paths.lines(path, size):
            if free[n]:
                yield Alert(
                    "line", part.control, first + n, first + n, first + n, apart,
                    f"{part.label}: goes out and back on one line ({100 * apart:.0f}% apart) where an arc should open",
                )  # fmt: skip


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


def _trembling(rig: Rig, posed: Posed, first: int) -> Iterator[Alert]:
    for limb in rig.limbs:
        bend = _bends(posed.nodes, limb)
        word = "knee" if limb.kind == "leg" else "elbow"
        for a, b, most in paths.trembling(bend, KNEE):
            mend = FitKeys(tolerance=Tolerance(0.008, 0.05), controls=(limb.ik, *limb.fk))
            yield Alert(
                "tremble", limb.ik, first + a, first + b, first + a, most,
                f"{limb.label} {word} trembles by {degrees(most):.1f}° from frame to frame",
                mend, f"fewer keys for the {limb.label} {limb.kind}",
            )  # fmt: skip
    for control, least, word in (("head", HEAD, "unsteady head"), *((e, EYES, "unsteady eye") for e in _eyes(rig))):
        if not rig.has_control(control):
            continue
        turn = posed.nodes[:, rig.control(control).node, 3:7]
        steps = rotations.to_vector(rotations.multiply(turn[1:], rotations.inverse(turn[:-1])))
        for axis in range(3):
            angle = np.append(0.0, np.cumsum(steps[:, axis]))
            for a, b, most in paths.trembling(angle, least):
                yield Alert(
                    "tremble", control, first + a, first + b, first + a, most,
                    f"{word}: to and fro by {degrees(most):.1f}° from frame to frame",
                    FitKeys(tolerance=Tolerance(0.008, 0.03), controls=(control,)), f"fewer keys for {control}",
                )  # fmt: skip
                break


def _eyes(rig: Rig) -> list[str]:
    return [c.name for c in rig.controls if c.kind == "face" and "eye" in c.name]


def _bends(nodes: Array, limb: Limb) -> Array:
    """By how much a limb is bent, radians (F,), in nodes (F, N, 8)."""
    a, b, c = (nodes[:, n, :3] for n in (limb.upper, limb.lower, limb.end))
    u, v = b - a, c - b
    return np.asarray(np.arctan2(np.linalg.norm(np.cross(u, v), axis=1), (u * v).sum(axis=1)))


def _timing(clip: Clip, rig: Rig, posed: Posed, first: int, planted: Mapping[str, np.ndarray]) -> Iterator[Alert]:
    last = first + len(posed.nodes) - 1
    columns = [f for f in whole_columns(clip) if first <= f <= last]
    hips = next(part for part in followed(rig))
    path = posed.nodes[:, hips.node, :3]
    if len(columns) > 3 and cycle_of(clip) is None:  # a cycle is even on purpose
        even = paths.evenness(path, np.array(columns) - first, rig.size)
        if even.floats:
            yield Alert(
                "even", hips.control, columns[0], columns[-1], columns[0], even.speeds,
                f"floats: speeds spread by {even.speeds:.0%} and poses are {even.lengths:.0%} apart from evenly timed",
            )  # fmt: skip
    yield from _together(clip, rig, columns, first, last)
    cycle = cycle_of(clip)
    for a, top, b in paths.rises(path[:, 1], RISE * rig.size):
        rise, fall = top - a, b - top
        if rise != fall or rise < 4:
            continue
        # In a cycle a body vaults over one foot after the other, and rises as long as it falls.
        if cycle is not None and cycle.start <= first + top <= cycle.until:
            continue
        # In a flight both are as long, by the way things fall. (What is told as planted includes the frames beside.)
        if planted and not any(flags[max(top - 1, 0) : top + 2].all() for flags in planted.values()):
            continue
        frame = first + top
        by = max(min((b - top) // 3, 2), 1)
        own = frame in columns or frame in clip.labels
        mend = MoveColumns(frames=(frame,), by=by) if own else None
        yield Alert(
            "alike", hips.control, first + a, first + b, frame, float(rise),
            f"rise and fall are of equal length, {rise} frames each: a fall is quicker (3 to a rise of 6 to 8)",
            mend, f"the top {by} frames later" if mend else "",
        )  # fmt: skip


def _together(clip: Clip, rig: Rig, columns: Sequence[int], first: int, last: int) -> Iterator[Alert]:
    """All parts keyed on the same frames though nothing is stepped any more: no overlap."""
    if len(columns) < 3:
        return
    parts: dict[str, set[int]] = {}
    smooth = total = 0
    for address, curve in own_curves(played_curves(clip, rig, first, last)).items():
        if not rig.has_channel(address):
            continue
        inside = (curve.table[:, FRAME] >= first) & (curve.table[:, FRAME] <= last)
        smooth += int((curve.shapes[inside] != STEP).sum())
        total += int(inside.sum())
        part = rig.control(rig.channels[rig.number(address)].control).part
        parts.setdefault(part, set()).update(curve.table[inside, FRAME].astype(int).tolist())
    if len(parts) < 3 or smooth < 0.9 * total:
        return
    same = [part for part, frames in parts.items() if frames == set(columns)]
    share = len(same) / len(parts)
    if share < TOGETHER:
        return
    chain = [Link(tuple(limb.fk[1:2]), 1) for limb in rig.limbs if limb.kind == "arm"]
    chain += [Link(tuple(limb.fk[2:]), 2) for limb in rig.limbs if limb.kind == "arm"]
    mend = DelayParts(chain=tuple(chain), first=first, last=last) if chain else None
    yield Alert(
        "together", rig.controls[0].name, columns[0], columns[-1], columns[0], share,
        f"{share:.0%} of the parts are keyed on the same {len(columns)} frames: nothing leads or trails",
        mend, "let forearms trail by 1 frame, hands by 2" if mend else "",
    )  # fmt: skip
