"""Drags worked out: where one begins, the pose of each of its states, and edits that are tried. No socket here."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np

from hame.character.rig import Rig
from hame.clip.clip import Clip
from hame.clip.plants import Plant
from hame.edits.byhand import moved_by_hand
from hame.edits.chosen import refuse_derived
from hame.edits.making import made
from hame.edits.pose import check_values
from hame.edits.whilemoved import answers, as_keyed
from hame.errors import BadEdit
from hame.evaluate.evaluate import pose_of
from hame.evaluate.line import is_tied
from hame.evaluate.posed import Posed
from hame.maths.rotations import Array
from hame.measure.balance import balances
from hame.scene.gripped import limbs_planted, planted_parts
from hame.scene.joined import bound_to, seen
from hame.scene.scene import Figure, Scene
from hame.solve.begun import Begun
from hame.solve.begun import begin as begin_pull
from server.shots import store
from server.shots.balance import balance_out
from server.shots.messages import Begin, Drag, Few, Move, Pull, Set, Try, Turn, Watch
from server.shots.models import Take
from server.shots.packing import Moved, packed_drag
from server.shots.pulls import pulled
from server.shots.scenes import cast_of
from server.shots.watching import changed_values, paths_after


@dataclass(frozen=True, eq=False)
class Start:
    """Where a drag began: whose, at which frame and channel values (C,), and the nodes (N, 8) of that pose.

    ``waiting`` are values that are not stored yet, and ``bound`` those who are tied to it, itself among them; nobody
    where there are no ties. ``answering`` are the same where something hangs on it or it looks somewhere, which is told
    anew with every move.
    """

    casting: int
    rig: Rig
    frame: int
    values: Array
    nodes: Array
    waiting: Mapping[str, float]
    bound: Mapping[int, Figure]
    answering: Mapping[int, Figure]
    stood: Mapping[int, Array]
    figure: Figure
    weighed: bool
    scene: Scene
    watch: Watch | None

    @cached_property
    def pull(self) -> Begun:
        """All that a pull from here needs to know; raises :class:`HameError` for a prop."""
        planted = limbs_planted(self.rig, self.figure.clip, self.frame)
        return begin_pull(self.rig, self.values, self.nodes, self.figure.protected, planted, chains=True)

    @cached_property
    def planted(self) -> dict[str, Plant]:
        """By part of the body, what a plant holds."""
        return planted_parts(self.rig, self.figure.clip, self.frame)


def _followed(start: Start, after: Array) -> list[Moved]:
    """Everybody who moves when a hand has brought a figure to channel values (C,), itself first."""
    set_by_hand = {start.rig.addresses[n]: float(after[n]) for n in np.flatnonzero(after != start.values)}
    values = {**start.waiting, **set_by_hand}
    now = None
    if start.answering and set_by_hand:
        layer = start.watch.layer if start.watch else 0
        now = as_keyed(start.scene, start.answering, start.casting, start.frame, values, layer)
    if now is None:
        if not start.bound:
            return [Moved(start.casting, start.rig, start.values, after, after)]
        now = {n: posed.values[0] for n, posed in seen(start.bound, start.frame, {start.casting: values}).items()}
    own = Moved(start.casting, start.rig, start.values, after, now[start.casting])
    others = [
        Moved(number, start.scene.figures[number].rig, start.stood[number], start.stood[number], shown)
        for number, shown in now.items()
        if number != start.casting
    ]
    return [own, *others]


def _stands(start: Start, moved: Moved) -> dict[str, Any] | None:
    """How a figure stands in the pose of a drag; None for a prop."""
    nodes = pose_of(moved.rig, moved.shown)[0]
    found = balances(start.figure.clip, Posed(moved.rig, moved.shown[None], nodes[None]), start.frame)
    return balance_out(moved.rig, nodes, found[0]).model_dump() if found else None


def begun(take: Take, message: Begin) -> tuple[Start, bytes]:
    """The start of a drag, and its answer.

    Raises
    ------
    HameError
        If nothing can be dragged there.
    """
    revision = take.revision  # clips may be read later than this
    scene, of = _scene(take), message.casting
    figure = scene.figure(of)
    if not (message.watch and message.watch.layer):
        refuse_derived(figure.clip, [message.frame])
    rig = figure.rig
    waiting = check_values(rig, message.values)
    bound = bound_to(scene.figures, of)
    stood = {n: posed.values[0] for n, posed in seen(bound, message.frame, {of: waiting}).items()}
    tied = any(is_tied(one.clip) for one in bound.values())
    values = stood[of]
    start = Start(
        of, rig, message.frame, values, pose_of(rig, values)[0], waiting, bound if tied else {},
        bound if answers(figure, message.frame) else {}, stood, figure, message.balance, scene, message.watch,
    )  # fmt: skip
    # What the drag counts from is what its step is made on.
    return start, packed_drag(_followed(start, values), message.seq, {"revision": revision})


def posed(start: Start, message: Drag) -> tuple[dict[str, float], bytes]:
    """The channel values that a state of a drag changes, by address, and its answer; raises :class:`HameError`."""
    said: dict[str, Any] = {}
    if isinstance(message, Pull | Few):
        result, said = pulled(start.pull, start.planted, start.figure.protected, message)
        after = result.values
    else:
        after = _dragged(start.rig, start.values, message, start.nodes)
    moved = _followed(start, after)
    if start.weighed:
        said["balance"] = _stands(start, moved[0])
    return changed_values(start.rig.addresses, start.values, after), packed_drag(moved, message.seq, said or None)


def tried(take: Take, message: Try, user: Any) -> bytes:
    """The answer of how a pose would be after an edit; raises :class:`HameError` if it cannot be made."""
    scene, of = _scene(take), message.casting
    clips: dict[int, Clip] = {}
    if message.instead is not None:
        clips = store.as_before_last(take, user, message.instead)
    if message.edit is not None and message.edit.goes_away():
        raise BadEdit("this takes too long to be seen while it is pointed at; have it worked out first")
    if message.edit is not None:
        base = cast_of(take.shot).scene(lambda casting: clips.get(casting) or store.open_clip(take, casting))
        clips = {**clips, **made(message.edit, base, of).clips}
    before = bound_to(scene.figures, of)
    changed = {**scene.figures, **{n: scene.figure(n).with_clip(clip) for n, clip in clips.items()}}
    after = bound_to(changed, of)
    stood = seen(before | {n: scene.figure(n) for n in after}, message.frame)
    moved = [
        Moved(number, posed.rig, stood[number].values[0], posed.values[0], posed.values[0])
        for number, posed in seen({**{n: changed[n] for n in before}, **after}, message.frame).items()
    ]
    paths = None if message.watch is None else paths_after(scene, message.watch, clips)
    return packed_drag(moved, message.seq, None if message.watch is None else {"paths": paths})


def _scene(take: Take) -> Scene:
    return cast_of(take.shot).scene(lambda casting: store.open_clip(take, casting))


def _dragged(rig: Rig, start: Array, message: Move | Turn | Set, nodes: Array | None = None) -> Array:
    """Channel values (C,) for the present state of a drag that began at ``start``, whose nodes may be known.

    Raises
    ------
    HameError
        If a control is unknown, an axis has no length, the view no turn or a value is past its limits.
    """
    by, angle, pivot, values = np.zeros(3), 0.0, None, {}
    if isinstance(message, Move):
        by = np.array(message.offset, float)
    elif isinstance(message, Turn):
        by, angle = np.array(message.axis, float), message.angle
        pivot = None if message.pivot is None else np.array(message.pivot, float)
    else:
        values = message.values
    return moved_by_hand(
        rig, start, message.do, tuple(message.controls), by, angle, values, message.axes,
        np.array(message.view, float), pivot, message.sides, nodes,
    )  # fmt: skip
