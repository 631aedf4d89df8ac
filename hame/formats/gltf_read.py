"""A skinned character out of a .glb file, made regular.

Whatever the file does with scales and nested nodes, the result is a skeleton
of rigid joints in metres and a skin bound to it. Joints that the file scales
evenly are rescaled once and for all; the surface does not change by it.
"""

from __future__ import annotations

import heapq
from dataclasses import dataclass
from typing import Any

import numpy as np

from hame.character import skeleton as skeletons
from hame.character.skeleton import Skeleton
from hame.character.skin import Skin
from hame.errors import BadFile
from hame.formats.glb import Glb, finite, parse
from hame.formats.gltf_surface import MAX_MATERIALS, MAX_NAME, MOST_AWAY, Surface
from hame.maths import rotations, transforms
from hame.maths.rotations import Array

MAX_JOINTS = 1000
MAX_NODES = 20_000
MAX_SKINS = 64


@dataclass(frozen=True, eq=False)
class Character:
    """What a file holds: skeleton, skin, and what was left out of it, in words."""

    name: str
    skeleton: Skeleton
    skin: Skin
    notes: tuple[str, ...]


def read_character(data: bytes, rigid: bool = False) -> Character:
    """The skinned character of a .glb file; with ``rigid`` also one without skins, whose nodes carry its meshes.

    Raises
    ------
    BadFile
        With the reason, in words for the person who chose the file.
    """
    file = parse(data)
    nodes, notes = file.listed("nodes"), []
    if len(nodes) > MAX_NODES:
        raise BadFile(f"the file has {len(nodes):,} nodes; at most {MAX_NODES:,} are read")
    if not file.listed("skins") and not rigid:
        raise BadFile("the file has no skin: a mesh that is bound to joints is needed")
    for kind, most in (("skins", MAX_SKINS), ("materials", MAX_MATERIALS)):
        if len(file.listed(kind)) > most:
            raise BadFile(f"the file has {len(file.listed(kind)):,} {kind}; at most {most:,} are read")
    parents = _parents(nodes)
    if len(file.listed("skins")) > 1:
        notes.append("the file has several skins; they were joined into one skeleton")
    if file.listed("animations"):
        notes.append("animations in the file were left out")
    used = [n for n, node in enumerate(nodes) if "skin" in node and "mesh" in node]
    bare = [n for n, node in enumerate(nodes) if "mesh" in node] if rigid and not used else []
    if not used and not bare:
        raise BadFile("no mesh in the file uses its skin" if not rigid else "there is no mesh in the file")
    if bare:
        joints = _tree_of(set(bare), parents)
    else:
        joints = _joint_nodes(file, parents, {_entry_number(file, "skins", nodes[n]["skin"]) for n in used})
    matrices, scales = _world(nodes, parents)
    skeleton, order = _skeleton(nodes, parents, joints, matrices, scales)
    number = {node: j for j, node in enumerate(order)}
    inverse_bind = _bound(file, nodes, used, skeleton, number, matrices, scales)
    reader = Surface(file, notes)
    for n in used:
        listed = file.entry("skins", nodes[n]["skin"])["joints"]
        shapes = reader.shapes_of(file.entry("meshes", nodes[n]["mesh"]), nodes[n])
        for primitive in _primitives(file, nodes[n]["mesh"]):
            reader.add(primitive, [number[j] for j in listed], shapes=shapes)
    for n, j in _carried(nodes, parents, number).items():
        # A mesh that hangs rigidly on a joint: its points are put where the joint's bind pose has them.
        way = np.linalg.inv(inverse_bind[j]) @ np.linalg.inv(transforms.to_matrix(skeleton.world[j])) @ matrices[n]
        shapes = reader.shapes_of(file.entry("meshes", nodes[n]["mesh"]), nodes[n])
        for primitive in _primitives(file, nodes[n]["mesh"]):
            reader.add(primitive, [j], way, shapes)
    pieces = reader.pieces
    if not pieces:
        raise BadFile("the skinned mesh has no triangles")
    label = nodes[(used or bare)[0]].get("name") or skeleton.names[0]
    skin_of = Skin(tuple(pieces), inverse_bind, tuple(reader.shapes), tuple(reader.amounts))
    return Character(str(label)[:100], skeleton, skin_of, tuple(dict.fromkeys(notes)))


def _parents(nodes: list[dict[str, Any]]) -> list[int]:
    """The parent of every node; refuses nodes with two parents and circles."""
    parents = [-1] * len(nodes)
    for n, node in enumerate(nodes):
        children = node.get("children", [])
        if not isinstance(children, list):
            raise BadFile(f"node {n} has a broken list of children")
        for child in children:
            if not isinstance(child, int) or isinstance(child, bool) or not 0 <= child < len(nodes):
                raise BadFile(f"node {n} has a child that does not exist")
            if parents[child] >= 0:
                raise BadFile(f"node {child} hangs below two nodes")
            parents[child] = n
    # From the tops down: what is never reached hangs in a circle.
    reached = [n for n, parent in enumerate(parents) if parent < 0]
    for n in reached:
        reached += nodes[n].get("children", [])
    if len(reached) < len(nodes):
        raise BadFile("the nodes of the file hang below one another in a circle")
    return parents


def _joint_nodes(file: Glb, parents: list[int], skins: set[Any]) -> list[int]:
    """The joints of the skins with all nodes between them and their common top, parents first."""
    found: set[int] = set()
    for s in skins:
        joints = file.entry("skins", s).get("joints")
        if not isinstance(joints, list) or not joints:
            raise BadFile("the skin names no joints")
        for j in joints:
            file.entry("nodes", j)
        if len(set(joints)) != len(joints):
            raise BadFile("the skin names a joint twice")
        found.update(joints)
    return _tree_of(found, parents)


def _tree_of(found: set[int], parents: list[int]) -> list[int]:
    """Some nodes with all between them and their common top, parents first."""
    if len(found) > MAX_JOINTS:
        raise BadFile(f"the skeleton has {len(found):,} joints; at most {MAX_JOINTS:,} are read")
    # Every node on the way from a joint up to the top, each looked at once.
    kept: set[int] = set()
    for joint in found:
        n = joint
        while n >= 0 and n not in kept:
            kept.add(n)
            n = parents[n]
    tops = [n for n in kept if parents[n] < 0]
    if len(tops) > 1:
        raise BadFile(f"the joints stand in {len(tops)} separate trees; a skeleton has one")
    below: dict[int, list[int]] = {}
    for n in kept:
        below.setdefault(parents[n], []).append(n)
    # The deepest node that is above (or is) every joint.
    top = tops[0]
    while top not in found and len(below.get(top, [])) == 1:
        kept.discard(top)
        top = below[top][0]
    if len(kept) > MAX_JOINTS:
        raise BadFile(
            f"the skeleton has {len(kept):,} joints with the nodes between them; at most {MAX_JOINTS:,} are read"
        )
    return _parents_first(kept, parents)


def _parents_first(kept: set[int], parents: list[int]) -> list[int]:
    """The nodes in the file's own order as far as parents come before their children."""
    children: dict[int, list[int]] = {}
    for n in kept:
        children.setdefault(parents[n] if parents[n] in kept else -1, []).append(n)
    ready = sorted(children.get(-1, []))
    order: list[int] = []
    while ready:
        n = heapq.heappop(ready)
        order.append(n)
        for child in children.get(n, []):
            heapq.heappush(ready, child)
    return order


def _world(nodes: list[dict[str, Any]], parents: list[int]) -> tuple[list[Array], list[float]]:
    """World matrices (4, 4) of all nodes and the even scale inside each."""
    matrices: list[Array | None] = [None] * len(nodes)

    def local(n: int) -> Array:
        node, what = nodes[n], f"node {nodes[n].get('name', n)}"
        if "matrix" in node:
            return np.array(finite(node["matrix"], 16, what)).reshape(4, 4).T
        place = np.array(finite(node.get("translation", [0, 0, 0]), 3, what))
        turn = np.array(finite(node.get("rotation", [0, 0, 0, 1]), 4, what))
        scale = np.array(finite(node.get("scale", [1, 1, 1]), 3, what))
        if np.linalg.norm(turn) < 1e-6:
            raise BadFile(f"{what}: its rotation is no rotation")
        m = np.eye(4)
        m[:3, :3] = rotations.to_matrix(turn / np.linalg.norm(turn)) * scale
        m[:3, 3] = place
        return m

    for start in range(len(nodes)):
        path = [start]
        while path[-1] >= 0 and matrices[path[-1]] is None:
            path.append(parents[path[-1]])
        for n in reversed(path[:-1]):
            above = matrices[parents[n]] if parents[n] >= 0 else None
            matrices[n] = local(n) if above is None else above @ local(n)
    done = [m for m in matrices if m is not None]
    with np.errstate(over="ignore", invalid="ignore"):
        stacked = np.array(done)
        scales = np.cbrt(np.abs(np.linalg.det(stacked[:, :3, :3])))
    if not np.isfinite(stacked).all() or not np.isfinite(scales).all():
        raise BadFile("the nodes of the file are placed or scaled beyond all numbers")
    return done, scales.tolist()


def _skeleton(
    nodes: list[dict[str, Any]], parents: list[int], joints: list[int], matrices: list[Array], scales: list[float]
) -> tuple[Skeleton, list[int]]:
    names = _unique([nodes[n].get("name") or f"joint {j}" for j, n in enumerate(joints)])
    world = np.empty((len(joints), 8))
    for j, n in enumerate(joints):
        name = names[j]
        m, scale = matrices[n], scales[n]
        if scale < 1e-9:
            raise BadFile(f"joint {name} has the scale zero; give it a scale before saving")
        turn = m[:3, :3] / scale
        if np.linalg.det(turn) < 0:
            raise BadFile(f"joint {name} is turned inside out (a negative scale)")
        if not np.allclose(turn @ turn.T, np.eye(3), atol=2e-3):
            raise BadFile(f"joint {name} is scaled unevenly or sheared; apply its scale before saving")
        u, _, vt = np.linalg.svd(turn)
        world[j] = transforms.transform(m[:3, 3], rotations.from_matrix(u @ vt))
    number = {n: j for j, n in enumerate(joints)}
    up = [number.get(parents[n], -1) for n in joints]
    rest = np.array([w if p < 0 else transforms.relative(world[p], w) for w, p in zip(world, up, strict=True)])
    skeleton = skeletons.build(names, up, rest)
    if skeleton.size < 1e-4 and len(joints) > 1:
        raise BadFile("all joints lie in one place; the character has no size")
    if np.abs(skeleton.places).max() > MOST_AWAY:
        raise BadFile(f"joints lie farther than {MOST_AWAY / 1000:.0f} km from the origin; scale the character down")
    return skeleton, joints


def _unique(given: list[Any]) -> list[str]:
    """Names that can be told apart, none longer than MAX_NAME; of equal ones the later ones get a number."""
    # A lone surrogate can be written in a file's JSON, but in no text that is stored.
    wished = [str(name).encode("utf-8", "replace").decode()[:MAX_NAME] for name in given]
    names: list[str] = []
    taken = set(wished)
    seen: set[str] = set()
    counts: dict[str, int] = {}
    for name in wished:
        unique = name
        while unique in seen or (unique != name and unique in taken):
            counts[name] = counts.get(name, 1) + 1
            ending = f" {counts[name]}"
            unique = name[: MAX_NAME - len(ending)] + ending
        seen.add(unique)
        names.append(unique)
    return names


def _entry_number(file: Glb, kind: str, number: Any) -> int:
    file.entry(kind, number)
    return int(number)


def _primitives(file: Glb, mesh: Any) -> list[Any]:
    found = file.entry("meshes", mesh).get("primitives") or []
    if not isinstance(found, list):
        raise BadFile("a part of the mesh is broken")
    return found


def _carried(nodes: list[dict[str, Any]], parents: list[int], number: dict[int, int]) -> dict[int, int]:
    """Nodes with a mesh but no skin that hang on a joint, and the joint that carries each."""
    found: dict[int, int] = {}
    for n, node in enumerate(nodes):
        if "mesh" not in node or "skin" in node:
            continue
        up = n
        while up >= 0 and up not in number:
            up = parents[up]
        if up >= 0:
            found[n] = number[up]
    return found


def _bound(
    file: Glb, nodes: list[dict[str, Any]], used: list[int], skeleton: Skeleton, number: dict[int, int],
    matrices: list[Array], scales: list[float],
) -> Array:  # fmt: skip
    """The way (J, 4, 4) from the bind pose into each joint's space; joints of no skin are bound as they rest."""
    inverse_bind = transforms.to_matrix(transforms.inverse(skeleton.world))
    bound = np.zeros(len(skeleton), bool)
    for s in sorted({int(nodes[n]["skin"]) for n in used}):
        skin = file.entry("skins", s)
        listed = skin["joints"]
        there = np.array([number[j] for j in listed])
        # Joints lose their scale, so the way into the joint's space takes it on.
        inverse = _inverse_bind(file, skin, listed, matrices)
        inverse[:, :3] *= np.array([scales[j] for j in listed])[:, None, None]
        again = bound[there]
        slack = 1e-4 * np.maximum(np.abs(inverse).max(axis=(1, 2)), 1.0)
        if (np.abs(inverse - inverse_bind[there]).max(axis=(1, 2)) > slack)[again].any():
            raise BadFile("two skins bind the same joint in different poses; join the meshes into one skin")
        inverse_bind[there], bound[there] = inverse, True
    return inverse_bind


def _inverse_bind(file: Glb, skin: dict[str, Any], joints: list[int], matrices: list[Array]) -> Array:
    if "inverseBindMatrices" not in skin:
        return np.array([np.eye(4)] * len(joints))  # the specification's default
    rows = file.accessor(skin["inverseBindMatrices"], "inverse bind matrices", ("MAT4",))
    if len(rows) < len(joints):
        raise BadFile("the skin has fewer inverse bind matrices than joints")
    found = rows[: len(joints)].astype(float).reshape(-1, 4, 4).transpose(0, 2, 1)
    if (np.abs(np.linalg.det(found[:, :3, :3])) < 1e-12).any():
        raise BadFile("the skin binds a joint with the scale zero")
    return np.asarray(found)
