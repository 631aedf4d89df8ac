"""Characters and props, with or without motions, as a .glb file (glTF 2.0)."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from hame.character.skeleton import Skeleton
from hame.character.skin import Material, Morph, Piece, Skin
from hame.formats.glb import Writer
from hame.maths import transforms
from hame.maths.rotations import Array

ARRAY_BUFFER, ELEMENT_BUFFER = 34962, 34963


@dataclass(frozen=True)
class Handed:
    """A character or a prop that is written.

    Attributes
    ----------
    motion : (F, J, 8) transforms of the joints in the world, metres, one frame after the other
    amounts : (F, S) of the skin's shapes; as these are where nothing is keyed, without
    """

    name: str
    skeleton: Skeleton
    skin: Skin
    motion: Array | None = None
    amounts: Array | None = None


def write_character(
    name: str, skeleton: Skeleton, skin: Skin, motion: Array | None = None, fps: float = 24.0, title: str = "take"
) -> bytes:
    """The bytes of a .glb with one character: skeleton, skin and, if given, one animation; see :func:`write_scene`."""
    return write_scene([Handed(name, skeleton, skin, motion)], fps, title)


def write_scene(cast: Sequence[Handed], fps: float = 24.0, title: str = "take") -> bytes:
    """The bytes of a .glb with characters and props, each with skeleton and skin, and one animation of all that move.

    Parameters
    ----------
    fps : frames a second, the time between two frames of the motions

    Notes
    -----
    The animation has a key at every frame with LINEAR samplers. Rotations are
    written along the shorter way from key to key, so that spherical
    interpolation between two frames never goes the long way round.
    """
    out = Writer({"asset": {"version": "2.0", "generator": "Hame"}})
    document = out.document
    document.update(nodes=[], scenes=[{"nodes": []}], scene=0, skins=[], meshes=[])
    # By identity: parts that share a material or a picture share it in the file too.
    materials: dict[int, tuple[int, Material]] = {}
    moving: list[tuple[int, Array]] = []
    morphing: list[tuple[int, Array]] = []
    for one in cast:
        base = len(document["nodes"])
        local = _local(one.skeleton, one.motion) if one.motion is not None else one.skeleton.rest[None]
        _stand(document, one, local[0], base)
        _dress(out, one, base, materials)
        if one.motion is not None:
            moving.append((base, local))
        if one.amounts is not None and one.skin.shapes and len(one.amounts) > 1 and np.ptp(one.amounts, axis=0).any():
            morphing.append((base + len(one.skeleton), one.amounts))
    pictures: dict[int, int] = {}
    document["materials"] = [_material(out, material, pictures) for _, material in materials.values()]
    if moving:
        document["animations"] = [_animation(out, title, moving, morphing, fps)]
    return out.to_bytes()


def _stand(document: dict[str, Any], one: Handed, local: Array, base: int) -> None:
    """Adds the nodes of one of the cast, its joints from the number ``base`` on, standing at ``local (J, 8)``."""
    skeleton = one.skeleton
    for j, joint in enumerate(skeleton.names):
        node: dict[str, Any] = {
            "name": joint, "translation": _floats(local[j, :3]), "rotation": _floats(_unit(local[j, 3:7])),
        }  # fmt: skip
        if abs(local[j, 7] - 1) > 1e-9:
            node["scale"] = _floats(np.repeat(local[j, 7], 3))
        if skeleton.children[j]:
            node["children"] = [base + child for child in skeleton.children[j]]
        document["nodes"].append(node)
    number = len(document["skins"])
    document["nodes"].append({"name": one.name, "mesh": number, "skin": number})
    document["scenes"][0]["nodes"] += [base + skeleton.parents.index(-1), base + len(skeleton)]


def _dress(out: Writer, one: Handed, base: int, materials: dict[int, tuple[int, Material]]) -> None:
    """Adds skin and mesh of one of the cast, whose joints are the nodes from ``base`` on."""
    document, count = out.document, len(one.skeleton)
    inverse = one.skin.inverse_bind.astype(np.float32).transpose(0, 2, 1).reshape(count, 16)
    inverse[:, [3, 7, 11]], inverse[:, 15] = 0, 1
    document["skins"].append({
        "name": one.name, "joints": list(range(base, base + count)), "skeleton": base + one.skeleton.parents.index(-1),
        "inverseBindMatrices": out.array(inverse, "MAT4"),
    })  # fmt: skip
    primitives = [_primitive(out, piece, materials) for piece in one.skin.pieces]
    for primitive, piece in zip(primitives, one.skin.pieces, strict=True):
        if one.skin.shapes:
            primitive["targets"] = _targets(out, piece, len(one.skin.shapes))
    mesh: dict[str, Any] = {"name": one.name, "primitives": primitives}
    if one.skin.shapes:
        first = one.skin.amounts if one.amounts is None else one.amounts[0].tolist()
        mesh["weights"] = [float(np.float32(amount)) for amount in first]
        mesh["extras"] = {"targetNames": list(one.skin.shapes)}
    document["meshes"].append(mesh)


def _targets(out: Writer, piece: Piece, count: int) -> list[dict[str, int]]:
    """The morph targets of a piece, one of each shape: told are the points that it moves."""
    by_shape = {morph.shape: morph for morph in piece.morphs}
    nothing = Morph(0, np.zeros(1, np.uint32), np.zeros((1, 3), np.float32), np.zeros((1, 3), np.float32))
    points = len(piece.points)
    found = []
    for shape in range(count):
        morph = by_shape.get(shape, nothing)
        target = {"POSITION": out.thinly(morph.rows, morph.moves, points, bounds=True)}
        if any(one.turns.any() for one in piece.morphs):
            target["NORMAL"] = out.thinly(morph.rows, morph.turns, points)
        found.append(target)
    return found


def _floats(values: Array) -> list[float]:
    return [float(v) for v in values.astype(np.float32)]


def _unit(q: Array) -> Array:
    return np.asarray(q / np.linalg.norm(q, axis=-1, keepdims=True))


def _local(skeleton: Skeleton, world: Array) -> Array:
    """Transforms (F, J, 8) relative to each joint's parent; the root stays in the world."""
    local = world.copy()
    for j, parent in enumerate(skeleton.parents):
        if parent >= 0:
            local[:, j] = transforms.relative(world[:, parent], world[:, j])
    return local


def _primitive(out: Writer, piece: Piece, materials: dict[int, tuple[int, Material]]) -> dict[str, Any]:
    number, _ = materials.setdefault(id(piece.material), (len(materials), piece.material))
    weights = piece.weights.astype(np.float32)
    weights /= weights.sum(axis=1, keepdims=True)
    joints = np.where(weights > 0, piece.joints, 0)  # the specification wants joint 0 where the weight is 0
    attributes = {
        "POSITION": out.array(piece.points.astype(np.float32), "VEC3", ARRAY_BUFFER, bounds=True),
        "NORMAL": out.array(_unit(piece.normals.astype(float)).astype(np.float32), "VEC3", ARRAY_BUFFER),
        "JOINTS_0": out.array(joints.astype(np.uint16), "VEC4", ARRAY_BUFFER),
        "WEIGHTS_0": out.array(weights, "VEC4", ARRAY_BUFFER),
    }
    if piece.uvs is not None and piece.material.image is not None:
        attributes["TEXCOORD_0"] = out.array(piece.uvs.astype(np.float32), "VEC2", ARRAY_BUFFER)
    index = piece.triangles.astype(np.uint32).reshape(-1)
    small = index.astype(np.uint16) if len(piece.points) < 65535 else index
    return {
        "attributes": attributes, "indices": out.array(small, "SCALAR", ELEMENT_BUFFER),
        "material": number, "mode": 4,
    }  # fmt: skip


def _material(out: Writer, material: Material, pictures: dict[int, int]) -> dict[str, Any]:
    surface: dict[str, Any] = {
        "baseColorFactor": list(material.colour), "metallicFactor": material.metallic,
        "roughnessFactor": material.roughness,
    }  # fmt: skip
    if material.image is not None:
        if id(material.image) not in pictures:
            images: list[Any] = out.document.setdefault("images", [])
            images.append({"bufferView": out.blob(material.image), "mimeType": material.image_type})
            textures: list[Any] = out.document.setdefault("textures", [])
            textures.append({"source": len(images) - 1})
            pictures[id(material.image)] = len(textures) - 1
        surface["baseColorTexture"] = {"index": pictures[id(material.image)]}
    described: dict[str, Any] = {"name": material.name, "pbrMetallicRoughness": surface}
    if material.double_sided:
        described["doubleSided"] = True
    if material.alpha_mode != "OPAQUE":
        described["alphaMode"] = material.alpha_mode
    return described


def _animation(
    out: Writer, title: str, moving: Sequence[tuple[int, Array]], morphing: Sequence[tuple[int, Array]], fps: float
) -> dict[str, Any]:  # fmt: skip
    """Of the nodes from a number on, their transforms (F, J, 8) relative to their parents; and of nodes with a mesh the
    amounts (F, S) of its shapes. All have as many frames."""
    frames = len(moving[0][1])
    times = out.array((np.arange(frames) / fps).astype(np.float32)[:, None], "SCALAR", bounds=True)
    samplers: list[dict[str, Any]] = []
    channels: list[dict[str, Any]] = []

    def add(node: int, path: str, values: Array, kind: str) -> None:
        samplers.append(
            {"input": times, "interpolation": "LINEAR", "output": out.array(values.astype(np.float32), kind)}
        )
        channels.append({"sampler": len(samplers) - 1, "target": {"node": node, "path": path}})

    for node, own in ((base + j, local[:, j]) for base, local in moving for j in range(local.shape[1])):
        turn = _unit(own[:, 3:7])
        flips = np.cumprod(np.where(np.einsum("fk,fk->f", turn[1:], turn[:-1]) < 0, -1.0, 1.0))
        turn[1:] *= flips[:, None]
        add(node, "rotation", turn, "VEC4")
        if np.ptp(own[:, :3], axis=0).max() > 1e-7:
            add(node, "translation", own[:, :3], "VEC3")
        if np.ptp(own[:, 7:8]) > 1e-9:
            add(node, "scale", np.repeat(own[:, 7:8], 3, axis=1), "VEC3")
    for node, amounts in morphing:
        add(node, "weights", amounts.reshape(-1, 1), "SCALAR")
    return {"name": title, "samplers": samplers, "channels": channels}
