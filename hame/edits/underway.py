"""The mass brought over its feet as it moves: the body's way changed so that where its feet press is inside of them."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np
from scipy.interpolate import CubicSpline
from scipy.linalg import solve_banded

from hame.character.rig import Rig
from hame.clip.clip import Clip
from hame.clip.curve import from_table
from hame.clip.key import FRAME, VALUE
from hame.edits.asif import AsIf
from hame.edits.bodily import AXES, BODY, in_its_axes, laid_over_body
from hame.edits.chosen import refuse_derived
from hame.edits.edit import Edit, Frame
from hame.edits.fewkeys import few_keys
from hame.edits.footing import missed_by_legs
from hame.edits.outcome import Outcome
from hame.edits.tying import refuse_outside
from hame.errors import BadEdit
from hame.maths.rotations import Array
from hame.maths.thinning import between_frames
from hame.measure.balance import brought_inside, inside, margins_of, middle_of
from hame.measure.dynamics import SEEN, dynamics, steadied
from hame.scene.scene import Scene
from hame.work import refuse_poses

WITHIN = 0.015  # metres inside of what bears it
LONGEST, AROUND = 240, 24  # frames, and those on both sides over which the body comes to its new way and leaves it
_BEYOND = 6  # frames farther that are looked at, by which speeds at the ends are known
_TAKES, _ROUNDS = 0.8, 5  # a body that feet hold takes so much of its mass along
_LOWEST = 0.1  # metres that a mass is above what bears it, at least
_PRESSES = 0.02  # of the weight: what presses less bears nothing
_ENOUGH = 0.7  # of what it was beside its feet: more is not worth its keys


@dataclass(frozen=True, kw_only=True)
class BorneInMotion(Edit):
    """The mass goes so from ``first`` to ``last`` that the ground can bear it in motion.

    Where feet would have to press beside what bears the body, they press just inside of it, and the mass goes the way
    that follows from this: it begins to go sooner, or later. The body's place alone gets keys, over some frames on both
    sides as well; plants stay. Poses with a name stay, but for those from ``first`` to ``last``.
    """

    kind: Literal["borne in motion"] = "borne in motion"
    first: Frame
    last: Frame

    dear = True

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        if rig.plan.is_prop or not rig.has_control(BODY):
            raise BadEdit("a thing has no feet that bear it; nothing was changed")
        refuse_outside(scene, self.first, self.last, "what is borne")
        if not 0 <= self.last - self.first <= LONGEST:
            raise BadEdit(f"it is brought over its feet on up to {LONGEST} frames at once; nothing was changed")
        begin, end = self._window(clip, scene)
        if end - begin < 8:
            raise BadEdit("there is no room for another way between the poses that stay; nothing was changed")
        refuse_derived(clip, range(begin, end + 1))
        refuse_poses((end - begin + 2 * _BEYOND) * (_ROUNDS + 1), "bringing it over its feet")
        seen = AsIf(scene)
        best = was = _Pressed.of(seen, clip, begin, end)
        worst = least = was.beside(self.first, self.last)
        if worst <= 0.0:
            raise BadEdit("its feet bear it in motion already; nothing was changed")
        now, kept, way = clip, clip, np.zeros((end - begin + 1, 2))
        for _ in range(_ROUNDS):
            way = way + best.way(self.first, self.last) / _TAKES
            now = _moved(seen, clip, rig, begin, end, way)
            best = _Pressed.of(seen, now, begin, end)
            if best.beside(self.first, self.last) < least:
                least, kept = best.beside(self.first, self.last), now
            if least <= 0.0:
                break
        if least > _ENOUGH * worst:
            raise BadEdit(
                f"no way of its body brings it there: of {_far(worst)} beside its feet {_far(least)} would be left. "
                "Nothing was changed"
            )
        after = seen.posed(kept, np.arange(float(begin), end + 1))
        before = seen.posed(clip, np.arange(float(begin), end + 1))
        node = rig.control(BODY).node
        aside = float(np.linalg.norm(after.nodes[:, node, :3] - before.nodes[:, node, :3], axis=1).max())
        left = "inside of its feet" if least <= 0.0 else f"{_far(least)} beside its feet at most"
        note = f"it is borne {left}, not {_far(worst)} beside; its body goes {100 * aside:.1f} cm otherwise at most"
        return Outcome(kept, (note, *missed_by_legs(seen, clip, kept, rig, begin, end)))

    def _window(self, clip: Clip, scene: Scene) -> tuple[int, int]:
        """The frames on which the body may go otherwise: to poses on both sides that stay."""
        named = [frame for frame, label in clip.labels.items() if label.name]
        begin = max([self.first - AROUND, scene.start, *(frame for frame in named if frame < self.first)])
        end = min([self.last + AROUND, scene.end, *(frame for frame in named if frame > self.last)])
        return begin, end

    def label(self, rig: Rig, scene: Scene) -> str:
        return f"Borne in motion, {self.first} to {self.last}"


@dataclass(frozen=True, eq=False)
class _Pressed:
    """What is asked of the ground on frames from ``begin`` on.

    Attributes
    ----------
    margins : (F,) how far inside of what bears it its feet press, metres
    missing : (F, 2) how far that has to go to be inside, x and z
    drawn : (F,) how much faster the mass goes in a frame for each metre that it is away from where feet press
    """

    begin: int
    margins: Array
    missing: Array
    drawn: Array

    @classmethod
    def of(cls, seen: AsIf, clip: Clip, begin: int, end: int) -> _Pressed:
        scene = seen.scene
        first, last = max(begin - _BEYOND, scene.start), min(end + _BEYOND, scene.end)
        posed, stands = seen.stood(clip, first, last)
        loads = seen.laden(clip, np.arange(float(first), last + 1))[1]
        level = np.array([stand.level for stand in stands])
        raw = dynamics(posed.rig, posed.nodes, scene.fps, scene.gravity, level, loads)
        found = steadied(raw, scene.fps, SEEN, scene.gravity, level)
        margins = margins_of(stands, found.pressure)
        missing = np.zeros((len(stands), 2))
        for n, stand in enumerate(stands):
            if np.isfinite(margins[n]) and len(stand.area) >= 3:
                wished = min(WITHIN, 0.45 * inside(stand.area, middle_of(stand.area)))
                if margins[n] < wished:
                    missing[n] = brought_inside(stand.area, found.pressure[n], wished) - found.pressure[n]
        press = np.where([bool(stand.bearing) for stand in stands], found.force[:, 1], 0.0)
        press = np.where(press > _PRESSES * scene.gravity, press, 0.0)
        high = np.maximum(raw.centre[:, 1] - level, _LOWEST)
        part = slice(begin - first, end - first + 1)
        return cls(begin, margins[part], missing[part], (press / high)[part] / scene.fps**2)

    def beside(self, first: int, last: int) -> float:
        """How far beside its feet it is borne at most from one frame to another, metres; below 0 inside of them."""
        part = self.margins[first - self.begin : last - self.begin + 1]
        return float(-np.nanmin(part)) if np.isfinite(part).any() else 0.0

    def way(self, first: int, last: int) -> Array:
        """How far (F, 2) the mass goes otherwise so that feet press as far otherwise as is missing; not at the ends.

        The mass is drawn away from where they press: d'' = w (d - p), which is solved between both ends at once.
        """
        rows = np.arange(self.begin, self.begin + len(self.drawn))
        wished = np.where(((rows >= first) & (rows <= last))[:, None], self.missing, 0.0)
        banded = np.zeros((3, len(rows)))
        banded[0, 2:] = banded[2, :-2] = -1.0
        banded[1] = 2.0 + self.drawn
        banded[1, [0, -1]] = 1.0
        right = self.drawn[:, None] * wished
        right[[0, -1]] = 0.0
        result: Array = solve_banded((1, 1), banded, right)
        return result


def _moved(seen: AsIf, clip: Clip, rig: Rig, begin: int, end: int, way: Array) -> Clip:
    """The clip with the body's place changed so far (F, 2) on frames from one to another, by few keys."""
    times = between_frames(begin, end)
    level = CubicSpline(np.arange(begin, end + 1.0), way, bc_type="clamped")(times)
    world = np.stack([level[:, 0], np.zeros(len(times)), level[:, 1]], axis=1)
    local = in_its_axes(seen.posed(clip, times), world)
    overs = {}
    for n, axis in enumerate(AXES):
        table = few_keys(local[:, n])
        table[:, FRAME] += begin
        table[[0, -1], VALUE] = 0.0
        overs[axis] = from_table(table)
    return laid_over_body(clip, rig, overs)


def _far(metres: float) -> str:
    return f"{100 * metres:.0f} cm" if metres < 2.0 else "more than 2 m"
