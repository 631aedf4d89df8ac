"""One step for several of the cast: an edit for each, made one after the other."""

from __future__ import annotations

from collections import ChainMap
from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Annotated, Any, Literal

from hame.character.rig import Rig
from hame.clip.clip import Clip
from hame.clip.spans import Reach
from hame.edits.edit import AtMost, Edit
from hame.edits.making import made
from hame.edits.tying import FigureNumber
from hame.errors import Asks, BadEdit
from hame.scene.scene import Scene

MOST = 100  # figures and props


@dataclass(frozen=True)
class Part:
    """What is done for one of the cast; ``edit`` as of JSON."""

    casting: FigureNumber
    edit: Mapping[str, Any]


@dataclass(frozen=True, kw_only=True)
class Together(Edit):
    """Edits for several of the cast in one step, in their order.

    Whoever cannot take part, such as one that is protected or has nothing there, is left out, which is said; of a
    ``whole`` step nobody is: what one cannot do is not done at all. What one of them asks first is asked of all, and
    with ``anyway`` none of them asks.
    """

    kind: Literal["together"] = "together"
    parts: Annotated[tuple[Part, ...], AtMost(MOST)]
    anyway: bool = False
    whole: bool = False

    def apply(self, scene: Scene, of: int) -> tuple[dict[int, Clip], tuple[str, ...]]:
        found: dict[int, Clip] = {}
        notes: list[str] = []
        left: list[tuple[str, BadEdit]] = []
        for casting, edit in self._edits():
            name = scene.figure(casting).name
            # Over the cast, of which each clip is opened only when it is asked for.
            changed = {number: scene.figure(number).with_clip(clip) for number, clip in found.items()}
            try:
                if not scene.figure(casting).plays:
                    raise BadEdit("it was taken out of this shot")
                done = made(edit, replace(scene, figures=ChainMap(changed, scene.figures)), casting)  # type: ignore[arg-type]
            except Asks as error:
                raise Asks(f"{name}: {error}") from None
            except BadEdit as error:
                if self.whole:
                    raise BadEdit(f"{name}: {error}") from None
                left.append((name, error))
                continue
            found |= done.clips
            notes += [note if note in notes else f"{name}: {note}" for note in done.notes]
        if not found:
            raise left[0][1]
        notes += [f"{name} was left out: {error}" for name, error in left]
        return found, tuple(dict.fromkeys(notes))

    def label(self, rig: Rig, scene: Scene) -> str:
        edits = self._edits()
        first = edits[0][0]
        # What makes room for something comes before it, for the same one.
        own = [edit for casting, edit in edits if casting == first]
        said = ", then ".join(edit.label(scene.figure(first).rig, replace(scene, of=first)) for edit in own[:2])
        names = list(dict.fromkeys(scene.figure(casting).name for casting, _ in edits))
        who = f"{', '.join(names[:-1])} and {names[-1]}" if len(names) > 1 else names[0]
        return f"{said} ({who})" if len(names) < 4 else f"{said} ({len(names)} of the cast)"

    def takes_long(self) -> bool:
        return any(edit.takes_long() for _, edit in self._edits())

    def goes_away(self) -> bool:
        return any(edit.goes_away() for _, edit in self._edits())

    def moves_time(self) -> Reach | None:
        reaches = [reach for _, edit in self._edits() if (reach := edit.moves_time()) is not None]
        if not reaches:
            return None
        firsts, lasts = zip(*reaches, strict=True)
        return (
            None if None in firsts else min(f for f in firsts if f is not None),
            None if None in lasts else max(f for f in lasts if f is not None),
        )

    def _edits(self) -> list[tuple[int, Edit]]:
        """The edits with their casting; raises :class:`BadEdit` for what is none, and for nobody."""
        from hame.edits.reading import edit_from_json  # which knows all kinds, this one among them

        if not self.parts:
            raise BadEdit("nobody is chosen; nothing was changed")
        found: list[tuple[int, Edit]] = []
        for part in self.parts:
            edit = edit_from_json(part.edit)
            if isinstance(edit, Together):
                raise BadEdit("a step for several holds one for each, and none for several. Nothing was changed")
            asks = self.anyway and hasattr(edit, "anyway")
            found.append((part.casting, replace(edit, anyway=True) if asks else edit))  # type: ignore[call-arg]
        return found
