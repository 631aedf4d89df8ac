"""What spans add to channel values by rule, in closed form: living holds, shakes, answers to events.

It is laid over keys and layers and comes before ties, so that planted feet stay
where they are, and before the rig's own program, so that feet posed by IK do.
A kind of rule is a kind of span and one row in ``ADDERS``.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from typing import Any

import numpy as np

from hame.clip.answers import Give, Knock
from hame.clip.blink import Blink
from hame.clip.clip import Clip
from hame.clip.counter import Counter
from hame.clip.footdown import FootDown
from hame.clip.living import Living
from hame.clip.played import played_spans
from hame.clip.rule import Rule, rules_of
from hame.clip.shake import Shake
from hame.clip.spans import Track
from hame.clip.through import CarryThrough
from hame.evaluate.blink import blink_adds
from hame.evaluate.footdown import foot_down_adds
from hame.evaluate.give import give_adds
from hame.evaluate.knock import knock_adds
from hame.evaluate.leaning import carry_through_adds, counter_adds
from hame.evaluate.living import living_adds
from hame.evaluate.players import Player, Players
from hame.evaluate.shake import shake_adds
from hame.evaluate.stage import Before, Hang, Keys, Rows, Stage, Task
from hame.maths.rotations import Array

# By kind, in the order in which they are laid: (player, track, span, times (T,), values (T, C)) -> what it adds (T, C).
Adder = Callable[[Player, str, Any, Array, Array], Array]
ADDERS: dict[str, Adder] = {
    Living.kind: lambda player, _, span, times, __: living_adds(player, span, times),
    Give.kind: lambda player, _, span, times, __: give_adds(player.rig, span, times),
    FootDown.kind: lambda player, track, span, times, values: foot_down_adds(
        player.rig, Track.named(track).about, span, times, values
    ),
    CarryThrough.kind: lambda player, _, span, times, values: carry_through_adds(player.rig, span, times, values),
    Counter.kind: lambda player, _, span, times, values: counter_adds(player.rig, span, times, values),
    Knock.kind: lambda player, track, span, times, values: knock_adds(
        player.rig, Track.named(track).about, span, times, values
    ),
    Blink.kind: lambda player, _, span, times, values: blink_adds(player.rig, span, times, values),
    Shake.kind: lambda player, track, span, times, values: shake_adds(
        player.rig, Track.named(track).about, span, times, values
    ),
}
_NEAR = 1e-12  # radians and metres: so exactly what is seen is keyed under rules that read the pose
_TRIES = 12


class Rules(Stage):
    """The stage that lays over keys what spans add by rule."""

    name = Rule.stage

    def concerns(self, clip: Clip) -> bool:
        return bool(clip.tracks) and any(span.counts for span in rules_of(clip))

    def task(self, players: Players, frames: Array, over: bool) -> Task:
        return _Adding()

    def hangs(self, players: Players) -> Iterator[Hang]:
        return iter(())  # what they add depends on nothing but the figure's own keys

    def back(self, players: Players, of: int, frame: int, wanted: Mapping[str, float], before: Before) -> Keys:
        """Rules may read the pose that is keyed, so that what to key is found step by step; they add but little."""
        time, player = np.array([float(frame)]), players[of]
        rig = player.rig
        keyed, asked = before(time).copy(), [address for address in wanted if rig.has_channel(address)]
        columns = [rig.number(address) for address in asked]
        seen = np.array([wanted[address] for address in asked])
        for _ in range(_TRIES):
            over = added(player, time, keyed)[0, columns]
            far = seen - over - keyed[0, columns]
            keyed[0, columns] = seen - over
            if not len(far) or np.abs(far).max() < _NEAR:
                break
        return {frame: {**wanted, **dict(zip(asked, keyed[0, columns].tolist(), strict=True))}}


class _Adding(Task):
    def values(self, rows: Rows, before: Array) -> Array:
        after = before.copy()
        for number, player in rows.players.items():
            if any(span.counts for span in rules_of(player.clip)):
                mine = rows.of(number)
                after[:, mine] += added(player, rows.times, before[:, mine])
        return after


def added(player: Player, times: Array, values: Array) -> Array:
    """What all rules of a player add to its channel values (T, C) at ``times (T,)``, of which there are some."""
    total = np.zeros_like(values)
    first, last = float(times.min()), float(times.max())
    for kind, adder in ADDERS.items():
        tracks = played_spans(player.clip, player.rig, kind, first, last)
        for track, spans in tracks.items():
            for span in spans:
                if not isinstance(span, Rule) or span.end < first or span.start > last or not span.counts:
                    continue
                rows = np.flatnonzero((times >= span.start) & (times <= span.end))
                if len(rows):
                    total[rows] += adder(player, track, span, times[rows], values[rows] + total[rows])
    return total
