"""Computing drags off the event loop: the quick ones of all pages together, the slow ones in threads of their own.

A page has at most one drag waiting: a newer state of the same drag takes the
place of the one that waits, since only the last place of the hand counts.
While a batch is computed the next one gathers, so that under load many pages
cost little more than one.
"""

from __future__ import annotations

import asyncio
from collections.abc import Awaitable, Callable
from concurrent.futures import ThreadPoolExecutor
from typing import Any, TypeVar

from django.db import close_old_connections

T = TypeVar("T")
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
    """What waits to be computed, by page, and the one task that computes it batch by batch."""

    def __init__(self) -> None:
        self._waiting: dict[object, tuple[Callable[[], Any], Callable[[Any], Awaitable[None]]]] = {}
        self._task: asyncio.Task[None] | None = None

    def put(self, page: object, work: Callable[[], Any], answer: Callable[[Any], Awaitable[None]]) -> None:
        """Has ``work`` done soon and its result handed to ``answer``; what waits for the page already is let go."""
        self._waiting[page] = (work, answer)
        if self._task is None or self._task.done():
            self._task = asyncio.get_running_loop().create_task(self._run())

    def drop(self, page: object) -> None:
        self._waiting.pop(page, None)

    async def _run(self) -> None:
        loop = asyncio.get_running_loop()
        while self._waiting:
            batch, self._waiting = list(self._waiting.values()), {}
            results = await loop.run_in_executor(_quick, _all, [work for work, _ in batch])
            for (_, answer), result in zip(batch, results, strict=True):
                try:
                    await answer(result)
                except Exception:  # a page that is gone: its socket ends by itself
                    continue


def _all(works: list[Callable[[], Any]]) -> list[Any]:
    return [work() for work in works]


_by_loop: dict[int, Batches] = {}


def batches() -> Batches:
    """The batches of the running event loop."""
    return _by_loop.setdefault(id(asyncio.get_running_loop()), Batches())
