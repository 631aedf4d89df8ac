"""The surface in a glTF file: its pieces, what they hang on and how they look."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from typing import Any

import numpy as np

from hame.character.skin import Material, Morph, Piece
from hame.errors import BadFile
from hame.formats.glb import AnyArray, Glb, finite
from hame.maths.rotations import Array

MOST_AWAY = 10_000.0  # metres
MAX_NAME = 80
MAX_TRIANGLES = 400_000
MAX_POINTS = 1_000_000
MAX_PARTS = 1000  # primitives
MAX_MATERIALS = 500
MAX_SHAPES = 400
MAX_MOVED = 8_000_000  # points that shapes move, of all together
_MOVED = 1e-7  # metres: what moves less does not move


class Surface:
    """Collects the parts of a surface; materials and pictures that several parts share are read once."""

    def __init__(self, file: Glb, notes: list[str]) -> None:
        self.file, self.notes = file, notes
        self.pieces: list[Piece] = []
        self._triangles = self._points = self._moved = 0
        self.shapes: dict[str, int] = {}
        self.amounts: list[float] = []
        self._materials: dict[Any, Material] = {}
        self._images: dict[int, bytes] = {}

    def add(
        self, primitive: Any, joints: list[int], rigid: Array | None = None, shapes: Sequence[int] = ()
    ) -> None:  # fmt: skip
        """Adds a primitive bound to ``joints``, or with ``rigid (4, 4)`` carried by the one joint there is; its morph
        targets are of these ``shapes``.
        """
        if len(self.pieces) >= MAX_PARTS:
            raise BadFile(f"the mesh has more than {MAX_PARTS:,} parts; join those of one material")
        piece = _piece(self, primitive, joints, rigid)
        piece = replace(piece, morphs=_morphs(self, primitive, shapes, len(piece.points), rigid))
        self._moved += sum(len(morph.rows) for morph in piece.morphs)
        if self._moved > MAX_MOVED:
            raise BadFile(f"shapes of the mesh move more than {MAX_MOVED:,} points; reduce them first")
        self._triangles += len(piece.triangles)
        self._points += len(piece.points)
        if self._triangles > MAX_TRIANGLES:
            raise BadFile(f"the mesh has more than {MAX_TRIANGLES:,} triangles; reduce it first")
        if self._points > MAX_POINTS:
            raise BadFile(f"the mesh has more than {MAX_POINTS:,} points; reduce it first")
        self.pieces.append(piece)

    def shapes_of(self, mesh: dict[str, Any], node: dict[str, Any]) -> list[int]:
        """The numbers of the shapes by which a mesh is morphed; those of one name in several meshes are one."""
        primitives = mesh.get("primitives")
        first = primitives[0] if isinstance(primitives, list) and primitives else {}
        targets = first.get("targets") if isinstance(first, dict) else None
        if not isinstance(targets, list) or not targets:
            return []
        extras = mesh.get("extras")
        told = extras.get("targetNames") if isinstance(extras, dict) else None
        names = told if isinstance(told, list) and len(told) == len(targets) else [None] * len(targets)
        weights = node.get("weights", mesh.get("weights"))
        amounts = [0.0] * len(targets) if weights is None else finite(weights, len(targets), "amounts of shapes")
        found: list[int] = []
        for n, name in enumerate(names):
            label = name.strip() if isinstance(name, str) else ""
            label = label.encode("utf-8", "replace").decode()[:MAX_NAME] or f"shape {n + 1}"
            while self.shapes.get(label) in found:  # two of one mesh are two
                label = f"{label[: MAX_NAME - 2]} 2" if not label.endswith(" 2") else f"{label} 2"
            if label not in self.shapes:
                self.shapes[label] = len(self.shapes)
                self.amounts.append(amounts[n])
            found.append(self.shapes[label])
        if len(self.shapes) > MAX_SHAPES:
            raise BadFile(f"the mesh has more than {MAX_SHAPES} shapes; at most so many are read")
        return found

    def material(self, primitive: dict[str, Any]) -> Material:
        number = primitive.get("material")
        if number is not None and (not isinstance(number, int) or isinstance(number, bool)):
            raise BadFile("a material of the file is broken")
        if number not in self._materials:
            self._materials[number] = _material(self, primitive)
        return self._materials[number]

    def image(self, view: Any) -> bytes:
        self.file.entry("bufferViews", view)
        if view not in self._images:
            self._images[view] = self.file.view(view)
        return self._images[view]


def _piece(surface: Surface, primitive: Any, joints: list[int], rigid: Array | None) -> Piece:
    file = surface.file
    if not isinstance(primitive, dict) or not isinstance(primitive.get("attributes"), dict):
        raise BadFile("a part of the mesh is broken")
    if primitive.get("mode", 4) != 4:
        raise BadFile("a part of the mesh is not made of triangles")
    given = primitive["attributes"]
    for needed in ("POSITION", "JOINTS_0", "WEIGHTS_0") if rigid is None else ("POSITION",):
        if needed not in given:
            raise BadFile(f"a part of the mesh lacks {needed}: every part must be bound to joints")
    points = file.accessor(given["POSITION"], "points", ("VEC3",)).astype(np.float32)
    count = len(points)
    if "indices" in primitive:
        index = file.accessor(primitive["indices"], "triangles", ("SCALAR",)).ravel().astype(np.uint32)
    else:
        index = np.arange(count, dtype=np.uint32)
    if len(index) % 3 or (len(index) and index.max() >= count):
        raise BadFile("the triangles of the mesh refer to points that do not exist")
    if rigid is not None:
        if len(np.unique(index)) > MAX_POINTS or count > MAX_POINTS:
            raise BadFile(f"the mesh has more than {MAX_POINTS:,} points; reduce it first")
        points = (points.astype(float) @ rigid[:3, :3].T + rigid[:3, 3]).astype(np.float32)
    if len(points) and np.abs(points).max() > MOST_AWAY:
        raise BadFile(f"points of the mesh lie farther than {MOST_AWAY / 1000:.0f} km away; scale the character down")
    slots, weights = _weights(surface, given, len(joints), count, rigid is not None)
    triangles = index.reshape(-1, 3)
    if "NORMAL" in given:
        normals = file.accessor(given["NORMAL"], "normals", ("VEC3",)).astype(np.float32)
        if rigid is not None:
            normals = (normals.astype(float) @ np.linalg.inv(rigid[:3, :3])).astype(np.float32)
            if np.linalg.det(rigid[:3, :3]) < 0:
                triangles = triangles[:, ::-1]
    else:
        normals = _normals(points, triangles)
    if len(normals) != count:
        raise BadFile("points and normals of the mesh differ in number")
    lengths = np.linalg.norm(normals, axis=1, keepdims=True)
    normals = np.where(lengths > 1e-6, normals / np.maximum(lengths, 1e-6), np.array([[0, 1, 0]])).astype(np.float32)
    uvs = None
    if "TEXCOORD_0" in given:
        uvs = file.accessor(given["TEXCOORD_0"], "texture places", ("VEC2",)).astype(np.float32)
        uvs = uvs if len(uvs) == count else None
    return Piece(
        points, normals, np.ascontiguousarray(triangles), np.array(joints)[slots].astype(np.uint16), weights,
        surface.material(primitive), uvs,
    )  # fmt: skip


def _morphs(
    surface: Surface, primitive: dict[str, Any], shapes: Sequence[int], count: int, rigid: Array | None
) -> tuple[Morph, ...]:  # fmt: skip
    """How shapes move a primitive of so many points; those that do not are left out."""
    targets = primitive.get("targets") or []
    if not isinstance(targets, list) or len(targets) != len(shapes):
        raise BadFile("parts of a mesh have different numbers of shapes")
    found: list[Morph] = []
    for shape, target in zip(shapes, targets, strict=True):
        if not isinstance(target, dict):
            raise BadFile("a shape of the mesh is broken")
        moves, turns = (
            surface.file.accessor(target[name], "points of a shape", ("VEC3",), sparse=True).astype(float)
            if name in target else np.zeros((count, 3))
            for name in ("POSITION", "NORMAL")
        )  # fmt: skip
        if len(moves) != count or len(turns) != count:
            raise BadFile("a shape of the mesh has another number of points than the mesh")
        if rigid is not None:
            moves, turns = moves @ rigid[:3, :3].T, turns @ np.linalg.inv(rigid[:3, :3])
        if np.abs(moves).max(initial=0.0) > MOST_AWAY:
            raise BadFile("a shape of the mesh moves points beyond all bounds; scale the character down")
        rows = np.flatnonzero((np.abs(moves).max(axis=1) > _MOVED) | (np.abs(turns).max(axis=1) > 1e-6))
        if len(rows):
            found.append(
                Morph(shape, rows.astype(np.uint32), moves[rows].astype(np.float32), turns[rows].astype(np.float32))
            )
    return tuple(found)


def _weights(
    surface: Surface, given: dict[str, Any], joint_count: int, count: int, rigid: bool
) -> tuple[AnyArray, AnyArray]:
    """Slots (V, 4) in the skin's list of joints, and weights (V, 4) that sum to 1."""
    file, notes = surface.file, surface.notes
    if rigid:
        return np.zeros((count, 4), np.int64), np.tile(np.array([1, 0, 0, 0], np.float32), (count, 1))
    slots = file.accessor(given["JOINTS_0"], "joints of the skin", ("VEC4",)).astype(np.int64)
    weights = file.accessor(given["WEIGHTS_0"], "weights of the skin", ("VEC4",)).astype(np.float32)
    if not (len(slots) == len(weights) == count):
        raise BadFile("points, joints and weights of the mesh differ in number")
    weights = np.maximum(weights, 0)
    if ((slots >= joint_count) & (weights > 0)).any():
        raise BadFile("the mesh is bound to joints that the skin does not have")
    slots = np.where(slots < joint_count, slots, 0)
    total = weights.sum(axis=1, keepdims=True)
    if (total <= 1e-6).any():
        notes.append("points without weights were bound to the first joint")
        weights = np.where(total > 1e-6, weights, np.array([[1, 0, 0, 0]], np.float32))
        slots = np.where(total > 1e-6, slots, 0)
    if "JOINTS_1" in given:
        notes.append("more than four weights a point: the first four were kept")
    return slots, (weights / weights.sum(axis=1, keepdims=True)).astype(np.float32)


def _normals(points: AnyArray, triangles: AnyArray) -> AnyArray:
    a, b, c = (points[triangles[:, k]] for k in range(3))
    flat = np.cross(b - a, c - a)
    out = np.zeros_like(points)
    for k in range(3):
        np.add.at(out, triangles[:, k], flat)
    return out


def _material(surface_of: Surface, primitive: dict[str, Any]) -> Material:
    file, notes = surface_of.file, surface_of.notes
    if "material" not in primitive:
        return Material("plain")
    source = file.entry("materials", primitive["material"])
    surface = source.get("pbrMetallicRoughness", {})
    if not isinstance(surface, dict):
        raise BadFile("a material of the file is broken")
    colour = [min(max(c, 0.0), 1.0) for c in finite(surface.get("baseColorFactor", [1, 1, 1, 1]), 4, "material colour")]
    image, image_type = None, "image/png"
    texture = surface.get("baseColorTexture")
    if isinstance(texture, dict):
        picture = file.entry("images", file.entry("textures", texture.get("index")).get("source"))
        if picture.get("mimeType") in ("image/png", "image/jpeg") and "bufferView" in picture:
            image, image_type = surface_of.image(picture["bufferView"]), picture["mimeType"]
        else:
            notes.append("a texture that is not a PNG or JPEG inside the file was left out")
    if any(key in source for key in ("normalTexture", "occlusionTexture", "emissiveTexture")):
        notes.append("of the textures, only the base colour was kept")
    alpha = source.get("alphaMode", "OPAQUE")

    def share(key: str, usual: float) -> float:
        value = surface.get(key, usual)
        return float(value) if isinstance(value, int | float) and 0 <= value <= 1 else usual

    return Material(
        str(source.get("name", "material"))[:80], (colour[0], colour[1], colour[2], colour[3]),
        share("roughnessFactor", 1.0), share("metallicFactor", 1.0), bool(source.get("doubleSided", False)),
        alpha if alpha in ("OPAQUE", "MASK", "BLEND") else "OPAQUE", image, image_type,
    )  # fmt: skip
