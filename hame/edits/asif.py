"""A figure among those it is tied to and what it stands on, as it would play with another clip."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass

import numpy as np

from hame.clip.clip import Clip
from hame.evaluate.posed import Posed
from hame.maths.rotations import Array
from hame.measure.balance import Balance, balances
from hame.measure.ground import ground_of
from hame.scene.joined import bound_to, played
from hame.scene.scene import Scene


@dataclass(frozen=True)
class AsIf:
    """The figure that an edit of a scene is made for."""

    scene: Scene

    def posed(self, clip: Clip, times: Array) -> Posed:
        """The figure at some times (T,), with whoever it is tied to."""
        return self._among(clip, times, ())[self.scene.of]

    def stood(self, clip: Clip, first: int, last: int) -> tuple[Posed, list[Balance]]:
        """The figure on frames from one to another, and how it stands on the ground and on props there."""
        cast = self.scene.figures
        props = [n for n in self.scene.skins if n != self.scene.of and cast[n].plays and cast[n].rig.plan.is_prop]
        posed = self._among(clip, np.arange(float(first), last + 1), props)
        mine = posed[self.scene.of]
        return mine, balances(clip, mine, first, ground_of(posed, {n: self.scene.skins[n] for n in props}))

    def _among(self, clip: Clip, times: Array, props: Collection[int]) -> dict[int, Posed]:
        of = self.scene.of
        cast = {**self.scene.figures, of: self.scene.figure(of).with_clip(clip)}
        return played({**bound_to(cast, of), **{n: cast[n] for n in props}}, times)
