"""Ways of those who play: told as they are gone, tried before they are laid; how somebody goes, read and kept."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from django.http import HttpRequest
from ninja import Router

from hame.character.rig import Rig
from hame.clip.clip import Clip
from hame.clip.going import Plan, legs_of, plan_of
from hame.clip.quantities import QUANTITIES, TRAITS, quantities_in
from hame.clip.way import Way, ways_of
from hame.edits.making import made
from hame.edits.wayed import reach_of
from hame.errors import BadEdit
from hame.gait.footfalls import STAYS, Footfall
from hame.measure.manner import footfalls_in, manner_of
from hame.scene.joined import played
from hame.scene.scene import Scene
from server.characters import store as characters
from server.productions.access import need, role_in, shared
from server.productions.models import Production, Role
from server.shots import schemas, store
from server.shots.api_takes import find_casting, find_take
from server.shots.looking import counted_frames, ground_in
from server.shots.models import Manner
from server.shots.pace import FRAMES, keep_pace
from server.shots.scenes import cast_of
from server.shots.schemas import FrameNumber
from server.shots.store import castings_of

router = Router(tags=["ways"])
_EVERY, _MOST_PLACES = 0.1, 1500  # metres from a place of a drawn line to the next, and how many there are


@router.get("/takes/{take_id}/ways", response=schemas.WaysOut)
def ways(request: HttpRequest, take_id: int, casting: int, frame: FrameNumber) -> schemas.WaysOut:
    """The ways of one of the cast, and how they are gone at a frame."""
    take = find_take(request, take_id)
    found = find_casting(take, casting)
    return told(characters.rig(found.version), store.open_clip(take, casting), frame)


@router.post("/takes/{take_id}/ways/tried", response=schemas.WaysOut)
def tried(request: HttpRequest, take_id: int, given: schemas.WaysTried) -> schemas.WaysOut:
    """The same as it would be after an edit, which is not made."""
    take = find_take(request, take_id)
    found = find_casting(take, given.casting)
    keep_pace(request.user, FRAMES, 24)
    scene = cast_of(take.shot).scene(lambda number: store.open_clip(take, number))
    clips = made(given.edit, scene, given.casting).clips
    clip = clips.get(given.casting) or store.open_clip(take, given.casting)
    return told(characters.rig(found.version), clip, given.frame)


def told(rig: Rig, clip: Clip, frame: int) -> schemas.WaysOut:
    """What a page is told of the ways of a clip."""
    try:
        legs_of(rig)
        able = ""
    except BadEdit as refusal:
        able = str(refusal)
    return schemas.WaysOut(
        ways=[_way(rig, clip, way, frame) for way in ways_of(clip)],
        quantities=[
            schemas.QuantityOut(name=name, label=q.label, unit=q.said or q.unit, low=q.low, high=q.high)
            for name, q in QUANTITIES.items()
        ],
        keyed=sorted(quantities_in(clip.curves)),
        able=able,
    )


def _way(rig: Rig, clip: Clip, way: Way, frame: int) -> schemas.WayOut:
    wrong = ""
    try:
        plan = plan_of(rig, clip, way)
    except BadEdit as refusal:  # two who changed it at once left what cannot be gone
        wrong = str(refusal)
        plan = plan_of(rig, Clip(), replace(way, hands=(), changed=(), manner=()))
    row = min(max(frame - way.start, 0), plan.end - way.start)
    count = plan.end - way.start + 1

    def along(values: np.ndarray) -> list[float]:
        return [round(float(v), 4) for v in np.concatenate([values, np.full(count, values[-1])])[:count]]

    pace = {name: along(getattr(plan.pace, name)) for name in ("speed", "share", "width", "toe_out", "facing")}
    cadence = along(plan.pace.cadence * way.fps)
    now = {name: values[row] for name, values in pace.items()}
    now |= {"cadence": cadence[row], "together": along(plan.pace.together.astype(float))[row]}
    now |= {name: round(float(getattr(plan.traits, name)[row]), 5) for name in TRAITS}
    return schemas.WayOut(
        start=way.start, end=way.end, begins_with=way.begins_with, lead=way.lead, closed=way.closed, ends=way.ends,
        turn=way.turn, lasts=way.lasts, here=bool(way.stands), level=way.level, gait=way.gait, creature=bool(way.rests),
        length=plan.line.length, line=_line(plan), points=_points(plan), footfalls=_footfalls(rig, plan),
        speed=pace["speed"], cadence=cadence, share=pace["share"],
        together=[bool(v) for v in along(plan.pace.together.astype(float))], manner=dict(way.manner), now=now,
        wrong=wrong,
    )  # fmt: skip


def _line(plan: Plan) -> list[list[float]]:
    """Places along a way, as high as what the footfalls about them lie on."""
    length = plan.line.length
    along = np.linspace(0.0, length, int(np.clip(length / _EVERY, 2, _MOST_PLACES)) + 1)
    places, _ = plan.line.at(along)
    landed = sorted((one.along, high[0]) for one, high in zip(plan.found, plan.lies, strict=True))
    high = np.interp(along, [a for a, _ in landed], [h for _, h in landed]) if landed else np.zeros(len(along))
    return [[round(float(x), 4), round(float(y), 4), round(float(z), 4)]
            for (x, z), y in zip(places, high, strict=True)]  # fmt: skip


def _points(plan: Plan) -> list[schemas.WayPointOut]:
    """Points of a way with their handles as they are, whether they are set or follow."""
    found, pieces = [], plan.line.pieces
    for n, point in enumerate(plan.way.points):
        before = pieces[n - 1] if n or plan.way.closed else None
        after = pieces[n] if n < len(pieces) else None
        into = before[2] - before[3] if before is not None else np.zeros(2)
        out = after[1] - after[0] if after is not None else np.zeros(2)
        found.append(schemas.WayPointOut(
            x=point.place[0], z=point.place[1], into=into.tolist(),
            out=out.tolist(), set_into=point.into is not None, set_out=point.out is not None,
        ))  # fmt: skip
    return found


def _footfalls(rig: Rig, plan: Plan) -> list[schemas.FootfallOut]:
    legs, most = legs_of(rig), reach_of(rig)
    hands = {(hand.number, hand.side): hand for hand in plan.way.hands}
    found: list[schemas.FootfallOut] = []
    before: Footfall | None = None
    for one, lies in zip(plan.found, plan.lies, strict=True):
        if one.first > plan.end:
            continue
        hand = hands.get((one.number, one.side))
        short: float = 0.0
        nearest: list[float] | None = None
        if before is not None and before.last >= one.first and before.side != one.side:
            apart = np.subtract(one.place, before.place)
            far = float(np.hypot(*apart))
            if far > most:
                by = apart * (most / far)
                short = far - most
                nearest = [before.place[0] + float(by[0]), before.place[1] + float(by[1])]
        found.append(schemas.FootfallOut(
            number=one.number, leg=one.side, control=legs[one.side].ik, first=one.first,
            last=min(one.last, plan.end), x=one.place[0], y=lies[0], z=one.place[1], heading=one.heading,
            stays=one.last >= STAYS, set_by_hand=sorted(hand.laid(plan.line).fields) if hand else [], short=short,
            nearest=nearest,
        ))  # fmt: skip
        before = one
    return found


@router.get("/takes/{take_id}/manner", response=schemas.MannerOut)
def manner(
    request: HttpRequest, take_id: int, casting: int, first: FrameNumber, last: FrameNumber
) -> schemas.MannerOut:  # fmt: skip
    """How one of the cast goes on some frames, whatever made the motion."""
    take = find_take(request, take_id)
    find_casting(take, casting)
    keep_pace(request.user, FRAMES, counted_frames(first, last))
    scene: Scene = cast_of(take.shot).scene(lambda number: store.open_clip(take, number))
    playing = {c.pk: scene.figure(c.pk) for c in castings_of(take)}
    posed = played(playing, np.arange(first, last + 1))
    mine, fps = posed[casting], take.shot.fps
    found = footfalls_in(mine.rig, mine.nodes, first, fps, ground_in(take, posed))
    read = manner_of(mine.rig, mine.nodes, found, first, fps)
    plain = {name: float(getattr(read.traits, name)) for name in TRAITS}
    return schemas.MannerOut(
        traits={name: min(max(value, QUANTITIES[name].low), QUANTITIES[name].high) for name, value in plain.items()},
        step=read.step,
        width=read.width,
        on=read.on,
        step_frames=read.step_frames,
        toe_out=read.toe_out,
        speed=read.speed,
        rise=read.rise,
        sway=read.sway,
    )


@router.get("/productions/{production_id}/manners", response=list[schemas.StoredManner])
def manners(request: HttpRequest, production_id: int) -> list[schemas.StoredManner]:
    """How people go, as it is kept in a production; what was put away is left out."""
    role_in(request.user, production_id)
    found = Manner.objects.filter(production_id=production_id, set_aside=False).select_related("made_by")
    return [_manner(one) for one in found]


@router.post("/productions/{production_id}/manners", response=schemas.StoredManner)
def keep_manner(request: HttpRequest, production_id: int, given: schemas.MannerIn) -> schemas.StoredManner:
    """Keeps how somebody goes under a name."""
    need(request.user, production_id, Role.ANIMATOR)
    for name, value in given.traits.items():
        bounds = QUANTITIES.get(name)
        if name not in TRAITS or bounds is None or not bounds.low <= value <= bounds.high:
            raise BadEdit(f"{name} {value:g} is nothing by which somebody goes; nothing was kept")
    name = given.name.strip()
    if not name:
        raise BadEdit("it is kept under a name: type one. Nothing was kept")
    return _manner(Manner.objects.create(
        production=Production.objects.get(pk=production_id), name=name, traits=given.traits,
        made_by_id=request.user.pk,
    ))  # fmt: skip


@router.delete("/manners/{manner_id}", response={204: None})
def put_away(request: HttpRequest, manner_id: int) -> tuple[int, None]:
    """Puts away how somebody goes: it is kept, but no more shown. Ways that are gone so stay as they are."""
    found: Manner = shared(request.user, Manner.objects, "production", pk=manner_id)
    need(request.user, found.production_id, Role.ANIMATOR)
    Manner.objects.filter(pk=found.pk).update(set_aside=True)
    return 204, None


def _manner(one: Manner) -> schemas.StoredManner:
    user = one.made_by
    return schemas.StoredManner(
        id=one.pk, name=one.name, traits=one.traits,
        by=(user.get_full_name() or user.get_username()) if user else "",
    )  # fmt: skip
