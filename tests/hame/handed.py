"""Reading a handed-off .glb with code of its own: places of its nodes at every frame, by the glTF 2.0 specification."""

from __future__ import annotations

import json
import struct
from dataclasses import dataclass
from typing import Any

import numpy as np
from scipy.spatial.transform import Rotation

SIZES = {"SCALAR": 1, "VEC3": 3, "VEC4": 4, "MAT4": 16}


@dataclass(frozen=True)
class HandedOff:
    """Nodes of a file by name, in the world.

    Attributes
    ----------
    skins : by the name of a character, the names of its joints and the numbers of their nodes
    matrices : (F, N, 4, 4) of all nodes, frame by frame
    """

    skins: dict[str, dict[str, int]]
    matrices: np.ndarray

    def places(self, who: str, joint: str) -> np.ndarray:
        """(F, 3) of a joint."""
        return self.matrices[:, self.skins[who][joint], :3, 3]

    def turns(self, who: str, joint: str) -> Rotation:
        m = self.matrices[:, self.skins[who][joint], :3, :3]
        return Rotation.from_matrix(m / np.linalg.norm(m, axis=1, keepdims=True))

    def points(self, who: str, joint: str, places: np.ndarray) -> np.ndarray:
        """(F, K, 3): points (K, 3) that the joint carries, given where they are in its own axes."""
        m = self.matrices[:, self.skins[who][joint]]
        return np.einsum("fij,kj->fki", m[:, :3, :3], places) + m[:, None, :3, 3]


def read_handed(data: bytes) -> HandedOff:
    """The motion of a .glb whose animation has a key at every frame."""
    length = struct.unpack_from("<I", data, 12)[0]
    document = json.loads(data[20 : 20 + length])
    blob = data[20 + length + 8 :]

    def array(number: int) -> np.ndarray:
        accessor = document["accessors"][number]
        view = document["bufferViews"][accessor["bufferView"]]
        at = view.get("byteOffset", 0) + accessor.get("byteOffset", 0)
        count = accessor["count"] * SIZES[accessor["type"]]
        return np.frombuffer(blob, "<f4", count, at).reshape(accessor["count"], -1).astype(float)

    animation = document["animations"][0]
    frames = len(array(animation["samplers"][0]["input"]))
    nodes = document["nodes"]
    parts: list[dict[str, np.ndarray]] = []
    for node in nodes:
        rest = {"translation": [0, 0, 0], "rotation": [0, 0, 0, 1], "scale": [1, 1, 1]}
        parts.append({k: np.tile(np.array(node.get(k, v), float), (frames, 1)) for k, v in rest.items()})
    for channel in animation["channels"]:
        target = channel["target"]
        parts[target["node"]][target["path"]] = array(animation["samplers"][channel["sampler"]]["output"])
    local = np.zeros((frames, len(nodes), 4, 4))
    for n, part in enumerate(parts):
        local[:, n, :3, :3] = Rotation.from_quat(part["rotation"]).as_matrix() * part["scale"][:, None, :]
        local[:, n, :3, 3], local[:, n, 3, 3] = part["translation"], 1.0
    parents: dict[int, int] = {c: n for n, node in enumerate(nodes) for c in node.get("children", [])}
    world: dict[int, np.ndarray] = {}

    def of(n: int) -> Any:
        if n not in world:
            world[n] = local[:, n] if n not in parents else of(parents[n]) @ local[:, n]
        return world[n]

    skins = {skin["name"]: {nodes[j]["name"]: j for j in skin["joints"]} for skin in document["skins"]}
    return HandedOff(skins, np.stack([of(n) for n in range(len(nodes))], axis=1))
