"""Any choice of keys, across parts: moving, duplicating, deleting, and pasting them with their shapes."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np
import numpy.typing as npt

from hame.character.rig import Rig
from hame.clip.clip import Clip
from hame.clip.curve import (
    FRAME,
    IN_VALUE,
    OUT_VALUE,
    VALUE,
    Array,
    Curve,
    Row,
    from_table,
    whole_frame,
)  # fmt: skip
from hame.clip.curve import from_json as curve_from_json
from hame.edits.chosen import counted, listed, refuse_derived
from hame.edits.mirror import Mirroring, lacking_note, target_of
from hame.edits.outcome import Outcome
from hame.errors import BadEdit

Bools = npt.NDArray[np.bool_]
Chosen = Mapping[str, Sequence[int]]  # frames of keys by channel address


def move_keys(clip: Clip, rig: Rig, chosen: Chosen, by: int) -> Outcome:
    """Moves keys by whole frames; a key they land on is replaced, which is said."""
    return _shift(clip, rig, chosen, by, keep=False)


def duplicate_keys(clip: Clip, rig: Rig, chosen: Chosen, by: int) -> Outcome:
    """Repeats keys so many frames later (or earlier); keys that are there are replaced, which is said."""
    return _shift(clip, rig, chosen, by, keep=True)


def delete_keys(clip: Clip, rig: Rig, chosen: Chosen) -> Outcome:
    """Deletes keys."""
    changes: dict[str, Curve | None] = {}
    refuse_derived(clip, {frame for frames in chosen.values() for frame in frames})
    for address, going in _tables(clip, rig, chosen).items():
        table = clip.curves[address].table
        changes[address] = from_table(table[~going]) if not going.all() else None
    if not changes:
        raise BadEdit(f"there are no keys to delete at {listed({f for frames in chosen.values() for f in frames})}")
    return Outcome(clip.with_curves(changes))


def paste_keys(
    clip: Clip, rig: Rig, frame: int, copied: Mapping[str, Sequence[Row]], mirrored: Mirroring | None = None
) -> Outcome:
    """Lays copied keys so that the first of them comes to ``frame``; keys between the first and last are replaced.

    Channels that this rig lacks, or values past its limits, are left out and named.
    """
    frame = whole_frame(frame)
    tables = {address: curve_from_json(rows).table for address, rows in copied.items() if rows}
    if not tables:
        raise BadEdit("nothing is copied; nothing was pasted")
    first = min(table[0, FRAME] for table in tables.values())
    last = max(table[-1, FRAME] for table in tables.values())
    whole_frame(float(last - first + frame))
    refuse_derived(clip, range(frame, int(frame + last - first) + 1))
    changes: dict[str, Curve | None] = {}
    left: list[str] = []
    lacking: list[str] = []
    for address, table in tables.items():
        target: str | None = address
        sign = 1
        if not rig.has_channel(address):
            left.append(address)
            continue
        if mirrored is not None:
            target, sign = target_of(rig, rig.channels[rig.number(address)], mirrored)
        if target is None:
            lacking.append(address)
            continue
        channel = rig.channels[rig.number(target)]
        laid = table.copy()
        laid[:, FRAME] += frame - first
        laid[:, [VALUE, IN_VALUE, OUT_VALUE]] *= sign
        within = (laid[:, VALUE] >= channel.low - 1e-6) & (laid[:, VALUE] <= channel.high + 1e-6)
        if channel.locked or not within.all():
            left.append(address)
            continue
        there = clip.curves[target].table if target in clip.curves else np.zeros((0, 8))
        stays = (there[:, FRAME] < frame) | (there[:, FRAME] > frame + last - first)
        changes[target] = from_table(np.concatenate([there[stays], laid]))
    if not changes:
        raise BadEdit("nothing of what was copied fits this character; nothing was pasted")
    names = ", ".join(left[:4]) + (f" and {len(left) - 4} more" if len(left) > 4 else "")
    notes = (f"not pasted, since this rig lacks or limits them: {names}",) if left else ()
    return Outcome(clip.with_curves(changes), (*notes, *lacking_note(lacking)))


def _tables(clip: Clip, rig: Rig, chosen: Chosen) -> dict[str, Bools]:
    """By address, which keys of the stored curve are chosen (K,)."""
    found: dict[str, Bools] = {}
    sets: dict[tuple[int, ...], Array] = {}
    for address, frames in chosen.items():
        rig.number(address)
        if address not in clip.curves:
            continue
        key = tuple(frames)
        if key not in sets:
            sets[key] = np.array([whole_frame(f) for f in frames], float)
        wanted = sets[key]
        table = clip.curves[address].table
        going = table[:, FRAME] == wanted[0] if len(wanted) == 1 else np.isin(table[:, FRAME], wanted)
        if going.any():
            found[address] = going
    return found


def _shift(clip: Clip, rig: Rig, chosen: Chosen, by: int, keep: bool) -> Outcome:
    by = whole_frame(by)
    if by == 0:
        return Outcome(clip)
    frames = {f for each in chosen.values() for f in each}
    for frame in frames:
        whole_frame(whole_frame(frame) + by)
    refuse_derived(clip, {f + by for f in frames} if keep else frames | {f + by for f in frames})
    changes: dict[str, Curve | None] = {}
    replaced: dict[int, int] = {}
    for address, going in _tables(clip, rig, chosen).items():
        table = clip.curves[address].table
        shifted = table[going]
        shifted[:, FRAME] += by
        staying = table if keep else table[~going]
        hit = np.isin(staying[:, FRAME], shifted[:, FRAME]) if len(shifted) > 1 else staying[:, FRAME] == shifted[0, 0]
        if hit.any():
            for frame in staying[hit, FRAME].tolist():
                replaced[int(frame)] = replaced.get(int(frame), 0) + 1
            staying = staying[~hit]
        changes[address] = from_table(np.concatenate([staying, shifted]))
    if not changes:
        raise BadEdit(f"there are no keys at {listed(frames)}")
    notes = tuple(
        f"{counted(count, 'key')} at frame {frame} {'was' if count == 1 else 'were'} replaced"
        for frame, count in sorted(replaced.items())
    )
    return Outcome(clip.with_curves(changes), notes)
