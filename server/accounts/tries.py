"""Limits on signing in: per address and account, per address, and per account, with growing pauses.

Counting and pausing go through the cache, in steps of which each is one
atomic operation, and before a password is hashed: any number of tries at once
are counted, and hashing is never the price of refusing. Nobody can lock
another person out: where pauses are for an account as a whole, they stay
short.
"""

from __future__ import annotations

import hashlib
from contextlib import suppress
from dataclasses import dataclass

from django.contrib.auth import get_user_model
from django.core.cache import cache

WINDOW = 900  # seconds without a try, after which all is forgotten


@dataclass(frozen=True)
class _Limit:
    """So many tries are free; then the pauses between two double, up to ``longest`` seconds."""

    free: int
    longest: int


PAIR = _Limit(5, 300)  # one account from one address
ADDRESS = _Limit(30, 60)  # any accounts from one address
ACCOUNT = _Limit(60, 4)  # one account from anywhere


def account_key(username: str) -> str:
    """One name for all spellings of an account: the row that the database finds under it, or the name itself."""
    users = get_user_model().objects
    found = users.filter(username=username[:150]).values_list("pk", flat=True).first() if username else None
    if found is not None:
        return f"user-{found}"
    return "name-" + hashlib.sha256(username.strip().casefold().encode("utf-8", "replace")).hexdigest()[:32]


def wait_for(address: str, account: str) -> int:
    """Counts a try that is about to be made. 0 if it may be made, otherwise after how many seconds to try again.

    One that is refused is no try: it is counted nowhere, or a page that goes on asking for one account would use up
    what all of its address may.
    """
    limits = ((f"{address}:{account}", PAIR), (address, ADDRESS), (account, ACCOUNT))
    waits, let_through = [], []
    for name, limit in limits:
        key = f"sign-in:{name}"
        wait, paused = _counted(key, limit)
        if wait:
            waits.append(wait)
        else:
            let_through.append((key, paused))
    if waits:
        for key, paused in let_through:
            with suppress(ValueError):
                cache.decr(key)
            if paused:
                cache.delete(f"{key}:pause")
    return max(waits, default=0)


def _counted(key: str, limit: _Limit) -> tuple[int, bool]:
    """Seconds to wait (0: none), and whether this very try has set a pause for those after it."""
    cache.add(key, 0, WINDOW)
    try:
        count = cache.incr(key)
    except ValueError:  # it ran out between the two
        cache.set(key, 1, WINDOW)
        count = 1
    cache.touch(key, WINDOW)
    if count <= limit.free:
        return 0, False
    pause = int(min(2 ** min(count - limit.free, 20), limit.longest))
    # Of those that come at once, one sets the pause and goes on.
    if cache.add(f"{key}:pause", pause, pause):
        return 0, True
    with suppress(ValueError):
        cache.decr(key)  # what was refused is no try, or waiting would never help
    return int(cache.get(f"{key}:pause") or 1), False


def forgive(address: str, account: str) -> None:
    """A right password: the tries of this account from this address are forgotten, and this one was none of the
    address.
    """
    for key in (f"sign-in:{address}:{account}", f"sign-in:{account}"):
        cache.delete_many([key, f"{key}:pause"])
    with suppress(ValueError):
        cache.decr(f"sign-in:{address}")
