"""Keys as rows of numbers, as they are stored and told."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

import numpy as np

from hame.clip.key import (
    FLAT,
    FRAME,
    FREE,
    FREE_BOTH,
    HANDLES,
    IN_TIME,
    SHAPE,
    STRENGTH,
    VALUE,
    WIDTH,
    Array,
    Row,
    handle_kinds,
)

_FEW = 2  # so many keys are as short in rows as in columns


def rows_of(table: Array) -> list[Row]:
    """JSON rows of a table's keys; of handles only what does not follow from the keys."""
    short: list[Row] = table[:, :HANDLES].tolist()
    for n in np.flatnonzero((table[:, HANDLES] != 0.0) | (table[:, STRENGTH] != 0.0)).tolist():
        code, strength = table[n, [HANDLES, STRENGTH]].tolist()
        if code == 0.0:
            short[n].append(strength)
            continue
        before, after, _ = handle_kinds(code)
        in_t, in_v, out_t, out_v = table[n, IN_TIME:STRENGTH].tolist()
        short[n] += [in_t if before in (FREE, FLAT) else 0.0, in_v if before == FREE else 0.0]
        short[n] += [out_t if after in (FREE, FLAT) else 0.0, out_v if after == FREE else 0.0]
        if code != FREE_BOTH or strength != 0.0:
            short[n] += [code, strength]
    return short


def packed_rows(table: Array) -> Any:
    """The same rows for a writer of JSON that takes arrays: several times as fast where all of them are short."""
    plain = not table[:, HANDLES].any() and not table[:, STRENGTH].any()
    return np.ascontiguousarray(table[:, :HANDLES]) if plain else rows_of(table)


def packed_parts(tables: Sequence[Array]) -> list[Any]:
    """:func:`packed_rows` of many tables, which are looked at together."""
    if not tables:
        return []
    ends = np.cumsum([len(table) for table in tables])
    keys = np.concatenate(tables)
    if keys[:, HANDLES].any() or keys[:, STRENGTH].any():
        return [packed_rows(table) for table in tables]
    return np.split(np.ascontiguousarray(keys[:, :HANDLES]), ends[:-1])


def packed_columns(tables: Sequence[Array]) -> list[Any]:
    """:func:`packed_parts` by columns where that is shorter, as steps are stored: ``{"frames", "values", "shapes"}``,
    with one shape where all are alike.
    """
    columns: list[Any] = packed_parts(tables)
    for n, rows in enumerate(columns):
        if len(rows) > _FEW and isinstance(rows, np.ndarray):
            shapes = rows[:, SHAPE]
            alike = bool((shapes == shapes[0]).all())
            columns[n] = {
                "frames": rows[:, FRAME].astype(np.int64), "values": rows[:, VALUE].copy(),
                "shapes": float(shapes[0]) if alike else shapes.copy(),
            }  # fmt: skip
    return columns


def table_of(rows: Sequence[Sequence[Any]] | Mapping[str, Any]) -> Array:
    """The table (K, 9) of JSON rows, or of columns as :func:`packed_columns` makes them."""
    if isinstance(rows, Mapping):
        table = np.zeros((len(rows["frames"]), WIDTH))
        table[:, FRAME], table[:, VALUE], table[:, SHAPE] = rows["frames"], rows["values"], rows["shapes"]
        return table
    if isinstance(rows, np.ndarray):  # of keys without handles
        table = np.zeros((len(rows), WIDTH))
        table[:, :HANDLES] = rows
        return table
    return np.array([_full(row) for row in rows], float).reshape(-1, WIDTH)


def _full(row: Sequence[Any]) -> list[Any]:
    if len(row) == 3:
        return [*row, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0]
    if len(row) == 4:
        return [*row[:3], 0.0, 0.0, 0.0, 0.0, 0.0, row[3]]
    code, strength = row[7:9] if len(row) == 9 else (FREE_BOTH, 0.0)
    return [*row[:3], code, *row[3:7], strength]
