"""Footfalls: where and when feet stand, from how far along a way somebody is and how many steps they have course.

Steps are counted by a phase that grows by 1 from one landing to the next. A foot stands for a share of its period,
which is two steps where feet go in turn, and one where both go together: so walks, runs, jumps and hops are one
continuum.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from math import hypot, isclose
from typing import Literal, NamedTuple

import numpy as np

from hame.errors import BadEdit
from hame.gait.line import Line
from hame.maths.rotations import Array

Side = Literal["L", "R"]
OTHER: dict[Side, Side] = {"L": "R", "R": "L"}
_SIGN = {"L": 1.0, "R": -1.0}  # towards the left of who goes
_SHARES = (0.08, 0.95)  # of its period that a foot can stand
_NEAR = 1e-6
_ALL_BUT = 0.1  # frames that a foot may be short of a whole number of them
_ARRIVES = 4  # steps: the last ones, among which is shared out what is missing to the end
_SPEEDS_UP, _SLOWS_DOWN = 2.2, 2.5  # metres a second each second (common practice, no source)
_LONGEST = 200_000  # frames
_GETS_GOING = 1.5  # steps: the first one from a stand is two thirds as long as the next (common practice, no source)
MOST = 4000  # footfalls of a way
_WHOLE_STEP = 0.75  # of the leg: a step that is as long rolls over the whole foot
STAYS = 10**9  # the last frame of a foot that stays


@dataclass(frozen=True)
class Times:
    """What is typed in frames: a foot stands ``on`` frames, and the step takes so many.

    Attributes
    ----------
    on : frames that a foot is on the ground
    step : frames from one landing to the next
    together : both feet land at once
    """

    on: int
    step: int
    together: bool = False

    @property
    def share(self) -> float:
        """Of its period that a foot is on the ground."""
        return self.on / (self.step * (1 if self.together else 2))

    @classmethod
    def walking(cls, on: int, both: int) -> Times:
        """A foot is ``on`` the ground so long, and so many frames of that with the other one, before and after."""
        return cls(on, on - both)

    @classmethod
    def flying(cls, on: int, air: int, together: bool = False) -> Times:
        """A foot, or both of them, so long ``on`` the ground and then so long nothing."""
        return cls(on, on + air, together)


@dataclass(frozen=True)
class Pace:
    """How somebody goes, frame by frame from the first on (F,).

    Attributes
    ----------
    speed : metres a second along the way
    cadence : steps a frame
    share : of its period that a foot is on the ground
    together : whether both feet land at once
    width : metres between the lines on which left and right feet stand
    toe_out : radians that a foot is turned out
    facing : radians that who goes is turned from the way, as in side steps and back steps
    """

    speed: Array
    cadence: Array
    share: Array
    together: np.ndarray
    width: Array
    toe_out: Array
    facing: Array

    @classmethod
    def even(
        cls, frames: int, speed: float, times: Times, width: float = 0.1, toe_out: float = 0.0, facing: float = 0.0
    ) -> Pace:
        """The same on so many frames."""

        def same(value: float) -> Array:
            return np.full(frames, float(value))

        together = np.full(frames, times.together)
        return cls(same(speed), same(1.0 / times.step), same(times.share), together, same(width), same(toe_out),
                   same(facing))  # fmt: skip


@dataclass(frozen=True)
class Footfall:
    """A foot that stands.

    Attributes
    ----------
    number : which landing it is; -1 and 0 are the feet on which somebody stands at first
    first, last : the frames on which it lands and on which it is let go
    place : (x, z) in metres; ``heading`` radians
    along : how far along the way that is, metres
    """

    number: int
    side: Side
    first: int
    last: int
    place: tuple[float, float]
    heading: float
    along: float


def footfalls(
    line: Line,
    pace: Pace,
    first: int,
    fps: float,
    begins_with: Side = "R",
    lead: int = 0,
    starts: float | None = None,
    slows: float | None = None,
    ends: bool = True,
) -> list[Footfall]:
    """The footfalls of a way, in the order in which they land; feet that stand at its ends as well.

    Parameters
    ----------
    first : the frame on which it begins
    begins_with : the foot that is lifted first, ``lead`` frames after that
    starts, slows : in how many steps it gets going, and slows down before the end; 0 where it goes at its pace at once.
        As many as feet need for that where none is given (:func:`usual_easing`)
    ends : it ends in a stand at the end of the line; else it goes on as long as the pace says

    Raises
    ------
    BadEdit
        If it is too long, or nothing could stand so.
    """
    _refuse(pace)
    starts = usual_easing(pace, fps, 0) if starts is None else starts
    slows = usual_easing(pace, fps, -1) if slows is None else slows
    course = Course(line, pace, fps, first + lead, (starts, slows if ends else 0.0), ends)
    count = int(np.floor(course.phase[-1] + _NEAR))
    if count > MOST:
        raise BadEdit(f"a way has {MOST} footfalls at most; these would be {count}. Nothing was changed")
    side = OTHER[begins_with]
    share, jumps = course.of(pace.share, 0.0), bool(pace.together[0])
    lifted = 0.0 if jumps else course.when(2.0 * share)
    # Who goes at once has come here at that pace: both feet stand where they then landed.
    behind = [0.0 if starts > 0.0 or jumps else course.before(number + share) for number in (-1, 0)]
    rows = [Row(-1, begins_with, 0.0, 0.0, behind[0]), Row(0, side, 0.0, lifted, behind[1])]
    steps: list[tuple[int, float, float, float, bool]] = []
    for number in range(1, count + 1):
        lands = course.when(float(number))
        jumps, share = bool(pace.together[min(round(lands), len(pace.together) - 1)]), course.of(pace.share, lands)
        on = share * (1.0 if jumps else 2.0)
        middle = course.far(course.when(number + 0.5 * on))
        steps.append((number, lands, _let_go(course, number, on, flies=jumps or on < 1.0), middle, jumps))
        if middle >= line.length - _NEAR if ends else lands > len(pace.speed):
            break
    if ends:
        steps = _arriving(steps, line.length)
    for number, lands, lifted, along, jumps in steps:
        feet: tuple[Side, ...] = ("L", "R") if jumps else (OTHER[side],)
        rows += [Row(number, foot, lands, lifted, along) for foot in feet]
        side = feet[-1]
    if ends and not jumps:  # the other foot comes beside the last one
        last = rows[-1]
        lands = course.when(last.number + 1.0)
        rows.append(Row(last.number + 1, OTHER[last.side], lands, lands, line.length))
    found = course.stands(rows)
    found[:2] = [replace(one, first=first) for one in found[:2]]
    return [*found[:-2], *(replace(one, last=STAYS) for one in found[-2:])] if ends else found


def _arriving(
    steps: list[tuple[int, float, float, float, bool]], length: float
) -> list[tuple[int, float, float, float, bool]]:  # fmt: skip
    """Steps up to that which comes nearest to the end of the line, the last few of them longer or shorter, so that it
    stands there."""
    if len(steps) > 1 and abs(steps[-2][3] - length) < abs(steps[-1][3] - length):
        steps = steps[:-1]
    missing, few = length - steps[-1][3], min(_ARRIVES, len(steps))
    shares = np.clip(np.arange(1 - len(steps), 1) / few + 1.0, 0.0, 1.0)
    return [(*one[:3], one[3] + float(share) * missing, one[4]) for one, share in zip(steps, shares, strict=True)]


class Row(NamedTuple):
    """A foot that lands and is lifted at times, frames from the first, so many metres along the line."""

    number: int
    side: Side
    lands: float
    lifted: float
    along: float


class Course:
    """How far along a line, and by how many steps on, somebody is at times: frames from ``first``."""

    def __init__(self, line: Line, pace: Pace, fps: float, first: int, eases: tuple[float, float], ends: bool) -> None:
        self.line, self.pace, self.fps, self.first, self.ends = line, pace, fps, first, ends
        self.along, steps = _counted(pace, fps, line.length if ends else np.inf, eases)
        share = float(pace.share[0])
        # The first landing is number 1, and the foot that makes it is lifted as the phase begins.
        self.phase = steps + (share if pace.together[0] else 2.0 * share - 1.0)
        self._growing = self.phase + np.arange(len(steps)) * 1e-13
        self._frames = np.arange(len(steps), dtype=float)

    def when(self, phase: float) -> float:
        """The time at which the phase is so much."""
        return float(np.interp(phase, self._growing, self._frames))

    def far(self, time: float) -> float:
        """Metres along the line at a time."""
        return float(np.interp(time, self._frames, self.along))

    def before(self, phase: float) -> float:
        """Metres along the line at a phase that may have been before the first frame, at the pace of that."""
        frames = (phase - float(self.phase[0])) / max(float(self.pace.cadence[0]), 1e-6)
        return frames * float(self.pace.speed[0]) / self.fps

    def of(self, values: Array, time: float) -> float:
        """One of the numbers of the pace at a time."""
        return float(np.interp(time, self._frames[: len(values)], values))

    def stands(self, rows: Sequence[Row]) -> list[Footfall]:
        """Feet beside the line, half the width to their side of who goes, and turned out."""
        along = np.array([row.along for row in rows])
        along = np.minimum(along, self.line.length) if self.ends else along
        places, headings = self.line.at(along)
        lands = np.array([row.lands for row in rows])
        signs = np.array([_SIGN[row.side] for row in rows])
        width, toe_out, facing = (
            np.interp(lands, self._frames[: len(values)], values)
            for values in (self.pace.width, self.pace.toe_out, self.pace.facing)
        )
        faces = headings + facing
        out = signs * 0.5 * width
        places = places + out[:, None] * np.stack([np.cos(faces), -np.sin(faces)], axis=1)
        turned = faces + signs * toe_out
        return [
            Footfall(
                row.number, row.side, self.first + whole_frame(row.lands), self.first + whole_frame(row.lifted),
                (float(place[0]), float(place[1])), float(heading), float(far),
            ) for row, place, heading, far in zip(rows, places, turned, along, strict=True)
        ]  # fmt: skip


def course_of(
    line: Line, pace: Pace, first: int, fps: float, eases: tuple[float, float], ends: bool
) -> Course:  # fmt: skip
    """How far along a line, and by how many steps on, somebody is who goes at a pace.

    Raises
    ------
    BadEdit
        If nobody could go so.
    """
    _refuse(pace)
    return Course(line, pace, fps, first, eases, ends)


def _refuse(pace: Pace) -> None:
    low, high = _SHARES
    for values in (pace.speed, pace.cadence, pace.share, pace.width, pace.toe_out, pace.facing):
        if not np.isfinite(values).all():
            raise BadEdit("how somebody goes has to be given in numbers; nothing was changed")
    if (pace.speed < 0.0).any() or (pace.cadence < 0.0).any():
        raise BadEdit(
            "nobody goes at less than no speed: back steps are turned from the way by 180°. Nothing was changed"
        )
    if not (pace.speed * pace.cadence > 0.0).any():
        raise BadEdit("it goes nowhere: pace is 0 all along. Nothing was changed")
    if (pace.share < low).any() or (pace.share > high).any():
        raise BadEdit(f"a foot is on the ground for {100 * low:.0f} to {100 * high:.0f} % of its period; "
                      "nothing was changed")  # fmt: skip


def usual_easing(pace: Pace, fps: float, end: int) -> float:
    """In how many steps somebody gets going at the first frames of a pace (0), or slows down at its last (-1).

    No faster than feet can have it, and not before the first step is made, which is two thirds as long as the next.
    """
    goes = np.flatnonzero((pace.speed > 0.0) & (pace.cadence > 0.0))
    at = goes[min(len(goes) - 1, round(fps))] if end == 0 else goes[-1]
    seconds = float(pace.speed[at]) / (_SPEEDS_UP if end == 0 else _SLOWS_DOWN)
    return max(seconds * fps * float(pace.cadence[at]), _GETS_GOING if end == 0 else 0.0)


def arrives(pace: Pace, length: float, fps: float) -> int:
    """The frame, from 0, on which somebody has gone so many metres at a pace, getting going and coming to stand; beyond
    its frames where it does not go as far."""
    if float(pace.speed.sum()) / fps < length:
        return len(pace.speed)
    along, _ = _counted(pace, fps, length, (usual_easing(pace, fps, 0), usual_easing(pace, fps, -1)))
    return int(np.searchsorted(along, length))


def _counted(pace: Pace, fps: float, length: float, eases: tuple[float, float]) -> tuple[Array, Array]:
    """How far along (N,) and by how many steps on (N,) somebody is, frame by frame, metres and steps.

    Beyond the frames that are given it goes on as it goes last, where that goes at all, for a few steps after the end
    of the line: as long as the feet need that come to stand there. It ``eases`` in and out over so many steps.
    """
    goes = np.flatnonzero((pace.speed > 0.0) & (pace.cadence > 0.0))[-1]
    speed, cadence = float(pace.speed[-1]), float(pace.cadence[-1])
    if min(speed, cadence) <= 0.0:  # it comes to rest before the end: the feet still come to stand
        speed, cadence = float(pace.speed[goes]), float(pace.cadence[goes])
    speeds, cadences = pace.speed, pace.cadence
    starts, slows = eases
    brakes = 0.5 * slows * speed / (cadence * fps)  # metres before the end from which on it slows down
    steps, along = [0.0], [0.0]
    after = int(np.ceil(4.0 / cadence)) + 1  # frames that it is counted on beyond the end
    last = np.inf
    for n in range(1, _LONGEST):
        given = n < len(speeds)
        fast = 0.5 * (speeds[n] + speeds[n - 1]) if given else speed
        going, left = min((steps[-1] + 0.5 * cadence) / starts, 1.0) if starts > 0.0 else 1.0, length - along[-1]
        fast *= going * going * (3.0 - 2.0 * going)
        if 0.0 < left < brakes:
            fast = min(fast, speed * max(float(np.sqrt(left / brakes)), 0.2))
        along.append(along[-1] + fast / fps)
        steps.append(steps[-1] + (0.5 * (cadences[n] + cadences[n - 1]) if given else cadence))
        if n >= len(speeds) - 1 and (along[-1] >= length or not np.isfinite(length)):
            last = min(last, n + after)
        if n >= last:
            return np.array(along), np.array(steps)
    raise BadEdit("at that pace it takes too long to go there; nothing was changed")


def whole_frame(time: float) -> int:
    """The whole frame at a time; one that lies half way between two is the later one."""
    nearest = round(time)
    return int(nearest) if isclose(time, nearest, abs_tol=1e-6) else int(np.floor(time + 0.5))


def _let_go(course: Course, number: int, on: float, flies: bool) -> float:
    """The time at which a foot is let go that lands as a ``number`` and stands for so many steps, ``on``: in whole
    frames, so that steps at one pace are alike.

    Out of a flight and into one it stands for the whole frames that there are: what is left of one is in the air, as it
    presses on neither the first nor the last on which it is seen on the ground. In a walk both feet stand as long in
    each step: the middles of stances come evenly, and nobody limps.
    """
    lands, lifted, follows = (course.when(float(phase)) for phase in (number, number + on, number + 1))
    if flies:
        return float(whole_frame(lands) + max(int(np.floor(lifted - lands + _ALL_BUT)), 1))
    if 2.0 * course.of(course.pace.share, follows) < 1.0:  # the next one runs
        return lifted
    return float(whole_frame(follows) + whole_frame(lifted - follows))


def size_of_step(one: Footfall, other: Footfall, leg: float) -> float:
    """How much of a whole step it is from one footfall of a foot to the next: of two steps, between a third and all."""
    far = hypot(other.place[0] - one.place[0], other.place[1] - one.place[1])
    return min(max(0.5 * far / (_WHOLE_STEP * leg), 0.3), 1.0)


def out_of_reach(found: Sequence[Footfall], most: float) -> list[tuple[Footfall, float]]:
    """Footfalls that are farther than ``most`` metres from all others that stand as they land, and by how much."""
    told = []
    for n, one in enumerate(found):
        before = [other for other in found[:n] if other.side != one.side and other.last >= one.first]
        far = min((float(np.hypot(*np.subtract(one.place, other.place))) for other in before), default=0.0)
        if far > most:
            told.append((one, far - most))
    return told
