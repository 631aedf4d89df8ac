"""Doing a job: run by the worker process, told of by Django's task interface."""

from __future__ import annotations

import logging
import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager

from django.core.files.base import ContentFile
from django.db import close_old_connections, transaction
from django.http import Http404
from django.utils import timezone
from django_tasks import task

from hame.errors import HameError
from server.jobs.kinds import KINDS, Asked, Cancelled, Result
from server.jobs.models import Job, State

_log = logging.getLogger("hame.jobs")
BEAT = 4.0  # seconds between signs of life
TOLD = 0.2  # seconds between two words of progress that are written


@task()
def run_job(number: int) -> None:
    """Does a job that waits; one that was cancelled, is done or runs elsewhere is left as it is."""
    with transaction.atomic():
        job = Job.objects.select_for_update().filter(pk=number).first()
        if job is None or job.state != State.WAITING:
            return
        job.state, job.beat_at, job.tries = State.RUNNING, timezone.now(), job.tries + 1
        job.save(update_fields=["state", "beat_at", "tries"])
    mine = (number, job.tries)
    with _beating(number):
        try:
            given = job.given.open("rb").read() if job.given else b""
            _finish(mine, State.DONE, KINDS[job.kind](Asked(job.maker, job.told, given), _Told(number)))
        except Cancelled:
            _finish(mine, State.CANCELLED)
        except Http404:
            _finish(mine, State.FAILED, said="what it was about is not there any more")
        except HameError as error:
            _finish(mine, State.FAILED, said=str(error))
        except Exception:
            _log.exception("the job %s (%s) failed", number, job.kind)
            _finish(mine, State.FAILED, said="it could not be done; what was stored is kept. Try again")


class _Told:
    """What a job says of itself, written now and then."""

    def __init__(self, number: int) -> None:
        self._number, self._last = number, 0.0

    def __call__(self, share: float, said: str = "") -> None:
        if time.monotonic() - self._last < TOLD:
            return
        self._last = time.monotonic()
        mine = Job.objects.filter(pk=self._number)
        mine.update(share=min(max(share, 0.0), 1.0), said=said[:500], beat_at=timezone.now())
        if not mine.filter(state=State.RUNNING, cancel_wanted=False).exists():
            raise Cancelled("it was cancelled")


def _finish(mine: tuple[int, int], state: State, result: Result | None = None, said: str = "") -> None:
    """Writes how a job ended, of which this is the try that counts."""
    number, tries = mine
    with transaction.atomic():
        job = Job.objects.select_for_update().filter(pk=number).first()
        if job is None or job.state != State.RUNNING or job.tries != tries:
            return  # it was forgotten, or begun anew elsewhere
        if job.cancel_wanted:
            state, result, said = State.CANCELLED, None, ""
        job.state, job.said, job.ended_at = state, said, timezone.now()
        if job.given:  # it may be large, and is of no more use
            job.given.delete(save=False)
        if result is not None:
            job.share, job.outcome = 1.0, result.keep() if result.keep else result.outcome
            if result.data:
                job.name, job.media = result.name, result.media
                job.result.save(f"{number}", ContentFile(result.data), save=False)
        job.save()


@contextmanager
def _beating(number: int) -> Iterator[None]:
    """Signs of life while something works that says nothing for long."""
    ended = threading.Event()

    def beat() -> None:
        while not ended.wait(BEAT):
            try:
                Job.objects.filter(pk=number, state=State.RUNNING).update(beat_at=timezone.now())
            except Exception:  # the database is away; it may be back at the next one
                _log.warning("a sign of life of the job %s could not be written", number)
            finally:
                close_old_connections()

    thread = threading.Thread(target=beat, daemon=True)
    thread.start()
    try:
        yield
    finally:
        ended.set()
        thread.join()
