from __future__ import annotations

from django.conf import settings
from django.db import models

from server.productions.models import Production


class Character(models.Model):
    """A rigged character of a production; what it is made of stands in its versions.

    ``groups`` are its controls in named groups, as its maker suggests them; null is what is usual.
    """

    production = models.ForeignKey(Production, on_delete=models.CASCADE, related_name="characters")
    name = models.CharField(max_length=100)
    created_by = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL, related_name="+")
    created_at = models.DateTimeField(auto_now_add=True)
    put_away_at = models.DateTimeField(null=True)
    groups = models.JSONField(null=True)

    def __str__(self) -> str:
        return self.name

    @property
    def current(self) -> CharacterVersion:
        return self.versions.latest("number")


class CharacterVersion(models.Model):
    """A file with the body plan its rig is built from. A version that a shot uses never changes.

    ``card`` is what lists show of it (see hame.intake.intake.Card), kept so that listing opens no file.
    """

    character = models.ForeignKey(Character, on_delete=models.CASCADE, related_name="versions")
    number = models.PositiveIntegerField(default=1)
    source = models.FileField(upload_to="characters/source", help_text="the file as it was brought in")
    mesh = models.FileField(
        upload_to="characters/mesh", help_text="the same, made regular: what is drawn and handed off"
    )
    plan = models.JSONField()
    notes = models.JSONField(default=list)
    card = models.JSONField(null=True)
    created_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["character", "number"], name="version_numbers")]

    def __str__(self) -> str:
        return f"{self.character} version {self.number}"
