"""Changing a row that others may be changing at the same time."""

from __future__ import annotations

from collections.abc import Callable, Hashable, Iterator, Sequence
from contextlib import contextmanager
from typing import TypeVar

from django.db import models, transaction
from django.http import Http404

M = TypeVar("M", bound=models.Model)
T = TypeVar("T")


@contextmanager
def changing(row: M) -> Iterator[M]:
    """The row as it is now, locked until the end; of what is set on it, only fields that differ are written.

    Raises
    ------
    Http404
        If it is not there any more.
    """
    with transaction.atomic():
        now = type(row)._default_manager.select_for_update().filter(pk=row.pk).first()
        if now is None:
            raise Http404
        names = [field.attname for field in now._meta.concrete_fields]
        before = {name: _told(getattr(now, name)) for name in names}
        yield now
        changed = [name for name in names if _told(getattr(now, name)) != before[name]]
        if changed:
            stamped = [f.attname for f in now._meta.concrete_fields if getattr(f, "auto_now", False)]
            now.save(update_fields=[*changed, *stamped])


def _told(value: object) -> object:
    return value.name if isinstance(value, models.fields.files.FieldFile) else value


def merged(now: Sequence[T], was: Sequence[T], wished: Sequence[T], key: Callable[[T], Hashable]) -> list[T]:
    """A list with what somebody did to it as they saw it: of ``was`` they made ``wished``, and meanwhile it is ``now``.

    What they took away goes, what they changed or added is theirs, and all else stays as others have it. Entries are
    told apart by ``key``.
    """
    seen, meant = {key(one): one for one in was}, {key(one): one for one in wished}
    there = {key(one) for one in now}
    kept = [
        meant[name] if name in meant and meant[name] != seen.get(name) else one
        for one in now
        if (name := key(one)) in meant or name not in seen
    ]
    return kept + [one for name, one in meant.items() if name not in there and name not in seen]
