"""The GLB container and glTF 2.0 accessors: bytes to arrays and back.

References
----------
glTF 2.0 specification, sections 3.6 (binary data) and 4.4 (binary glTF layout).
"""

from __future__ import annotations

import json
import math
import struct
from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

import numpy as np
import numpy.typing as npt

from hame.errors import BadFile

MAGIC, JSON_CHUNK, BIN_CHUNK = 0x46546C67, 0x4E4F534A, 0x004E4942
MAX_BYTES = 64 * 1024 * 1024
MAX_JSON_BYTES = 8 * 1024 * 1024
MAX_ELEMENTS = 6_000_000

COMPONENTS: Mapping[int, type[np.generic]] = {
    5120: np.int8, 5121: np.uint8, 5122: np.int16, 5123: np.uint16, 5125: np.uint32, 5126: np.float32,
}  # fmt: skip
WIDTHS = {"SCALAR": 1, "VEC2": 2, "VEC3": 3, "VEC4": 4, "MAT4": 16}

AnyArray = npt.NDArray[Any]


@dataclass(frozen=True)
class Glb:
    """A parsed file: its JSON and its binary chunk."""

    json: Mapping[str, Any]
    binary: bytes
    _lists: dict[str, list[dict[str, Any]]] = field(default_factory=dict, compare=False)

    def listed(self, kind: str) -> list[dict[str, Any]]:
        """The top-level list ``kind`` (nodes, meshes, ...), checked once to be a list of objects."""
        if kind not in self._lists:
            self._lists[kind] = self._checked(kind)
        return self._lists[kind]

    def _checked(self, kind: str) -> list[dict[str, Any]]:
        found = self.json.get(kind, [])
        if not isinstance(found, list) or not all(isinstance(entry, dict) for entry in found):
            raise BadFile(f"the file's list of {kind} is broken")
        return found

    def entry(self, kind: str, number: Any) -> dict[str, Any]:
        entries = self.listed(kind)
        if not isinstance(number, int) or isinstance(number, bool) or not 0 <= number < len(entries):
            raise BadFile(f"the file refers to {kind}[{number!r}], which it does not have")
        return entries[number]

    def view(self, number: Any) -> bytes:
        """The bytes of a buffer view."""
        view = self.entry("bufferViews", number)
        if view.get("buffer", 0) != 0:
            raise BadFile("the file keeps data in another file; save it as one self-contained .glb")
        start, length = _size(view.get("byteOffset", 0)), _size(view.get("byteLength"))
        if start + length > len(self.binary):
            raise BadFile("the file is cut short: it refers to data behind its end")
        return self.binary[start : start + length]

    def accessor(self, number: Any, what: str, kinds: tuple[str, ...], sparse: bool = False) -> AnyArray:
        """The array (count, width) of an accessor; ``what`` names it in messages. ``sparse`` ones are read if told.

        Raises
        ------
        BadFile
            If it is missing, of another kind, too large, cut short, sparse where it may not be, or not finite.
        """
        accessor = self.entry("accessors", number)
        kind, count = accessor.get("type"), _size(accessor.get("count"))
        if kind not in kinds or kind not in WIDTHS:
            raise BadFile(f"{what}: the data are {kind!r} where {' or '.join(kinds)} is needed")
        dtype = COMPONENTS.get(accessor.get("componentType", 0))
        if dtype is None:
            raise BadFile(f"{what}: unknown component type {accessor.get('componentType')!r}")
        if not sparse and ("sparse" in accessor or "bufferView" not in accessor):
            raise BadFile(f"{what}: sparse data are not read; save the file without them")
        width = WIDTHS[kind]
        if count * width > MAX_ELEMENTS:
            raise BadFile(f"{what}: {count:,} entries are more than this application takes")
        array = self._packed(accessor, what, dtype, count, width) if "bufferView" in accessor else None
        if "sparse" in accessor:
            array = self._thinly(accessor["sparse"], what, dtype, count, width, array)
        elif array is None:
            array = np.zeros((count, width), dtype)
        if array.dtype.kind == "f" and not np.isfinite(array).all():
            raise BadFile(f"{what}: holds values that are not numbers (NaN or infinite)")
        if accessor.get("normalized") and array.dtype.kind in "ui":
            array = np.maximum(array.astype(np.float32) / np.iinfo(array.dtype).max, -1.0)
        return array

    def _thinly(self, given: Any, what: str, dtype: Any, count: int, width: int, base: AnyArray | None) -> AnyArray:
        """An array of which only some rows are told; the others are as its ``base``, or 0."""
        if not isinstance(given, dict) or not all(isinstance(given.get(part), dict) for part in ("indices", "values")):
            raise BadFile(f"{what}: its sparse data are broken")
        some, index_type = _size(given.get("count")), COMPONENTS.get(given["indices"].get("componentType", 0))
        if index_type is None or np.dtype(index_type).kind != "u" or some > count:
            raise BadFile(f"{what}: its sparse data are broken")
        rows = self._packed(given["indices"], what, index_type, some, 1).ravel().astype(np.int64)
        if (np.diff(rows) <= 0).any() or (some and rows[-1] >= count):
            raise BadFile(f"{what}: its sparse data name rows that do not exist, or not in their order")
        array = np.zeros((count, width), dtype) if base is None else base.copy()
        array[rows] = self._packed(given["values"], what, dtype, some, width)
        return array

    def _packed(self, place: dict[str, Any], what: str, dtype: Any, count: int, width: int) -> AnyArray:
        """The rows (count, width) that lie in a buffer view."""
        view, data = self.entry("bufferViews", place.get("bufferView")), self.view(place.get("bufferView"))
        size = np.dtype(dtype).itemsize * width
        stride, start = _size(view.get("byteStride", size)) or size, _size(place.get("byteOffset", 0))
        if stride < size or (count and start + stride * (count - 1) + size > len(data)):
            raise BadFile(f"{what}: the file is cut short or its data overlap")
        rows = np.lib.stride_tricks.as_strided(
            np.frombuffer(data, np.uint8)[start:], (count, size), (stride, 1)
        ) if count else np.zeros((0, size), np.uint8)  # fmt: skip
        packed: AnyArray = np.ascontiguousarray(rows).view(dtype).reshape(count, width)
        return packed


def _size(value: Any) -> int:
    if not isinstance(value, int) or isinstance(value, bool) or not 0 <= value <= MAX_BYTES * 4:
        raise BadFile(f"the file gives {value!r} where a size is needed")
    return value


def parse(data: bytes) -> Glb:
    """A GLB file's JSON and binary chunk.

    Raises
    ------
    BadFile
        If the bytes are not a complete, self-contained glTF 2.0 binary.
    """
    if len(data) > MAX_BYTES:
        raise BadFile(f"the file has {len(data) / 1e6:.0f} MB; the limit is {MAX_BYTES // 1024**2} MB")
    if len(data) < 20 or struct.unpack_from("<I", data)[0] != MAGIC:
        raise BadFile("this is not a .glb file: it does not begin as a binary glTF does")
    _, version, length = struct.unpack_from("<III", data)
    if version != 2:
        raise BadFile(f"the file is glTF version {version}; version 2 is read")
    if length > len(data):
        raise BadFile(f"the file is cut short: {len(data):,} of {length:,} bytes are there")
    chunks: dict[int, bytes] = {}
    at = 12
    while at + 8 <= length:
        size, kind = struct.unpack_from("<II", data, at)
        if at + 8 + size > length:
            raise BadFile("the file is cut short inside a chunk")
        chunks.setdefault(kind, data[at + 8 : at + 8 + size])
        at += 8 + size + (-size % 4)
    if JSON_CHUNK not in chunks:
        raise BadFile("the file has no description (JSON chunk)")
    if len(chunks[JSON_CHUNK]) > MAX_JSON_BYTES:
        raise BadFile(
            f"the file's description has more than {MAX_JSON_BYTES // 1024**2} MB; it is not that of a character"
        )
    try:
        document = json.loads(chunks[JSON_CHUNK].decode("utf-8"), parse_constant=_no_constant)
    except (ValueError, RecursionError):
        raise BadFile("the file's description cannot be read; it may be damaged or encrypted") from None
    if not isinstance(document, dict) or not isinstance(document.get("asset"), dict):
        raise BadFile("the file's description is not that of a glTF file")
    required = document.get("extensionsRequired", [])
    if required:
        raise BadFile(f"the file needs extensions that are not read: {', '.join(map(str, required))[:200]}")
    for buffer in document.get("buffers", []) if isinstance(document.get("buffers", []), list) else []:
        if isinstance(buffer, dict) and "uri" in buffer:
            raise BadFile("the file keeps data in another file; save it as one self-contained .glb")
    return Glb(document, chunks.get(BIN_CHUNK, b""))


def _no_constant(word: str) -> Any:
    raise ValueError(word)


@dataclass
class Writer:
    """Collects arrays and JSON for a GLB file."""

    document: dict[str, Any]
    chunks: list[bytes] = field(default_factory=list)
    size: int = 0

    def blob(self, data: bytes, target: int | None = None) -> int:
        """Adds bytes as a buffer view; returns its number."""
        padding = -self.size % 4
        self.chunks.append(b"\0" * padding + data)
        view: dict[str, Any] = {"buffer": 0, "byteOffset": self.size + padding, "byteLength": len(data)}
        if target is not None:
            view["target"] = target
        self.size += padding + len(data)
        views: list[Any] = self.document.setdefault("bufferViews", [])
        views.append(view)
        return len(views) - 1

    def array(self, values: AnyArray, kind: str, target: int | None = None, bounds: bool = False) -> int:
        """Adds an array as an accessor of ``kind``; returns its number."""
        component = next(code for code, dtype in COMPONENTS.items() if values.dtype == dtype)
        flat = np.ascontiguousarray(values)
        accessor: dict[str, Any] = {
            "bufferView": self.blob(flat.tobytes(), target), "componentType": component,
            "count": len(flat), "type": kind,
        }  # fmt: skip
        if bounds:
            rows = flat.reshape(len(flat), -1)
            accessor["min"], accessor["max"] = rows.min(0).tolist(), rows.max(0).tolist()
        accessors: list[Any] = self.document.setdefault("accessors", [])
        accessors.append(accessor)
        return len(accessors) - 1

    def thinly(self, rows: AnyArray, values: AnyArray, count: int, bounds: bool = False) -> int:
        """Adds vectors (count, 3) of which only some rows are not 0, as a sparse accessor; returns its number."""
        some = np.ascontiguousarray(values, np.float32)
        accessor: dict[str, Any] = {
            "componentType": 5126, "count": count, "type": "VEC3",
            "sparse": {
                "count": len(rows),
                "indices": {"bufferView": self.blob(rows.astype(np.uint32).tobytes()), "componentType": 5125},
                "values": {"bufferView": self.blob(some.tobytes())},
            },
        }  # fmt: skip
        if bounds:
            low, high = some.min(0), some.max(0)
            if len(rows) < count:
                low, high = np.minimum(low, 0.0), np.maximum(high, 0.0)
            accessor["min"], accessor["max"] = low.tolist(), high.tolist()
        accessors: list[Any] = self.document.setdefault("accessors", [])
        accessors.append(accessor)
        return len(accessors) - 1

    def to_bytes(self) -> bytes:
        binary = b"".join(self.chunks)
        binary += b"\0" * (-len(binary) % 4)
        if binary:
            self.document["buffers"] = [{"byteLength": len(binary)}]
        text = json.dumps(self.document, separators=(",", ":"), allow_nan=False).encode()
        text += b" " * (-len(text) % 4)
        body = struct.pack("<II", len(text), JSON_CHUNK) + text
        if binary:
            body += struct.pack("<II", len(binary), BIN_CHUNK) + binary
        return struct.pack("<III", MAGIC, 2, 12 + len(body)) + body


def finite(values: Any, count: int, what: str) -> list[float]:
    """A JSON list of ``count`` finite numbers; raises :class:`BadFile` otherwise."""
    if not isinstance(values, list) or len(values) != count:
        raise BadFile(f"{what}: {count} numbers are needed")
    for value in values:
        if not isinstance(value, int | float) or isinstance(value, bool) or not math.isfinite(value):
            raise BadFile(f"{what}: holds a value that is not a number")
    return [float(value) for value in values]
