"""Jobs of the person who is signed in: how far they are, ending them, and what they made."""

from __future__ import annotations

from typing import Any, Literal, cast

from django.http import FileResponse, Http404, HttpRequest, HttpResponse
from ninja import Router, Schema

from server.jobs import store
from server.jobs.models import UNFINISHED, Job, State

router = Router(tags=["jobs"])


class JobOut(Schema):
    """A job: ``share`` of it is done, from 0 to 1; ``file`` tells whether it made one; ``outcome`` is by kind."""

    id: int
    kind: str
    title: str
    state: Literal["waiting", "running", "done", "failed", "cancelled"]
    share: float
    said: str
    file: str
    outcome: dict[str, Any]
    made_at: str


def job_out(job: Job) -> JobOut:
    state = cast(Literal["waiting", "running", "done", "failed", "cancelled"], str(job.state))
    return JobOut(
        id=job.pk, kind=job.kind, title=job.title, state=state, share=job.share, said=job.said,
        file=job.name if job.result else "", outcome=job.outcome, made_at=job.made_at.isoformat(),
    )  # fmt: skip


def _mine(request: HttpRequest, job_id: int) -> Job:
    found = Job.objects.filter(pk=job_id, maker_id=request.user.pk).first()
    if found is None:
        raise Http404
    return found


@router.get("/jobs", response=list[JobOut])
def jobs(request: HttpRequest, kind: str = "") -> list[JobOut]:
    """One's own jobs, latest first; of one kind, if wished."""
    mine = Job.objects.filter(maker_id=request.user.pk)
    return [job_out(job) for job in (mine.filter(kind=kind) if kind else mine)[: store.KEPT]]


@router.get("/jobs/{job_id}", response=JobOut)
def job(request: HttpRequest, job_id: int) -> JobOut:
    return job_out(_mine(request, job_id))


@router.post("/jobs/{job_id}/cancel", response=JobOut)
def cancel(request: HttpRequest, job_id: int) -> JobOut:
    """Ends a job. One that is finished stays what it is."""
    return job_out(store.cancel(_mine(request, job_id)))


@router.delete("/jobs/{job_id}", response={204: None})
def forget(request: HttpRequest, job_id: int) -> tuple[int, None]:
    """Lets a finished job go, with what it made; an unfinished one is cancelled first."""
    found = _mine(request, job_id)
    if found.state in UNFINISHED:
        found = store.cancel(found)
    if found.state != State.RUNNING:
        store.forget(found)
    return 204, None


@router.get("/jobs/{job_id}/file", include_in_schema=False)
def file(request: HttpRequest, job_id: int) -> HttpResponse:
    """The file that a job made."""
    found = _mine(request, job_id)
    if not found.result:
        raise Http404
    answer = FileResponse(found.result.open("rb"), as_attachment=True, filename=found.name, content_type=found.media)
    return cast(HttpResponse, answer)
