"""Turns that go the long way round, taken back."""

from __future__ import annotations

from dataclasses import dataclass
from math import pi
from typing import Literal

import numpy as np

from hame.character.rig import Rig
from hame.clip.clip import Clip
from hame.clip.curve import Curve, from_table
from hame.clip.key import IN_VALUE, OUT_VALUE, VALUE, Array
from hame.clip.layers import own_curves
from hame.edits.chosen import counted
from hame.edits.cleaning import _EXACT
from hame.edits.edit import Controls, Edit, controls_said, of_said
from hame.edits.outcome import Outcome
from hame.maths import rotations
from hame.measure.bumps import turn_channels, turn_frames, turns_at
from hame.scene.scene import Scene


def unwind(clip: Clip, rig: Rig, controls: Controls = None) -> Outcome:
    """Writes turns by the angles nearest to those of the key before, so that none goes round the long way.

    Where all three angles of a control are keyed together no pose at a key changes, and the other three that make the
    same turn are tried as well. Else only whole turns are taken off each angle: between its keys it goes the short way
    then, also where others of them are keyed.
    """
    apart: list[str] = []
    own = own_curves(clip.curves)
    changes: dict[str, Curve] = {}
    for name in [c.name for c in rig.controls] if controls is None else controls:
        found = turn_channels(rig, own, name)
        if found is None:
            continue
        addresses, order = found
        frames = turn_frames(own, addresses)
        together = all(a in own and len(own[a]) == len(frames) for a in addresses)
        if together:
            angles = turns_at(rig, own, addresses, frames)
            calm = angles.copy()
            turned = rotations.from_euler(angles, order)
            for n in range(1, len(frames)):
                calm[n] = rotations.to_euler_near(turned[n], order, calm[n - 1])
            for c, address in enumerate(addresses):
                _turned_over(changes, own[address], address, calm[:, c], angles[:, c])
            continue
        for address in addresses:
            if address not in own or not rig.channels[rig.number(address)].address:
                continue
            values = own[address].values
            calm_one = values.copy()
            for n in range(1, len(values)):
                calm_one[n] += 2.0 * pi * round((calm_one[n - 1] - values[n]) / (2.0 * pi))
            if np.abs(calm_one - values).max(initial=0.0) > _EXACT:
                apart.append(name)
            _turned_over(changes, own[address], address, calm_one, values)
    if not changes:
        return Outcome(clip, ("no turn goes round the long way; nothing was changed",))
    said = "every pose on a key is the same"
    if apart:
        who = controls_said(rig, dict.fromkeys(apart))
        said = f"{who} is keyed angle by angle, and between those keys goes the short way"
    return Outcome(clip.with_curves(changes), (f"{counted(len(changes), 'channel')} unwound; {said}",))


def _turned_over(changes: dict[str, Curve], curve: Curve, address: str, calm: Array, before: Array) -> None:
    """Takes over calmer angles; handles set by hand turn over with an angle that does."""
    if np.abs(calm - before).max(initial=0.0) < _EXACT:
        return
    table = curve.table.copy()
    table[:, VALUE] = calm
    other = np.abs(np.abs(calm + before) % pi) < 1e-6
    whole = np.abs(np.remainder(calm - before + pi, 2.0 * pi) - pi) < 1e-6
    over = other & ~whole
    table[over, IN_VALUE] *= -1.0
    table[over, OUT_VALUE] *= -1.0
    changes[address] = from_table(table)


@dataclass(frozen=True, kw_only=True)
class Unwind(Edit):
    """Turns that flip between keys unwound, of all controls at once; no pose changes."""

    kind: Literal["unwind"] = "unwind"
    controls: Controls = None

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        return unwind(clip, rig, self.controls)

    def label(self, rig: Rig, scene: Scene) -> str:
        return f"Unwind turns{of_said(rig, self.controls)}"
