"""What a pose is called, and how it ranks."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import asdict, dataclass
from typing import Any, Literal, get_args

from hame.errors import BadEdit

Rank = Literal["key", "breakdown", "in-between"]
LONGEST_NAME = 60
RANKS: tuple[Rank, ...] = get_args(Rank)


@dataclass(frozen=True)
class Label:
    """What the pose of a frame is called, and how it ranks."""

    name: str
    rank: Rank = "key"

    def __post_init__(self) -> None:
        object.__setattr__(self, "name", self.name[:LONGEST_NAME])

    @property
    def opposite(self) -> str:
        """The name under which the pose shows mirrored."""
        return f"Opposite {self.name.lower()}"[:LONGEST_NAME] if self.name else ""

    def to_json(self) -> dict[str, Any]:
        return asdict(self)


def label_from_json(data: Mapping[str, Any]) -> Label:
    """Raises :class:`~hame.errors.BadEdit` for a rank that there is not."""
    if data["rank"] not in RANKS:
        raise BadEdit(f"a pose is a {', a '.join(RANKS[:-1])} or an {RANKS[-1]}, not a {data['rank']}")
    return Label(str(data["name"])[:LONGEST_NAME], data["rank"])
