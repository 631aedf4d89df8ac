"""What a carry-through and a counter add to channel values: trunk and arms that lean over hips and legs that stay."""

from __future__ import annotations

from functools import lru_cache

import numpy as np

from hame.character.rig import Limb, Rig
from hame.clip.counter import Counter
from hame.clip.through import CarryThrough
from hame.evaluate.give import body_of
from hame.evaluate.shake import Chain, chain_of, turn_links
from hame.evaluate.some import some_nodes
from hame.maths.rotations import Array, from_vector, inverse, multiply, rotate


@lru_cache(maxsize=256)
def lean_of(rig: Rig) -> Chain | None:
    """What leans over the hips of a rig; None where nothing does."""
    body = body_of(rig)
    if body is None:
        return None
    chain = chain_of(rig, body.name)
    return chain if any(link.distance for link in chain.links) else None


def carry_through_adds(rig: Rig, span: CarryThrough, times: Array, values: Array) -> Array:
    """What a carry-through adds to channel ``values (T, C)`` at times (T,) inside of it."""
    chain = lean_of(rig)
    if chain is None:
        return np.zeros_like(values)
    return _leaned(rig, chain, span.turned(times, [link.distance for link in chain.links]), values)


def counter_adds(rig: Rig, span: Counter, times: Array, values: Array) -> Array:
    """What a counter adds to channel ``values (T, C)`` at times (T,) inside of it."""
    chain = lean_of(rig)
    if chain is None:
        return np.zeros_like(values)
    nod, tilt, arms_nod, arms_tilt = span.leans
    trunk = [rig.controls[link.control].kind == "trunk" for link in chain.links]
    top = max((link.distance for link, own in zip(chain.links, trunk, strict=True) if own), default=1) or 1
    turned = np.zeros((len(chain.links), len(times), 3))
    for row, link in enumerate(chain.links):
        share = min(link.distance / top, 1.0)
        arms = 0.0 if trunk[row] else 1.0
        turned[row, :, 0] = (share * nod + arms * arms_nod) * span.comes(times)
        turned[row, :, 2] = (share * tilt + arms * arms_tilt) * span.comes(times)
    return _leaned(rig, chain, turned, values)


def _leaned(rig: Rig, chain: Chain, turned: Array, values: Array) -> Array:
    """What turning links as wholes adds to channel values; hands that are posed by IK go with their shoulders."""
    arms = [limb for limb in rig.limbs if limb.kind == "arm"]
    wanted = (chain.axes, *(rig.controls[link.control].node for link in chain.links))
    nodes = np.moveaxis(some_nodes(rig, wanted, values), 1, 0)
    axes, result = nodes[0, :, 3:7], values.copy()
    turn_links(rig, chain.links, turned, axes, nodes[1:, :, 3:7], result)
    by_ik = [limb for limb in arms if (values[:, rig.number(limb.switch)] > 0.5).any()]
    if by_ik:
        _hands(rig, by_ik, chain, turned, axes, values, result)
    return np.asarray((result - values) * rig.free)


def _hands(
    rig: Rig, arms: list[Limb], chain: Chain, turned: Array, axes: Array, values: Array, result: Array
) -> None:  # fmt: skip
    """Takes the goals of arms along, turned about the shoulder as the arms are; those that are held elsewhere stay, as
    ties come later."""
    goals = [rig.control(limb.ik) for limb in arms]
    wanted = tuple(node for limb, goal in zip(arms, goals, strict=True) for node in (limb.upper, goal.node, goal.frame))
    before, after = (np.moveaxis(some_nodes(rig, wanted, v), 1, 0) for v in (values, result))
    rows = {rig.controls[link.control].name: n for n, link in enumerate(chain.links)}
    for n, (limb, goal) in enumerate(zip(arms, goals, strict=True)):
        by_ik = (values[:, rig.number(limb.switch)] > 0.5)[:, None]
        row = rows.get(limb.fk[0])
        vector = turned[row] if row is not None else np.zeros((len(values), 3))
        turn = multiply(multiply(axes, from_vector(vector)), inverse(axes))
        shoulder, hand = before[3 * n, :, :3], before[3 * n + 1, :, :3]
        wish = after[3 * n, :, :3] + rotate(turn, hand - shoulder)
        way = np.where(by_ik, wish - after[3 * n + 1, :, :3], 0.0)
        frame = after[3 * n + 2]
        result[:, goal.first : goal.first + 3] += rotate(inverse(frame[:, 3:7]), way) / frame[:, 7:8]
