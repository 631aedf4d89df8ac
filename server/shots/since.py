"""What has happened to a take since a step was made, and the step made again on the take as it is now.

A step knows what it was made on: a revision, and those own steps of its maker that were on their way then
(:class:`Basis`). What others have done since is not part of that. The step is stored on top of it only if it means
the same there.
"""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from hame.clip.clip import Clip, Patch, difference, patch_from_json
from hame.clip.spans import Reach
from hame.edits.making import Made
from hame.errors import BadEdit
from hame.scene.joined import bound_to, seen
from hame.scene.scene import Scene
from server.errors import Stale
from server.shots.models import Change, Difference, Take
from server.shots.scenes import Cast, asked_of

# How much may have happened since for a step to be made again on the head; beyond, the page catches up first.
MOST_MISSED_STEPS = 100
MOST_MISSED_KEYS = 40_000


@dataclass(frozen=True)
class Basis:
    """What a step was made on.

    Attributes
    ----------
    revision : what the page showed when it was made
    after : the names of the person's own steps that were on their way then, and are part of it
    shown : the revision that the page shows as it sends it, from which its answer is counted; None is the same
    read : the figure and frame of a pose that was read as a whole for it, as a pull does; None is no such pose
    """

    revision: int
    after: frozenset[str] = frozenset()
    shown: int | None = None
    read: tuple[int, int] | None = None

    @property
    def known(self) -> int:
        """The revision up to which the page knows the take."""
        return self.revision if self.shown is None else self.shown


@dataclass(frozen=True)
class Missed:
    """One thing that happened to a take: a step done or undone, without its differences.

    ``castings`` are those whose clips it changed, with how much each difference holds.
    """

    edit: int
    forward: bool
    castings: Mapping[int, int]
    label: str
    user: int | None
    by: str
    revision: int
    key: str | None = None
    moved_time: Reach | None = None
    of_all: bool = False
    """Whether it is about everybody, also those of whom nothing is keyed: the frame rate."""

    def belongs(self, basis: Basis, user: Any) -> bool:
        """Whether a step of ``user`` was made on it: it is one of their own that were on their way then."""
        return self.key is not None and self.key in basis.after and self.user == user.pk

    def moves(self, patch: Patch) -> bool:
        """Whether what a patch is about lies elsewhere by it."""
        if self.moved_time is None:
            return False
        first, last = self.moved_time
        low, high = -np.inf if first is None else first, np.inf if last is None else last
        return any(low <= frame <= high for frame in patch.frames())

    def told(self) -> dict[str, Any]:
        return {"label": self.label, "done": self.forward, "by": self.by, "revision": self.revision}


def missed(take: Take, revision: int, most: int = MOST_MISSED_STEPS) -> list[Missed]:
    """What happened after ``revision``, oldest first: one more than ``most`` at the most."""
    rows = list(
        Change.objects.filter(take=take, revision__gt=revision, revision__lte=take.revision)
        .order_by("revision", "id")
        .values_list(
            "edit_id", "forward", "edit__label", "edit__user_id", "user__first_name", "user__last_name",
            "user__username", "revision", "key", "edit__key", "user_id", "edit__moved_time",
            "edit__rate_id",
        )[: most + 1]
    )  # fmt: skip
    sizes: dict[int, dict[int, int]] = {}
    told = Difference.objects.filter(edit__in={row[0] for row in rows}).values_list("edit_id", "casting_id", "size")
    for edit, casting, size in told if rows else ():
        sizes.setdefault(edit, {})[casting] = size
    return [
        Missed(
            edit, forward, sizes.get(edit, {}), label, by if key else user,
            f"{first or ''} {last or ''}".strip() or name or "", at, key or (edit_key if forward else None),
            None if moved is None else (moved[0], moved[1]), rate is not None,
        )
        for edit, forward, label, user, first, last, name, at, key, edit_key, by, moved, rate in rows
    ]  # fmt: skip


def much(happened: Sequence[Missed]) -> bool:
    """Whether it is more than is worth reading step by step."""
    return len(happened) > MOST_MISSED_STEPS or sum(sum(m.castings.values()) for m in happened) > MOST_MISSED_KEYS


def patches_of(happened: Iterable[Missed]) -> list[dict[int, Patch]]:
    """By casting, the patches of what happened, in its order, each the way it went."""
    listed = list(happened)
    read = patches_by_step({m.edit for m in listed})
    return [read[m.edit] if m.forward else reversed_by_figure(read[m.edit]) for m in listed]


def patches_by_step(edits: Collection[int]) -> dict[int, dict[int, Patch]]:
    """By step and casting, what the steps changed."""
    found: dict[int, dict[int, Patch]] = {edit: {} for edit in edits}
    stored = Difference.objects.filter(edit__in=edits).values_list("edit_id", "casting_id", "patch")
    for edit, casting, patch in stored:
        found[edit][casting] = patch_from_json(patch)
    return found


def reversed_by_figure(patches: Mapping[int, Patch]) -> dict[int, Patch]:
    """By figure, the patches that take others back."""
    return {casting: patch.reversed() for casting, patch in patches.items()}


def rebased(take: Take, cast: Cast, now: Scene, basis: Basis, user: Any, make: Callable[[Scene], Made]) -> Made:
    """The edit made on the scene as it is now, if it does there what it did on what it was made on.

    An edit is a pure function of the scene: where it makes the same difference on both, nothing that it read or
    wrote was touched in between. Frames that it is about have to be the same ones still, and so has a pose that was
    read for it.

    Raises
    ------
    Stale
        If it has to do with what others have done since; nothing was stored.
    BadEdit
        If it cannot be made.
    """
    happened = missed(take, basis.revision)
    others = [m for m in happened if not m.belongs(basis, user)]
    refused: BadEdit | None = None
    made: Made | None = None
    try:
        made = make(now)
    except BadEdit as error:
        refused = error
    asked = asked_of(now) | (set(bound_to(now.figures, basis.read[0])) if basis.read and others else set())
    mine = [m for m in others if m.castings.keys() & asked or m.of_all]
    if not mine and len(happened) <= MOST_MISSED_STEPS:
        if made is None:
            raise refused or BadEdit("the edit cannot be made")
        return made
    if much(happened):
        raise Stale(take.revision, [m.told() for m in others[-20:]], [])
    patches = patches_of(happened)
    kept = [patch for m, patch in zip(happened, patches, strict=True) if m.belongs(basis, user)]

    def clip_then(casting: int) -> Clip:
        clip = now.figure(casting).clip
        for patch in reversed([p[casting] for p in patches if casting in p]):
            clip = patch.reversed().apply(clip)
        for patch in (p[casting] for p in kept if casting in p):
            clip = patch.apply(clip)
        return clip

    then = cast.scene(clip_then)
    wished = differences(then, make(then))
    same = made is not None and _the_same(differences(now, made), wished)
    moved = [
        m for m in mine if any(m.moves(patch) for casting, patch in wished.items() if casting in m.castings or m.of_all)
    ]
    if made is not None and same and not moved and _as_read(then, now, basis.read):
        return made
    clash = [
        m.told()
        for m, was in zip(happened, patches, strict=True)
        if m in others
        and (m in moved or any(casting in was and was[casting].touches(patch) for casting, patch in wished.items()))
    ]
    raise Stale(take.revision, [m.told() for m in others], clash or [m.told() for m in mine])


def differences(scene: Scene, made: Made) -> dict[int, Patch]:
    """By figure, how the clips that an edit made differ from those of the scene."""
    found = {casting: difference(scene.figure(casting).clip, clip) for casting, clip in made.clips.items()}
    return {casting: patch for casting, patch in found.items() if patch}


def _the_same(a: Mapping[int, Patch], b: Mapping[int, Patch]) -> bool:
    return a.keys() == b.keys() and all(patch.says_the_same(b[casting]) for casting, patch in a.items())


def _as_read(then: Scene, now: Scene, read: tuple[int, int] | None) -> bool:
    """Whether a pose that was read for a step is still what it was."""
    if read is None:
        return True
    of, frame = read
    was, is_now = (seen(bound_to(scene.figures, of), frame)[of].values for scene in (then, now))
    return bool(np.allclose(was, is_now, rtol=0.0, atol=1e-9))
