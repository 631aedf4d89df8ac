"""Footfalls of ways set by hand: moved, given another time, taken out, put in."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Annotated, Literal

from hame.character.rig import Rig
from hame.clip.clip import Clip
from hame.clip.going import plan_of
from hame.clip.way import Changed
from hame.edits.edit import AtMost, Edit, Frame, Within
from hame.edits.outcome import Outcome
from hame.edits.wayed import way_at, with_way
from hame.edits.wayside import Metres, Turn
from hame.errors import BadEdit
from hame.gait.byhand import Hand
from hame.gait.footfalls import Footfall
from hame.scene.scene import Scene


@dataclass(frozen=True, kw_only=True)
class SetFootfall(Edit):
    """What a person sets of a footfall, told by its number and side; what is not given stays as it was set or follows.

    ``clear`` has all of it follow from the way again.
    """

    kind: Literal["set footfall"] = "set footfall"
    at: Frame
    number: Annotated[int, Within(1, 100_000, "")]
    side: Annotated[str, AtMost(40)]
    x: Metres | None = None
    z: Metres | None = None
    heading: Turn | None = None
    first: Frame | None = None
    last: Frame | None = None
    clear: bool = False

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        way = way_at(clip, self.at)
        found: dict[tuple[int, str], Footfall] = {(one.number, one.side): one for one in plan_of(rig, clip, way).found}
        one = found.get((self.number, self.side))
        if one is None:
            raise BadEdit(f"there is no footfall {self.number} {self.side} on that way; nothing was changed")
        others = [hand for hand in way.hands if (hand.number, hand.side) != (self.number, self.side)]
        if self.clear:
            if len(others) == len(way.hands):
                raise BadEdit("nothing of that footfall is set by hand; nothing was changed")
            return Outcome(with_way(clip, way, replace(way, hands=tuple(others))))
        mine = next((h for h in way.hands if (h.number, h.side) == (self.number, self.side)), None)
        mine = mine or Hand(self.number, one.side)
        given: dict[str, object] = {
            name: getattr(self, name) for name in ("heading", "first", "last") if getattr(self, name) is not None
        }
        if self.x is not None or self.z is not None:
            was = one.place
            given["place"] = (was[0] if self.x is None else self.x, was[1] if self.z is None else self.z)
        hand = replace(mine, **given)  # type: ignore[arg-type]
        return Outcome(with_way(clip, way, replace(way, hands=(*others, hand))))

    def label(self, rig: Rig, scene: Scene) -> str:
        return f"Footfall {self.number}{' as the way has it' if self.clear else ''}"


@dataclass(frozen=True, kw_only=True)
class TakeFootfall(Edit):
    """A footfall taken out: later ones keep their places and come a step sooner; with a ``gap`` they stay."""

    kind: Literal["take out footfall"] = "take out footfall"
    at: Frame
    number: Annotated[int, Within(1, 100_000, "")]
    gap: bool = False

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        return _changed(clip, rig, self.at, Changed(self.number, "gap" if self.gap else "out"))

    def label(self, rig: Rig, scene: Scene) -> str:
        return f"Take out footfall {self.number}"


@dataclass(frozen=True, kw_only=True)
class PutFootfall(Edit):
    """A footfall more after one, half way to the next and with the same foot: a skip."""

    kind: Literal["put in footfall"] = "put in footfall"
    at: Frame
    number: Annotated[int, Within(1, 100_000, "")]

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        return _changed(clip, rig, self.at, Changed(self.number, "in"))

    def label(self, rig: Rig, scene: Scene) -> str:
        return f"A footfall more after {self.number}"


def _changed(clip: Clip, rig: Rig, at: int, one: Changed) -> Outcome:
    way = way_at(clip, at)
    if way.rests:
        raise BadEdit("of a creature no footfall is taken out or put in: its legs go by one gait. Nothing was changed")
    by = 1 if one.what == "in" else 0 if one.what == "gap" else -1
    hands = tuple(
        replace(hand, number=hand.number + (by if hand.number > one.number else 0))
        for hand in way.hands
        if hand.number != one.number or one.what == "in"
    )
    # What was set of times of later ones would hold them where they are.
    if by:
        hands = tuple(replace(h, first=None, last=None) if h.number >= one.number else h for h in hands)
        hands = tuple(hand for hand in hands if hand.fields)
    new = replace(way, changed=(*way.changed, one), hands=hands)
    clip = with_way(clip, way, new)
    plan_of(rig, clip, new)
    return Outcome(clip)
