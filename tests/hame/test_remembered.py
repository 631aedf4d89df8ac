"""What is derived of a clip is kept within so many bytes, and these are counted as they are."""

from __future__ import annotations

import gc
import tracemalloc
from unittest import TestCase

import numpy as np

from hame.clip.clip import Clip
from hame.clip.curve import from_keys
from hame.clip.cycle import Cycle
from hame.clip.remembered import Remembered, weight_of
from hame.evaluate.evaluate import channel_values
from tests.hame.examples import brannoc_rig, with_cycle


def cycle(turns: int) -> Clip:
    """Half a walk of all channels, a key on every other frame, echoed and gone round so often."""
    rig = brannoc_rig()
    rng = np.random.default_rng(1)
    curves = {
        channel.address: from_keys({frame: float(rng.normal(0.0, 0.1)) for frame in range(1, 13, 2)})
        for channel in rig.channels
        if not channel.locked
    }
    return with_cycle(Clip().with_curves(curves), Cycle(1, 25, True, 1 + 24 * turns))


class WeightTest(TestCase):
    def test_a_long_cycle_weighs_what_it_takes(self) -> None:
        """The clip itself takes a third of a megabyte, what is derived of it some forty times that."""
        rig = brannoc_rig()
        channel_values(rig, cycle(2), np.arange(1, 40))  # whatever is made once for all
        gc.collect()
        tracemalloc.start()
        try:
            clip = cycle(60)
            plain = clip.weight()
            taken = tracemalloc.get_traced_memory()[0]
            self.assertLess(abs(plain - taken) / taken, 0.5)
            channel_values(rig, clip, np.arange(1, 1441))
            gc.collect()
            taken = tracemalloc.get_traced_memory()[0]
        finally:
            tracemalloc.stop()
        self.assertGreater(clip.weight(), 5 * plain)
        self.assertLess(abs(clip.weight() - taken) / taken, 0.25)

    def test_what_is_shared_weighs_once(self) -> None:
        numbers = np.zeros(10_000)
        self.assertLess(weight_of([numbers, numbers, numbers[100:]], set()), 1.1 * numbers.nbytes)
        self.assertLess(weight_of({"a": numbers}, {id(numbers)}), 500)


class RememberedTest(TestCase):
    def test_the_last_used_are_kept_within_bounds(self) -> None:
        kept, made = Remembered(most=10_000), []

        def make(number: int) -> np.ndarray:
            made.append(number)
            return np.full(100, float(number))

        for number in (1, 2, 3):
            kept.get(number, lambda n=number: make(n))
        for number in range(4, 40):
            kept.get(number, lambda n=number: make(n))
            self.assertEqual(kept.get(1, lambda: make(1))[0], 1.0)
            self.assertLessEqual(kept.weight, 10_000)
        self.assertEqual(made.count(1), 1)
        kept.get(2, lambda: make(2))
        self.assertEqual(made.count(2), 2)

    def test_what_is_too_large_is_made_anew_and_pushes_nothing_out(self) -> None:
        kept = Remembered(most=10_000)
        kept.get("small", lambda: np.zeros(10))
        before = kept.weight
        for _ in range(2):
            self.assertEqual(len(kept.get("large", lambda: np.zeros(100_000))), 100_000)
        self.assertEqual(kept.weight, before)

    def test_an_empty_result_is_made_once(self) -> None:
        kept, made = Remembered(), []
        for _ in range(3):
            kept.get("nothing", lambda: made.append(1))
            kept.get("empty", lambda: made.append(2) or {})
        self.assertEqual(made, [1, 2])

    def test_a_long_key_is_gone_through_once_each_time_it_is_asked_for(self) -> None:
        class Long:
            gone_through = 0

            def __hash__(self) -> int:
                Long.gone_through += 1
                return 7

        key, kept = Long(), Remembered()
        for times in (1, 2, 3):
            self.assertEqual(kept.get((key, "way"), lambda: "made"), "made")
            self.assertEqual(Long.gone_through, times)
        self.assertEqual(kept.get((Long(), "way"), lambda: "another"), "another")
