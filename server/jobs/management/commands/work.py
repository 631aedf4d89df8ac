"""``manage.py work``: does jobs, one after the other, until whoever started it goes."""

from __future__ import annotations

import logging
import os
import threading
import time
from typing import Any

from django.core.management.base import BaseCommand
from django.db import close_old_connections
from django.urls import get_resolver
from django.utils.crypto import get_random_string
from django_tasks_db.management.commands.db_worker import Worker

from server.jobs.store import recover

_log = logging.getLogger("hame.jobs")
NICER = 5
EVERY = 5.0  # seconds between looks for jobs whose worker was killed
OFTEN = 0.3  # seconds between looks for new ones


class Command(BaseCommand):
    help = "Does jobs, one after the other, until whoever started it goes."

    def handle(self, *args: Any, **options: Any) -> None:
        os.nice(NICER)
        len(get_resolver().url_patterns)  # which loads all apps' kinds of job
        started_by = os.getppid()
        threading.Thread(target=_watch, args=(started_by,), daemon=True).start()
        worker = Worker(
            queue_names=["default"], interval=OFTEN, batch=False, backend_name="default", startup_delay=False,
            max_tasks=None, worker_id=get_random_string(32), excluded_queue_names=[],
        )  # fmt: skip
        worker.configure_signals()
        worker.run()


def _watch(started_by: int) -> None:
    """Begins lost jobs anew, and ends this process when it is an orphan."""
    looked = -EVERY
    while os.getppid() == started_by:
        if time.monotonic() - looked >= EVERY:
            looked = time.monotonic()
            try:
                recover()
            except Exception:
                _log.exception("lost jobs could not be looked for")
            finally:
                close_old_connections()
        time.sleep(1.0)
    os._exit(0)
