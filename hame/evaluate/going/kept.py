"""Motion made by ways, kept as long as there is room: it follows from what it is made of and nothing else."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field, fields
from functools import lru_cache
from itertools import count
from threading import Lock

import numpy as np
import numpy.typing as npt
from cachetools import LRUCache

from hame.character.rig import Rig
from hame.clip.going import Plan
from hame.clip.remembered import Hashed
from hame.evaluate.going.body import turn_control
from hame.evaluate.going.creature import gone_on_legs
from hame.evaluate.going.feet import Lying
from hame.evaluate.going.made import Gone, gone, gone_about
from hame.evaluate.going.over import over_footfalls
from hame.evaluate.some import some_nodes
from hame.gait.footfalls import Footfall
from hame.gait.traits import Traits
from hame.maths.rotations import Array, inverse, rotate
from hame.program import NONE

_ABOUT = 9  # footfalls before and after one that was moved, out of which follows what does of it
_LEAST = 30  # frames
_MOST = 96 * 1024 * 1024  # bytes
_FLOWS = 0.2  # seconds beside what changes that are posed anew as well, for what is evened out over frames
_kept: LRUCache[Hashed, Made] = LRUCache(_MOST, getsizeof=lambda made: made.weight)
_lock = Lock()


@dataclass(frozen=True, eq=False)
class Made:
    """The motion of a way.

    Attributes
    ----------
    first : the frame of the first row
    values : (F, C) channel values
    gone : how it was gone, of one on two legs
    about : what is added to some rows: the first of them, and channel values (G, C)
    token : which it is
    """

    first: int
    values: Array
    gone: Gone | None = None
    about: tuple[tuple[int, Array], ...] = ()
    token: int = field(default_factory=count().__next__)

    @property
    def weight(self) -> int:
        """Bytes, about."""
        return 1000 + self.values.nbytes * (1 if self.gone is None else 2)

    def at(self, times: Array) -> Array:
        """Channel values (T, C) at ``times (T,)``: as at its ends beyond these, and smooth between frames."""
        last = len(self.values) - 1
        inside = np.clip(np.asarray(times, float) - self.first, 0.0, last)
        row = np.minimum(inside.astype(np.int64), max(last - 1, 0))
        share = (inside - row)[:, None]
        one = self._on(row)
        if not share.any():
            return one
        # The cubic through four frames (Catmull and Rom, 1974).
        two = self._on(np.minimum(row + 1, last))
        out = 0.5 * (two - self._on(np.maximum(row - 1, 0)))
        into = 0.5 * (self._on(np.minimum(row + 2, last)) - one)
        far = two - one
        return np.asarray(
            one + share * (out + share * (3.0 * far - 2.0 * out - into + share * (out + into - 2.0 * far)))
        )

    def _on(self, rows: npt.NDArray[np.int64]) -> Array:
        """Channel values (R, C) of some rows."""
        found: Array = self.values[rows]
        for first, more in self.about:
            mine = (rows >= first) & (rows < first + len(more))
            found[mine] += more[rows[mine] - first]
        return found


def made_of(rig: Rig, plan: Plan) -> Made:
    """The motion of a way from its first frame to where it is at rest, without what is left of a pose before it.

    Where footfalls were moved by hand it follows about these, and goes elsewhere exactly as if they had not been.
    """
    plain = _made(rig, plan, plan.plain, plan.way.start, plan.end)
    about: list[tuple[int, Array]] = []
    for first, last, near in plan.near:
        # What follows from a footfall is found among those about it: it takes as long in a way of a thousand steps.
        begin, end = max(first - _ABOUT, 0), min(last + _ABOUT, len(plan.found) - 1)
        frames = max(plan.plain[begin].first, plan.way.start), min(plan.plain[end].first, plan.end)
        if len(plan.found) <= 2 * _ABOUT + 8:
            begin, end, frames = 0, len(plan.found) - 1, (plan.way.start, plan.end)
        row = frames[0] - plan.way.start
        near = near[row : frames[1] - plan.way.start + 1]
        with_it, without = _both(rig, plan, plain, begin, end, *frames, near)
        changes = slice(*(np.flatnonzero(near)[[0, -1]] + [0, 1]))
        about.append((row + int(changes.start), near[changes, None] * (with_it[changes] - without[changes])))
    return Made(plan.way.start, plain.values, about=tuple(about)) if about else plain


def _both(
    rig: Rig, plan: Plan, plain: Made, begin: int, end: int, first: int, last: int, near: Array
) -> tuple[Array, Array]:  # fmt: skip
    """Channel values (F, C) over some footfalls of a plan with those that were moved by hand, and without: where
    ``near (F,)`` is above 0."""
    sets = plan.found[begin : end + 1], plan.plain[begin : end + 1]
    if plain.gone is None:
        one, other = (_made(rig, plan, some, first, last, begin).values for some in sets)
        return one, other
    changed = np.flatnonzero(near)
    pad = round(_FLOWS * plan.way.fps)
    rows = max(int(changed[0]) - pad, 0), min(int(changed[-1]) + pad, last - first) + 1
    gone = plain.gone
    if len(sets[0]) < len(plan.found):
        gone = gone.cut(slice(first - plain.first, last - plain.first + 1), sets[1])
    # What those that are moved ask for is begun from where that without them came to.
    without = _about(rig, plan, sets[1], first, last, begin, plain.token, gone, rows)
    assert without.gone is not None
    with_it = _about(rig, plan, sets[0], first, last, begin, without.token, without.gone, rows)
    return with_it.values, without.values


def _about(
    rig: Rig, plan: Plan, footfalls: tuple[Footfall, ...], first: int, last: int, begin: int, token: int, gone: Gone,
    rows: tuple[int, int],
) -> Made:  # fmt: skip
    """The motion over footfalls of which few lie elsewhere than those that were gone over, on some of its rows."""
    key, looks = _hangs_on(rig, plan, footfalls, first, last, begin)

    def make() -> Made:
        way = plan.way
        lies = _lies(plan, footfalls, begin)
        frames = first + np.arange(len(gone.values), dtype=float)
        traits = _longer(looks, len(frames) - (last - first + 1))
        over = over_footfalls(rig, footfalls, frames, way.fps, way.gravity, traits, lies, gone.over, rows)
        found = gone_about(gone, over, slice(*rows))
        return Made(first, found.values[: last - first + 1], found)

    return _keep((*key, token, rows), make)


def _hangs_on(
    rig: Rig, plan: Plan, footfalls: tuple[Footfall, ...], first: int, last: int, begin: int
) -> tuple[tuple[object, ...], Traits]:  # fmt: skip
    """What motion over footfalls hangs on, and how it looks on its frames."""
    way = plan.way
    mine = plan.traits.cut(slice(first - way.start, last - way.start + 1))
    looks = b"".join(np.asarray(getattr(mine, one.name)).tobytes() for one in fields(mine))
    lies = _lies(plan, footfalls, begin)
    return (rig, footfalls, tuple(lies), looks, first, last, way.fps, way.gravity), mine


def _lies(plan: Plan, footfalls: tuple[Footfall, ...], begin: int) -> list[Lying]:
    """On what some footfalls of a plan lie, as they are set by hand or plain."""
    some = slice(begin, begin + len(footfalls))
    return (plan.plain_lies if footfalls == plan.plain[some] else plan.lies)[some]


def _longer(traits: Traits, by: int) -> Traits:
    """Traits with a number for each frame, for so many frames more."""
    if not by:
        return traits
    return Traits(**{f.name: np.pad(np.asarray(getattr(traits, f.name)), (0, by), mode="edge") for f in fields(traits)})


def _keep(hangs_on: tuple[object, ...], make: Callable[[], Made]) -> Made:
    key = Hashed(hangs_on)
    with _lock:
        found = _kept.get(key)
    if found is None:
        found = make()
        with _lock:
            if found.weight < _MOST:
                _kept[key] = found
    return found


def _made(rig: Rig, plan: Plan, footfalls: tuple[Footfall, ...], first: int, last: int, begin: int = 0) -> Made:
    """The motion over some footfalls of a plan, from the one that is its ``begin``-th on."""
    key, looks = _hangs_on(rig, plan, footfalls, first, last, begin)

    def make() -> Made:
        way = plan.way
        lies = _lies(plan, footfalls, begin)
        # A body needs some time to be somewhere: what is shorter is made as if it went on as it ends.
        more = max(_LEAST - (last - first), 0)
        frames, mine = np.arange(first, last + more + 1, dtype=float), _longer(looks, more)
        if way.rests:
            values, _ = gone_on_legs(rig, footfalls, frames, way.fps, way.gravity, mine, lies)
            return Made(first, np.ascontiguousarray(values[: last - first + 1]))
        found = gone(rig, footfalls, frames, way.fps, way.gravity, mine, lies)
        return Made(first, found.values[: last - first + 1], found)

    return _keep(key, make)


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
        off = rotate(inverse(frame[:, 3:7]), nodes[:, n, :3] - own[:, :3]) / frame[:, 7:8]
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
