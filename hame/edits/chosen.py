"""Which curves an edit is about, and frames that it may not touch."""

from __future__ import annotations

from collections.abc import Collection, Iterable

import numpy as np

from hame.character.rig import Rig
from hame.clip.clip import Clip
from hame.clip.curve import FRAME, Curve, whole_frame
from hame.clip.layers import own_curves
from hame.clip.played import played_curves
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
    wanted = np.array(list(frames), float)
    for _, span in clip.spans():
        derived = wanted[span.derives(wanted)]
        if len(derived):
            frame = int(derived[0])
            source, mirrored = span.source_of(frame)
            raise BadEdit(
                f"frame {frame} shows frame {source} {'mirrored' if mirrored else 'repeated'}, so nothing was changed: "
                f"change frame {source}, or free the {span.word} first"
            )


def refuse_hidden(clip: Clip) -> None:
    """Raises :class:`BadEdit` if keys, names or pending poses are stored where a span shows others: they would not
    show."""
    for _, span in clip.spans():
        keys = np.concatenate([np.zeros(0), *(curve.table[:, FRAME] for curve in own_curves(clip.curves).values())])
        for what, frames in (
            ("keys", keys),
            ("names of poses", np.array(list(clip.labels), float)),
            ("pending poses", np.array(list(clip.pending), float)),
        ):
            found = frames[span.derives(frames)]
            if len(found):
                raise BadEdit(
                    f"{what} would come to lie at {listed({int(f) for f in found})}, which the {span.word} shows from "
                    "earlier frames; free it first. Nothing was changed"
                )
