"""Work that takes long: asked for by a page, done by a worker process, its result kept for who asked."""

from __future__ import annotations

from django.conf import settings
from django.db import models


class State(models.TextChoices):
    WAITING = "waiting"
    RUNNING = "running"
    DONE = "done"
    FAILED = "failed"
    CANCELLED = "cancelled"


UNFINISHED = (State.WAITING, State.RUNNING)


class Job(models.Model):
    """One piece of work of a kind, with what it was told.

    ``given`` is a file that it works on, ``result`` the file that it made and ``outcome`` what else there is to know of
    that. ``beat_at`` is when its worker was last known to work on it: one that has gone silent has been killed, and
    the job is begun anew. ``tries`` counts how often it was begun.
    """

    maker = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="jobs")
    kind = models.CharField(max_length=40)
    title = models.CharField(max_length=200)
    told = models.JSONField(default=dict)
    given = models.FileField(upload_to="jobs", blank=True)
    state = models.CharField(max_length=10, choices=State, default=State.WAITING)
    share = models.FloatField(default=0.0)
    said = models.TextField(blank=True)
    cancel_wanted = models.BooleanField(default=False)
    result = models.FileField(upload_to="jobs", blank=True)
    media = models.CharField(max_length=80, blank=True)
    name = models.CharField(max_length=200, blank=True)
    outcome = models.JSONField(default=dict)
    tries = models.PositiveIntegerField(default=0)
    made_at = models.DateTimeField(auto_now_add=True)
    beat_at = models.DateTimeField(null=True)
    ended_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ["-id"]

    def __str__(self) -> str:
        return f"{self.title} ({self.state})"
