"""Parts that no edit may touch."""

from __future__ import annotations

from collections.abc import Collection

from hame.character.rig import Rig
from hame.clip.clip import Clip
from hame.clip.layers import parted
from hame.clip.spans import control_of
from hame.edits.bounds import refuse_unbounded
from hame.edits.chosen import addresses_of, refuse_hidden
from hame.edits.outcome import Outcome
from hame.edits.spans import restored as spans_restored
from hame.errors import BadEdit


def guarded(before: Clip, outcome: Outcome, rig: Rig, protected: Collection[str] = ()) -> Outcome:
    """What may be stored of an edit's outcome: protected parts as they were, nothing hidden, all within bounds.

    Raises
    ------
    BadEdit
        If keys would come to lie where a cycle shows others, something is past its bounds, or nothing but
        protected parts would change.
    """
    kept = kept_protected(before, outcome, rig, protected)
    refuse_hidden(kept.clip)
    refuse_unbounded(before, kept.clip, rig)
    return kept


def kept_protected(before: Clip, outcome: Outcome, rig: Rig, protected: Collection[str]) -> Outcome:
    """The outcome of an edit with the curves of ``protected`` controls as they were, and a word about it.

    Raises
    ------
    BadEdit
        If the edit changed nothing but protected parts.
    """
    names = [name for name in protected if rig.has_control(name)]
    if not names:
        return outcome
    after = outcome.clip
    own = set(addresses_of(rig, names))
    layered = {a for a in after.curves.keys() | before.curves.keys() if parted(a)[0] and parted(a)[1] in own}
    addresses = own | layered
    restored = {a: before.curves.get(a) for a in addresses if before.curves.get(a) is not after.curves.get(a)}
    pending = {
        frame: {a: v for a, v in values.items() if a not in addresses or before.pending.get(frame, {}).get(a) == v}
        for frame, values in after.pending.items()
        if any(a in addresses for a in values)
    }
    kept_pending = {f: v for f, v in pending.items() if v != dict(after.pending[f])}
    spans = spans_restored(after, before, names)
    if not restored and not kept_pending and spans is after:
        return outcome
    clip = spans.with_curves(restored)
    for frame, values in kept_pending.items():
        clip = clip.with_pending(frame, values)
    same = all(clip.curves.get(a) is before.curves.get(a) for a in clip.curves.keys() | before.curves.keys())
    left = [rig.channels[rig.number(parted(a)[1])].control for a in restored]
    left += [rig.channels[rig.number(a)].control for f in kept_pending for a in after.pending[f] if a in addresses]
    tracks = {*clip.tracks, *after.tracks}
    left += [control_of(track) for track in tracks if clip.tracks.get(track) != after.tracks.get(track)]
    controls = sorted(set(left))
    said = ", ".join(rig.control(name).label for name in controls[:3])
    more = f" and {len(controls) - 3} more" if len(controls) > 3 else ""
    if same and clip.pending == before.pending and clip.labels == before.labels and clip.tracks == before.tracks:
        raise BadEdit(
            f"protected: {said}{more}. Nothing was changed; take the protection off in the sheet to change it"
        )
    return Outcome(clip, (*outcome.notes, f"protected, left as it was: {said}{more}"))
