"""Springs that were taken as keys, and whether the motion that carries them goes otherwise since."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from hame.evaluate.line import played_values
from hame.evaluate.players import Player
from hame.evaluate.some import some_nodes
from hame.evaluate.springs.taken import Since, since, taken_in
from hame.maths.rotations import Array
from hame.scene.scene import Figure


@dataclass(frozen=True)
class TakenSince:
    """A spring that was taken as keys, by its control and its first frame; and how much of the motion is otherwise."""

    control: str
    start: int
    by: Since


def frames_taken(figures: Mapping[int, Figure], of: int) -> int:
    """How many frames, of all figures together, :func:`taken_since` looks at."""
    return len(figures) * sum(span.end - span.start + 1 for _, span, _ in taken_in(figures[of].rig, figures[of].clip))


def taken_since(figures: Mapping[int, Figure], of: int) -> list[TakenSince]:
    """Every spring of a figure that was taken as keys, with how far what carries it lies from where it was then."""
    rig, players, found = figures[of].rig, {n: Player(figure.rig, figure.clip) for n, figure in figures.items()}, []
    known: dict[tuple[int, int], Array] = {}
    for control, span, row in taken_in(rig, figures[of].clip):
        stretch = (span.start, span.end)
        if stretch not in known:
            known[stretch] = played_values(players, np.arange(span.start, span.end + 1, dtype=float))[of]
        by = since(span, some_nodes(rig, (row.carrier,), known[stretch])[:, 0], span.start)
        if by is not None:
            found.append(TakenSince(control, span.start, by))
    return found
