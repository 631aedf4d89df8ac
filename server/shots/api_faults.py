"""Faults of a take: one way to ask for them, by group, whatever kinds of fault there are."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import asdict, replace

import numpy as np
from django.http import HttpRequest, HttpResponse
from ninja import Query, Router

from hame.character.camera import CAMERA, is_camera
from hame.edits.reading import edit_to_json
from hame.errors import BadEdit
from hame.evaluate.posed import Posed
from hame.faults.kinds import Alert, Group, faults_in
from hame.faults.limits import Limits
from hame.faults.look import Finer, Look
from hame.maths.rotations import Array
from hame.scene.carried import carried
from hame.scene.joined import played
from hame.scene.scene import Figure
from server.shots import schemas
from server.shots.answers import kept
from server.shots.api_takes import figures_of, find_take
from server.shots.looking import LOOK, answered, ground_in, looked_at, written
from server.shots.pace import FRAMES, keep_pace
from server.shots.scenes import take_of
from server.shots.schemas import FrameNumber
from server.shots.store import castings_of

router = Router(tags=["faults"])
MOST_ALERTS = 500


@router.get("/takes/{take_id}/faults", response=list[schemas.AlertOut])
def faults(
    request: HttpRequest,
    take_id: int,
    group: Group,
    first: FrameNumber,
    last: FrameNumber,
    limits: Query[schemas.LimitsIn],
    camera: int | None = None,
) -> HttpResponse:
    """The faults of a group, of all who play; of paths in the world, or in the picture of a camera of the cast; of
    contacts and of weight beyond some limits.
    """
    take = find_take(request, take_id)
    playing = [casting.pk for casting in castings_of(take)]
    count = looked_at(first, last, len(playing))
    keep_pace(request.user, FRAMES, LOOK * count)
    asked = Limits() if group == "paths" else Limits(**limits.model_dump())
    return answered(count, look_for, take_id, group, first, last, camera, asked)


def look_for(take_id: int, group: Group, first: int, last: int, camera: int | None, limits: Limits) -> bytes:
    """The faults of a group in a take, as they are answered."""
    take = take_of(take_id)
    playing = [casting.pk for casting in castings_of(take)]
    if not playing:
        return written([])

    def look() -> bytes:
        figures = figures_of(take, playing)
        posed = played(figures, np.arange(first, last + 1))
        if camera is not None and (camera not in posed or not is_camera(posed[camera].rig)):
            raise BadEdit("there is no such camera in this shot")
        ground, view = ground_in(take, posed), _seen_by(camera, posed)
        loads = {} if group == "paths" else carried(figures, posed, first)
        found = [
            _out(number, alert)
            for number in playing
            for alert in faults_in(group, Look(
                figures[number].clip, posed[number], first, take.shot.fps, ground, view,
                _finer(figures, number, camera), loads.get(number, ()), limits, take.shot.gravity,
            ))
        ]  # fmt: skip
        return written(sorted(found, key=lambda alert: alert.first)[:MOST_ALERTS])

    return kept("faults", take, (group, first, last, camera, limits), look)


def _seen_by(camera: int | None, posed: Mapping[int, Posed]) -> Array | None:
    """Where a camera is in each frame (F, 7); None for the world."""
    if camera is None:
        return None
    return posed[camera].nodes[:, posed[camera].rig.control(CAMERA).node, :7]


def _finer(figures: Mapping[int, Figure], number: int, camera: int | None) -> Finer:
    """One of the figures at any times, with the camera in whose picture it is."""

    def finer(times: Array) -> tuple[Array, Array | None]:
        order = np.argsort(times, kind="stable")
        back = np.argsort(order)
        posed = played(figures, times[order])
        view = _seen_by(camera, posed)
        return posed[number].nodes[back], None if view is None else view[back]

    return finer


def _out(casting: int, alert: Alert) -> schemas.AlertOut:
    mend = None if alert.mend is None else edit_to_json(alert.mend)
    others = [{"edit": edit_to_json(edit), "says": says} for edit, says in alert.others]
    return schemas.AlertOut(casting=casting, **{**asdict(replace(alert, others=())), "mend": mend, "others": others})
