"""Contacts of a take: plants that its motion shows, and faults of contact with what mends them."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import asdict
from typing import Any

import numpy as np
from django.http import HttpRequest, HttpResponse
from ninja import Router, Schema

from hame.edits.reading import edit_to_json
from hame.errors import BadEdit
from hame.evaluate.posed import Posed
from hame.faults.contacts import Alert, alerts
from hame.measure.balance import balances
from hame.measure.bearing import borne_by
from hame.measure.found import HEIGHT, SHORTEST, SPEED, find_plants
from hame.measure.ground import Ground, ground_of
from hame.scene.gripped import limbs_planted
from hame.scene.joined import played, seen
from server.characters import store as characters
from server.shots import schemas
from server.shots.answers import kept
from server.shots.api_takes import figures_of, find_casting, find_take
from server.shots.balance import balance_out
from server.shots.models import Take
from server.shots.motion import MAX_FRAMES
from server.shots.pace import FRAMES, keep_pace
from server.shots.scenes import take_of
from server.shots.schemas import FrameNumber
from server.shots.store import castings_of
from server.working import by_size

router = Router(tags=["contacts"])


@router.get("/takes/{take_id}/contacts", response=list[schemas.AlertOut])
def contacts(request: HttpRequest, take_id: int, first: FrameNumber, last: FrameNumber) -> HttpResponse:
    """What slides, sinks, floats, reaches too far, snaps or bends the wrong way, of all who play."""
    take = find_take(request, take_id)
    playing = [casting.pk for casting in castings_of(take)]
    count = looked_at(first, last, len(playing))
    keep_pace(request.user, FRAMES, LOOK * count)
    return answered(count, contacts_in, take_id, first, last)


def contacts_in(take_id: int, first: int, last: int) -> bytes:
    """The faults of contact of all who play in a take."""
    take = take_of(take_id)
    playing = [casting.pk for casting in castings_of(take)]
    if not playing:
        return written([])

    def look() -> bytes:
        figures = figures_of(take, playing)
        posed = played(figures, np.arange(first, last + 1))
        ground = _ground(take, posed)
        found = [
            alert_out(number, alert)
            for number in playing
            for alert in alerts(figures[number].clip, posed[number], first, take.shot.fps, ground)
        ]
        return written(sorted(found, key=lambda alert: alert.first)[:MOST_ALERTS])

    return kept("contacts", take, (first, last), look)


MOST_ALERTS = 500


def _ground(take: Take, posed: Mapping[int, Posed]) -> Ground:
    """What there is to stand on: the tops of the props that play."""
    props = [c for c in take.shot.cast.select_related("version") if c.pk in posed and posed[c.pk].rig.plan.is_prop]
    return ground_of(posed, {casting.pk: characters.read(casting.version).skin for casting in props})


def alert_out(casting: int, alert: Alert) -> schemas.AlertOut:
    mend = None if alert.mend is None else edit_to_json(alert.mend)
    return schemas.AlertOut(casting=casting, **{**asdict(alert), "mend": mend})


LOOK = 12
"""What it costs to look at a frame of one of the cast for faults, beside playing it."""
MOST_LOOKED_AT = 12_000


def looked_at(first: int, last: int, figures: int) -> int:
    """How many frames are looked at, of all figures together; raises :class:`BadEdit` if that is too much at once."""
    count = counted_frames(first, last) * max(figures, 1)
    if count > MOST_LOOKED_AT:
        raise BadEdit(
            f"{figures} figures over {last - first + 1} frames are too much to look at in one go; look at a shorter "
            f"stretch ({MOST_LOOKED_AT // figures} frames). Nothing was changed"
        )
    return count


def answered(count: int, look: Callable[..., bytes], *told: Any) -> HttpResponse:
    """The answer of a look at so many frames of figures."""
    return HttpResponse(by_size(count, look, *told), content_type="application/json; charset=utf-8")


def written(found: Sequence[Schema]) -> bytes:
    """What was found as the JSON of the answer: written where it was found, since a long one takes a while."""
    return b"[" + b",".join(one.model_dump_json().encode() for one in found) + b"]"


def counted_frames(first: int, last: int) -> int:
    if not 0 <= last - first < MAX_FRAMES:
        raise BadEdit(f"between 1 and {MAX_FRAMES} frames can be looked at, the first before the last")
    return last - first + 1


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


@router.get("/takes/{take_id}/balance", response=list[schemas.BalanceOut])
def balance(request: HttpRequest, take_id: int, casting: int, first: FrameNumber, last: FrameNumber) -> HttpResponse:
    """How one of the cast stands, frame by frame; nothing for a prop."""
    take = find_take(request, take_id)
    find_casting(take, casting)
    playing = [c.pk for c in castings_of(take)]
    count = looked_at(first, last, len(playing))
    keep_pace(request.user, FRAMES, LOOK * count)
    return answered(count, balance_in, take_id, casting, first, last)


def balance_in(take_id: int, casting: int, first: int, last: int) -> bytes:
    """How one of the cast stands in a take, frame by frame."""
    take = take_of(take_id)
    playing = [c.pk for c in castings_of(take)]

    def look() -> bytes:
        figures = figures_of(take, [casting, *playing])
        posed = played(figures, np.arange(first, last + 1))
        found = balances(figures[casting].clip, posed[casting], first, _ground(take, posed))
        mine = posed[casting]
        return written([balance_out(mine.rig, mine.nodes[n], one) for n, one in enumerate(found)])

    return kept("balance", take, (casting, first, last), look)


@router.get("/takes/{take_id}/plants", response=list[schemas.FoundOut])
def found_plants(
    request: HttpRequest, take_id: int, casting: int, first: FrameNumber, last: FrameNumber, height: float = HEIGHT,
    speed: float = SPEED, shortest: int = SHORTEST,
) -> HttpResponse:  # fmt: skip
    """The plants that the motion of one of the cast shows, by how high and how fast a point of its soles may be."""
    take = find_take(request, take_id)
    find_casting(take, casting)
    playing = [casting.pk for casting in castings_of(take)]
    count = looked_at(first, last, len(playing))
    keep_pace(request.user, FRAMES, LOOK * count)
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
        found = find_plants(mine.rig, mine.nodes, first, take.shot.fps, height, speed, shortest, _ground(take, posed))
        return written([schemas.FoundOut(**asdict(plant)) for plant in found])

    return kept("plants", take, (casting, first, last, height, speed, shortest), look)
