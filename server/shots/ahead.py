"""Edits that work out much of a long motion: made ahead, without the take's lock and in a process of its own."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass

from hame.clip.answers import Answering
from hame.clip.clip import Clip, Patch, difference
from hame.edits.edit import Edit
from hame.edits.making import Made, made
from hame.edits.together import Together
from server.shots import clips
from server.shots.models import Take
from server.shots.scenes import cast_of, take_of
from server.working import away

MUCH = 200_000
"""Values, frames by curves: of so many and more an edit that is dear is made ahead."""
MANY = 40
"""Answers that go along with what they answer: of so many and more what moves time is made ahead."""


@dataclass(frozen=True)
class Ahead:
    """What an edit was found to do to a take at a revision: patches by casting, and what there is to tell."""

    revision: int
    patches: Mapping[int, Patch]
    notes: tuple[str, ...]

    def on(self, clip_of: Callable[[int], Clip]) -> Made:
        """It done to the clips, which have to be those of its revision."""
        return Made({casting: patch.apply(clip_of(casting)) for casting, patch in self.patches.items()}, self.notes)


def may_take_long(edit: Edit) -> bool:
    """Whether there are motions on which it is made ahead."""
    return edit.takes_long() or edit.moves_time() is not None


def ahead_of(take: Take, casting: int, edit: Edit, revision: int) -> Ahead | None:
    """What an edit does to a take at a revision; None where it is made with the take locked, as most are.

    Raises
    ------
    BadEdit
        If it cannot be made, or was ended because it took too long.
    """
    if take.revision != revision or not may_take_long(edit):
        return None
    concerned = {part.casting for part in edit.parts} if isinstance(edit, Together) else {casting}
    playing = concerned & set(cast_of(take.shot).castings)
    opened = [clips.open_clip(take, number) for number in playing]
    much = edit.takes_long() and (edit.goes_away() or sum(map(_size, opened)) >= MUCH)
    if not much and (edit.moves_time() is None or sum(map(_following, opened)) < MANY):
        return None
    return away(made_ahead, take.pk, casting, edit)


def _size(clip: Clip) -> int:
    frames = clip.key_frames()
    return max((frames[-1] - frames[0] + 1) * len(clip.curves), 10 * clip.key_count()) if frames else 0


def _following(clip: Clip) -> int:
    spans = (span for track in clip.tracks.values() if isinstance(track[0], Answering) for span in track)
    return sum(1 for span in spans if isinstance(span, Answering) and span.of)


def made_ahead(take_id: int, casting: int, edit: Edit) -> Ahead:
    """What an edit does to a take as it is stored now."""
    take = take_of(take_id)
    cast = cast_of(take.shot)
    opened = clips.open_clips(take, list(cast.castings))
    done = made(edit, cast.scene(opened.__getitem__), casting)
    return Ahead(
        take.revision, {number: difference(opened[number], clip) for number, clip in done.clips.items()}, done.notes
    )
