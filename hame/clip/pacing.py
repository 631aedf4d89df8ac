"""How a way is gone, frame by frame: its pace and its traits, by what is keyed of them and by what is usual."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import fields, replace
from math import pi, sin

import numpy as np
import numpy.typing as npt
from scipy.ndimage import gaussian_filter1d

from hame.clip.curve import Curve
from hame.clip.key import FRAME, Array
from hame.clip.quantities import TRAITS, quantity_values
from hame.clip.way import Way
from hame.gait.creatures import share_of, usual_gait
from hame.gait.footfalls import STAYS, Footfall, Pace, Times
from hame.gait.line import Line, line_of
from hame.gait.traits import CREATURE, RUNNING, Traits, between
from hame.gait.usual import froude, usual_share, usual_speed, usual_step

_WIDTH, _TOES = 0.17, 0.12  # of the leg, between the lines of the feet; radians (Whittle 2007, from memory)
_TO_GROUND = 1.08  # from the hip to the ground, of that to the ankle (Drillis and Contini 1966, in Winter)
_USUAL_NUMBER = 0.17  # the Froude number of a free walk (Alexander 1989, from memory)
_RUN_NUMBER, _JUMPS = 0.8, 1.3  # the same of an easy run; a jump, of the leg (common practice, no source)
_ASIDE = 0.5 * pi  # a creature on six legs goes sideways
_GOES_OVER = 0.25  # seconds
_RUNS = (0.53, 0.43)  # shares on the ground between which a walk becomes a run
_TURNS_IN = Times(20, 14)  # frames of a turn on the spot at 24 a second (common practice, no source)


def pace_of(way: Way, keyed: Mapping[str, Curve], leg: float) -> Pace:
    """How a way is gone, frame by frame from its first: what is keyed, and what goes with that where it is not.

    Of speed and cadence the one that is not keyed follows from the other, by the step that is usual at that speed.

    Parameters
    ----------
    keyed : curves of quantities by name
    leg : how long a leg is, metres
    """
    last = max((float(curve.table[-1, FRAME]) for name, curve in keyed.items() if name not in TRAITS), default=0.0)
    count = max(int(last) - way.start + 2, 2) if way.comes_to_stand else max(way.lasts + 1, 2)
    times = way.start + np.arange(count, dtype=float)

    def of(name: str, usual: Array | float) -> Array:
        curve = keyed.get(name)
        return np.broadcast_to(np.asarray(usual, float), times.shape) if curve is None else quantity_values(
            curve, name, times
        )  # fmt: skip

    ground = 1.0 if way.rests else _TO_GROUND  # the legs of a creature are counted to the ground
    free = way.speed or float(np.sqrt(_USUAL_NUMBER * way.gravity * leg))
    if "cadence" in keyed and "speed" not in keyed and not way.speed:
        speed = _speed_at(of("cadence", 0.0), of("share", 0.6), of("together", 0.0) >= 0.5, leg, way.gravity, ground)
    else:
        speed = of("speed", free)
    if way.turn and "cadence" not in keyed:
        cadence = np.full(len(times), 1.0 / _TURNS_IN.step * 24.0)
    else:
        cadence = of("cadence", speed / usual_step(np.maximum(speed, 1e-3), leg, way.gravity, ground))
    goes = (speed > 0.0) & (cadence > 0.0)
    usually = usual_step(np.maximum(speed, 1e-3), leg, way.gravity, ground)
    steps = np.where(goes, speed / np.where(goes, cadence, 1.0), usually)
    usual = usual_share(speed, leg, way.gravity, steps)
    if way.rests:
        number = float(froude(np.array(np.median(speed)), leg, way.gravity))
        usual = np.full(len(times), share_of(way.gait or usual_gait(len(way.rests), number)))
    share = of("share", _TURNS_IN.share if way.turn else usual)
    together = of("together", 0.0) >= 0.5
    return Pace(
        np.array(speed), np.array(cadence / way.fps), np.array(share), together, np.array(of("width", _WIDTH * leg)),
        np.array(of("toe_out", _TOES)), np.array(of("facing", _faces(way))),
    )  # fmt: skip


def _faces(way: Way) -> float:
    """How who goes is turned from the way where that is not keyed: on six legs sideways, as little turned from how it
    stands at first as can be."""
    if len(way.rests) <= 4:
        return 0.0
    if not way.stands:
        return _ASIDE
    heading = float(line_of(way.points, way.closed).at(np.zeros(1))[1][0])
    return _ASIDE if sin(way.stands[0].heading - heading) >= 0.0 else -_ASIDE


def _speed_at(
    cadence: Array, share: Array, together: npt.NDArray[np.bool_], leg: float, gravity: float, ground: float
) -> Array:  # fmt: skip
    """The speed (F,) of which only the cadence (F,), steps a second, is known."""
    walks = usual_speed(cadence, leg, gravity, ground)
    runs = np.maximum(walks, float(np.sqrt(_RUN_NUMBER * gravity * leg)))
    found = np.where(together, _JUMPS * leg * cadence, np.where(share < 0.5, runs, walks))
    return np.asarray(np.where(cadence > 0.0, found, 0.0))


def traits_of(way: Way, keyed: Mapping[str, Curve], pace: Pace, end: int, last: int) -> Traits:
    """How it looks on each frame from the first to the end: as keyed, else by its manner, else plain; it lands ``last``
    at a frame."""
    times = np.arange(way.start, end + 1, dtype=float)
    share = np.interp(times - way.start, np.arange(len(pace.share)), pace.share)
    runs = np.clip((_RUNS[0] - share) / (_RUNS[0] - _RUNS[1]), 0.0, 1.0)
    # Who stands, before the first step and after the last one, does not run yet or any more.
    runs[: way.lead] = 0.0
    if way.comes_to_stand:
        runs[max(last - way.start, 0) :] = 0.0
    # Who goes over from one to the other does so in a while, whatever the feet do.
    plain = between(Traits(), RUNNING, gaussian_filter1d(runs, _GOES_OVER * way.fps, mode="nearest"))
    if way.rests:
        plain = CREATURE.over(len(times))
    manner = dict(way.manner)
    given: dict[str, Array] = {}
    for one in fields(plain):
        if one.name in keyed:
            given[one.name] = quantity_values(keyed[one.name], one.name, times)
        elif one.name in manner:
            given[one.name] = np.full(len(times), manner[one.name])
    return replace(plain, **given)


def unevenly(found: list[Footfall], line: Line, way: Way, keyed: Mapping[str, Curve]) -> list[Footfall]:
    """Footfalls of two feet that go in turn, each so far on or back that steps of one side are longer than those of the
    other; those in which it stands at its ends stay."""
    curve, given = keyed.get("uneven"), dict(way.manner).get("uneven", 0.0)
    if way.rests or way.turn or (curve is None and given == 0.0):
        return found
    passing = [n for n, one in enumerate(found) if one.number > 0 and one.last < STAYS]
    at = np.array([found[n].first for n in passing], float)
    much = np.full(len(at), given) if curve is None else quantity_values(curve, "uneven", at)
    result = list(found)
    for n, share in zip(passing, much, strict=True):
        one = found[n]
        beside = [other for other in found[max(n - 1, 0) : n + 2] if abs(other.number - one.number) == 1]
        if len(beside) < 2 or any(other.side == one.side for other in beside):
            continue  # both feet at once, or two steps of one
        # A step of the left is from a place of the right to one of the left: both move by a quarter of the difference.
        sign = 1.0 if one.side == "L" else -1.0
        far = sign * float(share) * 0.125 * abs(beside[1].along - beside[0].along)
        by = np.subtract(*line.at(np.array([one.along + far, one.along]))[0])
        along, place = one.along + far, (one.place[0] + float(by[0]), one.place[1] + float(by[1]))
        result[n] = replace(one, place=place, along=along)
    return result
