"""Faults of weight in motion: what no ground could give, no fall would do and no hand could hold.

All of it is of frames: a force is the mean of three in a row, and but for landings, without what changes too fast to be
seen.
"""

from __future__ import annotations

from abc import abstractmethod
from collections.abc import Iterator
from dataclasses import replace
from math import degrees

import numpy as np

from hame.character.masses import masses_of
from hame.edits.airturn import TurnInFlight
from hame.edits.counter import LayCounter
from hame.edits.easeturn import EaseTurn
from hame.edits.flights import Fly
from hame.edits.heavy import eased
from hame.edits.underway import BorneInMotion
from hame.faults.fault import Alert, Fault
from hame.faults.look import Look
from hame.maths.rotations import Array
from hame.measure.found import runs
from hame.measure.heaving import forces, heaves
from hame.measure.twisting import friction_of_turn

SHORTEST = 5  # frames: a shorter flight is a step of a run, and too short to judge
AFTER = 4  # frames after a flight in which it lands
_FAR = 200.0  # centimetres: beyond, how far says nothing more
_PRESSES = 0.1  # of the weight: what presses less has no friction to speak of


class WeightFault(Fault):
    """A fault of a body in motion."""

    group = "weight"

    def found(self, look: Look) -> Iterator[Alert]:
        if not look.rig.plan.is_prop and len(look.posed.nodes) >= SHORTEST:
            yield from self.of_body(look)

    @abstractmethod
    def of_body(self, look: Look) -> Iterator[Alert]:
        """The faults of a body."""

    def alert(self, look: Look, a: int, b: int, amount: Array, says: str) -> Alert:
        """Frames ``a`` to ``b`` counted from the first that is looked at; ``says`` has a place for the most of them."""
        worst = a + int(np.argmax(amount[a : b + 1]))
        much = float(amount[worst])
        return Alert(self.kind, "body", look.first + a, look.first + b, look.first + worst, much, says.format(much))


class Pressure(WeightFault):
    """Asks for more than what bears it reaches: the centre of pressure is outside. Hands that hold can draw as well."""

    kind = "pressure"

    def of_body(self, look: Look) -> Iterator[Alert]:
        outside = 100.0 * np.nan_to_num(np.where(look.by_feet, -look.moving_margins, 0.0), nan=0.0)
        for a, b in runs(outside > 100.0 * look.limits.outside):
            if b - a + 1 >= look.limits.frames:
                far = "{:.0f} cm" if outside[a : b + 1].max() < _FAR else "more than 2 m"
                says = f"no ground could bear it so: it is borne {far} beside its feet in motion"
                lean = LayCounter(first=look.first + a, last=look.first + b, moving=True)
                goes = BorneInMotion(first=look.first + a, last=look.first + b)
                alert = self.alert(look, a, b, outside, says).mended(goes, "let its body go so that its feet bear it")
                yield replace(alert, others=((lean, "let trunk and arms lean against it"),))


class Pulled(WeightFault):
    """Comes down faster than it would fall, with its feet on the ground."""

    kind = "pulled"

    def of_body(self, look: Look) -> Iterator[Alert]:
        down = 100.0 * np.where(look.by_feet, -look.weights[:, 1], 0.0)
        for a, b in runs(down > look.limits.pull):
            yield self.alert(look, a, b, down, "the ground would have to pull it down with {:.0f} % of its weight")


class Slides(WeightFault):
    """Pushes along the ground more than its friction holds."""

    kind = "friction"

    def of_body(self, look: Look) -> Iterator[Alert]:
        along = np.linalg.norm(look.weights[:, [0, 2]], axis=1)
        up = look.weights[:, 1]
        asked = np.where(look.by_feet & (up > _PRESSES), along / np.maximum(up, _PRESSES), 0.0)
        for a, b in runs(asked > look.limits.friction):
            says = f"its feet would slip: it asks for a friction of {{:.1f}}, and has {look.limits.friction:g}"
            yield self.alert(look, a, b, asked, says)


class Twists(WeightFault):
    """Turns about the upright with more than its friction holds: the soles hold as a disc of their size does."""

    kind = "twist"

    def of_body(self, look: Look) -> Iterator[Alert]:
        asked = np.where(look.by_feet, friction_of_turn(look.steadied, look.stands, look.gravity), 0.0)
        for a, b in runs(asked > look.limits.friction):
            limit = look.limits.friction
            says = f"its feet would turn on the ground: it asks for a friction of {{:.1f}}, and has {limit:g}"
            ease = EaseTurn(first=look.first + a, last=look.first + b, friction=limit)
            yield self.alert(look, a, b, asked, says).mended(ease, "let it start and stop turning more slowly")


class Floats(WeightFault):
    """A flight in which the mass does not fall as things fall."""

    kind = "flight"

    def of_body(self, look: Look) -> Iterator[Alert]:
        for flight in look.flights:
            percent = 100.0 * flight.gravity
            if flight.frames >= SHORTEST and abs(percent - 100.0) > look.limits.flight:
                middle = (flight.release + flight.landing) // 2
                says = f"a flight of {flight.frames} frames that falls with {percent:.0f} % of gravity"
                how = f"let it fall as things do, {flight.frames} frames and so high as that takes"
                yield Alert(
                    self.kind, "body", flight.release, flight.landing, middle, abs(percent - 100.0), says,
                    Fly(at=middle), how,
                )  # fmt: skip


class Spins(WeightFault):
    """A flight in which the whole turns as nothing turns it: its angular momentum does not stay what it was."""

    kind = "turning"

    def of_body(self, look: Look) -> Iterator[Alert]:
        for flight in look.flights:
            off = degrees(look.turning(flight).uneven) if flight.frames >= SHORTEST else 0.0
            if off > look.limits.turning:
                middle = (flight.release + flight.landing) // 2
                says = f"is turned in the air by up to {off:.0f}° a second, and nothing turns it"
                yield Alert(
                    self.kind, "body", flight.release, flight.landing, middle, off, says, TurnInFlight(at=middle),
                    "let it turn as it may, as far as it does",
                )  # fmt: skip


class Lands(WeightFault):
    """A landing without give."""

    kind = "landing"

    def of_body(self, look: Look) -> Iterator[Alert]:
        up = look.dynamics.force[:, 1] / max(look.gravity, 1e-9)
        for flight in look.flights:
            b = flight.landing - look.first
            last = min(b + AFTER, len(up) - 1)
            if flight.frames >= SHORTEST and last > b and up[b : last + 1].max() > look.limits.landing:
                yield self.alert(look, b, last, up, "lands with {:.1f} times its weight: it gives too little")


class Strength(WeightFault):
    """A thing that is moved with more force than it is carried with."""

    kind = "strength"

    def of_body(self, look: Look) -> Iterator[Alert]:
        for load in look.loads:
            asked = forces(load, look.fps, look.gravity)[0]
            moves = heaves(load, look.first, look.fps, look.gravity, look.limits.strength)
            for a, b in runs(asked > look.limits.strength):
                kilograms = masses_of(load.rig).kilograms
                says = f"what it carries asks for {{:.0f}} N; it weighs {kilograms:.3g} kg"
                alert = self.alert(look, a, b, asked, says)
                move = next((one for one in moves if one.first <= alert.worst <= one.last), None)
                ways = eased(move, look.limits.strength) if move is not None else []
                yield replace(alert.mended(*ways[0]), others=tuple(ways[1:])) if ways else alert
