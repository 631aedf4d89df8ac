"""Whether somebody stays in the picture of a shot camera, and where that would have to stand."""

from __future__ import annotations

import numpy as np
from django.http import HttpRequest
from ninja import Router, Schema

from hame.character.camera import CAMERA, HIGH, LENS, WIDE, is_camera
from hame.errors import BadEdit
from hame.evaluate.posed import Posed
from hame.measure.framing import Filmed, inside, stood_back
from hame.scene.joined import played
from server.shots.api_takes import figures_of, find_casting, find_take
from server.shots.looking import looked_at
from server.shots.pace import FRAMES, keep_pace
from server.shots.schemas import FrameNumber

router = Router(tags=["framing"])

ABOUT = 0.56
"""Of the size of a figure: within so much of its body's control all of it stands."""
STILL = 1e-6


class FramingOut(Schema):
    """``place``: where a camera that stands still would have all in its picture, with the turn it has; none for one
    that moves.
    """

    inside: bool
    place: list[float] | None


@router.get("/takes/{take_id}/framing", response=FramingOut)
def framing(
    request: HttpRequest, take_id: int, camera: int, casting: int, first: FrameNumber, last: FrameNumber
) -> FramingOut:
    """Whether one of the cast is in the picture of a camera from a frame to another, as both play."""
    take = find_take(request, take_id)
    keep_pace(request.user, FRAMES, looked_at(first, last, 2))
    for number in (camera, casting):
        find_casting(take, number)
    figures = figures_of(take, [camera, casting])
    if not is_camera(figures[camera].rig):
        raise BadEdit("there is no such camera in this shot")
    posed = played(figures, np.arange(first, last + 1))
    filmed, middles = _filmed_by(posed[camera]), _middles(posed[casting])
    radius = ABOUT * figures[casting].rig.size
    if inside(filmed, middles, radius):
        return FramingOut(inside=True, place=None)
    if np.ptp(filmed.spots, axis=0).max() > STILL:
        return FramingOut(inside=False, place=None)
    place = [*stood_back(filmed, middles, radius), *filmed.spots[0, 3:7]]
    return FramingOut(inside=False, place=[float(number) for number in place])


def _filmed_by(camera: Posed) -> Filmed:
    def values(*names: str) -> list[int]:
        return [camera.rig.number(f"{CAMERA}/{name}") for name in names]

    lens, gate = values(LENS), values(WIDE, HIGH)
    spots = camera.nodes[:, camera.rig.control(CAMERA).node, :7]
    return Filmed(spots, camera.values[:, lens[0]], camera.values[:, gate])


def _middles(posed: Posed) -> np.ndarray:
    """Where the body of a figure is (F, 3), or what a thing is moved by."""
    controls = posed.rig.controls
    body = next((control for control in controls if control.kind == "body"), controls[0])
    return np.asarray(posed.nodes[:, body.node, :3])
