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
from hame.maths import eases
from hame.maths.bezier import bezier_parameter, fit

STEP, LINEAR, BEZIER = 0, 1, 2
ShapeName = Literal["stepped", "straight", "smooth"]
SHAPES: dict[ShapeName, int] = {"stepped": STEP, "straight": LINEAR, "smooth": BEZIER}
PresetName = Literal["even", "slow start", "slow stop", "both", "wind-up", "overshoot", "bounce", "instant"]
PRESETS: dict[PresetName, int] = {
    "even": LINEAR, "slow start": eases.SLOW_START, "slow stop": eases.SLOW_STOP, "both": eases.BOTH,
    "wind-up": eases.WIND_UP, "overshoot": eases.OVERSHOOT, "bounce": eases.BOUNCE, "instant": eases.INSTANT,
}  # fmt: skip
LAST_SHAPE = eases.INSTANT

Array = npt.NDArray[np.float64]
Row = list[Any]

# Columns of a curve's table
FRAME, VALUE, SHAPE, HANDLES, IN_TIME, IN_VALUE, OUT_TIME, OUT_VALUE, STRENGTH = range(9)
WIDTH = 9

# How a handle comes: of itself, as it was set by hand, level with a length set by hand, or along the chord of its gap.
AUTO, FREE, FLAT, CHORD = range(4)
FREE_BOTH = 5.0


def handles_code(before: int, after: int, aligned: bool = False) -> float:
    """The number that the column HANDLES holds for the kinds of the two handles of a key.

    ``aligned`` ones stay in one line when one of them is turned.
    """
    return float(before + 4 * after + 16 * aligned)


def handle_kinds(code: float) -> tuple[int, int, bool]:
    """What :func:`handles_code` was made of."""
    number = int(code)
    return number & 3, (number >> 2) & 3, bool(number & 16)


def no_keys() -> Array:
    return np.zeros((0, WIDTH))


def key_row(frame: float, value: float, shape: float = BEZIER) -> list[float]:
    """A row of a table whose handles come of themselves."""
    return [float(frame), float(value), float(shape), *[0.0] * (WIDTH - 3)]


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
        if not all(_is_number(number) for number in row):
            raise BadEdit(f"the key at frame {row[0]} holds a number that is not finite, or no number")
        if row[2] not in range(LAST_SHAPE + 1):
            raise BadEdit(f"the key at frame {row[0]} has the unknown shape {row[2]}")
        if len(row) == 9 and row[7] not in range(32):
            raise BadEdit(f"the key at frame {row[0]} has handles of the unknown kind {row[7]}")
        strength = row[3] if len(row) == 4 else row[8] if len(row) == 9 else 0.0
        if not 0.0 <= strength <= 1.0:
            raise BadEdit(f"the way from frame {row[0]} has a strength of {strength}; it goes from 0 to 1")
    return from_table(table_of(rows))


def _is_number(value: Any) -> bool:
    """Whether it is a finite number, none that is too large to be one among them."""
    if isinstance(value, bool) or not isinstance(value, int | float | np.number):
        return False
    try:
        return math.isfinite(value)
    except OverflowError:
        return False


def table_of(rows: Sequence[Sequence[Any]]) -> Array:
    """The table (K, 9) of JSON rows, as they come."""
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
    a blocked, stepped take stays stepped. A way in closed form that it parts
    was meant for the whole of its gap: both parts of it become smooth.

    Raises
    ------
    BadEdit
        If a frame is not whole, or a value not finite.
    """
    for frame, value in keys.items():
        whole_frame(frame)
        if not _is_number(value):
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
    keys_a = np.concatenate([no_keys(), *a])
    keys_b = np.concatenate([no_keys(), *b])
    gone, new = np.ones(len(keys_a), np.bool_), np.ones(len(keys_b), np.bool_)
    spans = np.empty((len(a), 2))
    _compare_all(keys_a, ends_a, keys_b, ends_b, gone, new, spans)
    return _parted(keys_a, ends_a, gone), _parted(keys_b, ends_b, new), spans


def _parted(keys: Array, ends: npt.NDArray[np.int64], wanted: npt.NDArray[np.bool_]) -> list[Array]:
    cuts = np.concatenate([[0], np.cumsum(wanted)])[ends]
    kept = keys[wanted]
    return [kept[m:n] for m, n in zip(cuts[:-1].tolist(), cuts[1:].tolist(), strict=True)]


@njit(cache=True, nogil=True)
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
            same = a[i, 1] == b[j, 1] and a[i, 2] == b[j, 2] and a[i, 3] == b[j, 3] and a[i, 8] == b[j, 8]
            if same and a[i, 3] != 0.0:
                for side in range(2):
                    how = (int(a[i, 3]) >> (2 * side)) & 3
                    if how == 1 or how == 2:
                        same = same and a[i, 4 + 2 * side] == b[j, 4 + 2 * side]
                    if how == 1:
                        same = same and a[i, 5 + 2 * side] == b[j, 5 + 2 * side]
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


@njit(cache=True, nogil=True)
def _compare_all(a, ends_a, b, ends_b, gone, new, spans):  # type: ignore[no-untyped-def]
    for c in range(len(spans)):
        m, n = ends_a[c], ends_a[c + 1]
        o, p = ends_b[c], ends_b[c + 1]
        spans[c, 0], spans[c, 1] = _compare(a[m:n], b[o:p], gone[m:n], new[o:p])


@njit(cache=True, nogil=True)
def _lay_handles(table):  # type: ignore[no-untyped-def]
    """Computes those handles in place that follow from the keys; False if two frames are the same.

    Automatic handles are a third of the gap long; their slope is zero at
    extremes and at the ends, and elsewhere the harmonic mean of the two
    neighbouring slopes, weighted by the gaps. Such a curve is monotone
    between keys, so it never overshoots them. Handles along the chord are a
    third of it; level ones have the length they were given.

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
        code = int(table[i, 3])
        kind_in, kind_out = code & 3, (code >> 2) & 3
        if kind_in == 1 and kind_out == 1:
            continue
        left = (table[i, 1] - table[i - 1, 1]) / before if before > 0.0 else 0.0
        right = (table[i + 1, 1] - table[i, 1]) / after if after > 0.0 else 0.0
        slope = 0.0
        if left * right > 0.0:
            w1, w2 = 2.0 * after + before, after + 2.0 * before
            slope = (w1 + w2) / (w1 / left + w2 / right)
        back = before if before > 0.0 else after
        forth = after if after > 0.0 else before
        if kind_in == 0 or kind_in == 3:
            table[i, 4] = -back / 3.0
            table[i, 5] = -back / 3.0 * (slope if kind_in == 0 else left)
        elif kind_in == 2:
            table[i, 5] = 0.0
        if kind_out == 0 or kind_out == 3:
            table[i, 6] = forth / 3.0
            table[i, 7] = forth / 3.0 * (slope if kind_out == 0 else right)
        elif kind_out == 2:
            table[i, 7] = 0.0
    return True


@njit(cache=True, nogil=True)
def _lay_all(keys, starts, ends):  # type: ignore[no-untyped-def]
    fine = True
    for c in range(len(starts)):
        fine = _lay_handles(keys[starts[c] : ends[c]]) and fine
    return fine
