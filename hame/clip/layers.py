"""Layers: adjustments laid over a motion.

What a layer adds to a channel is a curve of its own beside the others, under
an address that names the layer; how much of it counts is one more curve. What
a person knows a layer by lies on a track of its own. So everything that stores,
compares, moves and retimes curves and spans does the same for layers.
"""

from __future__ import annotations

import re
from collections.abc import Mapping

import numpy as np

from hame.character.rig import Channel, Rig
from hame.clip.clip import Clip
from hame.clip.curve import Curve
from hame.clip.key import Array
from hame.clip.layer import Layer
from hame.clip.quantities import MARK as OF_QUANTITY
from hame.clip.quantities import OF_WAYS, quantity_at
from hame.clip.sampling import sample_curve
from hame.clip.spans import Track, track_name
from hame.errors import BadEdit

MOST = 24
LONGEST_NAME = 60
WEIGHT = "weight"
MARK = "#"  # begins the address of what a layer adds
_ADDRESS = re.compile(rf"{MARK}(\d+)/(.+)", re.DOTALL)


def address_in(layer: int, address: str) -> str:
    """Where a layer keeps what it adds to a channel; the channel itself for the motion below all (0)."""
    return f"{OF_QUANTITY}{address}" if layer == OF_WAYS else f"{MARK}{layer}/{address}" if layer else address


def parted(address: str) -> tuple[int, str]:
    """The layer of an address (0: none; OF_WAYS where it is of a quantity) and the channel's own address."""
    if address.startswith(OF_QUANTITY):
        return OF_WAYS, address[len(OF_QUANTITY) :]
    found = _ADDRESS.fullmatch(address) if address.startswith(MARK) else None
    return (int(found[1]), found[2]) if found else (0, address)


def channel_at(rig: Rig, address: str) -> Channel | None:
    """The channel that an address is of, in a layer or not; None for the weight of a layer and for a quantity.

    Raises
    ------
    BadEdit
        If this rig has none.
    """
    layer, own = parted(address)
    return None if quantity_at(address) or (layer and own == WEIGHT) else rig.channels[rig.number(own)]


def bounds_of(channel: Channel | None, address: str) -> tuple[float, float]:
    """Between which values lie at an address, of which :func:`channel_at` is told; layers add what they like."""
    if channel is None:
        quantity = quantity_at(address)
        return (quantity.low, quantity.high) if quantity else (0.0, 1.0)
    return (-np.inf, np.inf) if parted(address)[0] else (channel.low, channel.high)


def unit_at(rig: Rig, address: str) -> str:
    """The unit of the values at an address; none where this rig has no such channel."""
    quantity = quantity_at(address)
    if quantity is not None:
        return quantity.unit
    _, own = parted(address)
    return rig.channels[rig.number(own)].unit if rig.has_channel(own) else ""


def weight_address(layer: int) -> str:
    return address_in(layer, WEIGHT)


def track_of(layer: int) -> str:
    return track_name(Layer.kind, str(layer))


def layers_of(clip: Clip) -> dict[int, Layer]:
    """The layers of a clip by number, the lowest first."""
    found = {
        int(Track.named(track).about): span
        for track, spans in clip.tracks.items()
        if Track.named(track).kind == Layer.kind
        for span in spans
        if isinstance(span, Layer)
    }
    return dict(sorted(found.items(), key=lambda item: (item[1].place, item[0])))


def layer_of(clip: Clip, number: int) -> Layer:
    """Raises :class:`BadEdit` if the clip has no such layer."""
    found = layers_of(clip).get(number)
    if found is None:
        raise BadEdit("this layer is not there any more; nothing was changed")
    return found


def sounding(clip: Clip) -> list[int]:
    """The numbers of the layers that count."""
    layers = layers_of(clip)
    alone = any(layer.solo for layer in layers.values())
    return [n for n, layer in layers.items() if not layer.muted and (layer.solo or not alone)]


def with_layer(clip: Clip, number: int, layer: Layer | None) -> Clip:
    return clip.with_tracks({track_of(number): () if layer is None else (layer,)})


def own_curves(curves: Mapping[str, Curve]) -> dict[str, Curve]:
    """Those of some curves that are of no layer."""
    return {address: curve for address, curve in curves.items() if not parted(address)[0]}


def curves_in(curves: Mapping[str, Curve], layer: int) -> dict[str, Curve]:
    """What a layer adds, by the channels' own addresses; without its weight."""
    parts = ((*parted(address), curve) for address, curve in curves.items() if address.startswith(MARK))
    return {own: curve for number, own, curve in parts if number == layer and own != WEIGHT}


def weights(clip: Clip, layer: int, times: Array) -> Array:
    """How much of a layer counts at ``times (F,)``, from 0 to 1; all of it where that is not keyed."""
    curve = clip.curves.get(weight_address(layer))
    return np.ones(len(times)) if curve is None else np.clip(sample_curve(curve, times), 0.0, 1.0)
