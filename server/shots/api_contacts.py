"""Contacts of a take: what bears whom, how a body stands, and the plants that its motion shows."""

from __future__ import annotations

from dataclasses import asdict

import numpy as np
from django.http import HttpRequest, HttpResponse
from ninja import Router

from hame.clip.answers import unanswered
from hame.errors import BadEdit
from hame.faults.look import Look
from hame.measure.bearing import borne_by
from hame.measure.found import HEIGHT, SHORTEST, SPEED, find_plants
from hame.measure.happenings import happenings as found_happenings
from hame.scene.carried import carried
from hame.scene.gripped import limbs_planted
from hame.scene.joined import played, seen
from server.shots import schemas
from server.shots.answers import kept
from server.shots.api_takes import figures_of, find_casting, find_take
from server.shots.balance import balance_out, flight_out, happening_out, moving_out
from server.shots.looking import LOOK, answered, ground_in, looked_at, written
from server.shots.models import Take
from server.shots.pace import FRAMES, keep_pace
from server.shots.scenes import take_of
from server.shots.schemas import FrameNumber
from server.shots.store import castings_of

router = Router(tags=["contacts"])


@router.get("/takes/{take_id}/bearing", response=list[schemas.BorneOut])
def bearing(request: HttpRequest, take_id: int, casting: int, frame: FrameNumber) -> list[schemas.BorneOut]:
    """How much of the weight of one of the cast each of its planted limbs bears at a frame."""
    take = find_take(request, take_id)
    find_casting(take, casting)
    keep_pace(request.user, FRAMES)
    figures = figures_of(take, [casting])
    posed = seen(figures, frame)[casting]
    rig = posed.rig
    planted = limbs_planted(rig, figures[casting].clip, frame)
    if rig.plan.is_prop or not planted:
        return []
    shares = borne_by(rig, posed.nodes[0], planted)
    return [schemas.BorneOut(control=control, share=share) for control, share in shares.items()]


def _counted(request: HttpRequest, take_id: int, casting: int, first: int, last: int) -> int:
    """How many frames of all who play it takes to look at one of them, where the person may and is not too quick."""
    take = find_take(request, take_id)
    find_casting(take, casting)
    count = looked_at(first, last, len([*castings_of(take)]))
    keep_pace(request.user, FRAMES, LOOK * count)
    return count


@router.get("/takes/{take_id}/balance", response=list[schemas.BalanceOut])
def balance(request: HttpRequest, take_id: int, casting: int, first: FrameNumber, last: FrameNumber) -> HttpResponse:
    """How one of the cast stands, frame by frame; nothing for a prop."""
    count = _counted(request, take_id, casting, first, last)
    return answered(count, balance_in, take_id, casting, first, last)


def balance_in(take_id: int, casting: int, first: int, last: int) -> bytes:
    """How one of the cast stands and moves in a take, frame by frame."""
    take = take_of(take_id)
    playing = [c.pk for c in castings_of(take)]

    def look() -> bytes:
        # A frame more on both sides: speeds are those between the frames beside.
        look = _look(take, casting, playing, first - 1, last + 1)
        rows = zip(look.posed.nodes, look.stands, moving_out(look), strict=True) if look.stands else ()
        return written([balance_out(look.rig, *row) for row in rows][1:-1])

    return kept("balance", take, (casting, first, last), look)


def _look(take: Take, casting: int, playing: list[int], first: int, last: int, bare: bool = False) -> Look:
    """Frames of one of the cast with what it carries, among all who play; ``bare`` of the answers that are laid."""
    figures = figures_of(take, [casting, *playing])
    if bare:
        figures = {**figures, casting: figures[casting].with_clip(unanswered(figures[casting].clip))}
    posed = played(figures, np.arange(first, last + 1))
    loads = carried(figures, posed, first).get(casting, [])
    return Look(
        figures[casting].clip,
        posed[casting],
        first,
        take.shot.fps,
        ground_in(take, posed),
        loads=loads,
        gravity=take.shot.gravity,
    )


@router.get("/takes/{take_id}/flights", response=list[schemas.FlightOut])
def flights(request: HttpRequest, take_id: int, casting: int, first: FrameNumber, last: FrameNumber) -> HttpResponse:
    """The flights of one of the cast that are whole on some frames; none of a prop."""
    count = _counted(request, take_id, casting, first, last)
    return answered(count, flights_in, take_id, casting, first, last)


def flights_in(take_id: int, casting: int, first: int, last: int) -> bytes:
    """The flights of one of the cast in a take."""
    take = take_of(take_id)
    playing = [c.pk for c in castings_of(take)]

    def look() -> bytes:
        # A frame more on both sides: speeds beside are those to the frames beside.
        look = _look(take, casting, playing, first - 1, last + 1)
        return written([flight_out(look, one) for one in look.flights if first <= one.release and one.landing <= last])

    return kept("flights", take, (casting, first, last), look)


@router.get("/takes/{take_id}/happenings", response=list[schemas.HappeningOut])
def happenings(request: HttpRequest, take_id: int, casting: int, first: FrameNumber, last: FrameNumber) -> HttpResponse:
    """What happens to one of the cast on some frames, which it can answer; nothing to a prop."""
    count = _counted(request, take_id, casting, first, last)
    return answered(count, happenings_in, take_id, casting, first, last)


def happenings_in(take_id: int, casting: int, first: int, last: int) -> bytes:
    """What happens to one of the cast in a take."""
    take = take_of(take_id)
    playing = [c.pk for c in castings_of(take)]

    def look() -> bytes:
        look = _look(take, casting, playing, first, last, bare=True)
        if not look.stands:
            return written([])
        found = found_happenings(look.rig, look.posed.nodes, look.stands, look.flights, look.loads, first, look.fps)
        return written([happening_out(one, look.fps) for one in found])

    return kept("happenings", take, (casting, first, last), look)


@router.get("/takes/{take_id}/plants", response=list[schemas.FoundOut])
def found_plants(
    request: HttpRequest, take_id: int, casting: int, first: FrameNumber, last: FrameNumber, height: float = HEIGHT,
    speed: float = SPEED, shortest: int = SHORTEST,
) -> HttpResponse:  # fmt: skip
    """The plants that the motion of one of the cast shows, by how high and how fast a point of its soles may be."""
    count = _counted(request, take_id, casting, first, last)
    if not (0.0 <= height <= 10.0 and 0.0 <= speed <= 100.0 and 1 <= shortest <= 1000):
        raise BadEdit("plants are found by a height of 0 to 10 m, a speed of 0 to 100 m/s and 1 to 1000 frames")

    return answered(count, plants_in, take_id, casting, first, last, height, speed, shortest)


def plants_in(take_id: int, casting: int, first: int, last: int, height: float, speed: float, shortest: int) -> bytes:
    """The plants that the motion of one of the cast shows in a take."""
    take = take_of(take_id)
    playing = [c.pk for c in castings_of(take)]

    def look() -> bytes:
        posed = played(figures_of(take, [casting, *playing]), np.arange(first, last + 1))
        mine = posed[casting]
        found = find_plants(mine.rig, mine.nodes, first, take.shot.fps, height, speed, shortest, ground_in(take, posed))
        return written([schemas.FoundOut(**asdict(plant)) for plant in found])

    return kept("plants", take, (casting, first, last, height, speed, shortest), look)
