"""The turn of a figure in the air, made to keep its angular momentum."""

from __future__ import annotations

from dataclasses import dataclass
from math import degrees
from typing import Literal

import numpy as np
from scipy.interpolate import CubicSpline

from hame.character.rig import Rig
from hame.clip.clip import Clip
from hame.clip.curve import Curve, from_keys
from hame.clip.sampling import sample_curve
from hame.edits.asif import AsIf
from hame.edits.chosen import refuse_derived
from hame.edits.edit import Edit, Frame
from hame.edits.fewkeys import refitted
from hame.edits.flights import WHOLE
from hame.edits.flying import flight_about
from hame.edits.outcome import Outcome
from hame.errors import BadEdit
from hame.evaluate.posed import Posed
from hame.maths import rotations, transforms
from hame.maths.rotations import Array
from hame.maths.thinning import between_frames
from hame.measure.balance import laden_centre
from hame.measure.turning import kept, turning
from hame.scene.scene import Scene
from hame.solve.drag import place_control
from hame.work import refuse_poses

LONGEST = 240  # frames
EVEN = 0.02  # radians a second: a turn that is so even is left
_SIX = ("tx", "ty", "tz", "rx", "ry", "rz")
_NONE, _ROUNDS = 1e-7, 3


@dataclass(frozen=True, kw_only=True)
class TurnInFlight(Edit):
    """The whole turned about its mass in the flight about a frame so that its angular momentum stays what it is.

    Tucked it turns faster, and what arms and legs do is answered by the rest. How far it has turned as it lands stays,
    and so does the way of its mass.
    """

    kind: Literal["turn in flight"] = "turn in flight"
    at: Frame

    dear = True

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        if rig.plan.is_prop or not rig.has_control(WHOLE):
            raise BadEdit("a thing has no flight of its own to be fitted; nothing was changed")
        seen = AsIf(scene)
        found = flight_about(seen, clip, self.at)
        if found.frames > LONGEST:
            raise BadEdit(f"a flight of {found.frames} frames is too long for that; {LONGEST} are the most")
        refuse_derived(clip, range(found.release, found.landing + 1))
        refuse_poses(found.frames * 20, "turning in the air")
        frames = np.arange(found.release, found.landing + 1.0)
        posed, loads = seen.laden(clip, frames)
        before = turning(posed, loads, scene.fps)
        if before.uneven < EVEN:
            raise BadEdit(f"from {found.release} to {found.landing} it turns as it may already; nothing was changed")
        now, after, most = clip, before, 0.0
        for _ in range(_ROUNDS):  # frames that are far apart, and keys that are few, leave a little
            try:
                turns = kept(after)
            except ValueError as error:
                raise BadEdit("no turn of the whole keeps its momentum here; nothing was changed") from error
            most = most or degrees(float(np.linalg.norm(rotations.to_vector(turns), axis=1).max()))
            fitted = _turned(now, rig, frames, _moved(posed, laden_centre(posed, loads), turns))
            posed, loads = seen.laden(fitted, frames)
            left = turning(posed, loads, scene.fps)
            if left.uneven >= after.uneven:
                break
            now, after = fitted, left
            if after.uneven < EVEN:
                break
        note = (
            f"turned otherwise by up to {most:.0f}°: what turns it and nothing does was up to "
            f"{degrees(before.uneven):.0f}° a second, and is {degrees(after.uneven):.0f}°"
        )
        return Outcome(now, (note,))

    def label(self, rig: Rig, scene: Scene) -> str:
        return f"Turn in the air at {self.at} as it may"


def _moved(posed: Posed, centres: Array, turns: Array) -> Array:
    """How much the six channels of the whole change (F, 6) by turns (F, 4) about places (F, 3)."""
    rig = posed.rig
    control = rig.control(WHOLE)
    numbers = [rig.number(f"{WHOLE}/{channel}") for channel in _SIX]
    off = np.zeros((len(turns), len(_SIX)))
    for n, (nodes, centre, turn) in enumerate(zip(posed.nodes, centres, turns, strict=True)):
        there = nodes[control.node]
        place = centre + rotations.rotate(turn, there[:3] - centre)
        goal = transforms.transform(place, rotations.multiply(turn, there[3:7]), float(there[7]))
        values = posed.values[n].copy()
        place_control(rig, values, control, nodes, goal)
        off[n] = (values - posed.values[n])[numbers]
    return off


def _turned(clip: Clip, rig: Rig, frames: Array, off: Array) -> Clip:
    """The clip with the six channels of the whole changed by so much (F, 6) on frames, and evenly between them."""
    first, last = int(frames[0]), int(frames[-1])
    times = between_frames(first, last)
    between = CubicSpline(frames, off)(times)
    changes: dict[str, Curve] = {}
    for n, channel in enumerate(_SIX):
        if np.abs(off[:, n]).max() < _NONE:
            continue
        address = f"{WHOLE}/{channel}"
        curve = clip.curves.get(address) or from_keys({first: rig.channels[rig.number(address)].rest})
        changes[address] = refitted(curve, first, last, sample_curve(curve, times) + between[:, n])
    return clip.with_curves(changes)
