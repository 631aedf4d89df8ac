"""What comes before a flight, and what follows it, made to go as fast as the flight does there."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Literal

import numpy as np

from hame.character.rig import Rig
from hame.clip.clip import Clip
from hame.clip.curve import Curve, from_table
from hame.clip.key import BEZIER
from hame.edits.asif import AsIf
from hame.edits.bodily import AXES, BODY, in_its_axes, laid_over_body
from hame.edits.chosen import refuse_derived
from hame.edits.cleaning import fitted_table
from hame.edits.edit import Edit, Frame, Within
from hame.edits.flying import flight_about, speeds_beside
from hame.edits.footing import missed_by_legs
from hame.edits.outcome import Outcome
from hame.errors import BadEdit
from hame.maths.rotations import Array
from hame.measure.flights import ALIKE, Flight, alike
from hame.scene.scene import Scene

Side = Literal["before", "after"]
Frames = Annotated[int, Within(2, 48, "frames")]
_ROUNDS, _NEAR, _TAKES = 12, 0.01, 0.8  # a body that feet hold takes so much of its mass along


@dataclass(frozen=True, kw_only=True)
class MeetFlight(Edit):
    """The body sped up before a flight, or slowed after it, so that its mass goes there as fast as it flies.

    The body's place alone changes, on so many ``frames`` beside the flight; feet stay planted, the poses at its ends
    and those with a name stay, and nothing moves beyond.
    """

    kind: Literal["meet flight"] = "meet flight"
    at: Frame
    side: Side
    frames: Frames = 6

    dear = True

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        if rig.plan.is_prop or not rig.has_control(BODY):
            raise BadEdit("a thing has no body that takes off; nothing was changed")
        seen = AsIf(scene)
        found = flight_about(seen, clip, self.at)
        near, far = self._stretch(clip, found, scene)
        refuse_derived(clip, range(min(near, far), max(near, far) + 1))
        wished, given = self._speeds(seen, clip, found, scene)
        if alike(given, wished):
            raise BadEdit(f"it goes as fast as it flies {self._where(found)} already; nothing was changed")
        axes = seen.posed(clip, np.array([float(near)]))
        steeper = np.zeros(3)
        now, best, left = clip, clip, np.inf
        for _ in range(_ROUNDS):
            steeper = steeper + (wished - given) / (_TAKES * (1.0 - 1.0 / abs(near - far)) ** 2)
            local = in_its_axes(axes, steeper[None] / scene.fps)[0]
            overs = {axis: _bent(near, far, float(local[n])) for n, axis in enumerate(AXES)}
            now = laid_over_body(clip, rig, overs)
            _, given = self._speeds(seen, now, found, scene)
            off = float(np.linalg.norm(given - wished))
            if off < left:
                best, left = now, off
            if off < _NEAR * float(np.linalg.norm(wished)):
                break
        fast = float(np.linalg.norm(wished))
        notes = [f"its mass goes with {fast:.1f} m/s {self._where(found)}, over {abs(near - far)} frames"]
        if left > ALIKE * fast:
            notes.append(f"{left:.1f} m/s are left: what holds it does not let it")
        short = missed_by_legs(seen, clip, best, rig, min(near, far), max(near, far))
        return Outcome(best, ("; ".join(notes), *short))

    def _stretch(self, clip: Clip, found: Flight, scene: Scene) -> tuple[int, int]:
        """The frame at the flight's end, and the one up to which the body changes."""
        named = [frame for frame, label in clip.labels.items() if label.name]
        if self.side == "before":
            near, low = found.release, max(found.release - self.frames, scene.start)
            far = max([low, *(f for f in named if low < f < near)])
        else:
            near, high = found.landing, min(found.landing + self.frames, scene.end)
            far = min([high, *(f for f in named if near < f < high)])
        if abs(near - far) < 2:
            what = "a pose with a name stands" if far in named else "the shot ends"
            raise BadEdit(f"{what} too close beside the flight, at {far}, to change anything; nothing was changed")
        return near, far

    def _speeds(self, seen: AsIf, clip: Clip, found: Flight, scene: Scene) -> tuple[Array, Array]:
        """The velocity that is wished and the one that is given, (3,) each."""
        pull = found.gravity * scene.gravity
        beside = speeds_beside(seen, clip, found, pull, scene.fps)
        return (beside.start, beside.before) if self.side == "before" else (beside.end, beside.after)

    def _where(self, found: Flight) -> str:
        return f"into {found.release}" if self.side == "before" else f"out of {found.landing}"

    def label(self, rig: Rig, scene: Scene) -> str:
        return f"{'Take off' if self.side == 'before' else 'Land'} as fast as it flies, at {self.at}"


def _bent(near: int, far: int, slope: float) -> Curve:
    """Nothing at both frames, level at the far one, and as steep as that at the near one: a cubic (Hermite's)."""
    third = abs(near - far) / 3.0
    if far < near:
        return from_table(fitted_table(np.array([far, near], float), np.zeros(2), np.array([[0.0, -slope * third]]),
                                       np.full(2, float(BEZIER))))  # fmt: skip
    return from_table(fitted_table(np.array([near, far], float), np.zeros(2), np.array([[slope * third, 0.0]]),
                                   np.full(2, float(BEZIER))))  # fmt: skip
