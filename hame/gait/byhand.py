"""Footfalls as a person sets them: moved, given another time, taken out, put in; and a turn on the spot.

What is set stays set whatever the way does, and nothing else changes by it, but for what has to make room.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from itertools import zip_longest
from math import ceil, cos, pi, sin

import numpy as np

from hame.errors import BadEdit
from hame.gait.footfalls import OTHER, STAYS, Footfall, Side, Times
from hame.gait.line import Line

LEAST_AIR = 2  # frames in which a foot is in the air between two places where it stands
LEAST_ON = 1  # frames that it stands
_SIGN = {"L": 1.0, "R": -1.0}


@dataclass(frozen=True)
class Hand:
    """What a person has set of a footfall; None of a field that follows from the way.

    Attributes
    ----------
    number, side : which it is
    place : (x, z) in metres; ``heading`` radians
    first, last : frames on which it lands and is let go
    along, aside, turned : in place of place and heading, how far along the way and to its left it lies, metres, and
        turned from it, radians; it goes along with the way
    """

    number: int
    side: Side
    place: tuple[float, float] | None = None
    heading: float | None = None
    first: int | None = None
    last: int | None = None
    along: float | None = None
    aside: float | None = None
    turned: float | None = None

    def laid(self, line: Line, stretch: float = 1.0) -> Hand:
        """It with place and heading, of one that goes along with the way; what is set of these stays."""
        if self.along is None:
            return self
        far = self.along * stretch
        (at,), (heading,) = line.at(np.array([far]))
        aside = self.aside or 0.0
        place = (float(at[0] + aside * cos(heading)), float(at[1] - aside * sin(heading)))
        faces = float(heading) + (self.turned or 0.0)
        return replace(
            self, place=self.place or place, heading=faces if self.heading is None else self.heading, along=None
        )  # fmt: skip

    @property
    def fields(self) -> dict[str, object]:
        """What is set, by the name of the field of a footfall."""
        named = {"place": self.place, "heading": self.heading, "first": self.first, "last": self.last}
        return {name: value for name, value in named.items() if value is not None}


def with_hands(found: Sequence[Footfall], hands: Iterable[Hand]) -> list[Footfall]:
    """Footfalls with what is set by hand; a foot that lands earlier is let go earlier from where it stood before.

    What is set of footfalls that the way has no more is passed over: it comes back with them.

    Raises
    ------
    BadEdit
        If a foot would stand in two places at once, both set by hand.
    """
    result = {(one.number, one.side): one for one in found}
    order = list(result)
    wished: dict[tuple[int, Side], set[str]] = {}
    for hand in hands:
        key = (hand.number, hand.side)
        if key in result:
            result[key] = replace(result[key], **hand.fields)  # type: ignore[arg-type]
            wished[key] = wished.get(key, set()) | set(hand.fields)
    for side in dict.fromkeys(one.side for one in found):
        keys = [key for key in order if key[1] == side]
        for before, after in zip(keys[:-1], keys[1:], strict=True):
            one, other = result[before], result[after]
            if other.first - one.last >= LEAST_AIR:
                continue
            if "last" not in wished.get(before, ()):
                one = replace(one, last=other.first - LEAST_AIR)
            elif "first" not in wished.get(after, ()):
                other = replace(other, first=one.last + LEAST_AIR)
            result[before], result[after] = one, other
        mine = [result[key] for key in keys]
        for one, then in zip_longest(mine, mine[1:]):
            short = one.last - one.first < (LEAST_ON if one.number > 0 else 0)  # who goes at once lifts at once
            if short or (then is not None and then.first - one.last < LEAST_AIR):
                foot = {"L": "the left foot", "R": "the right foot"}.get(side, "a foot")
                raise BadEdit(
                    f"{foot} would stand in two places at once about frame {one.first}; set its times apart. "
                    "Nothing was changed"
                )
    return [result[key] for key in order]


def taken_out(found: Sequence[Footfall], number: int, gap: bool = False) -> list[Footfall]:
    """Footfalls without one: later ones keep their places, and are gone to with the other foot and a step sooner; or,
    with a ``gap``, all others stay as they are.

    Raises
    ------
    BadEdit
        If it is not there, or somebody stands on it at an end.
    """
    lands = [one for one in found if one.number == number]
    if not lands:
        raise BadEdit(f"there is no footfall {number}; nothing was changed")
    if number < 1 or any(one.last >= STAYS for one in lands):
        raise BadEdit("on the feet at the ends of a way somebody stands; nothing was changed")
    rest = [one for one in found if one.number != number]
    if gap:
        return rest
    if len(lands) > 1:  # a landing of both feet: all later ones a landing sooner
        sooner = min((one.first for one in found if one.number == number + 1), default=lands[0].first) - lands[0].first
        return [
            one if one.number < number
            else replace(one, number=one.number - 1, first=one.first - sooner, last=_sooner(one.last, sooner))
            for one in rest
        ]  # fmt: skip
    by_number: dict[int, list[Footfall]] = {}
    for one in found:
        by_number.setdefault(one.number, []).append(one)
    result = []
    for one in rest:
        before = by_number.get(one.number - 1)
        if one.number < number or before is None:
            result.append(one)
            continue
        was = before[0]
        if len(before) == len(by_number[one.number]) == 1:
            last = was.last if one.last < STAYS else STAYS
            result.append(replace(one, number=was.number, side=was.side, first=was.first, last=last))
        else:  # where both feet land at once each is itself, and stands as long
            last = STAYS if one.last >= STAYS else was.first + one.last - one.first
            result.append(replace(one, number=was.number, first=was.first, last=last))
    return result


def _sooner(last: int, by: int) -> int:
    return last if last >= STAYS else last - by


def put_in(found: Sequence[Footfall], after: int, step: int) -> list[Footfall]:
    """Footfalls with one more after a number: half way to the next, with the same foot as that before (a skip), in so
    many frames; all later ones keep places and feet, and come so much later.

    Raises
    ------
    BadEdit
        If there is no footfall before and after it.
    """
    before = next((one for one in found if one.number == after), None)
    following = next((one for one in found if one.number == after + 1), None)
    if before is None or following is None or before.last >= STAYS:
        raise BadEdit(f"after footfall {after} there is no step into which one could be put; nothing was changed")
    lands = following.first
    on = before.last - before.first
    place = tuple(0.5 * (a + b) for a, b in zip(before.place, following.place, strict=True))
    new = Footfall(
        after + 1, before.side, lands, lands + on, (place[0], place[1]), 0.5 * (before.heading + following.heading),
        0.5 * (before.along + following.along),
    )  # fmt: skip
    earlier = [
        replace(one, last=min(one.last, lands - LEAST_AIR)) if one.side == before.side and one.number <= after else one
        for one in found if one.number <= after
    ]  # fmt: skip
    later = [
        replace(one, number=one.number + 1, first=one.first + step, last=_sooner(one.last, -step))
        for one in found if one.number > after
    ]  # fmt: skip
    return [*earlier, new, *later]


def turned_on_the_spot(
    place: tuple[float, float], heading: float, angle: float, first: int, times: Times, width: float,
    most: float = 0.5 * pi, lead: int = 0,
) -> list[Footfall]:  # fmt: skip
    """The footfalls of a turn about a place, foot by foot, from a stand to a stand.

    The foot on the side to which it turns goes first, ``lead`` frames after the ``first``: while the weight goes to
    the other. None turns farther beside the other than ``most`` radians.

    Raises
    ------
    BadEdit
        If it does not turn.
    """
    if abs(angle) < 1e-6:
        raise BadEdit("a turn on the spot has an angle; nothing was changed")
    # The first foot opens by a half, the other comes after it by a whole, and so on: each pair by ``most`` at the most.
    pairs = max(ceil(abs(angle) / most), 1)
    leads: Side = "L" if angle > 0.0 else "R"

    def stands(number: int, side: Side, turned: float, lands: int, lifted: int) -> Footfall:
        faces = heading + turned
        out = _SIGN[side] * 0.5 * width
        at = (place[0] + out * cos(faces), place[1] - out * sin(faces))
        return Footfall(number, side, lands, lifted, at, faces, 0.0)

    swing, lifted = 2 * times.step - times.on, first + lead
    found = [
        stands(-1, leads, 0.0, first, lifted), stands(0, OTHER[leads], 0.0, first, lifted + times.step),
    ]  # fmt: skip
    for n in range(2 * pairs):
        side: Side = leads if n % 2 == 0 else OTHER[leads]
        lands = lifted + swing + n * times.step
        turned = angle * (n // 2 + 1) / pairs
        last = STAYS if n >= 2 * pairs - 2 else lands + times.on
        found.append(stands(n + 1, side, turned, lands, last))
    return found
