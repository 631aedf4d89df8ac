"""What the name of a joint tells: its words, its side, and the name on the other side."""

from __future__ import annotations

import re
from collections.abc import Collection

_WORD = re.compile(r"[A-Z]+(?![a-z])|[A-Z]?[a-z]+|\d+")
LEFT, RIGHT = {"l", "left", "lft"}, {"r", "right", "rgt"}


def words_of(name: str) -> list[str]:
    """The words of a joint's name in small letters: ``"rig:LeftUpLeg_01"`` -> left, up, leg, 01."""
    return [word.lower() for word in _WORD.findall(name.rsplit(":", 1)[-1].rsplit("|", 1)[-1])]


def side_of(name: str) -> str:
    """``"L"``, ``"R"`` or ``""`` by the side mark in a name."""
    words = words_of(name)
    if any(word in LEFT for word in words):
        return "L"
    if any(word in RIGHT for word in words):
        return "R"
    return ""


def counterpart_name(name: str) -> str | None:
    """The same name with the other side's mark, or None without a mark."""
    swaps = {"l": "r", "left": "right", "lft": "rgt"}
    swaps |= {b: a for a, b in swaps.items()}
    start = max(name.rfind(":"), name.rfind("|")) + 1
    for match in _WORD.finditer(name, start):
        word = match[0]
        other = swaps.get(word.lower())
        if other is not None:
            other = other.upper() if word.isupper() else other.capitalize() if word[0].isupper() else other
            return name[: match.start()] + other + name[match.end() :]
    return None


_HELPERS = {"end", "tip", "nub", "twist", "roll"}


def names_helper(name: str) -> bool:
    """Whether a joint is called as those are that nobody turns: ends of bones, and twists within them."""
    return not _HELPERS.isdisjoint(words_of(name))


def side_among(name: str, names: Collection[str]) -> str:
    """The side mark in a name, if the same one of the other side is among ``names``; else it stands in the middle."""
    return side_of(name) if counterpart_name(name) in names else ""


def numbered(name: str, taken: Collection[str]) -> str:
    """A name, with the first number from 2 on behind it where it is taken."""
    free, number = name, 2
    while free in taken:
        free, number = f"{name} {number}", number + 1
    return free
