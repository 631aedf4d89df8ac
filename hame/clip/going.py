"""Where and when the feet of somebody stand who goes along a way, and how it is gone: from what is stored of it."""

from __future__ import annotations

from collections.abc import Hashable, Iterator, Mapping, Sequence
from dataclasses import dataclass, fields, replace
from functools import cached_property, lru_cache
from itertools import groupby
from math import ceil, cos, sin

import numpy as np

from hame.character.rig import Limb, Rig
from hame.clip.clip import Clip
from hame.clip.curve import Curve
from hame.clip.key import FRAME, Array
from hame.clip.layers import own_curves
from hame.clip.pacing import pace_of, traits_of, unevenly
from hame.clip.plants import Plant
from hame.clip.quantities import quantities_in
from hame.clip.remembered import Remembered
from hame.clip.spans import Span, track_name
from hame.clip.way import FOREVER, Lies, Way, ways_of
from hame.errors import BadEdit
from hame.gait.byhand import put_in, taken_out, turned_on_the_spot, with_hands
from hame.gait.creatures import falls_between_stands, legs_in, usual_gait
from hame.gait.footfalls import (
    STAYS,
    Footfall,
    Pace,
    Times,
    arrives,
    footfalls,
    usual_easing,
)
from hame.gait.line import Line, line_of, stretched
from hame.gait.traits import Traits
from hame.gait.usual import froude

MOST_FRAMES = 4000  # of a way: so many are made in about a second
SETTLES = 0.7  # seconds after the last landing until who stands is at rest
_WHOLLY, _FADES = 1.6, 1.2  # steps about one that was moved in which all follows, and then ever less
_TOGETHER = 8  # footfalls: those that are moved of so many in a row are found as one
_CROUCHES = 0.8  # seconds


# A plan hangs on the rig, the way and the quantities alone: other clips with the same ask for the same one.
_PLANS = Remembered()


@dataclass(frozen=True, eq=False)
class Plan:
    """What follows from a way before anybody is posed.

    Attributes
    ----------
    found : footfalls in the order in which they land
    pace : how it is gone, frame by frame from its first
    traits : the same of how it looks, from its first frame to its last
    plain : the footfalls where the way has them, and not where they were moved by hand
    end : the last frame until it is at rest, or goes on no longer
    """

    way: Way
    line: Line
    found: tuple[Footfall, ...]
    pace: Pace
    traits: Traits
    end: int
    plain: tuple[Footfall, ...]

    @property
    def nbytes(self) -> int:
        """Bytes, about."""
        frames = len(self.pace.speed) * len(fields(self.pace)) + (self.end - self.way.start) * len(fields(self.traits))
        return 8 * frames + 600 * len(self.found)

    @property
    def near(self) -> list[tuple[int, int, Array]]:
        """Footfalls that were moved by hand, a few in a row as one: the first and the last of them, and how much of a
        whole each frame (F,) is about them, from 1 to 0. Beyond that all goes as the way has it.
        """
        both = enumerate(zip(self.found, self.plain, strict=True))
        moved = [n for n, (one, other) in both if one is not other and one != other]
        if not moved:
            return []
        landed = sorted({one.first for one in self.found if one.number > 0})
        step = float(np.median(np.diff(landed))) if len(landed) > 1 else 0.5 * self.way.fps
        frames = np.arange(self.way.start, self.end + 1, dtype=float)
        parts: list[tuple[int, int]] = []
        near = []
        for _, some in groupby(moved, lambda n: n // _TOGETHER):
            away, part = np.full(len(frames), np.inf), list(some)
            for n in part:
                one = self.found[n]
                away = np.minimum(away, np.maximum(one.first - frames, frames - min(one.last, self.end)))
            fades = np.clip(1.0 - (np.maximum(away, 0.0) - _WHOLLY * step) / (_FADES * step), 0.0, 1.0)
            parts.append((part[0], part[-1]))
            near.append(fades * fades * (3.0 - 2.0 * fades))
        # Where several are near they share what is changed.
        shares = np.array(near) / np.maximum(np.sum(near, axis=0), 1e-12) * np.max(near, axis=0)
        return [(first, last, share) for (first, last), share in zip(parts, shares, strict=True)]

    @cached_property
    def lies(self) -> list[tuple[float, float, float]]:
        """By footfall, how high it lies, metres, and how steep along x and z."""
        return self._lying(self.way.lies)

    @cached_property
    def plain_lies(self) -> list[tuple[float, float, float]]:
        """The same of those that are ``plain``."""
        return self._lying((*self.way.lies, *self.way.under))

    def _lying(self, lies: Sequence[Lies]) -> list[tuple[float, float, float]]:
        told = {(one.number, one.leg): (one.height, one.along_x, one.along_z) for one in lies}
        return [told.get((one.number, one.side), (0.0, 0.0, 0.0)) for one in self.found]


def plan_of(rig: Rig, clip: Clip, way: Way) -> Plan:
    """The plan of a way of a clip.

    Raises
    ------
    BadEdit
        If it cannot be gone so.
    """
    keyed = quantities_in(clip.curves)
    told = clip.remembered("quantities", lambda: tuple((name, keyed[name].table.tobytes()) for name in sorted(keyed)))
    return _PLANS.get((rig, way, told), lambda: _planned(rig, way, keyed, told))


def legs_of(rig: Rig) -> dict[str, Limb]:
    """The legs of who goes: by side where there are two, of a creature by name.

    Raises
    ------
    BadEdit
        If it has none that it could go on.
    """
    legs = [limb for limb in rig.limbs if limb.kind == "leg"]
    if len(legs) < 2 or len(legs) % 2 or not (rig.has_control("body") and rig.has_control("master")):
        raise BadEdit("who goes a way has two legs or more, a body and a master; nothing was changed")
    if len(legs) > 2:
        return {limb.name: limb for limb in legs}
    return {rig.control(limb.ik).side: limb for limb in legs}


def leg_length(rig: Rig) -> float:
    """How long a leg is, metres; of a creature in the mean."""
    return float(np.mean([sum(limb.lengths) for limb in legs_of(rig).values()]))


def leg_of(rig: Rig, way: Way) -> float:
    """How long the legs are that go a way, metres: of a creature how high they hold it."""
    return float(np.mean([rest.high for rest in way.rests])) if way.rests else leg_length(rig)


def _planned(rig: Rig, way: Way, keyed: Mapping[str, Curve], told: Hashable) -> Plan:
    legs = legs_of(rig)
    if {rest.name for rest in way.rests} != (set(legs) if len(legs) > 2 else set()):
        raise BadEdit("this way is of a figure with other legs; draw one for this one. Nothing was changed")
    # A foot that is dragged changes nothing of what is found before it is set by hand.
    bare = replace(way, hands=(), lies=(), under=(), end=way.start + 1)
    line, pace, found = _PLANS.get(("laid out", rig, bare, told), lambda: _laid_out(rig, way, keyed))
    hands = [hand.laid(line, way.stretch) for hand in way.hands]
    as_it_goes = [replace(hand, place=None, heading=None).laid(line, way.stretch) for hand in way.hands]
    plain = with_hands(_ahead(found, (*way.lies, *way.under)), as_it_goes)
    found = with_hands(_ahead(found, way.lies), hands)
    last = max(one.first for one in found)
    end = last + ceil(SETTLES * way.fps) if way.comes_to_stand else max(way.start + way.lasts, way.start + 1)
    if end - way.start > MOST_FRAMES:
        raise BadEdit(
            f"a way takes {MOST_FRAMES:,} frames at most, and this one would take {end - way.start:,}: go faster, or "
            "in two ways. Nothing was changed"
        )
    if not way.comes_to_stand:
        found, plain = (_beyond(some, end) for some in (found, plain))
    traits = _PLANS.get(("traits", bare, told, end, last), lambda: traits_of(way, keyed, pace, end, last))
    return Plan(way, line, tuple(found), pace, traits, end, tuple(plain))


def _laid_out(rig: Rig, way: Way, keyed: Mapping[str, Curve]) -> tuple[Line, Pace, list[Footfall]]:
    """A way with its footfalls as they are before any is set by hand."""
    line = line_of(way.points, way.closed)
    pace = _up_to_its_end(way, line, pace_of(way, keyed, leg_of(rig, way)))
    found = unevenly(_footfalls(rig, way, line, pace), line, way, keyed)
    for one in way.changed:
        step = max(round(1.0 / max(float(pace.cadence[0]), 1e-3)), 2)
        found = put_in(found, one.number, step) if one.what == "in" else taken_out(found, one.number, one.what == "gap")
    if way.most:
        found = [one for one in found if one.number <= way.most or one.first > way.start + way.lasts]
    return line, pace, found


def _beyond(found: list[Footfall], end: int) -> list[Footfall]:
    """Footfalls up to a frame, and of each foot the next one, to which it is on its way there."""
    later: dict[str, Footfall] = {}
    for one in found:
        if one.first > end:
            later.setdefault(one.side, one)
    kept = [one for one in found if one.first <= end or later[one.side] is one]
    for side in dict.fromkeys(one.side for one in found):
        mine = [one for one in kept if one.side == side]
        if side not in later and len(mine) > 1 and mine[-1].last < end:  # as far and as long again as the one before
            one, other = mine[-1], mine[-2]
            place = (2.0 * one.place[0] - other.place[0], 2.0 * one.place[1] - other.place[1])
            first = max(one.last + one.first - other.last, end + 1)
            far = 2.0 * one.along - other.along
            kept.append(replace(one, number=one.number + 2, first=first, last=first + 1, place=place, along=far))
    return kept


def _ahead(found: list[Footfall], lies: Sequence[Lies]) -> list[Footfall]:
    """Footfalls moved so far ahead that each lies on one step."""
    by = {(one.number, one.leg): one.ahead for one in lies}
    return [
        replace(one, place=(
            one.place[0] + by[one.number, one.side] * sin(one.heading),
            one.place[1] + by[one.number, one.side] * cos(one.heading),
        )) if (one.number, one.side) in by else one
        for one in found
    ]  # fmt: skip


def plans_of(rig: Rig, clip: Clip) -> list[Plan]:
    """The plans of the ways of a clip that can be gone, in the order of time.

    What is stored can always be gone by itself; two who change it at once may leave what cannot, which then waits.
    """
    found = []
    for way in ways_of(clip):
        try:
            found.append(plan_of(rig, clip, way))
        except BadEdit:
            continue
    return found


def _footfalls(rig: Rig, way: Way, line: Line, pace: Pace) -> list[Footfall]:
    if way.rests:
        return _on_legs(way, line, pace, leg_of(rig, way))
    if way.turn:
        step = max(round(1.0 / float(pace.cadence[0])), 2)
        times = Times(max(round(2 * step * float(pace.share[0])), step + 1), step)
        place, headings = line.at(np.zeros(1))
        found = turned_on_the_spot(
            (float(place[0, 0]), float(place[0, 1])), float(headings[0]), way.turn, way.start, times,
            float(pace.width[0]), lead=way.lead,
        )  # fmt: skip
    else:
        # Who jumps off from a stand goes down first (common practice, no source).
        lead = max(way.lead, round(_CROUCHES * way.fps)) if pace.together[0] else way.lead
        if way.stretch == 1.0:
            found = footfalls(line, _after(pace, lead), way.start, way.fps, way.begins_with, lead, ends=way.ends)
        else:
            found = _stretched(way, line, _after(pace, lead), lead)
    stands = {stand.side: stand for stand in way.stands}
    return [
        replace(one, place=(stands[one.side].x, stands[one.side].z), heading=stands[one.side].heading)
        if one.number <= 0 and one.side in stands else one
        for one in found
    ]  # fmt: skip


def _up_to_its_end(way: Way, line: Line, pace: Pace) -> Pace:
    """The pace of a way up to where it comes to stand: what is keyed after that is of other ways, and it slows down by
    its own."""
    if not way.ends or way.turn or not (pace.speed * pace.cadence > 0.0).any():
        return pace
    count = way.lead + arrives(_after(pace, way.lead), line.length, way.fps) + 2
    return Pace(*(getattr(pace, one.name)[:count] for one in fields(pace)))


def _after(pace: Pace, lead: int) -> Pace:
    """A pace from so many frames later on, at which who goes begins to."""
    at = np.minimum(np.arange(max(len(pace.speed) - lead, 2)) + lead, len(pace.speed) - 1)
    return Pace(*(getattr(pace, one.name)[at] for one in fields(pace)))


def _on_legs(way: Way, line: Line, pace: Pace, leg: float) -> list[Footfall]:
    """The footfalls of a creature."""
    if way.turn:
        raise BadEdit("a creature turns along a way, and not on the spot; draw it one. Nothing was changed")
    share = float(pace.share[len(pace.share) // 2])
    legs = legs_in(_gait(way, pace, leg), way.rests, share)
    eases = usual_easing(pace, way.fps, 0), usual_easing(pace, way.fps, -1)
    found = falls_between_stands(line, _after(pace, way.lead), legs, way.start, way.fps, way.lead, eases, way.ends)
    stands = {stand.side: stand for stand in way.stands}
    return [
        replace(one, place=(stands[one.side].x, stands[one.side].z), heading=stands[one.side].heading)
        if one.number == 0 and one.side in stands else one
        for one in found
    ]  # fmt: skip


def _gait(way: Way, pace: Pace, leg: float) -> str:
    """How the legs of a creature go: as it is told, or as is usual at its speed."""
    if way.gait:
        return way.gait
    return usual_gait(len(way.rests), float(froude(np.array(np.median(pace.speed)), leg, way.gravity)))


def _stretched(way: Way, line: Line, pace: Pace, lead: int) -> list[Footfall]:
    """The footfalls of a way as it was before it was stretched, each so many times as far along it."""
    short = line_of(stretched(way.points, 1.0 / way.stretch), way.closed)
    slower = replace(pace, speed=pace.speed / way.stretch)
    found = footfalls(short, slower, way.start, way.fps, way.begins_with, lead, ends=way.ends)
    along = np.array([one.along for one in found])
    moved = line.at(way.stretch * along)[0] - short.at(along)[0]
    return [
        replace(one, along=way.stretch * one.along, place=(one.place[0] + float(x), one.place[1] + float(z)))
        for one, (x, z) in zip(found, moved, strict=True)
    ]


@lru_cache(maxsize=256)
def _foot_tracks(rig: Rig) -> dict[str, str]:
    return {side: track_name(Plant.kind, limb.ik) for side, limb in legs_of(rig).items()}


def planted_by(rig: Rig, clip: Clip, stored: Mapping[str, list[Span]]) -> dict[str, list[Span]]:
    """Plants by track as they play under the ways of a clip: footfalls from where the first way begins, and what is
    stored before it; all others as they are ``stored``."""
    plans = plans_of(rig, clip) if Way.kind in clip.tracks else []
    found = {track: list(spans) for track, spans in stored.items()}
    if not plans:
        return found
    begins = plans[0].way.start
    for side, track in _foot_tracks(rig).items():
        mine = [s if s.end < begins else replace(s, end=begins - 1) for s in found.get(track, []) if s.start < begins]
        until = FOREVER
        for plan, until in untils(plans, last_key(clip)):
            mine += [span for span in _plants(plan, side, until) if span.end >= span.start]
        mine += [s for s in found.get(track, []) if s.start > until]
        found[track] = mine
    return found


def untils(plans: Sequence[Plan], after: float) -> Iterator[tuple[Plan, int]]:
    """Plans, each with the last frame on which it counts: that before the next; or, where it goes on by keys that come
    ``after`` its end, that.
    """
    for n, plan in enumerate(plans):
        until = plans[n + 1].way.start - 1 if n + 1 < len(plans) else FOREVER
        goes_on = not plan.way.comes_to_stand and after > plan.end
        yield plan, min(until, plan.end) if goes_on else until


def last_key(clip: Clip) -> float:
    """The last frame on which a channel is keyed."""
    return max((float(curve.table[-1, FRAME]) for curve in own_curves(clip.curves).values()), default=-np.inf)


def _plants(plan: Plan, side: str, until: int) -> Iterator[Plant]:
    """The footfalls of a foot as plants, up to a frame: a foot that stays does so as long as nothing else is."""
    way = plan.way
    for one in plan.found:
        if one.side != side or one.first > min(until, plan.end) or (one.number <= 0 and one.last <= way.start):
            continue  # who goes at once lets go at once
        stays = one.last >= STAYS and until >= FOREVER
        yield _plant(max(one.first, way.start), min(one.last, until), 0 if stays else 1)


@lru_cache(maxsize=8192)
def _plant(start: int, end: int, release: int) -> Plant:
    """A plant; of the footfalls of a way few change at a time."""
    return Plant(start, end, release=release)
