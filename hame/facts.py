"""What whoever shows a motion has to know by number and by name: told once here, and written down for pages."""

from __future__ import annotations

from dataclasses import asdict
from typing import Any, get_args

from hame.character.rig import CHANNEL_KINDS
from hame.clip import key
from hame.clip.layer import Layer
from hame.clip.layers import MARK
from hame.clip.quantities import MARK as OF_QUANTITY
from hame.clip.quantities import QUANTITIES
from hame.clip.spans import SPANS
from hame.demo.shelf import THINGS
from hame.edits import kinds
from hame.edits.ways import Way, number_of
from hame.evaluate.blocks import BLOCKS
from hame.faults.limits import Limits
from hame.maths import eases


def facts() -> dict[str, Any]:
    """The facts by name, as they can be written as JSON.

    ``columns`` of a table of keys by name, and its ``width``; ``blocks`` by which a figure is drawn; the kinds of
    ``handles`` and the code of two that are free; ``ways`` of gaps by their numbers, and constants of those in closed
    form; kinds of edit that set ``poses``, so that they are made in the layer that is posed in; kinds of ``channels``
    and of ``spans``; how ``layers`` call their tracks and mark their addresses; the ``quantities`` by which somebody
    goes, and how addresses of these begin; what is on the ``shelf``; the ``limits`` beyond which the weight of a motion
    is a fault, where nobody says otherwise.
    """
    ways = {number_of(way): way for inner in get_args(Way) for way in (get_args(inner) or (inner,))}
    return {
        "columns": {
            "frame": key.FRAME, "value": key.VALUE, "shape": key.SHAPE, "handles": key.HANDLES, "inTime": key.IN_TIME,
            "inValue": key.IN_VALUE, "outTime": key.OUT_TIME, "outValue": key.OUT_VALUE, "strength": key.STRENGTH,
        },
        "width": key.WIDTH,
        "blocks": [{"name": b.name, "width": b.width, "dragged": b.dragged} for b in BLOCKS],
        "handles": {"auto": key.AUTO, "free": key.FREE, "flat": key.FLAT, "chord": key.CHORD},
        "freeBoth": int(key.FREE_BOTH),
        "ways": [ways[number] for number in range(len(ways))],
        "shapes": {name: number for number, name in sorted(ways.items())},
        "tenPercent": eases.TEN_PERCENT,
        "poses": sorted(name for name, kind in kinds.EDITS.items() if kind.poses),
        "channels": list(CHANNEL_KINDS),
        "spans": sorted(SPANS),
        "layers": {"track": Layer.kind, "mark": MARK},
        "quantities": {name: {"label": q.label, "unit": q.said or q.unit} for name, q in QUANTITIES.items()},
        "ofQuantity": OF_QUANTITY,
        "shelf": list(THINGS),
        "limits": asdict(Limits()),
    }  # fmt: skip
