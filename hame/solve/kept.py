"""From a body as it was pulled back to the controls of its rig, by IK or FK as each limb stands."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass

import numpy as np
from numba import njit

from hame.character.limb import softness_of
from hame.character.rig import Chain, Limb, Rig
from hame.evaluate.kernel import ORDERS, run_rows
from hame.maths import rotations, transforms
from hame.maths.rotations import Array
from hame.solve.body import Body, Link
from hame.solve.drag_kernel import NODE, ROW, place_in, turn_to
from hame.solve.match import bend_of, length_of

SAME = 1e-7  # metres, and as a sine of half a turn: so near, a control is left as it is
_STAYED, _STAYED_TURN = 2e-5, 1e-4  # metres and radians: what was held fast did stay


@dataclass(frozen=True, eq=False)
class Kept:
    """What of a pose holds for all of a pull.

    Attributes
    ----------
    targets : by limb, the transform (8,) of its IK control, seen from what it reaches for: the roll of a foot
    roots : by limb, the link that carries it, and its root (8,) seen from there
    protected : controls that are not written
    planted : IK controls of limbs that are planted, whose keys are those of their plants: where the limb stays, they do
    """

    targets: tuple[Array, ...]
    roots: tuple[tuple[int, Array], ...]
    protected: frozenset[str]
    planted: frozenset[str] = frozenset()

    @classmethod
    def of(cls, body: Body, nodes: Array, protected: Collection[str] = (), planted: Collection[str] = ()) -> Kept:
        targets, roots = [], []
        for limb in body.rig.limbs:
            targets.append(transforms.relative(nodes[limb.target], nodes[body.rig.control(limb.ik).node]))
            up = body.links[body.number(limb.fk[0])].parent
            roots.append((up, transforms.relative(nodes[body.links[up].node], nodes[limb.root])))
        return cls(tuple(targets), tuple(roots), frozenset(protected), frozenset(planted))

    def placed(self, body: Body, place: Array, turn: Array, nodes: Array) -> Array:
        """The nodes (N, 8) with those of the links at ``place (L, 3)`` and ``turn (L, 4)``."""
        result = nodes.copy()
        at = body.nodes
        result[at, :3], result[at, 3:7] = place, turn
        for limb, (up, local) in zip(body.rig.limbs, self.roots, strict=True):
            result[limb.root] = transforms.compose(result[at[up]], local)
        return result


def kept_in_controls(body: Body, kept: Kept, start: Array, before: Array, wanted: Array) -> tuple[Array, Array]:
    """Channel values ``(C,)`` that put the links of a body where ``wanted (N, 8)`` has them; and their nodes (N, 8).

    ``start`` and ``before`` are the values and nodes of the pose that it was pulled from. Where a limb's end stays,
    or comes to where its IK control was, that control is not touched.
    """
    rig = body.rig
    values, nodes = start.copy(), before.copy()
    numbers: list[int] = []
    goals: list[Array] = []
    for link in body.links:
        bones = link.limb or link.chain
        by_fk = bones is None or not _by_ik_alone(rig, bones, start)
        if link.controls[0] not in kept.protected and by_fk and not _ends(link):
            numbers.append(rig.number_of(link.controls[0]))
            goals.append(wanted[link.node])
    by_ik = [n for n, limb in enumerate(rig.limbs) if _by_ik(rig, limb, start)]
    for limb, local in ((rig.limbs[n], kept.targets[n]) for n in by_ik):
        stayed = _stayed(before[limb.end], wanted[limb.end])
        # One that does not come as far as it is to would go along with the body: its control is brought to where it is.
        reached = float(np.linalg.norm(before[limb.end, :3] - before[limb.target, :3])) < _STAYED
        if limb.ik in kept.protected or (stayed and (reached or limb.ik in kept.planted)):
            continue
        target = wanted[limb.end].copy()
        target[:3] = _reached_for(rig, limb, start, wanted)
        goal = transforms.compose(target, local)
        if not _stayed(before[rig.control(limb.ik).node], goal):
            numbers.append(rig.number_of(limb.ik))
            goals.append(goal)
    _written(rig, values, nodes, numbers, goals)
    numbers, goals = [], []
    for limb in (rig.limbs[n] for n in by_ik):
        if limb.pole in kept.protected or _alike(nodes[limb.upper], wanted[limb.upper]):
            continue
        seen = wanted.copy()
        seen[limb.root] = nodes[limb.root]
        aim, swivel = bend_of(limb, seen)
        values[rig.number(f"{limb.pole}/swivel")] = swivel
        numbers.append(rig.number_of(limb.pole))
        goals.append(transforms.transform(aim, rotations.IDENTITY))
    if numbers:
        _written(rig, values, nodes, numbers, goals)
    for chain in (link.chain for link in body.links if _ends(link)):
        if chain is not None and _by_ik(rig, chain, start) and chain.ik not in kept.protected:
            _tip_brought(rig, chain, kept, before, wanted, values, nodes)
    return values, nodes


def _tip_brought(rig: Rig, chain: Chain, kept: Kept, before: Array, wanted: Array, values: Array, nodes: Array) -> None:
    """Brings the tip that a chain reaches for to where its end comes where it is wanted.

    What its joints are turned on top takes its end elsewhere than its tip is, as its root does where it goes: so it is
    looked at again, as long as that brings it nearer.
    """
    end = wanted[chain.end, :3]
    stayed = float(np.linalg.norm(before[chain.end, :3] - end)) < _STAYED
    if chain.ik in kept.planted and stayed:
        return
    least = np.inf
    for _ in range(_LOOKS):
        off = end - nodes[chain.end, :3]
        far = float(np.linalg.norm(off))
        if far < _STAYED or far > 0.7 * least:
            break
        least = far
        goal = nodes[rig.control(chain.ik).node].copy()
        goal[:3] += off
        _written(rig, values, nodes, [rig.number_of(chain.ik)], [goal])


_LOOKS = 12


def _ends(link: Link) -> bool:
    return link.role == "tip"


def _by_ik(rig: Rig, limb: Limb | Chain, values: Array) -> bool:
    return bool(values[rig.number(limb.switch)] > 0.0)


def _by_ik_alone(rig: Rig, limb: Limb | Chain, values: Array) -> bool:
    return bool(values[rig.number(limb.switch)] >= 1.0)


def _alike(a: Array, b: Array) -> bool:
    return bool(1.0 - abs(float(a[3:7] @ b[3:7])) < 1e-12)


def _stayed(a: Array, b: Array) -> bool:
    near = np.linalg.norm(a[:3] - b[:3]) < _STAYED
    return bool(near and rotations.angle_between(a[3:7], b[3:7]) < _STAYED_TURN)


def _reached_for(rig: Rig, limb: Limb, values: Array, wanted: Array) -> Array:
    """The place (3,) for a limb to reach for so that, softened, its end comes where it is wanted."""
    root, end = wanted[limb.root, :3], wanted[limb.end, :3]
    length = length_of(limb, wanted)
    soft = float(values[rig.number(softness_of(limb.name))]) * length
    way = end - root
    reach = float(np.linalg.norm(way))
    if soft <= 0.0 or reach <= length - soft:
        return np.asarray(end)
    left = max((length - reach) / soft, 1e-9)
    return np.asarray(root + way / reach * (length - soft - soft * np.log(left)))


def _written(rig: Rig, values: Array, nodes: Array, numbers: list[int], goals: list[Array]) -> None:
    """Writes into ``values`` what brings controls to the transforms ``goals``, and runs ``nodes`` of all of it."""
    rows = rig.tables.control[numbers, ROW]
    order = np.argsort(rows, kind="stable")
    write_controls(
        rig.program, ORDERS, rig.tables, values, nodes, np.array(numbers, np.int64)[order],
        np.array(goals, float).reshape(-1, 8)[order],
    )  # fmt: skip


@njit(cache=True, nogil=True)
def write_controls(program, orders, tables, values, nodes, numbers, goals):  # type: ignore[no-untyped-def]
    """Writes into ``values (C,)`` what brings controls to ``goals (K, 8)``, and runs ``nodes (N, 8)`` of all of it.

    ``numbers (K,)`` rise by row of the program, so that each is brought when all that carry it stand. Those that stand
    there already are left as they are.
    """
    table = tables.control
    done = 0
    for k in range(numbers.shape[0]):
        w = numbers[k]
        run_rows(program.ops, program.params, orders, values, nodes, done, table[w, ROW] + 1)
        done = table[w, ROW]
        n = table[w, NODE]
        far, same = 0.0, 0.0
        for c in range(3):
            far = max(far, abs(nodes[n, c] - goals[k, c]))
        for c in range(4):
            same += nodes[n, 3 + c] * goals[k, 3 + c]
        if far > SAME:
            place_in(values, nodes, tables, w, goals[k, 0], goals[k, 1], goals[k, 2])
        if 1.0 - abs(same) > 0.5 * SAME * SAME:
            turn_to(values, nodes, tables, orders, w, goals[k, 3], goals[k, 4], goals[k, 5], goals[k, 6])
    run_rows(program.ops, program.params, orders, values, nodes, done, program.ops.shape[0])
