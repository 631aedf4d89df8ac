"""Runs the tests, in several processes where that is asked for, and says at the end what took how long."""

from __future__ import annotations

import multiprocessing
import os
import time
import unittest
from collections import defaultdict
from typing import Any

from django.test.runner import DiscoverRunner, ParallelTestSuite, RemoteTestResult, RemoteTestRunner, _init_worker

SLOWEST = 12
# Those that take longest begin first, so that no process is left with one of them at the end.
LONG = ("tests.test_start", "tests.browser.test_random_work", "tests.browser.", "tests.server.test_earlier")


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
    """All tests of a class in one process, the classes that take longest first."""

    runner_class = TookRunner
    init_worker = _begin

    def __init__(self, subsuites: list[Any], *args: Any, **more: Any) -> None:
        super().__init__(sorted(subsuites, key=_turn), *args, **more)


def _turn(suite: Any) -> int:
    name = next(iter(suite)).id()
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
    if os.environ.get("HAME_TIMES"):  # a file for all of them
        with open(os.environ["HAME_TIMES"], "w") as file:  # noqa: PTH123
            file.writelines(f"{took:.2f} {name}\n" for name, took in result.took.items())
