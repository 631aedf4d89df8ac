"""Programs of rigs run for many frames, shared out over the cores."""

from __future__ import annotations

import os
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
    shares = max(min(_CORES, len(values) // _WORTHWHILE), 1)
    bounds = [len(values) * n // shares for n in range(shares + 1)]
    others = [
        _workers.submit(run, program.ops, program.params, ORDERS, values[a:b], out[a:b])
        for a, b in zip(bounds[1:-1], bounds[2:], strict=True)
    ]
    run(program.ops, program.params, ORDERS, values[: bounds[1]], out[: bounds[1]])
    for other in others:
        other.result()
    return out
