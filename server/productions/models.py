from __future__ import annotations

from typing import Any

from django.conf import settings
from django.db import models


class Role(models.TextChoices):
    GUEST = "guest", "guest"
    ANIMATOR = "animator", "animator"
    LEAD = "lead", "lead"


class Production(models.Model):
    """A film, a game, a course: what shots and characters belong to."""

    name = models.CharField(max_length=100)
    created_at = models.DateTimeField(auto_now_add=True)
    put_away_at = models.DateTimeField(null=True)
    members: models.ManyToManyField[Any, Any] = models.ManyToManyField(
        settings.AUTH_USER_MODEL, through="Membership", related_name="productions"
    )

    def __str__(self) -> str:
        return self.name


class Membership(models.Model):
    """What a person may do in a production: a guest looks, an animator changes, a lead also invites."""

    production = models.ForeignKey(Production, on_delete=models.CASCADE, related_name="memberships")
    user = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="memberships")
    role = models.CharField(max_length=10, choices=Role.choices, default=Role.GUEST)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["production", "user"], name="one_role_each")]

    def __str__(self) -> str:
        return f"{self.user} in {self.production}: {self.role}"


class Invitation(models.Model):
    """A place in a production for whoever has the account of that name; whether there is one is not told."""

    production = models.ForeignKey(Production, on_delete=models.CASCADE, related_name="invitations")
    account = models.CharField(max_length=150, db_collation="utf8mb4_nopad_bin", help_text="in its one spelling")
    role = models.CharField(max_length=10, choices=Role.choices, default=Role.GUEST)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL, related_name="+")

    class Meta:
        constraints = [models.UniqueConstraint(fields=["production", "account"], name="one_invitation_each")]

    def __str__(self) -> str:
        return f"{self.account} asked into {self.production}: {self.role}"


class DemoPiece(models.Model):
    """A piece of the demo that was laid here once, whatever has become of it since."""

    name = models.CharField(max_length=100, unique=True)
    production = models.ForeignKey(Production, null=True, on_delete=models.SET_NULL, related_name="+")
    laid_at = models.DateTimeField(auto_now_add=True)

    def __str__(self) -> str:
        return self.name
