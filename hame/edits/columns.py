"""Moving, duplicating, deleting and pasting columns: all keys of a character (or of some controls) at a frame."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence

import numpy as np

from hame.character.rig import Rig
from hame.clip.clip import Clip
from hame.clip.curve import FRAME, Curve, from_table, whole_frame, with_keys, without_frames
from hame.edits.outcome import Outcome
from hame.edits.pose import check_values, limits_of
from hame.errors import BadEdit


def move_columns(
    clip: Clip, rig: Rig, frames: Sequence[int], by: int, controls: Iterable[str] | None = None
) -> Outcome:
    """Moves the keys at ``frames`` by whole frames; a key they land on is replaced, which is said."""
    return _shift(clip, rig, frames, by, controls, keep=False)


def duplicate_columns(
    clip: Clip, rig: Rig, frames: Sequence[int], by: int, controls: Iterable[str] | None = None
) -> Outcome:
    """Repeats the keys at ``frames`` so many frames later (or earlier); keys that are there are replaced, which is said."""
    return _shift(clip, rig, frames, by, controls, keep=True)


def delete_columns(clip: Clip, rig: Rig, frames: Sequence[int], controls: Iterable[str] | None = None) -> Outcome:
    """Deletes the keys at ``frames``."""
    gone = _frames(frames)
    changes: dict[str, Curve | None] = {}
    for address, curve in _chosen(clip, rig, controls).items():
        kept = without_frames(curve, gone)
        if kept is None or len(kept) < len(curve):
            changes[address] = kept
    if not changes:
        raise BadEdit(f"there are no keys to delete at {_listed(gone)}")
    return Outcome(clip.with_curves(changes))


def paste_column(clip: Clip, rig: Rig, frame: int, values: Mapping[str, float]) -> Outcome:
    """Keys copied channel ``values`` at a frame, replacing what is there.

    Channels that this rig lacks, or that are locked or limited otherwise
    here, are left out and named.
    """
    frame = whole_frame(frame)
    kept: dict[str, float] = {}
    left: list[str] = []
    for address, value in values.items():
        try:
            kept.update(check_values(rig, {address: value}))
        except BadEdit:
            left.append(address)
    if not kept:
        raise BadEdit("nothing of what was copied fits this character; nothing was pasted")
    for address in list(kept):
        if rig.channels[rig.number(address)].locked:
            del kept[address]
    waiting = clip.pending.get(frame, {})
    clip = clip.with_curves({a: with_keys(clip.curves.get(a), {frame: v}) for a, v in kept.items()})
    clip = clip.with_pending(frame, {a: v for a, v in waiting.items() if a not in kept})
    return Outcome(clip, (_not_pasted(rig, left),) if left else ())


def _not_pasted(rig: Rig, left: list[str]) -> str:
    reasons = []
    for address in left[:4]:
        if rig.has_channel(address):
            channel = rig.channels[rig.number(address)]
            reasons.append(f"{address} ({channel.locked or limits_of(channel)})")
        else:
            reasons.append(f"{address} (not on this rig)")
    more = f" and {len(left) - 4} more" if len(left) > 4 else ""
    return f"not pasted: {', '.join(reasons)}{more}"


def _shift(clip: Clip, rig: Rig, frames: Sequence[int], by: int, controls: Iterable[str] | None, keep: bool) -> Outcome:
    moved, by = _frames(frames), whole_frame(by)
    if by == 0:
        return Outcome(clip)
    for frame in moved:
        whole_frame(frame + by)
    changes: dict[str, Curve | None] = {}
    replaced: dict[int, int] = {}
    for address, curve in _chosen(clip, rig, controls).items():
        going = np.isin(curve.table[:, FRAME], list(moved))
        if not going.any():
            continue
        shifted = curve.table[going].copy()
        shifted[:, FRAME] += by
        staying = curve.table if keep else curve.table[~going]
        hit = np.isin(staying[:, FRAME], shifted[:, FRAME])
        for frame in staying[hit, FRAME].tolist():
            replaced[int(frame)] = replaced.get(int(frame), 0) + 1
        changes[address] = from_table(np.concatenate([staying[~hit], shifted]))
    if not changes:
        raise BadEdit(f"there are no keys at {_listed(moved)}")
    notes = tuple(
        f"{count} key{'s' if count > 1 else ''} at frame {frame} {'were' if count > 1 else 'was'} replaced"
        for frame, count in sorted(replaced.items())
    )
    return Outcome(clip.with_curves(changes), notes)


def _frames(frames: Sequence[int]) -> set[int]:
    if not frames:
        raise BadEdit("no frame is chosen")
    return {whole_frame(frame) for frame in frames}


def _listed(frames: set[int]) -> str:
    return "frame " + ", ".join(map(str, sorted(frames)))


def _chosen(clip: Clip, rig: Rig, controls: Iterable[str] | None) -> dict[str, Curve]:
    if controls is None:
        return dict(clip.curves)
    addresses = [channel.address for name in controls for channel in rig.channels_of(name)]
    return {address: clip.curves[address] for address in addresses if address in clip.curves}
