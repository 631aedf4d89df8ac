"""What the demo scenes are made with: a stage of figures and props on which edits are made, and hands that reach."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace

import numpy as np

from hame.character.rig import Rig
from hame.character.skin import Skin
from hame.clip.clip import Clip
from hame.edits.edit import Edit
from hame.edits.making import made
from hame.edits.pose import set_pose
from hame.evaluate.evaluate import evaluate
from hame.evaluate.ties.links import SIX
from hame.maths import rotations, transforms
from hame.maths.rotations import Array
from hame.scene.gripped import limbs_planted, planted_parts
from hame.scene.scene import Figure, Scene
from hame.scene.seen import pose_values
from hame.solve.begun import begin, where
from hame.solve.drag import place_control
from hame.solve.pull import pull
from hame.solve.wishes import USUAL, Grip, Leanings, Target

Pose = Mapping[str, float]


@dataclass
class Acting:
    """A scene that is being made, edit by edit.

    Attributes
    ----------
    numbers : by name, the number that each of the cast has
    skins : their surfaces by number, where somebody falls onto them
    """

    numbers: Mapping[str, int]
    figures: dict[int, Figure]
    last: int
    skins: Mapping[int, Skin] = field(default_factory=dict)

    @classmethod
    def of(
        cls, rigs: Mapping[str, Rig], numbers: Mapping[str, int], last: int, skins: Mapping[str, Skin] | None = None
    ) -> Acting:  # fmt: skip
        figures = {numbers[name]: Figure(rig, Clip(), name) for name, rig in rigs.items()}
        return cls(numbers, figures, last, {numbers[name]: skin for name, skin in (skins or {}).items()})

    def scene(self, who: str) -> Scene:
        return Scene(self.figures, 1, self.last, of=self.numbers[who], skins=self.skins)

    def rig(self, who: str) -> Rig:
        return self.figures[self.numbers[who]].rig

    def clip(self, who: str) -> Clip:
        return self.figures[self.numbers[who]].clip

    def clips(self) -> dict[str, Clip]:
        return {name: self.clip(name) for name in self.numbers}

    def make(self, who: str, edit: Edit) -> None:
        """Makes an edit for one of the cast."""
        of = self.numbers[who]
        for number, clip in made(edit, replace(self.scene(who), of=1), of).clips.items():
            self.figures[number] = self.figures[number].with_clip(clip)

    def pose(self, who: str, frame: int, values: Pose) -> None:
        """Keys what shall be seen at a frame; channels that the rig lacks are passed over."""
        rig, of = self.rig(who), self.numbers[who]
        known = {a: v for a, v in values.items() if rig.has_channel(a)}
        clip = set_pose(self.clip(who), rig, frame, known, "changed", scene=self.scene(who)).clip
        self.figures[of] = self.figures[of].with_clip(clip)

    def values(self, who: str, frame: int) -> Array:
        return pose_values(self.rig(who), self.clip(who), frame, self.scene(who))

    def value(self, who: str, address: str, frame: int) -> float:
        """What a channel is seen as at a frame."""
        return float(self.values(who, frame)[self.rig(who).number(address)])

    def where(self, who: str, control: str, frame: int) -> Array:
        """Where what a control carries is at a frame, (8,)."""
        rig = self.rig(who)
        return np.asarray(evaluate(rig, self.values(who, frame)[None])[0, rig.carrying_node(control)])

    def reach(self, who: str, control: str, frame: int, place: Array, turn: Array | None = None) -> None:
        """Keys a control so that it is at a place (3,) in the world, and turned so (4,), if that is given."""
        rig = self.rig(who)
        values = self.values(who, frame).copy()
        nodes = evaluate(rig, values[None])[0]
        node = nodes[rig.control(control).node]
        goal = transforms.transform(place, node[3:7] if turn is None else turn, node[7])
        place_control(rig, values, rig.control(control), nodes, goal)
        names = SIX if turn is not None else SIX[:3]
        self.pose(who, frame, {f"{control}/{c}": float(values[rig.number(f"{control}/{c}")]) for c in names})

    def pull(
        self, who: str, frame: int, targets: Mapping[str, Array], fast: Sequence[str], *, firm: Sequence[str] = (),
        offset: bool = True, leanings: Leanings = USUAL,
    ) -> None:  # fmt: skip
        """Pulls parts of a body by so much (3,), or to a place with ``offset`` false, and keys what follows.

        What is planted at the frame, and the parts in ``fast``, stay; those in ``firm`` keep their turn.
        """
        rig, values = self.rig(who), self.values(who, frame)
        begun = begin(rig, values, planted=limbs_planted(rig, self.clip(who), frame))
        wanted = [Target(p, np.asarray(at) + (where(begun, p)[0] if offset else 0.0)) for p, at in targets.items()]
        planted = planted_parts(rig, self.clip(who), frame)
        grips = [Grip(part, "fast") for part in dict.fromkeys((*planted, *fast)) if part not in targets]
        grips += [Grip(part, "firm", place=False) for part in firm]
        result = pull(begun, wanted, grips, leanings)
        changed = np.flatnonzero(result.values != values)
        self.pose(who, frame, {rig.addresses[n]: float(result.values[n]) for n in changed})

    def hold_at(self, who: str, side: str, frame: int, grip: Array, fingers: Array, palm: Array) -> None:
        """Keys an IK hand so that its palm is at ``grip (3,)``, its fingers and palm looking along (3,) and (3,)."""
        rig = self.rig(who)
        y = fingers / np.linalg.norm(fingers)
        z = palm - (palm @ y) * y
        z = z / np.linalg.norm(z)
        # A hand's axes: y along the fingers on the left and against them on the right, the hinge of its bend as x.
        sign = 1.0 if side == "L" else -1.0
        x = np.cross(y, z)
        turn = rotations.from_matrix(np.stack([x, sign * y, sign * z], axis=1))
        middle = np.array(rig.limb(f"arm.{side}").points.get("palm", (0.0, 0.0, 0.0)))
        place = grip - rotations.rotate(turn, middle)
        self.reach(who, f"arm.{side}.goal", frame, place, turn)
