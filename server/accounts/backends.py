"""Signing in with a password, slowed down after wrong ones. The admin's own page goes this way too."""

from __future__ import annotations

from typing import Any

from django.contrib.auth.backends import ModelBackend
from django.core.exceptions import PermissionDenied
from django.http import HttpRequest

from server.accounts import tries


class SlowedBackend(ModelBackend):
    def authenticate(
        self, request: HttpRequest | None, username: str | None = None, password: str | None = None, **more: Any
    ) -> Any:
        """The account, or None. Raises PermissionDenied, with ``request.wait`` set to seconds, when it is too early."""
        if request is None or username is None:
            return super().authenticate(request, username=username, password=password, **more)
        address, account = str(request.META.get("REMOTE_ADDR", "")), tries.account_key(username)
        wait = tries.wait_for(address, account)
        if wait:
            request.wait = wait  # type: ignore[attr-defined]
            raise PermissionDenied
        user = super().authenticate(request, username=username, password=password, **more)
        if user is not None:
            tries.forgive(address, account)
        return user
