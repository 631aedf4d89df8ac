"""What mends a fault over a run of frames: a mend of one frame again and again, on as few frames as hold it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np
import numpy.typing as npt

from hame.character.rig import Limb, Rig
from hame.clip.clip import Clip
from hame.clip.curve import Curve, from_table, split_at, with_keys
from hame.clip.key import BEZIER, FRAME, FREE_BOTH, HANDLES, VALUE
from hame.clip.layers import own_curves
from hame.clip.plants import Plant
from hame.clip.played import played_spans
from hame.clip.spans import track_name
from hame.edits.asif import AsIf
from hame.edits.byhand import ByHand
from hame.edits.chosen import counted, refuse_derived
from hame.edits.edit import Edit, Frame
from hame.edits.outcome import Outcome
from hame.edits.pulled import PullPart, ShiftWeight
from hame.edits.tying import ControlName, refuse_outside
from hame.errors import BadEdit
from hame.evaluate.posed import Posed
from hame.maths.rotations import Array
from hame.measure.ground import Ground
from hame.measure.reach import missing, too_short
from hame.measure.soles import has_sole, level_of, sole_outline
from hame.scene.scene import Scene
from hame.work import refuse_poses

Fault = Literal["sunk", "short", "falling"]
HELD: dict[Fault, float] = {"sunk": 0.0015, "short": 0.0004, "falling": 0.005}
"""Metres that may be left of a fault, less than is told as one."""
_ROUNDS, _TRIES = 60, 4
_GAIN, _IDLE = 0.98, 12  # a round that leaves more than this share of the least so far gains nothing; so many end it
_MORE = 1.25  # a body that reaches goes a little farther than it must: then the frames beside do not lack any more


@dataclass(frozen=True, kw_only=True)
class MendRun(Edit):
    """A fault of a limb, or of the whole body's weight, mended from ``first`` to ``last``.

    ``control`` is the IK control of the limb; of a weight that falls it is left out. Beyond the frames beside the run
    nothing moves.
    """

    kind: Literal["mend run"] = "mend run"
    fault: Fault
    control: ControlName = ""
    first: Frame
    last: Frame

    dear = True

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        refuse_outside(scene, self.first, self.last, "a run of frames to mend")
        refuse_derived(clip, range(self.first - 1, self.last + 2))
        refuse_poses((self.last - self.first + 1) * 10, "mending a run")
        limb = next((limb for limb in rig.limbs if limb.ik == self.control), None)
        if limb is None and self.fault != "falling":
            raise BadEdit(f"{self.control or 'nothing'} is the IK control of no limb here; nothing was changed")
        if self.fault == "sunk" and limb is not None and not has_sole(rig, limb):
            raise BadEdit(f"{rig.control(self.control).label} has no sole that could sink; nothing was changed")
        if self.fault != "sunk" and not any(control.kind == "body" for control in rig.controls):
            raise BadEdit("a thing has no body that could be moved for that; nothing was changed")
        look = _Look(self, rig, limb, scene)
        way = look.amounts(clip)
        before = float(np.linalg.norm(way, axis=1).max())
        if before <= HELD[self.fault]:
            raise BadEdit(f"from {self.first} to {self.last} there is nothing of that to mend; nothing was changed")
        # What lies beyond the run stays; where the shot ends with it, nothing does.
        edges = [f for f in (self.first - 1, self.last + 1) if scene.start <= f <= scene.end]
        edged = clip.with_curves({a: _edged(c, edges) for a, c in own_curves(clip.curves).items()}) if edges else clip
        now, tries = edged, np.zeros(len(way), int)
        least, idle = np.inf, 0
        for _ in range(min(_ROUNDS, 3 * len(way))):
            # A frame that gives no more after some tries is left; those beside it may.
            far = np.where(tries < _TRIES, np.linalg.norm(way, axis=1), 0.0)
            worst = int(far.argmax())
            if far[worst] <= HELD[self.fault]:
                break
            tries[worst] += 1
            now = _at_rest_beyond(look.mended(now, self.first + worst, way[worst]), now, rig, edges)
            way = look.amounts(now)
            rest = float(np.linalg.norm(way, axis=1).sum())
            least, idle = (rest, 0) if rest < _GAIN * least else (least, idle + 1)
            if idle >= _IDLE:
                break  # what is mended on one frame comes back on others
        left = float(np.linalg.norm(way, axis=1).max())
        if left > 0.5 * before:
            raise BadEdit(
                f"this cannot be mended so: of {1000 * before:.0f} mm {1000 * left:.0f} would be left. Nothing was "
                "changed"
            )
        still = f"; {1000 * left:.1f} mm are left" if left > HELD[self.fault] else ""
        note = f"mended by keys on {counted(int((tries > 0).sum()), 'frame')} of {self.last - self.first + 1}{still}"
        return Outcome(_only_what_changed(clip, edged, now), (note,))

    def label(self, rig: Rig, scene: Scene) -> str:
        what = {"sunk": "Lift", "short": "Let the body reach:", "falling": "Weight over what bears it"}
        of = f" {rig.control(self.control).label}" if self.control and rig.has_control(self.control) else ""
        return f"{what[self.fault]}{of}, {self.first} to {self.last}"


@dataclass(frozen=True)
class _Look:
    """A run of frames as it plays, and what a fault asks for on each."""

    edit: MendRun
    rig: Rig
    limb: Limb | None
    scene: Scene

    def amounts(self, clip: Clip) -> Array:
        """How far and which way (F, 3) what is wrong has to go on each frame, metres in the world."""
        frames = np.arange(self.edit.first, self.edit.last + 1)
        up = np.zeros((len(frames), 3))
        as_if = AsIf(self.scene)
        if self.edit.fault == "falling":
            _, stands = as_if.stood(clip, self.edit.first, self.edit.last)
            up[:, 0] = np.maximum(-np.array([stand.margin or 0.0 for stand in stands]), 0.0)
            return up
        limb = self.limb
        assert limb is not None
        mine, ground = as_if.grounded(clip, self.edit.first, self.edit.last)
        if self.edit.fault == "short":
            by_ik = mine.values[:, self.rig.number(limb.switch)] > 0.5
            short = np.where(by_ik, too_short(limb, mine.nodes, self._held(clip, limb, frames)), 0.0)
            way = missing(limb, mine.nodes)
            size = np.linalg.norm(way, axis=1, keepdims=True)
            return np.where(short[:, None] > 0.0, way / np.maximum(size, 1e-12) * short[:, None], 0.0)
        height = self._height(mine, limb, ground)
        up[:, 1] = np.maximum(-height, 0.0)
        return up

    def _held(self, clip: Clip, limb: Limb, frames: npt.NDArray[np.int64]) -> npt.NDArray[np.bool_]:
        plants = played_spans(clip, self.rig, Plant.kind, int(frames[0]), int(frames[-1]))
        spans = plants.get(track_name(Plant.kind, limb.ik), ())
        return np.asarray(sum(((frames >= s.start) & (frames <= s.end) for s in spans), np.zeros(len(frames), bool)))

    def _height(self, posed: Posed, limb: Limb, ground: Ground) -> Array:
        sole = sole_outline(self.rig, limb, posed.nodes)
        return np.asarray((sole[:, :, 1] - ground.under(sole) - level_of(self.rig, limb)).min(axis=1))

    def mended(self, clip: Clip, frame: int, way: Array) -> Clip:
        """The clip with the fault mended on one frame."""
        x, y, z = (float(step) for step in way)
        edit: Edit
        if self.edit.fault == "falling":
            edit = ShiftWeight(frame=frame)
        elif self.edit.fault == "short":
            body = next(control.name for control in self.rig.controls if control.kind == "body")
            edit = ByHand(frame=frame, controls=(body,), way="move", by=(_MORE * x, _MORE * y, _MORE * z), axes="world")
        else:
            edit = PullPart(frame=frame, part=self.edit.control, x=x, y=y, z=z)
        figures = {**self.scene.figures, self.scene.of: self.scene.figure(self.scene.of).with_clip(clip)}
        return edit.change(clip, self.rig, replace(self.scene, figures=figures)).clip


def _edged(curve: Curve, edges: Sequence[int]) -> Curve:
    """The same curve with keys at the edges of a run, and nothing beyond them led by what comes to lie inside."""
    table = curve.table
    for edge in edges:
        if edge in table[:, FRAME]:
            continue
        if table[0, FRAME] < edge < table[-1, FRAME]:
            table = split_at(table, edge)
        else:
            value = table[0 if edge < table[0, FRAME] else -1, VALUE]
            table = with_keys(from_table(table), {edge: float(value)}, BEZIER).table
    table = table.copy()
    frames = table[:, FRAME]
    first, last = min(edges), max(edges)
    beside = [f for f in (max((f for f in frames if f < first), default=None), *edges,
                          min((f for f in frames if f > last), default=None)) if f is not None]  # fmt: skip
    table[np.isin(frames, beside), HANDLES] = FREE_BOTH
    return from_table(table)


def _at_rest_beyond(now: Clip, before: Clip, rig: Rig, edges: Sequence[int]) -> Clip:
    """The clip with channels that were not keyed before kept where they were, at rest, beyond the run."""
    new = [address for address in now.curves if address not in before.curves]
    at = {address: rig.channels[rig.number(address)].rest for address in new}
    return now.with_curves({
        a: with_keys(now.curves[a], dict.fromkeys(edges, rest), BEZIER) for a, rest in at.items() if edges
    })  # fmt: skip


def _only_what_changed(clip: Clip, edged: Clip, now: Clip) -> Clip:
    """The mended clip; curves that nothing was keyed in are what they were."""
    alike = {a for a, c in edged.curves.items() if np.array_equal(now.curves[a].table, c.table)}
    return now.with_curves({a: clip.curves[a] for a in alike})
