"""Faults of contact: what slides, sinks, floats, reaches too far, snaps or bends the wrong way."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from math import degrees, radians
from typing import Literal

import numpy as np

from hame.character.rig import Limb
from hame.clip.clip import Clip
from hame.clip.cycles import cycle_of
from hame.clip.plants import Plant
from hame.clip.played import played_spans
from hame.clip.spans import control_of
from hame.edits.edit import Edit
from hame.edits.plants import ChangePlant, Planting, PlantLimbs, plants_of
from hame.edits.pose import SetPose
from hame.edits.pulled import PullPart, ShiftWeight
from hame.evaluate.evaluate import evaluate
from hame.evaluate.posed import Posed
from hame.maths import rotations
from hame.maths.kernels import swung_rows
from hame.maths.rotations import Array
from hame.measure.balance import balances
from hame.measure.found import Bools, runs, standing
from hame.measure.ground import FLAT, Ground, lowest
from hame.measure.soles import level_of, sole_outline

Kind = Literal[
    "slip", "sink", "float", "reach", "snap", "pole", "under", "balance",
    "corner", "jerk", "pop", "line", "tremble", "even", "together", "alike",
]  # fmt: skip
SLIP, SINK, FLOAT, REACH, UNDER = 0.0005, 0.002, 0.008, 0.0005, 0.002  # metres: less is not seen
FALLS, HELD_STILL, SHORTEST_FALL = 0.01, 0.1, 4  # metres outside, metres a second, frames: a pose that would fall
SNAP = radians(30.0)  # how much faster than the frame before a knee or elbow may turn near its end, by frame
NEARLY = radians(25.0)  # a joint so little bent is near its end
BEHIND = radians(115.0)  # a pole so far round from where the limb bends by itself leads it no more
NEAR_GROUND, AT_REST = 0.008, 0.25  # metres, and metres a second: a foot that is meant to stand
ON_GROUND = 0.0025  # metres: a sole so low is on the ground, however fast it goes
STAYS, FLAT_WAY = 2e-5, 0.15  # metres a frame that are none, and how steeply what slides may rise
MENDED = 0.03  # metres: a slide so short is one that nobody wants


@dataclass(frozen=True)
class Alert:
    """A fault on some frames.

    Attributes
    ----------
    worst : the frame on which it is most, and ``amount`` how much: metres, radians of angles, or what ``says`` tells
    says : it in words
    mend, mending : an edit that mends it and that edit in words, where one does
    """

    kind: Kind
    control: str
    first: int
    last: int
    worst: int
    amount: float
    says: str
    mend: Edit | None = None
    mending: str = ""


def alerts(clip: Clip, posed: Posed, first: int, fps: float, ground: Ground = FLAT) -> list[Alert]:
    """The faults of contact of one of the cast, by its frames from ``first`` on, in the order of time.

    ``ground`` is what it stands on besides the ground at zero.
    """
    rig = posed.rig
    last = first + len(posed.nodes) - 1
    plants = {
        control_of(track): [s for s in spans if isinstance(s, Plant) and s.end >= first and s.start <= last]
        for track, spans in played_spans(clip, rig, Plant.kind, first, last).items()
    }
    # Who walks on the spot is meant to have the ground go by below.
    frames_of = np.arange(first, last + 1)
    cycle = cycle_of(clip)
    on_the_spot = np.zeros(len(frames_of), np.bool_)
    if cycle is not None and cycle.travel == (0.0, 0.0):
        on_the_spot = (frames_of >= cycle.start) & (frames_of <= cycle.until)
    found: list[Alert] = []
    if rig.plan.is_prop:
        found += _under(posed, first, ground)
    for limb in rig.limbs:
        stored = frozenset(plants_of(clip, limb))
        frames = _Frames(posed, limb, plants.get(limb.ik, []), first, fps, ground, stored, on_the_spot)
        if limb.kind == "leg":
            found += [*frames.slips(), *frames.sinks(), *frames.floats()]
        found += [*frames.reaches(), *frames.snaps(), *frames.poles()]
    found += [fall for fall in _falling(clip, posed, first, fps, ground) if not on_the_spot[fall.worst - first]]
    return sorted(found, key=lambda alert: (alert.first, alert.kind, alert.control))


def _falling(clip: Clip, posed: Posed, first: int, fps: float, ground: Ground) -> Iterator[Alert]:
    """A body that is held still and would fall: its mass is beside what bears it. One that moves may be beside it."""
    stands = balances(clip, posed, first, ground)
    if len(stands) < SHORTEST_FALL:
        return
    centres = np.array([stand.centre[[0, 2]] for stand in stands])
    pace = np.linalg.norm(np.gradient(centres, axis=0), axis=1) * fps
    # A hand that is planted holds: it can draw as well as press, so that nothing falls.
    hands = {limb.ik for limb in posed.rig.limbs if limb.kind == "arm"}
    outside = np.array([
        0.0 if stand.margin is None or hands & set(stand.bearing) else max(-stand.margin, 0.0) for stand in stands
    ])  # fmt: skip
    for a, b in runs((outside > FALLS) & (pace < HELD_STILL)):
        if b - a + 1 < SHORTEST_FALL:
            continue
        worst = a + int(np.argmax(outside[a : b + 1]))
        far = float(outside[worst])
        yield Alert(
            "balance", "body", first + a, first + b, first + worst, far,
            f"would fall: its weight is {100 * far:.0f} cm beside what bears it", ShiftWeight(frame=first + worst),
            f"bring the weight over what bears it at {first + worst}",
        )  # fmt: skip


def _under(posed: Posed, first: int, ground: Ground) -> Iterator[Alert]:
    """A prop that lies below the ground: its lowest point, or where its surface is not known, its base."""
    rig, mine = posed.rig, ground.of(posed)
    if mine:
        at_rest = Posed(rig, rig.rest[None], evaluate(rig, rig.rest[None]))
        height, rest = lowest(posed, mine), float(lowest(at_rest, mine)[0])
    else:
        height, rest = posed.nodes[:, rig.joint_nodes[0], 1], float(rig.skeleton.places[0, 1])
    depth = np.maximum(min(rest, 0.0) - height, 0.0)
    for a, b in runs(depth > UNDER):
        worst = a + int(np.argmax(depth[a : b + 1]))
        deep = float(depth[worst])
        up = float(posed.values[worst, posed.rig.number("master/ty")]) + deep
        lift = SetPose(frame=first + worst, values={"master/ty": up}, what="Lift it onto the ground")
        says, mending = f"goes {1000 * deep:.0f} mm through the ground", f"lift it by {1000 * deep:.0f} mm here"
        yield Alert("under", "master", first + a, first + b, first + worst, deep, says, lift, mending)


@dataclass(frozen=True)
class _Frames:
    """A limb over some frames."""

    posed: Posed
    limb: Limb
    plants: list[Plant]
    first: int
    fps: float
    ground: Ground
    stored: frozenset[Plant]
    on_the_spot: Bools

    @property
    def what(self) -> str:
        return f"{self.limb.label} {'foot' if self.limb.kind == 'leg' else 'hand'}"

    @property
    def joint(self) -> str:
        return f"{self.limb.label} {'knee' if self.limb.kind == 'leg' else 'elbow'}"

    @property
    def held(self) -> Bools:
        """On which frames the limb is planted (F,)."""
        return self._during(self.plants)

    def _during(self, plants: Sequence[Plant]) -> Bools:
        frames = np.arange(self.first, self.first + len(self.posed.nodes))
        flags = np.zeros(len(frames), np.bool_)
        for plant in plants:
            flags |= (frames >= plant.start) & (frames <= plant.end)
        return flags

    @property
    def by_ik(self) -> Bools:
        return np.asarray(self.posed.values[:, self.posed.rig.number(self.limb.switch)] > 0.5)

    def each(
        self, kind: Kind, amount: Array, least: float, says: Callable[[float], str], control: str = ""
    ) -> Iterator[Alert]:
        """An alert for each run of frames with more than ``least`` of ``amount (F,)``."""
        for a, b in runs(amount > least):
            worst = a + int(np.argmax(amount[a : b + 1]))
            much = float(amount[worst])
            name = control or self.limb.ik
            yield Alert(kind, name, self.first + a, self.first + b, self.first + worst, much, says(much))

    def slips(self) -> Iterator[Alert]:
        """A foot that slides along the ground, at any pace: on these frames none of what is down stays where it is."""
        places, above = self._sole, self._above
        if len(places) < 2:
            return
        # A foot that is slow is meant to stand, also a little above the ground; one that is quick slides only on it.
        down = ((above < ON_GROUND) & ~self.on_the_spot[:, None]) | standing(
            places, self.fps, NEAR_GROUND, AT_REST, self.ground
        )
        both = down[1:] & down[:-1]
        way = np.where(both, np.linalg.norm(np.diff(places, axis=0), axis=2), np.inf)
        point = np.argmin(way, axis=1)  # what stays most: a foot that rolls stays by one point
        rows = np.arange(len(way))
        least = way[rows, point]
        rise = np.diff(above, axis=0)[rows, point]
        planted = self.held & (self.posed.values[:, self.posed.rig.number(self.limb.switch)] >= 1.0 - STAYS)
        held = planted[1:] & planted[:-1]  # a limb that is posed by FK is held by no plant
        goes = np.isfinite(least) & (least > STAYS) & (np.abs(rise) <= FLAT_WAY * least + STAYS) & ~held
        for a, b in runs(goes):
            leaves = b + 1 < len(both) and not both[b + 1].any()
            comes = a > 0 and not both[a - 1].any()
            while leaves and a <= b and rise[b] > STAYS:  # its first steps off the ground are no slide
                b -= 1
            while comes and a <= b and rise[a] < -STAYS:  # nor are its last ones before it is down
                a += 1
            slid = float(least[a : b + 1].sum())
            if slid <= SLIP:
                continue
            start, end = self.first + a, self.first + b + 1
            # So far as nobody slides on purpose; a longer way is a move, and holding it would take that away.
            mend = self._held_over(start, end) if slid <= MENDED else (None, "")
            yield Alert(
                "slip", self.limb.ik, start, end, start + 1 + int(np.argmax(least[a : b + 1])), slid,
                f"{self.what} slides by {1000 * slid:.1f} mm", *mend,
            )  # fmt: skip

    def _held_over(self, start: int, end: int) -> tuple[Edit, str]:
        """What holds a foot over some frames: a plant that adjoins them made longer, or else a new one."""
        for plant in self.stored:
            # A slide begins and ends gently: its first frames beside a plant may be none yet.
            if 0 <= start - plant.end <= 2 or 0 <= plant.start - end <= 2:
                a, b = min(plant.start, start), max(plant.end, end)
                longer = ChangePlant(
                    control=self.limb.ik, at=plant.start, start=a, end=b, about=plant.about, release=plant.release,
                    land=plant.land, figure=plant.figure, thing=plant.thing,
                )  # fmt: skip
                return longer, f"lengthen its plant: {a} to {b}"
        return PlantLimbs(plants=(Planting(self.limb.ik, start, end),)), f"plant it from {start} to {end}"

    @property
    def height(self) -> Array:
        """How high the lowest point of the sole is (F,), from where it is when the figure stands as it was made."""
        return np.asarray(self._above.min(axis=1))

    @cached_property
    def _sole(self) -> Array:
        """The points (F, K, 3) of the sole that can touch the ground."""
        return sole_outline(self.posed.rig, self.limb, self.posed.nodes)

    @cached_property
    def _above(self) -> Array:
        """How high each of them is (F, K) above what it stands on."""
        under = self.ground.under(self._sole)
        return np.asarray(self._sole[:, :, 1] - under - level_of(self.posed.rig, self.limb))

    def sinks(self) -> Iterator[Alert]:
        """A sole below the ground."""
        depth = np.maximum(-self.height, 0.0)
        for alert in self.each("sink", depth, SINK, lambda m: f"{self.what} sinks {1000 * m:.0f} mm into the ground"):
            mend = self._pulled(alert.worst, np.array([0.0, alert.amount, 0.0]), "Lift the foot")
            yield _with(alert, mend, f"lift it by {1000 * alert.amount:.0f} mm at {alert.worst}")

    def floats(self) -> Iterator[Alert]:
        """A foot that is planted on the ground and stands above it."""
        amount = np.where(self._during([plant for plant in self.plants if not plant.thing]), self.height, 0.0)
        for alert in self.each(
            "float", amount, FLOAT, lambda m: f"{self.what} is planted {1000 * m:.0f} mm above the ground"
        ):
            mend = self._moved(alert.worst, self.limb.ik, np.array([0.0, -alert.amount, 0.0]), "Lower the foot")
            yield _with(alert, mend, f"lower it by {1000 * alert.amount:.0f} mm")

    def reaches(self) -> Iterator[Alert]:
        """A limb that does not come as far as it is to, in IK."""
        nodes, limb = self.posed.nodes, self.limb
        missing = np.linalg.norm(nodes[:, limb.target, :3] - nodes[:, limb.end, :3], axis=1)
        one, two = (
            nodes[:, limb.lower, :3] - nodes[:, limb.upper, :3],
            nodes[:, limb.end, :3] - nodes[:, limb.lower, :3],
        )
        length = np.linalg.norm(one, axis=1) + np.linalg.norm(two, axis=1)
        way = np.linalg.norm(nodes[:, limb.target, :3] - nodes[:, limb.root, :3], axis=1)
        # A limb that is not planted slows down before it is straight; only what lies beyond its length is a fault.
        beyond = np.where(self.by_ik, np.where(self.held, missing, np.maximum(way - length, 0.0)), 0.0)
        kind = "leg" if limb.kind == "leg" else "arm"
        for alert in self.each(
            "reach", beyond, REACH, lambda m: f"{self.limb.label} {kind} is {1000 * m:.0f} mm too short"
        ):
            at = alert.worst - self.first
            short = nodes[at, limb.target, :3] - nodes[at, limb.end, :3]
            mend = self._pulled(alert.worst, short, "Let the body reach")
            yield _with(alert, mend, f"let the body reach {1000 * alert.amount:.0f} mm farther at {alert.worst}")

    def snaps(self) -> Iterator[Alert]:
        """A knee or an elbow that shoots into its end: fast, and nearly straight."""
        nodes = self.posed.nodes
        one = nodes[:, self.limb.lower, :3] - nodes[:, self.limb.upper, :3]
        two = nodes[:, self.limb.end, :3] - nodes[:, self.limb.lower, :3]
        sine, cosine = np.linalg.norm(np.cross(one, two), axis=1), (one * two).sum(axis=1)
        bend = np.arctan2(sine, cosine)
        if len(bend) < 3:
            return
        turn = np.diff(bend)
        jolt = np.zeros(len(bend))
        jolt[1:-1] = np.abs(np.diff(turn))
        near = np.minimum(np.minimum(bend, np.roll(bend, 1)), np.roll(bend, -1)) < NEARLY
        amount = np.where(near, jolt, 0.0)
        yield from self.each(
            "snap", amount, SNAP, lambda m: f"{self.joint} snaps: its bend changes pace by {degrees(m):.0f}° in a frame"
        )

    def poles(self) -> Iterator[Alert]:
        """An aim that has come behind the limb, where it leads it no more."""
        nodes, limb, rig = self.posed.nodes, self.limb, self.posed.rig
        pole = nodes[:, rig.control(limb.pole).node, :3]
        root, target = nodes[:, limb.root], nodes[:, limb.target, :3]
        line = target - root[:, :3]
        line = line / np.maximum(np.linalg.norm(line, axis=1, keepdims=True), 1e-9)
        to_pole = pole - root[:, :3]
        aim = to_pole - (to_pole * line).sum(axis=1, keepdims=True) * line
        local = rotations.rotate(rotations.inverse(root[:, 3:7]), line)
        own = np.empty_like(local)
        swung_rows(limb.line, np.ascontiguousarray(local), limb.toward, own)
        own = rotations.rotate(root[:, 3:7], own)
        angle = np.arctan2(np.linalg.norm(np.cross(own, aim), axis=1), (own * aim).sum(axis=1))
        angle = np.where(self.by_ik, angle, 0.0)
        for alert in self.each(
            "pole", angle, BEHIND, lambda a: f"{self.joint} aim has come behind it ({degrees(a):.0f}°)", limb.pole
        ):
            at = alert.worst - self.first
            size = float(np.linalg.norm(aim[at]))
            mend = self._moved(
                alert.worst, limb.pole, own[at] * max(size, limb.pole_distance) - aim[at], "Bring the aim before it"
            )
            yield _with(alert, mend, f"bring the aim before it at {alert.worst}")

    def _pulled(self, frame: int, way: Array, what: str) -> Edit | None:
        """The end of the limb pulled by ``way (3,)`` metres in the world, the body following."""
        x, y, z = (float(step) for step in way)
        return PullPart(frame=frame, part=self.limb.ik, x=x, y=y, z=z, what=what)

    def _moved(self, frame: int, control: str, way: Array, what: str) -> Edit | None:
        """A pose with a control moved by ``way (3,)`` metres in the world; None where the rig has no such control."""
        rig, at = self.posed.rig, frame - self.first
        if not rig.has_control(control):
            return None
        found = rig.control(control)
        axes = self.posed.nodes[at, found.frame]
        local = rotations.rotate(rotations.inverse(axes[3:7]), way) / axes[7]
        names = [f"{control}/{c}" for c in ("tx", "ty", "tz")]
        values = {a: float(self.posed.values[at, rig.number(a)] + d) for a, d in zip(names, local, strict=True)}
        return SetPose(frame=frame, values=values, what=what)


def _with(alert: Alert, mend: Edit | None, mending: str) -> Alert:
    return replace(alert, mend=mend, mending=mending if mend is not None else "")
