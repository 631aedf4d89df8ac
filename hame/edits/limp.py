"""A figure that goes limp from a frame on: its fall worked out, and taken as few keys."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING, Annotated, Literal

import numpy as np
import numpy.typing as npt

from hame.character.rig import Rig
from hame.clip.belonging import Belonging
from hame.clip.clip import Clip
from hame.clip.curve import Curve, from_table
from hame.clip.key import (
    BEZIER,
    FRAME,
    FREE_BOTH,
    HANDLES,
    IN_TIME,
    IN_VALUE,
    VALUE,
    no_keys,
)  # fmt: skip
from hame.clip.plants import Plant
from hame.clip.rule import Rule
from hame.clip.spans import Span
from hame.edits.chosen import counted, refuse_derived
from hame.edits.cleaning import fitted_table
from hame.edits.edit import Edit, Frame, Within
from hame.edits.limbs import switched_over
from hame.edits.merging import parted_at
from hame.edits.spans import given_way
from hame.errors import BadEdit
from hame.evaluate.evaluate import evaluate
from hame.evaluate.posed import Posed
from hame.maths.rotations import Array
from hame.maths.thinning import thinned
from hame.scene.carried import carried
from hame.scene.joined import played
from hame.scene.scene import Scene
from hame.solve.begun import begin
from hame.work import refuse_poses

if TYPE_CHECKING:
    from hame.limp.build import Thing
    from hame.limp.fall import Fallen

LONGEST, SECONDS = 240, 12.0  # frames, and what is worked out at most: who falls lies by then
NEAR, NEAR_TURN = 0.003, float(np.radians(1.0))  # metres and radians that any joint may be off its fall
_BEGIN, _FINER, _TRIES = {"m": 0.004, "rad": 0.012, "": 0.01}, 0.6, 8
_ALIKE = 1e-6
_ROUNDS = 4  # by which what lies over the keys is made up for
Fit = tuple[npt.NDArray[np.int64], Array]
"""Keys (K,), counted from the first frame, and the values of the handles (K - 1, 2) of the pieces between."""
Share = Annotated[float, Within(0.0, 1.0, "")]


@dataclass(frozen=True, kw_only=True)
class GoLimp(Edit):
    """The figure falls from frame ``at`` on, for so many ``frames``, from how it stands and moves there.

    It falls within the ranges of its joints onto the ground and onto props, and what it carries falls as well.
    ``trunk``, ``head``, ``arms`` and ``legs`` say how much muscle is left in these, of all: by that they hold how they
    stand. What was keyed on these frames goes, and so do plants and ties; what comes later stays.
    """

    kind: Literal["go limp"] = "go limp"
    at: Frame
    frames: Annotated[int, Within(2, LONGEST, "frames")] = 48
    trunk: Share = 0.0
    head: Share = 0.0
    arms: Share = 0.0
    legs: Share = 0.0

    dear = True
    away = True

    def apply(self, scene: Scene, of: int) -> tuple[dict[int, Clip], tuple[str, ...]]:
        self.check(scene, of)
        return self.taken(scene, of, list(fallen(self, scene, of)))

    def check(self, scene: Scene, of: int) -> None:
        """Raises :class:`BadEdit` where there is nothing that could fall, or keys that are shown again."""
        figure = scene.figure(of)
        last = self.at + self.frames
        if not figure.rig.has_control("body") or figure.rig.plan.is_prop:
            raise BadEdit("a thing has no body that could go limp; it falls when it is let go. Nothing was changed")
        if not scene.start <= self.at < scene.end:
            raise BadEdit(f"{self.at} lies outside of the shot, from which on it could fall; nothing was changed")
        most = int(SECONDS * scene.fps)
        if self.frames > max(most, 2):
            raise BadEdit(
                f"a fall goes over {SECONDS:g} seconds at most, which are {most} frames here. Nothing was changed"
            )
        refuse_derived(figure.clip, range(self.at, last + 1))
        refuse_poses(10 * self.frames, "a fall")

    def taken(self, scene: Scene, of: int, fell: Sequence[Fallen]) -> tuple[dict[int, Clip], tuple[str, ...]]:
        """The clips with a fall as keys, by figure, and what to say of it."""
        dropped = sorted(fell[0].things)
        clips = {of: self._taken(scene, of, fell)}
        for number in dropped:
            clips[number] = self._dropped(scene, number, [one.things[number] for one in fell])
        return clips, self._notes(scene, of, dropped, clips)

    def _taken(self, scene: Scene, of: int, fell: Sequence[Fallen]) -> Clip:
        from hame.limp.taken import values_of

        figure, last = scene.figure(of), self.at + self.frames
        free = _untied(figure.clip, self.at, last)
        posed = _alone(scene, of, free, self.at, last)
        values, addresses = values_of(posed, fell)
        clip = free
        later = any(frame > last for frame in figure.clip.key_frames())
        for limb in figure.rig.limbs:
            rest = figure.rig.channels[figure.rig.number(limb.switch)].rest
            clip = clip.with_curves(
                {limb.switch: switched_over(clip.curves.get(limb.switch), rest, self.at, last, 0.0, True, later)}
            )
        return keyed(scene, of, clip, self.at, last, values, addresses)

    def _dropped(self, scene: Scene, number: int, roots: Sequence[Array]) -> Clip:
        from hame.limp.taken import root_values

        figure, last = scene.figure(number), self.at + self.frames
        free = _untied(figure.clip, self.at, last)
        values, addresses = root_values(_alone(scene, number, free, self.at, last), np.array(roots))
        return keyed(scene, number, free, self.at, last, values, addresses)

    def _notes(self, scene: Scene, of: int, dropped: Sequence[int], clips: Mapping[int, Clip]) -> tuple[str, ...]:
        last = self.at + self.frames
        notes = [f"it falls from {self.at} to {last}"]
        if dropped:
            notes.append(f"{', '.join(scene.figure(number).name for number in dropped)} fell as well")
        later = any(frame > last for frame in clips[of].key_frames())
        if later:
            notes.append(f"what is keyed after {last} stays: it gets up into that; take it away if it shall lie")
        return tuple(notes)

    def label(self, rig: Rig, scene: Scene) -> str:
        return f"Limp from {self.at} for {counted(self.frames, 'frame')}"


def fallen(edit: GoLimp, scene: Scene, of: int) -> Iterable[Fallen]:
    """The frames of a fall, one by one as they are worked out, of which the first is how the figure stands."""
    # The engine is large: it is loaded where somebody falls.
    from hame.limp.build import Thing
    from hame.limp.fall import Muscle, fall

    cast = {n: figure for n, figure in scene.figures.items() if figure.plays}
    before = max(edit.at - 1, scene.start)
    frames = np.arange(before, edit.at + edit.frames + 1)
    if before == edit.at:  # it begins with the shot, and is taken to move as it goes on there
        frames = np.array([edit.at, *range(edit.at, edit.at + edit.frames + 1)])
    posed = played(cast, np.unique(frames))
    ahead = len(np.unique(frames)) - edit.frames - 1
    mine = posed[of]
    now = begin(mine.rig, mine.values[ahead], mine.nodes[ahead])
    was = begin(mine.rig, mine.values[0], mine.nodes[0])
    held = {load.of for load in carried(cast, posed, before).get(of, []) if load.kilograms[ahead] > 0.0}
    things: dict[int, Thing] = {}
    for number, one in posed.items():
        if number == of or not one.rig.plan.is_prop or number not in scene.skins or _is_camera(one.rig):
            continue
        after = Posed(one.rig, one.values[ahead:], one.nodes[ahead:])
        ago = Posed(one.rig, one.values[:1], one.nodes[:1])
        things[number] = Thing(one.rig, scene.skins[number], after, ago, number in held)
    muscle = Muscle(edit.trunk, edit.head, edit.arms, edit.legs)
    return fall(now, was, scene.skins.get(of), things, edit.frames, scene.fps, scene.gravity, muscle)


def _is_camera(rig: Rig) -> bool:
    return any(control.name == "camera" for control in rig.controls)


def _alone(scene: Scene, of: int, clip: Clip, first: int, last: int) -> Posed:
    cast = {n: figure for n, figure in scene.figures.items() if figure.plays}
    return played({**cast, of: cast[of].with_clip(clip)}, np.arange(first, last + 1))[of]


def _untied(clip: Clip, first: int, last: int) -> Clip:
    """The clip without plants, ties and what is laid over by rule after one frame up to another."""
    gone = Span(first + 1, last)
    tracks: dict[str, Sequence[Span]] = {}
    for track, spans in clip.tracks.items():
        if spans and isinstance(spans[0], (Plant, Belonging, Rule)):
            tracks[track] = given_way(spans, gone, "")[0]
    return clip.with_tracks(tracks)


def keyed(
    scene: Scene, of: int, clip: Clip, first: int, last: int, values: Array, addresses: Sequence[str],
    within: float = NEAR, what: str = "fall",
) -> Clip:  # fmt: skip
    """The clip with few keys that hold values (F, C) of some channels from one frame to another: no joint is off by
    more than so many metres or a degree.

    Raises
    ------
    BadEdit
        If what lies over the keys keeps it from that.
    """
    rig = scene.figure(of).rig
    wanted = evaluate(rig, values)[:, rig.joint_nodes]
    rows = [rig.number(address) for address in addresses]
    units = [rig.channels[row].unit for row in rows]
    aimed, near = values[:, rows].copy(), 1.0
    every = np.arange(last - first + 1), np.zeros((last - first, 2))
    found = clip

    def laid(fits: Sequence[Fit]) -> Posed:
        nonlocal found
        found = clip.with_curves({
            address: _laid(clip.curves.get(address), first, last, aimed[:, n], fits[n])
            for n, address in enumerate(addresses)
        })  # fmt: skip
        return _alone(scene, of, found, first, last)

    for _ in range(_ROUNDS):  # layers over the keys add to them: so much less is keyed
        over = values[:, rows] - laid([every] * len(rows)).values[:, rows]
        if float(np.abs(over).max()) < _ALIKE:
            break
        aimed += over
    metres = radians = np.inf
    for _ in range(_TRIES):
        tolerances = np.array([near * _BEGIN[unit] for unit in units])
        nodes = laid(thinned(np.ascontiguousarray(aimed.T), tolerances)).nodes[:, rig.joint_nodes]
        metres = float(np.linalg.norm(nodes[:, :, :3] - wanted[:, :, :3], axis=2).max())
        dots = np.abs((nodes[:, :, 3:7] * wanted[:, :, 3:7]).sum(axis=2)).clip(0.0, 1.0)
        radians = float(2.0 * np.arccos(dots).max())
        if metres <= within and radians <= NEAR_TURN:
            return found
        near *= _FINER
    raise BadEdit(
        f"its {what} cannot be keyed below what lies over it: {1000 * metres:.0f} mm would be left; mute its layers "
        "first. Nothing was changed"
    )


def _laid(curve: Curve | None, first: int, last: int, values: Array, fit: Fit) -> Curve:
    """A curve through values (F,) by some keys from one frame to another; before and after it is what it was."""
    keys, handles = fit
    inner = fitted_table(np.asarray(keys, float) + first, values[keys], handles, np.full(len(keys), float(BEZIER)))
    if curve is None:
        return from_table(inner)
    table = parted_at(curve, np.array([float(first)]))
    before, at = table[table[:, FRAME] < first], table[table[:, FRAME] == first]
    after = table[table[:, FRAME] > last].copy()
    if len(at) and abs(at[0, VALUE] - inner[0, VALUE]) < _ALIKE:
        inner[0, [IN_TIME, IN_VALUE]] = at[0, [IN_TIME, IN_VALUE]]
        inner[0, HANDLES] = FREE_BOTH
    before = before.copy()
    before[-1:, HANDLES] = FREE_BOTH
    return from_table(np.concatenate([no_keys(), before, inner, after]))
