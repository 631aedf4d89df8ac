"""Programs of rigs run for many frames, shared out over the cores."""

from __future__ import annotations

import os
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor

import numpy as np

from hame.evaluate.kernel import ORDERS, run
from hame.maths.rotations import Array
from hame.program import Program

_CORES = os.cpu_count() or 1
_workers = ThreadPoolExecutor(_CORES, thread_name_prefix="evaluate")
_WORTHWHILE = 32  # frames: fewer are done sooner than a thread begins


def run_program(program: Program, values: Array) -> Array:
    """Transforms ``(F, N, 8)`` of all nodes of a program for channel ``values (F, C)``.

    No frame depends on another, so many frames are shared out over the cores;
    the result is the same to the last bit.
    """
    values = np.ascontiguousarray(values, float)
    out = np.empty((len(values), program.nodes, 8))
    on_cores(len(values), lambda a, b: run(program.ops, program.params, ORDERS, values[a:b], out[a:b]))
    return out


def on_cores(frames: int, work: Callable[[int, int], None]) -> None:
    """Has so many frames worked on, each of them once: ``work`` is called with the first of some and the one after
    them, on all cores at a time where there are many. It has to let go of the interpreter, as compiled code may."""
    shares = max(min(_CORES, frames // _WORTHWHILE), 1)
    bounds = [frames * n // shares for n in range(shares + 1)]
    others = [_workers.submit(work, a, b) for a, b in zip(bounds[1:-1], bounds[2:], strict=True)]
    work(0, bounds[1])
    for other in others:
        other.result()
