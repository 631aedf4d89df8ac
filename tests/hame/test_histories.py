"""Long chains of random edits: every step can be undone exactly, and no edit loses a key in silence."""

from __future__ import annotations

import json
import unittest
from collections.abc import Callable
from typing import Any

import numpy as np
import orjson

from hame.character.rig import Rig
from hame.clip.belonging import Belonging
from hame.clip.blink import blinks_of
from hame.clip.clip import Clip, Patch, difference, from_json, patch_from_json
from hame.clip.curve import from_keys
from hame.clip.gaze import gazes_of
from hame.clip.key import BEZIER
from hame.clip.layers import bounds_of, channel_at, layers_of, own_curves
from hame.clip.living import livings_of
from hame.clip.plants import Plant
from hame.clip.shake import Shake
from hame.clip.spans import Track, control_of
from hame.clip.spring import springs_of
from hame.clip.way import ways_of
from hame.edits.answered import ANSWERS
from hame.edits.columns import move_columns
from hame.edits.edit import EDITS as KNOWN
from hame.edits.kinds import ALL
from hame.edits.making import made
from hame.edits.pose import key_pose
from hame.edits.reading import edit_from_json, edit_to_json
from hame.edits.spans import spans_of
from hame.errors import BadEdit
from hame.evaluate.evaluate import channel_values
from hame.scene.joined import moves
from hame.scene.scene import Figure, Scene, StoredPose
from tests.hame.examples import brannoc_rig, random_pose

Given = dict[str, Any]


def random_edit(clip: Clip, rng: np.random.Generator) -> Clip:
    """The clip after one edit of any kind, given as a page gives it, and kept as the server keeps it."""
    rig = brannoc_rig()
    kind = list(KINDS)[int(rng.integers(0, len(KINDS)))]
    edit = edit_from_json(json.loads(json.dumps({"kind": kind, **KINDS[kind](clip, rig, rng)})))
    assert edit_from_json(edit_to_json(edit)) == edit
    library = {1: StoredPose(dict(zip(rig.addresses, map(float, random_pose(rig, 3)), strict=True)), 0.9)}
    other = Clip().with_curves({"head/ry": from_keys({1: 0.2, 30: -0.1}), "body/ty": from_keys({5: -0.1})})
    figures = {5: Figure(rig, clip, "Brannoc", ("jaw",) if rng.random() < 0.1 else ()), 6: Figure(rig, other, "Wick")}
    scene = Scene(figures, 1, 90, library)
    assert 0 < len(edit.label(rig, scene)) < 200
    return made(edit, scene, 5).clips[5]


def _frame(rng: np.random.Generator) -> int:
    return int(rng.integers(1, 40))


def _some(rig: Rig, rng: np.random.Generator) -> list[str] | None:
    names = [c.name for c in rig.controls]
    return None if rng.random() < 0.4 else [str(n) for n in rng.choice(names, 3, replace=False)]


def _one_of(rng: np.random.Generator, *choices: Any) -> Any:
    return choices[int(rng.integers(0, len(choices)))]


def _keying(rng: np.random.Generator) -> str:
    return str(_one_of(rng, "off", "changed", "control", "whole"))


def _by(rng: np.random.Generator) -> int:
    return int(rng.integers(-6, 7))


def _columns(clip: Clip, rng: np.random.Generator) -> list[int]:
    frames = clip.key_frames() or [1]
    return [int(f) for f in rng.choice(frames, min(2, len(frames)), replace=False)]


def _pose(clip: Clip, rig: Rig, rng: np.random.Generator) -> Given:
    pose = random_pose(rig, int(rng.integers(1000)))
    names = _some(rig, rng) or ["body", "head"]
    chosen = [c for n in names for c in rig.channels_of(n) if not c.locked and c.kind != "scale"]
    values = {c.address: float(pose[rig.number(c.address)]) for c in chosen}
    shape = _one_of(rng, "stepped", "straight", "smooth")
    layer = _layer(clip) if layers_of(clip) and rng.random() < 0.5 else 0
    return {"frame": _frame(rng), "values": values, "keying": _keying(rng), "shape": shape, "layer": layer}


def _paste(clip: Clip, rig: Rig, rng: np.random.Generator) -> Given:
    values = channel_values(rig, clip, [_frame(rng)])[0]
    how = {"master": "mirror"} if rng.random() < 0.3 else None
    copied = {a: float(v) for a, v in zip(rig.addresses, values, strict=True)}
    return {"frame": _frame(rng), "values": copied, "controls": _some(rig, rng), "mirrored": how}


def _keys(clip: Clip, rng: np.random.Generator) -> dict[str, list[int]]:
    addresses = sorted(clip.curves) or ["body/ty"]
    some = [str(a) for a in rng.choice(addresses, min(3, len(addresses)), replace=False)]
    return {a: [int(f) for f in clip.curves[a].frames[:2]] if a in clip.curves else [1] for a in some}


def _by_hand(clip: Clip, rng: np.random.Generator) -> dict[str, list[list[Any]]]:
    ahead, back = float(rng.uniform(0, 9)), float(rng.uniform(-9, 0))
    rows = [[1, 0.01, BEZIER, 0, 0, ahead, 0.02], [7, -0.02, BEZIER, back, 0, 3, 0]]
    return {"body/ty": rows, "head/rx": rows}


def _way(clip: Clip) -> int:
    return next((way.start for way in ways_of(clip)), 30)


def _points(rng: np.random.Generator) -> list[dict[str, float]]:
    return [{"x": float(x), "z": float(z)} for x, z in np.cumsum(rng.uniform(-0.3, 1.0, (3, 2)), axis=0)]


def _goal(rng: np.random.Generator) -> str:
    return str(_one_of(rng, "leg.L.goal", "leg.R.goal", "arm.L.goal"))


def _held(rng: np.random.Generator) -> str:
    return str(_one_of(rng, "arm.R.goal", "head"))


def _stretch(rng: np.random.Generator) -> dict[str, int]:
    start = _frame(rng)
    return {"start": start, "end": start + int(rng.integers(2, 15))}


def _span(clip: Clip, kind: type[Plant] | type[Belonging], rng: np.random.Generator, otherwise: str) -> Given:
    """A span of the clip by its control and start; where there is none, one that is refused."""
    there = [
        (control_of(name), span.start)
        for name, spans in sorted(clip.tracks.items())
        for span in spans
        if isinstance(span, kind)
    ]
    control, at = there[int(rng.integers(0, len(there)))] if there else (otherwise, 1)
    return {"control": control, "at": at}


def _planted(clip: Clip, rng: np.random.Generator) -> Given:
    return _span(clip, Plant, rng, "leg.L.goal")


def _belonging(clip: Clip, rng: np.random.Generator) -> Given:
    return _span(clip, Belonging, rng, "head")


# The fields of every kind of edit that there is, as a person might fill them.
def _one_key(clip: Clip, rng: np.random.Generator) -> Given:
    address, frames = next(iter(_keys(clip, rng).items()))
    return {"address": address, "frame": frames[0]}


def _reshape(clip: Clip, rig: Rig, rng: np.random.Generator) -> Given:
    keys = _keys(clip, rng)
    some = {address: float(rng.uniform(-0.05, 0.05)) for address in keys}
    how = _one_of(rng, {"by": some}, {"shear": some}, {"bend": some}, {"value": 0.0}, {"time": 1.5}, {"by_frames": 2})
    return {"keys": keys, "about_frame": 1, **how}


def _gap(clip: Clip, rng: np.random.Generator) -> list[int]:
    frames = clip.key_frames() or [1, 9]
    at = int(rng.integers(0, max(len(frames) - 1, 1)))
    return [frames[at], frames[min(at + 1, len(frames) - 1)]]


def _layer(clip: Clip) -> int:
    return next(iter(layers_of(clip)), 1)


KINDS: dict[str, Callable[[Clip, Rig, np.random.Generator], Given]] = {
    "pose": _pose,
    "reset": lambda c, rig, r: {"frame": _frame(r), "controls": _some(rig, r), "kinds": ["turn", "extra"],
                                "keying": _keying(r)},
    "key": lambda c, rig, r: {"frame": _frame(r), "controls": _some(rig, r)},
    "drop": lambda c, rig, r: {"frame": next(iter(c.pending), 1)},
    "limb": lambda c, rig, r: {"frame": _frame(r), "limb": _one_of(r, "arm.L", "leg.R"), "to": _one_of(r, "ik", "fk"),
                               "anyway": True},
    "move": lambda c, rig, r: {"frames": _columns(c, r), "by": _by(r), "controls": _some(rig, r)},
    "duplicate": lambda c, rig, r: {"frames": _columns(c, r), "by": _by(r), "controls": _some(rig, r)},
    "delete": lambda c, rig, r: {"frames": _columns(c, r)[:1], "controls": _some(rig, r)},
    "paste": _paste,
    "mirror": lambda c, rig, r: {"frame": _frame(r), "to": _frame(r), "controls": _some(rig, r)},
    "mirror range": lambda c, rig, r: {"first": 1, "last": 12, "to": 13, "controls": _some(rig, r)},
    "move keys": lambda c, rig, r: {"keys": _keys(c, r), "by": _by(r)},
    "duplicate keys": lambda c, rig, r: {"keys": _keys(c, r), "by": _by(r)},
    "delete keys": lambda c, rig, r: {"keys": _keys(c, r)},
    "paste keys": lambda c, rig, r: {"frame": _frame(r), "keys": _by_hand(c, r)},
    "breakdown": lambda c, rig, r: {"frame": _frame(r), "share": float(r.uniform(-0.5, 1.5)), "keying": _keying(r)},
    "exaggerate": lambda c, rig, r: {"frame": _frame(r), "degree": float(r.uniform(-1, 1)), "keying": _keying(r)},
    "shape": lambda c, rig, r: {"shape": _one_of(r, "stepped", "straight", "smooth"), "controls": _some(rig, r)},
    "insert": lambda c, rig, r: {"after": _frame(r), "count": int(r.integers(-3, 4)), "controls": _some(rig, r)},
    "scale": lambda c, rig, r: {"frames": _columns(c, r), "about": _frame(r), "factor": float(r.uniform(0.3, 1.6)),
                                "controls": _some(rig, r), "along": bool(r.random() < 0.5)},
    "slow": lambda c, rig, r: {"count": int(r.integers(-1, 2))},
    "hold": lambda c, rig, r: {"frame": _columns(c, r)[0], "count": int(r.integers(1, 5)),
                               "drift": float(r.uniform(0, 0.5)), "push": bool(r.random() < 0.5),
                               "controls": _some(rig, r)},
    "delay": lambda c, rig, r: {"chain": [{"controls": ["arm.L.hand", "head"], "frames": int(r.integers(-3, 4)),
                                           "amplitude": 0.9}]},
    "delay event": lambda c, rig, r: {"chain": [{"controls": ["arm.L.hand", "head"], "frames": int(r.integers(-2, 3))}],
                                      "about": _one_of(r, None, _columns(c, r)[0]), "first": 1, "last": _frame(r),
                                      "together": bool(r.random() < 0.3)},
    "cycle": lambda c, rig, r: {"start": 1, "end": 1 + 2 * int(r.integers(4, 13)), "echo": bool(r.random() < 0.5)},
    "free": lambda c, rig, r: {},
    "repeat": lambda c, rig, r: {"until": int(r.integers(25, 60)), "travel": float(r.uniform(0, 2))},
    "mend": lambda c, rig, r: {"start": 1, "end": 25},
    "label": lambda c, rig, r: {"frame": _frame(r), "name": _one_of(r, "Contact", ""), "rank": "breakdown"},
    "template": lambda c, rig, r: {"template": "walk", "start": _frame(r), "step": 12, "posed": bool(r.random() < 0.5)},
    "lay": lambda c, rig, r: {"frame": _frame(r), "pose": 1, "share": float(r.uniform(0, 1)), "keying": _keying(r),
                              "controls": _some(rig, r)},
    "plant": lambda c, rig, r: {"plants": [{"control": _goal(r), **_stretch(r), "about": _one_of(r, "", "leg.L.ball")}],
                                "release": int(r.integers(0, 4)), "land": int(r.integers(0, 4))},
    "replant": lambda c, rig, r: {**_planted(c, r), **_stretch(r), "release": int(r.integers(0, 4))},
    "split": lambda c, rig, r: {**_planted(c, r), "frame": _frame(r)},
    "lift": lambda c, rig, r: {"controls": [_planted(c, r)["control"]]},
    "place": lambda c, rig, r: {**_planted(c, r), "x": float(r.uniform(-1, 1)), "z": float(r.uniform(-1, 1)),
                                "heading": _one_of(r, None, 0.3)},
    "belong": lambda c, rig, r: {"controls": [_held(r)], "to": _one_of(r, "head", "chest", "master"), **_stretch(r),
                                 "ties": _one_of(r, "both", "turn"), "weight": float(r.uniform(0, 1)),
                                 "ease_in": int(r.integers(0, 3))},
    "rebelong": lambda c, rig, r: {**_belonging(c, r), **_stretch(r), "weight": float(r.uniform(0, 1))},
    "unbelong": lambda c, rig, r: {"controls": [_belonging(c, r)["control"]]},
    "limbs": lambda c, rig, r: {"limbs": [_one_of(r, "arm.R", "leg.L")], "first": 4, "last": 12,
                                "to": _one_of(r, "ik", "fk"), "every": _one_of(r, "frame", "key", "needed")},
    "by hand": lambda c, rig, r: {"frame": _frame(r), "controls": _some(rig, r) or ["head"],
                                  "way": _one_of(r, "move", "turn"),
                                  "by": r.uniform(-0.2, 0.2, 3).tolist(), "angle": float(r.uniform(-1, 1)),
                                  "axes": _one_of(r, "world", "own"), "sides": _one_of(r, "one", "mirrored")},
    "pull": lambda c, rig, r: {"frame": _frame(r), "part": _one_of(r, "arm.L.hand", "chest", "body"),
                               "y": float(r.uniform(-0.2, 0.2)), "z": float(r.uniform(-0.3, 0.3)),
                               "keying": _keying(r)},
    "weight": lambda c, rig, r: {"frame": _frame(r), "onto": _one_of(r, "", "leg.L.goal"), "keying": _keying(r)},
    "turn": lambda c, rig, r: {"start": _frame(r), "angle": float(r.uniform(-1, 1)), "steps": int(r.integers(2, 4))},
    "bring": lambda c, rig, r: {"frame": _frame(r), "keying": _keying(r),
                                "places": {"arm.L.goal": [*map(float, r.uniform(-0.3, 1.2, 3)), 0.0, 0.0, 0.0, 1.0]}},
    "reshape": _reshape,
    "handles": lambda c, rig, r: {"keys": _keys(c, r), "side": _one_of(r, "both", "before", "after"),
                                  "how": _one_of(r, "automatic", "flat", "straight", "free", "in line", "broken")},
    "handle": lambda c, rig, r: {**_one_key(c, r), "side": _one_of(r, "before", "after"),
                                 "time": float(r.uniform(-1, 12)), "value": float(r.uniform(-0.2, 0.2)),
                                 "alone": bool(r.random() < 0.5)},
    "lengthen": lambda c, rig, r: {"keys": _keys(c, r), "factor": float(r.uniform(0.5, 2.0))},
    "lay way": lambda c, rig, r: {"start": int(r.integers(20, 80)), "points": _points(r),
                                  "here": bool(r.random() < 0.7), "turn": _one_of(r, 0.0, 0.0, 1.2)},
    "change way": lambda c, rig, r: {"at": _way(c), "points": _points(r), "ends": bool(r.random() < 0.7)},
    "drop way": lambda c, rig, r: {"at": _way(c)},
    "bend way": lambda c, rig, r: {"at": _way(c), "angle": float(r.uniform(-2, 2))},
    "stretch way": lambda c, rig, r: {"at": _way(c), "factor": float(r.uniform(0.6, 1.6))},
    "widen way": lambda c, rig, r: {"at": _way(c), "factor": float(r.uniform(0.6, 1.6))},
    "point on way": lambda c, rig, r: {"at": _way(c), "along": float(r.uniform(0.1, 1.5))},
    "join ways": lambda c, rig, r: {"at": _way(c)},
    "way manner": lambda c, rig, r: {"at": _way(c), "manner": {"swing": float(r.uniform(0, 1))}},
    "ground anew": lambda c, rig, r: {},
    "set footfall": lambda c, rig, r: {"at": _way(c), "number": 2, "side": _one_of(r, "L", "R"),
                                       "x": float(r.uniform(-0.2, 0.2)), "clear": bool(r.random() < 0.2)},
    "take out footfall": lambda c, rig, r: {"at": _way(c), "number": 2, "gap": bool(r.random() < 0.5)},
    "put in footfall": lambda c, rig, r: {"at": _way(c), "number": 1},
    "way keys": lambda c, rig, r: {"at": _way(c)},
    "give way": lambda c, rig, r: {"first": 1, "last": 40},
    "key quantity": lambda c, rig, r: {"name": _one_of(r, "speed", "swing", "share"), "frame": _frame(r),
                                       "value": float(r.uniform(0.4, 0.7))},
    "way times": lambda c, rig, r: {"frame": _frame(r), "on": 16, "both": 3},
    "way": lambda c, rig, r: {"gaps": [[_frame(r), 40]], "controls": _some(rig, r), "strength": float(r.uniform(0, 1)),
                              "way": _one_of(r, "even", "slow start", "both", "wind-up", "bounce", "instant")},
    "chart": lambda c, rig, r: {"gaps": [_gap(c, r)], "ticks": [{"time": 0.4, "favour": float(r.uniform(-0.2, 1.2))}],
                                "keyed": bool(r.random() < 0.3)},
    "spare keys": lambda c, rig, r: {"controls": _some(rig, r), "layer": _layer(c)},
    "fit keys": lambda c, rig, r: {"controls": _some(rig, r)},
    "unwind": lambda c, rig, r: {"controls": _some(rig, r)},
    "clear channels": lambda c, rig, r: {"addresses": list(_keys(c, r)), "keep": bool(r.random() < 0.5)},
    "calm": lambda c, rig, r: {"keys": _keys(c, r), "share": float(r.uniform(0, 1))},
    "add layer": lambda c, rig, r: {"name": _one_of(r, "Tired", ""), "controls": _one_of(r, [], ["head", "body"])},
    "change layer": lambda c, rig, r: {"number": _layer(c), "muted": _one_of(r, None, False), "solo": False,
                                       "up": int(r.integers(-1, 2))},
    "delete layer": lambda c, rig, r: {"number": _layer(c)},
    "weigh layer": lambda c, rig, r: {"number": _layer(c), "weight": float(r.uniform(0.2, 1)),
                                      "frame": _one_of(r, None, _frame(r))},
    "merge layer": lambda c, rig, r: {"number": _layer(c)},
    "living": lambda c, rig, r: {"at": _living(c, r), **_stretch(r), "seed": int(r.integers(0, 9)), "fade": 6,
                                 "muted": bool(r.random() < 0.2)},
    "drop living": lambda c, rig, r: {"at": _living(c, r) or 1},
    "living keys": lambda c, rig, r: {"at": _living(c, r) or 1},
    "shake": lambda c, rig, r: {"control": "hips", "at": _shake(c, r), **_stretch(r), "seed": int(r.integers(0, 9)),
                                "up": _one_of(r, 0.0, 0.0, 0.01), "muted": bool(r.random() < 0.2)},
    "drop shake": lambda c, rig, r: {"control": "hips", "at": _shake(c, r) or 1},
    "shake keys": lambda c, rig, r: {"control": "hips", "at": _shake(c, r) or 1},
    "express": lambda c, rig, r: {"frame": _frame(r), "mixed": [{"pose": 1, "share": float(r.uniform(0, 1.5))}]},
    "gaze": lambda c, rig, r: {"control": _looks(r), "at": _gaze(c, r), **_stretch(r), "x": float(r.uniform(-2, 2)),
                               **_one_of(r, {}, {"figure": 6, "to": "head"}, {"to": "arm.L.hand"}), "y": 1.2, "z": 2.0,
                               "lead": int(r.integers(0, 5)), "muted": bool(r.random() < 0.2)},
    "drop gaze": lambda c, rig, r: {"at": _gaze(c, r) or 1},
    "gaze keys": lambda c, rig, r: {"at": _gaze(c, r) or 1},
    "blink": lambda c, rig, r: {"at": _blink(c, r), "start": _frame(r), "pose": _one_of(r, None, 1),
                                "frames": int(r.integers(2, 7))},
    "drop blinks": lambda c, rig, r: {"starts": [_blink(c, r) or 1]},
    "blink keys": lambda c, rig, r: {"at": _blink(c, r) or 1},
    "blink at turns": lambda c, rig, r: {"first": 1, "last": _frame(r) + 1, "least": 0.3},
    "spring": lambda c, rig, r: {"controls": [_hangs(r)], "at": _spring(c, r), **_stretch(r), "weight": 0.5,
                                 "muted": bool(r.random() < 0.2), "ease_out": int(r.integers(0, 5))},
    "drop spring": lambda c, rig, r: {"control": _hangs(r), "at": _spring(c, r) or 1},
    "spring keys": lambda c, rig, r: {"control": _hangs(r), "at": _spring(c, r) or 1},
    "chain mode": lambda c, rig, r: {"control": "body", "frame": _frame(r), "to": "ik"},
    "together": lambda c, rig, r: {"parts": [{"casting": 1, "edit": {"kind": "key", "frame": _frame(r)}}]},
    "clear away": lambda c, rig, r: {"what": [_one_of(r, "plants", "belonging", "layers", "rules")], "anyway": True,
                                     "controls": _some(rig, r)},
    "part sides": lambda c, rig, r: {"start": 1, "end": 1 + 2 * int(r.integers(4, 13))},
    "mend run": lambda c, rig, r: {"fault": _one_of(r, "sunk", "short", "falling"), "first": _frame(r),
                                   "control": _one_of(r, "leg.L.goal", "leg.R.goal"), "last": _frame(r)},
    "make unlike": lambda c, rig, r: {"side": _one_of(r, "L", "R"), "shoulders": 0.1, "late": int(r.integers(0, 4))},
    "fly": lambda c, rig, r: {"at": _frame(r), "frames": _one_of(r, None, 6, 9), "gravity": float(r.uniform(0.2, 1.5))},
    "meet flight": lambda c, rig, r: {"at": _frame(r), "side": _one_of(r, "before", "after"),
                                      "frames": int(r.integers(2, 9))},
    "turn in flight": lambda c, rig, r: {"at": _frame(r)},
    "give": lambda c, rig, r: {"event": _frame(r), "before": bool(r.integers(2)), "drop": float(r.uniform(0.0, 0.3))},
    "knock": lambda c, rig, r: {"control": _one_of(r, "hips", "chest", "head"), "event": _frame(r),
                                "nod": float(r.uniform(-0.5, 0.5)), "twist": float(r.uniform(-0.5, 0.5))},
    "carry-through": lambda c, rig, r: {"event": _frame(r), "frames": int(r.integers(2, 30)), "of": "landing",
                                        "times": int(r.integers(1, 3)), "tilt": float(r.uniform(-0.5, 0.5))},
    "foot down": lambda c, rig, r: {"control": _one_of(r, "leg.L.goal", "leg.R.goal"), "event": _frame(r),
                                    "flat": int(r.integers(1, 5)), "of": "foot down", "speed": 1.0},
    "counter": lambda c, rig, r: {"first": _frame(r), "last": _frame(r), "moving": bool(r.integers(2))},
    "ease turn": lambda c, rig, r: {"first": _frame(r), "last": _frame(r), "friction": float(r.uniform(0.1, 1.0))},
    "borne in motion": lambda c, rig, r: {"first": _frame(r), "last": _frame(r), "free": _columns(c, r)},
    "round mass": lambda c, rig, r: {"first": _frame(r), "last": _frame(r)},
    "go limp": lambda c, rig, r: {"at": _frame(r), "frames": int(r.integers(2, 6)), "legs": float(r.random())},
    "as heavy": lambda c, rig, r: {"at": _frame(r), "way": _one_of(r, "longer", "sooner")},
    "drop answer": lambda c, rig, r: _answer(c, r),
    "answer keys": lambda c, rig, r: _answer(c, r),
    "over feet": lambda c, rig, r: {"first": 1, "last": _frame(r), "free": _columns(c, r)},
    "carry": lambda c, rig, r: {"figure": 6, "controls": _some(rig, r),
                                "way": _one_of(r, "in place", "from here", "along")},
    "touch": lambda c, rig, r: {"frame": _frame(r), "control": _one_of(r, "leg.L.goal", "leg.R.goal"), "met": "ground",
                                "by": _one_of(r, "heel", "ball", "tip"), "keying": _keying(r)},
    "bend knee": lambda c, rig, r: {"frame": _frame(r), "angle": float(r.uniform(0.2, 1.5)), "keying": _keying(r)},
    "smooth arc": lambda c, rig, r: {"control": _one_of(r, "arm.L.goal", "head"), "first": 1, "last": _frame(r)},
    "arc": lambda c, rig, r: {"frame": _frame(r), "control": _one_of(r, "", "arm.L.goal", "head"),
                              "share": float(r.uniform(0, 1)), "bulge": float(r.uniform(-0.5, 0.5)),
                              "keying": _keying(r), "layer": _layer(c) if layers_of(c) else 0},
}  # fmt: skip


def _living(clip: Clip, r: np.random.Generator) -> int | None:
    return _one_of(r, None, *(span.start for span in livings_of(clip)))


def _looks(r: np.random.Generator) -> str:
    return str(_one_of(r, "", "", "chest"))


def _gaze(clip: Clip, r: np.random.Generator) -> int | None:
    return _one_of(r, None, *(span.start for span in gazes_of(clip)))


def _blink(clip: Clip, r: np.random.Generator) -> int | None:
    return _one_of(r, None, *(span.start for span in blinks_of(clip)))


def _hangs(r: np.random.Generator) -> str:
    return str(_one_of(r, "cap", "beard", "coat_front_l"))


def _spring(clip: Clip, r: np.random.Generator) -> int | None:
    laid = [span.start for name in ("cap", "beard", "coat_front_l") for span in springs_of(clip, name)]
    return _one_of(r, None, *laid)


def _answer(clip: Clip, r: np.random.Generator) -> dict[str, Any]:
    laid = [(Track.named(track), span) for track, span in clip.spans() if span.kind in ANSWERS]
    if not laid:
        return {"of": "give", "at": _frame(r)}
    track, span = laid[int(r.integers(len(laid)))]
    return {"of": track.kind, "control": track.about, "at": span.start}


def _shake(clip: Clip, r: np.random.Generator) -> int | None:
    return _one_of(r, None, *(span.start for span in spans_of(clip, Shake, "hips")))


class HistoriesTest(unittest.TestCase):
    def walk(self, seed: int, steps: int = 40) -> tuple[list[Clip], list[Patch]]:
        rng = np.random.default_rng(seed)
        clips, patches = [Clip()], []
        while len(patches) < steps:
            try:
                after = random_edit(clips[-1], rng)
            except BadEdit:
                continue  # a refusal changes nothing, which is all that is asked of it
            patches.append(difference(clips[-1], after))
            clips.append(after)
        return clips, patches

    def test_every_kind_of_edit_takes_part(self) -> None:
        self.assertEqual(set(KINDS), set(KNOWN))
        self.assertEqual({kind.kind for kind in ALL}, set(KNOWN))

    def test_undo_brings_back_every_state_and_redo_every_next_one(self) -> None:
        for seed in range(6):
            clips, patches = self.walk(seed)
            stored = [patch_from_json(patch.to_json()) for patch in patches]
            clip = clips[-1]
            for n in range(len(stored) - 1, -1, -1):
                clip = stored[n].reversed().apply(clip)
                self.assertEqual(clip.to_json(), clips[n].to_json(), (seed, n))
            for n, patch in enumerate(stored):
                clip = patch.apply(clip)
                self.assertEqual(clip.to_json(), clips[n + 1].to_json(), (seed, n))

    def test_what_is_stored_can_always_be_read(self) -> None:
        for seed in (20, 21):
            for clip in self.walk(seed)[0]:
                self.assertEqual(from_json(orjson.loads(orjson.dumps(clip.to_json()))).to_json(), clip.to_json())

    def test_frames_outside_of_the_told_ranges_do_not_move(self) -> None:
        rig = brannoc_rig()
        frames = np.arange(-10, 60)
        for seed in range(3):
            clips, patches = self.walk(seed, 25)
            for before, after, patch in zip(clips, clips[1:], patches, strict=False):
                differ = np.abs(channel_values(rig, before, frames) - channel_values(rig, after, frames)).max(axis=1)
                ranges = moves({5: Figure(rig, after)}, {5: patch})[5]
                for frame in frames[differ > 1e-9]:
                    told = any((a is None or frame >= a) and (b is None or frame <= b) for a, b in ranges)
                    self.assertTrue(told, (seed, frame, ranges))

    def test_keys_lie_on_whole_frames_and_inside_their_limits_always(self) -> None:
        rig = brannoc_rig()
        for clip in self.walk(11, 60)[0][::6]:
            for address, curve in clip.curves.items():
                self.assertTrue((np.diff(curve.frames) > 0).all())
                if address.startswith("#") or any(other.endswith(f"/{address}") for other in clip.curves):
                    continue  # what a layer adds may be anything, and so what is below it; what plays stops at limits
                channel = channel_at(rig, address)
                self.assertFalse(channel is not None and channel.locked, address)
                low, high = bounds_of(channel, address)
                self.assertTrue((curve.values >= low - 1e-9).all() and (curve.values <= high + 1e-9).all())

    def test_moving_a_column_away_and_back_over_free_frames_changes_nothing(self) -> None:
        rig = brannoc_rig()
        ends = (self.walk(seed)[0][-1] for seed in range(4, 20))
        clip = next(clip for clip in ends if not ways_of(clip))  # after a way nothing is keyed as it is
        frames = clip.key_frames(own_curves(clip.curves))
        free = 1000 - frames[-1]
        there = move_columns(clip, rig, [frames[-1]], free)
        self.assertEqual(there.notes, ())
        back = move_columns(there.clip, rig, [1000], -free)
        self.assertEqual(back.clip.to_json(), clip.to_json())

    def test_a_merge_says_how_many_keys_it_replaced(self) -> None:
        rig = brannoc_rig()
        clip = key_pose(key_pose(Clip(), rig, 1).clip, rig, 9).clip
        merged = move_columns(clip, rig, [9], -8)
        lost = clip.key_count() - merged.clip.key_count()
        self.assertIn(f"{lost} keys at frame 1 were replaced", merged.notes[0])
