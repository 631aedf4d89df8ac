"""Telling open sockets that what they may has changed. They look it up anew; who may not look any more is let go."""

from __future__ import annotations

import hashlib
from typing import Any

from asgiref.sync import async_to_sync
from channels.layers import get_channel_layer


def session_group(session_key: str) -> str:
    """The sockets of one sign-in. Named by a digest, since the key itself is a secret."""
    return "session." + hashlib.sha256(session_key.encode()).hexdigest()[:40]


def person_group(user_id: Any) -> str:
    """The sockets of one person."""
    return f"person.{user_id}"


def leave(group: str) -> None:
    """Closes the sockets of a group."""
    _send(group, {"type": "rights.gone"})


def look_again(group: str) -> None:
    """Has the sockets of a group look up what they may."""
    _send(group, {"type": "rights.changed"})


def _send(group: str, message: dict[str, Any]) -> None:
    layer = get_channel_layer()
    if layer is not None:
        async_to_sync(layer.group_send)(group, message)
