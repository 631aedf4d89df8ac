"""Planting feet, hands and tips of chains, and changing plants."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Annotated, Literal

import numpy as np

from hame.character.rig import Chain, Limb, Rig
from hame.clip.clip import Clip
from hame.clip.curve import with_keys
from hame.clip.cycles import cycle_at
from hame.clip.plants import Plant
from hame.clip.spans import OWN, Span, track_name
from hame.edits.chains import switch_chain
from hame.edits.chosen import counted, deriving, listed, refuse_derived
from hame.edits.edit import AtMost, Edit, Frame, Names, Within
from hame.edits.limbs import switch_limb
from hame.edits.outcome import Outcome
from hame.edits.pose import set_pose
from hame.edits.spans import beginning_at, given_way, spans_of
from hame.edits.tying import ControlName, Eased, FigureNumber, refuse_outside, refuse_unknown_owner
from hame.errors import BadEdit
from hame.evaluate.evaluate import evaluate
from hame.evaluate.line import keyed_value, laid_value
from hame.evaluate.ties.links import SIX
from hame.maths import rotations, transforms
from hame.scene.scene import Scene
from hame.scene.seen import pose_values
from hame.solve.drag import place_control

SOLE = {"heel": "the heel", "ball": "the ball", "tip": "the tip of the toes", "palm": "the palm", "wrist": "the wrist"}


@dataclass(frozen=True)
class Planting:
    """One plant that is wished for: of the end of which limb (its IK control), and over which frames."""

    control: ControlName
    start: Frame
    end: Frame
    about: ControlName = ""


def limb_of(rig: Rig, control: str) -> Limb | Chain:
    """The limb or chain whose end a control is; raises :class:`BadEdit` for one that cannot be planted."""
    rig.control(control)
    for limb in rig.limbs:
        if control in (limb.ik, limb.fk[2]):
            return limb
    for chain in rig.chains:
        if control in (chain.ik, chain.name, chain.controls[-1]):
            return chain
    raise BadEdit(
        f"{rig.control(control).label} cannot be planted: only feet, hands and tips of chains can. Select one of them; "
        "nothing was changed"
    )


def plants_of(clip: Clip, limb: Limb | Chain) -> list[Plant]:
    """The plants that are stored of a limb, in the order of time."""
    return spans_of(clip, Plant, limb.ik)


def with_plants(clip: Clip, limb: Limb | Chain, plants: Sequence[Span]) -> Clip:
    return clip.with_tracks({track_name(Plant.kind, limb.ik): plants})


def plant_limb(
    clip: Clip, rig: Rig, limb: Limb | Chain, plant: Plant, scene: Scene | None = None
) -> tuple[Clip, list[str]]:
    """The clip with the end of a limb planted, and what to say of it.

    The limb is keyed where it comes to, so that its place is that key's. Plants that lie in the way end before it,
    begin after it, or go. A limb that is posed by FK is matched to IK there first.
    """
    _refuse(clip, rig, limb, plant)
    notes: list[str] = []
    # Nothing is tied to whether a limb is posed by IK, so the scene need not be worked out for each plant.
    by_ik = clip.pending.get(plant.start, {}).get(limb.switch)
    if by_ik is None:
        by_ik = laid_value(rig, clip, limb.switch, plant.start)
    if by_ik < 1.0:
        if isinstance(limb, Chain):
            matched = switch_chain(clip, rig, plant.start, limb, "ik", "changed", scene=scene)
        else:
            matched = switch_limb(clip, rig, plant.start, limb.name, "ik", "changed", anyway=True, scene=scene)
        clip = matched.clip
        notes += [f"the {limb.label} {limb.kind} is posed by IK from {plant.start} on", *matched.notes]
    clip = _keyed_at(clip, rig, limb, plant.start)
    kept, said = given_way(plants_of(clip, limb), plant, "the plant")
    for span in kept:
        if span.start > plant.end:
            clip = _keyed_at(clip, rig, limb, span.start)
    return with_plants(clip, limb, [*kept, plant]), [*notes, *said]


def _refuse(clip: Clip, rig: Rig, limb: Limb | Chain, plant: Plant) -> None:
    if plant.about and plant.about not in limb.points:
        has = ", ".join(SOLE.get(point, point) for point in limb.points)
        raise BadEdit(
            f"the {limb.label} {limb.kind} has no {plant.about} to turn about; it has {has or 'none'}. Nothing was "
            "changed"
        )
    if plant.thing and plant.figure == OWN:
        raise BadEdit("a limb is planted on the ground or on another one of the cast; nothing was changed")
    refuse_derived(clip, [plant.start])


def _moves(rig: Rig, limb: Limb | Chain) -> list[str]:
    """The channels by which the end of a limb or chain is placed: of a tip, which is a point, without turns."""
    return [f"{limb.ik}/{name}" for name in SIX if not rig.channels[rig.number(f"{limb.ik}/{name}")].locked]


def _keyed_at(clip: Clip, rig: Rig, limb: Limb | Chain, frame: int) -> Clip:
    """The clip with a limb's end keyed at a frame, at the values it has there by its keys."""
    curves = {}
    for address in _moves(rig, limb):
        curve = clip.curves.get(address)
        if curve is None or frame not in curve.frames:
            curves[address] = with_keys(curve, {frame: keyed_value(rig, clip, address, frame)})
    return clip.with_curves(curves) if curves else clip


def plant_at(clip: Clip, limb: Limb | Chain, start: int) -> Plant:
    """The plant of a limb that begins at a frame; raises :class:`BadEdit` where none does."""
    found = beginning_at(clip, Plant, limb.ik, start)
    if found is not None:
        return found
    raise BadEdit(f"no plant of the {limb.label} {limb.kind} begins at {start}; it may have been changed meanwhile")


@dataclass(frozen=True, kw_only=True)
class PlantLimbs(Edit):
    """Feet, hands or tips of chains that keep their place over some frames, on the ground or on one of the cast."""

    kind: Literal["plant"] = "plant"
    plants: Annotated[tuple[Planting, ...], AtMost(500)]
    release: Eased = 0
    land: Eased = 0
    figure: FigureNumber = OWN
    thing: ControlName = ""

    dear = True

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        if not self.plants:
            raise BadEdit("nothing is chosen to plant; select a foot, a hand or the tip of a chain")
        notes: list[str] = []
        refuse_unknown_owner(scene, self.figure, self.thing)
        derived = [wish for wish in self.plants if any(s.derives(np.array([wish.start]))[0] for s in deriving(clip))]
        if derived and len(derived) < len(self.plants):
            left = counted(len(derived), "plant")
            notes.append(f"{left} left out, on frames that show others: shown again where those they show are planted")
        for wish in self.plants:
            if wish in derived and len(derived) < len(self.plants):
                continue
            limb = limb_of(rig, wish.control)
            refuse_outside(scene, wish.start, wish.end, "a plant")
            plant = Plant(wish.start, wish.end, wish.about, self.release, self.land, self.figure, self.thing)
            clip, said = plant_limb(clip, rig, limb, plant, scene)
            notes += said
        inside = {cycle_at(clip, wish.start) for wish in self.plants}
        if any(cycle is not None and cycle.travel == (0.0, 0.0) for cycle in inside):
            notes.append("the cycle goes on the spot, where planted feet stay while it goes on; let it travel a stride")
        return Outcome(clip, tuple(dict.fromkeys(notes)))

    def label(self, rig: Rig, scene: Scene) -> str:
        if not self.plants:
            return "No plants"
        first = self.plants[0]
        what = f"Plant {rig.control(first.control).label}" if len(self.plants) == 1 else f"{len(self.plants)} plants"
        return f"{what} {first.start} to {first.end}" if len(self.plants) == 1 else what


@dataclass(frozen=True, kw_only=True)
class ChangePlant(Edit):
    """One plant with other frames or another way to hold; ``at`` is where it begins now."""

    kind: Literal["replant"] = "replant"
    control: ControlName
    at: Frame
    start: Frame
    end: Frame
    about: ControlName = ""
    release: Eased = 0
    land: Eased = 0
    figure: FigureNumber = OWN
    thing: ControlName = ""

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        limb = limb_of(rig, self.control)
        before = plant_at(clip, limb, self.at)
        refuse_outside(scene, self.start, self.end, "a plant")
        refuse_unknown_owner(scene, self.figure, self.thing)
        others = [span for span in plants_of(clip, limb) if span is not before]
        clip = with_plants(clip, limb, others)
        plant = Plant(self.start, self.end, self.about, self.release, self.land, self.figure, self.thing)
        clip, notes = plant_limb(clip, rig, limb, plant, scene)
        return Outcome(clip, tuple(notes))

    def label(self, rig: Rig, scene: Scene) -> str:
        return f"Change the plant of {rig.control(self.control).label} to {self.start} to {self.end}"


@dataclass(frozen=True, kw_only=True)
class SplitPlant(Edit):
    """One plant made two, the second from a frame on; nothing moves by that."""

    kind: Literal["split"] = "split"
    control: ControlName
    at: Frame
    frame: Frame

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        limb = limb_of(rig, self.control)
        before = plant_at(clip, limb, self.at)
        if not before.start < self.frame <= before.end:
            raise BadEdit(
                f"{self.frame} does not lie inside the plant {before.start} to {before.end}; nothing was changed"
            )
        refuse_derived(clip, [self.frame])
        parts = [replace(before, end=self.frame - 1, release=0), replace(before, start=self.frame, land=0)]
        others = [span for span in plants_of(clip, limb) if span is not before]
        return Outcome(with_plants(clip, limb, [*others, *parts]))

    def label(self, rig: Rig, scene: Scene) -> str:
        return f"Split the plant of {rig.control(self.control).label} at {self.frame}"


@dataclass(frozen=True, kw_only=True)
class LiftPlants(Edit):
    """Plants taken away: the limbs go by their keys again. Without frames, all of the chosen limbs go."""

    kind: Literal["lift"] = "lift"
    controls: Names
    starts: Annotated[tuple[int, ...], AtMost(5000)] = ()

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        found = 0
        for control in self.controls:
            limb = limb_of(rig, control)
            plants = plants_of(clip, limb)
            left = [span for span in plants if self.starts and span.start not in self.starts]
            found += len(plants) - len(left)
            clip = with_plants(clip, limb, left)
        if not found:
            where = f" that begins at {listed(self.starts)}" if self.starts else ""
            raise BadEdit(f"there is no plant{where} to lift; nothing was changed")
        return Outcome(clip)

    def label(self, rig: Rig, scene: Scene) -> str:
        at = f" at {self.starts[0]}" if len(self.starts) == 1 else ""
        return f"Lift the plant of {rig.control(self.controls[0]).label}{at}" if self.controls else "Lift plants"


@dataclass(frozen=True, kw_only=True)
class PlacePlant(Edit):
    """A plant brought to a place on the ground, all of it: its control at x and z (metres), and its heading."""

    kind: Literal["place"] = "place"
    control: ControlName
    at: Frame
    x: Annotated[float, Within(-1000.0, 1000.0, "m")]
    z: Annotated[float, Within(-1000.0, 1000.0, "m")]
    heading: Annotated[float, Within(-1000.0, 1000.0, "rad")] | None = None

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        limb = limb_of(rig, self.control)
        plant = plant_at(clip, limb, self.at)
        return Outcome(placed(clip, rig, limb, plant, self.x, self.z, self.heading, scene))

    def label(self, rig: Rig, scene: Scene) -> str:
        return f"Place the plant of {rig.control(self.control).label} at {self.at}"


def placed(
    clip: Clip, rig: Rig, limb: Limb | Chain, plant: Plant, x: float, z: float, heading: float | None,
    scene: Scene | None,
) -> Clip:  # fmt: skip
    """The clip with the limb brought to x and z, and to a heading, at the first frame of its plant."""
    values = pose_values(rig, clip, plant.start, scene)
    nodes = evaluate(rig, values[None])[0]
    node = nodes[rig.control(limb.ik).node]
    turn = node[3:7]
    if heading is not None:
        ahead = rotations.rotate(turn, np.array([0.0, 0.0, 1.0]))
        by = heading - float(np.arctan2(ahead[0], ahead[2]))
        turn = rotations.multiply(np.array([0.0, np.sin(by / 2), 0.0, np.cos(by / 2)]), turn)
    goal = transforms.transform(np.array([x, node[1], z]), turn, node[7])
    aim = values.copy()
    place_control(rig, aim, rig.control(limb.ik), nodes, goal)
    wanted = {address: float(aim[rig.number(address)]) for address in _moves(rig, limb)}
    return set_pose(clip, rig, plant.start, wanted, "changed", scene=scene).clip
