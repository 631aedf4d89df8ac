"""Speed of the core, beside Pinocchio in the same run: ``.venv/bin/python -m bench.core``."""

from __future__ import annotations

import statistics
import time
from collections.abc import Callable

import numpy as np
import pinocchio as pin

from hame.character.build import build_rig
from hame.character.propose import propose
from hame.character.rig import Rig
from hame.clip.clip import Clip
from hame.clip.curve import from_keys
from hame.demo.keeper import skeleton
from hame.evaluate.evaluate import channel_values, evaluate, joints
from hame.evaluate.kinematics import forward


def median(work: Callable[[], object], rounds: int = 15) -> float:
    """Median seconds of a call, after one call to warm up."""
    work()
    times = []
    for _ in range(rounds):
        begun = time.perf_counter()
        work()
        times.append(time.perf_counter() - begun)
    return statistics.median(times)


def kinematics(frames: int = 1000) -> None:
    """Forward kinematics of the same tree and the same turns, by Pinocchio and by ours."""
    s = skeleton()
    rng = np.random.default_rng(1)
    turns = rng.normal(size=(frames, len(s), 4))
    turns /= np.linalg.norm(turns, axis=-1, keepdims=True)
    model = pin.Model()
    ids = {-1: 0}
    for j, parent in enumerate(s.parents):
        at = pin.SE3(np.eye(3), s.rest[j, :3])
        ids[j] = model.addJoint(ids[parent], pin.JointModelSpherical(), at, s.names[j])
    data = model.createData()
    # Pinocchio numbers joints as they were added: the same order, so the same vector.
    q = [np.ascontiguousarray(turns[f].reshape(-1)) for f in range(frames)]

    def theirs() -> None:
        for vector in q:
            pin.forwardKinematics(model, data, vector)

    mine, other = median(lambda: forward(s, turns)), median(theirs)
    places = np.array([data.oMi[ids[j]].translation for j in range(len(s))])
    differ = float(np.abs(places - forward(s, turns[-1:])[0, :, :3]).max())
    print(f"kinematics, {len(s)} joints x {frames} frames: {mine * 1e3:.2f} ms "
          f"({mine / frames * 1e6:.2f} microseconds a frame); Pinocchio {other * 1e3:.2f} ms "
          f"({other / frames * 1e6:.2f}); results differ by {differ:.1e} m")  # fmt: skip


def keyed_clip(rig: Rig, frames: int, every: int, curves: int = 10_000) -> Clip:
    """A clip with keys on all free channels, at most so many curves."""
    rng = np.random.default_rng(2)
    free = [c for c in rig.channels if not c.locked and c.kind != "scale"][:curves]
    made = {}
    for channel in free:
        keys = {f: float(np.clip(channel.rest + rng.normal(0, 0.1), channel.low, channel.high))
                for f in range(1, frames + 1, every)}  # fmt: skip
        made[channel.address] = from_keys(keys)
    return Clip().with_curves(made)


def whole_take(frames: int = 240) -> None:
    s = skeleton()
    rig = build_rig(s, propose(s))
    clip = keyed_clip(rig, frames, 8)
    span = np.arange(1, frames + 1)
    both = median(lambda: joints(rig, evaluate(rig, channel_values(rig, clip, span))))
    values = channel_values(rig, clip, span)
    sampling = median(lambda: channel_values(rig, clip, span))
    one = median(lambda: evaluate(rig, values[:1]), 200)
    print(f"whole take, {len(s)} joints, {frames} frames, {len(clip.curves)} curves, {clip.key_count():,} keys: "
          f"{both * 1e3:.2f} ms (of which curves {sampling * 1e3:.2f} ms); one frame {one * 1e6:.0f} microseconds")  # fmt: skip


if __name__ == "__main__":
    kinematics()
    whole_take()
