"""Mirroring poses and ranges about the master's own plane."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Mapping
from dataclasses import dataclass
from typing import Literal

import numpy as np

from hame.character.rig import PLACE, Channel, Rig
from hame.clip.clip import Clip
from hame.clip.curve import Stack, stacked, unstacked
from hame.clip.key import FRAME, IN_VALUE, OUT_VALUE, VALUE, whole_frame
from hame.edits.chosen import addresses_of, counted, played_of, refuse_derived
from hame.edits.edit import Controls, Edit, Frame, controls_said, of_said
from hame.edits.outcome import Outcome
from hame.edits.pose import Keying, set_pose
from hame.edits.spans import copied
from hame.errors import BadEdit
from hame.scene.scene import Scene
from hame.scene.seen import pose_values

Way = Literal["swap", "left to right", "right to left"]


@dataclass(frozen=True)
class Mirroring:
    """How what stands in the middle is handled.

    Attributes
    ----------
    master : ``leave`` it out, ``keep`` its values as they are, or ``mirror`` it about the world's middle plane
    body : ``mirror`` the place of the body (hips swing to the other side) or ``keep`` it
    """

    master: Literal["leave", "keep", "mirror"] = "keep"
    body: Literal["mirror", "keep"] = "mirror"


def target_of(rig: Rig, channel: Channel, how: Mirroring) -> tuple[str | None, int]:
    """The channel that a value goes to, and its sign there; None when it goes nowhere."""
    kind = rig.control(channel.control).kind
    if kind == "master" and how.master != "mirror":
        return (None if how.master == "leave" else channel.address), 1
    if kind == "body" and channel.kind == PLACE and how.body == "keep":
        return channel.address, 1
    return rig.counterpart(channel.address), channel.mirror


def mirrored_values(rig: Rig, values: Mapping[str, float], how: Mirroring) -> tuple[dict[str, float], list[str]]:
    """A pose seen in the mirror, and the addresses for which this rig has no other side."""
    mirrored: dict[str, float] = {}
    lacking: list[str] = []
    for address, value in values.items():
        if not rig.has_channel(address):
            lacking.append(address)
            continue
        channel = rig.channels[rig.number(address)]
        target, sign = target_of(rig, channel, how)
        if target is not None:
            mirrored[target] = sign * value if value else value
        elif rig.control(channel.control).kind != "master":
            lacking.append(address)
    return mirrored, lacking


def lacking_note(lacking: Collection[str]) -> tuple[str, ...]:
    """What to say of channels without a counterpart."""
    if not lacking:
        return ()
    names = sorted({address.rsplit("/", 1)[0] for address in lacking})
    return (f"no other side on this rig, left as they were: {', '.join(names[:4])}"
            + (f" and {len(names) - 4} more" if len(names) > 4 else ""),)  # fmt: skip


def mirror_pose(
    clip: Clip,
    rig: Rig,
    frame: int,
    way: Way,
    controls: Iterable[str] | None = None,
    how: Mirroring = Mirroring(),
    keying: Keying = "changed",
    to: int | None = None,
    scene: Scene | None = None,
) -> Outcome:
    """Mirrors what is seen at a frame, there or onto the frame ``to``.

    ``swap`` changes both sides and turns the middle over; the other ways copy
    one side onto the other and leave the middle alone.
    """
    frame = whole_frame(frame)
    target_frame = frame if to is None else whole_frame(to)
    refuse_derived(clip, [target_frame])
    seen = pose_values(rig, clip, frame, scene)
    side = {"swap": "", "left to right": "L", "right to left": "R"}[way]
    values = {
        address: float(seen[rig.number(address)])
        for address in addresses_of(rig, controls)
        if not side or rig.side_of(address) == side
    }
    if side and not values:
        raise BadEdit(
            f"nothing of what is chosen stands on the {'left' if side == 'L' else 'right'}; nothing was mirrored"
        )
    mirrored, lacking = mirrored_values(rig, values, how)
    mirrored = {a: v for a, v in mirrored.items() if not rig.channels[rig.number(a)].locked}
    if not mirrored:
        raise BadEdit("this rig has no other side for what is chosen; nothing was mirrored")
    if target_frame == frame:
        # What the mirror does not change needs no key.
        now = {a: float(seen[rig.number(a)]) for a in mirrored}
        mirrored = {a: v for a, v in mirrored.items() if v != now[a]}
        if not mirrored:
            return Outcome(clip, (*lacking_note(lacking), "the pose is the same in the mirror"))
    outcome = set_pose(clip, rig, target_frame, mirrored, keying, scene=scene)
    return Outcome(outcome.clip, (*outcome.notes, *lacking_note(lacking)))


def mirror_range(
    clip: Clip,
    rig: Rig,
    first: int,
    last: int,
    to: int,
    controls: Iterable[str] | None = None,
    how: Mirroring = Mirroring(),
) -> Outcome:
    """Copies the keys from ``first`` to ``last`` mirrored to the frames from ``to`` on, replacing what is there."""
    first, last, to = whole_frame(first), whole_frame(last), whole_frame(to)
    if last < first:
        raise BadEdit(f"the range ends at {last}, before it begins at {first}; nothing was mirrored")
    whole_frame(to + last - first)
    refuse_derived(clip, range(to, to + last - first + 1))
    played = played_of(clip, rig, controls, first, last)
    targets: dict[str, tuple[str, int]] = {}
    lacking: list[str] = []
    for address, curve in played.items():
        frames = curve.table[:, FRAME]
        if not np.searchsorted(frames, first) < np.searchsorted(frames, last, side="right"):
            continue
        channel = rig.channels[rig.number(address)]
        target, sign = target_of(rig, channel, how)
        if target is not None:
            targets[address] = target, sign
        elif rig.control(channel.control).kind != "master":
            lacking.append(address)
    source = stacked({address: played[address] for address in targets})
    going = (source.keys[:, FRAME] >= first) & (source.keys[:, FRAME] <= last)
    laid = source.keys[going]
    laid[:, FRAME] += to - first
    signs = np.array([sign for _, sign in targets.values()], float)[source.owner[going]]
    laid[:, [VALUE, IN_VALUE, OUT_VALUE]] *= signs[:, None]
    names = tuple(target for target, _ in targets.values())
    there = stacked({name: clip.curves[name] for name in names if name in clip.curves})
    number = {name: n for n, name in enumerate(names)}
    owner = np.array([number[name] for name in there.addresses], np.int64)[there.owner]
    stays = (there.keys[:, FRAME] < to) | (there.keys[:, FRAME] > to + last - first)
    replaced = int((~stays).sum())
    changes = unstacked(
        Stack(names, np.append(owner[stays], source.owner[going]), np.concatenate([there.keys[stays], laid]))
    )
    if not changes:
        raise BadEdit(f"there are no keys from {first} to {last} that this rig could mirror; nothing was changed")
    notes = (f"{counted(replaced, 'key')} from {to} to {to + last - first} replaced",) if replaced else ()
    names_chosen = None if controls is None else list(controls)
    laid_clip = copied(clip.with_curves(changes), clip, rig, first, last, to - first, names_chosen, mirrored=True)
    return Outcome(laid_clip, (*notes, *lacking_note(lacking)))


@dataclass(frozen=True, kw_only=True)
class MirrorPose(Edit):
    """A pose mirrored where it is, or onto another frame."""

    kind: Literal["mirror"] = "mirror"
    frame: Frame
    to: Frame | None = None
    way: Way = "swap"
    controls: Controls = None
    how: Mirroring = Mirroring()
    keying: Keying = "changed"

    poses = True

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        return mirror_pose(clip, rig, self.frame, self.way, self.controls, self.how, self.keying, self.to, scene)

    def label(self, rig: Rig, scene: Scene) -> str:
        to = f" to {self.to}" if self.to is not None else ""
        way = "" if self.way == "swap" else f", {self.way}"
        return f"Mirror {controls_said(rig, self.controls)} at {self.frame}{to}{way}"


@dataclass(frozen=True, kw_only=True)
class MirrorRange(Edit):
    """The keys of a range laid mirrored onto other frames."""

    kind: Literal["mirror range"] = "mirror range"
    first: Frame
    last: Frame
    to: Frame
    controls: Controls = None
    how: Mirroring = Mirroring()

    dear = True

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        return mirror_range(clip, rig, self.first, self.last, self.to, self.controls, self.how)

    def label(self, rig: Rig, scene: Scene) -> str:
        return f"Mirror {self.first} to {self.last} at {self.to}{of_said(rig, self.controls)}"
