"""Faults of feet on the ground: what slides, sinks and floats."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from hame.edits.edit import Edit
from hame.edits.plants import ChangePlant, Planting, PlantLimbs, plants_of
from hame.faults.fault import Alert
from hame.faults.limbs import LimbFault, over_run
from hame.faults.look import LimbFrames
from hame.measure.found import runs, standing

SLIP, SINK, FLOAT = 0.0005, 0.002, 0.008  # metres: less is not seen
NEAR_GROUND, AT_REST = 0.008, 0.25  # metres, and metres a second: a foot that is meant to stand
ON_GROUND = 0.0025  # metres: a sole so low is on the ground, however fast it goes
STAYS, FLAT_WAY = 2e-5, 0.15  # metres a frame that are none, and how steeply what slides may rise
MENDED = 0.03  # metres: a slide so short is one that nobody wants


class FootFault(LimbFault):
    """A fault of the feet alone."""

    def concerns(self, limb: LimbFrames) -> bool:
        return limb.limb.kind == "leg"


class Slip(FootFault):
    """A foot that slides along the ground, at any pace: on these frames none of what is down stays where it is."""

    kind = "slip"

    def of_limb(self, limb: LimbFrames) -> Iterator[Alert]:
        places, above, look = limb.sole, limb.above, limb.look
        if len(places) < 2:
            return
        # A foot that is slow is meant to stand, also a little above the ground; one that is quick slides only on it.
        down = ((above < ON_GROUND) & ~look.on_the_spot[:, None]) | standing(
            places, look.fps, NEAR_GROUND, AT_REST, look.ground
        )
        both = down[1:] & down[:-1]
        way = np.where(both, np.linalg.norm(np.diff(places, axis=0), axis=2), np.inf)
        point = np.argmin(way, axis=1)  # what stays most: a foot that rolls stays by one point
        rows = np.arange(len(way))
        least = way[rows, point]
        rise = np.diff(above, axis=0)[rows, point]
        planted = limb.held & (limb.posed.values[:, look.rig.number(limb.limb.switch)] >= 1.0 - STAYS)
        held = planted[1:] & planted[:-1]  # a limb that is posed by FK is held by no plant
        goes = np.isfinite(least) & (least > STAYS) & (np.abs(rise) <= FLAT_WAY * least + STAYS) & ~held
        for a, b in runs(goes):
            leaves = b + 1 < len(both) and not both[b + 1].any()
            comes = a > 0 and not both[a - 1].any()
            while leaves and a <= b and rise[b] > STAYS:  # its first steps off the ground are no slide
                b -= 1
            while comes and a <= b and rise[a] < -STAYS:  # nor are its last ones before it is down
                a += 1
            slid = float(least[a : b + 1].sum())
            if slid <= SLIP:
                continue
            start, end = limb.first + a, limb.first + b + 1
            # So far as nobody slides on purpose; a longer way is a move, and holding it would take that away.
            mend = _held_over(limb, start, end) if slid <= MENDED else (None, "")
            yield Alert(
                self.kind, limb.limb.ik, start, end, start + 1 + int(np.argmax(least[a : b + 1])), slid,
                f"{limb.what} slides by {1000 * slid:.1f} mm", *mend,
            )  # fmt: skip


def _held_over(limb: LimbFrames, start: int, end: int) -> tuple[Edit, str]:
    """What holds a foot over some frames: a plant that adjoins them made longer, or else a new one."""
    for plant in plants_of(limb.look.clip, limb.limb):
        # A slide begins and ends gently: its first frames beside a plant may be none yet.
        if 0 <= start - plant.end <= 2 or 0 <= plant.start - end <= 2:
            a, b = min(plant.start, start), max(plant.end, end)
            longer = ChangePlant(
                control=limb.limb.ik, at=plant.start, start=a, end=b, about=plant.about, release=plant.release,
                land=plant.land, figure=plant.figure, thing=plant.thing,
            )  # fmt: skip
            return longer, f"lengthen its plant: {a} to {b}"
    return PlantLimbs(plants=(Planting(limb.limb.ik, start, end),)), f"plant it from {start} to {end}"


class Sink(FootFault):
    """A sole below the ground."""

    kind = "sink"

    def of_limb(self, limb: LimbFrames) -> Iterator[Alert]:
        depth = np.maximum(-limb.height, 0.0)
        for alert in self.each(limb, depth, SINK, lambda m: f"{limb.what} sinks {1000 * m:.0f} mm into the ground"):
            mend = limb.pulled(alert.worst, np.array([0.0, alert.amount, 0.0]), "Lift the foot")
            lifted = alert.mended(mend, f"lift it by {1000 * alert.amount:.0f} mm at {alert.worst}")
            yield over_run(alert, "sunk") or lifted


class Float(FootFault):
    """A foot that is planted on the ground and stands above it."""

    kind = "float"

    def of_limb(self, limb: LimbFrames) -> Iterator[Alert]:
        amount = np.where(limb.during([plant for plant in limb.plants if not plant.thing]), limb.height, 0.0)
        says = lambda m: f"{limb.what} is planted {1000 * m:.0f} mm above the ground"  # noqa: E731
        for alert in self.each(limb, amount, FLOAT, says):
            mend = limb.moved(alert.worst, limb.limb.ik, np.array([0.0, -alert.amount, 0.0]), "Lower the foot")
            yield alert.mended(mend, f"lower it by {1000 * alert.amount:.0f} mm")  # its plant goes along, all of it
