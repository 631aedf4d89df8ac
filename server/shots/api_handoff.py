"""Motions handed off as files."""

from __future__ import annotations

import re

import numpy as np
from django.http import HttpRequest, HttpResponse
from ninja import Query, Router

from hame.errors import BadEdit
from hame.evaluate.evaluate import joints
from hame.formats.gltf_write import Handed
from hame.formats.kinds import writer_for
from hame.maths.rotations import Array
from hame.scene.joined import played
from server.characters import store as characters
from server.shots.api_takes import figures_of, find_casting, find_take
from server.shots.motion import MAX_FRAMES
from server.shots.pace import HAND_OFF, keep_pace
from server.shots.scenes import take_of
from server.shots.schemas import FrameNumber
from server.working import by_size

router = Router(tags=["hand-off"])
MOST_HANDED = 40_000
"""Poses in one file, of all figures together: some 200 MB while it is written."""
_AT_ONCE = 500  # frames: of a pose far more is worked out than goes into the file


def handed_off(take_id: int, castings: list[int], first: int, last: int, suffix: str) -> bytes:
    """A file of some who play in a take, sampled at every frame from ``first`` to ``last``."""
    take = take_of(take_id)
    wanted = [find_casting(take, number) for number in castings]
    figures = figures_of(take, castings)
    parts: dict[int, list[Array]] = {number: [] for number in castings}
    for start in range(first, last + 1, _AT_ONCE):
        posed = played(figures, range(start, min(start + _AT_ONCE, last + 1)))
        for number, mine in parts.items():
            mine.append(joints(posed[number].rig, posed[number].nodes))
    handed = [
        Handed(cast.name, figures[cast.pk].rig.skeleton, characters.read(cast.version).skin,
               np.concatenate(parts[cast.pk]))
        for cast in wanted
    ]  # fmt: skip
    return writer_for("motions", suffix).write(handed, take.shot.fps, take.name)


@router.get("/takes/{take_id}/handoff.{suffix}", include_in_schema=False)
def hand_off(
    request: HttpRequest, take_id: int, suffix: str, casting: Query[list[int]], first: FrameNumber, last: FrameNumber
) -> HttpResponse:
    """Some of the cast with their motions, sampled at every frame from ``first`` to ``last``, as one file."""
    writer = writer_for("motions", suffix)
    found = find_take(request, take_id)
    wanted = [find_casting(found, number) for number in dict.fromkeys(casting)]
    if not wanted:
        raise BadEdit("nobody is chosen to be handed off")
    keep_pace(request.user, HAND_OFF)
    if not 0 <= last - first < MAX_FRAMES:
        raise BadEdit(f"the hand-off needs between 1 and {MAX_FRAMES} frames, the first before the last")
    poses = (last - first + 1) * len(wanted)
    if poses > MOST_HANDED:
        raise BadEdit(
            f"{len(wanted)} figures over {last - first + 1} frames are too much for one file; hand off fewer of them, "
            f"or a shorter stretch ({MOST_HANDED // len(wanted)} frames)"
        )
    told = (take_id, [cast.pk for cast in wanted], first, last, suffix)
    body = by_size(poses, handed_off, *told)
    response = HttpResponse(body, content_type=writer.media)
    who = wanted[0].name if len(wanted) == 1 else "all"
    name = re.sub(r"[^\w.-]+", "-", f"{found.shot.name}-{found.name}-{who}").strip("-").lower() or "take"
    response["Content-Disposition"] = f'attachment; filename="{name}.{suffix.lower()}"'
    return response
