"""Motions handed off as files."""

from __future__ import annotations

import re

import numpy as np
from django.http import HttpRequest, HttpResponse
from ninja import Field, Query, Router, Schema

from hame.errors import BadEdit
from hame.evaluate.evaluate import joints
from hame.formats.gltf_write import Handed
from hame.formats.kinds import writer_for
from hame.maths.rotations import Array
from hame.scene.joined import played
from server.characters import store as characters
from server.jobs.api import JobOut, job_out
from server.jobs.kinds import Asked, Progress, Result, job
from server.jobs.store import ask_for
from server.productions.access import need
from server.productions.models import Role
from server.shots.api_takes import figures_of, find_casting, find_take
from server.shots.models import Casting, Take
from server.shots.motion import MAX_FRAMES
from server.shots.pace import HAND_OFF, keep_pace
from server.shots.scenes import take_of
from server.shots.schemas import FrameNumber
from server.working import by_size

router = Router(tags=["hand-off"])
MOST_HANDED = 40_000
"""Poses in one file, of all figures together: some 200 MB while it is written."""
_AT_ONCE = 200  # frames: of a pose far more is worked out than goes into the file


def handed_off(
    take_id: int, castings: list[int], first: int, last: int, suffix: str, progress: Progress = lambda *told: None
) -> bytes:
    """A file of some who play in a take, sampled at every frame from ``first`` to ``last``."""
    take = take_of(take_id)
    wanted = [find_casting(take, number) for number in castings]
    figures = figures_of(take, castings)
    parts: dict[int, list[Array]] = {number: [] for number in castings}
    amounts: dict[int, list[Array]] = {number: [] for number in castings}
    for start in range(first, last + 1, _AT_ONCE):
        progress(0.8 * (start - first) / (last - first + 1), f"frame {start} of {last}")
        posed = played(figures, range(start, min(start + _AT_ONCE, last + 1)))
        for number, mine in parts.items():
            one = posed[number]
            mine.append(joints(one.rig, one.nodes))
            amounts[number].append(one.values[:, one.rig.shape_channels])
    handed = [
        Handed(cast.name, figures[cast.pk].rig.skeleton, characters.read(cast.version).skin,
               np.concatenate(parts[cast.pk]), np.concatenate(amounts[cast.pk]))
        for cast in wanted
    ]  # fmt: skip
    progress(0.8, "writing the file")
    return writer_for("motions", suffix).write(handed, take.shot.fps, take.name)


@job("hand-off")
def hand_off_away(asked: Asked, progress: Progress) -> Result:
    """The same as a job; who asks has to be in the production still as it is done."""
    given = HandOffIn(**asked.told["given"])
    take = take_of(asked.told["take"])
    need(asked.maker, take.shot.production_id, Role.GUEST)
    wanted = _wanted(take, given.casting, given.first, given.last)
    told = (take.pk, [cast.pk for cast in wanted], given.first, given.last, given.suffix)
    data = handed_off(*told, progress)
    return Result(data, _name(take, wanted, given.suffix), writer_for("motions", given.suffix).media)


class HandOffIn(Schema):
    """Who is handed off, over which frames, in which format."""

    casting: list[int]
    first: FrameNumber
    last: FrameNumber
    suffix: str = Field("glb", max_length=20)


@router.post("/takes/{take_id}/handoffs", response=JobOut)
def ask_for_hand_off(request: HttpRequest, take_id: int, given: HandOffIn) -> JobOut:
    """Has a file made of some of the cast with their motions, as a job: for long takes, which need some time."""
    found = find_take(request, take_id)
    writer_for("motions", given.suffix)
    wanted = _wanted(found, given.casting, given.first, given.last)
    keep_pace(request.user, HAND_OFF)
    title = f"{_name(found, wanted, given.suffix)}, frames {given.first} to {given.last}"
    return job_out(ask_for(request.user, "hand-off", title, {"take": found.pk, "given": given.dict()}))


@router.get("/takes/{take_id}/handoff.{suffix}", include_in_schema=False)
def hand_off(
    request: HttpRequest, take_id: int, suffix: str, casting: Query[list[int]], first: FrameNumber, last: FrameNumber
) -> HttpResponse:
    """Some of the cast with their motions, sampled at every frame from ``first`` to ``last``, as one file."""
    writer = writer_for("motions", suffix)
    found = find_take(request, take_id)
    wanted = _wanted(found, casting, first, last)
    keep_pace(request.user, HAND_OFF)
    poses = (last - first + 1) * len(wanted)
    told = (take_id, [cast.pk for cast in wanted], first, last, suffix)
    body = by_size(poses, handed_off, *told)
    response = HttpResponse(body, content_type=writer.media)
    response["Content-Disposition"] = f'attachment; filename="{_name(found, wanted, suffix)}"'
    return response


def _wanted(take: Take, castings: list[int], first: int, last: int) -> list[Casting]:
    """Who is handed off; raises BadEdit where that is nobody, or too much for one file."""
    wanted = [find_casting(take, number) for number in dict.fromkeys(castings)]
    if not wanted:
        raise BadEdit("nobody is chosen to be handed off")
    if not 0 <= last - first < MAX_FRAMES:
        raise BadEdit(f"the hand-off needs between 1 and {MAX_FRAMES} frames, the first before the last")
    if (last - first + 1) * len(wanted) > MOST_HANDED:
        raise BadEdit(
            f"{len(wanted)} figures over {last - first + 1} frames are too much for one file; hand off fewer of them, "
            f"or a shorter stretch ({MOST_HANDED // len(wanted)} frames)"
        )
    return wanted


def _name(take: Take, wanted: list[Casting], suffix: str) -> str:
    """What the file is called."""
    who = wanted[0].name if len(wanted) == 1 else "all"
    name = re.sub(r"[^\w.-]+", "-", f"{take.shot.name}-{take.name}-{who}").strip("-").lower() or "take"
    return f"{name}.{suffix.lower()}"
