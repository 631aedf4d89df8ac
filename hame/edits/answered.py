"""Answers that are there already: taken away, or made into keys."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from hame.character.rig import Rig
from hame.clip.answers import Give, Knock
from hame.clip.clip import Clip
from hame.clip.counter import Counter
from hame.clip.footdown import FootDown
from hame.clip.rule import Rule
from hame.clip.spans import track_name
from hame.clip.through import CarryThrough
from hame.edits.edit import Edit, Frame
from hame.edits.outcome import Outcome
from hame.edits.ruled import into_layer, rule_at, without
from hame.edits.tying import ControlName
from hame.scene.scene import Scene

ANSWERS: dict[str, type[Rule]] = {kind.kind: kind for kind in (Give, Knock, CarryThrough, FootDown, Counter)}


@dataclass(frozen=True, kw_only=True)
class _OneAnswer(Edit):
    of: Literal["give", "knock", "carry-through", "foot down", "counter"]
    control: ControlName = ""
    at: Frame

    def _found(self, clip: Clip) -> tuple[str, Rule]:
        kind = ANSWERS[self.of]
        control = self.control if kind.of_controls else ""
        return track_name(kind.kind, control), rule_at(clip, kind, control, self.at)

    @property
    def _word(self) -> str:
        return "blow" if self.of == "knock" else self.of


@dataclass(frozen=True, kw_only=True)
class DropAnswer(_OneAnswer):
    """An answer taken away."""

    kind: Literal["drop answer"] = "drop answer"

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        return Outcome(without(clip, *self._found(clip)))

    def label(self, rig: Rig, scene: Scene) -> str:
        return f"Take away the {self._word} of {self.at}"


@dataclass(frozen=True, kw_only=True)
class AnswerKeys(_OneAnswer):
    """An answer made into keys, as few as hold it, in a layer of its own; the motion stays what it is."""

    kind: Literal["answer keys"] = "answer keys"

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        return into_layer(clip, rig, *self._found(clip))

    def label(self, rig: Rig, scene: Scene) -> str:
        return f"The {self._word} of {self.at} into keys"
