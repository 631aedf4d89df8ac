"""The links of a rig that a pull moves, and the angles in which a pose of them is told.

Links are the joints of trunk and limbs that have controls of their own; fingers, toes, face and further joints go along
with what carries them. Which angles a link has follows from its ranges (:mod:`hame.character.ranges`).
"""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Collection, Sequence
from dataclasses import dataclass
from functools import cached_property, lru_cache

import numpy as np

from hame.character.bodyplan import END_OF
from hame.character.masses import masses_of
from hame.character.ranges import ANGLES, JointRange, is_upright, range_of
from hame.character.rig import Chain, Limb, Rig
from hame.errors import BadEdit
from hame.evaluate.evaluate import evaluate
from hame.maths import rotations
from hame.maths.rotations import Array
from hame.solve.pull_kernel import BALL, FIXED, FREE, HINGE, Ints, Tree

X, Y, Z = np.eye(3)


@dataclass(frozen=True)
class Link:
    """One link.

    Attributes
    ----------
    name : ``body``, a control of the trunk (``chest``), a collar, or a part of a limb (``arm.L.lower``, ``leg.L.foot``)
    parent : the number of the link that carries it, or -1
    node : the rig's node that it is
    controls : those by which a person takes hold of it; the first turns it in FK
    limb : of which it is a part, or None
    row : it bends as one with the other links of this name: ``spine``, ``neck``, or "" alone
    role : what it is of its limb: ``collar``, ``upper``, ``lower``, ``hand``, ``foot``; of a chain ``joint`` or
        ``tip``; "" in the trunk
    chain : of which it is a part, or None
    """

    name: str
    label: str
    parent: int
    kind: int
    first: int
    node: int
    controls: tuple[str, ...]
    limb: Limb | None
    row: str
    range: JointRange
    role: str = ""
    chain: Chain | None = None


@dataclass(frozen=True, eq=False)
class Body:
    """All links of a rig, and what of them holds in every pose.

    Attributes
    ----------
    zero : (L, 4) how a link is turned in the one that carries it with all angles at zero
    after : (L, 4) what follows its angles: from the axes that it bends about to its own
    """

    rig: Rig
    links: tuple[Link, ...]
    zero: Array
    after: Array

    @cached_property
    def low(self) -> Array:
        """The least values (n,) of the angles."""
        return self._ends(0, -np.inf)

    @cached_property
    def high(self) -> Array:
        """The greatest values (n,) of the angles."""
        return self._ends(1, np.inf)

    def _ends(self, which: int, free: float) -> Array:
        found = np.full(self.links[-1].first + _COUNT[self.links[-1].kind], free)
        for link in self.links[1:]:
            for n in range(_COUNT[link.kind]):
                found[link.first + n] = getattr(link.range, ANGLES[n])[which]
        return found

    @cached_property
    def neutral(self) -> Array:
        """The angles (n,) of the rest pose."""
        return stood(self, evaluate(self.rig, self.rig.rest[None])[0])[1]

    def number(self, part: str) -> int:
        """The number of a link, by its name or by a control of it; raises :class:`BadEdit` if there is none."""
        if part in self._numbers:
            return self._numbers[part]
        name = self.rig.control(part).label if self.rig.has_control(part) else part
        raise BadEdit(f"{name} is no part that the body can be pulled by; take a hand, an elbow, a foot, a knee, the "
                      "chest, the hips or the head")  # fmt: skip

    def link(self, part: str) -> Link:
        """A link, by its name or by a control of it; raises :class:`BadEdit` if there is none."""
        return self.links[self.number(part)]

    @cached_property
    def _numbers(self) -> dict[str, int]:
        by_control = {name: n for n, link in enumerate(self.links) for name in link.controls}
        return by_control | {link.name: n for n, link in enumerate(self.links)}

    @cached_property
    def nodes(self) -> Ints:
        """The rig's nodes (L,) that the links are."""
        return np.array([link.node for link in self.links], np.int32)

    def angles(self, link: int) -> slice:
        """Which numbers among the angles are a link's; of the first the three of its place come before."""
        return slice(self.links[link].first, self.links[link].first + _COUNT[self.links[link].kind])


_COUNT = {FREE: 6, BALL: 3, HINGE: 1, FIXED: 0}


@lru_cache(maxsize=128)
def body_of(rig: Rig, chains: bool = False) -> Body:
    """The links of a rig; with its ``chains`` those of them too, which else go along with what carries them.

    Raises
    ------
    BadEdit
        For a prop, which has no body.
    """
    if not rig.has_control("body"):
        raise BadEdit("a prop has no body to be pulled by a part; move it as it is")
    upright = is_upright(rig.plan, rig.skeleton)
    links = _links(rig, upright, chains)
    rest = evaluate(rig, rig.rest[None])[0]
    zero = np.array([_zero(links, n, rest, upright) for n in range(len(links))])
    after = np.tile(rotations.IDENTITY, (len(links), 1))
    for n, link in enumerate(links):
        if link.chain is not None and link.kind == BALL:
            axes = link.chain.axes[link.chain.controls.index(link.controls[0])]
            zero[n], after[n] = rotations.multiply(zero[n], axes), rotations.inverse(axes)
    return Body(rig, links, zero, after)


def _links(rig: Rig, upright: bool, chains: bool) -> tuple[Link, ...]:
    """The links of a rig, each after the one that carries it: the trunk, then limb by limb from the inside out, and
    chain by chain.
    """
    plan = rig.plan
    links: list[Link] = []
    known: dict[str, int] = {}  # FK control -> link

    def add(
        name: str, label: str, kind: int, node: int, controls: tuple[str, ...], carried_by: str, reach: JointRange,
        limb: Limb | None = None, row: str = "", role: str = "", chain: Chain | None = None,
    ) -> None:  # fmt: skip
        while carried_by and carried_by not in known:
            carried_by = rig.control(carried_by).parent
        first = links[-1].first + _COUNT[links[-1].kind] if links else 0
        known[controls[0]] = len(links)
        links.append(
            Link(name, label, known.get(carried_by, -1), kind, first, node, controls, limb, row, reach, role, chain)
        )

    add("body", "hips", FREE, rig.control("body").node, ("body",), "", JointRange((0.0, 0.0)))
    trunk = [c for c in rig.controls if c.kind == "trunk"]
    in_row = Counter(_row(c.name) for c in trunk)
    for c in trunk:
        row = _row(c.name)
        reach = range_of(c.name, plan, upright, row, in_row[row])
        add(c.name, c.label, BALL, c.node, (c.name,), c.parent, reach, row=row)
    for limb in rig.limbs:
        collar = f"{limb.name}.collar"
        if rig.has_control(collar):
            c = rig.control(collar)
            add(collar, c.label, BALL, c.node, (collar,), c.parent, range_of(collar, plan, upright), role="collar")
        upper, lower, end = limb.fk
        words = {"arm": ("shoulder joint", "elbow", "hand"), "leg": ("hip joint", "knee", "foot")}[limb.kind]
        bend = rig.channels[rig.number(f"{lower}/rx")]
        for part, control, node, more, kind, word in (
            ("upper", upper, limb.upper, (), BALL, words[0]),
            ("lower", lower, limb.lower, (limb.pole,), HINGE, words[1]),
            (END_OF[limb.kind], end, limb.end, (limb.ik, limb.toe), BALL, words[2]),
        ):
            name = f"{limb.name}.{part}"
            reach = range_of(name, plan, upright)
            if kind == HINGE:  # counted from straight, and no farther than the control goes
                most = bend.high - bend.low
                low, high = reach.bend if upright or name in plan.ranges else (0.0, most)
                reach = JointRange((max(low, 0.0), min(high, most)))
            controls = (control, *(c for c in more if c))
            add(name, f"{limb.label} {word}", kind, node, controls, rig.control(control).parent, reach, limb, role=part)
    for chain in rig.chains if chains else ():
        carrier = rig.control(chain.controls[0]).parent
        while carrier and carrier not in known:
            carrier = rig.control(carrier).parent
        if not carrier:  # it hangs on the master, not on the body
            continue
        row, tip = chain.name, f"{chain.label}, tip"
        for name in chain.controls:
            c = rig.control(name)
            add(name, c.label, BALL, c.node, (name,), c.parent, _FREELY, row=row, role="joint", chain=chain)
        last = chain.controls[-1]
        add(chain.ik, tip, FIXED, chain.end, (chain.ik, chain.name), last, _FREELY, role="tip", chain=chain)
    return tuple(links)


# A joint of a chain bends to all sides, and does not twist by being pulled (common practice, no source).
_FREELY = JointRange((-2.6, 2.6), (0.0, 0.0), (-2.6, 2.6))


def _row(control: str) -> str:
    stem = control.split(".")[0]
    return {"spine": "spine", "chest": "spine", "neck": "neck", "head": "neck"}.get(stem, "")


def _zero(links: Sequence[Link], n: int, rest: Array, upright: bool) -> Array:
    """How a link is turned in the one that carries it with all angles at zero."""
    link = links[n]
    if link.parent < 0:
        return rest[link.node, 3:7]
    up = rest[links[link.parent].node, 3:7]
    if link.kind in (HINGE, FIXED):  # straight
        return np.array(rotations.IDENTITY)
    if upright and link.limb is not None and link.role == "upper":
        # Hanging: the bone points down, along its y on the left and against it on the right.
        y = -link.limb.side * Y
        x = X if link.limb.kind == "leg" else -X
        world = rotations.from_matrix(np.stack([x, y, np.cross(x, y)], axis=1))
    else:
        world = rest[link.node, 3:7]
    return np.asarray(rotations.multiply(rotations.inverse(up), world))


def stood(body: Body, nodes: Array) -> tuple[Tree, Array]:
    """The tree of a body as it is in one pose of its rig, nodes ``(N, 8)``; and the angles ``(n,)`` it stands at.

    Bones have the lengths that they have in the pose. Angles of the free link count from the pose.
    """
    count = len(body.links)
    offset, after = np.zeros((count, 3)), body.after.copy()
    zero = body.zero.copy()
    x = np.zeros(body.low.shape[0])
    for n, link in enumerate(body.links):
        own = nodes[link.node]
        if link.parent < 0:
            offset[n], zero[n] = own[:3], own[3:7]
            continue
        up = nodes[body.links[link.parent].node]
        back = rotations.inverse(up[3:7])
        offset[n] = rotations.rotate(back, own[:3] - up[:3])
        if link.kind == FIXED:
            zero[n] = rotations.multiply(back, own[3:7])
            continue
        turn = rotations.multiply(rotations.inverse(zero[n]), rotations.multiply(back, own[3:7]))
        turn = rotations.multiply(turn, rotations.inverse(after[n]))
        if link.kind == HINGE:
            angle = math.remainder(2.0 * math.atan2(turn[0], turn[3]), math.tau)
            x[link.first] = angle
            after[n] = rotations.multiply(rotations.from_axis_angle(X, -angle), turn)
        else:
            x[link.first : link.first + 3] = swing_and_twist(turn)
    masses = masses_of(body.rig)
    of_joint = carried_by(body)
    mass, at = np.zeros(count), np.zeros((count, 3))
    for joint, share, local in zip(masses.joints, masses.share, masses.at, strict=True):
        n = of_joint[int(joint)]
        own, carried = nodes[body.links[n].node], nodes[body.rig.joint_nodes[joint]]
        world = carried[:3] + carried[7] * rotations.rotate(carried[3:7], local)
        mass[n] += share
        at[n] += share * rotations.rotate(rotations.inverse(own[3:7]), world - own[:3])
    at /= np.maximum(mass, 1e-12)[:, None]
    parent = np.array([link.parent for link in body.links], np.int32)
    kind = np.array([link.kind for link in body.links], np.int32)
    first = np.array([link.first for link in body.links], np.int32)
    return Tree(parent, kind, first, offset, zero, after, mass, at), x


@lru_cache(maxsize=64)
def carried_by(body: Body) -> tuple[int, ...]:
    """By joint, the link that it goes along with."""
    rig = body.rig
    by_control = {name: n for n, link in enumerate(body.links) for name in link.controls}
    found = []
    for j in range(len(rig.skeleton)):
        control = rig.picks[j][0]
        while control and control not in by_control:
            control = rig.control(control).parent
        found.append(by_control.get(control, 0))
    return tuple(found)


def joint_of(body: Body, link: int) -> int:
    """The joint that a link is."""
    chain, wanted = body.links[link].chain, body.links[link].controls[0]
    if chain is not None and wanted == chain.ik:
        return chain.joints[-1]
    carried = [j for j, pick in enumerate(body.rig.picks) if pick[0] == wanted]
    if carried:
        return carried[0]
    return body.rig.skeleton.index(body.rig.plan.roles["hips"])


def grip_at_first(link: Link) -> dict[str, bool]:
    """What a grip on a link holds at first: elbows and knees their place, head and chest their turn, others both."""
    place = link.limb is not None or link.parent < 0 or link.chain is not None
    return {"place": place, "turn": link.kind != HINGE and link.role != "upper" and link.chain is None}


def swing_and_twist(turn: Array) -> Array:
    """The angles (3,) of a ball joint: *bend* and *side*, the x and z of its swing, and between them the *twist*."""
    x, y, z, w = (float(c) for c in turn)
    size = np.hypot(y, w)
    if size < 1e-12:  # swung by half a turn: the twist is undecided
        return np.array([np.pi, 0.0, 0.0])
    twist = math.remainder(2.0 * math.atan2(y, w), math.tau)
    half = rotations.multiply(turn, rotations.from_axis_angle(Y, -twist))
    swing = rotations.to_vector(half)
    return np.array([swing[0], twist, swing[2]])


def frozen(body: Body, controls: Collection[str]) -> list[int]:
    """The links whose FK control is among some controls: what is protected does not turn."""
    return [n for n, link in enumerate(body.links) if link.controls[0] in controls]
