"""Computing drags off the event loop: the quick ones of all pages together, the slow ones in threads of their own.

A page has at most one drag waiting: a newer state of the same drag takes the
place of the one that waits, since only the last place of the hand counts.
While a batch is computed the next one gathers, so that under load many pages
cost little more than one.
"""

from __future__ import annotations

import asyncio
import logging
from collections.abc import Awaitable, Callable
from concurrent.futures import ThreadPoolExecutor
from typing import Any, TypeVar
from weakref import WeakKeyDictionary

from django.db import close_old_connections

T = TypeVar("T")
_log = logging.getLogger("hame.live")
_quick = ThreadPoolExecutor(1, thread_name_prefix="drag")
_slow = ThreadPoolExecutor(4, thread_name_prefix="live")


async def in_thread(work: Callable[..., T], *arguments: Any) -> T:
    """Runs what may read the database or take a while in a thread, without holding up anybody else's drag."""

    def run() -> T:
        close_old_connections()
        try:
            return work(*arguments)
        finally:
            close_old_connections()

    return await asyncio.get_running_loop().run_in_executor(_slow, run)


class Batches:
    """What waits to be computed, by page, and the one task that computes it batch by batch.

    A page that is slow to take its answer holds up nobody: nothing new is computed for it until it has.
    """

    def __init__(self) -> None:
        self._waiting: dict[object, tuple[int, Callable[[], Any], Callable[[Any], Awaitable[None]]]] = {}
        self._sending: dict[object, asyncio.Task[None]] = {}
        self._task: asyncio.Task[None] | None = None

    def put(
        self, page: object, seq: int, work: Callable[[], Any], answer: Callable[[Any], Awaitable[None]]
    ) -> int | None:
        """Has ``work`` done soon and its result handed to ``answer``.

        What waits for the page already is let go; its number is handed back, so that the page can be told.
        """
        before = self._waiting.get(page)
        self._waiting[page] = (seq, work, answer)
        self._begin()
        return None if before is None else before[0]

    def drop(self, page: object) -> None:
        """A page is gone: nothing more is computed or sent for it."""
        self._waiting.pop(page, None)
        sending = self._sending.pop(page, None)
        if sending is not None:
            sending.cancel()

    def _begin(self) -> None:
        if self._task is None or self._task.done():
            self._task = asyncio.get_running_loop().create_task(self._run())

    async def _run(self) -> None:
        loop = asyncio.get_running_loop()
        while ready := [page for page in self._waiting if page not in self._sending]:
            batch = [(page, *self._waiting.pop(page)) for page in ready]
            results = await loop.run_in_executor(_quick, _all, [work for _, _, work, _ in batch])
            for (page, _, _, answer), result in zip(batch, results, strict=True):
                self._sending[page] = loop.create_task(self._send(page, answer, result))
            await asyncio.sleep(0)  # most answers are sent at once

    async def _send(self, page: object, answer: Callable[[Any], Awaitable[None]], result: Any) -> None:
        try:
            await answer(result)
        except Exception:
            _log.debug("an answer found its page gone", exc_info=True)
        finally:
            self._sending.pop(page, None)
            if page in self._waiting:
                self._begin()


def _all(works: list[Callable[[], Any]]) -> list[Any]:
    return [work() for work in works]


_by_loop: WeakKeyDictionary[asyncio.AbstractEventLoop, Batches] = WeakKeyDictionary()


def batches() -> Batches:
    """The batches of the running event loop."""
    return _by_loop.setdefault(asyncio.get_running_loop(), Batches())
