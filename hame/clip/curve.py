"""One keyed channel: values at whole frames and the shape of the way between them."""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any, Literal

import numpy as np
import numpy.typing as npt
from numba import njit

from hame.errors import BadEdit
from hame.maths.bezier import bezier_parameter, fit

STEP, LINEAR, BEZIER = 0, 1, 2
ShapeName = Literal["stepped", "straight", "smooth"]
SHAPES: dict[ShapeName, int] = {"stepped": STEP, "straight": LINEAR, "smooth": BEZIER}

Array = npt.NDArray[np.float64]
Row = list[Any]

# Columns of a curve's table
FRAME, VALUE, SHAPE, BY_HAND, IN_TIME, IN_VALUE, OUT_TIME, OUT_VALUE = range(8)


@dataclass(frozen=True, eq=False)
class Curve:
    """Keys of one channel in the order of time; never changed in place.

    Attributes
    ----------
    table : (K, 8) a row a key: frame (whole, strictly rising); value in metres,
        radians or a plain number; STEP, LINEAR or BEZIER for the way to the
        next key; 1 if the handles were set by hand and 0 if they follow the
        neighbouring keys; then the handles in and out, relative to the key, in
        (frames, value). Handles set by hand stay as they were set, also where
        they are too long for their gap: they are fitted when the curve is read
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
        """A row a key: ``[frame, value, shape]``, with four handle numbers more where they are set by hand."""
        return rows_of(self.table)


@dataclass(frozen=True)
class Stack:
    """Curves laid end to end, so that an edit of all of them is one pass over one table.

    Attributes
    ----------
    addresses : (C,) whose curves they are
    owner : (N,) int64, which of them each key belongs to, rising
    keys : (N, 8) rows of :class:`Curve` tables; free to be changed, it is a copy
    """

    addresses: tuple[str, ...]
    owner: npt.NDArray[np.int64]
    keys: Array


def stacked(curves: Mapping[str, Curve]) -> Stack:
    """All keys of some curves, end to end."""
    sizes = [len(curve.table) for curve in curves.values()]
    keys = np.concatenate([curve.table for curve in curves.values()]) if curves else np.zeros((0, 8))
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
        order = np.lexsort((keys[:, FRAME], owner))
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
    if not _lay_all(keys, starts, ends):
        raise BadEdit("two keys of one channel lie on the same frame")
    return starts, ends


def rows_of(table: Array) -> list[Row]:
    """JSON rows of a table's keys."""
    short: list[Row] = table[:, :BY_HAND].tolist()
    if not table[:, BY_HAND].any():
        return short
    for n in np.flatnonzero(table[:, BY_HAND]).tolist():
        short[n] += table[n, IN_TIME:].tolist()
    return short


def packed_rows(table: Array) -> Any:
    """The same rows for a writer of JSON that takes arrays: several times as fast where no handle is set by hand."""
    return rows_of(table) if table[:, BY_HAND].any() else np.ascontiguousarray(table[:, :BY_HAND])


def from_json(rows: Sequence[Sequence[Any]]) -> Curve:
    """A curve of rows as :meth:`Curve.to_json` makes them, in any order of time.

    Raises
    ------
    BadEdit
        If a frame is not whole, two rows share a frame, a number is not finite
        or a shape is unknown.
    """
    for row in rows:
        if len(row) not in (3, 7):
            raise BadEdit(f"a key has 3 or 7 numbers, this one has {len(row)}")
        whole_frame(row[0])
        if not all(math.isfinite(number) for number in row):
            raise BadEdit(f"the key at frame {row[0]} holds a number that is not finite")
        if row[2] not in (STEP, LINEAR, BEZIER):
            raise BadEdit(f"the key at frame {row[0]} has the unknown shape {row[2]}")
    return from_table(table_of(rows))


def table_of(rows: Sequence[Sequence[Any]]) -> Array:
    """The table (K, 8) of JSON rows, as they come."""
    if isinstance(rows, np.ndarray):  # of keys without handles
        table = np.zeros((len(rows), 8))
        table[:, :BY_HAND] = rows
        return table
    nothing = [0.0, 0.0, 0.0, 0.0]
    return np.array([[*row, 0.0, *nothing] if len(row) == 3 else [*row[:3], 1.0, *row[3:]] for row in rows]).reshape(
        -1, 8
    )


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
    if not _lay_handles(table):
        raise BadEdit("two keys of one channel lie on the same frame")
    table.flags.writeable = False
    return Curve(table)


def from_keys(keys: Mapping[int, float], shape: int = BEZIER) -> Curve:
    """A curve with one shape and automatic handles from ``{frame: value}``."""
    return from_json([[frame, value, shape] for frame, value in keys.items()])


def with_keys(curve: Curve | None, keys: Mapping[int, float], shape: int = BEZIER) -> Curve:
    """The curve with keys set at ``{frame: value}``.

    A key that is already there keeps its shape and handles; a new one takes
    the shape of the key before it (or ``shape`` where there is none), so that
    a blocked, stepped take stays stepped.
    """
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
            before = kept if kept is not None else table[at - 1, SHAPE] if at else float(shape)
            added.append([float(frame), value, before, 0.0, 0.0, 0.0, 0.0, 0.0])
    return from_table(np.concatenate([table, np.array(added).reshape(-1, 8)]))


def without_frames(curve: Curve, frames: Iterable[int]) -> Curve | None:
    """The curve less its keys at ``frames``; None when no key is left."""
    kept = curve.table[~np.isin(curve.table[:, FRAME], list(frames))]
    return from_table(kept) if len(kept) else None


def whole_frame(frame: Any) -> int:
    """``frame`` as an int.

    Raises
    ------
    BadEdit
        If it is not a whole number within a million frames of zero.
    """
    if isinstance(frame, int) and abs(frame) > 1_000_000 and not isinstance(frame, bool):
        raise BadEdit(f"frame {str(frame)[:12]} is out of range; frames lie within a million of zero")
    if isinstance(frame, bool) or not isinstance(frame, int | float) or not math.isfinite(frame):
        raise BadEdit(f"{frame!r} is not a frame; keys lie on whole frames")
    if frame != int(frame):
        raise BadEdit(f"frame {frame} is not whole; keys lie on whole frames")
    if abs(frame) > 1_000_000:
        raise BadEdit(f"frame {frame} is out of range; frames lie within a million of zero")
    return int(frame)


def split_at(table: Array, frame: float) -> Array:
    """The table (K + 1, 8) with a key more at a frame between two, the curve staying what it was.

    The handles on both sides of the new key, and the ones that face it, are set by hand.
    """
    table = table.copy()
    k = int(np.searchsorted(table[:, FRAME], frame)) - 1
    a, b = table[k], table[k + 1]
    gap, t = b[FRAME] - a[FRAME], frame - a[FRAME]
    new = np.array([frame, a[VALUE], a[SHAPE], 1.0, -t / 3.0, 0.0, (gap - t) / 3.0, 0.0])
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
    a[BY_HAND] = b[BY_HAND] = 1.0
    return np.insert(table, k + 1, new, axis=0)


NO_FIRST, NO_LAST = -(10.0**9), 10.0**9


def compared(a: Sequence[Array], b: Sequence[Array]) -> tuple[list[Array], list[Array], npt.NDArray[np.float64]]:
    """Of curves before ``a`` and after ``b``, by pairs, the keys that differ, and the frames ``(C, 2)`` between which
    they may play otherwise.

    Computed handles do not count as a difference of a key. Since they look one
    key to each side, a key that differs changes two gaps each way; the
    frames reach to NO_FIRST or NO_LAST where no kept key bounds them.
    """
    ends_a = np.cumsum([0, *map(len, a)])
    ends_b = np.cumsum([0, *map(len, b)])
    keys_a = np.concatenate([np.zeros((0, 8)), *a])
    keys_b = np.concatenate([np.zeros((0, 8)), *b])
    gone, new = np.ones(len(keys_a), np.bool_), np.ones(len(keys_b), np.bool_)
    spans = np.empty((len(a), 2))
    _compare_all(keys_a, ends_a, keys_b, ends_b, gone, new, spans)
    return _parted(keys_a, ends_a, gone), _parted(keys_b, ends_b, new), spans


def _parted(keys: Array, ends: npt.NDArray[np.int64], wanted: npt.NDArray[np.bool_]) -> list[Array]:
    cuts = np.concatenate([[0], np.cumsum(wanted)])[ends]
    kept = keys[wanted]
    return [kept[m:n] for m, n in zip(cuts[:-1].tolist(), cuts[1:].tolist(), strict=True)]


@njit(cache=True)
def _compare(a, b, gone, new):  # type: ignore[no-untyped-def]
    i, j = 0, 0
    low, high = 1e18, -1e18
    while i < len(a) or j < len(b):
        if j >= len(b) or (i < len(a) and a[i, 0] < b[j, 0]):
            low, high = min(low, a[i, 0]), max(high, a[i, 0])
            i += 1
        elif i >= len(a) or b[j, 0] < a[i, 0]:
            low, high = min(low, b[j, 0]), max(high, b[j, 0])
            j += 1
        else:
            same = a[i, 1] == b[j, 1] and a[i, 2] == b[j, 2] and a[i, 3] == b[j, 3]
            if same and a[i, 3] != 0.0:
                for c in range(4, 8):
                    same = same and a[i, c] == b[j, c]
            if same:
                gone[i] = False
                new[j] = False
            else:
                low, high = min(low, a[i, 0]), max(high, a[i, 0])
            i += 1
            j += 1
    if high < low:  # no key differs: only stored handles of an earlier version can; take it all
        return NO_FIRST, NO_LAST
    first, last = NO_FIRST, NO_LAST
    before, after = 0, 0
    for k in range(len(a) - 1, -1, -1):
        if not gone[k] and a[k, 0] < low:
            before += 1
            if before == 2:
                first = a[k, 0]
                break
    for k in range(len(a)):
        if not gone[k] and a[k, 0] > high:
            after += 1
            if after == 2:
                last = a[k, 0]
                break
    return first, last


@njit(cache=True)
def _compare_all(a, ends_a, b, ends_b, gone, new, spans):  # type: ignore[no-untyped-def]
    for c in range(len(spans)):
        m, n = ends_a[c], ends_a[c + 1]
        o, p = ends_b[c], ends_b[c + 1]
        spans[c, 0], spans[c, 1] = _compare(a[m:n], b[o:p], gone[m:n], new[o:p])


@njit(cache=True)
def _lay_handles(table):  # type: ignore[no-untyped-def]
    """Computes automatic handles in place and leaves the others; False if two frames are the same.

    Automatic handles are a third of the gap long; their slope is zero at
    extremes and at the ends, and elsewhere the harmonic mean of the two
    neighbouring slopes, weighted by the gaps. Such a curve is monotone
    between keys, so it never overshoots them.

    References
    ----------
    Fritsch and Butland, "A method for constructing local monotone piecewise
    cubic interpolants", SIAM J. Sci. Stat. Comput. 5(2), 1984.
    """
    count = table.shape[0]
    for i in range(count):
        before = table[i, 0] - table[i - 1, 0] if i > 0 else 0.0
        after = table[i + 1, 0] - table[i, 0] if i < count - 1 else 0.0
        if (i > 0 and before <= 0.0) or (i < count - 1 and after <= 0.0):
            return False
        if table[i, 3] == 0.0:
            slope = 0.0
            if before > 0.0 and after > 0.0:
                left = (table[i, 1] - table[i - 1, 1]) / before
                right = (table[i + 1, 1] - table[i, 1]) / after
                if left * right > 0.0:
                    w1, w2 = 2.0 * after + before, after + 2.0 * before
                    slope = (w1 + w2) / (w1 / left + w2 / right)
            back = before if before > 0.0 else after
            forth = after if after > 0.0 else before
            table[i, 4], table[i, 5] = -back / 3.0, -back / 3.0 * slope
            table[i, 6], table[i, 7] = forth / 3.0, forth / 3.0 * slope
    return True


@njit(cache=True)
def _lay_all(keys, starts, ends):  # type: ignore[no-untyped-def]
    fine = True
    for c in range(len(starts)):
        fine = _lay_handles(keys[starts[c] : ends[c]]) and fine
    return fine
