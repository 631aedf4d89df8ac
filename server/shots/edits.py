"""From an edit as the browser sends it to the core's function, and to its name in the history."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from typing import Any

from hame.character.rig import Rig
from hame.clip.clip import Clip
from hame.edits import blend, columns, cycles, keys, labels, library, mirror, overlap, pose, retime
from hame.edits.guard import guarded
from hame.edits.limbs import switch_limb
from hame.edits.outcome import Outcome
from hame.edits.shapes import SHAPES, set_shape
from hame.errors import BadEdit
from server.shots import schemas
from server.shots.models import Casting, LibraryPose

Edit = Callable[[Clip], Outcome]


def function_of(edit: schemas.AnyEdit, rig: Rig, casting: Casting) -> Edit:
    """The change that an edit makes to a clip of ``casting``, whose protected parts it leaves alone."""
    change = _change(edit, rig, casting)

    return lambda clip: guarded(clip, change(clip), rig, casting.protected)


def _how(given: schemas.Mirrored | None) -> mirror.Mirroring | None:
    return None if given is None else mirror.Mirroring(given.master, given.body)


def _change(edit: schemas.AnyEdit, rig: Rig, casting: Casting) -> Edit:
    e: Any = edit
    match edit:
        case schemas.PoseEdit():
            return lambda c: pose.set_pose(c, rig, e.frame, e.values, e.keying, e.kinds, SHAPES[e.shape])
        case schemas.ResetEdit():
            values = pose.rest_values(rig, e.controls, e.kinds)
            return lambda c: pose.set_pose(c, rig, e.frame, values, e.keying, shape=SHAPES[e.shape])
        case schemas.KeyEdit():
            return lambda c: pose.key_pose(c, rig, e.frame, e.controls, e.kinds, shape=SHAPES[e.shape])
        case schemas.DropEdit():
            return lambda c: pose.drop_pending(c, e.frame)
        case schemas.LimbEdit():
            return lambda c: switch_limb(c, rig, e.frame, e.limb, e.to, e.keying, e.anyway)
        case schemas.PasteEdit():
            how, shape = _how(e.mirrored), SHAPES[e.shape]
            return lambda c: columns.paste_column(c, rig, e.frame, e.values, e.controls, how, shape)
        case schemas.ColumnsEdit(kind="delete"):
            return lambda c: columns.delete_columns(c, rig, e.frames, e.controls)
        case schemas.ColumnsEdit(kind="move"):
            return lambda c: columns.move_columns(c, rig, e.frames, e.by, e.controls)
        case schemas.ColumnsEdit():
            return lambda c: columns.duplicate_columns(c, rig, e.frames, e.by, e.controls)
        case schemas.MirrorEdit():
            turned = mirror.Mirroring(e.how.master, e.how.body)
            return lambda c: mirror.mirror_pose(c, rig, e.frame, e.way, e.controls, turned, e.keying, e.to)
        case schemas.MirrorRangeEdit():
            turned = mirror.Mirroring(e.how.master, e.how.body)
            return lambda c: mirror.mirror_range(c, rig, e.first, e.last, e.to, e.controls, turned)
        case schemas.KeysEdit(kind="delete keys"):
            return lambda c: keys.delete_keys(c, rig, e.keys)
        case schemas.KeysEdit(kind="move keys"):
            return lambda c: keys.move_keys(c, rig, e.keys, e.by)
        case schemas.KeysEdit():
            return lambda c: keys.duplicate_keys(c, rig, e.keys, e.by)
        case schemas.PasteKeysEdit():
            return lambda c: keys.paste_keys(c, rig, e.frame, e.keys, _how(e.mirrored))
        case schemas.BreakdownEdit():
            return lambda c: blend.lay_breakdown(c, rig, e.frame, e.share, e.keying, e.controls, SHAPES[e.shape])
        case schemas.ExaggerateEdit():
            return lambda c: blend.exaggerate(c, rig, e.frame, e.degree, e.keying, e.controls, e.against)
        case schemas.ShapeEdit():
            return lambda c: set_shape(c, rig, e.shape, e.controls, e.gaps)
        case schemas.InsertEdit():
            return lambda c: retime.insert_frames(c, rig, e.after, e.count, e.controls)
        case schemas.ScaleEdit():
            return lambda c: retime.scale_time(c, rig, e.frames, e.about, e.factor, e.controls, e.along)
        case schemas.SlowEdit():
            return lambda c: retime.slow_by_phase(c, rig, e.count, e.first, e.last)
        case schemas.HoldEdit():
            return lambda c: retime.hold_pose(c, rig, e.frame, e.count, e.drift, e.push, e.controls)
        case schemas.DelayEdit():
            chain = [overlap.Link(tuple(link.controls), link.frames, link.amplitude) for link in e.chain]
            return lambda c: overlap.delay_parts(c, rig, chain, e.first, e.last)
        case schemas.CycleEdit():
            return lambda c: cycles.make_cycle(c, rig, e.start, e.end, e.echo)
        case schemas.FreeEdit():
            return lambda c: cycles.free_cycle(c, rig)
        case schemas.RepeatEdit():
            end = casting.shot.end
            return lambda c: cycles.repeat_cycle(c, rig, e.until, e.travel, end)
        case schemas.MendEdit():
            return lambda c: cycles.mend_seam(c, rig, e.start, e.end, e.controls)
        case schemas.LabelEdit():
            return lambda c: labels.label_pose(c, e.frame, e.name, e.rank)
        case schemas.TemplateEdit():
            last = casting.shot.end
            return lambda c: labels.lay_template(c, rig, e.template, e.start, e.step, last, e.posed)
        case schemas.LayEdit():
            stored, how, shape = _stored(e.pose, casting), _how(e.mirrored), SHAPES[e.shape]
            return lambda c: library.lay_pose(
                c, rig, e.frame, stored, e.share, e.keying, e.controls, e.with_master, how, shape
            )
    raise AssertionError(edit)


def _stored(pose_id: int, casting: Casting) -> library.StoredPose:
    found = _library_pose(pose_id, casting)
    if found is None:
        raise BadEdit("this pose is not in the library of this production; nothing was laid")
    return library.StoredPose(found.values, found.size)


def _library_pose(pose_id: int, casting: Casting) -> LibraryPose | None:
    return LibraryPose.objects.filter(pk=pose_id, production_id=casting.shot.production_id).first()


def label_of(edit: schemas.AnyEdit, rig: Rig, casting: Casting) -> str:
    """The edit in a few words, for the history."""
    e: Any = edit
    match edit:
        case schemas.PoseEdit():
            names = {rig.channels[rig.number(a)].control for a in e.values if rig.has_channel(a)}
            what = e.label or f"Pose {_named(rig, names)}"
            return f"{what} at {e.frame}" + (" (pending)" if e.keying == "off" else "")
        case schemas.ResetEdit():
            kinds = "" if len(e.kinds) > 2 else f", {' and '.join(e.kinds)} only"
            return f"Reset {_named(rig, e.controls)} at {e.frame}{kinds}"
        case schemas.KeyEdit():
            return f"Key {_named(rig, e.controls)} at {e.frame}"
        case schemas.DropEdit():
            return f"Drop the pending pose at {e.frame}"
        case schemas.LimbEdit():
            return f"{rig.limb(e.limb).label} {rig.limb(e.limb).kind} to {e.to.upper()} at {e.frame}"
        case schemas.PasteEdit():
            return f"Paste a column at {e.frame}{', mirrored' if e.mirrored else ''}{_of(rig, e.controls)}"
        case schemas.ColumnsEdit():
            way = "" if e.kind == "delete" else f" by {e.by:+d}"
            return f"{e.kind.capitalize()} column {_frames(e.frames)}{way}{_of(rig, e.controls)}"
        case schemas.MirrorEdit():
            to = f" to {e.to}" if e.to is not None else ""
            way = "" if e.way == "swap" else f", {e.way}"
            return f"Mirror {_named(rig, e.controls)} at {e.frame}{to}{way}"
        case schemas.MirrorRangeEdit():
            return f"Mirror {e.first} to {e.last} at {e.to}{_of(rig, e.controls)}"
        case schemas.KeysEdit():
            count = sum(map(len, e.keys.values()))
            way = "" if e.kind == "delete keys" else f" by {e.by:+d}"
            return f"{e.kind.split()[0].capitalize()} {count} key{'' if count == 1 else 's'}{way}"
        case schemas.PasteKeysEdit():
            return f"Paste keys at {e.frame}{', mirrored' if e.mirrored else ''}"
        case schemas.BreakdownEdit():
            return f"Breakdown {e.share:.0%} at {e.frame}{_of(rig, e.controls)}"
        case schemas.ExaggerateEdit():
            way = "Exaggerate" if e.degree >= 0 else "Tone down"
            return f"{way} by {abs(e.degree):.0%} at {e.frame}{_of(rig, e.controls)}"
        case schemas.ShapeEdit():
            where = "" if e.gaps is None else f" from {', '.join(str(a) for a, _ in e.gaps[:4])}"
            return f"{e.shape.capitalize()}{where}{_of(rig, e.controls)}"
        case schemas.InsertEdit():
            way = "Insert" if e.count > 0 else "Remove"
            return f"{way} {abs(e.count)} frame{'' if abs(e.count) == 1 else 's'} after {e.after}{_of(rig, e.controls)}"
        case schemas.ScaleEdit():
            return f"Scale timing of {_frames(e.frames)} by {e.factor:g} about {e.about}{_of(rig, e.controls)}"
        case schemas.SlowEdit():
            return f"{e.count:+d} frame{'' if abs(e.count) == 1 else 's'} a phase"
        case schemas.HoldEdit():
            return f"{'Moving hold' if e.drift else 'Hold'} of {e.frame} for {e.count}{_of(rig, e.controls)}"
        case schemas.DelayEdit():
            return f"Part delay of {_named(rig, [name for link in e.chain for name in link.controls])}"
        case schemas.CycleEdit():
            return f"{'Echo' if e.echo else 'Cycle'} {e.start} to {e.end}"
        case schemas.FreeEdit():
            return "Free the cycle into keys"
        case schemas.RepeatEdit():
            return f"Repeat the cycle to {e.until}"
        case schemas.MendEdit():
            return f"Mend the seam of {e.start} and {e.end}{_of(rig, e.controls)}"
        case schemas.LabelEdit():
            return f"Name {e.frame} {e.name}" if e.name else f"Rank {e.frame} as {e.rank}"
        case schemas.TemplateEdit():
            return f"Lay out a {e.template} from {e.start}"
        case schemas.LayEdit():
            found = _library_pose(e.pose, casting)
            by = "" if e.share == 1 else f" by {e.share:.0%}"
            return f"Lay {found.name if found else 'a pose'}{by} at {e.frame}{_of(rig, e.controls)}"
    raise AssertionError(edit)


def _frames(frames: list[int]) -> str:
    return ", ".join(map(str, sorted(frames)[:4])) + (" …" if len(frames) > 4 else "")


def _of(rig: Rig, controls: Iterable[str] | None) -> str:
    return "" if controls is None else f" of {_named(rig, controls)}"


def _named(rig: Rig, names: Iterable[str] | None) -> str:
    if names is None:
        return "the whole character"
    labels_ = [rig.control(name).label for name in names if rig.has_control(name)]
    if len(labels_) > 2:
        return f"{labels_[0]} and {len(labels_) - 1} more"
    return " and ".join(sorted(labels_)) or "nothing"
