"""What of a figure a plant holds at a frame, and so is held fast while it is pulled."""

from __future__ import annotations

from hame.character.rig import Rig
from hame.clip.clip import Clip
from hame.clip.plants import Plant
from hame.clip.played import played_spans
from hame.clip.spans import control_of
from hame.solve.body import body_of


def planted_parts(rig: Rig, clip: Clip, frame: float) -> dict[str, Plant]:
    """By part of the body, the plants that hold at a frame; nothing for a prop."""
    found: dict[str, Plant] = {}
    for track, spans in played_spans(clip, rig, Plant.kind, frame, frame).items():
        end = next((end for end in rig.ends if end.ik == control_of(track)), None)
        for plant in spans:
            if end is not None and isinstance(plant, Plant) and plant.start <= frame <= plant.end:
                body = body_of(rig, chains=True)
                found[body.link(end.ik).name] = plant
    return found


def limbs_planted(rig: Rig, clip: Clip, frame: float) -> list[str]:
    """The IK controls of limbs and chains that are planted at a frame."""
    found = played_spans(clip, rig, Plant.kind, frame, frame)
    return [control_of(t) for t, spans in found.items() if any(s.start <= frame <= s.end for s in spans)]
