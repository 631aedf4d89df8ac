"""Refusals that the HTTP interface turns into answers."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any


class Refused(Exception):
    """The person may see this but not do that."""


class TooMany(Exception):
    """Too much was asked for in a short time; ``wait`` is after how many seconds to ask again."""

    def __init__(self, message: str, wait: int) -> None:
        super().__init__(message)
        self.wait = wait


class NotTheirs(Exception):
    """A step is of somebody else than who is signed in now; it was not stored, and waits for them."""

    def __init__(self, whose: str) -> None:
        super().__init__(f"This step was made by {whose}, and somebody else is signed in now. It was not stored")
        self.whose = whose


class Stale(Exception):
    """A step was made on an older revision than the take now has, and cannot be made on the newer one unseen.

    Attributes
    ----------
    revision : of the take now
    since : what happened, each with label, done, by and revision
    clash : of that, what has to do with the step
    """

    def __init__(self, revision: int, since: Sequence[dict[str, Any]], clash: Sequence[dict[str, Any]]) -> None:
        made = " and ".join(f"{step['by'] or 'somebody'}'s “{step['label']}”" for step in list(clash)[-3:])
        super().__init__(
            f"The take has changed meanwhile: {made or 'much was done'}. Your step was not made, since it has to do "
            "with the same; you see the take as it is now"
        )
        self.revision, self.since, self.clash = revision, list(since), list(clash)
