"""Frames that a step changed, in one answer with what it did to curves.

Layout, little-endian: how many bytes of JSON follow (uint32), the :class:`server.shots.schemas.StepDone`, and then for
each stretch of frames how many bytes it has (uint32) and these, as :mod:`server.shots.motion` packs them. JSON is
filled up with spaces, so that all begins on a multiple of four bytes.
"""

from __future__ import annotations

import logging
import struct
from collections.abc import Iterable, Mapping

from django.http import HttpResponse

from hame.clip.spans import Reach
from hame.errors import HameError
from hame.scene.joined import all_bound_to
from hame.scene.scene import Figure
from server.shots.models import Shot
from server.shots.motion import packed_motion

MOST_ALONG = 64
"""Frames of all figures together: of a longer change the frame that is looked at comes along, and the rest is asked
for."""

_log = logging.getLogger("hame.along")


def frames_along(
    figures: Mapping[int, Figure], moved: Mapping[int, Iterable[Reach]], revision: int, shot: Shot, looked: int
) -> list[bytes]:
    """Packed frames of those who move by a step, inside of the shot's range; ``figures`` are all who play.

    Empty where they cannot be worked out: the step is stored by now, and the page asks for them.
    """
    stretches: dict[tuple[int, int], list[int]] = {}
    for casting, ranges in moved.items():
        for start, end in ranges:
            first, last = (
                max(shot.start, shot.start if start is None else start),
                min(shot.end, shot.end if end is None else end),
            )
            if casting in figures and first <= last:
                stretches.setdefault((first, last), []).append(casting)
    if sum((last - first + 1) * len(castings) for (first, last), castings in stretches.items()) > MOST_ALONG:
        seen = [c for (first, last), castings in stretches.items() if first <= looked <= last for c in castings]
        stretches = {(looked, looked): list(dict.fromkeys(seen))} if seen else {}
    try:
        return [
            packed_motion(all_bound_to(figures, castings), castings, revision, first, last)
            for (first, last), castings in stretches.items()
        ]
    except HameError:
        return []
    except Exception:
        _log.exception("the frames of a step could not be worked out")
        return []


def with_frames(answer: HttpResponse, frames: Iterable[bytes]) -> HttpResponse:
    """The answer to a step with frames after it."""
    told = answer.content + b" " * (-len(answer.content) % 4)
    parts = [struct.pack("<I", len(told)), told]
    for block in frames:
        parts += [struct.pack("<I", len(block)), block]
    return HttpResponse(b"".join(parts), content_type="application/octet-stream")
