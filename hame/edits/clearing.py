"""All plants, belonging, layers or rules of what is chosen taken away at once, with what would jump said first."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass
from typing import Annotated, Literal

import numpy as np

from hame.character.rig import Rig
from hame.clip import layers
from hame.clip.belonging import Belonging
from hame.clip.blink import Blink
from hame.clip.clip import Clip
from hame.clip.gaze import Gaze
from hame.clip.layer import Layer
from hame.clip.living import Living
from hame.clip.plants import Plant
from hame.clip.shake import Shake
from hame.clip.spans import Track, control_of
from hame.clip.spring import Spring
from hame.edits.answered import ANSWERS
from hame.edits.chosen import counted
from hame.edits.edit import AtMost, Controls, Edit, of_said
from hame.edits.outcome import Outcome
from hame.errors import Asks, BadEdit
from hame.evaluate.evaluate import evaluate, joints
from hame.evaluate.line import played_values
from hame.scene.scene import Scene
from hame.scene.seen import players_for

What = Literal["plants", "belonging", "layers", "rules"]
KINDS: dict[What, tuple[str, ...]] = {
    "plants": (Plant.kind,),
    "belonging": (Belonging.kind,),
    "layers": (Layer.kind,),
    "rules": (Living.kind, Shake.kind, Blink.kind, Gaze.kind, Spring.kind, *ANSWERS),
}
_LOOKED = 400  # frames of a long shot that are looked at, evenly apart
_JUMPS = 0.001  # metres


@dataclass(frozen=True, kw_only=True)
class ClearAway(Edit):
    """Whatever of some kinds lies on what is chosen (None: the whole character) taken away.

    Of a layer that is of more, what it holds of these goes, and the layer stays. Without ``anyway`` it is said first
    what would move.
    """

    kind: Literal["clear away"] = "clear away"
    what: Annotated[tuple[What, ...], AtMost(4)]
    controls: Controls = None
    anyway: bool = False

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        for name in self.controls or ():
            rig.control(name)
        cleared, gone = clip, []
        for what in dict.fromkeys(self.what):
            cleared, count = _without(cleared, what, None if self.controls is None else set(self.controls))
            if count:
                gone.append(_SAID[what](count))
        if not gone:
            none = " and ".join(_NONE[what] for what in dict.fromkeys(self.what)) or "nothing"
            raise BadEdit(f"there is nothing to take away{of_said(rig, self.controls)}: {none}. Nothing was changed")
        way, frame, joint = _jump(rig, clip, cleared, scene)
        moves = f"{joint} would move by {100 * way:.1f} cm at {frame}" if way > _JUMPS else ""
        if moves and not self.anyway:
            raise Asks(f"without {' and '.join(gone)}, {moves}, which is the most. Nothing was changed")
        said = f"{' and '.join(gone)} taken away"
        return Outcome(
            cleared, (f"{said}: {moves.replace('would move', 'moved')}" if moves else f"{said}; nothing moved",)
        )

    def label(self, rig: Rig, scene: Scene) -> str:
        return f"Take away all {' and '.join(self.what)}{of_said(rig, self.controls)}"


_NONE = {
    "plants": "no plant",
    "belonging": "no stretch in which it belongs to something",
    "layers": "no layer",
    "rules": "no living hold, no shake, no blink, no gaze, no spring and no answer",
}
_SAID = {
    "plants": lambda count: counted(count, "plant"),
    "belonging": lambda count: (
        counted(count, "stretch of belonging") if count == 1 else f"{count} stretches of belonging"
    ),
    "layers": lambda count: counted(count, "layer"),
    "rules": lambda count: counted(count, "rule"),
}


def _without(clip: Clip, what: What, controls: Collection[str] | None) -> tuple[Clip, int]:
    """The clip without what is of a kind and of some controls, and how many spans (or layers) that were."""
    tracks = [name for name in clip.tracks if Track.named(name).kind in KINDS[what]]
    if what != "layers":
        mine = [name for name in tracks if controls is None or control_of(name) in controls]
        count = sum(len(clip.tracks[name]) for name in mine)
        return (clip.with_tracks(dict.fromkeys(mine, ())) if count else clip), count
    held = {
        address: layers.parted(address)
        for address in clip.curves
        if layers.parted(address)[0] and (controls is None or layers.parted(address)[1].rpartition("/")[0] in controls)
    }
    touched = {number for number, _ in held.values()} if controls is not None else set(layers.layers_of(clip))
    clip = clip.with_curves(dict.fromkeys(held))
    return (clip.with_tracks(dict.fromkeys(tracks, ())) if controls is None else clip), len(touched)


def _jump(rig: Rig, before: Clip, after: Clip, scene: Scene) -> tuple[float, int, str]:
    """How far a joint moves at most by a change, metres, at which frame, and which joint."""
    even = np.linspace(scene.start, scene.end, min(scene.end - scene.start + 1, _LOOKED)).astype(int)
    left = {span for _, span in after.spans()}
    ends = [frame for _, span in before.spans() if span not in left for frame in (span.start, span.end)]
    inside = [frame for frame in ends[:_LOOKED] if scene.start <= frame <= scene.end]
    frames = np.unique(np.concatenate([even, np.array(inside, int)]))
    stood = []
    for clip in (before, after):
        of, players = players_for(rig, clip, scene)
        stood.append(joints(rig, evaluate(rig, played_values(players, frames.astype(float))[of]))[:, :, :3])
    far = np.linalg.norm(stood[1] - stood[0], axis=2)
    row, joint = np.unravel_index(int(far.argmax()), far.shape)
    return float(far.max()), int(frames[row]), rig.skeleton.names[int(joint)].replace("_", " ")
