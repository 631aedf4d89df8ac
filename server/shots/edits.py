"""From an edit as the browser sends it to the core's function, and to its name in the history."""

from __future__ import annotations

from collections.abc import Callable, Iterable

from hame.character.rig import Rig
from hame.clip.clip import Clip
from hame.edits.columns import delete_columns, duplicate_columns, move_columns, paste_column
from hame.edits.limbs import switch_limb
from hame.edits.outcome import Outcome
from hame.edits.pose import drop_pending, key_pose, rest_values, set_pose
from server.shots import schemas

Edit = Callable[[Clip], Outcome]


def function_of(edit: schemas.AnyEdit, rig: Rig) -> Edit:
    """The change that an edit makes to a clip."""
    match edit:
        case schemas.PoseEdit():
            return lambda clip: set_pose(clip, rig, edit.frame, edit.values, edit.keying, edit.kinds)
        case schemas.ResetEdit():
            values = rest_values(rig, edit.controls, edit.kinds)
            return lambda clip: set_pose(clip, rig, edit.frame, values, edit.keying)
        case schemas.KeyEdit():
            return lambda clip: key_pose(clip, rig, edit.frame, edit.controls, edit.kinds)
        case schemas.DropEdit():
            return lambda clip: drop_pending(clip, edit.frame)
        case schemas.LimbEdit():
            return lambda clip: switch_limb(clip, rig, edit.frame, edit.limb, edit.to, edit.keying)
        case schemas.PasteEdit():
            return lambda clip: paste_column(clip, rig, edit.frame, edit.values)
        case schemas.ColumnsEdit(kind="delete"):
            return lambda clip: delete_columns(clip, rig, edit.frames, edit.controls)
        case schemas.ColumnsEdit(kind="move"):
            return lambda clip: move_columns(clip, rig, edit.frames, edit.by, edit.controls)
        case schemas.ColumnsEdit():
            return lambda clip: duplicate_columns(clip, rig, edit.frames, edit.by, edit.controls)


def label_of(edit: schemas.AnyEdit, rig: Rig) -> str:
    """The edit in a few words, for the history."""
    match edit:
        case schemas.PoseEdit():
            names = {rig.channels[rig.number(a)].control for a in edit.values if rig.has_channel(a)}
            what = edit.label or f"Pose {_named(rig, names)}"
            return f"{what} at {edit.frame}" + (" (pending)" if edit.keying == "off" else "")
        case schemas.ResetEdit():
            kinds = "" if len(edit.kinds) > 2 else f", {' and '.join(edit.kinds)} only"
            return f"Reset {_named(rig, edit.controls)} at {edit.frame}{kinds}"
        case schemas.KeyEdit():
            return f"Key {_named(rig, edit.controls)} at {edit.frame}"
        case schemas.DropEdit():
            return f"Drop the pending pose at {edit.frame}"
        case schemas.LimbEdit():
            return f"{rig.limb(edit.limb).label} {rig.limb(edit.limb).kind} to {edit.to.upper()} at {edit.frame}"
        case schemas.PasteEdit():
            return f"Paste a column at {edit.frame}"
        case schemas.ColumnsEdit():
            frames = ", ".join(map(str, sorted(edit.frames)[:4])) + (" …" if len(edit.frames) > 4 else "")
            way = "" if edit.kind == "delete" else f" by {edit.by:+d}"
            of = "" if edit.controls is None else f" of {_named(rig, edit.controls)}"
            return f"{edit.kind.capitalize()} column {frames}{way}{of}"


def _named(rig: Rig, names: Iterable[str] | None) -> str:
    if names is None:
        return "the whole character"
    labels = [rig.control(name).label for name in names if rig.has_control(name)]
    if len(labels) > 2:
        return f"{labels[0]} and {len(labels) - 1} more"
    return " and ".join(sorted(labels)) or "nothing"
