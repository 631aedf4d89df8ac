"""Who carries whom may never go round: looked at wherever spans, frames or the history change."""

from __future__ import annotations

from collections.abc import Mapping

from hame.clip.clip import Clip
from hame.clip.spans import Tracks
from hame.errors import BadEdit
from hame.evaluate.players import Player
from hame.evaluate.ties.plan import Ring, rings
from hame.evaluate.ties.stage import Ties
from hame.scene.joined import bound_to
from hame.scene.scene import Figure, Scene


def refuse_rings(scene: Scene, clips: Mapping[int, Clip]) -> None:
    """Raises :class:`BadEdit`, naming the ring, if controls come to carry each other round as clips become others.

    ``clips`` are those that change, by figure. A ring that is there already, from when none was looked for here, does
    not keep anything else from being done.
    """
    changed = {n: clip for n, clip in clips.items() if _ties(clip.tracks) != _ties(scene.figure(n).clip.tracks)}
    for number in changed:
        after = {**scene.figures, **{n: scene.figure(n).with_clip(clip) for n, clip in clips.items()}}
        found = rings(_players(bound_to(after, number)))
        if found and not rings(_players(bound_to(scene.figures, number))):
            raise BadEdit(
                f"from {max(found[0].first, scene.start):.0f} on these would carry each other round, so that none "
                f"could stand: {_said(scene, found[0])}. Nothing was changed"
            )


def _ties(tracks: Tracks) -> dict[str, object]:
    return {track: spans for track, spans in tracks.items() if any(span.stage == Ties.name for span in spans)}


def _players(figures: Mapping[int, Figure]) -> dict[int, Player]:
    return {number: Player(figure.rig, figure.clip) for number, figure in figures.items()}


def _said(scene: Scene, ring: Ring) -> str:
    said = []
    for number, control in ring.links:
        figure = scene.figure(number)
        whose = f" of {figure.name}" if figure.name else ""
        said.append(f"{figure.rig.control(control).label}{whose}")
    return ", carried by ".join([*said, said[0]])
