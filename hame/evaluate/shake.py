"""What a shake adds to channel values: a shaken part of the body, and what hangs on it, less from link to link.

Along the trunk places fall off as turns do: each link leans back against what
it stands on, so that its upper end moves by the factor less. A shake of the
hips so does not reach the head, as it would on a stiff spine.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from hame.character.rig import Control, Rig
from hame.clip.pushed import Pushed
from hame.evaluate.laid import turns_of
from hame.evaluate.laid_kernel import turn_by
from hame.evaluate.some import some_nodes
from hame.maths.rotations import Array, from_vector, inverse, multiply, rotate


@dataclass(frozen=True)
class Link:
    """A control that a shake turns.

    Attributes
    ----------
    control : its number in the rig
    turn : its row among the rig's turns
    below : the row of the link that carries it, -1 for none
    distance : how many links it is from where the shake begins
    """

    control: int
    turn: int
    below: int
    distance: int


@dataclass(frozen=True)
class Chain:
    """What a shake of one control moves on a rig.

    Attributes
    ----------
    links : those that are turned, each after the one that carries it
    rising : where the body is shaken, the rows of the trunk's links above the hips, upward
    places : controls whose place is shaken
    axes : the node in whose axes the shake is meant; NONE is the world's
    """

    links: tuple[Link, ...]
    rising: tuple[int, ...]
    places: tuple[int, ...]
    axes: int


def can_shake(rig: Rig, control: str) -> bool:
    """Whether a shake can begin in a control."""
    return bool(chain_of(rig, control).links) or bool(chain_of(rig, control).places)


@lru_cache(maxsize=512)
def chain_of(rig: Rig, begins: str) -> Chain:
    """What a shake that begins in a control moves."""
    numbers = {control.name: n for n, control in enumerate(rig.controls)}
    turned = {int(columns[0]): row for row, columns in enumerate(np.sort(turns_of(rig).columns, axis=1))}
    body = next((control for control in rig.controls if control.kind == "body"), None)
    trunk = [control for control in rig.controls if control.kind == "trunk" and _turn(control, turned) is not None]
    limb = next((limb for limb in rig.limbs if limb.kind == "arm" and begins in (limb.fk[2], limb.ik)), None)
    own = rig.control(begins)
    begin = limb.fk[2] if limb else trunk[0].name if trunk and own.kind == "body" else begins
    arms = {limb.name for limb in rig.limbs if limb.kind == "arm"}
    hanging = [c for c in rig.controls if c.kind == "fk" and c.limb in arms and _turn(c, turned) is not None]
    among = [*trunk, *hanging]
    axes = body.frame if body is not None else own.frame
    if begin not in {control.name for control in among}:
        row = _turn(own, turned)
        alone = () if row is None else (Link(numbers[begins], row, -1, 0),)
        return Chain(alone, (), (numbers[begins],) if own.posed else (), own.frame)
    rows = {control.name: n for n, control in enumerate(among)}
    below = [_carrier(rig, control, rows) for control in among]
    # The hips turn beside the spine and not under it: both are carried by the body.
    beside = len(trunk) > 1 and below[1] < 0
    joined = {(n, b) for n, b in enumerate(below) if b >= 0} | ({(1, 0)} if beside else set())
    distance = _distances(len(among), joined, rows[begin])
    links = tuple(
        Link(numbers[c.name], row, below[n], distance[n])
        for n, c in enumerate(among)
        if (row := _turn(c, turned)) is not None
    )
    if begin not in {control.name for control in trunk}:
        goal = [numbers[limb.ik]] if limb else []
        held = [Link(n, row, -1, 0) for n in goal if (row := _turn(rig.controls[n], turned)) is not None]
        return Chain((*links, *held), (), tuple(goal), axes)
    if rows[begin] == 0 and beside and body is not None:
        return Chain(links, tuple(range(1, len(trunk))), (numbers[body.name],), axes)
    return Chain(links, (), (), axes)


def _turn(control: Control, turned: dict[int, int]) -> int | None:
    """The row of a control among the rig's turns; None for one that does not turn about three axes."""
    if not control.posed:
        return None
    return next((turned[n] for n in range(control.first, control.first + control.count) if n in turned), None)


def _carrier(rig: Rig, control: Control, rows: dict[str, int]) -> int:
    """The row of the nearest link that carries a control."""
    name = control.parent
    while name:
        if name in rows:
            return rows[name]
        name = rig.control(name).parent
    return -1


def _distances(count: int, joined: set[tuple[int, int]], begin: int) -> list[int]:
    found, front = {begin: 0}, [begin]
    while front:
        at = front.pop(0)
        for a, b in joined:
            for here, there in ((a, b), (b, a)):
                if here == at and there not in found:
                    found[there] = found[at] + 1
                    front.append(there)
    return [found.get(n, count) for n in range(count)]


def shake_adds(rig: Rig, begins: str, span: Pushed, times: Array, values: Array) -> Array:
    """What a shake or a blow that begins in a control adds to channel ``values (T, C)`` at times (T,) inside of it."""
    chain = chain_of(rig, begins)
    shift, _ = span.waves(times)
    result = values.copy()
    nodes = np.moveaxis(_standing(rig, chain, values), 1, 0)
    axes, count = nodes[0, :, 3:7], len(chain.links)
    if count:
        turned = span.turned(times, [link.distance for link in chain.links])
        if chain.rising:
            _lean(turned, chain.rising, span.factor, shift, rotate(inverse(axes), nodes[1 : 1 + count, :, :3]))
        turn_links(rig, chain.links, turned, axes, nodes[1 : 1 + count, :, 3:7], result)
    for n, control in enumerate(chain.places, 1 + count):
        first = rig.controls[control].first
        result[:, first : first + 3] += rotate(multiply(inverse(nodes[n, :, 3:7]), axes), shift)
    return np.asarray((result - values) * rig.free)


def turn_links(rig: Rig, links: Sequence[Link], turned: Array, axes: Array, stand: Array, result: Array) -> None:
    """Turns links in channel values ``result (T, C)``, each as a whole by vectors ``turned (L, T, 3)``, radians.

    They are meant in ``axes (T, 4)``, and the links stand as ``stand (L, T, 4)``; one that another one carries turns
    by what it does more than that.
    """
    under = np.concatenate([turned, np.zeros_like(turned[:1])])[[link.below for link in links]]
    own = multiply(inverse(axes), stand)
    by = multiply(inverse(own), multiply(multiply(inverse(from_vector(under)), from_vector(turned)), own))
    turns, rows = turns_of(rig), [link.turn for link in links]
    turn_by(result, np.ascontiguousarray(by), turns.columns[rows], turns.axes[rows])


def _standing(rig: Rig, chain: Chain, values: Array) -> Array:
    """Transforms (T, K, 8): the axes', each link's, and those in which each shaken place is read."""
    links = (rig.controls[link.control].node for link in chain.links)
    wanted = (chain.axes, *links, *(rig.controls[n].frame for n in chain.places))
    return some_nodes(rig, wanted, values)


def _lean(turned: Array, rising: tuple[int, ...], factor: float, shift: Array, at: Array) -> None:
    """Turns links above a shaken place against it, so that the upper end of each goes with it by the factor less.

    Parameters
    ----------
    turned : (L, T, 3) how the links turn, of which those that rise keep what is about their own line
    shift : (T, 3) where the shaken place goes
    at : (L, T, 3) where the links stand
    """
    moved = shift
    for number, (row, above) in enumerate(zip(rising, rising[1:], strict=False), 2):
        along = at[above] - at[row]
        square = np.maximum((along**2).sum(axis=1, keepdims=True), 1e-9)
        held = factor**number * shift
        twist = (turned[row] * along).sum(axis=1, keepdims=True) / square * along
        turned[row] = np.cross(along, held - moved) / square + twist
        moved = held
