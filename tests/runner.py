"""Runs the tests, in several processes where that is asked for, and says at the end what took how long."""

from __future__ import annotations

import ctypes
import multiprocessing
import os
import time
import unittest
from collections import defaultdict
from typing import Any

from django.test.runner import (
    DiscoverRunner,
    ParallelTestSuite,
    RemoteTestResult,
    RemoteTestRunner,
    _init_worker,
    _run_subsuite,
)

SLOWEST = 12
# Those that take longest begin first, so that no process is left with one of them at the end.
LONG = ("tests.test_start", "tests.hame.test_warming", "tests.browser.test_random_work", "tests.server.test_earlier")
BROWSER = "tests.browser."


class Took(RemoteTestResult):
    """A result in a process of its own, which tells how long each test took there."""

    def startTest(self, test: Any) -> None:  # noqa: N802
        super().startTest(test)
        self.began = time.perf_counter()

    def stopTest(self, test: Any) -> None:  # noqa: N802
        self.events.append(("addTook", self.test_index, time.perf_counter() - self.began))
        super().stopTest(test)


class TookRunner(RemoteTestRunner):
    resultclass = Took


def _begin(*given: Any, **more: Any) -> None:
    """Sets up a process for tests; some of them begin processes of their own, which those of a pool may not."""
    _init_worker(*given, **more)
    multiprocessing.current_process()._config["daemon"] = False  # type: ignore[attr-defined]


class Lanes(ParallelTestSuite):
    """All tests of a class in one process, the classes that take longest first; the browser's one after the other.

    A browser draws by software on every core that there is: two of them beside all else take longer than one after the
    other, and what waits for a picture then waits too long. Once all else is done there is room for a second one.
    """

    runner_class = TookRunner
    init_worker = _begin

    def run(self, result: Any) -> Any:
        self.initialize_suite()
        names = [next(iter(suite)).id() for suite in self.subsuites]
        order = sorted(range(len(names)), key=lambda n: _turn(names[n]))
        browser, rest = ([n for n in order if names[n].startswith(BROWSER) is of] for of in (True, False))
        counter = multiprocessing.Value(ctypes.c_int, 0)
        pools = [self._pool(counter, 1) for _ in range(max(self.processes, 2))]
        running: dict[int, Any] = {}
        try:
            while not result.shouldStop:
                for lane, pool in enumerate(pools):
                    if lane not in running:
                        # One lane begins with the browser's and one with all else; each goes on with the other's.
                        waiting = [browser or rest, rest or browser][lane] if lane < 2 else rest
                        if waiting:
                            running[lane] = pool.apply_async(_run_subsuite, [self._told(waiting.pop(0))])
                if not running:
                    break
                next(iter(running.values())).wait(0.1)
                for lane in [lane for lane, task in running.items() if task.ready()]:
                    number, events = running.pop(lane).get()
                    for event in events:
                        self.handle_event(result, list(self.subsuites[number]), event)
        finally:
            for pool in pools:
                pool.terminate() if result.shouldStop else pool.close()
                pool.join()
        return result

    def _pool(self, counter: Any, processes: int) -> Any:
        told = [counter, self.initial_settings, self.serialized_contents, None, (), self.debug_mode, self.used_aliases]
        return multiprocessing.Pool(processes=processes, initializer=_begin, initargs=told)

    def _told(self, number: int) -> tuple[Any, ...]:
        return self.runner_class, number, self.subsuites[number], self.failfast, self.buffer


def _turn(name: str) -> int:
    return next((n for n, long in enumerate(LONG) if name.startswith(long)), len(LONG))


class Result(unittest.TextTestResult):
    """A result that keeps how long each test took."""

    took: dict[str, float]

    def __init__(self, *args: Any, **more: Any) -> None:
        super().__init__(*args, **more)
        self.took = {}
        self._told: dict[str, float] = {}
        self._began = 0.0

    def startTest(self, test: Any) -> None:  # noqa: N802
        super().startTest(test)
        self._began = time.perf_counter()

    def stopTest(self, test: Any) -> None:  # noqa: N802
        super().stopTest(test)
        self.took.setdefault(test.id(), time.perf_counter() - self._began)

    def addTook(self, test: Any, seconds: float) -> None:  # noqa: N802
        """What a test took in a process of its own."""
        self.took[test.id()] = seconds


class Runner(DiscoverRunner):
    parallel_test_suite = Lanes

    def get_resultclass(self) -> Any:
        return super().get_resultclass() or Result

    def run_suite(self, suite: Any, **more: Any) -> Any:
        began = time.perf_counter()
        result = super().run_suite(suite, **more)
        if isinstance(result, Result) and result.testsRun > SLOWEST:
            _summary(result, time.perf_counter() - began)
        return result


def _summary(result: Result, seconds: float) -> None:
    """What took how long, by room and by test, and what failed, in the end where it is seen."""
    rooms: dict[str, list[float]] = defaultdict(list)
    for name, took in result.took.items():
        rooms[".".join(name.split(".")[:2])].append(took)
    print(f"\n{result.testsRun} tests in {seconds:.0f} s")
    for room, times in sorted(rooms.items(), key=lambda item: -sum(item[1])):
        print(f"  {sum(times):7.0f} s  {len(times):4}  {room}")
    print("the slowest:")
    for name, took in sorted(result.took.items(), key=lambda item: -item[1])[:SLOWEST]:
        print(f"  {took:7.1f} s  {name}")
    for word, found in (("failed", result.failures), ("broke", result.errors)):
        for test, _ in found:
            print(f"{word}: {test.id()}")
    bad = len(result.failures) + len(result.errors) + len(result.unexpectedSuccesses)
    skipped = len(result.skipped)
    print(f"{result.testsRun - bad - skipped} passed, {bad} failed, {skipped} skipped")
    if os.environ.get("HAME_TIMES"):  # a file for all of them
        with open(os.environ["HAME_TIMES"], "w") as file:  # noqa: PTH123
            file.writelines(f"{took:.2f} {name}\n" for name, took in result.took.items())
