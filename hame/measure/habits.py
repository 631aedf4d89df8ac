"""What is read of how somebody goes beside feet and turns: how low, how steady the head, and what the hands do."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import numpy.typing as npt

from hame.character.rig import Rig
from hame.evaluate.going.body import at_rest
from hame.gait.footfalls import Footfall
from hame.gait.traits import Traits
from hame.maths.rotations import Array, angle_between, inverse, multiply, to_vector

Ints = npt.NDArray[np.int64]
_STRAIGHT = 0.998  # of a leg: as far as one reaches
_DRAGS = 0.35  # of a swing of the arm: how far its hand hangs back for it
_NECK = 0.6  # of what is taken back of the turns of a trunk, that the neck takes first
_LEAST = 1e-3  # radians: what turns less does not turn


def lowered(rig: Rig, nodes: Array, found: Sequence[Footfall], part: Ints, first: int) -> float:
    """How much lower a body goes than legs need, of the leg: by how much the straightest leg that bears is bent.

    Parameters
    ----------
    nodes : (F, N, 8), from frame ``first`` on
    part : the rows that count
    """
    legs = {rig.control(limb.ik).side: limb for limb in rig.limbs if limb.kind == "leg"}
    spare = []
    for side, limb in legs.items():
        hip, foot, length = nodes[:, limb.upper, :3], nodes[:, limb.end, :3], sum(limb.lengths)
        level = np.linalg.norm((hip - foot)[:, [0, 2]], axis=1)
        over = np.sqrt(np.maximum((_STRAIGHT * length) ** 2 - level**2, 0.0)) - (hip - foot)[:, 1]
        for one in (one for one in found if one.side == side):
            rows = np.arange(one.first - first, min(one.last - first, len(nodes) - 1) + 1)
            rows = rows[(rows >= part[0]) & (rows <= part[-1])]
            if len(rows) > (one.last - one.first) / 2:
                spare.append(float(over[rows].min()) / length)
    return max(float(np.median(spare)), 0.0) if spare else 0.0


def steadiness(chest: Array, head: Array) -> float:
    """How much of the turns of a trunk a head takes back; both are turned (F, 3) from where it goes, radians."""
    trunk, own = (float(np.linalg.norm(turns - turns.mean(axis=0))) for turns in (chest, head))
    if trunk < _LEAST * np.sqrt(len(chest)):
        return float(np.asarray(Traits().steady))
    # The neck takes its part back, and the head of what is left.
    left = min(own / trunk, 1.0)
    return float(((1.0 + _NECK) - np.sqrt((1.0 + _NECK) ** 2 - 4.0 * _NECK * (1.0 - left))) / (2.0 * _NECK))


def hands_of(
    rig: Rig, nodes: Array, swings: Sequence[Array], strides: Sequence[tuple[int, int]]
) -> dict[str, float]:  # fmt: skip
    """By how many frames hands come after their arms, and how far fingers are closed, radians; what it has no hands for
    is plain.

    Parameters
    ----------
    swings : of each arm, how far ahead it is (F,), radians
    """
    lates, closed = [], []
    arms = [limb for limb in rig.limbs if limb.kind == "arm"]
    for limb, swing in zip(arms, swings, strict=True):
        rest = at_rest(rig)
        unbent = multiply(inverse(rest[limb.end, 3:7]), rest[limb.lower, 3:7])
        turned = multiply(inverse(nodes[:, limb.lower, 3:7]), nodes[:, limb.end, 3:7])
        hand = to_vector(multiply(np.broadcast_to(unbent, turned.shape), turned))
        for a, b in strides:
            beat = 2.0 * np.pi / (b - a)
            wave = np.exp(-1j * beat * np.arange(b - a))
            far = abs(complex(wave @ (swing[a:b] - swing[a:b].mean())))
            drags = float(np.linalg.norm(wave @ (hand[a:b] - hand[a:b].mean(axis=0))))
            if far > _LEAST * (b - a):
                lates.append(2.0 / beat * float(np.arcsin(min(drags / far / (2.0 * _DRAGS), 1.0))))
        joints = [rig.skeleton.index(name) for name in rig.plan.numbered(f"{limb.name}.index")]
        if len(joints) > 1:
            one, two = (nodes[:, rig.joint_nodes[j], 3:7] for j in joints[:2])
            straight = multiply(inverse(rig.skeleton.world[joints[0], 3:7]), rig.skeleton.world[joints[1], 3:7])
            bent = multiply(inverse(one), two)[strides[0][0] : strides[-1][1]]
            closed.append(float(np.median([angle_between(straight, turn) for turn in bent])))
    plain = Traits()
    return {
        "late": float(np.mean(lates)) if lates else float(np.asarray(plain.late)),
        "hands": float(np.mean(closed)) if closed else float(np.asarray(plain.hands)),
    }
