"""Posing and keying: values set at a frame, keyed at once or kept as a pending pose."""

from __future__ import annotations

import math
from collections.abc import Collection, Iterable, Mapping
from dataclasses import dataclass
from typing import Annotated, Literal

from hame.character.rig import Channel, Kind, Rig
from hame.clip.clip import Clip
from hame.clip.curve import Curve, with_keys
from hame.clip.key import BEZIER, SHAPES, ShapeName, whole_frame
from hame.clip.played import stored_value
from hame.edits.chosen import refuse_derived
from hame.edits.edit import KINDS_KEYED, AtMost, Controls, Edit, Frame, Values, controls_said
from hame.edits.outcome import Outcome
from hame.errors import BadEdit
from hame.scene.scene import Scene
from hame.scene.seen import keys_for, pose_values

Keying = Literal["off", "changed", "control", "whole"]

_LIMIT_SLACK = 1e-6


def check_values(rig: Rig, values: Mapping[str, float]) -> dict[str, float]:
    """The values, if all may be set.

    Raises
    ------
    BadEdit
        For a channel the rig lacks, a number that is not finite, a locked
        channel that is not at rest, or a value past its limits.
    """
    checked: dict[str, float] = {}
    for address, value in values.items():
        channel = rig.channels[rig.number(address)]
        if isinstance(value, bool) or not isinstance(value, int | float) or not math.isfinite(value):
            raise BadEdit(f"{said(rig, address)}: {value!r} is not a number")
        if channel.locked and abs(value - channel.rest) > _LIMIT_SLACK:
            raise BadEdit(f"{said(rig, address)} is locked: {channel.locked}")
        if not channel.low - _LIMIT_SLACK <= value <= channel.high + _LIMIT_SLACK:
            raise BadEdit(f"{said(rig, address)}: {shown(channel, value)} is past its limit; {limits_of(channel)}")
        checked[address] = min(max(float(value), channel.low), channel.high)
    return checked


def said(rig: Rig, address: str) -> str:
    """A channel as a person knows it: its control, and what it is called there."""
    channel = rig.channels[rig.number(address)]
    return f"{rig.control(channel.control).label}, {channel.label}"


def shown(channel: Channel, value: float) -> str:
    """A value as a person reads it: degrees for angles."""
    if channel.unit == "rad":
        return f"{math.degrees(value):.4g} degrees"
    return f"{value:.4g} {channel.unit}".strip()


def limits_of(channel: Channel) -> str:
    """The limits of a channel in words; an empty string when it has none."""
    if math.isfinite(channel.low) and math.isfinite(channel.high):
        return f"it goes from {shown(channel, channel.low)} to {shown(channel, channel.high)}"
    if math.isfinite(channel.low):
        return f"it is at least {shown(channel, channel.low)}"
    return f"it is at most {shown(channel, channel.high)}" if math.isfinite(channel.high) else ""


def set_pose(
    clip: Clip,
    rig: Rig,
    frame: int,
    values: Mapping[str, float],
    keying: Keying,
    kinds: Collection[str] = KINDS_KEYED,
    shape: int = BEZIER,
    scene: Scene | None = None,
    as_keyed: bool = False,
) -> Outcome:
    """Sets channel values at a frame, as they are seen there.

    With keying ``off`` they wait there as a pending pose, laid over the
    motion on that frame only. With ``changed`` the given channels are keyed,
    with ``control`` all channels of their controls, with ``whole`` all of the
    rig: those of ``kinds``, at the values seen at that frame. Channels that
    had no key yet get ``shape``. What is tied to something is keyed so that it
    is seen at these values (:func:`hame.scene.seen.keys_for`), unless they are
    meant ``as_keyed``: read off curves, not off the stage.
    """
    frame = whole_frame(frame)
    refuse_derived(clip, [frame])
    checked = check_values(rig, values)
    if not checked:
        return Outcome(clip)
    waiting = {**clip.pending.get(frame, {}), **checked}
    if keying == "off":
        return Outcome(clip.with_pending(frame, waiting))
    if keying == "changed":
        keys = {frame: checked} if as_keyed else keys_for(rig, clip, frame, checked, scene)
        return Outcome(_keyed(clip, rig, frame, keys, waiting.keys() - checked.keys(), shape))
    clip = clip.with_pending(frame, waiting)
    touched = {rig.channels[rig.number(address)].control for address in checked}
    return key_pose(clip, rig, frame, None if keying == "whole" else touched, kinds, checked.keys(), shape, scene)


def key_pose(
    clip: Clip,
    rig: Rig,
    frame: int,
    controls: Iterable[str] | None = None,
    kinds: Collection[str] = KINDS_KEYED,
    also: Collection[str] = (),
    shape: int = BEZIER,
    scene: Scene | None = None,
) -> Outcome:
    """Keys what is seen at a frame, pending pose included, for some ``controls`` or (None) the whole rig.

    ``kinds`` are the kinds of channel to key and ``also`` single channels
    besides; a pending value of a keyed control is always keyed with it. Locked
    channels are left alone.
    """
    frame = whole_frame(frame)
    refuse_derived(clip, [frame])
    names = [c.name for c in rig.controls] if controls is None else list(controls)
    if not names:
        raise BadEdit("nothing is selected to key; select controls, or key the whole character")
    seen = pose_values(rig, clip, frame, scene)
    waiting = clip.pending.get(frame, {})
    chosen: dict[str, float] = {}
    for name in names:
        for channel in rig.channels_of(name):
            wanted = channel.kind in kinds or channel.address in also or channel.address in waiting
            if wanted and not channel.locked:
                chosen[channel.address] = float(seen[rig.number(channel.address)])
    keys = keys_for(rig, clip, frame, chosen, scene)
    return Outcome(_keyed(clip, rig, frame, keys, waiting.keys() - chosen.keys(), shape))


def drop_pending(clip: Clip, frame: int) -> Outcome:
    """Lets the pending pose of a frame go; the undo step brings it back."""
    if frame not in clip.pending:
        raise BadEdit(f"there is no pending pose at frame {frame}")
    return Outcome(clip.with_pending(frame, None))


def rest_values(rig: Rig, controls: Iterable[str] | None, kinds: Collection[str]) -> dict[str, float]:
    """The rest values of all unlocked channels of some kinds, of ``controls`` or (None) of the whole rig."""
    names = [c.name for c in rig.controls] if controls is None else controls
    return {
        channel.address: channel.rest
        for name in names
        for channel in rig.channels_of(name)
        if channel.kind in kinds and not channel.locked
    }


def _keyed(
    clip: Clip, rig: Rig, frame: int, keys: Mapping[int, Mapping[str, float]], keep_pending: Collection[str], shape: int
) -> Clip:
    """Keys by frame; of the pending pose of ``frame`` only the named channels stay pending."""
    waiting = clip.pending.get(frame, {})
    refuse_derived(clip, keys)
    curves: dict[str, Curve] = {}
    for at, some in keys.items():
        for address, value in some.items():
            own = {at: stored_value(clip, rig, address, at, value)}
            curves[address] = with_keys(curves.get(address) or clip.curves.get(address), own, shape)
    return clip.with_curves(curves).with_pending(frame, {a: waiting[a] for a in keep_pending})


Kinds = tuple[Kind, ...]


@dataclass(frozen=True, kw_only=True)
class SetPose(Edit):
    """Channel values set at a frame: by a drag, typed, or brought back to rest."""

    kind: Literal["pose"] = "pose"
    frame: Frame
    values: Values
    keying: Keying = "changed"
    kinds: Kinds = KINDS_KEYED
    shape: ShapeName = "smooth"
    what: Annotated[str, AtMost(80)] = ""

    poses = True

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        return set_pose(clip, rig, self.frame, self.values, self.keying, self.kinds, SHAPES[self.shape], scene)

    def label(self, rig: Rig, scene: Scene) -> str:
        names = {rig.channels[rig.number(a)].control for a in self.values if rig.has_channel(a)}
        return posed_said(rig, names, self.what, self.frame, self.keying)


def posed_said(rig: Rig, controls: Iterable[str], what: str, frame: int, keying: Keying) -> str:
    """A pose in a few words, or by ``what`` it was called; and whether it waits."""
    waits = " (pending)" if keying == "off" else ""
    return f"{what or f'Pose {controls_said(rig, controls)}'} at {frame}{waits}"


@dataclass(frozen=True, kw_only=True)
class Reset(Edit):
    """Controls brought back to rest."""

    kind: Literal["reset"] = "reset"
    frame: Frame
    controls: Controls = None
    kinds: Kinds = KINDS_KEYED
    keying: Keying = "changed"
    shape: ShapeName = "smooth"

    poses = True

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        values = rest_values(rig, self.controls, self.kinds)
        return set_pose(clip, rig, self.frame, values, self.keying, shape=SHAPES[self.shape], scene=scene)

    def label(self, rig: Rig, scene: Scene) -> str:
        kinds = "" if len(self.kinds) > 2 else f", {' and '.join(self.kinds)} only"
        return f"Reset {controls_said(rig, self.controls)} at {self.frame}{kinds}"


@dataclass(frozen=True, kw_only=True)
class KeyPose(Edit):
    """Keys on what is seen at a frame."""

    kind: Literal["key"] = "key"
    frame: Frame
    controls: Controls = None
    kinds: Kinds = KINDS_KEYED
    shape: ShapeName = "smooth"

    poses = True

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        return key_pose(clip, rig, self.frame, self.controls, self.kinds, shape=SHAPES[self.shape], scene=scene)

    def label(self, rig: Rig, scene: Scene) -> str:
        return f"Key {controls_said(rig, self.controls)} at {self.frame}"


@dataclass(frozen=True, kw_only=True)
class DropPending(Edit):
    """Lets the pending pose of a frame go."""

    kind: Literal["drop"] = "drop"
    frame: Frame

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        return drop_pending(clip, self.frame)

    def label(self, rig: Rig, scene: Scene) -> str:
        return f"Drop the pending pose at {self.frame}"
