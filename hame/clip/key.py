"""A key: the columns of a table of keys, and what stands in them."""

from __future__ import annotations

import math
from typing import Any, Literal

import numpy as np
import numpy.typing as npt

from hame.errors import BadEdit
from hame.maths import eases

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


def spots(owner: npt.NDArray[np.int64], frames: Array) -> Array:
    """One number a key, of the channel it belongs to and its frame: frames lie within a million of zero, so that
    they rise as keys do that are sorted by channel and then by frame.
    """
    return owner * 4_000_000.0 + frames


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


NO_FIRST, NO_LAST = -(10.0**9), 10.0**9


def is_number(value: Any) -> bool:
    """Whether it is a finite number, none that is too large to be one among them."""
    if isinstance(value, bool) or not isinstance(value, int | float | np.number):
        return False
    try:
        return math.isfinite(value)
    except OverflowError:
        return False
