"""Looking at many frames of those who play: how much of it one may ask for, and how it is answered."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from typing import Any

from django.http import HttpResponse
from ninja import Schema

from hame.errors import BadEdit
from hame.evaluate.posed import Posed
from hame.measure.ground import Ground, ground_of
from server.characters import store as characters
from server.shots.models import Take
from server.shots.motion import MAX_FRAMES
from server.working import by_size

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


def ground_in(take: Take, posed: Mapping[int, Posed]) -> Ground:
    """What there is to stand on: the tops of the props that play."""
    props = [c for c in take.shot.cast.select_related("version") if c.pk in posed and posed[c.pk].rig.plan.is_prop]
    return ground_of(posed, {casting.pk: characters.read(casting.version).skin for casting in props})
