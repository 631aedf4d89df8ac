"""The way of the mass rounded, by the keys of the body."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise
from typing import Literal, NamedTuple

import numpy as np

from hame.character.rig import Rig
from hame.clip.clip import Clip
from hame.clip.curve import from_table
from hame.clip.key import FRAME, VALUE
from hame.edits.arcs import ROUND
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
from hame.maths.thinning import SUB, between_frames
from hame.measure.balance import laden_centre
from hame.measure.paths import JERKY, LEAST_STEP, jerks, turning
from hame.scene.scene import Scene
from hame.work import refuse_poses

_TAKES, _ROUNDS = 0.8, 3  # a body that feet hold takes so much of its mass along
LONGEST = 120  # frames
_KEPT = 1e8  # how much what stays counts beside what may go
_FAR = 0.08  # metres that the way may move at most
_STIFF = np.geomspace(0.05, 2000.0, 22)


@dataclass(frozen=True, kw_only=True)
class RoundMass(Edit):
    """The way of the mass from ``first`` to ``last`` rounded: it turns nowhere by more than 22° from frame to frame.

    The body's place alone gets keys; plants stay, and beyond these frames nothing moves. Poses with a name stay.
    """

    kind: Literal["round mass"] = "round mass"
    first: Frame
    last: Frame

    dear = True

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        if rig.plan.is_prop or not rig.has_control(BODY):
            raise BadEdit("a thing has no body by which its mass could go otherwise; nothing was changed")
        refuse_outside(scene, self.first, self.last, "a way")
        if self.last - self.first < 4:
            raise BadEdit(f"a way from {self.first} to {self.last} has no room for an arc; nothing was changed")
        if self.last - self.first > LONGEST:
            raise BadEdit(f"a way is rounded over {LONGEST} frames at most; nothing was changed")
        refuse_derived(clip, range(self.first, self.last + 1))
        refuse_poses((self.last - self.first + 1) * SUB * _ROUNDS, "rounding a way")
        seen, least = AsIf(scene), LEAST_STEP * rig.size
        times = between_frames(self.first, self.last)
        held = {f for f, label in clip.labels.items() if label.name and self.first < f < self.last}
        before = self._way(seen, clip, times)
        was = _faults(before, least)
        if was.worst <= 1.0:
            raise BadEdit(
                f"the way is round already: it turns by {np.degrees(was.turn):.0f}° at most. Nothing was changed"
            )
        wanted = self._rounded(before, least, held)
        now, moved = clip, np.zeros_like(before)
        for _ in range(_ROUNDS):
            moved = moved + (wanted - self._way(seen, now, times)) / _TAKES
            local = in_its_axes(seen.posed(clip, times), moved)
            now = clip
            for a, b in pairwise((self.first, *sorted(held), self.last)):  # exactly through what stays
                overs = {}
                for n, axis in enumerate(AXES):
                    table = few_keys(local[SUB * (a - self.first) : SUB * (b - self.first) + 1, n])
                    table[:, FRAME] += a
                    table[[0, -1], VALUE] = 0.0
                    overs[axis] = from_table(table)
                now = laid_over_body(now, rig, overs)
        after = self._way(seen, now, times)
        found = _faults(after, least)
        if found.worst > 0.8 * was.worst:
            raise BadEdit("the body's keys cannot make this way rounder; nothing was changed")
        far = float(np.linalg.norm(after - before, axis=1).max())
        note = (
            f"its mass turns by {np.degrees(found.turn):.0f}° at most now, not {np.degrees(was.turn):.0f}°, with "
            f"{found.jerk:.0f} times the least jerk, not {was.jerk:.0f}; it went {100 * far:.1f} cm aside at most"
        )
        return Outcome(now, (note, *missed_by_legs(seen, clip, now, rig, self.first, self.last)))

    def _way(self, seen: AsIf, clip: Clip, times: Array) -> Array:
        return laden_centre(*seen.laden(clip, times))

    def _rounded(self, way: Array, least: float, held: set[int]) -> Array:
        """The way (T, 3) nearest to one that is round, through its ends and through frames that stay: as little as is
        enough of what bends it is taken out (least squares, with its third differences weighed more and more).
        """
        count = len(way)
        third = np.diff(np.eye(count), 3, axis=0) * SUB**2
        keep = np.zeros(count)
        keep[[0, 1, 2, -3, -2, -1]] = _KEPT
        for frame in held:
            at = SUB * (frame - self.first)
            keep[at - 1 : at + 2] = _KEPT
        bends, stays = third.T @ third, np.diag(1.0 + keep)
        best, least_bad = way, _faults(way, least).worst
        for stiff in _STIFF:
            found = np.linalg.solve(stays + stiff**2 * bends, (1.0 + keep)[:, None] * way)
            if np.linalg.norm(found - way, axis=1).max() > _FAR:
                break
            bad = _faults(found, least).worst
            if bad < least_bad:
                best, least_bad = found, bad
            if bad <= 0.9:
                break
        return best

    def label(self, rig: Rig, scene: Scene) -> str:
        return f"Round the way of the mass, {self.first} to {self.last}"


class _Bad(NamedTuple):
    """By how much a way turns at most from frame to frame, radians; and how many times the least jerk it has."""

    turn: float
    jerk: float

    @property
    def worst(self) -> float:
        """How bad it is: up to 1, nothing is told of it."""
        return max(self.turn / ROUND, self.jerk / JERKY)


def _faults(way: Array, least: float) -> _Bad:
    frames = way[::SUB]
    return _Bad(float(turning(frames, least).max()), jerks(frames)[0] if len(frames) > 6 else 0.0)
