"""Motion made by ways, kept as long as there is room: it follows from what it is made of and nothing else."""

from __future__ import annotations

from dataclasses import dataclass, fields
from functools import lru_cache
from threading import Lock

import numpy as np
import numpy.typing as npt
from cachetools import LRUCache

from hame.character.rig import Rig
from hame.clip.going import Plan
from hame.evaluate.going.body import turn_control
from hame.evaluate.going.creature import gone_on_legs
from hame.evaluate.going.made import gone
from hame.evaluate.some import some_nodes
from hame.gait.footfalls import Footfall
from hame.gait.traits import Traits
from hame.maths.rotations import Array, inverse, multiply, rotate
from hame.program import NONE

_ABOUT = 9  # footfalls before and after one that was moved, out of which follows what does of it
_LEAST = 30  # frames
_MOST = 96 * 1024 * 1024  # bytes
_kept: LRUCache[tuple[object, ...], Made] = LRUCache(_MOST, getsizeof=lambda made: made.values.nbytes + 1000)
_lock = Lock()


@dataclass(frozen=True, eq=False)
class Made:
    """The motion of a way.

    Attributes
    ----------
    first : the frame of the first row
    values : (F, C) channel values
    """

    first: int
    values: Array

    def at(self, times: Array) -> Array:
        """Channel values (T, C) at ``times (T,)``: as at its ends beyond these, and smooth between frames."""
        last = len(self.values) - 1
        inside = np.clip(np.asarray(times, float) - self.first, 0.0, last)
        row = np.minimum(inside.astype(np.int64), max(last - 1, 0))
        share = (inside - row)[:, None]
        one = self.values[row]
        if not share.any():
            return np.array(one)
        # The cubic through four frames (Catmull and Rom, 1974).
        two = self.values[np.minimum(row + 1, last)]
        out = 0.5 * (two - self.values[np.maximum(row - 1, 0)])
        into = 0.5 * (self.values[np.minimum(row + 2, last)] - one)
        far = two - one
        return np.asarray(
            one + share * (out + share * (3.0 * far - 2.0 * out - into + share * (out + into - 2.0 * far)))
        )


def made_of(rig: Rig, plan: Plan) -> Made:
    """The motion of a way from its first frame to where it is at rest, without what is left of a pose before it.

    Where footfalls were moved by hand it follows about these, and goes elsewhere exactly as if they had not been.
    """
    plain = _made(rig, plan, plan.plain, plan.way.start, plan.end)
    values = plain.values
    for first, last, near in plan.near:
        # What follows from a footfall is found among those about it: it takes as long in a way of a thousand steps.
        begin, end = max(first - _ABOUT, 0), min(last + _ABOUT, len(plan.found) - 1)
        frames = max(_lands(plan.plain, begin), plan.way.start), min(_lands(plan.plain, end), plan.end)
        if len(plan.found) <= 2 * _ABOUT + 8:
            begin, end, frames = 0, len(plan.found) - 1, (plan.way.start, plan.end)
        with_it, without = (
            _made(rig, plan, some[begin : end + 1], *frames, begin).values for some in (plan.found, plan.plain)
        )
        rows = slice(frames[0] - plan.way.start, frames[1] - plan.way.start + 1)
        values = values.copy() if values is plain.values else values
        values[rows] += near[rows, None] * (with_it - without)
    return plain if values is plain.values else Made(plan.way.start, values)


def _lands(found: tuple[Footfall, ...], n: int) -> int:
    """The frame on which a footfall lands; those on which somebody stands at first do so at once."""
    return found[n].first


def _made(rig: Rig, plan: Plan, footfalls: tuple[Footfall, ...], first: int, last: int, begin: int = 0) -> Made:
    """The motion over some footfalls of a plan, from the one that is its ``begin``-th on."""
    way, traits = plan.way, plan.traits
    rows = slice(first - way.start, last - way.start + 1)
    mine = Traits(**{one.name: np.ascontiguousarray(getattr(traits, one.name)[rows]) for one in fields(traits)})
    looks = b"".join(getattr(mine, one.name).tobytes() for one in fields(mine))
    lies = plan.lies[begin : begin + len(footfalls)]
    key = (rig, footfalls, tuple(lies), looks, first, last, way.fps, way.gravity)
    with _lock:
        found = _kept.get(key)
    if found is None:
        # A body needs some time to be somewhere: what is shorter is made as if it went on as it ends.
        more = max(_LEAST - (last - first), 0)
        frames = np.arange(first, last + more + 1, dtype=float)
        if more:
            mine = Traits(**{f.name: np.pad(getattr(mine, f.name), (0, more), mode="edge") for f in fields(mine)})
        if way.rests:
            values, _ = gone_on_legs(rig, footfalls, frames, way.fps, way.gravity, mine, lies)
        else:
            values = gone(rig, footfalls, frames, way.fps, way.gravity, mine, lies).values
        found = Made(first, np.ascontiguousarray(values[: last - first + 1]))
        with _lock:
            if found.values.nbytes + 1000 < _MOST:
                _kept[key] = found
    return found


@lru_cache(maxsize=64)
def written_by(rig: Rig) -> npt.NDArray[np.int64]:
    """The channels that somebody who goes is posed by; all others play as they are keyed."""
    names = {control.name for control in rig.controls if control.kind in ("body", "trunk", "head", "neck", "master")}
    names |= {"master", "body", *(control.name for control in rig.controls if control.name.startswith("tail"))}
    for limb in rig.limbs:
        if limb.kind in ("arm", "leg"):
            names |= {*limb.fk, limb.ik, limb.pole, limb.toe, limb.name}
            names |= {c.name for c in rig.controls if c.name.startswith(f"{limb.name}.")}
    return np.array([n for n, channel in enumerate(rig.channels) if channel.control in names], np.int64)


def under_master(rig: Rig, values: Array, masters: Array) -> Array:
    """Channel values (F, C) of a figure that stands as by ``values (F, C)``, but whose master is where it is by
    ``masters (F, C)``: all that the master carries stays where it is in the world.
    """
    result = values.copy()
    mine = [n for n, channel in enumerate(rig.channels) if channel.control == "master"]
    result[:, mine] = masters[:, mine]
    carried = [control for control in rig.controls if control.parent == "master" and control.frame != NONE]
    nodes = some_nodes(rig, tuple(control.node for control in carried), values)
    for n, control in enumerate(carried):
        names = [f"{control.name}/{axis}" for axis in ("tx", "ty", "tz")]
        if control.name != "master" and all(rig.has_channel(f"{control.name}/r{a.lower()}") for a in control.order):
            turn_control(rig, result, control, nodes[:, n, 3:7])
        if not all(rig.has_channel(name) for name in names):
            continue
        own, frame = (some_nodes(rig, (node,), result)[:, 0] for node in (control.node, control.frame))
        axes = multiply(frame[:, 3:7], np.broadcast_to(control.pre, frame[:, 3:7].shape))
        off = rotate(inverse(axes), nodes[:, n, :3] - own[:, :3]) / frame[:, 7:8]
        result[:, [rig.number(name) for name in names]] += off
    return result


@lru_cache(maxsize=64)
def _legs(rig: Rig) -> npt.NDArray[np.int64]:
    """The channels of legs, which who begins to go has as the way has them at once."""
    names: set[str] = set()
    for limb in rig.limbs:
        if limb.kind == "leg":
            names |= {*limb.fk, limb.ik, limb.pole, limb.toe, limb.name}
    return np.array([n for n, channel in enumerate(rig.channels) if channel.control in names], np.int64)


def left_of(rig: Rig, before: Array, made: Array) -> Array:
    """What is left (C,) on the first frame of a way of how somebody stands ``before (C,)``, beside how it is ``made``.

    The body stays where it is in the world, and all that is carried by it.
    """
    wished = under_master(rig, before[None], made[None])[0]
    left, mine = np.zeros(len(before)), written_by(rig)
    left[mine] = (wished - made)[mine]
    left[_legs(rig)] = 0.0
    return left
