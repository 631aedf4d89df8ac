"""What is kept of the desk, by person."""

from __future__ import annotations

from django.conf import settings
from django.db import models

EVERYWHERE = 0


class Kept(models.Model):
    """Something that a person keeps: of one shot, by its number, or everywhere."""

    user = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="+")
    shot = models.PositiveBigIntegerField(default=EVERYWHERE)
    name = models.CharField(max_length=40)
    value = models.JSONField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["user", "shot", "name"], name="kept_names")]

    def __str__(self) -> str:
        return self.name
