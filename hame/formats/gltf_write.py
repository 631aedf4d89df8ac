"""A character, with or without a motion, as a .glb file (glTF 2.0)."""

from __future__ import annotations

from typing import Any

import numpy as np

from hame.character.skeleton import Skeleton
from hame.character.skin import Material, Piece, Skin
from hame.formats.glb import Writer
from hame.maths import transforms
from hame.maths.rotations import Array

ARRAY_BUFFER, ELEMENT_BUFFER = 34962, 34963


def write_character(
    name: str, skeleton: Skeleton, skin: Skin, motion: Array | None = None, fps: float = 24.0, title: str = "take"
) -> bytes:
    """The bytes of a .glb with skeleton, skin and, if given, one animation.

    Parameters
    ----------
    motion : (F, J, 8) transforms of the joints in the world, metres, one frame after the other
    fps : frames a second, the time between two of them

    Notes
    -----
    The animation has a key at every frame with LINEAR samplers. Rotations are
    written along the shorter way from key to key, so that spherical
    interpolation between two frames never goes the long way round.
    """
    out = Writer({"asset": {"version": "2.0", "generator": "Hame"}})
    document = out.document
    count = len(skeleton)
    local = _local(skeleton, motion) if motion is not None else skeleton.rest[None]
    nodes: list[dict[str, Any]] = []
    for j, joint in enumerate(skeleton.names):
        first = local[0, j] if motion is not None else skeleton.rest[j]
        node: dict[str, Any] = {
            "name": joint, "translation": _floats(first[:3]), "rotation": _floats(_unit(first[3:7])),
        }  # fmt: skip
        if abs(first[7] - 1) > 1e-9:
            node["scale"] = _floats(np.repeat(first[7], 3))
        if skeleton.children[j]:
            node["children"] = list(skeleton.children[j])
        nodes.append(node)
    nodes.append({"name": name, "mesh": 0, "skin": 0})
    document["nodes"] = nodes
    document["scenes"] = [{"nodes": [skeleton.parents.index(-1), count]}]
    document["scene"] = 0
    inverse = skin.inverse_bind.astype(np.float32).transpose(0, 2, 1).reshape(count, 16)
    inverse[:, [3, 7, 11]], inverse[:, 15] = 0, 1
    document["skins"] = [{
        "name": name, "joints": list(range(count)), "skeleton": skeleton.parents.index(-1),
        "inverseBindMatrices": out.array(inverse, "MAT4"),
    }]  # fmt: skip
    # By identity: parts that share a material or a picture share it in the file too.
    materials: dict[int, tuple[int, Material]] = {}
    document["meshes"] = [{"name": name, "primitives": [_primitive(out, piece, materials) for piece in skin.pieces]}]
    pictures: dict[int, int] = {}
    document["materials"] = [_material(out, material, pictures) for _, material in materials.values()]
    if motion is not None:
        document["animations"] = [_animation(out, title, local, fps)]
    return out.to_bytes()


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


def _animation(out: Writer, title: str, local: Array, fps: float) -> dict[str, Any]:
    frames = len(local)
    times = out.array((np.arange(frames) / fps).astype(np.float32)[:, None], "SCALAR", bounds=True)
    samplers: list[dict[str, Any]] = []
    channels: list[dict[str, Any]] = []

    def add(j: int, path: str, values: Array, kind: str) -> None:
        samplers.append(
            {"input": times, "interpolation": "LINEAR", "output": out.array(values.astype(np.float32), kind)}
        )
        channels.append({"sampler": len(samplers) - 1, "target": {"node": j, "path": path}})

    for j in range(local.shape[1]):
        turn = _unit(local[:, j, 3:7])
        flips = np.cumprod(np.where(np.einsum("fk,fk->f", turn[1:], turn[:-1]) < 0, -1.0, 1.0))
        turn[1:] *= flips[:, None]
        add(j, "rotation", turn, "VEC4")
        place = local[:, j, :3]
        if np.ptp(place, axis=0).max() > 1e-7:
            add(j, "translation", place, "VEC3")
        scale = local[:, j, 7:8]
        if np.ptp(scale) > 1e-9:
            add(j, "scale", np.repeat(scale, 3, axis=1), "VEC3")
    return {"name": title, "samplers": samplers, "channels": channels}
