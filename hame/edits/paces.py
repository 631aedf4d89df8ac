"""How ways are gone: quantities keyed, and times typed as frames."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Literal

import numpy as np

from hame.character.rig import Rig
from hame.clip.clip import Clip
from hame.clip.curve import Curve, from_keys, from_table, with_keys, without_frames
from hame.clip.going import leg_of
from hame.clip.key import BEZIER, STEP
from hame.clip.pacing import pace_of
from hame.clip.quantities import QUANTITIES, quantities_in, quantity_address
from hame.clip.way import Way, ways_of
from hame.edits.cleaning import fitted_table
from hame.edits.edit import AtMost, Edit, Frame, Within
from hame.edits.outcome import Outcome
from hame.errors import BadEdit
from hame.gait.footfalls import Times
from hame.maths.rotations import Array
from hame.maths.thinning import thinned
from hame.scene.scene import Scene

_NEAR = 0.0001  # of its most, that a quantity may be off what it was before it was keyed
Whole = Annotated[int, Within(1, 2000, "frames")]


@dataclass(frozen=True, kw_only=True)
class KeyQuantity(Edit):
    """A quantity by which a figure goes its ways keyed at a frame; without a ``value`` its key there is taken away."""

    kind: Literal["key quantity"] = "key quantity"
    name: Annotated[str, AtMost(40)]
    frame: Frame
    value: float | None = None

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        if self.name not in QUANTITIES:
            raise BadEdit(f"{self.name} is nothing by which somebody goes; nothing was changed")
        if not ways_of(clip):
            raise BadEdit("there is no way yet that would be gone so; lay one first. Nothing was changed")
        address, quantity = quantity_address(self.name), QUANTITIES[self.name]
        curve = clip.curves.get(address)
        if self.value is None:
            if curve is None or self.frame not in curve.frames:
                raise BadEdit(f"{quantity.label} has no key at {self.frame}; nothing was changed")
            return Outcome(clip.with_curves({address: without_frames(curve, [self.frame])}))
        Within(quantity.low, quantity.high, quantity.said or quantity.unit).check(self.value, quantity.label.lower())
        notes: tuple[str, ...] = ()
        if curve is None and self.frame > ways_of(clip)[0].start:
            notes = (
                f"this is its first key: {quantity.label.lower()} is so on all frames; key an earlier one as well",
            )
        shape = STEP if self.name == "together" else BEZIER
        return Outcome(clip.with_curves({address: with_keys(curve, {self.frame: self.value}, shape)}), notes)

    def label(self, rig: Rig, scene: Scene) -> str:
        label = QUANTITIES[self.name].label if self.name in QUANTITIES else self.name
        return f"{label} at {self.frame}" if self.value is not None else f"Take out {label.lower()} at {self.frame}"


@dataclass(frozen=True, kw_only=True)
class WayTimes(Edit):
    """Times of a way in whole frames from one on, until something else is keyed.

    A foot is ``on`` the ground so long; of that so many frames with ``both`` feet, before and after; or, without these,
    then so many in the ``air``. With ``together`` both feet land at once, as in a jump.
    """

    kind: Literal["way times"] = "way times"
    frame: Frame
    on: Whole
    both: Annotated[int, Within(0, 1000, "frames")] = 0
    air: Annotated[int, Within(0, 1000, "frames")] = 0
    together: bool = False

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        ways = [way for way in ways_of(clip) if way.start <= self.frame] or list(ways_of(clip))[:1]
        if not ways:
            raise BadEdit("there is no way yet that would be gone so; lay one first. Nothing was changed")
        if self.both and (self.air or self.together):
            raise BadEdit(
                "while both feet are on the ground nobody is in the air, and who jumps has no frames of both feet one "
                "after the other. Nothing was changed"
            )
        if self.both >= self.on:
            raise BadEdit(f"a foot is on the ground longer than the {self.both} frames with both; nothing was changed")
        if self.together and not self.air:
            raise BadEdit("a jump has frames in the air; nothing was changed")
        times = Times.walking(self.on, self.both) if not (self.air or self.together) else Times.flying(
            self.on, self.air, self.together
        )  # fmt: skip
        Within(0.08, 0.95, "").check(times.share, "the share of its period that a foot is on the ground")
        fps = ways[-1].fps
        given = {"cadence": fps / times.step, "share": times.share, "together": float(times.together)}
        first = ways[0].start
        curves = {}
        for name, value in given.items():
            address = quantity_address(name)
            curve = clip.curves.get(address)
            if curve is None and name == "together" and not value:
                continue
            if curve is None and self.frame > first:  # what it is before stays
                curve = _as_it_is(clip, rig, name, self.frame)
            curves[address] = with_keys(curve, {self.frame: value}, STEP)
        return Outcome(clip.with_curves(curves), (f"a step takes {times.step} frames",))

    def label(self, rig: Rig, scene: Scene) -> str:
        more = f", {self.both} of both" if self.both else f", {self.air} in the air" if self.air else ""
        return f"{'Jumps' if self.together else 'Steps'} from {self.frame}: {self.on} on the ground{more}"


def _as_it_is(clip: Clip, rig: Rig, name: str, frame: int) -> Curve:
    """A curve of few keys by which a quantity that is not keyed is what it is on each way, up to a frame."""
    ways = [way for way in ways_of(clip) if way.start < frame]
    untils = [*(way.start for way in ways[1:]), frame]
    return from_table(np.concatenate([_keys_on_way(clip, rig, name, *both) for both in zip(ways, untils, strict=True)]))


def _keys_on_way(clip: Clip, rig: Rig, name: str, way: Way, until: int) -> Array:
    """The keys (K, columns of a key) by which such a quantity is what it is on one way, up to a frame."""
    pace, count = pace_of(way, quantities_in(clip.curves), leg_of(rig, way)), until - way.start
    known = {"cadence": pace.cadence * way.fps, "share": pace.share, "together": pace.together.astype(float)}[name]
    values = np.concatenate([known, np.full(count, known[-1])])[:count]
    if name == "together" or np.ptp(values) < 1e-9 or count < 3:
        return from_keys({way.start: float(values[0])}, STEP).table
    keys, handles = thinned(np.ascontiguousarray(values)[None], np.array([_NEAR * float(np.abs(values).max())]))[0]
    shapes = np.full(len(keys), float(BEZIER))
    shapes[-1] = STEP
    return fitted_table(np.asarray(keys, float) + way.start, values[keys], handles, shapes)
