"""Errors that a person's action can cause. Each message says what happened and what to do."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any


class HameError(ValueError):
    """Something a person asked for cannot be done; the message is meant for them.

    It reaches another process as it is, with whatever it says besides its message.
    """

    def __reduce__(self) -> tuple[Callable[..., HameError], tuple[type[HameError], tuple[Any, ...], dict[str, Any]]]:
        return _again, (type(self), self.args, self.__dict__)


def _again(kind: type[HameError], args: tuple[Any, ...], more: dict[str, Any]) -> HameError:
    error = kind.__new__(kind, *args)
    error.args = args
    error.__dict__.update(more)
    return error


class BadFile(HameError):
    """A file that cannot be read as what it should be."""


class BadEdit(HameError):
    """An edit that cannot be made; nothing was changed."""


class ShownAgain(BadEdit):
    """An edit of a frame that shows another one: it can be made there, or where the frame shows none any more.

    Attributes
    ----------
    source : the frame that is shown
    begins : where what shows it begins
    by : the kind of that
    """

    def __init__(self, message: str, source: int, begins: int, by: str = "cycle") -> None:
        super().__init__(message)
        self.source, self.begins, self.by = source, begins, by


class BadPlan(HameError):
    """A body plan from which no rig can be built."""


class Asks(BadEdit):
    """An edit that can be made, but not without something being lost or moved: the person is asked first.

    The same edit with ``anyway`` set is made.
    """
