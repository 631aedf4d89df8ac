"""A motion as it is looked at for faults, with what several of them ask for worked out once."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np

from hame.character.rig import Limb, Rig
from hame.clip.clip import Clip
from hame.clip.cycle import Cycle
from hame.clip.cycles import cycles_of
from hame.clip.plants import Plant
from hame.clip.played import played_spans
from hame.clip.spans import control_of
from hame.edits.edit import Edit
from hame.edits.pose import SetPose
from hame.edits.pulled import PullPart
from hame.evaluate.posed import Posed
from hame.faults.limits import Limits
from hame.maths import rotations
from hame.maths.rotations import Array
from hame.measure import paths
from hame.measure.balance import Balance, balances, margins_of
from hame.measure.dynamics import GRAVITY, SEEN, Dynamics, dynamics, steadied
from hame.measure.flights import Flight, airborne
from hame.measure.flights import flights as found_flights
from hame.measure.found import Bools
from hame.measure.ground import FLAT, Ground
from hame.measure.keyed import whole_columns
from hame.measure.loads import Load
from hame.measure.soles import level_of, sole_outline
from hame.measure.turning import Turning, turning

Finer = Callable[[Array], tuple[Array, Array | None]]
"""By times (T,), the nodes (T, N, 8) of the figure, and the camera (T, 7) in whose picture it is looked at, if any."""


@dataclass(frozen=True)
class Followed:
    """A part whose path is looked at: its control, how it is called, its node, and the limb that it ends."""

    control: str
    label: str
    node: int
    limb: Limb | None = None


@dataclass(frozen=True, eq=False)
class Look:
    """The frames of one of the cast from ``first`` on.

    Attributes
    ----------
    ground : what it stands on besides the ground at zero
    camera : (F, 7) in whose picture paths are looked at, where a part may go otherwise than in the world
    finer : with it corners are looked at between frames as well: a quick arc that is round there is none
    loads : what it carries
    limits : beyond what the weight of its motion is a fault
    gravity : metres a second, each second
    """

    clip: Clip
    posed: Posed
    first: int
    fps: float
    ground: Ground = FLAT
    camera: Array | None = None
    finer: Finer | None = None
    loads: Sequence[Load] = ()
    limits: Limits = Limits()
    gravity: float = GRAVITY

    @property
    def rig(self) -> Rig:
        return self.posed.rig

    @property
    def last(self) -> int:
        return self.first + len(self.posed.nodes) - 1

    @cached_property
    def cycles(self) -> tuple[Cycle, ...]:
        return cycles_of(self.clip)

    @cached_property
    def on_the_spot(self) -> Bools:
        """On which frames (F,) it walks on the spot: then the ground is meant to go by below."""
        frames = np.arange(self.first, self.last + 1)
        found = np.zeros(len(frames), np.bool_)
        for cycle in self.cycles:
            if cycle.travel == (0.0, 0.0):
                found |= (frames >= cycle.start) & (frames <= cycle.until)
        return found

    @cached_property
    def stands(self) -> list[Balance]:
        """How it stands on each frame, with what it carries; nothing for a prop."""
        return balances(self.clip, self.posed, self.first, self.ground, self.loads)

    @cached_property
    def dynamics(self) -> Dynamics:
        """The dynamics of a body; of three frames at least."""
        return dynamics(self.rig, self.posed.nodes, self.fps, self.gravity, self._level, self.loads)

    @cached_property
    def _level(self) -> Array:
        return np.array([stand.level for stand in self.stands])

    @cached_property
    def steadied(self) -> Dynamics:
        """The same without what changes too fast to be seen, by which is judged what the ground is asked for."""
        return steadied(self.dynamics, self.fps, SEEN, self.gravity, self._level)

    def turning(self, flight: Flight) -> Turning:
        """How it turns in a flight."""
        part = slice(flight.release - self.first, flight.landing - self.first + 1)
        loads = [replace(load, nodes=load.nodes[part], kilograms=load.kilograms[part]) for load in self.loads]
        return turning(Posed(self.rig, self.posed.values[part], self.posed.nodes[part]), loads, self.fps)

    @property
    def weights(self) -> Array:
        """What it asks of the ground (F, 3), as a share of its weight, without what changes too fast to be seen."""
        return np.asarray(self.steadied.force / max(self.gravity, 1e-9))

    @cached_property
    def moving_margins(self) -> Array:
        """How far the centre of pressure is inside of what bears it (F,), metres."""
        return margins_of(self.stands, self.steadied.pressure)

    @cached_property
    def flights(self) -> list[Flight]:
        """Where nothing bears a body, and how its mass goes there."""
        centres = np.array([stand.centre for stand in self.stands])
        return found_flights(centres, airborne(self.stands), self.first, self.fps, self.gravity)

    @cached_property
    def by_feet(self) -> Bools:
        """On which frames (F,) a body is borne by what can only press: a hand that is planted can draw as well."""
        return np.array([bool(s.bearing) and not self.hands & set(s.bearing) for s in self.stands], np.bool_)

    @cached_property
    def hands(self) -> set[str]:
        """The IK controls of what holds where it is planted: hands, and tips of chains."""
        return {end.ik for end in self.rig.ends if end.kind != "leg"}

    @cached_property
    def _plants(self) -> dict[str, list[Plant]]:
        played = played_spans(self.clip, self.rig, Plant.kind, self.first, self.last)
        return {control_of(track): [s for s in spans if isinstance(s, Plant)] for track, spans in played.items()}

    @cached_property
    def plants(self) -> dict[str, list[Plant]]:
        """By IK control, the plants on these frames, as they play."""
        return {
            control: [plant for plant in plants if plant.end >= self.first and plant.start <= self.last]
            for control, plants in self._plants.items()
        }

    @cached_property
    def beside(self) -> dict[str, Bools]:
        """By IK control, the frames (F,) on which its limb is planted, with those beside: a path may end there."""
        found = {}
        for control, spans in self._plants.items():
            flags = np.zeros(self.last - self.first + 1, np.bool_)
            for span in spans:
                flags[max(span.start - 1 - self.first, 0) : max(span.end + 2 - self.first, 0)] = True
            found[control] = flags
        return found

    @cached_property
    def limbs(self) -> list[LimbFrames]:
        return [LimbFrames(self, limb) for limb in self.rig.limbs]

    @cached_property
    def columns(self) -> list[int]:
        """The frames on which the whole figure is keyed."""
        return [frame for frame in whole_columns(self.clip) if self.first <= frame <= self.last]

    @cached_property
    def parts(self) -> list[Followed]:
        """The parts of a body whose arcs are judged: hips, head, and the ends of its limbs; none of a prop."""
        rig = self.rig
        if rig.plan.is_prop or len(self.posed.nodes) < 3:
            return []
        names = ("hips", "head") if rig.has_control("hips") else ("body", "head")
        trunk = [name for name in names if rig.has_control(name)]
        return [
            *(Followed(name, rig.control(name).label, rig.control(name).node) for name in trunk),
            *(Followed(limb.ik, rig.control(limb.ik).label, limb.end, limb) for limb in rig.limbs),
        ]

    def path(self, part: Followed) -> Array:
        """The path (F, 3) of a part: in the world, or in the picture of the camera."""
        path = self.posed.nodes[:, part.node, :3]
        return path if self.camera is None else paths.in_picture(path, self.camera)

    def free(self, part: Followed) -> Bools:
        """On which frames (F,) the limb that a part ends is not planted."""
        return ~self.beside.get(part.control, np.zeros(len(self.posed.nodes), np.bool_))


@dataclass(frozen=True, eq=False)
class LimbFrames:
    """A limb over some frames."""

    look: Look
    limb: Limb

    @property
    def posed(self) -> Posed:
        return self.look.posed

    @property
    def first(self) -> int:
        return self.look.first

    @cached_property
    def plants(self) -> list[Plant]:
        return self.look.plants.get(self.limb.ik, [])

    @property
    def what(self) -> str:
        return f"{self.limb.label} {'foot' if self.limb.kind == 'leg' else 'hand'}"

    @property
    def joint(self) -> str:
        return f"{self.limb.label} {'knee' if self.limb.kind == 'leg' else 'elbow'}"

    @property
    def held(self) -> Bools:
        """On which frames the limb is planted (F,)."""
        return self.during(self.plants)

    def during(self, plants: Sequence[Plant]) -> Bools:
        frames = np.arange(self.first, self.first + len(self.posed.nodes))
        flags = np.zeros(len(frames), np.bool_)
        for plant in plants:
            flags |= (frames >= plant.start) & (frames <= plant.end)
        return flags

    @property
    def by_ik(self) -> Bools:
        return np.asarray(self.posed.values[:, self.posed.rig.number(self.limb.switch)] > 0.5)

    @property
    def height(self) -> Array:
        """How high the lowest point of the sole is (F,), from where it is when the figure stands as it was made."""
        return np.asarray(self.above.min(axis=1))

    @cached_property
    def sole(self) -> Array:
        """The points (F, K, 3) of the sole that can touch the ground."""
        return sole_outline(self.posed.rig, self.limb, self.posed.nodes)

    @cached_property
    def above(self) -> Array:
        """How high each of them is (F, K) above what it stands on."""
        under = self.look.ground.under(self.sole)
        return np.asarray(self.sole[:, :, 1] - under - level_of(self.posed.rig, self.limb))

    def pulled(self, frame: int, way: Array, what: str) -> Edit:
        """The end of the limb pulled by ``way (3,)`` metres in the world, the body following."""
        x, y, z = (float(step) for step in way)
        return PullPart(frame=frame, part=self.limb.ik, x=x, y=y, z=z, what=what)

    def moved(self, frame: int, control: str, way: Array, what: str) -> Edit | None:
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
