"""What a foot that comes down adds to channel values: toes that slap, and a dip of body, head and hands."""

from __future__ import annotations

import numpy as np

from hame.character.rig import Rig
from hame.clip.footdown import FootDown
from hame.evaluate.give import body_of
from hame.evaluate.leaning import lean_of
from hame.evaluate.shake import turn_links
from hame.evaluate.some import some_nodes
from hame.maths.rotations import Array, inverse, rotate

_ROLL = "roll"


def foot_down_adds(rig: Rig, foot: str, span: FootDown, times: Array, values: Array) -> Array:
    """What a foot that comes down adds to channel ``values (T, C)`` at times (T,) inside of it; planted feet stay."""
    result, dips = values.copy(), span.dips(times)
    body = body_of(rig)
    if body is not None:
        result[:, body.first + 1] -= span.drop * dips
    chain = lean_of(rig)
    head = next((link for link in chain.links if rig.controls[link.control].name == "head"), None) if chain else None
    if chain is not None and head is not None and span.nod:
        nodes = np.moveaxis(some_nodes(rig, (chain.axes, rig.controls[head.control].node), values), 1, 0)
        turned = np.zeros((1, len(times), 3))
        turned[0, :, 0] = span.nod * dips
        alone = type(head)(head.control, head.turn, -1, 0)
        turn_links(rig, (alone,), turned, nodes[0, :, 3:7], nodes[1:, :, 3:7], result)
    for limb in rig.limbs:
        number = rig.number(limb.switch)
        if limb.kind == "arm" and span.drop and (values[:, number] > 0.5).any():
            goal = rig.control(limb.ik)
            frame = some_nodes(rig, (goal.frame,), values)[:, 0]
            way = np.zeros((len(times), 3))
            way[:, 1] = np.where(values[:, number] > 0.5, -span.drop * dips, 0.0)
            result[:, goal.first : goal.first + 3] += rotate(inverse(frame[:, 3:7]), way) / frame[:, 7:8]
        address = f"{limb.ik}/{_ROLL}"
        if limb.ik == foot and limb.kind == "leg" and rig.has_channel(address):
            roll = rig.number(address)
            by_ik = values[:, number] > 0.5
            result[:, roll] += np.where(by_ik, span.slapped(times, values[:, roll]), 0.0)
    return np.asarray((result - values) * rig.free)
