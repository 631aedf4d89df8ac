"""A body's balance as the page is told of it, by HTTP and with the poses of a drag."""

from __future__ import annotations

import numpy as np

from hame.character.rig import Rig
from hame.faults.look import Look
from hame.maths.rotations import Array
from hame.measure.balance import Balance
from hame.measure.bearing import borne_by, borne_in_motion
from hame.measure.mass import masses_of
from hame.measure.pointing import twists
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
