"""Any choice of keys, across parts: moving, duplicating, deleting, and pasting them with their shapes."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Annotated, Literal

import numpy as np

from hame.character.rig import Rig
from hame.clip.clip import Clip
from hame.clip.curve import Curve, Stack, from_table, unstacked
from hame.clip.curve import from_json as curve_from_json
from hame.clip.key import FRAME, IN_VALUE, OUT_VALUE, VALUE, Row, no_keys, spots, whole_frame
from hame.clip.layers import layers_of, parted
from hame.clip.sampling import sample_curve
from hame.edits.chosen import Keys, counted, going_keys, listed, refuse_derived
from hame.edits.edit import AtMost, Chosen, Count, Edit, Frame, keys_said
from hame.edits.mirror import Mirroring, lacking_note, target_of
from hame.edits.outcome import Outcome
from hame.errors import BadEdit
from hame.scene.scene import Scene


def move_keys(clip: Clip, rig: Rig, chosen: Keys, by: int) -> Outcome:
    """Moves keys by whole frames; a key they land on is replaced, which is said."""
    return _shift(clip, rig, chosen, by, keep=False)


def duplicate_keys(clip: Clip, rig: Rig, chosen: Keys, by: int) -> Outcome:
    """Repeats keys so many frames later (or earlier); keys that are there are replaced, which is said."""
    return _shift(clip, rig, chosen, by, keep=True)


def delete_keys(clip: Clip, rig: Rig, chosen: Keys) -> Outcome:
    """Deletes keys."""
    refuse_derived(clip, {f for address, frames in chosen.items() if not parted(address)[0] for f in frames})
    stack, going = going_keys(clip, rig, chosen)
    if not going.any():
        raise BadEdit(f"there are no keys to delete at {listed({f for frames in chosen.values() for f in frames})}")
    touched = np.unique(stack.owner[going])
    left = np.isin(stack.owner, touched) & ~going
    kept = unstacked(Stack(stack.addresses, stack.owner[left], stack.keys[left]))
    return Outcome(clip.with_curves({a: kept.get(a) for a in (stack.addresses[n] for n in touched.tolist())}))


def paste_keys(
    clip: Clip, rig: Rig, frame: int, copied: Mapping[str, Sequence[Row]], mirrored: Mirroring | None = None,
    joined: bool = False,
) -> Outcome:  # fmt: skip
    """Lays copied keys so that the first of them comes to ``frame``; keys between the first and last are replaced.

    ``joined`` ones are offset in value so that the first of each channel lies where its curve is there.

    Channels that this rig lacks, or values past its limits, are left out and named.
    """
    frame = whole_frame(frame)
    tables = {address: curve_from_json(rows).table for address, rows in copied.items() if rows}
    if not tables:
        raise BadEdit("nothing is copied; nothing was pasted")
    first = min(table[0, FRAME] for table in tables.values())
    last = max(table[-1, FRAME] for table in tables.values())
    whole_frame(float(last - first + frame))
    if any(not parted(address)[0] for address in tables):
        refuse_derived(clip, range(frame, int(frame + last - first) + 1))
    changes: dict[str, Curve | None] = {}
    left: list[str] = []
    lacking: list[str] = []
    gone: list[int] = []
    for address, table in tables.items():
        target: str | None = address
        sign = 1
        layer, own = parted(address)
        if not rig.has_channel(own) or (layer and layer not in layers_of(clip)):
            left.append(address)
            continue
        if mirrored is not None and not layer:
            target, sign = target_of(rig, rig.channels[rig.number(address)], mirrored)
        if target is None:
            lacking.append(address)
            continue
        channel = rig.channels[rig.number(parted(target)[1])]
        laid = table.copy()
        laid[:, FRAME] += frame - first
        laid[:, [VALUE, IN_VALUE, OUT_VALUE]] *= sign
        if joined and target in clip.curves:
            laid[:, VALUE] += sample_curve(clip.curves[target], laid[:1, FRAME])[0] - laid[0, VALUE]
        within = (laid[:, VALUE] >= channel.low - 1e-6) & (laid[:, VALUE] <= channel.high + 1e-6)
        within |= layer > 0
        if channel.locked or not within.all():
            left.append(address)
            continue
        there = clip.curves[target].table if target in clip.curves else no_keys()
        stays = (there[:, FRAME] < frame) | (there[:, FRAME] > frame + last - first)
        gone += there[~stays, FRAME].astype(int).tolist()
        changes[target] = from_table(np.concatenate([there[stays], laid]))
    if not changes:
        raise BadEdit("nothing of what was copied fits this character; nothing was pasted")
    names = ", ".join(left[:4]) + (f" and {len(left) - 4} more" if len(left) > 4 else "")
    notes = (f"not pasted, since this rig lacks or limits them: {names}",) if left else ()
    if gone:
        notes = (*notes, f"{counted(len(gone), 'key')} at {listed(set(gone))} gave way to those pasted")
    return Outcome(clip.with_curves(changes), (*notes, *lacking_note(lacking)))


def _shift(clip: Clip, rig: Rig, chosen: Keys, by: int, keep: bool) -> Outcome:
    by = whole_frame(by)
    if by == 0:
        return Outcome(clip)
    frames = {f for each in chosen.values() for f in each}
    for frame in frames:
        whole_frame(whole_frame(frame) + by)
    own = {f for address, each in chosen.items() if not parted(address)[0] for f in each}
    refuse_derived(clip, {f + by for f in own} if keep else own | {f + by for f in own})
    stack, going = going_keys(clip, rig, chosen)
    if not going.any():
        raise BadEdit(f"there are no keys at {listed(frames)}")
    touched = np.isin(stack.owner, np.unique(stack.owner[going]))
    shifted, movers = stack.keys[going].copy(), stack.owner[going]
    shifted[:, FRAME] += by
    stays = touched if keep else touched & ~going
    staying, stayers = stack.keys[stays], stack.owner[stays]
    hit = np.isin(spots(stayers, staying[:, FRAME]), spots(movers, shifted[:, FRAME]))
    replaced = Counter(staying[hit, FRAME].astype(int).tolist())
    after = Stack(stack.addresses, np.concatenate([stayers[~hit], movers]), np.concatenate([staying[~hit], shifted]))
    notes = tuple(
        f"{counted(count, 'key')} at frame {frame} {'was' if count == 1 else 'were'} replaced"
        for frame, count in sorted(replaced.items())
    )
    return Outcome(clip.with_curves(unstacked(after)), notes)


@dataclass(frozen=True, kw_only=True)
class MoveKeys(Edit):
    """Any choice of keys moved."""

    kind: Literal["move keys"] = "move keys"
    keys: Chosen
    by: Count

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        return move_keys(clip, rig, self.keys, self.by)

    def label(self, rig: Rig, scene: Scene) -> str:
        return f"Move {keys_said(self.keys)} by {self.by:+d}"


@dataclass(frozen=True, kw_only=True)
class DuplicateKeys(Edit):
    """Any choice of keys repeated so many frames later."""

    kind: Literal["duplicate keys"] = "duplicate keys"
    keys: Chosen
    by: Count

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        return duplicate_keys(clip, rig, self.keys, self.by)

    def label(self, rig: Rig, scene: Scene) -> str:
        return f"Duplicate {keys_said(self.keys)} by {self.by:+d}"


@dataclass(frozen=True, kw_only=True)
class DeleteKeys(Edit):
    """Any choice of keys deleted."""

    kind: Literal["delete keys"] = "delete keys"
    keys: Chosen

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        return delete_keys(clip, rig, self.keys)

    def label(self, rig: Rig, scene: Scene) -> str:
        return f"Delete {keys_said(self.keys)}"


@dataclass(frozen=True, kw_only=True)
class PasteKeys(Edit):
    """Copied keys laid from a frame on; rows as :meth:`hame.clip.curve.Curve.to_json` makes them."""

    kind: Literal["paste keys"] = "paste keys"
    frame: Frame
    keys: Annotated[Mapping[str, tuple[tuple[float, ...], ...]], AtMost(5000)]
    mirrored: Mirroring | None = None
    joined: bool = False

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        rows: dict[str, list[Row]] = {address: [list(row) for row in rows] for address, rows in self.keys.items()}
        return paste_keys(clip, rig, self.frame, rows, self.mirrored, self.joined)

    def label(self, rig: Rig, scene: Scene) -> str:
        return f"Paste keys at {self.frame}{', mirrored' if self.mirrored else ''}"
