"""The model of a limp body for the engine: its links with their mass and surface, the ground, and things about it.

Links and their angles are those of a pull (:mod:`hame.solve.body`), so that what falls goes back into controls the same
way. The engine is MuJoCo, whose models are told as XML (MJCF; mujoco.readthedocs.io, "XML Reference").
"""

from __future__ import annotations

from collections.abc import Collection, Mapping
from dataclasses import dataclass
from xml.etree import ElementTree as Xml

import numpy as np

from hame.character.masses import masses_of
from hame.character.rig import Rig
from hame.character.skin import Skin, deform
from hame.evaluate.posed import Posed
from hame.maths import rotations, transforms
from hame.maths.rotations import Array
from hame.measure.ground import blocks, outermost
from hame.solve.begun import Begun
from hame.solve.body import Body, carried_by
from hame.solve.pull_kernel import FREE, HINGE

LIGHT = 0.004  # of the whole: a link without mass of its own gets so much, as none can move without any
_ROUND = 0.05  # metres: as a ball of this size it is spread
_ARMATURE = {"": 0.02, "collar": 0.01, "upper": 0.01, "lower": 0.006, "hand": 0.002, "foot": 0.004}
"""Kilograms by square metres that are added to a joint by its role, so that light links between heavy ones are calm."""
FRICTION = 0.8  # rubber on dry stone, see hame.faults.limits
_CONTACT = {"solref": "0.002 3", "solimp": "0.95 0.99 0.001", "friction": f"{FRICTION} 0.005 0.0001"}
_FIRM = {"solreflimit": "0.002 2.5", "solimplimit": "0.95 0.99 0.001"}
LINK = {"contype": "6", "conaffinity": "5"} | _CONTACT  # links meet what stands, and links that lie far from them
BODY = {"contype": "2", "conaffinity": "1"} | _CONTACT  # what is let go meets what stands
GROUND = {"contype": "1", "conaffinity": "2"} | _CONTACT
_FAR = 3  # joints between two links that meet: nearer ones are joined by flesh
_FINE = 2500  # directions in which a surface is looked at: a flat one is off by a millimetre between
_FLAT = 1e-4  # metres: what is thinner has no inside


@dataclass(frozen=True, eq=False)
class Thing:
    """A prop about a limp body.

    Attributes
    ----------
    posed : it on the frames from the first on
    before : it on the frame before these, from which it has its speed where it falls
    falls : it is let go, and falls as well; else it goes as it plays
    """

    rig: Rig
    skin: Skin
    posed: Posed
    before: Posed
    falls: bool


def text(values: Array) -> str:
    return " ".join(f"{value:.9g}" for value in np.ravel(values))


def turn_text(turn: Array) -> str:
    """A quaternion as the engine writes it: its real part first."""
    return text(np.array([turn[3], *turn[:3]]))


def model_xml(
    begun: Begun, skin: Skin | None, things: Mapping[int, Thing], gravity: float, step: float,
    through: Collection[tuple[str, str]] = (),
) -> str:  # fmt: skip
    """The model in MJCF: bodies ``link N`` of the figure, ``thing N`` of what stands, moves or falls about it.

    ``gravity`` in metres a second, each second; ``step`` in seconds. Pairs of bodies that lie ``through`` one another
    at the beginning do not meet.
    """
    root = Xml.Element("mujoco")
    Xml.SubElement(root, "compiler", angle="radian", autolimits="true", boundmass="1e-5", boundinertia="1e-8")
    option = Xml.SubElement(
        root, "option", timestep=f"{step:.9g}", gravity=f"0 {-gravity:.9g} 0", integrator="implicitfast",
        iterations="60",
    )  # fmt: skip
    Xml.SubElement(option, "flag", energy="enable")
    assets, world = Xml.SubElement(root, "asset"), Xml.SubElement(root, "worldbody")
    Xml.SubElement(world, "geom", GROUND | {"type": "plane", "size": "100 100 1", "zaxis": "0 1 0"})
    for number, thing in things.items():
        _lay_thing(world, assets, number, thing)
    hulls = link_points(begun.body, begun.nodes, skin) if skin is not None else {}
    _lay_links(world, assets, begun, hulls)
    contact = Xml.SubElement(root, "contact")
    near = {(f"link {a}", f"link {b}") for a, b in _near(begun.body)}
    for a, b in sorted({*through, *near}):
        Xml.SubElement(contact, "exclude", body1=a, body2=b)
    return Xml.tostring(root, encoding="unicode")


def _near(body: Body) -> list[tuple[int, int]]:
    """Pairs of links with fewer than :data:`_FAR` joints between them."""
    ups = []
    for n in range(len(body.links)):
        way = [n]
        while body.links[way[-1]].parent >= 0:
            way.append(body.links[way[-1]].parent)
        ups.append(way)
    found = []
    for a in range(len(ups)):
        for b in range(a + 1, len(ups)):
            shared = next(link for link in ups[a] if link in ups[b])
            if ups[a].index(shared) + ups[b].index(shared) < _FAR:
                found.append((a, b))
    return found


def _lay_links(world: Xml.Element, assets: Xml.Element, begun: Begun, hulls: Mapping[int, Array]) -> None:
    tree, body = begun.tree, begun.body
    elements: list[Xml.Element] = []
    for n, (link, weight) in enumerate(zip(body.links, weights(begun), strict=True)):
        up = world if link.parent < 0 else elements[link.parent]
        # A hinge's own axes come before what turns it on to its node.
        before = tree.after[link.parent] if link.parent >= 0 else rotations.IDENTITY
        place = rotations.rotate(before, tree.offset[n])
        turn = rotations.multiply(before, tree.zero[n]) if link.parent >= 0 else rotations.IDENTITY
        own = Xml.SubElement(up, "body", name=f"link {n}", pos=text(place), quat=turn_text(turn))
        elements.append(own)
        after = tree.after[n]
        mass, at, spread = weight
        turned = rotations.to_matrix(after)
        spread = turned @ spread @ turned.T
        Xml.SubElement(
            own, "inertial", pos=text(rotations.rotate(after, at)), mass=f"{mass:.9g}",
            fullinertia=text(spread[[0, 1, 2, 0, 0, 1], [0, 1, 2, 1, 2, 2]]),
        )  # fmt: skip
        if link.kind == FREE:
            Xml.SubElement(own, "freejoint", name=f"joint {n}")
        else:
            kind = "hinge" if link.kind == HINGE else "ball"
            given = {"type": kind, "name": f"joint {n}", "armature": f"{_ARMATURE[link.role]:g}"}
            if kind == "ball":  # its stops are set step by step
                given |= {"range": "0 3.1", **_FIRM}
            if kind == "hinge":
                low, high = begun.low[link.first], begun.high[link.first]
                given |= {"axis": "1 0 0", "range": text(np.array([low, max(high, low + 1e-3)])), **_FIRM}
            Xml.SubElement(own, "joint", given)
        if n in hulls:
            _add_hull(own, assets, f"link {n}", hulls[n], np.zeros(3), after, LINK)


def _lay_thing(world: Xml.Element, assets: Xml.Element, number: int, thing: Thing) -> None:
    nodes = thing.posed.nodes
    root = nodes[0, thing.rig.controls[0].node]
    given = {"name": f"thing {number}", "pos": text(root[:3]), "quat": turn_text(root[3:7])}
    moves = not thing.falls and bool(np.abs(nodes - nodes[:1]).max() > 1e-6)
    own = Xml.SubElement(world, "body", given | ({"mocap": "true"} if moves else {}))
    if thing.falls:
        Xml.SubElement(own, "freejoint", name=f"thing {number}")
        mass, at, spread = _whole(thing.rig, nodes[0], root)
        Xml.SubElement(own, "inertial", pos=text(at), mass=f"{mass:.9g}",
                       fullinertia=text(spread[[0, 1, 2, 0, 0, 1], [0, 1, 2, 1, 2, 2]]))  # fmt: skip
    for block in blocks(thing.rig, thing.skin):
        joint = nodes[0, thing.rig.joint_nodes[block.joint]]
        local = transforms.relative(root, joint)
        points = block.outermost * local[7]
        kind = BODY if thing.falls else GROUND
        _add_hull(own, assets, f"thing {number} {block.joint}", points, local[:3], local[3:7], kind)


def _add_hull(
    own: Xml.Element, assets: Xml.Element, name: str, points: Array, place: Array, turn: Array, kind: dict[str, str]
) -> None:  # fmt: skip
    """A convex surface about points (K, 3), of which there have to be some that lie in no plane."""
    spread = np.linalg.svd(points - points.mean(axis=0), compute_uv=False) if len(points) > 3 else np.zeros(3)
    if spread[-1] < _FLAT:
        return
    Xml.SubElement(assets, "mesh", name=name, vertex=text(points), inertia="convex")
    Xml.SubElement(own, "geom", kind | {"type": "mesh", "mesh": name, "pos": text(place), "quat": turn_text(turn)})


def weights(begun: Begun) -> list[tuple[float, Array, Array]]:
    """Of each link its kilograms, where they lie (3,) and how they are spread (3, 3), in the axes of its node."""
    body, nodes = begun.body, begun.nodes
    rig, masses = body.rig, masses_of(body.rig)
    of_joint = carried_by(body)
    parts: list[list[tuple[float, Array, Array]]] = [[] for _ in body.links]
    for joint, share, at, spread in zip(masses.joints, masses.share, masses.at, masses.spread, strict=True):
        n = of_joint[int(joint)]
        own, carried = nodes[body.links[n].node], nodes[rig.joint_nodes[joint]]
        local = transforms.relative(own, carried)
        turned = rotations.to_matrix(local[3:7])
        mass = share * masses.kilograms
        place = transforms.apply(local, at) * own[7]
        parts[n].append((mass, place, mass * carried[7] ** 2 * turned @ spread @ turned.T))
    least = LIGHT * masses.kilograms
    found = []
    for mine in parts:
        mass = sum(part[0] for part in mine)
        if mass < least:
            found.append((least, np.zeros(3), 0.4 * least * _ROUND**2 * np.eye(3)))
            continue
        centre = sum((part[0] * part[1] for part in mine), np.zeros(3)) / mass
        spread = np.zeros((3, 3))
        for one, place, own_spread in mine:
            off = place - centre
            spread += own_spread + one * (off @ off * np.eye(3) - np.outer(off, off))
        found.append((mass, centre, _sound(spread)))
    return found


def _sound(spread: Array) -> Array:
    """Moments of inertia that a body can have: none greater than both others together."""
    values, axes = np.linalg.eigh(0.5 * (spread + spread.T))
    values = np.maximum(values, 1e-6)
    values[-1] = min(values[-1], values[0] + values[1])
    return np.asarray(axes @ np.diag(values) @ axes.T)


def _whole(rig: Rig, nodes: Array, root: Array) -> tuple[float, Array, Array]:
    """A thing as one: its kilograms, where they lie and how they are spread, in the axes of its root."""
    masses = masses_of(rig)
    places, spreads = [], []
    for joint, at, spread in zip(masses.joints, masses.at, masses.spread, strict=True):
        local = transforms.relative(root, nodes[rig.joint_nodes[joint]])
        turned = rotations.to_matrix(local[3:7])
        places.append(transforms.apply(local, at) * root[7])
        spreads.append((local[7] * root[7]) ** 2 * turned @ spread @ turned.T)
    mass = masses.share * masses.kilograms
    centre = np.einsum("m,mk->k", masses.share, np.array(places))
    total = np.zeros((3, 3))
    for one, place, spread in zip(mass, places, spreads, strict=True):
        off = place - centre
        total += one * (spread + off @ off * np.eye(3) - np.outer(off, off))
    return float(masses.kilograms), centre, _sound(total)


def link_points(body: Body, nodes: Array, skin: Skin) -> dict[int, Array]:
    """By link, points (K, 3) of the surface that it carries as it stands, in the axes of its node, that lie outermost.

    What hangs on it by controls of its own (a coat's tails, a cap) gives way, and is left out.
    """
    rig = body.rig
    matrices = transforms.to_matrix(nodes[rig.joint_nodes])
    of_joint = np.array(carried_by(body))
    firm = np.array([not rig.picks[j][0] or rig.control(rig.picks[j][0]).kind not in ("extra", "face")
                     for j in range(len(rig.skeleton))])  # fmt: skip
    points, owners = [], []
    for piece in skin.pieces:
        points.append(deform(piece, matrices, skin.inverse_bind))
        owners.append(piece.joints[np.arange(len(piece.points)), piece.weights.argmax(axis=1)])
    where, owner = np.concatenate(points), np.concatenate(owners)
    found = {}
    for n in range(len(body.links)):
        mine = where[(of_joint[owner] == n) & firm[owner]]
        if len(mine) > 3:
            own = nodes[body.links[n].node]
            local = rotations.rotate(rotations.inverse(own[3:7]), mine - own[:3])
            found[n] = outermost(local, _FINE)
    return found
