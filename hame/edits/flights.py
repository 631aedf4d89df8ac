"""A flight as things fall: as many frames, as high, or with such a share of gravity as is wished."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Annotated, Literal

import numpy as np

from hame.character.rig import Rig
from hame.clip.clip import Clip
from hame.clip.curve import Curve, from_keys, from_table
from hame.clip.cycles import cycles_of
from hame.clip.key import FRAME, FREE_BOTH, HANDLES, VALUE
from hame.clip.played import follows
from hame.clip.sampling import sample_curve
from hame.clip.spans import Reach
from hame.edits.asif import AsIf
from hame.edits.chosen import counted, deriving, listed, refuse_derived
from hame.edits.edit import AtMost, Edit, Frame, Within
from hame.edits.fewkeys import refitted
from hame.edits.flying import centres_at, flight_about, short_legs, speeds_beside
from hame.edits.merging import parted_at
from hame.edits.outcome import Outcome
from hame.edits.retime import warped
from hame.errors import BadEdit, ShownAgain
from hame.evaluate.posed import Posed
from hame.maths import rotations
from hame.maths.rotations import Array
from hame.maths.thinning import SUB, between_frames
from hame.measure.balance import laden_centre
from hame.measure.flights import Flight, parabola, rise_of, seconds_of
from hame.scene.scene import Scene

WHOLE = "master"
NEAR = 0.00003  # metres that the mass may be off its parabola along each axis: a hundredth of gravity at 24 a second
HELD = 0.01  # metres off in the end: something keeps it from falling
LEVEL = 0.05  # metres along the ground: less is up and down
_ROUNDS, _NONE = 3, 1e-6
LONGEST = 2000  # frames of a flight that is wished
Height = Annotated[float, Within(0.001, 100.0, "height in metres")]
Far = Annotated[float, Within(0.0, 1000.0, "metres along the ground")]
Share = Annotated[float, Within(0.01, 10.0, "share of gravity")]


@dataclass(frozen=True, kw_only=True)
class Fly(Edit):
    """The flight about a frame made to fall as things do: the whole figure is moved along, and keeps its motion about
    its mass.

    Wished is how many ``frames`` it takes, or how ``height`` far its mass rises above its release, metres; without both
    it takes as long as it does. ``gravity`` is a share of that of the shot, and ``far`` how many metres it lands on
    along the ground, with all that follows. Flights about the frames of ``also`` fall so too, as long as they take.
    Where frames are made or taken away, all later keys go along.
    """

    kind: Literal["fly"] = "fly"
    at: Frame
    frames: Frame | None = None
    height: Height | None = None
    gravity: Share = 1.0
    far: Far | None = None
    also: Annotated[tuple[Frame, ...], AtMost(200)] = ()

    dear = True

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        if rig.plan.is_prop or not rig.has_control(WHOLE):
            raise BadEdit("a thing has no flight of its own to be fitted; nothing was changed")
        if self.frames is not None and self.height is not None:
            raise BadEdit("say how many frames or how high, not both: one follows from the other. Nothing was changed")
        if self.frames is not None and not 2 <= self.frames <= LONGEST:
            raise BadEdit(f"a flight takes 2 to {LONGEST} frames, not {self.frames}; nothing was changed")
        if self.also and (self.frames, self.height, self.far) != (None, None, None):
            raise BadEdit("frames, a height and how far are of one flight; nothing was changed")
        if not self.also:
            return self._one(clip, rig, scene, self.at)
        notes: list[str] = []
        shown: list[ShownAgain] = []
        for at in (self.at, *self.also):
            try:
                done = self._one(clip, rig, scene, at)
            except ShownAgain as refusal:  # it goes along with those that it shows
                shown.append(refusal)
                continue
            clip, notes = done.clip, [*notes, *done.notes]
        if not notes:
            raise shown[0]
        more = f"{counted(len(shown), 'flight')} shown again by a cycle: as what is shown" if shown else ""
        return Outcome(clip, (*notes, *filter(None, (more,))))

    def _one(self, clip: Clip, rig: Rig, scene: Scene, at: int) -> Outcome:
        seen, fps = AsIf(scene), scene.fps
        found = flight_about(seen, clip, at)
        pieces = _pieces(clip, found)
        first, last = centres_at(seen, clip, np.array([found.release, found.landing], float))
        pull, drop = self.gravity * scene.gravity, float(first[1] - last[1])
        frames = self._frames(found, drop, pull, fps)
        said: tuple[str, ...] = ()
        more = ""
        if frames != found.frames:
            if len(pieces) > 1:
                raise BadEdit(
                    "the flight goes on where a cycle shows its beginning again, and cannot be given other frames; "
                    "free the cycle first. Nothing was changed"
                )
            timed = _timed(clip, rig, found, frames)
            clip, said = timed.clip, timed.notes
            pieces = [replace(pieces[0], last=found.release + frames)]
            more = f", {abs(frames - found.frames)} {'more' if frames > found.frames else 'fewer'} than before"
        landing = found.release + frames
        on = ""
        if self.far is not None:
            clip = _landed(clip, rig, seen, found.release, landing, self.far)
            on = f" and lands {self.far:.2f} m on"
        fitted, keys = _fitted(clip, rig, seen, found.release, landing, pull, fps, pieces)
        rise = rise_of(frames / fps, drop, pull)
        done = f"a flight of {frames} frames{more}, that rises {100 * rise:.0f} cm{on}, by {counted(keys, 'key')}"
        flown = replace(found, landing=landing)
        beside = speeds_beside(seen, fitted, flown, pull, fps)
        return Outcome(fitted, (". ".join((done, *beside.lacking(), *short_legs(seen, fitted, landing))), *said))

    def _frames(self, found: Flight, drop: float, pull: float, fps: float) -> int:
        """How many frames it shall take."""
        if self.height is None:
            return self.frames if self.frames is not None else found.frames
        if self.height < -drop:
            raise BadEdit(
                f"it lands {-100 * drop:.0f} cm above its release, and cannot rise less than that. Nothing was changed"
            )
        frames = max(round(seconds_of(self.height, drop, pull) * fps), 2)
        if frames > LONGEST:
            raise BadEdit(f"that would take {frames} frames, more than {LONGEST}; nothing was changed")
        return frames

    def moves_time(self) -> Reach | None:
        # Where it begins is known only as it is made; all may lie elsewhere.
        return None if self.frames is None and self.height is None else (None, None)

    def label(self, rig: Rig, scene: Scene) -> str:
        if self.frames is not None:
            return f"Flight at {self.at} over {self.frames} frames"
        if self.height is not None:
            return f"Flight at {self.at}, {100 * self.height:.0f} cm high"
        if self.far is not None:
            return f"Flight at {self.at} that lands {self.far:.2f} m on"
        if self.also:
            return f"Flights at {listed([self.at, *self.also])} as things fall"
        return f"Flight at {self.at} as things fall"


def _moved(curve: Curve, times: Array, by: Array, pieces: Sequence[_Piece]) -> Curve:
    """A curve of the whole's place moved by so much (T,) at the times of a flight, where these are keyed; a half that
    is shown for the other side keeps that place.
    """
    for piece in pieces:
        if piece.last - piece.first < 1:
            continue  # at a frame alone where it lands nothing moves
        mine = (times >= piece.first) & (times <= piece.last)
        first, last = piece.first - piece.earlier, piece.last - piece.earlier
        values = sample_curve(curve, times[mine] - piece.earlier) + by[mine]
        curve = refitted(curve, first, last, values)
    return curve


def _landed(clip: Clip, rig: Rig, seen: AsIf, release: int, landing: int, far: float) -> Clip:
    """The clip with the whole and all that it does from the landing on so far from the release along the ground."""
    inside = [cycle for cycle in cycles_of(clip) if cycle.start < landing and release < cycle.until]
    if inside:
        raise BadEdit(
            "the flight is of a cycle, whose turns would go apart: set its travel instead. Nothing was changed"
        )
    first, last = centres_at(seen, clip, np.array([release, landing], float))
    posed = seen.posed(clip, np.array([float(landing)]))
    way = (last - first) * [1.0, 0.0, 1.0]
    if np.linalg.norm(way) < LEVEL:  # up and down where it stands: then the way it faces
        node = posed.nodes[0, rig.control(WHOLE).node]
        way = rotations.rotate(node[3:7], np.array([0.0, 0.0, 1.0])) * [1.0, 0.0, 1.0]
        by = far * way / max(float(np.linalg.norm(way)), 1e-9)
    else:
        by = way * (far / float(np.linalg.norm(way)) - 1.0)
    axes = posed.nodes[0, rig.control(WHOLE).frame]
    local = rotations.rotate(rotations.inverse(axes[3:7]), by) / axes[7]
    changes: dict[str, Curve] = {}
    for n, channel in enumerate(("tx", "ty", "tz")):
        if abs(local[n]) < _NONE:
            continue
        address = f"{WHOLE}/{channel}"
        curve = clip.curves.get(address) or from_keys({release: rig.channels[rig.number(address)].rest})
        table = parted_at(curve, np.array([float(release), float(landing)]))
        table[np.isin(table[:, FRAME], (release, landing)), HANDLES] = FREE_BOTH  # beside the flight all stays as it is
        table[table[:, FRAME] >= landing, VALUE] += local[n]
        changes[address] = from_table(table)
    return clip.with_curves(changes)


def _timed(clip: Clip, rig: Rig, found: Flight, frames: int) -> Outcome:
    """The clip with the flight over so many frames, what follows it going along."""
    by = frames / found.frames
    shift = frames - found.frames

    def warp(at: Array) -> Array:
        inner = found.release + (at - found.release) * by
        return np.where(at <= found.release, at, np.where(at < found.landing, inner, at + shift))

    return warped(clip, rig, warp, None)


@dataclass(frozen=True)
class _Piece:
    """Frames of a flight that are keyed so many frames earlier."""

    first: int
    last: int
    earlier: int = 0


def _pieces(clip: Clip, found: Flight) -> list[_Piece]:
    """Where a flight is keyed: one that begins in a cycle's half may end where that is shown again.

    Raises
    ------
    ShownAgain
        Where all of it is shown from elsewhere, or from several places.
    """
    frames = np.arange(found.release, found.landing + 1)
    shown = np.zeros(len(frames), np.bool_)
    for span in deriving(clip):
        shown |= span.derives(frames.astype(float))
    if not shown.any():
        return [_Piece(found.release, found.landing)]
    begins = int(np.argmax(shown))
    if begins == 0 or not shown[begins:].all():
        refuse_derived(clip, frames.tolist())
    first = int(frames[begins])
    again = [f for f in follows(clip) if f.first <= first and f.last >= found.landing]
    if not again:
        refuse_derived(clip, frames.tolist())
    return [
        _Piece(found.release, first - 1),
        _Piece(first, found.landing, again[0].first - again[0].source),
    ]


def _fitted(
    clip: Clip, rig: Rig, seen: AsIf, release: int, landing: int, gravity: float, fps: float, pieces: Sequence[_Piece]
) -> tuple[Clip, int]:  # fmt: skip
    """The clip with the whole moved so that the mass falls from release to landing, and how many keys that took."""
    times = between_frames(release, landing)

    def looked() -> tuple[Posed, Array]:
        posed, loads = seen.laden(clip, times)
        centres = laden_centre(posed, loads)
        seconds = (landing - release) / fps
        return posed, parabola(centres[0], centres[-1], seconds, (times - release) / fps, gravity) - centres

    keys = 0
    posed, off = looked()
    for _ in range(_ROUNDS):  # what is tied elsewhere does not go along: what that leaves is made up for
        if float(np.abs(off).max()) <= NEAR:
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
            changes[address] = _moved(curve, times, local[:, n], pieces)
        clip = clip.with_curves(changes)
        keys = max(
            sum(int(((c.frames >= p.first - p.earlier) & (c.frames <= p.last - p.earlier)).sum()) for p in pieces)
            for c in changes.values()
        )
        posed, off = looked()
    played = off if len(pieces) == 1 else off[::SUB]  # where it is shown again, nothing keys what lies between
    if float(np.abs(played).max()) > HELD:
        raise BadEdit("what the figure is tied to holds it in the air; take that away first. Nothing was changed")
    return clip, keys
