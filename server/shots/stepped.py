"""What a step did, or all that a page lacks, as it is told."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import asdict
from typing import Any

import numpy as np
import orjson
from django.http import HttpResponse

from hame.clip.clip import Clip, Patch
from hame.clip.key import FRAME
from hame.clip.played import follows
from hame.clip.rows import packed_rows
from hame.clip.spans import Reach, tracks_to_json
from hame.measure.keyed import whole_columns
from hame.scene.joined import moves
from hame.scene.scene import Figure
from server.shots import history, store
from server.shots import since as since_then
from server.shots.along import frames_along, with_frames
from server.shots.clips import one_moment
from server.shots.models import Take
from server.shots.scenes import Cast, cast_of


def undo_state(take: Take) -> dict[str, bool]:
    return {"can_undo": take.head_id is not None, "can_redo": history.can_redo(store.with_ends(take))}


def marks(now: Clip, labels: bool = True, tracks: bool = True) -> dict[str, Any]:
    """What a :class:`schemas.ClipChange` and a :class:`schemas.ClipOut` say of labels, spans and poses."""
    return {
        "labels": {str(f): {**label.to_json(), "opposite": label.opposite} for f, label in now.labels.items()}
        if labels
        else None,
        "tracks": tracks_to_json(now.tracks) if tracks else None,
        "follows": [asdict(run) for run in follows(now)] if tracks else None,
        "poses": whole_columns(now),
    }


def change_told(patch: Patch, now: Clip) -> dict[str, Any]:
    """A :class:`schemas.ClipChange`, ready to be written."""
    return {
        "all": False,
        "curves": {
            ch: {
                "removed": rows.removed[:, FRAME].astype(np.int64),
                "rows": patch.added.get(ch, []),
                "whole": False,
                "moved": patch.moved_to.get(ch),
            }
            for ch, rows in patch.curves.items()
        },
        "pending": {str(f): None if new is None else dict(new) for f, (_, new) in patch.pending.items()},
        **marks(now, bool(patch.labels), bool(patch.tracks)),
    }


def _answer(
    take: Take, label: str, notes: Iterable[str], clips: dict[str, Any], moves: Mapping[int, Iterable[Reach]]
) -> HttpResponse:
    """A :class:`schemas.StepDone`. It can hold ten thousand keys, so it is written as it is, and not checked again."""
    body = {
        "revision": take.revision, "label": label, "notes": list(notes), "clips": clips,
        "moves": {str(casting): [list(reach) for reach in ranges] for casting, ranges in moves.items()},
        **undo_state(take),
    }  # fmt: skip
    return HttpResponse(orjson.dumps(body, option=orjson.OPT_SERIALIZE_NUMPY), content_type="application/json")


def step_done(
    committed: store.Committed, since: int, looked: int | None = None, cast: Cast | None = None
) -> HttpResponse:
    """The answer to a step: what it changed, or where more has happened since the page looked, all of that.

    To a page that says which frame it looks at, the frames that the step changed come along.
    """
    if committed.caught_up:
        answer = caught_up_told(committed.take, since, committed.label, committed.notes)
        return answer if looked is None else with_frames(answer, [])
    clips = {str(c): change_told(patch, committed.clips[c]) for c, patch in committed.patches.items()}
    cast = cast or cast_of(committed.take.shot)
    figures = _playing(committed.take, committed.clips, cast)
    moved = moves(figures, committed.patches)
    answer = _answer(committed.take, committed.label, committed.notes, clips, moved)
    if looked is None:
        return answer
    return with_frames(answer, frames_along(figures, moved, committed.take.revision, cast.shot, looked))


def _playing(take: Take, known: Mapping[int, Clip], cast: Cast | None = None) -> dict[int, Figure]:
    """All who play in a take, with the clips that are known already."""
    cast = cast or cast_of(take.shot)
    playing = [n for n, casting in cast.castings.items() if casting.taken_out_at is None]
    others = store.open_clips(take, [n for n in playing if n not in known])
    figures = cast.scene({**others, **known}.__getitem__).figures
    return {number: figures[number] for number in {*playing, *known}}


def caught_up_told(take: Take, since: int, label: str = "", notes: Iterable[str] = ()) -> HttpResponse:
    """Everything that a page at revision ``since`` lacks; whole clips where that is much."""
    clips: dict[str, Any] = {}
    moved: dict[int, list[Reach]] = {}
    # Read at one moment, so that what is told as happened and the clips agree.
    with one_moment():
        take.refresh_from_db(fields=["revision", "head", "tip"])
        happened = since_then.missed(take, since)
        castings = {casting for m in happened for casting in m.castings}
        if since_then.much(happened):
            castings = {casting.pk for casting in store.castings_of(take)}
            for casting, now in store.open_clips(take, castings).items():
                clips[str(casting)], moved[casting] = _whole(now), [(None, None)]
        else:
            opened = store.open_clips(take, castings)
            patches = since_then.patches_of(happened)
            for casting in castings:
                mine = [patch[casting] for patch in patches if casting in patch]
                clips[str(casting)] = _since(mine, opened[casting])
            playing = _playing(take, opened)
            for patch in reversed(patches):  # each on what it led to: step by step back from how it is now
                for casting, ranges in moves(playing, patch).items():
                    moved.setdefault(casting, []).extend(ranges)
                back = since_then.reversed_by_figure(patch)
                playing |= {n: playing[n].with_clip(one.apply(playing[n].clip)) for n, one in back.items()}
    return _answer(take, label or (happened[-1].label if happened else ""), notes, clips, moved)


def _since(patches: list[Patch], now: Clip) -> dict[str, Any]:
    """A :class:`schemas.ClipChange` of several patches: each curve they touched, whole as it is now."""
    return {
        "all": False,
        "curves": {
            ch: {"removed": [], "rows": packed_rows(now.curves[ch].table) if ch in now.curves else [], "whole": True}
            for ch in {channel for patch in patches for channel in patch.curves}
        },
        "pending": {
            str(f): dict(now.pending[f]) if f in now.pending else None
            for f in {frame for patch in patches for frame in patch.pending}
        },
        **marks(now),
    }


def _whole(now: Clip) -> dict[str, Any]:
    """A :class:`schemas.ClipChange` that is all there is of a clip."""
    return {
        "all": True,
        "curves": {ch: {"removed": [], "rows": packed_rows(c.table), "whole": True} for ch, c in now.curves.items()},
        "pending": {str(f): dict(values) for f, values in now.pending.items()},
        **marks(now),
    }
