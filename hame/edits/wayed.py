"""What follows from ways and is stored with them, found anew whenever something changes: how feet stand as one begins,
what its footfalls lie on, where it ends; and keys in layers over it, which keep to their phase."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import replace
from typing import cast

import numpy as np
import numpy.typing as npt

from hame.character.rig import Rig
from hame.clip.belonging import Belonging
from hame.clip.clip import Clip
from hame.clip.curve import Curve, from_table
from hame.clip.going import Plan, leg_length, legs_of, plan_of, plans_of
from hame.clip.key import FRAME, IN_TIME, OUT_TIME
from hame.clip.layers import own_curves, parted
from hame.clip.plants import Plant
from hame.clip.quantities import OF_WAYS, QUANTITIES, TRAITS, quantities_in
from hame.clip.spans import Span
from hame.clip.way import Lies, Stand, Way, ways_of
from hame.edits.asif import AsIf
from hame.errors import BadEdit
from hame.evaluate.going.body import at_rest
from hame.gait.creatures import Rest
from hame.gait.footfalls import Footfall, Side
from hame.gait.line import Point
from hame.maths.rotations import Array, inverse, multiply, rotate
from hame.measure.ground import Ground, ground_of
from hame.scene.joined import played
from hame.scene.scene import Scene

Ints = npt.NDArray[np.int64]
_PACES = frozenset(QUANTITIES) - frozenset(TRAITS)  # those by which footfalls lie elsewhere
CLIMBS = 0.45  # of a leg: what lies no higher than that above the foot before is stepped on
_FLAT = np.cos(np.radians(8.0))  # of a normal that is upright as far as edges of steps go
_GAP = 0.02  # metres to each side of a point of a sole: between edges that near to it is a gap that a sole lies over
_SPARE = 0.014  # metres that a foot is to lie inside of the edges of a step, before heel and toes
_WHOLE = ([1, 2], [3, 4], [3, 5])  # which of the points along a foot lie on it, the most wanted first
_EDGE = 0.025  # metres that heel and toes may lie apart in height on what is flat
_SHIFTS = np.array([0.0, *(sign * 0.01 * n for n in range(1, 23) for sign in (1.0, -1.0))])  # metres


def rewayed(before: Clip, after: Clip, rig: Rig, scene: Scene, anew: bool = False) -> tuple[Clip, tuple[str, ...]]:
    """The clip of the figure that a scene is seen by after an edit, with all that follows from its ways.

    Parameters
    ----------
    anew : what they lie on is looked for even if nothing of them has changed

    Raises
    ------
    BadEdit
        If a way cannot be gone any more.
    """
    if not ways_of(after) or not (anew or _concerned(before, after)):
        return after, ()
    only_ways = not anew and _only_ways_differ(before, after)
    ground = _GroundUnder(scene)
    found: list[Way] = []
    notes: list[str] = []
    ways = ways_of(after)
    for n, way in enumerate(ways):
        clip = after.with_tracks({Way.kind: found})
        known = _known(before, way, n)
        if found or way.stands:
            as_before = n == 0 and known is not None and known.start == way.start and way.stands and only_ways
            feet = known.stands if known is not None and as_before else feet_at(rig, clip, scene, way.start)
            way = replace(way, stands=feet, points=_begun(way.points, feet, bool(way.turn)))
        if anew or known is None or known != replace(way, end=known.end) or _quantities_differ(before, after, _PACES):
            way = _lying(rig, after, way, ground)
        plan = plan_of(rig, after, way)
        until = ways[n + 1].start - 1 if n + 1 < len(ways) else plan.end
        if until < plan.end:
            notes.append(f"the way from {way.start} is left at {until}, before it has come to its end at {plan.end}")
        found.append(replace(way, end=max(min(plan.end, until), way.start + 1)))
    after = after.with_tracks({Way.kind: found})
    return _in_phase(rig, before, after), tuple(notes)


def _concerned(before: Clip, after: Clip) -> bool:
    if before.tracks.get(Way.kind, ()) != after.tracks.get(Way.kind, ()) or _quantities_differ(before, after):
        return True
    begins_there = any(way.stands for way in ways_of(after)[:1])
    own, was = own_curves(after.curves), own_curves(before.curves)
    return begins_there and any(own.get(a) is not was.get(a) for a in own.keys() | was.keys())


def _only_ways_differ(before: Clip, after: Clip) -> bool:
    """Whether all that is keyed is the very same, and there is nothing else that anybody could stand by."""
    return before.curves is after.curves and not (before.tracks.keys() | after.tracks.keys()) - {Way.kind}


def _quantities_differ(before: Clip, after: Clip, among: Collection[str] = QUANTITIES) -> bool:
    one, other = quantities_in(before.curves), quantities_in(after.curves)
    return any(one.get(name) is not other.get(name) for name in one.keys() | other.keys() if name in among)


def _known(before: Clip, way: Way, n: int) -> Way | None:
    ways = ways_of(before)
    return ways[n] if n < len(ways) else None


def feet_at(rig: Rig, clip: Clip, scene: Scene, frame: int) -> tuple[Stand, ...]:
    """How both feet stand at a frame by what is keyed and by ways, without what lies over these."""
    posed = AsIf(scene).posed(bare(clip, Plant, Belonging, Way), np.array([float(frame)]))
    rest = at_rest(rig)
    found = []
    legs = legs_of(rig)
    for side, limb in sorted(legs.items()):
        place = posed.nodes[0, limb.target, :3]
        # Legs of a creature turn as they reach: it is the body that faces somewhere.
        node = limb.end if len(legs) == 2 else rig.control("body").node
        turned = multiply(posed.nodes[0, node, 3:7], inverse(rest[node, 3:7]))
        ahead = rotate(turned, np.array([0.0, 0.0, 1.0]))
        one: Stand = Stand(cast(Side, side), round(float(place[0]), 6), round(float(place[2]), 6),
                           round(float(np.arctan2(ahead[0], ahead[2])), 6),
                           round(float(place[1] - rest[limb.target, 1]), 6))  # fmt: skip
        found.append(one)
    return tuple(found)


def _begun(points: Sequence[Point], feet: Sequence[Stand], turns: bool) -> tuple[Point, ...]:
    """Points of which the first lies amidst the feet; of a turn on the spot the second ahead of these."""
    x, z = (float(np.mean([one[k] for one in ((foot.x, foot.z) for foot in feet)])) for k in (0, 1))
    first = replace(points[0], place=(x, z))
    if turns:
        heading = feet[0].heading + 0.5 * _near(feet[1].heading - feet[0].heading)
        return first, Point((x + float(np.sin(heading)), z + float(np.cos(heading))))
    return (first, *points[1:])


def _near(angle: float) -> float:
    return float((angle + np.pi) % (2.0 * np.pi) - np.pi)


def bare(clip: Clip, *kinds: type[Span]) -> Clip:
    """The clip with spans of some kinds alone: without what lies over the motion, on whatever that is laid."""
    return clip.with_tracks({t: () for t, spans in clip.tracks.items() if spans and not isinstance(spans[0], kinds)})


class _GroundUnder:
    """The props of a scene under footfalls; opened only where there are some."""

    def __init__(self, scene: Scene) -> None:
        cast, of = scene.figures, scene.of
        self._props = {
            n: cast[n] for n in scene.skins if n != of and cast[n].plays and cast[n].rig.plan.is_prop
        }  # fmt: skip
        self._skins = {n: scene.skins[n] for n in self._props} if self._props else {}

    def __bool__(self) -> bool:
        return bool(self._props)

    def at(self, frames: Array) -> Ground | None:
        if not self._props:
            return None
        return ground_of(played(self._props, frames), self._skins)


def _lying(rig: Rig, clip: Clip, way: Way, under: _GroundUnder) -> Way:
    """A way with what its footfalls lie on; feet that would stand across the edge of a step go on or back a little."""
    bare = replace(way, lies=(), under=())
    if not under:
        return bare
    set_by_hand: set[tuple[int, str]] = {(hand.number, hand.side) for hand in way.hands if hand.place is not None}
    lies = _on_ground(rig, clip, bare, under, set_by_hand)
    plainly: tuple[Lies, ...] = ()
    if set_by_hand:
        plain = replace(bare, hands=tuple(replace(hand, place=None, heading=None) for hand in way.hands))
        would = {(one.number, one.leg): one for one in _on_ground(rig, clip, plain, under, set())}
        plainly = tuple(would.get(key, Lies(*key, 0.0)) for key in sorted(set_by_hand))
    return replace(bare, lies=lies, under=plainly)


def _on_ground(
    rig: Rig, clip: Clip, way: Way, under: _GroundUnder, set_by_hand: set[tuple[int, str]]
) -> tuple[Lies, ...]:  # fmt: skip
    """What footfalls of a way lie on that is not told yet; those ``set_by_hand`` lie nowhere else."""
    plan = plan_of(rig, clip, way)
    ground = under.at(np.array([float(max(one.first, way.start)) for one in plan.found]))
    if ground is None:
        return ()
    limb = next(iter(legs_of(rig).values()))
    points = {name: float(place[2]) for name, place in limb.points.items()}
    heel, tip = min(points.values(), default=-0.05), max(points.values(), default=0.15)
    climbs = CLIMBS * float(sum(limb.lengths))
    places = np.array([one.place for one in plan.found])
    ahead = np.array([[np.sin(one.heading), np.cos(one.heading)] for one in plan.found])
    shifts = [_SHIFTS[:1] if _stays(one, way, set_by_hand) else _SHIFTS for one in plan.found]
    ball = points.get("ball", tip)
    along = _SHIFTS[:, None] + np.array([0.0, heel - _SPARE, tip + _SPARE, heel, tip, ball])[None]  # (S, 6)
    begins = max((stand.y for stand in way.stands), default=way.level)
    heights, normals, chosen = _settled(ground, plan.found, places, ahead, along, shifts, climbs, begins)
    lies = []
    for n, one in enumerate(plan.found):
        s = chosen[n]
        height, normal = float(heights[n, s, 0]), normals[n, s, 0]
        if abs(height) < 1e-9 and normal[1] > 1.0 - 1e-12 and not _SHIFTS[s]:
            continue
        lies.append(Lies(one.number, one.side, round(height, 6), round(float(-normal[0] / normal[1]), 6),
                         round(float(-normal[2] / normal[1]), 6), float(_SHIFTS[s])))  # fmt: skip
    return tuple(lies)


def _stays(one: Footfall, way: Way, set_by_hand: set[tuple[int, str]]) -> bool:
    return (one.number <= 0 and bool(way.stands)) or (one.number, one.side) in set_by_hand


def _settled(
    ground: Ground, found: Sequence[Footfall], places: Array, ahead: Array, along: Array, shifts: Sequence[Array],
    climbs: float, begins: float,
) -> tuple[Array, Array, list[int]]:  # fmt: skip
    """Heights (N, S, K) and normals of points along each foot for each shift, and which shift each footfall takes.

    Each foot steps no higher than so far above that which landed before it, so that what is found goes from the first
    to the last.
    """
    count, (ways, each) = len(found), along.shape
    before, stale = np.full(count, begins), np.arange(count)
    heights, normals = np.zeros((count, ways, each)), np.zeros((count, ways, each, 3))
    chosen = [0] * count

    def look(rows: Ints, some: slice) -> None:
        flat = places[rows, None] + along[some].reshape(1, -1, 1) * ahead[rows, None]
        high, up = _lying_over_gaps(ground.at(rows), flat, before[rows] + climbs, ahead[rows])
        heights[rows, some] = high.reshape(len(rows), -1, each)
        normals[rows, some] = up.reshape(len(rows), -1, each, 3)

    for _ in range(count + 1):
        look(stale, slice(0, 1))
        # Most lie whole where the way has them: only of the others it is looked beside.
        across = np.array(
            [n for n in stale.tolist() if len(shifts[n]) > 1 and not _whole(heights[n], normals[n], 0, 0)]
        )
        if len(across):
            look(across.astype(np.int64), slice(1, ways))
        for n in stale.tolist():
            chosen[n] = _shift(heights[n], normals[n], len(shifts[n])) if n in across else 0
        mine = np.array([heights[n, chosen[n], 0] for n in range(count)])
        now = np.concatenate([[begins], mine[:-1]])
        stale = np.flatnonzero(np.abs(now - before) > 1e-9)
        before = now
        if not len(stale):
            break
    return heights, normals, chosen


def _lying_over_gaps(ground: Ground, flat: Array, from_high: Array, ahead: Array) -> tuple[Array, Array]:
    """Heights (R, P) and normals (R, P, 3) of what lies under points of feet ``flat (R, P, 2)``, x and z, looked for
    from so high (R,) downwards; where that is a gap between two edges a sole lies on these.

    ``ahead (R, 2)`` is where each foot points.
    """
    count, each = flat.shape[:2]
    across = np.stack([ahead[:, 1], -ahead[:, 0]], axis=1)
    off = _GAP * np.stack([0.0 * ahead, across, -across, ahead, -ahead], axis=1)  # (R, 5, 2)
    wide = (flat[:, None] + off[:, :, None]).reshape(count, -1, 2)
    points = np.stack([wide[..., 0], np.broadcast_to(from_high[:, None], wide.shape[:2]), wide[..., 1]], axis=-1)
    heights, normals = ground.lying(points)
    heights, normals = heights.reshape(count, 5, each), normals.reshape(count, 5, each, 3)
    high, up = heights[:, 0].copy(), normals[:, 0].copy()
    for one, other in ((1, 2), (3, 4)):
        lower = np.where(heights[:, one] <= heights[:, other], one, other)[:, None]
        edge = np.take_along_axis(heights, lower, axis=1)[:, 0]
        gap = high < edge - _EDGE
        high = np.where(gap, edge, high)
        up = np.where(gap[..., None], np.take_along_axis(normals, lower[..., None], axis=1)[:, 0], up)
    return high, up


def _whole(heights: Array, normals: Array, shift: int, which: int) -> bool:
    """Whether a foot lies on one surface, or on one that is steep, by some of its points."""
    off = heights[shift, _WHOLE[which]] - heights[shift, 0]
    return bool(normals[shift, 0, 1] < _FLAT or np.abs(off).max() <= _EDGE)


def _shift(heights: Array, normals: Array, ways: int) -> int:
    """The least shift by which a whole foot lies on one surface, with something to spare or without, or but for its
    toes; none where there is no such one."""
    for which in range(len(_WHOLE)):
        for s in range(ways):
            if _whole(heights, normals, s, which):
                return s
    return 0


# Keys over a way


def _in_phase(rig: Rig, before: Clip, after: Clip) -> Clip:
    """The clip with keys of layers where their phase has come, where footfalls land on other frames than before."""
    was = dict(enumerate(plans_of(rig, before)))
    pairs = [(was[n], plan) for n, plan in enumerate(plans_of(rig, after)) if n in was]
    changes: dict[str, Curve | None] = {}
    for old, new in pairs:
        frames = _landings(old, new)
        if frames is None:
            continue
        for address, curve in after.curves.items():
            layer, _ = parted(address)
            if layer and layer != OF_WAYS and before.curves.get(address) is curve:
                moved = _warped(changes.get(address) or curve, *frames)
                if moved is not None:
                    changes[address] = moved
    return after.with_curves(changes) if changes else after


def _landings(old: Plan, new: Plan) -> tuple[Array, Array] | None:
    """Frames on which the same feet land, before and now; None where they all stay."""
    now = {one.number: one.first for one in new.found if one.number > 0}
    was = {one.number: one.first for one in old.found if one.number > 0}
    shared = sorted(now.keys() & was.keys())
    if not shared:
        return None
    one = np.array([old.way.start, *(was[n] for n in shared)], float)
    two = np.array([new.way.start, *(now[n] for n in shared)], float)
    rising = np.concatenate([[True], (np.diff(one) > 0) & (np.diff(two) > 0)])
    one, two = one[rising], two[rising]
    return None if np.array_equal(one, two) else (one, two)


def _warped(curve: Curve, was: Array, now: Array) -> Curve | None:
    """A curve with keys from the first of some frames on where these have come; None where nothing moves."""
    table = curve.table.copy()
    frames = table[:, FRAME]
    mine = frames >= was[0]
    to = np.where(frames > was[-1], frames + now[-1] - was[-1], np.interp(frames, was, now))
    to = np.where(mine, np.floor(to + 0.5), frames)
    if np.array_equal(to, frames):
        return None
    for column in (IN_TIME, OUT_TIME):
        wide = np.maximum(np.gradient(to) / np.maximum(np.gradient(frames), 1e-9), 0.0) if len(to) > 1 else np.ones(1)
        table[:, column] = table[:, column] * np.where(mine, wide, 1.0)
    table[:, FRAME] = to
    order = np.argsort(to, kind="stable")
    table = table[order]
    last = np.append(np.diff(table[:, FRAME]) > 0, True)  # of two on one frame the later one stays
    return from_table(table[last])


def rests_of(rig: Rig) -> tuple[Rest, ...]:
    """Where the feet of a creature are as it stands; nothing of who goes on two legs."""
    legs = legs_of(rig)
    if len(legs) == 2:
        return ()
    rest = at_rest(rig)
    places = {name: rest[limb.target, [0, 2]] for name, limb in legs.items()}
    middle = np.mean(list(places.values()), axis=0)
    # Pairs, the hindmost first: each name is of one but for its side.
    pairs = sorted({name.rpartition(".")[0] for name in legs}, key=lambda pair: float(places[f"{pair}.L"][1]))
    return tuple(
        Rest(name, rig.control(limb.ik).side, pairs.index(name.rpartition(".")[0]),
             round(float(places[name][1] - middle[1]), 6), round(float(places[name][0] - middle[0]), 6),
             round(min(float(rest[limb.upper, 1]), 0.9 * sum(limb.lengths)), 6))
        for name, limb in legs.items()
    )  # fmt: skip


def refuse_unable(rig: Rig) -> None:
    """Raises :class:`BadEdit` for a figure that cannot go along ways."""
    legs_of(rig)


def reach_of(rig: Rig) -> float:
    """Metres that one foot may land away from the other at most, in a walk."""
    return 1.15 * leg_length(rig)


def way_at(clip: Clip, start: int) -> Way:
    """The way that begins at a frame.

    Raises
    ------
    BadEdit
        If none does.
    """
    found = next((way for way in ways_of(clip) if way.start == start), None)
    if found is None:
        raise BadEdit(f"no way begins at {start}; it may have been changed meanwhile. Nothing was changed")
    return found


def with_way(clip: Clip, old: Way | None, new: Way | None) -> Clip:
    """The clip with a way in place of another one."""
    others: list[Way] = [way for way in ways_of(clip) if way is not old]
    return clip.with_tracks({Way.kind: others if new is None else _in_order(others, new)})


def _in_order(others: Sequence[Way], new: Way) -> list[Way]:
    """Ways in the order of time, each ending before the next; where each really ends is found afterwards."""
    if any(other.start == new.start for other in others):
        raise BadEdit(f"a way begins at {new.start} already; change that one. Nothing was changed")
    found = sorted([*others, new], key=lambda way: way.start)
    return [
        replace(way, end=min(way.end, found[n + 1].start - 1)) if n + 1 < len(found) else way
        for n, way in enumerate(found)
    ]
