"""Paths rounded, and breakdowns laid on the arc between two poses."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from math import radians
from typing import Annotated, Literal

import numpy as np

from hame.character.rig import TURN, Limb, Rig
from hame.clip.clip import Clip
from hame.clip.curve import Curve, from_table
from hame.clip.key import FRAME, SHAPES, VALUE, ShapeName
from hame.clip.layers import own_curves
from hame.clip.sampling import sample_curve
from hame.edits.blend import breakdown_values
from hame.edits.chosen import counted, refuse_derived
from hame.edits.edit import AtMost, Controls, Edit, Frame, Within, controls_said
from hame.edits.outcome import Outcome
from hame.edits.pose import Keying, set_pose
from hame.errors import BadEdit
from hame.evaluate.evaluate import channel_values, evaluate
from hame.maths import rotations, transforms
from hame.maths.rotations import Array
from hame.measure.keyed import whole_columns
from hame.measure.paths import LEAST_STEP, turning
from hame.scene.scene import Scene
from hame.scene.seen import pose_values
from hame.solve.drag import place_control
from hame.work import refuse_poses

ROUND = radians(22.0)
"""A path that turns by less at every frame is round (common practice, no source)."""
_LEVER = 0.5  # metres a radian: how a turned key counts beside a moved one
BULGE = Within(-1.0, 1.0, "share", "an arc bulges by up to 100% of the way between its poses, not by {value:.0%}")
SHARE = Within(0.0, 1.0, "share", "a breakdown on an arc lies 0 to 100% of the way, not {value:.0%}")


def leading_channels(rig: Rig, control: str) -> list[str]:
    """The channels whose keys lead the place of a control: its own place, or the turns of what carries it."""
    found = rig.control(control)
    places = [c.address for c in rig.channels_of(control) if c.name in ("tx", "ty", "tz") and not c.locked]
    limb = next((limb for limb in rig.limbs if control in limb.fk), None)
    if limb is not None:
        names = list(limb.fk[: limb.fk.index(control)])
    elif places:
        return places
    else:
        names, parent = [], found.parent
        while parent and len(names) < 4 and rig.control(parent).kind not in ("master", "body"):
            names.append(parent)
            parent = rig.control(parent).parent
    return [c.address for name in names for c in rig.channels_of(name) if c.kind == TURN and not c.locked]


def kept_poses(clip: Clip) -> set[int]:
    """The frames of key poses, which smoothing leaves alone: those ranked so, or without ranks the whole columns."""
    ranked = {f for f, label in clip.labels.items() if label.rank == "key"}
    return (ranked or set(whole_columns(clip))) - {f for f, label in clip.labels.items() if label.rank != "key"}


def loose_keys(clip: Clip, rig: Rig, control: str, first: int, last: int) -> list[tuple[str, int]]:
    """The keys that lead the path of a control and are no key poses, by address and frame."""
    own, held = own_curves(clip.curves), kept_poses(clip)
    return [
        (address, int(frame))
        for address in leading_channels(rig, control)
        if address in own
        for frame in own[address].table[:, FRAME]
        if first <= frame <= last and int(frame) not in held
    ]


def smooth_arc(clip: Clip, rig: Rig, control: str, first: int, last: int) -> Outcome:
    """Rounds the path of a control between two frames by the least change of its keys.

    Key poses stay, and so do the ends at which the path turns back. What moves are the keys between them: by so little
    that the path turns nowhere by more than ROUND, or if that cannot be, as round as they can make it.

    Raises
    ------
    BadEdit
        If there is no key that may move, or none makes the path rounder.
    """
    if last - first < 3:
        raise BadEdit(f"a path from {first} to {last} has no room for an arc; nothing was changed")
    limb = next((limb for limb in rig.limbs if limb.ik == control), None)
    node = limb.end if limb is not None else rig.control(control).node
    frames = np.arange(first - 2, last + 3, dtype=float)
    values = channel_values(rig, clip, frames)
    path = evaluate(rig, values)[:, node, :3]
    ends = _ends(path)
    least = LEAST_STEP * rig.size
    before = _most_turned(path, least, ends)
    if before <= ROUND:
        return Outcome(clip, (f"the path is round already: it turns by {np.degrees(before):.0f}° at most",))
    spots = [(a, f) for a, f in loose_keys(clip, rig, control, first, last) if int(f - frames[0]) not in ends]
    if not spots:
        raise BadEdit(
            f"every key of {rig.control(control).label} from {first} to {last} is a key pose or an end of its path, "
            "and these stay: rank one as a breakdown, or lay one between them. Nothing was changed"
        )
    refuse_derived(clip, {frame for _, frame in spots})
    refuse_poses(len(frames) * (1 + len(spots)), "rounding this path")
    best, turns = _rounded(rig, clip, values, node, frames, spots, ends)
    if best is clip:
        raise BadEdit("its keys cannot make this path rounder; a breakdown more could. Nothing was changed")
    after = _paths(rig, clip, values, node, frames, [best])[0]
    far = float(np.linalg.norm(after - path, axis=1).max())
    words = f"it turns by {np.degrees(turns):.0f}° at most now, not {np.degrees(before):.0f}°"
    keys = counted(len({f for _, f in spots}), "frame")
    return Outcome(best, (f"{words}; the path moved by {100 * far:.1f} cm at most, with {keys} of keys",))


def _rounded(
    rig: Rig, clip: Clip, values: Array, node: int, frames: Array, spots: list[tuple[str, int]], ends: set[int]
) -> tuple[Clip, float]:
    """The clip with keys moved by so little that a path turns nowhere by more than ROUND, or is as round as they can
    make it; and by how much it turns at most then.
    """
    least = LEAST_STEP * rig.size
    metres = [rig.channels[rig.number(address)].unit == "m" for address, _ in spots]
    lever = np.where(metres, 1.0, _LEVER)
    change = np.zeros(len(spots))
    best, turns = clip, _most_turned(_paths(rig, clip, values, node, frames, [clip])[0], least, ends)
    for _ in range(4):
        now = _moved(clip, spots, change)
        steps = [_moved(now, [spot], np.array([1e-4])) for spot in spots]
        base, *ways = _paths(rig, clip, values, node, frames, [now, *steps])
        bends = np.stack([np.diff((way - base) / 1e-4, 2, axis=0).ravel() for way in ways], axis=1) / lever
        goal = -np.diff(base, 2, axis=0).ravel()
        wishes = []
        for weight in np.geomspace(0.02, 60.0, 16):
            system = np.concatenate([weight * bends, np.eye(len(spots))])
            wish = np.concatenate([weight * goal, -change * lever])
            wishes.append(change + np.linalg.lstsq(system, wish, rcond=None)[0] / lever)
        tried = [_moved(clip, spots, wish) for wish in wishes]
        found = [_most_turned(p, least, ends) for p in _paths(rig, clip, values, node, frames, tried)]
        at = next((n for n, turn in enumerate(found) if turn <= ROUND), int(np.argmin(found)))
        if found[at] >= turns:
            break
        best, turns, change = tried[at], found[at], wishes[at]
        if turns <= ROUND:
            break
    return best, turns


def _paths(rig: Rig, clip: Clip, values: Array, node: int, frames: Array, clips: Sequence[Clip]) -> list[Array]:
    """Paths of a node for clips that differ from one, whose channel values (F, C) are known, in a few curves."""
    found = []
    for one in clips:  # one at a time: all of them would need much memory
        row = values.copy()
        for address, curve in one.curves.items():
            was = clip.curves[address]
            if curve is not was:
                row[:, rig.number(address)] += sample_curve(curve, frames) - sample_curve(was, frames)
        found.append(evaluate(rig, row)[:, node, :3].copy())
    return found


def _most_turned(path: Array, least: float, ends: set[int]) -> float:
    """The largest angle by which a path turns, radians, but for where it turns back and shall."""
    angles = turning(path, least)
    angles[sorted(ends)] = 0.0
    return float(angles.max())


def _ends(path: Array) -> set[int]:
    """Rows at which a path turns back."""
    angles = turning(path, 0.0)
    return {int(n) for n in np.flatnonzero(angles > radians(120.0))}


def _moved(clip: Clip, spots: Sequence[tuple[str, int]], change: Array) -> Clip:
    """The clip with keys changed by so much; their handles come of themselves."""
    changes: dict[str, Curve] = {}
    for (address, frame), by in zip(spots, change.tolist(), strict=True):
        curve = changes.get(address) or clip.curves[address]
        table = curve.table.copy()
        row = int(np.searchsorted(table[:, FRAME], frame))
        table[row, VALUE] += by
        changes[address] = from_table(table)
    return clip.with_curves(changes)


@dataclass(frozen=True, kw_only=True)
class SmoothArc(Edit):
    """The path of a control rounded by the least change of its keys; key poses and ends of the path stay."""

    kind: Literal["smooth arc"] = "smooth arc"
    control: Annotated[str, AtMost(200)]
    first: Frame
    last: Frame

    dear = True

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        return smooth_arc(clip, rig, self.control, self.first, self.last)

    def label(self, rig: Rig, scene: Scene) -> str:
        return f"Smooth arc of {controls_said(rig, [self.control])} from {self.first} to {self.last}"


def lay_on_arc(clip: Clip, rig: Rig, scene: Scene, edit: LayOnArc) -> Outcome:
    """See :class:`LayOnArc`."""
    frame = edit.frame
    refuse_derived(clip, [frame])
    SHARE.check(edit.share)
    BULGE.check(edit.bulge)
    keyed = [f for f in _poses_about(clip, rig, edit.control) if f != frame]
    earlier, later = [f for f in keyed if f < frame], [f for f in keyed if f > frame]
    if not earlier or not later:
        raise BadEdit(f"an arc needs a pose before and one after frame {frame}; nothing was laid")
    before, after = earlier[-1], later[0]
    values = pose_values(rig, clip, frame, scene)
    if edit.controls is None or len(edit.controls) > 1:  # the pose between, before the part is laid on its arc
        for address, value in breakdown_values(clip, rig, frame, edit.share, edit.controls).items():
            values[rig.number(address)] = value
    beside = [(earlier[-2:-1] or [before])[0], (later[1:2] or [after])[0]]
    rows = evaluate(rig, channel_values(rig, clip, [before, after, *beside]))
    told = [edit.control] if edit.control else [limb.ik for limb in rig.limbs if limb.kind == "arm"]
    for name in told:
        control = rig.control(name)
        limb = next((one for one in rig.limbs if one.ik == name or name in one.fk), None)
        nodes = evaluate(rig, values[None])[0]
        goal = _on_arc(rig, rows, nodes, limb, control.node, edit.share, edit.bulge)
        wished = transforms.transform(goal, nodes[control.node, 3:7], nodes[control.node, 7])
        if limb is not None and name in limb.fk:
            raise BadEdit(
                f"{control.label} is posed by FK and swings on its arc by itself: take its IK control. Nothing was laid"
            )
        place_control(rig, values, control, nodes, wished)
    now = pose_values(rig, clip, frame, scene)
    wanted = {rig.addresses[n]: float(values[n]) for n in np.flatnonzero(np.abs(values - now) > 1e-12)}
    keep = {rig.addresses[n]: float(values[n]) for name in told for n in _places(rig, name)}
    return set_pose(clip, rig, frame, {**wanted, **keep}, edit.keying, shape=SHAPES[edit.shape], scene=scene)


def _poses_about(clip: Clip, rig: Rig, control: str) -> list[int]:
    """The frames between which an arc goes: those on which what leads a part is keyed, or for all the whole columns."""
    if not control:
        return whole_columns(clip) or clip.key_frames()
    return clip.key_frames([c.address for c in rig.channels_of(control) if c.kind == "place"])


def _places(rig: Rig, name: str) -> list[int]:
    control = rig.control(name)
    return [n for n in range(control.first, control.first + 3) if not rig.channels[n].locked]


def _on_arc(rig: Rig, rows: Array, nodes: Array, limb: Limb | None, node: int, share: float, bulge: float) -> Array:
    """A place between those of two poses: on a swing about the limb's root, or on the arc that the poses beside lead
    to; pushed out by a share of the way between.
    """
    a, b = rows[0, node, :3], rows[1, node, :3]
    chord = b - a
    if limb is not None:
        roots = rows[:2, limb.root, :3]
        arms = np.stack([a, b]) - roots
        long = np.linalg.norm(arms, axis=1)
        turn = _between(arms[0], arms[1])
        vector = rotations.to_vector(turn)
        angle = float(np.linalg.norm(vector))
        part = rotations.from_axis_angle(vector, share * angle) if angle > 1e-9 else rotations.IDENTITY
        arm = rotations.rotate(part, arms[0] / max(long[0], 1e-9)) * (long[0] + share * (long[1] - long[0]))
        root = nodes[limb.root, :3]
        place = root + arm
        out = arm / max(float(np.linalg.norm(arm)), 1e-9)
    else:
        before, behind = rows[2, node, :3], rows[3, node, :3]
        # A Catmull-Rom arc through the four poses.
        m0, m1 = 0.5 * (b - before), 0.5 * (behind - a)
        t = share
        place = (
            (2 * t**3 - 3 * t**2 + 1) * a + (t**3 - 2 * t**2 + t) * m0 + (3 * t**2 - 2 * t**3) * b + (t**3 - t**2) * m1
        )
        off = place - (a + share * chord)
        size = float(np.linalg.norm(off))
        out = off / size if size > 1e-6 else np.array([0.0, 1.0, 0.0])
    return np.asarray(place + bulge * float(np.linalg.norm(chord)) * out)


def _between(a: Array, b: Array) -> Array:
    """The shortest turn from one direction to another."""
    a, b = a / max(float(np.linalg.norm(a)), 1e-9), b / max(float(np.linalg.norm(b)), 1e-9)
    axis = np.cross(a, b)
    q = np.append(axis, 1.0 + a @ b)
    size = float(np.linalg.norm(q))
    return q / size if size > 1e-9 else np.array([1.0, 0.0, 0.0, 0.0])


@dataclass(frozen=True, kw_only=True)
class LayOnArc(Edit):
    """A breakdown between two poses with a part on the arc between them: hands and feet swing about their shoulder or
    hip, other parts go on the arc that the poses beside lead to. ``bulge`` opens it by a share of the way.
    """

    kind: Literal["arc"] = "arc"
    frame: Frame
    control: Annotated[str, AtMost(200)] = ""
    share: Annotated[float, SHARE] = 0.5
    bulge: Annotated[float, BULGE] = 0.0
    controls: Controls = None
    keying: Keying = "changed"
    shape: ShapeName = "smooth"

    poses = True

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        return lay_on_arc(clip, rig, scene, self)

    def label(self, rig: Rig, scene: Scene) -> str:
        return f"Breakdown on the arc at {self.frame}"
