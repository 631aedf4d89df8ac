"""Weight from foot to foot: the mass comes over the foot that is to bear it before the other one leaves the ground."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from math import radians
from typing import Annotated, Literal

import numpy as np

from hame.character.masses import centre_of_mass
from hame.character.rig import Limb, Rig
from hame.clip.clip import Clip
from hame.clip.curve import from_keys
from hame.clip.plants import Plant
from hame.clip.played import played_spans
from hame.clip.spans import control_of
from hame.edits.asif import AsIf
from hame.edits.bodily import AXES, BODY, in_its_axes, laid_over, laid_over_body
from hame.edits.chosen import counted, listed, refuse_derived
from hame.edits.edit import AtMost, Edit, Frame, Within
from hame.edits.outcome import Outcome
from hame.edits.tying import refuse_outside
from hame.errors import BadEdit
from hame.evaluate.evaluate import evaluate
from hame.evaluate.leaning import lean_of
from hame.evaluate.posed import Posed
from hame.evaluate.shake import turn_links
from hame.maths import rotations
from hame.maths.rotations import Array
from hame.measure.balance import brought_inside, hull, inside, laden_centre, middle_of
from hame.measure.loads import Load
from hame.measure.reach import too_short
from hame.measure.soles import sole_outline
from hame.program import NONE
from hame.scene.scene import Scene
from hame.work import refuse_poses

SLOW = 0.05
"""The Froude number of a step, speed squared by gravity and the length of the leg, up to which a mass is brought over
the foot: a quicker one is borne in motion (Alexander and Jayes 1983 for the number; the bound is of this tool)."""
WITHIN = 0.008  # metres inside of the sole's outline
_HALF, _ROUNDS, _GAIN = 0.45, 12, 0.8  # of the way to the middle at most; a body takes so much of its mass along
_SHORT = 0.001
_NO_TURN = 1e-9


@dataclass(frozen=True)
class Step:
    """A foot that leaves the ground after ``release``, and the limbs that bear the body from then on."""

    release: int
    leaves: str
    bear: tuple[Limb, ...]


@dataclass(frozen=True, kw_only=True)
class OverFeet(Edit):
    """The mass brought over the feet that stay, each time before another one leaves, from ``first`` to ``last``.

    The body's place alone gets keys, one for each step; plants stay. Poses with a name stay too, but for those at the
    frames of ``free``. Where it is wished, hips ``tilt`` down to the side that is let go, and ``turn`` with the leg
    that goes ahead, the chest against them.
    """

    kind: Literal["over feet"] = "over feet"
    first: Frame
    last: Frame
    free: Annotated[tuple[Frame, ...], AtMost(5000)] = ()
    tilt: Annotated[float, Within(0.0, radians(20), "radians", "hips tilt by 20° at most. Nothing was changed")] = 0.0
    turn: Annotated[float, Within(0.0, radians(30), "radians", "it turns by 30° at most. Nothing was changed")] = 0.0

    dear = True

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        refuse_outside(scene, self.first, self.last, "a stretch of steps")
        if rig.plan.is_prop or not rig.has_control(BODY):
            raise BadEdit("a thing has no feet that bear it; nothing was changed")
        refuse_derived(clip, range(self.first, self.last + 1))
        refuse_poses((self.last - self.first + 1) * _ROUNDS, "weight from foot to foot")
        seen = AsIf(scene)
        steps = steps_of(clip, rig, self.first, self.last)
        if not steps:
            raise BadEdit(
                f"from {self.first} to {self.last} no planted foot leaves while another one stays planted; plant the "
                "feet first. Nothing was changed"
            )
        fixed = sorted({self.first, self.last, *self._named(clip)})
        quick, held, todo = [], [], []
        for step in steps:
            if _froude(seen, clip, step) > SLOW:
                quick.append(step.release)
            elif {step.release - 1, step.release} & set(fixed):
                held.append(step.release)
            else:
                todo.append(step)
        swung = _swung(seen, clip, rig, todo, fixed, self.tilt, self.turn) if self.tilt or self.turn else clip
        by, keyed = _brought(seen, swung, rig, todo, fixed)
        if not by and swung is not clip and swung.curves != clip.curves:
            by, keyed = {step.release: np.zeros(2) for step in todo}, swung
        notes = [f"the weight is over the next foot before {counted(len(by), 'release')}, by as many keys of the body"]
        if quick:
            notes.append(f"quick steps at {listed(quick)} are borne in motion, and were left to that")
        if held:
            notes.append(f"at {listed(held)} a pose stays where it is, and so does the weight")
        if not by:
            already = len(todo) and "it is over the next foot already before each release"
            raise BadEdit(f"{already or '; '.join(notes[1:])}. Nothing was changed")
        return Outcome(keyed, ("; ".join(notes), *missed_by_legs(seen, clip, keyed, rig, self.first, self.last)))

    def _named(self, clip: Clip) -> set[int]:
        named = {frame for frame, label in clip.labels.items() if label.name}
        return {frame for frame in named - set(self.free) if self.first <= frame <= self.last}

    def label(self, rig: Rig, scene: Scene) -> str:
        return f"Weight from foot to foot, {self.first} to {self.last}"


def steps_of(clip: Clip, rig: Rig, first: int, last: int) -> list[Step]:
    """The steps whose foot leaves between two frames, in the order of time: where another foot stays planted."""
    legs = {limb.ik: limb for limb in rig.limbs if limb.kind == "leg"}
    plants = [
        (control_of(track), span)
        for track, spans in played_spans(clip, rig, Plant.kind, first, last).items()
        for span in spans
        if isinstance(span, Plant) and control_of(track) in legs
    ]
    found = []
    for control, plant in plants:
        at = plant.end
        if not first < at < last or any(c == control and p.start <= at + 1 <= p.end for c, p in plants):
            continue
        stay = tuple(legs[c] for c, p in plants if c != control and p.start < at and p.end > at)
        if stay:
            found.append(Step(at, control, stay))
    return sorted(found, key=lambda step: step.release)


def _froude(seen: AsIf, clip: Clip, step: Step) -> float:
    posed = seen.posed(clip, np.array([step.release - 2.0, step.release + 2.0]))
    a, b = centre_of_mass(posed.rig, posed.nodes)[:, [0, 2]]
    speed = float(np.linalg.norm(b - a)) * seen.scene.fps / 4.0
    return speed**2 / (seen.scene.gravity * max(sum(step.bear[0].lengths), 1e-6))


def _brought(
    seen: AsIf, clip: Clip, rig: Rig, steps: Sequence[Step], fixed: Sequence[int]
) -> tuple[dict[int, Array], Clip]:
    """By release, how far (2,) the body goes along x and z there, metres in the world; and the clip with that."""
    by: dict[int, Array] = {}
    now = clip
    for _ in range(_ROUNDS):
        more = {
            step.release: _missing(*seen.laden(now, np.array([step.release - 1.0, step.release])), step)
            for step in steps
        }
        more = {release: way for release, way in more.items() if np.abs(way).max() > 0.0}
        if not more:
            break
        for release, way in more.items():
            by[release] = by.get(release, np.zeros(2)) + way / _GAIN
        now = _moved(seen, clip, rig, by, fixed)
    return by, now


def _swung(
    seen: AsIf, clip: Clip, rig: Rig, steps: Sequence[Step], fixed: Sequence[int], tilt: float, turn: float
) -> Clip:  # fmt: skip
    """The clip with hips that tilt and turn at each release, the chest against them; as it was at other frames."""
    chain = lean_of(rig)
    if chain is None or not steps:
        return clip
    frames = sorted({step.release for step in steps})
    sides = {step.release: 1.0 if step.leaves.endswith(".R.goal") else -1.0 for step in steps}
    side = np.array([sides[frame] for frame in frames])
    posed = seen.posed(clip, np.array(frames, float))
    axes = posed.nodes[:, chain.axes, 3:7] if chain.axes != NONE else np.tile(rotations.IDENTITY, (len(frames), 1))
    turned = np.zeros((len(chain.links), len(frames), 3))
    for row, link in enumerate(chain.links):
        control = rig.controls[link.control]
        if control.kind == "trunk" and not link.distance:
            # So much as it lacks: what is done again is not doubled.
            has = _stands_turned(rig, control.node, chain.axes, posed.nodes, axes) * side[:, None]
            turned[row, :, 1] = side * np.maximum(turn - np.maximum(has[:, 1], 0.0), 0.0)
            turned[row, :, 2] = side * np.maximum(tilt - np.maximum(has[:, 2], 0.0), 0.0)
        elif control.name == "chest" or _above(rig, control.name):
            has = _stands_turned(rig, rig.control("chest").node, chain.axes, posed.nodes, axes) * -side[:, None]
            turned[row, :, 1] = -side * np.maximum(turn - np.maximum(has[:, 1], 0.0), 0.0)
    at = [rig.controls[link.control].node for link in chain.links]
    result = posed.values.copy()
    turn_links(rig, chain.links, turned, axes, np.moveaxis(posed.nodes[:, at, 3:7], 1, 0), result)
    stay = dict.fromkeys((frame for frame in fixed if frame not in sides), 0.0)
    overs = {}
    for n, channel in enumerate(rig.channels):
        by = result[:, n] - posed.values[:, n]
        if np.abs(by).max() > _NO_TURN:
            overs[channel.address] = from_keys(stay | dict(zip(frames, by.tolist(), strict=True)))
    return laid_over(clip, rig, overs)


def _stands_turned(rig: Rig, node: int, about: int, nodes: Array, axes: Array) -> Array:
    """By which vectors (F, 3) a node is turned from how it rests, in some axes (F, 4), radians."""
    rest = evaluate(rig, rig.rest[None])[0]
    rest_axes = rest[about, 3:7] if about != NONE else rotations.IDENTITY
    was = rotations.multiply(rotations.inverse(rest_axes), rest[node, 3:7])
    now = rotations.multiply(rotations.inverse(axes), nodes[:, node, 3:7])
    return rotations.to_vector(rotations.multiply(now, rotations.inverse(was)))


def _above(rig: Rig, name: str) -> bool:
    """Whether a control hangs on the chest."""
    while name:
        if name == "chest":
            return True
        name = rig.control(name).parent
    return False


def _missing(posed: Posed, loads: Sequence[Load], step: Step) -> Array:
    """How far (2,) the mass, with what is carried, has to go to be inside of what bears it on both of two frames."""
    centres = laden_centre(posed, loads)[:, [0, 2]]
    areas = [
        hull(
            np.concatenate([sole_outline(posed.rig, limb, posed.nodes[n : n + 1])[0][:, [0, 2]] for limb in step.bear])
        )
        for n in range(2)
    ]
    way = np.zeros(2)
    for centre, area in (*zip(centres, areas, strict=True), (centres[0], areas[0])):
        wished = min(WITHIN, _HALF * inside(area, middle_of(area)))
        if inside(area, centre + way) >= 0.5 * wished:
            continue
        way = brought_inside(area, centre + way, wished) - centre
    return way


def _moved(seen: AsIf, clip: Clip, rig: Rig, by: Mapping[int, Array], fixed: Sequence[int]) -> Clip:
    """The clip with the body's place changed so at some frames, and as it was at others and beyond them."""
    releases = sorted(by)
    posed = seen.posed(clip, np.array(releases, float))
    local = in_its_axes(posed, np.array([[by[release][0], 0.0, by[release][1]] for release in releases]))
    stay = dict.fromkeys(fixed, 0.0)
    overs = {
        axis: from_keys(stay | dict(zip(releases, local[:, n].tolist(), strict=True))) for n, axis in enumerate(AXES)
    }
    return laid_over_body(clip, rig, overs)


def missed_by_legs(seen: AsIf, before: Clip, after: Clip, rig: Rig, first: int, last: int) -> tuple[str, ...]:
    """What legs do not reach any more on frames from one to another."""
    frames = np.arange(float(first), last + 1)
    held = np.ones(len(frames), np.bool_)
    said = []
    old, new = seen.posed(before, frames), seen.posed(after, frames)
    for limb in (limb for limb in rig.limbs if limb.kind == "leg"):
        more = too_short(limb, new.nodes, held) - too_short(limb, old.nodes, held)
        worst = int(more.argmax())
        if more[worst] > _SHORT:
            said.append(f"the {limb.label} leg is {1000 * more[worst]:.0f} mm too short at {first + worst}")
    return tuple(said)
