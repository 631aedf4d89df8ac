"""Asking for jobs, ending them, and keeping what they made."""

from __future__ import annotations

from datetime import timedelta
from typing import Any

from django.core.files.base import ContentFile
from django.db import transaction
from django.utils import timezone
from django_tasks import TaskResultStatus
from django_tasks_db.models import DBTaskResult

from hame.errors import BadEdit
from server.jobs.kinds import KINDS
from server.jobs.models import UNFINISHED, Job, State
from server.jobs.tasks import run_job

MOST_AT_ONCE = 5  # unfinished jobs of one person
KEPT = 20  # of a person: older ones go, with what they made
SILENT = timedelta(seconds=20)
"""So long after its last beat a job is taken for one whose worker was killed."""
MOST_TRIES = 3
REMEMBERED = timedelta(days=1)  # how long the queue keeps what was done


def ask_for(user: Any, kind: str, title: str, told: dict[str, Any], given: bytes = b"") -> Job:
    """Stores a job and has it done as soon as a worker is free.

    Raises
    ------
    BadEdit
        If the person has too many unfinished ones already.
    """
    if kind not in KINDS:
        raise ValueError(f"there is no kind of job called {kind}")
    with transaction.atomic():
        mine = Job.objects.select_for_update().filter(maker=user)
        if mine.filter(state__in=UNFINISHED).count() >= MOST_AT_ONCE:
            raise BadEdit(f"{MOST_AT_ONCE} jobs of yours are not done yet; wait for one, or cancel one")
        made = Job(maker=user, kind=kind, title=title[:200], told=told)
        if given:
            made.given.save("given", ContentFile(given), save=False)
        made.save()
        _enqueue(made)
    prune(user)
    return made


def _enqueue(job: Job) -> None:
    """Queues it in the same transaction: it is there when the job is, and not before."""
    run_job.enqueue(job.pk)


def prune(user: Any) -> None:
    """Lets go what is older than the last that are kept."""
    kept = Job.objects.filter(maker=user).order_by("-id").values_list("id", flat=True)[:KEPT]
    for old in Job.objects.filter(maker=user).exclude(id__in=list(kept)).exclude(state__in=UNFINISHED):
        forget(old)


def cancel(job: Job) -> Job:
    """Ends a job: at once where it waits, and at its next word of progress where it runs. A finished one stays."""
    with transaction.atomic():
        now = Job.objects.select_for_update().get(pk=job.pk)
        if now.state == State.WAITING:
            now.state, now.ended_at = State.CANCELLED, timezone.now()
        if now.state == State.RUNNING:
            now.cancel_wanted = True
        now.save(update_fields=["state", "ended_at", "cancel_wanted"])
    return now


def forget(job: Job) -> None:
    """Deletes a job with its files."""
    for file in (job.given, job.result):
        if file:
            file.delete(save=False)
    job.delete()


def recover() -> int:
    """Begins jobs anew whose worker was killed; says how many. One that kills its worker each time is given up."""
    old = timezone.now() - REMEMBERED
    DBTaskResult.objects.filter(enqueued_at__lt=old).exclude(status=TaskResultStatus.READY).delete()
    found = 0
    lost = Job.objects.filter(state=State.RUNNING, beat_at__lt=timezone.now() - SILENT)
    for number in lost.values_list("id", flat=True):
        with transaction.atomic():
            now = Job.objects.select_for_update().get(pk=number)
            if now.state != State.RUNNING or now.beat_at is None or now.beat_at >= timezone.now() - SILENT:
                continue
            found += 1
            if now.cancel_wanted:
                now.state, now.ended_at = State.CANCELLED, timezone.now()
            elif now.tries >= MOST_TRIES:
                now.state, now.ended_at = State.FAILED, timezone.now()
                now.said = f"the process that did it went away {now.tries} times; ask for less at once"
            else:
                now.state, now.share = State.WAITING, 0.0
                _enqueue(now)
            now.save(update_fields=["state", "share", "said", "ended_at"])
    return found
