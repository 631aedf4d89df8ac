"""A pose from which a pull counts, and everything about it that holds for all of the pull."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from hame.character.limb import softness_of
from hame.character.rig import Rig
from hame.evaluate.evaluate import evaluate
from hame.maths.rotations import Array
from hame.solve.body import Body, body_of, frozen, stood
from hame.solve.kept import Kept
from hame.solve.pull_kernel import HINGE, Tree, centre, stand


@dataclass(frozen=True, eq=False)
class Begun:
    """A pose from which a pull counts: see :func:`begin`."""

    body: Body
    tree: Tree
    angles: Array
    low: Array
    high: Array
    values: Array
    nodes: Array
    kept: Kept
    beyond: tuple[str, ...]

    @cached_property
    def size(self) -> float:
        """How large the body is as it stands, metres."""
        return float(self.body.rig.size * self.nodes[self.body.links[0].node, 7])

    @cached_property
    def over(self) -> Array:
        """Where on the ground (2,), x and z, its centre of mass is over."""
        x, _, z = centre(self.tree, *links_at(self.tree, self.angles))
        return np.array([x, z])

    @cached_property
    def eased(self) -> Array:
        """By angle (n,), below what a hinge is too straight; straighter than at the start it was already."""
        eased = np.full(len(self.angles), -np.inf)
        for link in self.body.links:
            if link.kind == HINGE:
                eased[link.first] = min(EASED, self.angles[link.first])
        return eased


def begin(
    rig: Rig, values: Array, nodes: Array | None = None, protected: Collection[str] = (),
    planted: Collection[str] = (), chains: bool = False,
) -> Begun:  # fmt: skip
    """Everything about a pose, channel values ``(C,)``, that holds for all of a pull.

    A joint that is out of its range already may stay where it is, and is named in ``beyond``. What is ``protected``,
    by control, does not turn. ``planted`` are the IK controls of limbs that are planted. With ``chains`` they bend too,
    where they are pulled or gripped.

    Raises
    ------
    BadEdit
        For a prop.
    """
    body = body_of(rig, chains)
    nodes = evaluate(rig, values[None])[0] if nodes is None else nodes
    tree, angles = stood(body, nodes)
    slack = 1e-6
    out = (angles < body.low - slack) | (angles > body.high + slack)
    low, high = np.minimum(body.low, angles), np.maximum(body.high, angles)
    beyond = [link.label for n, link in enumerate(body.links) if n and out[body.angles(n)].any()]
    for n in frozen(body, protected):
        low[body.angles(n)] = high[body.angles(n)] = angles[body.angles(n)]
    for n, link in enumerate(body.links):  # in the last share of its length a limb that softens reaches no further
        if link.kind == HINGE and link.limb is not None:
            low[link.first] = min(max(low[link.first], _softly(body, n, values)), angles[link.first])
    return Begun(body, tree, angles, low, high, values, nodes, Kept.of(body, nodes, protected, planted), tuple(beyond))


def links_at(tree: Tree, angles: Array) -> tuple[Array, Array]:
    links = len(tree.parent)
    place, turn = np.empty((links, 3)), np.empty((links, 4))
    stand(tree, angles, place, turn, np.empty((len(angles), 3)))
    return place, turn


EASED = np.radians(12.0)


def where(begun: Begun, part: str) -> tuple[Array, Array]:
    """The place (3,) and turn (4,) of a part at the start."""
    node = begun.nodes[begun.body.link(part).node]
    return node[:3], node[3:7]


def _softly(body: Body, n: int, values: Array) -> float:
    """The bend of a limb's hinge at which its softness begins, radians."""
    limb = body.links[n].limb
    assert limb is not None
    rig = body.rig
    soft = float(values[rig.number(softness_of(limb.name))])
    if soft <= 0.0 or values[rig.number(limb.switch)] <= 0.0:
        return 0.0
    one, two = limb.lengths
    reach = (one + two) * (1.0 - soft)
    cosine = (one * one + two * two - reach * reach) / (2.0 * one * two)
    return float(np.pi - np.arccos(np.clip(cosine, -1.0, 1.0)))
