"""A turn of the whole that starts or stops faster than feet hold it, eased."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Literal

import numpy as np
from scipy.ndimage import gaussian_filter1d

from hame.character.rig import Rig
from hame.clip.clip import Clip
from hame.clip.sampling import sample_curve
from hame.edits.asif import AsIf
from hame.edits.chosen import counted, refuse_derived
from hame.edits.edit import Edit, Frame, Within
from hame.edits.fewkeys import refitted
from hame.edits.outcome import Outcome
from hame.edits.tying import refuse_outside
from hame.errors import BadEdit
from hame.maths.rotations import Array
from hame.maths.thinning import SUB, between_frames
from hame.measure.dynamics import SEEN, dynamics, steadied
from hame.measure.twisting import friction_of_turn
from hame.scene.scene import Scene
from hame.work import refuse_poses

TURNS = ("body/ry", "master/ry")
_WIDTHS = (1.5, 2.5, 4.0, 6.0, 9.0, 12.0)  # frames over which a turn is spread, one after the other
_AROUND = 16  # frames on both sides in which it may
_NONE = 1e-4  # radians


@dataclass(frozen=True, kw_only=True)
class EaseTurn(Edit):
    """The turn of body and master about ``first`` to ``last`` begun and ended more slowly, until it asks for no more
    than a ``friction`` of the ground; by few keys, with feet that stay where they are planted.

    It may begin up to 16 frames sooner and end as much later; poses with a name stay.
    """

    kind: Literal["ease turn"] = "ease turn"
    first: Frame
    last: Frame
    friction: Annotated[float, Within(0.05, 5.0, "")] = 0.8

    dear = True

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        refuse_outside(scene, self.first, self.last, "a turn")
        addresses = [a for a in TURNS if a in clip.curves and rig.has_channel(a)]
        first, last = self._within(clip, scene)
        refuse_derived(clip, range(first, last + 1))
        refuse_poses((last - first + 1) * len(_WIDTHS), "easing a turn")
        times = between_frames(first, last)
        turned = {a: sample_curve(clip.curves[a], times) for a in addresses}
        turned = {a: v for a, v in turned.items() if np.ptp(v) > _NONE}
        if not turned or last - first < 4:
            raise BadEdit(
                f"neither body nor master turns about the upright from {first} to {last}, or there is no room: what "
                "turns is the trunk or a limb. Nothing was changed"
            )
        before = now = self._asked(AsIf(scene), clip, scene, first, last)
        if before <= self.friction:
            raise BadEdit(f"it asks for a friction of {before:.1f}, which there is; nothing was changed")
        best, keys = clip, 0
        for width in _WIDTHS:
            eased = {a: refitted(clip.curves[a], first, last, _spread(v, width)) for a, v in turned.items()}
            tried = clip.with_curves(dict(eased))
            asked = self._asked(AsIf(scene), tried, scene, first, last)
            if asked < now:
                best, now = tried, asked
                keys = sum(int(((c.frames >= first) & (c.frames <= last)).sum()) for c in eased.values())
            if now <= self.friction:
                break
        if best is clip:
            raise BadEdit("turning more slowly asks the ground for no less here; nothing was changed")
        rest = "" if now <= self.friction else f"; more frames between its poses would help, {self.friction:g} is there"
        note = f"it asks for a friction of {now:.1f} where it was {before:.1f}, by {counted(keys, 'key')}{rest}"
        return Outcome(best, (note,))

    def _within(self, clip: Clip, scene: Scene) -> tuple[int, int]:
        """The frames within which it may turn: up to poses with a name beside it."""
        named = sorted(frame for frame, label in clip.labels.items() if label.name)
        first = max([scene.start, self.first - _AROUND, *(f for f in named if f <= self.first)])
        last = min([scene.end, self.last + _AROUND, *(f for f in named if f >= self.last)])
        return first, last

    def _asked(self, seen: AsIf, clip: Clip, scene: Scene, first: int, last: int) -> float:
        """The most friction that it asks for on these frames and some beside."""
        a, b = max(first - 4, scene.start), min(last + 4, scene.end)
        posed, stands = seen.stood(clip, a, b)
        if len(stands) < 3:
            return 0.0
        loads = seen.laden(clip, np.arange(float(a), b + 1))[1]
        level = np.array([stand.level for stand in stands])
        found = dynamics(posed.rig, posed.nodes, scene.fps, scene.gravity, level, loads)
        found = steadied(found, scene.fps, SEEN, scene.gravity, level)
        return float(friction_of_turn(found, stands, scene.gravity).max())

    def label(self, rig: Rig, scene: Scene) -> str:
        return f"Ease the turn, {self.first} to {self.last}"


def _spread(values: Array, width: float) -> Array:
    """Values (T,) spread over so many frames; as they were at both ends."""
    smooth = gaussian_filter1d(values, width * SUB, mode="nearest")
    along = np.linspace(0.0, 1.0, len(values))
    ends = values[[0, -1]] - smooth[[0, -1]]
    return np.asarray(smooth + ends[0] * (1.0 - along) + ends[1] * along)
