"""Poses made in a layer: what is seen becomes as they make it, and the motion below stays what it was."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

import numpy as np

from hame.character.rig import Rig
from hame.clip import layers
from hame.clip.clip import Clip
from hame.clip.comparing import compared
from hame.clip.curve import Curve, with_keys
from hame.clip.cycles import with_cycles
from hame.clip.key import FRAME, VALUE, no_keys
from hame.clip.played import played_curves
from hame.clip.sampling import sample_curve
from hame.edits.chosen import counted
from hame.edits.edit import Edit
from hame.edits.layers import LEAST_WEIGHT
from hame.edits.pose import KeyPose
from hame.errors import BadEdit
from hame.evaluate.laid import Laid, laid_over, turns_of
from hame.evaluate.line import keyed_values
from hame.evaluate.ways import as_keyed
from hame.scene.scene import Scene

_SAME = 1e-9  # radians: an angle that changes by less need not be keyed with the others


def in_layer(edit: Edit, scene: Scene, of: int) -> tuple[dict[int, Clip], tuple[str, ...]]:
    """What an edit that sets poses does to a scene when it is made in a layer.

    It is made on the motion as it plays, with all that a cycle derives free to be posed; how it changes what is seen at
    the frames that it keys is then keyed in the layer, and the motion below stays what it was.

    Raises
    ------
    BadEdit
        If the layer does not count there, or nothing that it is of would change.
    """
    figure = scene.figure(of)
    clip, rig, number = figure.clip, figure.rig, edit.layer
    layer = layers.layer_of(clip, number)
    if number not in layers.sounding(clip):
        raise BadEdit(f"{layer.name} does not count now (it is muted, or another one is alone); nothing was changed")
    view = as_keyed(rig, with_cycles(clip.with_curves(dict(played_curves(clip, rig))), ()))
    figures = dict(scene.figures)
    figures[of] = figure.with_clip(view)
    plain = replace(edit, layer=0)
    clips, notes = plain.apply(replace(scene, figures=figures), of)
    after = clips[of]
    told = [*notes]
    wanted: dict[str, dict[int, float]] = {}
    left: set[str] = set()
    for address, curve in after.curves.items():
        before = view.curves.get(address)
        if curve is before or layers.parted(address)[0] or not rig.has_channel(address):
            continue
        _, added, _ = compared([before.table if before is not None else no_keys()], [curve.table])
        channel = rig.channels[rig.number(address)]
        if layer.controls and channel.control not in layer.controls:
            left.add(channel.control)
            continue
        frames = added[0][:, FRAME]
        was = np.full(len(frames), channel.rest) if before is None else sample_curve(before, frames)
        wanted[address] = dict(zip(frames.astype(int).tolist(), (added[0][:, VALUE] - was).tolist(), strict=True))
    if isinstance(edit, KeyPose):
        names = [c.name for c in rig.controls] if edit.controls is None else edit.controls
        for channel in (c for name in names for c in rig.channels_of(name)):
            of_layer = not layer.controls or channel.control in layer.controls
            if channel.kind in edit.kinds and not channel.locked and of_layer:
                wanted.setdefault(channel.address, {}).setdefault(edit.frame, 0.0)
    if left:
        told.append(f"not of {layer.name}, left as they were: {', '.join(sorted(left)[:4])}")
    if not wanted:
        if after.pending == clip.pending:
            raise BadEdit(f"nothing that {layer.name} is of would change; nothing was keyed")
        return {**clips, of: _pending_of(clip, after)}, tuple(told)
    frames = np.array(sorted({frame for deltas in wanted.values() for frame in deltas}), float)
    counts = layers.weights(clip, number, frames)
    if (counts < LEAST_WEIGHT).any():
        at = int(frames[np.argmin(counts)])
        raise BadEdit(f"{layer.name} has no weight at frame {at}, so nothing can be posed in it there")
    changes: dict[str, Curve | None] = {}
    for address, keyed in to_hold(clip, rig, number, view, wanted).items():
        mine = layers.address_in(number, address)
        changes[mine] = with_keys(clip.curves.get(mine), keyed)
    told.append(f"keyed in {layer.name}: {counted(len(changes), 'channel')}")
    return {**clips, of: _pending_of(clip, after).with_curves(changes)}, tuple(told)


def _pending_of(clip: Clip, after: Clip) -> Clip:
    """The clip with the poses that wait in another one."""
    for frame in clip.pending.keys() | after.pending.keys():
        if clip.pending.get(frame) is not after.pending.get(frame):
            clip = clip.with_pending(frame, after.pending.get(frame))
    return clip


def to_hold(
    clip: Clip, rig: Rig, number: int, view: Clip, wanted: Mapping[str, Mapping[int, float]]
) -> dict[str, dict[int, float]]:
    """What a layer has to hold, by its channels' addresses and frames, for what is seen to change as the motion would.

    Parameters
    ----------
    view : the motion below all layers, as it plays
    wanted : by address and frame, by how much that would change
    """
    times = np.array(sorted({frame for deltas in wanted.values() for frame in deltas}), float)
    rows = {int(frame): row for row, frame in enumerate(times)}
    there = {layer.number: layer for layer in laid_over(rig, clip, times)}
    nothing = np.zeros((len(times), len(rig.channels)))
    mine = there.get(number) or Laid(number, nothing, layers.weights(clip, number, times), turns_of(rig).among(()))
    # What it will turn as a whole it may hold nothing for yet.
    there[number] = replace(mine, turns=turns_of(rig)) if layers.layer_of(clip, number).turned else mine
    stack = [there[n] for n in layers.layers_of(clip) if n in there]
    at = next(n for n, layer in enumerate(stack) if layer.number == number)
    below = keyed_values(rig, view, times)
    goal = below.copy()
    for address, deltas in wanted.items():
        for frame, delta in deltas.items():
            goal[rows[frame], rig.number(address)] += delta
    for layer in stack:
        goal = layer.lay(goal)
    for layer in reversed(stack[at + 1 :]):
        goal = layer.lift(goal)
    for layer in stack[:at]:
        below = layer.lay(below)
    now, held = stack[at].over, stack[at].wanted(goal, below)
    keyed: dict[str, dict[int, float]] = {}
    for address, deltas in wanted.items():
        for n in _with_it(rig, stack, rig.number(address)):
            own = rig.addresses[n]
            changed = {
                frame: float(held[row, n])
                for frame, row in ((frame, rows[frame]) for frame in deltas)
                if own == address or abs(held[row, n] - now[row, n]) > _SAME
            }
            if changed:
                keyed.setdefault(own, {}).update(changed)
    return keyed


def _with_it(rig: Rig, stack: list[Laid], channel: int) -> list[int]:
    """The channel, or all angles of what is turned as a whole by some layer."""
    for layer in stack:
        for columns in layer.turns.columns.tolist():
            if channel in columns:
                return list(columns)
    return [channel]
