"""Cases of the core by which the page's model is tested: the same curves, columns and bytes, at many real frames."""

from __future__ import annotations

import base64
from typing import Any

import numpy as np
import orjson
from django.http import HttpResponse

from hame.clip.clip import Clip, difference
from hame.clip.curve import Curve, from_json
from hame.clip.cycle import Cycle
from hame.clip.key import LAST_SHAPE, handles_code
from hame.clip.layers import address_in
from hame.clip.plants import Plant
from hame.clip.played import follows, played_curves, played_spans
from hame.clip.sampling import sample_curve
from hame.clip.spans import track_name, tracks_to_json
from hame.edits.columns import DeleteColumns, MoveColumns
from hame.edits.edit import Edit
from hame.edits.graph import ReshapeKeys
from hame.edits.making import made
from hame.edits.pose import SetPose
from hame.edits.retime import InsertFrames
from hame.evaluate.evaluate import controls, joints
from hame.maths.eases import eased
from hame.measure.keyed import whole_columns
from hame.scene.joined import played
from hame.scene.scene import Figure, Scene
from server.shots.along import with_frames
from server.shots.motion import packed_motion
from server.shots.schemas import FollowOut
from server.shots.stepped import change_told
from tests.hame.examples import brannoc_rig, prop_rig, with_cycle

FEET = "leg.L.goal", "leg.R.goal"


def cases() -> dict[str, Any]:
    rng = np.random.default_rng(2026)
    return {
        "curves": [_curve(_random(rng), rng) for _ in range(60)],
        "eases": [_ease(kind, strength) for kind in range(3, LAST_SHAPE + 1) for strength in (0.0, 0.3, 0.5, 1.0)],
        "reshaped": [_reshaped(rng) for _ in range(40)],
        "clips": [_clip(rng, cycle) for cycle in (None, Cycle(3, 27, True), Cycle(3, 27, True, 99, (0.0, 1.2)),
                                                  Cycle(5, 12, False, 40))],
        "addresses": [{"layer": layer, "own": own, "address": address_in(layer, own)}
                      for layer in (0, 1, 12) for own in ("head/ry", "weight", "arm.L.upper/rx")],
        "motion": _motion(),
        "step": _step(),
        "changes": [_taken(edit) for edit in CHANGES],
    }  # fmt: skip


def _random(rng: np.random.Generator, last: int = 60) -> Curve:
    frames = np.unique(rng.integers(-5, last, rng.integers(1, 9)))
    rows: list[list[float]] = []
    for frame in frames.tolist():
        row = [frame, float(rng.normal(0.0, 0.5)), int(rng.integers(0, LAST_SHAPE + 1))]
        kind = rng.random()
        if kind < 0.3:
            row.append(float(rng.random()))
        elif kind < 0.6:  # handles by hand, some too long for their gap
            code = handles_code(*(int(n) for n in rng.integers(0, 4, 2)), bool(rng.random() < 0.3))
            row += [-float(rng.random() * 20), float(rng.normal()), float(rng.random() * 20), float(rng.normal())]
            row += [code, float(rng.random())]
        rows.append(row)
    return from_json(rows)


def _curve(curve: Curve, rng: np.random.Generator) -> dict[str, Any]:
    frames = np.sort(np.concatenate([rng.uniform(-10, 70, 60), curve.frames, curve.frames + 0.5]))
    return {
        "rows": curve.to_json(), "table": curve.table.tolist(), "frames": frames.tolist(),
        "values": sample_curve(curve, frames).tolist(),
    }  # fmt: skip


def _ease(kind: int, strength: float) -> dict[str, Any]:
    times = np.linspace(0.0, 1.0, 41).tolist()
    return {
        "kind": kind,
        "strength": strength,
        "times": times,
        "values": [float(eased(kind, strength, t)) for t in times],
    }


def _reshaped(rng: np.random.Generator) -> dict[str, Any]:
    rig, address = brannoc_rig(), "head/ry"
    while len(curve := _random(rng)) < 3:
        pass
    count = int(rng.integers(1, len(curve) + 1))
    frames = sorted(int(f) for f in rng.choice(curve.frames, count, replace=False))
    number = lambda size: float(rng.normal(0.0, size))  # noqa: E731
    how = {
        "by_frames": int(rng.integers(-2, 3)), "by": {address: number(0.1)}, "about_frame": float(frames[0]),
        "time": float(rng.uniform(0.5, 1.8)), "about": {address: number(0.2)}, "value": float(rng.uniform(0.2, 1.6)),
        "shear": {address: number(0.01)}, "bend": {address: number(0.1)},
    }  # fmt: skip
    scene = Scene({1: Figure(rig, Clip().with_curves({address: curve}))}, -500, 500)
    after = made(ReshapeKeys(keys={address: tuple(frames)}, **how), scene, 1).clips.get(1, scene.figures[1].clip)  # type: ignore[arg-type]
    return {"address": address, "rows": curve.to_json(), "frames": frames, "how": how, "from": frames[0],
            "to": frames[-1], "table": after.curves[address].table.tolist()}  # fmt: skip


def _clip(rng: np.random.Generator, cycle: Cycle | None) -> dict[str, Any]:
    rig = brannoc_rig()
    channels = ["head/ry", "chest/rx", "arm.L.upper/rx", "arm.R.upper/rx", "leg.L.goal/tz", "leg.R.goal/tz"]
    last = 60 if cycle is None else cycle.start + (cycle.end - cycle.start) // (2 if cycle.echo else 1) - 1
    first = 1 if cycle is None else cycle.start
    curves = {}
    for channel in channels:
        frames = np.unique([first, *rng.integers(first, last + 1, 3)])
        curves[channel] = from_json([[int(f), float(rng.normal()), 2] for f in frames])
    clip = with_cycle(Clip().with_curves(curves), cycle)
    for control in FEET:  # some so long that what shows them again runs into others
        starts = np.unique(rng.integers(first, last + 1, 3)).tolist()
        ends = [min(a + int(rng.integers(0, 9)), b - 1) for a, b in zip(starts, [*starts[1:], last + 9], strict=True)]
        plants = [Plant(a, b) for a, b in zip(starts, ends, strict=True) if b >= a]
        clip = clip.with_tracks({track_name(Plant.kind, control): plants})
    runs = follows(clip)
    seen = sorted({int(f) for c in played_curves(clip, rig).values() for f in c.frames})
    own = set(whole_columns(clip))
    shown = [(f, run.source + f - run.first, run.mirrored) for run in runs for f in range(run.first, run.last + 1)]
    stored = {int(f) for c in curves.values() for f in c.frames}
    poses = sorted(own | {f for f, source, _ in shown if source in own})
    tracks = {track: spans for track, spans in tracks_to_json(clip.tracks).items() if track != Cycle.kind}
    told = {"curves": {a: c.to_json() for a, c in clip.curves.items()}, "pending": {}, "labels": {}, "tracks": tracks,
            "follows": [FollowOut(**vars(run)).model_dump() for run in runs], "poses": whole_columns(clip)}  # fmt: skip
    frames = sorted(stored | {f for f, source, _ in shown if source in stored})
    assert set(frames) <= set(seen), "a frame that is shown has keys as it plays"
    played_plants = played_spans(clip, rig, Plant.kind, -1000, 1000)
    plants_told = {
        control: [(s.start, s.end) for s in played_plants.get(track_name(Plant.kind, control), [])] for control in FEET
    }
    return {"clip": told, "frames": frames, "poses": poses, "shown": shown[:200], "plants": plants_told}


def _motion() -> dict[str, Any]:
    rig, can = brannoc_rig(), prop_rig("oil_can")
    clip = Clip().with_curves({"head/ry": from_json([[1, 0.0, 2], [9, 0.5, 2]])})
    figures = {4: Figure(rig, clip), 9: Figure(can, Clip())}
    posed = played(figures, np.arange(-1, 3))
    told = [
        {"casting": number, "joints": joints(one.rig, one.nodes).ravel().tolist(),
         "controls": controls(one.rig, one.nodes).ravel().tolist(), "values": one.values.ravel().tolist()}
        for number, one in posed.items()
    ]  # fmt: skip
    packed = base64.b64encode(packed_motion(figures, [4, 9], 17, -1, 2)).decode()
    return {"packed": packed, "revision": 17, "first": -1, "figures": told}


CHANGES: tuple[Edit, ...] = (
    InsertFrames(after=4, count=3), InsertFrames(after=4, count=-2), MoveColumns(frames=(9,), by=2),
    MoveColumns(frames=(5,), by=4), DeleteColumns(frames=(5,)), SetPose(frame=9, values={"head/ry": 0.4}),
    ReshapeKeys(keys={"head/ry": (5, 9)}, by={"head/ry": 0.3}),
)  # fmt: skip


def _taken(edit: Edit) -> dict[str, Any]:
    """A clip before and after an edit, and the change as it is told: keys that moved, came, went, gave way."""
    rig = brannoc_rig()
    rows = {
        "head/ry": [[1, 0.0, 2], [5, 0.5, 2], [9, -0.2, 1], [13, 0.1, 2]],
        "chest/rx": [[5, 0.1, 2, 0.5], [9, 0.2, 2, -2.0, 0.1, 3.0, 0.2], [13, 0.1, 2]],
        "body/ty": [[1, 0.0, 2], [13, -0.1, 2]],
    }
    before = Clip().with_curves({address: from_json(keys) for address, keys in rows.items()})
    after = made(edit, Scene({1: Figure(rig, before, "Brannoc")}, 1, 49), 1).clips[1]
    change = orjson.loads(
        orjson.dumps(change_told(difference(before, after), after), option=orjson.OPT_SERIALIZE_NUMPY)
    )
    told = [{"curves": clip.to_json()["curves"], "pending": {}, "labels": {}, "tracks": {}, "follows": [], "poses": []}
            for clip in (before, after)]  # fmt: skip
    return {"before": told[0], "change": change, "after": told[1]["curves"]}


def _step() -> dict[str, Any]:
    """The answer to a step, with frames of a prop in two stretches that came along."""
    figures = {9: Figure(prop_rig("oil_can"), Clip())}
    answer = HttpResponse(b'{"revision": 17, "label": "Turn \xe2\x80\x9clid\xe2\x80\x9d"}')
    stretches = [(3, 5), (8, 8)]
    blocks = [packed_motion(figures, [9], 17, first, last) for first, last in stretches]
    whole = with_frames(answer, blocks).content
    return {"packed": base64.b64encode(whole).decode(), "label": "Turn “lid”", "stretches": stretches}
