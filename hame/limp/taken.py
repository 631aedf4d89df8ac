"""A fall taken into the channel values of a rig."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from hame.evaluate.evaluate import evaluate
from hame.evaluate.posed import Posed
from hame.limp.fall import Fallen
from hame.maths.rotations import Array, unwound
from hame.solve.body import body_of
from hame.solve.drag import place_control
from hame.solve.kept import Kept, kept_in_controls
from hame.solve.match import match


def values_of(posed: Posed, fallen: Sequence[Fallen]) -> tuple[Array, list[str]]:
    """Channel values (F, C) in which a figure stands as it fell, by FK; and the channels that this takes.

    ``posed`` is how it would play on these frames if nothing tied it: by that, master and all else are.
    """
    rig = posed.rig
    body = body_of(rig)
    first = posed.values[0].copy()
    for limb in rig.limbs:
        first = match(rig, first, limb, "fk")
    names = [link.controls[0] for link in body.links]
    addresses = [c.address for name in names for c in rig.channels_of(name) if not c.locked and c.name[0] in "tr"]
    limbs = [limb for limb in rig.limbs if rig.has_control(limb.name)]
    lengths = [c.address for limb in limbs for c in rig.channels_of(limb.name) if c.address != limb.switch]
    toes = [
        c.address for limb in rig.limbs if rig.has_control(limb.toe) for c in rig.channels_of(limb.toe) if not c.locked
    ]
    columns = np.array([rig.number(address) for address in (*addresses, *lengths, *toes)])
    switches = np.array([rig.number(limb.switch) for limb in rig.limbs], int)
    result = np.empty_like(posed.values)
    now = first
    for n, one in enumerate(fallen):
        start = posed.values[n].copy()
        start[columns] = now[columns]
        start[switches] = 0.0
        nodes = evaluate(rig, start[None])[0]
        wanted = Kept.of(body, nodes).placed(body, one.place, one.turn, nodes)
        now, _ = kept_in_controls(body, Kept.of(body, nodes), start, nodes, wanted)
        now = np.where(rig.turned, unwound(now, result[n - 1] if n else first), now)
        result[n] = now
    return result, [*addresses, *lengths, *toes]


def root_values(posed: Posed, roots: Array) -> tuple[Array, list[str]]:
    """Channel values (F, C) of a thing whose first control goes through ``roots (F, 8)``; and the channels that takes.

    ``posed`` is how it would play on these frames if nothing carried it.
    """
    rig = posed.rig
    control = rig.controls[0]
    addresses = [c.address for c in rig.channels_of(control.name) if not c.locked and c.name[0] in "tr"]
    result = posed.values.copy()
    for n, root in enumerate(roots):
        if n:
            columns = slice(control.first, control.first + 6)
            result[n, columns] = result[n - 1, columns]
        nodes = evaluate(rig, result[n][None])[0]
        place_control(rig, result[n], control, nodes, root)
        if n:
            result[n] = np.where(rig.turned, unwound(result[n], result[n - 1]), result[n])
    return result, addresses
