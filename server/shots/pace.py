"""How much a person may ask for in a short time, so that one page that runs wild does not take the desk from the
others.
"""

from __future__ import annotations

import logging
import time
from typing import Any

from django.core.cache import cache
from redis.exceptions import RedisError

from server.errors import TooMany

_log = logging.getLogger("hame.pace")

# What may be asked for: by name, so much in so many seconds. A page of five thousand frames opens at once.
MOTION, FRAMES, HAND_OFF = ("motion", 600, 10), ("frames", 300_000, 10), ("hand-off", 20, 60)
FALLS = ("falls", 60, 60)


def keep_pace(user: Any, limit: tuple[str, int, int], amount: int = 1) -> None:
    """Counts what a person asks for.

    Raises
    ------
    TooMany
        If it is more than ``limit`` allows; nothing was computed.

    Where the count cannot be reached, nobody is held up by it.
    """
    name, most, seconds = limit
    now = time.time()
    key = f"pace:{name}:{user.pk}:{int(now // seconds)}"
    try:
        cache.add(key, 0, 2 * seconds)
        count = cache.incr(key, max(amount, 1))
    except RedisError:
        _log.exception("what %s asks for is not counted", user.pk)
        return
    if count > most:
        wait = max(int(seconds - now % seconds), 1)
        raise TooMany(f"too much was asked for at once; ask again in {wait} second{'' if wait == 1 else 's'}", wait)
