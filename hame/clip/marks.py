"""What a clip knows of its poses besides their keys: labels, and the cycle that it repeats."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import asdict, dataclass
from typing import Any, Literal, get_args

from hame.clip.curve import whole_frame
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

    def to_json(self) -> dict[str, Any]:
        return asdict(self)


def label_from_json(data: Mapping[str, Any]) -> Label:
    """Raises :class:`~hame.errors.BadEdit` for a rank that there is not."""
    if data["rank"] not in RANKS:
        raise BadEdit(f"a pose is a {', a '.join(RANKS[:-1])} or an {RANKS[-1]}, not a {data['rank']}")
    return Label(str(data["name"])[:LONGEST_NAME], data["rank"])


@dataclass(frozen=True)
class Cycle:
    """A stretch of frames that comes back.

    Keys are stored only on the frames from ``start`` to before ``source_end``;
    all later ones up to ``until`` are derived from them.

    Attributes
    ----------
    start, end : frame ``end`` shows frame ``start`` again
    echo : the second half is the first one mirrored
    until : the last frame that repeats reach; ``end`` when there are none
    travel : metres that the master goes in each cycle along the world's x and z
    """

    start: int
    end: int
    echo: bool = False
    until: int = 0
    travel: tuple[float, float] = (0.0, 0.0)

    def __post_init__(self) -> None:
        object.__setattr__(self, "until", max(self.until, self.end))

    @property
    def length(self) -> int:
        return self.end - self.start

    @property
    def half(self) -> int:
        return self.length // 2

    @property
    def source_end(self) -> int:
        """The first frame whose keys are derived."""
        return self.start + self.half if self.echo else self.end

    def derives(self, frame: float) -> bool:
        """Whether keys at a frame come from other frames."""
        return self.source_end <= frame <= self.until

    def source_of(self, frame: int) -> tuple[int, bool]:
        """The frame that a derived one comes from, and whether it is mirrored on the way."""
        step = self.half if self.echo else self.length
        count, rest = divmod(frame - self.start, step)
        return self.start + rest, self.echo and count % 2 == 1

    def to_json(self) -> dict[str, Any]:
        return {**asdict(self), "travel": list(self.travel)}


def cycle_from_json(data: Mapping[str, Any] | None) -> Cycle | None:
    """The cycle of what :meth:`Cycle.to_json` made; None of None."""
    if data is None:
        return None
    start, end, until = (whole_frame(data[key]) for key in ("start", "end", "until"))
    x, z = data["travel"]
    return Cycle(start, end, bool(data["echo"]), until, (float(x), float(z)))
