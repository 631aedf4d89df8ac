"""Telling open sockets that what they may has changed. They look it up anew; who may not look any more is let go."""

from __future__ import annotations

import hashlib
from typing import Any

from server.telling import tell


def session_group(session_key: str) -> str:
    """The sockets of one sign-in. Named by a digest, since the key itself is a secret."""
    return "session." + hashlib.sha256(session_key.encode()).hexdigest()[:40]


def person_group(user_id: Any) -> str:
    """The sockets of one person."""
    return f"person.{user_id}"


def leave(group: str) -> None:
    """Closes the sockets of a group."""
    tell(group, {"type": "rights.gone"})


def look_again(group: str) -> None:
    """Has the sockets of a group look up what they may."""
    tell(group, {"type": "rights.changed"})
