"""A flight as things fall: as many frames, as high, or with such a share of gravity as is wished."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Literal

import numpy as np

from hame.character.rig import Rig
from hame.clip.clip import Clip
from hame.clip.curve import Curve, from_keys, from_table
from hame.clip.key import BEZIER, FRAME, FREE_BOTH, HANDLES, IN_TIME, IN_VALUE, OUT_TIME, OUT_VALUE, SHAPE
from hame.clip.sampling import sample_curve
from hame.clip.spans import Reach
from hame.edits.asif import AsIf
from hame.edits.chosen import counted, refuse_derived
from hame.edits.cleaning import fitted_table
from hame.edits.edit import Edit, Frame, Within
from hame.edits.merging import parted_at
from hame.edits.outcome import Outcome
from hame.edits.retime import warped
from hame.errors import BadEdit
from hame.evaluate.posed import Posed
from hame.maths import rotations
from hame.maths.rotations import Array
from hame.maths.thinning import BETWEEN, SUB, between_frames, thinned
from hame.measure.dynamics import GRAVITY
from hame.measure.flights import Flight, airborne, fall, flights, parabola, rise_of, seconds_of
from hame.measure.mass import centre_of_mass
from hame.scene.scene import Scene

WHOLE = "master"
NEAR = (0.00055, 0.0011, 0.0018)
"""Metres that the mass may be off its parabola along each axis: a millimetre in all; more, where that saves keys."""
MOST_KEYS = 6
HELD = 0.01  # metres off in the end: something keeps it from falling
_ROUNDS, _NONE = 3, 1e-6
LONGEST, AROUND = 2000, 600  # frames: of a flight that is wished, and how far one that is there is looked for
Height = Annotated[float, Within(0.001, 100.0, "height in metres")]
Share = Annotated[float, Within(0.01, 10.0, "share of gravity")]


@dataclass(frozen=True, kw_only=True)
class Fly(Edit):
    """The flight about a frame made to fall as things do: the whole figure is moved along, and keeps its motion about
    its mass.

    Wished is how many ``frames`` it takes, or how ``height`` far its mass rises above its release, metres; without both
    it takes as long as it does. ``gravity`` is a share of that of the earth. Where frames are made or taken away, all
    later keys go along.
    """

    kind: Literal["fly"] = "fly"
    at: Frame
    frames: Frame | None = None
    height: Height | None = None
    gravity: Share = 1.0

    dear = True

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        if rig.plan.is_prop or not rig.has_control(WHOLE):
            raise BadEdit("a thing has no flight of its own to be fitted; nothing was changed")
        if self.frames is not None and self.height is not None:
            raise BadEdit("say how many frames or how high, not both: one follows from the other. Nothing was changed")
        if self.frames is not None and not 2 <= self.frames <= LONGEST:
            raise BadEdit(f"a flight takes 2 to {LONGEST} frames, not {self.frames}; nothing was changed")
        fps = scene.fps
        seen = AsIf(scene)
        found = _flight(seen, clip, self.at)
        refuse_derived(clip, range(found.release, found.landing + 1))
        centres = _centres(seen, clip, np.array([found.release, found.landing], float))
        pull = self.gravity * GRAVITY
        drop = float(centres[0, 1] - centres[1, 1])
        frames = self.frames if self.frames is not None else found.frames
        if self.height is not None:
            if self.height < -drop:
                raise BadEdit(
                    f"it lands {-100 * drop:.0f} cm above its release, and cannot rise less than that. Nothing was "
                    "changed"
                )
            frames = max(round(seconds_of(self.height, drop, pull) * fps), 2)
            if frames > LONGEST:
                raise BadEdit(f"that would take {frames} frames, more than {LONGEST}; nothing was changed")
        said: tuple[str, ...] = ()
        more = ""
        if frames != found.frames:
            timed = _timed(clip, rig, found, frames)
            clip, said = timed.clip, timed.notes
            more = f", {abs(frames - found.frames)} {'more' if frames > found.frames else 'fewer'} than before"
        fitted, keys = _fitted(clip, rig, seen, found.release, found.release + frames, pull, fps)
        rise = rise_of(frames / fps, drop, pull)
        done = f"a flight of {frames} frames{more}, that rises {100 * rise:.0f} cm, by {counted(keys, 'key')}"
        asked = _asked(seen, fitted, found.release, found.release + frames, pull, fps)
        return Outcome(fitted, (". ".join((done, *asked)), *said))

    def moves_time(self) -> Reach | None:
        # Where it begins is known only as it is made; all may lie elsewhere.
        return None if self.frames is None and self.height is None else (None, None)

    def label(self, rig: Rig, scene: Scene) -> str:
        if self.frames is not None:
            return f"Flight at {self.at} over {self.frames} frames"
        if self.height is not None:
            return f"Flight at {self.at}, {100 * self.height:.0f} cm high"
        return f"Flight at {self.at} as things fall"


def _flight(seen: AsIf, clip: Clip, at: int) -> Flight:
    """The flight about a frame; raises :class:`BadEdit` where none is whole."""
    scene = seen.scene
    first, last = max(scene.start, at - AROUND), min(scene.end, at + AROUND)
    stands = seen.stood(clip, first, last)[1] if first <= at <= last else []
    if stands:
        for flight in flights(np.array([s.centre for s in stands]), airborne(stands), first, scene.fps):
            if flight.release <= at <= flight.landing:
                return flight
    raise BadEdit(
        f"something bears it at {at}, or it is in the air where the shot begins or ends; no flight is there to be "
        "fitted. Nothing was changed"
    )


def _centres(seen: AsIf, clip: Clip, times: Array) -> Array:
    """The centre of mass (T, 3) at some times."""
    posed = seen.posed(clip, times)
    return centre_of_mass(posed.rig, posed.nodes)


def _timed(clip: Clip, rig: Rig, found: Flight, frames: int) -> Outcome:
    """The clip with the flight over so many frames, what follows it going along."""
    by = frames / found.frames
    shift = frames - found.frames

    def warp(at: Array) -> Array:
        inner = found.release + (at - found.release) * by
        return np.where(at <= found.release, at, np.where(at < found.landing, inner, at + shift))

    return warped(clip, rig, warp, None)


def _fitted(
    clip: Clip, rig: Rig, seen: AsIf, release: int, landing: int, gravity: float, fps: float
) -> tuple[Clip, int]:
    """The clip with the whole moved so that the mass falls from release to landing, and how many keys that took."""
    for near in NEAR:
        fitted, keys = _fallen(clip, rig, seen, release, landing, gravity, fps, near)
        if keys <= MOST_KEYS:
            break
    return fitted, keys


def _fallen(
    clip: Clip, rig: Rig, seen: AsIf, release: int, landing: int, gravity: float, fps: float, near: float
) -> tuple[Clip, int]:
    """The same, each axis as near as that, metres."""
    times = between_frames(release, landing)

    def looked() -> tuple[Posed, Array]:
        posed = seen.posed(clip, times)
        centres = centre_of_mass(rig, posed.nodes)
        seconds = (landing - release) / fps
        return posed, parabola(centres[0], centres[-1], seconds, (times - release) / fps, gravity) - centres

    keys = 0
    posed, off = looked()
    for _ in range(_ROUNDS):  # what is tied elsewhere does not go along: what that leaves is made up for
        if float(np.abs(off).max()) <= near:
            break
        axes = posed.nodes[:, rig.control(WHOLE).frame]
        local = rotations.rotate(rotations.inverse(axes[:, 3:7]), off) / axes[:, 7:8]
        changes: dict[str, Curve] = {}
        for n, channel in enumerate(("tx", "ty", "tz")):
            address = f"{WHOLE}/{channel}"
            before = clip.curves.get(address)
            if before is None and np.abs(local[:, n]).max() < _NONE:
                continue
            curve = before if before is not None else from_keys({release: rig.channels[rig.number(address)].rest})
            changes[address] = _within(curve, release, landing, sample_curve(curve, times) + local[:, n], near)
        clip = clip.with_curves(changes)
        keys = max(int(((c.frames >= release) & (c.frames <= landing)).sum()) for c in changes.values())
        posed, off = looked()
    if float(np.abs(off).max()) > HELD:
        raise BadEdit("what the figure is tied to holds it in the air; take that away first. Nothing was changed")
    return clip, keys


def _within(curve: Curve, first: int, last: int, values: Array, near: float) -> Curve:
    """A curve that goes through values (T,) between two frames, with few keys, and elsewhere as it did."""
    table = parted_at(curve, np.array([float(first), float(last)]))
    keys, handles = thinned(np.ascontiguousarray(values)[None], np.array([BETWEEN * near]), None, SUB)[0]
    inner = fitted_table(
        np.asarray(keys, float) + first, values[SUB * keys], handles, np.full(len(keys), float(BEZIER))
    )
    before, after = table[table[:, FRAME] <= first], table[table[:, FRAME] >= last]
    before[-1, [OUT_TIME, OUT_VALUE]] = inner[0, [OUT_TIME, OUT_VALUE]]
    before[-1, SHAPE], before[-1, HANDLES] = BEZIER, FREE_BOTH
    after[0, [IN_TIME, IN_VALUE]] = inner[-1, [IN_TIME, IN_VALUE]]
    after[0, HANDLES] = FREE_BOTH
    return from_table(np.concatenate([before, inner[1:-1], after]))


def _asked(seen: AsIf, clip: Clip, release: int, landing: int, gravity: float, fps: float) -> tuple[str, ...]:
    """What the frames beside a flight give of the speed that it asks for, where that is not all of it."""
    frames = np.array([release - 1, release, landing, landing + 1], float)
    a, b, c, d = _centres(seen, clip, frames)
    start, end = fall(b, c, (landing - release) / fps, gravity)
    said = []
    for given, wished, what, where in (
        ((b - a) * fps, start, "comes to its release", release),
        ((d - c) * fps, end, "goes on from its landing", landing),
    ):
        if np.linalg.norm(given - wished) > 0.05 * max(float(np.linalg.norm(wished)), 0.1):
            said.append(
                f"Its mass {what} at {where} with {np.linalg.norm(given):.1f} m/s, the flight has "
                f"{np.linalg.norm(wished):.1f} m/s there"
            )
    return tuple(said)
