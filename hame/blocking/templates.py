"""Which poses a walk, a run and a startle are blocked with, and on which frames."""

from __future__ import annotations

from dataclasses import dataclass

from hame.clip.marks import Rank
from hame.errors import BadEdit

TEMPLATES = ("walk", "run", "startle")


@dataclass(frozen=True)
class PlannedPose:
    frame: int
    name: str
    rank: Rank


# Name, share of a step from the first contact, rank (common practice, no source).
_WALK: tuple[tuple[str, float, Rank], ...] = (
    ("Contact", 0.0, "key"),
    ("Down", 0.25, "breakdown"),
    ("Passing", 0.5, "key"),
    ("Up", 0.75, "breakdown"),
    ("Opposite contact", 1.0, "key"),
    ("Opposite down", 1.25, "breakdown"),
    ("Opposite passing", 1.5, "key"),
    ("Opposite up", 1.75, "breakdown"),
    ("Contact again", 2.0, "key"),
)
_RUN: tuple[tuple[str, float, Rank], ...] = (
    ("Extreme", 0.0, "key"),
    ("Passing", 0.5, "key"),
    ("Opposite extreme", 1.0, "key"),
    ("Opposite passing", 1.5, "key"),
    ("Extreme again", 2.0, "key"),
)
_STARTLE: tuple[tuple[str, float, Rank], ...] = (
    ("Rest", 0.0, "key"),
    ("Anticipation", 1.0, "key"),
    ("Accent", 2.0, "key"),
    ("Settle", 3.0, "key"),
)
USUAL_STEP = {"walk": 12, "run": 8, "startle": 10}


def template(kind: str, start: int, step: int) -> list[PlannedPose]:
    """The poses of a walk or run (``step`` frames a step) or of a take (``step`` frames from pose to pose).

    Shares of a step that fall between frames go to the nearest, the later one of two.

    Raises
    ------
    BadEdit
        If there is no such kind, or two poses would fall on one frame.
    """
    if kind not in TEMPLATES:
        raise BadEdit(f"there is no template called {kind}; there are {', '.join(TEMPLATES)}")
    rows = {"walk": _WALK, "run": _RUN, "startle": _STARTLE}[kind]
    poses = [PlannedPose(start + int(share * step + 0.5), name, rank) for name, share, rank in rows]
    if step < 1 or any(a.frame >= b.frame for a, b in zip(poses, poses[1:], strict=False)):
        raise BadEdit(
            f"a {kind} with {step} frames {'from pose to pose' if kind == 'take' else 'a step'} "
            f"has two poses on one frame; use more"
        )
    return poses
