"""One keyed channel: values at whole frames and the shape of the way between them."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
import numpy.typing as npt

from hame.clip.curve_kernel import lay_all, lay_handles_of
from hame.clip.key import (
    BEZIER,
    FRAME,
    FREE_BOTH,
    HANDLES,
    IN_TIME,
    IN_VALUE,
    LAST_SHAPE,
    LINEAR,
    OUT_TIME,
    OUT_VALUE,
    SHAPE,
    STRENGTH,
    VALUE,
    WIDTH,
    Array,
    Row,
    is_number,
    key_row,
    no_keys,
    spots,
    whole_frame,
)
from hame.clip.rows import rows_of, table_of
from hame.errors import BadEdit
from hame.maths import eases
from hame.maths.bezier import bezier_parameter, fit


@dataclass(frozen=True, eq=False)
class Curve:
    """Keys of one channel in the order of time; never changed in place.

    Attributes
    ----------
    table : (K, 9) a row a key: frame (whole, strictly rising); value in metres,
        radians or a plain number; STEP, LINEAR or BEZIER for the way to the
        next key, or one of the ways of :mod:`hame.maths.eases`; how the handles
        come (:func:`handles_code`), 0 if they follow the neighbouring keys; then
        the handles in and out, relative to the key, in (frames, value); the
        strength of a way in closed form. Handles set by hand stay as they were
        set, also where they are too long for their gap: they are fitted when the
        curve is read
    """

    table: Array

    def __len__(self) -> int:
        return len(self.table)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, Curve) and np.array_equal(self.table, other.table)

    __hash__ = None  # type: ignore[assignment]

    @property
    def frames(self) -> npt.NDArray[np.int64]:
        return self.table[:, FRAME].astype(np.int64)

    @property
    def values(self) -> Array:
        return self.table[:, VALUE]

    @property
    def shapes(self) -> npt.NDArray[np.int64]:
        return self.table[:, SHAPE].astype(np.int64)

    def to_json(self) -> list[Row]:
        """A row a key: ``[frame, value, shape]``; with a strength behind them; with four numbers of handles that were
        both set by hand; or with these, how the handles come, and the strength.
        """
        return rows_of(self.table)


@dataclass(frozen=True)
class Stack:
    """Curves laid end to end, so that an edit of all of them is one pass over one table.

    Attributes
    ----------
    addresses : (C,) whose curves they are
    owner : (N,) int64, which of them each key belongs to, rising
    keys : (N, 9) rows of :class:`Curve` tables; free to be changed, it is a copy
    """

    addresses: tuple[str, ...]
    owner: npt.NDArray[np.int64]
    keys: Array


def stacked(curves: Mapping[str, Curve]) -> Stack:
    """All keys of some curves, end to end."""
    sizes = [len(curve.table) for curve in curves.values()]
    keys = np.concatenate([curve.table for curve in curves.values()]) if curves else no_keys()
    return Stack(tuple(curves), np.repeat(np.arange(len(sizes)), sizes), keys)


def unstacked(stack: Stack) -> dict[str, Curve]:
    """Curves of keys in any order of time, grouped by owner or not; owners without keys are left out.

    Raises
    ------
    BadEdit
        If two keys of one channel lie on the same frame.
    """
    owner, keys = stack.owner, stack.keys
    if len(keys) == 0:
        return {}
    step = np.diff(owner)
    if ((step < 0) | ((step == 0) & (np.diff(keys[:, FRAME]) <= 0))).any():
        # One number a key, sorted stably: what was laid together of sorted pieces is merged rather than sorted anew.
        order = np.argsort(spots(owner, keys[:, FRAME]), kind="stable")
        owner, keys = owner[order], keys[order]
    else:
        keys = keys.copy()
    starts, ends = lay_handles(owner, keys)
    keys.flags.writeable = False
    return {
        stack.addresses[n]: Curve(keys[a:b])
        for n, a, b in zip(owner[starts].tolist(), starts.tolist(), ends.tolist(), strict=True)
    }


def lay_handles(owner: npt.NDArray[np.int64], keys: Array) -> tuple[npt.NDArray[np.int64], npt.NDArray[np.int64]]:
    """Lays the handles of keys that are grouped by owner and in the order of time, in place.

    Returns where each owner's keys start and end. Raises :class:`BadEdit` if two of one owner share a frame.
    """
    if len(keys) == 0:
        return np.zeros(0, np.int64), np.zeros(0, np.int64)
    starts = np.flatnonzero(np.concatenate([[True], np.diff(owner) != 0]))
    ends = np.append(starts[1:], len(keys))
    if not lay_all(keys, starts, ends):
        raise BadEdit("two keys of one channel lie on the same frame")
    return starts, ends


def from_json(rows: Sequence[Sequence[Any]]) -> Curve:
    """A curve of rows as :meth:`Curve.to_json` makes them, in any order of time.

    Raises
    ------
    BadEdit
        If a frame is not whole, two rows share a frame, a number is not finite
        or a shape is unknown.
    """
    if isinstance(rows, str | bytes) or not isinstance(rows, Sequence | np.ndarray):
        raise BadEdit(f"a curve is a list of keys, not {str(rows)[:40]}")
    for row in rows:
        if isinstance(row, str | bytes) or not isinstance(row, Sequence | np.ndarray) or len(row) not in (3, 4, 7, 9):
            raise BadEdit(f"a key is a list of 3, 4, 7 or 9 numbers, not {str(row)[:40]}")
        whole_frame(row[0])
        if not all(is_number(number) for number in row):
            raise BadEdit(f"the key at frame {row[0]} holds a number that is not finite, or no number")
        if row[2] not in range(LAST_SHAPE + 1):
            raise BadEdit(f"the key at frame {row[0]} has the unknown shape {row[2]}")
        if len(row) == 9 and row[7] not in range(32):
            raise BadEdit(f"the key at frame {row[0]} has handles of the unknown kind {row[7]}")
        strength = row[3] if len(row) == 4 else row[8] if len(row) == 9 else 0.0
        if not 0.0 <= strength <= 1.0:
            raise BadEdit(f"the way from frame {row[0]} has a strength of {strength}; it goes from 0 to 1")
    return from_table(table_of(rows))


def from_table(table: Array) -> Curve:
    """A curve of keys in any order of time; handles that are not set by hand are computed.

    Raises
    ------
    BadEdit
        If two keys lie on the same frame.
    """
    frames = table[:, FRAME]
    if (frames[1:] > frames[:-1]).all():
        table = np.array(table, float)
    else:
        table = np.array(table[np.argsort(frames, kind="stable")], float)
    if not lay_handles_of(table):
        raise BadEdit("two keys of one channel lie on the same frame")
    table.flags.writeable = False
    return Curve(table)


def from_keys(keys: Mapping[int, float], shape: int = BEZIER) -> Curve:
    """A curve with one shape and automatic handles from ``{frame: value}``.

    >>> from hame.clip.sampling import sample_curve
    >>> turn = from_keys({1: 0.0, 13: 0.6, 25: 0.0})
    >>> sample_curve(turn, np.array([1.0, 7.0, 13.0])).round(3).tolist()
    [0.0, 0.3, 0.6]
    """
    return from_json([[frame, value, shape] for frame, value in keys.items()])


def with_keys(curve: Curve | None, keys: Mapping[int, float], shape: int = BEZIER) -> Curve:
    """The curve with keys set at ``{frame: value}``.

    A key that is already there keeps its shape and handles; a new one takes
    the shape of the key before it (or ``shape`` where there is none), so that
    a blocked, stepped take stays stepped. A way in closed form that it parts
    was meant for the whole of its gap: both parts of it become smooth.

    Raises
    ------
    BadEdit
        If a frame is not whole, or a value not finite.
    """
    for frame, value in keys.items():
        whole_frame(frame)
        if not is_number(value):
            raise BadEdit(f"the key at frame {frame} would be {value!r}, which is no finite number")
    if curve is None:
        return from_keys(keys, shape)
    table = curve.table.copy()
    added: list[list[float]] = []
    for frame, value in sorted(keys.items()):
        at = int(np.searchsorted(table[:, FRAME], frame))
        if at < len(table) and table[at, FRAME] == frame:
            table[at, VALUE] = value
        else:
            kept = added[-1][SHAPE] if added and (at == 0 or added[-1][FRAME] > table[at - 1, FRAME]) else None
            if at and kept is None and table[at - 1, SHAPE] > BEZIER and at < len(table):
                table[at - 1, [SHAPE, STRENGTH]] = BEZIER, 0.0
            before = kept if kept is not None else table[at - 1, SHAPE] if at else float(shape)
            added.append(key_row(frame, value, before if before <= BEZIER else BEZIER))
    return from_table(np.concatenate([table, np.array(added).reshape(-1, WIDTH)]))


def without_frames(curve: Curve, frames: Iterable[int]) -> Curve | None:
    """The curve less its keys at ``frames``; None when no key is left."""
    kept = curve.table[~np.isin(curve.table[:, FRAME], list(frames))]
    return from_table(kept) if len(kept) else None


def split_at(table: Array, frame: float) -> Array:
    """The table (K + 1, 9) with a key more at a frame between two, the curve staying what it was.

    The handles on both sides of the new key, and the ones that face it, are set by hand. A way in closed form becomes
    two smooth ones that agree with it at the key and in the slopes at the ends.
    """
    table = table.copy()
    k = int(np.searchsorted(table[:, FRAME], frame)) - 1
    a, b = table[k], table[k + 1]
    gap, t = b[FRAME] - a[FRAME], frame - a[FRAME]
    new = np.array([frame, a[VALUE], a[SHAPE], FREE_BOTH, -t / 3.0, 0.0, (gap - t) / 3.0, 0.0, 0.0])
    if a[SHAPE] == LINEAR:
        slope = (b[VALUE] - a[VALUE]) / gap
        new[VALUE] += slope * t
        new[IN_VALUE], new[OUT_VALUE] = slope * new[IN_TIME], slope * new[OUT_TIME]
    elif a[SHAPE] == BEZIER:
        out_t, in_t = max(a[OUT_TIME], 0.0), min(b[IN_TIME], 0.0)
        share = fit(gap, out_t, in_t)
        points = np.array([
            [0.0, a[VALUE]], [share * out_t, a[VALUE] + share * a[OUT_VALUE]],
            [gap + share * in_t, b[VALUE] + share * b[IN_VALUE]], [gap, b[VALUE]],
        ])  # fmt: skip
        s = bezier_parameter(gap, share * out_t, share * in_t, t)
        # de Casteljau: halves of the halves are the control points of both parts.
        one = points[:-1] + s * np.diff(points, axis=0)
        two = one[:-1] + s * np.diff(one, axis=0)
        middle = two[0] + s * (two[1] - two[0])
        new[VALUE] = middle[1]
        new[[IN_TIME, IN_VALUE]] = two[0] - middle
        new[[OUT_TIME, OUT_VALUE]] = two[1] - middle
        a[[OUT_TIME, OUT_VALUE]] = one[0] - points[0]
        b[[IN_TIME, IN_VALUE]] = one[2] - points[3]
    elif a[SHAPE] > BEZIER:
        rise, (kind, strength) = b[VALUE] - a[VALUE], a[[SHAPE, STRENGTH]]
        step = 1e-5
        at = [eases.eased(kind, strength, u) for u in (step, t / gap - step, t / gap, t / gap + step, 1.0 - step)]
        slopes = rise / gap * np.array([at[0] / step, (at[3] - at[1]) / (2.0 * step), (1.0 - at[4]) / step])
        new[VALUE] += rise * at[2]
        new[IN_VALUE], new[OUT_VALUE] = slopes[1] * new[IN_TIME], slopes[1] * new[OUT_TIME]
        a[[OUT_TIME, OUT_VALUE]] = t / 3.0, slopes[0] * t / 3.0
        b[[IN_TIME, IN_VALUE]] = -(gap - t) / 3.0, -slopes[2] * (gap - t) / 3.0
        a[[SHAPE, STRENGTH]] = new[[SHAPE, STRENGTH]] = BEZIER, 0.0
    a[HANDLES] = b[HANDLES] = FREE_BOTH
    return np.insert(table, k + 1, new, axis=0)
