"""What `python -m hame warm` compiles is all that edits and drags need."""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
import tempfile
import unittest

# In a process of its own: in this one other tests may have compiled anything.
SCRIPT = """
import gc
import numpy as np
from numba.core.dispatcher import Dispatcher
from hame.warming import warm

def compiled():
    # How often a signature was not found on disk.
    return {(d.__module__, d.__name__): sum(d.stats.cache_misses.values()) for d in gc.get_objects()
            if isinstance(d, Dispatcher) and str(d.__module__).startswith("hame")}

warm()
before = compiled()
from hame.clip.clip import Clip, difference
from hame.errors import BadEdit
from tests.hame.test_histories import random_edit
rng, clip = np.random.default_rng(5), Clip()
for _ in range(150):
    try:
        after = random_edit(clip, rng)
    except BadEdit:
        continue
    difference(clip, after).reversed().apply(after)
    clip = after
from hame.solve import drag
from hame.solve.begun import begin, where
from hame.solve.few import estimate
from hame.solve.pull import pull
from hame.solve.wishes import Grip, Target
from tests.hame.examples import brannoc_rig, random_pose
rig = brannoc_rig()
start = begin(rig, random_pose(rig, 2))
pull(start, [Target("arm.L.hand", where(start, "arm.L.hand")[0] + 0.2)], [Grip("leg.R.foot", "fast")])
pull(start, [Target("head", where(start, "head")[0])])
estimate(start, [Target("body", *where(start, "body")), Target("arm.R.hand", where(start, "arm.R.hand")[0])])
names = [c.name for c in rig.controls]
for axes in ("world", "own", "parent", "view"):
    drag.move(rig, random_pose(rig, 1), names, np.array([0.1, 0, 0]), axes)
    drag.turn(rig, rig.rest, names, np.array([0, 0, 1]), 4, axes, pivot=np.array([1, 2, 3]))
new = {name: count for name, count in compiled().items() if count > before.get(name, 0)}
assert not new, new
"""


class WarmingTest(unittest.TestCase):
    def test_nothing_is_left_to_compile_for_the_first_edit_or_drag(self) -> None:
        # Begun with nothing, or with what ./test had compiled by `hame warm` before any test: that is not done twice.
        with tempfile.TemporaryDirectory() as folder:
            fresh, warmed = f"{folder}/kernels", os.environ.get("HAME_WARMED")
            if warmed:
                shutil.copytree(warmed, fresh)
            env = {**os.environ, "NUMBA_CACHE_DIR": fresh}
            done = subprocess.run([sys.executable, "-c", SCRIPT], capture_output=True, text=True, env=env)
        self.assertEqual(done.returncode, 0, done.stderr[-2000:])
