"""What of the cast carries what: things that belong to somebody are borne by whoever's hands hold them."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from hame.character.masses import centre_of_mass, masses_of
from hame.character.rig import Rig
from hame.clip.belonging import Belonging
from hame.clip.played import played_spans
from hame.clip.spans import OWN, control_of
from hame.evaluate.posed import Posed
from hame.maths.rotations import Array
from hame.measure.bearing import borne
from hame.measure.found import Bools
from hame.measure.loads import Load
from hame.scene.scene import Figure

_WHOLE = ("master", "body")  # the controls that take all of one along
_NOBODY = -1
Ints = npt.NDArray[np.int64]


class _Grip(NamedTuple):
    """Somebody's hold on something: who, where ``(F, 3)``, and on which frames ``(F,)``."""

    who: int
    at: Array
    holds: Bools


def carried(figures: Mapping[int, Figure], posed: Mapping[int, Posed], first: int | Array) -> dict[int, list[Load]]:
    """By who carries something, what that is, on frames that follow each other from ``first`` on, or at times (F,).

    Carried is what belongs as a whole to somebody, or to something that is carried. Where hands of several hold a thing
    that belongs to one of them, each bears what lies nearer to their hands (see :func:`hame.measure.bearing.borne`).
    """
    count = len(next(iter(posed.values())).nodes) if posed else 0
    frames = np.arange(first, first + count) if isinstance(first, int) else first
    owner = {number: np.full(count, _NOBODY, np.int64) for number in posed}
    grips: dict[int, list[_Grip]] = {number: [] for number in posed}
    for number in posed:
        for control, span, holds in _belongings(figures[number], posed[number].rig, frames):
            if span.figure not in posed or span.figure in (OWN, number):
                continue
            if control in _WHOLE:
                owner[number][holds] = span.figure
                grips[number].append(_Grip(span.figure, _place(posed[span.figure], span.to), holds))
            elif any(limb.ik == control and limb.kind == "arm" for limb in posed[number].rig.limbs):
                grips[span.figure].append(_Grip(number, _place(posed[number], control), holds))
    found: dict[int, list[Load]] = {}
    for number, mine in posed.items():
        if (owner[number] == _NOBODY).all():
            continue
        held, who = _followed(number, owner, posed)
        centre, kilograms = centre_of_mass(mine.rig, mine.nodes), masses_of(mine.rig).kilograms
        for carrier, share in _shared(held, who, grips, centre).items():
            found.setdefault(carrier, []).append(Load(number, mine.rig, mine.nodes, share * kilograms))
    return found


def _belongings(figure: Figure, rig: Rig, frames: Ints | Array) -> Iterator[tuple[str, Belonging, Bools]]:
    if not len(frames) or not figure.plays:
        return
    spans = played_spans(figure.clip, rig, Belonging.kind, float(frames[0]), float(frames[-1]))
    for track, mine in spans.items():
        for span in mine:
            if isinstance(span, Belonging) and span.to and span.ties != "turn" and span.weight >= 0.5:
                holds = (frames >= span.start) & (frames <= span.end)
                if holds.any():
                    yield control_of(track), span, holds


def _place(of: Posed, control: str) -> Array:
    """Where a control is (F, 3): of a limb, its end."""
    rig = of.rig
    limb = next((limb for limb in rig.limbs if limb.ik == control), None)
    known = rig.control(control) if rig.has_control(control) else rig.controls[0]
    return of.nodes[:, limb.end if limb else known.node, :3]


def _followed(number: int, owner: Mapping[int, Ints], posed: Mapping[int, Posed]) -> tuple[Ints, Ints]:
    """Frame by frame, the thing (F,) that somebody has in hand of those on which a thing lies, and who that is (F,)."""
    held, who = np.full(len(owner[number]), number, np.int64), owner[number].copy()
    for _ in posed:
        for between in np.unique(who):
            if between != _NOBODY and posed[int(between)].rig.plan.is_prop:
                on_it = who == between
                held[on_it], who[on_it] = between, owner[int(between)][on_it]
    return held, who


def _shared(held: Ints, who: Ints, grips: Mapping[int, Sequence[_Grip]], centre: Array) -> dict[int, Array]:
    """By carrier, what share (F,) of a thing each of them bears on each frame."""
    found: dict[int, Array] = {}
    for thing in np.unique(held[who != _NOBODY]).tolist():
        mine = (held == thing) & (who != _NOBODY)
        hold = [(grip, grip.holds & mine) for grip in grips[thing]]
        others = {grip.who for grip, holds in hold if holds.any()} - set(np.unique(who[mine]).tolist())
        if not others:
            for carrier in np.unique(who[mine]).tolist():
                found.setdefault(carrier, np.zeros(len(held)))[mine & (who == carrier)] += 1.0
            continue
        for frame in np.flatnonzero(mine).tolist():
            here = [grip for grip, holds in hold if holds[frame]]
            bear = [(int(who[frame]), 1.0)]
            if len(here) > 1:
                bear = list(zip([g.who for g in here], borne(centre[frame], [g.at[frame] for g in here]), strict=True))
            for carrier, share in bear:
                found.setdefault(carrier, np.zeros(len(held)))[frame] += share
    return found
