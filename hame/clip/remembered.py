"""What follows from a value and takes a while to make: kept within so many bytes, the last used longest."""

from __future__ import annotations

import sys
from collections.abc import Callable, Hashable, Iterable, Mapping
from threading import Lock
from typing import Any, TypeVar, cast

import numpy as np
from cachetools import LRUCache

T = TypeVar("T")
MOST = 32 * 1024 * 1024  # bytes that one clip may have derived of it


class Hashed:
    """A key that is long: all of it is gone through once for its hash, however often that is asked for."""

    __slots__ = ("_hash", "_key")

    def __init__(self, key: Hashable) -> None:
        self._key, self._hash = key, hash(key)

    def __hash__(self) -> int:
        return self._hash

    def __eq__(self, other: object) -> bool:
        return isinstance(other, Hashed) and self._hash == other._hash and self._key == other._key


class Remembered:
    """A cache of what is derived of one value."""

    def __init__(self, most: int = MOST) -> None:
        self._most = most
        self._kept: LRUCache[Hashable, tuple[Any, int]] | None = None  # most values are asked for nothing
        self._lock = Lock()

    def get(self, key: Hashable, make: Callable[[], T], own: Iterable[object] = ()) -> T:
        """What is kept under a key, or what is made now. Two threads may make it at once; either is right.

        ``own`` are parts of the value itself: of what is made they weigh nothing.
        """
        key = Hashed(key)
        with self._lock:
            found = None if self._kept is None else self._kept.get(key)
        if found is not None:
            return cast(T, found[0])
        made = make()
        weight = weight_of(made, {id(part) for part in own})
        with self._lock:
            if self._kept is None:
                self._kept = LRUCache(self._most, getsizeof=lambda kept: kept[1])
            if weight <= self._most:
                self._kept[key] = made, weight
        return made

    @property
    def weight(self) -> int:
        """Bytes, about."""
        return 0 if self._kept is None else int(self._kept.currsize)


def weight_of(value: object, seen: set[int]) -> int:
    """About how many bytes a value takes with everything in it, each thing once and what is ``seen`` (by id) not."""
    if id(value) in seen:
        return 0
    seen.add(id(value))
    if isinstance(value, np.ndarray):
        return 112 + (value.nbytes if value.base is None else weight_of(value.base, seen))
    if isinstance(own := getattr(value, "nbytes", None), int):  # it knows itself
        return own
    if isinstance(value, Mapping):
        return 100 * len(value) + sum(weight_of(part, seen) for part in value.values())
    if isinstance(value, tuple | list | set | frozenset):
        return sys.getsizeof(value) + sum(weight_of(part, seen) for part in value)
    if hasattr(value, "__dict__"):
        return 200 + sum(weight_of(part, seen) for part in vars(value).values())
    return sys.getsizeof(value)
