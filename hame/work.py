"""How much one request may take: counted before it is begun, so that nothing that is asked for holds everybody up.

The bounds are such that what lies within them takes a second or two on a small machine, and less than 300 MB.
"""

from __future__ import annotations

from hame.errors import BadEdit

LONGEST = 216_000
"""Frames from zero: an hour at 60 a second. Farther out nothing new is stored."""
MOST_SAMPLES = 6_000_000
"""Values of curves that one edit may work out, frames by channels."""
MOST_POSES = 12_000
"""Poses of a whole body that one edit or one look at a motion may work out, frame by frame."""


def refuse_samples(count: float, what: str) -> None:
    """Raises :class:`BadEdit` if more values would have to be worked out for ``what`` than one request may."""
    if count > MOST_SAMPLES:
        raise BadEdit(
            f"{what} would take {count:,.0f} values of curves, and one step may take {MOST_SAMPLES:,}. Choose fewer "
            "parts, or do it over a shorter stretch. Nothing was changed"
        )


def refuse_poses(count: float, what: str) -> None:
    """Raises :class:`BadEdit` if more poses would have to be worked out for ``what`` than one request may."""
    if count > MOST_POSES:
        raise BadEdit(
            f"{what} would take {count:,.0f} poses of the body, and one step may take {MOST_POSES:,}. Do it over a "
            "shorter stretch. Nothing was changed"
        )
