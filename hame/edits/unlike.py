"""Left and right made unlike on purpose: shoulders, hands and feet by degrees, one hand late, as a layer."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from math import degrees, radians
from typing import Annotated, Literal

import numpy as np

from hame.character.rig import TURN, Rig
from hame.clip import layers
from hame.clip.clip import Clip
from hame.clip.curve import Curve, from_keys, from_table
from hame.clip.cycles import cycles_of
from hame.edits.chosen import counted
from hame.edits.cleaning import fitted_table
from hame.edits.edit import Edit, Within
from hame.edits.layers import Name, new_layer
from hame.edits.outcome import Outcome
from hame.errors import BadEdit
from hame.evaluate.line import keyed_values
from hame.maths.thinning import BETWEEN, SUB, between_frames, thinned
from hame.scene.scene import Scene
from hame.work import refuse_samples

Apart = Annotated[float, Within(radians(-60.0), radians(60.0), "rad")]
Late = Annotated[int, Within(0, 24, "frames")]
_ALIKE = 2e-5  # metres and radians: so near the late hand is to the one in time


@dataclass(frozen=True, kw_only=True)
class MakeUnlike(Edit):
    """A difference of left and right, laid over the motion as a layer: how much the ``side`` has more than the other.

    The difference is shared: one side goes half of it one way, the other half of it the other way. ``late`` frames
    after the other, that side's arm does what it does.
    """

    kind: Literal["make unlike"] = "make unlike"
    side: Literal["L", "R"] = "L"
    shoulders: Apart = 0.0
    hands: Apart = 0.0
    feet: Apart = 0.0
    late: Late = 0
    name: Name = ""

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        if not (self.shoulders or self.hands or self.feet or self.late):
            raise BadEdit("the two sides would be as they are: say by how much they shall differ. Nothing was changed")
        frames = clip.key_frames()
        first = frames[0] if frames else scene.start
        curves: dict[str, Curve] = {}
        for by, names in ((self.shoulders, ("collar",)), (self.hands, ("hand",)), (self.feet, ("foot",))):
            if by:
                curves.update(_apart(rig, names[0], by if self.side == "L" else -by, first))
        if self.late:
            last = max([frames[-1] if frames else first, *(c.until for c in cycles_of(clip))])
            curves.update(_trailing(clip, rig, self.side, self.late, first, last))
        if not curves:
            raise BadEdit("this figure has no such parts on two sides, or they do not move; nothing was changed")
        controls = tuple(dict.fromkeys(address.rsplit("/", 1)[0] for address in curves))
        laid, number = new_layer(clip, self.name or "Unlike", controls, turned=False)
        name = layers.layer_of(laid, number).name
        over = {layers.address_in(number, address): curve for address, curve in curves.items()}
        return Outcome(
            laid.with_curves(over), (f"the difference lies in the layer {name}: {counted(len(over), 'channel')}",)
        )

    def label(self, rig: Rig, scene: Scene) -> str:
        side = {"L": "left", "R": "right"}[self.side]
        told = [
            f"{what} {degrees(by):.0f}°"
            for what, by in (("shoulders", self.shoulders), ("hands", self.hands), ("feet", self.feet))
            if by
        ]
        if self.late:
            told.append(f"{side} hand {self.late} late")
        return f"Unlike: {', '.join(told)}"


_CHANNELS = {"collar": ("raise",), "hand": ("bend",), "foot": ("heading", "twist")}


def _parts(rig: Rig, part: str, side: str) -> Iterator[str]:
    """The controls of a part of a side, of both ways in which its limb is posed."""
    for limb in rig.limbs:
        if rig.control(limb.ik).side != side:
            continue
        if part == "collar" and limb.kind == "arm" and rig.has_control(f"{limb.name}.collar"):
            yield f"{limb.name}.collar"
        if (part, limb.kind) in (("hand", "arm"), ("foot", "leg")):
            yield limb.fk[-1]
            yield limb.ik


def _apart(rig: Rig, part: str, by: float, first: int) -> dict[str, Curve]:
    """What a layer adds so that the left of a part has ``by`` radians more than the right."""
    found: dict[str, Curve] = {}
    for side, share in (("L", 0.5), ("R", -0.5)):
        for name in _parts(rig, part, side):
            for channel in rig.channels_of(name):
                if channel.kind == TURN and not channel.locked and channel.label in _CHANNELS[part]:
                    # Of what is seen in the mirror: a channel that the other side has with another sign goes along.
                    sign = channel.mirror if side == "R" else 1
                    found[channel.address] = from_keys({first: share * by * sign})
    return found


def _trailing(clip: Clip, rig: Rig, side: str, late: int, first: int, last: int) -> dict[str, Curve]:
    """What a layer adds so that the arms of a side do what they do some frames later."""
    names = [
        name
        for limb in rig.limbs
        if limb.kind == "arm" and rig.control(limb.ik).side == side
        for name in (*limb.fk, limb.ik, limb.pole)
        if name
    ]
    numbers = [
        rig.number(channel.address)
        for name in names
        for channel in rig.channels_of(name)
        if not channel.locked and channel.kind != "scale" and channel.address in clip.curves
    ]
    if not numbers:
        return {}
    refuse_samples(SUB * (last + late - first) * len(numbers), "a hand that is late")
    times = between_frames(first, last + late)
    far = (keyed_values(rig, clip, times - late) - keyed_values(rig, clip, times))[:, numbers]
    return dict(_fitted(rig, numbers, far.T, first))


def _fitted(rig: Rig, numbers: Sequence[int], far: np.ndarray, first: int) -> Iterator[tuple[str, Curve]]:  # type: ignore[type-arg]
    for number, values in zip(numbers, far, strict=True):
        if np.abs(values).max() < 1e-6:
            continue
        keys, handles = thinned(values[None], np.array([BETWEEN * _ALIKE]), None, SUB)[0]
        table = fitted_table(np.asarray(keys, float) + first, values[SUB * keys], handles, np.full(len(keys), 2.0))
        yield rig.addresses[number], from_table(table)
