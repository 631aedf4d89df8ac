"""A carried thing moved as heavy as it is: more time for its move, or a start out of the rest before it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Annotated, Literal

import numpy as np

from hame.character.rig import Rig
from hame.clip.clip import Clip
from hame.clip.spans import Reach, Warp
from hame.edits.chosen import counted
from hame.edits.edit import Edit, Frame, Within
from hame.edits.retime import warped
from hame.errors import BadEdit
from hame.maths.rotations import Array
from hame.measure.heaving import Heave, heaves
from hame.scene.carried import carried
from hame.scene.joined import played
from hame.scene.scene import Figure, Scene
from hame.work import refuse_poses

Way = Literal["longer", "sooner"]
AROUND = 80  # frames that are looked at on both sides
_TRIES, _LEFT = 12, 2  # frames of a rest that stay
_RAMP = 6  # frames over which time is given more and more, where the thing does not rest


@dataclass(frozen=True, kw_only=True)
class AsHeavy(Edit):
    """The move about a frame of what the figure carries made so slow that no more than a ``strength`` is asked of it,
    newtons.

    It takes ``longer``, and all that follows comes later; or it begins ``sooner``, out of the rest before it (what
    stops too fast goes on into the rest behind it), and all else stays when it was. Who carries it with somebody goes
    along with them, and so does all that they carry.
    """

    kind: Literal["as heavy"] = "as heavy"
    at: Frame
    way: Way = "longer"
    strength: Annotated[float, Within(1.0, 1e6, "newtons")] = 400.0

    dear = True

    def apply(self, scene: Scene, of: int) -> tuple[dict[int, Clip], tuple[str, ...]]:
        first, last = max(scene.start, self.at - AROUND), min(scene.end, self.at + AROUND)
        if last - first < 5 or not scene.start <= self.at <= scene.end:
            raise BadEdit(f"{self.at} lies outside of the shot; nothing was changed")
        refuse_poses((last - first + 1) * _TRIES * 2, "a thing as heavy as it is")
        clips = {n: figure.clip for n, figure in scene.figures.items() if figure.plays}
        heave = self._found(scene, clips, of, first, last)
        if heave is None:
            raise BadEdit(
                f"nothing that it carries at {self.at} asks for more than {self.strength:.0f} N; nothing was changed"
            )
        if heave.more is None:
            raise BadEdit(
                f"{heave.weight:.0f} N are its weight alone, and it may ask for {self.strength:.0f}: more time does "
                "not help. Make it lighter, or let two carry it. Nothing was changed"
            )
        group = self._group(scene, of, heave)
        more, before = heave.more, heave.force
        left: Heave | None = heave
        for _ in range(_TRIES):
            warp = self._warp(heave, more)
            now, notes = {}, list[str]()
            for number in group:
                figure = scene.figure(number)
                done = warped(figure.clip, figure.rig, warp, None)
                now[number] = done.clip
                notes += [note for note in done.notes if note != "no key had to move"]
            around = max(heave.first - heave.before, first), heave.last + more
            left = self._found(scene, {**clips, **now}, of, *around, heave)
            if left is None:
                break
            more += max(1, heave.more // 4)
        if left is not None:
            raise BadEdit(
                f"even with {counted(more, 'frame')} more it asks for {left.force:.0f} N, which is of no timing. "
                "Nothing was changed"
            )
        how = "more" if self.way == "longer" else "taken from the rest beside it"
        asked = f"it asked for {before:.0f} N, and now for no more than {self.strength:.0f}"
        said = f"{counted(more, 'frame')} {how}: {asked}"
        others = [scene.figure(number).name for number in group if number != of]
        along = (f"{', '.join(others)} went along",) if others else ()
        return now, (said, *along, *dict.fromkeys(notes))

    def _found(
        self, scene: Scene, clips: Mapping[int, Clip], of: int, first: int, last: int, known: Heave | None = None
    ) -> Heave | None:
        """The heave about the frame that the edit is of; or whichever is left where one was known."""
        cast = {n: figure.with_clip(clips[n]) for n, figure in scene.figures.items() if n in clips}
        frames = np.arange(first, last + 1)
        posed = played(cast, frames)
        for load in carried(cast, posed, first).get(of, []):
            for heave in heaves(load, first, scene.fps, scene.gravity, self.strength):
                if known is None and heave.first - 1 <= self.at <= heave.last + 1:
                    return heave
                if known is not None and load.of == known.of and heave.first <= last and heave.last >= known.first:
                    return heave
        return None

    def _group(self, scene: Scene, of: int, heave: Heave) -> list[int]:
        """All who have to go along in time: who carries, what, and who else carries that."""
        cast: dict[int, Figure] = {n: figure for n, figure in scene.figures.items() if figure.plays}
        frames = np.arange(heave.first, heave.last + 1)
        bear = {who: {load.of for load in loads if (load.kilograms > 0.0).any()}
                for who, loads in carried(cast, played(cast, frames), heave.first).items()}  # fmt: skip
        group = {of}
        while True:
            things = set().union(*(bear.get(who, set()) for who in group))
            more = group | things | {who for who, load in bear.items() if load & things}
            if more == group:
                return sorted(group, key=lambda number: (number != of, number))
            group = more

    def _warp(self, heave: Heave, more: int) -> Warp:
        """The warp that gives a move so many frames more."""
        first, last = heave.first, heave.last
        grid = np.arange(first, last + 1.0)
        ramp = max(min(_RAMP, (last - first) // 3), 1)
        given = np.ones(len(grid) - 1)
        middle = grid[:-1] + 0.5
        if not heave.before:  # it comes as fast as it did, and so it does not jump
            given *= np.clip((middle - first) / ramp, 0.0, 1.0)
        if not heave.after:
            given *= np.clip((last - middle) / ramp, 0.0, 1.0)
        later = np.concatenate([[0.0], np.cumsum(given)]) * (more / max(given.sum(), 1e-9))
        if self.way == "longer":
            return lambda at: at + np.interp(at, grid, later)
        rest = heave.before if heave.starts else heave.after
        if rest - _LEFT < more:
            side = "before it begins" if heave.starts else "after it stops"
            raise BadEdit(
                f"{counted(more, 'frame')} more are needed, and {side} it rests for {rest}; give it more time, or more "
                "frames of rest first. Nothing was changed"
            )
        if heave.starts:
            begin = float(first - rest)
            known = np.concatenate([[begin], grid])
            shifts = np.concatenate([[0.0], later - more])
        else:
            known = np.concatenate([grid, [float(last + rest)]])
            shifts = np.concatenate([later, [0.0]])

        def warp(at: Array) -> Array:
            return np.asarray(at + np.interp(at, known, shifts, 0.0, 0.0))

        return warp

    def moves_time(self) -> Reach | None:
        return (None, None)

    def label(self, rig: Rig, scene: Scene) -> str:
        return f"As heavy as it is at {self.at}, {self.way}"


def eased(heave: Heave, strength: float) -> list[tuple[AsHeavy, str]]:
    """The ways to move a thing as heavy as it is, each with what it takes in words; none where nothing helps."""
    if heave.more is None:
        return []
    more = counted(heave.more, "frame")
    found = [(AsHeavy(at=heave.worst, strength=strength), f"{more} more for its move")]
    rest = heave.before if heave.starts else heave.after
    if rest - _LEFT >= heave.more:
        sooner = replace(found[0][0], way="sooner")
        where = "begin it sooner, out of the rest before" if heave.starts else "let it come to rest later"
        found.append((sooner, f"{where}: {more}"))
    return found
