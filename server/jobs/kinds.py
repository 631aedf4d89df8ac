"""The kinds of job: each is a function that an app registers as it is loaded."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Any, Protocol

from hame.errors import HameError


class Cancelled(HameError):
    """Raised inside of a job that is not wanted any more."""


class Progress(Protocol):
    """What a job tells of itself while it works."""

    def __call__(self, share: float, said: str = "") -> None:
        """Says how much is done, from 0 to 1, and at what it is. Raises :class:`Cancelled` where it shall end."""


@dataclass(frozen=True)
class Result:
    """What a job made: a file with its name and media type, or none; and what else there is to know.

    ``keep`` writes what it leaves in the database, and tells the outcome. It runs in the transaction in which the job
    ends: so it is written once, however often the job is begun anew, and not at all for one that was cancelled.
    """

    data: bytes = b""
    name: str = ""
    media: str = "application/octet-stream"
    outcome: dict[str, Any] = field(default_factory=dict)
    keep: Callable[[], dict[str, Any]] | None = None


@dataclass(frozen=True)
class Asked:
    """What a job is told: by whom, what, and the file that came with it."""

    maker: Any
    told: Mapping[str, Any]
    given: bytes


Work = Callable[[Asked, Progress], Result]
KINDS: dict[str, Work] = {}


def job(kind: str) -> Callable[[Work], Work]:
    """Registers a function as the work of a kind of job. What it raises of :class:`HameError` is told as it is."""

    def register(work: Work) -> Work:
        if kind in KINDS:
            raise ValueError(f"there is a kind of job called {kind} already")
        KINDS[kind] = work
        return work

    return register
