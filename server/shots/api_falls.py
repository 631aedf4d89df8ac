"""Falls worked out to be seen before they are taken: as jobs, whose progress is told and which can be ended."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import numpy as np
from django.http import HttpRequest
from ninja import Router, Schema

from hame.edits.edit import check
from hame.edits.limp import GoLimp, fallen
from hame.limp.fall import Fallen
from hame.scene.joined import all_bound_to, played
from server.jobs.api import JobOut, job_out
from server.jobs.kinds import Asked, Progress, Result, job
from server.jobs.store import ask_for
from server.productions.access import need
from server.productions.models import Role
from server.shots import store
from server.shots.api_takes import find_casting, find_take
from server.shots.motion import packed
from server.shots.pace import FALLS, keep_pace
from server.shots.scenes import cast_of, take_of
from server.shots.schemas import FrameNumber

router = Router(tags=["falls"])
AFTER = 480  # frames that are told of what comes after a fall


class FallIn(Schema):
    """Who falls, from which frame on, for how long, and with how much muscle (see :class:`hame.edits.limp.GoLimp`)."""

    casting: int
    at: FrameNumber
    frames: int = 48
    trunk: float = 0.0
    head: float = 0.0
    arms: float = 0.0
    legs: float = 0.0

    @property
    def edit(self) -> GoLimp:
        return GoLimp(
            at=self.at, frames=self.frames, trunk=self.trunk, head=self.head, arms=self.arms, legs=self.legs
        )  # fmt: skip


@router.post("/takes/{take_id}/falls", response=JobOut)
def ask_for_fall(request: HttpRequest, take_id: int, given: FallIn) -> JobOut:
    """Has it worked out how one of the cast falls, as a job whose file is the motion of all whom that moves.

    Nothing is changed by it: the edit ``go limp`` takes the same fall.
    """
    take = find_take(request, take_id)
    casting = find_casting(take, given.casting)
    keep_pace(request.user, FALLS)
    check(given.edit)
    title = f"{casting.name} falls from {given.at}"
    return job_out(ask_for(request.user, "fall", title, {"take": take.pk, "given": given.dict()}))


@job("fall")
def fall_away(asked: Asked, progress: Progress) -> Result:
    """A fall, and how it would play once it is taken; who asks has to be in the production still as it is done."""
    given = FallIn(**asked.told["given"])
    take = take_of(asked.told["take"])
    need(asked.maker, take.shot.production_id, Role.GUEST)
    casting = find_casting(take, given.casting)
    scene = replace(cast_of(take.shot).scene(lambda number: store.open_clip(take, number)), of=casting.pk)
    edit = given.edit
    edit.check(scene, casting.pk)
    fell: list[Fallen] = []
    for one in fallen(edit, scene, casting.pk):
        progress(0.8 * len(fell) / edit.frames, f"frame {edit.at + len(fell)} of {edit.at + edit.frames}")
        fell.append(one)
    progress(0.8, "into keys")
    clips, notes = edit.taken(scene, casting.pk, fell)
    figures: dict[int, Any] = {n: figure for n, figure in scene.figures.items() if figure.plays}
    figures |= {n: figures[n].with_clip(clip) for n, clip in clips.items()}
    first, last = max(take.shot.start, edit.at - 1), min(edit.at + edit.frames + AFTER, take.shot.end)
    posed = played(all_bound_to(figures, clips), np.arange(first, last + 1))
    data = packed({n: posed[n] for n in clips}, take.revision, first, last - first + 1)
    return Result(data, "fall.motion", outcome={"notes": list(notes), "first": first, "last": last})
