"""Trunk and arms that lean against what would let a body fall: found over the frames in question, laid as a span."""

from __future__ import annotations

from dataclasses import dataclass, replace
from math import radians
from typing import Literal

import numpy as np
from scipy.optimize import lsq_linear

from hame.character.rig import Rig
from hame.clip.clip import Clip
from hame.clip.counter import Counter
from hame.edits.answering import Frames, refuse_things
from hame.edits.asif import AsIf
from hame.edits.edit import Edit, Frame
from hame.edits.outcome import Outcome
from hame.edits.ruled import beside, refuse_meeting
from hame.edits.tying import refuse_outside
from hame.errors import BadEdit
from hame.evaluate.leaning import lean_of
from hame.maths.rotations import Array
from hame.measure.balance import laden_centre, ways_inside
from hame.measure.dynamics import SEEN, dynamics, steadied
from hame.scene.scene import Scene
from hame.work import refuse_poses

FARTHEST = (radians(35.0), radians(35.0), radians(70.0), radians(70.0))
"""That the trunk leans at most, and that arms are swung besides (common practice, no source)."""
WITHIN = 0.005  # metres inside of what bears it
HELD = 0.001  # metres beside that count as met
_FIELDS = ("nod", "tilt", "arms_nod", "arms_tilt")
_STEP, _ROUNDS, _AROUND = 0.02, 6, 6
_DEAR = np.array([1.0, 1.0, 0.4, 0.4])  # arms swing more readily than a trunk leans
_SMALL = 0.004  # metres: what a radian costs beside what a metre off balance does


@dataclass(frozen=True, kw_only=True)
class LayCounter(Edit):
    """Trunk and arms that lean from ``first`` to ``last``, so that the weight comes over what bears it.

    It comes in ``there`` frames before these and goes in ``back`` after them. In motion (``moving``) that is where the
    ground is asked to bear it, else as if it stood still. ``at`` is where the one begins that is changed by it.
    """

    kind: Literal["counter"] = "counter"
    at: Frame | None = None
    first: Frame
    last: Frame
    there: Frames = 4
    back: Frames = 6
    moving: bool = False
    muted: bool = False

    dear = True

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        refuse_things(rig, "could lean")
        if lean_of(rig) is None:
            raise BadEdit("nothing above its hips could lean; nothing was changed")
        refuse_outside(scene, self.first, self.last, "a counter")
        refuse_poses((self.last - self.first + 2 * _AROUND) * _ROUNDS * 5, "a counter")
        others, flipped = beside(clip, Counter, "", self.at)
        start, end = max(self.first - self.there, scene.start), min(self.last + self.back, scene.end)
        # Where the shot begins or ends with it, it is there at once.
        span = Counter(
            start if self.first - start == self.there else self.first - 1, end if end - self.last == self.back else
            self.last + 1, self.muted, flipped, self.there if self.first - start == self.there else 1,
            self.back if end - self.last == self.back else 1,
        )  # fmt: skip
        refuse_meeting(span, others)
        rest = clip.with_tracks({Counter.kind: others})
        span = replace(span, moving=self.moving)
        look = _Look(AsIf(scene), self.first, self.last, self.moving)
        off = look.off(rest)
        worst = float(np.linalg.norm(off, axis=1).max())
        if worst <= HELD:
            raise BadEdit(
                f"from {self.first} to {self.last} what bears it holds its weight; there is nothing to answer. Nothing "
                "was changed"
            )
        leans, least, given = np.zeros(4), worst, rest
        for _ in range(_ROUNDS):
            reach = look.reached(rest, others, span, leans)
            bounds = np.array(FARTHEST)
            fails = off.any(axis=1)  # the others may go along
            ways = np.concatenate([reach[fails].reshape(-1, 4), _SMALL * np.diag(_DEAR)])
            wished = np.concatenate([off[fails].reshape(-1), -_SMALL * _DEAR * leans])
            found = lsq_linear(ways, wished, (-bounds - leans - 1e-9, bounds - leans + 1e-9))
            leans = leans + found.x
            now = rest.with_tracks({Counter.kind: [*others, leant(span, leans)]})
            off = look.off(now)
            left = float(np.linalg.norm(off, axis=1).max())
            if left < least:
                given, least = now, left
            if left <= HELD:
                break
        if least > 0.8 * worst:
            raise BadEdit(
                f"trunk and arms cannot meet it: of {100 * worst:.0f} cm beside what bears it {100 * least:.0f} would "
                "be left. Nothing was changed"
            )
        notes = []
        if least > HELD:
            notes.append(f"trunk and arms do not meet it: of {100 * worst:.1f} cm beside, {100 * least:.1f} are left")
        return Outcome(given, tuple(notes))

    def label(self, rig: Rig, scene: Scene) -> str:
        return f"{'Change the counter' if self.at is not None else 'Counter'}, {self.first} to {self.last}"


def leant(span: Counter, leans: Array) -> Counter:
    """A counter that leans so (4,), as it plays: radians."""
    one = replace(span, **dict(zip(_FIELDS, leans.tolist(), strict=True)))
    return replace(one, **dict(zip(_FIELDS, one.leans.tolist(), strict=True))) if span.flipped else one


@dataclass(frozen=True)
class _Look:
    """The frames in question, and what is wrong on each."""

    seen: AsIf
    first: int
    last: int
    moving: bool

    def off(self, clip: Clip) -> Array:
        """How far and which way (F, 2) along x and z the weight has to go on each frame, metres in the world."""
        scene = self.seen.scene
        around = _AROUND if self.moving else 0
        first, last = max(self.first - around, scene.start), min(self.last + around, scene.end)
        posed, stands = self.seen.stood(clip, first, last)
        places = np.array([stand.centre for stand in stands])[:, [0, 2]]
        if self.moving and len(stands) > 2:
            loads = self.seen.laden(clip, np.arange(float(first), last + 1))[1]
            level = np.array([stand.level for stand in stands])
            found = dynamics(posed.rig, posed.nodes, scene.fps, scene.gravity, level, loads)
            places = steadied(found, scene.fps, SEEN, scene.gravity, level).pressure
        part = slice(self.first - first, self.last - first + 1)
        return ways_inside(stands[part], places[part], WITHIN, 0.0)

    def reached(self, rest: Clip, others: list[Counter], span: Counter, leans: Array) -> Array:
        """How far (F, 2, 4) the mass goes along x and z on each frame for each radian of each lean, metres."""
        frames = np.arange(float(self.first), self.last + 1)

        def centres(by: Array) -> Array:
            clip = rest.with_tracks({Counter.kind: [*others, leant(span, by)]})
            return laden_centre(*self.seen.laden(clip, frames))[:, [0, 2]]

        base = centres(leans)
        return np.stack([(centres(leans + _STEP * one) - base) / _STEP for one in np.eye(4)], axis=2)
