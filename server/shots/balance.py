"""A body's balance as the page is told of it, by HTTP and with the poses of a drag."""

from __future__ import annotations

from hame.character.rig import Rig
from hame.maths.rotations import Array
from hame.measure.balance import Balance
from hame.measure.bearing import borne_by
from hame.measure.pointing import twists
from server.shots import schemas


def balance_out(rig: Rig, nodes: Array, balance: Balance) -> schemas.BalanceOut:
    """How a body stands in one pose, nodes ``(N, 8)``."""
    chest, face = twists(rig, nodes)
    return schemas.BalanceOut(
        centre=balance.centre.tolist(), area=balance.area.tolist(), margin=balance.margin,
        bearing=borne_by(rig, nodes, balance.bearing, balance.centre), chest=chest, face=face,
    )  # fmt: skip
