"""Somebody who goes along ways, for tests: edits made one after the other, and what plays by them."""

from __future__ import annotations

import numpy as np

from hame.character.rig import Rig
from hame.clip.clip import Clip
from hame.clip.going import Plan, plan_of
from hame.clip.way import Way, ways_of
from hame.edits.edit import Edit
from hame.edits.making import made
from hame.edits.wayside import LayWay, WayPoint
from hame.evaluate.evaluate import channel_values, evaluate
from hame.gait.footfalls import Footfall
from hame.maths.rotations import Array
from hame.scene.scene import Figure, Scene
from tests.hame.examples import brannoc_rig

STRAIGHT = ((0.0, 0.0), (0.0, 8.0))


def points(*places: tuple[float, float]) -> tuple[WayPoint, ...]:
    return tuple(WayPoint(x, z) for x, z in places)


class Walker:
    """A figure alone in its shot."""

    def __init__(self, rig: Rig | None = None, clip: Clip | None = None, last: int = 900) -> None:
        self.rig = rig or brannoc_rig()
        self.scene = Scene({1: Figure(self.rig, clip or Clip(), "Brannoc")}, 1, last)
        self.notes: tuple[str, ...] = ()

    @classmethod
    def along(cls, *places: tuple[float, float], start: int = 1, **given: object) -> Walker:
        """One that goes a way."""
        walker = cls()
        walker.make(LayWay(start=start, points=points(*(places or STRAIGHT)), **given))  # type: ignore[arg-type]
        return walker

    def make(self, *edits: Edit) -> Walker:
        for edit in edits:
            done = made(edit, self.scene, 1)
            self.notes = done.notes
            figures = dict(self.scene.figures)
            for number, clip in done.clips.items():
                figures[number] = figures[number].with_clip(clip)
            self.scene = Scene(figures, self.scene.start, self.scene.end, skins=self.scene.skins)
        return self

    @property
    def clip(self) -> Clip:
        return self.scene.figures[1].clip

    @property
    def way(self) -> Way:
        return ways_of(self.clip)[0]

    @property
    def plan(self) -> Plan:
        return plan_of(self.rig, self.clip, self.way)

    def footfall(self, number: int) -> Footfall:
        return next(one for one in self.plan.found if one.number == number)

    def values(self, frames: Array | None = None) -> Array:
        return channel_values(self.rig, self.clip, np.arange(1, self.way.end + 1) if frames is None else frames)

    def nodes(self, frames: Array | None = None) -> Array:
        """Where all nodes (F, N, 8) are."""
        return evaluate(self.rig, self.values(frames))

    def joints(self, frames: Array | None = None) -> Array:
        """Places (F, J, 3) of all joints but the one that lies with the master."""
        return self.nodes(frames)[:, self.rig.joint_nodes[1:], :3]
