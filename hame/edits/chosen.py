"""Which curves an edit is about, and frames that it may not touch."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Mapping, Sequence

import numpy as np
import numpy.typing as npt

from hame.character.rig import Rig
from hame.clip.clip import Clip
from hame.clip.curve import Curve, Stack, stacked
from hame.clip.key import FRAME, whole_frame
from hame.clip.layers import channel_at, own_curves
from hame.clip.played import played_curves
from hame.clip.spans import Span
from hame.errors import BadEdit, ShownAgain

Bools = npt.NDArray[np.bool_]
Keys = Mapping[str, Sequence[int]]  # frames of keys by channel address


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


def deriving(clip: Clip) -> list[Span]:
    """The spans of a clip that may derive keys from others, of kinds that do: there are few of them."""
    return [
        span for spans in clip.tracks.values() if spans and type(spans[0]).derives is not Span.derives for span in spans
    ]


def refuse_derived(clip: Clip, frames: Iterable[int]) -> None:
    """Raises :class:`BadEdit` if keys at one of ``frames`` are derived from others."""
    wanted = np.array(list(frames), float)
    for span in deriving(clip):
        derived = wanted[span.derives(wanted)]
        if len(derived):
            frame = int(derived[0])
            if span.covers:
                raise ShownAgain(
                    f"frame {frame} goes by the {span.word} from {span.start} on, so nothing was changed: change it "
                    f"in a layer, or make the {span.word} into keys first",
                    span.start,
                    span.start,
                    span.kind,
                )
            source, mirrored = span.source_of(frame)
            raise ShownAgain(
                f"frame {frame} shows frame {source} {'mirrored' if mirrored else 'repeated'}, so nothing was changed: "
                f"change frame {source}, or free the {span.word} first",
                source,
                span.start,
            )


def refuse_hidden(clip: Clip) -> None:
    """Raises :class:`BadEdit` if keys, names or pending poses are stored where a span shows others: they would not
    show."""
    found_in = [span for span in deriving(clip) if not span.covers]
    if not found_in:
        return
    keys = np.concatenate([np.zeros(0), *(curve.table[:, FRAME] for curve in own_curves(clip.curves).values())])
    stored = (
        ("keys", np.unique(keys)),
        ("names of poses", np.array(list(clip.labels), float)),
        ("pending poses", np.array(list(clip.pending), float)),
    )
    for span in found_in:
        for what, frames in stored:
            found = frames[span.derives(frames)]
            if len(found):
                raise BadEdit(
                    f"{what} would come to lie at {listed({int(f) for f in found})}, which the {span.word} shows from "
                    "earlier frames; free it first. Nothing was changed"
                )


def going_keys(clip: Clip, rig: Rig, chosen: Keys) -> tuple[Stack, Bools]:
    """The curves of which keys are chosen, and which of their keys that are."""
    frames: dict[str, npt.NDArray[np.int64]] = {}
    kept: dict[int, npt.NDArray[np.int64]] = {}  # the same list of frames often serves all channels
    for address, given in chosen.items():
        channel_at(rig, address)
        if address in clip.curves:
            if id(given) not in kept:
                kept[id(given)] = np.array([whole_frame(f) for f in given], np.int64)
            frames[address] = kept[id(given)]
    stack = stacked({address: clip.curves[address] for address in frames})
    if len(kept) <= 1:
        going = np.isin(stack.keys[:, FRAME], next(iter(kept.values()), []))
    else:
        counts = np.bincount(stack.owner, minlength=len(stack.addresses))
        parts = np.split(stack.keys[:, FRAME], np.cumsum(counts)[:-1])
        going = np.concatenate(
            [np.zeros(0, bool), *(np.isin(part, frames[a]) for a, part in zip(stack.addresses, parts, strict=True))]
        )
    return stack, np.asarray(going, bool)


def chosen_keys(clip: Clip, rig: Rig, chosen: Keys) -> tuple[Stack, Bools]:
    """The same; raises :class:`BadEdit` if there is no key among those chosen."""
    stack, going = going_keys(clip, rig, chosen)
    if not going.any():
        frames = {frame for each in chosen.values() for frame in each}
        raise BadEdit(f"there are no keys at {listed(frames)}; nothing was changed" if frames else "no key is chosen")
    return stack, going
