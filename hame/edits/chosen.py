"""Which curves an edit is about, and frames that it may not touch."""

from __future__ import annotations

from collections.abc import Collection, Iterable

import numpy as np

from hame.character.rig import Rig
from hame.clip.clip import Clip
from hame.clip.curve import FRAME, Curve, whole_frame
from hame.clip.cycle import played_curves
from hame.errors import BadEdit


def addresses_of(rig: Rig, controls: Iterable[str] | None) -> tuple[str, ...]:
    """All channel addresses of ``controls``, or (None) of the whole rig."""
    if controls is None:
        return rig.addresses
    return tuple(channel.address for name in controls for channel in rig.channels_of(name))


def curves_of(clip: Clip, rig: Rig, controls: Iterable[str] | None) -> dict[str, Curve]:
    """The stored curves of ``controls``, or (None) all."""
    if controls is None:
        return dict(clip.curves)
    return {address: clip.curves[address] for address in addresses_of(rig, controls) if address in clip.curves}


def played_of(
    clip: Clip, rig: Rig, controls: Iterable[str] | None, first: float | None = None, last: float | None = None
) -> dict[str, Curve]:
    """The curves of ``controls`` or (None) of all as they play, derived keys included, right from ``first`` to
    ``last``.
    """
    played = played_curves(clip, rig, first, last)
    if controls is None:
        return dict(played)
    return {address: played[address] for address in addresses_of(rig, controls) if address in played}


def chosen_frames(frames: Collection[int]) -> set[int]:
    """The frames as a set; raises :class:`BadEdit` when there is none or one is not whole."""
    if not frames:
        raise BadEdit("no frame is chosen")
    return {whole_frame(frame) for frame in frames}


def listed(frames: Iterable[int]) -> str:
    """Frames in words."""
    shown = sorted(frames)
    more = f" and {len(shown) - 6} more" if len(shown) > 6 else ""
    return ("frame " if len(shown) == 1 else "frames ") + ", ".join(map(str, shown[:6])) + more


def counted(count: int, one: str) -> str:
    return f"{count} {one}{'' if count == 1 else 's'}"


def refuse_derived(clip: Clip, frames: Iterable[int]) -> None:
    """Raises :class:`BadEdit` if keys at one of ``frames`` are derived from others."""
    cycle = clip.cycle
    for frame in frames:
        if cycle is not None and cycle.derives(frame):
            source, mirrored = cycle.source_of(frame)
            what = "mirrored" if mirrored else "repeated"
            raise BadEdit(
                f"frame {frame} shows frame {source} {what}, so nothing was changed: change frame {source}, "
                f"or free the {'echo' if cycle.echo else 'cycle'} first"
            )


def refuse_hidden(clip: Clip) -> None:
    """Raises :class:`BadEdit` if stored keys, names or pending poses lie where a cycle shows others: they would not
    show.
    """
    cycle = clip.cycle
    if cycle is None:
        return
    frames = np.concatenate([np.zeros(0), *(curve.table[:, FRAME] for curve in clip.curves.values())])
    hidden = frames[(frames >= cycle.source_end) & (frames <= cycle.until)]
    for what, found in (
        ("keys", hidden.tolist()),
        ("names of poses", [f for f in clip.labels if cycle.derives(f)]),
        ("pending poses", [f for f in clip.pending if cycle.derives(f)]),
    ):
        if found:
            raise BadEdit(
                f"{what} would come to lie at {listed({int(f) for f in found})}, which the "
                f"{'echo' if cycle.echo else 'cycle'} shows from earlier frames; free it first. Nothing was changed"
            )
