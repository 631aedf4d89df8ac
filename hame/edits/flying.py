"""A flight of a figure among the others: found about a frame, with what stands beside it."""

from __future__ import annotations

import numpy as np

from hame.clip.clip import Clip
from hame.edits.asif import AsIf
from hame.errors import BadEdit
from hame.maths.rotations import Array
from hame.measure.balance import laden_centre
from hame.measure.flights import Beside, Flight, airborne, beside_flight, flights
from hame.measure.reach import too_short

AROUND = (40, 600)  # frames: how far a flight is looked for, at first and at most


def flight_about(seen: AsIf, clip: Clip, at: int) -> Flight:
    """The flight about a frame; raises :class:`BadEdit` where none is whole."""
    scene = seen.scene
    for around in AROUND:  # most are short
        first, last = max(scene.start, at - around), min(scene.end, at + around)
        stands = seen.stood(clip, first, last)[1] if first <= at <= last else []
        if not stands:
            break
        for flight in flights(np.array([s.centre for s in stands]), airborne(stands), first, scene.fps, scene.gravity):
            if flight.release <= at <= flight.landing:
                return flight
    raise BadEdit(
        f"something bears it at {at}, or it is in the air where the shot begins or ends; no flight is there to be "
        "fitted. Nothing was changed"
    )


def centres_at(seen: AsIf, clip: Clip, times: Array) -> Array:
    """The centre of mass (T, 3) at some times, with what is carried."""
    return laden_centre(*seen.laden(clip, times))


def speeds_beside(seen: AsIf, clip: Clip, flight: Flight, gravity: float, fps: float) -> Beside:
    """How fast the mass comes to a flight and goes on from it."""
    around = [flight.release - 1, flight.release, flight.landing, flight.landing + 1]
    return beside_flight(flight, centres_at(seen, clip, np.array(around, float)), gravity, fps)


def short_legs(seen: AsIf, clip: Clip, landing: int) -> tuple[str, ...]:
    """What legs do not reach as they land."""
    posed, [stand] = seen.stood(clip, landing, landing)
    said = []
    for limb in posed.rig.limbs:
        if limb.kind == "leg" and limb.ik in stand.bearing:
            short = 1000.0 * float(too_short(limb, posed.nodes, np.ones(1, np.bool_))[0])
            if short > 1.0:
                said.append(
                    f"The {limb.label} leg is {short:.0f} mm too short as it lands: a frame less, or a lower body, "
                    "lets it reach"
                )
    return tuple(said)
