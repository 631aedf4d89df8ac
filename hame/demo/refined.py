"""Motions of the demo that are gone on with: a round that grows tired by a layer, and the gull's take refined."""

from __future__ import annotations

from math import radians

from hame.character.rig import Rig
from hame.clip.clip import Clip
from hame.demo import shots
from hame.edits.edit import Edit
from hame.edits.graph import ReshapeKeys
from hame.edits.layers import AddLayer, WeighLayer
from hame.edits.making import made
from hame.edits.overlap import DelayParts, Trail
from hame.edits.plants import Planting, PlantLimbs
from hame.edits.pose import SetPose
from hame.edits.ways import SetWay
from hame.evaluate.evaluate import channel_values
from hame.scene.scene import Figure, Scene


def done(rig: Rig, clip: Clip, *edits: Edit) -> Clip:
    """The clip after edits, made as people make them."""
    for edit in edits:
        clip = made(edit, Scene({1: Figure(rig, clip)}, 1, 200), 1).clips[1]
    return clip


def tired_round(rig: Rig) -> Clip:
    """The walk of the morning round with a layer *Tired* over it, whose weight grows from nothing to all."""
    clip = shots.walk_across(rig)
    clip = done(rig, clip, AddLayer(name="Tired"))
    stoop = {"spine/rx": 4.0, "spine.2/rx": 5.0, "chest/rx": 6.0, "neck/rx": 6.0, "head/rx": 3.0}
    arms = {f"arm.{s}.{part}": v for s in "LR" for part, v in (("upper/rz", -4.0), ("lower/rx", -9.0))}
    for frame in (1, 73):
        seen = channel_values(rig, clip, [frame])[0]
        wanted = {a: float(seen[rig.number(a)]) + radians(v) for a, v in {**stoop, **arms}.items()}
        wanted["body/ty"] = float(seen[rig.number("body/ty")]) - 0.018
        clip = done(rig, clip, SetPose(frame=frame, values=wanted, layer=1, what="Stoop"))
    # The head nods once a step, a little later each time the foot comes down.
    for n, frame in enumerate(range(4, 73, 12)):
        seen = channel_values(rig, clip, [frame])[0]
        nod = float(seen[rig.number("neck/rx")]) + radians(2.5 if n % 2 == 0 else -1.0)
        clip = done(rig, clip, SetPose(frame=frame, values={"neck/rx": nod}, layer=1, what="Nod"))
    weights = [WeighLayer(number=1, weight=w, frame=f) for f, w in ((1, 0.0), (20, 0.15), (73, 1.0))]
    return done(rig, clip, *weights)


def refined_take(rig: Rig) -> Clip:
    """The gull's take with overlap by part: eyes before head before body, feet planted, the spring overshot."""
    clip = shots.take(rig)
    body = tuple(c.name for c in rig.controls if c.part in ("body", "spine") and c.posed)
    arms = tuple(f"arm.{s}.{p}" for s in "LR" for p in ("upper", "lower", "hand"))
    return done(
        rig, clip,
        DelayParts(chain=(Trail(("eye.L", "eye.R"), -3), Trail(("head", "neck"), -1), Trail(("jaw",), 1)), first=8),
        # Up on straight legs, not past them.
        ReshapeKeys(keys={"body/ty": (24, 30)}, by={"body/ty": -0.024}),
        PlantLimbs(plants=(Planting("leg.L.goal", 1, 64), Planting("leg.R.goal", 1, 64))),
        SetWay(way="slow start", strength=0.3, gaps=((18, 20),), controls=body),
        SetWay(way="overshoot", strength=0.4, gaps=((19, 23),), controls=arms),
        SetWay(way="slow stop", strength=0.4, gaps=((30, 34),), controls=body),
    )  # fmt: skip
