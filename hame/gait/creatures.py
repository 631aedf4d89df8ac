"""Creatures on four and six legs, or more: when each leg lands in a stride, and where.

A gait is the share of a stride that a foot is on the ground, and the phase of each leg: how much of a stride after the
left hind leg it lands.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import NamedTuple, cast

import numpy as np

from hame.errors import BadEdit
from hame.gait.footfalls import STAYS, Footfall, Pace, Side, course_of, whole_frame
from hame.gait.line import Line
from hame.maths.rotations import Array


class Phases(NamedTuple):
    """When legs land, each so much of a stride after the left hind leg.

    Attributes
    ----------
    right : how much later the right hind leg lands than the left
    fore : how much later than the hind leg of its side the left fore leg lands
    fore_right : how much later than the left fore leg the right one lands
    """

    right: float
    fore: float
    fore_right: float

    def of(self, side: str, pair: str) -> float:
        """Of one leg, from 0 to 1."""
        if pair == "hind":
            return 0.0 if side == "L" else self.right % 1.0
        return (self.fore + (0.0 if side == "L" else self.fore_right)) % 1.0


# Of symmetrical gaits, after Hildebrand ("Symmetrical gaits of horses", Science 150, 1965, and "The quadrupedal gaits
# of vertebrates", BioScience 39, 1989; from memory): a fore foot lands after the hind foot of its side by 25 % of a
# stride in a walk in lateral sequence, by 50 % in a trot, with it in a pace. Of asymmetrical ones, both feet of a pair
# land close together: three beats of a canter, four of a gallop in which fore follow hind and then nothing stands.
WALK, TROT, PACE = Phases(0.5, 0.25, 0.5), Phases(0.5, 0.5, 0.5), Phases(0.5, 0.0, 0.5)
CANTER, GALLOP = Phases(0.33, 0.33, 0.33), Phases(0.12, 0.45, 0.12)


def wave(pairs: int, share: float) -> list[tuple[float, float]]:
    """When the legs of so many pairs land, left and right of each from the hindmost on: a wave that goes forward.

    Each leg is lifted as the one behind it lands, and so lands after that by the time that a foot is in the air
    (Wilson, "Insect walking", Annual Review of Entomology 11, 1966; from memory). On the ground for half of a stride,
    six legs go in two tripods; for longer, ever fewer are in the air at once.
    """
    lag = 1.0 - share
    return [((n * lag) % 1.0, (n * lag + 0.5) % 1.0) for n in range(pairs)]


@dataclass(frozen=True)
class Leg:
    """A leg of a creature.

    Attributes
    ----------
    phase : how much of a stride after the first it lands
    ahead, aside : how far ahead of the middle of the creature, and to its left, it stands at rest, metres
    """

    name: str
    phase: float
    ahead: float
    aside: float


@dataclass(frozen=True)
class LegFall:
    """A foot of a creature that stands: from which frame to which, and where (x, z), metres."""

    name: str
    first: int
    last: int
    place: tuple[float, float]
    heading: float
    along: float


def falls_of(
    line: Line, pace: Pace, legs: Sequence[Leg], first: int, fps: float, starts: float = 0.0, ends: bool = False,
    slows: float = 0.0,
) -> list[LegFall]:  # fmt: skip
    """The footfalls of a creature, leg by leg in the order of time; two steps of the pace are a stride.

    Each foot stands, in the middle of its time on the ground, where the creature's middle has it at rest.

    Raises
    ------
    BadEdit
        If it has no legs, or would go nowhere.
    """
    if not legs:
        raise BadEdit("a creature that goes has legs; nothing was changed")
    course = course_of(line, pace, first, fps, (starts, slows), ends)
    strides = (course.phase - course.phase[0]) / 2.0
    frames = np.arange(len(strides), dtype=float)
    growing = strides + frames * 1e-13
    found: list[LegFall] = []
    for leg in legs:
        count = int(np.floor(strides[-1] - leg.phase))
        lands = np.interp(leg.phase + np.arange(-1, count + 1), growing, frames, left=np.nan)
        for at in lands[np.isfinite(lands)].tolist():
            share = course.of(pace.share, at)
            over = float(np.interp(at, frames, strides)) + share
            if over > strides[-1]:
                break  # it still stands where all of it ends
            lifted = float(np.interp(over, growing, frames))
            along = course.far(float(np.interp(over - 0.5 * share, growing, frames)))
            found.append(_placed(line, course.of(pace.facing, at), leg, first, at, lifted, along))
    return sorted(found, key=lambda one: (one.name, one.first))


def _placed(
    line: Line, facing: float, leg: Leg, first: int, lands: float, lifted: float, along: float
) -> LegFall:  # fmt: skip
    places, headings = line.at(np.array([along]))
    faces = float(headings[0]) + facing
    ahead, left = np.array([np.sin(faces), np.cos(faces)]), np.array([np.cos(faces), -np.sin(faces)])
    x, z = places[0] + leg.ahead * ahead + leg.aside * left
    return LegFall(
        leg.name, first + whole_frame(lands), first + whole_frame(lifted), (float(x), float(z)), faces, along
    )  # fmt: skip


def on_ground(phases: Sequence[float], share: float, at: Array) -> Array:
    """How many legs stand (T,) at shares of a stride (T,), where each stands so much of it from its phase on."""
    return np.asarray(sum(((at - phase) % 1.0 < share).astype(int) for phase in phases))


@dataclass(frozen=True)
class Rest:
    """Where a foot of a creature is as it stands, seen from its middle: so many metres ahead, and to its left.

    ``pair`` tells which it belongs to, from the hindmost on, and ``side`` which side it is on; ``high`` is how high its
    leg begins, or how long it is where that is less.
    """

    name: str
    side: str
    pair: int
    ahead: float
    aside: float
    high: float


GAITS = {"walk": WALK, "trot": TROT, "pace": PACE, "canter": CANTER, "gallop": GALLOP}
WAVE = "wave"
# Froude numbers up to which four legs walk, and trot (Alexander 1989; from memory), and the shares of a stride that
# feet are then on the ground (Hildebrand 1989; from memory).
_WALKS, _TROTS = 0.4, 2.5
_SHARES = {"walk": 0.65, "pace": 0.5, "trot": 0.46, "canter": 0.4, "gallop": 0.3, WAVE: 0.56}


def usual_gait(legs: int, froude: float) -> str:
    """The gait that a creature on so many legs has at a Froude number."""
    if legs > 4:
        return WAVE
    return "walk" if froude <= _WALKS else "trot" if froude <= _TROTS else "gallop"


def share_of(gait: str) -> float:
    """How much of a stride a foot is usually on the ground in a gait."""
    return _SHARES.get(gait, 0.5)


def legs_in(gait: str, rests: Sequence[Rest], share: float) -> list[Leg]:
    """The legs of a creature with when each lands in a gait."""
    if gait in GAITS and len({rest.pair for rest in rests}) == 2:
        phases = GAITS[gait]
        return [Leg(r.name, phases.of(r.side, "fore" if r.pair else "hind"), r.ahead, r.aside) for r in rests]
    pairs = wave(max(rest.pair for rest in rests) + 1, share)
    return [Leg(r.name, pairs[r.pair][0 if r.side == "L" else 1], r.ahead, r.aside) for r in rests]


def falls_between_stands(
    line: Line, pace: Pace, legs: Sequence[Leg], first: int, fps: float, lead: int,
    eases: tuple[float, float], ends: bool,
) -> list[Footfall]:  # fmt: skip
    """The footfalls of a creature from a stand on, and to a stand if it ``ends``: each leg by its name as the side.

    A foot on which it stands at first is number 0; each leg counts its own. It gets going, and slows down, in so many
    steps, ``eases``.

    Raises
    ------
    BadEdit
        If it has no legs, or would go nowhere.
    """
    # It stands with its feet under it: those that land first in a stride are half way through their stand.
    half = 0.5 * float(pace.share[0])
    legs = [replace(leg, phase=(leg.phase - half) % 1.0) for leg in legs]
    falls = falls_of(line, pace, legs, first + lead, fps, eases[0], ends, eases[1] if ends else 0.0)
    found: list[Footfall] = []
    for leg in legs:
        mine = [one for one in falls if one.name == leg.name]
        stand, end = (_placed(line, float(pace.facing[at]), leg, first, 0.0, 0.0, along)
                      for at, along in ((0, 0.0), (-1, line.length)))  # fmt: skip
        swing = max(round(_swing(pace)), LEAST_SWING)
        # What it lands on while it still stands there at first is that stand.
        mine = [one for one in mine if one.first >= first + lead + swing]
        if ends:  # the rest of the way is gone by the step to the stand at its end
            mine = [one for one in mine if one.along < line.length - _SHORT]
        lifted = mine[0].first - swing if mine else first + lead
        rows = [(stand.place, stand.heading, first, max(lifted, first), 0.0)]
        rows += [(one.place, one.heading, one.first, one.last, one.along) for one in mine]
        if ends:
            lands = rows[-1][3] + swing
            rows.append((end.place, end.heading, lands, STAYS, line.length))
        found += [
            Footfall(n, cast(Side, leg.name), a, b, place, heading, along)
            for n, (place, heading, a, b, along) in enumerate(rows)
        ]
    return sorted(found, key=lambda one: (one.first, one.side))


LEAST_SWING = 2
_SHORT = 0.03  # metres before the end of a way


def _swing(pace: Pace) -> float:
    """Frames that a foot is in the air, in the middle of a way."""
    n = len(pace.cadence) // 2
    return float((1.0 - pace.share[n]) * 2.0 / max(float(pace.cadence[n]), 1e-3))
