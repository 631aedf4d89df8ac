"""A figure among those it is tied to and what it stands on, as it would play with another clip."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from dataclasses import dataclass

import numpy as np

from hame.clip.clip import Clip
from hame.evaluate.posed import Posed
from hame.maths.rotations import Array
from hame.measure.balance import Balance, balances
from hame.measure.ground import Ground, ground_of
from hame.measure.loads import Load
from hame.scene.carried import carried
from hame.scene.joined import bound_to, played, seen
from hame.scene.scene import Figure, Scene


@dataclass(frozen=True)
class AsIf:
    """The figure that an edit of a scene is made for."""

    scene: Scene

    def posed(self, clip: Clip, times: Array) -> Posed:
        """The figure at some times (T,), with whoever it is tied to."""
        return played(self._cast(clip, ()), times)[self.scene.of]

    def laden(self, clip: Clip, times: Array) -> tuple[Posed, list[Load]]:
        """The figure at some times (T,), with what it carries there."""
        cast = self._cast(clip, ())
        posed = played(cast, times)
        return posed[self.scene.of], carried(cast, posed, times).get(self.scene.of, [])

    def grounded(self, clip: Clip, first: int, last: int) -> tuple[Posed, Ground]:
        """The figure on frames from one to another, and what is under it there."""
        posed = played(self._cast(clip, self._props()), np.arange(float(first), last + 1))
        return posed[self.scene.of], self._ground(posed)

    def stood(self, clip: Clip, first: int, last: int) -> tuple[Posed, list[Balance]]:
        """The figure on frames from one to another, and how it stands on the ground and on props, laden as it is."""
        cast = self._cast(clip, self._props())
        posed = played(cast, np.arange(float(first), last + 1))
        return posed[self.scene.of], self._balances(clip, cast, posed, first)

    def seen(self, clip: Clip, frame: int) -> tuple[Posed, Balance]:
        """The figure at one frame as a person sees it, pending poses too, and how it stands there."""
        cast = self._cast(clip, self._props())
        posed = seen(cast, frame)
        return posed[self.scene.of], self._balances(clip, cast, posed, frame)[0]

    def _balances(
        self, clip: Clip, cast: Mapping[int, Figure], posed: Mapping[int, Posed], first: int
    ) -> list[Balance]:
        of = self.scene.of
        loads = carried(cast, posed, first).get(of, [])
        return balances(clip, posed[of], first, self._ground(posed), loads)

    def _ground(self, posed: Mapping[int, Posed]) -> Ground:
        return ground_of(posed, {n: self.scene.skins[n] for n in self._props()})

    def _props(self) -> list[int]:
        cast, of = self.scene.figures, self.scene.of
        return [n for n in self.scene.skins if n != of and cast[n].plays and cast[n].rig.plan.is_prop]

    def _cast(self, clip: Clip, props: Collection[int]) -> dict[int, Figure]:
        of = self.scene.of
        cast = {**self.scene.figures, of: self.scene.figure(of).with_clip(clip)}
        return {**bound_to(cast, of), **{n: cast[n] for n in props}}
