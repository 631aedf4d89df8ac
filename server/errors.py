"""Refusals that the HTTP interface turns into answers."""

from __future__ import annotations

from typing import Any


class Refused(Exception):
    """The person may see this but not do that."""


class Stale(Exception):
    """An edit was made on an older revision than the take now has."""

    def __init__(self, revision: int, since: list[dict[str, Any]]) -> None:
        made = ", ".join(step["label"] for step in since[:3]) or "other steps"
        super().__init__(f"The take has changed meanwhile ({made}). Nothing was stored; the page catches up.")
        self.revision = revision
        self.since = since
