"""Ways of gaps: a preset by gap, in closed form, for chosen parts or keys."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Literal

import numpy as np

from hame.character.rig import Rig
from hame.clip.clip import Clip
from hame.clip.curve import Stack, stacked, unstacked
from hame.clip.key import BEZIER, FRAME, PRESETS, SHAPE, SHAPES, STRENGTH, VALUE, PresetName
from hame.clip.layers import channel_at, own_curves, parted
from hame.edits.chosen import chosen_keys, counted, curves_of, refuse_derived
from hame.edits.edit import Chosen, Controls, Edit, Within, keys_said, of_said
from hame.edits.outcome import Outcome
from hame.errors import BadEdit
from hame.maths import eases
from hame.scene.scene import Scene

Way = PresetName | Literal["stepped", "smooth"]
STRONG = Within(0.0, 1.0, "share", "a way is 0 to 100% strong, not {value:.0%}; nothing was changed")
# Where a channel ends at a limit, what goes past its poses would be cut off there: these stop at them.
_CALM = {eases.WIND_UP: eases.SLOW_START, eases.OVERSHOOT: eases.SLOW_STOP}


def number_of(way: Way) -> int:
    if way == "stepped" or way == "smooth":
        return SHAPES[way]
    return PRESETS[way]


def set_way(
    clip: Clip,
    rig: Rig,
    way: Way,
    strength: float = eases.USUAL,
    gaps: tuple[tuple[int, int], ...] | None = None,
    controls: Controls = None,
    keys: Chosen | None = None,
) -> Outcome:
    """Gives gaps a way: those after chosen ``keys``, or those that begin within one of ``gaps`` (first, last).

    The switch of a limb between IK and FK changes over as it did. A channel whose limit a way would swing past
    takes one that stops at the pose instead, which is said.

    Raises
    ------
    BadEdit
        If there is no key, or no gap after one.
    """
    STRONG.check(strength)
    if keys is not None:
        stack, wanted = chosen_keys(clip, rig, keys)
    else:
        stack = stacked(curves_of(clip, rig, controls) if controls is not None else own_curves(clip.curves))
        frames = stack.keys[:, FRAME]
        wanted = np.zeros(len(frames), bool)
        for first, last in gaps or ():
            wanted |= (frames >= first) & (frames < last)
    owner, table = stack.owner, stack.keys
    switches = {limb.switch for limb in rig.limbs}
    switching = np.array([parted(a)[1] in switches for a in stack.addresses], bool)
    follows = np.append(np.diff(owner) == 0, False)[: len(owner)]  # whether a key has one behind it
    wanted = wanted & follows & ~(switching[owner] if len(owner) else wanted)
    if not wanted.any():
        raise BadEdit("there is no gap between keys there; nothing was changed")
    refuse_derived(clip, {f for f, n in zip(table[wanted, FRAME], owner[wanted], strict=True)
                          if not parted(stack.addresses[n])[0]})  # fmt: skip
    kind = number_of(way)
    table[wanted, SHAPE] = kind
    table[wanted, STRENGTH] = strength if kind > BEZIER and kind != eases.INSTANT else 0.0
    calmed: set[str] = set()
    if kind in _CALM:
        for row in np.flatnonzero(wanted).tolist():
            address = stack.addresses[owner[row]]
            channel = channel_at(rig, address)
            if channel is None or parted(address)[0]:
                continue
            way_there = table[row, VALUE] + np.array([-0.25, 1.25]) * (table[row + 1, VALUE] - table[row, VALUE])
            if way_there.min() < channel.low or way_there.max() > channel.high:
                table[row, SHAPE] = _CALM[kind]
                calmed.add(address)
    touched = np.isin(owner, np.unique(owner[wanted]))
    notes: tuple[str, ...] = ()
    if calmed:
        notes = (f"{counted(len(calmed), 'channel')} would swing past a limit and stops at the pose: "
                 + ", ".join(sorted(calmed)[:3]) + (" …" if len(calmed) > 3 else ""),)  # fmt: skip
    changes = unstacked(Stack(stack.addresses, owner[touched], table[touched]))
    return Outcome(clip.with_curves(changes), notes)


@dataclass(frozen=True, kw_only=True)
class SetWay(Edit):
    """How gaps go: even, slow start, slow stop, both, wind-up, overshoot, bounce, instant; or stepped, or smooth.

    A gap remembers its way until its curve is changed by hand. Gaps are those after chosen ``keys``, or those that
    begin within ``gaps`` of ``controls``.
    """

    kind: Literal["way"] = "way"
    way: Way
    strength: Annotated[float, STRONG] = eases.USUAL
    gaps: tuple[tuple[int, int], ...] | None = None
    controls: Controls = None
    keys: Chosen | None = None

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        return set_way(clip, rig, self.way, self.strength, self.gaps, self.controls, self.keys)

    def label(self, rig: Rig, scene: Scene) -> str:
        where = keys_said(self.keys) if self.keys is not None else ", ".join(f"{a} to {b}" for a, b in self.gaps or ())
        return f"{self.way.capitalize()} after {where}" if self.keys is not None else (
            f"{self.way.capitalize()} from {where}{of_said(rig, self.controls)}"
        )  # fmt: skip
