"""Changing a limb between IK and FK at a frame."""

from __future__ import annotations

from dataclasses import dataclass
from math import degrees, radians
from typing import Literal

from hame.character.rig import Rig
from hame.clip.clip import Clip
from hame.edits.edit import Edit, Frame
from hame.edits.outcome import Outcome
from hame.edits.pose import Keying, set_pose
from hame.errors import Asks
from hame.scene.scene import Scene
from hame.scene.seen import pose_values
from hame.solve.match import match, moved

MOVES, TURNS = 1e-4, radians(0.5)  # metres and radians: less is not seen


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
    return Outcome(outcome.clip, (*notes, *outcome.notes))


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
