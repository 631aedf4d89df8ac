"""Making an edit on a scene: its fields checked, its outcome guarded."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace

from hame.clip.clip import Clip
from hame.edits.edit import Edit, check
from hame.edits.following import followed
from hame.edits.guard import guarded
from hame.edits.layered import in_layer
from hame.edits.outcome import Outcome
from hame.edits.rings import refuse_rings
from hame.edits.wayed import rewayed
from hame.errors import BadEdit
from hame.scene.scene import Scene


@dataclass(frozen=True)
class Made:
    """What an edit did: the clips that it changed, by figure, and what the person should be told."""

    clips: Mapping[int, Clip]
    notes: tuple[str, ...] = ()


def made(edit: Edit, scene: Scene, of: int) -> Made:
    """Makes an edit for a figure of a scene; the scene itself stays what it is.

    Raises
    ------
    BadEdit
        If a field is past its bounds, the edit cannot be made, keys would come to lie where others are shown, or
        nothing but protected parts would change.

    Examples
    --------
    >>> from hame.demo.shots import figure
    >>> from hame.edits.pose import SetPose
    >>> from hame.scene.scene import Figure
    >>> rig, _ = figure("brannoc")
    >>> scene = Scene({1: Figure(rig, Clip(), "Brannoc")}, 1, 49)
    >>> look = SetPose(frame=13, values={"head/ry": 0.4})
    >>> look.label(rig, scene)
    'Pose head at 13'
    >>> made(look, scene, 1).clips[1].curves["head/ry"].to_json()
    [[13.0, 0.4, 2.0]]
    """
    check(edit)
    if edit.layer and type(edit).poses:
        clips, notes = in_layer(edit, scene, of)
    elif edit.layer and not type(edit).cleans:
        raise BadEdit("this is not made in a layer; choose the motion itself to do it. Nothing was changed")
    else:
        clips, notes = edit.apply(scene, of)
    if not type(edit).lays:
        clips, more = _along(clips, scene)
        notes = (*notes, *more)
    kept: dict[int, Clip] = {}
    told = list(notes)
    for number, clip in clips.items():
        figure = scene.figure(number)
        outcome = guarded(figure.clip, Outcome(clip), figure.rig, figure.protected)
        kept[number] = outcome.clip
        told += outcome.notes
    refuse_rings(scene, kept)
    return Made(kept, tuple(told))


def _along(clips: Mapping[int, Clip], scene: Scene) -> tuple[dict[int, Clip], tuple[str, ...]]:
    """Clips that an edit changed, with what follows from ways, and answers where what they answer has come; and what to
    say of that."""
    found: dict[int, Clip] = {}
    said: list[str] = []
    for number, clip in clips.items():
        figure = scene.figure(number)
        mine = replace(scene, of=number)
        clip, notes = rewayed(figure.clip, clip, figure.rig, mine)
        found[number], more = followed(figure.clip, clip, figure.rig, mine)
        said += [*notes, *more]
    return found, tuple(said)
