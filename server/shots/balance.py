"""A body's balance as the page is told of it, by HTTP and with the poses of a drag."""

from __future__ import annotations

from typing import Any, cast

import numpy as np

from hame.character.masses import masses_of
from hame.character.rig import Rig
from hame.edits.offered import answers_to
from hame.edits.reading import edit_to_json
from hame.faults.look import Look
from hame.maths.rotations import Array
from hame.measure.balance import Balance
from hame.measure.bearing import borne_by, borne_in_motion
from hame.measure.flights import Flight, beside_flight
from hame.measure.happenings import Happening
from hame.measure.pointing import twists
from hame.measure.reach import too_short
from server.shots import schemas


def balance_out(
    rig: Rig, nodes: Array, balance: Balance, moving: schemas.MovingOut | None = None
) -> schemas.BalanceOut:
    """How a body stands in one pose, nodes ``(N, 8)``, and how it moves there."""
    chest, face = twists(rig, nodes)
    return schemas.BalanceOut(
        centre=balance.centre.tolist(), area=balance.area.tolist(), margin=balance.margin,
        bearing=borne_by(rig, nodes, balance.bearing, balance.centre), chest=chest, face=face,
        moving=moving, level=balance.level,
    )  # fmt: skip


def moving_out(look: Look) -> list[schemas.MovingOut]:
    """How the weight of a body moves on each frame that is looked at; nothing for a prop."""
    if not look.stands:
        return []
    found, margins = look.steadied, look.moving_margins
    forces = look.dynamics.force[:, 1] / max(look.gravity, 1e-9)
    shares = borne_in_motion(look.rig, look.posed.nodes, look.stands, found.pressure)
    own = masses_of(look.rig).kilograms
    return [
        schemas.MovingOut(
            pressure=pressure.tolist() if np.isfinite(pressure).all() and stand.bearing else None,
            margin=float(margin) if np.isfinite(margin) else None, bearing=bearing, speed=float(np.linalg.norm(speed)),
            force=float(weight), kilograms=float(kilograms), load=float(kilograms - own),
        )
        for stand, pressure, margin, bearing, speed, weight, kilograms in zip(
            look.stands, found.pressure, margins, shares, found.velocity, forces, found.kilograms,
            strict=True,
        )
    ]  # fmt: skip


def flight_out(look: Look, flight: Flight) -> schemas.FlightOut:
    """A flight, and how fast the mass goes beside it; a frame more is looked at on both sides."""
    centres, a, b = look.dynamics.centre, flight.release - look.first, flight.landing - look.first
    beside = beside_flight(flight, centres[[a - 1, a, b, b + 1]], flight.gravity * look.gravity, look.fps)
    way = (centres[b] - centres[a])[[0, 2]]
    speeds = (beside.before, beside.start, beside.end, beside.after)
    return schemas.FlightOut(
        release=flight.release, landing=flight.landing, rise=flight.rise, gravity=flight.gravity,
        far=float(np.linalg.norm(way)), beside=[float(np.linalg.norm(v)) for v in speeds], meets=list(beside.meets),
        uneven=look.turning(flight).uneven, short=_short(look, b),
    )  # fmt: skip


def _short(look: Look, at: int) -> dict[str, float]:
    """The legs that bear a body and do not reach as it lands, by how many metres; a millimetre is no matter."""
    held, nodes = np.ones(1, np.bool_), look.posed.nodes[at : at + 1]
    bearing = look.stands[at].bearing
    legs = [limb for limb in look.rig.limbs if limb.kind == "leg" and limb.ik in bearing]
    found = {limb.ik: float(too_short(limb, nodes, held)[0]) for limb in legs}
    return {control: short for control, short in found.items() if short > 0.001}


def happening_out(one: Happening, fps: float) -> schemas.HappeningOut:
    """Something that happens, with what answers it."""
    answers = [edit_to_json(edit) for edit in answers_to(one, fps).values()]
    return schemas.HappeningOut(
        what=one.what, frame=one.frame, control=one.control, speed=one.speed, answers=cast(Any, answers)
    )  # fmt: skip
