"""The mass brought over its feet as it moves: the body's way changed so that where its feet press is inside of them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import Annotated, Literal

import numpy as np
from scipy.interpolate import CubicSpline

from hame.character.rig import Rig
from hame.clip.clip import Clip
from hame.clip.curve import from_table
from hame.clip.key import FRAME, VALUE
from hame.edits.asif import AsIf
from hame.edits.bodily import AXES, BODY, in_its_axes, laid_over_body
from hame.edits.chosen import refuse_derived
from hame.edits.edit import AtMost, Edit, Frame
from hame.edits.fewkeys import few_keys
from hame.edits.footing import missed_by_legs
from hame.edits.outcome import Outcome
from hame.edits.tying import refuse_outside
from hame.errors import BadEdit
from hame.maths.rotations import Array
from hame.maths.thinning import SUB, between_frames
from hame.measure.balance import margins_of, ways_inside
from hame.measure.dynamics import SEEN, dynamics, steadied
from hame.scene.scene import Scene
from hame.work import refuse_poses

WITHIN = 0.015  # metres inside of what bears it
LONGEST, AROUND = 240, 24  # frames, and those on both sides over which the body comes to its new way and leaves it
_BEYOND = 6  # frames farther that are looked at, by which speeds at the ends are known
_TAKES, _ROUNDS = 0.8, 5  # a body that feet hold takes so much of its mass along
_LOWEST = 0.1  # metres that a mass is above what bears it, at least
_KEPT = 1e3  # how much what stays counts beside a metre that feet press otherwise
_NONE = 0.005  # metres: less beside its feet is none
_PRESSES = 0.02  # of the weight: what presses less bears nothing
_ENOUGH = 0.7  # of what it was beside its feet: more is not worth its keys


@dataclass(frozen=True, kw_only=True)
class BorneInMotion(Edit):
    """The mass goes so from ``first`` to ``last`` that the ground can bear it in motion.

    Where feet would have to press beside what bears the body, they press just inside of it, and the mass goes the way
    that follows from this: it begins to go sooner, or later. The body's place alone gets keys, over some frames on both
    sides as well; plants stay, and so do poses with a name, but for those at the frames of ``free``.
    """

    kind: Literal["borne in motion"] = "borne in motion"
    first: Frame
    last: Frame
    free: Annotated[tuple[Frame, ...], AtMost(5000)] = ()

    dear = True

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        if rig.plan.is_prop or not rig.has_control(BODY):
            raise BadEdit("a thing has no feet that bear it; nothing was changed")
        refuse_outside(scene, self.first, self.last, "what is borne")
        if not 0 <= self.last - self.first <= LONGEST:
            raise BadEdit(f"it is brought over its feet on up to {LONGEST} frames at once; nothing was changed")
        begin, end = max(self.first - AROUND, scene.start), min(self.last + AROUND, scene.end)
        if end - begin < 8:
            raise BadEdit("there is no room for another way on so few frames; nothing was changed")
        named = {frame for frame, label in clip.labels.items() if label.name and begin < frame < end}
        held = sorted(named - set(self.free))
        refuse_derived(clip, range(begin, end + 1))
        refuse_poses((end - begin + 2 * _BEYOND) * (_ROUNDS + 1), "bringing it over its feet")
        seen = AsIf(scene)
        best = _Pressed.of(seen, clip, begin, end)
        worst = least = best.beside(self.first, self.last)
        if worst < _NONE:
            raise BadEdit("its feet bear it in motion already; nothing was changed")
        kept, way = clip, np.zeros((end - begin + 1, 2))
        for _ in range(_ROUNDS):
            way = way + best.way(self.first, self.last, held) / _TAKES
            now = _moved(seen, clip, rig, (begin, *held, end), way)
            best = _Pressed.of(seen, now, begin, end)
            if best.beside(self.first, self.last) < least:
                least, kept = best.beside(self.first, self.last), now
            if least < _NONE:
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
        left = "inside of its feet" if least < _NONE else f"{_far(least)} beside its feet at most"
        note = f"it is borne {left}, not {_far(worst)} beside; its body goes {100 * aside:.1f} cm otherwise at most"
        return Outcome(kept, (note, *missed_by_legs(seen, clip, kept, rig, begin, end)))

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
        missing = ways_inside(stands, found.pressure, WITHIN, WITHIN)
        press = np.where([bool(stand.bearing) for stand in stands], found.force[:, 1], 0.0)
        press = np.where(press > _PRESSES * scene.gravity, press, 0.0)
        high = np.maximum(raw.centre[:, 1] - level, _LOWEST)
        part = slice(begin - first, end - first + 1)
        return cls(begin, margins[part], missing[part], (press / high)[part] / scene.fps**2)

    def beside(self, first: int, last: int) -> float:
        """How far beside its feet it is borne at most from one frame to another, metres; below 0 inside of them."""
        part = self.margins[first - self.begin : last - self.begin + 1]
        return float(-np.nanmin(part)) if np.isfinite(part).any() else 0.0

    def way(self, first: int, last: int, held: Sequence[int]) -> Array:
        """How far (F, 2) the mass goes otherwise so that feet press as far otherwise as is missing; not at the ends,
        and not on frames that are ``held``.

        The mass is drawn away from where they press: d'' = w (d - p). What that asks of the feet is met as well as can
        be, by least squares over all frames at once, and where nothing is held it is met.
        """
        count = len(self.drawn)
        rows = np.arange(self.begin, self.begin + count)
        wished = np.where(((rows >= first) & (rows <= last))[:, None], self.missing, 0.0)
        bears = self.drawn > 0.0
        usual = float(np.median(self.drawn[bears])) if bears.any() else 1.0
        inner = np.arange(1, count - 1)
        by = np.where(bears, 1.0 / np.where(bears, self.drawn, 1.0), _KEPT / usual)[inner]  # in the air it falls freely
        system = np.zeros((count, count))
        for side in (-1, 0, 1):
            system[inner, inner + side] = by * (-2.0 if side == 0 else 1.0)
        system[inner, inner] -= bears[inner]
        right = np.zeros((count, 2))
        right[inner] = -wished[inner] * bears[inner, None]
        stays = np.zeros((len(held) + 2, count))
        stays[np.arange(len(held) + 2), [0, *(frame - self.begin for frame in held), count - 1]] = _KEPT
        found = np.linalg.lstsq(
            np.concatenate([system, stays]), np.concatenate([right, np.zeros((len(stays), 2))]), rcond=None
        )  # fmt: skip
        return np.asarray(found[0])


def _moved(seen: AsIf, clip: Clip, rig: Rig, ends: Sequence[int], way: Array) -> Clip:
    """The clip with the body's place changed so far (F, 2) on frames from the first to the last of ``ends``, by few
    keys; at all of these it stays where it is."""
    begin = ends[0]
    times = between_frames(begin, ends[-1])
    level = CubicSpline(np.arange(begin, ends[-1] + 1.0), way, bc_type="clamped")(times)
    world = np.stack([level[:, 0], np.zeros(len(times)), level[:, 1]], axis=1)
    local = in_its_axes(seen.posed(clip, times), world)
    for a, b in pairwise(ends):
        overs = {}
        for n, axis in enumerate(AXES):
            table = few_keys(local[SUB * (a - begin) : SUB * (b - begin) + 1, n])
            table[:, FRAME] += a
            table[[0, -1], VALUE] = 0.0
            overs[axis] = from_table(table)
        clip = laid_over_body(clip, rig, overs)
    return clip


def _far(metres: float) -> str:
    return f"{100 * metres:.0f} cm" if metres < 2.0 else "more than 2 m"
