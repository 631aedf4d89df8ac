"""Changing a limb between IK and FK at a frame."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import pairwise
from math import degrees, radians
from typing import Annotated, Literal

import numpy as np

from hame.character.rig import Chain, Limb, Rig
from hame.clip.clip import Clip
from hame.clip.curve import Curve, from_table
from hame.clip.key import BEZIER, FRAME, LINEAR, SHAPE, STEP, VALUE, WIDTH, key_row, no_keys
from hame.clip.plants import Plant
from hame.clip.sampling import sample_curve
from hame.clip.spans import track_name
from hame.edits.chosen import counted, refuse_derived
from hame.edits.edit import Edit, Frame, Names, Within
from hame.edits.outcome import Outcome
from hame.edits.pose import Keying, set_pose
from hame.edits.spans import spans_of
from hame.errors import Asks, BadEdit
from hame.evaluate.evaluate import evaluate
from hame.evaluate.line import played_values
from hame.evaluate.players import Player
from hame.maths.rotations import Array, unwound
from hame.scene.scene import Scene
from hame.scene.seen import players_for, pose_values
from hame.solve.match import match, moved

MOVES, TURNS = 1e-4, radians(0.5)  # metres and radians: less is not seen


def match_limbs(
    clip: Clip, rig: Rig, limbs: Sequence[Limb], first: int, last: int, to: Literal["ik", "fk"],
    every: Literal["frame", "key", "needed"], tolerance: float, scene: Scene,
) -> Outcome:  # fmt: skip
    """Poses limbs by IK or FK from ``first`` to ``last`` so that they look as before; beyond, they go on as they did.

    How far any joint of them moves by it at all is said.
    """
    if not limbs:
        raise BadEdit("this rig has no limb to match; nothing was changed")
    most = MOST_MATCHED // len(limbs)
    if not 0 < last - first < most:
        raise BadEdit(
            f"a match of {counted(len(limbs), 'limb')} goes over 2 to {most} frames, the first before the last; "
            "nothing was changed"
        )
    frames = list(range(first, last + 1))
    refuse_derived(clip, frames)
    of, players = players_for(rig, clip, scene)
    before = played_values(players, np.array(frames, float))[of]
    matched = before.copy()
    for n, values in enumerate(before):
        now = values
        for limb in limbs:
            now = match(rig, now, limb, to)
        matched[n] = now if n == 0 else np.where(rig.turned, unwound(now, matched[n - 1]), now)
    names = [name for limb in limbs for name in _controls_of(rig, limb, to)]
    addresses = [c.address for name in names for c in rig.channels_of(name) if not c.locked]
    keys = {first, last}
    if every == "frame":
        keys = set(frames)
    elif every == "key":
        keys |= {f for f in clip.key_frames(_own_addresses(rig, limbs)) if first <= f <= last}
    nodes = rig.joint_nodes
    shown = evaluate(rig, before)[:, nodes, :3]
    while True:
        after = _matched(clip, rig, limbs, addresses, to, first, last, sorted(keys), matched, scene)
        seen = evaluate(rig, played_values({**players, of: Player(rig, after)}, np.array(frames, float))[of])
        off = np.linalg.norm(seen[:, nodes, :3] - shown, axis=2).max(axis=1)
        if every != "needed" or off.max() <= tolerance or len(keys) == len(frames):
            break
        # One key more in each gap, where it is missed most.
        more = [
            a + 1 + int(np.argmax(gap))
            for a, b in pairwise(sorted(keys))
            if len(gap := off[a - first + 1 : b - first]) and gap.max() > tolerance
        ]
        if not more:
            break  # a limit keeps it from standing as it did, on frames that have their keys already
        keys.update(more)
    said = f"{counted(len(keys), 'key')} for each; no joint moves by more than {1000 * float(off.max()):.2f} mm"
    return Outcome(after, (said,))


MOST_MATCHED = 2000  # frames, by limbs


def _controls_of(rig: Rig, limb: Limb, to: str) -> list[str]:
    names = [*(limb.fk if to == "fk" else (limb.ik, limb.pole)), limb.toe]
    return [name for name in names if name and rig.has_control(name)]


def _own_addresses(rig: Rig, limbs: Sequence[Limb]) -> list[str]:
    names = {name for limb in limbs for to in ("ik", "fk") for name in _controls_of(rig, limb, to)}
    return [c.address for name in names for c in rig.channels_of(name)]


def _matched(
    clip: Clip, rig: Rig, limbs: Sequence[Limb], addresses: Sequence[str], to: str, first: int, last: int,
    keys: Sequence[int], matched: Array, scene: Scene,
) -> Clip:  # fmt: skip
    """The clip with the limbs keyed at some frames, and switched over from the first to the last."""
    changes: dict[str, Curve | None] = {}
    for address in addresses:
        curve = clip.curves.get(address)
        table = no_keys() if curve is None else curve.table
        kept = table[(table[:, FRAME] < first) | (table[:, FRAME] > last)]
        rows = np.zeros((len(keys), WIDTH))
        rows[:, FRAME], rows[:, SHAPE] = keys, BEZIER if len(keys) < last - first + 1 else LINEAR
        rows[:, VALUE] = [matched[key - first, rig.number(address)] for key in keys]
        changes[address] = from_table(np.concatenate([kept, rows]))
    clip = clip.with_curves(changes)
    switches = {limb.switch: rig.channels[rig.number(limb.switch)].rest for limb in limbs}
    return clip.with_curves({
        address: switched_over(
            clip.curves.get(address), rest, first, last, 1.0 if to == "ik" else 0.0, first > scene.start,
            last < scene.end,
        ) for address, rest in switches.items()
    })  # fmt: skip


def switched_over(
    curve: Curve | None, rest: float, first: int, last: int, to: float, before: bool, after: bool
) -> Curve:
    """The curve of a switch that stands at ``to`` from one frame to another; ``before`` and ``after`` say whether it
    is to stand as it did on the frames about them."""
    table = no_keys() if curve is None else curve.table
    kept = table[(table[:, FRAME] < first) | (table[:, FRAME] > last)]

    def stood(frame: int) -> float:
        return rest if curve is None else float(sample_curve(curve, np.array([float(frame)]))[0])

    rows = [(first, to)]
    if after and not (kept[:, FRAME] == last + 1).any():
        rows.append((last + 1, stood(last + 1)))
    if before and not (kept[:, FRAME] < first).any():
        rows.insert(0, (first - 1, stood(first - 1)))
    added = np.array([key_row(frame, value, STEP) for frame, value in rows], float)
    whole = from_table(np.concatenate([kept, added])).table.copy()
    at = int(np.flatnonzero(whole[:, FRAME] == first)[0])
    if at:  # it changes over at the first frame, not on the way there
        whole[at - 1, SHAPE] = STEP
    return from_table(whole)


def switch_limb(
    clip: Clip, rig: Rig, frame: int, limb: str, to: Literal["ik", "fk"], keying: Keying, anyway: bool = False,
    scene: Scene | None = None,
) -> Outcome:  # fmt: skip
    """Poses a limb by IK or FK from a frame on, matched so that it does not move at that frame.

    All channels of the controls of the new mode are set, whether they changed
    or not, so that the match also holds after later keys.

    Raises
    ------
    Asks
        If a limit or a hinge of the other mode keeps the limb from standing as it does: by how much it would
        move. With ``anyway`` it is done, and said.
    """
    chosen = rig.limb(limb)
    clip, said = unplanted(clip, chosen, frame, anyway) if to == "fk" else (clip, ())
    before = pose_values(rig, clip, frame, scene)
    after = match(rig, before, chosen, to)
    way, turn, joint = moved(rig, before, after)
    notes: tuple[str, ...] = ()
    if way > MOVES or turn > TURNS:
        what = (f"{joint} would move by {1000 * way:.1f} mm" if way > MOVES
                else f"{joint} would turn by {degrees(turn):.0f} degrees")  # fmt: skip
        if not anyway:
            raise Asks(
                f"by {to.upper()} the {chosen.label} {chosen.kind} cannot stand quite as it does at {frame}: {what}. "
                "Nothing was changed"
            )
        notes = (what.replace("would move", "moved").replace("would turn", "turned"),)
    names = [
        chosen.name,
        *(chosen.fk if to == "fk" else (chosen.ik, chosen.pole)),
        *([chosen.toe] if chosen.toe else []),
    ]
    values = {
        channel.address: float(after[rig.number(channel.address)])
        for name in names
        if rig.has_control(name)
        for channel in rig.channels_of(name)
        if not channel.locked
    }
    outcome = set_pose(clip, rig, frame, values, keying, scene=scene)
    was = float(before[rig.number(chosen.switch)])
    kept = held_before(outcome.clip, chosen.switch, frame, was, [*chosen.fk, chosen.ik, chosen.pole, chosen.toe])
    return Outcome(kept, (*said, *notes, *outcome.notes))


def held_before(clip: Clip, switch: str, frame: int, was: float, controls: Sequence[str]) -> Clip:
    """The clip in which a switch that is keyed at a frame stands as it ``was`` up to there: from its key before, or
    else from where any of the controls that it blends is keyed first. What they did before would be blended away.
    """
    curve = clip.curves.get(switch)
    if curve is None or not (curve.table[:, FRAME] == frame).any():
        return clip
    table = curve.table.copy()
    at = int(np.flatnonzero(table[:, FRAME] == frame)[0])
    if at:
        table[at - 1, SHAPE] = STEP
        return clip.with_curves({switch: from_table(table)})
    firsts = [
        float(own.table[0, FRAME])
        for address, own in clip.curves.items()
        if address != switch and address.rpartition("/")[0] in controls and len(own)
    ]
    first = min(firsts, default=float(frame))
    if first >= frame:
        return clip
    return clip.with_curves({switch: from_table(np.concatenate([[key_row(first, was, STEP)], table]))})


def unplanted(clip: Clip, limb: Limb | Chain, frame: int, anyway: bool) -> tuple[Clip, tuple[str, ...]]:
    """The clip without what a plant would hold of a limb from a frame on, and what to say of it.

    Raises
    ------
    Asks
        If it is planted there and it is not to be done ``anyway``: a limb that is posed by FK is held by no plant.
    """
    plants = spans_of(clip, Plant, limb.ik)
    plant = next((plant for plant in plants if plant.start <= frame <= plant.end), None)
    if plant is None:
        return clip, ()
    begins = plant.start == frame
    if not anyway:
        left = "would go" if begins else f"would end at {frame - 1}"
        raise Asks(
            f"the {limb.label} {limb.kind} is planted from {plant.start} to {plant.end}, and by FK nothing holds it "
            f"there: its plant {left}. Nothing was changed"
        )
    kept = [] if begins else [replace(plant, end=frame - 1, release=0)]
    others = [other for other in plants if other is not plant]
    said = f"the plant {plant.start} to {plant.end} {'went' if begins else f'ends at {frame - 1}'}"
    return clip.with_tracks({track_name(Plant.kind, limb.ik): [*others, *kept]}), (said,)


@dataclass(frozen=True, kw_only=True)
class MatchLimbs(Edit):
    """Limbs posed by IK or FK over some frames, looking as before; without names, all of them.

    ``every``: keys on every frame, at the limb's own keys, or so few that no joint moves by more than ``tolerance``.
    """

    kind: Literal["limbs"] = "limbs"
    limbs: Names = ()
    first: Frame
    last: Frame
    to: Literal["ik", "fk"]
    every: Literal["frame", "key", "needed"] = "needed"
    tolerance: Annotated[float, Within(1e-5, 1.0, "m")] = 0.001

    dear = True

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        limbs = [rig.limb(name) for name in self.limbs] or list(rig.limbs)
        outcome = match_limbs(clip, rig, limbs, self.first, self.last, self.to, self.every, self.tolerance, scene)
        if self.to == "ik":
            return outcome
        over = [
            f"the {limb.label} {limb.kind} is planted from {plant.start} to {plant.end}; by FK it stays there only as "
            "well as it is keyed"
            for limb in limbs
            for plant in spans_of(clip, Plant, limb.ik)
            if plant.start <= self.last and self.first <= plant.end
        ]
        return Outcome(outcome.clip, (*outcome.notes, *over[:4]))

    def label(self, rig: Rig, scene: Scene) -> str:
        limbs = [rig.limb(name) for name in self.limbs]
        what = f"{limbs[0].label} {limbs[0].kind}" if len(limbs) == 1 else f"{len(limbs) or 'all'} limbs"
        return f"{what} to {self.to.upper()}, {self.first} to {self.last}"


@dataclass(frozen=True, kw_only=True)
class SwitchLimb(Edit):
    """A limb posed by IK or FK from a frame on; ``anyway``: also where it moves a little by that."""

    kind: Literal["limb"] = "limb"
    frame: Frame
    limb: str
    to: Literal["ik", "fk"]
    keying: Keying = "changed"
    anyway: bool = False

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        return switch_limb(clip, rig, self.frame, self.limb, self.to, self.keying, self.anyway, scene)

    def label(self, rig: Rig, scene: Scene) -> str:
        limb = rig.limb(self.limb)
        return f"{limb.label} {limb.kind} to {self.to.upper()} at {self.frame}"
