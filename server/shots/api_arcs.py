"""Paths that are looked at, timing charts, and how alike the sides of a figure go."""

from __future__ import annotations

from dataclasses import asdict
from itertools import pairwise

from django.http import HttpRequest
from ninja import Query, Router

from hame.clip.layers import curves_in, own_curves
from hame.errors import BadEdit
from hame.measure.bumps import bumps, flips, idle
from hame.measure.favour import chart_of
from hame.measure.likeness import lags, likeness
from hame.scene.traced import Thing, node_of
from server.characters import store as characters
from server.productions.models import Role
from server.rows import changing, merged
from server.shots import schemas, store
from server.shots.api_takes import find_casting, find_take
from server.shots.looking import counted_frames
from server.shots.models import Take
from server.shots.pace import FRAMES, keep_pace
from server.shots.scenes import cast_of
from server.shots.schemas import FrameNumber

router = Router(tags=["arcs"])
MOST_BUMPS = 200
MOST_GAPS = 60


@router.get("/takes/{take_id}/paths", response=list[schemas.PathOut])
def paths(request: HttpRequest, take_id: int) -> list[schemas.PathOut]:
    """The paths that are looked at in a take, each with what its rig lacks for it, if anything."""
    take = find_take(request, take_id)
    return [schemas.PathOut(**{**path, "lacks": _lacks(take, path)}) for path in take.paths]


@router.put("/takes/{take_id}/paths", response=list[schemas.PathOut])
def keep_paths(request: HttpRequest, take_id: int, given: schemas.PathsIn) -> list[schemas.PathOut]:
    """Stores which paths are looked at; all who have the take open see the same ones."""
    take = find_take(request, take_id, Role.ANIMATOR)
    known = {(p["casting"], p["name"], p["joint"], p["within"]) for p in take.paths}
    for path in given.paths:
        found = path.dict()
        lacks = _lacks(take, found)
        # One that was drawn before the rig changed stays listed, so that it can be taken away or mapped.
        if lacks and (path.casting, path.name, path.joint, path.within) not in known:
            raise BadEdit(f"{lacks}. Nothing was stored")
    with changing(take) as now:
        wished = [path.dict() for path in given.paths]
        was = now.paths if given.was is None else [path.dict() for path in given.was]
        now.paths = merged(now.paths, was, wished, lambda p: (p["casting"], p["name"], p["joint"], p["within"]))
        if len(now.paths) > schemas.MOST_PATHS:
            raise BadEdit(f"with what others draw these are more than {schemas.MOST_PATHS} paths; nothing was stored")
    take.paths = now.paths
    store.announce(take.pk, {"type": "paths.changed"})
    return [schemas.PathOut(**{**path, "lacks": _lacks(take, path)}) for path in take.paths]


def _lacks(take: Take, path: dict[str, object]) -> str:
    """What stands in the way of a path: an empty string where nothing does."""
    cast = cast_of(take.shot).castings
    casting = cast.get(path["casting"])  # type: ignore[call-overload]
    if casting is None or casting.taken_out_at is not None:
        return "the path is of somebody who does not play in this shot any more"
    rig = characters.rig(casting.version)
    try:
        node_of(rig, Thing(casting.pk, str(path["name"]), bool(path["joint"])))
        if path["within"] and path["within"] != schemas.CAMERA:
            node_of(rig, Thing(casting.pk, str(path["within"])))
    except BadEdit as error:
        return str(error)
    return ""


@router.get("/takes/{take_id}/chart", response=schemas.ChartOut)
def chart(
    request: HttpRequest,
    take_id: int,
    casting: int,
    first: FrameNumber,
    last: FrameNumber,
    control: Query[list[str] | None] = None,
) -> schemas.ChartOut:
    """How far each frame of a gap stands between the poses at its ends, of some controls or (none named) the whole."""
    take = find_take(request, take_id)
    found = find_casting(take, casting)
    keep_pace(request.user, FRAMES, counted_frames(first, last))
    told = chart_of(characters.rig(found.version), store.open_clip(take, casting), first, last, control or None)
    return schemas.ChartOut(
        first=told.first, last=told.last, favours=told.favours.tolist(), spread=told.spread.tolist()
    )


@router.get("/takes/{take_id}/charts", response=list[schemas.ChartOut])
def charts(request: HttpRequest, take_id: int, casting: int, frame: Query[list[int]]) -> list[schemas.ChartOut]:
    """The charts of the gaps between frames, of the whole body; gaps in which nothing goes any way are left out."""
    take = find_take(request, take_id)
    found = find_casting(take, casting)
    frames = sorted(set(frame))
    if not 2 <= len(frames) <= MOST_GAPS:
        raise BadEdit(f"charts are told of 2 to {MOST_GAPS} frames")
    keep_pace(request.user, FRAMES, counted_frames(frames[0], frames[-1]))
    rig, clip = characters.rig(found.version), store.open_clip(take, casting)
    told = []
    for first, last in pairwise(frames):
        try:
            chart = chart_of(rig, clip, first, last)
        except BadEdit:
            continue
        told.append(
            schemas.ChartOut(first=first, last=last, favours=chart.favours.tolist(), spread=chart.spread.tolist())
        )
    return told


@router.get("/takes/{take_id}/curves", response=schemas.CurvesOut)
def curves(
    request: HttpRequest, take_id: int, casting: int, first: FrameNumber, last: FrameNumber, layer: int = 0
) -> schemas.CurvesOut:
    """What is abrupt in the curves of one of the cast, turns that flip, and channels whose keys say nothing."""
    take = find_take(request, take_id)
    rig = characters.rig(find_casting(take, casting).version)
    keep_pace(request.user, FRAMES, counted_frames(first, last))
    clip = store.open_clip(take, casting)
    mine = curves_in(clip.curves, layer) if layer else own_curves(clip.curves)
    prefix = f"#{layer}/" if layer else ""
    return schemas.CurvesOut(
        bumps=[
            schemas.BumpOut(address=prefix + b.address, frame=b.frame, amount=b.amount, times=b.times)
            for b in bumps(mine, rig, first, last)[:MOST_BUMPS]
        ],
        flips=[schemas.FlipOut(**asdict(flip)) for flip in (flips(clip, rig) if not layer else [])],
        idle=[schemas.IdleOut(address=prefix + i.address, value=i.value, at_rest=i.at_rest) for i in idle(mine, rig)],
    )


@router.get("/takes/{take_id}/alike", response=schemas.AlikeOut)
def alike(request: HttpRequest, take_id: int, casting: int, first: FrameNumber, last: FrameNumber) -> schemas.AlikeOut:
    """How alike left and right go over a cycle, and which parts lead and which trail."""
    take = find_take(request, take_id)
    rig = characters.rig(find_casting(take, casting).version)
    keep_pace(request.user, FRAMES, counted_frames(first, last))
    clip = store.open_clip(take, casting)
    if rig.plan.is_prop:
        return schemas.AlikeOut(parts=[], lags=[], said="a prop has no sides")
    try:
        parts, said = likeness(rig, clip, first, last), ""
    except BadEdit as error:
        parts, said = [], str(error)
    return schemas.AlikeOut(
        parts=[schemas.SidesOut(**asdict(part)) for part in parts],
        lags=[schemas.LagOut(**asdict(lag)) for lag in lags(rig, clip, first, last)],
        said=said,
    )
