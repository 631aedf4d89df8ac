"""Character files that must be refused, each with words that the refusal must hold."""

from __future__ import annotations

import json
import struct
from collections.abc import Callable, Iterator
from typing import Any

import numpy as np

from tests.hame.examples import BRANNOC


def split(data: bytes) -> tuple[dict[str, Any], bytes]:
    size = struct.unpack_from("<I", data, 12)[0]
    return json.loads(data[20 : 20 + size]), data[20 + size + 8 :]


def join(document: dict[str, Any], binary: bytes) -> bytes:
    text = json.dumps(document).encode()
    text += b" " * (-len(text) % 4)
    binary += b"\0" * (-len(binary) % 4)
    body = struct.pack("<II", len(text), 0x4E4F534A) + text + struct.pack("<II", len(binary), 0x004E4942) + binary
    return struct.pack("<III", 0x46546C67, 2, 12 + len(body)) + body


def changed(change: Callable[[dict[str, Any]], None]) -> bytes:
    document, binary = split(BRANNOC.read_bytes())
    change(document)
    return join(document, binary)


def _poked(accessor: int, value: float) -> bytes:
    document, binary = split(BRANNOC.read_bytes())
    at = document["bufferViews"][document["accessors"][accessor]["bufferView"]]["byteOffset"]
    return join(document, binary[:at] + struct.pack("<f", value) + binary[at + 4 :])


def broken_files() -> Iterator[tuple[str, bytes, str]]:
    whole = BRANNOC.read_bytes()
    noise = np.random.default_rng(1).bytes(5000)
    document, _ = split(whole)
    position = document["meshes"][0]["primitives"][0]["attributes"]["POSITION"]

    yield "empty", b"", "not a .glb"
    yield "foreign", b"\x89PNG\r\n\x1a\n" + noise, "not a .glb"
    yield "text", b"v 0 0 0\nf 1 1 1\n" * 20, "not a .glb"
    yield "truncated", whole[: len(whole) // 2], "cut short"
    yield "encrypted-looking", whole[:20] + noise + whole[5020:], "cannot be read"
    yield "version 1", whole[:4] + struct.pack("<I", 1) + whole[8:], "version 1"
    yield (
        "NaN in JSON",
        join({}, b"")[:0] + changed(lambda d: d["nodes"][3].update(translation=[float("nan"), 0, 0])),
        "cannot be read",
    )
    yield "deep JSON", _deep(), "cannot be read"
    yield "no skin", changed(lambda d: d.pop("skins")), "no skin"
    yield "unused skin", changed(lambda d: d["nodes"][-1].pop("skin")), "uses its skin"
    yield (
        "two trees",
        changed(lambda d: (d["nodes"][0]["children"].clear(), d["nodes"][1].pop("children"))),
        "separate trees",
    )
    yield "circle", changed(lambda d: d["nodes"][40].setdefault("children", []).append(0)), "circle"
    yield "two parents", changed(lambda d: d["nodes"][0]["children"].append(9)), "below two nodes"
    yield "child out of range", changed(lambda d: d["nodes"][0]["children"].append(9999)), "does not exist"
    yield "zero scale", changed(lambda d: d["nodes"][5].update(scale=[0, 0, 0])), "scale zero"
    yield "uneven scale", changed(lambda d: d["nodes"][5].update(scale=[1, 2, 1])), "unevenly"
    yield "turned inside out", changed(lambda d: d["nodes"][5].update(scale=[-1, -1, -1])), "inside out"
    yield "no rotation", changed(lambda d: d["nodes"][5].update(rotation=[0, 0, 0, 0])), "rotation"
    yield "NaN points", _poked(position, float("nan")), "not numbers"
    yield "infinite points", _poked(position, float("inf")), "not numbers"
    yield "2,000 joints", changed(_many_joints), "2,068 joints"
    yield "a million nodes", changed(lambda d: d.update(nodes=[{}] * 1_000_000)), "nodes"
    yield "a description of many megabytes", changed(lambda d: d.update(extras="x" * 9_000_000)), "8 MB"
    yield "a file of many megabytes", whole + b"\0" * (64 * 1024 * 1024), "the limit is 64 MB|larger than"
    yield (
        "needs an extension",
        changed(lambda d: d.update(extensionsRequired=["KHR_draco_mesh_compression"])),
        "extensions",
    )
    yield "data elsewhere", changed(lambda d: d["buffers"][0].update(uri="../secret.bin")), "another file"
    yield "count too large", changed(lambda d: d["accessors"][position].update(count=10**9)), "size is needed|more than"
    yield "cut data", changed(lambda d: d["accessors"][position].update(count=100_000)), "cut short"
    yield "negative offset", changed(lambda d: d["bufferViews"][0].update(byteOffset=-4)), "size is needed"
    yield "wrong type", changed(lambda d: d["accessors"][position].update(type="VEC2")), "VEC3"
    yield "unbound part", changed(lambda d: d["meshes"][0]["primitives"][0]["attributes"].pop("WEIGHTS_0")), "WEIGHTS_0"
    yield "lists that are none", changed(lambda d: d.update(nodes="many")), "broken"
    yield "skin without joints", changed(lambda d: d["skins"][0].update(joints=[])), "no joints"
    yield "foreign shape", changed(lambda d: d.update(meshes=[{"primitives": 7}])), "damaged|broken"


def _deep() -> bytes:
    text = b'{"asset": {"version": "2.0"}, "extras": ' + b"[" * 100_000 + b"]" * 100_000 + b"}"
    text += b" " * (-len(text) % 4)
    body = struct.pack("<II", len(text), 0x4E4F534A) + text
    return struct.pack("<III", 0x46546C67, 2, 12 + len(body)) + body


def _many_joints(d: dict[str, Any]) -> None:
    first = len(d["nodes"])
    for n in range(2000):
        d["nodes"].append({"name": f"spare {n}"})
    d["nodes"][0]["children"] += list(range(first, first + 2000))
    d["skins"][0]["joints"] += list(range(first, first + 2000))
