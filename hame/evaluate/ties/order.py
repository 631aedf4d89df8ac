"""Names in an order in which each comes after what it needs."""

from __future__ import annotations

from collections.abc import Mapping

Name = tuple[int, str]  # of a link: its figure, its control


def in_order(needs: Mapping[Name, set[Name]]) -> tuple[list[Name], tuple[Name, ...]]:
    """Names in an order in which each comes after what it needs; and a ring of them, if there is one."""
    found: list[Name] = []
    left = dict(needs)
    while left:
        ready = [name for name, need in left.items() if not need & left.keys()]
        if not ready:
            return found, _ring(left)
        found += ready
        left = {name: need for name, need in left.items() if name not in ready}
    return found, ()


def _ring(needs: Mapping[Name, set[Name]]) -> tuple[Name, ...]:
    """One ring among names of which each needs another."""
    line = [next(iter(needs))]
    while True:
        following = min(needs[line[-1]] & needs.keys())
        if following in line:
            return tuple(line[line.index(following) :])
        line.append(following)
