"""Controls with ties, their plants and their owners in time: what is worked out for them, and in which order."""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections.abc import Iterable
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from hame.character.rig import Control, Limb, Rig
from hame.clip.belonging import Belonging
from hame.clip.clip import Clip
from hame.clip.curve import Curve
from hame.clip.key import FRAME, SHAPE, STEP
from hame.clip.plants import MOST_EASED, Plant
from hame.clip.played import played_curves
from hame.evaluate.stage import Ints
from hame.evaluate.ties import kernel
from hame.evaluate.ties.order import Name
from hame.maths.rotations import Array
from hame.program import NONE

STEP_BACK = 1.0 / 64.0  # frames: how far apart two times are between which a speed is read
FOREVER = 1e9
SIX = ("tx", "ty", "tz", "rx", "ry", "rz")  # the channels of a control that has a place and a turn
FARTHEST_RELEASE = 500  # frames: so far back plants that are shown again are looked for


@dataclass(frozen=True)
class Planted:
    """A plant with the frames on which it holds, and from which on the limb is its own again."""

    span: Plant
    until: float
    free: float
    stepped: bool
    follows_on: bool  # begins where another one ends: nothing lies in between


@dataclass(frozen=True, eq=False)
class TiedControl:
    """A control with ties.

    Attributes
    ----------
    first, soft : its first channel and the softness of its limb (NONE without one), among those of all
    own, node : the nodes of its frame and of itself, among those of all
    limb_nodes : where its limb or chain comes to, and what that reaches for
    order : (3,) the sequence of its axes
    """

    figure: int
    control: Control
    limb: Limb | None
    first: int
    soft: int
    own: int
    node: int
    limb_nodes: tuple[int, int]
    order: Ints
    belongings: tuple[Belonging, ...] = ()

    @property
    def channels(self) -> slice:
        """The six of its place and its turn."""
        return slice(self.first, self.first + 6)

    @property
    def name(self) -> Name:
        return self.figure, self.control.name

    @cached_property
    def ends(self) -> tuple[list[int], list[float]]:
        """When its belongings begin, and when each ends: where the next one begins at once, that is when it does."""
        starts = [span.start for span in self.belongings]
        following = [*starts[1:], None]
        return starts, [
            float(span.end + 1 if after == span.end + 1 else span.end)
            for span, after in zip(self.belongings, following, strict=False)
        ]


@dataclass(frozen=True)
class Epoch:
    """A passage of time in which nobody changes owner, its first time included."""

    first: float
    last: float


def near_to(spans: list[Plant], first: float, last: float) -> slice:
    """Those of a limb's plants, in the order of time, that may have a say on frames from ``first`` to ``last``.

    A plant lets go no later than the next one begins, so none but the last one that has begun by then can reach them
    from before, and those that it goes on from.
    """
    starts = [span.start for span in spans]
    low = max(bisect_left(starts, first) - 1, 0)
    while low and spans[low - 1].end + 1 == spans[low].start:
        low -= 1
    high = bisect_right(starts, last)
    while high < len(spans) and spans[high].start - MOST_EASED <= last:
        high += 1
    return slice(low, high)


def planted_of(
    rig: Rig, clip: Clip, link: TiedControl, spans: list[Plant], first: float, last: float, near: slice
) -> list[Planted]:
    """Of the plants of a limb those ``near``, with the times at which they end and let go."""
    names = [f"{link.control.name}/{c}" for c in SIX]
    low = min((s.start for s in spans[near]), default=0)
    high = max((s.end + s.release for s in spans[near]), default=0)
    curves = played_curves(clip, rig, min(first, low), max(last, high))
    mine = [curves[name] for name in names if name in curves]
    keys = np.unique(np.concatenate([np.zeros(0), *(curve.table[:, FRAME] for curve in mine)]))
    found = []
    for n in range(*near.indices(len(spans))):
        span = spans[n]
        following = spans[n + 1] if n + 1 < len(spans) else None
        before = spans[n - 1] if n else None
        until, free = float(span.end), FOREVER
        if following is not None and following.start == span.end + 1:
            until = free = float(following.start)
        else:
            if span.release:
                free = span.end + float(span.release)
            elif (later := int(np.searchsorted(keys, span.end, side="right"))) < len(keys):
                free = float(keys[later])
            if following is not None:
                free = min(free, float(following.start))
        follows_on = before is not None and before.end + 1 == span.start
        found.append(Planted(span, until, free, _stepped(mine, span.end), follows_on))
    return found


def _stepped(curves: Iterable[Curve], frame: float) -> bool:
    """Whether curves are held from the last key up to a frame on."""
    for curve in curves:
        at = int(np.searchsorted(curve.table[:, FRAME], frame, side="right")) - 1
        if 0 <= at < len(curve.table) - 1 and curve.table[at, SHAPE] == STEP:
            return True
    return False


def events_of(planted: Planted) -> list[float]:
    """The times that have to be looked at for a plant."""
    start, until = float(planted.span.start), planted.until
    times = [start]
    if planted.span.land:
        times += [start - STEP_BACK, start + STEP_BACK]
    if planted.free > until:
        times += [until - STEP_BACK, until, until + STEP_BACK]
    return times


def row_of(link: TiedControl, planted: Planted) -> Array:
    """A plant's row for the kernel, so far as it is known."""
    k, row = kernel, np.zeros(kernel.PLANT)
    row[[k.START, k.END, k.UNTIL, k.FREE, k.LAND]] = (
        planted.span.start, planted.span.end, planted.until, planted.free, planted.span.land,
    )  # fmt: skip
    row[[k.FIXED, k.STEPPED, k.THING]] = not planted.span.about, planted.stepped, NONE
    if planted.span.about and link.limb is not None:
        row[k.PIVOT : k.PIVOT + 3] = link.limb.points.get(planted.span.about, (0.0, 0.0, 0.0))
    return row


def until(link: TiedControl, span: Belonging) -> float:
    """The time at which a belonging ends."""
    starts, ends = link.ends
    return ends[bisect_left(starts, span.start)]


def tie_in(link: TiedControl, epoch: Epoch) -> Belonging | None:
    starts, ends = link.ends
    at = bisect_right(starts, epoch.first) - 1
    return link.belongings[at] if at >= 0 and epoch.last <= ends[at] else None


def tie_row(link: TiedControl, tie: Belonging) -> Array:
    eased = float(tie.ease_in), float(tie.ease_out)
    return np.array([tie.ties != "turn", tie.ties != "place", tie.start, until(link, tie), tie.weight, *eased])


def reaching(plants: list[Planted], first: float, last: float) -> list[Planted]:
    """Those plants that have a say on frames from ``first`` to ``last``, and those from which they go on."""
    found: list[Planted] = []
    for plant in reversed(plants):
        needed = bool(found) and found[-1].follows_on and found[-1].span.start == plant.until
        if needed or (plant.free >= first and plant.span.start - plant.span.land <= last):
            found.append(plant)
    return found[::-1]
