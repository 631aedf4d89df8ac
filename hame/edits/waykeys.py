"""Ways and keys: a way made into keys, and a motion that is keyed given a way."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from hame.character.rig import Rig
from hame.clip import layers
from hame.clip.belonging import Belonging
from hame.clip.clip import Clip
from hame.clip.curve import Curve, from_keys, from_table
from hame.clip.going import legs_of
from hame.clip.key import BEZIER, FRAME, SHAPE, STEP
from hame.clip.plants import Plant
from hame.clip.played import played_spans
from hame.clip.quantities import QUANTITIES, TRAITS, quantity_address
from hame.clip.spans import Span, Track
from hame.clip.way import Way, ways_of
from hame.edits.asif import AsIf
from hame.edits.chosen import counted, refuse_derived
from hame.edits.cleaning import fitted_table
from hame.edits.edit import Edit, Frame
from hame.edits.layers import new_layer
from hame.edits.limp import keyed
from hame.edits.outcome import Outcome
from hame.edits.wayed import bare, feet_at, refuse_unable, rewayed, way_at, with_way
from hame.edits.wayside import without_way
from hame.errors import BadEdit
from hame.evaluate.going.kept import under_master, written_by
from hame.evaluate.line import laid_values
from hame.gait.byhand import Hand
from hame.gait.footfalls import OTHER, Footfall
from hame.gait.line import Line, Point, line_of
from hame.maths.thinning import thinned
from hame.measure.manner import footfalls_in, manner_of
from hame.scene.scene import Scene
from hame.work import refuse_poses

NEAR = 0.002  # metres that any joint may be off what the way made
_EVERY = 2  # footfalls from a point of a way that is read to the next
_LAID = {"m": 0.0002, "rad": 0.0008, "": 0.0008}


@dataclass(frozen=True, kw_only=True)
class WayKeys(Edit):
    """A way, and those before it, made into the fewest keys by which no joint is off by more than 2 mm or a degree, and
    into plants; it is ordinary motion from then on."""

    kind: Literal["way keys"] = "way keys"
    at: Frame

    dear = True

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        last = way_at(clip, self.at)
        mine = [way for way in ways_of(clip) if way.start <= last.start]
        first, end = mine[0].start, last.end
        refuse_poses(10 * (end - first), "a way made into keys")
        frames = np.arange(float(first), end + 1)
        values = AsIf(scene).posed(clip, frames).values
        free = _planted(clip, rig, first, end)
        for way in mine:
            free = without_way(free, way)
        addresses = [rig.addresses[n] for n in written_by(rig) if not rig.channels[n].locked]
        addresses = [a for a in addresses if a in free.curves or np.ptp(values[:, rig.number(a)]) > 1e-9
                     or abs(values[0, rig.number(a)] - rig.rest[rig.number(a)]) > 1e-9]  # fmt: skip
        found = keyed(scene, scene.of, free, first, end, values, addresses, NEAR, "way")
        count = sum(len(curve) for a, curve in found.curves.items() if not layers.parted(a)[0])
        later = [frame for frame in clip.key_frames() if frame > end]
        notes = [f"{counted(count, 'key')} of {counted(len(addresses), 'channel')}, and plants"]
        if later:
            notes.append(f"what is keyed after {end} is seen again")
        return Outcome(found, tuple(notes))

    def label(self, rig: Rig, scene: Scene) -> str:
        return f"Way from {self.at} into keys"


def _planted(clip: Clip, rig: Rig, first: int, end: int) -> Clip:
    """The clip with its footfalls as plants of their own."""
    changes: dict[str, list[Span]] = {}
    for track, spans in played_spans(clip, rig, Plant.kind, first, end).items():
        limb = next((limb for limb in legs_of(rig).values() if limb.ik == Track.named(track).about), None)
        if limb is not None:
            changes[track] = [replace(s, end=min(s.end, end)) if s.end > end else s for s in spans if s.start <= end]
    return clip.with_tracks(changes)


@dataclass(frozen=True, kw_only=True)
class GiveWay(Edit):
    """A walk or run that is keyed from one frame to another given a way: its feet stand as they stood, and how it
    differs from the plain gait of its manner lies in a layer, so that all stays as it was until the way is changed."""

    kind: Literal["give way"] = "give way"
    first: Frame
    last: Frame

    dear = True

    def change(self, clip: Clip, rig: Rig, scene: Scene) -> Outcome:
        refuse_unable(rig)
        if self.last - self.first < 12:
            raise BadEdit("a way is read off some steps: choose more frames. Nothing was changed")
        refuse_derived(clip, range(self.first, self.last + 1))
        refuse_poses(4 * (self.last - self.first), "a way that is read")
        seen = AsIf(scene)
        posed, ground = seen.grounded(clip, self.first, self.last)
        found = [one for one in footfalls_in(rig, posed.nodes, self.first, scene.fps, ground) if one.last > one.first]
        stood = [one for one in found if one.first <= self.first + 1]
        lands = [one for one in found if one.first > self.first + 1]
        if len(lands) < 3 or len(stood) < 1:
            raise BadEdit(
                f"feet come down {counted(len(lands), 'time')} from {self.first} to {self.last}: no steps that could "
                "be given a way. Nothing was changed"
            )
        if any(a.side == b.side for a, b in zip(lands[:-1], lands[1:], strict=True)):
            raise BadEdit(
                "feet do not go one after the other there; only such steps are given a way. Nothing was changed"
            )
        manner = manner_of(rig, posed.nodes, found, self.first, scene.fps)
        laid = _way_for(self, clip, scene, stood, lands, manner.step_frames)
        traits = {name: float(np.clip(getattr(manner.traits, name), QUANTITIES[name].low, QUANTITIES[name].high))
                  for name in TRAITS}  # fmt: skip
        way = replace(ways_of(laid)[-1], manner=tuple(sorted(traits.items())))
        laid = laid.with_tracks({Way.kind: [*ways_of(laid)[:-1], way]})
        laid, notes = rewayed(clip, laid, rig, scene)
        after, count = _differing(clip, laid, rig, scene, self.first, self.last)
        said = f"{counted(len(lands), 'footfall')}; what differs is {counted(count, 'key')} in a layer over it"
        return Outcome(after, (*notes, said))

    def label(self, rig: Rig, scene: Scene) -> str:
        return f"Give {self.first} to {self.last} a way"


def _way_for(
    edit: GiveWay, clip: Clip, scene: Scene, stood: list[Footfall], lands: list[Footfall], step: float
) -> Clip:  # fmt: skip
    """The clip with a way by the footfalls that were found, each set where and when it was."""
    middles = [np.mean([one.place for one in pair], axis=0) for pair in zip(lands[:-1], lands[1:], strict=True)]
    feet = feet_at(scene.figure(scene.of).rig, clip, scene, edit.first)
    begin = np.mean([(foot.x, foot.z) for foot in feet], axis=0)
    places = [begin, *middles[::_EVERY]]
    if len(middles) % _EVERY == 0:
        places.append(middles[-1])
    apart = [places[0]]
    for place in places[1:]:
        if np.hypot(*(place - apart[-1])) > 0.05:
            apart.append(place)
    if len(apart) < 2:
        raise BadEdit("it stays in one place there; only what goes somewhere is given a way. Nothing was changed")
    points = tuple(Point((float(p[0]), float(p[1]))) for p in apart)
    long = float(sum(np.hypot(*np.subtract(b, a)) for a, b in zip(apart[:-1], apart[1:], strict=True)))
    line = line_of(points)
    hands = tuple(_beside(line, n, one, edit.last) for n, one in enumerate(lands, 1))
    # The feet on which it stands at first are let go when they were.
    lets_go = {one.side: one.last for one in stood}
    for number, side in ((-1, lands[0].side), (0, OTHER[lands[0].side])):
        hands = (Hand(number, side, last=lets_go.get(side, edit.first)), *hands)
    on = float(np.mean([one.last - one.first for one in lands[:-1]]))
    lead = max(min(one.last for one in stood if one.side == lands[0].side or len(stood) == 1) - edit.first, 0)
    way = Way(
        edit.first, edit.last, points, begins_with=lands[0].side, lead=min(lead, 240), ends=False,
        lasts=edit.last - edit.first, most=len(lands), fps=scene.fps, gravity=scene.gravity, hands=hands,
        speed=max(long / (edit.last - edit.first) * scene.fps, 0.05), stands=feet,
    )  # fmt: skip
    curves = {
        quantity_address("cadence"): from_keys({edit.first: scene.fps / step}),
        quantity_address("share"): from_keys({edit.first: float(np.clip(on / (2.0 * step), 0.1, 0.9))}),
    }
    return with_way(clip, None, way).with_curves(curves)


def _beside(line: Line, number: int, one: Footfall, last: int) -> Hand:
    """A footfall as it lies beside a line, so that it goes along with that."""
    along = np.linspace(-0.5, line.length + 0.5, int(100.0 * line.length) + 100)
    places, headings = line.at(along)
    n = int(np.hypot(*(places - one.place).T).argmin())
    off = np.subtract(one.place, places[n])
    ahead, left = (np.sin(headings[n]), np.cos(headings[n])), (np.cos(headings[n]), -np.sin(headings[n]))
    far, aside = float(along[n] + off @ ahead), float(off @ left)
    turned = float((one.heading - headings[n] + np.pi) % (2.0 * np.pi) - np.pi)
    return Hand(number, one.side, None, None, one.first, min(one.last, last), far, aside, turned)


def _differing(before: Clip, laid: Clip, rig: Rig, scene: Scene, first: int, last: int) -> tuple[Clip, int]:
    """The clip with a layer that holds how it went before, beside how the way has it; and how many keys that has."""
    frames = np.arange(float(first), last + 1)
    was = AsIf(scene).posed(bare(before, Plant, Belonging), frames).values  # with what is planted and carried
    now = keyed_under(rig, laid, frames)
    wished = under_master(rig, was, now)
    over = wished - now
    mine = written_by(rig)
    clip, number = new_layer(laid, "As it went", turned=False)
    curves: dict[str, Curve] = {}
    for n in mine.tolist():
        channel = rig.channels[n]
        values = over[:, n]
        if channel.control == "master" or np.abs(values).max() < 1e-9:
            continue
        keys, handles = thinned(np.ascontiguousarray(values)[None], np.array([_LAID[channel.unit]]))[0]
        table = fitted_table(np.asarray(keys, float) + first, values[keys], handles, np.full(len(keys), float(BEZIER)))
        ends = np.zeros((2, table.shape[1]))  # nothing of it before and after
        ends[:, FRAME], ends[:, SHAPE] = (first - 1, last + 1), STEP
        curves[layers.address_in(number, channel.address)] = from_table(np.concatenate([ends[:1], table, ends[1:]]))
    return clip.with_curves(dict(curves)), sum(len(curve) for curve in curves.values())


def keyed_under(rig: Rig, clip: Clip, frames: np.ndarray) -> np.ndarray:
    """Channel values (F, C) with ways, but for layers and all that is laid above."""
    return laid_values(rig, bare(clip, Way), frames)
