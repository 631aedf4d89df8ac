"""What a clip may hold at all: no edit may store what cannot be read or shown afterwards."""

from __future__ import annotations

from collections.abc import Mapping
from math import isfinite, pi

import numpy as np

from hame.character.rig import Rig
from hame.clip.clip import Clip
from hame.clip.key import FRAME, IN_TIME, IN_VALUE, OUT_TIME, OUT_VALUE, VALUE, Array, whole_frame
from hame.clip.layers import unit_at
from hame.errors import BadEdit
from hame.work import LONGEST

# By unit, how far from zero a value may lie: a kilometre, a thousand turns, and a thousand of what has no unit.
FARTHEST_VALUE = {"m": 1000.0, "rad": 2000.0 * pi, "": 1000.0}
_SAID = {
    "m": "places lie within a kilometre",
    "rad": "turns within a thousand of them",
    "": "plain numbers within 1000",
}
_HANDLE = 1_000_000.0


def refuse_unbounded(before: Clip, after: Clip, rig: Rig) -> None:
    """Checks what an edit changed.

    Raises
    ------
    BadEdit
        If a value, a handle or a frame is not finite or past the bounds of its unit.
    """
    changed = {a: curve.table for a, curve in after.curves.items() if before.curves.get(a) is not curve}
    if not _all_within(changed, rig):
        for address, table in changed.items():  # one by one, to say which
            _check_table(address, table, _unit(rig, address))
            was = before.curves.get(address)
            _check_reach(table, None if was is None else was.table)
    for frame, values in after.pending.items():
        if before.pending.get(frame) is not values:
            _check_frame(frame)
            for address, value in values.items():
                _check(address, float(value), _unit(rig, address))
    for frame in after.labels.keys() - before.labels.keys():
        _check_frame(frame)
    known = {span for _, span in before.spans()}
    for track, span in after.spans():
        if span in known:
            continue
        for frame in (span.start, span.end, span.last):
            _check_frame(frame)
        if span.end < span.start:
            raise BadEdit(f"on the track {track}, a span would end at {span.end}, before it begins at {span.start}")
        for what, value, unit in span.numbers():
            _check(what, value, unit)


def _all_within(tables: Mapping[str, Array], rig: Rig) -> bool:
    """Whether all keys lie well within all bounds, as nearly always: looked at together."""
    if not tables:
        return True
    keys = np.concatenate(list(tables.values()))
    far = np.repeat([FARTHEST_VALUE[_unit(rig, a)] for a in tables], [len(table) for table in tables.values()])
    frames = keys[:, FRAME]
    return bool(
        (np.abs(keys[:, VALUE]) <= far).all()
        and (np.abs(frames) <= LONGEST).all()
        and (frames == np.rint(frames)).all()
        and (np.abs(keys[:, [IN_TIME, IN_VALUE, OUT_TIME, OUT_VALUE]]) <= _HANDLE).all()
    )


def _check_frame(frame: int) -> None:
    if abs(whole_frame(frame)) > LONGEST:
        raise BadEdit(
            f"frame {frame:,} is out of range: a take goes to {LONGEST:,} frames from zero, an hour at 60 a second. "
            "Nothing was changed"
        )


def _check_reach(table: np.ndarray, before: np.ndarray | None) -> None:
    """Keys that were stored farther out, when that was allowed, may stay there."""
    for end in (0, -1):
        if before is None or abs(table[end, FRAME]) > abs(before[end, FRAME]):
            _check_frame(int(table[end, FRAME]))


def _unit(rig: Rig, address: str) -> str:
    return unit_at(rig, address)


def _check(address: str, value: float, unit: str) -> None:
    if not isfinite(value) or abs(value) > FARTHEST_VALUE[unit]:
        raise BadEdit(f"{address} would be {value:.4g} {unit}".rstrip() + f"; {_SAID[unit]}. Nothing was changed")


def _check_table(address: str, table: np.ndarray, unit: str) -> None:
    for frame in (table[0, FRAME], table[-1, FRAME]):
        whole_frame(float(frame))
    values = table[:, VALUE]
    bad = ~(np.abs(values) <= FARTHEST_VALUE[unit])
    if bad.any():
        _check(address, float(values[bad][0]), unit)
    handles = table[:, [IN_TIME, IN_VALUE, OUT_TIME, OUT_VALUE]]
    if not (np.abs(handles) <= _HANDLE).all():
        raise BadEdit(f"a handle of {address} is longer than a million frames or units. Nothing was changed")
