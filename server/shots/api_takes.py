"""Takes: their motion, the edits that change it, and their history."""

from __future__ import annotations

import re
from collections.abc import Iterable
from typing import Any

import orjson
from django.http import HttpRequest, HttpResponse
from ninja import Router

from hame.clip.clip import Clip, Patch, patch_from_json
from hame.clip.curve import packed_rows
from hame.errors import BadEdit
from hame.evaluate.evaluate import channel_values, evaluate, joints
from hame.formats.gltf_write import write_character
from hame.measure.keyed import unkeyed
from hame.measure.seam import seam
from server.characters import store as characters
from server.productions.access import need, shared
from server.productions.models import Role
from server.shots import schemas, store
from server.shots.api import find_shot
from server.shots.edits import function_of, label_of
from server.shots.models import Casting, Edit, Take
from server.shots.motion import packed_motion, packed_pending

router = Router(tags=["takes"])


def _take(request: HttpRequest, take_id: int, role: Role = Role.GUEST) -> Take:
    take: Take = shared(request.user, Take.objects.select_related("shot"), "shot__production", pk=take_id)
    need(request.user, take.shot.production_id, role)
    return take


def _casting(take: Take, casting_id: int) -> Casting:
    casting = Casting.objects.select_related("version", "shot").filter(pk=casting_id, shot_id=take.shot_id).first()
    if casting is None:
        raise BadEdit("this character does not play in the shot of this take")
    return casting


def _undo_state(take: Take) -> dict[str, bool]:
    return {"can_undo": take.head_id is not None, "can_redo": take.tip_id is not None and take.tip_id != take.head_id}


def _change(patch: Patch, now: Clip) -> dict[str, Any]:
    """A :class:`schemas.ClipChange`, ready to be written."""
    return {
        "curves": {
            ch: {"removed": rows.removed[:, 0].astype(int).tolist(), "rows": packed_rows(rows.added), "whole": False}
            for ch, rows in patch.curves.items()
        },
        "pending": {str(f): None if new is None else dict(new) for f, (_, new) in patch.pending.items()},
        "ranges": [list(span) for span in patch.ranges],
        **now.to_json_marks(),
    }


def _answer(take: Take, label: str, notes: Iterable[str], clips: dict[str, Any]) -> HttpResponse:
    """A :class:`schemas.StepDone`. It can hold ten thousand keys, so it is written as it is, without being checked again."""
    body = {"revision": take.revision, "label": label, "notes": list(notes), "clips": clips, **_undo_state(take)}
    return HttpResponse(orjson.dumps(body, option=orjson.OPT_SERIALIZE_NUMPY), content_type="application/json")


def _done(label: str, committed: store.Committed) -> HttpResponse:
    clips = {str(c): _change(patch, committed.clips[c]) for c, patch in committed.patches.items()}
    return _answer(committed.take, label, committed.notes, clips)


@router.post("/shots/{shot_id}/takes", response=schemas.TakeSummary)
def make_take(request: HttpRequest, shot_id: int, given: schemas.TakeIn) -> schemas.TakeSummary:
    """A new take: empty, or with the motion of another one of the shot."""
    shot = find_shot(request, shot_id)
    need(request.user, shot.production_id, Role.ANIMATOR)
    if given.source is None:
        take = Take.objects.create(shot=shot, name=given.name.strip(), created_by_id=request.user.pk)
    else:
        source = shot.takes.filter(pk=given.source).first()
        if source is None:
            raise BadEdit("the take to start from does not belong to this shot")
        take = store.copy_take(source, given.name.strip(), request.user)
    return schemas.TakeSummary(
        id=take.pk, name=take.name, revision=take.revision, changed_at=take.changed_at.isoformat()
    )


@router.patch("/takes/{take_id}", response=schemas.TakeSummary)
def rename_take(request: HttpRequest, take_id: int, given: schemas.TakeChange) -> schemas.TakeSummary:
    take = _take(request, take_id, Role.ANIMATOR)
    take.name = given.name.strip()
    take.save(update_fields=["name"])
    return schemas.TakeSummary(
        id=take.pk, name=take.name, revision=take.revision, changed_at=take.changed_at.isoformat()
    )


@router.get("/takes/{take_id}", response=schemas.TakeOut)
def take(request: HttpRequest, take_id: int) -> schemas.TakeOut:
    found = _take(request, take_id)
    clips = {str(c.pk): schemas.ClipOut(**store.open_clip(found, c.pk).to_json()) for c in store.castings_of(found)}
    return schemas.TakeOut(
        id=found.pk, name=found.name, shot_id=found.shot_id, revision=found.revision, clips=clips, **_undo_state(found)
    )


@router.get("/takes/{take_id}/changes", response=schemas.StepDone)
def changes(request: HttpRequest, take_id: int, since: int) -> HttpResponse:
    """Everything that a page at revision ``since`` lacks."""
    found = _take(request, take_id)
    happened = store.since(found, since)
    clips: dict[str, Any] = {}
    for casting in store.castings_of(found):
        patches = [patch_from_json(c.edit.patch) for c in happened if c.edit.casting_id == casting.pk]
        if not patches:
            continue
        now = store.open_clip(found, casting.pk)
        clips[str(casting.pk)] = {
            "curves": {
                ch: {
                    "removed": [],
                    "rows": packed_rows(now.curves[ch].table) if ch in now.curves else [],
                    "whole": True,
                }
                for ch in {channel for patch in patches for channel in patch.curves}
            },
            "pending": {
                str(f): dict(now.pending[f]) if f in now.pending else None
                for f in {frame for patch in patches for frame in patch.pending}
            },
            "ranges": [list(span) for patch in patches for span in patch.ranges],
            **now.to_json_marks(),
        }
    return _answer(found, happened[-1].edit.label if happened else "", (), clips)


@router.post("/takes/{take_id}/edits", response=schemas.StepDone)
def edit(request: HttpRequest, take_id: int, given: schemas.EditIn) -> HttpResponse:
    """Commits one step. 409 when the take is at another revision: nothing is stored then."""
    found = _take(request, take_id, Role.ANIMATOR)
    casting = _casting(found, given.casting)
    rig = characters.rig(casting.version)
    label, change = label_of(given.edit, rig, casting), function_of(given.edit, rig, casting)
    committed = store.commit(take_id, casting.pk, given.revision, request.user, label, change)
    return _done(label, committed)


@router.post("/takes/{take_id}/undo", response=schemas.StepDone)
def undo(request: HttpRequest, take_id: int, given: schemas.Revised) -> HttpResponse:
    take = store.with_ends(_take(request, take_id, Role.ANIMATOR))
    label = f"Undone: {take.head.label}" if take.head else ""
    return _done(label, store.go_to(take_id, given.revision, request.user, store.one_back))


@router.post("/takes/{take_id}/redo", response=schemas.StepDone)
def redo(request: HttpRequest, take_id: int, given: schemas.Revised) -> HttpResponse:
    _take(request, take_id, Role.ANIMATOR)
    committed = store.go_to(take_id, given.revision, request.user, store.one_forth)
    head = committed.take.head
    return _done(f"Redone: {head.label}" if head else "", committed)


@router.post("/takes/{take_id}/goto", response=schemas.StepDone)
def go_to(request: HttpRequest, take_id: int, given: schemas.GoTo) -> HttpResponse:
    """Goes to the state after any step of the history, also one that was set aside; null: the beginning."""
    _take(request, take_id, Role.ANIMATOR)

    def target(take: Take) -> Edit | None:
        if given.step is None:
            return None
        step = Edit.objects.filter(take=take, pk=given.step).first()
        if step is None:
            raise BadEdit("this step does not belong to this take")
        return step

    return _done("Went to a step of the history", store.go_to(take_id, given.revision, request.user, target))


@router.get("/takes/{take_id}/history", response=list[schemas.HistoryStep])
def history(request: HttpRequest, take_id: int, limit: int = 300) -> list[schemas.HistoryStep]:
    """The latest steps, newest first: done, undone (redo leads there), or set aside by later ones."""
    found = store.with_ends(_take(request, take_id))
    done = {step.pk for step in store.line_to(found.head)}
    ahead = {step.pk for step in store.line_to(found.tip)} - done
    steps = found.edits.select_related("user").defer("patch").order_by("-id")[: min(max(limit, 1), 2000)]
    return [
        schemas.HistoryStep(
            id=s.pk, label=s.label, by=(s.user.get_full_name() or s.user.get_username()) if s.user else "",
            at=s.made_at.isoformat(), head=s.pk == found.head_id,
            state="done" if s.pk in done else "undone" if s.pk in ahead else "aside",
        )
        for s in steps
    ]  # fmt: skip


@router.get("/takes/{take_id}/checks", response=schemas.ChecksOut)
def checks(request: HttpRequest, take_id: int, casting: int, first: int, last: int) -> schemas.ChecksOut:
    """What a blocked take lacks, and what does not close when ``first`` to ``last`` is looped."""
    found = _take(request, take_id)
    rig = characters.rig(_casting(found, casting).version)
    clip = store.open_clip(found, casting)
    lacking = unkeyed(clip, rig)
    joins = seam(clip, rig, first, last) if last > first else []
    return schemas.ChecksOut(
        missing={str(frame): names for frame, names in lacking.missing.items()}, late=lacking.late,
        joins=[schemas.JoinOut(address=j.address, first=j.first, last=j.last, jumps=j.jumps) for j in joins],
    )  # fmt: skip


@router.get("/takes/{take_id}/motion", include_in_schema=False)
def motion(request: HttpRequest, take_id: int, casting: int, first: int, last: int) -> HttpResponse:
    """Frames as they play, as bytes (see :mod:`server.shots.motion`)."""
    found = _take(request, take_id)
    rig = characters.rig(_casting(found, casting).version)
    body = packed_motion(rig, store.open_clip(found, casting), found.revision, first, last)
    return HttpResponse(body, content_type="application/octet-stream")


@router.get("/takes/{take_id}/pending", include_in_schema=False)
def pending(request: HttpRequest, take_id: int, casting: int, frame: int) -> HttpResponse:
    """One frame with its pending pose, as bytes."""
    found = _take(request, take_id)
    rig = characters.rig(_casting(found, casting).version)
    body = packed_pending(rig, store.open_clip(found, casting), found.revision, frame)
    return HttpResponse(body, content_type="application/octet-stream")


@router.get("/takes/{take_id}/handoff.glb", include_in_schema=False)
def hand_off(request: HttpRequest, take_id: int, casting: int, first: int, last: int) -> HttpResponse:
    """A character with its motion, sampled at every frame from ``first`` to ``last``, as glTF."""
    found = _take(request, take_id)
    cast = _casting(found, casting)
    if not 0 <= last - first < 5000:
        raise BadEdit("the hand-off needs between 1 and 5000 frames, the first before the last")
    rig, read = characters.rig(cast.version), characters.read(cast.version)
    values = channel_values(rig, store.open_clip(found, casting), range(first, last + 1))
    motion = joints(rig, evaluate(rig, values))
    body = write_character(cast.name, rig.skeleton, read.skin, motion, found.shot.fps, found.name)
    response = HttpResponse(body, content_type="model/gltf-binary")
    name = re.sub(r"[^\w.-]+", "-", f"{found.shot.name}-{found.name}-{cast.name}").strip("-").lower() or "take"
    response["Content-Disposition"] = f'attachment; filename="{name}.glb"'
    return response
