"""Changing a limb between IK and FK at a frame."""

from __future__ import annotations

from typing import Literal

from hame.character.rig import Rig
from hame.clip.clip import Clip
from hame.edits.outcome import Outcome
from hame.edits.pose import Keying, set_pose
from hame.evaluate.evaluate import pose_values
from hame.solve.match import match


def switch_limb(clip: Clip, rig: Rig, frame: int, limb: str, to: Literal["ik", "fk"], keying: Keying) -> Outcome:
    """Poses a limb by IK or FK from a frame on, matched so that it does not move at that frame.

    All channels of the controls of the new mode are set, whether they changed
    or not, so that the match also holds after later keys.
    """
    chosen = rig.limb(limb)
    before = pose_values(rig, clip, frame)
    after = match(rig, before, chosen, to)
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
    return set_pose(clip, rig, frame, values, keying)
