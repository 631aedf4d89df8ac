"""One keyed channel: values at whole frames and the shape of the way between them."""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
import numpy.typing as npt

from hame.errors import BadEdit

STEP, LINEAR, BEZIER = 0, 1, 2
SHAPES = ("step", "linear", "bezier")

Array = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int32]


def _frozen(array: Any, dtype: Any) -> Any:
    result = np.array(array, dtype)
    result.flags.writeable = False
    return result


@dataclass(frozen=True, eq=False)
class Curve:
    """Keys of one channel in the order of time; never changed in place.

    Attributes
    ----------
    frames : (K,) int32, strictly rising
    values : (K,) metres, radians or a plain number, as the channel has it
    shapes : (K,) uint8, STEP, LINEAR or BEZIER: the way from this key to the next
    auto : (K,) bool, whether both handles follow the neighbouring keys by themselves
    handles_in, handles_out : (K, 2) handles relative to the key, in (frames, value)
    """

    frames: Ints
    values: Array
    shapes: npt.NDArray[np.uint8]
    auto: npt.NDArray[np.bool_]
    handles_in: Array
    handles_out: Array

    def __len__(self) -> int:
        return len(self.frames)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, Curve) and self.to_json() == other.to_json()

    __hash__ = None  # type: ignore[assignment]

    def to_json(self) -> list[list[Any]]:
        """A row a key: ``[frame, value, shape]``, with four handle numbers more where they are set by hand."""
        rows: list[list[Any]] = []
        for i, (frame, value, shape) in enumerate(
            zip(self.frames.tolist(), self.values.tolist(), self.shapes.tolist(), strict=True)
        ):
            row = [frame, value, shape]
            if not self.auto[i]:
                row += [*self.handles_in[i].tolist(), *self.handles_out[i].tolist()]
            rows.append(row)
        return rows


def from_json(rows: Sequence[Sequence[Any]]) -> Curve:
    """A curve of rows as :meth:`Curve.to_json` makes them, in any order of time.

    Raises
    ------
    BadEdit
        If a frame is not whole, two rows share a frame, a number is not finite
        or a shape is unknown.
    """
    ordered = sorted(rows, key=lambda row: row[0])
    for row in ordered:
        if len(row) not in (3, 7):
            raise BadEdit(f"a key has 3 or 7 numbers, this one has {len(row)}")
        whole_frame(row[0])
        if not all(math.isfinite(number) for number in row):
            raise BadEdit(f"the key at frame {row[0]} holds a number that is not finite")
        if row[2] not in (STEP, LINEAR, BEZIER):
            raise BadEdit(f"the key at frame {row[0]} has the unknown shape {row[2]}")
    frames = [int(row[0]) for row in ordered]
    if len(set(frames)) != len(frames):
        raise BadEdit("two keys of one channel lie on the same frame")
    auto = [len(row) == 3 for row in ordered]
    return build(
        frames,
        [row[1] for row in ordered],
        [row[2] for row in ordered],
        auto,
        [row[3:5] if len(row) == 7 else (0.0, 0.0) for row in ordered],
        [row[5:7] if len(row) == 7 else (0.0, 0.0) for row in ordered],
    )


def build(
    frames: Sequence[int],
    values: Sequence[float],
    shapes: Sequence[int],
    auto: Sequence[bool],
    handles_in: Sequence[Sequence[float]],
    handles_out: Sequence[Sequence[float]],
) -> Curve:
    """A curve of keys in the order of time; automatic handles are computed, the others kept in their gap."""
    f, v = np.asarray(frames, np.int32), np.asarray(values, float)
    hin = np.array(handles_in, float).reshape(-1, 2)
    hout = np.array(handles_out, float).reshape(-1, 2)
    a = np.asarray(auto, bool)
    _lay_handles(f, v, a, hin, hout)
    return Curve(
        _frozen(f, np.int32),
        _frozen(v, float),
        _frozen(shapes, np.uint8),
        _frozen(a, bool),
        _frozen(hin, float),
        _frozen(hout, float),
    )


def from_keys(keys: Mapping[int, float], shape: int = BEZIER) -> Curve:
    """A curve with one shape and automatic handles from ``{frame: value}``."""
    return from_json([[frame, value, shape] for frame, value in keys.items()])


def with_keys(curve: Curve | None, keys: Mapping[int, float], shape: int = BEZIER) -> Curve:
    """The curve with keys set at ``{frame: value}``.

    A key that is already there keeps its shape and handles; a new one takes
    the shape of the key before it (or ``shape`` where there is none), so that
    a blocked, stepped take stays stepped.
    """
    rows = {row[0]: row for row in (curve.to_json() if curve is not None else [])}
    for frame, value in sorted(keys.items()):
        if frame in rows:
            rows[frame] = [frame, value, *rows[frame][2:]]
        else:
            before = [f for f in rows if f < frame]
            rows[frame] = [frame, value, rows[max(before)][2] if before else shape]
    return from_json(list(rows.values()))


def without_frames(curve: Curve, frames: Iterable[int]) -> Curve | None:
    """The curve less its keys at ``frames``; None when no key is left."""
    gone = set(frames)
    rows = [row for row in curve.to_json() if row[0] not in gone]
    return from_json(rows) if rows else None


def whole_frame(frame: Any) -> int:
    """``frame`` as an int.

    Raises
    ------
    BadEdit
        If it is not a whole number within a million frames of zero.
    """
    if isinstance(frame, bool) or not isinstance(frame, int | float) or not math.isfinite(frame):
        raise BadEdit(f"{frame!r} is not a frame; keys lie on whole frames")
    if frame != int(frame):
        raise BadEdit(f"frame {frame} is not whole; keys lie on whole frames")
    if abs(frame) > 1_000_000:
        raise BadEdit(f"frame {frame} is out of range; frames lie within a million of zero")
    return int(frame)


def _lay_handles(frames: Ints, values: Array, auto: npt.NDArray[np.bool_], hin: Array, hout: Array) -> None:
    """Computes automatic handles in place, and clamps the others to their gaps.

    Automatic handles are a third of the gap long; their slope is zero at
    extremes and at the ends, and elsewhere the harmonic mean of the two
    neighbouring slopes, weighted by the gaps. Such a curve is monotone
    between keys, so it never overshoots them.

    References
    ----------
    Fritsch and Butland, "A method for constructing local monotone piecewise
    cubic interpolants", SIAM J. Sci. Stat. Comput. 5(2), 1984.
    """
    count = len(frames)
    gaps = np.diff(frames).astype(float)
    if count > 1:
        slopes = np.diff(values) / gaps
        tangent = np.zeros(count)
        left, right = slopes[:-1], slopes[1:]
        same = left * right > 0
        w1, w2 = 2 * gaps[1:] + gaps[:-1], gaps[1:] + 2 * gaps[:-1]
        with np.errstate(divide="ignore", invalid="ignore"):
            mean = (w1 + w2) / (w1 / left + w2 / right)
        tangent[1:-1] = np.where(same, mean, 0.0)
        before = np.concatenate([[gaps[0]], gaps]) / 3
        after = np.concatenate([gaps, [gaps[-1]]]) / 3
        hin[auto] = np.stack([-before, -before * tangent], -1)[auto]
        hout[auto] = np.stack([after, after * tangent], -1)[auto]
        hand = ~auto
        _clamp(hin, hand & (np.arange(count) > 0), np.concatenate([[0.0], gaps]), -1.0)
        _clamp(hout, hand & (np.arange(count) < count - 1), np.concatenate([gaps, [0.0]]), 1.0)
    else:
        hin[auto] = hout[auto] = 0.0


def _clamp(handles: Array, which: npt.NDArray[np.bool_], gaps: Array, side: float) -> None:
    """Shortens handles that reach past the neighbouring key, keeping their direction."""
    for i in np.flatnonzero(which):
        time = handles[i, 0] * side
        if time < 0:
            handles[i, 0] = 0.0
        elif time > gaps[i]:
            handles[i] *= gaps[i] / time
