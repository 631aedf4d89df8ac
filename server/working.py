"""Work that takes long, in a process of its own: it holds up no hand, and can be ended.

The process is begun when it is first needed (``./start`` has it begun at once), reads the database by itself, keeps
what it has read as a server process does, and goes when the server goes. It gives way to the server where both want the
processor. One piece of work is done at a time; what waits for it waits in its own thread.
"""

from __future__ import annotations

import logging
import multiprocessing
import os
import threading
import time
from collections.abc import Callable
from concurrent.futures import CancelledError, ProcessPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from typing import Any, TypeVar

from django.db import close_old_connections, connection

from hame.errors import BadEdit

T = TypeVar("T")
_log = logging.getLogger("hame.working")

LONGEST = 20.0  # seconds: what is asked for is bounded, and takes two at most on a small machine
_BEGINNING = 60.0  # seconds that the process may take to begin, beside that
_NICER = 5
_LOOK = 2.0  # seconds between looks at whether the server is still there


class Worker:
    """One process that works for this one, begun anew when it was ended or has gone."""

    def __init__(self, longest: float = LONGEST) -> None:
        self._longest, self._lock = longest, threading.Lock()
        self._pool: ProcessPoolExecutor | None = None
        self._begun = False

    def run(self, work: Callable[..., T], *told: Any) -> T:
        """The answer of a function of a module, or what it raises.

        Raises
        ------
        BadEdit
            If it took too long and was ended, or the process went while it worked; nothing was changed by it.
        """
        for again in (True, False):
            pool = self._ready()
            try:
                answer = pool.submit(_done, work, told)
                found: T = answer.result(self._longest + (0.0 if self._begun else _BEGINNING))
                self._begun = True
                return found
            except TimeoutError:
                self.end(pool)
                raise BadEdit(
                    f"this took longer than {self._longest:.0f} seconds and was ended; ask for less at once. Nothing "
                    "was changed"
                ) from None
            except (BrokenProcessPool, CancelledError):
                # It was ended for somebody else's sake, or by the system.
                self.end(pool)
                if not again:
                    _log.exception("the working process went twice while it did %s", work.__name__)
        raise BadEdit("the process that works this out went away; try again. Nothing was changed")

    def _ready(self) -> ProcessPoolExecutor:
        with self._lock:
            if self._pool is None:
                context = multiprocessing.get_context("spawn")
                self._begun = False
                self._pool = ProcessPoolExecutor(1, context, initializer=_begin, initargs=(os.getpid(),))
            return self._pool

    def end(self, pool: ProcessPoolExecutor | None = None) -> None:
        """Ends the process, whatever it does."""
        with self._lock:
            if pool is None or pool is self._pool:
                pool, self._pool = self._pool, None
        if pool is not None:
            for process in list((getattr(pool, "_processes", None) or {}).values()):
                process.kill()
            pool.shutdown(wait=False, cancel_futures=True)


def _begin(server: int) -> None:
    os.nice(_NICER)
    threading.Thread(target=_go_with, args=(server,), daemon=True).start()
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "server.settings")
    import django

    django.setup()


def _go_with(server: int) -> None:
    while os.getppid() == server:
        time.sleep(_LOOK)
    os._exit(0)


def _done(work: Callable[..., T], told: tuple[Any, ...]) -> T:
    close_old_connections()
    try:
        return work(*told)
    finally:
        close_old_connections()


_worker = Worker()


MUCH = 900
"""So many poses and more are worked out away."""


def by_size(poses: int, work: Callable[..., T], *told: Any) -> T:
    """The answer of a function of a module about so many poses: worked out here, or away where they are many."""
    return away(work, *told) if poses > MUCH else work(*told)


def away(work: Callable[..., T], *told: Any) -> T:
    """The answer of a function of a module, worked out in the process for that; its arguments and answer are copied.

    Inside a transaction it is worked out here: nobody else sees what is not committed.
    """
    if connection.in_atomic_block:
        return work(*told)
    return _worker.run(work, *told)


def ready() -> None:
    """Begins the process ahead of what will need it, with all that is loaded at a first look."""
    threading.Thread(target=lambda: _worker.run(load), daemon=True).start()


def load() -> None:
    """Loads all that a first look needs."""
    from django.urls import get_resolver

    from hame.warming import warm

    len(get_resolver().url_patterns)  # which loads all of them
    warm()
