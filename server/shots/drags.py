"""Computing drags off the event loop: the quick ones of all pages together, the slow ones in threads of their own.

What a hand waits for goes first. What only goes along with it (the paths of parts) is computed in a thread apart, one
page after the other, while no hand waits.

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
_behind = ThreadPoolExecutor(1, thread_name_prefix="behind")


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

    def __init__(self, goes_first: Batches | None = None) -> None:
        self._goes_first = goes_first
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

    @property
    def busy(self) -> bool:
        """Whether something is being computed or waits for it."""
        return self._task is not None and not self._task.done()

    async def _run(self) -> None:
        loop = asyncio.get_running_loop()
        while ready := [page for page in self._waiting if page not in self._sending]:
            if self._goes_first is not None:
                ready = ready[:1]
                await self._give_way(self._goes_first)
            batch = [(page, *self._waiting.pop(page)) for page in ready if page in self._waiting]
            began = loop.time()
            where = _quick if self._goes_first is None else _behind
            results = await loop.run_in_executor(where, _all, [work for _, _, work, _ in batch])
            for (page, _, _, answer), result in zip(batch, results, strict=True):
                self._sending[page] = loop.create_task(self._send(page, answer, result))
            await asyncio.sleep(0)  # most answers are sent at once
            if self._goes_first is not None:  # as long again is left to everybody else
                await asyncio.sleep(min(loop.time() - began, _REST))

    async def _give_way(self, to: Batches) -> None:
        """Waits while hands wait, but not for ever: under load paths are drawn less often, and still are."""
        patience = 20
        while to.busy and patience:
            patience -= 1
            await asyncio.sleep(0.005)

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


_REST = 0.25  # seconds at most
_by_loop: WeakKeyDictionary[asyncio.AbstractEventLoop, tuple[Batches, Batches]] = WeakKeyDictionary()


def _of_loop() -> tuple[Batches, Batches]:
    loop = asyncio.get_running_loop()
    if loop not in _by_loop:
        first = Batches()
        _by_loop[loop] = first, Batches(goes_first=first)
    return _by_loop[loop]


def batches() -> Batches:
    """The batches of the running event loop: what hands wait for."""
    return _of_loop()[0]


def behind() -> Batches:
    """What goes along with hands when there is time."""
    return _of_loop()[1]
